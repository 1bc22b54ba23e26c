"""Guides for those who cut at home: portions, whole sheets, and papers they chose with several ways to cut them."""

from __future__ import annotations

from dataclasses import replace

from django.core.cache import cache

from zester.bags.own_ways import OwnWay
from zester.bench.printed import home_guides
from zester.classes.services import CountedClass
from zester.core.fitting.jobs.job import Piece
from zester.core.kits.ways import Way, ways_of
from zester.core.printing.home_guides import HomeGuide, guide_for
from zester.core.tally import some

A_DAY = 86_400


def guides_of(counted: CountedClass) -> list[HomeGuide]:
    """All guides of a class."""
    return [*home_guides(counted.card_class), *chosen_guides(counted)]


def has_guides(counted: CountedClass) -> bool:
    """Whether there can be any: somebody cuts up paper at home, or papers may be chosen."""
    at_home = any(item.at_home for kit in counted.packed.kits for item in kit.beside)
    return at_home or any(offer.choice for offer in counted.needs.offers)


def guides_for(counted: CountedClass, way: OwnWay | None) -> list[HomeGuide]:
    """The guides that somebody needs who ordered this; without it all of them."""
    if way is None:
        return guides_of(counted)
    mine = {counted.names.get(paper) for paper in way.at_home}
    sheets = [guide for guide in home_guides(counted.card_class) if guide.paper in mine]
    return [*sheets, *chosen_guides(counted, way.key)]


def chosen_guides(counted: CountedClass, key: str = "") -> list[HomeGuide]:
    """The ways to cut up the papers that may be chosen; of the offer with a key only its own."""
    names = {each.handle: each.piece.name for each in counted.counts}
    found: list[HomeGuide] = []
    for offer in counted.needs.offers:
        if offer.choice is None or key not in ("", offer.key):
            continue
        papers = [paper for paper in counted.known.papers if paper.key in offer.choice.among]
        size = offer.choice.width, offer.choice.height
        free = all(paper.direction == "free" for paper in papers)
        ways = _ways(counted, size, free)
        called = " or ".join(paper.name for paper in papers)
        if offer.choice.at_home:
            called = f"Any {offer.choice.number} of your {some(len(papers), 'paper')}"
        for number, way in enumerate(ways, 1):
            guide = guide_for(called, size, way.layout, names, counted.card_class.unit)
            found.append(replace(guide, way=f"way {number} of {len(ways)}" if len(ways) > 1 else ""))
    return found


def _ways(counted: CountedClass, size: tuple[int, int], free: bool) -> list[Way]:
    """Worked out once for the same pieces and the same size."""
    kinds = counted.needs.kinds
    cards = [
        [
            Piece(id=f"{card.entry.letter}{p.number}", width=p.width, height=p.height, count=p.count, turn=p.turn)
            for p in card.pieces
            # What comes out of lettered sheets is cast, and not chosen.
            if kinds.get(p.paper) == "patterned" and not p.filler and p.number not in card.shown
        ]
        for card in counted.designs
    ]
    key = repr((cards, size, free))
    known = f"ways-{counted.card_class.pk}-{size[0]}-{size[1]}"
    found = cache.get(known)
    if found is None or found[0] != key:
        found = key, ways_of(*size, cards, turn=free)
        cache.set(known, found, A_DAY)
    return found[1]
