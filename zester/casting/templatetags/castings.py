"""What the templates of castings say in their own way."""

from __future__ import annotations

from django import template

from zester.core.lengths import TICKS_PER_MM, millimetres
from zester.shelf.models import Paper

register = template.Library()


@register.filter
def face(paper: Paper, side: str) -> dict[str, str]:
    """How a side of a paper is drawn."""
    if side == "a":
        return {"colour": paper.colour, "ink": paper.ink, "repeat": paper.repeat, "photo": paper.photo}
    return paper.side_b


@register.filter
def sides(found: str) -> str:
    """``A``, or ``A or B`` where it is not the same on all cards."""
    return " or ".join(found.upper())


@register.filter
def with_rim(ticks: int) -> str:
    """A length with a millimetre of air on both sides, for a view box."""
    return millimetres(ticks + 2 * TICKS_PER_MM)
