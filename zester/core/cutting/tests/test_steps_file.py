"""The steps as a file: somebody who knows nothing but the file follows them to the letter."""

import contextlib
import io
import json
import tempfile
from collections import Counter
from fractions import Fraction
from pathlib import Path
from unittest import TestCase

from zester.cli import main
from zester.core.cutting.habits import Habits
from zester.core.cutting.steps_file import steps_of
from zester.core.errors import PlanError
from zester.core.fitting.engine import fit
from zester.core.fitting.jobs.job_file import read_job
from zester.core.fitting.jobs.plan import write_plan
from zester.core.fitting.tests.jobs import job, random_job
from zester.core.pace import Pace
from zester.core.tests.share import each_of, some

EXAMPLES = Path(__file__).parents[4] / "docs" / "examples"


def length(text: str) -> Fraction:
    """``8 1/2`` or ``108.5 mm`` in the unit of the file, inches where millimetres are named."""
    number, millimetres = text.removesuffix(" mm"), text.endswith(" mm")
    found = sum(Fraction(part) for part in number.split())
    return found / Fraction("25.4") if millimetres else found


class Table:
    """What lies on a table while steps are followed; what is not there cannot be taken."""

    def __init__(self, paper: dict, stack: int):
        self.stack = stack
        self.piles: dict[str, tuple[Fraction, Fraction, int]] = {}
        self.opened: Counter = Counter()
        self.pieces: Counter = Counter()
        self.settings = self.stacks = self.strokes = 0
        rail, gave = None, {}
        for step in paper["steps"]:
            self.take(step)
            one_in_hand = step["from"] == "pile" and len(step["stacks"]) == 1
            self.stacks += 0 if one_in_hand and gave.get(step["take"]) == step["count"] else len(step["stacks"])
            self.settings += step["at"] != rail
            self.strokes += step["cuts"] * len(step["stacks"])
            rail, gave = step["at"], self.cut(step)

    def take(self, step: dict) -> None:
        """Sheets are opened; a pile is taken as it lies."""
        size = length(step["width"]), length(step["height"])
        assert sum(step["stacks"]) == step["count"], step
        assert max(step["stacks"]) <= self.stack, step
        if step["from"] == "sheet":
            self.opened[step["take"]] += step["count"]
        else:
            *lying, count = self.piles.pop(step["take"])
            assert (tuple(lying), count) == (size, step["count"]), step

    def cut(self, step: dict) -> dict[str, int]:
        """Cut off so often; what the step says it gives is what comes off. The piles it gave."""
        wide, high, at = length(step["width"]), length(step["height"]), length(step["at"])
        came: Counter = Counter()
        for _ in range(step["cuts"]):
            came[(at, high) if step["axis"] == "x" else (wide, at)] += step["count"]
            wide, high = (wide - at, high) if step["axis"] == "x" else (wide, high - at)
            assert min(wide, high) > 0, step
        came[(wide, high)] += step["count"]
        told: Counter = Counter()
        for each in step["gives"]:
            size = length(each["width"]), length(each["height"])
            told[size] += each["count"]
            if each["kind"] == "pile":
                before = self.piles.get(each["name"], (*size, 0))
                assert before[:2] == size, "a pile holds parts of one size"
                self.piles[each["name"]] = (*size, before[2] + each["count"])
            elif each["kind"] == "piece":
                self.pieces[each["name"], tuple(sorted(size))] += each["count"]
            else:
                assert each["kind"] in ("keep", "waste")
        assert told == came, step
        return {each["name"]: each["count"] for each in step["gives"] if each["kind"] == "pile"}


class FileTests(TestCase):
    def follow(self, wanted, plan) -> list[Table]:
        """Every paper of the file followed, and compared with what the job asks for."""
        told = json.loads(steps_of(wanted, plan))
        self.assertEqual((told["zester"], told["unit"]), ("fit-steps/1", wanted.unit))
        tables = []
        for paper, asked, planned in zip(told["papers"], wanted.papers, plan.papers, strict=True):
            table = Table(paper, wanted.bench.stack)
            self.assertEqual(table.piles, {}, "no pile is left")
            used = Counter()
            for layout in planned.on_sheets:
                used[layout.sheet] += layout.copies if layout.cuts else 0
            self.assertEqual(table.opened, +used)
            figures = [paper[name] for name in ("settings", "stacks", "strokes")]
            self.assertEqual(figures, [table.settings, table.stacks, table.strokes])
            self.assertEqual(paper["seconds"], 12 * figures[0] + 8 * figures[1] + 4 * figures[2])
            self.check_pieces(table, asked, planned)
            tables.append(table)
        return tables

    def check_pieces(self, table: Table, asked, planned) -> None:
        known = {piece.id: tuple(sorted((piece.width, piece.height))) for piece in asked.pieces}
        made: Counter = Counter()
        for (names, _), count in table.pieces.items():
            sizes = {known[name] for name in names.split(", ")}
            self.assertEqual(len(sizes), 1, "pieces of one pile are alike")
            made[sizes.pop()] += count
        need: Counter = Counter()
        for piece in asked.pieces:
            need[known[piece.id]] += piece.count - dict(planned.short).get(piece.id, 0)
        # A sheet that is a piece as it comes needs no cut, and no step.
        for layout in planned.on_sheets:
            if not layout.cuts:
                for named in layout.parts:
                    made[known[named.piece]] += layout.copies
        for size, count in need.items():
            self.assertGreaterEqual(made[size], count)

    def test_jobs_are_cut_by_the_file_alone(self):
        for seed in range(some(20)):
            with self.subTest(seed=seed):
                wanted = random_job(seed)
                self.follow(wanted, fit(wanted, seconds=0.3))

    def test_a_file_is_written_line_by_line_so_that_two_can_be_compared(self):
        wanted = job("8½ x 11", ("8½ x 5½", 14))
        lines = steps_of(wanted, fit(wanted)).splitlines()
        self.assertEqual(lines[:4], ["{", ' "zester": "fit-steps/1",', ' "unit": "in",', ' "papers": ['])

    def test_strokes_stacks_settings_and_seconds_by_hand(self):
        # Fourteen halves from seven sheets in stacks of three: one place of the rail, three stacks, three strokes.
        wanted = job("8½ x 11", ("8½ x 5½", 14), stack=3)
        plan = fit(wanted)
        told = json.loads(steps_of(wanted, plan, Habits(pace=Pace(setting=10, stack=5, stroke=1))))["papers"][0]
        self.assertEqual([told[name] for name in ("settings", "stacks", "strokes", "seconds")], [1, 3, 3, 28])
        # One sheet in four quarters: both halves are one stack that is still in the hand.
        wanted = job("8½ x 11", ("4¼ x 5½", 4), stack=3)
        told = json.loads(steps_of(wanted, fit(wanted)))["papers"][0]
        self.assertEqual([told[name] for name in ("settings", "stacks", "strokes", "seconds")], [2, 1, 2, 40])

    def test_a_plan_of_another_job_gets_no_steps(self):
        plan = fit(job("8½ x 11", ("8½ x 5½", 14)))
        with self.assertRaises(PlanError):
            steps_of(job("8½ x 11", ("4 x 5", 3)), plan)


class CommandTests(TestCase):
    def run_steps(self, job_text: str, plan_text: str) -> tuple[int, str, str]:
        """Exit status, what was written, and standard error."""
        with tempfile.TemporaryDirectory() as folder:
            paths = [Path(folder, name) for name in ("job.json", "plan.json", "steps.json")]
            paths[0].write_text(job_text)
            paths[1].write_text(plan_text)
            errors = io.StringIO()
            with contextlib.redirect_stderr(errors):
                status = main(["steps", str(paths[0]), str(paths[1]), "--out", str(paths[2])])
            return status, paths[2].read_text() if paths[2].exists() else "", errors.getvalue()

    def test_the_command_writes_the_steps_of_every_example(self):
        for path in each_of(sorted(EXAMPLES.glob("*.json"))):
            with self.subTest(path.name):
                text = path.read_text()
                wanted = read_job(text)
                plan = fit(wanted, seconds=2)
                status, written, errors = self.run_steps(text, write_plan(plan))
                self.assertEqual((status, errors), (0, ""))
                self.assertEqual(json.loads(written), json.loads(steps_of(wanted, plan)))

    def test_a_plan_that_is_none_is_2_with_one_line(self):
        text = sorted(EXAMPLES.glob("*.json"))[0].read_text()
        for plan in ("", "{}", "[]", '{"zester": "fit-plan/1"}'):
            status, written, errors = self.run_steps(text, plan)
            self.assertEqual((status, written, errors.count("\n")), (2, "", 1))
