"""What the Cut station shows: the steps at the trimmer, each with a small drawing."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from zester.classes.models import Trimmer
from zester.core.cutting.steps import PIECE, PILE, CutSteps, Result, Step, cutting_steps
from zester.core.fitting.drawing import Label, LaidPart, fit_label
from zester.core.fitting.job import PaperJob
from zester.core.fitting.leftovers import LeftOver, left_over
from zester.core.fitting.plan import PaperPlan
from zester.core.fitting.summary import summarise
from zester.core.lengths import show_size
from zester.core.stock.offcut_lines import OffcutLine
from zester.fits.models import PaperFit
from zester.fits.plans import read_made
from zester.fits.sheets import names_for
from zester.site.owned import key_of


@dataclass(frozen=True)
class Strip:
    """One part of a step's drawing."""

    start: int
    """Ticks from the edge at the rail."""
    length: int
    """Ticks along the side that is measured."""
    kind: str
    """What becomes of it: ``piece``, ``pile``, ``keep`` or ``waste``."""
    label: Label | None
    """What is written on it, if that can be read."""


@dataclass(frozen=True, kw_only=True)
class ShownStep:
    """A step with its drawing; the part lies with the side that is measured from left to right."""

    step: Step
    """The step."""
    size: str
    """The size of the parts it takes, in words."""
    stacked: str
    """How they are stacked, in words."""
    strips: tuple[Strip, ...]
    """What becomes of a part, from the rail on."""
    cuts: tuple[int, ...]
    """The places of the blade, in ticks from the rail at the left edge."""
    reach: int
    """How far rail and blade are drawn beyond the part, in ticks."""

    @property
    def box(self) -> tuple[int, int, int, int]:
        """Left, top, width and height of the drawing."""
        side, other = self.step.side, self.step.other_side
        return -self.reach, -self.reach, side + 2 * self.reach, other + 2 * self.reach


@dataclass(frozen=True, kw_only=True)
class PileCount:
    """A finished pile to count out."""

    handle: str
    """Card letter and number."""
    name: str
    """The piece's name."""
    card: str
    """The card's name."""
    size: str
    """Its size in words."""
    wanted: int
    """How many are wanted."""
    made: int
    """How many are made."""
    care: str
    """What to know of it: dry first, prepared by whom and when, remarks."""


@dataclass(frozen=True, kw_only=True)
class PaperSteps:
    """One paper at the bench, as the shown plan was made: with its own stack, keep-size and unit."""

    fit: PaperFit
    """What is needed of it and what is shown."""
    unit: str
    """The unit its lengths are shown in."""
    stack: int
    """Sheets cut at once."""
    plan: PaperPlan
    """The shown plan."""
    cut_steps: CutSteps
    """The steps that cut it."""
    steps: tuple[ShownStep, ...]
    """The same with their drawings."""
    counts: tuple[PileCount, ...]
    """The finished piles to count out."""
    middles: tuple[tuple[str, int, str], ...]
    """Host, number and shapes of the hidden middles taken out afterwards."""
    minutes: int
    """What the steps take at the pace of the class's trimmer, rounded up."""


def paper_steps(fit: PaperFit) -> PaperSteps:
    """The steps for one paper that has a plan."""
    made = read_made(fit.shown)
    bench, unit = made.job.bench, made.job.unit
    cut_steps = cutting_steps(made.paper, made.plan, bench)
    of = summarise(made.paper, made.plan, bench.keep_rule).made
    return PaperSteps(
        fit=fit,
        unit=unit,
        stack=bench.stack,
        plan=made.plan,
        cut_steps=cut_steps,
        steps=tuple(_shown(step, unit) for step in cut_steps.steps),
        counts=tuple(_counts(names_for(fit), made.paper, of, unit)),
        middles=tuple(
            (layout.sheet, layout.copies, ", ".join(sorted(named.piece for named in layout.parts)))
            for layout in made.plan.layouts
            if layout.source == "window"
        ),
        minutes=-(-cut_steps.seconds((fit.class_paper.card_class.trimmer or Trimmer()).pace) // 60),
    )


def _counts(names: dict, paper: PaperJob, made: dict[str, int], unit: str) -> list[PileCount]:
    return [
        PileCount(
            handle=piece.id,
            name=names.get(piece.id, {}).get("name", ""),
            card=names.get(piece.id, {}).get("card", ""),
            size=show_size(piece.width, piece.height, unit),
            wanted=piece.count,
            made=made.get(piece.id, 0),
            care=names.get(piece.id, {}).get("care", ""),
        )
        for piece in paper.pieces
    ]


def left_of(fit: PaperFit) -> list[tuple[str, LeftOver, str]]:
    """What the shown plan leaves that is worth keeping: a name for its field, the offcuts, their size in words."""
    made = read_made(fit.shown)
    found = left_over(made.paper, made.plan, made.job.bench.keep_rule)
    return [(f"keep{n}", each, show_size(each.width, each.height, made.job.unit)) for n, each in enumerate(found)]


def kept_of(fit: PaperFit, data: Mapping[str, str]) -> list[OffcutLine]:
    """The offcuts of the shown plan that go on the shelf: as many of each as the form says, at most those there are."""
    kept = []
    for name, each, _ in left_of(fit):
        count = min(key_of(data.get(name, "")), each.count)
        if count:
            sides = {"width": each.width, "height": each.height, "up": each.up}
            place = " ".join(data.get("place", "").split())[:80]
            kept.append(OffcutLine(paper=fit.paper.key, count=count, place=place, **sides))
    return kept


def _shown(step: Step, unit: str) -> ShownStep:
    strips, start = [], 0
    largest = max(step.side, step.other_side)
    for index in range(step.cuts + 1):
        length = step.at if index < step.cuts else step.side - step.at * step.cuts
        result = _result_of(step, length, index)
        placed = LaidPart(part=0, x=start, y=0, width=length, height=step.other_side)
        strips.append(
            Strip(
                start=start,
                length=length,
                kind=result.kind,
                label=fit_label(placed, _short_label(result), "", 4 * largest),
            )
        )
        start += length
    cuts = tuple(step.at * (index + 1) for index in range(step.cuts))
    size = show_size(step.width, step.height, unit)
    return ShownStep(
        step=step, size=size, stacked=_stacked(step.stacks), strips=tuple(strips), cuts=cuts, reach=largest // 16
    )


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
