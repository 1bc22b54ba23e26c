"""The order of work of a class: what dries, the trimming paper by paper, the piles, the packing."""

from __future__ import annotations

import re
from collections.abc import Iterator

from zester.bench.runs import Cutting, cuttings_of, fits_of, steps_of
from zester.classes.models import CardClass
from zester.classes.services import count_class
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
from zester.core.cutting.handwork import TIE_SECONDS
from zester.core.pieces import IN_CLASS
from zester.plans.kept import names_for
from zester.plans.models import PaperFit
from zester.site.stations import some


def evening_of(card_class: CardClass, minutes: int) -> dict:
    """What the page shows: the tasks by phase, what is left in words, sittings of at most so many minutes."""
    fits = fits_of(card_class)
    cuttings = cuttings_of(fits)
    tasks = [task for fit in fits for task in (_trimming(fit, cuttings.get(fit.pk)), *_handwork(fit))]
    tasks = in_order([*tasks, *_ties(card_class), *_packing(card_class)])
    groups = sittings(tasks, minutes)
    return {
        "phases": [_phase(phase, rows) for phase in PHASES if (rows := [t for t in tasks if t.phase == phase])],
        "words": evening_in_words(tasks),
        "minutes": minutes,
        "sittings": [(group, minutes_in_words(group.minutes)) for group in groups],
        "cautions": cautions_for({task.tool for task in tasks if not task.done}),
        "any": bool(tasks),
    }


def _phase(phase: str, tasks: list[Task]) -> tuple[str, list[tuple[Task, str]], str]:
    """A phase with its tasks, each with how long it takes, and how long what is left of it takes."""
    left = sum(task.minutes for task in tasks if not task.done)
    return phase, [(task, minutes_in_words(task.minutes)) for task in tasks], minutes_in_words(left) if left else ""


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
    """What is done to its pieces before the class, or whenever nobody said; not to those that are cut at home."""
    for handle, about in names_for(fit).items():
        count = about["count"] - about.get("home", 0)
        for work in about.get("work", ()) if count > 0 else ():
            if work["when"] != IN_CLASS:
                yield Task(
                    phase=DRYING if work["first"] else WORKING,
                    what=f"{handle} {about['name']}, {count} times: {work['what']}",
                    seconds=work["seconds"] * count,
                    by=work["by"],
                    tool=work["tool"],
                )


def _ties(card_class: CardClass) -> Iterator[Task]:
    """Bits that a list calls tied: bows and knots are made beforehand."""
    for name, count, *_ in card_class.bits:
        if count and re.search(r"\btied\b", name, re.IGNORECASE):
            yield Task(phase=WORKING, what=f"{name}: tie {count}", seconds=TIE_SECONDS * count)


def _packing(card_class: CardClass) -> list[Task]:
    packed = count_class(card_class).packed
    return packing(packed.bags_in_all, packed.kits_in_all, packed.pieces_in_bags)
