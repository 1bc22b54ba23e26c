"""A small class with orders, to pack."""

from __future__ import annotations

import json
import uuid

from django.urls import reverse

from tests.people import SignedInTests, fitted, make_class, make_paper
from zester.bags.board import Board, board_of
from zester.classes.models import CardClass, ClassCard, Offer, Participant
from zester.classes.people import add_people, keep_offer, sayable_of
from zester.classes.services import recount
from zester.core.kits.order_lines import read_people

MOON = """card 4¼ x 5½ side fold
Base brass
Mat 4 x 5¼ brass
Panel 3¾ x 5 star chart
Sentiment 3 x ¾ brass bottom ¼ stamped in class
+ 2 gems
+ envelope"""
COMET = "card 4¼ x 5½ top fold\nBase star chart\nMat 4 x 5¼ brass\n+ 8 in thread"


class PackingTests(SignedInTests):
    """Ines has one full kit, Odo two, Tove the card stock; Pell only comes."""

    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        make_paper(cls.user, "Star Chart", "12x12", kind="patterned")
        cls.card_class = make_class(cls.user, MOON, COMET, participants=0)
        ClassCard.objects.filter(letter="A").update(each=2, samples=1)
        none = {"card": "none", "patterned": "none"}
        for name, more in (
            ("full kit", {"extras": "1 bottle of paint"}),
            ("card stock", {"pools": {"card": "together", "patterned": "none"}}),
            ("class only", {"pools": none, "bits": False, "kit_list": False}),
        ):
            keep_offer(Offer(card_class=cls.card_class, name=name, **more))
        people = (
            "Ines Falk: full kit, paid\nOdo Brackwater: full kit 2\nTove Lind: card stock, paid\nPell Aster: class only"
        )
        add_people(cls.card_class, [row.person for row in read_people(people, sayable_of(cls.card_class))])
        recount(cls.card_class.pk)

    def board(self) -> Board:
        return board_of(CardClass.objects.get(pk=self.card_class.pk))

    def person(self, name: str) -> Participant:
        return Participant.objects.get(name__startswith=name)

    def kit(self, name: str, number: int = 1) -> str:
        """The key of a person's kit."""
        kits = [each.kit for each in self.board().kits if each.kit.person == str(self.person(name).pk)]
        return kits[number - 1].key

    def address(self, view: str, *args, **query) -> str:
        return reverse(f"bags:{view}", args=[self.card_class.pk, *args], query=query or None)

    def entry(self, kind: str, what: str, on: bool = True, key: str = "") -> dict:
        return {"key": key or str(uuid.uuid4()), "kind": kind, "what": what, "on": on, "device": "x"}

    def tick(self, *entries: dict, **query):
        return self.client.post(self.address("ticks", **query), json.dumps(entries), content_type="application/json")

    def pack_kit(self, key: str) -> None:
        """All bags of a kit, then the kit."""
        shown = self.board().kits_by_key[key]
        self.tick(*(self.entry("thing", bag.bag.key) for bag in shown.bags), self.entry("thing", key))

    def fit(self):
        return fitted(self.card_class)
