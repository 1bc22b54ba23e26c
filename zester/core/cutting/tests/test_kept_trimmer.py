"""What is said at the trimmer, against what is kept beside it: the ruler, work by hand, steps, errors, files, evenings.

What is kept was read line by line; ``python -m zester.core.cutting.tests.test_kept_trimmer`` writes it anew.
"""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from unittest import TestCase

import ezdxf

from zester.core.cards.tests.cards import KNOWN, card
from zester.core.cutting.build_up import errors_of
from zester.core.cutting.evening import (
    DRYING,
    LYING,
    TRIMMING,
    WORKING,
    Job,
    Task,
    drying_in_words,
    evening_in_words,
    in_one_go,
    in_order,
    minutes_by_person,
    minutes_in_words,
    packing,
    sittings,
)
from zester.core.cutting.habits import USUAL, Habits
from zester.core.cutting.handwork import assembly, handwork, is_trimmed, marks_data
from zester.core.cutting.learning import Taken, learnt
from zester.core.cutting.machine_file import Marks, machine_file, to_dxf, to_svg
from zester.core.cutting.mishap import Spoiled, Stand, begun, go_on
from zester.core.cutting.ruler import RulerPart, ruler_at
from zester.core.cutting.steps import Step, cutting_steps
from zester.core.cutting.table import Table
from zester.core.fitting.jobs.job import Bench, KeepRule, Margins, PaperJob, Piece, Row, Sheet
from zester.core.fitting.jobs.plan import Layout, Named, PaperPlan
from zester.core.fitting.tests.test_check_by_hand import layout, named, plan
from zester.core.lengths import TICKS_PER_INCH as INCH
from zester.core.lengths import TICKS_PER_MM as MM
from zester.core.pace import DEFAULT_PACE, Pace

DATA = Path(__file__).parent / "data"
MOST_RANDOM = 16
SIDE = "card 4¼ x 5½ side fold\nBase telescope brass\n"


def inches(ticks: int) -> str:
    """As a mixed number."""
    whole, part = divmod(Fraction(ticks, INCH), 1)
    return " ".join(text for text in (str(whole) if whole else "", str(part) if part else "") if text) or "0"


# the ruler

PLACES = (
    *((INCH * number // 64, "in") for number in (64, 32, 4 * 64, 272, 264, 262, 261, 12 * 64, 11 * 64 + 1, 2)),
    *((MM * number // 10, "mm") for number in (1050, 100, 105, 55, 2970)),
    (MM * 100, "in"),
)


def rulers() -> Iterator[str]:
    """The ruler around each place."""
    for at, unit in PLACES:
        part = ruler_at(at, unit)
        per = INCH if part.unit == "in" else MM
        ends = " to ".join(str(Fraction(end, per)) for end in (part.start, part.end))
        yield f"== {Fraction(at, per)} {part.unit}: {part.finest}, {ends}, box {part.box}, high {part.high}"
        yield f"letters {part.letter}, lines {part.line}, arrow {part.arrow}, words {part.large} at {part.over_arrow}"
        yield from _marks(part, per)


def _marks(part: RulerPart, per: int) -> Iterator[str]:
    for mark, (drawn, length, below) in list(zip(part.marks, part.drawn, strict=True))[::3]:
        words = f"“{mark.label}”" + ("" if drawn.label == mark.label else f" drawn “{drawn.label}”")
        yield f"  {Fraction(mark.at, per)}: {mark.share} {words} {length} {below}"


# work by hand

WORKED = (
    "Mat 4 x 5¼ midnight embossed clouds before class by host",
    "Seal circles no. 3 chalk dry first painted in class",
    "Disc disc punch midnight",
    "Tag 2 x 3 chalk circle 1¾",
    "Tag 2 x 3 chalk oval 1½ x 2",
    "Tag 2 x 3 chalk hole ⅛ top",
    "Tag 2 x 3 chalk window 1 x 2",
    "Tag 2 x 3 chalk notch ½ left",
    "Flap 4 x 2 brass score 1, 3",
    "Flap 4 x 4 brass score 1 across, 3 down",
    "Tag 1 x 1 chalk stamped, inked, washed, coloured, tied, heat-embossed, cut out by hand, rounded corners",
    "Tag 1 x 1 chalk raised",
    "Tag 1 x 1 chalk raised ⅛ overhang ¼",
    "Tag 1 x 1 chalk overhang ⅛ left, top",
    "Tag 1 x 1 chalk overhang ⅛ all round",
    "Frame circles 6 chalk window circles 5",
)


def by_hand() -> Iterator[str]:
    """What is done to each piece."""
    for text in WORKED:
        piece = card(SIDE + text).pieces[-1]
        yield f"== {text}{'; trimmed all the same' if is_trimmed(piece) else ''}"
        for work in (*handwork(piece, "in", KNOWN.tools), *assembly(piece, "in")):
            more = ", ".join(filter(None, [work.tool, work.when, work.by, "first" if work.first else ""]))
            yield f"  {work.what}: {work.seconds} s {more}".rstrip()
        marks = marks_data(piece)
        scores = [f"{axis} {inches(place)}" for axis, place in marks["scores"]]
        outlines = [f"{kind} {' '.join(map(inches, sides))}" for kind, *sides in marks["outlines"]]
        yield f"  marks: {', '.join([*scores, *outlines])}".rstrip(": ")


# files for a cutting machine

_SIZES = {"A1": (3, 5), "A2": (4, 3), "A3": (2, 2)}
_MARKS = {
    "A1": Marks(scores=(("x", INCH), ("y", 2 * INCH)), outlines=(("rectangle", INCH // 2, INCH, INCH, 3 * INCH),)),
    "A2": Marks(outlines=(("banner", 0, 0, 4 * INCH, 3 * INCH), ("tag", INCH, INCH, INCH, INCH))),
    "A3": Marks(outlines=(("label", 0, 0, 2 * INCH, 2 * INCH),)),
}


def machine_files() -> Iterator[str]:
    """A layout with pieces that lie all four ways, as SVG and as DXF."""
    for edge in ("top", "right", "bottom", "left"):
        turned = edge in ("right", "left")
        parts, cuts, number = [], [], 0
        for name, (wide, high) in _SIZES.items():
            side, across = (high, wide) if turned else (wide, high)
            cuts += [(number, "x", side * INCH), (2 * len(cuts) + 1, "y", across * INCH)]
            parts.append(named(2 * len(cuts) - 1, name, turned, edge))
            number = 2 * len(cuts) - 2
        made = machine_file(f"Brass & <{edge}>", layout(cuts, parts), 12 * INCH, 9 * INCH, _MARKS, "in")
        yield f"== {edge}"
        yield to_svg(made).rstrip("\n")
        import io

        for entity in ezdxf.read(io.StringIO(to_dxf(made))).modelspace():
            yield f"{entity.dxf.layer} {entity.dxftype()} {_dxf(entity)}"
    small = layout([(0, "x", 20 * MM)], [Named(part=1, piece="", turned=False, portion=True)])
    yield to_svg(machine_file("small", small, 30 * MM, 10 * MM, {}, "mm")).rstrip("\n")


def _dxf(entity) -> str:
    if entity.dxftype() == "LINE":
        return f"{_point(entity.dxf.start)} to {_point(entity.dxf.end)}"
    if entity.dxftype() == "TEXT":
        return f"{entity.dxf.text} {entity.dxf.height:g} at {_point(entity.dxf.align_point)}"
    return f"{'closed' if entity.closed else 'open'} {' '.join(_point(point) for point in entity.get_points()[:6])}"


def _point(point) -> str:
    return f"{point[0]:.3f},{point[1]:.3f}"


# steps

SHEET = Sheet(id="sheet", width=8 * INCH, height=11 * INCH)


def _piece(name: str, width: float, height: float, count: int, **more) -> Piece:
    return Piece(id=name, width=int(width * INCH), height=int(height * INCH), count=count, **more)


def _job(*pieces: Piece, **more) -> PaperJob:
    return PaperJob(id="p", sheets=(more.pop("sheet", SHEET),), pieces=pieces, **more)


def _cuts(*cuts: tuple[int, str, float]) -> list[tuple[int, str, int]]:
    return [(part, axis, int(at * INCH)) for part, axis, at in cuts]


def fixed() -> Iterator[tuple[str, PaperJob, PaperPlan, Habits]]:
    """Plans that were made by hand, each with its job."""
    quarters = layout(
        _cuts((0, "y", 5), (1, "x", 4), (2, "y", 5), (5, "x", 4)), [named(k, "A1") for k in (3, 4, 7, 8)], 7
    )
    yield "quarters", _job(_piece("A1", 4, 5, 28)), plan(quarters), USUAL
    yield "quarters, trimmed later", _job(_piece("A1", 4, 5, 28)), plan(quarters), Habits(bears=frozenset({"A1"}))
    strips = layout(
        _cuts((0, "x", 2), (2, "x", 2), (4, "x", 3), (1, "y", 4), (3, "y", 4), (5, "y", 7)),
        [named(7, "B1"), named(9, "B1"), named(11, "B2"), named(8, "B3"), named(10, "B3")],
        5,
    )
    pieces = _piece("B1", 2, 4, 10), _piece("B2", 3, 7, 5), _piece("B3", 2, 7, 10)
    yield "strips", _job(*pieces), plan(strips), USUAL
    yield "few piles", _job(*pieces), plan(strips), Habits(most_piles=3, pace=Pace(setting=60, stack=5, stroke=2))
    edged = replace(SHEET, margins=Margins(INCH // 2, INCH // 4, INCH, INCH // 8), up="left")
    inner = layout(
        _cuts((0, "x", 0.5), (2, "x", 6.5), (3, "y", 0.25), (6, "y", 5), (8, "y", 5)),
        [named(7, "C1", True, "left"), named(9, "C1", True, "left")],
        2,
    )
    yield "margins", _job(_piece("C1", 5, 6.5, 4, turn=False), sheet=edged), plan(inner), USUAL
    doors = layout(
        _cuts((0, "y", 5), (1, "x", 2), (4, "x", 2), (2, "y", 5), (7, "x", 2), (10, "x", 2)),
        [named(3, "D1"), named(5, "D2"), named(9, "D1"), named(11, "D2")],
        3,
    )
    yield (
        "matched",
        _job(_piece("D1", 2, 5, 6), _piece("D2", 2, 5, 6), matched=(Row("doors", "x", ("D1", "D2")),)),
        plan(doors),
        USUAL,
    )
    portions = replace(
        layout(_cuts((0, "y", 5.5)), [], 4),
        parts=tuple(Named(part=part, piece="", turned=False, portion=True) for part in (1, 2)),
    )
    up = Layout(sheet="", copies=8, cuts=layout(_cuts((0, "x", 4)), []).cuts, parts=(named(1, "E1"),), source="portion")
    job = _job(_piece("E1", 4, 5.5, 8), pool="portions", people=8)
    yield "portions", job, plan(portions, up, portion=(8 * INCH, 11 * INCH // 2)), USUAL


def said(step: Step) -> str:
    """A step in one line."""
    more = [word for word in ("moved", "turned", "held", "exact", "bears") if getattr(step, word)]
    results = ", ".join(
        f"{each.count} {each.kind} {each.label}".rstrip()
        + f" {inches(each.width)}x{inches(each.height)}"
        + (f" ({each.rest} remain)" if each.rest else "")
        + (f" up {each.up}" if each.up != "top" else "")
        + (f" margins {each.unusable.left, each.unusable.top, each.unusable.right, each.unusable.bottom}"
           if each.unusable != Margins() else "")
        for each in step.results
    )  # fmt: skip
    size = f"{inches(step.width)}x{inches(step.height)}"
    return (
        f"  {step.number}. {step.count} of {step.source} {step.source_label} {size}: {step.axis} {inches(step.at)}, "
        f"{step.cuts} cuts, stacks {step.stacks} {' '.join(more)} -> {results}"
    )


def all_steps() -> Iterator[str]:
    """Steps, sums, errors and the table of every plan; then something is spoiled."""
    bench = Bench(3, keep=KeepRule(INCH, 3 * INCH))
    for name, job, made, habits in (*fixed(), mixed()):
        steps = cutting_steps(job, made, bench, habits)
        yield f"== {name}: {steps.strokes} strokes, {steps.settings} settings of {steps.places}, {steps.stacks} stacks"
        yield f"piles {steps.most_piles}, {steps.seconds()} s: {steps.each_seconds(habits.pace)}"
        yield from map(said, steps.steps)
        for error in errors_of(steps.steps, INCH // 32):
            spread = [f"{inches(side.least)} to {inches(side.most)}" for side in (error.width, error.height)]
            remained = " remained" if error.remained else ""
            yield f"  off: {error.label} {' by '.join(spread)}, {error.off}{remained}"
        half = begun(job, made).after(steps.steps[: len(steps.steps) // 2])
        yield from (f"  half: {_lying(half)}", f"  end: {_lying(begun(job, made).after(steps.steps))}")
    yield from _mishaps(bench)


def mixed() -> tuple[str, PaperJob, PaperPlan, Habits]:
    """One plan with what several of the others have: four layouts that share some of their lengths."""
    layouts = (
        layout(_cuts((0, "y", 5), (1, "x", 4), (2, "y", 5), (5, "x", 4)), [named(k, "F1") for k in (3, 4, 7, 8)], 7),
        layout(
            _cuts((0, "x", 2), (2, "x", 2), (4, "x", 3), (1, "y", 4), (3, "y", 4), (5, "y", 7)),
            [named(7, "F2"), named(9, "F2"), named(11, "F3"), named(8, "F4"), named(10, "F4")],
            5,
        ),
        layout(
            _cuts((0, "y", 5), (1, "x", 2), (4, "x", 2), (2, "y", 5), (7, "x", 2), (10, "x", 2)),
            [named(3, "F5"), named(5, "F5"), named(9, "F5"), named(11, "F5")],
            3,
        ),
        layout(_cuts((0, "x", 4), (1, "y", 7), (2, "y", 7)), [named(3, "F6"), named(5, "F6")], 4),
    )
    pieces = (
        _piece("F1", 4, 5, 28),
        _piece("F2", 2, 4, 10),
        _piece("F3", 3, 7, 5),
        _piece("F4", 2, 7, 10),
        _piece("F5", 2, 5, 12),
        _piece("F6", 4, 7, 8),
    )
    return "mixed", _job(*pieces), plan(*layouts), USUAL


def rooms() -> Iterator[str]:
    """The same plans where fewer piles may wait, and with lower stacks: strokes, settings, piles, where each is."""
    for name, job, made, habits in (*fixed(), mixed()):
        for stack, room in ((3, 2), (3, 3), (3, 4), (3, 6), (1, 3), (8, 3), (8, None)):
            steps = cutting_steps(job, made, Bench(stack), replace(habits, most_piles=room))
            yield f"{name}, stacks of {stack}, {room} piles: {steps.strokes} strokes, {steps.settings} settings, " + (
                f"{steps.most_piles} piles, {steps.seconds()} s: {' '.join(inches(step.at) for step in steps.steps)}"
            )


SIDES = (1, 1.5, 2, 2.5, 3, 4, 5.5)


def at_random(seed: int) -> tuple[PaperJob, PaperPlan]:
    """Layouts of random guillotine cuts, in a few lengths that come again; no two sizes share a piece."""
    dice = random.Random(seed)
    count: Counter[tuple[float, float]] = Counter()
    layouts = []
    for _ in range(dice.randint(1, 3)):
        made: list[tuple[int, str, float]] = []
        copies, leaves = dice.choice((1, 2, 3, 4, 7, 9, 20)), []

        def halve(part: int, width: float, height: float, depth: int, made=made, leaves=leaves) -> None:
            axis = dice.choice("xy") if depth else "y"
            side = width if axis == "x" else height
            at = dice.choice(SIDES)
            if depth == 4 or at >= side or (depth > 2 and dice.random() < 0.25):
                leaves.append((part, width, height))
                return
            made.append((part, axis, at))
            first = 2 * len(made) - 1
            sizes = [(at, height), (width - at, height)] if axis == "x" else [(width, at), (width, height - at)]
            for child, size in enumerate(sizes):
                halve(first + child, *size, depth + 1)

        halve(0, 8, 11, 0)
        parts = [(part, (w, h)) for part, w, h in leaves if dice.random() < 0.85]
        count.update({size: copies * sum(1 for _, each in parts if each == size) for _, size in parts})
        layouts.append(layout(_cuts(*made), [named(part, f"{w:g}x{h:g}") for part, (w, h) in parts], copies))
    pieces = (_piece(f"{w:g}x{h:g}", w, h, n, turn=dice.random() < 0.9) for (w, h), n in count.items())
    return _job(*pieces), plan(*layouts)


def random_orders() -> Iterator[str]:
    """What is done with layouts made at random, one after the other: the order, stacks, and what stays in the hand."""
    for seed in range(MOST_RANDOM):
        job, made = at_random(seed)
        for stack, room in ((3, None), (2 + seed % 4, 3 + seed % 3)):
            steps = cutting_steps(job, made, Bench(stack), Habits(most_piles=room), thorough=False)
            yield f"== {seed}, stacks of {stack}, {room} piles: {steps.strokes} strokes, {steps.stacks} stacks"
            yield f"{steps.settings} settings of {steps.places}, {steps.most_piles} piles, {steps.seconds()} s"
            yield from map(in_short, steps.steps)


def in_short(step: Step) -> str:
    """A step in a short line: how many of what are cut where, and what they give."""
    hand = "on with " if step.held else ""
    results = ", ".join(f"{each.count} {each.label or each.kind}" for each in step.results)
    return f"  {hand}{step.count} of {step.source_label} by {step.stacks}: {step.axis} {inches(step.at)} -> {results}"


def _lying(table: Table) -> str:
    there = (
        f"{each.count} {each.kind} {each.label} {inches(each.width)}x{inches(each.height)}" for each in table.lying
    )
    return f"{', '.join(there)}; opened {table.opened}, torn {table.torn}"


def _mishaps(bench: Bench) -> Iterator[str]:
    name, job, made, habits = next(iter(fixed()))
    steps = cutting_steps(job, made, bench, habits).steps
    for done, spoiled in (
        (1, Spoiled("pile", "1", 2)),
        (2, Spoiled("sheet", "sheet", 1)),
        (len(steps), Spoiled("piece", "A1", 3)),
    ):
        stand = Stand(job=job, plan=made, steps=steps, done=done, before=begun(job, made))
        mended = go_on(stand, [spoiled], bench, habits)
        yield f"== {name}, {done} steps done, {spoiled.count} {spoiled.kind} {spoiled.label} spoiled"
        yield f"{mended.sheets} sheets, {mended.more} more, short {mended.short}, {mended.places} places"
        yield f"  there: {_lying(mended.table)}"
        yield from map(said, mended.steps)


# an evening


def evenings() -> Iterator[str]:
    """Tasks in order, sittings, words; a pace that is learnt."""
    tasks = [
        *packing(14, 7, 1200),
        Task(phase=WORKING, what="stamp", seconds=61),
        Task(phase=TRIMMING, what="brass", seconds=3540, key="b"),
        Task(phase=DRYING, what="paint", seconds=60, by="host", tool="heat"),
        Task(phase=TRIMMING, what="stars", seconds=1201, key="s", done=True),
        Task(phase=TRIMMING, what="moss", seconds=7200),
    ]
    for task in in_order(tasks):
        yield f"{task.phase}: {task.what}, {task.seconds} s = {task.minutes} min{', done' if task.done else ''}"
    for minutes in (30, 60, 61, 120, 400):
        groups = [f"{[task.what for task in each.tasks]} {each.minutes}" for each in sittings(in_order(tasks), minutes)]
        yield f"sittings of {minutes}: {'; '.join(groups)}"
    jobs = [
        Job(phase=WORKING, what="die-cut: circle 2", pile="A2 Moon", count=14, seconds=25, tool="rollers"),
        Job(phase=WORKING, what="stamp", pile="A3 Tag", count=14, seconds=20, by="Finn"),
        Job(phase=WORKING, what="die-cut: circle 1", pile="A4 Dot", count=28, seconds=25, tool="rollers"),
        Job(phase=WORKING, what="die-cut: circle 2", pile="B1 Sun", count=7, seconds=25, tool="rollers"),
        Job(phase=WORKING, what="die-cut: circle 2", pile="A2 Moon", count=1, seconds=25, tool="rollers"),
        Job(phase=DRYING, what="paint", pile="C1 Sky", count=14, seconds=90, dries=30),
        Job(phase=LYING, what="stamp", pile="C2 Words", count=14, seconds=20, dries=10),
    ]
    alike = in_order(in_one_go(jobs))
    for task in alike:
        yield f"{task.phase}: {task.what}, {task.minutes} min{f', {task.by}' if task.by else ''}"
    yield f"first: {drying_in_words(alike, DRYING)}; last: {drying_in_words(alike, LYING)}"
    yield f"alone: {drying_in_words([alike[0]], DRYING)}; none: {drying_in_words(alike, WORKING)!r}"
    yield f"a little: {drying_in_words([alike[0], alike[1]], DRYING)}"
    yield f"by person: {minutes_by_person(alike)}"
    yield f"{evening_in_words(tasks)} | {evening_in_words(tasks[:2])} | {evening_in_words([])}"
    yield ", ".join(minutes_in_words(minutes) for minutes in (0, 1, 59, 60, 61, 119, 120, 605))
    yield ", ".join(task.what for task in (*packing(1, 1, 1), *packing(0, 0, 0), *packing(0, 2, 0)))
    for count, seconds in ((14, 30.0), (15, 30.0), (40, 30.0), (40, 5000.0), (40, 0.0), (200, 61.0), (200, 97.0)):
        taken = [Taken(1, 1 + k % 2, 1 + k % 3, seconds + k % 5) for k in range(count)]
        yield f"{count} steps of {seconds} s: {learnt(taken, DEFAULT_PACE)}"


KEPT: dict[str, Callable[[], Iterator[str]]] = {
    "rulers.txt": rulers,
    "by_hand.txt": by_hand,
    "machine_files.txt": machine_files,
    "steps.txt": all_steps,
    "rooms.txt": rooms,
    "random_orders.txt": random_orders,
    "evenings.txt": evenings,
}


class KeptTests(TestCase):
    maxDiff = None

    def test_everything_is_said_as_kept(self):
        for name, told in KEPT.items():
            with self.subTest(name):
                self.assertEqual("\n".join(told()) + "\n", (DATA / name).read_text(encoding="utf-8"))


if __name__ == "__main__":
    for file, lines in KEPT.items():
        (DATA / file).write_text("\n".join(lines()) + "\n", encoding="utf-8")
