"""Questions about a fit: how many more people the same paper serves, and which size is only just too large."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any

from zester.core.cards.yields import most_of_one
from zester.core.fitting.engine import Judge, fit_paper
from zester.core.fitting.jobs.job import Bench, PaperJob, Piece, Sheet
from zester.core.fitting.jobs.summary import Summary
from zester.core.fitting.offcuts import bought_new
from zester.core.geometry import Window, goes_in
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM
from zester.core.tally import card_of

MOST_SEATS = 60
# How long a card's pieces are fitted on their own, to be compared with.
AN_APART = 0.5
A_FIT = 2.5
# A question is answered as far as this takes it; sizes that matter most are looked at first.
QUESTION_SECONDS = 90.0
SMALLER_INCHES = tuple(TICKS_PER_INCH // part for part in (16, 8, 4))
SMALLER_MM = tuple(TICKS_PER_MM * each for each in range(1, 6))


@dataclass(frozen=True)
class Fitted:
    """What a fit that was made for a question came to."""

    sheets: int
    """How many sheets it opens."""
    cost: Decimal
    """What they cost."""
    short: bool
    """Whether pieces are missing."""


class Steps:
    """The fits of a question, one after the other, each remembered by what it was for.

    A question that was interrupted goes on where it was: ``known`` is JSON data, given back to the next try.
    ``time_up`` says when no more should be begun, over all tries.
    """

    def __init__(self, known: dict[str, Any] | None = None, seconds: float = QUESTION_SECONDS):
        self.known = {} if known is None else known
        self.seconds = seconds

    @property
    def time_up(self) -> bool:
        """Whether the question has had its time."""
        return float(self.known.get("seconds", 0.0)) > self.seconds

    def spend(self, started: float) -> None:
        """Note the time since ``started`` on the monotonic clock."""
        self.known["seconds"] = self.known.get("seconds", 0.0) + time.monotonic() - started

    def fit(self, key: str, paper: PaperJob, bench: Bench, tell: Callable[[str], None], seconds: float) -> Fitted:
        """The paper fitted thriftily, or what is remembered of it."""
        if key not in self.known:
            started = time.monotonic()
            plan = fit_paper(paper, bench, tell, seconds)
            self.spend(started)
            self.known[key] = [plan.sheets, str(plan.cost), bool(plan.short)]
        sheets, cost, short = self.known[key]
        return Fitted(sheets, Decimal(cost), short)


@dataclass(frozen=True, kw_only=True)
class SeatRange:
    """A run of numbers of participants that need the same."""

    first: int
    """The fewest participants of the run."""
    last: int
    """The most."""
    sheets: int
    """How many sheets they need."""
    packs: int
    """How many packs these are."""
    price: Decimal
    """What the packs cost."""


@dataclass(frozen=True)
class Seats:
    """What a paper takes for 1 to 60 participants."""

    paper: str
    """The paper's key."""
    ranges: tuple[SeatRange, ...]
    """Runs of participants that need the same, in order, without gaps."""
    exact: bool = True
    """Whether every run was looked for to its end; if not, some may really need less."""

    def at(self, people: int) -> SeatRange:
        """The run that so many participants are in."""
        return next(each for each in self.ranges if each.first <= people <= each.last)

    def after(self, people: int) -> SeatRange | None:
        """The next run; None if there is none up to the most asked for."""
        return next((each for each in self.ranges if each.first > people), None)


def apart(
    paper: PaperJob,
    bench: Bench,
    judge: Judge,
    tell: Callable[[str], None] = lambda _: None,
    steps: Steps | None = None,
) -> tuple[int, int]:
    """What a paper takes if every card is cut by itself: new sheets, and seconds at the trimmer.

    ``judge`` tells the seconds of a plan. Fillers are left out, and pins; offcuts are not used, since nobody would know
    which card has them.
    """
    steps = steps or Steps()
    sheets = seconds = 0
    for card in dict.fromkeys(card_of(piece.id) for piece in paper.pieces if not piece.filler):
        mine, key = _of_card(bought_new(paper), card), f"apart {card}"
        if key not in steps.known:
            tell(f"{card} by itself")
            started = time.monotonic()
            plan = fit_paper(mine, bench, tell, AN_APART)
            steps.known[key] = [plan.sheets, round(judge(mine, plan, bench))]
            steps.spend(started)
        sheets, seconds = sheets + steps.known[key][0], seconds + steps.known[key][1]
    return sheets, seconds


def _of_card(paper: PaperJob, card: str) -> PaperJob:
    """The pieces of one card, from common sheets."""
    pieces = tuple(piece for piece in paper.pieces if card_of(piece.id) == card and not piece.filler)
    names = {piece.id for piece in pieces}
    rows = tuple(row for row in paper.matched if names.issuperset(row.pieces))
    return replace(paper, pieces=pieces, matched=rows, pins=(), pool="together", people=1)


def for_people(paper: PaperJob, people: int) -> PaperJob:
    """The paper for another number of participants: every piece's share more or less of the count."""
    pieces = (
        replace(piece, count=piece.count + (piece.each or 0) * (people - paper.people)) if not piece.filler else piece
        for piece in paper.pieces
    )
    return replace(paper, people=people, pieces=tuple(piece for piece in pieces if piece.count > 0), pins=())


def seats(
    paper: PaperJob,
    bench: Bench,
    tell: Callable[[str], None] = lambda _: None,
    most: int = MOST_SEATS,
    steps: Steps | None = None,
    least: int = 1,
    job_for: Callable[[int], PaperJob | None] | None = None,
) -> Seats:
    """How sheets, packs and price grow with the participants, from ``least`` to ``most``.

    What so many take is ``job_for`` (None: nothing), or every piece's share more or less of this paper's count.

    Sheets of the paper's first size are taken to be there without limit; margins, pools and all other rules stay,
    pins do not. Numbers between two that need the same need the same themselves, so only the ends of such runs are
    fitted.
    """
    steps = steps or Steps()
    sheets = tuple(replace(sheet, count=None) for sheet in bought_new(paper).sheets[:1])
    job_for = job_for or (lambda people: for_people(paper, people))
    known: dict[int, int] = {}
    exact = True

    def needed(people: int) -> int:
        if people not in known:
            tell(f"{people} people")
            job = job_for(people)
            endless = job and replace(job, sheets=sheets, pins=())
            known[people] = _sheets(endless, bench, tell, steps, f"seats {people}") if endless else 0
        return known[people]

    def spread(low: int, high: int) -> None:
        nonlocal exact
        if needed(low) < needed(high) and high - low > 1:
            if steps.time_up:
                exact = False
                return
            middle = (low + high) // 2
            spread(low, middle)
            spread(middle, high)

    spread(least, most)
    return Seats(paper.id, tuple(_ranges(known, most, sheets[0], least)), exact)


def _ranges(known: dict[int, int], most: int, sheet: Sheet, least: int = 1) -> Iterator[SeatRange]:
    needs, last = [0] * (most + 1), 0
    for people in range(most, least - 1, -1):
        # More people never need less; where a quick fit says so, the better one of more people serves fewer, too.
        last = min(known.get(people, last or 10**9), last or 10**9)
        needs[people] = last
    first = least
    for people in range(least, most + 1):
        if people == most or needs[people + 1] != needs[people]:
            packs = -(-needs[people] // sheet.pack)
            yield SeatRange(
                first=first, last=people, sheets=needs[people], packs=packs, price=packs * sheet.pack * sheet.cost
            )
            first = people + 1


def _sheets(paper: PaperJob, bench: Bench, tell: Callable[[str], None], steps: Steps, key: str) -> int:
    if not any(not piece.filler for piece in paper.pieces):
        return 0
    return steps.fit(key, paper, bench, tell, A_FIT).sheets


@dataclass(frozen=True, kw_only=True)
class NearMiss:
    """Pieces of one size that are only just too large."""

    paper: str
    """The paper's key."""
    pieces: tuple[str, ...]
    """Their ids."""
    side: str
    """The side that is too long: ``width`` or ``height``."""
    smaller: int
    """How much less of it would do, in ticks."""
    sheets: int
    """How many sheets that would save."""
    money: Decimal
    """What these cost."""


@dataclass(frozen=True)
class Near:
    """The near misses of a paper, as far as they were looked for."""

    misses: tuple[NearMiss, ...]
    """What would save most first."""
    looked: int
    """How many sizes were looked at, the largest in all first."""
    of: int
    """How many there are."""


@dataclass(frozen=True, kw_only=True)
class _Asked:
    """What is asked of every size alike."""

    paper: PaperJob
    bench: Bench
    cuts: tuple[int, ...]
    now: Fitted
    tell: Callable[[str], None]
    seconds: float
    steps: Steps


def near(
    paper: PaperJob,
    bench: Bench,
    unit: str,
    tell: Callable[[str], None] = lambda _: None,
    seconds: float = 2.0,
    steps: Steps | None = None,
) -> Near:
    """Which sizes are only just too large, what would save most first.

    Every size is made smaller by 1/16, 1/8 and 1/4 in, or 1 to 5 mm, in width and in height; the smallest change that
    saves as much as any is listed. Matched pieces and pieces with a hidden middle are left as they are.
    """
    steps = steps or Steps()
    # What is asked here is what would be bought: what lies on the shelf is left out of it.
    paper = bought_new(paper)
    paper = replace(paper, pins=(), pieces=tuple(piece for piece in paper.pieces if not piece.filler))
    now = steps.fit("near", paper, bench, tell, 2 * seconds)
    groups = _groups(paper)
    if now.short:
        return Near((), len(groups), len(groups))
    cuts = SMALLER_INCHES if unit == "in" else SMALLER_MM
    asked = _Asked(paper=paper, bench=bench, cuts=cuts, now=now, tell=tell, seconds=seconds, steps=steps)
    found, looked = [], 0
    for group in groups:
        if steps.time_up:
            break
        for side in ("width", "height"):
            tell(f"{group[0].id}, {side}")
            found += _near_of(asked, group, side)
        looked += 1
    found.sort(key=lambda miss: (-miss.money, -miss.sheets, miss.smaller, miss.pieces))
    return Near(tuple(found), looked, len(groups))


def _groups(paper: PaperJob) -> list[list[Piece]]:
    """Pieces of equal size and rules together, what takes most paper first; those that must stay are left out."""
    fixed = {name for row in paper.matched for name in row.pieces}
    groups: dict[tuple[Any, ...], list[Piece]] = {}
    for piece in paper.pieces:
        if piece.id not in fixed and not piece.window:
            groups.setdefault((piece.width, piece.height, piece.direction), []).append(piece)
    return sorted(groups.values(), key=lambda group: -sum(each.width * each.height * each.count for each in group))


def _near_of(asked: _Asked, group: list[Piece], side: str) -> list[NearMiss]:
    """The smallest change of one side of a group that saves anything, and a larger one only if it saves more."""
    paper, now = asked.paper, asked.now
    names = {piece.id for piece in group}
    found: list[NearMiss] = []
    for smaller in reversed(asked.cuts):
        if getattr(group[0], side) <= smaller:
            continue
        pieces = tuple(
            replace(piece, **{side: getattr(piece, side) - smaller}) if piece.id in names else piece
            for piece in paper.pieces
        )
        key = f"near {group[0].id} {side} {smaller}"
        plan = asked.steps.fit(key, replace(paper, pieces=pieces), asked.bench, asked.tell, asked.seconds)
        money, sheets = now.cost - plan.cost, now.sheets - plan.sheets
        if money <= 0:
            # What this much does not save, less does not save either.
            break
        if found and found[-1].money == money:
            found.pop()
        found.append(
            NearMiss(
                paper=paper.id, pieces=tuple(sorted(names)), side=side, smaller=smaller, sheets=sheets, money=money
            )
        )
    return found


@dataclass(frozen=True)
class FromMiddles:
    """What would be saved if pieces came out of middles that other layers hide."""

    pieces: tuple[str, ...]
    """The pieces, by id."""
    hosts: tuple[str, ...]
    """Those whose middles have room for them."""
    sheets: int
    """How many sheets that would save."""
    money: Decimal
    """What these cost."""


def from_middles(
    paper: PaperJob,
    bench: Bench,
    rooms: Mapping[str, Window],
    tell: Callable[[str], None] = lambda _: None,
    seconds: float = 2.0,
    steps: Steps | None = None,
) -> tuple[FromMiddles, ...]:
    """Which pieces would save sheets if they came out of hidden middles; ``rooms`` are these, by the piece's id.

    Each alone, what saves most first; all of them together where only that saves anything.
    """
    steps = steps or Steps()
    paper = replace(bought_new(paper), pins=())
    fixed = {name for row in paper.matched for name in row.pieces}
    rooms = {piece.id: rooms[piece.id] for piece in paper.pieces if piece.id in rooms and piece.id not in fixed}
    takers = {
        piece.id: hosts
        for piece in paper.pieces
        if piece.id not in fixed and not (piece.filler or piece.from_window or piece.window)
        and (hosts := _with_room(piece, rooms))
    }  # fmt: skip
    now = steps.fit("now", paper, bench, tell, seconds) if takers else None
    if now is None or now.short:
        return ()
    asked = _Asked(paper=paper, bench=bench, cuts=(), now=now, tell=tell, seconds=seconds, steps=steps)
    whole = _tried_from_middles(asked, rooms, tuple(takers), takers)
    if whole is None or len(takers) == 1:
        return () if whole is None else (whole,)
    found = []
    for piece in sorted(takers):
        if steps.time_up:
            break
        found.append(_tried_from_middles(asked, rooms, (piece,), takers))
    alone = sorted((each for each in found if each), key=lambda each: (-each.money, -each.sheets, each.pieces))
    return tuple(alone) or (whole,)


def _with_room(piece: Piece, rooms: Mapping[str, Window]) -> tuple[str, ...]:
    return tuple(
        name
        for name, room in rooms.items()
        if name != piece.id and goes_in(piece.width, piece.height, room.width, room.height, turn=piece.turn)
    )


def _tried_from_middles(
    asked: _Asked, rooms: Mapping[str, Window], names: tuple[str, ...], takers: Mapping[str, tuple[str, ...]]
) -> FromMiddles | None:
    """What it saves if these come out of middles; None if nothing."""
    hosts = tuple(sorted({host for name in names for host in takers[name]} - set(names)))
    if not hosts:
        return None
    pieces = tuple(
        replace(piece, from_window=True) if piece.id in names
        else replace(piece, window=rooms[piece.id]) if piece.id in hosts and not piece.window
        else piece
        for piece in asked.paper.pieces
    )  # fmt: skip
    asked.tell(f"{', '.join(names)} from a middle")
    paper = replace(asked.paper, pieces=pieces)
    then = asked.steps.fit(f"middles {' '.join(names)}", paper, asked.bench, asked.tell, asked.seconds)
    if then.short or then.sheets >= asked.now.sheets:
        return None
    return FromMiddles(names, hosts, asked.now.sheets - then.sheets, asked.now.cost - then.cost)


def fillers_held(paper: PaperJob, summary: Summary) -> dict[str, int]:
    """How many more of each filler, by its id, what a plan keeps would hold: a filler is cut from what nobody keeps."""
    found = {}
    for piece in paper.pieces:
        lacking = piece.count - summary.made.get(piece.id, 0)
        # Of an offcut it is not known any more which way its sheet lay.
        if not piece.filler or lacking <= 0 or not piece.turn:
            continue
        held = sum(
            each.count * (most_of_one(piece.width, piece.height, each.width, each.height, True) or 0)
            for each in summary.offcuts
            if each.kept
        )
        if held:
            found[piece.id] = min(held, lacking)
    return found


def price_of_pieces(
    paper: PaperJob,
    bench: Bench,
    tell: Callable[[str], None] = lambda _: None,
    seconds: float = 2.0,
    steps: Steps | None = None,
) -> dict[str, int]:
    """How many sheets fewer it takes without each piece, by its id: what the line costs that asks for it.

    Matched pieces and fillers are left out, and what there was no time for, what takes most paper first; sheets are
    taken to be there without limit.
    """
    steps = steps or Steps()
    fixed = {name for row in paper.matched for name in row.pieces}
    paper = bought_new(paper)
    endless = replace(paper, pins=(), sheets=tuple(replace(sheet, count=None) for sheet in paper.sheets))
    now = steps.fit("all", endless, bench, tell, seconds).sheets
    costs = {}
    for piece in sorted(paper.pieces, key=lambda each: -each.width * each.height * each.count):
        if piece.id in fixed or piece.filler:
            continue
        if steps.time_up:
            break
        tell(f"without {piece.id}")
        rest = tuple(other for other in paper.pieces if other.id != piece.id)
        if not any(not other.filler for other in rest):
            costs[piece.id] = now
            continue
        costs[piece.id] = (
            now - steps.fit(f"without {piece.id}", replace(endless, pieces=rest), bench, tell, seconds).sheets
        )
    return costs
