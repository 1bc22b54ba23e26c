"""What the Cut station shows: the steps at the trimmer with drawings and the ruler, piles to count, work afterwards."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from zester.bench.runs import Cutting, steps_of
from zester.core.cautions import cautions_for
from zester.core.cutting.build_up import PieceError, errors_of
from zester.core.cutting.mishap import is_left, of_windows, there_of
from zester.core.cutting.ruler import RulerPart, ruler_at
from zester.core.cutting.steps import KEEP, PIECE, PILE, SHEET, WASTE, CutSteps, Result, Step
from zester.core.fitting.jobs.drawing import Label, LaidPart, fit_label
from zester.core.fitting.jobs.plan import PaperPlan
from zester.core.fitting.jobs.summary import summarise
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM, show_length, show_size
from zester.core.pace import Pace
from zester.plans.kept import Made, names_for, read_made
from zester.plans.models import PaperFit
from zester.site.stations import some


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
    seconds: int
    """How long it takes, about."""
    take: str
    """What is taken, in words."""
    warning: str
    """That nothing is to spare, and what the pieces can be off by; empty if something is."""
    remains: str
    """That what remains need not be exact; empty where it must."""
    ruler: RulerPart
    """The ruler at the mark."""

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
    off: str
    """What a piece can be off by, in words; empty where its sides are those of the sheet."""
    work: tuple[dict, ...]
    """What is done to it after the trimmer, as ``core.cutting.handwork.Work``."""
    assembly: tuple[dict, ...]
    """What is done when the card is put together."""


@dataclass(frozen=True, kw_only=True)
class PaperSteps:
    """One paper at the bench, as the shown plan was made: with its own stack, keep-size and unit."""

    fit: PaperFit
    """What is needed of it and what is shown."""
    cutting: Cutting | None
    """How far somebody has come; None if nobody has begun."""
    unit: str
    """The unit its lengths are shown in."""
    stack: int
    """Sheets cut at once."""
    plan: PaperPlan
    """The shown plan."""
    cut_steps: CutSteps
    """The steps that cut it, or what is left of it after a mishap."""
    steps: tuple[ShownStep, ...]
    """The same with their drawings."""
    counts: tuple[PileCount, ...]
    """The finished piles to count out."""
    middles: tuple[tuple[str, int, str], ...]
    """Host, number and shapes of the hidden middles taken out afterwards."""
    minutes: int
    """What the steps take at the pace of the class's trimmer, rounded up."""
    error: str
    """What a cut may be off by, in words; empty if by nothing."""

    @property
    def cautions(self) -> list[str]:
        """The cautions for all that is done to this paper."""
        tools = {work["tool"] for count in self.counts for work in (*count.work, *count.assembly)}
        return cautions_for({"blade", *tools, *(("rollers", "punch") if self.middles else ())})

    @property
    def card_columns(self) -> list[tuple[ShownStep, ...]]:
        """The steps in columns, so that they go on one printed page."""
        return _columns(self.steps, 2 if len(self.steps) <= 20 else 3 if len(self.steps) <= 44 else 4)

    @property
    def count_columns(self) -> list[tuple[PileCount, ...]]:
        """The piles in columns."""
        return _columns(self.counts, 2)

    @property
    def worked(self) -> list[PileCount]:
        """The piles to which something is done after the trimmer, those that have to dry first."""
        rows = [count for count in self.counts if count.work or count.assembly]
        return sorted(rows, key=lambda count: not any(work["first"] for work in count.work))


def paper_steps(fit: PaperFit, cutting: Cutting | None, rail: Mapping[int, bool] | None = None) -> PaperSteps:
    """The steps for one paper that has a plan; those that somebody does where it is being cut or is cut.

    ``rail``: where it is cut in one order with others, by the number of a step whether it says where to set the rail.
    """
    made = cutting.made if cutting else read_made(fit.shown)
    unit, trimmer = made.job.unit, fit.class_paper.card_class.cut_with
    cut_steps = cutting.cut_steps if cutting else steps_of(fit, made)
    if rail:
        steps = tuple(replace(step, moved=rail.get(n, step.moved)) for n, step in enumerate(cut_steps.steps, start=1))
        cut_steps = replace(cut_steps, steps=steps)
    errors = errors_of(cutting.steps_so_far if cutting else cut_steps.steps, trimmer.error)
    return PaperSteps(
        fit=fit,
        cutting=cutting,
        unit=unit,
        stack=made.job.bench.stack,
        plan=made.plan,
        cut_steps=cut_steps,
        steps=shown_steps(cut_steps, errors, unit, trimmer.pace),
        counts=tuple(_counts(names_for(fit), made, _made(made, cutting), errors)),
        middles=tuple(
            (layout.sheet, layout.copies, ", ".join(sorted(named.piece for named in layout.parts)))
            for layout in made.plan.layouts
            if layout.source == "window"
        ),
        minutes=-(-cut_steps.seconds(trimmer.pace) // 60),
        error=off_words(trimmer.error, unit) if trimmer.error else "",
    )


def _made(made: Made, cutting: Cutting | None) -> Mapping[str, int]:
    """How many of every piece there are when all is done: by the plan, or after a mishap by what lies there then."""
    if cutting is None or cutting.run.number == 1:
        return summarise(made.paper, made.plan, made.job.bench.keep_rule).made
    from_windows = of_windows(made.plan)
    cut = {piece.id: piece.count - from_windows[piece.id] for piece in made.paper.pieces}
    return there_of(cutting.table_at_the_end, cut) + from_windows


def _columns(rows: Sequence, number: int) -> list[tuple]:
    each = -(-len(rows) // number) if rows else 1
    return [tuple(rows[start : start + each]) for start in range(0, len(rows), each)]


def shown_steps(cut_steps: CutSteps, errors: Sequence[PieceError], unit: str, pace: Pace) -> tuple[ShownStep, ...]:
    """Steps with their drawings and words."""
    off = {(each.label, *each.size): each.off for each in errors}
    seconds = cut_steps.each_seconds(pace)
    return tuple(_shown(step, unit, time, off) for step, time in zip(cut_steps.steps, seconds, strict=True))


def _counts(names: dict, made: Made, of: Mapping[str, int], errors: Sequence[PieceError]) -> list[PileCount]:
    unit = made.job.unit
    # What is cut up at home lies in no pile here.
    home: Counter[str] = Counter()
    for layout in made.plan.layouts:
        if layout.source == "portion":
            home.update({named.piece: layout.copies for named in layout.parts})
    worst: dict[str, int] = {}
    for error in errors:
        for handle in error.label.split(", "):
            worst[handle] = max(worst.get(handle, 0), error.off)
    return [
        PileCount(
            handle=piece.id,
            name=names.get(piece.id, {}).get("name", ""),
            card=names.get(piece.id, {}).get("card", ""),
            size=show_size(piece.width, piece.height, unit),
            wanted=piece.count - home[piece.id],
            made=of.get(piece.id, 0) - home[piece.id],
            care=names.get(piece.id, {}).get("care", ""),
            off=off_words(worst[piece.id], unit) if worst.get(piece.id) else "",
            work=tuple(names.get(piece.id, {}).get("work", ())),
            assembly=tuple(names.get(piece.id, {}).get("assembly", ())),
        )
        for piece in made.paper.pieces
        if piece.count > home[piece.id]
    ]


def off_words(ticks: int, unit: str) -> str:
    """``1⁄16 in``, ``0.8 mm``: what somebody can be off by, rounded up to a mark."""
    step = TICKS_PER_INCH // 32 if unit == "in" else TICKS_PER_MM // 10
    return f"{show_length(-(-ticks // step) * step, unit)} {unit}"


def _shown(step: Step, unit: str, seconds: int, off: dict[tuple, int]) -> ShownStep:
    strips, start = [], 0
    largest = max(step.side, step.other_side)
    for index in range(step.cuts + 1):
        length = step.at if index < step.cuts else step.side - step.at * step.cuts
        result = _result_of(step, length, index)
        placed = LaidPart(part=0, x=start, y=0, width=length, height=step.other_side)
        label = fit_label(placed, _short_label(result), "", 4 * largest)
        strips.append(Strip(start=start, length=length, kind=result.kind, label=label))
        start += length
    return ShownStep(
        step=step,
        size=show_size(step.width, step.height, unit),
        stacked="" if step.held else _stacked(step.stacks),
        strips=tuple(strips),
        cuts=tuple(step.at * (index + 1) for index in range(step.cuts)),
        reach=largest // 16,
        seconds=seconds,
        take=_take(step),
        warning=_warning(step, unit, off),
        remains=_remains(step),
        ruler=ruler_at(step.at, unit),
    )


def _take(step: Step) -> str:
    if step.held:
        return "The stack in your hand" if step.count > 1 else "What you have in your hand"
    if step.source == SHEET:
        return some(step.count, "sheet")
    if is_left(step.source_label):
        return f"{step.count} of what is left over ({step.source_label})"
    return f"Pile {step.source_label}"


def _warning(step: Step, unit: str, off: dict[tuple, int]) -> str:
    if not step.exact:
        return ""
    worst = max(
        (off.get((r.label, r.width, r.height), 0) for r in step.results if r.kind == PIECE and r.rest), default=0
    )
    words = "Nothing to spare: what remains is needed to the mark."
    return f"{words} It can come out {off_words(worst, unit)} off." if worst else words


def _remains(step: Step) -> str:
    if step.bears:
        return "What remains is trimmed flush later: it may be off."
    kinds = {result.kind for result in step.results if result.rest}
    return "What remains is left over: it need not be exact." if kinds and kinds <= {KEEP, WASTE} else ""


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
