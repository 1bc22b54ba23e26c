"""Counting pieces for a class."""

from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from zester.core.class_job import ShelfPaper, Wishes, class_job
from zester.core.errors import JobError, ZesterError
from zester.core.fitting.jobs.job import Bench, Margins, Row
from zester.core.geometry import Window
from zester.core.kits.demand import ClassNeeds, Counts, demands_of
from zester.core.pieces import Bit, CutPiece
from zester.core.tally import CardPieces, Demand, cards_made, cards_of, sum_in_words, tally, tally_bits


def piece(number: int, count: int, paper: str = "brass", **more) -> CutPiece:
    return CutPiece(number=number, count=count, name=f"piece {number}", width=4000, height=5000, paper=paper, **more)


def usual_demands(letter: str, *, people: int, **counts: int) -> list[Demand]:
    """The demand lines of a class in which everybody makes as many of a card."""
    return demands_of(ClassNeeds(cards=(Counts(letter=letter, **counts),), unnamed=people))


def on_shelf(key: str, side: int = 10_000, **more) -> ShelfPaper:
    return ShelfPaper(key=key, name=key.title(), width=side, height=side, **more)


class TallyTests(TestCase):
    def test_people_samples_and_spares_are_added_and_said(self):
        card = CardPieces("B", "Comet", (piece(1, 1), piece(2, 4)))
        first, second = tally([card], usual_demands("B", people=14, each=2, samples=1, spares=3))
        self.assertEqual((first.handle, first.count, first.each), ("B1", 32, 2))
        self.assertEqual((second.handle, second.count, second.each), ("B2", 128, 8))
        self.assertEqual(second.why, "14 people × 2 + 1 sample + 3 spares = 32 cards; 4 in each card: 32 × 4 = 128")

    def test_what_is_nothing_is_left_out_of_the_sum(self):
        lines = usual_demands("A", people=1, each=1)
        self.assertEqual(sum_in_words("A", lines), "1 person × 1 = 1 card")
        self.assertEqual(sum_in_words("B", lines), "nobody = 0 cards")

    def test_any_reasons_add_up_and_only_those_for_the_card_count(self):
        lines = [Demand("A", 10, "10 orders", 1, 10), Demand("B", 7, "7 orders", 2, 4), Demand("A", 2, "2 give-aways")]
        self.assertEqual((cards_of("A", lines), cards_of("B", lines)), (12, 7))
        self.assertEqual(sum_in_words("A", lines), "10 orders + 2 give-aways = 12 cards")
        cards = [CardPieces("A", "x", (piece(1, 3),)), CardPieces("B", "y", (piece(1, 1),))]
        self.assertEqual(
            [(each.handle, each.count, each.each) for each in tally(cards, lines)], [("A1", 36, 3), ("B1", 7, 2)]
        )

    @given(st.lists(st.tuples(st.sampled_from("ABC"), st.integers(0, 500)), max_size=12), st.integers(1, 9))
    def test_the_sum_of_all_counts_is_that_of_a_plain_loop(self, lines, many):
        cards = [CardPieces(letter, letter, (piece(1, many), piece(2, 1))) for letter in "ABC"]
        counts = tally(cards, [Demand(letter, count, "") for letter, count in lines])
        self.assertEqual(sum(each.count for each in counts), sum(count * (many + 1) for _, count in lines))

    def test_cards_of_paper_that_people_bring_are_not_made_here(self):
        card = CardPieces("A", "Moon", (piece(1, 1), piece(2, 1, "chalk")))
        none = {"brass": "none", "chalk": "none"}
        lines = [
            Demand("A", 6, "full", 2, 3),
            Demand("A", 4, "class only", 2, 2, none),
            Demand("B", 9, "of another", 1, 9),
        ]
        self.assertEqual((cards_of("A", lines), cards_made(card, lines)), (10, 6))
        # Who gets one of its papers has a card that is made.
        lines.append(Demand("A", 2, "card stock", 1, 2, {"chalk": "none"}))
        self.assertEqual(cards_made(card, lines), 8)
        self.assertEqual(cards_made(CardPieces("A", "bits alone", ()), lines), 12)

    def test_a_paper_in_place_of_another_is_cut_for_who_gets_nothing_else_of_it(self):
        card = CardPieces("A", "Moon", (piece(1, 1), piece(2, 1, "stars")))
        line = Demand("A", 2, "card stock", 1, 2, {"stars": "none"}, {"brass": "stars"})
        found = {each.handle: [share.pool for share in each.shares] for each in tally([card], [line]) if each.count}
        self.assertEqual(found, {"A1′": ["together"]})

    def test_a_demand_for_no_card_or_for_less_than_none_is_refused(self):
        card = CardPieces("A", "x", (piece(1, 1),))
        for wrong in (Demand("B", 1, ""), Demand("A", -1, ""), Demand("A", 1, "", -1)):
            with self.assertRaises(ZesterError):
                tally([card], [wrong])
            with self.assertRaises(ZesterError):
                tally_bits([card], [wrong])

    def test_bits_of_one_name_add_up_by_count_or_by_length(self):
        cards = [
            CardPieces("A", "x", (), (Bit("gem", 2), Bit("Thread", length=100))),
            CardPieces("B", "y", (), (Bit("Gem", 1), Bit("thread", 1))),
        ]
        lines = [Demand("A", 3, ""), Demand("B", 5, "")]
        found = [(bit.name, bit.count, bit.length, bit.why) for bit in tally_bits(cards, lines)]
        self.assertEqual(
            found,
            [
                ("gem", 11, 0, "3 cards of A + 5 cards of B"),
                ("Thread", 0, 300, "3 cards of A"),
                ("Thread", 5, 0, "5 cards of B"),
            ],
        )


class ClassJobTests(TestCase):
    def counts(self, *pieces: CutPiece, people: int = 5):
        return tally([CardPieces("A", "x", pieces)], usual_demands("A", people=people, each=1))

    def test_a_card_nobody_makes_needs_nothing_cut(self):
        counts = tally([CardPieces("A", "x", (piece(1, 1),))], usual_demands("A", people=14, each=0))
        with self.assertRaises(JobError):
            class_job("in", [on_shelf("brass")], counts, Wishes())

    def test_papers_without_pieces_are_left_out_and_so_are_those_with_fillers_alone(self):
        counts = self.counts(piece(1, 2), piece(2, 1, "moon", filler=True))
        job = class_job("in", [on_shelf("chalk"), on_shelf("brass"), on_shelf("moon")], counts, Wishes(Bench(4)))
        self.assertEqual([paper.id for paper in job.papers], ["brass"])
        self.assertEqual((job.papers[0].pieces[0].count, job.papers[0].name, job.bench.stack), (10, "Brass", 4))

    def test_what_a_line_says_comes_into_the_job(self):
        middle = Window(500, 500, 1000, 2000)
        counts = self.counts(
            piece(1, 2, turn=False, upright=True),
            piece(2, 1, middle=middle),
            piece(3, 1, from_middle=True),
            piece(4, 1, filler=True),
            piece(5, 1, turn=False),
            piece(6, 1, upright=True),
        )
        (paper,) = class_job("in", [on_shelf("brass")], counts, Wishes()).papers
        self.assertEqual([each.direction for each in paper.pieces], ["upright", "free", "free", "free", "half", "free"])
        self.assertEqual([each.each for each in paper.pieces], [2, 1, 1, 1, 1, 1])
        self.assertEqual(
            (paper.pieces[1].window, paper.pieces[2].from_window, paper.pieces[3].filler), (middle, True, True)
        )
        self.assertEqual([(p.width, p.height, p.count) for p in paper.pieces][:2], [(4000, 5000, 10), (4000, 5000, 5)])

    def test_a_sheet_has_its_price_margins_and_pack_and_one_without_a_price_counts_one(self):
        shelf = on_shelf("brass", price=Decimal("0.42"), margins=Margins(1, 2, 3, 4), pack=20)
        (sheet,) = class_job("in", [shelf], self.counts(piece(1, 1)), Wishes()).papers[0].sheets
        self.assertEqual(
            (sheet.cost, sheet.margins, sheet.pack, sheet.count), (Decimal("0.42"), Margins(1, 2, 3, 4), 20, None)
        )
        for price in (None, Decimal(0)):
            plain = on_shelf("brass", price=price)
            (sheet,) = class_job("in", [plain], self.counts(piece(1, 1)), Wishes()).papers[0].sheets
            self.assertEqual(sheet.cost, 1)

    def test_matched_pieces_make_a_row_as_often_as_one_card_has_them(self):
        pieces = (piece(1, 2, match="doors"), piece(2, 1, match="doors"), piece(3, 2, match="sky", below=True))
        own = Demand("A", 5, "5 people", 1, 5, {"brass": "own"})
        counts = tally([CardPieces("A", "x", pieces)], [own])
        (paper,) = class_job("in", [on_shelf("brass")], counts, Wishes()).papers
        self.assertEqual(paper.matched, (Row("A doors", "x", ("A1", "A1", "A2")), Row("A sky", "y", ("A3", "A3"))))
        self.assertEqual((paper.pool, paper.people), ("own", 5))
