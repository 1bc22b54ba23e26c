"""A list is counted when typing rests, or when whatever page looks next."""

from unittest import mock

from django.db import OperationalError
from django.urls import reverse

from tests.people import SignedInTests, make_class, make_paper
from zester.classes.follow import later
from zester.classes.models import CardClass
from zester.designs.models import Card
from zester.plans.models import PaperFit


class CountedTests(SignedInTests):
    def setUp(self):
        super().setUp()
        self.moss = make_paper(self.user, "Moss Path")
        self.card_class = make_class(self.user, "Mat 4 x 5¼ brass")

    def read(self, text: str):
        data = {"cut_list": text, "editor": "one", "saves": Card.objects.get().saves}
        url = reverse("classes:read", args=[self.card_class.pk, "A"])
        return self.client.post(url, data, headers={"HX-Request": "true"})

    def test_what_was_typed_is_counted_by_whatever_page_looks_next(self):
        pages = ("classes:list", "fits:wall", "classes:count", "bench:steps", "bags:pack")
        for size, page in enumerate((*pages, "fits:strip"), start=2):
            for letters in ("Mat 4", f"Mat 4 x {size} brass", f"Mat 4 x {size} brass\n+ 3 gems"):
                self.read(f"{letters}\nMat 1 x {size} moss path")
            self.assertIsNone(CardClass.objects.get().counted_at)
            args = [] if page == "classes:list" else [self.card_class.pk]
            answer = self.client.get(reverse(page, args=args))
            self.assertIn(answer.status_code, (200, 204), page)
            now = CardClass.objects.get()
            self.assertEqual((bool(now.counted_at), now.n_lines, now.touched), (True, 2, []), page)
            jobs = PaperFit.objects.values_list("job", flat=True)
            self.assertEqual([f'"{size}"' in job for job in jobs], [True, True], page)

    def test_only_papers_that_letters_are_about_are_noted_anew(self):
        strip = reverse("fits:strip", args=[self.card_class.pk])
        self.read("Mat 4 x 5 brass\nMat 1 x 2 moss path")
        self.client.get(strip)
        brass, moss = (PaperFit.objects.get(class_paper__paper=paper) for paper in (self.paper, self.moss))
        self.read("Mat 4 x 5 brass\nMat 1 x 3 moss path")
        self.read("Mat 4 x 5 brass\nMat 1 x 3½ moss path")
        self.assertEqual(CardClass.objects.get().touched, [self.moss.key])
        self.client.get(strip)
        self.assertEqual(PaperFit.objects.get(pk=brass.pk).changed_at, brass.changed_at)
        self.assertNotEqual(PaperFit.objects.get(pk=moss.pk).need, moss.need)
        # A paper that changed meanwhile concerns all.
        self.read("Mat 4 x 5 brass\nMat 1 x 4 moss path")
        later([self.card_class.pk])
        self.read("Mat 4 x 5 brass\nMat 1 x 5 moss path")
        self.assertEqual(CardClass.objects.get().touched, [])

    def test_a_full_disk_leaves_a_page_readable_whose_class_waits_for_its_count(self):
        self.read("Mat 4 x 5 brass\nMat 3 x 3 brass")
        full = mock.patch("zester.classes.services.count_awaited", side_effect=OperationalError)
        with full, self.assertLogs("zester"):
            page = self.client.get(reverse("classes:card", args=[self.card_class.pk, "A"]))
        self.assertContains(page, "Mat 3 x 3 brass")
        self.assertIsNone(CardClass.objects.get().counted_at)
