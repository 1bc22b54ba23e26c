"""Something went wrong at the bench: what may have been spoiled, how it is said, what came of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from zester.bench.models import Run
from zester.bench.refits import MISSING
from zester.bench.runs import Cutting, cutting_of
from zester.core.cutting.mishap import Spoiled
from zester.core.cutting.steps import KEEP, PIECE, PILE, SHEET, WASTE
from zester.core.errors import JobError
from zester.core.lengths import show_size
from zester.plans.kept import names_for
from zester.plans.models import PaperFit
from zester.site.owned import key_of
from zester.site.stations import some


@dataclass(frozen=True, kw_only=True)
class Choice:
    """Something that may have been spoiled."""

    value: str
    """What the form sends."""
    words: str
    """What it is."""
    size: str
    """Its size in words."""
    count: int
    """How many there are."""
    last: bool
    """Whether the last step made it."""


def on_table(cutting: Cutting) -> list[Choice]:
    """Everything that may have been spoiled: what the last step made first, then pieces, piles, sheets, offcuts."""
    stand, unit = cutting.stand, cutting.made.job.unit
    last = stand.steps[stand.done - 1] if stand.done else None
    made = {(each.kind, each.label) for each in last.results} if last else set()
    names = names_for(cutting.fit)
    found = []
    for kind in (PIECE, PILE, KEEP):
        for each in stand.table.of(kind):
            words = _piece_words(each.label, names) if kind == PIECE else f"pile {each.label}"
            words = f"left over {each.label}" if kind == KEEP else words
            found.append(
                Choice(
                    value=f"{kind}|{each.label}|{each.width}|{each.height}",
                    words=words,
                    size=show_size(each.width, each.height, unit),
                    count=each.count,
                    last=(kind, each.label) in made,
                )
            )
    opening: dict[str, int] = {}
    for step in stand.steps[stand.done :]:
        if step.source == SHEET:
            opening[step.source_label] = opening.get(step.source_label, 0) + step.count
    sizes = {sheet.id: show_size(sheet.width, sheet.height, unit) for sheet in cutting.made.paper.sheets}
    torn = {"words": "a sheet, torn or not as it should be", "last": False}
    found += [
        Choice(value=f"{SHEET}|{name}|0|0", size=sizes[name], count=count, **torn) for name, count in opening.items()
    ]
    return sorted(found, key=lambda choice: not choice.last)


def _piece_words(label: str, names: dict) -> str:
    first = names.get(label.split(", ", maxsplit=1)[0], {}).get("name", "")
    return f"{label} {first}".strip()


def read_spoiled(data: Mapping[str, str]) -> list[Spoiled]:
    """What a form says was spoiled. Raises JobError if it says nothing that can be understood."""
    parts = data.get("what", "").split("|")
    count = key_of(data.get("count", ""))
    if len(parts) != 4 or parts[0] not in (PIECE, PILE, KEEP, WASTE, SHEET):
        raise JobError("Nothing was chosen", mend="Tap what was spoiled, then how many")
    if not 1 <= count <= 10_000:
        raise JobError("How many were spoiled?", mend="Tap a number")
    kind, label, width, height = parts
    size = (key_of(width), key_of(height)) if kind == PIECE else None
    return [Spoiled(kind, label, count, size)]


def mended_words(fit: PaperFit, run: Run) -> str:
    """What came of it, in words."""
    gone = " and ".join(f"{each['count']} × {_called(each)}" for each in run.spoiled)
    if run.more > 0:
        new = f"{some(run.more, 'sheet')} more than before must be opened"
    elif run.more < 0:
        new = f"{some(-run.more, 'sheet')} fewer than before must be opened"
    else:
        new = "no other sheet has to be opened"
    cutting = cutting_of(fit)
    steps = some(len(cutting.steps), "step") if cutting and cutting.steps else "nothing more to cut"
    said = f"Noted: {gone} spoiled"
    if run.reason == MISSING:
        said = f"{gone} {'is' if sum(each['count'] for each in run.spoiled) == 1 else 'are'} cut again here"
    words = f"{said}; {new}. From here: {steps}."
    taken = [f"{count} of {label} are {piece} as they are" for label, piece, count in run.taken]
    if taken:
        words += f" {'; '.join(taken)}."
    missing = _short(fit, run)
    return f"{words} {missing}" if missing else words


def _called(each: dict) -> str:
    return {PIECE: each["label"], PILE: f"pile {each['label']}", SHEET: "sheet"}.get(each["kind"], each["label"])


def _short(fit: PaperFit, run: Run) -> str:
    """What cannot be made any more, as the shelf has no paper for it."""
    if not run.short:
        return ""
    pieces = ", ".join(f"{count} {handle}" for handle, count in run.short)
    return f"There is not enough {fit.paper.name} for {pieces}: buy more, or take another paper for some."
