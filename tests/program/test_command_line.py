"""The command line with whatever it may be given: one line, an exit code, never a traceback."""

from __future__ import annotations

import contextlib
import copy
import io
import json
import random
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import mock

from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st

from zester import cli
from zester.core.errors import JobError
from zester.core.fitting.jobs.job_file import read_job
from zester.core.tests.share import some

ROOT = Path(__file__).parents[2]
GOOD = [path.read_bytes() for path in sorted((ROOT / "docs" / "examples").glob("*.json"))]
ODD = (
    None,
    True,
    -1,
    0,
    10**30,
    1e308,
    float("nan"),
    "",
    "²",
    "\ud800",
    "9" * 4000,
    [],
    {},
    [[]],
    {"a": 1},
    "1e999999",
)


def paths_of(entry, path: tuple = ()) -> list[tuple]:
    """Where everything in JSON data stands."""
    inner = entry.items() if isinstance(entry, dict) else enumerate(entry) if isinstance(entry, list) else ()
    return [path, *(deep for key, value in inner for deep in paths_of(value, (*path, key)))]


def with_something_odd(data: dict, dice: random.Random) -> dict:
    """A job with an odd value in one to three places."""
    for _ in range(dice.randint(1, 3)):
        *way, last = dice.choice(paths_of(data)[1:])
        place = data
        try:
            for key in way:
                place = place[key]
            place[last] = copy.deepcopy(dice.choice(ODD))
        except (TypeError, KeyError, IndexError):
            continue
    return data


class CommandLineTests(SimpleTestCase):
    def run_with(self, *arguments: str, data: bytes | None = None) -> tuple[int, str, str]:
        """The exit code and what was printed."""
        out, err = io.StringIO(), io.StringIO()
        with tempfile.TemporaryDirectory() as folder:
            if data is not None:
                path = Path(folder, "job.json")
                path.write_bytes(data)
                arguments = (arguments[0], str(path), *arguments[1:])
            with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
                try:
                    code = cli.main(list(arguments))
                except SystemExit as error:
                    code = error.code
        return code, out.getvalue(), err.getvalue()

    def check_one_line(self, found: tuple[int, str, str], code: int = 2) -> None:
        self.assertEqual(found[0], code, found[2])
        self.assertEqual(len(found[2].strip().splitlines()), 1, found[2])
        self.assertTrue(found[2].startswith("zester: "), found[2])

    @settings(max_examples=some(1500))
    @given(st.sampled_from(GOOD), st.randoms(use_true_random=False))
    def test_jobs_with_odd_values_are_read_or_said_to_be_unusable(self, good, dice):
        text = json.dumps(with_something_odd(json.loads(good), dice))
        with contextlib.suppress(JobError):
            read_job(text)

    @settings(max_examples=some(500))
    @given(st.sampled_from(GOOD), st.integers(0, 2**32), st.binary(max_size=8))
    def test_jobs_with_broken_bytes(self, good, at, put):
        at %= len(good)
        with contextlib.suppress(JobError):
            read_job(good[:at] + put + good[at + len(put) :])

    def test_each_gives_one_line_and_its_code(self):
        dice = random.Random(3)
        for data in (b"", b"\xff\xfe", b"[" * 50_000, b"[]", b'{"zester": "fit-job/1"}', b"9" * 5000, b"\x00"):
            self.check_one_line(self.run_with("fit", data=data))
        done = 0
        for _ in range(1000):
            if done == 25:
                break
            text = json.dumps(with_something_odd(json.loads(dice.choice(GOOD)), dice))
            try:
                read_job(text)
            except JobError:
                self.check_one_line(self.run_with("near", data=text.encode()))
                done += 1
        self.assertEqual(done, 25)

    def test_places_that_are_not_there(self):
        self.check_one_line(self.run_with("fit", "/nowhere/job.json"))
        self.check_one_line(self.run_with("fit", "/"))
        self.check_one_line(self.run_with("fit", "--out", "/nowhere/plan.json", "--seconds", "1", data=GOOD[0]))

    def test_times_that_are_none(self):
        for odd in ("0", "-1", "nan", "inf", "1e9", "soon"):
            code, _, err = self.run_with("fit", "--seconds", odd, data=GOOD[0])
            self.assertEqual(code, 2)
            self.assertIn("is no time; write seconds above 0", err)

    def test_a_plan_and_its_proof_are_checked_and_a_touched_one_is_refused(self):
        with tempfile.TemporaryDirectory() as folder:
            job = str(ROOT / "benchmarks" / "stargazer.json")
            plan, proof = str(Path(folder, "plan.json")), Path(folder, "proof.json")
            self.assertEqual(self.run_with("fit", job, "--quick", "--out", plan)[0], 0)
            self.assertEqual(self.run_with("prove", job, plan, "--out", str(proof))[0], 0)
            code, out, _ = self.run_with("check", job, plan, "--proof", str(proof))
            self.assertEqual((code, out.count("no plan costs less than")), (0, 8))
            whole = json.loads(proof.read_text())
            # No prices, half a price; a cost that is not the plan's; a paper nobody has.
            for key, odd in (("prices", []), ("prices", [{"A1": 1.5}]), ("cost", "1.00"), ("id", "Nowhere")):
                touched = copy.deepcopy(whole)
                touched["papers"][0][key] = odd
                proof.write_text(json.dumps(touched))
                with self.subTest(key):
                    self.check_one_line(self.run_with("check", job, plan, "--proof", str(proof)))
            self.check_one_line(self.run_with("check", job, plan, "--proof", job))
            self.check_one_line(self.run_with("check", job, job))

    def test_a_defect_of_ours_says_where_in_one_line(self):
        with mock.patch("zester.core.fitting.engine.fit", side_effect=ZeroDivisionError):
            found = self.run_with("fit", data=GOOD[0])
        self.check_one_line(found, 70)
        self.assertIn("ZeroDivisionError at", found[2])

    def test_stopping_by_hand_says_so(self):
        with mock.patch("zester.core.fitting.engine.fit", side_effect=KeyboardInterrupt):
            self.check_one_line(self.run_with("fit", data=GOOD[0]), 130)

    def test_whoever_reads_may_stop_reading(self):
        path = ROOT / "docs" / "examples" / sorted((ROOT / "docs" / "examples").glob("*.json"))[0].name
        command = f"{sys.executable} -m zester.cli fit {path} --seconds 1 | head -c 10"
        done = subprocess.run(["sh", "-c", command], capture_output=True, text=True, check=False, cwd=ROOT, timeout=120)
        self.assertEqual(done.stderr, "")

    def test_the_help_loads_neither_the_solver_nor_the_compiler(self):
        slow = "('numpy', 'numba', 'highspy')"
        command = f"import sys, zester.cli; zester.cli._parser(); sys.exit(any(name in sys.modules for name in {slow}))"
        done = subprocess.run([sys.executable, "-c", command], check=False, cwd=ROOT, timeout=120)
        self.assertEqual(done.returncode, 0)
