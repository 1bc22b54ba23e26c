"""What a device installs, and what is sent compressed."""

import gzip
import json

from django.contrib.staticfiles import finders
from django.urls import reverse

from tests.people import SignedInTests, make_class


class InstalledTests(SignedInTests):
    def test_the_manifest_names_icons_that_are_there_in_their_sizes(self):
        self.client.logout()
        about = json.loads(self.client.get(reverse("manifest")).content)
        self.assertEqual(about["start_url"], "/")
        for icon in about["icons"]:
            path = finders.find(icon["src"].removeprefix("/static/"))
            with open(path, "rb") as file:
                head = file.read(24)
            # PNG (ISO/IEC 15948): width and height in four bytes each, from the seventeenth on.
            sizes = [int.from_bytes(head[at : at + 4], "big") for at in (16, 20)]
            self.assertEqual("{}x{}".format(*sizes), icon["sizes"])

    def test_the_worker_stands_at_the_root_and_is_asked_for_anew(self):
        answer = self.client.get("/worker.js")
        self.assertEqual(answer["Content-Type"], "text/javascript; charset=utf-8")
        self.assertIn("no-cache", answer["Cache-Control"])
        self.assertIn('const STATIC = "/static/"', answer.content.decode())
        self.assertIn("worker-src 'self'", answer["Content-Security-Policy"])


class CompressedTests(SignedInTests):
    def test_pages_and_parts_are_compressed_each_time_another_length_and_files_are_not(self):
        card_class = make_class(self.user, "card 4¼ x 5½ side fold\nBase brass")
        url = reverse("classes:desk", args=[card_class.pk])
        plain = self.client.get(url)
        self.assertNotIn("Content-Encoding", plain)
        pages = [self.client.get(url, headers={"Accept-Encoding": "gzip"}) for _ in range(12)]
        self.assertEqual({page["Content-Encoding"] for page in pages}, {"gzip"})
        self.assertIn("Card 1", gzip.decompress(pages[0].content).decode())
        self.assertLess(len(pages[0].content), len(plain.content) / 3)
        # What repeats in a page cannot be told from its length (BREACH).
        self.assertGreater(len({len(page.content) for page in pages}), 3)
        icon = self.client.get("/worker.js", headers={"Accept-Encoding": "gzip"})
        self.assertEqual(icon["Content-Encoding"], "gzip")
