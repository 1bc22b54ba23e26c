"""Files to print: made by workers, once, in turns, kept and tidied; nobody sees another's."""

from __future__ import annotations

import datetime
from contextlib import ExitStack
from pathlib import Path
from unittest import mock

from django.conf import settings
from django.contrib.auth import get_user_model
from django.test import TestCase, override_settings
from django.urls import reverse
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from tests.people import IN_THE_DATABASE, SignedInTests, make_class
from zester.core.errors import ZesterError
from zester.printing.models import Print
from zester.printing.prints import KEPT, MOST_WAITING, asked, print_task, tidy
from zester.site.turns import nobody_else

State = Print.State


class WaitingTests(SignedInTests):
    """What somebody sees who asks for a file."""

    def setUp(self):
        super().setUp()
        self.enterContext(override_settings(TASKS=IN_THE_DATABASE))
        self.card_class = make_class(self.user, "Mat 4 x 5¼ brass")
        self.address = reverse("bags:list_pdf", args=[self.card_class.pk])

    def work(self) -> None:
        """A worker does what waits."""
        for task in DBTaskResult.objects.ready():
            print_task.func(*task.args_kwargs["args"])
            task.delete()

    def test_the_page_waits_goes_on_to_the_file_and_the_next_time_it_is_there_at_once(self):
        answer = self.client.get(self.address)
        made = Print.objects.get()
        waiting = reverse("printing:waiting", args=[made.pk])
        self.assertRedirects(answer, waiting, fetch_redirect_response=False)
        page = self.client.get(waiting)
        self.assertContains(page, "The file is next.")
        self.assertContains(page, "Evening: packing list")
        self.assertEqual(self.client.get(reverse("printing:file", args=[made.pk])).status_code, 404)
        # Asked for twice it is made once.
        self.client.get(self.address)
        self.assertEqual((Print.objects.count(), DBTaskResult.objects.count()), (1, 1))
        self.work()
        look = self.client.get(waiting, headers={"HX-Request": "true"})
        self.assertEqual(look["HX-Redirect"], reverse("printing:file", args=[made.pk]))
        # No part of a page is what the back button comes to.
        self.assertEqual(look["Cache-Control"], "no-store")
        self.assertNotIn("no-store", page["Cache-Control"])
        file = self.client.get(waiting, follow=True)
        self.assertEqual((file["Content-Type"], file.content[:5]), ("application/pdf", b"%PDF-"))
        self.assertEqual(file["Content-Disposition"], 'inline; filename="evening-list.pdf"')
        again = self.client.get(self.address)
        self.assertEqual((again.status_code, again.content), (200, file.content))
        self.assertContains(self.client.get(reverse("printing:files")), "Evening: packing list")

    def test_what_is_made_of_something_else_is_another_file(self):
        self.client.get(self.address)
        self.client.get(self.address, {"page": "a4"})
        self.card_class.title = "Morning"
        self.card_class.save()
        self.client.get(self.address)
        self.assertEqual(Print.objects.count(), 3)

    def test_what_cannot_be_made_says_so_and_is_tried_once_more(self):
        self.client.get(self.address)
        waiting = reverse("printing:waiting", args=[Print.objects.get().pk])
        with mock.patch("zester.printing.prints.pdf_of", side_effect=ValueError("odd")), self.assertLogs("zester"):
            self.work()
        # Nothing half made is left; the same may have been made for another test.
        made = Print.objects.get()
        self.assertLessEqual({path.suffix for path in made.folder.glob(f"{made.key}*")}, {".pdf"})
        page = self.client.get(waiting)
        self.assertContains(page, "The file could not be made.")
        self.assertNotContains(page, "hx-get")
        # What is too large says what would help.
        self.client.get(self.address)
        with mock.patch("zester.printing.prints.pdf_of", side_effect=MemoryError), self.assertLogs("zester"):
            self.work()
        self.assertContains(self.client.get(waiting), "ask for a part of it")
        self.client.get(self.address)
        self.work()
        self.assertTrue(Print.objects.get().ready)

    def test_without_pango_it_says_what_to_install(self):
        self.client.get(self.address)
        with (
            mock.patch("zester.printing.prints.pdf_of", side_effect=OSError("cannot load pango")),
            self.assertLogs("zester"),
        ):
            self.work()
        self.assertIn("Install Debian’s packages", Print.objects.get().problem)

    def test_nobody_sees_anothers_file(self):
        self.client.get(self.address)
        self.work()
        made = Print.objects.get()
        self.client.force_login(self.stranger)
        for name in ("waiting", "file"):
            self.assertEqual(self.client.get(reverse(f"printing:{name}", args=[made.pk])).status_code, 404)
        self.assertNotContains(self.client.get(reverse("printing:files")), "Evening")

    def test_very_many_at_once_are_too_many(self):
        for number in range(MOST_WAITING):
            asked(self.user, f"page {number}", "x.pdf", "x")
        with self.assertRaises(ZesterError):
            asked(self.user, "one more", "x.pdf", "x")
        page = self.client.get(self.address, follow=True)
        self.assertContains(page, f"{MOST_WAITING} files are being made for you")
        # The same as before is no more.
        self.assertEqual(asked(self.user, "page 3", "x.pdf", "x").state, State.WAITING)


@override_settings(TASKS=IN_THE_DATABASE)
@mock.patch("zester.printing.prints.pdf_of", lambda page: b"%PDF-" + page.encode())
class TurnTests(TestCase):
    """Who is served when, and by whom."""

    def setUp(self):
        users = get_user_model().objects
        self.ines, self.odo = (users.create_user(name, password="kite-tail-77") for name in ("ines", "odo"))

    def ask(self, user, text: str) -> Print:
        return asked(user, text, f"{text}.pdf", text)

    def made(self) -> list[str]:
        """What is there, in the order in which it was made."""
        return [each.title for each in Print.objects.filter(state=State.DONE).order_by("turn")]

    def test_turns_go_round_between_people(self):
        for number in range(3):
            self.ask(self.ines, f"ines {number}")
        self.ask(self.odo, "odo")
        for _ in range(4):
            print_task.func(0)
        self.assertEqual(self.made(), ["ines 0", "odo", "ines 1", "ines 2"])
        print_task.func(0)
        self.assertEqual(len(self.made()), 4)

    def test_what_a_dead_worker_has_left_is_made_and_what_a_living_one_makes_is_not(self):
        left, other = self.ask(self.ines, "left"), self.ask(self.ines, "other")
        Print.objects.update(state=State.MAKING)
        with ExitStack() as alive:
            self.assertTrue(nobody_else(other.lock, alive))
            print_task.func(left.pk)
            print_task.func(left.pk)
            self.assertEqual(self.made(), ["left"])
        print_task.func(left.pk)
        self.assertEqual(self.made(), ["left", "other"])
        self.assertEqual({path.suffix for path in left.folder.iterdir()}, {".pdf"})

    def test_a_file_that_is_gone_is_made_anew(self):
        made = self.ask(self.ines, "page")
        print_task.func(made.pk)
        made.file.unlink()
        self.assertEqual(self.ask(self.ines, "page").state, State.WAITING)
        print_task.func(made.pk)
        self.assertTrue(Print.objects.get().ready)

    def test_what_nobody_uses_is_forgotten_with_its_files(self):
        old, new = self.ask(self.ines, "old"), self.ask(self.ines, "new")
        gone = self.ask(self.odo, "gone")
        for _ in range(3):
            print_task.func(0)
        Print.objects.filter(pk=old.pk).update(used_at=timezone.now() - KEPT - datetime.timedelta(hours=1))
        self.odo.delete()
        # At once, not when it is tidied: a file may hold everything of somebody.
        self.assertFalse(gone.file.exists())
        self.assertEqual(tidy(), 1)
        self.assertEqual([each.file.exists() for each in (old, new, gone)], [False, True, False])
        self.assertFalse(gone.folder.exists())
        self.assertEqual([path.name for path in Path(settings.MEDIA_ROOT, "prints").iterdir()], [str(self.ines.pk)])
