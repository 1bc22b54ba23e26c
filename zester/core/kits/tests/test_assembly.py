"""Cards put together: what the steps say is done to a paper model that knows nothing of how they were ordered."""

from __future__ import annotations

from collections.abc import Sequence
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from zester.core.cards.study import Study, study
from zester.core.cards.tests.cards import GATE, KNOWN
from zester.core.cards.tests.test_random_cards import cards, looked_at
from zester.core.cards.tests.worked import all_cards
from zester.core.cutlist.notation import read_list
from zester.core.cutting.handwork import handwork
from zester.core.kits.assembly import FOLD, LAYER, READY, AssemblyStep, assembly_of
from zester.core.lengths import RULERS, SIXTEENTHS
from zester.core.pieces import BEFORE, Bit
from zester.core.tests.share import some

# What cards at random are given more of.
more_lines = st.sampled_from(
    (
        "Pane 3 x 3 clear pane",
        "Pane 2 x 2 clear pane behind mat",
        "Frame 3½ x 4½ chalk moon window circle 2 raised",
        "Frame 3 x 4 chalk moon window 2 x 2",
        "Tag 1 x 2 chalk moon hole ⅛ top stamped",
        "Scrap 3 x 3 chalk moon stamped",
        "Bird 1 x 1 cut out of the scrap left ½",
        "Fish 1 x 1 brass coloured, cut out by hand top ½",
        "Sky 3 x 3 chalk moon embossed clouds before class, washed in class, dry first",
        "Sun 1 x 1 brass painted, dry last",
        "Moon circles no. 3 star chart",
        "Dot circle 1 chalk moon",
        "+ 8 in thread",
        "+ 12 in ribbon round mat",
        "+ 12 in ribbon round panel",
        "+ 2 brads through panel",
        "+ 8 in twine through tag",
        "+ 1 staple",
        "+ 12 sequins",
        "+ 1 tied bow",
        "+ 1 brush",
        "+ 1 clear bag",
        "+ 1 envelope",
    )
)
SIDE = "card 4¼ x 5½ side fold\nBase telescope brass\n"


def steps_of(text: str, letter: str = "A", version: str = "") -> list[str]:
    """The words of the steps."""
    readings = read_list(text, KNOWN, SIXTEENTHS)
    bits = [reading.bit for reading in readings if reading.bit]
    return [step.what for step in assembly_of(study(readings, KNOWN, SIXTEENTHS, version), bits, letter)]


class PaperModel:
    """A card of paper: pieces get glued to each other, and say when something is done too late."""

    def __init__(self, card: Study):
        self.card, self.faults = card, []
        self.glued_at: dict[int, int] = {}
        if card.base is None and card.folded and card.folded.fold == "none":
            # Of what has no base something lies on the table, and the others are glued to it.
            alone = [at for at, each in enumerate(card.placed) if self._lies_alone(each)]
            self.glued_at = dict.fromkeys(alone[:1], -1)
        self.done_at: dict[str, int] = {}
        self.steps: list[AssemblyStep] = []

    def _lies_alone(self, each) -> bool:
        size = self.card.folded.width, self.card.folded.height
        alone = each.under is None and each.piece.count == 1 and each.face.key not in ("around", "back")
        return alone and (each.width, each.height) == size

    def follow(self, steps: list[AssemblyStep]) -> list[str]:
        """Do the steps; what is wrong with their order."""
        self.steps = steps
        for time, step in enumerate(steps):
            self.done_at[step.key] = time
            for at in step.placed:
                if at in self.glued_at:
                    self.faults.append(f"glued twice: {step.what}")
                self.glued_at[at] = time
        self._everything_is_glued()
        if not self.faults:
            self._nothing_is_covered_too_early()
            self._nothing_is_done_too_late()
            self._blades_do_not_reach_what_lies_below()
        return self.faults

    def _everything_is_glued(self) -> None:
        missing = set(range(len(self.card.placed))) - set(self.glued_at)
        self.faults += [f"never glued: {self.card.placed[at].piece.name}" for at in missing]

    def _below(self, at: int | None) -> list[int | None]:
        """It, its hosts, and in the end the card itself."""
        found = [at]
        while found[-1] is not None:
            found.append(self.card.placed[found[-1]].under)
        return found

    def _fixed(self, at: int, to: int | None) -> int:
        """When a piece came to lie where it is, seen from a host of its."""
        chain = self._below(at)
        return max(self.glued_at[each] for each in chain[: chain.index(to)])

    def _nothing_is_covered_too_early(self) -> None:
        placed = self.card.placed
        for j, upper in enumerate(placed):
            for i, lower in enumerate(placed[:j]):
                mine, theirs = self._below(i), self._below(j)
                if lower.piece.number == upper.piece.number or i in theirs or j in mine:
                    continue
                if not _one_side(lower, upper) or not _overlap(lower, upper):
                    continue
                common = next(each for each in mine if each in theirs)
                if self.glued_at[i] >= self._fixed(j, common):
                    self.faults.append(f"{upper.piece.name} covers {lower.piece.name} before that is glued")

    def _nothing_is_done_too_late(self) -> None:
        """Folding, and what is done to a piece, before it is glued on; the pocket over what it covers."""
        for at, each in enumerate(self.card.placed):
            for number, work in enumerate(handwork(each.piece, self.card.unit, self.card.known.tools)):
                if work.last or work.when == "home":
                    break
                key = f"prepare-{each.piece.number}-{number}"
                if self.glued_at[at] >= 0 and self.done_at.get(key, len(self.steps)) >= self.glued_at[at]:
                    self.faults.append(f"{each.piece.name} is glued before: {work.what}")
            if "fold" in self.done_at and self.done_at["fold"] >= self.glued_at[at]:
                self.faults.append(f"{each.piece.name} is glued before the card is folded")
        self._pocket()

    def _pocket(self) -> None:
        face = self.card.folded.faces.get("pocket")
        if face is None or "pocket" not in self.done_at:
            return
        for at, each in enumerate(self.card.placed):
            left, top, right, bottom = _box(each)
            under = face.x < right and left < face.x + face.width and face.y < bottom and top < face.y + face.height
            if (
                each.face.key in ("pocket", "around", "back")
                or each.face.closed != face.closed
                or each.piece.place.over_fold
            ):
                continue
            if under and self.done_at["pocket"] <= self.glued_at[at]:
                self.faults.append(f"the pocket is folded over before {each.piece.name} is glued")

    def _blades_do_not_reach_what_lies_below(self) -> None:
        for step in self.steps:
            for at in step.placed if step.trims else ():
                host = self.card.placed[at].under
                if host is not None and self.glued_at[host] < self.done_at[step.key]:
                    self.faults.append(
                        f"trimming {self.card.placed[at].piece.name} would cut what lies below its layer"
                    )


def _one_side(one, other) -> bool:
    return (one.face.closed, one.face.key == "back") == (other.face.closed, other.face.key == "back")


def _box(each) -> tuple[int, int, int, int]:
    return each.box if each.tilt else each.seen


def _overlap(one, other) -> bool:
    a, b = _box(one), _box(other)
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]


class OrderTests(TestCase):
    def test_a_card_as_somebody_would_put_it_together(self):
        found = steps_of(
            f"{SIDE}Mat ⅛ border midnight dome\nPanel ⅛ border star chart\n"
            "Moon circles 4 chalk moon top ¾ raised\nSentiment 3 x ¾ chalk moon bottom ¼ stamped in class\n"
            "Inside panel 3½ x 4¾ chalk moon\nInside strip 3½ x ½ star chart side b bottom ¼ overhang ¼\n"
            "+ 4 foam squares\n+ 8 in thread\n+ envelope"
        )
        self.assertEqual(
            found,
            [
                "A4 Moon: die-cut: circle 2 in, with Circles no. 4",
                "A5 Sentiment: stamp",
                "Fold A1 Base along its score line, and burnish",
                "Glue A2 Mat on the front, in the middle",
                "Glue A3 Panel on A2 Mat, in the middle",
                "Glue A5 Sentiment on A3 Panel, ¼ in from the bottom",
                "Glue A7 Inside strip on A6 Inside panel, ¼ in from the bottom, side B up;"
                " then turn over and trim flush: ¼ in at the left and ¼ in at the right",
                "Glue A6 Inside panel on the inside, in the middle",
                "Stick A4 Moon on A3 Panel with foam squares under it, ¾ in from the top",
                "Tie on 8 in of thread",
                "Slip the card into its envelope",
            ],
        )

    def test_what_dries_comes_first_and_what_was_done_beforehand_before_it(self):
        found = assembly_of(
            looked_at(
                f"{SIDE}Mat ⅛ border midnight dome embossed before class by Orla\n"
                "Panel 3 x 4 chalk moon washed dry first"
            )
        )
        self.assertEqual([(step.what, step.when, step.by) for step in found[:2]], [
            ("2 Mat: emboss", "before", "Orla"),
            ("3 Panel: wash with colour; set it aside to dry", "class", ""),
        ])  # fmt: skip

    def test_a_gate_a_band_and_its_seal(self):
        found = steps_of(GATE, "C")
        self.assertIn(
            "Glue the 2 C3 Door panels on C2 Door mats; they were cut beside each other, from the left:"
            " left door and right door",
            found,
        )
        self.assertEqual([words.split(" ")[0] for words in found[-2:]], ["Wrap", "Glue"])

    def test_under_a_pocket_everything_is_glued_before_it_is_folded_over(self):
        found = steps_of(
            "card 4¼ x 5½ no fold with a pocket\nBase 4¼ x 7¾ midnight dome score 5½\n"
            "Panel 4 x 5¼ star chart\nPocket strip 4 x ½ telescope brass on pocket top ¼"
        )
        names = [words.split(",")[0] for words in found]
        self.assertLess(
            names.index("Glue A2 Panel on the front"), names.index("Fold the pocket up and glue its two sides")
        )
        self.assertIn("Pocket strip", names[-1])

    def test_a_thread_round_a_layer_is_tied_before_that_is_glued_on(self):
        found = steps_of(f"{SIDE}Mat ⅛ border midnight dome\nPanel 3 x 4 star chart\n+ thread round panel")
        self.assertLess(
            next(k for k, words in enumerate(found) if words.startswith("Wind")),
            next(k for k, words in enumerate(found) if "A3 Panel on" in words),
        )

    def test_a_base_that_comes_folded_is_not_folded_again(self):
        steps = {}
        for said in ("", " scored in class", " scored and folded before class by Orla"):
            card = looked_at(f"card 4¼ x 5½ side fold\nBase telescope brass{said}\nMat 4 x 5 chalk moon")
            steps[said] = [(step.stage, step.what) for step in assembly_of(card)]
        at = "at 4¼ in from the left"
        glue = (LAYER, "Glue 2 Mat on the front, in the middle")
        self.assertEqual(
            steps[" scored in class"],
            [(FOLD, f"Score 1 Base, inside up, {at}"), (FOLD, "Fold 1 Base along its score line, and burnish"), glue],
        )
        self.assertEqual(
            steps[""],
            [(FOLD, "Fold 1 Base along its score line, and burnish"), glue],
        )
        self.assertEqual(
            steps[" scored and folded before class by Orla"], [(READY, f"1 Base: scored and folded, {at}"), glue]
        )

    def test_before_class_is_only_what_a_line_says(self):
        card = looked_at(f"{SIDE}Mat ⅛ border midnight dome stamped before class\nPanel 3 x 4 chalk moon stamped")
        self.assertEqual([step.what for step in assembly_of(card) if step.when == BEFORE], ["2 Mat: stamp"])


class ModelTests(TestCase):
    """Followed on the paper model."""

    def check(self, card: Study, text: str, bits: Sequence[Bit] = ()) -> None:
        if card.folded is None:
            return
        steps = assembly_of(card, bits)
        self.assertTrue(steps or not card.placed, text)
        faults = PaperModel(card).follow(steps)
        woven = [fault for fault in faults if fault.startswith("trimming")]
        # Layers woven into each other cannot all be trimmed first; such lists are made by dice only.
        self.assertEqual([fault for fault in faults if fault not in woven], [], text)
        self.woven += bool(woven)
        self.trimmed += any(step.trims for step in steps)

    def setUp(self):
        self.woven = self.trimmed = 0

    def test_worked_cards(self):
        for text, ruler in all_cards().values():
            readings = read_list(text, KNOWN, RULERS[ruler])
            self.check(study(readings, KNOWN, RULERS[ruler]), text)
        self.assertGreater(self.trimmed, 10)
        self.assertLess(self.woven * 10, self.trimmed)

    @given(cards)
    @settings(max_examples=some(150))
    def test_random_cards(self, text):
        self.check(looked_at(text), text)

    @given(cards, st.lists(more_lines, min_size=1, max_size=5))
    @settings(max_examples=some(150))
    def test_random_cards_with_windows_threads_jobs_and_scraps(self, text, more):
        text = "\n".join([text, *more])
        card = looked_at(text)
        bits = [reading.bit for reading in card.readings if reading.bit]
        self.check(card, text, bits)
        steps = assembly_of(card, bits)
        numbers = {piece.number for piece in card.pieces}
        keys = [step.key for step in steps]
        self.assertEqual(len(keys), len(set(keys)), text)
        for at, step in enumerate(steps):
            # Nothing is glued, tied or cut that is not there.
            self.assertLessEqual(set(step.pieces), numbers, text)
            if step.key.startswith(("bit-", "foam-")):
                for number in step.pieces:
                    glued = keys.index(f"glue-{number}") if f"glue-{number}" in keys else len(keys)
                    self.assertLess(at, glued, text)
        # What is ready in the bag is not made again.
        made = {(piece, step.what) for step in steps for piece in step.pieces if step.stage == READY}
        later = {(piece, step.what) for step in steps for piece in step.pieces if step.stage != READY}
        self.assertFalse(made & later, text)

    def test_the_model_finds_what_is_wrong(self):
        card = looked_at(f"{SIDE}Label 2 x 2 chalk moon\nMat ⅛ border midnight dome\nPanel 3 x 4 star chart stamped")
        steps = assembly_of(card)
        self.assertEqual(PaperModel(card).follow(steps), [])
        self.assertTrue(PaperModel(card).follow(steps[::-1]))
        self.assertTrue(PaperModel(card).follow(steps[:-1]))
        late = [step for step in steps if "stamp" not in step.what] + [step for step in steps if "stamp" in step.what]
        self.assertTrue(PaperModel(card).follow(late))


class BaseTests(TestCase):
    def test_what_is_done_to_the_base_is_a_step_before_it_is_folded(self):
        steps = steps_of("card 4¼ x 5½ side fold\nBase telescope brass stamped in class\nMat 4 x 5 chalk moon")
        stamped = next(at for at, words in enumerate(steps) if "stamp" in words.casefold())
        folded = next(at for at, words in enumerate(steps) if words.startswith("Fold A1 Base"))
        self.assertLess(stamped, folded, steps)
