"""Those who write the same card at the same time, each in a thread with a connection of its own."""

import json
import tempfile
import threading
from collections.abc import Callable
from pathlib import Path

from django.contrib.auth import get_user_model
from django.core.files.base import ContentFile
from django.db import connection
from django.test import Client, TransactionTestCase, override_settings
from django.urls import reverse

from tests.people import AT_ONCE, make_class, make_paper
from zester.classes.models import CardClass, ClassCard
from zester.designs.models import Card
from zester.designs.services import MOST_PHOTOS, keep_edition, keep_photo, save_list
from zester.shelf.models import Paper
from zester.shelf.services import keep_paper

SAVES = 25


@override_settings(TASKS=AT_ONCE, IDLE_WORK=False)
class Races(TransactionTestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.enterContext(override_settings(MEDIA_ROOT=folder.name, DATA_DIR=Path(folder.name)))
        self.folder = Path(folder.name)
        self.user = get_user_model().objects.create_user("mira")
        self.paper = make_paper(self.user)
        self.card_class = make_class(self.user, "Base 4 x 5 brass")
        self.card, self.entry = Card.objects.get(), ClassCard.objects.get()

    def at_once(self, *jobs: Callable[[int], None], times: int = SAVES) -> None:
        """Every job so often, all of them side by side; whatever one raises fails the test."""
        wrong, start = [], threading.Barrier(len(jobs))

        def do(job: Callable[[int], None]) -> None:
            start.wait()
            try:
                for number in range(times):
                    job(number)
            except BaseException as error:
                wrong.append(error)
                raise
            finally:
                connection.close()

        threads = [threading.Thread(target=do, args=[job]) for job in jobs]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(wrong, [])

    def typing(self, number: int) -> None:
        """One letter more, as the desk saves it; every one is acknowledged."""
        saved = save_list(self.card, f"Base 4 x 5 brass\n# {number}", number, "me")
        self.assertFalse(saved.conflict)

    def client_of(self) -> Client:
        client = Client(raise_request_exception=True)
        client.force_login(self.user)
        return client

    def check_typed(self) -> None:
        card = Card.objects.get()
        self.assertEqual(card.cut_list, f"Base 4 x 5 brass\n# {SAVES - 1}")
        self.assertEqual(card.saves, SAVES)

    def test_a_photo_and_notes_sent_while_typing_touch_no_letter(self):
        client = self.client_of()
        url = reverse("designs:design", args=[self.card.pk])

        def photo(number: int) -> None:
            if number < MOST_PHOTOS:
                keep_photo(Card.objects.get(), ContentFile(b"photo %d" % number, "p.jpg"))

        def notes(number: int) -> None:
            data = {"name": "Card 1", "ruler": "in16", "notes": f"note {number}", "went_wrong": ""}
            self.assertEqual(client.post(url, data).status_code, 302)

        self.at_once(self.typing, photo, notes)
        self.check_typed()
        card = Card.objects.get()
        self.assertEqual(card.notes, f"note {SAVES - 1}")
        kept = [each.image.read() for each in card.photos.all()]
        self.assertEqual(kept, [b"photo %d" % number for number in range(MOST_PHOTOS)])

    def test_kept_lists_and_the_ruler_go_beside_typing(self):
        client = self.client_of()
        url = reverse("classes:edit_card", args=[self.card_class.pk, "A"])

        def ruler(number: int) -> None:
            client.post(url, {"name": f"Card {number}", "ruler": ("in16", "in32")[number % 2]})

        self.at_once(self.typing, ruler, lambda number: keep_edition(Card.objects.get(), f"kept {number}"))
        self.check_typed()
        self.assertEqual(Card.objects.get().editions.count(), SAVES)
        self.assertEqual(Card.objects.get().name, f"Card {SAVES - 1}")

    def test_settings_and_counts_of_a_class_go_beside_each_other(self):
        settings, counts = self.client_of(), self.client_of()
        base = {"auto_fit": "on", "ruler": "in16", "stack": "3", "keep_short": "1", "keep_long": "3", "narrowest": "0"}
        base |= {
            "minutes": 90,
            "where": "room",
            "give_aways": 0,
            "spare_by": "kit",
            "spare_number": 0,
            "spare_percent": 0,
        }

        def title(number: int) -> None:
            data = base | {"title": f"Evening {number}", "participants": "", "date": ""}
            data["participants"] = CardClass.objects.get().participants
            data["seen"] = json.dumps({"participants": str(data["participants"])})
            settings.post(reverse("classes:edit", args=[self.card_class.pk]), data)

        def count(number: int) -> None:
            prefix = f"card{self.entry.pk}"
            data = {
                "class-participants": number + 2,
                f"{prefix}-each": 1,
                f"{prefix}-samples": number,
                f"{prefix}-spares": 0,
            }
            counts.post(reverse("classes:count", args=[self.card_class.pk]), data)

        self.at_once(title, count, self.typing, times=SAVES)
        card_class = CardClass.objects.get()
        self.assertEqual(card_class.title, f"Evening {SAVES - 1}")
        self.assertEqual((card_class.participants, ClassCard.objects.get().samples), (SAVES + 1, SAVES - 1))
        self.check_typed()

    def test_a_paper_renamed_while_lists_are_counted_keeps_all_its_names(self):
        def rename(number: int) -> None:
            paper = Paper.objects.get()
            paper.name = f"Brass {'abcdefghijklmnopqrstuvwxyz'[number]}"
            keep_paper(paper)

        self.at_once(rename, self.typing)
        self.assertEqual(len(Paper.objects.get().former_names), SAVES)
        self.check_typed()
