"""All checks of a card, the grave ones first."""

from __future__ import annotations

from dataclasses import dataclass

from zester.core.cards.check_folds import band_sum, check_folds, pocket_words
from zester.core.cards.check_layers import check_layers
from zester.core.cards.check_papers import check_papers
from zester.core.cards.check_post import check_post, envelope_words, millimetres_of
from zester.core.cards.hidden import check_middles
from zester.core.cards.study import Finding, Study
from zester.core.cards.yields import from_sheet
from zester.core.pieces import FOLDS

CHECKS = (check_folds, check_layers, check_papers, check_middles, check_post)


@dataclass(frozen=True)
class Fact:
    """Something a designer wants to know of the card."""

    name: str
    """What it is."""
    value: str
    """How much, with its unit."""
    why: str = ""
    """The sum behind it, in words."""


def check_card(study: Study) -> list[Finding]:
    """Everything the checks find, what spoils the card before what is worth a look; nothing is found twice."""
    found = [finding for check in CHECKS for finding in check(study)]
    return sorted(found, key=lambda finding: not finding.grave)


def facts_of(study: Study) -> list[Fact]:
    """Finished size, envelope, thickness, pocket and band lengths."""
    folded = study.folded
    if folded is None:
        return []
    thick = study.thickness
    sheets = len(thick.sheets)
    foam = f" and {study.length(thick.foam)} of foam" if thick.foam else ""
    why = f"{sheets} {'sheet' if sheets == 1 else 'sheets'} where it is thickest{foam}"
    if thick.guessed:
        why += "; usual calipers where the shelf has none"
    facts = [
        Fact("Closed", f"{study.size(folded.width, folded.height)}, {FOLDS[folded.fold]}"),
        Fact("Envelope", envelope_words(study), "with ⅛ in (3 mm) or more to spare each way"),
        Fact("Thickness", f"about {millimetres_of(thick.ticks)}", why),
    ]
    if folded.pocket:
        facts.append(Fact("Pocket", pocket_words(study), "gift cards are 85.60 × 53.98 mm, ISO/IEC 7810 ID-1"))
    for piece in study.pieces:
        if piece.role == "band":
            wanted, words = band_sum(study, folded, piece)
            facts.append(Fact(piece.name, f"wants {study.length(wanted)}", words))
    return facts


def yields_of(study: Study) -> dict[int, int]:
    """How many of each piece, by its number, come from one sheet of its paper."""
    found = {}
    for piece in study.pieces:
        paper = study.papers.get(piece.paper)
        count = from_sheet(piece, paper) if paper and not piece.out_of else None
        if paper and paper.pictures and piece.picture:
            count = dict(paper.pictures.each).get(piece.picture, count)
        if count:
            found[piece.number] = count
    return found
