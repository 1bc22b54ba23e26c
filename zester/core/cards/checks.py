"""All checks of a card, the grave ones first."""

from __future__ import annotations

from dataclasses import dataclass, replace

from zester.core.cards.check_folds import band_sum, check_folds, pocket_words
from zester.core.cards.check_layers import check_layers
from zester.core.cards.check_papers import check_papers
from zester.core.cards.check_post import check_post, envelope_words, millimetres_of
from zester.core.cards.hidden import check_middles
from zester.core.cards.study import Finding, Study
from zester.core.cards.yields import from_sheet
from zester.core.errors import sure
from zester.core.letters import letter_of
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
    """Everything the checks find, what spoils the card before what is worth a look; nothing is found twice.

    What is so of several lines alike is told once.
    """
    found = _told_once(study, [finding for check in CHECKS for finding in check(study)])
    return sorted(found, key=lambda finding: not finding.grave)


def _told_once(study: Study, found: list[Finding]) -> list[Finding]:
    """Findings that differ in nothing but the piece they are about, together: at the first of their lines."""
    names = {study.line(piece): piece.name for piece in study.pieces}
    alike: dict[tuple[object, ...], list[Finding]] = {}
    for finding in found:
        name = names.get(finding.line, "") if finding.line is not None else ""
        what = finding.what.replace(name, "…", 1) if name else finding.what
        mends = tuple(mend.label for mend in finding.mends)
        alike.setdefault((finding.group, finding.grave, what, finding.why, mends), []).append(finding)
    return [_together(group) if len({each.line for each in group}) > 1 else group[0] for group in alike.values()]


def _together(found: list[Finding]) -> Finding:
    first, others = found[0], [sure(each.line) for each in found[1:]]
    *most, last = [str(line + 1) for line in others]
    lines = f"lines {', '.join(most)} and {last}" if most else f"line {last}"
    why = f"{first.why}; the same of {lines}"
    mends = tuple(
        replace(
            mend,
            label=f"{mend.label}, {'both' if len(found) == 2 else f'all {len(found)}'}",
            others=tuple((each.mends[at].line, each.mends[at].text) for each in found[1:]),
        )
        for at, mend in enumerate(first.mends)
    )
    return replace(first, why=why.removeprefix("; "), mends=mends, alike=tuple(others))


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
        # How large a lettered sheet is shows its casting.
        on_sheet = paper and not piece.out_of and not letter_of(piece.paper)
        count = from_sheet(piece, paper) if paper and on_sheet else None
        if paper and paper.pictures and piece.picture:
            count = dict(paper.pictures.each).get(piece.picture, count)
        if count:
            found[piece.number] = count
    return found
