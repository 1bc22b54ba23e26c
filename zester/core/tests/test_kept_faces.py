"""The faces that every fold makes of a base, against what is kept beside it: sizes and places in inches."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from unittest import TestCase

from zester.core.cards.tests.cards import INCH, card

KEPT = Path(__file__).parent / "data" / "faces.txt"
BASES = (
    "card 4¼ x 5½ side fold | Base 8½ x 5½ brass score 4¼",
    "Base 8 x 5½ brass score 4¼",
    "Base 4¼ x 11 brass score 5",
    "card gate fold | Base 8½ x 5½ brass score 2⅛, 6⅛",
    "Base 8½ x 5½ brass score 2⅛, 6⅜",
    "Base 8½ x 5½ brass score 2⅞, 5¾",
    "Base 11 x 4 brass score 3 11/16, 7⅜",
    "card accordion | Base 11 x 4 brass score 2, 5",
    "Base 11 x 4 brass score 1, 4, 6",
    "Base 11 x 4 brass score 1, 4, 6, 8",
    "Base 4 x 11 brass score 3, 5, 9",
    "card no fold | Base 4 x 5 brass",
    "card side fold with a pocket | Base 8½ x 7½ brass score 4¼ across 5½ down",
    "card top fold with a pocket | Base 4 x 10½ brass score 4, 8",
    "card top fold with a pocket at the top | Base 4¼ x 11 brass score 2, 6½ down",
    "card top fold with a pocket at the top | Base 4¼ x 11 brass score 6, 8 down",
    "card top fold with a pocket | Base 4 x 10½ brass score 4, 5",
    "card side fold with a pocket at the right | Base 11 x 5½ brass score 4¼, 8½",
    "card side fold with a pocket at the left | Base 10½ x 5½ brass score 2, 6¼",
    "card no fold with a pocket | Base 4¼ x 7½ brass score 5½",
    "card no fold with a pocket at the left | Base 6¼ x 5½ brass score 2 across",
    "card no fold with a pocket at the top | Base 4 x 7 brass score 2",
    "card no fold with a pocket at the right | Base 7 x 4 brass score 5",
    "card no fold with a pocket | Base 4 x 11 brass score 4",
)


def told() -> Iterator[str]:
    """Every base with its faces."""
    for text in BASES:
        folded = card(text.replace(" | ", "\n")).folded
        yield f"== {text}"
        closed, whole = _size(folded.width, folded.height), _size(folded.open_width, folded.open_height)
        pocket = f", pocket {_inches(folded.pocket)} at the {folded.pocket_at}" if folded.pocket else ""
        yield f"{folded.fold}: {closed} of {whole}, {folded.layers} layers{pocket}"
        for key, face in folded.faces.items():
            words = [f"{key} ({face.name}): {_size(face.width, face.height)} at {_inches(face.x)}, {_inches(face.y)}"]
            words += [f"fold {face.fold}"] if face.fold else []
            words += ["closed"] if face.closed else []
            words += ["head down"] if face.upside_down else []
            yield "; ".join(words)


def _inches(ticks: int) -> str:
    whole, part = divmod(Fraction(ticks, INCH), 1)
    return " ".join(text for text in (str(whole) if whole else "", str(part) if part else "") if text) or "0"


def _size(width: int, height: int) -> str:
    return f"{_inches(width)} x {_inches(height)}"


class KeptFacesTests(TestCase):
    maxDiff = None

    def test_every_fold_has_its_faces(self):
        self.assertEqual("\n".join(told()) + "\n", KEPT.read_text(encoding="utf-8"))


if __name__ == "__main__":
    KEPT.write_text("\n".join(told()) + "\n", encoding="utf-8")
