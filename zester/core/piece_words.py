"""What is said of a piece, a bit and a card beside their lines, in a few words."""

from __future__ import annotations

from collections.abc import Mapping

from zester.core.cards.words import place_words
from zester.core.care import care_of
from zester.core.cutlist.notation import OVERLAP, OVERLAP_MM
from zester.core.lengths import show_length, show_size, with_unit
from zester.core.letters import letter_name
from zester.core.pieces import FOLDS, Bit, CardLine, CutPiece
from zester.core.tally import BitCount


def called(key: str, names: Mapping[str, str]) -> str:
    """What a paper is called, by its key."""
    return names.get(key) or letter_name(key) or "a paper off the shelf"


def piece_words(piece: CutPiece, unit: str, names: Mapping[str, str]) -> str:
    """What else a line says of a piece, in a few words."""
    paper = called(piece.paper, names)
    words = [f"{paper}, side B" if piece.side == "b" else paper]
    if piece.may and letter_name(piece.paper):
        words.append("card stock would do" if piece.may == "stock" else "optional")
    if piece.score:
        places = " and ".join(show_length(place, unit) for place in piece.score.places)
        ends = ("left", "top") if piece.score.axis == "x" else ("top", "left")
        words.append(f"scored at {places} {unit} from the {ends[0]}")
        if piece.score.cross:
            places = " and ".join(show_length(place, unit) for place in piece.score.cross)
            words.append(f"and at {places} {unit} from the {ends[1]}")
    if piece.border:
        words.append(f"{with_unit(piece.border.width, unit)} border")
    if piece.shape:
        words.append(f"{piece.shape.kind} {show_size(piece.shape.width, piece.shape.height, unit)}")
    over = [f"{with_unit(length, unit)} {edge}" for edge, length in vars(piece.overhang).items() if length]
    if over:
        words.append(f"trimmed flush: {', '.join(over)}")
    words += _rule_words(piece, unit)
    return " · ".join(words)


def _rule_words(piece: CutPiece, unit: str) -> list[str]:
    words = (
        ["upright" if piece.upright else "half a turn only"] if not piece.turn and piece.width != piece.height else []
    )
    if piece.match:
        words.append(f"matched, {'below' if piece.below else 'beside'} the other {piece.match}")
    if piece.middle:
        words.append(f"{show_size(piece.middle.width, piece.middle.height, unit)} of it are hidden")
    for what, hole in (("window", piece.window), ("notch", piece.notch)):
        if hole:
            words.append(f"{hole.kind} {what} {show_size(hole.width, hole.height, unit)}")
    words += place_words(piece, unit)
    if piece.raised:
        where = f" under its {piece.raised_at} side" if piece.raised_at else ""
        words.append(f"raised {with_unit(piece.raised, unit)} on foam{where}")
    said = {
        "may come out of a hidden middle": piece.from_middle,
        "only where it costs nothing": piece.filler,
        "either side": piece.either_side,
        f"seam at the {piece.seam}": piece.seam,
        f"only {piece.only}": piece.only,
    }
    return [*words, *care_of(piece, remark=False), *(text for text, is_so in said.items() if is_so)]


def card_words(card: CardLine, unit: str) -> str:
    """What the card's own line says."""
    size = f"{show_size(card.width, card.height, unit)}, " if card.width and card.height else ""
    end = f" at the {card.pocket_at}" if card.pocket_at else ""
    pocket = f" with a pocket{end}" if card.pocket else ""
    return f"The card: {size}{FOLDS[card.fold]}{pocket}"


def bit_words(bit: Bit | BitCount, unit: str) -> str:
    """``6 foam squares``, ``12 in of thread``."""
    around = getattr(bit, "around", 0)
    if around:
        over = with_unit(OVERLAP if unit == "in" else OVERLAP_MM, unit)
        return (
            f"{with_unit(bit.length, unit)} of {bit.name} round no. {around}: there and back and {over} to tie or glue"
        )
    return f"{with_unit(bit.length, unit)} of {bit.name}" if bit.length else f"{bit.count} {bit.name}"
