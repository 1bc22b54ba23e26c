"""Pieces of a paper that came out a hair short: what their cards can bear."""

from __future__ import annotations

from dataclasses import dataclass

from zester.classes.models import CardClass
from zester.classes.services import entries
from zester.core.cards.bearing import Bearing, bear_short
from zester.core.fitting.jobs.plan import PaperPlan
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM, show_length
from zester.core.tally import card_of
from zester.designs.services import known_to, study_card
from zester.plans.kept import names_for
from zester.plans.models import PaperFit


@dataclass(frozen=True, kw_only=True)
class ShortPiece:
    """A piece and what can be done with a short one."""

    handle: str
    """Its handle."""
    name: str
    """What it is called."""
    card: str
    """The card."""
    bearing: Bearing
    """What can be done."""


def short_of(unit: str) -> tuple[int, str]:
    """A sixteenth, or a millimetre and a half: ticks and words."""
    short = TICKS_PER_INCH // 16 if unit == "in" else 3 * TICKS_PER_MM // 2
    return short, f"{show_length(short, unit)} {unit}"


def short_pieces(fit: PaperFit, plan: PaperPlan) -> list[ShortPiece]:
    """Every piece of a plan that is on a card, with what its card can bear."""
    card_class: CardClass = fit.class_paper.card_class
    names, known = names_for(fit), known_to(card_class.owner)
    cards = {each.letter: each for each in entries(card_class)}
    short, _ = short_of(card_class.unit)
    handles = dict.fromkeys(named.piece for layout in plan.layouts for named in layout.parts if not named.portion)
    found, studies = [], {}
    for handle in sorted(handles):
        letter, number = card_of(handle), handle.rstrip("′")
        number = number[len(letter) :]
        if letter not in cards or not number.isdigit():
            continue
        if letter not in studies:
            studies[letter] = study_card(cards[letter].card, known, version=cards[letter].version)
        about = names.get(handle, {})
        bearing = bear_short(studies[letter], int(number), short)
        found.append(ShortPiece(handle=handle, name=about.get("name", ""), card=about.get("card", ""), bearing=bearing))
    return found
