"""Signing in, and that nobody sees or changes another's things."""

from django.db import connection
from django.test import override_settings
from django.test.utils import CaptureQueriesContext
from django.urls import URLResolver, get_resolver, reverse

from tests.people import SignedInTests, fitted, make_class, make_paper
from zester.archive.models import Intake
from zester.bags.board import board_of
from zester.bags.models import Mark, ReadyKit, SharedPage, Shortage
from zester.bags.shortages import report
from zester.bench.models import CutLog, Run, Tick
from zester.bench.runs import begin
from zester.casting.guides import keep_guide, use_guide
from zester.casting.models import ClassGuide, Guide
from zester.classes.models import (
    CardClass,
    Casting,
    ClassCard,
    ClassPaper,
    Offer,
    Participant,
    Payment,
    Substitution,
    Trimmer,
)
from zester.core.tests.share import each_of
from zester.designs.models import Card, Edition, Tool
from zester.plans.models import PaperFit, PaperPlan, Work
from zester.printing.models import Print
from zester.shelf.models import Bit, Entry, Pad, Paper, Sheet
from zester.shelf.stock import book


class SignInTests(SignedInTests):
    def test_the_demo_sign_in_is_told_only_in_the_demo(self):
        self.client.logout()
        self.assertNotContains(self.client.get(reverse("sign_in")), "stargazer")
        with override_settings(DEMO=True):
            self.assertContains(self.client.get(reverse("sign_in")), "stargazer")

    def test_every_page_asks_for_a_sign_in_first(self):
        self.client.logout()
        for name in ("classes:list", "classes:new", "shelf:shelf", "shelf:new", "designs:notation"):
            response = self.client.get(reverse(name))
            self.assertRedirects(response, f"{reverse('sign_in')}?next={reverse(name)}")

    def test_signing_in_and_out(self):
        self.client.logout()
        wrong = self.client.post(reverse("sign_in"), {"username": "mira", "password": "no"})
        self.assertContains(wrong, "do not belong together")
        self.assertContains(wrong, 'value="mira"')
        right = self.client.post(reverse("sign_in"), {"username": "mira", "password": "kite-tail-9"})
        self.assertRedirects(right, reverse("classes:list"))
        self.assertRedirects(self.client.post(reverse("sign_out")), reverse("sign_in"))


class OwnerTests(SignedInTests):
    """Every address there is, found by walking the resolver: a new one cannot be forgotten."""

    # Addresses that show or change nothing of anybody's, and those of Django's own admin.
    NOBODYS = {
        "home",
        "sign_in",
        "sign_out",
        "sign_in_state",
        "health",
        "removed",
        "help",
        "find",
        "worker",
        "manifest",
        "forgotten",
        "forgotten_sent",
        "password_reset_confirm",
        "account",
        "change_password",
        "end_sessions",
        "delete_account",
        "designs:own_word",
        "sign_up",
        "sign_up_invited",
        "house",
        "region",
        "as_guessed",
        "region_of_all",
        "invite",
        "take_back",
        "mail",
        "casting:guides",
        "casting:new",
        "casting:read",
        "casting:bring",
        "archive:archive",
        "archive:save",
        "archive:bring_in",
        "example:take",
        "example:throw_away",
        "shelf:lines",
        "shelf:read_table",
        "shelf:papers_csv",
        "shelf:stock_csv",
        "shelf:offcuts_csv",
        "shelf:ledger",
        "shelf:take_stock",
        "shelf:offcuts",
        "shelf:bits",
        "shelf:new_bit",
        "shelf:new_pad",
        "bench:log",
        "making:page",
        "making:look",
        "making:looking",
        "money:log",
        "money:log_file",
        "printing:files",
        # Open to whoever has the address, which is tested where it belongs.
        "bags:shared",
        "bags:ready",
        "bags:now",
        "fits:buying",
        "fits:buying_csv",
        "fits:ask_merchant",
        "fits:bought",
        "fits:together",
        "fits:joint_part",
        "classes:list",
        "classes:new",
        "classes:trimmers",
        "classes:new_trimmer",
        "shelf:shelf",
        "shelf:new",
        "designs:library",
        "designs:new_design",
        "designs:tools",
        "designs:new_tool",
        "designs:notation",
    }

    def setUp(self):
        super().setUp()
        self.card_class = make_class(self.user, "card 4¼ x 5½ side fold\nBase brass\nMat 4 x 5 brass")
        self.fit = fitted(self.card_class)
        self.card = Card.objects.get()
        self.tool = Tool.objects.create(owner=self.user, name="Circles", sizes=[[1016, 1016]])
        self.edition = Edition.objects.create(card=self.card, name="first", cut_list="Mat 4 x 5 brass")
        self.entry = ClassCard.objects.get()
        offer = Offer.objects.create(card_class=self.card_class, name="full kit")
        person = Participant.objects.create(card_class=self.card_class, name="Ines")
        other = make_paper(self.user, "Chalk Moon")
        row = Substitution.objects.create(card_class=self.card_class, paper=self.paper, other=other)
        self.trimmer = Trimmer.objects.create(owner=self.user)
        self.sheet = Sheet.objects.create(paper=self.paper, width=9000, height=9000)
        self.bit = Bit.objects.create(owner=self.user, name="gems")
        self.casting = Casting.objects.create(card_class=self.card_class, name="First")
        self.guide = Guide(owner=self.user, name="Six sheets", width=48768, height=48768, lines="A: 6 x 6 card 1")
        keep_guide(self.guide)
        use_guide(self.card_class, self.guide)
        self.pad = Pad.objects.create(owner=self.user, name="Harbour pad", holds={self.paper.key: 2})
        self.printed = Print.objects.create(owner=self.user, key="x", name="x.pdf", title="x", state=Print.State.DONE)
        self.printed.folder.mkdir(parents=True, exist_ok=True)
        self.printed.file.write_bytes(b"%PDF-")
        self.intake = Intake.objects.create(owner=self.user, stage=Intake.Stage.ASKS)
        self.booked = book(self.paper, self.sheet, "bought", 5)
        self.keys = {"offer": offer.pk, "person": person.pk, "row": row.pk, "size": self.sheet.pk, "number": 1}
        self.keys["payment"] = Payment.objects.create(participant=person, amount=5).pk
        self.ready = ReadyKit.objects.create(owner=self.user, card_class=self.card_class, name="full kit")
        begin(self.fit)
        board = board_of(self.card_class)
        kit = board.kits[0]
        self.shortage = report(self.card_class, kit.kit.items[0].key, 1)
        Mark.objects.create(card_class=self.card_class, what=kit.kit.key, holds="x")
        self.keys |= {"stack": board.stacks[0].key, "kit": kit.kit.key, "bag": kit.bags[0].bag.key}

    def addresses(self) -> dict[str, str]:
        """Every named address with the keys of the user's things in it, by its name."""
        found = {}
        for name, parts in _walk(get_resolver().url_patterns):
            if name.startswith("admin:") or name in self.NOBODYS:
                continue
            found[name] = reverse(name, kwargs={part: self.key(name, part) for part in parts})
        return found

    def key(self, name: str, part: str):
        """What stands in an address in place of its part of that name."""
        app, view = name.split(":")
        by_name = {
            ("casting:" + view, "row"): self.casting.pk,
            ("bags:shortage", "row"): self.shortage.pk,
            ("bags:labels_pdf", "what"): "bags",
            ("bags:take_ready", "row"): self.ready.pk,
            ("bags:let_go", "pk"): self.ready.pk,
            ("bags:hand_out", "pk"): self.ready.pk,
        }
        by_name |= {
            (f"casting:{each}", "pk"): self.guide.pk for each in ("guide", "save", "print", "remove", "restore")
        }
        if (name, part) in by_name or part in self.keys:
            return by_name.get((name, part), self.keys.get(part))
        keys = {"letter": "A", "key": self.paper.key, "what": "plan", "ending": "txt", "view": "front"}
        if part != "pk":
            return keys[part]
        if view == "put_back":
            return self.entry.pk
        if view == "bring_back":
            return self.edition.pk
        own = {"practice": self.trimmer, "pace": self.trimmer}
        own |= {"trimmer": self.trimmer, "tool": self.tool, "_bit": self.bit, "pad": self.pad}
        own |= {"offcut_gone": self.sheet, "correct": self.booked}
        for word, thing in own.items():
            if word in view:
                return thing.pk
        by_app = {"shelf": self.paper, "designs": self.card, "making": self.card, "printing": self.printed}
        by_app["archive"] = self.intake
        return by_app.get(app, self.card if name == "classes:use" else self.card_class).pk

    def state(self) -> list:
        """All that a stranger could have changed."""
        models = (CardClass, ClassCard, ClassPaper, Card, Edition, Tool, Paper, PaperFit, PaperPlan, Work)
        models += (Run, Tick, CutLog, Intake)
        models += (Mark, ReadyKit, Shortage, SharedPage, Guide, ClassGuide, Casting)
        models += (Offer, Participant, Payment, Substitution, Trimmer, Sheet, Bit, Pad, Entry)
        return [list(model.objects.order_by("pk").values()) for model in models]

    def test_all_kinds_of_addresses_are_walked(self):
        found = self.addresses()
        self.assertGreater(len(found), 55)
        self.assertEqual(
            {name.split(":")[0] for name in found},
            {
                "classes",
                "designs",
                "fits",
                "casting",
                "bench",
                "bags",
                "money",
                "making",
                "shelf",
                "printing",
                "archive",
            },
        )

    def test_the_owner_finds_what_is_at_each_address(self):
        # Otherwise the walk below would prove nothing.
        gone = {
            "classes:restore_trimmer",
            "shelf:restore_bit",
            "shelf:restore_pad",
            "classes:restore",
            "designs:restore",
            "designs:restore_tool",
            "shelf:restore",
            "designs:photo",
            "designs:restore_photo",
            "designs:restore_word",
            "casting:restore",
        }
        for name, address in each_of(self.addresses().items()):
            if name not in gone:
                self.assertNotEqual(self.client.get(address).status_code, 404, name)

    def test_a_stranger_finds_and_changes_nothing_at_any_address(self):
        before = self.state()
        self.client.force_login(self.stranger)
        mine = make_class(self.stranger)
        before = self.state()
        for name, address in each_of(self.addresses().items()):
            for answer in (self.client.get(address), self.client.post(address, {"cut_list": "x", "class": mine.pk})):
                self.assertIn(answer.status_code, (404, 405), name)
                self.assertNotContains(answer, "Telescope Brass", status_code=answer.status_code)
        self.assertEqual(self.state(), before)
        for name in ("classes:list", "shelf:shelf", "designs:library", "designs:tools"):
            page = self.client.get(reverse(name))
            for thing in ("Telescope Brass", "Card 1", "Circles"):
                self.assertNotContains(page, thing)

    def test_nobody_finds_anything_without_signing_in(self):
        self.client.logout()
        for name, address in each_of(self.addresses().items()):
            answer = self.client.get(address)
            self.assertEqual(answer.status_code, 302, name)
            self.assertTrue(answer["Location"].startswith(reverse("sign_in")), name)
            self.assertContains(self.client.post(address), "id_password", status_code=401)
            for script in ({"HX-Request": "true"}, {"X-Requested-With": "fetch"}):
                self.assertEqual(self.client.post(address, headers=script).content, b"Sign in first.", name)

    def test_nothing_is_written_when_a_page_is_only_read(self):
        before = self.state()
        for address in each_of(self.addresses().values()):
            with CaptureQueriesContext(connection) as seen:
                self.client.get(address)
            written = [query["sql"] for query in seen if query["sql"].split()[0] in ("INSERT", "UPDATE", "DELETE")]
            # A file to print is made of what is read, and kept for the next time.
            ours = ("accounts_session", "printing_print")
            self.assertEqual([sql for sql in written if not any(table in sql for table in ours)], [], address)
        self.assertEqual(self.state(), before)

    def test_a_stranger_may_use_the_same_name_for_a_paper_of_their_own(self):
        self.client.force_login(self.stranger)
        data = {
            "name": "Telescope Brass",
            "kind": "card",
            "sheet": "a4",
            "direction": "free",
            "pack": "1",
            "supply": "buy",
            "colour": "#112233",
            "repeat": "dots",
        }
        self.assertRedirects(self.client.post(reverse("shelf:new"), data), reverse("shelf:shelf"))

    def test_forms_are_protected_against_forgery(self):
        strict = self.client_class(enforce_csrf_checks=True)
        strict.force_login(self.user)
        self.assertEqual(strict.post(reverse("shelf:new"), {"name": "x"}).status_code, 403)


def _walk(patterns, space: str = ""):
    """The names of all addresses below these patterns, with the parts that stand in them."""
    for entry in patterns:
        if isinstance(entry, URLResolver):
            inner = f"{space}{entry.namespace}:" if entry.namespace else space
            yield from _walk(entry.url_patterns, inner)
        elif entry.name:
            yield f"{space}{entry.name}", list(entry.pattern.regex.groupindex)
