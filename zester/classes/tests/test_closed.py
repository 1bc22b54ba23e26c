"""A class that is handed over is closed, and an old class calls everything as it was called."""

import datetime
import json

from django.urls import get_resolver, reverse
from django.utils import timezone

from tests.people import SignedInTests, fitted, make_class, make_paper
from zester.classes.models import CardClass, Offer, Participant, Substitution
from zester.classes.people import set_state
from zester.classes.services import count_class, recount
from zester.designs.models import Tool
from zester.designs.services import keep_tool, take_tool_off
from zester.plans.models import PaperFit
from zester.shelf.models import Paper
from zester.shelf.services import keep_paper, take_off
from zester.shelf.stock import stock_take

LIST = "Mat 4 x 5¼ brass\nStrip 1 x 5 brass"


class ClosedTests(SignedInTests):
    """A class of two people with names, cut and handed over."""

    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        stock_take(cls.paper, None, 100)
        cls.card_class = make_class(cls.user, LIST, participants=0)
        cls.people = [
            Participant.objects.create(card_class=cls.card_class, name=name, state="paid") for name in ("Ines", "Odo")
        ]
        recount(cls.card_class.pk)
        fitted(cls.card_class)

    def at(self, name: str, *more) -> str:
        return reverse(name, args=[self.card_class.pk, *more])

    def now(self) -> CardClass:
        return CardClass.objects.get(pk=self.card_class.pk)

    def hand_over(self, *people: Participant):
        who = [f"{person.pk}-paid" for person in people]
        return self.client.post(self.at("classes:states"), {"state": "handed", "who": who}, follow=True)

    def count(self, number: int, **headers):
        data = {"class-participants": number, "class-give_aways": 0, "class-spare_by": "piece"}
        entry = self.card_class.class_cards.get()
        data |= {f"card{entry.pk}-{name}": 1 for name in ("each", "samples")} | {f"card{entry.pk}-spares": 0}
        return self.client.post(self.at("classes:count"), data, **headers)

    def test_with_the_last_kit_the_class_is_closed_and_says_so(self):
        self.assertNotContains(self.hand_over(self.people[0]), "the class is closed")
        self.assertIsNone(self.now().closed_at)
        self.assertContains(self.hand_over(self.people[1]), "That was all of it: the class is closed.")
        for name in ("classes:desk", "classes:count", "fits:wall", "bench:steps", "bags:pack", "classes:people"):
            self.assertContains(self.client.get(self.at(name)), "Handed over and closed")

    def test_nothing_that_is_sent_to_it_changes_anything_until_it_is_opened(self):
        self.hand_over(*self.people)
        refused = self.count(9)
        self.assertContains(refused, "What you sent was not done", status_code=409)
        self.assertEqual((self.now().participants, self.now().n_people), (0, 2))
        added = self.client.post(self.at("classes:add_people"), {"lines": "Eda"})
        self.assertEqual((added.status_code, self.now().people.count()), (409, 2))
        self.client.post(self.at("classes:open"))
        self.count(9)
        self.assertEqual((self.now().closed_at, self.now().participants), (None, 9))

    def test_no_address_of_a_class_takes_anything_while_it_is_closed(self):
        self.hand_over(*self.people)
        before = self.everything()
        fit = PaperFit.objects.get(class_paper__card_class=self.card_class)
        some = {
            "key": fit.key, "letter": "A", "person": self.people[0].pk, "offer": 1, "row": 1, "number": 1, "kit": "x",
            "stack": "x", "bag": "x", "what": "plan",
        }  # fmt: skip
        tried = 0
        for name, args in self.addresses():
            address = reverse(name, kwargs={each: some.get(each, self.card_class.pk) for each in args})
            if name in ("classes:open", "classes:remove", "classes:restore", "classes:copy"):
                continue
            # Money comes in after the kits are handed over, too.
            if name in ("classes:payment", "classes:mark_payment"):
                continue
            answer = self.client.post(address, {"state": "cutting", "name": "x", "title": "x", "cut_list": "x"})
            tried += 1
            with self.subTest(name):
                # The desk writes the design, which is not the class.
                self.assertIn(answer.status_code, (302, 405, 409, *((200,) if name == "classes:read" else ())))
        self.assertGreater(tried, 60)
        self.assertEqual(self.everything(), before)

    def addresses(self):
        """The names of all addresses below a class, with what they take."""
        for space, (_, resolver) in get_resolver().namespace_dict.items():
            for name in {each for each in resolver.reverse_dict if isinstance(each, str)}:
                ((pattern, args), *_), *_ = resolver.reverse_dict.getlist(name)[0]
                if pattern.startswith("classes/%(pk)s/"):
                    yield f"{space}:{name}", args

    def everything(self) -> list:
        """All that a class is made of."""
        mine = self.now()
        rows = [list(mine.people.order_by("pk").values()), list(mine.class_cards.order_by("pk").values())]
        fits = PaperFit.objects.filter(class_paper__card_class=mine).order_by("pk")
        return [CardClass.objects.filter(pk=mine.pk).values().get(), *rows, list(fits.values())]

    def test_scripts_are_told_in_their_way(self):
        self.hand_over(*self.people)
        answer = self.count(3, headers={"HX-Request": "true"})
        self.assertEqual((answer.status_code, answer["HX-Redirect"]), (204, self.at("classes:closed")))
        ticks = self.client.post(self.at("bags:ticks"), json.dumps([]), content_type="application/json")
        self.assertEqual(ticks.status_code, 409)
        self.assertIn("is closed", ticks.json()["problem"])

    def test_people_without_a_name_are_handed_their_kits_by_closing_the_class(self):
        CardClass.objects.filter(pk=self.card_class.pk).update(participants=1)
        recount(self.card_class.pk)
        self.hand_over(*self.people)
        self.assertIsNone(self.now().closed_at)
        # Nothing of it is cut, and its day has not come.
        CardClass.objects.filter(pk=self.card_class.pk).update(kept_shelf={})
        self.assertNotContains(self.client.get(self.at("bags:pack")), "Close the class")
        CardClass.objects.filter(pk=self.card_class.pk).update(date=timezone.localdate())
        self.assertContains(self.client.get(self.at("bags:pack")), "Close the class")
        page = self.client.post(self.at("classes:close"), follow=True)
        self.assertContains(page, "is handed over and closed")
        self.assertTrue(self.now().class_cards.get().held)

    def test_what_was_not_booked_of_it_is_promised_to_nobody_and_bought_no_more(self):
        # Two sheets at most: both classes want one, and there is one.
        stock_take(self.paper, None, 1)
        other = make_class(self.user, LIST, participants=2)
        fitted(other)
        lacking = lambda: PaperFit.objects.get(class_paper__card_class=other).short  # noqa: E731
        self.assertEqual(lacking(), 1)
        self.client.post(self.at("classes:close"))
        self.assertEqual(lacking(), 0)
        stock_take(self.paper, None, 0)
        self.assertEqual(PaperFit.objects.get(class_paper__card_class=self.card_class).short, 0)
        buying = self.client.get(reverse("fits:buying"), {"class": self.card_class.pk})
        self.assertFalse(buying.context["list"].articles)
        for station in self.client.get(self.at("fits:wall")).context["stations"]:
            self.assertIn(station.state, ("done", "closed"))

    def test_it_can_be_planned_once_more_and_removed(self):
        self.hand_over(*self.people)
        self.client.post(self.at("classes:copy"))
        new = CardClass.objects.of(self.user).exclude(pk=self.card_class.pk).get()
        self.assertEqual((new.closed_at, new.kept_shelf), (None, {}))
        self.client.post(self.at("classes:remove"))
        self.assertIsNotNone(self.now().removed_at)
        self.client.post(self.at("classes:restore"))
        self.assertIsNone(self.now().removed_at)

    def test_a_design_does_not_come_into_a_closed_class_by_the_library(self):
        self.hand_over(*self.people)
        other = make_class(self.user, "Tag 1 x 2 brass")
        card = other.class_cards.get().card
        page = self.client.post(reverse("designs:design", args=[card.pk]).rstrip("/") + "/use/",
                                {"class": self.card_class.pk}, follow=True)  # fmt: skip
        self.assertContains(page, "is handed over and closed")
        self.assertEqual(self.now().class_cards.count(), 1)

    def test_nobody_elses_class_is_opened_or_closed(self):
        self.hand_over(*self.people)
        self.client.force_login(self.other_person())
        for name in ("open", "close"):
            self.assertEqual(self.client.post(self.at(f"classes:{name}")).status_code, 404)
        self.assertIsNotNone(self.now().closed_at)

    def other_person(self):
        return type(self.user).objects.create_user("somebody-else", password="x" * 14)


class KeptShelfTests(SignedInTests):
    """What papers and tools of an old class are called."""

    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        stock_take(cls.paper, None, 100)
        cls.tool = keep_tool(Tool(owner=cls.user, name="Moon dies", kind="die", shape="circle", sizes=[[8128, 8128]]))
        cls.card_class = make_class(cls.user, "Mat 4 x 5¼ brass\nSeal moon dies 1 brass", participants=8)
        fitted(cls.card_class)

    def cut(self, state: str = "cut") -> None:
        mark = reverse("bench:mark", args=[self.card_class.pk, self.paper.key])
        for each in ("cutting", state):
            self.client.post(mark, {"state": each, "sure": "yes"})

    def rename(self, name: str) -> None:
        paper = Paper.objects.get(pk=self.paper.pk)
        paper.name, paper.price = name, 9
        keep_paper(paper)
        fitted(self.card_class)

    def page(self, name: str, *more) -> str:
        return self.shown(reverse(name, args=[self.card_class.pk, *more]))

    def test_a_paper_renamed_after_cutting_is_called_as_it_was_on_every_page_of_the_class(self):
        self.cut()
        pages = [
            ("fits:wall",), ("fits:needs",), ("bench:steps",), ("fits:paper", self.paper.key), ("bags:pack",),
            ("bags:handout",), ("bench:paper", self.paper.key),
        ]  # fmt: skip
        # What was just done is said once.
        self.client.get(reverse("classes:list"))
        before = {each: self.page(*each).count("Telescope Brass") for each in pages}
        self.rename("Old Brass")
        self.assertGreater(sum(before.values()), 4)
        for each in pages:
            page = self.page(*each)
            self.assertEqual((page.count("Telescope Brass"), page.count("Old Brass")), (before[each], 0), each)
            self.assertNotIn("at today’s price", page)
        # Elsewhere it has its new name; and once the cut is taken back, here, too.
        self.assertIn("Old Brass", self.shown(reverse("shelf:shelf")))
        self.cut("not")
        self.assertIn("Old Brass", self.page("fits:wall"))

    def test_so_do_the_pages_of_orders_offers_and_papers_in_place_of_others(self):
        rays = make_paper(self.user, "Moon Rays", kind="patterned")
        offer = Offer.objects.create(
            card_class=self.card_class, name="Full kit", choose=1, among=[rays.key, "gone"], pools={rays.key: "own"}
        )
        ines = Participant.objects.create(card_class=self.card_class, name="Ines", chosen=[rays.key])
        ines.orders.create(offer=offer, count=1)
        row = Substitution.objects.create(card_class=self.card_class, paper=self.paper, other=rays, who="some")
        row.people.add(ines)
        recount(self.card_class.pk)
        self.cut()
        rays.name = "Sun Rays"
        keep_paper(rays)
        pages = [
            ("classes:offers",), ("classes:offer", offer.pk), ("classes:people",), ("classes:person", ines.pk),
            ("classes:people_csv",), ("classes:person_data", ines.pk), ("classes:instead",),
        ]  # fmt: skip
        for each in pages:
            page = self.page(*each)
            self.assertIn("Moon Rays", page, each)
            self.assertNotIn("Sun Rays", page, each)
        # What is typed is read with the names of then, too; a class that is not cut has those of now.
        reading = reverse("classes:read_people", args=[self.card_class.pk])
        preview = self.client.get(reading, {"lines": "Ada full, papers Moon"})
        self.assertContains(preview, "1 understood")
        other = make_class(self.user, "Tag 1 x 2 brass")
        self.assertContains(self.client.get(reverse("classes:instead", args=[other.pk])), "Sun Rays")
        taken = self.client.post(reverse("classes:remove_instead", args=[self.card_class.pk, row.pk]), follow=True)
        self.assertContains(taken, "Telescope Brass is used again")

    def test_before_it_is_cut_the_class_follows_the_shelf(self):
        self.rename("Old Brass")
        self.assertIn("Old Brass", self.page("fits:wall"))

    def test_a_class_whose_day_has_passed_keeps_the_names_of_then(self):
        day = timezone.localdate() - datetime.timedelta(days=2)
        CardClass.objects.filter(pk=self.card_class.pk).update(date=day)
        self.rename("Old Brass")
        self.assertIn("Telescope Brass", self.page("fits:wall"))

    def test_a_tool_changed_or_gone_is_as_it_was_for_what_is_cut_with_it(self):
        self.cut()
        tool = Tool.objects.get(pk=self.tool.pk)
        tool.name, tool.sizes = "Sun dies", [[4064, 4064]]
        keep_tool(tool)
        self.seal_is_two_inches()
        take_tool_off(tool)
        self.seal_is_two_inches()

    def seal_is_two_inches(self):
        counted = count_class(CardClass.objects.get(pk=self.card_class.pk))
        self.assertEqual(counted.errors, 0)
        seal = next(each.piece for each in counted.counts if each.piece.name == "Seal")
        self.assertEqual((seal.shape.width, seal.tool), (8128, "Moon dies"))

    def test_a_paper_taken_off_the_shelf_stays_in_what_is_cut_of_it(self):
        self.cut()
        take_off(Paper.objects.get(pk=self.paper.pk))
        self.assertEqual(count_class(CardClass.objects.get(pk=self.card_class.pk)).errors, 0)
        # Another paper that has its name now is another.
        make_paper(self.user, "Telescope Brass")
        counted = count_class(CardClass.objects.get(pk=self.card_class.pk))
        self.assertEqual({each.piece.paper for each in counted.counts}, {self.paper.key})

    def test_set_states_of_a_class_that_is_not_cut_keeps_it_too(self):
        person = Participant.objects.create(card_class=self.card_class, name="Ines", state="paid")
        set_state(self.card_class, {person.pk: "paid"}, "handed")
        self.rename("Old Brass")
        self.assertIn("Telescope Brass", self.page("fits:wall"))
