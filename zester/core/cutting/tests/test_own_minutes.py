"""Somebody's own time for a job by hand, from what she logged."""

from __future__ import annotations

from unittest import TestCase

from zester.core.cutting.handwork import PREPARED
from zester.core.cutting.own_minutes import LATEST, Logged, kind_of, own_seconds, own_shares


class OwnMinutesTests(TestCase):
    def test_a_job_is_known_by_its_verb(self):
        for words, kind in (
            ("emboss, with Ripple folder", "emboss"),
            ("score at 4¼ in across the width", "score"),
            ("score at ½ in across the width", "score"),
            ("die-cut: circle 2 in, with Rounds no. 2", "die-cut"),
            ("die-cut the opening: square 1 in", "die-cut the opening"),
            ("cut out: heart 2 × 3 in (the list names no tool)", "cut out"),
            ("fold and burnish", "fold and burnish"),
        ):
            self.assertEqual(kind_of(words), kind)
        # No two kinds of work are taken for one.
        verbs = [verb for verb, *_ in PREPARED.values()]
        self.assertEqual(len({kind_of(verb) for verb in verbs}), len(set(verbs)))

    def test_her_time_is_the_usual_one_times_what_hers_took_of_it(self):
        log = [Logged(kind="emboss", usual=200, seconds=300), Logged(kind="emboss", usual=100, seconds=150)]
        log += [Logged(kind="score", usual=60, seconds=0), Logged(kind="tie", usual=0, seconds=900)]
        shares = own_shares(log)
        # By hand: 450 s where 300 are usual, so 20 s become 30; a second is the least.
        self.assertEqual(own_seconds("emboss", 20, shares), 30)
        self.assertEqual(own_seconds("score", 6, shares), 6)
        self.assertEqual(own_seconds("tie", 45, shares), 45)
        self.assertEqual(own_seconds("emboss", 1, own_shares([Logged(kind="emboss", usual=900, seconds=1)])), 1)

    def test_the_latest_count(self):
        log = [Logged(kind="stamp", usual=100, seconds=50)] * LATEST + [Logged(kind="stamp", usual=100, seconds=5000)]
        self.assertEqual(own_seconds("stamp", 20, own_shares(log)), 10)
