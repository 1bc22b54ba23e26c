"""What is kept of a class comes back as it was; what several classes show together, by hand."""

from __future__ import annotations

import json
from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from zester.core.errors import ZesterError
from zester.core.money.record import (
    DesignKept,
    PaperKept,
    Record,
    designs_seen,
    papers_seen,
    read_record,
    write_record,
)

D = Decimal
AMOUNTS = st.decimals("-9999", "9999", places=2)
SHARES = st.decimals("0", "1", places=4)
COUNTS = st.integers(0, 9999)
PAPER = st.builds(
    PaperKept, name=st.text(max_size=9), sheets=COUNTS, used=SHARES, kept=SHARES, cost=AMOUNTS, waste=AMOUNTS
)
DESIGN = st.builds(DesignKept, name=st.text(max_size=9), made=COUNTS, cost=AMOUNTS, spoiled=COUNTS)
RECORD = st.builds(
    Record,
    people=COUNTS,
    pieces=COUNTS,
    seconds=COUNTS,
    spoiled=st.dictionaries(st.sampled_from(["piece", "sheet"]), COUNTS),
    brings=AMOUNTS,
    takes=AMOUNTS,
    papers=st.lists(PAPER, max_size=3).map(tuple),
    designs=st.lists(DESIGN, max_size=3).map(tuple),
)


class RecordTests(TestCase):
    @given(RECORD)
    def test_what_is_kept_comes_back_as_it_was(self, record):
        kept = json.loads(json.dumps(write_record(record)))
        self.assertEqual(read_record(kept), record)

    def test_what_is_no_record_is_said(self):
        for kept in ({"people": 1, "frogs": 2}, {"brings": "much"}, {"papers": 5}, {"papers": [{"sheets": 1}]}):
            self.assertRaises(ZesterError, read_record, kept)

    def test_several_classes_together_by_hand(self):
        first = Record(
            papers=(PaperKept(name="Cream", sheets=10, used=D("0.9"), kept=D("0.05"), waste=D("0.50")),),
            designs=(DesignKept(name="Moon", made=10, cost=D("0.50"), spoiled=1),),
        )
        second = Record(
            papers=(
                PaperKept(name="Cream", sheets=30, used=D("0.7"), kept=D("0.1"), waste=D("6.00")),
                PaperKept(name="Sand", sheets=5, used=D("0.6"), kept=D("0.2"), waste=D("1.00")),
            ),
            designs=(
                DesignKept(name="Moon", made=30, cost=D("0.70")),
                DesignKept(name="Owl", made=5, cost=D("0.20"), spoiled=2),
            ),
        )
        papers = [(each.name, each.sheets, each.used, each.waste) for each in papers_seen([first, second])]
        # (10 × 0.9 + 30 × 0.7) / 40
        self.assertEqual(papers, [("Sand", 5, D("0.6"), D("1.00")), ("Cream", 40, D("0.75"), D("6.50"))])
        designs = [
            (each.name, each.classes, each.made, each.cost, each.spoiled) for each in designs_seen([first, second])
        ]
        self.assertEqual(designs, [("Owl", 1, 5, D("0.20"), 2), ("Moon", 2, 40, D("0.65"), 1)])
        self.assertEqual((second.sheets, second.waste, Record().used), (35, D("7.00"), None))
