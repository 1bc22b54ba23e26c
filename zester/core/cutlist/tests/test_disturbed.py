"""Right lines that are disturbed: what changes what they mean is asked about, or read as what it now means."""

from __future__ import annotations

import random
import re
from collections.abc import Iterator
from unittest import TestCase

from zester.core.cutlist.lines import Reading
from zester.core.cutlist.notation import read_list
from zester.core.cutlist.tests.writers import ABOVE, SHELF, lines_of, verdict
from zester.core.lengths import SIXTEENTHS, SIZE
from zester.core.tests.share import each_of

# Words that nobody writes without meaning something by them, in one place each.
ODD = (
    "not", "without", "skip", "optional", "twice", "sideways", "diagonally", "instead", "maybe", "both sides",
    "for the kids", "upside down", "less", "plus", "another", "except", "already", "a couple of", "mirrored", "per kit",
)  # fmt: skip


def read(text: str) -> Reading:
    return read_list(ABOVE["in"] + text, SHELF, SIXTEENTHS)[-1]


def right_lines() -> Iterator[str]:
    """Lines of one piece that are read as meant, without what is meant by a remark."""
    for name in ("writers_open.txt", "thirty_open.txt"):
        for line in lines_of(name):
            plain = line.ruler is SIXTEENTHS and not line.text.startswith("^") and "#" not in line.text
            if plain and re.match(r"\d", line.meant) and verdict(line)[0] == "meant" and read(line.text).piece:
                yield line.text


def same(one: Reading, other: Reading) -> bool:
    """Whether two readings cut the same pieces."""
    left, right = one.piece, other.piece
    if left is None or right is None:
        return left is right
    return all(getattr(left, name) == getattr(right, name) for name in ("count", "width", "height", "paper"))


class DisturbedTests(TestCase):
    def setUp(self):
        self.lines = list(right_lines())
        self.assertGreater(len(self.lines), 150)
        self.dice = random.Random(7)

    def test_a_word_that_changes_what_is_meant_is_never_lost(self):
        for text in each_of(self.lines):
            odd, words = self.dice.choice(ODD), text.split(" ")
            at = self.dice.choice((0, len(words)))
            line = " ".join([*words[:at], odd, *words[at:]])
            reading = read(line)
            with self.subTest(line=line):
                kept = reading.piece and any(word in reading.piece.note for word in odd.split())
                said = reading.error or kept or not (reading.piece or reading.bit)
                changed = reading.piece and not same(reading, read(text))
                self.assertTrue(said or changed, f"{reading.piece and reading.piece.name} {reading.meant}")

    def test_a_number_that_is_one_too_many_is_asked_about(self):
        for text in each_of(self.lines):
            size = re.search(SIZE, text, re.IGNORECASE)
            if not size:
                continue
            number = self.dice.choice(("3", "7", "1/2"))
            line = f"{text} {number}" if self.dice.random() < 0.5 else f"{number} {text}"
            if re.match(r"\d+ [^\W\d]|.*\b(?:raised|hole|score) [\d/]+$", line) and not line.startswith("1/2"):
                # In front of a name it is how many, and behind some rules how much.
                continue
            reading = read(line)
            with self.subTest(line=line):
                note = reading.piece.note if reading.piece else ""
                self.assertTrue(reading.error or number in note or not same(reading, read(text)), reading.meant)

    def test_another_unit_is_another_size(self):
        for text in each_of(self.lines):
            size = re.search(r"\d+(?:\.\d+)? ?x ?\d+(?:\.\d+)?(?=\s+[a-z])", text)
            if not size:
                continue
            reading = read(f"{text[: size.end()]} cm{text[size.end() :]}")
            with self.subTest(text=text):
                self.assertTrue(reading.error or reading.piece.width != read(text).piece.width)

    def test_the_paper_in_front_says_the_same(self):
        for text in each_of(self.lines):
            reading = read(text)
            paper = reading.piece.paper
            if paper.casefold() not in text.casefold() or re.search(rf"{paper}\s*$", text, re.IGNORECASE) is None:
                continue
            turned = read(f"{paper}: {re.sub(rf'[ ,]*{paper}$', '', text, flags=re.IGNORECASE)}")
            with self.subTest(text=text):
                self.assertTrue(turned.error or same(turned, reading), turned.meant)
