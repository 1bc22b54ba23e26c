"""Turns at the database: who writes waits for whoever writes, not much longer, and never for ever."""

import threading
import time
from unittest import mock, skipUnless

from django.db import OperationalError, connection, transaction
from django.test import TransactionTestCase

from zester.shelf.models import Paper
from zester.site.sqlite import base


@skipUnless(connection.vendor == "sqlite", "PostgreSQL has turns of its own")
class TurnTests(TransactionTestCase):
    def held_for(self, seconds: float, began: threading.Event) -> None:
        try:
            with transaction.atomic():
                Paper.objects.filter(pk=0).update(name="x")
                began.set()
                time.sleep(seconds)
        finally:
            connection.close()

    def other(self, seconds: float) -> threading.Thread:
        began = threading.Event()
        thread = threading.Thread(target=self.held_for, args=[seconds, began])
        thread.start()
        self.addCleanup(thread.join, 30)
        self.assertTrue(began.wait(10))
        return thread

    def test_one_after_the_other_and_all_of_them(self):
        found = []

        def write() -> None:
            try:
                for _ in range(5):
                    with transaction.atomic():
                        found.append("in")
                        time.sleep(0.002)
                        found.append("out")
            finally:
                connection.close()

        threads = [threading.Thread(target=write) for _ in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join(30)
        self.assertEqual(found, ["in", "out"] * 20)

    def test_after_an_error_the_next_has_its_turn(self):
        with self.assertRaises(ZeroDivisionError), transaction.atomic():
            _ = 1 / 0
        self.other(0).join(10)
        with transaction.atomic():
            self.assertIsNotNone(connection._turn)
        self.assertIsNone(connection._turn)

    def test_whoever_holds_it_for_ever_keeps_nobody_waiting_for_ever(self):
        connection.close()
        self.enterContext(mock.patch.dict(connection.settings_dict["OPTIONS"], timeout=0.1))
        self.enterContext(mock.patch.object(base, "LONGEST", 0.1))
        self.addCleanup(connection.close)
        self.other(1.5)
        with self.assertRaises(OperationalError), transaction.atomic():
            Paper.objects.filter(pk=0).update(name="y")
        self.assertIsNone(connection._turn)
