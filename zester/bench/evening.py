"""The order of work of a class: what dries, the trimming paper by paper, the piles, the packing."""

from __future__ import annotations

from zester.bench.runs import cutting_of, steps_of, trimmer_of
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
from zester.core.cutting.handwork import IN_CLASS
from zester.fits.models import PaperFit
from zester.fits.sheets import names_for
from zester.fits.states import papers_in
from zester.site.stations import some


def evening_of(card_class: CardClass, minutes: int) -> dict:
    """What the page shows: the tasks by phase, what is left in words, sittings of at most so many minutes."""
    tasks = in_order([task for fit in papers_in(card_class).shown for task in _tasks(fit)] + _packing(card_class))
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


def _tasks(fit: PaperFit) -> list[Task]:
    fit.shown.refresh_from_db()
    names, pace = names_for(fit), trimmer_of(fit.class_paper.card_class).pace
    cut = fit.held == PaperFit.Held.CUT
    cutting = cutting_of(fit)
    seconds = cutting.seconds_left if cutting and not cut else steps_of(fit).seconds(pace)
    steps = len(cutting.steps) - cutting.stand.done if cutting and not cut else len(steps_of(fit).steps)
    found = [
        Task(
            phase=TRIMMING,
            what=f"{fit.paper.name}: {some(fit.shown.new_sheets, 'sheet')}, {some(steps, 'step')}",
            seconds=seconds,
            tool="blade",
            key=fit.paper.key,
            done=cut,
        )
    ]
    for handle, about in names.items():
        for work in about.get("work", ()):
            if work["when"] == IN_CLASS:
                continue
            found.append(
                Task(
                    phase=DRYING if work["first"] else WORKING,
                    what=f"{handle} {about['name']}, {about['count']} times: {work['what']}",
                    seconds=work["seconds"] * about["count"],
                    by=work["by"],
                    tool=work["tool"],
                )
            )
    return found


def _packing(card_class: CardClass) -> list[Task]:
    people = card_class.n_people + card_class.give_aways
    return packing(card_class.n_bags, people if card_class.n_bags else 0, card_class.n_pieces)
