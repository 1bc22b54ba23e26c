"""What orders come to and who owes: worked by hand, and sums that add up to the cent."""

from __future__ import annotations

import datetime
from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from zester.core.kits.offers import Offer, Person, is_free_for, is_late, price_for
from zester.core.money.accounts import Account, DueLine, Payment, account_of, open_since, sums_of

D = Decimal
DAY = datetime.date(2026, 11, 3)
FULL = Offer(
    key="f",
    name="full kit",
    price=D("34.50"),
    later_price=D("39"),
    later_from=datetime.date(2026, 11, 10),
    member_price=D("31"),
    closes_on=datetime.date(2026, 11, 12),
)
POSTED = Offer(key="p", name="kit by post", price=D("29.90"), with_post=True)
GIFT = Offer(key="g", name="gift kit", free_above=D("50"), free_below=D("150"))
OFFERS = {offer.key: offer for offer in (FULL, POSTED, GIFT)}
POST = {"inside": D("4.20"), "abroad": D("11.75")}


def person(**more) -> Person:
    return Person(**({"key": "1", "name": "Ines", "ordered_on": DAY, "orders": (("f", 1),)} | more))


def account(who: Person, *payments: Payment) -> Account:
    return account_of(who, OFFERS, FULL, payments, POST)


class AccountTests(TestCase):
    def test_worked_by_hand(self):
        for who, due, why in (
            (person(), "34.50", "one kit"),
            (person(orders=(("f", 2),), amount=D("62.50"), goods="supplies"), "131.50", "2 × 34.50 + 62.50"),
            (person(ordered_on=datetime.date(2026, 11, 10)), "39.00", "the price from the 10th on"),
            (person(ordered_on=datetime.date(2026, 11, 10), member=True), "31.00", "a member's price"),
            (person(sent="abroad"), "46.25", "34.50 + 11.75"),
            (person(sent="abroad", orders=(("p", 1),)), "29.90", "the post is in its price"),
            (person(sent="picked"), "34.50", "nothing is sent"),
            (person(orders=()), "34.50", "nothing said is one of the usual"),
            (person(state="cancelled", amount=D("62.50")), "0", "cancelled"),
        ):
            self.assertEqual(account(who).due, D(due), why)

    def test_payments_by_amount_and_day(self):
        paid = account(person(), Payment(D("20"), DAY), Payment(D("10"), DAY + datetime.timedelta(3)))
        self.assertEqual((paid.due, paid.paid, paid.owing, paid.over), (D("34.50"), D("30"), D("4.50"), D("0")))
        self.assertEqual(open_since(paid, DAY), DAY)
        settled = account(person(), Payment(D("30"), DAY), Payment(D("4.50"), DAY, "off"))
        self.assertEqual((settled.owing, settled.written_off, open_since(settled, DAY)), (D(0), D("4.50"), None))
        over = account(person(), Payment(D("40"), DAY), Payment(D("2"), DAY, "back"))
        self.assertEqual((over.paid, over.over), (D("38"), D("3.50")))
        # Who cancels after paying has it back, or is owed it.
        self.assertEqual(account(person(state="cancelled"), Payment(D("40"), DAY)).over, D("40"))

    def test_a_kit_is_free_between_two_amounts(self):
        for amount, free in (("15.49", False), ("15.50", True), ("115.49", True), ("115.50", False)):
            self.assertEqual(is_free_for(GIFT, person(amount=D(amount)), OFFERS), free, amount)
        lines = [line.words for line in account(person(amount=D("20"), goods="ink")).lines]
        self.assertEqual(lines, ["1 full kit", "ink", "1 gift kit, free"])

    def test_a_late_order_is_told_and_taken(self):
        late = person(ordered_on=datetime.date(2026, 11, 13))
        self.assertEqual((is_late(FULL, late), is_late(POSTED, late), is_late(FULL, person())), (True, False, False))
        self.assertEqual(price_for(FULL, late), D("39"))

    @given(
        st.lists(st.decimals("0.01", "999.99", places=2), max_size=6),
        st.lists(
            st.tuples(st.decimals("0.01", "999.99", places=2), st.sampled_from(["paid", "back", "off"])), max_size=6
        ),
    )
    def test_nothing_is_lost_between_due_paid_owing_and_over(self, due, payments):
        found = Account(tuple(DueLine("x", each) for each in due), tuple(Payment(a, DAY, k) for a, k in payments))
        self.assertEqual(found.due, found.paid + found.written_off + found.owing - found.over)
        self.assertEqual(found.owing * found.over, 0)
        both = sums_of([found, found])
        self.assertEqual((both.due, both.owing, both.over), (2 * found.due, 2 * found.owing, 2 * found.over))
