"""The ledger, sizes, offcuts, bits and pads on the shelf's pages."""

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from tests.people import SignedInTests, make_paper
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM
from zester.core.stock.offcut_lines import OffcutLine
from zester.shelf.models import Bit, Entry, Pad, Paper, Sheet
from zester.shelf.stock import balance, book, put_offcuts, stock_take, stop_counting

INCH = TICKS_PER_INCH


class LedgerTests(SignedInTests):
    def on_hand(self) -> int | None:
        self.paper.refresh_from_db()
        return self.paper.on_hand

    def book(self, kind: str, number: str, size: int = 0):
        data = {"kind": kind, "number": number, "size": size, "about": "a try"}
        return self.client.post(reverse("shelf:book", args=[self.paper.pk]), data, follow=True)

    def test_what_is_booked_adds_up_and_says_when_what_for_and_by_what(self):
        self.book("bought", "20")
        page = self.book("spoiled", "3")
        self.assertEqual((self.on_hand(), balance(self.paper, None)), (17, 17))
        entry = Entry.objects.first()
        self.assertEqual((entry.count, entry.about, entry.by), (-3, "a try", "by hand"))
        self.assertContains(page, "−3")
        self.assertContains(self.client.get(reverse("shelf:ledger")), "a try")

    def test_an_error_is_corrected_by_another_entry_once(self):
        self.book("bought", "20")
        first = Entry.objects.get()
        page = self.client.post(reverse("shelf:correct", args=[first.pk]), follow=True)
        self.assertContains(page, "Taken back by another entry")
        self.assertEqual((self.on_hand(), Entry.objects.count()), (0, 2))
        page = self.client.post(reverse("shelf:correct", args=[first.pk]), follow=True)
        self.assertContains(page, "taken back already")
        again = Entry.objects.exclude(pk=first.pk).get()
        self.assertContains(
            self.client.post(reverse("shelf:correct", args=[again.pk]), follow=True), "is not taken back"
        )
        self.assertEqual(self.on_hand(), 0)

    def test_what_makes_no_sense_is_said_beside_its_field(self):
        for kind, number, words in (
            ("bought", "", "This field is required"),
            ("bought", "0", "Write 1 or more"),
            ("bought", "-4", "Write 1 or more"),
            ("bought", "some", "whole number"),
            ("bought", "9999999", "At most 100000."),
            ("lent", "3", "Select a valid choice"),
            ("spoiled", "3", "Nobody counts this paper"),
        ):
            with self.subTest(kind=kind, number=number):
                self.assertContains(self.book(kind, number), words)
        self.assertFalse(Entry.objects.exists())

    def test_more_that_goes_than_is_there_is_booked_and_loudly_said(self):
        self.book("bought", "2")
        page = self.book("given", "5")
        self.assertContains(page, "That makes -3 on hand: more went than was there")
        self.assertContains(self.client.get(reverse("shelf:shelf")), 'class="wrong">-3')

    def test_a_paper_that_nobody_counts_any_more_begins_anew(self):
        book(self.paper, None, "bought", 12)
        stop_counting(self.paper)
        self.assertEqual((self.on_hand(), balance(self.paper, None)), (None, 0))
        stock_take(self.paper, None, 4)
        self.assertEqual((self.on_hand(), balance(self.paper, None)), (4, 4))

    def test_the_papers_own_page_books_what_is_typed_there(self):
        data = {"name": "Telescope Brass", "kind": "card", "sheet": "letter", "direction": "free", "pack": "1"}
        data |= {"colour": "#b98f45", "repeat": "plain", "back": "same", "supply": "on_hand", "on_hand": "9"}
        self.client.post(reverse("shelf:edit", args=[self.paper.pk]), data)
        self.client.post(reverse("shelf:edit", args=[self.paper.pk]), data | {"on_hand": "7"})
        entries = list(Entry.objects.order_by("pk").values_list("kind", "count"))
        self.assertEqual(entries, [("counted", 9), ("counted", -2)])
        self.client.post(reverse("shelf:edit", args=[self.paper.pk]), data | {"supply": "buy"})
        self.assertIsNone(self.on_hand())


class StockTakeTests(SignedInTests):
    url = "shelf:take_stock"

    def send(self, **counts):
        return self.client.post(reverse(self.url), counts, follow=True)

    def test_only_differences_are_booked(self):
        other = make_paper(self.user, "Chalk Moon")
        book(self.paper, None, "bought", 20)
        book(other, None, "bought", 5)
        page = self.send(**{f"{self.paper.pk}-0": "18", f"{other.pk}-0": "5"})
        self.assertContains(page, "1 difference is booked")
        entry = Entry.objects.first()
        self.assertEqual((entry.kind, entry.count, entry.by), ("counted", -2, "stock-take"))

    def test_what_is_wrong_stays_in_its_field_and_nothing_is_booked(self):
        other = make_paper(self.user, "Chalk Moon")
        for wrong in ("-1", "many", "2.5", "9999999"):
            page = self.send(**{f"{self.paper.pk}-0": wrong, f"{other.pk}-0": "5"})
            self.assertContains(page, "Write a whole number from 0")
            self.assertContains(page, f'value="{wrong}"')
        self.assertFalse(Entry.objects.exists())

    def test_what_was_booked_while_somebody_counted_is_said(self):
        book(self.paper, None, "bought", 20)
        book(self.paper, None, "spoiled", 2)
        name = f"{self.paper.pk}-0"
        page = self.send(**{name: "20", f"seen-{name}": "20"})
        self.assertContains(page, "Something was booked while you counted: 18 are booked now")
        self.send(**{name: "17", f"seen-{name}": "18"})
        self.paper.refresh_from_db()
        self.assertEqual(self.paper.on_hand, 17)

    def test_a_table_fills_the_fields_in_and_what_is_unknown_is_said(self):
        table = SimpleUploadedFile("stock.csv", b"paper,size,on hand\nTelescope Brass,,7\nNobody,,3\n")
        page = self.client.post(reverse(self.url), {"table": table})
        self.assertContains(page, 'value="7"')
        self.assertContains(page, "Not on the shelf, so left out: Nobody")
        self.assertFalse(Entry.objects.exists())
        wrong = SimpleUploadedFile("stock.csv", b"a,b\n1,2\n")
        self.assertContains(self.client.post(reverse(self.url), {"table": wrong}), "No column is called")

    def test_stock_as_csv_is_read_again(self):
        book(self.paper, None, "bought", 7)
        table = self.client.get(reverse("shelf:stock_csv")).content
        page = self.client.post(reverse(self.url), {"table": SimpleUploadedFile("stock.csv", table)})
        self.assertContains(page, 'value="7"')


class SizesTests(SignedInTests):
    def test_a_paper_comes_in_another_size(self):
        url = reverse("shelf:new_sheet", args=[self.paper.pk])
        page = self.client.post(url, {"sheet": "12x12", "price": "0,95", "pack": "5", "on_hand": "3"}, follow=True)
        self.assertContains(page, "comes in 12 × 12 in, too")
        sheet = Sheet.objects.get()
        self.assertEqual((sheet.width, sheet.on_hand, balance(self.paper, sheet)), (12 * INCH, 3, 3))
        for wrong, words in (
            ({"sheet": "letter", "pack": "1"}, "has this size already"),
            ({"sheet": "12x12", "pack": "1"}, "has this size already"),
            ({"sheet": "typed", "typed_size": "11 x 8½", "pack": "1"}, "has this size already"),
            ({"sheet": "typed", "pack": "1"}, "How large is the sheet"),
            ({"sheet": "a4", "pack": "0"}, "A pack holds at least 1"),
            ({"sheet": "a4", "pack": "1", "price": "-1"}, "Write 0 or more"),
            ({"sheet": "a4", "pack": "1", "price": "1,000"}, "Is “1,000” 1000, or 1.000?"),
            ({"sheet": "a4", "pack": "1", "price": "cheap"}, "Enter a number"),
            ({"sheet": "a4", "pack": "1", "on_hand": "-1"}, "Write 0 or more"),
        ):
            with self.subTest(wrong):
                self.assertContains(self.client.post(url, wrong), words)
        self.client.post(reverse("shelf:remove_sheet", args=[self.paper.pk, sheet.pk]), follow=True)
        self.assertNotContains(self.client.get(reverse("shelf:shelf")), "12 × 12 in")
        self.assertEqual(balance(self.paper, sheet), 3)


class OffcutTests(SignedInTests):
    url = "shelf:offcuts"

    def test_lines_become_offcuts_drawn_to_scale(self):
        self.client.post(reverse(self.url), {"lines": "brass 4¼ x 6, 2, drawer\nbrass 2 x 11"})
        self.assertEqual(list(Sheet.objects.values_list("on_hand", "place")), [(2, "drawer"), (1, "")])
        page = self.client.get(reverse(self.url))
        # 15 CSS pixels an inch.
        self.assertContains(page, 'width="64" height="90"')
        self.assertContains(page, "<strong>2</strong> of 4¼ × 6 in")
        self.client.post(reverse(self.url), {"lines": "brass 4¼ x 6, 3, drawer"})
        self.assertEqual(Sheet.objects.get(place="drawer").on_hand, 5)

    def test_a_line_that_is_not_clear_keeps_all_that_was_typed(self):
        page = self.client.post(reverse(self.url), {"lines": "brass 4¼ x 6\nbrass 0.3 x 4"})
        self.assertContains(page, "nearest marks")
        self.assertContains(page, "brass 4¼ x 6\nbrass 0.3 x 4")
        self.assertFalse(Sheet.objects.exists())

    def test_one_is_spoiled_and_the_last_leaves_the_board_but_not_the_ledger(self):
        (sheet,) = put_offcuts(self.user, [OffcutLine(paper=self.paper.key, width=4 * INCH, height=6 * INCH)])
        self.client.post(reverse("shelf:offcut_gone", args=[sheet.pk]), {"kind": "spoiled", "count": "1"})
        self.assertContains(self.client.get(reverse(self.url)), "No offcuts yet")
        self.assertEqual([each.count for each in Entry.objects.order_by("pk")], [1, -1])

    def test_a_table_becomes_lines_to_look_at(self):
        put_offcuts(
            self.user, [OffcutLine(paper=self.paper.key, width=4 * INCH, height=6 * INCH, count=3, place="box")]
        )
        table = self.client.get(reverse("shelf:offcuts_csv")).content
        page = self.client.post(reverse(self.url), {"table": SimpleUploadedFile("offcuts.csv", table)})
        self.assertContains(page, "Telescope Brass 4 x 6 in; 3; box; top on the top")
        self.assertContains(page, "all understood")
        wrong = self.client.post(reverse(self.url), {"table": SimpleUploadedFile("x.csv", b"a\n1\n")}, follow=True)
        self.assertContains(wrong, "No column is called")


class PapersTableTests(SignedInTests):
    def test_papers_as_csv_come_back_as_lines(self):
        Paper.objects.update(price="0.42", weight=216)
        table = self.client.get(reverse("shelf:papers_csv")).content
        page = self.client.post(reverse("shelf:read_table"), {"table": SimpleUploadedFile("papers.csv", table)})
        self.assertContains(page, "Telescope Brass; 8 1/2 x 11 in; card; 0.42 a sheet; pack of 1; 216 gsm")
        self.client.post(
            reverse("shelf:lines"), {"lines": "Lagoon; 8 1/2 x 11 in; card; 0.42; 20 on hand", "unit": "in"}
        )
        self.assertEqual(Paper.objects.get(name="Lagoon").on_hand, 20)
        wrong = self.client.post(reverse("shelf:read_table"), {}, follow=True)
        self.assertContains(wrong, "Choose a CSV table")


class BitsTests(SignedInTests):
    def save(self, **data):
        data = {"name": "Brass thread", "how": "length", "pack_text": "10 m", "price": "2.40"} | data
        return self.client.post(reverse("shelf:new_bit"), data, follow=True)

    def test_by_the_length_and_by_the_piece(self):
        self.save(on_hand_text="4 m")
        thread = Bit.objects.get()
        self.assertEqual((thread.pack, thread.on_hand), (10_000 * TICKS_PER_MM, 4000 * TICKS_PER_MM))
        self.save(name="Gems", how="count", pack_text="100", on_hand_text="40")
        self.assertEqual(Bit.objects.get(name="Gems").on_hand, 40)
        self.save(name="Ribbon", pack_text="9 yards")
        self.assertEqual(Bit.objects.get(name="Ribbon").pack, 9 * 36 * INCH)
        self.assertContains(self.client.get(reverse("shelf:bits")), "10.00 m")
        gems = Bit.objects.get(name="Gems")
        data = {"name": "Gems", "pack_text": "100", "price": "", "on_hand_text": ""}
        self.client.post(reverse("shelf:edit_bit", args=[gems.pk]), data)
        gems.refresh_from_db()
        self.assertIsNone(gems.on_hand)
        self.assertEqual(sum(gems.entries.values_list("count", flat=True)), 0)

    def test_what_makes_no_sense_is_said(self):
        self.save()
        for wrong, words in (
            ({"name": "brass THREAD"}, "there already"),
            ({"name": "x", "pack_text": "0.3"}, "nearest marks"),
            ({"name": "x", "how": "count", "pack_text": "many"}, "no number of pieces"),
            ({"name": "x", "how": "count", "pack_text": "0"}, "holds something"),
            ({"name": "x", "price": "-1"}, "Write 0 or more"),
        ):
            with self.subTest(wrong):
                self.assertContains(self.save(**wrong), words)

    def test_a_pad_is_bought_whole_and_can_be_taken_back(self):
        kites, ropes = (make_paper(self.user, name, "6x6", kind="patterned") for name in ("Kites", "Ropes"))
        data = {"name": "Harbour pad", "price": "6.40", f"holds_{kites.key}": "2", f"holds_{ropes.key}": "2"}
        self.assertContains(self.client.post(reverse("shelf:new_pad"), data, follow=True), "4&nbsp;sheets")
        pad = Pad.objects.get()
        self.client.post(reverse("shelf:pad_bought", args=[pad.pk]), {"count": "3"})
        self.assertEqual(list(Paper.objects.filter(kind="patterned").values_list("on_hand", flat=True)), [6, 6])
        for count in ("0", "many", "99999"):
            page = self.client.post(reverse("shelf:pad_bought", args=[pad.pk]), {"count": count}, follow=True)
            self.assertContains(page, "How many pads?")
        kites.remove()
        page = self.client.post(reverse("shelf:pad_bought", args=[pad.pk]), {"count": "1"}, follow=True)
        self.assertContains(page, "not on the shelf")
        empty = {"name": "x", f"holds_{ropes.key}": ""}
        self.assertContains(self.client.post(reverse("shelf:new_pad"), empty), "Which papers does it hold")
        self.client.post(reverse("shelf:remove_pad", args=[pad.pk]))
        self.client.post(reverse("shelf:restore_pad", args=[pad.pk]))
        self.assertTrue(Pad.objects.of(self.user).exists())
