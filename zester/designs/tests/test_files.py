"""Files from outside: whatever is in them, a clear answer, nothing lost, no error page, and not much memory."""

import csv
import io
import json
import random
import resource
import struct
import tracemalloc
import zipfile
import zlib

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import SimpleTestCase
from django.urls import reverse
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from tests.people import SignedInTests
from zester.core.cutlist.list_files import READERS, read_file, rows_of, write_csv, write_json, write_xlsx
from zester.core.errors import CutListError
from zester.core.lengths import SIXTEENTHS
from zester.core.pieces import Known, KnownPaper
from zester.core.tests.share import some
from zester.designs.models import Card

KNOWN = Known((KnownPaper(key="b", name="Telescope Brass", width=8636, height=11176),))
LIST = "card 4¼ x 5½ side fold\nBase telescope brass\n2 Strips ½ x 4 telescope brass\n+ 6 foam squares\n# remark"
ROWS = rows_of(LIST, KNOWN, SIXTEENTHS)
GOOD = {
    "txt": LIST.encode(),
    "csv": write_csv(ROWS),
    "json": write_json(ROWS, "Card", "in16"),
    "xlsx": write_xlsx(ROWS),
}
SPLICES = (
    b"\x00",
    b"\xff\xfe",
    b"\\ud800",
    b"[]",
    b"{}",
    b"null",
    b'"' * 9,
    b"9" * 5000,
    "²".encode(),
    b"\r",
    b"=1+1",
    b"PK\x03\x04",
)


def mutated(data: bytes, dice: random.Random) -> bytes:
    """A good file with a few things wrong: bytes changed, cut out, doubled, something put in, the end missing."""
    data = bytearray(data)
    for _ in range(dice.randint(1, 6)):
        at = dice.randrange(len(data)) if data else 0
        way = dice.randrange(6)
        if way == 0 and data:
            data[at] = dice.randrange(256)
        elif way == 1:
            del data[at : at + dice.randint(1, 40)]
        elif way == 2:
            data[at:at] = data[at : at + dice.randint(1, 200)]
        elif way == 3:
            data[at:at] = dice.choice(SPLICES)
        elif way == 4:
            del data[at:]
        else:
            other = dice.randrange(len(data)) if data else 0
            data[at : at + 20] = data[other : other + 20]
    return bytes(data)


def in_the_workbook(data: bytes, dice: random.Random) -> bytes:
    """A workbook whose parts are broken inside, so that the archive itself is whole."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as good, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as bad:
        victim = dice.choice(good.namelist())
        for name in good.namelist():
            if name != victim:
                bad.writestr(name, good.read(name))
            elif dice.random() < 0.8:
                bad.writestr(name, mutated(good.read(name), dice))
    return out.getvalue()


class Fuzz(SimpleTestCase):
    """Good files with something wrong in them: thousands, from fixed and from new seeds."""

    def read(self, name: str, data: bytes) -> None:
        try:
            found = read_file(name, data)
        except CutListError as error:
            self.assertTrue(error.advice())
            error.advice().encode()
        else:
            found.text.encode()
            self.assertLessEqual(len(found.text.splitlines()), 200)

    @settings(max_examples=some(700))
    @given(st.sampled_from(sorted(READERS)), st.randoms(use_true_random=False))
    def test_broken_files(self, ending, dice):
        self.read(f"list.{ending}", mutated(GOOD[ending], dice))

    @settings(max_examples=some(300))
    @given(st.randoms(use_true_random=False))
    def test_broken_parts_of_a_workbook(self, dice):
        self.read("list.xlsx", in_the_workbook(GOOD["xlsx"], dice))

    @settings(max_examples=some(300))
    @given(
        st.recursive(
            st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=30),
            lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=8), inner, max_size=4),
            max_leaves=12,
        ),
        st.sampled_from(["name", "ruler", "lines", "zester", "line", "cell"]),
    )
    def test_json_with_something_else_in_a_place(self, value, place):
        data = json.loads(GOOD["json"])
        if place == "line":
            data["lines"][0] = value
        elif place == "cell":
            data["lines"][1]["name"] = value
        else:
            data[place] = value
        self.read("list.json", json.dumps(data).encode())

    @settings(max_examples=some(300))
    @given(st.binary(max_size=3000), st.sampled_from(sorted(READERS)))
    def test_what_is_no_file_of_ours_at_all(self, data, ending):
        self.read(f"list.{ending}", data)

    def test_half_letters_deep_nests_and_long_numbers(self):
        deep = "[" * 100_000
        for text in (
            '{"zester": "zester-cut-list/1", "lines": [{"name": "\\ud800"}]}',
            '{"zester": "zester-cut-list/1", "lines": [], "ruler": []}',
            '{"zester": "zester-cut-list/1", "lines": [], "name": "\\udfff"}',
            '{"zester": "zester-cut-list/1", "lines": [{"count": %s}]}' % ("9" * 5000),
            '{"zester": "zester-cut-list/1", "lines": [{"count": %s}]}' % ("9" * 4000),
            '{"zester": "zester-cut-list/1", "lines": [{"kind": "\\ud800"}]}',
            deep,
        ):
            with self.assertRaises(CutListError):
                read_file("list.json", text.encode())

    def test_a_small_file_that_unpacks_to_a_large_one_is_turned_away_unread(self):
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
            packed.writestr("xl/worksheets/sheet1.xml", b"<a>" + b" " * 200_000_000 + b"</a>")
        self.assertLess(len(out.getvalue()), 500_000)
        tracemalloc.start()
        with self.assertRaisesMessage(CutListError, "too large"):
            read_file("list.xlsx", out.getvalue())
        self.assertLess(tracemalloc.get_traced_memory()[1], 20_000_000)
        tracemalloc.stop()

    def test_cells_that_begin_like_formulas_are_harmless_with_any_separator(self):
        text = "# a;=HYPERLINK(1)\n# b\t+1+1\n# c|@x\n# =1\n# d;'=2\n# e;-3"
        written = write_csv(rows_of(text, KNOWN, SIXTEENTHS)).decode("utf-8-sig")
        for separator in ",;\t|":
            for row in csv.reader(io.StringIO(written), delimiter=separator):
                self.assertEqual([cell for cell in row if cell.lstrip().startswith(("=", "+", "-", "@"))], [], row)
        self.assertEqual(read_file("list.csv", written.encode()).text, text)


class Uploads(SignedInTests):
    def setUp(self):
        super().setUp()
        self.card = Card.objects.create(owner=self.user, name="Moon", cut_list="Base 4 x 5 brass")
        self.page = reverse("designs:design", args=[self.card.pk])

    def take_in(self, name: str, data: bytes):
        return self.client.post(
            reverse("designs:take_in", args=[self.card.pk]), {"file": SimpleUploadedFile(name, data)}, follow=True
        )

    def test_a_list_that_is_longer_than_a_card_holds_is_not_taken_in_without_its_end(self):
        text = "\n".join("# " + "a" * 210 for _ in range(197)) + "\nBase 4 x 5 brass"
        self.assertGreater(len(text), 40_000)
        answer = self.take_in("long.txt", text.encode())
        self.assertContains(answer, "letters, a card’s holds 40,000")
        self.card.refresh_from_db()
        self.assertEqual(self.card.cut_list, "Base 4 x 5 brass")
        self.assertFalse(self.card.editions.exists())

    def test_broken_files_give_a_page_and_the_pages_after_it_work(self):
        dice = random.Random(5)
        for number in range(60):
            ending = sorted(READERS)[number % 4]
            answer = self.take_in(f"list.{ending}", mutated(GOOD[ending], dice))
            self.assertEqual(answer.status_code, 200)
        bad = b'{"zester": "zester-cut-list/1", "lines": [{"kind": "\\ud800"}]}'
        self.assertContains(self.take_in("list.json", bad), "of no known kind")
        self.assertEqual(self.client.get(reverse("classes:list")).status_code, 200)

    def photo(self, data: bytes, name: str = "photo.jpg"):
        sent = {"photo_form": "1", "photo": SimpleUploadedFile(name, data)}
        return self.client.post(self.page, sent)

    def test_broken_photos_are_said_to_be_so(self):
        good = io.BytesIO()
        Image.new("RGB", (60, 40), "navy").save(good, "JPEG")
        dice = random.Random(6)
        for _ in range(60):
            self.assertIn(self.photo(mutated(good.getvalue(), dice)).status_code, (200, 302))

    def test_photos_of_too_many_pixels_are_turned_away_unpacked_by_nobody(self):
        wide = png_of(20_000, 20_000)
        self.assertLess(len(wide), 3_000_000)
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        self.assertEqual(self.photo(wide).status_code, 200)
        self.assertContains(self.photo(png_of(5_000, 5_000)), "too many pixels")
        after = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        self.assertLess(after - before, 300_000)
        self.card.refresh_from_db()
        self.assertFalse(self.card.photos.exists())


def png_of(width: int, height: int) -> bytes:
    """A PNG (ISO/IEC 15948) of one colour, hundreds of rows high, written without ever holding its pixels."""
    # Every hundred rows are the same: packed once, and put one after the other (RFC 1950, 1951).
    rows, packer, check = bytes(100 * (1 + width * 3)), zlib.compressobj(wbits=-15), 1
    packed = packer.compress(rows) + packer.flush(zlib.Z_FULL_FLUSH)
    for _ in range(height // 100):
        check = zlib.adler32(rows, check)
    pixels = b"\x78\x9c" + packed * (height // 100) + b"\x03\x00" + struct.pack(">I", check)

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    header = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", pixels) + chunk(b"IEND", b"")
