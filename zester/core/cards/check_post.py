"""Checks of the finished card on its way: envelope, square or oversize, thickness."""

from __future__ import annotations

from collections.abc import Iterator

from zester.core.cards.study import Finding, Study
from zester.core.cards.thickness import THICK, envelope_for
from zester.core.errors import sure
from zester.core.lengths import TICKS_PER_MM, show_size

CARRIER = "Sizes and prices differ and change: ask your carrier"


def check_post(study: Study) -> Iterator[Finding]:
    """What the post may mind, in general terms."""
    folded = study.folded
    if folded is None or not study.pieces:
        return
    size = study.size(folded.width, folded.height)
    if envelope_for(folded.width, folded.height, study.unit) is None:
        yield Finding(
            group="post",
            what=f"No usual envelope takes {size}",
            why="it needs one made to measure, or a box",
            grave=False,
        )
    elif folded.width == folded.height:
        yield Finding(group="post", what="Square cards often cost more to post", why=CARRIER, grave=False)
    thick = study.thickness
    if thick.ticks >= THICK:
        what = f"About {millimetres_of(thick.ticks)} thick: many carriers take that for a parcel or ask for more"
        yield Finding(group="post", what=what, why=CARRIER, grave=False)


def millimetres_of(ticks: int) -> str:
    """Thickness to the tenth, always in millimetres: no ruler shows it in sixteenths."""
    tenths = -(-ticks * 10 // TICKS_PER_MM)
    return f"{tenths // 10}.{tenths % 10} mm"


def envelope_words(study: Study) -> str:
    """The envelope a card goes into."""
    folded = sure(study.folded)
    found = envelope_for(folded.width, folded.height, study.unit)
    if not found:
        return "none of the usual ones"
    return f"{found.name}, {show_size(found.width, found.height, found.unit)}"
