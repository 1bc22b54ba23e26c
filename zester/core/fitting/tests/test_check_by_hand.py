"""The checker on plans made by hand, each right at its edge and wrong by one tick or one copy."""

from dataclasses import replace
from decimal import Decimal
from unittest import TestCase

from zester.core.errors import JobError, PlanError
from zester.core.fitting.jobs.check_plan import check_paper, check_paper_pins, replay
from zester.core.fitting.jobs.job import ANY_BENCH, Bench, Margins, PaperJob, Piece, Row, Sheet
from zester.core.fitting.jobs.plan import Cut, Layout, Named, PaperPlan
from zester.core.fitting.parts import CutLimits
from zester.core.geometry import Window

SHEET = Sheet(id="sheet", width=20, height=30)


def named(part: int, piece: str, turned: bool = False, up: str = "") -> Named:
    return Named(part=part, piece=piece, turned=turned, up=up)


def layout(cuts, parts, copies: int = 1, **more) -> Layout:
    """Cuts as (part, axis, at)."""
    return Layout(
        sheet=more.pop("sheet", "sheet"),
        copies=copies,
        cuts=tuple(Cut(*cut) for cut in cuts),
        parts=tuple(parts),
        **more,
    )


def plan(*layouts: Layout, cost: int | None = None, **more) -> PaperPlan:
    """A plan that costs one for each sheet it uses."""
    used = sum(each.copies for each in layouts if each.source == "sheet")
    worth = Decimal(used if cost is None else cost)
    said = {"bound": worth, "proven": False, "short": ()} | more
    return PaperPlan(id="paper", cost=worth, layouts=layouts, **said)


def paper(*pieces: Piece, sheets=(SHEET,), **more) -> PaperJob:
    return PaperJob(id="paper", sheets=tuple(sheets), pieces=pieces, **more)


def piece(name: str, width: int, height: int, count: int = 1, **more) -> Piece:
    return Piece(id=name, width=width, height=height, count=count, **more)


class ByHandTests(TestCase):
    def right(self, job: PaperJob, made: PaperPlan, bench: Bench = ANY_BENCH):
        check_paper(job, made, bench)

    def wrong(self, words: str, job: PaperJob, made: PaperPlan, bench: Bench = ANY_BENCH):
        with self.assertRaises(PlanError) as caught:
            check_paper(job, made, bench)
        self.assertIn(words, caught.exception.what)
        return caught.exception


class CutTests(ByHandTests):
    def test_cuts_number_their_parts_and_say_where_they_lie(self):
        boxes = replay(layout([(0, "x", 8), (1, "y", 10), (2, "y", 25)], []), 20, 30)
        self.assertEqual(boxes, {3: (0, 0, 8, 10), 4: (0, 10, 8, 20), 5: (8, 0, 12, 25), 6: (8, 25, 12, 5)})

    def test_a_cut_goes_through_its_part_and_not_along_its_edge(self):
        for axis, side in (("x", 20), ("y", 30)):
            for at in (1, side - 1):
                self.assertEqual(len(replay(layout([(0, axis, at)], []), 20, 30)), 2)
            for at in (-1, 0, side, side + 1):
                with self.assertRaises(PlanError):
                    replay(layout([(0, axis, at)], []), 20, 30)

    def test_the_trimmer_s_limits_hold_to_the_tick(self):
        cut = layout([(0, "x", 5)], [])
        replay(cut, 20, 30, bench=Bench(1, CutLimits(longest=30)))
        with self.assertRaises(PlanError):
            replay(cut, 20, 30, bench=Bench(1, CutLimits(longest=29)))
        replay(cut, 20, 30, bench=Bench(1, CutLimits(hold=15)))
        with self.assertRaises(PlanError):
            replay(cut, 20, 30, bench=Bench(1, CutLimits(hold=16)))

    def test_a_mistake_says_in_which_layout_it_is(self):
        job = paper(piece("a", 5, 30, 2))
        good = layout([(0, "x", 5)], [named(1, "a")])
        bad = layout([(0, "x", 6)], [named(1, "a")])
        self.assertEqual(self.wrong("not the size", job, plan(good, bad)).where, "paper, layout 2")


class CountTests(ByHandTests):
    JOB = paper(piece("a", 5, 30, 3))
    FOUR = layout([(0, "x", 5), (2, "x", 5), (4, "x", 5)], [named(1, "a"), named(3, "a"), named(5, "a"), named(6, "a")])
    TWO = layout([(0, "x", 5), (2, "x", 5)], [named(1, "a"), named(3, "a")])

    def test_what_is_made_and_what_is_missing_are_what_is_wanted(self):
        self.right(self.JOB, plan(self.FOUR))
        self.right(self.JOB, plan(self.TWO, short=(("a", 1),)))
        self.wrong("made 2 times, 3 are wanted", self.JOB, plan(self.TWO))
        self.wrong("said to be missing", self.JOB, plan(self.TWO, short=(("a", 2),)))
        self.wrong("said to be missing", self.JOB, plan(self.FOUR, short=(("a", 1),)))
        self.right(paper(piece("a", 5, 30, 8)), plan(replace(self.FOUR, copies=2)))
        self.wrong("made 8 times, 9", paper(piece("a", 5, 30, 9)), plan(replace(self.FOUR, copies=2)))

    def test_fillers_may_be_as_few_as_there_is_room_for(self):
        self.right(paper(piece("a", 5, 30, 2), piece("f", 9, 9, 50, filler=True)), plan(self.TWO))

    def test_sheets_are_not_more_than_there_are(self):
        for count, fits in ((2, True), (1, False)):
            job = paper(piece("a", 5, 30, 6), sheets=(replace(SHEET, count=count),))
            made = plan(replace(self.FOUR, copies=2))
            if fits:
                self.right(job, made)
            else:
                self.wrong("2 sheets of “sheet” are used, there are 1", job, made)

    def test_money_bound_and_proof(self):
        dear = paper(piece("a", 5, 30, 3), sheets=(replace(SHEET, cost=Decimal(7)),))
        self.right(dear, plan(self.FOUR, cost=7, proven=True))
        self.wrong("the sheets cost 7, the plan says 8", dear, plan(self.FOUR, cost=8))
        self.wrong("bound is above", self.JOB, plan(self.FOUR, bound=Decimal(2)))
        self.wrong("without a proof", self.JOB, plan(self.FOUR, bound=Decimal("0.5"), proven=True))
        short = (("a", 1),)
        self.right(self.JOB, plan(self.TWO, short=short, bound=Decimal(2)))
        self.wrong("without a proof", self.JOB, plan(self.TWO, short=short, proven=True))

    def test_pins_are_kept_with_all_their_copies(self):
        pin = replace(self.TWO, copies=2, pinned=True)
        job = replace(paper(piece("a", 5, 30, 4)), pins=(pin,))
        self.right(job, plan(pin))
        self.right(job, plan(replace(pin, copies=1), replace(pin, copies=1)))
        for made in (
            plan(replace(self.TWO, copies=2)),
            plan(replace(pin, copies=1), self.TWO),
            plan(replace(pin, copies=3)),
        ):
            self.wrong("pinned layouts are not kept", job, made)

    def test_pins_that_can_stand_in_no_plan_are_named(self):
        pin = replace(self.TWO, copies=2, pinned=True)
        few = (replace(SHEET, count=1),)
        check_paper_pins(replace(self.JOB, pins=(replace(pin, copies=1),), sheets=few), ANY_BENCH)
        for pins, words in (((pin,), "there are 1"), ((replace(pin, source="portion"),), "portion")):
            with self.assertRaises(JobError) as caught:
                check_paper_pins(replace(self.JOB, pins=pins, sheets=few, name="Moss"), ANY_BENCH)
            self.assertIn(words, caught.exception.what)
            self.assertEqual(caught.exception.where, "Moss, pinned layout 1")


class PlaceTests(ByHandTests):
    def test_pieces_may_touch_the_margins_and_not_reach_into_them(self):
        # Two cuts to each side leave the middle: 4 from the left, 5 from the top, 3 from the right, 2 from the bottom.
        whole = layout([(0, "x", 4), (2, "x", 13), (3, "y", 5), (6, "y", 23)], [named(7, "a")])
        job = paper(piece("a", 13, 23))
        sheet = replace(SHEET, margins=Margins(4, 5, 3, 2))
        self.right(replace(job, sheets=(sheet,)), plan(whole))
        for side in ("left", "top", "right", "bottom"):
            wider = replace(sheet.margins, **{side: getattr(sheet.margins, side) + 1})
            self.wrong("into the margin", replace(job, sheets=(replace(sheet, margins=wider),)), plan(whole))

    def test_tops_lie_where_they_may(self):
        # Free: anywhere; half: up or down as the pattern lies; upright: where its top is.
        square = layout([(0, "x", 10), (1, "y", 10)], [named(3, "a")])
        may = {
            ("free", "top"): "top right bottom left",
            ("half", "top"): "top bottom",
            ("half", "right"): "right left",
            ("upright", "top"): "top",
            ("upright", "right"): "right",
            ("upright", "bottom"): "bottom",
            ("upright", "left"): "left",
        }
        for (direction, up), edges in may.items():
            wanted = piece("a", 10, 10, turn=direction == "free", upright=direction == "upright")
            job = paper(wanted, sheets=(replace(SHEET, up=up),))
            for edge in ("top", "right", "bottom", "left"):
                made = plan(replace(square, parts=(named(3, "a", edge in ("right", "left"), edge),)))
                with self.subTest(direction=direction, pattern=up, edge=edge):
                    if edge in edges.split():
                        self.right(job, made)
                    else:
                        self.wrong("may not be turned", job, made)

    def test_a_top_lies_at_an_edge_that_the_turn_can_bring_it_to(self):
        square = layout([(0, "x", 10), (1, "y", 10)], [])
        for turned, edge in ((False, "right"), (False, "left"), (True, "top"), (True, "bottom"), (False, "middle")):
            made = plan(replace(square, parts=(named(3, "a", turned, edge),)))
            self.wrong("cannot lie", paper(piece("a", 10, 10)), made)

    def test_turned_a_piece_lies_with_its_height_across(self):
        strip = layout([(0, "x", 5), (1, "y", 8)], [named(3, "a", True)])
        self.right(paper(piece("a", 8, 5)), plan(strip))
        self.wrong("not the size", paper(piece("a", 5, 8)), plan(strip))


class RowTests(ByHandTests):
    # Where the pieces of a row of “a”, 2 × 4, and “b”, 3 × 4 (or 4 × 2, 4 × 3 in a column) go with their tops there.
    WAYS = {"top": (1, 0), "right": (0, 1), "bottom": (-1, 0), "left": (0, -1)}

    def two(self, axis: str, edge: str, swapped: bool = False) -> tuple[PaperJob, PaperPlan]:
        """A row away from the edges of its sheet."""
        sizes = {"a": (2, 4), "b": (3, 4)} if axis == "x" else {"a": (4, 2), "b": (4, 3)}
        job = paper(*(piece(name, *size) for name, size in sizes.items()), matched=(Row("row", axis, ("a", "b")),))
        right, down = self.WAYS[edge]
        if axis == "y":
            # Down is what right becomes a quarter turn on.
            right, down = -down, right
        first = "ab" if (right > 0 or down > 0) != swapped else "ba"
        turned = edge in ("right", "left")
        along, across = ("x", "y") if right else ("y", "x")
        # The strip is 5 long and 4 across; 7 and 6 are cut off before it.
        one = 2 if first[0] == "a" else 3
        cuts = [(0, along, 7), (2, along, 5), (3, across, 6), (6, across, 4), (7, along, one)]
        return job, plan(layout(cuts, [named(9, first[0], turned, edge), named(10, first[1], turned, edge)]))

    def test_a_row_runs_from_left_to_right_of_its_pieces_whichever_way_they_lie(self):
        for axis in ("x", "y"):
            for edge in self.WAYS:
                with self.subTest(axis=axis, edge=edge):
                    self.right(*self.two(axis, edge))
                    self.wrong("does not lie beside", *self.two(axis, edge, swapped=True))

    def test_a_row_lies_flush_and_the_same_way_up(self):
        job, made = self.two("x", "top")
        (only,) = made.layouts
        other_way = (only.parts[0], replace(only.parts[1], up="bottom"))
        self.wrong("does not lie beside", job, plan(replace(only, parts=other_way)))
        # A gap of one between the two, and the second a tick lower.
        gap = layout([(0, "y", 4), (1, "x", 2), (4, "x", 1), (6, "x", 3)], [named(3, "a"), named(7, "b")])
        self.wrong("does not lie beside", job, plan(gap))
        lower = layout(
            [(0, "x", 2), (1, "y", 4), (2, "x", 3), (5, "y", 1), (8, "y", 4)], [named(3, "a"), named(9, "b")]
        )
        self.wrong("does not lie beside", job, plan(lower))

    def test_every_row_is_whole_and_every_piece_in_one(self):
        job = paper(piece("a", 2, 4, 2), piece("b", 3, 4, 2), matched=(Row("row", "x", ("a", "b")),))
        strip = [(0, "y", 4), (1, "x", 2), (4, "x", 3), (6, "x", 2), (8, "x", 3)]
        four = [named(3, "a"), named(5, "b"), named(7, "a"), named(9, "b")]
        self.right(job, plan(layout(strip, four)))
        for parts in (four[:3], four[1:], [*four[:2], named(9, "b")]):
            self.wrong("does not lie beside", job, plan(layout(strip, parts)))
        self.wrong("made 1 times, 2", job, plan(layout(strip, four[:2])))

    def test_a_piece_may_stand_twice_in_a_row(self):
        job = paper(piece("a", 2, 4, 2), piece("b", 3, 4, 1), matched=(Row("row", "x", ("a", "b", "a")),))
        strip = [(0, "y", 4), (1, "x", 2), (4, "x", 3), (6, "x", 2)]
        three = [named(3, "a"), named(5, "b"), named(7, "a")]
        self.right(job, plan(layout(strip, three)))
        self.wrong("does not lie beside", job, plan(layout(strip, three[:2])))


class MiddleTests(ByHandTests):
    HOST = piece("host", 10, 10, 2, window=Window(2, 2, 6, 6))
    SHAPE = piece("dot", 3, 3, 4, from_window=True)
    HOSTS = layout([(0, "y", 10), (1, "x", 10)], [named(3, "host"), named(4, "host")])
    INSIDE = layout([(0, "x", 3), (1, "y", 3), (2, "y", 3)], [named(3, "dot"), named(4, "dot"), named(5, "dot")])

    def middle(self, **more) -> Layout:
        return replace(self.INSIDE, sheet="host", source="window", **more)

    def test_shapes_come_out_of_hidden_middles_that_are_made(self):
        job = paper(self.HOST, self.SHAPE)
        self.right(job, plan(self.HOSTS, self.middle(copies=2)))
        self.wrong("3 hidden middles of “host” are used, 2 are made", job, plan(self.HOSTS, self.middle(copies=3)))
        unnamed = paper(self.HOST, replace(self.SHAPE, from_window=False))
        self.wrong("may not come out", unnamed, plan(self.HOSTS, self.middle(copies=2)))
        # What may not be turned cannot come out of a piece that may.
        stiff = paper(self.HOST, replace(self.SHAPE, turn=False))
        self.wrong("“host” may", stiff, plan(self.HOSTS, self.middle(copies=2)))
        both = paper(replace(self.HOST, turn=False), replace(self.SHAPE, turn=False))
        self.right(both, plan(self.HOSTS, self.middle(copies=2)))
        none = paper(replace(self.HOST, window=None), self.SHAPE)
        self.wrong("copies of window", none, plan(self.HOSTS, self.middle(copies=2)))

    def test_margins_of_sheets_are_none_of_a_middle(self):
        job = paper(self.HOST, self.SHAPE, sheets=(replace(SHEET, height=32, margins=Margins(0, 1, 0, 1)),))
        hosts = layout([(0, "y", 1), (2, "y", 10), (3, "x", 10)], [named(5, "host"), named(6, "host")])
        self.right(job, plan(hosts, self.middle(copies=2)))

    def test_portions_are_cut_before_they_are_cut_up(self):
        job = paper(piece("a", 5, 10, 4), pool="portions", people=2)
        portions = layout([(0, "x", 10), (1, "y", 10), (2, "y", 10)], [])
        parts = tuple(Named(part=part, piece="", turned=False, portion=True) for part in (3, 5))
        cut = replace(portions, parts=parts)
        up = layout([(0, "x", 5)], [named(1, "a"), named(2, "a")], 2, sheet="", source="portion")
        self.right(job, plan(cut, up, portion=(10, 10)))
        self.wrong("3 portions are cut up, 2 are made", job, plan(cut, replace(up, copies=3), portion=(10, 10)))
        self.wrong("portion is none", job, plan(cut, up, portion=(10, 11)))
        self.wrong("copies of portion", job, plan(up, cut))
        edge = replace(job, sheets=(replace(SHEET, margins=Margins(left=1)),))
        self.wrong("into the margin", edge, plan(cut, up, portion=(10, 10)))
        # Measured with the pattern upright: on its side a portion lies with its height across.
        flat = layout([(0, "x", 12), (1, "y", 10)], [Named(part=3, piece="", turned=False, portion=True)])
        tall = layout([(0, "y", 5)], [named(1, "a"), named(2, "a")], sheet="", source="portion")
        for up_edge, portion in (("top", (12, 10)), ("left", (10, 12)), ("right", (10, 12))):
            turned = paper(piece("a", 10, 5, 1), sheets=(replace(SHEET, up=up_edge),), pool="portions")
            one = replace(tall, parts=(named(1, "a"),)) if portion[0] == 10 else None
            uses = (flat, one) if one else (flat,)
            short = () if one else (("a", 1),)
            self.right(turned, plan(*uses, portion=portion, short=short))
            self.wrong("portion is none", turned, plan(*uses, portion=portion[::-1], short=short))
