"""The order of a card's steps, as its designer wants it: moved, joined, reworded, split, left out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods

from zester.bags.handouts import own_steps_of, put_together, ready_of
from zester.bags.views import class_of, page_of
from zester.classes.closed import leaves_class_alone
from zester.classes.held import keep_class_words
from zester.classes.models import CardClass, ClassCard
from zester.classes.services import ReadCard, count_class
from zester.core.cards.study import Study
from zester.core.kits.assembly import Assembled
from zester.core.kits.own_steps import (
    LEFT_OUT,
    MARK,
    MOST_OWN,
    MOST_STEPS,
    NAMES,
    ORDER,
    OWN,
    Arranged,
    OwnSteps,
    is_key,
    read_own,
    written,
)
from zester.designs.services import LONGEST_WORDS


@dataclass(frozen=True)
class StepRow:
    """A step in the form."""

    key: str
    """What it is known by."""
    what: str
    """What it says of itself; empty for one of hers."""
    said: str
    """Her words in place of that."""
    joined: bool = False
    """Whether it is told with the one above."""
    left_out: bool = False
    """Whether it is not told."""


@dataclass(frozen=True)
class _Card:
    """A card with its steps."""

    entry: ClassCard
    read: ReadCard
    looked: Study
    made: Assembled

    def arranged(self, teaching: Mapping[str, str]) -> Arranged:
        """In her order."""
        card = self.read.entry.card
        card.teaching = dict(teaching)
        return own_steps_of(card, self.looked, self.made)


# What is in order is the design's; a class that is closed keeps its own state of it.
@leaves_class_alone
@require_http_methods(["GET", "POST"])
def arrange(request: HttpRequest, pk: int, letter: str) -> HttpResponse:
    """Show the steps in her order, or keep another."""
    card_class = class_of(request, pk)
    card = _card_of(card_class, letter)
    if request.method == "GET":
        return _page(request, card_class, card, card.read.entry.card.teaching)
    stored = {key: text for key, text in card.read.entry.card.teaching.items() if key.startswith(MARK)}
    seen = {key: request.POST.get(f"seen-{key}", "") for key in {*stored, *_kept_keys(request)}}
    own, wrong = _sent(request)
    sent = dict.fromkeys((*stored, ORDER, LEFT_OUT, NAMES), "") | written(own, card.looked.pieces)
    if "reset" in request.POST:
        sent = dict.fromkeys(sent, "")
    if wrong:
        messages.error(request, wrong)
        return _page(request, card_class, card, sent, 422)
    clashes = keep_class_words(card.entry, sent, seen)
    if any(clash.key != NAMES for clash in clashes):
        messages.error(request, "Another window changed these steps meanwhile. Save again to take what stands here.")
        return _page(request, card_class, _card_of(card_class, letter), sent, 409)
    messages.success(request, "Kept with the design.")
    return redirect(reverse("bags:arrange", args=[pk, letter]))


def _card_of(card_class: CardClass, letter: str) -> _Card:
    counted = count_class(card_class)
    entry = get_object_or_404(
        ClassCard.objects.there().filter(card_class=card_class).select_related("card"), letter=letter
    )
    read = next(each for each in counted.cards if each.entry.letter == letter)
    return _Card(entry, read, *put_together(counted, read))


def _page(
    request: HttpRequest, card_class: CardClass, card: _Card, teaching: Mapping[str, str], status: int = 200
) -> HttpResponse:
    stored = card.entry.card.teaching if not card.entry.held else card.entry.held["teaching"]
    own = read_own(teaching, card.looked.pieces)
    order = card.arranged(teaching)
    context = page_of(
        card_class,
        letter=card.entry.letter,
        card=card.read.entry.card,
        rows=_rows(order, card.made, own),
        ready=ready_of(card.made),
        against=order.against,
        changed=bool(own.order or own.left_out or own.said),
        seen={key: text for key, text in stored.items() if key.startswith(MARK)}.items(),
    )
    return render(request, "bags/arrange.html", context, status=status)


def _rows(order: Arranged, made: Assembled, own: OwnSteps) -> list[StepRow]:
    what, said = {step.key: step.what for step in made.steps}, own.said or {}
    rows = []
    for step in order.steps:
        for at, key in enumerate(order.joined.get(step.key, (step.key,))):
            rows.append(StepRow(key, what.get(key, ""), said.get(key, ""), joined=at > 0))
    return rows + [StepRow(step.key, step.what, said.get(step.key, ""), left_out=True) for step in order.left_out]


def _kept_keys(request: HttpRequest) -> list[str]:
    return [name.removeprefix("seen-") for name in request.POST if name.startswith(f"seen-{MARK}")]


def _sent(request: HttpRequest) -> tuple[OwnSteps, str]:
    """What the form says; and what is wrong with it, if something is."""
    keys = list(dict.fromkeys(key for key in request.POST.getlist("step") if is_key(key)))
    said = {key: " ".join(request.POST.get(f"say-{key}", "").split()) for key in keys}
    keys = _moved([key for key in keys if said[key] or not key.startswith(OWN)], request.POST.get("move", ""))
    left_out = frozenset(key for key in keys if request.POST.get(f"out-{key}"))
    groups: list[tuple[str, ...]] = []
    for key in keys:
        if key in left_out:
            continue
        if groups and request.POST.get(f"join-{key}"):
            groups[-1] = (*groups[-1], key)
        else:
            groups.append((key,))
    own = OwnSteps(tuple(groups), left_out, {key: words for key, words in said.items() if words})
    wrong = ""
    if any(len(words) > LONGEST_WORDS for words in said.values()):
        wrong = f"A step holds {LONGEST_WORDS} letters. Nothing was cut off: shorten it."
    elif sum(key.startswith(OWN) for key in keys) > MOST_OWN or len(keys) > MOST_STEPS:
        wrong = f"A card has room for {MOST_OWN} steps of your own."
    return own, wrong


def _moved(keys: list[str], move: str) -> list[str]:
    """The keys with one of them a place further up or down."""
    way, _, key = move.partition(" ")
    if key in keys and way in ("up", "down"):
        at = keys.index(key)
        to = max(0, at - 1) if way == "up" else min(len(keys) - 1, at + 1)
        keys.insert(to, keys.pop(at))
    return keys
