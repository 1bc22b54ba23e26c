"""The evening of a class for those who take part: its order of work, and one step of it at a time."""

from __future__ import annotations

import datetime
from dataclasses import dataclass, replace

from django.db import transaction
from django.utils import timezone

from zester.bags.handouts import own_steps_of, put_together
from zester.bags.models import SharedPage
from zester.classes.models import CardClass
from zester.classes.services import CountedClass, ReadCard
from zester.core.cautions import CAUTIONS
from zester.core.kits.class_evening import CardSteps, ClassEvening, EveningStep, Part, evening_of
from zester.designs.desk import Drawing, drawings_of
from zester.designs.services import mind
from zester.site.dates import day

# So long the page of the participants follows a step that nobody moves on from.
FOLLOWS = datetime.timedelta(hours=4)
LONGEST_NOTE = 200


@dataclass(frozen=True, kw_only=True)
class Moment:
    """One step of the evening, as it is shown while teaching."""

    at: int
    """Its number, from 0."""
    of: int
    """How many there are."""
    part: Part
    """The part it belongs to."""
    step: EveningStep | None
    """What is done; None while waiting."""
    begins: int
    """When it begins by the plan, minutes after the class."""

    @property
    def number(self) -> int:
        """Its number, from 1."""
        return self.at + 1


def class_evening_of(counted: CountedClass) -> ClassEvening:
    """The order of work over all cards of a class, each in its designer's order."""
    return evening_of([card_steps_of(counted, read) for read in counted.designs if read.entry.each])


def card_steps_of(counted: CountedClass, read: ReadCard) -> CardSteps:
    """The steps of one card, in its designer's order."""
    looked, made = put_together(counted, read)
    entry, own = read.entry, own_steps_of(read.entry.card, looked, made)
    return CardSteps(letter=entry.letter, name=entry.card.name, each=entry.each, steps=own.steps)


def moments_of(evening: ClassEvening) -> list[Moment]:
    """The evening step by step."""
    flat = []
    for part in evening.parts:
        now = part.begins
        for step in part.steps or (None,):
            flat.append((part, step, now // 60))
            now += step.seconds if step else part.wait
    return [
        Moment(at=at, of=len(flat), part=part, step=step, begins=begins) for at, (part, step, begins) in enumerate(flat)
    ]


def caution_of(moment: Moment) -> str:
    """The caution that belongs to its tool; empty if it has none."""
    return CAUTIONS.get(moment.step.step.tool, "") if moment.step else ""


def words_of(counted: CountedClass, moment: Moment) -> str:
    """The teacher's own words to it."""
    read = _read(counted, moment)
    return read.entry.card.teaching.get(moment.step.step.key, "") if read and moment.step else ""


def drawn_so_far(counted: CountedClass, moment: Moment, moments: list[Moment]) -> Drawing | None:
    """The card with what is glued on by the end of this step, on the side that it is about."""
    read = _read(counted, moment)
    if read is None or moment.step is None:
        return None
    looked, _ = put_together(counted, read)
    there = {looked.base.number} if looked.base else set()
    for each in moments[: moment.at + 1]:
        if each.step and each.step.letter == moment.step.letter and each.step.step.placed:
            there |= set(each.step.step.pieces)
    placed = [looked.placed[at] for at in moment.step.step.placed]
    inside = bool(placed) and not placed[0].face.closed
    entry = read.entry
    mine = entry.card, entry.letter, counted.known, counted.held.papers, entry.version
    views = drawings_of(*mine, counted.instead, read.shown)
    view = next((each for each in views if each.view.key == ("inside" if inside else "front")), None)
    return view and _without(view, there)


def _without(drawing: Drawing, there: set[int]) -> Drawing:
    """The drawing with those pieces only; what is bare of the base stays."""
    layers = tuple(each for each in drawing.layers if each.layer.number is None or each.layer.number in there)
    return replace(drawing, layers=layers)


def _read(counted: CountedClass, moment: Moment) -> ReadCard | None:
    letter = moment.step.letter if moment.step else ""
    return next((read for read in counted.designs if read.entry.letter == letter), None)


@transaction.atomic
def show_step(card_class: CardClass, at: int | None) -> None:
    """Which step is taught now, for the page that follows; None when the class is over."""
    page, _ = SharedPage.objects.get_or_create(card_class=card_class)
    page.step, page.step_at = at, timezone.now() if at is not None else None
    page.save(update_fields=["step", "step_at"])


def step_followed(page: SharedPage) -> int | None:
    """The number of the step that is taught now, from 0; None if none is."""
    if page.step is None or page.step_at is None or timezone.now() - page.step_at > FOLLOWS:
        return None
    return page.step


def note_down(card_class: CardClass, letter: str, what: str, text: str) -> bool:
    """Keep a note to a step with its design, as what to mind next time; False if there is no room for it."""
    used = card_class.class_cards.filter(letter=letter, removed_at=None).values_list("card", flat=True)
    return mind(used[0], f"{day(timezone.localdate(), 'short no year')}, {what}: {text}" if what else text)
