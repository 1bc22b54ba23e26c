"""The steps of a card in its designer's own order: the form, the hand-out, two windows, a class that keeps its own."""

from django.urls import reverse

from zester.bags.tests.cases import PackingTests


class ArrangeTests(PackingTests):
    def page(self):
        return self.client.get(self.steps_address())

    def steps_address(self) -> str:
        return reverse("bags:arrange", args=[self.card_class.pk, "A"])

    def keys(self) -> list[str]:
        return [row.key for row in self.page().context["rows"]]

    def send(self, keys: list[str], **more):
        page = self.page()
        seen = {f"seen-{key}": text for key, text in page.context["seen"]}
        return self.client.post(self.steps_address(), {"step": keys, **seen, **more}, follow=True)

    def handout(self) -> list[str]:
        page = self.client.get(f"{reverse('bags:handout', args=[self.card_class.pk])}?card=A")
        return [step.what for step in page.context["each"].steps]

    def test_a_step_moved_reworded_joined_left_out_and_added_is_so_on_the_hand_out(self):
        keys = self.keys()
        moved = [keys[1], keys[0], *keys[2:], "own-1"]
        page = self.send(
            moved,
            **{f"say-{keys[0]}": "Crease it", f"out-{keys[2]}": "on", f"join-{keys[4]}": "on", "say-own-1": "Sign it"},
        )
        self.assertContains(page, "Kept with the design.")
        said = self.handout()
        self.assertEqual((said[1], said[-1]), ("Crease it", "Sign it"))
        self.assertEqual(len(said), len(keys) - 1)
        self.assertTrue(any(". " in words for words in said))
        # The teacher's remarks know nothing of it.
        page = self.client.get(f"{reverse('bags:handout', args=[self.card_class.pk])}?card=A")
        self.assertNotContains(page, "To a step that is no longer there")
        self.assertContains(self.send(moved, reset="1"), "Kept with the design.")
        self.assertEqual(self.keys(), keys)
        self.assertNotIn("Crease it", self.handout())

    def test_what_contradicts_is_said_and_kept_all_the_same(self):
        keys = self.keys()
        page = self.send(keys[::-1])
        self.assertContains(page, "which has to be done first")
        self.assertEqual(self.keys(), keys[::-1])

    def test_without_scripts_a_button_moves_a_step(self):
        keys = self.keys()
        self.send(keys, move=f"down {keys[0]}")
        self.assertEqual(self.keys(), [keys[1], keys[0], *keys[2:]])

    def test_another_window_is_not_overwritten(self):
        keys, page = self.keys(), self.page()
        self.send([keys[1], keys[0], *keys[2:]])
        late = {f"seen-{key}": text for key, text in page.context["seen"]}
        answer = self.client.post(self.steps_address(), {"step": keys[::-1], **late})
        self.assertEqual(answer.status_code, 409)
        self.assertEqual([row.key for row in answer.context["rows"]], keys[::-1])
        self.assertEqual(self.keys()[:2], [keys[1], keys[0]])
        again = {f"seen-{key}": text for key, text in answer.context["seen"]}
        self.client.post(self.steps_address(), {"step": keys[::-1], **again})
        self.assertEqual(self.keys(), keys[::-1])

    def test_odd_forms_lose_nothing(self):
        keys = self.keys()
        answer = self.client.post(self.steps_address(), {"step": keys, f"say-{keys[0]}": "x" * 401})
        self.assertContains(answer, "Nothing was cut off", status_code=422)
        self.assertContains(answer, "x" * 401, status_code=422)
        many = [f"own-{number}" for number in range(1, 60)]
        answer = self.client.post(self.steps_address(), {"step": many, **{f"say-{key}": "one more" for key in many}})
        self.assertContains(answer, "room for 40 steps", status_code=422)
        self.client.post(self.steps_address(), {"step": ["=order", "../..", "glue-1\x00", "a" * 99]})
        self.assertEqual(sorted(self.keys()), sorted(keys))
        self.assertFalse(self.card_class.class_cards.get(letter="A").card.teaching.get("=order"))
        self.client.logout()
        self.assertEqual(self.client.get(self.steps_address()).status_code, 302)
