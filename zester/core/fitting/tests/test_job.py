"""Reading and writing jobs, and the command line."""

import contextlib
import io
import json
import tempfile
from pathlib import Path
from unittest import TestCase

from zester.cli import main
from zester.core.errors import JobError
from zester.core.fitting.jobs.check_plan import check_plan
from zester.core.fitting.jobs.job_file import read_job, write_job
from zester.core.fitting.jobs.plan import read_plan
from zester.core.lengths import parse_length

QUESTIONS = Path(__file__).parents[4] / "docs" / "examples" / "questions.json"
EXAMPLE = {
    "zester": "fit-job/1",
    "unit": "in",
    "trimmer": {"stack": 3},
    "papers": [
        {
            "id": "brass",
            "sheets": [
                {"id": "letter", "width": "8 1/2", "height": 11, "count": None, "cost": "0.42"},
                {"id": "offcut-7", "width": "4¼", "height": 6.0, "count": 2, "cost": 0},
            ],
        }
    ],
    "pieces": [
        {"id": "A1", "paper": "brass", "width": "4", "height": 5.25, "count": 14},
        {"id": "B2", "paper": "brass", "width": "1", "height": "5 1/4", "count": 28, "turn": False},
    ],
}


def changed(path: str, value) -> str:
    """The example with one field changed; ``path`` like pieces.0.count; DELETE takes it away."""
    data = json.loads(json.dumps(EXAMPLE))
    *way, last = [int(step) if step.isdigit() else step for step in path.split(".")]
    place = data
    for step in way:
        place = place[step]
    if value is DELETE:
        del place[last]
    else:
        place[last] = value
    return json.dumps(data)


DELETE = object()


class JobTests(TestCase):
    def test_reading_and_writing_back(self):
        job = read_job(json.dumps(EXAMPLE))
        self.assertEqual(job.papers[0].sheets[1].width, parse_length("4 1/4"))
        self.assertEqual((job.bench.stack, job.papers[0].pieces[1].turn), (3, False))
        self.assertEqual(read_job(write_job(job)), job)

    def test_defaults(self):
        data = json.loads(changed("trimmer", DELETE))
        del data["papers"][0]["sheets"][0]["count"], data["papers"][0]["sheets"][0]["cost"]
        job = read_job(json.dumps(data))
        self.assertEqual((job.bench.stack, job.papers[0].sheets[0].count, job.papers[0].sheets[0].cost), (1, None, 1))

    def test_every_mistake_names_its_field(self):
        mistakes = [
            ("zester", "cake/1", "zester"),
            ("unit", "ell", "unit"),
            ("unit", DELETE, "unit"),
            ("colour", "red", "colour"),
            ("trimmer.stak", 3, "trimmer.stak"),
            ("trimmer.stack", 0, "trimmer.stack"),
            ("papers", {}, "papers"),
            ("papers.0.sheets", [], "papers[0].sheets"),
            ("papers.0.sheets.0.width", "8.3", "papers[0].sheets[0].width"),
            ("papers.0.sheets.0.cost", "-1", "papers[0].sheets[0].cost"),
            ("papers.0.sheets.0.cost", "NaN", "papers[0].sheets[0].cost"),
            ("papers.0.sheets.1.id", "letter", "papers[0].sheets[1].id"),
            ("papers.0.sheets.1.count", -1, "papers[0].sheets[1].count"),
            ("pieces", [], "pieces"),
            ("pieces.0.paper", "gold", "pieces[0].paper"),
            ("pieces.0.count", 0, "pieces[0].count"),
            ("pieces.0.count", 1.5, "pieces[0].count"),
            ("pieces.0.count", True, "pieces[0].count"),
            ("pieces.0.height", "0", "pieces[0].height"),
            ("pieces.0.height", None, "pieces[0].height"),
            ("pieces.0.width", "12", "pieces[0]"),
            ("pieces.1.id", "A1", "pieces[1].id"),
            ("pieces.1.turn", "no", "pieces[1].turn"),
            ("pieces.1", "B2", "pieces[1]"),
        ]
        for path, value, field in mistakes:
            with self.subTest(path=path, value=value), self.assertRaises(JobError) as caught:
                read_job(changed(path, value))
            self.assertEqual(caught.exception.where, field)

    def test_a_file_that_is_no_job(self):
        for text in ["", "not json", "[]", "3", '{"zester": NaN}', "[" * 100_000, "x" * 2_000_001]:
            with self.subTest(text=text[:20]), self.assertRaises(JobError):
                read_job(text)


class CommandLineTests(TestCase):
    def run_fit(self, job: str, out: str = "-") -> tuple[int, str, str]:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder, "job.json")
            path.write_text(job)
            target = str(Path(folder, out)) if out != "-" else out
            output, errors = io.StringIO(), io.StringIO()
            with contextlib.redirect_stdout(output), contextlib.redirect_stderr(errors):
                status = main(["fit", str(path), "--out", target])
            written = Path(target).read_text() if out != "-" and Path(target).exists() else output.getvalue()
        return status, written, errors.getvalue()

    def test_every_piece_made_is_0_and_the_plan_passes_its_check(self):
        status, plan, errors = self.run_fit(json.dumps(EXAMPLE), "plan.json")
        self.assertEqual((status, errors), (0, ""))
        check_plan(read_job(json.dumps(EXAMPLE)), read_plan(plan))
        self.assertEqual(json.loads(plan)["papers"][0]["cost"], "2.10")

    def test_standard_output_holds_the_plan_and_nothing_else(self):
        status, plan, _ = self.run_fit(json.dumps(EXAMPLE))
        self.assertEqual((status, json.loads(plan)["zester"]), (0, "fit-plan/1"))

    def test_short_is_3_with_the_plan_written(self):
        status, plan, _ = self.run_fit(changed("papers.0.sheets.0.count", 1), "plan.json")
        self.assertEqual(status, 3)
        self.assertTrue(json.loads(plan)["papers"][0]["short"])

    def test_unusable_is_2_with_one_line_and_nothing_written(self):
        status, plan, errors = self.run_fit(changed("pieces.0.count", -4), "plan.json")
        self.assertEqual((status, plan), (2, ""))
        self.assertIn("pieces[0].count", errors)
        self.assertEqual(errors.count("\n"), 1)

    def test_a_missing_file_is_2(self):
        errors = io.StringIO()
        with contextlib.redirect_stderr(errors):
            self.assertEqual(main(["fit", "nowhere.json"]), 2)
        self.assertIn("nowhere.json", errors.getvalue())


class QuestionCommandTests(TestCase):
    """``zester plans``, ``seats`` and ``near`` on an example of the documents."""

    def ask(self, question: str) -> list:
        out = io.StringIO()
        with contextlib.redirect_stdout(out):
            self.assertEqual(main([question, str(QUESTIONS)]), 0)
        (answer,) = json.loads(out.getvalue())
        self.assertEqual(answer["paper"], "ember dust")
        return answer[question]

    def test_plans_come_with_their_figures(self):
        found = self.ask("plans")
        self.assertEqual(found[0]["name"], "thriftiest")
        for choice in found:
            self.assertEqual(choice["sheets"], choice["plan"]["sheets"])
            self.assertTrue(0 < choice["yield"] <= 1)

    def test_seats_go_up_to_sixty_in_whole_packs_of_ten(self):
        steps = self.ask("seats")
        self.assertEqual(steps[-1]["people"], 60)
        self.assertTrue(all(step["packs"] == -(-step["sheets"] // 10) for step in steps))

    def test_near_misses_name_pieces_and_sides(self):
        (miss, *_) = self.ask("near")
        self.assertEqual((miss["pieces"], miss["side"], miss["smaller"]), (["A2"], "height", "1/8"))

    def test_a_job_that_cannot_be_used_is_one_line_and_2(self):
        errors = io.StringIO()
        with contextlib.redirect_stderr(errors):
            self.assertEqual(main(["seats", "/nowhere/job.json"]), 2)
        self.assertEqual(errors.getvalue().count("\n"), 1)
