"""How many small faults in the core's rules its tests notice: ``make mutants``.

Takes a sample of places in each part of the core, changes one at a time in a copy of the code (a comparison turned, a
number off by one, a sum turned into a difference, “and” into “or”), and runs the tests of that part on it. Prints what
nobody noticed, and the share noticed, part by part. The sample is the same for the same seed:

    .venv/bin/python benchmarks/mutants.py [--seed 1] [--many 60] [--part kits …]

The searches of the fitting are left out: a worse search is no wrong one. Its rules and its checkers are in.
"""

from __future__ import annotations

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue

ROOT = Path(__file__).parents[1]

COUNTED = (
    "tally.py",
    "class_job.py",
    "folds.py",
    "supports.py",
    "geometry.py",
    "pieces.py",
    "piece_words.py",
    "care.py",
)
SHEETS = ("papers.py", "paper_lines.py", "sizes.py", "lengths.py", "csv_files.py", "stock/*.py")
RULES = ("job", "job_file", "check_job", "need", "supply", "plan", "drawing", "summary", "leftovers")
# What is changed, part by part, and the tests that should notice, those that are quick first.
PARTS = {
    "cards": (("cards/*.py",), ("cards/tests/*",)),
    "cutlist": (("cutlist/*.py",), ("cutlist/tests/*",)),
    "counting": (COUNTED, ("tests/test_[!q]*", "kits/tests/test_[dk]*", "cards/tests/*", "cutting/tests/test_steps")),
    "sheets": (
        SHEETS,
        ("tests/test_[!q]*", "stock/tests/*", "kits/tests/test_weights", "cutlist/tests/test_find_paper"),
    ),
    "kits": (("kits/*.py",), ("kits/tests/*",)),
    "cutting": (
        ("cutting/*.py",),
        (
            "cutting/tests/test_k*",
            "cutting/tests/test_[bs]*",
            "cutting/tests/test_o*",
            "cutting/tests/test_ma*",
            "cutting/tests/*",
        ),
    ),
    "printing": (("printing/*.py",), ("printing/tests/*",)),
    "fitting's rules": (
        (*(f"fitting/jobs/{name}.py" for name in RULES), "fitting/parts.py"),
        (
            *("fitting/tests/test_sums_by_hand", "fitting/tests/test_job*", "fitting/tests/test_check*"),
            *(
                "fitting/tests/test_kept*",
                "fitting/tests/test_parts",
                "fitting/tests/test_need",
                "fitting/tests/test_[dpr]*",
            ),
            "fitting/tests/test_offcuts",
        ),
    ),
    "fitting's checkers": (
        ("fitting/jobs/check_plan.py", "fitting/proofs/proof.py"),
        (
            "fitting/tests/test_check*",
            "fitting/tests/test_proof",
            "fitting/tests/test_pooling",
            "fitting/tests/test_rules",
        ),
    ),
}
TURNED = {
    ast.Lt: "<=",
    ast.LtE: "<",
    ast.Gt: ">=",
    ast.GtE: ">",
    ast.Eq: "!=",
    ast.NotEq: "==",
    ast.In: "not in",
    ast.NotIn: "in",
}
SUMS = {ast.Add: "-", ast.Sub: "+", ast.Mult: "+", ast.FloorDiv: "*"}
WORKERS = 2
PATIENCE = 180


@dataclass(frozen=True)
class Mutant:
    """One change: in which file, from which byte to which, what stands there then, and its line."""

    file: Path
    start: int
    end: int
    text: str
    line: int


def mutants_of(file: Path) -> list[Mutant]:
    """Every change that may be made in a file."""
    source = file.read_text()
    starts = [0]
    for line in source.splitlines(keepends=True):
        starts.append(starts[-1] + len(line.encode()))

    def at(node: ast.AST, end: bool = False) -> int:
        line, column = (node.end_lineno, node.end_col_offset) if end else (node.lineno, node.col_offset)
        return starts[line - 1] + column

    tree = ast.parse(source)
    # How much is kept in memory is no rule.
    skipped = {
        inner
        for node in ast.walk(tree)
        if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "lru_cache"
        for inner in ast.walk(node)
    }
    data, found = source.encode(), []
    for node in ast.walk(tree):
        if node in skipped:
            continue
        if isinstance(node, ast.Compare) and type(node.ops[0]) in TURNED:
            start, end = at(node.left, end=True), at(node.comparators[0])
            found.append(_between(file, data, start, end, TURNED[type(node.ops[0])], node.lineno))
        elif isinstance(node, ast.Constant) and type(node.value) is int:
            found.append(Mutant(file, at(node), at(node, end=True), str(node.value + 1), node.lineno))
        elif isinstance(node, ast.BinOp) and type(node.op) in SUMS and not _of_text(node):
            start, end = at(node.left, end=True), at(node.right)
            found.append(_between(file, data, start, end, SUMS[type(node.op)], node.lineno))
        elif isinstance(node, ast.BoolOp):
            start, end = at(node.values[0], end=True), at(node.values[1])
            word = "or" if isinstance(node.op, ast.And) else "and"
            found.append(_between(file, data, start, end, word, node.lineno))
    return [each for each in found if each]


def _of_text(node: ast.BinOp) -> bool:
    """Whether texts are put together rather than numbers."""
    return any(isinstance(side, ast.JoinedStr | ast.Constant) and not isinstance(getattr(side, "value", ""), int)
               for side in (node.left, node.right))  # fmt: skip


def _between(file: Path, data: bytes, start: int, end: int, word: str, line: int) -> Mutant | None:
    """The operator that stands between two operands replaced; parentheses round them stay."""
    gap = data[start:end].decode()
    old = gap.strip(" ()\n\\")
    if not old or "#" in old or "(" in old or ")" in old or "\n" in old:
        return None
    place = start + len(gap[: gap.index(old)].encode())
    return Mutant(file, place, place + len(old.encode()), word, line)


# The same cases every time, and none too slow to count.
RUN = "from tests import profile; profile.load(); import unittest; unittest.main(module=None)"


def noticed(mutant: Mutant, tests: tuple[str, ...], copy: Path) -> bool:
    """Whether these tests fail with the change made in a copy of the code."""
    file = copy / mutant.file.relative_to(ROOT)
    data = file.read_bytes()
    file.write_bytes(data[: mutant.start] + mutant.text.encode() + data[mutant.end :])
    try:
        return tests_fail(tests, copy)
    except subprocess.TimeoutExpired:
        # An endless loop is noticed by whoever waits.
        return True
    finally:
        file.write_bytes(data)


def tests_fail(tests: tuple[str, ...], copy: Path) -> bool:
    """Run a part's tests on a copy of the code."""
    done = subprocess.run(
        [sys.executable, "-B", "-c", RUN, "-f", *_tests(copy, tests)],
        cwd=copy,
        env=os.environ | {"PYTHONPATH": str(copy), "CI": "1"},
        capture_output=True,
        timeout=PATIENCE,
        check=False,
    )
    return done.returncode != 0


def _tests(copy: Path, patterns: tuple[str, ...]) -> list[str]:
    """The test modules of a part."""
    core = copy / "zester" / "core"
    files = [
        file for pattern in patterns for file in sorted(core.glob(f"{pattern}.py")) if file.stem.startswith("test_")
    ]
    return [str(file.relative_to(copy).with_suffix("")).replace("/", ".") for file in dict.fromkeys(files)]


def copies_of_all(folder: str) -> Queue[Path]:
    """Copies of the code, one for each worker."""
    copies: Queue[Path] = Queue()
    for number in range(WORKERS):
        copy = Path(folder, str(number))
        for name in ("zester", "tests", "docs", "benchmarks"):
            left_out = shutil.ignore_patterns("screenshots", "vendor", "static")
            shutil.copytree(ROOT / name, copy / name, ignore=left_out)
        copies.put(copy)
    return copies


def try_part(part: str, many: int, seed: int, copies: Queue[Path]) -> None:
    """Sample, change, test and print one part."""
    patterns, tests = PARTS[part]
    files = sorted({file for pattern in patterns for file in (ROOT / "zester" / "core").glob(pattern)})
    all_mutants = [mutant for file in files for mutant in mutants_of(file)]
    chosen = random.Random(seed).sample(all_mutants, min(many, len(all_mutants)))

    def try_it(mutant: Mutant) -> bool:
        copy = copies.get()
        try:
            return noticed(mutant, tests, copy)
        finally:
            copies.put(copy)

    copy = copies.get()
    if tests_fail(tests, copy):
        sys.exit(f"{part}: its tests fail on the code as it is, so they would notice everything.")
    copies.put(copy)
    with ThreadPoolExecutor(WORKERS) as pool:
        results = list(pool.map(try_it, chosen))
    for mutant, was in zip(chosen, results, strict=True):
        if not was:
            line = mutant.file.read_text().splitlines()[mutant.line - 1].strip()
            old = mutant.file.read_bytes()[mutant.start : mutant.end].decode()
            print(f"not noticed: {mutant.file.relative_to(ROOT)}:{mutant.line}: {old} -> {mutant.text}   in: {line}")
    share = sum(results) / len(results)
    print(
        f"{part}: {sum(results)} of {len(results)} noticed, {share:.0%} (of {len(all_mutants)} there could be)",
        flush=True,
    )


def main() -> None:
    """One part after the other."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--many", type=int, default=60)
    parser.add_argument("--part", nargs="*", choices=PARTS, default=list(PARTS))
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        copies = copies_of_all(folder)
        for part in options.part:
            try_part(part, options.many, options.seed, copies)


if __name__ == "__main__":
    main()
