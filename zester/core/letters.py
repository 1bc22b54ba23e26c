"""Lettered sheets: in a list ``sheet A`` stands for a paper that is chosen later, for a whole class, by its casting."""

from __future__ import annotations

import re
from dataclasses import replace

from zester.core.lengths import TICKS_PER_INCH
from zester.core.pieces import CutPiece, Known, KnownPaper

LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
# Papers of the shelf have keys that begin with a small letter.
_SIGN = "="
_NAMED = re.compile(r"\b(?:sheet|letter)\s+(?P<letter>[a-z])(?![\w/.'’-])", re.IGNORECASE)
# What the largest sheet of a pad measures that anybody cuts by a guide.
_LARGEST = 12 * TICKS_PER_INCH


def letter_key(letter: str) -> str:
    """What a letter is known by where papers have their keys."""
    return _SIGN + letter


def letter_of(key: str) -> str:
    """The letter with this key; empty if the key is that of a paper."""
    return key[1:] if key.startswith(_SIGN) else ""


def letter_name(key: str) -> str:
    """What a letter is called: ``sheet A``; empty if the key is that of a paper."""
    return f"sheet {letter_of(key)}" if letter_of(key) else ""


LETTER_NAMES = {letter_key(letter): letter_name(letter_key(letter)) for letter in LETTERS}


def letter_paper(key: str) -> KnownPaper:
    """A lettered sheet as lists know papers: both sides may be seen, and which way it runs nobody knows yet."""
    former = (f"letter {letter_of(key)}",)
    return KnownPaper(key=key, name=letter_name(key), width=_LARGEST, height=_LARGEST, former=former)


def names_letter(words: str) -> bool:
    """Whether words of a line name a lettered sheet and nothing else."""
    return bool(_NAMED.fullmatch(words))


def with_letters(known: Known, line: str) -> Known:
    """What a line may name: what is known, and the lettered sheets that it speaks of."""
    letters = dict.fromkeys(letter_key(found["letter"].upper()) for found in _NAMED.finditer(line))
    have = {name for paper in known.papers for name in (paper.key, paper.name.casefold())} if letters else set()
    # A paper that is called so is meant by its name.
    papers = tuple(letter_paper(key) for key in letters if not {key, letter_name(key).casefold()} & have)
    return replace(known, papers=(*known.papers, *papers)) if papers else known


def with_paper(piece: CutPiece, paper: str, direction: str, side: str = "") -> CutPiece:
    """The piece from another paper: it lies no freer than it was written, and as that paper asks.

    ``direction`` is that of the side that is seen; ``side`` is it, where that is another than written.
    """
    turn = piece.turn and direction == "free"
    upright = piece.upright or direction == "upright"
    return replace(piece, paper=paper, turn=turn, upright=upright, side=side or piece.side)
