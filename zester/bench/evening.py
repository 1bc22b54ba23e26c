"""The order of work of a class: what dries, the trimming paper by paper, the piles, the packing."""

from __future__ import annotations

import re
from collections.abc import Iterator

from zester.bench.runs import Cutting, cuttings_of, fits_of, steps_of
from zester.classes.models import CardClass
from zester.core.cautions import cautions_for
from zester.core.cutting.evening import (
    DRYING,
    PHASES,
    TRIMMING,
    WORKING,
    Task,
    evening_in_words,
    in_order,
    minutes_in_words,
    packing,
    sittings,
)
from zester.core.cutting.handwork import IN_CLASS, TIE_SECONDS
from zester.plans.kept import names_for
from zester.plans.models import PaperFit
from zester.site.stations import some


def evening_of(card_class: CardClass, minutes: int) -> dict:
    """What the page shows: the tasks by phase, what is left in words, sittings of at most so many minutes."""
    fits = fits_of(card_class)
    cuttings = cuttings_of(fits)
    tasks = [task for fit in fits for task in (_trimming(fit, cuttings.get(fit.pk)), *_handwork(fit))]
    tasks = in_order([*tasks, *_ties(card_class), *_packing(card_class)])
    groups = sittings(tasks, minutes * 60)
    return {
        "phases": [_phase(phase, rows) for phase in PHASES if (rows := [t for t in tasks if t.phase == phase])],
        "words": evening_in_words(tasks),
        "minutes": minutes,
        "sittings": [(group, minutes_in_words(group.seconds)) for group in groups],
        "cautions": cautions_for({task.tool for task in tasks if not task.done}),
        "any": bool(tasks),
    }


def _phase(phase: str, tasks: list[Task]) -> tuple[str, list[tuple[Task, str]], str]:
    """A phase with its tasks, each with how long it takes, and how long what is left of it takes."""
    left = sum(task.seconds for task in tasks if not task.done)
    return phase, [(task, minutes_in_words(task.seconds)) for task in tasks], minutes_in_words(left) if left else ""


def _trimming(fit: PaperFit, cutting: Cutting | None) -> Task:
    done = fit.held == PaperFit.Held.CUT
    steps = cutting.cut_steps if cutting else steps_of(fit)
    gone = cutting.steps_done if cutting and not done else 0
    left = some(len(steps.steps) - gone, "step")
    return Task(
        phase=TRIMMING,
        what=f"{fit.name}: {some(fit.shown.new_sheets, 'sheet')}, {left}",
        seconds=sum(steps.each_seconds(fit.class_paper.card_class.cut_with.pace)[gone:]),
        tool="blade",
        key=fit.key,
        done=done,
    )


def _handwork(fit: PaperFit) -> Iterator[Task]:
    """What is done to its pieces before the class, or whenever nobody said."""
    for handle, about in names_for(fit).items():
        for work in about.get("work", ()):
            if work["when"] != IN_CLASS:
                yield Task(
                    phase=DRYING if work["first"] else WORKING,
                    what=f"{handle} {about['name']}, {about['count']} times: {work['what']}",
                    seconds=work["seconds"] * about["count"],
                    by=work["by"],
                    tool=work["tool"],
                )


def _ties(card_class: CardClass) -> Iterator[Task]:
    """Bits that a list calls tied: bows and knots are made beforehand."""
    for name, count, *_ in card_class.bits:
        if count and re.search(r"\btied\b", name, re.IGNORECASE):
            yield Task(phase=WORKING, what=f"{name}: tie {count}", seconds=TIE_SECONDS * count)


def _packing(card_class: CardClass) -> list[Task]:
    people = card_class.n_people + card_class.give_aways
    return packing(card_class.n_bags, people if card_class.n_bags else 0, card_class.n_pieces)
