"""The worked cards are still what they were: every measure, place, finding and mend (``worked.py`` says how)."""

import difflib
from unittest import TestCase

from zester.core.cards.tests.worked import FILE, all_cards, worked
from zester.core.tests.share import each_of


class WorkedCardTests(TestCase):
    maxDiff = None

    def test_every_worked_card_comes_out_as_it_was_read_and_found_right(self):
        kept = dict(part.split("\n", 1) for part in FILE.read_text().rstrip("\n").split("\n\n== "))
        kept = {name.removeprefix("== "): text for name, text in kept.items()}
        self.assertEqual(len(kept), len(all_cards()))
        for name, (text, ruler) in each_of(all_cards().items()):
            with self.subTest(name):
                before, now = kept[f"{name} ({ruler})"].split("\n"), worked(text, ruler).split("\n")
                changed = list(difflib.unified_diff(before, now, "kept", "now", lineterm="", n=0))
                self.assertEqual(changed, [], "\n".join(changed[:12]))
