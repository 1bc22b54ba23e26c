"""The command line: ``zester fit JOB.json --out PLAN.json``."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from zester.core.errors import ZesterError
from zester.core.fitting.engine import PAPER_SECONDS, fit
from zester.core.fitting.job import LARGEST_FILE, read_job
from zester.core.fitting.plan import write_plan

MADE, UNUSABLE, SHORT = 0, 2, 3


def main(arguments: list[str] | None = None) -> int:
    """Run the command; returns the exit status: 0 all made, 3 some pieces short, 2 the job is not usable."""
    parser = argparse.ArgumentParser(prog="zester", description="Fit the pieces of a card class onto whole sheets.")
    commands = parser.add_subparsers(dest="command", required=True)
    fitting = commands.add_parser("fit", help="read a fit job, write a fit plan")
    fitting.add_argument("job", help="the job, a JSON file; - for standard input")
    fitting.add_argument("--out", default="-", help="where to write the plan; - for standard output (the default)")
    fitting.add_argument(
        "--seconds", type=float, default=PAPER_SECONDS, help="time budget for each paper (default %(default)s)"
    )
    options = parser.parse_args(arguments)
    try:
        plan = fit(read_job(_read(options.job)), seconds=options.seconds)
        _write(options.out, write_plan(plan) + "\n")
    except (ZesterError, OSError) as error:
        print(f"zester: {_one_line(error)}", file=sys.stderr)
        return UNUSABLE
    return SHORT if plan.short else MADE


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
    else:
        Path(path).write_text(text, encoding="utf-8")


if __name__ == "__main__":
    sys.exit(main())
