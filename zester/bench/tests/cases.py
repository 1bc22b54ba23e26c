"""A paper that is cut in tests."""

from __future__ import annotations

import json
import uuid
from datetime import timedelta

from django.urls import reverse
from django.utils import timezone

from tests.people import SignedInTests, fitted, make_class
from zester.bench.runs import cutting_of
from zester.classes.models import Trimmer
from zester.core.cutting.steps import PIECE
from zester.plans.models import PaperFit

CARD = """card 4¼ x 5½ side fold
Base brass
Mat 4 x 5 brass, embossed before class by Finn
Tag 2 x 3 brass, stamped before class, dry first"""


class CuttingTests(SignedInTests):
    """A class of six with one card of one paper, fitted; how somebody ticks and says what was spoiled."""

    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.card_class = make_class(cls.user, CARD, participants=6)
        cls.card_class.trimmer = Trimmer.objects.create(owner=cls.user)
        cls.card_class.save()
        cls.fit = fitted(cls.card_class)
        cls.started = timezone.now() - timedelta(hours=1)

    def address(self, name: str, **data) -> str:
        return reverse(f"bench:{name}", args=[self.card_class.pk, self.paper.key], query=data or None)

    def mark(self, state: str, **data):
        return self.client.post(self.address("mark"), {"state": state, **data}, follow=True)

    def now(self):
        self.fit = PaperFit.objects.select_related("class_paper__card_class__trimmer", "shown").get(pk=self.fit.pk)
        return cutting_of(self.fit)

    def entry(self, done: int, at: int = 0, run: int = 1, **more) -> dict:
        """A tick as the browser sends it, so many seconds after the beginning."""
        sent = (self.started + timedelta(seconds=at)).timestamp() * 1000
        return {"key": str(uuid.uuid4()), "run": run, "done": done, "at": sent, "seconds": 20.0, "device": "x"} | more

    def tick(self, *entries: dict):
        return self.client.post(self.address("ticks"), json.dumps(entries), content_type="application/json")

    def spoil(self, what: str, count: int, **more):
        cutting = self.now()
        data = {"what": what, "count": count, "run": cutting.run.number, "done": cutting.stand.done} | more
        return self.client.post(self.address("mishap"), data, follow=True)

    def spoiled_piece(self) -> str:
        piece = self.now().table.of(PIECE)[0]
        return f"{PIECE}|{piece.label}|{piece.width}|{piece.height}"
