"""Cards worked out to the last tick and word, and kept beside the tests in ``data/worked_cards.txt``.

Whatever changes a measure, a place, a finding, its reason or its mend shows there as a changed line, to be read by
somebody before it is taken over:

    .venv/bin/python -m zester.core.cards.tests.worked      writes the file anew

Cards by hand stand at the edges of the rules (just enough and just too much); those made at random come from a fixed
seed. Lengths are ticks; a path is told by its checksum.
"""

from __future__ import annotations

import dataclasses
import random
import zlib
from collections.abc import Iterator
from pathlib import Path

from zester.core.cards.checks import check_card, facts_of, yields_of
from zester.core.cards.drawing import Layer, View, draw_card
from zester.core.cards.study import Study, study
from zester.core.cards.tests.cards import GATE, KNOWN
from zester.core.cutlist.edit import cells_of, step_length
from zester.core.cutlist.notation import read_list
from zester.core.lengths import RULERS

FILE = Path(__file__).parent / "data" / "worked_cards.txt"
STEPS = (-1, 1)
SIDE = "card 4¼ x 5½ side fold\nBase telescope brass\n"
TOP = "card 5½ x 4¼ top fold\nBase midnight dome\n"

BY_HAND = {
    "side fold, stepped": f"{SIDE}Mat ⅛ border midnight dome\nPanel ⅛ border star chart\nInside panel 3½ x 4¾ chalk moon",
    "side fold, everything": (
        f"{SIDE}Mat ⅛ border midnight dome middle 3¼ x 4½\nPanel ⅛ border star chart side b\n"
        "Moon circles 4 telescope brass top ¾ raised\nHills 3¾ x 1¾ pine ridge flush bottom overhang ¼ bottom\n"
        "Sentiment 3 x ¾ chalk moon bottom ¼ stamped in class\n3 Strips ½ x 4 star chart on inside left ¼\n"
        "Inside panel 3½ x 4¾ chalk moon\n+ 4 foam squares\n+ 12 in thread only stepped\n# a remark\n"
        "Star 1 x 1 brass only stepped as topper"
    ),
    "top fold, odd": (
        f"{TOP}Mat ⅛ border chalk\nPanel 5 x 3¾ star chart tilted 8 left\n2 Strip 4½ x ½ brass fold ½\n"
        "Tag 2⅛ x 2¾ chalk left ¼ tag\nTag panel 1⅞ x 2½ pine ridge upright on tag tag\nBack note 3 x 2 chalk on back\n"
        "Pine 2 x 2 pine ridge on inside top tilted 45\nBanner 1 x 3 brass banner right ½ top ½"
    ),
    "gate fold": GATE,
    "gate fold, faults": (
        "card 4¼ x 5½ gate fold\nBase 8 x 5½ brass score 2, 6\n2 Door mats 2½ x 5¼ midnight dome\n"
        "2 Door panels 2 x 5 star chart match doors\nLeft door star 1 x 1 brass\nMiddle panel 4½ x 5 star chart\n"
        "Belly band 9 x 1 midnight dome\nSeal circle 2 chalk moon on band"
    ),
    "gate fold, doors that overlap": "card 4 x 6 gate fold\nBase 8¼ x 6 brass score 2⅛, 6⅛\nMat ⅛ border on doors chalk",
    "tri-fold and band": (
        "card 4 x 5½ tri-fold\nBase midnight dome\nMat ¼ border chalk\nInside left panel 3½ x 5 brass on inside left\n"
        "Inside right panel 3½ x 5 brass on inside right\nBelly band 1 x 9 star chart"
    ),
    "accordion": "card 3 x 4 accordion\nBase star chart\nPanel ¼ border brass\nInside panel 2½ x 3½ chalk",
    "accordion down": "Base 4 x 12 star chart score down 3, 6, 9\nMat 3½ x 2½ brass",
    "pocket": (
        "card 4¼ x 5½ no fold with a pocket\nBase 4¼ x 7¾ midnight dome score 5½\nPanel 4 x 3 star chart top ⅛\n"
        "Pocket strip 4¼ x ½ brass on pocket top ¼ overhang ¼\nSentiment 2½ x ¾ chalk on pocket bottom ¼"
    ),
    "pocket, too shallow": "card 4¼ x 5½ no fold with a pocket\nBase 4¼ x 6½ midnight dome score 5½\nPanel 4 x 5 chalk",
    "pocket on a top fold": "card with a pocket\nBase 4¼ x 13 brass score 5½, 11\nInside panel 4 x 2 chalk\nPocket tag 2 x 1 chalk",
    "score that does not halve": "card 4¼ x 5½ side fold\nBase 8½ x 5½ brass score 4\nMat ⅛ border chalk",
    "score far off": "card 4¼ x 5½ side fold\nBase 8½ x 5½ brass score 2\nMat ⅛ border chalk",
    "scored for another fold": "card 4¼ x 5½ top fold\nBase 8½ x 5½ brass score 4¼\nMat 4 x 5 chalk",
    "base of another size": "card 4¼ x 5½ side fold\nBase 8 x 5 brass score 4 # mine\nMat ⅛ border chalk",
    "base without a score": "card 4¼ x 5½ side fold\nBase 8½ x 5½ brass\nMat 4 x 5 chalk",
    "layers just too large": (
        f"{SIDE}Mat 4¼ x 5½ midnight dome\nPanel 4 5/16 x 5½ star chart\nStrip ½ x 5⅝ chalk\nStar 5 x 1 brass left 1\n"
        "Inside panel 4½ x 5 chalk"
    ),
    "borders uneven and thin": (
        f"{SIDE}Mat 4 x 5 midnight dome\nPanel 3 15/16 x 4 15/16 chalk\nTile 3 x 4 star chart left ½\n"
        "Last 2⅞ x 3 15/16 brass"
    ),
    "text that is covered": (
        f"{SIDE}Mat ⅛ border midnight dome\nSentiment 3 x ¾ chalk bottom ½ stamped\nPanel 3 x 2 star chart bottom ¼\n"
        "Words 2 x ½ chalk top ¼ stamped\nStar 1 x 1 brass top 3/16"
    ),
    "middles that show": (
        f"{SIDE}Mat 4 x 5¼ brass middle 3 x 4\nPanel 3½ x 4½ star chart\nSecond mat 3 x 4 midnight dome middle 2½ x 3\n"
        "Clear cover 2¾ x 3½ clear pane"
    ),
    "middles offered": f"{SIDE}Mat 4 x 5¼ midnight dome\nPanel 3¾ x 5 star chart left ⅛ top 0\nTop 3 x 4½ chalk left ¾ top ¼",
    "windows": (
        f"{SIDE}Frame 4 x 5¼ chalk window circle 2½\nPane 3 x 3 clear pane\nOver 4 x 5 brass window 2 x 3 at 1, 1\n"
        "Scallop 3 x 3 chalk scallop"
    ),
    "tools": (
        f"{SIDE}Mat 4¼ x 5½ chalk clouds\nToo large 4½ x 5½ chalk clouds\nMoon circles no. 3 star chart\n"
        "Tight 1 9/16 x 1 9/16 brass circles no. 3\nPlanet 3 x 3 chalk disc punch\nFar 3 x 2½ chalk disc punch\n"
        "Oval 3 x 2 brass oval 2 x 1"
    ),
    "sides and patterns": (
        f"{SIDE}Moon 2 x 3 chalk side b\nPines 3 x 2 pine ridge tilted 45\nMore pines 2 x 2 pine ridge tilted 44\n"
        "Stars 3 x 2 star chart upright tilted 90\nBand 1 x 10 pine ridge as band\nBelly band 11½ x 1 pine ridge"
    ),
    "matched": (
        f"{SIDE}2 Door 2⅛ x 5½ star chart match doors\nDoor end 1 x 5½ star chart match doors\n"
        "3 Sky 4 x 5 star chart match sky below\nRest 4 x 2 star chart match sky below"
    ),
    "matched at two heights": f"{SIDE}Left 1 x 3 star chart match m left ¼ top ¼\nRight 1 x 3 star chart match m right ¼ top ½",
    "yields": (
        f"{SIDE}Barely 4 5/16 x 5½ chalk\nTag 2 3/16 x 2¾ chalk\nPart 3⅛ x 4 star chart\nSquare 3 1/16 x 3 1/16 star chart\n"
        "Held 3 1/16 x 3 1/16 pine ridge"
    ),
    "bands": (
        f"{SIDE}Belly band 9 x 1 star chart\nSecond band 9¼ x 1 star chart as band\nThird band 11 x 2 chalk as band\n"
        "Fourth band 1 x 12 star chart as band"
    ),
    "square and thick": (
        "card 5 x 5 side fold\nBase midnight dome\nMat ⅛ border chalk raised\nPanel ⅛ border star chart raised ⅛\n"
        "Star 1 x 1 brass raised ¼"
    ),
    "fits no envelope": "card 12 x 9 no fold\nBase 12 x 9 star chart\nMat ¼ border pine ridge",
    "no card, pieces alone": "Mat 4 x 5 brass\nTag 2 x 3 chalk",
    "wrong lines": (
        "card 4¼ x 5½ sideways fold\nBase\nMat 0.3 x 4 brass\nMat 4 x 5 velvet\nMat 4 x 5\n501 Dots 1 x 1 brass\n0 Dots 1 x 1 brass\n"
        "- 4 x 5 brass\nTag 9 x 12 brass\nTag 11 x 8½ pine ridge\nMat 3 border chalk\nStar circles 9 brass\nStar circle 3 x 3 2 x 2 brass\n"
        "Mat 4 x 5 brass score 5\nMat 4 x 5 brass score\nMat 4 x 5 brass middle 4½ x 2\nMat 4 x 5 brass window 2 x 2 at 2½, 1\n"
        "Mat 4 x 5 brass left ½ left 1\nMat 4 x 5 on nothing brass\nMat 4 x 5 brass filler match a\nMat 4 x 5 brass match a middle 1 x 1\n"
        "Mat 4 x 5 brass match\n+ \n+ 12.5 ribbon\n+ 501 gems\nLone 2 x 2 brass match b\nOne 1 x 2 brass match c\nTwo 2 x 3 brass match c\n"
        "Three 1 x 2 star chart match d\nFour 1 x 2 brass match d\nFive 1 x 2 star chart match e\nSix 1 x 2 star chart upright match e"
    ),
    "just right": (
        f"{'x' * 190} 1 x 1 brass\n{'y' * 191} 1 x 1 brass\n500 Dots 1 x 1 brass\nTag 8½ x 11 brass\nTag 11 x 8½ brass\n"
        "Mat 4 x 5 brass score 3 15/16\nMat 4 x 5 brass middle 4 x 5\nMat 4 x 5 brass window 2 x 2 at 2, 3\n+ 500 gems\n+ gem"
    ),
}
METRIC = {
    "metric, stepped": (
        "card 105 x 148 side fold\nBase brass\nMat 3 border chalk\nPanel 3 border star chart\nKite 40 x 55 brass top 20 tilted 15 raised\n"
        "Tail 90 x 8 star chart side b banner bottom 30 as topper\nInside panel 95 x 138 chalk\n+ 20 cm thread"
    ),
    "metric, faults": (
        "card 148 x 105 top fold\nBase 148 x 200 chalk score down 100\nMat 149 x 100 brass\nPanel 140.5 x 97 star chart window circle 65\n"
        "Strip 138 x 20 star chart overhang 5\nGull 40 x 40 chalk scallop 34 top 15\nInside panel 150 x 90 brass"
    ),
    "metric, half millimetres": "card 99.5 x 70.1 side fold\nBase chalk\nMat 1.5 border brass\nPanel 1.4 border chalk",
}


def random_card(seed: int) -> str:
    """A card made up at random, always the same for a seed."""
    dice = random.Random(seed)
    fold = dice.choice(("side fold", "top fold", "gate fold", "tri-fold", "no fold", "accordion"))
    lines = [f"card {dice.randint(20, 44)}/8 x {dice.randint(20, 44)}/8 {fold}", dice.choice(("Base star chart", ""))]
    for _ in range(dice.randint(3, 7)):
        name = dice.choice(
            ("Mat", "Panel", "Strip", "Inside panel", "Door mats", "Middle mat", "Star", "Belly band", "Tag")
        )
        paper = dice.choice(("telescope brass", "midnight dome", "star chart", "pine ridge", "chalk moon"))
        if name in ("Mat", "Panel", "Middle mat") and dice.random() < 0.6:
            lines.append(f"{name} {dice.randint(1, 6)}/16 border {paper}")
            continue
        place = dice.choice(("", "left ½", "top 1", "right ¼ bottom ¼", "flush left", "fold ⅜", "on inside", "on base"))
        more = dice.choice(
            ("", "tilted 20", "raised", "overhang ¼", "circle", "side b", "upright", "circles no. 3", "banner")
        )
        size = f"{dice.randint(4, 90)}/16 x {dice.randint(4, 90)}/16"
        lines.append(f"{dice.choice(('', '2 ', '3 '))}{name} {size} {paper} {place} {more}".rstrip())
    return "\n".join(lines)


def all_cards() -> dict[str, tuple[str, str]]:
    """Every worked card: its name, its list, the key of its ruler."""
    found = {name: (text, "in16") for name, text in BY_HAND.items()}
    found |= {name: (text, "mm") for name, text in METRIC.items()}
    return found | {f"at random {seed}": (random_card(seed), "in32" if seed % 3 else "in16") for seed in range(24)}


def worked(text: str, ruler: str) -> str:
    """Everything that is worked out for a list, line by line."""
    readings = read_list(text, KNOWN, RULERS[ruler])
    card = study(readings, KNOWN, RULERS[ruler], "stepped")
    return "\n".join([*_readings(readings), *_card(card), *_a_little_other(text, ruler)])


def _a_little_other(text: str, ruler: str) -> Iterator[str]:
    """Each length a mark longer and shorter: what is said then and was not before, where that changes."""
    lines, usual = text.split("\n"), _said(text, ruler)
    for number, line in enumerate(lines):
        for other in sorted({step_length(line, at, by, RULERS[ruler])[0] for at in range(len(line)) for by in STEPS}):
            said = _said("\n".join([*lines[:number], other, *lines[number + 1 :]]), ruler)
            if other != line and said != usual:
                yield f"with {other[:60]}"
                yield from (f"   - {each}" for each in usual if each not in said)
                yield from (f"   + {each}" for each in said if each not in usual)


def _said(text: str, ruler: str) -> list[str]:
    """What is wrong with a list and with its card, each in short."""
    readings = read_list(text, KNOWN, RULERS[ruler])
    card = study(readings, KNOWN, RULERS[ruler], "stepped")
    wrong = [f"line {each.line}: {each.error.text()[:60]}" for each in readings if each.error]
    return wrong + [f"{found.what}, mends {len(found.mends)}" for found in check_card(card)]


def _readings(readings) -> Iterator[str]:
    for reading in readings:
        yield f"{reading.line}: {reading.text[:90]}"
        for part in (reading.error and reading.error.text(), reading.card, reading.bit, reading.piece):
            if part:
                yield f"   {part if isinstance(part, str) else _told(part)}"
        cells = cells_of(reading)
        yield f"   cells {[cell[:30] for cell in dataclasses.astuple(cells)]}"


def _told(thing) -> str:
    """A value by the fields that are not as usual."""
    parts = []
    for field in dataclasses.fields(thing):
        value = getattr(thing, field.name)
        usual = field.default if field.default is not dataclasses.MISSING else None
        if value != usual and field.name != "name":
            parts.append(f"{field.name}={_told(value) if dataclasses.is_dataclass(value) else value}")
    name = getattr(thing, "name", "")
    return f"{type(thing).__name__}({str(name)[:30]}{': ' if name else ''}{', '.join(parts)})"


def _card(card: Study) -> Iterator[str]:
    folded = card.folded
    if folded:
        yield f"folded {folded.fold} {folded.width}x{folded.height} open {folded.open_width}x{folded.open_height}"
        yield f"   score {folded.score} pocket {folded.pocket} layers {folded.layers} base {folded.base}"
        for face in folded.faces.values():
            yield f"   {_told(face)}"
    for each in card.placed:
        place = f"{each.x},{each.y} {each.width}x{each.height} on {each.face.key} under {each.under} level {each.level}"
        yield f"placed {each.piece.name} #{each.copy} {place} lift {each.lift} box {each.box} seen {each.seen}"
    for finding in check_card(card):
        yield f"{'!' if finding.grave else '?'} {finding.group} {finding.line}: {finding.what} | {finding.why}"
        for mend in finding.mends:
            yield f"     [{mend.label}] {mend.line}: {mend.text}"
    for fact in facts_of(card):
        yield f"fact {fact.name}: {fact.value} | {fact.why}"
    yield f"thick {card.thickness}" if folded else "no card"
    yield f"yields {yields_of(card)}"
    if folded:
        for view in draw_card(card.pieces, folded, card.placed, card.unit):
            yield from _view(view)


def _view(view: View) -> Iterator[str]:
    yield f"view {view.key} {view.left},{view.top} {view.width}x{view.height}"
    for plane in view.planes:
        yield f"   plane {plane.label} at {plane.at} label at {plane.label_at}: {[layer.name for layer in plane.layers]}"
    for layer in view.layers:
        yield f"   {_layer(layer)}"
    for line in view.lines:
        yield f"   {_told(line)}"
    for measure in view.measures:
        yield f"   {_told(measure)} ends {measure.ends} middle {measure.middle}"


def _layer(layer: Layer) -> str:
    place = f"{layer.x},{layer.y} {layer.width}x{layer.height} start {layer.start} tilt {layer.tilt} lift {layer.lift}"
    more = (
        f"{layer.paper} {layer.side} run {layer.run} movable {layer.movable} path {zlib.crc32(layer.path.encode()):08x}"
    )
    borders = [(measure.x1, measure.y1, measure.x2, measure.y2, measure.text) for measure in layer.borders]
    return f"{layer.number} {layer.name} #{layer.copy} {place} {more} borders {borders}"


def main() -> None:
    """Write the file anew."""
    FILE.parent.mkdir(exist_ok=True)
    FILE.write_text(
        "\n\n".join(f"== {name} ({ruler})\n{worked(text, ruler)}" for name, (text, ruler) in all_cards().items()) + "\n"
    )


if __name__ == "__main__":
    main()
