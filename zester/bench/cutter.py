"""A layout tried on the simulated cutting machine: what it cut, and what is wrong with it."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, replace

from zester.core.cutting.cutter import NO_FAULTS, CutOut, Faults, cut_out
from zester.core.cutting.machine_file import CUT, MachineFile, to_svg
from zester.core.fitting.jobs.drawing import lay_parts
from zester.core.fitting.jobs.summary import source_size
from zester.core.lengths import TICKS_PER_MM, show_size
from zester.plans.kept import read_made
from zester.plans.models import PaperFit

ASKEW, SHIFTED = 0.5, 1.5
FAULTS = {
    "": ("nothing wrong", NO_FAULTS),
    "askew": ("the sheet put in half a degree askew", Faults(askew=ASKEW)),
    "shifted": ("the sheet 1.5 mm too far to the right", Faults(shifted=SHIFTED)),
    "not-cut": ("the last cut line not cut through", NO_FAULTS),
}
# A side that is off by less than this (millimetres) is right.
NEAR = 0.05


@dataclass(frozen=True, kw_only=True)
class Row:
    """A size that was wanted."""

    size: str
    """In words."""
    wanted: int
    """How many."""
    got: int
    """How many came out so."""


@dataclass(frozen=True, kw_only=True)
class Report:
    """What the machine says."""

    fault: str
    """What was wrong with the machine, in words."""
    key: str
    """The same as the form has it."""
    rows: tuple[Row, ...]
    """What was wanted and what came out right."""
    others: tuple[str, ...]
    """What else fell out."""

    @property
    def is_right(self) -> bool:
        """Whether everything that was wanted came out."""
        return all(row.got >= row.wanted for row in self.rows)


def report_of(fit: PaperFit, file: MachineFile, number: int, fault: str) -> Report:
    """Cut it and compare."""
    fault = fault if fault in FAULTS else ""
    words, faults = FAULTS[fault]
    if fault == "not-cut":
        lines = sum(line.layer == CUT and len(line.points) == 2 for line in file.lines)
        faults = Faults(not_cut=(max(0, lines - 1),))
    made = read_made(fit.shown)
    layout = [each for each in made.plan.layouts if each.source != "window"][number - 1]
    parts = [p for p in lay_parts(layout, *source_size(made.paper, made.plan, layout)) if not p.offcut]
    wanted = Counter((part.width, part.height) for part in parts)
    # Only the outer edges of pieces: an opening that is cut out of a piece is no piece.
    lines = tuple(line for line in file.lines if len(line.points) == 2 or line.layer != CUT)
    out = cut_out(to_svg(replace(file, lines=lines)), faults)
    rows, left = [], list(out)
    for (width, height), count in sorted(wanted.items(), reverse=True):
        fitting = [piece for piece in left if _is(piece, width, height)]
        for piece in fitting[:count]:
            left.remove(piece)
        rows.append(Row(size=show_size(width, height, made.job.unit), wanted=count, got=min(count, len(fitting))))
    others = tuple(_others(left))
    return Report(fault=words, key=fault, rows=tuple(rows), others=others)


def _is(piece: CutOut, width: int, height: int) -> bool:
    sides = width / TICKS_PER_MM, height / TICKS_PER_MM
    return piece.square and abs(piece.width - sides[0]) < NEAR and abs(piece.height - sides[1]) < NEAR


def _others(pieces: list[CutOut]) -> list[str]:
    counts = Counter(
        f"{piece.width:.1f} × {piece.height:.1f} mm{'' if piece.square else ', not square'}" for piece in pieces
    )
    return [f"{count} × {words}" if count > 1 else words for words, count in counts.items()]
