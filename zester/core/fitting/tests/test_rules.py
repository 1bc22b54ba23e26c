"""The rules of a job, one by one, on the example jobs of the documents; and properties that hold for all of them."""

import json
import random
from collections import Counter
from dataclasses import replace
from decimal import Decimal
from pathlib import Path
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from zester.core.errors import JobError, PlanError
from zester.core.fitting.engine import fit
from zester.core.fitting.jobs.check_plan import check_paper, check_plan, replay
from zester.core.fitting.jobs.drawing import lay_parts
from zester.core.fitting.jobs.job import Bench, Job, KeepRule, Margins, PaperJob, Piece, Row, Sheet
from zester.core.fitting.jobs.job_file import read_job, write_job
from zester.core.fitting.jobs.plan import Cut, Layout, Named, PaperPlan, read_plan, write_plan
from zester.core.fitting.parts import ANY_CUT, CutLimits, Part, rotate
from zester.core.geometry import Window
from zester.core.lengths import TICKS_PER_INCH
from zester.core.tests.share import each_of, some

EXAMPLES = Path(__file__).parents[4] / "docs" / "examples"
INCH = TICKS_PER_INCH


def example(name: str) -> Job:
    return read_job((EXAMPLES / f"{name}.json").read_bytes())


def fitted(job: Job) -> PaperPlan:
    """The checked plan of a job's only paper, written and read back."""
    plan = read_plan(write_plan(fit(job)))
    check_plan(job, plan)
    return plan.papers[0]


def placed(job: Job, plan: PaperPlan):
    """Every named part of the sheets as it lies: (sheet, layout, part)."""
    sheets = {sheet.id: sheet for sheet in job.papers[0].sheets}
    for layout in plan.on_sheets:
        sheet = sheets[layout.sheet]
        for part in lay_parts(layout, sheet.width, sheet.height):
            if part.piece:
                yield sheet, layout, part


def cut_sizes(job: Job, plan: PaperPlan):
    """Of every cut of a plan: its length, and the wider of the two sides it leaves."""
    sheets = {sheet.id: sheet for sheet in job.papers[0].sheets}
    for layout in plan.on_sheets:
        for number, cut in enumerate(layout.cuts):
            before = replace(layout, cuts=layout.cuts[:number], parts=())
            _, _, width, height = replay(before, sheets[layout.sheet].width, sheets[layout.sheet].height)[cut.part]
            side, across = (width, height) if cut.axis == "x" else (height, width)
            yield across, max(cut.at, side - cut.at)


class ExampleTests(TestCase):
    def test_every_example_is_read_written_and_fitted_whole(self):
        for path in each_of(sorted(EXAMPLES.glob("*.json"))):
            with self.subTest(path.stem):
                job = read_job(path.read_bytes())
                self.assertEqual(read_job(write_job(job)), job)
                plan = fitted(job)
                self.assertTrue(plan.proven)

    def test_margins_stay_empty(self):
        job = example("margins")
        plan = fitted(job)
        self.assertEqual(plan.sheets, 2)
        for _, _, part in each_of(placed(job, plan)):
            self.assertGreaterEqual(part.x, INCH // 4)
            self.assertLessEqual(part.y + part.height, 11 * INCH - INCH // 2)

    def test_a_trimmer_cuts_no_longer_and_holds_no_narrower_than_it_can(self):
        job = example("trimmer")
        for across, held in each_of(cut_sizes(job, fitted(job))):
            self.assertLessEqual(across, job.bench.limits.longest)
            self.assertGreaterEqual(held, job.bench.limits.hold)

    def test_a_sheet_longer_than_the_cut_gets_its_short_cuts_first(self):
        # 12 × 24 in under a 12¼ in blade: the first cut has to go across the 12 in side (plain geometry).
        layout = fitted(example("trimmer")).on_sheets[0]
        self.assertEqual(layout.cuts[0].axis, "y")

    def test_a_strip_is_not_cut_from_one_too_narrow_to_hold(self):
        # Seventeen ½ in strips fill 8½ in, but the last two would be cut from 1 in with nothing ¾ in wide to hold.
        sheet, strip = (
            Sheet(id="letter", width=17 * INCH // 2, height=11 * INCH),
            Piece(id="s", width=INCH // 2, height=11 * INCH, count=17, turn=False),
        )
        any_trimmer = Job("in", (PaperJob(id="p", sheets=(sheet,), pieces=(strip,)),))
        self.assertEqual(fitted(any_trimmer).sheets, 1)
        self.assertEqual(fitted(replace(any_trimmer, bench=Bench(limits=CutLimits(None, 3 * INCH // 4)))).sheets, 2)

    def test_which_side_is_up_travels_with_the_piece(self):
        job = example("directions")
        plan = fitted(job)
        edges = {(sheet.id, part.piece): part.up for sheet, _, part in placed(job, plan)}
        for (sheet, piece), edge in each_of(edges.items()):
            up = {"whole": "top", "offcut": "left"}[sheet]
            opposite = {"top": "bottom", "left": "right"}[up]
            allowed = {"A1": {up}, "A2": {up, opposite}, "A3": {"top", "right", "bottom", "left"}}[piece]
            self.assertIn(edge, allowed)
        # The offcut, 12 × 5 with its top at the left, holds the 4 × 5 upright only lying: 5 × 4 of it.
        self.assertTrue(any(sheet == "offcut" for sheet, _ in edges))

    def test_matched_pieces_lie_side_by_side_in_order(self):
        job = example("matched")
        plan = fitted(job)
        self.assertEqual(plan.sheets, 7)
        rows = 0
        for layout in each_of(plan.on_sheets):
            parts = {(p.x, p.y): p for p in lay_parts(layout, 12 * INCH, 12 * INCH)}
            for part in parts.values():
                if part.piece == "C4":
                    step = (part.width, 0) if part.up == "top" else (0, part.height)
                    following, at = [], part
                    for _ in range(3):
                        at = parts[at.x + (step[0] and at.width), at.y + (step[1] and at.height)]
                        following.append(at.piece)
                    self.assertEqual(following, ["C5", "C6", "C7"])
                    rows += layout.copies
        self.assertEqual(rows, 14)

    def test_shapes_come_out_of_hidden_middles_where_that_saves_sheets(self):
        job = example("hidden-middles")
        plan = fitted(job)
        windows = [layout for layout in plan.layouts if layout.source == "window"]
        self.assertEqual((plan.sheets, sum(w.copies * len(w.parts) for w in windows)), (2, 16))
        without = replace(job.papers[0], pieces=tuple(replace(p, window=None) for p in job.papers[0].pieces))
        self.assertGreater(fitted(replace(job, papers=(without,))).sheets, plan.sheets)

    def test_ones_own_sheets_are_the_same_for_everybody(self):
        job = example("own-sheets")
        plan = fitted(job)
        own = [layout for layout in plan.on_sheets if layout.copies == 14]
        self.assertEqual(len(own), 1)
        self.assertEqual(Counter(n.piece for n in own[0].parts), {"A1": 2, "A2": 1})
        # 28 + 1 samples: fourteen sheets and one for the teacher.
        self.assertEqual(plan.sheets, 15)

    def test_a_portion_serves_one_person(self):
        # Common practice (no source): a 12 × 12 in sheet gives six 4 × 6 portions; with ½ in taken off the end each
        # gives two 1 × 5½ and four ½ × 5½. Fourteen people need three sheets.
        plan = fitted(example("portions"))
        home = [layout for layout in plan.layouts if layout.source == "portion"]
        self.assertEqual(sorted(plan.portion), [4 * INCH, 6 * INCH])
        self.assertEqual((plan.sheets, home[0].copies, len(home)), (3, 14, 1))
        self.assertEqual(Counter(n.piece for n in home[0].parts), {"A1": 2, "A2": 4})

    def test_fillers_come_free_or_not_at_all(self):
        job = example("fillers")
        plan = fitted(job)
        plain = replace(job.papers[0], pieces=tuple(p for p in job.papers[0].pieces if not p.filler))
        self.assertEqual(plan.cost, fitted(replace(job, papers=(plain,))).cost)
        made = sum(lay.copies for lay in plan.layouts for n in lay.parts if n.piece == "T1")
        self.assertTrue(0 < made <= 12)
        self.assertEqual(plan.short, ())

    def test_fillers_leave_alone_what_is_worth_keeping(self):
        job = replace(example("fillers"), bench=Bench(keep=KeepRule(INCH // 4, INCH)))
        self.assertFalse(any(n.piece == "T1" for lay in fitted(job).layouts for n in lay.parts))

    def test_pins_stay_and_the_rest_is_fitted_around_them(self):
        job = example("pins")
        plan = fitted(job)
        self.assertEqual([lay for lay in plan.layouts if lay.pinned], list(job.papers[0].pins))
        with self.assertRaises(PlanError):
            check_paper(job.papers[0], replace(plan, layouts=tuple(lay for lay in plan.layouts if not lay.pinned)))

    def test_a_pin_that_no_longer_goes_with_the_job_is_named(self):
        job = example("pins")
        smaller = replace(job.papers[0], sheets=(Sheet(id="letter", width=8 * INCH, height=11 * INCH),))
        with self.assertRaises(JobError) as caught:
            fit(replace(job, papers=(smaller,)))
        self.assertIn("pinned layout 1", str(caught.exception))


class JobErrorTests(TestCase):
    def check_error(self, field: str, words: str, **changes) -> None:
        piece = {"id": "A1", "paper": "p", "width": "4", "height": "5", "count": 2}
        sheet = {"id": "s", "width": "8 1/2", "height": "11"}
        paper = {"id": "p", "sheets": [sheet | changes.pop("sheet", {})], **changes.pop("paper", {})}
        pieces = [piece | changes.pop("piece", {}), *changes.pop("more", [])]
        data = {"zester": "fit-job/1", "unit": "in", "papers": [paper], "pieces": pieces, **changes}
        with self.subTest(field), self.assertRaises(JobError) as caught:
            read_job(json.dumps(data))
        self.assertIn(words, str(caught.exception))
        self.assertIn(field, str(caught.exception))

    def test_rules_that_cannot_be_kept_are_named(self):
        other = {"id": "A2", "paper": "p", "width": "2", "height": "4", "count": 2}
        window = {"x": "1", "y": "1", "width": "3 1/2", "height": "1"}
        self.check_error("margins", "leave nothing", sheet={"margins": {"left": "4", "right": "4 1/2"}})
        self.check_error("sheets[0].up", "left", sheet={"up": "north"})
        self.check_error("sheets[0]", "does not reach across", trimmer={"longest": "8"})
        self.check_error("sheets[0]", "held", trimmer={"narrowest": "5"})
        self.check_error("direction", "upright", piece={"direction": "sideways"})
        self.check_error("pieces[0]", "same thing", piece={"direction": "half", "turn": False})
        self.check_error("window", "reaches beyond", piece={"window": window})
        self.check_error("pool", "how many", paper={"pool": "own"}, people=2)
        self.check_error("pool", "need more than", paper={"pool": "own"}, people=2, piece={"each": 2})
        self.check_error("matched[0].pieces", "same height", paper=_matched(), more=[other])
        self.check_error(
            "matched[0].pieces", "different numbers", paper=_matched(), more=[other | {"height": "5", "count": 3}]
        )
        self.check_error("matched[0].pieces", "no piece", paper=_matched())
        self.check_error(
            "pins[0]",
            "not a known field",
            paper={"pins": [{"sheet": "s", "copies": 1, "cuts": [], "parts": [], "x": 1}]},
        )
        self.check_error(
            "pins[0]", "not a layout", paper={"pins": [{"sheet": "s", "copies": 1, "cuts": [{}], "parts": []}]}
        )
        self.check_error("pieces", "nothing to cut", piece={"filler": True})
        long = {"width": "1", "height": "10"}
        self.check_error("sheets", "too long for the trimmer", piece=long, trimmer={"longest": "8 1/2"})


def _matched() -> dict:
    return {"matched": [{"id": "row", "pieces": ["A1", "A2"]}]}


class CheckerTests(TestCase):
    """The checker refuses plans that break a rule, whatever made them."""

    def refuse(self, job: PaperJob, layout: Layout, words: str, limits: CutLimits = ANY_CUT) -> None:
        plan = PaperPlan(
            id=job.id, cost=Decimal(layout.copies), bound=Decimal(0), proven=False, short=(), layouts=(layout,)
        )
        whole = Job("in", (job,), Bench(limits=limits))
        with self.assertRaises(PlanError) as caught:
            check_paper(job, plan, whole.bench)
        self.assertIn(words, str(caught.exception))

    def test_what_breaks_a_rule_is_refused(self):
        piece = Piece(id="a", width=4, height=10, count=1)
        layout = Layout(sheet="s", copies=1, cuts=_cuts((0, "x", 4)), parts=(Named(part=1, piece="a", turned=False),))

        def paper(piece: Piece = piece, sheet: Sheet | None = None, **rules) -> PaperJob:
            return PaperJob(id="p", sheets=(sheet or Sheet(id="s", width=10, height=10),), pieces=(piece,), **rules)

        self.refuse(paper(sheet=Sheet(id="s", width=10, height=10, margins=Margins(left=1))), layout, "margin")
        self.refuse(paper(), layout, "longer than the trimmer", CutLimits(9))
        self.refuse(paper(), layout, "held", CutLimits(None, 7))
        self.refuse(
            paper(replace(piece, turn=False), Sheet(id="s", width=10, height=10, up="left")),
            layout,
            "may not be turned",
        )
        self.refuse(
            paper(replace(piece, turn=False, upright=True), Sheet(id="s", width=10, height=10, up="bottom")),
            layout,
            "turned",
        )
        upside_down = replace(layout, parts=(Named(part=1, piece="a", turned=False, up="left"),))
        self.refuse(paper(), upside_down, "cannot lie at its left")
        self.refuse(paper(), replace(layout, source="portion"), "portion")
        self.refuse(paper(), replace(layout, source="window", sheet="a"), "window")
        self.refuse(paper(pins=(replace(layout, pinned=True),)), layout, "pinned")

    def test_matched_pieces_apart_or_out_of_order_are_refused(self):
        pieces = Piece(id="a", width=4, height=10, count=1), Piece(id="b", width=3, height=10, count=1)
        job = PaperJob(
            id="p", sheets=(Sheet(id="s", width=10, height=10),), pieces=pieces, matched=(Row("r", "x", ("a", "b")),)
        )
        apart = Layout(
            sheet="s",
            copies=1,
            cuts=_cuts((0, "x", 4), (2, "x", 3)),
            parts=(Named(part=1, piece="a", turned=False), Named(part=4, piece="b", turned=False)),
        )
        swapped = Layout(
            sheet="s",
            copies=1,
            cuts=_cuts((0, "x", 3), (2, "x", 4)),
            parts=(Named(part=1, piece="b", turned=False), Named(part=3, piece="a", turned=False)),
        )
        together = Layout(
            sheet="s",
            copies=1,
            cuts=_cuts((0, "x", 4), (2, "x", 3)),
            parts=(Named(part=1, piece="a", turned=False), Named(part=3, piece="b", turned=False)),
        )
        self.refuse(job, apart, "beside")
        self.refuse(job, swapped, "beside")
        check_paper(
            job, PaperPlan(id="p", cost=Decimal(1), bound=Decimal(0), proven=False, short=(), layouts=(together,))
        )

    def test_more_hidden_middles_than_there_are_hosts_are_refused(self):
        host = Piece(id="a", width=10, height=10, count=1, window=Window(2, 2, 4, 4))
        job = PaperJob(
            id="p",
            sheets=(Sheet(id="s", width=10, height=10),),
            pieces=(host, Piece(id="b", width=4, height=4, count=2, from_window=True)),
        )
        sheet = Layout(sheet="s", copies=1, cuts=(), parts=(Named(part=0, piece="a", turned=False),))
        window = Layout(sheet="a", copies=2, cuts=(), parts=(Named(part=0, piece="b", turned=False),), source="window")
        with self.assertRaises(PlanError) as caught:
            check_paper(
                job,
                PaperPlan(id="p", cost=Decimal(1), bound=Decimal(0), proven=False, short=(), layouts=(sheet, window)),
            )
        self.assertIn("hidden middles", str(caught.exception))


def _cuts(*cuts):
    return tuple(Cut(*cut) for cut in cuts)


def random_rules_job(seed: int) -> Job:
    """One paper with a mixture of rules, some of them at odds with each other."""
    dice = random.Random(seed)
    unit = INCH // 4
    sheet = Sheet(
        id="s",
        width=dice.randint(24, 48) * unit,
        height=dice.randint(24, 48) * unit,
        count=None,
        cost=Decimal(1),
        margins=Margins(*(dice.choice((0, 0, 1, 2)) * unit for _ in range(4))),
        up=dice.choice(("top", "right", "bottom", "left")),
    )
    people = dice.randint(1, 5)
    pieces = [_random_piece(dice, f"P{k}", unit, people) for k in range(dice.randint(1, 6))]
    matched = ()
    if dice.random() < 0.5:
        high = dice.randint(4, 16) * unit
        members = tuple(
            Piece(
                id=f"M{k}",
                width=dice.randint(2, 6) * unit,
                height=high,
                count=2 * people,
                turn=dice.random() < 0.5,
                each=2,
            )
            for k in range(3)
        )
        members = tuple(replace(piece, turn=members[0].turn) for piece in members)
        pieces += members
        matched = (Row("row", "x", tuple(piece.id for piece in members)),)
    longest = dice.choice((None, min(sheet.width, sheet.height), max(sheet.width, sheet.height)))
    pool = dice.choice(("together", "together", "own", "portions"))
    paper = PaperJob(id="p", sheets=(sheet,), pieces=tuple(pieces), matched=matched, pool=pool, people=people)
    keep = dice.choice((None, KeepRule(unit, 3 * unit)))
    limits = CutLimits(longest, dice.choice((0, 0, unit, 3 * unit)))
    return Job("in", (paper,), Bench(dice.randint(1, 4), limits, keep))


def _random_piece(dice: random.Random, name: str, unit: int, people: int) -> Piece:
    width, height, each = dice.randint(2, 22) * unit, dice.randint(2, 22) * unit, dice.randint(1, 3)
    kind = dice.choice(("plain", "plain", "filler", "host", "shape"))
    window = (
        Window(unit, unit, width - 2 * unit, height - 2 * unit)
        if kind == "host" and min(width, height) > 3 * unit
        else None
    )
    turn = dice.random() < 0.6
    return Piece(
        id=name,
        width=width,
        height=height,
        count=each * people + dice.randint(0, 2),
        turn=turn,
        upright=not turn and dice.random() < 0.5,
        each=each,
        window=window,
        from_window=kind == "shape",
        filler=kind == "filler",
    )


class PropertyTests(TestCase):
    @settings(max_examples=some(40))
    @given(st.integers(0, 100_000))
    def test_any_job_gives_a_checked_plan_or_a_clear_error(self, seed):
        wanted = random_rules_job(seed)
        try:
            job = read_job(write_job(wanted))
        except JobError as error:
            self.assertTrue(error.where)
            return
        self.assertEqual(job, wanted)
        plan = fit(job, seconds=1)
        check_plan(job, read_plan(write_plan(plan)))
        self.assertFalse(plan.short)

    @settings(max_examples=some(15))
    @given(st.integers(0, 100_000))
    def test_a_rule_more_never_costs_less(self, seed):
        paper = random_rules_job(seed).papers[0]
        plain = replace(paper, sheets=(replace(paper.sheets[0], margins=Margins()),), matched=(), pool="together")
        strict = replace(plain, sheets=paper.sheets, matched=paper.matched)
        try:
            jobs = [read_job(write_job(Job("in", (each,), Bench(3)))) for each in (plain, strict)]
        except JobError:
            return
        first, second = (fit(job, seconds=1).papers[0] for job in jobs)
        self.assertLessEqual(first.bound, second.cost)

    @given(st.integers(0, 3), st.integers(1, 9), st.integers(1, 9))
    def test_four_quarter_turns_leave_a_tree_as_it_was(self, turns, wide, high):
        tree = Part(
            width=10,
            height=10,
            axis="x",
            at=wide,
            first=Part(
                width=wide,
                height=10,
                axis="y",
                at=high,
                first=Part(width=wide, height=high, size=0),
                second=Part(width=wide, height=10 - high),
            ),
            second=Part(width=10 - wide, height=10),
        )
        self.assertEqual(rotate(rotate(tree, turns), 4 - turns), tree)
