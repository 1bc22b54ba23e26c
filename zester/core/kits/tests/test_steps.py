"""Forty cards and more, each with the steps that somebody would follow, read aloud and found natural.

Rules of the trade (common practice, no source): film behind the hole, foam, filling, then closing; a staple after all
it goes through; the thread through the tag before the tag is glued; ribbon round a finished layer; what is ready in the
bag is not made again. ``python -m zester.core.kits.tests.test_steps`` prints what is kept anew.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from unittest import TestCase

from zester.core.cards.study import Study, study
from zester.core.cards.tests.cards import GATE, KNOWN
from zester.core.cutlist.notation import read_list
from zester.core.kits.assembly import READY, assembly_of, supplies_for
from zester.core.kits.tests.test_assembly import PaperModel
from zester.core.lengths import RULERS
from zester.core.pieces import Bit

FILE = Path(__file__).parent / "data" / "steps.txt"
SIDE = "card 4¼ x 5½ side fold\nBase telescope brass\n"
TOP = "card 4¼ x 5½ top fold\nBase midnight dome\n"
MAT = SIDE + "Mat ⅛ border midnight dome\n"
WINDOW = SIDE + "Panel 4 x 5¼ star chart\n"
CARDS = {
    "one layer": SIDE + "Panel ⅛ border star chart\n+ envelope",
    "stepped mats": MAT + "Panel ⅛ border star chart\nInside panel 3¾ x 5 chalk",
    "a greeting on foam": MAT + "Greeting 3 x ¾ chalk bottom ½ raised stamped\n+ 4 foam squares",
    "an embossed and washed panel": MAT + "Panel 3¾ x 5 chalk embossed clouds before class, washed in class, dry first",
    "glitter last": MAT + "Star 1½ x 1½ brass painted in class, dry last",
    "a die-cut greeting": MAT + "Label 3 x 1 chalk label die-cut, stamped bottom ½",
    "cut out, then stamped": MAT + "Moon circles no. 3 chalk stamped, top ½",
    "stamped, then cut out": MAT + "Moon 2 x 2 chalk stamped, die-cut circles no. 3 top ½",
    "a base that comes folded": "card 4¼ x 5½ side fold\nBase brass scored and folded before class\n"
    "Panel 4 x 5¼ star chart",
    "a base scored in class": "card 4¼ x 5½ side fold\nBase brass scored in class\nPanel 4 x 5¼ star chart",
    "a base stamped before it is folded": "card 4¼ x 5½ side fold\nBase brass stamped in class\nMat 4 x 5 chalk",
    "top fold with an inside": TOP
    + "Mat 4 x 5¼ brass\nInside panel 4 x 5¼ chalk\nInside strip 4 x ½ star chart bottom ¼",
    "window with film": WINDOW + "Pane 3 x 3 clear pane\nFrame 4 x 5¼ chalk window circle 2½",
    "window filled and closed": WINDOW
    + "Pane 3 x 3 clear pane\nFrame 4 x 5¼ chalk window circle 2½ raised\n+ 12 sequins\n+ 2 foam strips",
    "window, film written behind": WINDOW
    + "Frame 4 x 5¼ chalk window circle 2½ raised\nPane 3 x 3 clear pane behind frame\n+ 20 beads",
    "something seen through the window": WINDOW
    + "Bird 1 x 1 brass on panel\nPane 3 x 3 clear pane\nFrame 4 x 5¼ chalk window circle 2½ raised\n+ 6 sequins",
    "a greeting over the window": WINDOW
    + "Pane 3 x 3 clear pane\nFrame 4 x 5¼ chalk window circle 2½ raised\nGreeting 2 x ½ chalk bottom ¼\n+ 6 sequins",
    "a window without film": WINDOW + "Frame 4 x 5¼ chalk window circle 2½ raised",
    "a shape on a shape": MAT + "Circle 2 brass top ½\nScallop 1½ chalk",
    "dots are not put on each other": MAT + "Circle 2 brass top ½\n3 Dot chalk circle ½ bottom ¼",
    "ribbon round a finished panel": MAT
    + "Panel 3¾ x 5 star chart\nStrip 3¾ x 1 chalk top 1\n+ 12 in ribbon round panel\n"
    "Greeting 2 x ½ chalk bottom ½ raised",
    "ribbon by the layer": MAT + "Panel 3¾ x 5 star chart\n+ thread round panel",
    "thread through a tag": MAT + "Tag 1 x 2 chalk hole ⅛ top stamped\n+ 8 in thread",
    "brads through a panel": MAT + "Panel 3¾ x 5 star chart\nLabel 2 x 1 chalk\n+ 2 brads through panel",
    "a staple at the end": MAT + "Tag 1 x 2 chalk left ½\n+ 1 staple",
    "a bow that comes tied": MAT + "+ 1 tied bow\n+ 3 gems",
    "a cotton bud is used, not added": MAT + "Panel 3¾ x 5 chalk coloured\n+ 1 cotton bud\n+ 1 brush",
    "into a bag, into an envelope": MAT + "+ 1 clear bag\n+ 1 envelope",
    "into a box": MAT + "+ 1 box",
    "a bookmark": "card 2 x 6 no fold\nBookmark 2 x 6 chalk hole ¼ top\nStrip 1½ x 5 star chart\n+ 8 in ribbon",
    "a tag without a fold": "card 2 x 4 no fold\nTag 2 x 4 chalk corners snipped hole ⅛ top\nMoon circle 1 brass\n"
    "+ 6 in twine",
    "a figure cut out of the scrap": MAT
    + "Scrap 3 x 4 chalk stamped\nBird 1½ x 2 cut out of the scrap left ½ top 1 raised",
    "a figure cut out by hand": MAT + "Fish 1 x 1 chalk stamped, coloured, cut out by hand right ½",
    "a mask": MAT + "Mask 3 x 3 chalk\nPanel 3¾ x 5 chalk inked",
    "a long strip": MAT + "Strip 4 x 1 star chart top 1 overhang ¼",
    "a strip under another": MAT + "Star 1 x 1 brass left 1 top 1\nStrip 4 x 2 midnight top ½ overhang ¼",
    "gate fold with band and seal": GATE,
    "tri-fold": "card 4 x 6 tri-fold\nBase 12 x 6 star chart score 4, 8\nPanel 3½ x 5½ chalk",
    "accordion": "card accordion\nBase 3 x 12 star chart score 3, 6, 9 down\nMat 2½ x 2½ chalk",
    "a pocket": "card 4¼ x 5½ no fold with a pocket\nBase 4¼ x 7¾ midnight score 5½\nPanel 4 x 5¼ star chart\n"
    "Pocket strip 4 x ½ brass on pocket top ¼",
    "round the fold": SIDE + "Ribbon strip 2 x 5½ star chart over the fold\nMat 2 x 2 chalk right ½",
    "behind everything": SIDE + "Mat 3 x 4 midnight\nRays 3½ x 4½ star chart behind everything",
    "tilted on foam": MAT + "Photo 3 x 2 chalk tilted 5 raised ⅛",
    "foam under one side": MAT + "Flap 3 x 2 chalk raised on the right, top ½\n+ 2 foam squares",
    "side b on the inside": SIDE + "Inside panel 4 x 5¼ star chart side b",
    "simple": MAT + "Star 1 x 1 brass only stepped-up\nTag 1 x 2 chalk",
    "jobs of a helper": MAT
    + "Tag 1 x 2 chalk die-cut before class by Finn, stamped in class by Orla, coloured at home",
    "tied beforehand": MAT + "Tag 1 x 2 chalk hole ⅛ top, threaded before class",
}


def looked_at(text: str) -> tuple[Study, list[Bit]]:
    """The card and its bits; fails on a line that cannot be read."""
    readings = read_list(text, KNOWN, RULERS["in16"])
    errors = [f"{reading.text}: {reading.error.text()}" for reading in readings if reading.error]
    assert not errors, errors
    bits = [reading.bit for reading in readings if reading.bit]
    return study(readings, KNOWN, RULERS["in16"]), bits


def told() -> Iterator[str]:
    """Every card's steps, what lies ready marked with a dot; what is needed in the end."""
    for name, text in CARDS.items():
        card, bits = looked_at(text)
        steps = assembly_of(card, bits, "A")
        yield f"== {name}"
        yield from (f"{'·' if step.stage == READY else ' '} {step.what}" for step in steps)
        yield f"  needed: {', '.join(supplies_for(steps, bits)) or 'nothing'}"


class StepsTests(TestCase):
    maxDiff = None

    def test_every_card_is_put_together_as_kept(self):
        self.assertGreater(len(CARDS), 40)
        self.assertEqual("\n".join(told()) + "\n", FILE.read_text(encoding="utf-8"))

    def test_a_paper_model_follows_all_of_them(self):
        for name, text in CARDS.items():
            card, bits = looked_at(text)
            steps = assembly_of(card, bits, "A")
            with self.subTest(name):
                faults = PaperModel(card).follow(steps)
                self.assertEqual([fault for fault in faults if not fault.startswith("trimming")], [])
                self.goes_through_before_it_is_glued(steps)

    def goes_through_before_it_is_glued(self, steps) -> None:
        """What goes round or through a piece comes before that is glued on; filling before closing."""
        at = {step.key: place for place, step in enumerate(steps)}
        for step in steps:
            for number in step.pieces if step.key.startswith(("bit-", "foam-")) else ():
                self.assertLess(at[step.key], at.get(f"glue-{number}", len(steps)), step.what)
        for step in steps:
            if step.what.startswith("Fill in"):
                self.assertTrue(steps[at[step.key] + 1].what.startswith("Close it"), step.what)


if __name__ == "__main__":
    FILE.write_text("\n".join(told()) + "\n", encoding="utf-8")
