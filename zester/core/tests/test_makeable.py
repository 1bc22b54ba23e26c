"""What can be made of what lies there: worked examples, what is proven, what a paper lacks."""

from itertools import product
from unittest import TestCase

from ortools.sat.python import cp_model

from zester.core.class_job import OffcutSize, ShelfPaper
from zester.core.fitting.jobs.job import ANY_BENCH
from zester.core.lengths import TICKS_PER_INCH as INCH
from zester.core.makeable import MOST_CARDS, Small, look_through, most_cards, most_small
from zester.core.pieces import CutPiece
from zester.core.tally import CardPieces


def lying(*sizes: tuple[float, float, int], key: str = "brass") -> ShelfPaper:
    """A letter paper of which parts of these sizes (inches) lie there, so many of each."""
    parts = tuple(
        OffcutSize(id=f"o{number}", width=int(width * INCH), height=int(height * INCH), count=count)
        for number, (width, height, count) in enumerate(sizes)
    )
    return ShelfPaper(key=key, name=key.title(), width=17 * INCH // 2, height=11 * INCH, offcuts=parts)


def card(*pieces: tuple[float, float, int], paper: str = "brass", filler: bool = False) -> CardPieces:
    """A card of pieces of one paper."""
    cut = tuple(
        CutPiece(
            number=number,
            count=count,
            name="Piece",
            width=int(width * INCH),
            height=int(height * INCH),
            paper=paper,
            filler=filler,
        )
        for number, (width, height, count) in enumerate(pieces, 1)
    )
    return CardPieces("A", "Sea", cut)


class MostCardsTest(TestCase):
    """How many of a card come out of it."""

    def test_by_hand(self):
        # A letter sheet gives two bases, or four mats of 4 × 5¼ (common practice): two sheets give two cards of a base
        # and two mats each, as one gives the bases and one the mats.
        made = most_cards(card((8.5, 5.5, 1), (4, 5.25, 2)), {"brass": lying((8.5, 11, 2))})
        self.assertEqual((made.count, made.exact), (2, True))
        (of_brass,) = made.papers
        self.assertEqual(of_brass.plan.cost, 0)
        self.assertEqual(sum(layout.copies for layout in of_brass.plan.on_sheets), 2)

    def test_every_paper_counts(self):
        both = CardPieces("A", "Sea", (*card((4, 5.25, 1)).pieces, *card((4, 6, 1), paper="chalk").pieces))
        shelf = {"brass": lying((8.5, 11, 2)), "chalk": lying((4, 6, 3), key="chalk")}
        made = most_cards(both, shelf)
        self.assertEqual((made.count, made.exact, len(made.papers)), (3, True, 2))
        # The other paper is cut for three cards, too, not for the eight it would give.
        self.assertEqual(
            {
                sum(layout.copies * len([p for p in layout.parts if p.piece]) for layout in of.plan.layouts)
                for of in made.papers
            },
            {3},
        )

    def test_what_lacks_is_named(self):
        both = CardPieces("A", "Sea", (*card((4, 5.25, 1)).pieces, *card((4, 6, 1), paper="chalk").pieces))
        made = most_cards(both, {"brass": lying((8.5, 11, 2)), "chalk": lying((3.9, 6, 9), key="chalk")})
        self.assertEqual((made.count, made.lacking), (0, ("chalk",)))
        self.assertEqual(most_cards(both, {}).lacking, ("brass", "chalk"))

    def test_fillers_are_not_needed_for_a_card(self):
        mats, filler = card((4, 5.25, 1)), card((3, 3, 1), filler=True)
        made = most_cards(CardPieces("A", "Sea", (*mats.pieces, *filler.pieces)), {"brass": lying((4, 5.25, 2))})
        self.assertEqual(made.count, 2)
        self.assertEqual(most_cards(filler, {"brass": lying((4, 5.25, 2))}).count, 0)

    def test_no_more_than_anybody_makes_is_not_called_all(self):
        made = most_cards(card((0.5, 1, 1)), {"brass": lying((8.5, 11, 5))})
        self.assertEqual((made.count, made.exact), (MOST_CARDS, False))

    def test_beside_an_integer_program(self):
        """Cards of two sizes out of three parts: where each part is filled in every way strips allow.

        Witness: CP-SAT over the fillings of each part, enumerated here on their own; parts so narrow that only one
        piece lies beside another, so that a filling is a sum of heights.
        """
        for tall, low, room in product((2, 3), (1, 1.5), ((7, 5, 4), (6.5, 6.5, 3))):
            with self.subTest(tall=tall, low=low, room=room):
                shelf = {"brass": lying(*[(2, length, 1) for length in room])}
                made = most_cards(card((2, tall, 1), (2, low, 2)), shelf)
                self.assertTrue(made.exact)
                self.assertEqual(made.count, _by_program(tall, low, room))

    def test_designs_one_after_the_other(self):
        said = []
        cards = {7: card((4, 5.25, 1)), 9: card((9, 12, 1))}
        found = dict(look_through(cards, {"brass": lying((8.5, 11, 1))}, ANY_BENCH, said.append, 5))
        self.assertEqual({key: made.count for key, made in found.items()}, {7: 4, 9: 0})
        self.assertTrue(said[0].startswith("1 of 2 designs: Sea"))
        self.assertEqual(dict(look_through(cards, {}, ANY_BENCH, said.append, -1)), {})


def _by_program(tall: float, low: float, room: tuple[float, ...]) -> int:
    model = cp_model.CpModel()
    count = model.new_int_var(0, 50, "cards")
    talls = [model.new_int_var(0, 9, "tall") for _ in room]
    lows = [model.new_int_var(0, 19, "low") for _ in room]
    for each, (t, s) in zip(room, zip(talls, lows, strict=True), strict=True):
        model.add(int(tall * 2) * t + int(low * 2) * s <= int(each * 2))
    model.add(sum(talls) >= count)
    model.add(sum(lows) >= 2 * count)
    model.maximize(count)
    solver = cp_model.CpSolver()
    solver.solve(model)
    return int(solver.objective_value)


class SmallTest(TestCase):
    """What else comes out of it."""

    def test_sixteen_tags_from_a_letter_sheet(self):
        # Common practice: 2⅛ × 2¾ comes sixteen times out of 8½ × 11 with nothing left.
        tag = Small("tags", 17 * INCH // 8, 11 * INCH // 4)
        self.assertEqual(most_small(tag, lying((8.5, 11, 2), (2, 2, 5), (2.75, 2.125, 1)).offcuts), 33)
        self.assertEqual(
            most_small(Small("words", 17 * INCH // 8, 11 * INCH // 4, turn=False), lying((2.75, 2.125, 1)).offcuts), 0
        )
