"""A proof that no plan of a paper costs less, small enough to keep, and its check.

The proof is a list of whole-number prices, one for each piece (or matched row) in each of its lines:

    a sheet can hold at most F worth of pieces by these prices;  all that is wanted is worth D;
    so sheets that hold less than D together are too few, whatever is cut from them

Every choice of sheets that costs less than the plan has to be ruled out by one of the lines. What a sheet can hold is
worked out here anew, by tables over whole numbers; nothing is taken from the search, and no solver is asked. The
trimmer's limits, directions of patterns and the like are left out, which can only make a sheet hold more.

As a file it is open JSON (``fit-proof/1``). Where prices are not enough, since a list of layouts was gone through, or a
trimmer's limits count, or sheets are handed out, the file says that it rests on the search.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from math import gcd
from typing import Any

import numpy as np

from zester.core.errors import PlanError
from zester.core.fitting.jobs.job import PaperJob, Sheet, row_strip
from zester.core.fitting.jobs.plan import Layout, PaperPlan, money

FORMAT = "fit-proof/1"
PRICES, SEARCH = "prices", "search"
# Larger tables, and more choices of sheets, are not gone through.
MOST_SUMS, MOST_CELLS, MOST_CHOICES = 5000, 1_000_000, 50_000
LARGEST = 2**60
MILLIONTHS = 10**6


@dataclass(frozen=True, kw_only=True)
class Proof:
    """What rules out every plan that costs less."""

    id: str
    """The paper's key."""
    cost: Decimal
    """No plan costs less than this."""
    prices: tuple[dict[str, int], ...]
    """In each line the whole-number price of every piece, or matched row, by its id; 0 where it has none."""
    rests_on: str = PRICES
    """``prices``: they rule out everything; ``search``: what they leave open was gone through by the search."""


class ProofError(PlanError):
    """A proof that proves nothing, or not all that it says."""


@dataclass(frozen=True)
class _Kind:
    """What is wanted of one name."""

    name: str
    width: int
    height: int
    turn: bool
    count: int
    shape: bool


@dataclass(frozen=True)
class _Supply:
    """One kind of sheet, or of hidden middles; how many (None: no end), cost in millionths, what may be in it."""

    width: int
    height: int
    count: int | None
    cost: int
    kinds: tuple[_Kind, ...]


def check_proof(paper: PaperJob, plan: PaperPlan, proof: Proof) -> None:
    """Raise ProofError unless the prices of the proof rule out every plan that costs less than this one."""
    if proof.cost != plan.cost or proof.id != paper.id:
        raise ProofError("the proof is for another plan", paper.id)
    if paper.pool != "together" or plan.short:
        raise ProofError("prices prove nothing about sheets that are handed out, or that are too few", paper.id)
    kinds = _kinds(paper)
    supplies = _supplies(paper, kinds)
    cost = _millionths(plan.cost) - sum(_millionths(_sheet(paper, pin.sheet).cost) * pin.copies for pin in _cut(paper))
    lines = [_Line(kinds, supplies, prices) for prices in proof.prices]
    _Choices(supplies, lines, cost).rule_out(paper.id)


def _cut(paper: PaperJob) -> list[Layout]:
    return [pin for pin in paper.pins if pin.source == "sheet"]


def _sheet(paper: PaperJob, name: str) -> Sheet:
    return next(sheet for sheet in paper.sheets if sheet.id == name)


def _millionths(amount: Decimal) -> int:
    if amount != round(amount, 6):
        raise ProofError("a cost has more than six places after the point", "cost")
    return int(amount * MILLIONTHS)


def _kinds(paper: PaperJob) -> list[_Kind]:
    """What is wanted beyond the pinned layouts: pieces, and matched rows as the strips they are cut as."""
    made: dict[str, int] = {}
    for pin in paper.pins:
        for named in pin.parts:
            made[named.piece] = made.get(named.piece, 0) + pin.copies
    pieces = {piece.id: piece for piece in paper.pieces}
    left = {name: 0 if p.filler else max(0, p.count - made.get(name, 0)) for name, p in pieces.items()}
    in_rows = {name for row in paper.matched for name in row.pieces}
    found = [
        _Kind(p.id, p.width, p.height, p.turn, left[p.id], p.from_window)
        for p in paper.pieces
        if p.id not in in_rows and left[p.id]
    ]
    for row in paper.matched:
        strip = row_strip(row, pieces)
        # So many whole rows make them all.
        rows = max(-(-left[name] // row.pieces.count(name)) for name in row.pieces)
        if rows:
            found.append(_Kind(row.id, strip.width, strip.height, strip.turn, rows, False))
    return found


def _supplies(paper: PaperJob, kinds: list[_Kind]) -> list[_Supply]:
    """The sheets that the pinned layouts leave, and the hidden middles of the pieces that are still wanted."""
    found: list[_Supply] = []
    used: dict[str, int] = {}
    for pin in _cut(paper):
        used[pin.sheet] = used.get(pin.sheet, 0) + pin.copies
    for sheet in paper.sheets:
        count = None if sheet.count is None else max(0, sheet.count - used.get(sheet.id, 0))
        found.append(_Supply(*sheet.upright, count, _millionths(sheet.cost), tuple(kinds)))
    shapes = tuple(kind for kind in kinds if kind.shape)
    for host in paper.pieces:
        if host.window and host.count and shapes:
            # Those of pinned layouts, too: a plan may use them.
            found.append(_Supply(host.window.width, host.window.height, host.count, 0, shapes))
    return found


class _Line:
    """One line of prices: what is wanted is worth, and the most that every supply can hold."""

    def __init__(self, kinds: list[_Kind], supplies: list[_Supply], prices: dict[str, int]):
        if any(not isinstance(price, int) or price < 0 for price in prices.values()):
            raise ProofError("a price is a whole number", "prices")
        self.wanted = sum(prices.get(kind.name, 0) * kind.count for kind in kinds)
        together: dict[tuple[Any, ...], list[int]] = {}
        for index, supply in enumerate(supplies):
            together.setdefault(supply.kinds, []).append(index)
        self.values = [0] * len(supplies)
        for allowed, indices in together.items():
            sheets = [(supplies[index].width, supplies[index].height) for index in indices]
            for index, value in zip(indices, most_held(sheets, _ways(allowed, prices)), strict=True):
                self.values[index] = value


def _ways(kinds: Iterable[_Kind], prices: dict[str, int]) -> list[tuple[int, int, int]]:
    """Width, height and price of every way in which something with a price can lie."""
    found = []
    for kind in kinds:
        price = prices.get(kind.name, 0)
        if price:
            found.append((kind.width, kind.height, price))
            if kind.turn:
                found.append((kind.height, kind.width, price))
    return found


def most_held(sheets: Sequence[tuple[int, int]], ways: Sequence[tuple[int, int, int]]) -> list[int]:
    """The most that one sheet of each (width, height) can hold of things (width, height, price), cut edge to edge.

    Any layout can be pushed left and up until every side is a sum of sides of what lies there (Herz 1972), and each of
    two parts beside each other can be taken as wide as such a sum can be there; so only these widths are tabled.

    Raises
    ------
    ProofError
        If the table would be very large, or the numbers.
    """
    ways = [way for way in ways if any(way[0] <= wide and way[1] <= high for wide, high in sheets)]
    if not ways:
        return [0] * len(sheets)
    axes = []
    for side in (0, 1):
        sums = _sums({way[side] for way in ways}, max(sheet[side] for sheet in sheets))
        if len(sums) > MOST_SUMS:
            raise ProofError("it is too large to be gone through", "prices")
        axes.append(_parts(sums, [sheet[side] for sheet in sheets]))
    (xs, across), (ys, down) = axes
    area = max(wide * high for wide, high in sheets)
    densest = max(way[2] for way in ways) * (area // min(way[0] * way[1] for way in ways) + 1)
    if len(xs) * len(ys) > MOST_CELLS or densest > LARGEST:
        raise ProofError("it is too large to be gone through", "prices")
    table = np.zeros((len(xs), len(ys)), dtype=np.int64)
    for wide, high, price in ways:
        at, under = np.searchsorted(xs, wide), np.searchsorted(ys, high)
        if at < len(xs) and under < len(ys):
            table[at, under] = max(table[at, under], price)
    for i in range(1, len(xs)):
        row = np.maximum(table[i], table[i - 1])
        for near, far in zip(*across[i], strict=True):
            np.maximum(row, table[near] + table[far], out=row)
        for j in range(1, len(ys)):
            near, far = down[j]
            best = max(row[j], row[j - 1])
            row[j] = max(best, (row[near] + row[far]).max()) if len(near) else best
        table[i] = row
    return [int(table[_last(xs, wide), _last(ys, high)]) for wide, high in sheets]


def _last(values: np.ndarray, most: int) -> int:
    """The index of the last value that is not above ``most``."""
    return int(np.searchsorted(values, most, side="right")) - 1


def _sums(lengths: set[int], longest: int) -> np.ndarray:
    """All sums of the lengths up to the longest, 0 among them, ascending."""
    unit = gcd(*lengths)
    there = np.zeros(longest // unit + 1, dtype=bool)
    there[0] = True
    for step in sorted(length // unit for length in lengths):
        # Each further multiple of the length, from what is there already.
        for place in range(step, len(there), step):
            block = there[place : place + step]
            block |= there[place - step : place - step + len(block)]
    return np.flatnonzero(there) * unit


def _parts(sums: np.ndarray, sheets: Iterable[int]) -> tuple[np.ndarray, list[tuple[np.ndarray, np.ndarray]]]:
    """The lengths that parts of the sheets can have, and for each the two parts, as indices, of every cut of it."""
    there = {0} | {_last(sums, sheet) for sheet in sheets}
    cuts: dict[int, tuple[np.ndarray, np.ndarray]] = {}
    for index in range(len(sums) - 1, 0, -1):
        if index in there:
            near = np.arange(1, _last(sums, sums[index] // 2) + 1)
            far = np.unique(np.searchsorted(sums, sums[index] - sums[near], side="right") - 1)
            near = np.searchsorted(sums, sums[index] - sums[far], side="right") - 1
            there |= {*near.tolist(), *far.tolist()}
            cuts[index] = near, far
    kept = np.array(sorted(there))
    none = np.zeros(0, dtype=np.int64)
    sides = [cuts.get(index, (none, none)) for index in kept.tolist()]
    numbered = [(np.searchsorted(kept, near), np.searchsorted(kept, far)) for near, far in sides]
    return sums[kept], numbered


class _Choices:
    """How many of every supply, all choices that cost less than the plan: each is ruled out by some line."""

    def __init__(self, supplies: list[_Supply], lines: list[_Line], cost: int):
        self.supplies, self.lines, self.cost = supplies, lines, cost
        self.seen = 0

    def rule_out(self, where: str) -> None:
        """Raise ProofError with a choice that no line rules out."""
        most = [self._most(supply) for supply in self.supplies]
        waiting = [([0] * len(most), most)]
        while waiting:
            least, most = waiting.pop()
            self.seen += 1
            if self.seen > MOST_CHOICES:
                raise ProofError("there are too many choices of sheets to go through", where)
            spent = sum(n * supply.cost for n, supply in zip(least, self.supplies, strict=True))
            if spent >= self.cost or any(self._is_too_few(line, least, most, spent) for line in self.lines):
                continue
            open_ones = [k for k in range(len(most)) if least[k] < most[k] and self.supplies[k].cost]
            if not open_ones:
                raise ProofError(f"{most} sheets are not ruled out", where)
            k = max(open_ones, key=lambda k: (most[k] - least[k]) * self.supplies[k].cost)
            middle = (least[k] + most[k]) // 2
            waiting.append((least, [*most[:k], middle, *most[k + 1 :]]))
            waiting.append(([*least[:k], middle + 1, *least[k + 1 :]], most))

    def _most(self, supply: _Supply) -> int:
        if not supply.cost:
            # As many as one likes: then nothing that it holds may have a price.
            return supply.count if supply.count is not None else LARGEST
        dear = max(0, self.cost - 1) // supply.cost
        return dear if supply.count is None else min(supply.count, dear)

    def _is_too_few(self, line: _Line, least: list[int], most: list[int], spent: int) -> bool:
        """Whether all choices between hold too little: filled up by what holds the most for its cost."""
        left, held = Fraction(self.cost - 1 - spent), Fraction(0)
        rates = []
        for low, high, supply, value in zip(least, most, self.supplies, line.values, strict=True):
            # What costs nothing is all there.
            held += (low if supply.cost else high) * value
            if supply.cost and value:
                rates.append((Fraction(value, supply.cost), high - low, supply.cost))
        for rate, number, cost in sorted(rates, reverse=True):
            taken = min(left, Fraction(number * cost))
            held, left = held + rate * taken, left - taken
        return line.wanted > held


def write_proofs(proofs: Iterable[Proof]) -> str:
    """Proofs of papers as JSON text."""
    return json.dumps({"zester": FORMAT, "papers": [proof_entry(proof) for proof in proofs]}, indent=1)


def proof_entry(proof: Proof) -> dict[str, Any]:
    """A paper's proof as JSON data."""
    prices = [{name: price for name, price in line.items() if price} for line in proof.prices]
    return {"id": proof.id, "cost": money(proof.cost), "rests_on": proof.rests_on, "prices": prices}


def read_proofs(text: str | bytes) -> tuple[Proof, ...]:
    """Read proofs back from JSON; raises ProofError if there are none in it."""
    try:
        data = json.loads(text)
        if data["zester"] != FORMAT:
            raise ProofError(f"this is “{data['zester']}”, not “{FORMAT}”", "zester")
        return tuple(read_proof(entry) for entry in data["papers"])
    except (ArithmeticError, ValueError, KeyError, TypeError, AttributeError) as error:
        raise error if isinstance(error, ProofError) else ProofError("not a fit proof", "proof") from error


def read_proof(entry: dict[str, Any]) -> Proof:
    """A paper's proof from JSON data; raises KeyError, TypeError, ValueError or ArithmeticError if it is none."""
    prices = tuple({str(name): price for name, price in line.items()} for line in entry["prices"])
    return Proof(id=entry["id"], cost=Decimal(entry["cost"]), prices=prices, rests_on=entry["rests_on"])
