"""What kind of thing a bit is, by the words of its name, and what is done with it."""

from __future__ import annotations

import re

from zester.core.lengths import with_unit
from zester.core.pieces import Bit

# What a bit is for; by words, the first that is found. Common practice, no source.
FOAM, TOOL, ENVELOPE, BOX, FILLING, HOLDING, TIE, OTHER = (
    "foam", "tool", "envelope", "box", "filling", "holding", "tie", "other",
)  # fmt: skip
_SIGNS = {
    FOAM: "foam",
    TOOL: r"cotton\s+buds?|cotton\s+swabs?|brush(?:es)?|sponges?|toothpicks?|pencils?|pens?|markers?|tweezers|daubers?|"
    r"scissors|stylus|glue\s+sticks?|bone\s+folders?|palettes?|blending\s+tools?",
    ENVELOPE: "envelopes?",
    BOX: "bags?|box(?:es)?|pouch(?:es)?|sleeves?",
    # A ready bow is put on, not tied.
    OTHER: "bows?|tied|knotted|tassels?",
    FILLING: r"sequins?|beads?|confetti|shaker|filling|microbeads?|sprinkles?",
    HOLDING: "staples?|brads?|eyelets?|stitch(?:es)?|snaps?|rivets?",
    TIE: "threads?|ribbons?|twines?|cords?|ropes?|strings?|laces?|yarn|floss",
}
_KINDS = {kind: re.compile(rf"\b(?:{signs})\b", re.IGNORECASE) for kind, signs in _SIGNS.items()}


def kind_of(name: str) -> str:
    """What a thing of this name is for."""
    return next((kind for kind, signs in _KINDS.items() if signs.search(name)), OTHER)


def how_much(bit: Bit, unit: str) -> str:
    """``8 in of thread``, ``4 gems``, ``the tied bow`` of a single one."""
    return f"{with_unit(bit.length, unit)} of {bit.name}" if bit.length else f"{bit.count} {bit.name}"


def through_words(bit: Bit, unit: str, piece: str) -> str:
    """What goes through a piece: tied, or fastened."""
    if kind_of(bit.name) == TIE:
        return f"Pull {how_much(bit, unit)} through the hole of {piece} and tie it"
    return f"Fasten {how_much(bit, unit)} through {piece}"


def added_words(bit: Bit, unit: str) -> str:
    """What is put on the finished card."""
    kind = kind_of(bit.name)
    much = how_much(bit, unit)
    if kind in (ENVELOPE, BOX):
        return f"Slip the card into its {_one(bit.name)}"
    if kind == TIE:
        return f"Tie on {much}"
    return f"Fasten {much}" if kind == HOLDING else f"Add {much}"


def _one(name: str) -> str:
    """``clear boxes`` of one: ``clear box``."""
    return re.sub(r"(?<=[xh])es$|(?<!s)s$", "", name)
