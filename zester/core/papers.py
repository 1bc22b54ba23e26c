"""How a paper is drawn: its repeat, and the ink the repeat is printed in."""

from __future__ import annotations

# What the repeats are called, and whether a pattern of that kind runs one way by nature.
REPEATS = {
    "plain": "plain",
    "dots": "dots",
    "stripes": "stripes",
    "stars": "stars",
    "moons": "moons",
    "rays": "rays",
    "waves": "waves",
    "kites": "kites",
    "steps": "steps",
    "pines": "pines (one way)",
}


def _channels(colour: str) -> tuple[int, ...]:
    return tuple(int(colour[k : k + 2], 16) for k in (1, 3, 5))


def luminance(colour: str) -> float:
    """Relative luminance, 0 black to 1 white (WCAG 2.2, definition of relative luminance)."""
    parts = [c / 255 for c in _channels(colour)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def repeat_ink(colour: str) -> str:
    """The ink for a repeat on paper of this colour: the same colour moved a third towards white or black."""
    towards = 255 if luminance(colour) < 0.25 else 0
    return "#" + "".join(f"{c + (towards - c) * 34 // 100:02x}" for c in _channels(colour))
