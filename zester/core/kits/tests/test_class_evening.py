"""The evening of a class over its cards: worked by hand, in seconds."""

from __future__ import annotations

from unittest import TestCase

from zester.core.kits.assembly import DRY, FINISH, LAYER, PREPARE, READY, AssemblyStep, assembly_of
from zester.core.kits.class_evening import CardSteps, against_length, evening_of
from zester.core.kits.tests.test_steps import MAT, SIDE, looked_at


def step(key: str, what: str, minutes: int, stage: int = LAYER, **more) -> AssemblyStep:
    """A step of so many minutes."""
    return AssemblyStep(key=key, stage=stage, what=what, seconds=60 * minutes, pieces=(1,), **more)


def card(letter: str, *steps: AssemblyStep, each: int = 1) -> CardSteps:
    """A card of these steps."""
    return CardSteps(letter=letter, name=f"Card {letter}", each=each, steps=steps)


WASH = step("prepare-3-0", "A3 Panel: wash", 4, DRY, dries=20)


class EveningTests(TestCase):
    def told(self, *cards: CardSteps) -> list[tuple[str, str, int, int]]:
        return [(part.kind, part.letter, part.begins // 60, part.minutes) for part in evening_of(cards).parts]

    def test_what_dries_comes_first_and_other_cards_fill_the_waiting(self):
        a = card("A", WASH, step("glue-2", "Glue A2", 10))
        b = card("B", step("glue-2", "Glue B2", 25))
        self.assertEqual(self.told(a, b), [("dries", "", 0, 4), ("card", "B", 4, 25), ("card", "A", 29, 10)])

    def test_where_nothing_else_is_left_it_waits(self):
        a = card("A", WASH, step("glue-2", "Glue A2", 10))
        b = card("B", step("glue-2", "Glue B2", 5))
        self.assertEqual(
            self.told(a, b),
            [("dries", "", 0, 4), ("card", "B", 4, 5), ("waiting", "A", 9, 15), ("card", "A", 24, 10)],
        )

    def test_what_is_the_same_for_several_cards_is_told_once(self):
        fold = [step("fold", f"Fold {letter}1 Base along its score line, and burnish", 1) for letter in "AB"]
        evening = evening_of([card("A", fold[0], each=2), card("B", fold[1])])
        (part,) = evening.parts
        self.assertEqual([each.step.what for each in part.steps], ["Fold along the score lines and burnish: A1, B1"])
        self.assertEqual(evening.minutes, 3)
        # Where she has words of her own for one, each stands with its card.
        own = step("fold", "Crease it sharply", 1)
        self.assertEqual(len(evening_of([card("A", fold[0]), card("B", own)]).parts), 2)

    def test_what_dries_lying_flat_comes_last_and_what_is_for_home_apart(self):
        paint = step("after-4-0", "A4 Star: paint", 3, FINISH, dries=30)
        colour = step("after-5-0", "B5 Tag: colour", 3, FINISH, when="home")
        evening = evening_of(
            [card("A", paint, step("glue-2", "Glue A2", 2)), card("B", colour, step("glue-2", "Glue", 2))]
        )
        self.assertEqual([part.kind for part in evening.parts], ["card", "card", "flat"])
        self.assertEqual([each.letter for each in evening.at_home], ["B"])
        self.assertEqual(evening.minutes, 2 + 2 + 3)

    def test_what_is_ready_is_not_told(self):
        self.assertEqual(self.told(card("A", step("prepare-2-0", "A2: emboss", 9, READY))), [])

    def test_against_the_length_of_the_class(self):
        a = card("A", WASH, step("glue-2", "Glue A2", 10))
        b = card("B", step("prepare-2-0", "B2 Tag: stamp", 3, PREPARE), step("glue-2", "Glue B2", 2))
        evening = evening_of([a, b])
        self.assertEqual(evening.minutes, 34)
        self.assertEqual(against_length(evening, 60), "The class lasts 1 h; this takes about 34 min.")
        # Four minutes of work and the fifteen of waiting.
        self.assertEqual(
            against_length(evening, 30),
            "The class lasts 30 min; this takes about 34 min. “A3 Panel: wash” could be done beforehand: 19 min less.",
        )
        self.assertIn("Fewer cards", against_length(evening_of([card("A", step("glue-2", "Glue", 90))]), 30))

    def test_the_steps_of_real_cards_add_up(self):
        texts = {
            "A": MAT + "Panel 3¾ x 5 chalk washed, dry first\nGreeting 3 x ¾ chalk stamped 3 min, bottom ½",
            "B": SIDE + "Panel 4 x 5¼ star chart\n+ envelope",
            "C": MAT + "Star 1 x 1 brass painted, dry last",
        }
        cards = []
        for letter, text in texts.items():
            looked, bits = looked_at(text)
            cards.append(card(letter, *assembly_of(looked, bits, letter), each=2))
        evening = evening_of(cards)
        told = [each.step.what for part in evening.parts for each in part.steps]
        self.assertTrue(told[0].startswith("A3 Panel: wash with colour"))
        self.assertTrue(told[1].startswith("Fold along the score lines"))
        self.assertTrue(told[-1].startswith("C3 Star: paint"))
        stamp = next(each for part in evening.parts for each in part.steps if "A4 Greeting: stamp" in each.step.what)
        self.assertEqual(stamp.seconds, 2 * 180)
        steps = [step for each in cards for step in each.steps if step.stage != READY]
        self.assertEqual(
            sum(each.seconds for part in evening.parts for each in part.steps), 2 * sum(s.seconds for s in steps)
        )
