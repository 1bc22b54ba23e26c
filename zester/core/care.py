"""What whoever works with a piece has to know of it, in few words: handed out, dry first, prepared by whom, when."""

from __future__ import annotations

from dataclasses import replace

from zester.core.pictures import ANY
from zester.core.pieces import (
    BEFORE,
    BY_HAND,
    FOLDED,
    HOME,
    IN_CLASS,
    LAST,
    NOTCH,
    SCORE,
    SHAPE,
    WINDOW,
    CutPiece,
    PieceJob,
)

LOOSE = {
    "scrap": "scrap, cut out by hand",
    "mask": "mask, not on the card",
    "spare": "spare",
    "envelope": "for the envelope",
    "loose": "not on the card",
}

# The times of jobs as lists and pages say them.
TIMES = {BEFORE: "before class", IN_CLASS: "in class", HOME: "at home"}
FORM = {SCORE: "scored", FOLDED: "folded", WINDOW: "opening cut", NOTCH: "notched", SHAPE: "cut to its shape"}


def care_of(piece: CutPiece, *, remark: bool = True) -> list[str]:
    """The words one by one, what comes first in front; ``remark``: with what the line says after #."""
    done = _done(piece)
    # Where all of it is alike the most urgent stands in front; else it stands with what has to dry.
    first = "dry first" if piece.first and len(done) < 2 else ""
    which = f"picture of {piece.picture}" if piece.picture not in ("", ANY) else "picture" if piece.picture else ""
    words = [first, which, LOOSE.get(piece.loose, ""), "cut out of the scrap" if piece.out_of else ""]
    words += [_in_words(*each, alone=len(done) < 2) for each in done]
    return [word for word in (*words, piece.note if remark else "") if word]


def _done(piece: CutPiece) -> list[tuple[list[str], PieceJob]]:
    """What is done to it, what has the same time and the same hands together."""
    found: list[tuple[list[str], PieceJob]] = []
    for job in piece.jobs:
        if job.what == BY_HAND and (piece.loose == "scrap" or piece.out_of):
            continue
        if not found or replace(job, what="", seconds=0) != replace(found[-1][1], what="", seconds=0):
            found.append(([], job))
        found[-1][0].append(job.what)
    told = set(piece.preparations)
    return [(words, job) for words, job in found if told & set(words) or job.when or job.by]


def _in_words(done: list[str], job: PieceJob, *, alone: bool) -> str:
    """``embossed and tied before class by Finn``; what follows from its form only where it has a time of its own."""
    words = [FORM.get(word, word) for word in done if word and (word not in FORM or word == FOLDED)]
    if not words and not alone:
        words = [FORM[word] for word in done if word]
    when = TIMES.get(job.when, "")
    by = f"by {job.by}" if job.by else ""
    said = " ".join(filter(None, (" and ".join(words) or "prepared", when, by)))
    if job.dries == LAST:
        return f"{said}, dry last"
    return said if alone or not job.dries else f"{said}, dry first"
