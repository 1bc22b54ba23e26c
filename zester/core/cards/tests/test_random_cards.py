"""Cards made up at random: what must be so of every card, whatever somebody writes."""

from unittest import TestCase

from hypothesis import assume, example, given, settings
from hypothesis import strategies as st

from zester.core.cards.checks import check_card, facts_of, yields_of
from zester.core.cards.drawing import draw_card
from zester.core.cards.moving import mark_of, moved
from zester.core.cards.study import Study, study
from zester.core.cards.tests.cards import KNOWN
from zester.core.cutlist.edit import step_length, typed_size
from zester.core.cutlist.list_files import read_json, rows_of, with_sizes_written_out, write_json
from zester.core.cutlist.notation import read_list
from zester.core.errors import CutListError, LengthError
from zester.core.lengths import MILLIMETRES, SIXTEENTHS, Ruler, parse_size
from zester.core.tests.share import each_of, some

FOLDS = ("side fold", "top fold", "gate fold", "tri-fold", "no fold", "accordion")
NAMES = ("Mat", "Panel", "Strip", "Inside panel", "Door mats", "Middle mat", "Star", "Sentiment", "Belly band", "Tag")
PAPERS = ("telescope brass", "midnight dome", "star chart", "pine ridge", "chalk moon")
PLACES = ("", "left ½", "top 1", "right ¼ bottom ¼", "flush left", "fold ⅜", "on inside", "on base", "on back")
MORE = ("", "tilted 20", "tilted 90 left", "raised", "overhang ¼", "circle", "side b", "upright", "banner")
MORE = (*MORE, "circles no. 3")

sixteenths = st.integers(4, 104)
pieces = st.builds(
    lambda count, name, width, height, paper, place, more: (
        f"{count} {name} {width}/16 x {height}/16 {paper} {place} {more}".strip()
    ),
    st.integers(1, 3),
    st.sampled_from(NAMES),
    sixteenths,
    sixteenths,
    st.sampled_from(PAPERS),
    st.sampled_from(PLACES),
    st.sampled_from(MORE),
)
borders = st.builds(
    lambda name, border, paper: f"{name} {border}/16 border {paper}",
    st.sampled_from(NAMES[:6]),
    st.integers(1, 6),
    st.sampled_from(PAPERS),
)
turned = st.builds(
    lambda name, width, height, paper, more: f"{name} {width}/16 x {height}/16 {paper} {more}",
    st.sampled_from(NAMES),
    sixteenths,
    sixteenths,
    st.sampled_from(PAPERS),
    st.sampled_from(
        (
            "behind all",
            "not on the card",
            "tilted 5",
            "tilted 90",
            "on mat tilted 7 left",
            "in a column",
            "over the fold",
            "below it",
        )
    ),
)
# Millimetres on a card in inches, and the other way round.
millimetres = st.builds(
    lambda name, width, height, paper, place: f"{name} {width} mm x {height} mm {paper} {place}",
    st.sampled_from(NAMES),
    st.integers(10, 150),
    st.integers(10, 150),
    st.sampled_from(PAPERS),
    st.sampled_from(("", "left 5 mm", "top 12.5 mm", "flush right", "tilted 10 left", "on inside")),
)
metric_cards = st.builds(
    lambda width, height, fold, lines: "\n".join([f"card {width} x {height} mm {fold}", "Base star chart", *lines]),
    st.integers(90, 120),
    st.integers(100, 148),
    st.sampled_from(FOLDS),
    st.lists(st.one_of(millimetres, turned.map(lambda line: line.replace("/16 ", "/16 in "))), max_size=5),
)
POCKETS = (
    ("card top fold with a pocket", "4¼ x 12 star chart score 5, 10 down"),
    ("card side fold with a pocket", "8½ x 7½ star chart score 4¼ across 5½ down"),
    ("card side fold with a pocket at the right", "11 x 5½ star chart score 4¼, 8½"),
    ("card no fold with a pocket at the top", "4¼ x 7½ star chart score 2"),
)
pocketed = st.builds(
    lambda deep, lines: "\n".join([POCKETS[deep][0], f"Base {POCKETS[deep][1]}", *lines]),
    st.integers(0, 3),
    st.lists(pieces, max_size=4),
)
inch_cards = st.builds(
    lambda width, height, fold, base, lines: "\n".join([f"card {width}/8 x {height}/8 {fold}", base, *lines]),
    st.integers(20, 44),
    st.integers(20, 44),
    st.sampled_from(FOLDS),
    st.sampled_from(("Base star chart", "Base 8½ x 5½ midnight dome score 4¼", "Base 8 x 4 star chart score 2, 6", "")),
    st.lists(st.one_of(pieces, borders, turned, millimetres), max_size=6),
)
cards = st.one_of(inch_cards, inch_cards, metric_cards, pocketed)


def ruler_of(text: str) -> Ruler:
    """A card whose own line is in millimetres is metric."""
    return MILLIMETRES if " mm" in text.splitlines()[0] else SIXTEENTHS


def looked_at(text: str, ruler: Ruler | None = None) -> Study:
    ruler = ruler or (ruler_of(text) if text.strip() else SIXTEENTHS)
    return study(read_list(text, KNOWN, ruler), KNOWN, ruler)


class EveryCardTests(TestCase):
    @given(cards)
    @settings(max_examples=some(100))
    def test_it_is_checked_and_drawn_without_a_fault_of_ours(self, text):
        card = looked_at(text)
        check_card(card)
        facts_of(card)
        yields_of(card)
        if card.folded is None:
            return
        views = draw_card(card.pieces, card.folded, card.placed, card.unit)
        flat = [view for view in views if not view.planes and view.key != "flat"]
        shown = [(layer.number, layer.copy) for view in flat for layer in view.layers if layer.movable or layer.borders]
        placed = [(each.piece.number, each.copy) for each in card.placed]
        self.assertTrue(set(shown) <= set(placed))
        drawn = {layer.number for view in flat for layer in view.layers}
        self.assertTrue({each.piece.number for each in card.placed} <= drawn, "every piece is in one of the drawings")
        for view in each_of(views):
            for layer in view.layers:
                self.assertTrue(view.left <= layer.x and layer.x + layer.width <= view.left + view.width)
                self.assertTrue(view.top <= layer.y and layer.y + layer.height <= view.top + view.height)

    @given(cards)
    # What lies below may be written later: no line can name it.
    @example("card 4¼ x 5½\nBase brass\nMat 1 x 1 brass\nMat ¼ x ¼ brass behind all")
    @settings(max_examples=some(100))
    def test_every_mend_mends_and_can_be_read(self, text):
        card = looked_at(text)
        lines = text.split("\n")
        for finding in check_card(card):
            for mend in finding.mends:
                mended = "\n".join([*lines[: mend.line], mend.text, *lines[mend.line + 1 :]])
                after = looked_at(mended, card.ruler)
                reading = after.readings[mend.line]
                self.assertIsNone(reading.error, mend.text)
                if finding.group == "yield":
                    continue
                still = [f.what for f in check_card(after) if f.line == mend.line and f.what == finding.what]
                self.assertEqual(still, [], f"{finding.what}: {lines[mend.line]} -> {mend.text}")

    @given(cards)
    @settings(max_examples=some(50))
    def test_it_comes_back_from_a_file_as_the_same_card(self, text):
        text = text.rstrip()
        again = read_json(write_json(rows_of(text, KNOWN, ruler_of(text)), "x", "in16")).text
        before, after = looked_at(text), looked_at(again, ruler_of(text))
        self.assertEqual(before.pieces, after.pieces)
        self.assertEqual(before.folded, after.folded)
        self.assertEqual([f.what for f in check_card(before)], [f.what for f in check_card(after)])

    @given(cards)
    @settings(max_examples=some(50))
    def test_borders_written_out_cut_the_same_pieces(self, text):
        fixed = with_sizes_written_out(text, KNOWN, ruler_of(text))
        sizes = [(piece.width, piece.height) for piece in looked_at(text).pieces]
        self.assertEqual([(piece.width, piece.height) for piece in looked_at(fixed, ruler_of(text)).pieces], sizes)
        for piece in looked_at(fixed, ruler_of(text)).pieces:
            if piece.border:
                # An inch's border on millimetres may end on no mark.
                with self.assertRaises(LengthError):
                    parse_size(typed_size(piece.shown_width, piece.shown_height, ruler_of(text).unit), ruler_of(text))

    def test_a_border_whose_size_is_on_no_mark_stays_a_border(self):
        text = "Mat 10 mm x 10 mm brass\nTop 1/16 border brass\nLow 2 mm border brass"
        fixed = with_sizes_written_out(text, KNOWN, SIXTEENTHS).split("\n")
        self.assertEqual(fixed[1], "Top 1/16 border brass")

    @given(cards, st.integers(-9, 9), st.integers(-9, 9))
    @settings(max_examples=some(100))
    def test_a_piece_is_moved_as_far_as_was_asked_or_to_the_edge(self, text, across, down):
        card = looked_at(text)
        movable = [each for each in card.placed if each.piece.role != "band" and not each.piece.place.over_fold]
        assume(movable)
        one = movable[-1]
        try:
            line, new = moved(card, one.piece.number, across, down)
        except CutListError:
            return
        lines = text.split("\n")
        after = looked_at("\n".join([*lines[:line], new, *lines[line + 1 :]]))
        first = next(each for each in card.placed if each.piece.number == one.piece.number)
        there = next(each for each in after.placed if each.piece.number == one.piece.number)
        mark = mark_of(card)
        host = after.placed[there.under] if there.under is not None else there.face
        if first.piece.count > 1:
            return
        # Where it lies on what it sits on, however that is tilted.
        (x, y), (was_x, was_y) = there.local, first.local
        room_x, room_y = host.width - there.width, host.height - there.height
        if 0 <= was_x <= room_x:
            self.assertLess(abs(x - was_x), (abs(across) + 1) * mark)
        if not across:
            self.assertEqual(x, was_x)
        if room_x >= 0 and across:
            self.assertTrue(0 <= x <= room_x)
        if room_y >= 0 and down:
            self.assertTrue(0 <= y <= room_y)
        # Where there is room to go, it goes.
        if (across > 0 and was_x >= 0 and was_x + mark <= room_x) or (across < 0 and mark <= was_x <= room_x):
            self.assertNotEqual(x, was_x)
        if (down > 0 and was_y >= 0 and was_y + mark <= room_y) or (down < 0 and mark <= was_y <= room_y):
            self.assertNotEqual(y, was_y)

    @given(cards)
    @settings(max_examples=some(50))
    def test_it_is_at_least_as_thick_as_its_base_and_thicker_with_foam(self, text):
        card = looked_at(text)
        assume(card.base is not None)
        layers = card.folded.layers * card.papers[card.base.paper].caliper
        self.assertGreaterEqual(card.thickness.ticks * 1000, layers * 320)
        self.assertGreaterEqual(card.thickness.ticks, card.thickness.foam)


WORDS = ("card", "base", "mat", "border", "on", "match", "middle", "at", "window", "circle", "circles", "4", "score")
WORDS += (
    "overhang",
    "left",
    "top",
    "fold",
    "tilted",
    "raised",
    "side",
    "b",
    "only",
    "as",
    "panel",
    "in class",
    "doors",
)
WORDS += (
    "¼",
    "1/2",
    "4 x 5",
    "2",
    "0",
    "-",
    ",",
    "#",
    "+",
    "brass",
    "star chart",
    "gate fold",
    "pocket",
    "x",
    "by",
    "'",
    '"',
)


class WordSoupTests(TestCase):
    @given(st.lists(st.lists(st.sampled_from(WORDS), max_size=9).map(" ".join), max_size=6).map("\n".join))
    @settings(max_examples=some(150))
    def test_no_words_in_any_order_break_the_desk(self, text):
        card = looked_at(text, SIXTEENTHS)
        self.assertEqual([reading.text for reading in card.readings], text.splitlines())
        for reading in card.readings:
            self.assertLessEqual(sum(map(bool, (reading.piece, reading.error, reading.bit, reading.card))), 1)
        check_card(card)
        facts_of(card)
        if card.folded:
            draw_card(card.pieces, card.folded, card.placed, "in")
        rows_of(text, KNOWN, SIXTEENTHS)
        with_sizes_written_out(text, KNOWN, SIXTEENTHS)

    @given(st.lists(st.sampled_from(WORDS), max_size=9).map(" ".join), st.integers(0, 40), st.integers(-3, 3))
    @settings(max_examples=some(100))
    def test_stepping_changes_one_number_and_nothing_else(self, line, caret, steps):
        stepped, where = step_length(line, caret, steps, SIXTEENTHS)
        self.assertEqual(stepped.partition("#")[2], line.partition("#")[2])
        self.assertTrue(0 <= where <= max(len(stepped), caret))
        letters = [char for char in line if char.isalpha()]
        self.assertEqual([char for char in stepped if char.isalpha()], letters)
