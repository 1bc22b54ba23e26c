"""Paper against minutes: the plans of a paper, and of the whole class, from the thriftiest to the easiest to cut."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction

from zester.classes.models import CardClass, Trimmer
from zester.core.choices import OWN, THRIFTIEST
from zester.core.cutting.evening import minutes_in_words
from zester.core.fitting.jobs.job import AT_HOME
from zester.core.pace import Pace
from zester.core.tradeoff import Point, least_total, together, worth_it
from zester.fits.sheets import percent
from zester.plans.models import PaperFit, PaperPlan
from zester.site.stations import some

# How many steps of a whole class are shown.
MOST_STEPS = 8
# The drawing: its sides, and the room for what stands beside it.
WIDE, HIGH, LEFT, RIGHT, ABOVE, BELOW = 720, 250, 52, 60, 44, 34


@dataclass(frozen=True, kw_only=True)
class ShownChoice:
    """A plan to choose."""

    key: str
    """What it is known by."""
    name: str
    """What it is called."""
    point: Point
    """What it comes to, at the pace of the class's trimmer."""
    more: Decimal
    """What it costs more than the thriftiest."""
    saves: int
    """How many minutes it saves against the thriftiest."""
    a_sheet: int
    """How many minutes each sheet more saves."""
    strokes: int
    """Strokes of the blade."""
    settings: int
    """How many times the rail is moved."""
    layouts: int
    """Different layouts."""
    used: str
    """The yield."""
    taken: bool
    """Whether it is the one shown."""
    proposed: bool = False
    """Whether it is the one of least total."""

    @property
    def minutes(self) -> str:
        """At the trimmer, in words."""
        return minutes_in_words(_minutes(self.point))


@dataclass(frozen=True)
class Dot:
    """A plan in the drawing; where its number stands depends on where there is room."""

    x: float
    """From the left."""
    y: float
    """From the top."""
    label: str
    """What stands at it."""
    sheets: str
    """What stands below it at the axis; empty where there is no room."""
    taken: bool
    """Whether it is the one shown."""
    proposed: bool
    """Whether it is the one of least total."""


@dataclass(frozen=True)
class Chart:
    """Sheets to the right, minutes upwards from nothing."""

    dots: tuple[Dot, ...]
    """The plans."""
    line: str
    """The points of the line through those of which none is beaten."""
    lines: tuple[tuple[float, str], ...]
    """Lines across: how far down, and how long that is."""
    words: str
    """The same in words."""
    wide: int = WIDE
    high: int = HIGH
    left: int = LEFT
    right: int = WIDE - RIGHT
    floor: int = HIGH - BELOW


@dataclass(frozen=True, kw_only=True)
class PaperFront:
    """The plans of one paper."""

    choices: tuple[ShownChoice, ...]
    """The thriftiest first, everybody's own sheets last."""
    chart: Chart | None
    """Drawn, if there are several."""
    hour: Decimal
    """What an hour is worth."""


def seconds_at(entry: dict, pace: Pace) -> int:
    """What a kept plan takes at somebody's pace."""
    if "stacks" not in entry:
        return entry.get("seconds", 0)
    return pace.setting * entry["settings"] + pace.stack * entry["stacks"] + pace.stroke * entry["strokes"]


def _point(entry: dict, pace: Pace) -> Point:
    return Point(cost=Decimal(entry["cost"]), seconds=seconds_at(entry, pace), sheets=entry["sheets"])


def _name(entry: dict, first: dict) -> str:
    if entry["name"] == OWN:
        return "Everybody’s own sheets"
    if entry["name"] == THRIFTIEST:
        return "Thriftiest"
    more = entry["sheets"] - first["sheets"]
    return f"{some(more, 'sheet')} more" if more > 0 else "Easier to cut"


def front_of(entries: Sequence[dict], current: list[dict], trimmer: Trimmer, priced: bool) -> PaperFront | None:
    """The plans that are kept for a paper; ``current`` are the layouts of the shown one. None if there are none."""
    if not entries:
        return None
    pace, first = trimmer.pace, entries[0]
    points = [_point(entry, pace) for entry in entries]
    hour = trimmer.hour_worth if priced else Decimal(0)
    best = least_total(points, hour) if hour else None
    choices = tuple(
        ShownChoice(
            key=entry["name"],
            name=_name(entry, first),
            point=point,
            more=point.cost - points[0].cost,
            saves=_minutes(points[0]) - _minutes(point),
            a_sheet=_a_sheet(points[0], point),
            strokes=entry["strokes"],
            settings=entry["settings"],
            layouts=entry["layouts"],
            used=percent(Fraction(str(entry["yield"]))),
            taken=entry["plan"]["layouts"] == current,
            proposed=place == best,
        )
        for place, (entry, point) in enumerate(zip(entries, points, strict=True))
    )
    marks = [(choice.taken, choice.proposed) for choice in choices]
    # What was looked for before minutes were reckoned cannot be drawn.
    drawn = len(points) > 1 and all(point.seconds for point in points)
    return PaperFront(choices=choices, chart=chart_of(points, marks) if drawn else None, hour=hour)


def _minutes(point: Point) -> int:
    return -(-point.seconds // 60)


def _a_sheet(first: Point, point: Point) -> int:
    more = point.sheets - first.sheets
    return (first.seconds - point.seconds) // (60 * more) if more > 0 else 0


def chart_of(points: Sequence[Point], marks: Sequence[tuple[bool, bool]]) -> Chart:
    """The plans drawn to scale; ``marks`` say of each whether it is taken, and proposed."""
    most = max(point.seconds for point in points)
    step = next(s for s in (60, 120, 300, 600, 900, 1800, 3600, 7200, 14400, 36000, 360000) if most <= 5 * s)
    top = -(-most // step) * step
    fewest, span = min(p.sheets for p in points), max(1, max(p.sheets for p in points) - min(p.sheets for p in points))

    def x(sheets: int) -> float:
        return round(LEFT + 14 + (WIDE - LEFT - RIGHT - 14) * (sheets - fewest) / span, 1)

    def y(seconds: int) -> float:
        return round(ABOVE + (HIGH - ABOVE - BELOW) * (1 - seconds / top), 1)

    dots, last = [], -99.0
    for point, (taken, proposed) in sorted(zip(points, marks, strict=True), key=lambda each: each[0].sheets):
        room = x(point.sheets) - last >= 26
        last = x(point.sheets) if room else last
        below = str(point.sheets) if room else ""
        dots.append(Dot(x(point.sheets), y(point.seconds), str(_minutes(point)), below, taken, proposed))
    unbeaten = [p for p in points if not any(_beats(other, p) for other in points)]
    line = " ".join(f"{x(p.sheets)},{y(p.seconds)}" for p in sorted(unbeaten, key=lambda p: p.sheets))
    lines = tuple((y(seconds), f"{seconds // 60}") for seconds in range(0, top + 1, step))
    words = "; ".join(f"{some(p.sheets, 'sheet')} {minutes_in_words(_minutes(p))}" for p in points)
    return Chart(tuple(dots), line, lines, words)


def _beats(other: Point, point: Point) -> bool:
    mine, theirs = (point.sheets, point.seconds), (other.sheets, other.seconds)
    return theirs != mine and theirs[0] <= mine[0] and theirs[1] <= mine[1]


@dataclass(frozen=True, kw_only=True)
class ClassStep:
    """One plan of every paper."""

    point: Point
    """What all of them come to."""
    more: Decimal
    """What they cost more than the thriftiest."""
    saves: int
    """How many minutes they save against the thriftiest."""
    changes: tuple[str, ...]
    """What is not the thriftiest, in words."""
    takes: str
    """Which plans these are, for a form: paper and plan."""
    taken: bool
    """Whether all of them are shown."""
    proposed: bool
    """Whether it is the one of least total."""

    @property
    def minutes(self) -> str:
        """At the trimmer, in words."""
        return minutes_in_words(_minutes(self.point))


@dataclass(frozen=True, kw_only=True)
class ClassFront:
    """The whole class."""

    steps: tuple[ClassStep, ...]
    """The thriftiest first."""
    chart: Chart | None
    """Drawn, if there are several."""
    looked: tuple[PaperFit, ...]
    """The papers whose plans are known."""
    open: tuple[PaperFit, ...]
    """The papers whose plans have still to be looked for."""
    left: tuple[tuple[str, str], ...]
    """The papers that stay as they are, and why."""
    hour: Decimal
    """What an hour is worth."""


def class_front(card_class: CardClass, fits: Sequence[PaperFit]) -> ClassFront:
    """What every step from paper to minutes saves, for all papers of a class together."""
    trimmer = card_class.cut_with
    # Lists of papers come without their plans.
    shown = PaperPlan.objects.in_bulk([fit.shown_id for fit in fits if fit.shown_id])
    for fit in fits:
        fit.shown = shown.get(fit.shown_id)
    left = {fit: why for fit in fits if (why := _why_left(fit))}
    free = [fit for fit in fits if fit not in left]
    looked = [fit for fit in free if fit.shown.front]
    steps = _class_steps(looked, trimmer) if looked else []
    marks = [(step.taken, step.proposed) for step in steps]
    return ClassFront(
        steps=tuple(steps),
        chart=chart_of([step.point for step in steps], marks) if len(steps) > 1 else None,
        looked=tuple(looked),
        open=tuple(fit for fit in free if not fit.shown.front),
        left=tuple((fit.name, why) for fit, why in left.items()),
        hour=trimmer.hour_worth,
    )


def _class_steps(fits: Sequence[PaperFit], trimmer: Trimmer) -> list[ClassStep]:
    rows = [[entry for entry in fit.shown.front if entry["name"] != OWN] for fit in fits]
    fronts = [[_point(entry, trimmer.pace) for entry in row] for row in rows]
    chosen = _some_of(worth_it(fronts))
    points = [together([front[at] for front, at in zip(fronts, places, strict=True)]) for places in chosen]
    best = least_total(points, trimmer.hour_worth) if trimmer.hour_worth else None
    current = [_current(fit) for fit in fits]
    steps = []
    for number, (places, point) in enumerate(zip(chosen, points, strict=True)):
        entries = [row[at] for row, at in zip(rows, places, strict=True)]
        papers = list(zip(fits, rows, entries, strict=True))
        step = ClassStep(
            point=point,
            more=point.cost - points[0].cost,
            saves=_minutes(points[0]) - _minutes(point),
            changes=tuple(
                f"{fit.name}: {_name(entry, row[0]).lower()}" for fit, row, entry in papers if entry is not row[0]
            ),
            takes=";".join(f"{fit.key} {entry['name']}" for fit, _, entry in papers),
            taken=[entry["plan"]["layouts"] for entry in entries] == current,
            proposed=number == best,
        )
        steps.append(step)
    return steps


def _why_left(fit: PaperFit) -> str:
    """Why a paper is not in the sums of the class; empty if it is."""
    if not fit.answered:
        return "it has no plan yet"
    if fit.cost is None:
        return "it has no price"
    if fit.held in (PaperFit.Held.CUTTING, PaperFit.Held.CUT):
        return "it is being cut"
    if fit.class_paper.pins:
        return "a layout of it is pinned"
    return "some of it is cut up at home" if json.loads(fit.shown.job)["papers"][0].get("pool") in AT_HOME else ""


def _current(fit: PaperFit) -> list[dict]:
    return json.loads(fit.shown.plan)["papers"][0]["layouts"]


def is_taken(fit: PaperFit, name: str) -> bool:
    """Whether the kept plan of that name is the one that is shown."""
    entry = next((entry for entry in fit.shown.front if entry["name"] == name), None) if fit.shown else None
    return entry is not None and entry["plan"]["layouts"] == _current(fit)


def _some_of(steps: list[tuple[int, ...]]) -> list[tuple[int, ...]]:
    if len(steps) <= MOST_STEPS:
        return steps
    return [steps[number * (len(steps) - 1) // (MOST_STEPS - 1)] for number in range(MOST_STEPS)]
