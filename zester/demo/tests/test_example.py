"""The example in somebody's account: taken once, thrown away with what came with it and nothing else."""

from django.urls import reverse

from tests.people import SignedInTests, make_class
from zester.classes.models import CardClass
from zester.designs.models import Card, Tool
from zester.plans.models import Work
from zester.shelf.models import Paper


class ExampleTests(SignedInTests):
    def test_it_is_taken_once_and_begins_to_be_fitted(self):
        for _ in range(2):
            answer = self.client.post(reverse("example:take"), follow=True)
        self.assertContains(answer, "This is an example")
        (example,) = CardClass.objects.of(self.user)
        self.assertEqual((example.n_wrong, example.n_cards), (0, 7))
        self.assertTrue(Work.objects.exists())
        self.assertEqual(
            Paper.objects.of(self.user).filter(name="Telescope Brass").count(), 1, "the one that was there"
        )

    def test_it_goes_with_what_came_with_it_and_is_used_nowhere_else(self):
        before = {model: set(model.objects.of(self.user)) for model in (Paper, Card, Tool)}
        self.client.post(reverse("example:take"))
        mine = make_class(self.user, "Base 8½ x 5½ ember dust score 4¼")
        self.assertContains(self.client.get(reverse("classes:list")), "throw this example away")
        self.client.post(reverse("example:throw_away"))
        self.assertEqual(list(CardClass.objects.of(self.user)), [mine])
        self.assertEqual({p.name for p in set(Paper.objects.of(self.user)) - before[Paper]}, {"Ember Dust"})
        self.assertEqual(set(Tool.objects.of(self.user)), before[Tool])
        self.assertEqual(set(Card.objects.of(self.user)) - before[Card], set(mine.cards.all()))
        self.assertNotContains(self.client.get(reverse("classes:list")), "throw this example away")
