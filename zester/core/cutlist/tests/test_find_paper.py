"""Which paper a line means, today and by the names of former days."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from zester.core.cutlist.find_paper import find_paper
from zester.core.cutlist.notation import read_list
from zester.core.errors import CutListError
from zester.core.pieces import Known, KnownPaper

WORDS = ("Ember", "Dust", "Gold", "Leaf", "Star", "Chart", "Chalk", "Moon", "Em", "Du")


def named(name: str, *former: str, key: str = "") -> KnownPaper:
    return KnownPaper(key=key or name, name=name, width=80_000, height=90_000, former=former)


class FindPaperTests(TestCase):
    SHELF = (named("Cinder", "Ember Dust"), named("Gold Leaf"), named("Star Chart"), named("Chalk Moon", "Old Chalk"))

    def test_of_many_that_could_be_meant_three_are_named(self):
        alike = [named(f"Star {word}") for word in ("Chart", "Dust", "Field", "Path")]
        message = self.error("star", alike)
        self.assertIn("“Star Chart” or “Star Dust” or “Star Field”", message)
        self.assertNotIn("Path", message)

    def key(self, words: str) -> str:
        return find_paper(words, self.SHELF).key

    def error(self, words: str, shelf=None) -> str:
        with self.assertRaises(CutListError) as caught:
            find_paper(words, self.SHELF if shelf is None else shelf)
        return caught.exception.text()

    def test_a_name_or_the_beginning_of_its_words(self):
        self.assertEqual(
            [self.key(words) for words in ("cinder", "GOLD LEAF", "star", "st ch", "moon", "leaf")],
            ["Cinder", "Gold Leaf", "Star Chart", "Star Chart", "Chalk Moon", "Gold Leaf"],
        )

    def test_a_former_name_and_its_beginnings_still_mean_the_paper(self):
        self.assertEqual([self.key(words) for words in ("Ember Dust", "ember", "dust", "em du")], ["Cinder"] * 4)

    def test_what_could_be_two_is_asked_about_and_the_former_name_is_said(self):
        shelf = (named("Cinder", "Ember Dust"), named("Gold Dust"))
        self.assertIn("could be “Cinder” (once “Ember Dust”) or “Gold Dust”", self.error("dust", shelf))
        self.assertEqual(find_paper("gold dust", shelf).key, "Gold Dust")

    def test_a_whole_name_goes_before_a_beginning_and_one_of_today_before_a_former_one(self):
        shelf = (named("Gold"), named("Gold Leaf"), named("Brass", "Moon"), named("Moon", "Brass"))
        self.assertEqual(
            [find_paper(words, shelf).key for words in ("gold", "moon", "brass")], ["Gold", "Moon", "Brass"]
        )

    def test_what_is_near_is_offered(self):
        self.assertIn("Did you mean “Star Chart”?", self.error("star chert"))
        self.assertIn("Did you mean “Cinder”?", self.error("ember dist"))
        self.assertIn("Put it on the shelf first, or use: Cinder, Gold Leaf", self.error("velvet"))
        self.assertIn("Put a paper after the size: Cinder", self.error(""))
        self.assertIn("Put a paper on the shelf first", self.error("velvet", ()))

    def test_lists_keep_their_words_and_read_as_before(self):
        text = "Mat 4 x 5 ember dust score 2 # ember!\nPanel 2 x 3 em\nTag 2 x 3 cinder"
        readings = read_list(text, Known(self.SHELF))
        self.assertEqual([reading.piece.paper for reading in readings], ["Cinder"] * 3)
        self.assertEqual([reading.text for reading in readings], text.split("\n"))

    @given(st.lists(st.lists(st.sampled_from(WORDS), min_size=1, max_size=2, unique=True), min_size=1, max_size=4))
    def test_what_is_found_before_a_renaming_is_found_after_it_or_asked_about(self, names):
        names = list(dict.fromkeys(" ".join(words) for words in names))
        before = [named(name) for name in names]
        after = [named("Velvet", names[0], key=names[0]), *before[1:]]
        for words in [*names, *WORDS]:
            try:
                meant = find_paper(words, before).key
            except CutListError:
                continue
            self.assertEqual(find_paper(words, after).key, meant)
