"""How names, and the numbers behind them, are found in what was written."""

from __future__ import annotations

import re
from functools import lru_cache

from zester.core.lengths import plain

# Behind a length that is a place or a border; and behind one that is no size of a die, being a side of another.
FOR_A_PLACE = r"\s*(?:from|above|below|off|borders?|apart)\b"
FOR_SOMETHING_ELSE = rf"{FOR_A_PLACE}|\s*(?:x|by|\*)\b"
# The number of a die behind its set's name; not a length, not a size.
DIE_NUMBER = re.compile(
    r"\s*(?:no\.?|number)?\s*(?P<number>\d+)(?!\d|/|[.,]\d|\s*(?:x|by|in(?!\s+(?:class|the|a)\b)|inch|inches|mm|cm)\b|\s*\")"
    rf"(?!\s+\d+/\d+(?!{FOR_A_PLACE}))",
    re.IGNORECASE,
)


def with_places(text: str) -> tuple[str, list[int]]:
    """The ASCII form and, for each of its characters and its end, the place in the text it stands for."""
    out: list[str] = []
    places: list[int] = []
    for at, char in enumerate(text):
        spelled = char if char.isascii() else plain(char)
        # A fraction's sign stands apart from a number before it: 4¼ is 4 1/4.
        if "/" in spelled and len(spelled) > 1 and out and out[-1].isdigit():
            spelled = f" {spelled}"
        out.extend(spelled)
        places.extend([at] * len(spelled))
    return "".join(out).replace("''", '" '), [*places, len(text)]


@lru_cache(maxsize=256)
def any_of(names: tuple[str, ...]) -> re.Pattern[str] | None:
    """One pattern for all names, the longest first."""
    longest = sorted(names, key=len, reverse=True)
    spelled = (r"\s+".join(re.escape(word) for word in plain(name).split()) for name in longest if name.strip())
    body = "|".join(spelled)
    return re.compile(rf"(?<!\w)(?P<name>{body})(?!\w)", re.IGNORECASE) if body else None
