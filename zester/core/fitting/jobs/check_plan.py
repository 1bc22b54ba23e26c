"""Replays a plan cut by cut and counts what it makes. Knows the job and the plan, and nothing of the solver.

part 0 = the sheet --cuts--> parts --names--> pieces --copies--> counts, sheets used, cost
"""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from decimal import Decimal

from zester.core.errors import JobError, PlanError
from zester.core.fitting.jobs.job import ANY_BENCH, Bench, Job, PaperJob, Piece, Row
from zester.core.fitting.jobs.plan import Layout, Named, PaperPlan, Plan

# The edges of a part clockwise, and which way "to the right" and "down" of a piece point if its top lies there.
EDGES = ("top", "right", "bottom", "left")
RIGHTWARDS = ((1, 0), (0, 1), (-1, 0), (0, -1))
DOWNWARDS = ((0, 1), (-1, 0), (0, -1), (1, 0))

Box = tuple[int, int, int, int]


def check_plan(job: Job, plan: Plan) -> None:
    """Raise PlanError unless the plan does what the job asks, cut by cut, and says truly what is short.

    Checked: every paper there once; every cut inside a part that is still whole, and one that the trimmer can make;
    every named part exactly its piece, outside the margins, its top where it may be; matched pieces side by side in
    order; shapes inside hidden middles that are there; portions that are cut; pins kept; sheets used not above those
    there are; pieces made plus missing at least those wanted; cost the sum of the sheets; bound not above cost; proven
    only if nothing is short and cost equals bound.
    """
    if [paper.id for paper in plan.papers] != [paper.id for paper in job.papers]:
        raise PlanError("the plan’s papers are not the job’s", "papers")
    for paper_job, paper_plan in zip(job.papers, plan.papers, strict=True):
        check_paper(paper_job, paper_plan, job.bench)


def check_paper(job: PaperJob, plan: PaperPlan, bench: Bench = ANY_BENCH) -> None:
    """Check one paper; see ``check_plan``."""
    count = _Count(job, plan.portion, bench)
    for number, layout in enumerate(plan.layouts):
        count.add(layout, f"{job.id}, layout {number + 1}")
    _check_pins(job, plan)
    _check_counts(job, plan, count.made)
    _check_windows(job, count)
    if count.portions_used > count.portions_made:
        raise PlanError(f"{count.portions_used} portions are cut up, {count.portions_made} are made", job.id)
    _check_money(job, plan, count.used)


def check_pins(job: Job) -> None:
    """Raise JobError unless every pinned layout could stand in a plan for the job as it is."""
    for paper in job.papers:
        check_paper_pins(paper, job.bench)


def check_paper_pins(paper: PaperJob, bench: Bench) -> None:
    """The same for one paper."""
    count = _Count(paper, None, bench)
    for number, pin in enumerate(paper.pins):
        where = f"{paper.called}, pinned layout {number + 1}"
        try:
            if pin.source == "portion":
                raise PlanError("a portion cannot be pinned", where)
            count.add(pin, where)
            _check_stock(paper, count.used)
        except PlanError as error:
            raise JobError(error.what, where, "Unpin it, or take it anew from a plan") from error


class _Count:
    """Adds up what layouts make and use."""

    def __init__(self, job: PaperJob, portion: tuple[int, int] | None, bench: Bench):
        self.job, self.portion, self.bench = job, portion, bench
        self.sheets = {sheet.id: sheet for sheet in job.sheets}
        self.pieces = {piece.id: piece for piece in job.pieces}
        self.row_of = {name: row for row in job.matched for name in row.pieces}
        self.made: Counter[str] = Counter()
        self.used: Counter[str] = Counter()
        self.windows: Counter[str] = Counter()
        self.portions_made = self.portions_used = 0

    def add(self, layout: Layout, where: str) -> None:
        """Replay one layout; raises PlanError."""
        if layout.copies < 1:
            raise PlanError(f"{layout.copies} copies", where)
        width, height = self._size(layout, where)
        boxes = replay(layout, width, height, where, self.bench if layout.source == "sheet" else ANY_BENCH)
        seen = set()
        for named in layout.parts:
            if named.part not in boxes or named.part in seen:
                raise PlanError(f"part {named.part} is not there to be named", where)
            seen.add(named.part)
            if named.portion:
                self._portion(layout, boxes[named.part], where)
            else:
                self._piece(layout, named, boxes[named.part], where)
        self._rows(layout, boxes, where)

    def _size(self, layout: Layout, where: str) -> tuple[int, int]:
        if layout.source == "portion" and self.portion:
            self.portions_used += layout.copies
            return self.portion
        host = self.pieces.get(layout.sheet)
        if layout.source == "window" and host and (window := host.window):
            self.windows[layout.sheet] += layout.copies
            return window.width, window.height
        if layout.source != "sheet" or layout.sheet not in self.sheets:
            raise PlanError(f"{layout.copies} copies of {layout.source} “{layout.sheet}”", where)
        self.used[layout.sheet] += layout.copies
        return self.sheets[layout.sheet].width, self.sheets[layout.sheet].height

    def _portion(self, layout: Layout, box: Box, where: str) -> None:
        sides = self.portion or (0, 0)
        # Portions are measured with the pattern upright.
        if layout.source != "sheet" or box[2:] != (sides[::-1] if self.sheets[layout.sheet].sideways else sides):
            raise PlanError("a part named as a portion is none", where)
        self._inside(layout, box, where)
        self.portions_made += layout.copies

    def _piece(self, layout: Layout, named: Named, box: Box, where: str) -> None:
        if named.piece not in self.pieces:
            raise PlanError(f"nobody asked for “{named.piece}”", where)
        piece = self.pieces[named.piece]
        self._direction(layout, named, piece, where)
        size = (piece.height, piece.width) if named.turned else (piece.width, piece.height)
        if box[2:] != size:
            raise PlanError(f"part {named.part} is not the size of “{piece.id}”", where)
        if layout.source == "window" and not piece.from_window:
            raise PlanError(f"“{piece.id}” may not come out of a hidden middle", where)
        self._inside(layout, box, where)
        if piece.id not in self.row_of:
            self.made[piece.id] += layout.copies

    def _direction(self, layout: Layout, named: Named, piece: Piece, where: str) -> None:
        if named.edge not in EDGES or (EDGES.index(named.edge) % 2 == 1) != named.turned:
            raise PlanError(f"the top of “{piece.id}” cannot lie at its {named.edge}", where)
        top = self.sheets[layout.sheet].up if layout.source == "sheet" else "top"
        turns = (EDGES.index(named.edge) - EDGES.index(top)) % 4
        if not piece.turn and (turns % 2 or (piece.upright and turns)):
            raise PlanError(f"“{piece.id}” may not be turned", where)
        if layout.source == "window" and not piece.turn and self.pieces[layout.sheet].turn:
            raise PlanError(f"“{piece.id}” may not be turned, but “{layout.sheet}” may", where)

    def _inside(self, layout: Layout, box: Box, where: str) -> None:
        if layout.source != "sheet":
            return
        sheet, (x, y, width, height) = self.sheets[layout.sheet], box
        margins = sheet.margins
        within = x >= margins.left and y >= margins.top
        within &= x + width <= sheet.width - margins.right and y + height <= sheet.height - margins.bottom
        if not within:
            raise PlanError("a piece reaches into the margin", where)

    def _rows(self, layout: Layout, boxes: dict[int, Box], where: str) -> None:
        """Matched pieces count only as whole rows, each piece in one row."""
        members = {boxes[n.part][:2]: n for n in layout.parts if not n.portion and n.piece in self.row_of}
        left = dict(members)
        # From the end where a row begins, so that one row after the other is found.
        for named in sorted(members.values(), key=lambda n: _along(self.row_of[n.piece], n, boxes[n.part])):
            row = self.row_of[named.piece]
            chain = _follow(row, named, members, boxes) if named.piece == row.pieces[0] else []
            if len(chain) == len(row.pieces) and all(boxes[n.part][:2] in left for n in chain):
                for link in chain:
                    del left[boxes[link.part][:2]]
                    self.made[link.piece] += layout.copies
        if left:
            name = next(iter(left.values())).piece
            raise PlanError(f"“{name}” does not lie beside what it is matched with", where)


def _way(row: Row, edge: str) -> tuple[int, int]:
    """Which way a row runs on the sheet when the tops of its pieces lie at this edge."""
    return (RIGHTWARDS if row.axis == "x" else DOWNWARDS)[EDGES.index(edge)]


def _along(row: Row, named: Named, box: Box) -> int:
    right, down = _way(row, named.edge)
    return box[0] * right + box[1] * down


def _follow(row: Row, first: Named, members: dict[tuple[int, int], Named], boxes: dict[int, Box]) -> list[Named]:
    """The named parts that continue a row from its first piece, as far as they lie flush, in order, the same way up."""
    right, down = _way(row, first.edge)
    chain = [first]
    for name in row.pieces[1:]:
        x, y, width, height = boxes[chain[-1].part]
        found = None
        for (left, top), named in members.items():
            box = boxes[named.part]
            flush_x = left == x + width if right > 0 else left + box[2] == x if right < 0 else left == x
            flush_y = top == y + height if down > 0 else top + box[3] == y if down < 0 else top == y
            same = box[3] == height if right else box[2] == width
            if flush_x and flush_y and same and named.piece == name and named.edge == first.edge:
                found = named
        if found is None:
            return chain
        chain.append(found)
    return chain


def replay(layout: Layout, width: int, height: int, where: str = "layout", bench: Bench = ANY_BENCH) -> dict[int, Box]:
    """Do the cuts on a sheet of this size; the boxes (x, y, width, height) of the parts whole at the end, by number."""
    whole = {0: (0, 0, width, height)}
    number = 1
    for cut in layout.cuts:
        if cut.part not in whole:
            raise PlanError(f"part {cut.part} is not there to be cut", where)
        x, y, wide, high = whole.pop(cut.part)
        if cut.axis not in ("x", "y"):
            raise PlanError(f"“{cut.axis}” is no way to cut", where)
        side, across = (wide, high) if cut.axis == "x" else (high, wide)
        if not 0 < cut.at < side:
            raise PlanError(f"a cut outside part {cut.part}", where)
        if bench.limits.longest is not None and across > bench.limits.longest:
            raise PlanError(f"the cut of part {cut.part} is longer than the trimmer’s", where)
        if max(cut.at, side - cut.at) < bench.limits.hold:
            raise PlanError(f"nothing of part {cut.part} is wide enough to be held", where)
        if cut.axis == "x":
            whole[number], whole[number + 1] = (x, y, cut.at, high), (x + cut.at, y, wide - cut.at, high)
        else:
            whole[number], whole[number + 1] = (x, y, wide, cut.at), (x, y + cut.at, wide, high - cut.at)
        number += 2
    return whole


def _check_pins(job: PaperJob, plan: PaperPlan) -> None:
    there: Counter[Layout] = Counter()
    for layout in plan.layouts:
        if layout.pinned:
            there[replace(layout, copies=1)] += layout.copies
    for pin in job.pins:
        there[replace(pin, copies=1)] -= pin.copies
    if any(there.values()):
        raise PlanError("the pinned layouts are not kept", job.id)


def _check_windows(job: PaperJob, count: _Count) -> None:
    for host, used in count.windows.items():
        if used > count.made[host]:
            raise PlanError(f"{used} hidden middles of “{host}” are used, {count.made[host]} are made", job.id)


def _check_counts(job: PaperJob, plan: PaperPlan, made: Counter[str]) -> None:
    missing = dict(plan.short)
    for piece in job.pieces:
        if piece.filler:
            continue
        if made[piece.id] + missing.get(piece.id, 0) < piece.count:
            raise PlanError(f"“{piece.id}” is made {made[piece.id]} times, {piece.count} are wanted", job.id)
        if missing.get(piece.id, 0) > 0 and made[piece.id] + missing[piece.id] > piece.count:
            raise PlanError(f"“{piece.id}” is said to be missing but is made", job.id)


def _check_stock(job: PaperJob, used: Counter[str]) -> None:
    for sheet in job.sheets:
        if sheet.count is not None and used[sheet.id] > sheet.count:
            raise PlanError(f"{used[sheet.id]} sheets of “{sheet.id}” are used, there are {sheet.count}", job.id)


def _check_money(job: PaperJob, plan: PaperPlan, used: Counter[str]) -> None:
    _check_stock(job, used)
    cost = sum((sheet.cost * used[sheet.id] for sheet in job.sheets), Decimal(0))
    if cost != plan.cost:
        raise PlanError(f"the sheets cost {cost}, the plan says {plan.cost}", job.id)
    if plan.bound > plan.cost and not plan.short:
        raise PlanError("the bound is above the cost", job.id)
    if plan.proven and (plan.short or plan.bound != plan.cost):
        raise PlanError("called proven without a proof", job.id)
