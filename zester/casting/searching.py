"""A guide for few sheets, looked for by a worker: asked for, stopped, kept, its letters written into the lists."""

from __future__ import annotations

import logging
import re
import time
from collections import Counter
from dataclasses import asdict

from django.db import transaction
from django_tasks import task

from zester.casting.guides import cards_of, drawn, keep_drawn, pad_sheet, use_of
from zester.casting.models import Guide, GuideSearch
from zester.casting.nudging import kept_nudges, make_smaller, may_shrink
from zester.classes.models import CardClass
from zester.classes.services import CountedClass, ReadCard, count_class
from zester.core.casting.casting import slots_of
from zester.core.casting.guide import write_guide
from zester.core.casting.nudges import Nudge, nudges
from zester.core.casting.search import Found, search_guide
from zester.core.errors import GuideError
from zester.core.lengths import TICKS_PER_INCH
from zester.designs.models import Card
from zester.designs.services import replace_list
from zester.shelf.models import Paper

log = logging.getLogger(__name__)
SECONDS = 9.0
# And so long for what a sixteenth less would save.
NUDGING = 9.0
# How often a worker says what it has, and looks whether it is to stop.
BEAT = 0.5
_LETTERED = re.compile(
    r"\b(?P<lead>(?i:sheet|letter))\s+[A-Za-z](?![\w/.'’-])|\b(?P<word>(?i:from|optional))\s+[A-Z](?![\w/.'’-])"
)


class Stopped(Exception):
    """Somebody does not want it any more."""


@transaction.atomic
def ask(card_class: CardClass) -> GuideSearch:
    """Look for a guide for the lettered pieces of a class; where one is looked for already nothing happens."""
    there = GuideSearch.objects.filter(card_class=card_class, state__in=GuideSearch.OPEN).first()
    if there:
        return there
    fresh = {"state": GuideSearch.State.ASKED, "told": "", "made": "", "bound": 0, "nudges": []}
    search, _ = GuideSearch.objects.update_or_create(card_class=card_class, defaults=fresh)
    transaction.on_commit(lambda: look_task.enqueue(search.pk))
    return search


@transaction.atomic
def take_nudge(card_class: CardClass, act: str) -> int:
    """Write a nudge (``nudge 0``) into the lists and look once more; how many lists are changed.

    Raises
    ------
    GuideError
        If it is not there, the class is cut, or its lists have changed since.
    """
    search = GuideSearch.objects.filter(card_class=card_class).first()
    place = act.partition(" ")[2]
    there = kept_nudges(search) if search else []
    if not place.isdecimal() or int(place) >= len(there):
        raise GuideError("That is not proposed any more", mend="Look for it once more")
    changed = make_smaller(card_class, there[int(place)])
    ask(card_class)
    return changed


def stop(card_class: CardClass) -> None:
    """Stop looking; what was found by then stays."""
    GuideSearch.objects.filter(card_class=card_class, state__in=GuideSearch.OPEN).update(
        state=GuideSearch.State.STOPPED
    )


@task(queue_name="prove", priority=25)
def look_task(pk: int) -> None:
    """Look for it."""
    # Also after a worker that looked has died.
    asked = GuideSearch.objects.filter(pk=pk, state__in=GuideSearch.OPEN)
    begun = asked.update(state=GuideSearch.State.LOOKING)
    if not begun:
        return
    search = GuideSearch.objects.select_related("card_class").get(pk=pk)
    mine = GuideSearch.objects.filter(pk=pk, state=GuideSearch.State.LOOKING)
    try:
        found, nudges = _look(search)
        mine.update(state=GuideSearch.State.DONE, nudges=[asdict(each) for each in nudges], **_kept(found))
    except Stopped:
        return
    except GuideError as error:
        mine.update(state=GuideSearch.State.FAILED, told=error.advice()[:200])
    except Exception:
        log.exception("no guide could be looked for")
        mine.update(state=GuideSearch.State.FAILED, told="Something went wrong on our side. Ask for it once more.")


def _kept(found: Found) -> dict:
    return {"made": write_guide(found.guide), "bound": found.bound, "told": f"{found.sheets} sheets"}


def _look(search: GuideSearch) -> tuple[Found, list[Nudge]]:
    counted = count_class(search.card_class)
    width, height, unit = _size(search.card_class, counted.held.papers)
    beat = 0.0

    def tell(words: str) -> None:
        nonlocal beat
        if time.monotonic() - beat >= BEAT:
            beat = time.monotonic()
            going = GuideSearch.objects.filter(pk=search.pk, state=GuideSearch.State.LOOKING).update(told=words[:200])
            if not going:
                raise Stopped

    def keep(found: Found) -> None:
        GuideSearch.objects.filter(pk=search.pk).update(**_kept(found))

    slots = slots_of(cards_of(counted))
    found = search_guide(slots, width, height, unit, tell, keep=keep, seconds=SECONDS)
    keep(found)
    tell(f"{found.sheets} sheets; whether a border a little narrower saves one")
    return found, nudges(slots, found, may_shrink(counted, unit), tell, seconds=NUDGING)


def _size(card_class: CardClass, papers: tuple[Paper, ...]) -> tuple[int, int, str]:
    """What the sheets measure: as those of the pad, of the guide it has, else of most patterned papers."""
    use = use_of(card_class.pk)
    guide = drawn(use.made)
    unit = "mm" if card_class.unit == "mm" else "in"
    holds = use.pad.holds if use.pad else {}
    if guide and not holds:
        return guide.width, guide.height, unit
    mine = [pad_sheet(paper) for paper in papers if paper.key in holds or (not holds and paper.kind == "patterned")]
    sizes = Counter((sheet.width, sheet.height) for sheet in mine)
    return (*(sizes.most_common(1)[0][0] if sizes else (6 * TICKS_PER_INCH,) * 2), unit)


@transaction.atomic
def keep_found(card_class: CardClass) -> Guide:
    """What was found, as a guide of the library; its letters are written into the lists of the class.

    Raises
    ------
    ZesterError
        If nothing was found, or the lists have other pieces by now.
    """
    search = GuideSearch.objects.filter(card_class=card_class).exclude(made="").first()
    found = drawn(search.made) if search else None
    if found is None:
        raise GuideError("Nothing was found", mend="Look for it once more")
    letters = {piece.id.partition(".")[0]: sheet.letter for sheet in found.letters for piece in sheet.pieces}
    counted = count_class(card_class)
    if letters.keys() != {slot.handle for slot in slots_of(cards_of(counted))}:
        raise GuideError("The lists have changed since", mend="Look for it once more")
    for card, text in _new_lists(counted, letters):
        replace_list(card, text, "", f"before {card_class.title}"[:60])
    return keep_drawn(card_class.owner, f"{len(found.cards)} cards from {len(found.letters)} sheets", found)


def _new_lists(counted: CountedClass, letters: dict[str, str]) -> list[tuple[Card, str]]:
    """The designs with their lists as the letters are now; raises GuideError where a list cannot say that."""
    if counted.card_class.kept_shelf:
        raise GuideError("This class is cut, and keeps its lists", mend="Plan it once more, and look there")
    texts: dict[int, str] = {}
    for card in counted.designs:
        text = _with_letters(card, letters)
        if texts.setdefault(card.entry.card_id, text) != text:
            name = card.entry.card.name
            raise GuideError(f"{name} is in the class twice, and its list cannot say both", mend="Make a copy of it")
    cards = {card.entry.card_id: card.entry.card for card in counted.designs}
    return [(cards[key], text) for key, text in texts.items() if text != cards[key].cut_list]


def _with_letters(card: ReadCard, letters: dict[str, str]) -> str:
    """A card's list with every lettered piece on the sheet that was found for it."""
    lines = card.entry.card.cut_list.split("\n")
    for reading in card.readings:
        letter = letters.get(f"{card.entry.letter}{reading.piece.number}") if reading.piece else None
        if letter:
            lines[reading.line] = _LETTERED.sub(
                lambda found, letter=letter: f"{found['lead'] or found['word']} {letter}", lines[reading.line], count=1
            )
    return "\n".join(lines)
