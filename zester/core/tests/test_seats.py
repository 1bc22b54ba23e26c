"""What a piece sits on if its line says nothing, or something: the rules of docs/cut-list.md one by one."""

from unittest import TestCase

from zester.core.cards.tests.cards import INCH, card

SIDE = "card 4¼ x 5½ side fold\nBase telescope brass\n"
GATE = "card 4¼ x 5½ gate fold\nBase telescope brass\n"
TOP = "card 4 x 4 top fold with a pocket\nBase 4 x 10½ brass score 4, 8\n"


class SeatTests(TestCase):
    def check(self, above: str, cases: dict[str, tuple[str, str]]):
        """The last piece of each list: on which face it lies, and on which piece (empty: on the face itself)."""
        for text, (face, under) in cases.items():
            with self.subTest(text=text):
                study = card(above + text)
                last = study.placed[-1]
                name = study.placed[last.under].piece.name if last.under is not None else ""
                self.assertEqual((last.face.key, name), (face, under))

    def test_names_tell_the_face(self):
        self.check(
            SIDE,
            {
                "Mat 4 x 5 chalk": ("front", ""),
                "Back mat 4 x 5 chalk": ("back", ""),
                "Mat for the back 4 x 5 chalk": ("back", ""),
                "Backing 4 x 5 chalk": ("front", ""),
                "Lay back low 4 x 5 chalk": ("front", ""),
                "Inside mat 4 x 5 chalk": ("inside right", ""),
                "Liner 4 x 5 chalk": ("inside right", ""),
                "Mat 4 x 5 chalk on inside left": ("inside left", ""),
                "Door mat 4 x 5 chalk": ("front", ""),
                "Middle mat 4 x 5 chalk": ("front", ""),
                "Pocket mat 4 x 5 chalk": ("front", ""),
                "Belly band 9½ x 1 chalk": ("around", ""),
            },
        )
        self.check(
            GATE,
            {
                "2 Door mats 2 x 5 chalk": ("right door", ""),
                "Left door mat 2 x 5 chalk": ("left door", ""),
                "Door mat right 2 x 5 chalk": ("right door", ""),
                "Middle mat 4 x 5 chalk": ("inside middle", ""),
                "Centre mat 4 x 5 chalk": ("inside middle", ""),
                "Belly band 9½ x 1 chalk\nSeal circle 1 chalk on band": ("around", "Belly band"),
            },
        )
        self.check(TOP, {"Pocket mat 3 x 2 chalk": ("pocket", ""), "Inside mat 3 x 3 chalk": ("inside bottom", "")})

    def test_the_last_layer_with_room_is_what_it_lies_on(self):
        mats = "Mat 4 x 5 chalk\nPanel 3 x 4 midnight\n"
        self.check(
            SIDE + mats,
            {
                "Tag 1 x 2 brass": ("front", "Panel"),
                "Tag 3 x 4 brass": ("front", "Panel"),
                "Tag 3 1/16 x 4 brass": ("front", "Mat"),
                "Tag 3 x 4 1/16 brass": ("front", "Mat"),
                "Card front 4¼ x 5½ brass": ("front", ""),
                "Tag 1 x 2 brass on mat": ("front", "Mat"),
                "Tag 1 x 2 brass on base": ("front", ""),
                "Tag 1 x 2 brass on 1": ("front", ""),
                "Tag 1 x 2 brass on 2": ("front", "Mat"),
                "Back mat 3 x 3 chalk\nTag 1 x 2 brass on 4": ("back", "Back mat"),
                "Layer 2 x 3 brass on mat\nTag 1 x 2 chalk": ("front", "Layer"),
                "Layer 2 x 3 brass on panel\nTag 1 x 2 chalk": ("front", "Layer"),
                "Tag 1 x 2 brass behind panel": ("front", "Mat"),
                "Strip 3 x 1 brass over the fold": ("back", ""),
                "Star 1 x 1 chalk\nTag 1 x 2 brass": ("front", "Panel"),
                "Layer 3 x 4 chalk only grand\nTag 1 x 2 brass": ("front", "Panel"),
                "Layer 3 x 4 chalk filler\nTag 1 x 2 brass": ("front", "Panel"),
                "Layer 3 x 4 chalk not on the card\nTag 1 x 2 brass": ("front", "Panel"),
                "Sun 2 x 2 chalk\nSun mat 1 x 1 brass on sun\nTag ½ x ½ chalk": ("front", "Panel"),
                "Sun 2 x 2 chalk\nSun mat 1 x 1 brass on sun\nDot ½ x ½ chalk on sun mat": ("front", "Sun mat"),
            },
        )

    def test_a_small_layer_is_for_what_comes_next_or_shares_its_name(self):
        mats = "Mat 4 x 5 chalk\nGreeting mat 3 x 1 midnight\n"
        self.check(
            SIDE + mats,
            {
                "Words 2 x ½ brass": ("front", "Greeting mat"),
                "Star 3½ x 1 chalk\nGreeting 2 x ½ brass": ("front", "Greeting mat"),
                "Star 3½ x 1 chalk\nDot ½ x ½ brass": ("front", "Mat"),
                "Star 3½ x 1 chalk\nMat tag ½ x ½ brass": ("front", "Mat"),
            },
        )

    def test_what_lies_beside_another_does_not_lie_on_it(self):
        self.check(
            SIDE,
            {
                "Left panel 2 x 5 chalk\nRight panel 2 x 5 midnight": ("front", ""),
                "Upper panel 4 x 2 chalk\nLower panel 4 x 2 midnight": ("front", ""),
                "Top panel 4 x 2 chalk\nBottom panel 4 x 2 midnight": ("front", ""),
                "Panel 2 x 5 chalk left 0\nSecond panel 2 x 5 midnight right 0": ("front", ""),
                "Panel 2 x 5 chalk right 0\nSecond panel 2 x 5 midnight left 0": ("front", ""),
                "Panel 2 x 5 chalk right 0\nSecond panel 2 x 5 midnight": ("front", "Panel"),
                "Panel 2 x 5 chalk\nSecond panel 2 x 5 midnight right 0": ("front", "Panel"),
                "Panel 2 x 5 chalk left 0\nSecond panel 2 x 5 midnight": ("front", "Panel"),
                "Panel 2 x 5 chalk\nSecond panel 2 x 5 midnight left 0": ("front", "Panel"),
                "Panel 2 x 5 chalk right 0\nSecond panel 2 x 4 midnight left 0": ("front", "Panel"),
                "Panel 2 x 5 star match pair\nSecond panel 1 x 5 star match pair": ("front", ""),
            },
        )

    def test_places_of_copies_are_measured_from_the_edge_that_has_them(self):
        for words, where in {
            "left ½ top 1, 2½": [(1, 2), (1, 5)],
            "left ½, 2 top 1": [(1, 2), (4, 2)],
            "right ½, 2": [(5, 3), (2, 3)],
            "fold ½, 2": [(1, 3), (4, 3)],
            "top 0, 2": [(3, 0), (3, 4)],
            "bottom ½, 2": [(3, 5), (3, 2)],
        }.items():
            with self.subTest(words=words):
                placed = card(f"card 4 x 4 side fold\nBase brass\n2 Tag 1 x 1 chalk {words}").placed
                spots = [(each.x * 2 // INCH, each.y * 2 // INCH) for each in placed if each.piece.name == "Tag"]
                self.assertEqual(spots, where)
