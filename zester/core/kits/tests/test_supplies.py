"""Supplies by name, and remarks: worked by hand."""

from unittest import TestCase

from zester.core.cards.tests.cards import KNOWN
from zester.core.cutlist.notation import read_list
from zester.core.errors import ZesterError
from zester.core.kits.supplies import Supply, of_tools, read_supplies, to_bring, together


class SuppliesTests(TestCase):
    def test_name_place_link_and_whether_the_kit_has_it(self):
        for line, supply in {
            "Dark blue ink": Supply(name="Dark blue ink"),
            "Crescent of the moon stamps, for A6 | Lantern Lane, page 12": Supply(
                name="Crescent of the moon stamps, for A6", where="Lantern Lane, page 12"
            ),
            "Gel pen, if you have it | https://example.org/pens?x=1": Supply(
                name="Gel pen, if you have it", link="https://example.org/pens?x=1"
            ),
            "kit: glue dots, 6": Supply(name="glue dots, 6", in_kit=True),
            "Glue dots (in the kit) | drawer": Supply(name="Glue dots", where="drawer", in_kit=True),
            "Stamp HTTP://EXAMPLE.ORG/a": Supply(name="Stamp", link="HTTP://EXAMPLE.ORG/a"),
        }.items():
            with self.subTest(line):
                self.assertEqual(read_supplies(f"\n{line}\n"), [supply])
        self.assertEqual(read_supplies(""), [])

    def test_what_may_not_be_opened_is_refused_and_nothing_is_cut_off(self):
        for line, said in {
            "Pen javascript:alert(1)": "A link begins with https://",
            "Pen data:text/html,x": "is no link",
            "Pen ftp://example.org/x": "is no link",
            "Pen www.example.org": "is no link",
            "Pen https://a.org https://b.org": "Two links in one line",
            "| page 12": "names nothing",
            "x" * 600: "is too long",
            f"Pen https://example.org/{'x' * 300}": "A link has up to 300 letters",
            "\n".join(["ink"] * 61): "A card has room for 60",
        }.items():
            with self.subTest(line[:40]), self.assertRaises(ZesterError) as found:
                read_supplies(line)
            self.assertIn(said, found.exception.advice())

    def test_what_is_named_need_not_be_said_in_general(self):
        needed = ["stamps and ink", "bone folder", "glue", "inks or markers"]
        self.assertEqual(
            to_bring(needed, read_supplies("Moon stamps\nGlue for paper")), ["bone folder", "inks or markers"]
        )
        self.assertEqual(to_bring(needed, []), needed)

    def test_several_cards_name_each_supply_once(self):
        lists = [("A", read_supplies("Blue ink\nGel pen")), ("B", read_supplies("blue  INK | https://example.org"))]
        found = together(lists)
        self.assertEqual(
            [(supply.name, cards) for supply, cards in found], [("blue  INK", ("A", "B")), ("Gel pen", ("A",))]
        )
        self.assertEqual(found[0][0].link, "https://example.org")

    def test_tools_with_a_source(self):
        known = {"Moons": ("Lantern Lane", ""), "Clouds": ("", "")}
        self.assertEqual(
            of_tools(["Moons", "Clouds", "Moons", "Stars"], known), [Supply(name="Moons", where="Lantern Lane")]
        )


class RemarkTests(TestCase):
    def notes(self, text: str) -> list[str]:
        return [
            (reading.piece or reading.bit).note for reading in read_list(text, KNOWN) if reading.piece or reading.bit
        ]

    def test_a_remark_on_a_line_of_its_own_is_about_what_stands_above(self):
        text = "Mat 4 x 5 chalk # keep the scraps\n# press it under a book\n"
        text += "Panel 3 x 4 brass\n+ 6 gems # cut apart in fives"
        self.assertEqual(self.notes(text), ["keep the scraps; press it under a book", "", "cut apart in fives"])
        self.assertEqual(self.notes("+ 6 gems\n# cut them apart in fives"), ["cut them apart in fives"])

    def test_headings_are_about_what_follows_and_harm_nothing(self):
        for heading in ("# inside", "# the inside", "# this is for the back:", "#", "# ---"):
            self.assertEqual(self.notes(f"Mat 4 x 5 chalk\n{heading}\nPanel 3 x 4 brass"), ["", ""], heading)
        self.assertEqual(self.notes("Mat 4 x 5 chalk\n\n# written much further below it\nPanel 3 x 4 brass"), ["", ""])
        self.assertEqual(self.notes("# a remark above all pieces\nMat 4 x 5 chalk"), [""])
