"""What is still to be made after cutting, and what is over."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from zester.core.fitting.engine import fit_paper
from zester.core.fitting.jobs.check_job import check_shares
from zester.core.fitting.jobs.job import ANY_BENCH, PaperJob, Row
from zester.core.fitting.jobs.rest import Rest, WasMade, rest_of
from zester.core.fitting.tests.jobs import piece, sheet
from zester.core.tests.share import each_of

LETTER = sheet("8½ x 11")


def wants(*pieces, **more) -> PaperJob:
    return PaperJob(id="white", sheets=(LETTER,), pieces=pieces, **more)


def cut(job: PaperJob, **lost: int) -> WasMade:
    return WasMade(job, fit_paper(job, ANY_BENCH, lambda _: None, 0.2), lost)


def left(job: PaperJob | None) -> dict[str, int]:
    return {each.id: each.count for each in job.pieces} if job else {}


class RestTests(TestCase):
    def setUp(self):
        self.bases = piece("A1", "8½ x 5½", 10)
        self.mats = piece("A2", "4 x 5¼", 12)

    def test_two_people_more_are_two_peoples_pieces_more(self):
        made = cut(wants(self.bases, self.mats))
        rest = rest_of(wants(replace(self.bases, count=12), replace(self.mats, count=15)), [made])
        self.assertEqual((left(rest.job), rest.over), ({"A1": 2, "A2": 3}, ()))

    def test_nothing_changed_is_nothing_to_make(self):
        job = wants(self.bases, self.mats)
        self.assertEqual(rest_of(job, [cut(job)]), Rest(None, ()))

    def test_who_comes_no_more_leaves_pieces_over(self):
        made = cut(wants(self.bases, self.mats))
        rest = rest_of(wants(replace(self.bases, count=7), self.mats), [made])
        self.assertEqual((rest.job, rest.over), (None, (("A1", 3),)))

    def test_a_piece_with_another_name_is_the_same_piece(self):
        made = cut(wants(self.bases, self.mats))
        rest = rest_of(wants(replace(self.mats, id="B7", count=13)), [made])
        self.assertEqual((left(rest.job), rest.over), ({"B7": 1}, (("A1", 10),)))

    def test_its_own_name_comes_first(self):
        made = cut(wants(self.mats, replace(self.mats, id="B2", count=4)))
        rest = rest_of(wants(replace(self.mats, count=6), replace(self.mats, id="B2", count=7)), [made])
        self.assertEqual((rest.job, rest.over), (None, (("A2", 3),)))

    def test_one_that_may_not_be_turned_is_another_piece(self):
        made = cut(wants(self.mats))
        rest = rest_of(wants(replace(self.mats, turn=False)), [made])
        self.assertEqual((left(rest.job), rest.over), ({"A2": 12}, (("A2", 12),)))

    def test_another_size_is_all_to_be_made(self):
        rest = rest_of(wants(piece("A2", "4 x 5", 12)), [cut(wants(self.mats))])
        self.assertEqual((left(rest.job), rest.over), ({"A2": 12}, (("A2", 12),)))

    def test_what_could_not_be_made_is_still_wanted(self):
        job = wants(self.mats)
        self.assertEqual(left(rest_of(job, [cut(job, A2=3)]).job), {"A2": 3})

    def test_a_supplement_is_cut_too(self):
        first, more = cut(wants(self.mats)), cut(wants(replace(self.mats, count=4)))
        self.assertEqual(left(rest_of(wants(replace(self.mats, count=17)), [first, more]).job), {"A2": 1})

    def test_what_a_sheet_gave_beyond_the_job_serves_who_comes_later(self):
        ten = wants(replace(self.mats, count=10))
        made = cut(ten)
        self.assertEqual((made.pieces["A2"], made.beyond["A2"]), (12, 2))
        self.assertEqual(rest_of(ten, [made]), Rest(None, ()))
        self.assertIsNone(rest_of(wants(self.mats), [made]).job)
        self.assertEqual(rest_of(wants(replace(self.mats, count=9)), [made]).over, (("A2", 1),))

    def test_matched_pieces_come_as_whole_rows(self):
        row = Row("A doors", "x", ("A3", "A4"))
        doors = piece("A3", "2 x 5", 6, turn=False), piece("A4", "2 x 5", 6, turn=False)
        made = cut(wants(*doors, matched=(row,)))
        rest = rest_of(wants(replace(doors[0], count=8), replace(doors[1], count=7), matched=(row,)), [made])
        self.assertEqual((left(rest.job), rest.job.matched), ({"A3": 2, "A4": 2}, (row,)))
        # The same size out of no row is no such piece.
        alone = cut(wants(doors[0]))
        rest = rest_of(wants(*doors, matched=(row,)), [alone])
        self.assertEqual((left(rest.job), rest.over), ({"A3": 6, "A4": 6}, (("A3", 6),)))

    def test_what_goes_into_what_would_be_waste_is_never_a_rest(self):
        job = wants(self.mats, piece("Z1", "1 x 2", 50, filler=True))
        self.assertIsNone(rest_of(job, [cut(wants(self.mats))]).job)

    def test_more_people_get_their_portions_in_the_same_way(self):
        share = {"each": 1}
        job = wants(piece("A2", "4 x 5¼", 4, **share), piece("A3", "1 x 4", 4, **share), pool="portions", people=4)
        made = cut(job)
        self.assertEqual(made.pieces, {"A2": 4, "A3": 4})
        grown = replace(job, people=6, pieces=tuple(replace(each, count=6) for each in job.pieces))
        rest = rest_of(grown, [made])
        self.assertEqual((rest.job.pool, rest.job.people, left(rest.job)), ("portions", 2, {"A2": 2, "A3": 2}))
        check_shares(rest.job.pieces, rest.job.people, "")
        # The same people with a piece more get it from common sheets.
        more = replace(job, pieces=(*job.pieces, piece("A4", "1 x 1", 4, **share)))
        rest = rest_of(more, [made])
        self.assertEqual((rest.job.pool, left(rest.job)), ("together", {"A4": 4}))

    @given(st.lists(st.tuples(st.integers(1, 9), st.integers(0, 9)), min_size=1, max_size=4))
    def test_made_and_rest_are_what_is_wanted_and_what_is_over(self, counts):
        sizes = ["4 x 5", "3 x 4", "2 x 3", "1 x 5"]
        before = wants(*(piece(f"A{n}", sizes[n], was) for n, (was, _) in enumerate(counts)))
        now = wants(*(piece(f"A{n}", sizes[n], is_now) for n, (_, is_now) in enumerate(counts)))
        made = cut(before)
        rest = rest_of(now, [made])
        for was, is_now in each_of(tuple(zip(before.pieces, now.pieces, strict=True))):
            there = made.pieces[was.id]
            self.assertEqual(there + left(rest.job).get(was.id, 0), max(is_now.count, there))
            self.assertEqual(dict(rest.over).get(was.id, 0), max(0, min(was.count, there) - is_now.count))
