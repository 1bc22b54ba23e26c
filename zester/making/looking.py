"""Looking through the designs for what can be made of what lies on the shelf: asked for, done by a worker, stopped."""

from __future__ import annotations

import logging
import time
from collections.abc import Iterable, Mapping
from decimal import Decimal
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.utils import timezone
from django_tasks import task

from zester.classes.models import CardClass
from zester.classes.services import open_class, recount, use_card, usual_trimmer
from zester.core.class_job import SHEET_ID, OffcutSize, ShelfPaper
from zester.core.cutting.habits import Habits
from zester.core.cutting.steps import Step, cutting_steps
from zester.core.errors import ZesterError
from zester.core.fitting.engine import warm_up
from zester.core.fitting.jobs.drawing import lay_parts
from zester.core.fitting.jobs.job import Bench, KeepRule
from zester.core.fitting.jobs.plan import Layout
from zester.core.fitting.parts import CutLimits
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM, show_size
from zester.core.makeable import Makeable, OfPaper, Small, look_through, most_small
from zester.core.pieces import CutPiece
from zester.core.tally import CardPieces, some
from zester.designs.models import Card
from zester.designs.services import holdings_of, read_card
from zester.making.models import Look
from zester.plans.models import PaperFit
from zester.shelf.models import Paper, Sheet
from zester.shelf.services import shelf_paper, sizes_of
from zester.shelf.uses import open_stock, promised

log = logging.getLogger(__name__)
# How often a worker says how far it is, and looks whether it is to stop; and when it gives up.
BEAT, SECONDS = 0.4, 60.0
# What an odd sheet is called among the offcuts of its paper.
ODD = "odd"
MOST_FILLERS = 12
_I, _MM = TICKS_PER_INCH, TICKS_PER_MM
# What is always of use; sixteen of the tags fill a letter sheet, and borders and toppers are cut to a card's front.
SMALLS = {
    "in": (
        Small("tags", 17 * _I // 8, 11 * _I // 4),
        Small("borders", _I // 2, 11 * _I // 2),
        Small("toppers", 2 * _I, 2 * _I),
    ),
    "mm": (
        Small("tags", 55 * _MM, 70 * _MM),
        Small("borders", 12 * _MM, 148 * _MM),
        Small("toppers", 50 * _MM, 50 * _MM),
    ),
}


class Stopped(Exception):
    """Somebody does not want it any more."""


@transaction.atomic
def ask(user: AbstractBaseUser, of: str) -> Look:
    """Look through the designs; where somebody looks already nothing happens."""
    there = Look.objects.filter(owner=user, state__in=Look.OPEN).first()
    if there:
        return there
    chosen = of if of in Look.Of.values else Look.Of.OFFCUTS
    fresh = {"of": chosen, "state": Look.State.ASKED, "told": "", "found": {}}
    look, _ = Look.objects.update_or_create(owner=user, defaults=fresh)
    transaction.on_commit(lambda: look_task.enqueue(look.pk))
    return look


def stop(user: AbstractBaseUser) -> None:
    """Stop looking; what was found by then stays."""
    Look.objects.filter(owner=user, state__in=Look.OPEN).update(state=Look.State.STOPPED)


@task(queue_name="prove", priority=24)
def look_task(pk: int) -> None:
    """Look."""
    # Also after a worker that looked has died.
    if not Look.objects.filter(pk=pk, state__in=Look.OPEN).update(state=Look.State.LOOKING):
        return
    look = Look.objects.select_related("owner").get(pk=pk)
    mine = Look.objects.filter(pk=pk, state=Look.State.LOOKING)
    try:
        told = _look(look, mine)
        mine.update(state=Look.State.DONE, told=told[:200], asked_at=timezone.now())
    except Stopped:
        return
    except Exception:
        log.exception("what can be made was not found out")
        mine.update(state=Look.State.FAILED, told="Something went wrong on our side. Ask for it once more.")


def _look(look: Look, mine) -> str:
    warm_up()
    user, beat = look.owner, time.monotonic()
    lying = lying_on(user, look.of)
    cards, left_out = readable(user)
    trimmer = usual_trimmer(user)
    limits = CutLimits(trimmer.longest_cut, trimmer.narrowest)
    bench = Bench(trimmer.stack, limits, KeepRule(trimmer.keep_short, trimmer.keep_long))
    habits = Habits(pace=trimmer.pace, most_piles=trimmer.most_piles)
    papers = {paper.key: paper for paper in holdings_of(user).papers}
    found: dict[str, Any] = {"cards": [], "small": smalls(lying, papers, cards), "left_out": left_out}

    def tell(words: str) -> None:
        nonlocal beat
        if time.monotonic() - beat >= BEAT:
            beat = time.monotonic()
            if not mine.update(told=words[:200], found=found):
                raise Stopped

    looked = 0
    for key, made in look_through(cards, lying, bench, tell, SECONDS):
        looked += 1
        if made.count:
            found["cards"].append(_entry(key, cards[key], made, papers, bench, habits))
        elif len(made.lacking) == 1:
            found.setdefault("nearly", []).append([key, cards[key].name, _called(papers, made.lacking[0])])
    found["cards"].sort(key=lambda entry: (-entry["count"], entry["name"]))
    mine.update(found=found)
    words = f"{some(looked, 'design')} looked through"
    return words if looked == len(cards) else f"{words}; the time was up before {len(cards) - looked} more"


def _called(papers: Mapping[str, Paper], key: str) -> str:
    return papers[key].name if key in papers else "a paper that is not on the shelf"


def lying_on(user: AbstractBaseUser, of: str) -> dict[str, ShelfPaper]:
    """By key the papers of which something lies there that no class is planned with, as the fitting takes them."""
    wants, sizes = promised(user.pk), sizes_of(user.pk)
    found = {}
    for paper in holdings_of(user).papers:
        sheets = sizes.get(paper.pk, [])
        there = open_stock(wants, "", paper, sheets)
        taken = shelf_paper(paper, sheets, there, offcuts_too=True)
        offcuts = [*taken.offcuts, *_sheets_of(paper, sheets, there, of)]
        if offcuts:
            found[paper.key] = ShelfPaper(
                key=paper.key,
                name=paper.name,
                width=paper.width,
                height=paper.height,
                price=Decimal(1),
                margins=paper.margins,
                offcuts=tuple(offcuts),
            )
    return found


def _sheets_of(paper: Paper, sheets: Iterable[Sheet], there: Mapping[str, int], of: str) -> list[OffcutSize]:
    """The whole sheets that may be used, as if they were offcuts: those of an opened pack, or all."""
    if of == Look.Of.OFFCUTS:
        return []
    rows = [(SHEET_ID, paper.width, paper.height, paper.pack)]
    rows += [(each.key, each.width, each.height, each.pack) for each in sheets if not each.is_offcut]
    margins = paper.margins
    found = []
    for key, width, height, pack in rows:
        free = there.get(key, 0)
        # One that is sold singly is odd if it is one.
        count = free if of == Look.Of.ALL else free % pack if pack > 1 else int(free == 1)
        inner = width - margins.left - margins.right, height - margins.top - margins.bottom
        if count > 0 and min(inner) > 0:
            found.append(OffcutSize(id=f"{ODD}-{key}", width=inner[0], height=inner[1], count=count))
    return found


def readable(user: AbstractBaseUser) -> tuple[dict[int, CardPieces], list[str]]:
    """The designs by key as they are cut, in their plain version; and the names of those with lines to be mended."""
    known = holdings_of(user).known
    cards, left_out = {}, []
    for card in Card.objects.of(user).filter(is_kit=False):
        readings = read_card(card, known)
        if any(reading.error for reading in readings):
            left_out.append(card.name)
            continue
        pieces = tuple(each.piece for each in readings if each.piece and each.piece.only == "")
        pieces = tuple(piece for piece in pieces if not piece.out_of)
        if any(not piece.filler for piece in pieces):
            cards[card.pk] = CardPieces("A", card.name, pieces)
    return cards, left_out


def smalls(lying: Mapping[str, ShelfPaper], papers: Mapping[str, Paper], cards: Mapping[int, CardPieces]) -> list[dict]:
    """Paper by paper how many tags, borders, toppers, and fillers of her own designs come out of it: each alone."""
    fillers: dict[str, list[Small]] = {}
    for card in cards.values():
        for piece in card.pieces:
            if piece.filler:
                fillers.setdefault(piece.paper, []).append(_small(piece, card.name))
    rows = []
    for key, paper in lying.items():
        mine = (*SMALLS[papers[key].unit], *fillers.get(key, [])[:MOST_FILLERS])
        counted = [(small, most_small(small, paper.offcuts)) for small in mine]
        things = [
            {"name": small.name, "size": show_size(small.width, small.height, papers[key].unit), "count": count}
            for small, count in counted
            if count
        ]
        if things:
            rows.append({"paper": paper.name, "things": things})
    return rows


def _small(piece: CutPiece, card: str) -> Small:
    return Small(f"{piece.name} of {card}", piece.width, piece.height, piece.turn)


def _entry(
    key: int, card: CardPieces, made: Makeable, papers: Mapping[str, Paper], bench: Bench, habits: Habits
) -> dict[str, Any]:
    names = {f"{card.letter}{piece.number}": f"{piece.name} ({piece.number})" for piece in card.pieces}
    return {
        "card": key,
        "name": card.name,
        "count": made.count,
        "exact": made.exact,
        "papers": [_paper(each, papers[each.job.id], names, bench, habits) for each in made.papers],
    }


def _paper(made: OfPaper, paper: Paper, names: Mapping[str, str], bench: Bench, habits: Habits) -> dict[str, Any]:
    steps = cutting_steps(made.job, made.plan, bench, habits, thorough=False)
    sheets = {sheet.id: (sheet.width, sheet.height) for sheet in made.job.sheets}
    whole = {sheet: show_size(*size, paper.unit) for sheet, size in sheets.items()}
    return {
        "name": paper.name,
        "key": paper.key,
        "unit": paper.unit,
        "minutes": -(-steps.seconds(habits.pace) // 60),
        "layouts": [_layout(layout, sheets[layout.sheet], names, paper.unit) for layout in made.plan.on_sheets],
        "steps": [_step(step, whole, names, paper.unit) for step in steps.steps],
    }


def _layout(layout: Layout, size: tuple[int, int], names: Mapping[str, str], unit: str) -> dict[str, Any]:
    parts = lay_parts(layout, *size)
    return {
        "width": size[0],
        "height": size[1],
        "size": show_size(*size, unit),
        "copies": layout.copies,
        "odd": layout.sheet.startswith(ODD),
        "parts": [[p.x, p.y, p.width, p.height, _number_of(names, p.piece)] for p in parts],
    }


def _number_of(names: Mapping[str, str], piece: str) -> str:
    return names.get(piece, "").rpartition("(")[2].rstrip(")")


def _pile(step: Step, unit: str) -> str:
    return f"pile {step.source_label}, {show_size(step.width, step.height, unit)}"


def _step(step: Step, whole: Mapping[str, str], names: Mapping[str, str], unit: str) -> dict[str, Any]:
    return {
        "count": step.count,
        "take": whole[step.source_label] if step.source == "sheet" else _pile(step, unit),
        "side": step.width if step.axis == "x" else step.height,
        "at": step.at,
        "cuts": step.cuts,
        "gives": [
            [each.kind, ", ".join(names.get(label.strip(), label) for label in each.label.split(",")), each.count]
            for each in step.results
        ],
    }


@transaction.atomic
def plan_class(user: AbstractBaseUser, card: Card, count: int) -> CardClass:
    """A class that makes so many of a design, offcuts first: its sheets, steps and bags are those of any class.

    Raises
    ------
    ZesterError
        If the number makes no sense.
    """
    if not 1 <= count <= 100:
        raise ZesterError(f"{count} cards cannot be planned here", mend="Plan 1 to 100")
    card_class = open_class(CardClass(owner=user, title=f"{card.name}, from what lay there"[:80], participants=0))
    entry = use_card(card_class, card)
    entry.each, entry.samples, entry.spares = 1, 0, 0
    entry.save(update_fields=["each", "samples", "spares"])
    # Kits for nobody yet: packed they lie ready on the shelf.
    card_class.give_aways = count
    card_class.save(update_fields=["give_aways"])
    recount(card_class.pk)
    return card_class


def first_to_cut(user: AbstractBaseUser) -> list[dict[str, Any]]:
    """The classes whose plans take offcuts, the one first whose cutting uses most of them up."""
    rows: dict[int, dict[str, Any]] = {}
    fits = PaperFit.objects.promised(user.pk).filter(shown__offcuts__gt=0)
    for fit in fits.select_related("shown", "class_paper__card_class").defer(
        "job", "pieces", "shown__job", "shown__plan"
    ):
        card_class = fit.class_paper.card_class
        row = rows.setdefault(card_class.pk, {"card_class": card_class, "offcuts": 0, "sheets": 0, "cost": Decimal(0)})
        row["offcuts"] += fit.shown.offcuts
        row["sheets"] += max(0, fit.shown.saved_sheets)
        row["cost"] += max(Decimal(0), fit.shown.saved_cost) if fit.shown.priced else 0
    return sorted(rows.values(), key=lambda row: (-row["sheets"], -row["offcuts"], row["card_class"].pk))
