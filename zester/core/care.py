"""What whoever works with a piece has to know of it, in few words: handed out, dry first, prepared by whom, when."""

from __future__ import annotations

from zester.core.pieces import CutPiece

LOOSE = {
    "scrap": "scrap, cut out by hand",
    "mask": "mask, not on the card",
    "spare": "spare",
    "envelope": "for the envelope",
    "loose": "not on the card",
}


def care_of(piece: CutPiece, *, remark: bool = True) -> list[str]:
    """The words one by one, what comes first in front; ``remark``: with what the line says after #."""
    done = [word for word in piece.preparations if not (piece.loose == "scrap" and word.startswith("cut out"))]
    when = "before class" if piece.before_class else "in class" if piece.in_class else ""
    by = f"by {piece.by}" if piece.by else ""
    prepared = " ".join(filter(None, (" and ".join(done) or ("prepared" if when or by else ""), when, by)))
    words = ["dry first" if piece.first else "", LOOSE.get(piece.loose, ""), prepared, piece.note if remark else ""]
    return [word for word in words if word]
