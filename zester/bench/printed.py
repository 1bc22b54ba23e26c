"""What the Cut station prints: cutting cards, true-size guides, pile labels, guides for those who cut at home."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from zester.bench.runs import cuttings_of, fits_of
from zester.bench.services import PaperSteps, paper_steps
from zester.classes.models import CardClass
from zester.core.cutting.machine_file import MachineFile, Marks, machine_file
from zester.core.fitting.jobs.fewest_cuts import fewest_cuts
from zester.core.fitting.jobs.job import AT_HOME
from zester.core.fitting.jobs.plan import Layout
from zester.core.fitting.jobs.summary import source_size
from zester.core.lengths import show_size
from zester.core.printing.home_guides import HomeGuide, guide_for
from zester.core.printing.true_size import GuidePage, Wanted, guide_pages
from zester.plans.kept import Made, names_for, read_made
from zester.plans.models import PaperFit
from zester.printing.codes import code_picture


def cards_of(card_class: CardClass) -> list[PaperSteps]:
    """A cutting card for every paper that is cut at the trimmer."""
    fits = fits_of(card_class)
    cuttings = cuttings_of(fits)
    return [paper for fit in fits if (paper := paper_steps(fit, cuttings.get(fit.pk))).steps]


def guides_of(card_class: CardClass, page: str) -> list[GuidePage]:
    """True-size guides of all pieces of a class."""
    wanted = []
    for fit in fits_of(card_class):
        names, made = names_for(fit), read_made(fit.shown)
        for piece in made.paper.pieces:
            about = names.get(piece.id, {})
            wanted.append(
                Wanted(
                    handle=piece.id,
                    name=about.get("name", ""),
                    width=piece.width,
                    height=piece.height,
                    marks=marks_of(about),
                )
            )
    return guide_pages(wanted, page, card_class.unit)


def marks_of(about: dict) -> Marks:
    """Score lines and openings of a piece, from what is written down of it."""
    marks = about.get("marks") or {}
    return Marks(
        scores=tuple((axis, place) for axis, place in marks.get("scores", ())),
        outlines=tuple(tuple(each) for each in marks.get("outlines", ())),
    )


@dataclass(frozen=True, kw_only=True)
class PileLabel:
    """A label."""

    handle: str
    """The pile's handle."""
    name: str
    """The piece's name."""
    card: str
    """The card."""
    size: str
    """Its size."""
    paper: str
    """The paper."""
    count: int
    """How many belong to the pile."""
    care: str
    """What to know of it."""
    code: str = ""
    """An address that opens its page, as a code."""


def labels_of(card_class: CardClass, address: Callable[[str], str] | None = None) -> list[PileLabel]:
    """A label for every pile, paper by paper; ``address`` gives that of a paper's piles, whole."""
    found = []
    for fit in fits_of(card_class):
        names, made = names_for(fit), read_made(fit.shown)
        code = code_picture(address(fit.key)) if address else ""
        for piece in made.paper.pieces:
            about = names.get(piece.id, {})
            found.append(
                PileLabel(
                    code=code,
                    handle=piece.id,
                    name=about.get("name", ""),
                    card=about.get("card", ""),
                    size=show_size(piece.width, piece.height, card_class.unit),
                    paper=fit.name,
                    count=piece.count,
                    care=about.get("care", ""),
                )
            )
    return found


def home_guides(card_class: CardClass) -> list[HomeGuide]:
    """The guides for those who cut at home, paper by paper."""
    found = []
    for fit in fits_of(card_class):
        made = read_made(fit.shown)
        if made.paper.pool in AT_HOME or made.plan.portion:
            layouts = [
                layout for layout in made.plan.layouts if layout.source == "portion" or made.paper.pool == "whole"
            ]
            # A sheet that is handed out as it is has nothing to be cut here: what is made of it has a guide of its own.
            cut = (each for each in layouts if each.source != "window" and not all(part.portion for part in each.parts))
            found += [_home(fit, made, layout, card_class.unit) for layout in cut]
    return found


def _home(fit: PaperFit, made: Made, layout: Layout, unit: str) -> HomeGuide:
    names = {handle: about.get("name", "") for handle, about in names_for(fit).items()}
    size = source_size(made.paper, made.plan, layout)
    return guide_for(fit.name, size, fewest_cuts(layout, *size), names, unit)


def file_of(fit: PaperFit, number: int) -> MachineFile | None:
    """A layout of the shown plan for a cutting machine, counted from 1; None if there is none."""
    made, names = read_made(fit.shown), names_for(fit)
    layouts = [layout for layout in made.plan.layouts if layout.source != "window"]
    if not 1 <= number <= len(layouts):
        return None
    layout = layouts[number - 1]
    width, height = source_size(made.paper, made.plan, layout)
    marks = {handle: marks_of(about) for handle, about in names.items()}
    return machine_file(f"{fit.name}, layout {number}", layout, width, height, marks, made.job.unit)


def files_of(fit: PaperFit) -> list[tuple[int, int, str]]:
    """The layouts that can be had as files: number, copies, the size of the sheet."""
    made = read_made(fit.shown)
    layouts = [layout for layout in made.plan.layouts if layout.source != "window"]
    return [
        (number, layout.copies, show_size(*source_size(made.paper, made.plan, layout), made.job.unit))
        for number, layout in enumerate(layouts, 1)
    ]
