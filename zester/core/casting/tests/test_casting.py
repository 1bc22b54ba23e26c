"""Castings: what they break, who meets whom, proposals against CP-SAT, the sets of a pad against trying all."""

from __future__ import annotations

import random
from collections import Counter
from itertools import combinations, product
from unittest import TestCase, mock

from ortools.sat.python import cp_model

from zester.core.casting.casting import (
    NOTHING,
    Casting,
    Face,
    PadSheet,
    Slot,
    Stage,
    exchanged,
    faults,
    locked,
    meetings,
    slots_of,
    swapped,
    turned_over,
    unmatched,
    with_letter,
)
from zester.core.casting.guide import read_guide
from zester.core.casting.layouts import guide_layouts, turned_left
from zester.core.casting.pads import most_sets, pad_sets
from zester.core.casting.proposals import Marks, proposals, weigh
from zester.core.cutlist.notation import read_list
from zester.core.errors import GuideError
from zester.core.fitting.jobs.check_plan import replay
from zester.core.lengths import TICKS_PER_INCH
from zester.core.piece_words import piece_words
from zester.core.pieces import Known, KnownPaper

INCH = TICKS_PER_INCH
SIX = 6 * INCH
GUIDE = read_guide(
    "A: 6 x 3 card 1; 3 x 3 cards 2, 2\nB: 6 x 3 card 1; 3 x 6 card 3\nC: 6 x 2 cards 2, 3; 2 x 2 card 3", SIX, SIX
)


def sheet(key: str, count: int | None = 2, *, a: Face | None = None, b: Face | None = None) -> PadSheet:
    return PadSheet(key=key, name=key.title(), width=SIX, height=SIX, count=count, a=a or Face(), b=b)


def slot(card: int, number: int, letter: str, width: float = 3, height: float = 3, **more) -> Slot:
    handle = f"{'ABCDEFGHIJ'[card - 1]}{number}"
    sides = {"width": int(width * INCH), "height": int(height * INCH)}
    return Slot(handle=handle, card=handle[0], number=card, letter=letter, name="Piece", **sides, **more)


SLOTS = (
    slot(1, 1, "A", 6, 3), slot(1, 2, "B", 6, 3), slot(2, 1, "A", count=2), slot(2, 2, "C", 6, 2),
    slot(3, 1, "B", 3, 6, side="b"), slot(3, 2, "C", 6, 2),
)  # fmt: skip
PAPERS = {"kites": sheet("kites"), "dots": sheet("dots", b=Face()), "ropes": sheet("ropes")}
CAST = Casting(letters={"A": "kites", "B": "dots", "C": "ropes"})


class CastingTests(TestCase):
    def words(self, casting: Casting, papers: dict | None = None, **more) -> list[str]:
        return [fault.what for fault in faults(Stage(slots=SLOTS, sheets=papers or PAPERS, **more), casting)]

    def test_slots_are_the_lettered_lines_of_the_lists(self):
        known = Known((KnownPaper(key="p1", name="Chalk", width=2 * SIX, height=2 * SIX),))
        text = "card 4 x 4 side fold\nBase chalk\nPanel 3 x 3 sheet B, either side\nStrip 1 x 3 optional D"
        pieces = [reading.piece for reading in read_list(text, known) if reading.piece]
        found = slots_of([("A", pieces), ("B", pieces[1:2])])
        self.assertEqual(
            [(s.handle, s.number, s.letter) for s in found], [("A2", 1, "B"), ("A3", 1, "D"), ("B2", 2, "B")]
        )
        self.assertEqual((found[0].either, found[1].may), (True, "nothing"))
        told = [piece_words(piece, "in", {}) for piece in pieces[1:]]
        self.assertEqual(told, ["sheet B · either side", "sheet D · optional"])

    def test_who_meets_whom_on_which_cards_with_which_sides(self):
        found = {each.letters: (each.cards, each.sides) for each in meetings(SLOTS, CAST)}
        self.assertEqual(
            found, {("A", "B"): ((1,), ("a", "a")), ("A", "C"): ((2,), ("a", "a")), ("B", "C"): ((3,), ("b", "a"))}
        )
        alone = exchanged(exchanged(CAST, "A1", "chalk"), "C2", NOTHING)
        self.assertEqual([each.letters for each in meetings(SLOTS, alone)], [("A", "C")])

    def test_a_sheet_with_one_side_shows_no_back(self):
        self.assertEqual(self.words(CAST), [])
        (words,) = self.words(with_letter(CAST, "B", "kites"))
        self.assertEqual(words, "Kites has one side only; C1 would show its back")
        self.assertEqual(self.words(turned_over(with_letter(CAST, "B", "kites"), "C1")), [])
        self.assertIn("A1, B1 would show", self.words(turned_over(CAST, "A"))[0])

    def test_sheets_on_hand_are_counted_where_a_guide_cuts_them(self):
        twice = with_letter(CAST, "C", "kites")
        self.assertEqual(self.words(twice), [])
        (words,) = self.words(twice, guide=GUIDE.guide, sets=2)
        self.assertEqual(words, "A and C: 2 sets take 4 sheets of Kites, 2 of it are there")
        self.assertEqual(self.words(twice, guide=GUIDE.guide, sets=1), [])

    def test_a_pattern_that_runs_one_way_stands_upright_in_every_piece_of_its_letter(self):
        one_way = PAPERS | {"kites": sheet("kites", a=Face(direction="upright"), b=Face())}
        mixed = read_guide("A: 4 x 2 cards 1, 1, 1; 6 x 2 card 2", SIX, SIX).guide
        slots = (slot(1, 1, "A", 4, 2, count=3), slot(2, 1, "A", 6, 2))
        stage = Stage(slots=slots, sheets=one_way, guide=mixed)
        (fault,) = faults(stage, Casting(letters={"A": "kites"}))
        self.assertEqual(fault.what, "Kites, side A, runs one way; not all pieces of A lie upright")
        self.assertEqual(faults(stage, Casting(letters={"A": "kites"}, over=frozenset("A"))), [])
        # A square sheet is turned whole: all pieces of it lie on their side together.
        turned = (slot(1, 1, "A", 3, 6), slot(2, 1, "A", 3, 6))
        guide = read_guide("A: 6 x 3 cards 1, 2", SIX, SIX).guide
        self.assertEqual(faults(Stage(slots=turned, sheets=one_way, guide=guide), Casting(letters={"A": "kites"})), [])

    def test_guide_and_cards_are_held_against_each_other(self):
        stage = Stage(slots=SLOTS, sheets=PAPERS)
        self.assertEqual(unmatched(GUIDE.guide, stage), (["C: 2 × 2 in for card 3"], []))
        more = Stage(slots=(*SLOTS, slot(1, 3, "C", 1, 1)), sheets=PAPERS)
        self.assertEqual(unmatched(GUIDE.guide, more)[1], ["A3"])

    def test_swapping_takes_the_turn_along_and_locks_hold(self):
        casting = swapped(turned_over(CAST, "B"), "A", "B")
        self.assertEqual((casting.letters["A"], casting.letters["B"], set(casting.over)), ("dots", "kites", {"A"}))
        held = locked(CAST, "A")
        for move in (
            lambda: with_letter(held, "A", "dots"),
            lambda: swapped(held, "B", "A"),
            lambda: turned_over(held, "A"),
        ):
            with self.assertRaises(GuideError):
                move()
        self.assertEqual(with_letter(locked(held, "A"), "A", "").letters, {"B": "dots", "C": "ropes"})


class ProposalTests(TestCase):
    def stage(self, chance: random.Random) -> Stage:
        """A class of three or four cards, three letters, three or four papers."""
        papers = {}
        for key in ("dots", "kites", "ropes", "waves")[: chance.randint(3, 4)]:
            faces = [
                Face(
                    busy=chance.choice((True, False, None)),
                    colours=tuple(chance.sample(("#b04040", "#4060b0", "#f0e8d8"), 1)),
                )
                for _ in "ab"
            ]
            papers[key] = sheet(key, chance.choice((1, 2, None)), a=faces[0], b=chance.choice((None, faces[1])))
        slots = [
            slot(card, number, letter, side=chance.choice("aab"))
            for card in range(1, chance.randint(4, 5))
            for number, letter in enumerate(chance.sample("ABC", chance.randint(1, 3)), 1)
        ]
        return Stage(slots=tuple(slots), sheets=papers)

    def test_the_best_ranked_is_the_best_there_is(self):
        """CP-SAT (general-purpose reference) on a hundred cases, its weights written down here once more."""
        chance = random.Random(31)
        for _ in range(100):
            stage = self.stage(chance)
            marks = Marks(never=frozenset({frozenset(("dots", "kites"))}) if chance.random() < 0.4 else frozenset())
            best = _best(stage, marks)
            found = proposals(stage, Casting(), marks)
            self.assertEqual(found[0].points if found else None, best)
            self.assertFalse([fault for each in found for fault in faults(stage, each.casting)])

    def test_searching_by_steps_finds_what_trying_all_finds(self):
        chance = random.Random(7)
        for _ in range(20):
            stage = self.stage(chance)
            every = proposals(stage, Casting())
            with_steps = self.by_steps(stage)
            self.assertEqual([each.points for each in with_steps[:1]], [each.points for each in every[:1]])

    def by_steps(self, stage: Stage):
        with mock.patch("zester.core.casting.proposals.FEW", 0):
            return proposals(stage, Casting())

    def test_they_differ_and_what_is_locked_stays(self):
        papers = {key: sheet(key, 1, b=Face()) for key in ("dots", "kites", "ropes", "waves", "stars")}
        stage = Stage(slots=SLOTS, sheets=papers)
        found = proposals(stage, locked(Casting(letters={"A": "ropes"}), "A"))
        self.assertEqual(len(found), 6)
        self.assertEqual({each.casting.letters["A"] for each in found}, {"ropes"})
        for one, other in combinations(found, 2):
            ways = [{(x, c.letters[x], x in c.over) for x in "ABC"} for c in (one.casting, other.casting)]
            self.assertGreaterEqual(len(ways[0] - ways[1]), 2)
        card = proposals(stage, locked(Casting(letters={"A": "ropes", "B": "dots"}), "card A"))
        self.assertEqual({(each.casting.letters["A"], each.casting.letters["B"]) for each in card}, {("ropes", "dots")})

    def test_her_marks_win(self):
        papers = {key: sheet(key, 1, a=Face(busy=True, colours=("#b04040",))) for key in ("dots", "kites", "ropes")}
        papers["plain"] = sheet("plain", 1, a=Face(busy=False, colours=("#b04040",)))
        stage = Stage(slots=(slot(1, 1, "A"), slot(1, 2, "B")), sheets=papers)
        self.assertIn("plain", proposals(stage, Casting())[0].casting.letters.values())
        marks = Marks(together=frozenset({frozenset(("dots", "kites"))}))
        best = proposals(stage, Casting(), marks)[0]
        self.assertEqual(set(best.casting.letters.values()), {"dots", "kites"})
        self.assertIn("together, as you marked them: once", best.why)

    def test_a_casting_with_letters_missing_is_weighed_as_far_as_it_goes(self):
        stage = Stage(slots=SLOTS, sheets=PAPERS)
        self.assertEqual(weigh(stage, Casting(letters={"A": "dots"}), Marks()).points, 1)


def _best(stage: Stage, marks: Marks) -> int | None:
    """The most points any casting has that keeps the rules; its own model and its own weights."""
    model = cp_model.CpModel()
    can = {state: model.new_bool_var(str(state)) for state in _states(stage)}
    for letter in {each.letter for each in stage.slots}:
        model.add_exactly_one([var for (name, _, _), var in can.items() if name == letter])
    points = []
    for key in stage.sheets:
        used = model.new_bool_var(key)
        model.add_max_equality(used, [var for (_, paper, _), var in can.items() if paper == key] or [0])
        points.append(used)
    for one, other in _met(stage):
        for first, second in product(can, can):
            if (first[0], second[0]) == (one.letter, other.letter):
                both = model.new_bool_var("")
                model.add_multiplication_equality(both, [can[first], can[second]])
                points.append(_pair(stage, one, other, first, second, marks) * both)
    model.maximize(sum(points))
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    return round(solver.objective_value) if solver.solve(model) == cp_model.OPTIMAL else None


def _states(stage: Stage) -> list[tuple[str, str, bool]]:
    """Letter, paper, whether it is turned over: where no back shows that is none, and never what has one side."""
    return [
        (letter, key, over)
        for letter in sorted({each.letter for each in stage.slots})
        for key, paper in stage.sheets.items()
        for over in (False, True)
        if paper.b or not (over or any(each.side == "b" for each in stage.slots if each.letter == letter))
    ]


def _met(stage: Stage) -> list[tuple[Slot, Slot]]:
    """The first pieces of every two letters on a card."""
    cards: dict[int, dict[str, Slot]] = {}
    for each in stage.slots:
        cards.setdefault(each.number, {}).setdefault(each.letter, each)
    return [pair for mine in cards.values() for pair in combinations((mine[x] for x in sorted(mine)), 2)]


def _pair(stage: Stage, one: Slot, other: Slot, first, second, marks: Marks) -> int:
    faces = []
    for each, (_, key, over) in ((one, first), (other, second)):
        faces.append(stage.sheets[key].b if (each.side == "b") != over else stage.sheets[key].a)
    worth = -40 if frozenset((first[1], second[1])) in marks.never else 0
    if first[1] == second[1]:
        return worth - 8
    busy = [face.busy for face in faces]
    worth += {(True, True): -3, (True, False): 2, (False, True): 2}.get(tuple(busy), 0)
    return worth + (2 if set(faces[0].colours) & set(faces[1].colours) else 0)


class PadTests(TestCase):
    def test_a_pad_of_twenty_four_makes_four_sets_of_six_and_sixty_cards(self):
        counts = {f"pattern {k}": 2 for k in range(12)}
        found = pad_sets(counts, 6)
        self.assertEqual((len(found.sets), found.left), (4, 0))
        # Fifteen cards from each: common practice.
        self.assertEqual(len(found.sets) * 15, 60)
        self.assertEqual({len(set(each)) for each in found.sets}, {6})

    def test_no_set_has_a_pattern_twice_and_none_more_come_out(self):
        chance = random.Random(3)
        for _ in range(200):
            counts = {f"p{k}": chance.randint(0, 4) for k in range(chance.randint(1, 5))}
            letters = chance.randint(1, 3)
            found = pad_sets(counts, letters)
            for each in found.sets:
                self.assertEqual(len(set(each)), letters)
            for key, count in counts.items():
                used = sum(each.count(key) for each in found.sets)
                self.assertEqual(used + found.over.get(key, 0), count)
            self.assertEqual(len(found.sets), _most(tuple(sorted(counts.values())), letters))

    def test_fewer_are_made_if_fewer_are_wanted(self):
        found = pad_sets({"a": 3, "b": 3, "c": 3}, 3, wanted=2)
        self.assertEqual((len(found.sets), found.left), (2, 3))
        self.assertEqual(most_sets({"a": 3}, 0), 0)
        self.assertEqual(pad_sets({"a": 3}, 2).sets, ())


def _most(counts: tuple[int, ...], letters: int, known: dict | None = None) -> int:
    """By trying every set that can come next."""
    best = 0
    for chosen in set(combinations(range(len(counts)), letters)):
        if all(counts[k] for k in chosen):
            rest = tuple(sorted(count - (k in chosen) for k, count in enumerate(counts)))
            key = rest, letters
            known = {} if known is None else known
            if key not in known:
                known[key] = _most(rest, letters, known)
            best = max(best, 1 + known[key])
    return best


class LayoutTests(TestCase):
    def test_a_sheet_turned_four_times_is_what_it_was_and_turned_once_lies_on_its_side(self):
        chance = random.Random(11)
        for _ in range(30):
            items = [
                f"{chance.randint(1, 4)} x {chance.randint(1, 4)} card {k}" for k in range(1, chance.randint(3, 6))
            ]
            guide = read_guide("A: " + "; ".join(items), SIX, SIX).guide
            if not guide.letters:
                continue
            layout = guide.letters[0].layout
            once = turned_left(layout, SIX, SIX)
            boxes, turned = replay(layout, SIX, SIX), replay(once, SIX, SIX)
            for before in layout.parts:
                after = next(part for part in once.parts if part.piece == before.piece)
                x, y, wide, high = boxes[before.part]
                self.assertEqual(turned[after.part], (y, SIX - x - wide, high, wide))
                ways = {"top": "left", "left": "bottom", "bottom": "right", "right": "top"}
                self.assertEqual(after.edge, ways[before.edge])
            again = turned_left(turned_left(turned_left(once, SIX, SIX), SIX, SIX), SIX, SIX)
            self.assertEqual(again, layout)

    def test_a_guides_sheet_is_cut_for_every_whole_set_and_a_one_way_pattern_stands(self):
        guide = read_guide("A: 6 x 3 card 1; 3 x 3 cards 2, 2", SIX, SIX).guide
        slots = (slot(1, 1, "A", 3, 6), slot(2, 1, "A", 3, 3, count=2))
        paper = sheet("kites", a=Face(direction="upright"))
        stage = Stage(slots=slots, sheets={"kites": paper}, guide=guide)
        left = Counter({"A1": 5, "B1": 9})
        casting = Casting(letters={"A": "kites"})
        (layout,) = guide_layouts(stage, casting, paper, left, {"A1": "A1", "B1": "B1"})
        self.assertEqual((layout.copies, left["A1"], left["B1"], layout.pinned), (4, 1, 1, True))
        boxes = replay(layout, SIX, SIX)
        sizes = {part.piece: (boxes[part.part][2:], part.edge) for part in layout.parts}
        self.assertEqual(sizes["A1"], ((6 * INCH, 3 * INCH), "right"))
        # Its two kinds of piece lie differently, so that no turn lets both stand: the casting says so, and is not lost.
        self.assertTrue(faults(stage, casting))
        upright = Stage(slots=(slot(1, 1, "A", 6, 3), slots[1]), sheets={"kites": paper}, guide=guide)
        (layout,) = guide_layouts(upright, casting, paper, Counter({"A1": 2, "B1": 4}), {"A1": "A1", "B1": "B1"})
        self.assertEqual({part.edge for part in layout.parts}, {"top"})
