"""Every rule and every question of a list, line by line, against what is kept beside it."""

from unittest import TestCase

from zester.core.cutlist.tests.kept_lines import cases, told_of


class KeptLinesTests(TestCase):
    maxDiff = None

    def check(self, name: str, least: int):
        lines = cases(name)
        self.assertGreater(len(lines), least)
        for ruler, text, wanted in lines:
            with self.subTest(line=text):
                self.assertEqual(told_of(text, ruler), wanted)

    def test_what_a_list_says_rule_by_rule(self):
        self.check("every_rule.txt", 200)

    def test_notes_are_read_as_meant_or_asked_about_with_every_reading(self):
        self.check("asked.txt", 90)
