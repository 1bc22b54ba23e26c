"""A class that is cut, packed, handed over or past stays as it was, whatever becomes of its designs."""

import datetime
import re

from django.urls import reverse
from django.utils import timezone

from tests.people import SignedInTests, fitted, make_class, make_paper
from zester.classes.models import CardClass, ClassCard, Participant
from zester.classes.people import set_state
from zester.classes.services import count_class, use_card
from zester.designs.models import Card, Edition
from zester.designs.services import remove_card, save_list
from zester.plans.models import PaperFit
from zester.shelf.stock import stock_take
from zester.site.removed import purge

LIST = "Mat 4 x 5¼ brass\nStrip 1 x 5 brass"
WIDER = "Mat 4 x 5¼ brass\nStrip 1½ x 5 brass"


class HeldTests(SignedInTests):
    """A class of November and one of January, both with the same design."""

    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        stock_take(cls.paper, None, 100)
        cls.november = make_class(cls.user, LIST, participants=8)
        cls.card = cls.november.class_cards.get().card
        cls.january = CardClass.objects.create(owner=cls.user, title="January", participants=5)
        use_card(cls.january, cls.card)
        for card_class in (cls.november, cls.january):
            fitted(card_class)

    def cut(self, state: str = "cut") -> None:
        mark = reverse("bench:mark", args=[self.november.pk, self.paper.key])
        for each in ("cutting", state):
            self.client.post(mark, {"state": each})

    def write(self, text: str) -> None:
        """The design is changed, in another window than the last."""
        card = Card.objects.get(pk=self.card.pk)
        save_list(card, text, card.saves, "somebody", force=True)
        for card_class in (self.november, self.january):
            fitted(card_class)

    def pieces(self, card_class: CardClass) -> dict[str, tuple[int, int]]:
        """Size (in sixteenths) by piece."""
        counted = count_class(CardClass.objects.get(pk=card_class.pk))
        return {each.piece.name: (each.piece.width // 508, each.piece.height // 508) for each in counted.counts}

    def follows(self) -> bool:
        """Whether the class of November has the wider strip."""
        return self.pieces(self.november)["Strip"] == (24, 80)

    def desk(self):
        return self.client.get(reverse("classes:card", args=[self.november.pk, "A"]))

    def take(self, **data):
        return self.client.post(reverse("classes:take", args=[self.november.pk, "A"]), data, follow=True)

    def test_a_strip_changed_for_january_changes_nothing_of_november(self):
        self.cut()
        fit = PaperFit.objects.get(class_paper__card_class=self.november)
        steps = self.client.get(reverse("bench:steps_json", args=[self.november.pk])).content
        # What was just done is said once.
        self.client.get(reverse("classes:list"))
        pages = ["classes:count", "fits:wall", "bench:steps", "bags:pack", "bags:handout"]
        before = {name: self.shown(reverse(name, args=[self.november.pk])) for name in pages}
        self.write(WIDER)
        self.assertEqual(self.pieces(self.january)["Strip"], (24, 80))
        self.assertFalse(self.follows())
        now = PaperFit.objects.filter(class_paper__card_class=self.november).exclude(need="").get()
        self.assertEqual((now.pk, now.shown_id, now.over), (fit.pk, fit.shown_id, []))
        self.assertEqual(self.client.get(reverse("bench:steps_json", args=[self.november.pk])).content, steps)
        for name in pages:
            after = self.shown(reverse(name, args=[self.november.pk]))
            self.assertEqual(self.without_keys(after), self.without_keys(before[name]), name)

    def without_keys(self, page: str) -> str:
        """A page without what differs each time."""
        page = re.sub(r'value="[A-Za-z0-9]{64}"|content="[A-Za-z0-9]{64}"', "", page)
        return re.sub(r"since=[^\"&]*", "", page)

    def test_the_desk_says_what_the_change_means_and_takes_it_in_only_when_told(self):
        self.cut()
        self.assertContains(self.desk(), "it keeps this list")
        self.assertContains(self.desk(), "January")
        self.write(WIDER)
        page = self.desk()
        self.assertContains(page, "This class keeps the list it was cut with")
        self.assertContains(page, "A2 Strip, 1½ × 5 in of Telescope Brass: 8 more to cut")
        self.assertContains(page, "Not cut yet, and changed with the design: January.")
        # The design is what is written on.
        self.assertContains(page, "Strip 1½ x 5 brass")
        self.take()
        self.assertTrue(self.follows())
        fitted(self.november)
        first, more = PaperFit.objects.filter(class_paper__card_class=self.november).order_by("part")
        self.assertEqual((first.held, dict(first.over)), ("cut", {"A2": 8}))
        self.assertEqual({handle: about["count"] for handle, about in more.pieces.items()}, {"A2": 8})
        self.assertContains(self.desk(), "it keeps this list")

    def test_a_cut_that_is_taken_back_lets_the_class_follow_again(self):
        self.cut()
        self.write(WIDER)
        mark = reverse("bench:mark", args=[self.november.pk, self.paper.key])
        self.client.post(mark, {"state": "not", "sure": "yes"})
        self.assertTrue(self.follows())
        self.assertNotContains(self.desk(), "it keeps this list")

    def test_typing_at_the_desk_of_the_class_asks_too(self):
        self.cut()
        data = {"cut_list": WIDER, "editor": "me", "saves": Card.objects.get(pk=self.card.pk).saves}
        answer = self.client.post(
            reverse("classes:read", args=[self.november.pk, "A"]), data, headers={"HX-Request": "true"}
        )
        self.assertContains(answer, "This class keeps the list it was cut with")
        self.assertFalse(self.follows())

    def test_the_design_gets_the_list_of_the_class_back(self):
        self.cut()
        self.write(WIDER)
        self.take(way="back")
        self.assertEqual(Card.objects.get(pk=self.card.pk).cut_list, LIST)
        self.assertEqual(Edition.objects.get().cut_list, WIDER)
        self.assertNotContains(self.desk(), "This class keeps the list it was cut with")

    def test_the_library_says_where_it_is_cut_already(self):
        self.cut()
        page = self.client.get(reverse("designs:design", args=[self.card.pk]))
        self.assertContains(page, "it keeps its own list", 1)

    def test_a_class_whose_day_has_passed_keeps_what_it_had(self):
        CardClass.objects.filter(pk=self.november.pk).update(date=timezone.localdate() - datetime.timedelta(1))
        self.write(WIDER)
        self.assertFalse(self.follows())
        self.assertEqual(ClassCard.objects.get(card_class=self.november).held["cut_list"], LIST)

    def test_what_is_packed_or_handed_over_stays(self):
        person = Participant.objects.create(card_class=self.november, name="Ada Quill", state="paid")
        set_state(self.november, {person.pk: "paid"}, "handed")
        self.write(WIDER)
        self.assertFalse(self.follows())

    def test_a_class_nothing_is_done_of_follows(self):
        self.write(WIDER)
        self.assertTrue(self.follows())

    def test_a_design_that_is_removed_stays_in_what_is_cut_of_it(self):
        self.cut()
        remove_card(Card.objects.get(pk=self.card.pk))
        self.assertEqual((len(self.pieces(self.november)), len(self.pieces(self.january))), (2, 0))
        purge(timezone.now() + datetime.timedelta(1))
        self.assertEqual(len(self.pieces(self.november)), 2)
        self.paper.refresh_from_db()
        self.paper.remove()
        purge(timezone.now() + datetime.timedelta(1))
        self.assertEqual(PaperFit.objects.filter(class_paper__card_class=self.november).count(), 1)

    def test_the_teachers_words_stay_too_and_are_changed_from_the_class(self):
        self.cut()
        Card.objects.filter(pk=self.card.pk).update(teaching={"opening": "Other words"})
        words = reverse("bags:words", args=[self.november.pk, "A"])
        self.assertNotContains(self.client.get(reverse("bags:handout", args=[self.november.pk])), "Other words")
        self.client.post(words, {"words-ending": "Well done", "seen-ending": ""})
        page = self.client.get(reverse("bags:handout", args=[self.november.pk]))
        self.assertContains(page, "Well done")
        self.assertEqual(Card.objects.get(pk=self.card.pk).teaching["ending"], "Well done")

    def test_another_person_takes_nothing_in(self):
        self.cut()
        self.write(WIDER)
        self.client.force_login(self.stranger)
        self.assertEqual(self.take().status_code, 404)

    def test_a_design_with_something_to_mend_is_not_done(self):
        self.assertContains(self.client.get(reverse("classes:list")), 'Design<span class="visually-hidden">, done:', 2)
        # A mat larger than the card it sits on.
        self.write("card 4¼ x 5½ side fold\nBase brass\nMat 4½ x 5¾ brass")
        self.assertContains(self.client.get(reverse("classes:list")), "1 fault to mend", 2)
        self.write(LIST)
        self.assertNotContains(self.client.get(reverse("classes:list")), "to mend")

    def test_a_kit_list_is_the_classs_own_and_goes_on_being_written(self):
        make_paper(self.user, "Chalk")
        self.client.post(reverse("classes:kit_list", args=[self.november.pk]))
        self.cut()
        self.assertFalse(ClassCard.objects.filter(card__is_kit=True).exclude(held={}).exists())
