"""A class of eight with one paper, for tests of its plans."""

from django.urls import reverse

from tests.people import SignedInTests, fitted, make_class, work_off
from zester.classes.models import CardClass
from zester.classes.services import recount
from zester.plans.kept import read_made
from zester.plans.models import PaperFit, Work

LIST = "Mat 4 x 5¼ brass\n4 Tag 2⅛ x 2¾ brass"


class PlanTests(SignedInTests):
    """Eight people, a mat and four tags each: four letter sheets."""

    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.card_class = make_class(cls.user, LIST, participants=8)

    @property
    def fit(self) -> PaperFit:
        """What is needed of the paper, as it is stored now."""
        return PaperFit.objects.get(class_paper__paper=self.paper)

    @property
    def plan(self):
        """The plan that is shown."""
        return read_made(self.fit.shown).plan

    def change(self, **changes) -> None:
        """Settings of the class changed, as its form does."""
        CardClass.objects.filter(pk=self.card_class.pk).update(**changes)
        recount(self.card_class.pk)

    def fit_now(self) -> PaperFit:
        """The class fitted, as a worker would."""
        return fitted(self.card_class)

    def work_off(self, *kinds: str) -> None:
        """What waits done."""
        work_off(self.card_class, kinds or (Work.Kind.QUICK, Work.Kind.PROVE))

    def waiting(self) -> list[str]:
        """The kinds of work that wait."""
        return sorted(Work.objects.filter(status=Work.Status.WAITING).values_list("kind", flat=True))

    def wall(self):
        """The page with all layouts."""
        return self.client.get(reverse("fits:wall", args=[self.card_class.pk]))

    def page(self):
        """The page of the paper."""
        return self.client.get(reverse("fits:paper", args=[self.card_class.pk, self.paper.key]))

    def post(self, view: str, **data):
        """What the page says after posting to an address of the paper."""
        return self.client.post(reverse(f"fits:{view}", args=[self.card_class.pk, self.paper.key]), data, follow=True)

    def post_class(self, view: str, **data):
        """The same for an address of the class."""
        return self.client.post(reverse(f"fits:{view}", args=[self.card_class.pk]), data, follow=True)

    def strip(self) -> str:
        """The strip of papers."""
        return self.client.get(reverse("fits:strip", args=[self.card_class.pk])).content.decode()
