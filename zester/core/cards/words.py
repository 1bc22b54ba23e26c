"""What a line says of a piece, in words."""

from __future__ import annotations

from zester.core.lengths import show_length, with_unit
from zester.core.pieces import CutPiece


def place_words(piece: CutPiece, unit: str) -> list[str]:
    """Where a line says that a piece sits, with every number of it."""
    place = piece.place
    edges = {"left": place.left, "right": place.right, "top": place.top, "bottom": place.bottom, "fold": place.fold}
    spots = "".join(f", {show_length(spot, unit)}" for spot in place.spots)
    words = [
        f"{show_length(at, unit)}{spots if edge == place.spots_from else ''} {unit} from the {edge}"
        if at or edge == place.spots_from
        else f"flush with the {edge}"
        for edge, at in edges.items()
        if at is not None
    ]
    if place.gap is not None:
        words.append(f"{with_unit(place.gap, unit)} apart")
    if place.after is not None:
        words.append(f"{with_unit(place.after, unit)} below the last" if place.after else "right below the last")
    if place.tilt:
        words.append(f"tilted {abs(place.tilt) / 10:g}° to the {'right' if place.tilt > 0 else 'left'}")
    said = {
        "in a row": place.line == "row",
        "in a column": place.line == "column",
        "behind all else": place.behind == "all",
        "over the fold": place.over_fold,
    }
    return [*words, *(text for text, is_so in said.items() if is_so)]
