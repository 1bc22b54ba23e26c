"""What the page of a paper says of free seats and near misses, and the desk of what a line costs."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal
from functools import lru_cache

from django.db.models import QuerySet

from zester.core.fitting.jobs.job import Piece
from zester.core.fitting.jobs.need import places_of
from zester.core.lengths import show_length, show_size, with_unit
from zester.fits.sheets import PaperSheets
from zester.plans.kept import job_now
from zester.plans.models import PaperFit, PaperPlan
from zester.site.prepared import prepared
from zester.site.stations import some


@dataclass(frozen=True, kw_only=True)
class PaperAdvice:
    """The advice on one paper."""

    now: dict | None
    """The run of participants that need the same as those who come."""
    then: dict | None
    """The next run."""
    more_sheets: int
    """How many sheets the next run needs more."""
    more_price: Decimal
    """What these cost."""
    misses: tuple[dict, ...]
    """Sizes that are only just too large."""
    middles: tuple[dict, ...]
    """Pieces that would save sheets if they came out of middles that layers hide."""
    looked: dict
    """How much was looked at in the time there was: ``sizes`` ``of`` so many, and whether all ``seats`` were."""


def advice_on(sheets: PaperSheets) -> PaperAdvice | None:
    """The advice on a paper's shown plan, if somebody has looked for it."""
    advice = sheets.kept.advice
    if not advice:
        return None
    unit, people = sheets.unit, sheets.job.people
    ranges = advice["seats"]
    now = next((each for each in ranges if each["first"] <= people <= each["last"]), None)
    then = next((each for each in ranges if each["first"] > people), None) if now else None
    return PaperAdvice(
        now=now,
        then=then,
        more_sheets=then["sheets"] - now["sheets"] if then else 0,
        more_price=Decimal(then["price"]) - Decimal(now["price"]) if then else Decimal(0),
        misses=tuple(
            {**miss, "by": with_unit(miss["smaller"], unit), "money": Decimal(miss["money"])} for miss in advice["near"]
        ),
        middles=tuple(
            {
                **each,
                "money": Decimal(each["money"]),
                "hosts": [
                    {"handle": host, "size": show_size(wide, high, unit), "rule": rule}
                    for host, wide, high, rule in each["hosts"]
                ],
            }
            for each in advice.get("middles", ())
        ),
        looked=advice.get("looked", {}),
    )


@prepared
def _hints(plans: list[int]) -> QuerySet:
    return PaperPlan.objects.filter(pk__in=plans).exclude(hints={}).values_list("pk", "hints")


def line_costs(fits: Iterable[PaperFit], letter: str) -> list[tuple[str, str]]:
    """What the lines of one card cost, as far as it was looked for: handle and words.

    ``2 sheets of Chalk Moon come from this line; 3¾ in wide would save 1``.
    """
    answered = [fit for fit in fits if fit.answered]
    hints = dict(_hints([fit.shown_id for fit in answered]))
    told = [fit for fit in answered if fit.shown_id in hints]
    return [words for fit in told for words in _costs_of(fit, hints[fit.shown_id], letter)]


def cheapest_change(fit: PaperFit, hints: dict) -> tuple[str, int] | None:
    """The smallest change of one size that saves most sheets of a paper, in words, and how many; None if none does."""
    misses = sorted(hints.get("near", ()), key=lambda miss: (-miss["sheets"], miss["smaller"]))
    pieces = {place: piece for piece, place in _pieces_of(fit.pk, fit.need, fit.labels)} if misses else {}
    for miss in misses:
        mine = [pieces[place] for place in miss["places"] if place in pieces]
        if mine:
            names = ", ".join(piece.id for piece in mine)
            return f"{names} {_would_save(mine[0], miss, fit.class_paper.card_class.unit)}", miss["sheets"]
    return None


@lru_cache(maxsize=256)
def _pieces_of(fit_pk: int, need: str, labels: str) -> tuple[tuple[Piece, int], ...]:
    """The pieces of what is needed of a paper with their places: asked for after every keystroke."""
    paper = job_now(PaperFit.objects.get(pk=fit_pk)).papers[0]
    places = places_of(paper)
    return tuple((piece, places[piece.id]) for piece in paper.pieces if piece.id in places)


def _costs_of(fit: PaperFit, hints: dict, letter: str) -> list[tuple[str, str]]:
    found = []
    for piece, place in _pieces_of(fit.pk, fit.need, fit.labels):
        if not (piece.id.startswith(letter) and piece.id[len(letter) :][:1].isdigit()):
            continue
        words = []
        sheets = hints["costs"].get(str(place))
        if sheets:
            words.append(f"this line: {some(sheets, 'sheet')} of {fit.name}")
        elif sheets == 0:
            words.append(f"this line costs no sheet of {fit.name}")
        for miss in hints["near"]:
            if place in miss["places"]:
                words.append(_would_save(piece, miss, fit.class_paper.card_class.unit))
                break
        if words:
            found.append((piece.id, "; ".join(words)))
    return found


def _would_save(piece, miss: dict, unit: str) -> str:
    size = getattr(piece, miss["side"]) - miss["smaller"]
    across = "wide" if miss["side"] == "width" else "high"
    return f"cut {show_length(size, unit)} {across} it would save {some(miss['sheets'], 'sheet')}"
