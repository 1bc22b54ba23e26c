"""Numbers with a point or a comma."""

from decimal import Decimal
from unittest import TestCase

from zester.core.errors import ZesterError
from zester.core.numbers import read_decimal


class NumberTests(TestCase):
    def test_a_point_and_a_comma_are_the_same(self):
        for text, wanted in {
            "0.35": "0.35", "0,35": "0.35", " 0,35 ": "0.35", "12": "12", "12,5": "12.5", ",5": "0.5", "$0.35": "0.35",
            "0,35 €": "0.35", "1,000.50": "1000.50", "1.000,50": "1000.50", "1 000,50": "1000.50",
            "1.234.567,8": "1234567.8",
            "-3": "-3", "1.000": "1.000", "0,125": "0.125", "3.": "3",
        }.items():  # fmt: skip
            with self.subTest(text):
                self.assertEqual(read_decimal(text), Decimal(wanted))

    def test_what_could_be_a_thousand_or_one_is_asked(self):
        with self.assertRaisesRegex(ZesterError, "1000, or 1.000"):
            read_decimal("1,000")

    def test_what_is_no_number(self):
        for text in ("", "abc", "1.2.3", "1,2,3", "1,00.5", "1.00,5,0", "12,34.5", "0x10", "1e5", "9" * 50, "½", "--3"):
            with self.subTest(text), self.assertRaises(ZesterError):
                read_decimal(text)
