"""How much room a plan that is not proven leaves."""

from dataclasses import replace
from decimal import Decimal
from unittest import TestCase

from zester.core.fitting.engine import fit
from zester.core.fitting.jobs.job import Job, Sheet
from zester.core.fitting.jobs.summary import room_in_words
from zester.core.fitting.proofs.room import room_of
from zester.core.fitting.tests.jobs import job


def unproven(wanted: Job, sheets: int):
    """The job's plan as if it took so many sheets and nothing was proven."""
    plan = fit(wanted).papers[0]
    cost = wanted.papers[0].sheets[0].cost
    return replace(plan, cost=sheets * cost, bound=plan.bound, proven=False)


class RoomTests(TestCase):
    def test_by_hand(self):
        # Four of a quarter fill a sheet: seven are a mix of 1.75 sheets, so that a plan of two may lose 0.25.
        seven, eight = job("8½ x 11", ("4¼ x 5½", 7)), job("8½ x 11", ("4¼ x 5½", 8))
        self.assertEqual(room_of(seven.papers[0], seven.bench, unproven(seven, 3)), Decimal("0.25"))
        self.assertEqual(room_of(eight.papers[0], eight.bench, unproven(eight, 3)), Decimal("0.00"))
        # Two sheets fewer, or more: what the last one of them may lose.
        self.assertEqual(room_of(seven.papers[0], seven.bench, unproven(seven, 4)), Decimal("1.25"))
        # Whatever a sheet costs.
        sheet = replace(seven.papers[0].sheets[0], cost=Decimal("0.45"))
        dear = replace(seven, papers=(replace(seven.papers[0], sheets=(sheet,)),))
        self.assertEqual(room_of(dear.papers[0], dear.bench, unproven(dear, 3)), Decimal("0.25"))

    def test_where_nothing_can_be_said_nothing_is(self):
        seven = job("8½ x 11", ("4¼ x 5½", 7))
        plan = fit(seven).papers[0]
        self.assertIsNone(room_of(seven.papers[0], seven.bench, plan))
        open_plan = unproven(seven, 3)
        self.assertIsNone(room_of(seven.papers[0], seven.bench, replace(open_plan, short=(("A1", 1),))))
        second = Sheet(id="large", width=12192, height=12192, cost=Decimal(2))
        several = replace(seven.papers[0], sheets=(*seven.papers[0].sheets, second))
        self.assertIsNone(room_of(several, seven.bench, open_plan))

    def test_in_words(self):
        self.assertEqual(
            room_in_words(Decimal("0.02")), "One sheet fewer could lose 0.02 of a sheet in all: seldom there."
        )
        self.assertIn("possible", room_in_words(Decimal("0.14")))
        self.assertIn(": likely.", room_in_words(Decimal("0.72")))
