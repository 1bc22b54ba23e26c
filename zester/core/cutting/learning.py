"""Somebody's own pace, learnt from how long steps took: least squares, held near the pace that was reckoned with.

A step's seconds are so many settings, stacks and strokes; with few steps the sum says little about each, so the known
pace counts like twenty steps (ridge regression: Hoerl and Kennard 1970). A step during which somebody was away
says nothing and is left out.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zester.core.pace import Pace

ENOUGH = 15
KNOWN_WEIGHT = 20.0
# A step that took this many times what was reckoned, and more than a minute, was interrupted.
AWAY, A_MINUTE = 4.0, 60.0


@dataclass(frozen=True)
class Taken:
    """A step that was done."""

    settings: int
    """How often the rail was moved."""
    stacks: int
    """How many stacks were fetched."""
    strokes: int
    """How many strokes."""
    seconds: float
    """How long it took."""


def learnt(steps: Sequence[Taken], known: Pace) -> Pace | None:
    """The pace by these steps; None if they are too few to say."""
    own = np.array([known.setting, known.stack, known.stroke], dtype=float)
    rows, times = [], []
    for step in steps:
        row = (step.settings, step.stacks, step.strokes)
        expected = float(np.dot(row, own))
        if step.seconds > 0 and not (step.seconds > AWAY * expected and step.seconds > A_MINUTE):
            rows.append(row)
            times.append(step.seconds)
    if len(rows) < ENOUGH:
        return None
    work = np.array(rows, dtype=float)
    weights = KNOWN_WEIGHT * np.diag(np.maximum(0.2, work.mean(axis=0)) ** 2)
    found = np.linalg.solve(work.T @ work + weights, work.T @ np.array(times) + weights @ own)
    setting, stack, stroke = (max(1, min(600, round(float(value)))) for value in found)
    return Pace(setting=setting, stack=stack, stroke=stroke)
