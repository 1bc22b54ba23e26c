"""Guides typed and brought in, the casting table move by move, and what of it reaches plans, kits and hand-outs."""

from __future__ import annotations

import json
from collections import Counter

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import override_settings
from django.urls import reverse

from tests.people import AT_ONCE, SignedInTests, fitted, make_class, make_paper
from zester.casting.finding import next_to_cast
from zester.casting.guides import keep_guide, use_guide
from zester.casting.models import ClassGuide, Guide, GuideSearch
from zester.casting.printed import guide_pages
from zester.casting.searching import look_task
from zester.casting.table import Table, said
from zester.classes.models import CardClass, Casting, Substitution
from zester.classes.people import take_instead
from zester.classes.services import copy_class, count_class, recount
from zester.core.casting.guide import read_guide
from zester.core.fitting.jobs.check_plan import check_paper
from zester.core.fitting.jobs.plan import read_paper
from zester.core.lengths import TICKS_PER_INCH
from zester.plans.kept import read_made
from zester.plans.models import PaperFit
from zester.shelf.models import Pad, Paper
from zester.shelf.stock import book

SIX = 6 * TICKS_PER_INCH
BASE = "card 4¼ x 5½ side fold\nBase  8½ x 5½  telescope brass"
ONE = f"{BASE}\nSky  6 x 3  sheet A  upright\nInside panel  3 x 3  sheet B"
TWO = f"{BASE}\n2 Doors  3 x 3  sheet A, either side\nStrip  3 x 6  optional B"
LINES = "A: 6 x 3 card 1; 3 x 3 cards 2, 2\nB: 3 x 3 card 1; 3 x 6 card 2; 3 x 3 filler"


class CastingCase(SignedInTests):
    def setUp(self):
        super().setUp()
        self.kites, self.dots, self.ropes = (
            make_paper(self.user, name, "6x6", kind="patterned", **more)
            for name, more in (
                ("Kite Tails", {"direction": "upright", "back": "other", "back_direction": "free", "look": "busy"}),
                ("Small Dots", {"look": "calm", "back": "none"}),
                ("Rope Ladder", {"colour": "#aa3322"}),
            )
        )
        self.card_class = make_class(self.user, ONE, TWO, participants=5)
        CardClass.objects.filter(pk=self.card_class.pk).update(participants=5)
        self.card_class.class_cards.update(samples=1, each=1)
        recount(self.card_class.pk)
        self.guide = Guide(owner=self.user, name="Two from two", width=SIX, height=SIX, lines=LINES)

    def address(self, name: str, *more) -> str:
        return reverse(f"casting:{name}", args=[self.card_class.pk, *more])

    def cast(self, name: str = "First", last: int = 0, **letters: Paper) -> Casting:
        keys = {letter: paper.key for letter, paper in letters.items()}
        row = Casting.objects.create(card_class=self.card_class, name=name, cast={"letters": keys}, last=last)
        recount(self.card_class.pk)
        return row

    def move(self, **sent):
        row = Casting.objects.filter(card_class=self.card_class).first()
        address = self.address("move", row.pk) if row else self.address("begin")
        return self.client.post(address, sent, headers={"HX-Request": "true"})

    def counts(self) -> dict[str, tuple[str, str, int]]:
        counted = count_class(CardClass.objects.get(pk=self.card_class.pk))
        return {each.handle: (counted.names[each.piece.paper], each.piece.side, each.count) for each in counted.counts}


class GuidePages(CastingCase):
    def fields(self, **more) -> dict:
        return {"name": "Two from two", "unit": "in", "size": "6 x 6", "lines": LINES} | more

    def test_a_guide_is_typed_with_a_mistake_and_mended(self):
        wrong = LINES.replace("3 x 3 cards 2, 2", "3 x 4 cards 2, 2")
        page = self.client.post(reverse("casting:new"), self.fields(lines=wrong), follow=True)
        self.assertContains(page, "17% too much")
        self.assertContains(page, "To be mended: 1 line.")
        guide = Guide.objects.get()
        self.assertEqual(guide.lines, wrong)
        page = self.client.post(reverse("casting:guide", args=[guide.pk]), self.fields(), follow=True)
        self.assertContains(page, "2&nbsp;sheets, 2&nbsp;cards; each can be cut edge to edge")
        self.assertContains(page, "nothing\n      left")

    def test_whatever_is_missing_or_odd_is_told_beside_its_field_and_nothing_typed_is_lost(self):
        for harm in (
            {"size": ""}, {"size": "six"}, {"size": "0.3 in x 6"}, {"size": "-6 x 6"}, {"size": "99999 x 6"},
            {"name": ""}, {"unit": "ell"}, {"name": "x" * 99}, {"lines": "A: 1 x 1 card 1\n" * 900},
        ):  # fmt: skip
            page = self.client.post(reverse("casting:new"), self.fields(**harm))
            self.assertContains(page, "invalid-feedback", msg_prefix=str(harm))
            self.assertContains(page, "A: ")
        self.assertEqual(Guide.objects.count(), 0)

    def test_it_is_read_as_it_is_typed_and_nothing_is_kept(self):
        page = self.client.post(reverse("casting:read"), self.fields(lines="A: 6 x 3 card 1\nB: 7 x 1 card 1"))
        self.assertContains(page, "<b>Line 2:</b>")
        self.assertContains(page, "larger than the sheet")
        self.assertContains(page, "left: 6 × 3 in")
        self.assertContains(self.client.post(reverse("casting:read"), self.fields(size="six")), "is not a size")
        self.assertEqual(Guide.objects.count(), 0)

    def test_its_file_goes_out_and_comes_in_and_a_broken_one_is_told(self):
        keep_guide(self.guide)
        data = self.client.get(reverse("casting:save", args=[self.guide.pk])).content
        self.assertEqual(json.loads(data)["zester"], "zester-guide/1")
        file = SimpleUploadedFile("from a friend.json", data)
        page = self.client.post(reverse("casting:bring"), {"file": file}, follow=True)
        self.assertContains(page, "from a friend is in your library")
        self.assertEqual(*(Guide.objects.get(name=name).made for name in ("Two from two", "from a friend")))
        for harm in (b"no JSON", data.replace(b'"6"', b'"9"', 1), b"[]"):
            page = self.client.post(reverse("casting:bring"), {"file": SimpleUploadedFile("x.json", harm)}, follow=True)
            self.assertContains(page, "It cannot be taken in")
        self.assertEqual(Guide.objects.count(), 2)

    def test_taking_it_away_leaves_the_class_what_it_cuts_by(self):
        keep_guide(self.guide)
        use_guide(self.card_class, self.guide)
        page = self.client.post(reverse("casting:remove", args=[self.guide.pk]), follow=True)
        self.assertContains(page, "Classes that are cut by it keep it")
        self.assertIn("zester-guide/1", ClassGuide.objects.get().made)
        self.client.post(reverse("casting:restore", args=[self.guide.pk]))
        self.assertContains(self.client.get(reverse("casting:guides")), "Two from two")

    def test_a_guide_is_made_of_what_is_planned(self):
        self.cast(A=self.ropes, B=self.dots)
        page = self.client.post(self.address("take_plans"), follow=True)
        self.assertContains(page, "has a plan yet")
        fitted(self.card_class)
        page = self.client.post(self.address("take_plans"), follow=True)
        self.assertContains(page, "as planned is a guide now")
        guide = Guide.objects.get()
        cards = {piece["card"] for sheet in json.loads(guide.made)["letters"] for piece in sheet["pieces"]}
        self.assertEqual(cards, {1, 2})


class PrintedGuides(CastingCase):
    def test_two_sizes_for_one_card_are_told_apart_and_cuts_are_few(self):
        (page,) = guide_pages(read_guide("A: 4 x 3 cards 1, 2; 2 x 3 cards 2, 3", SIX, SIX).guide, {"A": "Kite Tails"})
        told = [(part.piece, part.width // TICKS_PER_INCH, count) for part, count in page.counted]
        self.assertEqual(sorted(told), [("1", 4, 1), ("2", 2, 1), ("2", 4, 1), ("3", 2, 1)])
        self.assertEqual((page.paper, len(page.cuts), page.is_true), ("Sheet A = Kite Tails", 3, True))
        (blank,) = guide_pages(read_guide("B: 6 x 6 card 1", SIX, SIX).guide, {})
        self.assertIn("Sheet B = ____", blank.paper)


class TableMoves(CastingCase):
    def test_without_a_lettered_line_it_says_how_to_begin(self):
        other = make_class(self.user)
        page = self.client.get(reverse("casting:table", args=[other.pk]))
        self.assertContains(page, "No list names a lettered sheet yet")

    def test_what_is_not_cast_is_told_at_every_station_that_waits_for_it(self):
        self.assertEqual(CardClass.objects.get(pk=self.card_class.pk).n_uncast, 30)
        self.assertContains(
            self.client.get(reverse("fits:wall", args=[self.card_class.pk])),
            "30&nbsp;pieces of lettered sheets",
        )
        self.assertEqual(next_to_cast(CardClass.objects.get(pk=self.card_class.pk)).url, self.address("table"))
        self.assertEqual(self.counts()["A2"], ("sheet A", "a", 6))

    def test_each_move_shows_what_it_does(self):
        page = self.move(act="letter", letter="A", paper=self.ropes.key)
        self.assertContains(page, f'id="cast-A-{self.ropes.key}"')
        page = self.move(act="letter", letter="B", paper=self.dots.key)
        self.assertContains(page, "<b>A</b> meets <b>B</b> on cards 1, 2")
        self.assertEqual(self.counts()["A2"], ("Rope Ladder", "a", 6))
        page = self.move(act="over", what="B")
        self.assertContains(page, "Small Dots has one side only; A3, B3 would show its back")
        self.move(act="over", what="B")
        self.move(act="swap", letter="A", **{"with": "B"})
        self.assertEqual(self.counts()["B2"], ("Small Dots", "a", 12))
        self.move(act="piece", handle="B2", paper=self.paper.key)
        self.move(act="piece", handle="B3", paper="none")
        counts = self.counts()
        self.assertEqual((counts["B2"][0], "B3" in counts), (self.paper.name, False))
        self.assertEqual(CardClass.objects.get(pk=self.card_class.pk).counted_at, None)

    def test_undo_and_redo_go_through_every_move(self):
        for paper in (self.ropes, self.dots, self.kites):
            self.move(act="letter", letter="A", paper=paper.key)
        row = Casting.objects.get()
        seen = []
        for way in ("undo", "undo", "undo", "undo", "redo", "redo"):
            self.client.post(self.address("step", row.pk), {"way": way})
            row.refresh_from_db()
            seen.append(row.cast.get("letters", {}).get("A"))
        dots, ropes = self.dots.key, self.ropes.key
        self.assertEqual(seen, [dots, ropes, None, None, ropes, dots])
        self.move(act="letter", letter="A", paper=self.kites.key)
        row.refresh_from_db()
        self.assertEqual(row.undone, [])

    def test_what_is_locked_stays_and_says_so(self):
        self.cast(A=self.ropes, B=self.dots)
        self.move(act="lock", what="A")
        page = self.move(act="letter", letter="A", paper=self.kites.key)
        self.assertContains(page, "Sheet A is locked. Unlock it first")
        self.assertEqual(self.counts()["A2"][0], "Rope Ladder")
        self.move(act="lock", what="card B")
        page = self.client.post(self.address("propose", Casting.objects.get().pk), headers={"HX-Request": "true"})
        self.assertContains(page, "A</b>")
        self.assertNotContains(page, "Kite Tails</span></span>\n")

    def test_a_letter_may_be_card_stock_and_is_proposed_for_none(self):
        self.cast(A=self.ropes, B=self.dots)
        page = self.move(act="letter", letter="B", paper=self.paper.key)
        self.assertContains(page, f'<option value="{self.paper.key}" selected>')
        self.assertNotContains(page, f"cast-B-{self.paper.key}")
        self.assertEqual(self.counts()["A3"][0], self.paper.name)
        found = Table(CardClass.objects.get(pk=self.card_class.pk), None).proposals()
        self.assertEqual({each.casting.letters["B"] for each in found}, {self.paper.key})
        self.assertNotIn(self.paper.key, {each.casting.letters["A"] for each in found})

    def test_bases_and_mats_may_be_of_other_card_stock_in_a_casting_and_its_kits_have_it(self):
        gravel = make_paper(self.user, "Gravel", "letter", kind="card")
        self.cast(A=self.ropes, B=self.kites)
        page = self.move(act="piece", handle="A1", paper=gravel.key)
        self.assertContains(page, "Its card stock: A1 Gravel")
        counts = self.counts()
        self.assertEqual((counts["A1"][0], counts["B1"][0]), ("Gravel", self.paper.name))
        # A base is cut from card stock, and is not left out.
        for paper in ("none", self.ropes.key, "x"):
            self.move(act="piece", handle="A1", paper=paper)
        self.assertEqual(self.counts(), counts)
        self.cast("Last ones", 2, A=self.ropes, B=self.kites)
        counted = count_class(CardClass.objects.get(pk=self.card_class.pk))
        found = Counter()
        for each in counted.counts:
            found[each.handle.rstrip("′"), counted.names[each.piece.paper]] += each.count
        self.assertEqual((found["A1", "Gravel"], found["A1", self.paper.name]), (4, 2))
        page = self.client.get(reverse("bags:handout", args=[self.card_class.pk]), {"card": "A"})
        self.assertContains(page, "Gravel")
        self.move(act="piece", handle="A1", paper="own")
        self.assertEqual({self.counts()[handle][0] for handle in ("A1", "B1")}, {self.paper.name})

    def test_odd_moves_change_nothing(self):
        self.cast(A=self.ropes, B=self.dots)
        strangers = Paper.objects.create(owner=self.stranger, name="Theirs", width=SIX, height=SIX)
        before = Casting.objects.get().cast
        for sent in (
            {}, {"act": "letter", "letter": "Z", "paper": self.dots.key},
            {"act": "letter", "letter": "A", "paper": "p0"},
            {"act": "letter", "letter": "A", "paper": strangers.key}, {"act": "swap", "letter": "A", "with": "A"},
            {"act": "piece", "handle": "Z9", "paper": "none"}, {"act": "piece", "handle": "A2", "paper": strangers.key},
            {"act": "take", "cast": "A=p0"}, {"act": "take", "cast": "nonsense"}, {"act": "lock", "what": "card Z"},
        ):  # fmt: skip
            page = self.move(**sent)
            self.assertContains(page, "That is not there any more")
        self.assertEqual(Casting.objects.get().cast, before)

    def test_proposals_keep_the_rules_and_one_is_taken(self):
        page = self.client.post(self.address("propose_first"), headers={"HX-Request": "true"})
        self.assertContains(page, "Castings worth a look")
        table = Table(CardClass.objects.get(pk=self.card_class.pk), None)
        best = table.proposals()[0]
        self.move(act="take", cast=said(best.casting, ("A", "B")))
        self.assertEqual(Casting.objects.get().cast["letters"], dict(best.casting.letters))

    def test_marks_are_kept_and_forgotten(self):
        pair = {"one": self.kites.key, "other": self.dots.key}
        self.client.post(self.address("marks"), pair | {"kind": "never"})
        self.assertContains(self.client.get(self.address("table")), "Kite Tails and Small Dots: never")
        self.client.post(self.address("marks"), pair | {"kind": "together"})
        self.assertEqual(ClassGuide.objects.get().marks, {"together": [list(pair.values())], "never": []})
        self.client.post(self.address("marks"), {"kind": "together", "drop": "|".join(pair.values())})
        self.assertEqual(ClassGuide.objects.get().marks, {"together": [], "never": []})
        page = self.client.post(self.address("marks"), pair | {"kind": "never", "other": pair["one"]}, follow=True)
        self.assertContains(page, "Choose two that are not the same")

    def test_a_card_is_drawn_as_each_casting_has_it(self):
        one, other = self.cast(A=self.ropes, B=self.dots), self.cast("Red set", A=self.kites, B=self.ropes)
        drawings = [self.client.get(self.address("card", row.pk, "A")).content.decode() for row in (one, other)]
        self.assertNotEqual(*drawings)
        self.assertNotIn('class="sheet-letter"', drawings[0])
        self.client.post(self.address("castings"), {"act": "remove", "row": other.pk})
        self.assertEqual(Casting.objects.count(), 1)

    def test_the_desk_of_the_class_draws_what_is_cast_and_letters_where_nothing_is(self):
        desk = reverse("classes:card", args=[self.card_class.pk, "A"])
        self.assertContains(self.client.get(desk), 'class="sheet-letter"')
        self.assertContains(self.client.get(desk), "sheet A")
        self.cast(A=self.ropes, B=self.dots)
        self.assertNotContains(self.client.get(desk), 'class="sheet-letter"')
        design = self.card_class.class_cards.get(letter="A").card_id
        self.assertContains(self.client.get(reverse("designs:design", args=[design])), 'class="sheet-letter"')

    def test_the_sets_of_a_pad(self):
        pad = Pad.objects.create(owner=self.user, name="Harbour pad", holds={self.kites.key: 4, self.dots.key: 5})
        self.client.post(self.address("uses"), {"pad": pad.pk})
        page = self.client.get(self.address("table"))
        self.assertContains(
            page, "9&nbsp;sheets make 4&nbsp;sets of 2&nbsp;letters, 1&nbsp;sheet over; they serve 4&nbsp;people"
        )
        self.assertNotContains(page, "Rope Ladder is")


class CutByTheGuide(CastingCase):
    def setUp(self):
        super().setUp()
        keep_guide(self.guide)

    def test_plans_cut_its_sheets_for_every_whole_set_checked_by_the_checker(self):
        self.cast(A=self.ropes, B=self.dots)
        use_guide(self.card_class, self.guide)
        fitted(self.card_class)
        for paper, made in ((self.ropes, {"A2": 6, "B2": 12}), (self.dots, {"A3": 6, "B3": 6})):
            fit = PaperFit.objects.get(class_paper__paper=paper, class_paper__card_class=self.card_class)
            kept = read_made(fit.shown)
            check_paper(kept.paper, kept.plan)
            (layout,) = kept.plan.layouts
            self.assertEqual((layout.copies, layout.pinned), (6, True))
            out = Counter(part.piece for part in layout.parts)
            self.assertEqual({piece: count * 6 for piece, count in out.items()}, made)

    def test_another_casting_is_that_of_the_last_kits_alone(self):
        self.cast(A=self.ropes, B=self.dots)
        self.cast("Red set", 2, A=self.kites, B=self.ropes)
        use_guide(self.card_class, self.guide)
        counts = self.counts()
        self.assertEqual(counts["A2"], ("Rope Ladder", "a", 4))
        self.assertEqual(counts["A2′"], ("Kite Tails", "a", 2))
        self.assertEqual(counts["A3′"], ("Rope Ladder", "a", 2))
        counted = count_class(CardClass.objects.get(pk=self.card_class.pk))
        piles = Counter()
        for kit in counted.packed.kits:
            for bag in kit.bags:
                piles.update({item.key: item.count for item in bag.items})
        for bag in counted.packed.own:
            piles.update({item.key: item.count for item in bag.items})
        self.assertEqual({key: piles[key] for key in counts}, {key: count for key, (_, _, count) in counts.items()})
        fitted(self.card_class)
        fit = PaperFit.objects.get(class_paper__paper=self.ropes, class_paper__card_class=self.card_class)
        plan = read_paper(json.loads(fit.shown.plan)["papers"][0], "in")
        self.assertEqual(sorted((each.copies, each.pinned) for each in plan.layouts), [(2, True), (4, True)])

    def test_what_one_casting_leaves_out_another_may_have(self):
        row = self.cast(A=self.ropes, B=self.dots)
        row.cast |= {"instead": {"B3": ""}}
        row.save()
        self.cast("Red set", 2, A=self.kites, B=self.ropes)
        counts = self.counts()
        self.assertNotIn(("Small Dots", "a", 4), [counts.get("B3")])
        self.assertIn(("Rope Ladder", "a", 2), counts.values())

    def test_each_casting_counts_its_own_sets_and_what_the_others_take(self):
        for paper in (self.ropes, self.dots):
            book(paper, None, "bought", 5)
        self.cast(A=self.ropes, B=self.dots)
        red = self.cast("Red set", 2, A=self.ropes, B=self.kites)
        use_guide(self.card_class, self.guide)
        card_class = CardClass.objects.get(pk=self.card_class.pk)
        sets = [Table(card_class, row).stage.sets for row in (None, red)]
        self.assertEqual(sets, [4, 2])
        page = self.client.get(self.address("table"))
        self.assertContains(page, "A: 4 sets take 4 sheets of Rope Ladder, 5 of it are there, 2 for other castings")
        self.assertNotContains(page, "sheets of Small Dots, ")

    def test_a_paper_that_runs_out_is_replaced_in_every_casting(self):
        self.cast(A=self.ropes, B=self.dots)
        self.cast("Red set", 2, A=self.kites, B=self.ropes)
        row = Substitution(card_class=self.card_class, paper=self.ropes, other=self.paper, who="all")
        take_instead(row, [])
        counts = self.counts()
        self.assertNotIn("Rope Ladder", [paper for paper, _, count in counts.values() if count])
        self.assertIn(("Kite Tails", "a", 2), counts.values())

    def test_planned_once_more_it_is_cast_and_cut_as_before(self):
        self.cast(A=self.ropes, B=self.dots)
        use_guide(self.card_class, self.guide)
        new = copy_class(self.card_class)
        table = Table(new, None)
        self.assertEqual((table.row.name, table.use.guide), ("First", self.guide))
        self.assertEqual(table.cast.letters, {"A": self.ropes.key, "B": self.dots.key})

    def test_too_few_sheets_are_told_before_anything_is_cut(self):
        book(self.dots, None, "bought", 3)
        self.cast(A=self.ropes, B=self.dots)
        use_guide(self.card_class, self.guide)
        page = self.client.get(self.address("table"))
        self.assertContains(page, "B: 6 sets take 6 sheets of Small Dots, 3 of it are there")

    def test_the_hand_out_tells_what_the_last_kits_have(self):
        self.cast(A=self.ropes, B=self.dots)
        row = self.cast("Red set", 2, A=self.kites, B=self.ropes)
        row.cast |= {"over": ["A"], "instead": {"A3": ""}}
        row.save()
        page = self.client.get(reverse("bags:handout", args=[self.card_class.pk]), {"card": "A"})
        self.assertContains(page, "A2 Sky: Kite Tails, side B in the last 2 kits")
        self.assertContains(page, "A3 Inside panel: left out in the last 2 kits")

    def test_a_paper_that_is_taken_off_the_shelf_is_cast_no_more(self):
        self.cast(A=self.ropes, B=self.dots)
        self.ropes.remove()
        recount(self.card_class.pk)
        self.assertEqual(CardClass.objects.get(pk=self.card_class.pk).n_uncast, 18)
        self.assertContains(self.client.get(self.address("table")), "The paper of A is gone.")

    def test_hand_out_and_prints_name_what_is_really_there(self):
        self.cast(A=self.ropes, B=self.dots)
        use_guide(self.card_class, self.guide)
        page = self.client.get(reverse("bags:handout", args=[self.card_class.pk]), {"card": "A"})
        self.assertContains(page, "Rope Ladder")
        self.assertNotContains(page, "sheet A")
        # It is packed by the numbers of the guide.
        self.assertContains(self.client.get(reverse("bags:pack", args=[self.card_class.pk])), "card 2, ")
        for more in ("", "?uncast"):
            answer = self.client.get(self.address("class_guide") + more, follow=True)
            self.assertEqual(answer.status_code, 200)


class SearchedGuides(CastingCase):
    def search(self, act: str = "ask"):
        return self.client.post(self.address("look"), {"act": act}, follow=True)

    @override_settings(TASKS=AT_ONCE)
    def test_one_is_found_told_and_kept_with_its_letters_in_the_lists(self):
        with self.captureOnCommitCallbacks(execute=True):
            self.search()
        search = GuideSearch.objects.get()
        self.assertEqual((search.state, search.bound), ("done", 2))
        page = self.client.get(self.address("table"))
        self.assertContains(page, "<b>2&nbsp;sheets</b> for 2&nbsp;cards: proven, none takes fewer")
        page = self.search("keep")
        self.assertContains(page, "2 cards from 2 sheets: kept as a guide")
        guide = Guide.objects.get()
        self.assertEqual(ClassGuide.objects.get().guide, guide)
        table = Table(CardClass.objects.get(pk=self.card_class.pk), None)
        self.assertEqual(table.strangers, ([], []))
        lists = list(self.card_class.class_cards.order_by("letter").values_list("card__cut_list", flat=True))
        self.assertIn("upright", lists[0])
        self.assertIn(", either side", lists[1])
        self.assertIn("optional ", lists[1])

    def test_what_is_too_large_says_so_and_it_can_be_stopped(self):
        with self.captureOnCommitCallbacks():
            self.search()
        self.assertContains(self.client.get(self.address("looking")), "waiting for a worker")
        self.search("stop")
        look_task.func(GuideSearch.objects.get().pk)
        self.assertEqual(GuideSearch.objects.get().state, "stopped")
        card = self.card_class.class_cards.get(letter="A").card
        card.cut_list += "\nLong strip  1 x 9  sheet C"
        card.save()
        GuideSearch.objects.update(state="asked")
        look_task.func(GuideSearch.objects.get().pk)
        self.assertContains(self.client.get(self.address("looking")), "1 × 9 in is larger than the sheet")
        self.assertContains(self.search("keep"), "Nothing was found")

    @override_settings(TASKS=AT_ONCE)
    def test_what_one_list_cannot_say_for_two_cards_or_a_cut_class_is_refused(self):
        with self.captureOnCommitCallbacks(execute=True):
            self.search()
        CardClass.objects.update(kept_shelf={"papers": {}, "tools": []})
        self.assertContains(self.search("keep"), "This class is cut, and keeps its lists")
        self.assertEqual(Guide.objects.count(), 0)

    def test_a_search_whose_worker_died_is_taken_up_again_and_asked_for_once(self):
        with self.captureOnCommitCallbacks() as asked:
            self.search()
            self.search()
        self.assertEqual(len(asked), 1)
        GuideSearch.objects.update(state="looking")
        look_task.func(GuideSearch.objects.get().pk)
        self.assertEqual(GuideSearch.objects.get().state, "done")

    @override_settings(TASKS=AT_ONCE)
    def test_a_narrower_border_is_proposed_with_what_it_saves_and_written_on_request(self):
        cards = [each.card for each in self.card_class.class_cards.order_by("letter")]
        for card, more in zip(cards, ("", "\nWhite square  3 x 3  telescope brass  on Mat"), strict=True):
            card.cut_list = f"{BASE}\nMat  3⅛ x 5  sheet A  # by hand{more}"
            card.save()
        with self.captureOnCommitCallbacks(execute=True):
            self.search()
        # The square on it would lie flush with it: card B's mat cannot be smaller.
        self.assertEqual(GuideSearch.objects.get().nudges, [])
        cards[1].cut_list = f"{BASE}\nMat  3⅛ x 5  sheet A"
        cards[1].save()
        with self.captureOnCommitCallbacks(execute=True):
            self.search()
        page = self.client.get(self.address("table"))
        self.assertContains(page, "3 1⁄8 × 5 in as 3 × 4 7⁄8 in")
        self.assertContains(page, "(cards 1, 2): 1&nbsp;sheet\n          in place of 2")
        for act, words in (("nudge 7", "not proposed any more"), ("nudge x", "not proposed any more")):
            self.assertContains(self.search(act), words)
        with self.captureOnCommitCallbacks(execute=True):
            self.assertContains(self.search("nudge 0"), "2 lists changed; the lists before are kept")
        cards[0].refresh_from_db()
        self.assertEqual(cards[0].cut_list, f"{BASE}\nMat  3 x 4 7/8  sheet A  # by hand")
        self.assertEqual(cards[0].editions.count(), 1)
        page = self.client.get(self.address("table"))
        self.assertContains(page, "<b>1&nbsp;sheet</b> for 2&nbsp;cards: proven, none takes fewer")

    @override_settings(TASKS=AT_ONCE)
    def test_what_was_found_for_other_lists_is_not_kept(self):
        with self.captureOnCommitCallbacks(execute=True):
            self.search()
        card = self.card_class.class_cards.get(letter="A").card
        card.cut_list += "\nTag  1 x 1  sheet A"
        card.save()
        self.assertContains(self.search("keep"), "The lists have changed since")
        self.assertEqual(Guide.objects.count(), 0)
