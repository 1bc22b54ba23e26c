"""The Design station: the cards of a class at the desk."""

from __future__ import annotations

from functools import partial

from django.contrib import messages
from django.db import transaction
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST
from django_htmx.http import trigger_client_event

from zester.classes.castings import first_cast
from zester.classes.closed import leaves_class_alone, still_open
from zester.classes.follow import OpenClass
from zester.classes.held import effect_of, take_design
from zester.classes.models import CardClass, ClassCard
from zester.classes.services import add_card, await_count, class_or_404, count_class, move_card, use_card
from zester.core.errors import ZesterError
from zester.designs.desk import Desk
from zester.designs.forms import CardForm, CardNameForm
from zester.designs.models import Card
from zester.designs.services import holdings_of, keep_card, replace_list
from zester.designs.views import answer_list, answer_parts, desk_context
from zester.site.owned import key_of, locked
from zester.site.prepared import prepared
from zester.site.requests import saves_as_one_types
from zester.site.stations import thread

# So many changed pieces are told of one by one.
MOST_TOLD = 8


def _entry(request: HttpRequest, pk: int, letter: str) -> ClassCard:
    return _entries.one_or_404(request.user.pk, pk, letter)


@prepared
def _entries(owner: int, card_class: int, letter: str) -> QuerySet[ClassCard]:
    mine = ClassCard.objects.used().filter(card_class__owner=owner, card_class=card_class, letter=letter)
    return mine.select_related("card", "card_class")


def _class(request: HttpRequest, pk: int) -> CardClass:
    return class_or_404(request.user, pk)


@saves_as_one_types
def desk(request: HttpRequest, pk: int, letter: str = "") -> HttpResponse:
    """The design desk of a class: one card's list, what was understood of it, and the card drawn."""
    return _desk_page(request, pk, letter)


def _desk_page(
    request: HttpRequest, pk: int, letter: str = "", text: str | None = None, form: CardNameForm | None = None, **more
) -> HttpResponse:
    """The page of the desk; ``text`` and ``form`` are what was typed and could not be kept."""
    card_class = _class(request, pk)
    counted = count_class(card_class)
    open_card = next((card for card in counted.cards if card.entry.letter == letter), None)
    if letter and open_card is None:
        _entry(request, pk, letter)
    if open_card is None and counted.cards:
        open_card = counted.cards[0]
    in_class = {card.entry.card_id for card in counted.cards}
    # The desk has the design itself, whatever the class keeps of it.
    entry = _entry(request, pk, open_card.entry.letter) if open_card else None
    context = {
        "card_class": card_class,
        "counted": counted,
        "stations": thread(card_class, "design"),
        "entry": entry,
        "name_form": form or CardNameForm(),
        "library": [card for card in Card.objects.of(request.user).filter(is_kit=False) if card.pk not in in_class],
        "papers": counted.known.papers,
    }
    if entry:
        casting = partial(first_cast, card_class.pk)
        context |= desk_context(request, entry.card, entry.letter, entry.version, text, casting)
        context |= _pages(entry, context["desk"]) | _held(entry)
    return render(request, "classes/desk.html", context | more)


def _held(entry: ClassCard) -> dict:
    """What the class keeps of its design, if it does, and what the design would change."""
    if not entry.held:
        return {}
    others = ClassCard.objects.used().filter(card=entry.card_id, held={}).exclude(pk=entry.pk)
    titles = [each.card_class.title for each in others.select_related("card_class")]
    effect = effect_of(entry) if entry.differs else []
    return {"held": entry, "follow": titles, "effect": effect[:MOST_TOLD], "effect_more": len(effect[MOST_TOLD:])}


@require_POST
def take(request: HttpRequest, pk: int, letter: str) -> HttpResponse:
    """Take the design as it is now into a class that keeps its own; or give the design the list of the class."""
    entry = _entry(request, pk, letter)
    if request.POST.get("way") == "back" and entry.held:
        replace_list(entry.card, entry.held["cut_list"], entry.held["ruler"], f"before {entry.card_class.title}"[:60])
        messages.success(request, "The design has the list of this class again; its own is among the kept lists.")
    elif entry.held:
        take_design(entry)
        messages.success(request, "Taken into this class. What is cut is cut; what it lacks now is a supplement.")
    return redirect("classes:card", pk, letter)


def _pages(entry: ClassCard, shown: Desk | None) -> dict:
    """Where the desk's links lead: its own page, and the next station once there is something to count."""
    ready = shown and shown.ready
    return {
        "desk_url": reverse("classes:card", args=[entry.card_class_id, entry.letter]),
        "onward_url": reverse("classes:count", args=[entry.card_class_id]) if ready else "",
    }


@require_POST
def new_card(request: HttpRequest, pk: int) -> HttpResponse:
    """Put a new card into the class, or one of the library, and open it."""
    card_class = _class(request, pk)
    chosen = request.POST.get("design", "")
    form = CardNameForm(request.POST)
    if not chosen and not form.is_valid():
        return _desk_page(request, pk, form=form)
    try:
        if chosen:
            card = get_object_or_404(Card.objects.of(request.user), pk=key_of(chosen))
            entry = use_card(card_class, card)
        else:
            entry = add_card(card_class, form.cleaned_data["name"])
    except ZesterError as error:
        messages.error(request, error.advice())
        return redirect("classes:desk", pk)
    return redirect("classes:card", pk, entry.letter)


@require_POST
def use(request: HttpRequest, pk: int) -> HttpResponse:
    """Put a design of the library into a class."""
    card = get_object_or_404(Card.objects.of(request.user), pk=pk)
    chosen = request.POST.get("class", "")
    card_class = _class(request, key_of(chosen))
    try:
        entry = use_card(still_open(card_class), card)
    except ZesterError as error:
        messages.error(request, error.advice())
        return redirect("designs:design", pk)
    return redirect("classes:card", card_class.pk, entry.letter)


# The desk writes the design; a class that is closed keeps its own state of it.
@leaves_class_alone
@require_POST
def read(request: HttpRequest, pk: int, letter: str) -> HttpResponse:
    """Keep what is typed and answer every line; the class is counted anew when its page asks for the sheets."""
    entry = _entry(request, pk, letter)
    page = OpenClass(pk, holdings_of(request.user))
    answer = answer_list(request, entry.card, page.held, letter, open_in=page, casting=partial(first_cast, pk))
    if not request.htmx:
        if answer.refused:
            return _desk_page(request, pk, letter, answer.text, **answer.refused)
        return redirect("classes:card", pk, letter)
    if not page.waits and request.POST.get("shelved"):
        await_count(pk, None)
        page.waits = True
    about = {"card_class": entry.card_class, "entry": entry}
    shown = answer.parts.get("desk")
    about |= _pages(entry, shown) | {"letter": letter, "errors": shown.errors if shown else ()}
    if entry.held:
        entry.card = shown.card if shown else entry.card
        about |= _held(entry)
    # The thread of stations comes with the strip of papers, which asks when typing rests.
    more = {"tab": "classes/_mend.html"} | ({"held": "classes/_held.html"} if entry.held else {})
    response = answer_parts(request, answer, more, **about)
    # The page need not ask for sheets where nothing can have changed.
    return response if page.waits else trigger_client_event(response, "zester:uncounted")


def edit_card(request: HttpRequest, pk: int, letter: str) -> HttpResponse:
    """A card's name and ruler."""
    entry = _entry(request, pk, letter)
    if request.method == "POST":
        with transaction.atomic():
            form = CardForm(request.POST, instance=locked(Card.objects.of(request.user), pk=entry.card_id))
            if form.is_valid():
                keep_card(form.instance, list(form.fields), open_in=OpenClass(pk, holdings_of(request.user)))
                return redirect("classes:card", pk, letter)
    else:
        form = CardForm(instance=entry.card)
    return render(request, "classes/card.html", {"form": form, "entry": entry, "card_class": entry.card_class})


@require_POST
def remove_card(request: HttpRequest, pk: int, letter: str) -> HttpResponse:
    """Take a card out of its class; the design is kept in the library. Can be undone."""
    entry = _entry(request, pk, letter)
    move_card(entry, timezone.now())
    words = f"{entry.card.name} is out of this class; the design is kept in the library."
    messages.info(request, words, extra_tags=f"undo:classes:put_back:{entry.pk}")
    return redirect("classes:desk", pk)


@require_POST
def put_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Undo taking a card out of its class."""
    found = ClassCard.objects.filter(card_class__in=CardClass.objects.of(request.user), card__removed_at=None)
    entry = get_object_or_404(found.select_related("card", "card_class"), pk=pk)
    try:
        still_open(entry.card_class)
    except ZesterError as error:
        messages.error(request, error.advice())
        return redirect("classes:desk", entry.card_class_id)
    move_card(entry, None)
    messages.success(request, f"{entry.card.name} is back.")
    return redirect("classes:card", entry.card_class_id, entry.letter)
