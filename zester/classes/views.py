"""The list of classes, their settings, and the Count station."""

from __future__ import annotations

from collections.abc import Sequence

from django.contrib import messages
from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_POST
from django_htmx.http import trigger_client_event

from zester.accounts.regions import to_ask
from zester.classes.calendars import calendar_of
from zester.classes.closed import close as close_class
from zester.classes.closed import leaves_class_alone
from zester.classes.closed import open_again as reopen
from zester.classes.follow import keep_trimmer, later
from zester.classes.forms import ClassForm, CountForm, FirstClassForm, NewClassForm, ParticipantsForm, TrimmerForm
from zester.classes.models import CardClass, ClassCard, Trimmer
from zester.classes.services import (
    CountedClass,
    ReadCard,
    also_make,
    bring_class_back,
    class_or_404,
    classes_of,
    copy_class,
    count_class,
    open_class,
    recount,
    same_times_everywhere,
    settle,
)
from zester.classes.today import begin_page
from zester.core.errors import ZesterError
from zester.core.kits.demand import kits_in_all, letters_of
from zester.site.dates import day
from zester.site.owned import locked
from zester.site.regions import current
from zester.site.removed import bringing_back, removing
from zester.site.seen import SeenMixin
from zester.site.stations import thread

# So many that wait are counted for the list of classes.
MOST_COUNTED = 3


def class_list(request: HttpRequest) -> HttpResponse:
    """All classes, each with its thread of stations."""
    return _list_page(request, FirstClassForm(initial={"ruler": current().ruler}))


def _list_page(request: HttpRequest, first: FirstClassForm) -> HttpResponse:
    classes = classes_of(request.user)
    # What was typed a moment ago is told; many that a paper has changed are left to the workers.
    if settle([each for each in classes if each.counted_at is None][:MOST_COUNTED]):
        classes = classes_of(request.user)
    context = begin_page(classes, all_past="past" in request.GET)
    context |= {"classes": classes, "form": first, "ask_region": to_ask(request)}
    return render(request, "classes/list.html", context)


def new_class(request: HttpRequest) -> HttpResponse:
    """Open a new class; asked are its title, its date and its size, of the first one its ruler, too."""
    first = "first" in request.POST
    form = (FirstClassForm if first else NewClassForm)(request.POST or None)
    if request.method == "POST" and form.is_valid():
        form.instance.owner = request.user
        card_class = open_class(form.instance, ruler=form.cleaned_data.get("ruler", ""))
        return redirect("classes:desk", card_class.pk)
    if first:
        return _list_page(request, form)
    return render(request, "classes/new.html", {"form": form})


def edit_class(request: HttpRequest, pk: int) -> HttpResponse:
    """Change a class."""
    mine = CardClass.objects.of(request.user)
    if request.method == "POST":
        with transaction.atomic():
            form = ClassForm(request.POST, instance=locked(mine, pk=pk))
            if form.is_valid():
                form.instance.save(update_fields=list(form.fields))
                if "everywhere" in request.POST:
                    later(same_times_everywhere(form.instance))
                recount(pk)
                messages.success(request, f"The class is saved.{form.merged_words}")
                return redirect("classes:desk", pk)
    else:
        form = ClassForm(instance=get_object_or_404(mine.select_related("trimmer"), pk=pk))
    return render(request, "classes/form.html", {"form": form, "card_class": mine.get(pk=pk)})


@leaves_class_alone
@require_POST
def copy(request: HttpRequest, pk: int) -> HttpResponse:
    """Plan the class once more, at its next date."""
    card_class = class_or_404(request.user, pk)
    new = copy_class(card_class, people="people" in request.POST)
    when = f", on {day(new.date)}" if new.date else ""
    messages.success(request, f"{new.title} is planned once more{when}. Its cards are the same designs.")
    return redirect("classes:edit", new.pk)


@require_POST
def close(request: HttpRequest, pk: int) -> HttpResponse:
    """All of it is handed over."""
    card_class = class_or_404(request.user, pk)
    close_class(card_class)
    messages.success(request, f"{card_class.title} is handed over and closed.")
    return redirect("classes:closed", pk)


def closed(request: HttpRequest, pk: int) -> HttpResponse:
    """What it means that a class is closed, and how it is opened again."""
    card_class = class_or_404(request.user, pk)
    if card_class.closed_at is None:
        return redirect("classes:desk", pk)
    return render(request, "classes/closed.html", {"card_class": card_class})


@leaves_class_alone
@require_POST
def open_again(request: HttpRequest, pk: int) -> HttpResponse:
    """The class changes again."""
    card_class = class_or_404(request.user, pk)
    reopen(card_class)
    messages.success(request, f"{card_class.title} is open again. What is cut and packed of it stays as it is.")
    return redirect("classes:desk", pk)


def calendar(request: HttpRequest, pk: int) -> HttpResponse:
    """The class and its deadline as a calendar file."""
    card_class = class_or_404(request.user, pk)
    if card_class.date is None:
        messages.error(request, "The class has no date yet. Write one, and the calendar file follows.")
        return redirect("classes:edit", pk)
    response = HttpResponse(calendar_of(card_class, request.get_host()), content_type="text/calendar; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{slugify(card_class.title) or "class"}.ics"'
    return response


def trimmer(request: HttpRequest, pk: int = 0) -> HttpResponse:
    """A trimmer, new or changed; classes that are cut with it follow."""
    mine, new = Trimmer.objects.of(request.user), Trimmer.usual(current().unit, owner=request.user)
    if request.method != "POST":
        form = TrimmerForm(instance=get_object_or_404(mine, pk=pk) if pk else new)
    else:
        with transaction.atomic():
            form = TrimmerForm(request.POST, instance=locked(mine, pk=pk) if pk else new)
            if form.is_valid():
                keep_trimmer(form.save(commit=False), list(form.fields) if pk else None)
                messages.success(request, f"{form.instance.name} is saved.{form.merged_words}")
                return redirect("classes:trimmers")
    return render(request, "classes/trimmer.html", {"form": form, "trimmer": mine.filter(pk=pk).first()})


def trimmers(request: HttpRequest) -> HttpResponse:
    """The trimmers somebody has."""
    return render(request, "classes/trimmers.html", {"trimmers": Trimmer.objects.of(request.user)})


# Classes that are cut with it keep its habits.
remove_trimmer = removing(Trimmer, "classes:trimmers")


restore_trimmer = bringing_back(Trimmer, "classes:trimmers")


remove_class = leaves_class_alone(removing(CardClass, "classes:list"))


restore_class = leaves_class_alone(bringing_back(CardClass, "classes:list", put_back=bring_class_back))


def count(request: HttpRequest, pk: int) -> HttpResponse:
    """The Count station: how many of each card, and the tally of every piece that follows."""
    mine = CardClass.objects.of(request.user)
    if request.method != "POST":
        counted = count_class(class_or_404(request.user, pk))
        return render(request, "classes/count.html", _count_context(counted, *_count_forms(counted, None)))
    with transaction.atomic():
        # Read for its cards and their versions; counted is what was saved, once.
        asked = count_class(locked(mine, pk=pk))
        people, forms = _count_forms(asked, request.POST)
        valid = all([people.is_valid(), *(form.is_valid() for form in forms)])
        if valid:
            for form in (people, *forms):
                form.instance.save(update_fields=list(form.fields))
            counted = recount(pk, asked.held)
    if valid and not request.htmx:
        return redirect("classes:count", pk)
    if not valid:
        # What is not valid is shown beside its field; the tally stays as it was last saved.
        counted = count_class(mine.get(pk=pk), asked.held)
    context = _count_context(counted, people, forms)
    if not request.htmx:
        return render(request, "classes/count.html", context)
    now = _now_stored([people, *forms], saved=valid)
    return trigger_client_event(
        render(request, "classes/_tally.html", context | {"answer": True}), "zester:stored", now
    )


@require_POST
def also(request: HttpRequest, pk: int, letter: str) -> HttpResponse:
    """Make another version of a card as well, under a letter of its own."""
    card_class = class_or_404(request.user, pk)
    counted = count_class(card_class)
    read = next((each for each in counted.designs if each.entry.letter == letter), None)
    if read is None:
        raise Http404
    version = request.POST.get("version", "")
    if version and version not in read.versions:
        messages.error(request, "The list names no such version any more.")
        return redirect("classes:count", pk)
    try:
        entry = also_make(ClassCard.objects.select_related("card", "card_class").get(pk=read.entry.pk), version)
    except ZesterError as error:
        messages.error(request, error.advice())
        return redirect("classes:count", pk)
    words = (
        f"{entry.letter} is {entry.card.name}, {version or 'the lines of all'}. Say who gets it here or in an offer."
    )
    messages.success(request, words)
    return redirect("classes:count", pk)


def _versions_open(counted: CountedClass) -> list[tuple[ReadCard, list[str]]]:
    """The cards whose list names versions that the class does not make yet."""
    made = {(each.entry.card_id, each.entry.version) for each in counted.designs}
    found, seen = [], set()
    for each in counted.designs:
        open_versions = (
            [v for v in ("", *each.versions) if (each.entry.card_id, v) not in made] if each.versions else []
        )
        if open_versions and each.entry.card_id not in seen:
            found.append((each, open_versions))
            seen.add(each.entry.card_id)
    return found


def _count_forms(counted: CountedClass, data: QueryDict | None) -> tuple[ParticipantsForm, list[CountForm]]:
    people = ParticipantsForm(data, instance=counted.card_class, prefix="class")
    forms = [
        CountForm(
            data,
            instance=card.entry,
            prefix=f"card{card.entry.pk}",
            versions=card.versions,
            hosts=_hosts_of(card, counted.designs),
            offers={offer.name: letters_of(offer, counted.needs) for offer in counted.needs.offers},
        )
        for card in counted.designs
    ]
    return people, forms


def _hosts_of(card: ReadCard, cards: Sequence[ReadCard]) -> list[str]:
    """The letters of the cards in whose envelope a card may go: those with one of their own."""
    if not card.has_envelope or any(each.envelope_of == card.entry.letter for each in cards):
        return []
    return [each.entry.letter for each in cards if each is not card and each.has_envelope and not each.envelope_of]


def _count_context(counted: CountedClass, people: ParticipantsForm, forms: list[CountForm]) -> dict:
    stations = thread(counted.card_class, "count")
    return {
        "counted": counted,
        "card_class": counted.card_class,
        "people": people,
        "forms": forms,
        "kits": kits_in_all(counted.needs),
        "versions_open": _versions_open(counted),
        "share_envelopes": any("envelope_of" in form.fields for form in forms),
        "envelopes_shared": any(form.instance.envelope_of or form.errors.get("envelope_of") for form in forms),
        "stations": stations,
    }


def _now_stored(forms: list[SeenMixin], *, saved: bool) -> dict:
    """What a page that stays open has to know: what is stored now, and which of its fields follow another window."""
    fields, seen = {}, {}
    for form in forms:
        seen |= form.seen_after(saved)
        if saved:
            fields |= {form[name].auto_id: form.data.get(form.add_prefix(name), "") for name in form.merged}
    return {"seen": seen, "fields": fields, "saved": saved}
