"""The steps as the rehearsal plays them: sizes in millimetres, words for each."""

from __future__ import annotations

from zester.bench.services import PaperSteps, ShownStep
from zester.core.cutting.steps import PIECE
from zester.core.lengths import TICKS_PER_MM, show_length


def play_of(paper: PaperSteps) -> dict:
    """What the page is given: the steps, the colour of the paper, the longest side."""
    sides = [side for shown in paper.steps for side in (shown.step.width, shown.step.height)]
    return {
        "steps": [_played(shown, paper.unit) for shown in paper.steps],
        "colour": paper.fit.paper.colour,
        "side": max(sides, default=1) / TICKS_PER_MM,
    }


def _played(shown: ShownStep, unit: str) -> dict:
    step = shown.step
    mark = f"{show_length(step.at, unit)} {unit}"
    words = [f"{step.number}. {shown.take}, {shown.stacked}." if shown.stacked else f"{step.number}. {shown.take}."]
    words.append(f"Rail to {mark}." if step.moved else f"The rail stays at {mark}.")
    if step.turned:
        words.append("Give it a quarter turn.")
    words.append(f"Cut {step.cuts} times." if step.cuts > 1 else "Cut.")
    gives = [
        {
            "kind": result.kind,
            "label": result.label,
            "count": result.count,
            "width": result.width / TICKS_PER_MM,
            "height": result.height / TICKS_PER_MM,
        }
        for result in step.results
    ]
    finished = ", ".join(f"{result.count} {result.label}" for result in step.results if result.kind == PIECE)
    if finished:
        words.append(f"That makes {finished}.")
    return {
        "words": " ".join(words),
        "mark": mark,
        "source": step.source,
        "label": step.source_label,
        "count": step.count,
        "width": step.width / TICKS_PER_MM,
        "height": step.height / TICKS_PER_MM,
        "axis": step.axis,
        "at": step.at / TICKS_PER_MM,
        "cuts": step.cuts,
        "gives": gives,
        "seconds": shown.seconds,
    }
