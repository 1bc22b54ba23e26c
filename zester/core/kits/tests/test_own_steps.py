"""Steps in a designer's own order: moved, joined, reworded, left out; they follow the list, and contradict it aloud."""

from __future__ import annotations

from unittest import TestCase

from zester.core.kits.assembly import READY, assembled
from zester.core.kits.own_steps import NAMES, ORDER, OwnSteps, arranged, is_key, read_own, written
from zester.core.kits.tests.test_steps import SIDE, looked_at

LIST = SIDE + "Mat ⅛ border midnight dome\nPanel ⅛ border star chart\nStar 1 x 1 brass raised\n+ 3 gems"


def shown(text: str, told: dict[str, str]):
    """The steps of a list in the order that is told."""
    card, bits = looked_at(text)
    made = assembled(card, bits, "A")
    steps = [step for step in made.steps if step.stage != READY]
    return arranged(steps, made.rules, read_own(told, card.pieces))


def kept(text: str, own: OwnSteps) -> dict[str, str]:
    """What is kept of it."""
    return written(own, looked_at(text)[0].pieces)


def keys_of(found) -> list[str]:
    """The keys in order."""
    return [step.key for step in found.steps]


class OwnStepsTests(TestCase):
    def test_unchanged_they_are_as_worked_out(self):
        found = shown(LIST, {})
        self.assertEqual(keys_of(found), ["fold", "glue-2", "glue-3", "glue-4", "bit-0"])
        self.assertEqual((found.against, found.left_out), ((), ()))

    def test_moved_joined_reworded_split_and_left_out(self):
        own = OwnSteps(
            order=(("glue-2", "glue-3"), ("fold",), ("own-1",), ("glue-4",)),
            left_out=frozenset({"bit-0"}),
            said={"fold": "Fold it in half", "own-1": "Breathe out"},
        )
        found = shown(LIST, kept(LIST, own))
        self.assertEqual(keys_of(found), ["glue-2", "fold", "own-1", "glue-4"])
        said = [step.what for step in found.steps]
        self.assertEqual(
            said[:3],
            [
                "Glue A2 Mat on the front, in the middle. Glue A3 Panel on A2 Mat, in the middle",
                "Fold it in half",
                "Breathe out",
            ],
        )
        self.assertEqual([step.key for step in found.left_out], ["bit-0"])
        self.assertEqual(found.steps[0].pieces, (2, 3))

    def test_what_contradicts_what_lies_on_what_is_said(self):
        own = OwnSteps(order=(("glue-4",), ("glue-3",), ("glue-2",), ("fold",)))
        found = shown(LIST, kept(LIST, own))
        said = "“Stick A4 Star on A3 Panel with foam under it” stands before “Glue A3 Panel on A2 Mat”"
        self.assertIn(f"{said}, which has to be done first", found.against)
        self.assertFalse(
            shown(LIST, kept(LIST, OwnSteps(order=(("fold",), ("glue-2", "glue-3"), ("glue-4",))))).against
        )

    def test_the_order_follows_the_list(self):
        own = OwnSteps(order=(("fold",), ("glue-2",), ("glue-3",), ("bit-0",), ("glue-4",)))
        told = kept(LIST, own)
        # A line above moves all numbers on: pieces are known by their names.
        more = LIST.replace("Mat ⅛", "Inside panel 4 x 5 chalk\nMat ⅛")
        self.assertEqual(keys_of(shown(more, told)), ["fold", "glue-3", "glue-4", "glue-2", "bit-0", "glue-5"])
        # A piece that is gone goes, what is only called otherwise stays.
        less = LIST.replace("Panel ⅛ border star chart\n", "")
        self.assertEqual(keys_of(shown(less, told)), ["fold", "glue-2", "bit-0", "glue-3"])
        named = LIST.replace("Panel ⅛", "Sky ⅛")
        self.assertEqual(keys_of(shown(named, told)), ["fold", "glue-2", "glue-3", "bit-0", "glue-4"])

    def test_what_was_kept_badly_harms_nothing(self):
        usual = keys_of(shown(LIST, {}))
        for told in (
            {ORDER: "+ ++ glue-99 nothing=here 7 glue-2+"},
            {ORDER: "x" * 5000, NAMES: "=;;2;q=Mat;99999999999999999999=Star"},
            {"=say glue-77": "words", "=left-out": "glue-77"},
        ):
            self.assertEqual(sorted(keys_of(shown(LIST, told))), sorted(usual), told)
        self.assertFalse(is_key("glue-2 glue-3"))
        self.assertFalse(is_key("=order"))

    def test_kept_and_read_again_it_is_the_same(self):
        own = OwnSteps(
            order=(("glue-2", "glue-3"), ("fold",)), left_out=frozenset({"bit-0"}), said={"fold": "Fold it in half"}
        )
        card, _ = looked_at(LIST)
        self.assertEqual(read_own(written(own, card.pieces), card.pieces), own)
        self.assertEqual(set(written(OwnSteps(), card.pieces).values()), {""})
