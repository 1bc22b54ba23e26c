"""Everything in one file and back: compared object by object; a file that does not hold together makes nothing."""

import datetime
import io
import json
import random
import tempfile
import zipfile
from decimal import Decimal
from pathlib import Path
from unittest import mock

from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.files.base import ContentFile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.db.models import JSONField
from django.test import override_settings
from django.urls import reverse
from django.utils import timezone
from django_tasks_db.models import DBTaskResult
from PIL import Image

from tests.people import IN_THE_DATABASE, SignedInTests, fitted, make_class, make_paper
from zester.archive import intakes, reading, unpacking
from zester.archive.kit_keys import renamed
from zester.archive.models import Intake
from zester.archive.packing import pack
from zester.archive.rows import KINDS
from zester.archive.shapes import SHAPES
from zester.archive.unpacking import TwiceError, unpack
from zester.bags.board import board_of
from zester.bags.models import Mark, ReadyKit
from zester.bags.shortages import report
from zester.bench.evening import log_job
from zester.bench.models import Tick
from zester.bench.runs import begin, finish
from zester.casting.guides import keep_guide
from zester.casting.models import ClassGuide, Guide
from zester.classes.models import CardClass, Casting, Offer, Participant, Substitution, Trimmer
from zester.classes.people import add_people, keep_offer, take_instead
from zester.classes.services import recount
from zester.core.errors import ZesterError
from zester.core.kits.order_lines import OrderLine
from zester.core.kits.order_money import PaidPart
from zester.core.money.record import write_record
from zester.core.stock.offcut_lines import OffcutLine
from zester.core.tests.share import each_of, some
from zester.demo.past import simulated
from zester.designs.models import Card, ColumnMap, Edition, Photo, Tool
from zester.designs.services import keep_photo, keep_word
from zester.money.models import ClassRecord
from zester.plans.models import PaperFit
from zester.printing.models import Print
from zester.shelf.models import Bit, Entry, Pad, Paper, Sheet
from zester.shelf.stock import balance, book, correct, count_bit, put_offcuts

LIST = "card 4¼ x 5½ side fold\nBase brass\nMat 4 x 5 brass # keep"


def photo() -> ContentFile:
    out = io.BytesIO()
    Image.new("RGB", (40, 30), "#336699").save(out, "JPEG")
    return ContentFile(out.getvalue(), "photo.jpg")


def rows(user) -> dict[str, list[dict]]:
    """Every object of a person's, field by field, references as places in the list of their kind."""
    places = {kind.name: {thing.pk: k for k, thing in enumerate(kind.of(user))} for kind in KINDS}
    return {
        kind.name: [
            {field.name: field.value_from_object(thing) for field in kind.fields}
            | {name: places[other].get(getattr(thing, f"{name}_id")) for name, other in kind.refers_to.items()}
            | {name: renamed(getattr(thing, name), places["people"], places["offers"]) for name in kind.keyed}
            for thing in kind.of(user)
        ]
        for kind in KINDS
    }


class Archives(SignedInTests):
    def setUp(self):
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.enterContext(override_settings(MEDIA_ROOT=folder.name))
        make_paper(self.user, "Ember Weave", "12x12", direction="upright", price="1.10", former_names=["Rust Weave"])
        make_paper(self.user, "Gone").remove()
        self.card_class = make_class(self.user, LIST, "Base 8½ x 5½ brass score 4¼\n+ 6 foam squares")
        self.fill_shelf_and_class()
        self.fit = fitted(self.card_class)
        card = Card.objects.first()
        keep_photo(card, photo(), "the moon")
        log_job(self.card_class, "score at 4¼ in across the width", "", 300)
        keep_word(self.user, "tb", "telescope brass")
        ColumnMap.objects.create(owner=self.user, heads="name\nsize", kinds="name,size")
        Edition.objects.create(card=card, name="first", cut_list="Mat 4 x 5 brass")
        Tool.objects.create(owner=self.user, name="Circles", sizes=[[1016, 1016]])
        self.other = get_user_model().objects.create_user("second", password="harbour-wind-3")

    def fill_shelf_and_class(self) -> None:
        """Sizes, offcuts, a ledger with a correction; people who order; one paper in place of another."""
        large = Sheet.objects.create(paper=self.paper, width=97536, height=97536, sheet="12x12")
        book(self.paper, large, "bought", 5)
        correct(book(self.paper, None, "bought", 30))
        put_offcuts(self.user, [OffcutLine(paper=self.paper.key, width=30000, height=40000, count=2)])
        bit = Bit.objects.create(owner=self.user, name="gems", pack=100)
        correct(count_bit(bit, 40))
        pad = Pad.objects.create(owner=self.user, name="Harbour pad", holds={self.paper.key: 2})
        guide = Guide(owner=self.user, name="One sheet", width=48768, height=48768, lines="A: 6 x 6 card 1")
        keep_guide(guide)
        marks = {"together": [[self.paper.key, "p1"]], "never": []}
        about = {"guide": guide, "name": guide.name, "made": guide.made, "pad": pad, "marks": marks}
        ClassGuide.objects.create(card_class=self.card_class, **about)
        cast = {"letters": {"A": self.paper.key}, "over": ["A"], "instead": {"A2": ""}, "locked": ["A"]}
        Casting.objects.create(card_class=self.card_class, name="Blue set", cast=cast, last=2)
        CardClass.objects.update(trimmer=Trimmer.objects.create(owner=self.user, stack=4))
        self.card_class.refresh_from_db()
        keep_offer(Offer(card_class=self.card_class, name="full kit", price="30.00"))
        paid = {"payments": (PaidPart(Decimal("12.50")),), "amount": Decimal("30"), "goods": "ink"}
        add_people(self.card_class, [OrderLine(name="Ines", chosen=(self.paper.key,), **paid), OrderLine(name="Odo")])
        ReadyKit.objects.create(
            owner=self.user,
            card_class=self.card_class,
            title="Evening",
            name="full kit",
            marks={"-A": "0123"},
            lines=["2 A1 Base"],
        )
        kept = write_record(simulated(random.Random(1)))
        ClassRecord.objects.create(owner=self.user, card_class=self.card_class, title="Evening", kept=kept)
        other = Paper.objects.get(name="Ember Weave")
        row = Substitution(card_class=self.card_class, paper=self.paper, other=other, who="some")
        take_instead(row, Participant.objects.filter(name="Odo"))

    def packed(self, change=None) -> io.BytesIO:
        """The user's archive; ``change`` is done to its JSON."""
        out = io.BytesIO()
        pack(self.user, out)
        if change:
            with zipfile.ZipFile(out) as archive:
                content = json.loads(archive.read("zester.json"))
            change(content)
            out = io.BytesIO()
            with zipfile.ZipFile(out, "w") as archive:
                archive.writestr("zester.json", json.dumps(content))
        out.seek(0)
        return out


class ArchiveTests(Archives):
    def test_one_from_before_the_ledger_gets_its_first_entries_and_is_counted_anew(self):
        book(self.paper, None, "bought", 7)

        def older(content: dict) -> None:
            for name in ("sheets", "bits", "pads", "ledger_of_papers", "ledger_of_bits", "trimmers"):
                content.pop(name)
            for name in ("offers", "people", "orders", "payments", "substitutions", "plans", "needs"):
                content.pop(name)
            for row in content["classes"]:
                row.pop("trimmer"), row.pop("n_people"), row.pop("bits")

        unpack(self.other, self.packed(older))
        theirs = Paper.objects.get(owner=self.other, key=self.paper.key)
        self.assertEqual((theirs.on_hand, balance(theirs, None)), (7, 7))
        self.assertEqual(Entry.objects.filter(owner=self.other).count(), 1)
        self.assertIsNone(CardClass.objects.get(owner=self.other).counted_at)

    def test_what_is_on_the_shelf_already_keeps_its_own_ledger(self):
        unpack(self.other, self.packed())
        before = Entry.objects.filter(owner=self.other).count()
        unpack(self.other, self.packed(), again=True)
        self.assertEqual(Entry.objects.filter(owner=self.other).count(), before)

    def test_odd_values_in_what_is_kept_as_json_are_refused_or_harm_no_page(self):
        """29 of 120 of them once made an account answer with errors for good."""
        self.cut()
        Offer.objects.update(cards={"A": 1}, pools={"card": "together"}, among=[self.paper.key])
        odd = (None, 1, "x", [1], {"a": None}, [[1]], [{"a": 1}], {"a": [1]}, {"a": -1}, [["x", "y"]], {"A": 10**30})
        pages = (
            "fits:wall",
            "bench:steps",
            "bags:pack",
            "bags:handout",
            "classes:count",
            "classes:offers",
            "fits:needs",
        )
        tried = accepted = 0
        content = json.loads(zipfile.ZipFile(self.packed()).read("zester.json"))
        for kind, name in each_of([(kind, name) for kind, fields in SHAPES.items() for name in fields]):
            for value in odd[tried % 3 :: 3] if content[kind] else ():
                tried += 1
                with self.subTest(kind=kind, field=name, value=value):
                    changed = json.loads(json.dumps(content))
                    changed[kind][0][name] = value
                    someone = get_user_model().objects.create_user(f"odd{tried}", password="harbour-wind-3")
                    try:
                        unpack(someone, self.zipped(changed))
                    except ZesterError:
                        continue
                    accepted += 1
                    self.client.force_login(someone)
                    for card_class in CardClass.objects.of(someone):
                        recount(card_class.pk)
                        for page in pages:
                            answer = self.client.get(reverse(page, args=[card_class.pk]))
                            self.assertEqual(answer.status_code, 200, page)
        self.assertGreater(tried, 60)
        self.assertLess(accepted, tried // 3)

    def zipped(self, content: dict) -> io.BytesIO:
        """An archive of this content."""
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            archive.writestr("zester.json", json.dumps(content))
        out.seek(0)
        return out

    def test_every_column_of_json_has_a_shape(self):
        there = {(kind.name, each.name) for kind in KINDS for each in kind.fields if isinstance(each, JSONField)}
        self.assertEqual({(kind, name) for kind, fields in SHAPES.items() for name in fields}, there)

    def cut(self) -> None:
        """The first paper is cut to the end, and logged."""
        run = begin(self.fit)
        Tick.objects.create(run=run, done=1, at=timezone.now(), seconds=30)
        finish(self.fit, {})
        board = board_of(self.card_class)
        first = board.kits[0]
        for what in (first.kit.key, first.bags[0].bag.key):
            Mark.objects.create(card_class=self.card_class, what=what, holds="x", moved_from="paid")
        # Packed for somebody whose order is gone: nobody misses it in another account.
        self.gone = Mark.objects.create(card_class=self.card_class, what="p999-1-1-A", holds="x")
        report(self.card_class, "A1", 1)

    def test_another_account_has_the_same_object_by_object(self):
        self.cut()
        made = unpack(self.other, self.packed())
        self.gone.delete()
        mine, theirs = rows(self.user), rows(self.other)
        for name, things in each_of(mine.items()):
            with self.subTest(kind=name):
                self.assertTrue(things)
                self.assertEqual(theirs[name], things)
                self.assertEqual(made[name], len(things))
        (theirs,) = Substitution.objects.filter(card_class__owner=self.other)
        self.assertEqual([person.name for person in theirs.people.all()], ["Odo"])
        fits = PaperFit.objects.filter(class_paper__card_class__owner=self.other)
        shown = fits.get(class_paper__paper__key=self.paper.key)
        self.assertTrue(shown.answered)
        copied = Photo.objects.get(owner=self.other)
        self.assertEqual((copied.words, copied.card.owner), ("the moon", self.other))
        with Image.open(copied.image) as picture:
            self.assertEqual(picture.size, (40, 30))
            for is_now, was in zip(picture.getpixel((9, 9)), (0x33, 0x66, 0x99), strict=True):
                self.assertAlmostEqual(is_now, was, delta=2)

    def test_other_programs_can_read_it(self):
        with zipfile.ZipFile(self.packed()) as archive:
            names = archive.namelist()
            self.assertIn("Ember Weave", archive.read("papers.csv").decode())
            lists = [name for name in names if name.endswith(".txt")]
            self.assertEqual(archive.read(lists[0]).decode(), LIST)
            self.assertNotIn("mira", archive.read("zester.json").decode())

    def test_brought_in_twice_it_is_asked_first_no_paper_is_there_twice_and_what_was_there_stays(self):
        with self.assertRaisesMessage(TwiceError, "Of the 2 designs in it 2 are here already"):
            unpack(self.user, self.packed())
        self.assertEqual(CardClass.objects.of(self.user).count(), 1)
        unpack(self.user, self.packed(), again=True)
        self.assertEqual(Paper.objects.filter(owner=self.user, name="Ember Weave").count(), 1)
        self.assertEqual(CardClass.objects.of(self.user).count(), 2)

    def test_a_file_that_does_not_hold_together_makes_nothing(self):
        def change(kind: str, number: int, **values):
            return lambda content: content[kind][number].update(values)

        with zipfile.ZipFile(self.packed()) as archive:
            plan = json.loads(archive.read("zester.json"))["plans"][0]["plan"]
        broken = {
            "a plan that does less": change("plans", 0, plan=plan.replace('"copies": ', '"copies": 1')),
            "another format": lambda content: content.update(format="zester-archive/9"),
            "rows that are none": lambda content: content.update(papers=[7]),
            "a number twice": change("designs", 1, id=1),
            "a lost reference": change("cards_of_classes", 0, card=99),
            "a wrong kind": change("papers", 0, width={"a": 1}),
            "a name without end": change("designs", 0, name="x" * 600),
            "less than nobody": change("classes", 0, participants=-3),
            "a link that is a script": change("tools", 0, link="javascript:alert(1)"),
            "another of a paper": change("papers", 0, link="data:text/html,x"),
            "supplies without a name": change("designs", 0, supplies="12 | 13"),
            "a place without end": change("papers", 0, place="x" * 90),
        }
        for words, harm in broken.items():
            with self.subTest(words), self.assertRaises(ZesterError):
                unpack(self.other, self.packed(harm))
            self.assertEqual([kind.of(self.other).count() for kind in KINDS], [0] * len(KINDS))
        for data in (b"", b"no zip", b"PK\x03\x04" + b"\0" * 90):
            with self.subTest(data=data[:6]), self.assertRaises(ZesterError):
                unpack(self.other, io.BytesIO(data))

    def test_another_paper_of_the_name_is_asked_about(self):
        make_paper(self.other, "ember weave")
        with self.assertRaisesMessage(ZesterError, "Another paper is called Ember Weave here"):
            unpack(self.other, self.packed())
        self.assertEqual(CardClass.objects.of(self.other).count(), 0)

    def test_on_the_page(self):
        data = self.saved()
        self.client.force_login(self.other)
        url = reverse("archive:bring_in")
        self.assertContains(self.client.post(url), "Choose the ZIP file first.")
        wrong = self.client.post(url, {"archive": SimpleUploadedFile("x.zip", b"no zip")})
        self.assertContains(wrong, "This is no archive of Zester’s")
        right = self.client.post(url, {"archive": SimpleUploadedFile("x.zip", data)}, follow=True)
        self.assertContains(right, "Brought in: 1 class, 2 designs, 3 papers, 1 tool.")
        self.assertContains(self.client.get(reverse("classes:list")), "Evening")
        asked = self.client.post(url, {"archive": SimpleUploadedFile("x.zip", data)}, follow=True)
        self.assertContains(asked, "Of the 2 designs in it 2 are here already, so nothing was brought in yet.")
        self.assertContains(asked, "Bring it in all the same")
        (page,) = asked.redirect_chain[-1][:1]
        self.assertContains(self.client.get(url.replace("bring-in/", "")), "asks something")
        again = self.client.post(f"{page}answer/", {"again": "1"}, follow=True)
        self.assertContains(again, "Brought in: 1 class, 2 designs, 0 papers, 0 tools.")
        # Asked once more and left.
        self.client.post(url, {"archive": SimpleUploadedFile("x.zip", data)})
        left = Intake.objects.get(owner=self.other)
        self.assertTrue(left.file.exists())
        self.client.post(reverse("archive:answer", args=[left.pk]))
        self.assertFalse(Intake.objects.exists() or left.file.exists())
        self.assertEqual(CardClass.objects.of(self.other).count(), 2)

    def saved(self) -> bytes:
        """What is there once a worker has made it."""
        ready = self.client.post(reverse("archive:save"), follow=True)
        self.assertContains(ready, "It is ready")
        answer = self.client.get(f"{ready.request['PATH_INFO']}file/")
        name = f"zester-{timezone.localdate():%Y-%m-%d}.zip"
        self.assertEqual(answer["Content-Disposition"], f'attachment; filename="{name}"')
        return b"".join(answer.streaming_content)

    def test_saved_again_it_is_how_things_are_now_and_the_last_one_is_forgotten(self):
        first = self.saved()
        old = Print.objects.get()
        make_paper(self.user, "Moon Rays")
        self.assertNotEqual(self.saved(), first)
        self.assertFalse(old.file.exists())
        # While one waits no second one is begun.
        with override_settings(TASKS=IN_THE_DATABASE):
            for _ in range(2):
                page = self.client.post(reverse("archive:save"), follow=True)
                self.assertContains(page, "It can be saved here as soon as it is there.")
        self.assertContains(self.client.get(reverse("archive:archive")), "The file you asked for")
        self.assertNotContains(self.client.get(reverse("printing:files")), "Everything in one file")
        # One that was lost is not waited for for ever.
        Print.objects.update(asked_at=timezone.now() - datetime.timedelta(hours=2))
        self.saved()
        mine = Print.objects.get()
        mine.file.unlink()
        # Nobody else sees it; and what is not kept any more says so.
        page = reverse("printing:waiting", args=[mine.pk])
        self.assertContains(self.client.get(page), "The file is not kept any more")
        self.client.force_login(self.other)
        for url in (page, f"{page}file/"):
            self.assertEqual(self.client.get(url).status_code, 404)
        self.assertEqual(self.client.get(reverse("archive:save")).status_code, 405)

    def test_more_than_can_be_brought_in_is_said_when_it_is_saved(self):
        with mock.patch.object(reading, "MOST_TEXT", 10):
            page = self.client.post(reverse("archive:save"), follow=True)
        self.assertContains(page, "more than can be brought in at once")

    def test_damaged_bytes_are_no_archive_and_never_an_error_of_the_program(self):
        whole = self.packed().getvalue()
        for place in each_of(range(0, len(whole), len(whole) // some(80))):
            harmed = whole[:place] + bytes([whole[place] ^ 0x55]) + whole[place + 1 :]
            with self.subTest(place=place), transaction.atomic():
                try:
                    unpack(self.other, io.BytesIO(harmed))
                except ZesterError as error:
                    self.assertTrue(error.mend)
                transaction.set_rollback(True)
        for compression in (zipfile.ZIP_LZMA, zipfile.ZIP_BZIP2, zipfile.ZIP_DEFLATED):
            out = io.BytesIO()
            with zipfile.ZipFile(out, "w", compression) as archive:
                archive.writestr("zester.json", json.dumps({"format": "zester-archive/1", "text": "ab" * 4000}))
            data = bytearray(out.getvalue())
            data[50:60] = b"\xff" * 10
            with self.subTest(compression), self.assertRaises(ZesterError):
                unpack(self.other, io.BytesIO(bytes(data)))

    def test_letters_that_are_none_huge_numbers_and_lists_as_references_make_nothing(self):
        for words, harm in {
            "half a letter": lambda content: content["designs"][0].update(name="Moon \ud83d"),
            "no end": lambda content: content["papers"][0].update(width=10**400),
            "not a number": lambda content: content["papers"][0].update(width=float("inf")),
            "a list": lambda content: [row.update(paper=[1]) for row in content["ledger_of_papers"]],
            "a list of lists": lambda content: content["cards_of_classes"][0].update(card=[[1]], card_class={"a": 1}),
        }.items():
            with self.subTest(words), self.assertRaises(ZesterError):
                unpack(self.other, self.packed(harm))
            self.assertEqual([kind.of(self.other).count() for kind in KINDS], [0] * len(KINDS))

    def test_more_than_is_parsed_is_told_before_it_is(self):
        for text, words in (
            (b'{"a": [' + b"{}," * 1_500_000 + b"{}]}", "Up to 1,500,000 values"),
            (b'"' + b"x" * 32_000_000 + b'"', "Up to 32 MB of text"),
        ):
            out = io.BytesIO()
            with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
                archive.writestr("zester.json", text)
            with self.subTest(words), mock.patch.object(reading.json, "loads") as parse:
                with self.assertRaises(ZesterError) as told:
                    unpack(self.other, out)
                self.assertEqual(told.exception.mend, words)
                parse.assert_not_called()

    def test_a_photo_is_written_anew_and_one_that_is_none_is_named(self):
        out = io.BytesIO()
        told = Image.Exif()
        told[0x010E] = "at our house"
        Image.new("RGB", (3000, 2000), "#336699").save(out, "JPEG", exif=told)
        self.photo().image.save("photo.jpg", ContentFile(out.getvalue()))
        unpack(self.other, self.packed())
        with Image.open(Photo.objects.get(owner=self.other).image) as picture:
            self.assertEqual(max(picture.size), 1600)
            self.assertFalse(picture.getexif())
        self.photo().image.save("photo.jpg", ContentFile(b"no photo at all"))
        newcomer = get_user_model().objects.create_user("newcomer")
        with self.assertRaisesMessage(
            ZesterError, f"The photo of “{self.photo().card.name}” in the archive cannot be read"
        ):
            unpack(newcomer, self.packed())
        self.assertFalse(Card.objects.filter(owner=newcomer).exists())

    def photo(self) -> Photo:
        return Photo.objects.get(owner=self.user)

    def test_photos_of_an_archive_from_before_there_were_several(self):
        old = io.BytesIO()
        with zipfile.ZipFile(self.packed()) as packed, zipfile.ZipFile(old, "w") as archive:
            content = json.loads(packed.read("zester.json"))
            design = content.pop("photos")[0]["card"]
            archive.writestr("zester.json", json.dumps(content))
            archive.writestr(f"photos/{design}.jpg", packed.read("photos/p1.jpg"))
        old.seek(0)
        unpack(self.other, old)
        self.assertEqual(Photo.objects.get(owner=self.other).card.name, self.photo().card.name)

    def test_a_photo_whose_file_is_missing_is_left_out(self):
        bare = io.BytesIO()
        with zipfile.ZipFile(self.packed()) as packed, zipfile.ZipFile(bare, "w") as archive:
            archive.writestr("zester.json", packed.read("zester.json"))
        bare.seek(0)
        unpack(self.other, bare)
        self.assertFalse(Photo.objects.filter(owner=self.other).exists())

    def test_nothing_outside_the_folder_of_photos_is_written(self):
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            archive.writestr("zester.json", json.dumps({"format": "zester-archive/1"}))
            archive.writestr("photos/../../evil.jpg", b"x")
            archive.writestr("photos/1.jpg", b"no photo")
        out.seek(0)
        unpack(self.other, out)
        self.assertFalse(any(path.name.startswith("evil") for path in Path(tempfile.gettempdir()).glob("*.jpg")))


class IntakeTests(Archives):
    """An archive on its way: by workers, a little at a time, seen when it is whole."""

    def setUp(self):
        super().setUp()
        self.enterContext(override_settings(TASKS=IN_THE_DATABASE))
        self.enterContext(mock.patch.object(unpacking, "AT_ONCE", 4))
        self.client.force_login(self.other)

    def send(self, change=None) -> Intake:
        sent = SimpleUploadedFile("x.zip", self.packed(change).getvalue())
        answer = self.client.post(reverse("archive:bring_in"), {"archive": sent})
        made = Intake.objects.get(owner=self.other)
        self.assertRedirects(answer, reverse("archive:intake", args=[made.pk]), fetch_redirect_response=False)
        return made

    def turn(self) -> bool:
        """A worker takes the next piece of work; whether there was any."""
        task = DBTaskResult.objects.filter(task_path__endswith="intake_task").ready().first()
        if task:
            intakes.intake_task.func(*task.args_kwargs["args"])
            task.delete()
        return task is not None

    def page(self, intake: Intake) -> str:
        return self.client.get(reverse("archive:intake", args=[intake.pk])).content.decode()

    def test_it_gives_way_goes_on_and_is_seen_only_when_all_is_there(self):
        intake = self.send()
        self.assertIn("It is next.", self.page(intake))
        refused = self.client.post(
            reverse("archive:bring_in"), {"archive": SimpleUploadedFile("y.zip", self.packed().read())}
        )
        self.assertContains(refused, "An archive is being brought in already.")
        # Of one whose task was lost nobody is kept out for ever.
        later = timezone.now() + intakes.LONGEST
        with mock.patch.object(intakes.timezone, "now", return_value=later):
            intake = self.send()
        DBTaskResult.objects.filter(task_path__endswith="intake_task").order_by("enqueued_at").first().delete()
        turns = 0
        with mock.patch.object(intakes, "SECONDS", 0.0):
            while self.turn():
                turns += 1
                there = CardClass.objects.of(self.other).count() + Paper.objects.filter(owner=self.other).count()
                intake.refresh_from_db()
                if intake.stage != Intake.Stage.DONE:
                    self.assertEqual(there, 0)
                    self.assertRegex(self.page(intake), r"(\d+ % of \d+.things are made)|It is next")
                if turns == 3:
                    break
            self.assertGreater(turns, 2)
        while self.turn():
            pass
        self.assertIn("Brought in: 1 class, 2 designs, 3 papers, 1 tool.", self.page(intake))
        self.assertEqual(CardClass.objects.of(self.other).count(), 1)
        self.assertFalse(get_user_model().objects.filter(username__startswith="(archive").exists())
        self.assertFalse(intake.file.exists())

    def test_whoever_dies_at_it_leaves_nothing_and_it_is_begun_anew(self):
        intake = self.send()
        made = unpacking.Making._make_some

        def dies(making, rows):
            if making.done > 8:
                raise SystemExit
            made(making, rows)

        with mock.patch.object(unpacking.Making, "_make_some", dies), self.assertRaises(SystemExit):
            intakes.intake_task.func(intake.pk)
        self.assertTrue(Intake.objects.get().under_way)
        self.assertEqual(get_user_model().objects.filter(username__startswith="(archive").count(), 1)
        while self.turn():
            pass
        self.assertIn("Brought in: 1 class, 2 designs, 3 papers, 1 tool.", self.page(intake))
        self.assertEqual(Paper.objects.count(), 2 * Paper.objects.filter(owner=self.other).count())
        self.assertFalse(get_user_model().objects.filter(username__startswith="(archive").exists())

    def test_what_does_not_hold_together_is_thrown_away_and_says_so(self):
        intake = self.send(lambda content: content["cut_papers"].append({"id": 1, "plan": [], "title": {}}))
        photos = len(list(Path(settings.MEDIA_ROOT, "photos").iterdir()))
        while self.turn():
            pass
        self.assertIn("It was not brought in.", self.page(intake))
        self.assertIn("does not hold together", self.page(intake))
        self.assertEqual([kind.of(self.other).count() for kind in KINDS], [0] * len(KINDS))
        self.assertEqual(len(list(Path(settings.MEDIA_ROOT, "photos").iterdir())), photos)
        self.assertFalse(get_user_model().objects.filter(username__startswith="(archive").exists())
        # Another may be sent at once.
        self.send()

    def test_a_paper_that_was_put_on_the_shelf_meanwhile_is_not_there_twice(self):
        intake = self.send()
        with mock.patch.object(intakes, "SECONDS", 0.0):
            self.turn()
        make_paper(self.other, "ember weave")
        while self.turn():
            pass
        self.assertIn(
            "Another paper is called ember weave here", self.page(intake).replace("Ember Weave", "ember weave")
        )
        self.assertEqual(Paper.objects.filter(owner=self.other).count(), 1)

    def test_an_account_that_is_deleted_meanwhile_leaves_nothing(self):
        intake = self.send()
        with mock.patch.object(intakes, "SECONDS", 0.0):
            self.turn()
        self.other.delete()
        self.assertFalse(get_user_model().objects.filter(username__startswith="(archive").exists())
        self.assertFalse(intake.file.exists())
        self.assertTrue(self.turn())
        self.assertFalse(self.turn())

    def test_nobody_sees_or_answers_another_s(self):
        intake = self.send()
        self.client.force_login(self.user)
        self.assertEqual(self.client.get(reverse("archive:intake", args=[intake.pk])).status_code, 404)
        self.assertEqual(self.client.post(reverse("archive:answer", args=[intake.pk])).status_code, 404)
