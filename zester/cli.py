"""The command line: ``zester fit JOB.json --out PLAN.json``, and what may be asked about a job.

What takes long to load, the solver and the compiled loops, is imported by the command that needs it: the help and a job
that cannot be used are answered at once.
"""

from __future__ import annotations

import argparse
import json
import os
import sys
import traceback
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from zester.core.cutting.habits import Habits
from zester.core.errors import PlanError, ZesterError
from zester.core.fitting.jobs.job import PAPER_SECONDS, Job, PaperJob
from zester.core.fitting.jobs.job_file import LARGEST_FILE, read_job
from zester.core.fitting.jobs.plan import money, read_plan, write_plan
from zester.core.lengths import write_length
from zester.core.pace import DEFAULT_PACE, Pace

if TYPE_CHECKING:
    # Loaded by the command that needs it.
    from zester.core.questions import SeatRange

MADE, UNUSABLE, SHORT, BROKEN, STOPPED = 0, 2, 3, 70, 130
LONGEST_BUDGET = 3600.0


def main(arguments: list[str] | None = None) -> int:
    """Run the command; returns the exit status.

    0 all made, 3 some pieces short, 2 the job or a file is not usable, 70 a defect of Zester's, 130 stopped by hand.
    """
    options = _parser().parse_args(arguments)
    try:
        status: int = options.run(options, read_job(_read(options.job)))
        return status
    except BrokenPipeError:
        # Whoever reads has enough; what is still in the buffer must not complain at the end either.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return MADE
    except (ZesterError, OSError, UnicodeError) as error:
        print(f"zester: {_one_line(error)}", file=sys.stderr)
        return UNUSABLE
    except KeyboardInterrupt:
        print("zester: stopped", file=sys.stderr)
        return STOPPED
    except Exception as error:
        # Never a traceback: it says nothing to whoever sits there. What to report is in it all the same.
        place = traceback.extract_tb(error.__traceback__)[-1]
        told = f"{type(error).__name__} at {Path(place.filename).name}:{place.lineno}"
        print(f"zester: something went wrong inside, please report it: {told}", file=sys.stderr)
        return BROKEN


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="zester", description="Fit the pieces of a card class onto whole sheets.")
    commands = parser.add_subparsers(dest="command", required=True)
    for name, run, words in (
        ("fit", _fit, "read a fit job, write a fit plan"),
        ("plans", _plans, "plans worth choosing between, with what each comes to"),
        ("seats", _seats, "how many more people the same paper serves"),
        ("near", _near, "which sizes, made a little smaller, would save sheets"),
    ):
        command = _command(commands, name, run, words)
        command.add_argument(
            "--seconds", type=_budget, default=PAPER_SECONDS, help="time budget for each fit (default %(default)s)"
        )
        if name == "fit":
            command.add_argument(
                "--cores", type=_cores, default=1, help="how many papers are fitted beside each other (default 1)"
            )
            command.add_argument(
                "--quick", action="store_true", help="the fewest sheets alone, without looking for fewer minutes"
            )
    command = _command(commands, "steps", _steps, "the steps at the trimmer that cut a plan of the job")
    command.add_argument("plan", help="the plan, a JSON file")
    command.add_argument("--piles", type=_piles, help="how many piles may wait on the table (default: any number)")
    command.add_argument(
        "--pace", type=_pace, default=DEFAULT_PACE, help="seconds for a setting, a stack, a stroke (default 12,8,4)"
    )
    command.add_argument(
        "--shared", action="store_true", help="in one order over all papers, so that the rail is set fewer times"
    )
    command = _command(commands, "prove", _prove, "what proves that no plan costs less, as a file to be checked")
    command.add_argument("plan", help="the plan, a JSON file")
    command.add_argument("--seconds", type=_budget, default=PAPER_SECONDS, help="time budget for each paper")
    command = _command(commands, "check", _check, "whether a plan does what the job asks, and whether a proof holds")
    command.add_argument("plan", help="the plan, a JSON file")
    command.add_argument("--proof", help="a proof, a JSON file, as “prove” writes it")
    return parser


def _command(commands: Any, name: str, run: Callable[..., int], words: str) -> argparse.ArgumentParser:
    command: argparse.ArgumentParser = commands.add_parser(name, help=words)
    command.set_defaults(run=run)
    command.add_argument("job", help="the job, a JSON file; - for standard input")
    command.add_argument("--out", default="-", help="where to write; - for standard output (the default)")
    return command


def _budget(text: str) -> float:
    """Seconds on the command line."""
    try:
        seconds = float(text)
    except ValueError:
        seconds = 0.0
    if not 0 < seconds <= LONGEST_BUDGET:
        raise argparse.ArgumentTypeError(f"“{text}” is no time; write seconds above 0, up to {LONGEST_BUDGET:.0f}")
    return seconds


def _piles(text: str) -> int:
    """A number of piles on the command line."""
    if not (text.isascii() and text.isdigit() and 1 <= int(text[:4]) <= 999):
        raise argparse.ArgumentTypeError(f"“{text}” is no number of piles; write 1 to 999")
    return int(text)


def _cores(text: str) -> int:
    """A number of cores on the command line."""
    if not (text.isascii() and text.isdigit() and 1 <= int(text[:4]) <= 64):
        raise argparse.ArgumentTypeError(f"“{text}” is no number of cores; write 1 to 64")
    return int(text)


def _pace(text: str) -> Pace:
    """A pace on the command line."""
    parts = text.split(",")
    if len(parts) != 3 or not all(part.isascii() and part.isdigit() and 0 < int(part[:5]) <= 3600 for part in parts):
        raise argparse.ArgumentTypeError(f"“{text}” is no pace; write three numbers of seconds, like 12,8,4")
    setting, stack, stroke = map(int, parts)
    return Pace(setting=setting, stack=stack, stroke=stroke)


def _fit(options: argparse.Namespace, job: Job) -> int:
    from zester.core.cutting.steps import minutes_judge
    from zester.core.fitting.engine import fit

    judge = None if options.quick else minutes_judge()
    plan = fit(job, seconds=options.seconds, judge=judge, cores=options.cores)
    _write(options.out, write_plan(plan) + "\n")
    return SHORT if plan.short else MADE


def _steps(options: argparse.Namespace, job: Job) -> int:
    from zester.core.cutting.steps_file import shared_steps_of, steps_of

    habits = Habits(pace=options.pace, most_piles=options.piles)
    told = (shared_steps_of if options.shared else steps_of)(job, read_plan(_read(options.plan)), habits)
    _write(options.out, told + "\n")
    return MADE


def _prove(options: argparse.Namespace, job: Job) -> int:
    from zester.core.fitting.jobs.check_plan import check_plan
    from zester.core.fitting.proofs.proof import write_proofs
    from zester.core.fitting.proofs.prove import prove

    plan = read_plan(_read(options.plan))
    check_plan(job, plan)
    pairs = [(paper, each) for paper, each in zip(job.papers, plan.papers, strict=True) if each.proven]
    _write(options.out, write_proofs(prove(paper, each, options.seconds) for paper, each in pairs) + "\n")
    return MADE


def _check(options: argparse.Namespace, job: Job) -> int:
    from zester.core.fitting.jobs.check_plan import check_plan
    from zester.core.fitting.proofs.proof import PRICES, check_proof, read_proofs

    plan = read_plan(_read(options.plan))
    check_plan(job, plan)
    words = [f"{len(plan.papers)} papers: every piece is made, every cut can be made, the sums are right"]
    by_id = {paper.id: (paper, each) for paper, each in zip(job.papers, plan.papers, strict=True)}
    for proof in read_proofs(_read(options.proof)) if options.proof else ():
        if proof.id not in by_id:
            raise PlanError("the proof is for a paper that the job does not have", proof.id)
        if proof.rests_on == PRICES:
            check_proof(*by_id[proof.id], proof)
            words.append(f"{proof.id}: no plan costs less than {proof.cost}")
        else:
            words.append(f"{proof.id}: what prices leave open rests on the search, and was not checked again")
    _write(options.out, "\n".join(words) + "\n")
    return MADE


def _plans(options: argparse.Namespace, job: Job) -> int:
    from zester.core.choices import choice_entry, plans

    def answer(paper: PaperJob) -> list[dict[str, Any]]:
        return [choice_entry(choice, job.unit) for choice in plans(paper, job.bench, seconds=options.seconds)]

    return _answer(options, job, answer)


def _seats(options: argparse.Namespace, job: Job) -> int:
    from zester.core.questions import seats

    def answer(paper: PaperJob) -> list[dict[str, Any]]:
        steps = seats(paper, job.bench).ranges
        return [{"people": step.last, **_need(step)} for step in steps]

    return _answer(options, job, answer)


def _need(step: SeatRange) -> dict[str, Any]:
    return {"sheets": step.sheets, "packs": step.packs, "price": money(step.price)}


def _near(options: argparse.Namespace, job: Job) -> int:
    from zester.core.questions import near

    def answer(paper: PaperJob) -> list[dict[str, Any]]:
        return [
            {
                "pieces": list(miss.pieces),
                "side": miss.side,
                "smaller": write_length(miss.smaller, job.unit),
                "sheets": miss.sheets,
                "saves": money(miss.money),
            }
            for miss in near(paper, job.bench, job.unit).misses
        ]

    return _answer(options, job, answer)


def _answer(options: argparse.Namespace, job: Job, answer: Callable[[PaperJob], list[dict[str, Any]]]) -> int:
    answers = [{"paper": paper.id, options.command: answer(paper)} for paper in job.papers]
    _write(options.out, json.dumps(answers, indent=1, ensure_ascii=False) + "\n")
    return MADE


def _one_line(error: Exception) -> str:
    return " ".join(str(error).split())


def _read(path: str) -> bytes:
    if path == "-":
        return sys.stdin.buffer.read(LARGEST_FILE + 1)
    with Path(path).open("rb") as file:
        return file.read(LARGEST_FILE + 1)


def _write(path: str, text: str) -> None:
    if path == "-":
        sys.stdout.write(text)
        sys.stdout.flush()
    else:
        Path(path).write_text(text, encoding="utf-8")


if __name__ == "__main__":
    sys.exit(main())
