"""A guide’s sheets as layouts of one class’s paper: pieces by their handles, a one-way pattern upright, so many copies.

A square sheet may be turned whole: where pieces that show a pattern lie on their side, the layout is turned a quarter
round, every cut and every part with it, so that their tops lie where the pattern has its own.

    x = 2 |          a quarter turn to the left        y = 4 ---- (the right part, turned, is the upper one)
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import replace

from zester.core.casting.casting import Casting, Face, PadSheet, Slot, Stage, matched_parts
from zester.core.casting.guide import Guide
from zester.core.fitting.jobs.check_plan import EDGES
from zester.core.fitting.jobs.plan import Cut, Layout, Named


def turned_left(layout: Layout, width: int, height: int) -> Layout:
    """The layout of a sheet (ticks) a quarter turn to the left: what was its right edge is its upper one."""
    sizes = {0: (width, height)}
    names, cuts, number = {0: 0}, [], 1
    for cut in layout.cuts:
        wide, high = sizes.pop(cut.part)
        first, second = number, number + 1
        if cut.axis == "x":
            sizes[first], sizes[second] = (cut.at, high), (wide - cut.at, high)
            # What was on the left is below now, and the upper part takes the lower number.
            cuts.append(Cut(names[cut.part], "y", wide - cut.at))
            names[first], names[second] = second, first
        else:
            sizes[first], sizes[second] = (wide, cut.at), (wide, high - cut.at)
            cuts.append(Cut(names[cut.part], "x", cut.at))
            names[first], names[second] = first, second
        number += 2
    parts = tuple(_turned(part, names[part.part]) for part in layout.parts)
    return replace(layout, cuts=tuple(cuts), parts=parts)


def _turned(part: Named, number: int) -> Named:
    edge = EDGES[EDGES.index(part.edge) - 1]
    return as_lying(replace(part, part=number), edge)


def as_lying(part: Named, edge: str) -> Named:
    """The part with the top of its piece at this edge, said in as few words as plans say it."""
    turned = edge in ("left", "right")
    usual = "right" if turned else "top"
    return replace(part, turned=turned, up="" if edge == usual else edge)


def guide_layouts(
    stage: Stage, casting: Casting, paper: PadSheet, left: Counter[str], handles: Mapping[str, str]
) -> list[Layout]:
    """The layouts of the letters that are cast as this paper, as often as the class can use them whole.

    Parameters
    ----------
    stage, casting
        The lettered pieces with the guide, and which paper goes where.
    paper
        The paper; a sheet of another size than the guide's is cut freely.
    left
        How many of each handle are still to be made; what the layouts make is taken away.
    handles
        By a slot's handle what the class calls the piece as it is cast here.
    """
    guide, found = stage.guide, []
    if guide is None or {guide.width, guide.height} != {paper.width, paper.height}:
        return []
    for letter in sorted(letter for letter, key in casting.letters.items() if key == paper.key):
        mine = [slot for slot in stage.of(letter) if slot.handle not in casting.instead and slot.handle in handles]
        layout = _of_letter(guide, letter, mine, handles)
        if layout is None:
            continue
        layout = _standing(layout, guide, {paper.face(casting.side(slot)) for slot in mine})
        each = Counter(part.piece for part in layout.parts)
        copies = min((left[handle] // count for handle, count in each.items()), default=0)
        if copies and layout.parts:
            left.subtract({handle: copies * count for handle, count in each.items()})
            found.append(replace(layout, copies=copies, pinned=True))
    return found


def _of_letter(guide: Guide, letter: str, slots: Sequence[Slot], handles: Mapping[str, str]) -> Layout | None:
    sheet, parts = guide.of(letter), matched_parts(guide, letter, slots)
    if sheet is None or not parts:
        return None
    named = tuple(replace(part, piece=handles[name.partition(" ")[0]]) for name, part in parts.items())
    return replace(sheet.layout, parts=tuple(sorted(named, key=lambda part: part.part)))


def _standing(layout: Layout, guide: Guide, faces: set[Face | None]) -> Layout:
    """Turned whole where that makes a pattern that runs one way stand upright."""
    ways = {face.direction for face in faces if face} - {"free"}
    edges = {part.edge for part in layout.parts}
    if not ways or guide.width != guide.height:
        return layout
    for _ in EDGES:
        upright = edges == {"top"} if "upright" in ways else edges <= {"top", "bottom"}
        if upright:
            return layout
        layout = turned_left(layout, guide.width, guide.height)
        edges = {part.edge for part in layout.parts}
    return layout
