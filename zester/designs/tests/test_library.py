"""The library of designs, files in and out, photos, tools; and what the desk's script asks for."""

import html
import io
import re
import tempfile

from django.core.files.base import ContentFile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import override_settings
from django.urls import reverse
from PIL import Image

from tests.people import SignedInTests, make_class, make_paper
from zester.classes.held import hold_designs
from zester.classes.models import CardClass, ClassCard
from zester.classes.services import count_class
from zester.core.cutlist.notation import read_list
from zester.core.lengths import SIXTEENTHS
from zester.designs.models import Card, Edition, OwnWord, Photo, Tool
from zester.designs.services import MOST_PHOTOS, keep_photo, known_to, save_list
from zester.designs.tool_drawings import SCALE, drawing_of
from zester.shelf.models import Paper

LIST = "card 4¼ x 5½ side fold\nBase brass\nMat ⅛ border chalk\nStar 1 x 1 brass\n+ 6 foam squares"


class DesignTests(SignedInTests):
    def setUp(self):
        super().setUp()
        make_paper(self.user, "Chalk Moon", back="none")
        self.card_class = make_class(self.user, LIST)
        self.card = Card.objects.get()

    def at(self, name: str, *more) -> str:
        return reverse(f"designs:{name}", args=[self.card.pk, *more])

    def ask(self, action: str, /, **data):
        return self.client.post(self.at(action), {"cut_list": LIST, **data})


class DeskScriptTests(DesignTests):
    def test_the_desk_draws_the_card_and_says_what_it_finds(self):
        page = self.client.get(reverse("classes:card", args=[self.card_class.pk, "A"]))
        self.assertContains(page, 'aria-label="A2 Mat, 4 × 5¼ in"')
        self.assertContains(page, "Everything fits together")
        self.assertContains(page, "A2, 5¾ × 4")
        data = {"cut_list": LIST + "\nPanel 5 x 5 brass", "editor": "e", "saves": 0, "view": "apart-front"}
        answer = self.client.post(
            reverse("classes:read", args=[self.card_class.pk, "A"]), data, headers={"HX-Request": "true"}
        )
        self.assertContains(answer, "Panel is larger than the Mat above it in the list")
        self.assertContains(answer, 'data-mend="Panel 3¾ x 5 brass"')
        self.assertContains(answer, 'class="card-drawing apart-front"')

    def test_a_length_is_stepped_by_the_ruler_of_the_card(self):
        answer = self.ask("step", line="Mat 4 x 5 brass", caret=5, steps=1).json()
        self.assertEqual(answer, {"line": "Mat 4 1/16 x 5 brass", "caret": 10})
        self.assertEqual(self.ask("step", line="Mat", caret="no", steps=1).status_code, 400)

    def test_a_piece_is_moved_by_marks_and_its_line_says_so(self):
        self.assertEqual(
            self.ask("move", number=3, across=2, down=0).json(), {"line": 3, "text": "Star 1 x 1 brass  left 1 5/8"}
        )
        self.assertIn("cannot be moved", self.ask("move", number=1, across=2, down=0).json()["error"])

    def test_cells_and_lines_are_the_same_thing(self):
        page = self.ask("table")
        self.assertContains(page, 'aria-label="Size, line 3">⅛ border<')
        self.assertContains(page, 'aria-label="Bit, line 5"')
        row = {"kind": "piece", "count": "2", "name": "Mat", "size": "⅛ border", "paper": "chalk", "note": "first"}
        self.assertEqual(self.ask("cells", **row).json()["text"], "2 Mat  ⅛ border  chalk  # first")

    def test_borders_are_written_out_on_request(self):
        self.assertIn("Mat 4 x 5¼ chalk", self.ask("sizes").json()["text"])

    def test_a_paper_that_a_line_lacks_is_put_on_the_shelf_from_there(self):
        before = Paper.objects.of(self.user).count()
        done = self.ask("put_on_shelf", name="lagoon blue", kind="card").json()
        paper = Paper.objects.of(self.user).get(name="Lagoon blue")
        self.assertEqual((paper.sheet, paper.kind, done["name"]), ("letter", "card", "Lagoon blue"))
        self.assertIn("letter, 8½ × 11 in, card stock", done["said"])
        self.assertIn(
            "on your shelf already", self.ask("put_on_shelf", name="Lagoon Blue", kind="card").json()["error"]
        )
        for name, kind in (("", "card"), ("4 x 5", "card"), ("a#b", "card"), ("x", "cloth"), ("y" * 80, "card")):
            with self.subTest(name=name):
                self.assertIn("error", self.ask("put_on_shelf", name=name, kind=kind).json())
        self.assertEqual(Paper.objects.of(self.user).count(), before + 1)

    def test_notes_are_shown_as_they_were_understood(self):
        page = self.ask("understand", notes='(2) strips 1/2" by 5", brass\nhello')
        self.assertContains(page, "2 Strips  ½&quot; by 5&quot;  Telescope Brass")
        self.assertContains(page, "kept as a remark")

    def test_a_card_without_a_class_has_a_desk_too(self):
        self.client.post(reverse("designs:new_design"), {"name": "Kite"})
        card = Card.objects.get(name="Kite")
        page = self.client.get(reverse("designs:alone", args=[card.pk]))
        self.assertContains(page, "Nothing written yet")
        url = reverse("designs:read_alone", args=[card.pk])
        data = {"cut_list": "Mat 4 x 5 brass", "editor": "e", "saves": 0}
        answer = self.client.post(url, data, headers={"HX-Request": "true"})
        self.assertContains(answer, "4 from a sheet")
        self.assertNotContains(answer, "On to the count")
        self.client.post(url, data | {"cut_list": "Mat 3 x 3 brass", "saves": 9})
        card.refresh_from_db()
        self.assertEqual(card.cut_list, "Mat 3 x 3 brass")


class LibraryTests(DesignTests):
    def test_designs_are_drawn_and_say_where_they_are_used(self):
        page = self.client.get(reverse("designs:library"))
        self.assertContains(page, "in Evening (A)")
        self.assertContains(page, "4¼ × 5½ in, side fold")
        self.assertContains(page, 'class="card-drawing front"')
        Card.objects.all().delete()
        self.assertContains(self.client.get(reverse("designs:library")), "No designs yet")

    def test_one_design_serves_several_classes(self):
        other = make_class(self.user)
        self.client.post(reverse("classes:use", args=[self.card.pk]), {"class": other.pk})
        self.assertEqual(ClassCard.objects.filter(card=self.card).count(), 2)
        self.client.post(reverse("classes:use", args=[self.card.pk]), {"class": other.pk})
        self.assertEqual(ClassCard.objects.filter(card=self.card).count(), 2, "once a class")
        page = self.client.post(reverse("classes:new_card", args=[other.pk]), {"design": self.card.pk}, follow=True)
        self.assertContains(page, "Base brass")

    def test_a_copy_is_changed_by_itself(self):
        self.client.post(self.at("copy"))
        made = Card.objects.get(name="Card 1, copy")
        self.assertEqual(made.cut_list, LIST)
        Card.objects.filter(pk=made.pk).update(cut_list="Mat 1 x 1 brass")
        self.card.refresh_from_db()
        self.assertEqual(self.card.cut_list, LIST)

    def test_what_went_wrong_is_remembered_at_the_desk(self):
        data = {"name": "Moon", "ruler": "in16", "notes": "Nice", "went_wrong": "Foam too thick"}
        self.client.post(self.at("design"), data)
        page = self.client.get(reverse("classes:card", args=[self.card_class.pk, "A"]))
        self.assertContains(page, "Foam too thick")
        page = self.client.post(self.at("design"), data | {"name": ""})
        self.assertContains(page, "This field is required")
        self.assertContains(page, "Foam too thick")

    def test_removing_a_design_and_undoing(self):
        page = self.client.post(self.at("remove_design"), follow=True)
        self.assertContains(page, "Undo")
        self.client.post(self.at("restore"))
        self.assertContains(self.client.get(reverse("designs:library")), "Card 1")

    def test_kept_lists_come_back_and_the_present_one_is_kept(self):
        self.client.post(self.at("keep"), {"name": "first"})
        Card.objects.update(cut_list="Mat 1 x 1 brass")
        self.client.post(reverse("designs:bring_back", args=[Edition.objects.get().pk]))
        self.card.refresh_from_db()
        self.assertEqual(self.card.cut_list, LIST)
        self.assertEqual(Edition.objects.get(name__startswith="before").cut_list, "Mat 1 x 1 brass")
        page = self.client.post(self.at("keep"), {"name": " "}, follow=True)
        self.assertContains(page, "needs a name")

    def test_every_file_that_is_saved_can_be_taken_in(self):
        for ending in ("txt", "csv", "json", "xlsx"):
            with self.subTest(ending=ending):
                saved = self.client.get(self.at("export", ending))
                self.assertIn(f'filename="card-1.{ending}"', saved["Content-Disposition"])
                Card.objects.update(cut_list="")
                sent = SimpleUploadedFile(f"x.{ending}", saved.content)
                page = self.client.post(self.at("take_in"), {"file": sent}, follow=True)
                self.assertContains(page, "is taken in")
                self.card.refresh_from_db()
                words = re.sub(r"\s+", " ", self.card.cut_list)
                self.assertEqual(words, re.sub(r"\s+", " ", LIST))
        self.assertEqual(self.client.get(self.at("export", "doc")).status_code, 404)

    def test_a_table_of_another_make_is_looked_at_before_anything_is_replaced(self):
        table = "name,size,paper,qty,shine\nMat,4 x 5,telescope brass,2,gloss\nskip it,1 x 4,telescope brass,1,\n"
        page = self.client.post(self.at("take_in"), {"file": SimpleUploadedFile("mine.csv", table.encode())})
        self.assertContains(page, "What mine.csv says")
        self.assertContains(page, "What does “skip” say?")
        self.card.refresh_from_db()
        self.assertEqual(self.card.cut_list, LIST)
        sent = {
            "file": "mine.csv",
            "table": html.unescape(re.search(r'name="table" value="([^"]*)"', page.content.decode())[1]),
        }
        kinds = {f"column-{at}": kind for at, kind in enumerate(("name", "size", "paper", "count", ""))}
        page = self.client.post(self.at("columns"), sent | kinds | {"take": "1"})
        self.assertContains(page, "Say what “shine” holds, or leave it out.")
        kinds["column-4"] = "note"
        page = self.client.post(self.at("columns"), sent | kinds)
        self.assertContains(page, "gloss")
        page = self.client.post(self.at("columns"), sent | kinds | {"take": "1"}, follow=True)
        self.assertContains(page, "The list of mine.csv is taken in")
        self.card.refresh_from_db()
        self.assertEqual(self.card.cut_list, "2 Mat  4 x 5  telescope brass  # gloss\nskip it  1 x 4  telescope brass")
        # The next table with the same headings needs no more answers.
        page = self.client.post(self.at("take_in"), {"file": SimpleUploadedFile("next.csv", table.encode())})
        self.assertNotContains(page, 'aria-invalid="true"')
        for wrong in ("", "7", "[]", "[[1]]", '[["a"],["b","c"]]', "[" * 9000, '[["\\ud800"]]'):
            page = self.client.post(self.at("columns"), {"file": "x", "table": wrong, "take": "1"}, follow=True)
            self.assertContains(page, "did not come through")
        self.client.force_login(self.stranger)
        self.assertEqual(self.client.post(self.at("columns"), sent | kinds).status_code, 404)

    def test_a_file_that_cannot_be_read_changes_nothing(self):
        for name, data, wanted in (("x.csv", b"\xff", "UTF-8"), ("x.exe", b"MZ", "none of the kinds")):
            sent = SimpleUploadedFile(name, data)
            self.assertContains(self.client.post(self.at("take_in"), {"file": sent}, follow=True), wanted)
        self.assertContains(self.client.post(self.at("take_in"), follow=True), "Choose a file first")
        self.card.refresh_from_db()
        self.assertEqual(self.card.cut_list, LIST)

    def test_a_drawing_is_a_file_in_true_millimetres(self):
        svg = self.client.get(self.at("drawing", "front"))
        self.assertEqual(svg["Content-Type"], "image/svg+xml")
        text = svg.content.decode()
        # 4¼ × 5½ in are 107.95 × 139.7 mm; a margin of 4 mm all round.
        self.assertIn('width="115.95mm" height="147.7mm"', text)
        self.assertNotIn("var(--", text, "a file stands by itself")
        self.assertEqual(self.client.get(self.at("drawing", "nothing")).status_code, 404)
        page = self.client.get(self.at("print"))
        self.assertContains(page, 'width="115.95mm"')
        self.assertContains(page, "100 mm")

    def test_names_cannot_break_out_of_a_drawing(self):
        Card.objects.update(cut_list=LIST + '\n"><script>alert(1)</script> 1 x 1 brass')
        for view in ("front", "apart-front"):
            self.assertNotContains(self.client.get(self.at("drawing", view)), "<script>")
        self.assertNotContains(self.client.get(self.at("design")), "<script>alert")


class PhotoTests(DesignTests):
    def picture(self, size=(2000, 1000), kind="PNG") -> bytes:
        out = io.BytesIO()
        Image.new("RGB", size, "#a9503c").save(out, kind)
        return out.getvalue()

    def send(self, data: bytes, words: str = ""):
        photo = SimpleUploadedFile("p.png", data, "image/png")
        return self.client.post(self.at("design"), {"photo_form": "1", "photo": photo, "words": words}, follow=True)

    def test_a_photo_is_made_smaller_and_shown_to_its_owner_only(self):
        with tempfile.TemporaryDirectory() as folder, override_settings(MEDIA_ROOT=folder):
            self.assertContains(self.send(self.picture()), "Card 1: the finished card")
            address = reverse("designs:photo", args=[Photo.objects.get().pk])
            answer = self.client.get(address)
            kept = Image.open(io.BytesIO(b"".join(answer.streaming_content)))
            self.assertEqual((kept.format, kept.size), ("JPEG", (1600, 800)))
            self.client.force_login(self.stranger)
            self.assertEqual(self.client.get(address).status_code, 404)

    def test_a_photo_without_end_is_turned_away_before_it_is_read(self):
        with override_settings(LARGEST_REQUEST=2_000):
            answer = self.client.post(self.at("design"), {"photo_form": "1", "photo": io.BytesIO(b"x" * 4_000)})
        self.assertContains(answer, "Nothing was changed", status_code=413)
        self.assertContains(answer, "0.002 MB", status_code=413)

    def test_what_is_no_photo_is_refused(self):
        self.assertContains(self.send(b"<svg onload='x'/>"), "id_photo_error")
        self.assertFalse(Photo.objects.exists())

    def test_several_photos_say_what_they_show_and_come_back(self):
        with tempfile.TemporaryDirectory() as folder, override_settings(MEDIA_ROOT=folder):
            self.send(self.picture((60, 40)))
            self.send(self.picture((40, 60)), "the moon, from its back")
            first, second = Photo.objects.all()
            self.assertContains(self.client.get(self.at("design")), "Card 1: the moon, from its back")
            self.client.post(reverse("designs:photo_words", args=[first.pk]), {"words": "  open   card "})
            long = {"words": "x" * 81}
            page = self.client.post(reverse("designs:photo_words", args=[first.pk]), long, follow=True)
            self.assertContains(page, "It was not kept")
            self.assertContains(page, "Card 1: open card")
            page = self.client.post(reverse("designs:remove_photo", args=[first.pk]), follow=True)
            self.assertContains(page, "The photo of open card is removed.")
            self.assertEqual(list(Photo.objects.of(self.user)), [second])
            self.client.post(reverse("designs:restore_photo", args=[first.pk]))
            for _ in range(MOST_PHOTOS - 2):
                keep_photo(self.card, ContentFile(b"a photo", "p.jpg"))
            page = self.send(self.picture((9, 9)))
            self.assertContains(page, "A design has room for 12 photos")
            self.client.force_login(self.stranger)
            for view in ("photo_words", "remove_photo"):
                address = reverse(f"designs:{view}", args=[second.pk])
                self.assertEqual(self.client.post(address, {"words": "mine"}).status_code, 404)


class ToolTests(DesignTests):
    def post(self, **changes):
        data = {"name": "Circles", "kind": "die", "shape": "circle", "ruler": "in16", "typed_sizes": "1, 1½, 2 1/4"}
        return self.client.post(reverse("designs:new_tool"), data | changes, follow=True)

    def test_a_nested_set_is_listed_and_named_in_a_list(self):
        self.assertContains(self.post(), "Circles is listed")
        self.assertEqual(Tool.objects.get().sizes[1], [12192, 12192])
        self.post(name="Many", typed_sizes=", ".join(f"{n}/16" for n in range(1, 101)))
        self.assertEqual(len(Tool.objects.get(name="Many").sizes), 100)
        Tool.objects.get(name="Many").delete()
        data = {"cut_list": "Seal circles 3 brass", "editor": "e", "saves": 9}
        url = reverse("classes:read", args=[self.card_class.pk, "A"])
        self.assertContains(self.client.post(url, data, headers={"HX-Request": "true"}), "circle 2¼ × 2¼ in")
        page = self.client.get(reverse("designs:edit_tool", args=[Tool.objects.get().pk]))
        self.assertContains(page, 'value="1, 1½, 2¼"')

    def test_what_is_wrong_is_said_beside_its_field(self):
        for changes, wanted in (
            ({"name": "No. 5"}, "no number at its end"),
            ({"typed_sizes": ""}, "Which sizes are there?"),
            ({"typed_sizes": "1, 0.3"}, "nearest marks"),
            ({"kind": "folder", "typed_sizes": "", "largest": "four"}, "not a size"),
            ({"typed_sizes": "1, " * 101}, "These are 101 sizes, a tool holds 100"),
        ):
            with self.subTest(changes=changes):
                self.assertContains(self.post(**changes), wanted)
        self.assertFalse(Tool.objects.exists())
        self.post()
        self.assertContains(self.post(name="circles"), "You have a tool of this name already")

    def test_a_new_name_is_carried_into_the_lists(self):
        self.post()
        Card.objects.update(cut_list="Circles circles 2 brass # circles\nMat 4 x 5 brass")
        url = reverse("designs:edit_tool", args=[Tool.objects.get().pk])
        data = {"name": "Moon rings", "kind": "die", "shape": "circle", "ruler": "in16", "typed_sizes": "1, 2"}
        self.client.post(url, data)
        self.card.refresh_from_db()
        self.assertEqual(self.card.cut_list, "Circles Moon rings 2 brass # circles\nMat 4 x 5 brass")

    def test_metric_sizes_come_back_as_they_were_typed(self):
        self.post(ruler="mm", typed_sizes="25, 40 x 60")
        page = self.client.get(reverse("designs:edit_tool", args=[Tool.objects.get().pk]))
        self.assertContains(page, 'value="25 mm, 40 mm x 60 mm"')

    def test_tools_are_drawn_to_one_scale_and_nested_sets_within_each_other(self):
        self.post(kind="die", typed_sizes="1, 2")
        small = drawing_of(Tool.objects.get())
        large = drawing_of(Tool(kind="folder", largest_width=4 * 8128, largest_height=6 * 8128))
        self.assertEqual([side - 2 for side in small.pixels], [2 * SCALE, 2 * SCALE])
        self.assertEqual([side - 2 for side in large.pixels], [4 * SCALE, 6 * SCALE])
        # The largest first, so that it hides none; an inch and two are 25.4 and 50.8 mm wide.
        self.assertIn("25.4 25.4", small.paths[0])
        self.assertIn("12.7 12.7", small.paths[1])
        self.assertIsNone(drawing_of(Tool(kind="punch")))
        self.assertEqual(self.shown(reverse("designs:tools")).count("tool-drawing"), 1)

    def test_taking_a_tool_off_and_undoing(self):
        self.post(kind="punch", typed_sizes="1", reach="1½")
        tool = Tool.objects.get()
        self.assertContains(self.client.get(reverse("designs:tools")), "reaches 1½ in from an edge")
        self.client.post(reverse("designs:remove_tool", args=[tool.pk]))
        self.assertContains(self.client.get(reverse("designs:tools")), "Nothing listed yet")
        self.client.post(reverse("designs:restore_tool", args=[tool.pk]))
        self.assertContains(self.client.get(reverse("designs:tools")), "Circles")


class StrangerTests(DesignTests):
    def test_a_stranger_finds_none_of_it(self):
        edition = Edition.objects.create(card=self.card, name="first", cut_list="")
        tool = Tool.objects.create(owner=self.user, name="Circles", sizes=[[1016, 1016]])
        other = make_class(self.stranger)
        self.client.force_login(self.stranger)
        for name in ("design", "alone", "print"):
            self.assertEqual(self.client.get(self.at(name)).status_code, 404, name)
        for address in (
            self.at("export", "txt"),
            self.at("drawing", "front"),
            reverse("designs:edit_tool", args=[tool.pk]),
        ):
            self.assertEqual(self.client.get(address).status_code, 404, address)
        for name in ("read_alone", "step", "move", "cells", "table", "sizes", "understand", "copy", "keep", "take_in"):
            self.assertEqual(self.client.post(self.at(name)).status_code, 404, name)
        for address in (
            reverse("classes:use", args=[self.card.pk]),
            self.at("remove_design"),
            reverse("designs:bring_back", args=[edition.pk]),
            reverse("designs:remove_tool", args=[tool.pk]),
            reverse("designs:restore_tool", args=[tool.pk]),
        ):
            self.assertEqual(self.client.post(address, {"class": other.pk}).status_code, 404, address)
        taken = self.client.post(reverse("classes:new_card", args=[other.pk]), {"design": self.card.pk})
        self.assertEqual(taken.status_code, 404)
        self.assertNotContains(self.client.get(reverse("designs:library")), "Card 1")
        self.assertFalse(other.class_cards.exists())


class SketchTests(SignedInTests):
    def test_a_design_by_itself_is_printed_and_saved_with_its_sizes(self):
        text = "card 4¼ x 5½ side fold\nBase brass\nMat 4 x 5¼ brass\nPanel 3 x 4 brass"
        card = Card.objects.create(owner=self.user, name="Alone", cut_list=text)
        page = self.client.get(reverse("designs:print", args=[card.pk]))
        self.assertContains(page, "Front apart, with sizes, not to scale")
        drawing = self.client.get(reverse("designs:drawing", args=[card.pk, "apart-front"])).content.decode()
        for words in ("Mat 4 × 5¼ in", "Panel 3 × 4 in"):
            self.assertContains(page, words)
            self.assertIn(words, drawing)

    def test_in_the_table_the_time_of_a_job_is_chosen(self):
        card = Card.objects.create(owner=self.user, name="Alone", cut_list="Tag 2 x 3 brass stamped")
        page = self.client.post(reverse("designs:table", args=[card.pk]), {"cut_list": card.cut_list})
        self.assertContains(page, 'aria-label="When it is done, line 1"')
        row = {"kind": "piece", "name": "Tag", "size": "2 x 3", "paper": "brass", "rules": "stamped"}
        answer = self.client.post(reverse("designs:cells", args=[card.pk]), row | {"when": "class"}).json()
        self.assertEqual(answer["text"], "Tag  2 x 3  brass  stamped in class")
        row["rules"] = "stamped in class"
        answer = self.client.post(reverse("designs:cells", args=[card.pk]), row | {"when": "usual"}).json()
        self.assertEqual(answer["text"], "Tag  2 x 3  brass  stamped")
        # Without a choice the words stay as they are.
        self.assertIn("in class", self.client.post(reverse("designs:cells", args=[card.pk]), row).json()["text"])


class OwnWordTests(DesignTests):
    def setUp(self):
        super().setUp()
        make_paper(self.user, "Brass Rays", "12x12", kind="patterned")

    def pick(self, written: str, picked: str):
        """A line that is asked about, then what was picked for it."""
        card = Card.objects.get(pk=self.card.pk)
        save_list(card, written, card.saves, "me")
        save_list(card, picked, card.saves + 1, "me")

    def use(self, word: str, means: str):
        return self.client.post(reverse("designs:own_word"), {"word": word, "means": means}, follow=True)

    def read(self, text: str):
        return read_list(text, known_to(self.user), SIXTEENTHS)[-1]

    def test_what_is_picked_twice_for_a_word_is_proposed_and_used_once_that_is_said(self):
        page = reverse("designs:tools")
        self.pick("Mat 4 x 5 brass", "Mat 4 x 5 Telescope Brass")
        self.assertNotContains(self.client.get(page), "Always?")
        self.pick("Strip 1 x 4 brass", "Strip 1 x 4 Telescope Brass")
        self.assertContains(self.client.get(page), "for “brass” 2 times. Always?")
        self.assertIn("could be", str(self.read("Mat 4 x 5 brass").error))
        self.assertContains(self.use("brass", "Telescope Brass"), "stands for “Telescope Brass” in your lists")
        self.assertEqual(self.read("Mat 4 x 5 brass").piece.paper, self.read("Mat 4 x 5 telescope brass").piece.paper)
        self.assertNotContains(self.client.get(page), "Always?")

    def test_a_word_stands_for_other_words_of_a_line_and_the_text_stays_as_typed(self):
        self.use("pop", "raised")
        self.use("tb", "telescope brass")
        reading = self.read("Star 1 x 1 tb pop # pop it")
        self.assertGreater(reading.piece.raised, 0)
        self.assertEqual((reading.text, reading.piece.note), ("Star 1 x 1 tb pop # pop it", "pop it"))
        self.assertIn("raised", reading.meant)
        self.client.post(reverse("designs:remove_word", args=[OwnWord.objects.get(word="pop").pk]))
        self.assertIsNotNone(self.read("Star 1 x 1 tb pop").error)
        self.client.post(reverse("designs:restore_word", args=[OwnWord.objects.get(word="pop").pk]))
        self.assertIsNone(self.read("Star 1 x 1 tb pop").error)
        # What was removed does not come back beside another meaning.
        gone = OwnWord.objects.get(word="pop")
        self.client.post(reverse("designs:remove_word", args=[gone.pk]))
        self.use("pop", "raised ⅛")
        page = self.client.post(reverse("designs:restore_word", args=[gone.pk]), follow=True)
        self.assertContains(page, "“pop” stands for “raised ⅛” now. Remove that first.")
        # Another meaning takes the place of the one before.
        self.use("TB", "brass rays")
        self.assertEqual(OwnWord.objects.of(self.user).filter(word__iexact="tb").count(), 1)

    def test_a_class_that_is_packed_keeps_the_words_it_was_read_with(self):
        self.use("tb", "telescope brass")
        card_class = make_class(self.user, "Mat 4 x 5 tb")
        hold_designs(card_class)
        self.client.post(reverse("designs:remove_word", args=[OwnWord.objects.get().pk]))
        self.assertEqual(count_class(CardClass.objects.get(pk=card_class.pk)).errors, 0)
        self.assertIsNotNone(self.read("Mat 4 x 5 tb").error)

    def test_what_is_no_word_is_refused_and_nobody_has_anothers(self):
        for word, means in (("4", "x"), ("a#b", "x"), ("x" * 41, "y"), ("pop", ""), ("pop", "a # b"), ("", "y")):
            page = self.use(word, means)
            self.assertContains(page, "own-word-error")
        # What was typed is there still.
        self.assertContains(self.use("4", "chalk moon"), 'value="chalk moon"')
        self.assertFalse(OwnWord.objects.exists())
        self.use("tb", "telescope brass")
        word = OwnWord.objects.get()
        self.client.force_login(self.stranger)
        self.assertNotContains(self.client.get(reverse("designs:tools")), "telescope brass")
        self.assertEqual(self.client.post(reverse("designs:remove_word", args=[word.pk])).status_code, 404)
