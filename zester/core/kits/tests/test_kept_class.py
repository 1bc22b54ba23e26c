"""A class with everything in it, and cards put together: all that is said of them against what is kept beside it.

What is kept was read line by line and added up by hand; ``python -m zester.core.kits.tests.test_kept_class`` prints it
anew.
"""

from __future__ import annotations

import datetime
from collections.abc import Iterator
from decimal import Decimal
from pathlib import Path
from unittest import TestCase

from zester.core.cards.study import study
from zester.core.cards.tests.cards import GATE, KNOWN
from zester.core.class_job import OffcutSize, SheetSize, ShelfPaper, Wishes, class_job
from zester.core.cutlist.notation import read_list
from zester.core.fitting.jobs.job import Bench, Margins
from zester.core.fitting.jobs.job_file import write_job
from zester.core.fitting.parts import CutLimits
from zester.core.geometry import Window
from zester.core.kits.assembly import assembly_of, supplies_for
from zester.core.kits.demand import (
    ClassNeeds,
    Counts,
    Instead,
    demands_of,
    kits_in_all,
    kits_of,
    picked,
    picked_cards,
    seats_taken,
    with_people,
)
from zester.core.kits.offers import Choice, Offer, Person
from zester.core.kits.packing import BAGGINGS, BY_CARD, BY_DESIGN, Item, pack
from zester.core.kits.weights import grammage_of, parcel_of, piece_weight, weigh
from zester.core.lengths import SIXTEENTHS, TICKS_PER_INCH
from zester.core.pieces import Bit, CutPiece
from zester.core.tally import KIT, CardPieces, Spare, tally, tally_bits

DATA = Path(__file__).parent / "data"
INCH = TICKS_PER_INCH
SIDE = "card 4¼ x 5½ side fold\nBase telescope brass\n"
CARDS = {
    "gate": f"{GATE}\n+ 6 foam squares\n+ 12 in ribbon\n+ envelope",
    "pocket": "card top fold with a pocket\nBase 4 x 10½ brass score 4, 8\nInside mat 3½ x 2 chalk\n"
    "Pocket panel 3½ x 2 star chart on pocket\nMat 3½ x 3½ midnight\n+ 2 gems\n+ cello bag",
    "side pocket": "card side fold with a pocket\nBase 8½ x 7½ brass score 4¼ across 5½ down\nMat ⅛ border chalk",
    "done to it": SIDE + "Mat ⅛ border on base midnight embossed clouds before class by host\n"
    "Panel 3½ x 4½ star chart overhang ¼ left, top\n"
    "Tag 1 x 2 chalk stamped raised ⅛\nDisc disc punch midnight in class\nSeal circles no. 3 chalk dry first painted\n"
    "Pane 2 x 2 clear\n2 Star 1 x 1 brass side b left ½, 2½ top 1\nScrap 1 x 1 chalk cut out by hand\n"
    "Envelope 4½ x 5¾ chalk\n+ ribbon round panel\n+ 3 foam dots\n+ 10 in twine\n+ envelope",
    "matched": SIDE + "2 Panel 1½ x 4 star chart match pair left ¼, 2\nBelly band 9½ x 1 midnight seam back\n"
    "Moon circle 1 chalk on band raised",
    "over the fold": SIDE + "Mat ⅛ border midnight\nStrip 3 x 1 star chart over the fold\nInside mat 4 x 5¼ chalk\n"
    "Back mat 3 x 3 chalk",
    "beforehand": "card 4¼ x 5½ side fold\nBase telescope brass stamped before class\nMat ⅛ border chalk\n"
    "Top 4 x 1 star top ½ tilted 5\nLow 3 x 3 midnight",
    "flat": "card no fold\nBase 4 x 5 brass\nMat ¼ border on front chalk\nTag 1 x 1 midnight only grand\n"
    "+ 4 gems only grand",
}


def assembled() -> Iterator[str]:
    """Every card with its steps in their order."""
    for name, text in CARDS.items():
        readings = read_list(text, KNOWN, SIXTEENTHS)
        assert not any(reading.error for reading in readings), [reading.error for reading in readings if reading.error]
        bits = [reading.bit for reading in readings if reading.bit]
        steps = assembly_of(study(readings, KNOWN, SIXTEENTHS, ""), bits, "A")
        yield f"== {name}"
        for step in steps:
            more = [f"when {step.when}" if step.when else "", f"by {step.by}" if step.by else "", step.tool]
            said = "".join(f"; {each}" for each in more if each)
            yield f"{step.stage} {step.what}{said}{'; trims' if step.trims else ''} {list(step.pieces)}"
        yield f"needs: {', '.join(supplies_for(steps, bits))}"


def piece(number: int, paper: str, count: int = 1, **more) -> CutPiece:
    return CutPiece(
        **({"number": number, "count": count, "name": f"piece {number}", "width": 4 * INCH, "height": 5 * INCH} | more),
        paper=paper,
    )


MADE = (
    CardPieces(
        "A",
        "Moon",
        (
            piece(1, "brass", middle=Window(INCH, INCH, 2 * INCH, 3 * INCH)),
            piece(2, "stars", 2, width=2 * INCH, match="pair"),
            piece(3, "stars", width=INCH, match="pair"),
            piece(4, "brass", width=INCH, height=INCH, filler=True),
        ),
        (Bit("gems", 2), Bit("envelope", 1)),
    ),
    CardPieces("B", "Comet", (piece(1, "dome", turn=False), piece(2, "stars")), (Bit("thread", length=INCH),)),
    CardPieces(KIT, "Kit", (piece(1, "ember", 2, width=INCH),), (Bit("sticker", 3),)),
)
NEEDS = ClassNeeds(
    cards=(Counts(letter="A", each=2, samples=1, spares=2), Counts(letter="B", each=1)),
    unnamed=2,
    people=(
        Person(key="1", name="Ines", orders=(("f", 2),), chosen=("dome",)),
        Person(key="2", name="Odo", orders=(("h", 1), ("f", 1)), state="paid", ordered_on=datetime.date(2026, 3, 4)),
        Person(key="3", name="Pell", state="cancelled", orders=(("f", 5),)),
        Person(key="4", name="Eda", orders=(("o", 1),)),
        Person(key="5", name="Ravi"),
    ),
    offers=(
        Offer(key="f", name="full kit", price=Decimal(30), extras=(Bit("candle", 1),),
              choice=Choice(number=2, among=("stars", "dome"), width=INCH, height=2 * INCH)),
        Offer(key="h", name="cut at home", price=Decimal(20), pools={"patterned": "portions"}, kit_list=False),
        Offer(key="o", name="own card stock", pools={"card": "none"}, cards={"A": 1}, bits=False, sets=3),
        Offer(key="g", name="gift", free_above=Decimal(50), cards={"B": 1}),
    ),
    give_aways=1,
    spare_kits=Spare(0, 20),
    instead=(
        Instead(paper="brass", other="ember", name="Ember", who="some", people=frozenset({"1"})),
        Instead(paper="stars", other="rays", name="Rays", who="last", last=3),
    ),
    kinds={"brass": "card", "dome": "card", "ember": "card", "stars": "patterned", "rays": "patterned"},
    has_kit_list=True,
)  # fmt: skip


def item_words(item: Item) -> str:
    """``2 A1``, ``1 thread of 8128 (portions)``."""
    length = f" of {item.length}" if item.length else ""
    return f"{item.count} {item.key}{length}{'' if item.how == 'together' else f' ({item.how})'}"


def the_class() -> Iterator[str]:
    """Kits, counts, bags, weights and the job of the class."""
    for kits in kits_of(NEEDS):
        yield f"kits: {kits.count} {kits.offer.key} {kits.origin} “{kits.why}” of {kits.person or '-'} {kits.instead}"
    yield f"in all: {kits_in_all(NEEDS)}; seats {seats_taken(NEEDS)}"
    for more in (3, -1, -2, -3, -9):
        changed = with_people(NEEDS, more)
        names = " ".join(person.name for person in changed.people)
        yield f"{more:+} people: {changed.unnamed} unnamed, {names}"
    demands = demands_of(NEEDS)
    yield from (f"demand: {each.count} {each.card}, {each.kits} kits × {each.each}: {each.why}" for each in demands)
    chosen = picked(NEEDS)
    yield from (f"choice: {each.paper} {each.chosen} + {each.guessed}: {each.why}" for each in chosen)
    more_cards, lines = picked_cards(chosen, {"stars": "upright"})
    extra = CardPieces("+f", "full kit", (), NEEDS.offers[0].extras)
    all_cards = [*MADE, extra]
    of_cards = [demand for demand in demands if demand.card != "+f"]
    counts = tally([*MADE, *more_cards], [*of_cards, *lines], Spare(1), {"ember": "upright", "rays": "half"})
    for row in counts:
        shares = " ".join(f"{share.kits}×{share.each} {share.pool}" for share in row.shares)
        way = "free" if row.piece.turn else "upright" if row.piece.upright else "half"
        yield f"count: {row.handle} {row.count} {row.piece.paper} {way} ({row.written or '-'}): {row.why} [{shares}]"
    yield from (f"bit: {each.name} {each.count} {each.length}: {each.why}" for each in tally_bits(all_cards, demands))
    for bagging in BAGGINGS:
        yield from _packed(bagging, counts, chosen)
    yield write_job(class_job("in", SHELF, counts, Wishes(Bench(3, CutLimits(12 * INCH, INCH // 2)))))


def _packed(bagging: str, counts, chosen) -> Iterator[str]:
    found = pack(NEEDS, MADE, counts, chosen, spare=Spare(1), bagging=bagging)
    sums = f"{found.kits_in_all} kits, {found.bags_in_all} bags, {found.pieces_in_bags} pieces"
    yield f"== a bag for every {bagging}: {sums}"
    for kit in found.kits if bagging != BY_CARD else found.kits[:4]:
        yield f"{kit.key}: {kit.what}, {kit.number} of {kit.of}, of {kit.person or '-'} {kit.origin}"
        for bag in kit.bags:
            yield f"  {bag.key} “{bag.name}” for {bag.cards}: {', '.join(map(item_words, bag.items))}"
        yield f"  beside: {', '.join(map(item_words, kit.beside))}"
    if bagging != BY_DESIGN:
        return
    for stack in found.stacks:
        yield f"stack {stack.letter}: {len(stack.bags)} of {', '.join(map(item_words, stack.items))}"
    for bag in found.own:
        yield f"own {bag.key} “{bag.name}” for {bag.cards}: {', '.join(map(item_words, bag.items))}"
    yield f"spare: {', '.join(map(item_words, found.spare))}"
    stock = grammage_of(216, None, "card")
    each = {row.handle: piece_weight(row.piece, stock, middle_out=row.handle == "A1") for row in counts}
    sizes = {row.handle: (row.piece.width, row.piece.height, stock.caliper) for row in counts}
    for kit in found.kits[:3]:
        weight = weigh(kit.items, each, {"gem|count": Decimal("0.2"), "thread|length": Decimal(2)})
        parcel = parcel_of(kit.items, sizes)
        yield (
            f"weighs {kit.key}: {weight.milligrams} ± {weight.off} mg, {weight.words}, without {weight.unknown}, "
            f"{parcel.long} x {parcel.short} x {parcel.thick}"
        )


SHELF = (
    ShelfPaper(key="brass", name="Brass", width=17 * INCH // 2, height=11 * INCH, price=Decimal("0.42"), pack=10,
               offcuts=(OffcutSize(id="o1", width=4 * INCH, height=6 * INCH, count=2, up="left"),
                        OffcutSize(id="o2", width=INCH, height=INCH, count=0))),
    ShelfPaper(key="dome", name="Dome", width=17 * INCH // 2, height=11 * INCH, there=5,
               sizes=(SheetSize(id="big", width=12 * INCH, height=12 * INCH, price=Decimal(1), there=3),
                      SheetSize(id="small", width=6 * INCH, height=6 * INCH, pack=4))),
    ShelfPaper(key="stars", name="Stars", width=12 * INCH, height=12 * INCH, margins=Margins(0, 0, 0, INCH),
               offcuts=(OffcutSize(id="o3", width=6 * INCH, height=6 * INCH, count=1),)),
    ShelfPaper(key="rays", name="Rays", width=12 * INCH, height=12 * INCH, price=Decimal(2), there=4,
               sizes=(SheetSize(id="half", width=6 * INCH, height=12 * INCH, price=Decimal(1), there=2),)),
    ShelfPaper(key="ember", name="Ember", width=17 * INCH // 2, height=11 * INCH),
)  # fmt: skip
KEPT = {"assembled.txt": assembled, "class.txt": the_class}


class KeptTests(TestCase):
    maxDiff = None

    def test_cards_are_put_together_as_kept(self):
        self.assertEqual("\n".join(assembled()) + "\n", (DATA / "assembled.txt").read_text(encoding="utf-8"))

    def test_the_class_is_counted_packed_and_handed_to_the_fit_as_kept(self):
        self.assertEqual("\n".join(the_class()) + "\n", (DATA / "class.txt").read_text(encoding="utf-8"))

    def test_what_is_handed_out_adds_up(self):
        # By the plainest sum there is: everything in kits, of the teacher and to spare is what is counted.
        chosen = picked(NEEDS)
        more, lines = picked_cards(chosen, {})
        demands = [demand for demand in demands_of(NEEDS) if demand.card != "+f"]
        counts = tally([*MADE, *more], [*demands, *lines], Spare(1))
        found = pack(NEEDS, MADE, counts, chosen, spare=Spare(1))
        for row in counts:
            if not row.handle.startswith("P"):
                self.assertEqual(found.in_all["piece", row.handle, False], row.count, row.handle)


if __name__ == "__main__":
    for file, lines in KEPT.items():
        (DATA / file).write_text("\n".join(lines()) + "\n", encoding="utf-8")
