"""The checker refuses every plan that is wrong."""

from dataclasses import replace
from decimal import Decimal
from unittest import TestCase

from zester.core.errors import PlanError
from zester.core.fitting.engine import fit
from zester.core.fitting.jobs.check_plan import check_plan
from zester.core.fitting.jobs.plan import Cut, Named, Plan, read_plan, write_plan
from zester.core.fitting.tests.jobs import job


class CheckTests(TestCase):
    def setUp(self):
        self.job = job("8½ x 11", ("4 x 5¼", 9), ("2 x 3", 3, False))
        self.plan = fit(self.job)

    def altered(self, **changes) -> Plan:
        return replace(self.plan, papers=(replace(self.plan.papers[0], **changes),))

    def altered_layout(self, **changes) -> Plan:
        first, *others = self.plan.papers[0].layouts
        return self.altered(layouts=(replace(first, **changes), *others))

    def test_a_right_plan_passes_also_after_writing_and_reading(self):
        check_plan(self.job, self.plan)
        self.assertEqual(read_plan(write_plan(self.plan)), self.plan)

    def test_wrong_plans_are_refused(self):
        paper, first = self.plan.papers[0], self.plan.papers[0].layouts[0]
        named = first.parts[0]
        wrong = {
            "too few made": self.altered(layouts=paper.layouts[1:]),
            "no copies": self.altered_layout(copies=0),
            "an unknown sheet": self.altered_layout(sheet="tabloid"),
            "a cut outside the part": self.altered_layout(cuts=(Cut(0, "x", 10**6),)),
            "a cut of a part that is gone": self.altered_layout(cuts=(*first.cuts, Cut(0, "x", 8128))),
            "a cut along nothing": self.altered_layout(cuts=(Cut(0, "z", 8128),)),
            "a part named twice": self.altered_layout(parts=(*first.parts, named)),
            "a part that was cut": self.altered_layout(parts=(Named(part=0, piece="P1", turned=False),)),
            "an unknown piece": self.altered_layout(parts=(Named(part=named.part, piece="P9", turned=False),)),
            "a wrong size": self.altered_layout(parts=(replace(named, turned=not named.turned),)),
            "a wrong cost": self.altered(cost=paper.cost + 1),
            "a bound above the cost": self.altered(bound=paper.cost + 1),
            "a false proof": self.altered(bound=paper.cost - Decimal(1), proven=True),
            "a paper too few": replace(self.plan, papers=()),
            "a false shortage": self.altered(short=(("P1", 9),)),
        }
        for name, plan in wrong.items():
            with self.subTest(name), self.assertRaises(PlanError):
                check_plan(self.job, plan)

    def test_turning_a_piece_that_may_not_turn_is_refused(self):
        turned = [
            (number, part.part)
            for number, layout in enumerate(self.plan.papers[0].layouts)
            for part in layout.parts
            if part.piece == "P2"
        ]
        number, part = turned[0]
        layout = self.plan.papers[0].layouts[number]
        parts = tuple(Named(part=p.part, piece=p.piece, turned=p.turned or p.part == part) for p in layout.parts)
        layouts = list(self.plan.papers[0].layouts)
        layouts[number] = replace(layout, parts=parts)
        with self.assertRaises(PlanError) as caught:
            check_plan(self.job, self.altered(layouts=tuple(layouts)))
        self.assertIn("may not be turned", str(caught.exception))

    def test_more_sheets_than_there_are_is_refused(self):
        sheets = (replace(self.job.papers[0].sheets[0], count=1),)
        with self.assertRaises(PlanError) as caught:
            check_plan(replace(self.job, papers=(replace(self.job.papers[0], sheets=sheets),)), self.plan)
        self.assertIn("there are 1", str(caught.exception))
