"""Published families of two-dimensional bins, made anew by their published rules: ``python benchmarks/published.py``.

Berkey & Wang (1987), Two-dimensional finite bin-packing algorithms, J. Opl Res. Soc. 38: classes I to VI. Martello &
Vigo (1998), Exact solution of the two-dimensional finite bin packing problem, Management Science 44: classes VII to X.
Items are not turned. The rules and the means of the best known numbers of bins are from memory. Those means are for
other items by the same rules (ten of each), and their cuts need not go from edge to edge, which ours must; so they tell
whether the numbers are of the right size, no more. What is proven here is proven by our own bound.
"""

from __future__ import annotations

import random
import sys
import time
from collections.abc import Callable
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from zester.core.fitting.engine import fit_paper, warm_up
from zester.core.fitting.jobs.job import Bench, PaperJob, Piece, Sheet
from zester.core.fitting.tests.test_engine import rectpack_sheets

ITEMS = (20, 60, 100)
EACH = 4
SECONDS = 4.0
# Side of the bin, and the largest side of an item where all are made alike.
EVEN = {"I": (10, 10), "II": (30, 10), "III": (40, 35), "IV": (100, 35), "V": (100, 100), "VI": (300, 100)}
# Of items wide and low, narrow and high, large, small: one kind makes seven of ten.
MIXED = {"VII": 0, "VIII": 1, "IX": 2, "X": 3}
KNOWN = {
    "I": (7.1, 20.0, 31.7),
    "II": (1.0, 2.5, 3.9),
    "III": (5.1, 13.9, 22.2),
    "IV": (1.0, 2.4, 3.8),
    "V": (6.5, 18.0, 28.1),
    "VI": (1.0, 2.1, 3.4),
    "VII": (5.5, 15.8, 27.1),
    "VIII": (5.8, 16.0, 27.7),
    "IX": (14.3, 43.7, 69.5),
    "X": (4.2, 10.0, 15.9),
}


def even_item(dice: random.Random, largest: int) -> tuple[int, int]:
    """An item of classes I to VI."""
    return dice.randint(1, largest), dice.randint(1, largest)


def mixed_item(dice: random.Random, mostly: int) -> tuple[int, int]:
    """An item of classes VII to X, for bins of 100 × 100."""
    kind = mostly if dice.random() < 0.7 else dice.choice([kind for kind in range(4) if kind != mostly])
    spans = (((67, 100), (1, 50)), ((1, 50), (67, 100)), ((50, 100), (50, 100)), ((1, 50), (1, 50)))[kind]
    return dice.randint(*spans[0]), dice.randint(*spans[1])


def bins_job(name: str, number: int, seed: int) -> PaperJob:
    """So many items of a class, each wanted once."""
    dice = random.Random(f"{name} {number} {seed}")
    side, make = _rule(name)
    sizes = [make(dice) for _ in range(number)]
    pieces = tuple(Piece(id=f"P{k}", width=w, height=h, count=1, turn=False) for k, (w, h) in enumerate(sizes))
    return PaperJob(id="bins", sheets=(Sheet(id="bin", width=side, height=side),), pieces=pieces)


def _rule(name: str) -> tuple[int, Callable[[random.Random], tuple[int, int]]]:
    if name in EVEN:
        side, largest = EVEN[name]
        return side, lambda dice: even_item(dice, largest)
    return 100, lambda dice: mixed_item(dice, MIXED[name])


def main() -> None:
    """Print a row for every class and number of items."""
    warm_up()
    print("| class | items | bins | bound | proven | rectpack | best known, other items | median s |")
    print("|---|---|---|---|---|---|---|---|")
    total = [0, 0, 0]
    for name, known in KNOWN.items():
        for number, mean in zip(ITEMS, known, strict=True):
            bins = bounds = others = proven = 0
            times = []
            for seed in range(EACH):
                job = bins_job(name, number, seed)
                started = time.perf_counter()
                plan = fit_paper(job, Bench(1), lambda _: None, SECONDS)
                times.append(time.perf_counter() - started)
                bins, bounds, proven = bins + plan.sheets, bounds + int(plan.bound), proven + plan.proven
                others += rectpack_sheets(job)
            total = [a + b for a, b in zip(total, (bins, bounds, others), strict=True)]
            figures = " | ".join(f"{each / EACH:.2f}" for each in (bins, bounds))
            middle = sorted(times)[EACH // 2]
            print(
                f"| {name} | {number} | {figures} | {proven} of {EACH} | {others / EACH:.2f} | {mean} | {middle:.1f} |",
                flush=True,
            )
    print(f"\nIn all {total[0]} bins, bounds {total[1]}, the best of rectpack's guillotine variants {total[2]}.")


if __name__ == "__main__":
    main()
