"""What a plan answers: the need of a paper, apart from names, prices and stock.

Two jobs have the same need if the same sizes are wanted as often, by the same rules, from sheets of the same sizes, at
the same bench. What the pieces are called and in which order they stand does not matter, nor what a sheet costs or how
many lie on the shelf: a plan made for one answers the other, with the pieces called by their new names. Two things of
the shelf do matter: which offcuts may be used, and, where a paper comes in several sizes, their prices and stock, since
those decide which is taken.

    job --need_of--> need (a hash)      the same need: the plan answers
        --labels_of-> labels            the same labels, too: it stands as it is; otherwise ``relabelled``
"""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import astuple, replace
from decimal import Decimal
from typing import Any

from zester.core.errors import PlanError
from zester.core.fitting.jobs.check_plan import check_paper
from zester.core.fitting.jobs.job import Bench, PaperJob, Piece, Row, Sheet
from zester.core.fitting.jobs.plan import Layout, PaperPlan


def need_of(paper: PaperJob, bench: Bench) -> str:
    """The need of a paper as 64 hexadecimal digits; equal for jobs that the same plan answers."""
    order = _order(paper)
    place = {piece.id: number for number, piece in enumerate(order)}
    shared = paper.pool != "together"
    wanted = [_wanted(piece, shared) for piece in order]
    rows = sorted((row.axis, tuple(place[name] for name in row.pieces)) for row in paper.matched)
    several = _several(paper)
    sheets = [_sheet(sheet, prices=several) for sheet in paper.sheets]
    pins = sorted((_pin(pin, place) for pin in paper.pins), key=repr)
    people = paper.people if shared else None
    parts = (wanted, rows, sheets, pins, paper.pool, people, astuple(bench))
    return hashlib.sha256(repr(parts).encode()).hexdigest()


def labels_of(paper: PaperJob) -> str:
    """What the pieces are called, as 64 hexadecimal digits: equal needs with equal labels share their plan."""
    return hashlib.sha256(repr([piece.id for piece in _order(paper)]).encode()).hexdigest()


def places_of(paper: PaperJob) -> dict[str, int]:
    """Every piece's place in the order that does not depend on names; equal for jobs of equal need."""
    return {piece.id: number for number, piece in enumerate(_order(paper))}


def _wanted(piece: Piece, shared: bool) -> tuple[Any, ...]:
    window = astuple(piece.window) if piece.window else None
    each = piece.each if shared else None
    size = piece.width, piece.height
    return (*size, piece.count, piece.direction, each, window, piece.from_window, piece.filler)


def _order(paper: PaperJob) -> list[Piece]:
    """The pieces in an order that comes from what they are; those that are alike stay in the order of the job."""
    pieces = {piece.id: piece for piece in paper.pieces}
    matched = {name: _matched(row, name, pieces) for row in paper.matched for name in row.pieces}
    shared = paper.pool != "together"
    return sorted(paper.pieces, key=lambda piece: repr((_wanted(piece, shared), matched.get(piece.id))))


def _several(paper: PaperJob) -> bool:
    """Whether there is a choice between sizes that are bought: then prices decide which, and are part of the need."""
    return sum(not (sheet.is_offcut or sheet.is_on_shelf) for sheet in paper.sheets) > 1


def _sheet(sheet: Sheet, *, prices: bool) -> tuple[Any, ...]:
    """A kind of sheet; of an offcut how many there are, too, since a plan may take no more."""
    asked = (sheet.id, sheet.width, sheet.height, astuple(sheet.margins), sheet.up)
    if sheet.is_offcut or sheet.is_on_shelf:
        return (*asked, sheet.count, str(sheet.cost))
    return (*asked, str(sheet.cost)) if prices else asked


def _matched(row: Row, name: str, pieces: dict[str, Piece]) -> tuple[Any, ...]:
    """What a piece is matched with, and where it stands in the row."""
    sizes = tuple((pieces[each].width, pieces[each].height) for each in row.pieces)
    return row.axis, sizes, tuple(at for at, each in enumerate(row.pieces) if each == name)


def _pin(pin: Layout, place: dict[str, int]) -> tuple[Any, ...]:
    source = place.get(pin.sheet) if pin.source == "window" else pin.sheet
    parts = [(named.part, place.get(named.piece), named.turned, named.up, named.portion) for named in pin.parts]
    return pin.source, source, pin.copies, [astuple(cut) for cut in pin.cuts], parts


def relabelled(plan: PaperPlan, before: PaperJob, now: PaperJob, bench: Bench) -> PaperPlan:
    """The plan of a job of the same need with the pieces called as the job calls them now.

    Raises PlanError if it does not do what the job asks, which can only be if the needs differ.
    """
    old, new = _order(before), _order(now)
    if len(old) != len(new):
        raise PlanError("the jobs want different pieces", now.called)
    names = {piece.id: other.id for piece, other in zip(old, new, strict=True)}
    costs = {sheet.id: sheet.cost for sheet in now.sheets}
    layouts = tuple(_renamed(layout, names) for layout in plan.layouts)
    renamed = replace(
        plan, id=now.id, layouts=layouts, short=tuple((names[piece], missing) for piece, missing in plan.short)
    )
    renamed = _priced(renamed, costs)
    check_paper(replace(now, sheets=_endless(now)), renamed, bench)
    return renamed


def _renamed(layout: Layout, names: dict[str, str]) -> Layout:
    parts = tuple(replace(named, piece=names.get(named.piece, "")) for named in layout.parts)
    sheet = names[layout.sheet] if layout.source == "window" else layout.sheet
    return replace(layout, sheet=sheet, parts=parts)


def _priced(plan: PaperPlan, costs: Mapping[str, Decimal]) -> PaperPlan:
    """The plan at other prices. With one kind of new sheet its bound is so many of them, otherwise none is known."""
    cost = sum((costs[layout.sheet] * layout.copies for layout in plan.on_sheets), plan.cost * 0)
    if cost == plan.cost:
        return plan
    if sum(price > 0 for price in costs.values()) == 1 and plan.cost:
        return replace(plan, cost=cost, bound=plan.bound / plan.cost * cost if not plan.proven else cost)
    return replace(plan, cost=cost, bound=cost * 0, proven=False)


def _endless(paper: PaperJob) -> tuple[Any, ...]:
    return tuple(replace(sheet, count=None) for sheet in paper.sheets)
