"""The people of a class, its offers, the papers taken in place of others: their pages."""

from __future__ import annotations

import json
from collections import Counter
from dataclasses import replace

from django.contrib import messages
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.html import format_html
from django.utils.text import slugify
from django.views.decorators.http import require_POST

from zester.classes.models import CardClass, Offer, Participant, Substitution
from zester.classes.order_forms import (
    InsteadForm,
    OfferForm,
    PaymentForm,
    PeopleLinesForm,
    PersonForm,
    PostForm,
    UnnamedForm,
)
from zester.classes.payment_page import shown_payments
from zester.classes.payments import standings_of
from zester.classes.people import (
    add_people,
    all_of,
    as_line,
    delete_offer,
    delete_person,
    keep_offer,
    keep_person,
    paper_names,
    papers_for,
    papers_in_lists,
    sayable_of,
    set_state,
    take_back_instead,
    take_instead,
)
from zester.classes.services import begin_kit_list, class_or_404, entries
from zester.core.errors import ZesterError
from zester.core.kits.offers import COUNTED, STATES, WAYS
from zester.core.kits.order_lines import OrderLine, ReadPerson, Sayable, read_people
from zester.core.kits.people_table import lines_of_csv, write_people_csv
from zester.core.money.accounts import KINDS, SENT
from zester.core.tally import KIT
from zester.core.tally import people as people_words
from zester.site.dates import amount as money
from zester.site.owned import key_of, locked
from zester.site.stations import some, thread

FOLLOWS = "The sums, the sheets and the bags follow; what is being cut stays as it is."


def _class(request: HttpRequest, pk: int) -> CardClass:
    return class_or_404(request.user, pk)


def _page(request: HttpRequest, template: str, card_class: CardClass, **context) -> HttpResponse:
    about = {"card_class": card_class, "stations": thread(card_class, "count")}
    return render(request, template, about | context)


def people(request: HttpRequest, pk: int) -> HttpResponse:
    """Everybody, how their orders stand, and a field to add more."""
    return people_page(request, _class(request, pk))


def people_page(
    request: HttpRequest, card_class: CardClass, form: PeopleLinesForm | None = None, unnamed: UnnamedForm | None = None
) -> HttpResponse:
    """The page of everybody, with forms that are not right yet."""
    everybody = list(card_class.people.prefetch_related("orders__offer"))
    states = Counter(person.state for person in everybody)
    counted = sum(states[state] for state in COUNTED)
    papers, standings = paper_names(card_class), standings_of(card_class)
    offers = list(card_class.offers.all())
    sold = [offer for offer in offers if offer.free_above is None]
    rows = [
        {
            "person": person,
            "orders": _ordered(person),
            "chosen": ", ".join(papers[key] for key in person.chosen if key in papers),
            "standing": standings.by_person[person.pk],
        }
        for person in everybody
    ]
    seats = None if card_class.capacity is None else card_class.capacity - counted - card_class.participants
    return _page(
        request,
        "classes/people.html",
        card_class,
        rows=rows,
        states=[(key, STATES[key], states[key]) for key in STATES if states[key]],
        all_states=STATES.items(),
        counted=counted,
        seats=seats,
        next_waiting=next((person for person in everybody if person.state == "waiting"), None),
        offers=offers,
        unnamed=unnamed or UnnamedForm(card_class=card_class, offers=offers),
        standings=standings,
        usual=sold[0].name if sold else "",
        guessed=max(0, card_class.participants - sum(offer.unnamed for offer in sold)) if len(sold) > 1 else 0,
        form=form or PeopleLinesForm(),
        late=card_class.order_by is not None and card_class.order_by < timezone.localdate(),
    )


def _ordered(person: Participant) -> str:
    """What somebody ordered, in words."""
    found = [f"{order.count} {order.offer.name}" for order in person.orders.all()]
    if not found and person.sets > 1:
        found = [some(person.sets, "set")]
    return ", ".join([*found, *([f"{person.goods or 'goods'} {money(person.amount)}"] if person.amount else [])])


@require_POST
def add(request: HttpRequest, pk: int) -> HttpResponse:
    """Add people written as lines, or sent as a table; what is not clear is asked before anybody is added."""
    card_class = _class(request, pk)
    if "line" in request.POST:
        return _mended(request, card_class)
    form = PeopleLinesForm(request.POST, request.FILES)
    if not form.is_valid():
        return people_page(request, card_class, form)
    try:
        table = form.cleaned_data["table"]
        lines = lines_of_csv(table) if table else form.cleaned_data["lines"].splitlines()
    except ZesterError as error:
        form.add_error("table", error.advice())
        return people_page(request, card_class, form)
    lines = [line for line in lines if line.strip()]
    if not lines:
        form.add_error("lines", "Write at least one name, or choose a table.")
        return people_page(request, card_class, form)
    return _take(request, card_class, lines, set(), look_first=table is not None)


def _mended(request: HttpRequest, card_class: CardClass) -> HttpResponse:
    """The lines of the preview as they are now; those that are ticked away are left out."""
    lines = request.POST.getlist("line")
    away = {key_of(number) for number in request.POST.getlist("away")}
    twice = {lines[k] for k in (key_of(number) for number in request.POST.getlist("twice")) if k < len(lines)}
    kept = [line for number, line in enumerate(lines) if number not in away and line.strip()]
    if not kept:
        messages.info(request, "Nobody was added.")
        return redirect("classes:people", card_class.pk)
    return _take(request, card_class, kept, twice, look_first=False)


def _take(
    request: HttpRequest, card_class: CardClass, lines: list[str], twice: set[str], *, look_first: bool
) -> HttpResponse:
    sayable = sayable_of(card_class)
    read = _no_double(card_class, read_people("\n".join(line.strip() for line in lines), sayable), twice)
    if look_first or any(row.error for row in read):
        return _preview(request, card_class, read, sayable)
    try:
        done = add_people(card_class, [row.person for row in read])
    except ZesterError as error:
        messages.error(request, error.advice())
        return _preview(request, card_class, read, sayable)
    messages.success(request, _said(done))
    return redirect("classes:people", card_class.pk)


def _said(done: dict) -> str:
    words = f"{done['added']} {'person is' if done['added'] == 1 else 'people are'} in the list."
    if done["named"]:
        words += f" {done['named']} of those who had no name yet have one now."
    if done["waiting"]:
        words += f" {done['waiting']} wait: all seats are taken."
    return " ".join([words, *done["said"]])


def _no_double(card_class: CardClass, read: list[ReadPerson], twice: set[str]) -> list[ReadPerson]:
    """Somebody of a name that is there already is asked about, unless a second one is meant."""
    there = {name.casefold() for name in card_class.people.values_list("name", flat=True)}
    out = []
    for row in read:
        name = row.person.name.casefold() if row.person else ""
        if name and name in there and row.text not in twice:
            mend = "Tick “a second one”, or write a family name, too"
            out.append(replace(row, person=None, error=ZesterError(f"{row.person.name} is there already", mend=mend)))
        else:
            out.append(row)
        there.add(name)
    return out


def _preview(request: HttpRequest, card_class: CardClass, read: list[ReadPerson], sayable: Sayable) -> HttpResponse:
    offers = {offer.key: offer.name for offer in sayable.offers}
    rows = [
        {
            "number": number,
            "row": row,
            "double": bool(row.error) and row.error.what.endswith("is there already"),
            **(_understood(row.person, offers, sayable) if row.person else {}),
        }
        for number, row in enumerate(read)
    ]
    wrong = sum(row.error is not None for row in read)
    return _page(
        request, "classes/people_preview.html", card_class, rows=rows, wrong=wrong, offers=list(offers.values())
    )


def _understood(person: OrderLine, offers: dict[str, str], sayable: Sayable) -> dict[str, str]:
    """What was understood of a line, in words."""
    return {
        "orders": ", ".join(f"{count} {offers.get(key) or 'sets'}" for key, count in person.orders),
        "chosen": ", ".join(sayable.papers.get(key, "") for key in person.chosen),
        "state": STATES[person.state],
        "money": _money_said(person),
    }


def _money_said(person: OrderLine) -> list[str]:
    """What a line says of money, in words."""
    found = [f"{person.goods or 'goods'} {money(person.amount)}"] if person.amount else []
    found += [f"of that your own {money(person.own)}"] if person.own else []
    for each in person.payments:
        on = f" on {each.on.isoformat()}" if each.on else " today"
        found.append(f"{KINDS[each.kind]} {money(each.amount)}{on}")
    found += ["a member"] if person.member else []
    return found + ([SENT[person.sent]] if person.sent else [])


@require_POST
def states(request: HttpRequest, pk: int) -> HttpResponse:
    """Say how the orders of the ticked people stand."""
    card_class = _class(request, pk)
    state, ticked = request.POST.get("state", ""), (each.partition("-") for each in request.POST.getlist("who"))
    seen = {key_of(key): was for key, _, was in ticked}
    if state not in STATES or not seen:
        messages.error(request, "Tick the people first, then say how their orders stand.")
        return redirect("classes:people", pk)
    count, others = set_state(card_class, seen, state)
    if count or not others:
        messages.success(request, f"{people_words(count)}: {STATES[state]}.{_closed(pk)}")
    for other in others:
        said = f"{other.name} was set to “{other.get_state_display()}” in another window, and stays so."
        messages.error(request, f"{said} Tick them again if “{STATES[state]}” is right.")
    return redirect("classes:people", pk)


def _closed(pk: int) -> str:
    """What else there is to say where the last kit was handed over."""
    closed = CardClass.objects.exclude(closed_at=None).filter(pk=pk).exists()
    return " That was all of it: the class is closed." if closed else ""


def person_or_404(request: HttpRequest, pk: int, person: int) -> Participant:
    """Somebody of one's own class; 404 if there is nobody."""
    mine = Participant.objects.filter(card_class__in=CardClass.objects.of(request.user)).select_related("card_class")
    return get_object_or_404(mine, card_class=pk, pk=person)


def person(request: HttpRequest, pk: int, person: int) -> HttpResponse:
    """One person: their orders, how they stand, what they chose."""
    found = person_or_404(request, pk, person)
    about = {"offers": list(found.card_class.offers.all()), "papers": sayable_of(found.card_class).papers}
    if request.method == "POST":
        with transaction.atomic():
            rows = Participant.objects.filter(card_class=found.card_class).select_related("card_class")
            form = PersonForm(request.POST, instance=locked(rows, pk=person), **about)
            if form.is_valid():
                keep_person(form.save(commit=False), form.orders, form.own_fields)
                messages.success(request, f"{form.instance.name} is saved.{form.merged_words}{_closed(pk)}")
                return redirect("classes:people", pk)
    else:
        form = PersonForm(instance=found, **about)
    return person_page(request, found, form)


def person_page(
    request: HttpRequest, found: Participant, form: PersonForm | None = None, payment_form: PaymentForm | None = None
) -> HttpResponse:
    """The page of a person, with forms that are not right yet."""
    about = {"offers": list(found.card_class.offers.all()), "papers": sayable_of(found.card_class).papers}
    form = form or PersonForm(instance=found, **about)
    more = shown_payments(found, payment_form)
    return _page(request, "classes/person.html", found.card_class, form=form, person=found, **more)


def person_data(request: HttpRequest, pk: int, person: int) -> HttpResponse:
    """All that is stored of one person, as a file."""
    found = person_or_404(request, pk, person)
    text = json.dumps(all_of(found), ensure_ascii=False, indent=1)
    response = HttpResponse(text, content_type="application/json; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{slugify(found.name) or "person"}.json"'
    return response


@require_POST
def delete(request: HttpRequest, pk: int, person: int) -> HttpResponse:
    """Delete all that is stored of one person, for good; asked for by their name."""
    found = person_or_404(request, pk, person)
    if request.POST.get("name", "").strip().casefold() != found.name.casefold():
        messages.error(request, f"Nothing is deleted. Write “{found.name}” beside the button to delete all of it.")
        return redirect("classes:person", pk, person)
    name = found.name
    delete_person(found)
    messages.success(request, f"All that was stored of {name} is deleted for good.")
    return redirect("classes:people", pk)


def people_csv(request: HttpRequest, pk: int) -> HttpResponse:
    """Everybody as a CSV table."""
    card_class = _class(request, pk)
    offers = {str(key): name for key, name in card_class.offers.values_list("pk", "name")}
    papers = paper_names(card_class)
    rows = [as_line(person) for person in card_class.people.prefetch_related("orders", "payments")]
    response = HttpResponse(write_people_csv(rows, offers, papers), content_type="text/csv; charset=utf-8")
    name = slugify(card_class.title) or "class"
    response["Content-Disposition"] = f'attachment; filename="{name}-people.csv"'
    return response


def read_line(request: HttpRequest, pk: int) -> HttpResponse:
    """What lines would mean, without adding anybody: asked while they are typed."""
    card_class = _class(request, pk)
    read = read_people(request.GET.get("lines", ""), sayable_of(card_class))
    wrong = [row for row in read if row.error]
    people = f"{len(read) - len(wrong)} understood"
    words = f"{people}; “{wrong[0].text[:40]}”: {wrong[0].error.advice()}" if wrong else (people if read else "")
    return HttpResponse(format_html('<span class="{}">{}</span>', "wrong" if wrong else "soft", words))


def offers(request: HttpRequest, pk: int) -> HttpResponse:
    """What can be ordered."""
    return offers_page(request, _class(request, pk))


def offers_page(request: HttpRequest, card_class: CardClass, post_form: PostForm | None = None) -> HttpResponse:
    """The page of the offers, with what was written of the post where that is not right yet."""
    kinds = {"card": "card stock", "patterned": "patterned"}
    papers = paper_names(card_class)
    rows = []
    for offer in card_class.offers.prefetch_related("orders__participant"):
        ways = [f"{kinds.get(name) or papers.get(name, '')}: {_way(way)}" for name, way in offer.pools.items()]
        cards = ", ".join(f"{count} {letter}" for letter, count in offer.cards.items() if count)
        ordered = sum(order.count for order in offer.orders.all() if order.participant.state in COUNTED)
        extras = ", ".join(line.strip() for line in offer.extras.splitlines() if line.strip())
        rows.append({"offer": offer, "ways": ways, "cards": cards, "ordered": ordered, "extras": extras})
    post_form = post_form or PostForm(instance=card_class)
    return _page(request, "classes/offers.html", card_class, rows=rows, post_form=post_form)


def _way(way: str) -> str:
    return WAYS.get(way, way).removesuffix(", with a guide")


def offer(request: HttpRequest, pk: int, offer: int = 0) -> HttpResponse:
    """An offer, new or changed."""
    card_class = _class(request, pk)
    mine = Offer.objects.filter(card_class=card_class)
    about = {
        "letters": {each.letter: each.card.name for each in entries(card_class) if each.letter != KIT},
        "papers": [paper for paper in papers_for(card_class) if paper.kind != "card"],
        "used": papers_in_lists(card_class),
    }
    if request.method == "POST":
        with transaction.atomic():
            instance = locked(mine, pk=offer) if offer else Offer(card_class=card_class)
            form = OfferForm(request.POST, instance=instance, **about)
            if form.is_valid():
                keep_offer(form.filled())
                messages.success(request, f"{form.instance.name} is saved.{form.merged_words}")
                return redirect("classes:offers", pk)
    else:
        form = OfferForm(instance=get_object_or_404(mine, pk=offer) if offer else Offer(card_class=card_class), **about)
    return _page(request, "classes/offer.html", card_class, form=form, offer=mine.filter(pk=offer).first())


@require_POST
def remove_offer(request: HttpRequest, pk: int, offer: int) -> HttpResponse:
    """Take an offer away that nobody has ordered."""
    found = get_object_or_404(Offer.objects.filter(card_class=_class(request, pk)), pk=offer)
    try:
        delete_offer(found)
    except ZesterError as error:
        messages.error(request, error.advice())
        return redirect("classes:offer", pk, offer)
    messages.success(request, f"{found.name} is taken away.")
    return redirect("classes:offers", pk)


def instead(request: HttpRequest, pk: int) -> HttpResponse:
    """Papers taken in place of others: those there are, and a form for one more."""
    card_class = _class(request, pk)
    about = {"card_class": card_class, "used": papers_in_lists(card_class)}
    form = InsteadForm(request.POST or None, **about)
    if request.method == "POST" and form.is_valid():
        take_instead(form.save(commit=False), form.cleaned_data["people"])
        made = form.instance
        messages.success(request, f"{made.taken} is taken instead of {made.written}. {FOLLOWS}")
        return redirect("classes:instead", pk)
    rows = [
        {"row": row, "people": [each.name for each in row.people.all()]}
        for row in card_class.substitutions.select_related("paper", "other").prefetch_related("people")
    ]
    return _page(request, "classes/instead.html", card_class, form=form, rows=rows)


@require_POST
def remove_instead(request: HttpRequest, pk: int, row: int) -> HttpResponse:
    """Use the written paper again."""
    found = get_object_or_404(
        Substitution.objects.filter(card_class=_class(request, pk)).select_related("paper", "other"), pk=row
    )
    take_back_instead(found)
    messages.success(request, f"{found.written} is used again.")
    return redirect("classes:instead", pk)


@require_POST
def kit_list(request: HttpRequest, pk: int) -> HttpResponse:
    """Open the kit list; an empty one if there was none."""
    entry = begin_kit_list(_class(request, pk))
    return redirect("classes:card", pk, entry.letter)
