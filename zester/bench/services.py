"""What the Cut station shows: the steps at the trimmer, each with a small drawing."""

from __future__ import annotations

from dataclasses import dataclass

from zester.core.cutting.steps import PIECE, PILE, CutList, Result, Step, cutting_steps
from zester.core.fitting.drawing import Label, Placed, fit_label
from zester.core.fitting.job import PaperJob
from zester.core.fitting.plan import PaperPlan
from zester.core.fitting.summary import summarise
from zester.core.lengths import show_size
from zester.fits.models import Fit
from zester.fits.services import keep_rule, with_plan


@dataclass(frozen=True)
class Strip:
    """One part of a step's drawing: ticks from the edge at the rail, its length, what becomes of it, its label."""

    start: int
    length: int
    kind: str
    label: Label | None


@dataclass(frozen=True)
class ShownStep:
    """A step with its drawing, in ticks; the part lies with the side that is measured from left to right.

    The rail stands at the left edge, ``cuts`` are the places of the blade; both reach ``reach`` beyond the part.
    """

    step: Step
    size: str
    stacked: str
    strips: tuple[Strip, ...]
    cuts: tuple[int, ...]
    reach: int

    @property
    def box(self) -> tuple[int, int, int, int]:
        """Left, top, width and height of the drawing."""
        side, other = self.step.side, self.step.other_side
        return -self.reach, -self.reach, side + 2 * self.reach, other + 2 * self.reach


@dataclass(frozen=True)
class Count:
    """A finished pile to count out: handle, name, card, size, how many are wanted and made."""

    handle: str
    name: str
    card: str
    size: str
    wanted: int
    made: int


@dataclass(frozen=True)
class PaperSteps:
    """One paper at the bench; ``middles`` are host, number and shapes of the hidden middles taken out afterwards."""

    number: int
    look: dict
    plan: PaperPlan
    cut_list: CutList
    steps: tuple[ShownStep, ...]
    counts: tuple[Count, ...]
    middles: tuple[tuple[str, int, str], ...]


def papers_to_cut(found: Fit) -> list[tuple[int, dict, PaperPlan]]:
    """All papers of a fit: number, look, plan."""
    _, plan = with_plan(found)
    return [(number, found.context["papers"][paper.id], paper) for number, paper in enumerate(plan.papers)]


def paper_steps(found: Fit, number: int) -> PaperSteps:
    """The steps for one paper of a finished fit; raises IndexError if there is none of that number."""
    job, plan = with_plan(found)
    paper, paper_plan = job.papers[number], plan.papers[number]
    keep = keep_rule(found.card_class)
    cut_list = cutting_steps(paper, paper_plan, job.stack, keep)
    made = summarise(paper, paper_plan, keep).made
    return PaperSteps(
        number,
        found.context["papers"][paper.id],
        paper_plan,
        cut_list,
        tuple(_shown(step, job.unit) for step in cut_list.steps),
        tuple(_counts(found, paper, made, job.unit)),
        tuple(
            (layout.sheet, layout.copies, ", ".join(sorted(named.piece for named in layout.parts)))
            for layout in paper_plan.layouts
            if layout.source == "window"
        ),
    )


def _counts(found: Fit, paper: PaperJob, made: dict[str, int], unit: str) -> list[Count]:
    names = found.context["pieces"]
    return [
        Count(
            piece.id,
            names[piece.id]["name"],
            names[piece.id]["card"],
            show_size(piece.width, piece.height, unit),
            piece.count,
            made.get(piece.id, 0),
        )
        for piece in paper.pieces
    ]


def _shown(step: Step, unit: str) -> ShownStep:
    strips, start = [], 0
    largest = max(step.side, step.other_side)
    for index in range(step.cuts + 1):
        length = step.at if index < step.cuts else step.side - step.at * step.cuts
        result = _result_of(step, length, index)
        placed = Placed(0, start, 0, length, step.other_side)
        strips.append(Strip(start, length, result.kind, fit_label(placed, _short_label(result), "", 4 * largest)))
        start += length
    cuts = tuple(step.at * (index + 1) for index in range(step.cuts))
    size = show_size(step.width, step.height, unit)
    return ShownStep(step, size, _stacked(step.stacks), tuple(strips), cuts, largest // 16)


def _stacked(stacks: tuple[int, ...]) -> str:
    """``in 2 stacks of 3 and one of 2``; empty for a single sheet."""
    groups = [(size, stacks.count(size)) for size in sorted(set(stacks), reverse=True)]
    if groups == [(1, 1)]:
        return ""
    if len(stacks) == 1:
        return f"in one stack of {stacks[0]}"
    if groups[0][0] == 1:
        return "one by one"
    words = [f"{count} stacks of {size}" if count > 1 else f"one stack of {size}" for size, count in groups]
    return f"in {' and '.join(words)}"


def _result_of(step: Step, length: int, index: int) -> Result:
    """The result a strip of this length goes to: those cut off stand first, the rest last."""
    fitting = [r for r in step.results if (r.width if step.axis == "x" else r.height) == length]
    if len(fitting) > 1:
        return fitting[0] if index < step.cuts else fitting[-1]
    return fitting[0]


def _short_label(result: Result) -> str:
    if result.kind == PIECE:
        return result.label if len(result.label) < 8 else f"{result.label.split(',')[0]}…"
    return f"pile {result.label}" if result.kind == PILE else result.kind
