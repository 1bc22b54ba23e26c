"""What an archive may bring in columns of JSON: every one has its shape here, and what has another is turned away.

A page that meets something else would answer with an error for good. Shapes are written as what they look like:
``[str]`` a list of texts, ``{str: COUNT}`` counts by name, ``(str, int)`` a pair, a ``Record`` of names. Plans, steps
and layouts are read by their own readers.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from decimal import Decimal, InvalidOperation
from typing import Any

from zester.core.errors import ZesterError
from zester.core.fitting.jobs.plan import read_layout, read_paper
from zester.core.fitting.proofs.proof import read_proof
from zester.core.kits.offers import WAYS
from zester.core.lengths import RULERS
from zester.core.money.record import read_record
from zester.core.usual_times import KINDS

MOST = 10_000_000_000
LONGEST = 40_000


@dataclass(frozen=True)
class Record:
    """A thing with these names, and maybe those."""

    needed: dict[str, Any]
    """What has to be there."""
    maybe: dict[str, Any] = field(default_factory=dict)
    """What may be."""


def COUNT(value: object) -> bool:  # noqa: N802
    """So many, 0 or more."""
    return type(value) is int and 0 <= value <= MOST


def MONEY(value: object) -> bool:  # noqa: N802
    """An amount as text."""
    try:
        return isinstance(value, str) and Decimal(value).is_finite() and len(value) < 40
    except InvalidOperation:
        return False


def fits(value: object, shape: Any) -> bool:
    """Whether something has a shape."""
    if isinstance(shape, Record):
        known = shape.needed | shape.maybe
        return (
            isinstance(value, dict)
            and shape.needed.keys() <= value.keys() <= known.keys()
            and all(fits(each, known[name]) for name, each in value.items())
        )
    if isinstance(shape, list):
        return isinstance(value, list) and all(fits(each, shape[0]) for each in value)
    if isinstance(shape, tuple):
        pairs = isinstance(value, list) and len(value) == len(shape)
        return pairs and all(fits(each, one) for each, one in zip(value, shape, strict=True))
    if isinstance(shape, dict):
        ((name, inner),) = shape.items()
        return isinstance(value, dict) and all(fits(key, name) and fits(each, inner) for key, each in value.items())
    if isinstance(shape, set):
        return isinstance(value, str) and value in shape
    return _plain(value, shape)


def _plain(value: object, shape: Any) -> bool:
    if shape is str:
        return isinstance(value, str) and len(value) <= LONGEST and not _surrogates(value)
    if shape is int:
        return type(value) is int and abs(value) <= MOST
    if shape is float:
        return type(value) in (int, float) and abs(value) <= MOST
    if shape in (bool, dict):
        return type(value) is shape
    return bool(shape(value))


def _surrogates(text: str) -> bool:
    return any("\ud800" <= char <= "\udfff" for char in text)


def either(*shapes: Any) -> Callable[[object], bool]:
    """One of several shapes."""
    return lambda value: any(fits(value, shape) for shape in shapes)


def read_by(reader: Callable[[Any], object]) -> Callable[[object], bool]:
    """What a reader of its own can read."""

    def can_be_read(value: object) -> bool:
        try:
            reader(value)
        except (ZesterError, LookupError, TypeError, ValueError, ArithmeticError, AttributeError, RecursionError):
            return False
        return True

    return can_be_read


NOTHING = Record({})
WORK = Record(
    {"what": str, "seconds": COUNT, "when": str, "by": str, "tool": str, "first": bool},
    {"kind": str, "supply": str, "last": bool, "dries": COUNT, "said": bool},
)
MARKS = Record({"scores": [({"x", "y"}, int)], "outlines": [(str, int, int, int, int)]})
ABOUT = Record(
    {},
    {
        "name": str, "card": str, "why": str, "count": COUNT, "home": COUNT, "care": str, "work": [WORK],
        "assembly": [WORK], "trimmed": bool, "marks": MARKS,
    },
)  # fmt: skip
SPOILED = Record(
    {"kind": str, "label": str, "count": COUNT}, {"size": either((COUNT, COUNT), lambda v: v is None), "reason": str}
)
RANGE = Record({"first": COUNT, "last": COUNT, "sheets": COUNT}, {"packs": COUNT, "price": MONEY})
NEAR = Record({"side": str, "smaller": COUNT, "sheets": COUNT}, {"pieces": [str], "places": [COUNT], "money": MONEY})
MIDDLE = Record({"pieces": [str], "hosts": [(str, COUNT, COUNT, str)], "sheets": COUNT, "money": MONEY})
LAYOUT = either(*(read_by(lambda entry, unit=unit: read_layout(entry, unit)) for unit in ("in", "mm")))
PLAN = either(
    *(read_by(lambda entry, unit=unit: read_paper(entry | {"id": entry.get("id", "p")}, unit)) for unit in ("in", "mm"))
)
CHOICE = Record(
    {
        "name": str, "sheets": COUNT, "cost": MONEY, "strokes": COUNT, "settings": COUNT, "stacks": COUNT,
        "seconds": float, "layouts": COUNT, "yield": float, "plan": PLAN,
    }
)  # fmt: skip
SIDES = (COUNT, COUNT)
TOOL = Record(
    {
        "name": str, "kind": str, "shape": str, "sizes": [SIDES], "reach": COUNT,
        "largest": either(SIDES, lambda value: value is None),
    }
)  # fmt: skip
SHELF = Record({"papers": {str: str}, "tools": [TOOL]}, {"words": [(str, str)]})
DESIGN = Record({"name": str, "ruler": set(RULERS), "cut_list": str, "teaching": {str: str}})

CAST = Record({}, {"letters": {str: str}, "over": [str], "instead": {str: str}, "locked": [str]})
PAIRS = [(str, str)]

# By kind of row and field.
SHAPES: dict[str, dict[str, Any]] = {
    "papers": {"former_names": [str]},
    "pads": {"holds": {str: COUNT}},
    "tools": {"sizes": [(COUNT, COUNT)]},
    "designs": {"teaching": {str: str}},
    "classes": {"beforehand": [set(KINDS)], "bits": [(str, COUNT, COUNT, str)], "kept_shelf": either(NOTHING, SHELF)},
    "cards_of_classes": {"held": either(NOTHING, DESIGN)},
    "papers_of_classes": {"pins": [LAYOUT]},
    "offers": {"cards": {str: COUNT}, "pools": {str: set(WAYS)}, "among": [str]},
    "people": {"chosen": [str]},
    "ready_kits": {"marks": {str: str}, "lines": [str]},
    "records_of_classes": {"kept": either(NOTHING, read_by(read_record))},
    "castings": {"cast": CAST},
    "guides_of_classes": {"marks": Record({}, {"together": PAIRS, "never": PAIRS})},
    "plans": {
        "pieces": {str: ABOUT},
        "used": {str: COUNT},
        "hints": either(NOTHING, Record({"costs": {str: int}, "near": [NEAR]})),
        "advice": either(
            NOTHING,
            Record(
                {"seats": [RANGE], "near": [NEAR], "looked": Record({"seats": bool, "sizes": COUNT, "of": COUNT})},
                {"middles": [MIDDLE]},
            ),
        ),
        "front": [CHOICE],
        "proof": either(NOTHING, read_by(read_proof)),
        "growth": either(NOTHING, Record({"at": COUNT, "runs": [RANGE]})),
    },
    "needs": {"pieces": {str: ABOUT}, "lost": {str: COUNT}, "over": [(str, COUNT)]},
    "runs": {
        # Their readers say which step cannot be read.
        "steps": [dict],
        "before": dict,
        "taken": [(str, str, COUNT)],
        "spoiled": [SPOILED],
        "short": [(str, COUNT)],
    },
    "short": {"lacking": [(str, COUNT)]},
    "cut_papers": {"spoiled": [SPOILED]},
}
