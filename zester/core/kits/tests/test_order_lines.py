"""People written as lines and as tables."""

import datetime
from dataclasses import replace
from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from zester.core.errors import ZesterError
from zester.core.kits.offers import MOST_PEOPLE, STATES, Offer
from zester.core.kits.order_lines import OrderLine, Sayable, read_people, read_person
from zester.core.kits.order_money import PaidPart
from zester.core.kits.people_table import lines_of_csv, write_people_csv

OFFERS = [Offer(key="1", name="full kit"), Offer(key="2", name="supplies only"), Offer(key="3", name="set of two")]
PAPERS = {"a": "Star Chart", "b": "Kite Tails", "c": "Wind Rope"}
ALL = Sayable(offers=OFFERS, papers=PAPERS)
NAMES = {offer.key: offer.name for offer in OFFERS}


DAY = datetime.date(2026, 11, 3)
D = Decimal


def paid(amount: str, on: datetime.date | None = None, kind: str = "paid") -> PaidPart:
    return PaidPart(D(amount), on, kind)


def who(name: str, *orders: tuple[str, int], **more) -> OrderLine:
    return OrderLine(name=name, orders=orders, **more)


class LineTests(TestCase):
    def test_what_is_written_is_read_as_meant(self):
        for line, meant in [
            ("Ines full 2", who("Ines", ("1", 2))),
            ("Ines full 2, note allergic, to glitter", who("Ines", ("1", 2), note="allergic, to glitter")),
            ("Odo Brackwater, supplies only, waiting", who("Odo Brackwater", ("2", 1), state="waiting")),
            ("Marla: 2 full + supplies", who("Marla", ("1", 2), ("2", 1))),
            ("Marla 2x full and supplies only x3", who("Marla", ("1", 2), ("2", 3))),
            ("Tove full kits, paid", who("Tove", ("1", 1), state="paid")),
            ("Jo; m@example.org; +44 20 7946 0000", who("Jo", contact="m@example.org, +44 20 7946 0000")),
            ("Jo, address Mill Lane 2, Harbour, paid", who("Jo", address="Mill Lane 2, Harbour", state="paid")),
            ("Jo full, papers star chart, kite, paid", who("Jo", ("1", 1), chosen=("a", "b"), state="paid")),
            ("Jo, ordered 2026-11-03", who("Jo", ordered_on=datetime.date(2026, 11, 3))),
            # Money: what goods come to, what was paid and when, whose price, where it goes.
            (
                "Jo full 2, supplies 62.50, paid 40",
                who("Jo", ("1", 2), amount=D("62.50"), goods="supplies", payments=(paid("40"),)),
            ),
            ("Jo full, paid 69.00", who("Jo", ("1", 1), payments=(paid("69"),))),
            ("Jo full, paid 62,50", who("Jo", ("1", 1), payments=(paid("62.50"),))),
            ("Jo, deposit 20 on 2026-11-03, paid 5", who("Jo", payments=(paid("20", DAY), paid("5")))),
            ("Jo full, paid back 5", who("Jo", ("1", 1), payments=(paid("5", kind="back"),))),
            ("Jo, ink and glue 12.40, own 12.40", who("Jo", amount=D("12.40"), goods="ink and glue", own=D("12.40"))),
            ("Jo, amount 62, member, abroad", who("Jo", amount=D("62"), member=True, sent="abroad")),
            ("Jo supplies 2, picked up", who("Jo", ("2", 2), sent="picked")),
            ("Jo, full, full 2", who("Jo", ("1", 1), ("1", 2))),
            ("Anna-Lena O’Neill set of two", who("Anna-Lena O’Neill", ("3", 1))),
            # An initial or a family name is no offer.
            ("Maria F", who("Maria F")),
            ("Maria Full", who("Maria Full")),
            ("Maria S, full", who("Maria S", ("1", 1))),
        ]:
            with self.subTest(line):
                read = read_person(line, ALL)
                self.assertEqual((read.error and read.error.advice(), read.person), (None, meant))

    def test_what_is_not_clear_is_asked_and_no_number_is_dropped(self):
        for line, words in [
            ("Ines 2", "2 of what?"),
            ("Ines, full kit 69.00", "Is 69.00 what full kit costs, or goods beside it?"),
            ("Ines, paid 0", "An amount of 0"),
            ("Ines, paid -5", "“paid -5”: how much?"),
            ("Ines, amount 0.3 in", "“amount 0.3 in”: how much?"),
            ("Ines, paid 1,000", "not understood"),
            ("Ines, amount 5, supplies 6.00", "second amount"),
            ("Ines, own 5", "An own share of 5.00 of an amount of 0"),
            ("Ines, paid 40 on Monday", "is no date"),
            ("Ines full 0", "0 of one offer"),
            ("Maria S 2", "2 of what?"),
            ("Ines, 3", "not understood"),
            ("Ines, s", "“s” is not understood"),
            ("Ines, gift", "“gift” is not understood"),
            ("Ines full 101", "101 of one offer"),
            ("Ines full 999999999", "999999999 of one offer"),
            ("Ines -5 full", "“-5” is no number of kits"),
            ("Ines 0.5 full", "“0.5” is no number of kits"),
            ("Ines ½", "“½” is no number of kits"),
            ("Ines 0.3 in", "0.3 of what?"),
            ("2 full", "name comes first"),
            ("Ines, papers moon", "no paper to choose"),
            ("Ines, ordered yesterday", "is no date"),
            ("x" * 700, "700 letters"),
            ("Ines full 2, somewhat late", "not understood"),
        ]:
            with self.subTest(line):
                read = read_person(line, ALL)
                self.assertIsNone(read.person)
                self.assertIn(words, read.error.advice())

    def test_an_offer_that_may_be_two_is_asked(self):
        kits = Sayable(offers=[Offer(key="1", name="kit, small"), Offer(key="2", name="kit, large")])
        self.assertIn("may be kit, small or kit, large", read_person("Ines kit 2", kits).error.advice())

    def test_with_one_offer_a_number_is_of_it_and_without_offers_a_name_is_enough(self):
        self.assertEqual(read_person("Ines 2", Sayable(offers=OFFERS[:1])).person.orders, (("1", 2),))
        self.assertEqual(read_person("Ines", Sayable()).person, OrderLine(name="Ines"))
        for line in ("Ines 2", "Ines, 2", "Ines: 2", "Ines\t2"):
            self.assertEqual(read_person(line, Sayable()).person.orders, (("", 2),), line)
        self.assertIn("not understood", read_person("Ines, 2", ALL).error.advice())

    def test_more_people_than_a_class_keeps_are_said(self):
        read = read_people("Ines\n" * (MOST_PEOPLE + 5), ALL)
        # None is lost: all beyond stand there, not read.
        self.assertEqual(len(read), MOST_PEOPLE + 5)
        self.assertTrue(all(row.error for row in read[MOST_PEOPLE:]))
        self.assertIn("at once are the most", read[-1].error.advice())

    @given(st.text(max_size=120))
    def test_no_line_breaks_the_reader(self, text):
        for read in read_people(text, ALL):
            self.assertNotEqual(read.person is None, read.error is None)


WORDS = st.text(alphabet="abcdefgh XYZäöß-", min_size=1, max_size=12).map(lambda text: f"N{text.strip()}")
DAYS = st.dates(datetime.date(2020, 1, 1), datetime.date(2030, 1, 1))
AMOUNTS = st.decimals("0.01", "99999.99", places=2)
PEOPLE = st.builds(
    OrderLine,
    name=WORDS.map(lambda text: " ".join(text.split()).strip(" -")),
    orders=st.dictionaries(st.sampled_from(["1", "2", "3"]), st.integers(1, 100)).map(lambda d: tuple(d.items())),
    state=st.sampled_from(sorted(STATES)),
    contact=st.sampled_from(["", "a@example.org", "+44 20 7946 0000"]),
    address=st.sampled_from(["", "Mill Lane 2", "Net Loft"]),
    note=st.sampled_from(["", "comes late", "2 chairs, please", "=1+1"]),
    chosen=st.lists(st.sampled_from(["a", "b", "c"]), unique=True, max_size=3).map(tuple),
    ordered_on=st.one_of(st.none(), DAYS),
    goods=st.sampled_from(["", "ink and glue", "supplies"]),
    amount=st.one_of(st.just(D(0)), AMOUNTS),
    payments=st.lists(
        st.builds(PaidPart, AMOUNTS, st.one_of(st.none(), DAYS), st.sampled_from(["paid", "back"])), max_size=3
    ).map(tuple),
    member=st.booleans(),
    sent=st.sampled_from(["", "inside", "abroad", "picked"]),
).map(lambda person: person if person.amount else replace(person, goods=""))


class TableTests(TestCase):
    @given(st.lists(PEOPLE, max_size=8))
    def test_what_is_written_out_as_csv_comes_back(self, people):
        read = read_people("\n".join(lines_of_csv(write_people_csv(people, NAMES, PAPERS))), ALL)
        self.assertEqual([row.person for row in read], people)

    def test_tables_of_other_people_with_other_heads_and_separators(self):
        data = b"Participant;Kit;How many;E-Mail;Notes\nInes;full kit;2;i@example.org;late\n;;;;\n"
        (row,) = read_people("\n".join(lines_of_csv(data)), ALL)
        self.assertEqual(row.person, OrderLine(name="Ines", orders=(("1", 2),), contact="i@example.org", note="late"))

    def test_what_is_no_table_is_said_with_the_mend(self):
        for data, words in [
            (b"", "empty"),
            (b"first,second\n1,2\n", "No column is called “name”; the first row says: first, second"),
            (b"name,shoe size\nInes,38\n", "“shoe size” is not known"),
            ("name\nJosé\n".encode("latin-1"), "not in UTF-8"),
            (b"PK\x03\x04rubbish", "a workbook"),
            (b'name\n"Ines\n', "not a CSV table"),
            (b"name\n" + b"Ines\n" * 100_000, "more than 500 people"),
            (b"name\n" + b"x" * 1_100_000, "kB"),
            (b"name\nIn\x00es\n", "no letters"),
        ]:
            with self.subTest(words), self.assertRaises(ZesterError) as caught:
                lines_of_csv(data)
            self.assertIn(words, caught.exception.advice())

    def test_formulas_are_text_and_faulty_rows_are_asked_one_by_one(self):
        data = b'name,orders,note\nInes,full,"=HYPERLINK(1)"\n=cmd,full 2,x\nOdo,7 of,\n'
        first, second, third = read_people("\n".join(lines_of_csv(data)), ALL)
        self.assertEqual(first.person.note, "=HYPERLINK(1)")
        self.assertEqual(second.person.name, "=cmd")
        self.assertIn("“of” is nothing that can be ordered", third.error.advice())
        self.assertIn(b"'=cmd", write_people_csv([second.person], NAMES, PAPERS))
