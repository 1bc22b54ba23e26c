"""One order over several papers: somebody who knows nothing but the file follows it to the letter."""

import contextlib
import io
import json
import random
import tempfile
from collections import Counter
from dataclasses import replace
from pathlib import Path
from unittest import TestCase

from zester.cli import main
from zester.core.cutting.habits import Habits
from zester.core.cutting.shared_rail import Leg, PaperToCut, SharedRail, share_rail
from zester.core.cutting.steps import cutting_steps
from zester.core.cutting.steps_file import shared_steps_of
from zester.core.cutting.tests.test_steps_file import Table
from zester.core.fitting.engine import fit
from zester.core.fitting.jobs.job import Bench, Job
from zester.core.fitting.jobs.job_file import write_job
from zester.core.fitting.jobs.plan import Plan, write_plan
from zester.core.fitting.tests.jobs import job
from zester.core.tests.share import some

# Sizes as they come again and again in a class: card bases, mats, panels, strips.
SIZES = ("5½ x 8½", "4 x 5¼", "3¾ x 5", "2 x 4", "1 x 5¼", "4¼ x 5½", "3 x 3", "2½ x 4")


def class_of(seed: int, papers: int) -> Job:
    """A class of so many papers, drawn from everyday sizes."""
    dice, found = random.Random(seed), []
    for number in range(papers):
        sizes = dice.sample(SIZES, dice.randint(1, 4))
        one = job("8½ x 11", *((size, dice.choice((4, 6, 12, 13))) for size in sizes), stack=3)
        pieces = tuple(replace(piece, id=f"{piece.id}{number}") for piece in one.papers[0].pieces)
        found.append(replace(one.papers[0], id=f"paper {number}", pieces=pieces))
    return Job("in", tuple(found), one.bench)


def shared(wanted: Job, plan: Plan, room: int | None = None) -> tuple[SharedRail, int]:
    """The order over the papers, and the seconds of one after the other."""
    habits = Habits()
    papers = [
        PaperToCut(job=p, plan=q, bench=wanted.bench, habits=habits, alone=cutting_steps(p, q, wanted.bench, habits))
        for p, q in zip(wanted.papers, plan.papers, strict=True)
    ]
    return share_rail(papers, room), sum(paper.alone.seconds() for paper in papers)


class Follower:
    """Follows a file in its order over the papers: what is set, fetched and cut, and how many piles lie there."""

    def __init__(self, told: dict, stack: int):
        papers = {paper["id"]: paper for paper in told["papers"]}
        self.tables = {name: Table({"steps": []}, stack) for name in papers}
        done: Counter = Counter()
        self.settings = self.seconds = self.most_piles = 0
        rail, last, gave = None, None, {}
        for leg in told["order"]:
            name = leg["paper"]
            assert leg["first"] == done[name] + 1, "no step of a paper is left out, none comes twice"
            for step in papers[name]["steps"][leg["first"] - 1 : leg["last"]]:
                in_hand = step["from"] == "pile" and len(step["stacks"]) == 1 and name == last
                self.tables[name].take(step)
                fetched = 0 if in_hand and gave.get(step["take"]) == step["count"] else len(step["stacks"])
                self.settings += step["at"] != rail
                self.seconds += 12 * (step["at"] != rail) + 8 * fetched + 4 * step["cuts"] * len(step["stacks"])
                gave, rail, last = self.tables[name].cut(step), step["at"], name
                self.most_piles = max(self.most_piles, sum(len(table.piles) for table in self.tables.values()))
            done[name] = leg["last"]
        assert all(done[name] == len(paper["steps"]) for name, paper in papers.items()), "all is cut"


class SharedRailTests(TestCase):
    def follow(self, wanted: Job, plan: Plan, room: int | None = None) -> tuple[dict, Follower]:
        """The file followed, and its figures compared with what was counted on the way."""
        told = json.loads(shared_steps_of(wanted, plan, Habits(most_piles=room)))
        follower = Follower(told, wanted.bench.stack)
        self.assertEqual((told["settings"], told["seconds"]), (follower.settings, follower.seconds))
        # A stack that stays in the hand does not lie on the table.
        self.assertLessEqual(told["piles"], follower.most_piles)
        for paper, planned in zip(wanted.papers, plan.papers, strict=True):
            table = follower.tables[paper.id]
            self.assertEqual(table.piles, {}, "no pile is left")
            made = Counter(part.piece for lay in planned.layouts for part in lay.parts for _ in range(lay.copies))
            cut = Counter()
            for (names, _), count in table.pieces.items():
                cut[names.split(", ")[0]] += count
            if not any(lay.cuts == () for lay in planned.layouts):
                self.assertEqual(sum(cut.values()), sum(made.values()))
        return told, follower

    def test_classes_are_cut_by_the_file_alone_and_never_take_longer_than_paper_by_paper(self):
        gained = 0
        for seed in range(some(4)):
            with self.subTest(seed=seed):
                wanted = class_of(seed, 2 + seed % 4)
                plan = fit(wanted, seconds=0.4)
                told, _ = self.follow(wanted, plan)
                apart = sum(paper["seconds"] for paper in json.loads(shared_steps_of(wanted, plan))["papers"])
                found, one_by_one = shared(wanted, plan)
                self.assertEqual(told["seconds"], found.seconds())
                self.assertLessEqual(found.seconds(), one_by_one)
                self.assertGreaterEqual(apart, found.seconds())
                self.assertLessEqual(told["places"], told["settings"])
                gained += found.seconds() < one_by_one
        self.assertTrue(gained, "papers that share sizes are quicker together")

    def test_the_same_mats_of_three_papers_need_the_rail_set_as_often_as_those_of_one(self):
        one = job("8½ x 11", ("4 x 5¼", 12), stack=3)
        names = ("white", "sky", "moss")
        wanted = Job(
            "in",
            tuple(
                replace(one.papers[0], id=name, pieces=(replace(one.papers[0].pieces[0], id=f"{name}-mat"),))
                for name in names
            ),
            one.bench,
        )
        plan = fit(wanted)
        alone = cutting_steps(wanted.papers[0], plan.papers[0], one.bench)
        told, _ = self.follow(wanted, plan)
        self.assertEqual((told["settings"], told["places"]), (alone.settings, alone.places))
        self.assertLess(told["seconds"], 3 * alone.seconds())
        # Not more is saved than settings: the two that fall away, and no stroke.
        self.assertGreaterEqual(told["seconds"], 3 * alone.seconds() - 2 * alone.settings * 12)

    def test_little_room_is_kept_or_paper_is_cut_after_paper(self):
        wanted = class_of(3, 5)
        plan = fit(wanted, seconds=0.4)
        papers = zip(wanted.papers, plan.papers, strict=True)
        most = max(cutting_steps(paper, cut, wanted.bench).most_piles for paper, cut in papers)
        for room in (3, 8, None):
            found, one_by_one = shared(wanted, plan, room)
            if room is not None:
                self.assertLessEqual(found.most_piles, max(room, most))
            self.assertLessEqual(found.seconds(), one_by_one)

    def test_papers_planned_for_stacks_of_other_heights_are_cut_one_after_the_other(self):
        wanted = class_of(5, 3)
        plan = fit(wanted, seconds=0.4)
        papers = [
            PaperToCut(job=p, plan=q, bench=bench, habits=Habits(), alone=cutting_steps(p, q, bench))
            for p, q, bench in zip(wanted.papers, plan.papers, (Bench(3), Bench(3), Bench(2)), strict=True)
        ]
        found = share_rail(papers)
        self.assertEqual(found.papers, tuple(paper.alone for paper in papers))
        self.assertEqual([leg.paper for leg in found.legs], sorted(leg.paper for leg in found.legs))

    def test_it_is_the_same_order_each_time(self):
        wanted = class_of(5, 4)
        plan = fit(wanted, seconds=0.4)
        self.assertEqual(shared(wanted, plan)[0], shared(wanted, plan)[0])

    def test_two_small_papers_are_interleaved_as_well_as_any_way_of_trying(self):
        """Every interleaving of the two papers' own steps, tried one by one: none takes less."""
        mats, bases = job("8½ x 11", ("4 x 5¼", 12), stack=3), job("8½ x 11", ("4¼ x 5½", 8), ("4 x 5¼", 4), stack=3)
        other = tuple(replace(piece, id=f"other {piece.id}") for piece in bases.papers[0].pieces)
        wanted = Job("in", (mats.papers[0], replace(bases.papers[0], id="other", pieces=other)), mats.bench)
        found, _ = shared(wanted, fit(wanted))
        steps = [paper.steps for paper in found.papers]
        self.assertLess(len(steps[0]) + len(steps[1]), 15)
        orders = interleavings([len(each) for each in steps])
        best = min(SharedRail(found.papers, tuple(legs), 0).seconds() for legs in orders)
        self.assertEqual(found.seconds(), best)

    def test_the_command_writes_one_order(self):
        wanted = class_of(1, 3)
        plan = fit(wanted, seconds=0.4)
        with tempfile.TemporaryDirectory() as folder:
            paths = [Path(folder, name) for name in ("job.json", "plan.json", "steps.json")]
            paths[0].write_text(write_job(wanted))
            paths[1].write_text(write_plan(plan))
            errors = io.StringIO()
            with contextlib.redirect_stderr(errors):
                status = main(["steps", str(paths[0]), str(paths[1]), "--shared", "--out", str(paths[2])])
            self.assertEqual((status, errors.getvalue()), (0, ""))
            self.assertEqual(json.loads(paths[2].read_text()), json.loads(shared_steps_of(wanted, plan)))


def interleavings(steps: list[int]) -> list[list[Leg]]:
    """All orders of two papers' steps, each paper's in its own order, a leg for every step."""
    found: list[tuple[int, ...]] = [()]
    for _ in range(sum(steps)):
        found = [(*begun, mark) for begun in found for mark in (0, 1) if begun.count(mark) < steps[mark]]
    numbered = []
    for marks in found:
        at = [0, 0]
        legs = []
        for mark in marks:
            at[mark] += 1
            legs.append(Leg(mark, at[mark], at[mark]))
        numbered.append(legs)
    return numbered
