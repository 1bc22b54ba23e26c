"""Proofs of plans: kept when the plan is polished, offered as a file that can be checked."""

from django.urls import reverse

from zester.core.fitting.proofs.proof import PRICES, check_proof, read_proofs
from zester.plans.kept import read_made
from zester.plans.models import PaperPlan, Work
from zester.plans.tests.cases import PlanTests


class ProofTests(PlanTests):
    def file(self):
        return self.client.get(reverse("fits:proof", args=[self.card_class.pk, self.paper.key]))

    def test_the_file_proves_the_plan_that_is_shown(self):
        self.fit_now()
        answer = self.file()
        self.assertIn("attachment", answer["Content-Disposition"])
        (proof,) = read_proofs(answer.content)
        made = read_made(self.fit.shown)
        self.assertEqual((proof.cost, proof.rests_on), (made.plan.cost, PRICES))
        check_proof(made.paper, made.plan, proof)
        # Reading writes nothing.
        self.assertEqual(PaperPlan.objects.exclude(proof={}).count(), 0)
        self.assertContains(self.page(), "The proof as a file")

    def test_it_is_kept_when_the_plan_is_polished_and_then_said_to_be_checked(self):
        with self.settings(IDLE_WORK=True):
            self.fit_now()
            self.assertNotContains(self.page(), "nothing to do with the search")
            self.work_off(Work.Kind.POLISH)
        self.assertEqual(PaperPlan.objects.filter(need=self.fit.need, proof={}).count(), 0)
        self.assertContains(self.page(), "nothing to do with the search")
        (proof,) = read_proofs(self.file().content)
        made = read_made(self.fit.shown)
        check_proof(made.paper, made.plan, proof)

    def test_a_proof_of_another_plan_that_does_not_hold_is_not_taken_over(self):
        first = self.fit_now().shown
        PaperPlan.objects.filter(pk=first.pk).update(
            proof={"id": "x", "cost": "4.00", "rests_on": "search", "prices": []}
        )
        again = PaperPlan.objects.get(pk=first.pk)
        again.pk, again.proof = None, {}
        again.save()
        self.fit.class_paper.plans.filter(pk=again.pk).update(proof={})
        fit = self.fit
        fit.shown = again
        fit.save()
        # One that does not hold for it is not taken over.
        self.assertContains(self.file(), '"rests_on": "prices"')

    def test_plans_without_a_proof_offer_none(self):
        self.fit_now()
        PaperPlan.objects.update(proven=False)
        self.assertEqual(self.file().status_code, 404)

    def test_nobody_else_gets_it(self):
        self.fit_now()
        self.client.force_login(self.stranger)
        self.assertEqual(self.file().status_code, 404)
