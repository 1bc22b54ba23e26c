"""The Cut station: ticking off, two devices, something spoiled, the end of it, the log, the evening."""

import json
import re
from datetime import timedelta
from unittest import mock

from django.core.cache import cache
from django.urls import reverse

from tests.people import fitted, make_class
from zester.bench.evening import evening_of
from zester.bench.models import CutLog, HandLog, Run, Tick
from zester.bench.runs import begin, pace_learnt, steps_of
from zester.bench.tests.cases import CARD, CuttingTests
from zester.classes.models import CardClass, Trimmer
from zester.classes.services import recount
from zester.core.cutting.record import read_steps
from zester.core.cutting.steps import KEEP, PIECE, CutSteps, cutting_steps
from zester.plans.kept import habits_of, read_made
from zester.plans.models import PaperFit
from zester.shelf.models import Entry, Sheet
from zester.shelf.stock import stock_take


class BenchTests(CuttingTests):
    def test_steps_are_ticked_off_and_kept(self):
        page = self.mark("bench")
        self.assertContains(page, "Rail to")
        self.assertContains(page, "Hand behind the guard")
        first = self.entry(1)
        self.assertEqual(self.tick(first).json()["done"], 1)
        # The same once more, with the next: what did not seem to arrive is sent again.
        self.assertEqual(self.tick(first, self.entry(2, 20)).json()["done"], 2)
        self.assertEqual(Tick.objects.count(), 2)
        self.assertContains(self.client.get(self.address("table")), 'data-done="2"')
        # Back one step; then ticks of a device come in that had no line and knew of none of these: they count less.
        turn = self.client.get(self.address("state")).json()["turn"]
        self.tick(self.entry(1, 40, turn=turn + 1))
        late = self.entry(1, 30, turn=1), self.entry(2, 60, turn=2)
        self.assertEqual(self.tick(*late).json()["done"], 1)
        self.assertEqual(self.client.get(self.address("state")).json()["done"], 1)

    def test_clocks_that_are_set_harm_nothing(self):
        self.mark("bench")
        of = len(self.now().steps)
        turn, day = 0, 86_400
        # Two devices at one bench, one a day slow and one a year ahead, each going on from where the other was.
        for done in range(1, of + 1):
            wrong = (-day, 365 * day)[done % 2]
            state = self.tick(self.entry(done, wrong, turn=turn + 1, device=f"device {done % 2}")).json()
            self.assertEqual((state["done"], state["turn"]), (done, turn + 1))
            turn = state["turn"]
        # A count that nobody can have come to is taken as the next.
        self.assertEqual(self.tick(self.entry(of - 1, turn=1_999_999_999)).json()["turn"], turn + 1)
        self.assertEqual(self.tick(self.entry(of, turn=turn + 2)).json()["done"], of)
        self.assertIn(f'data-turn="{turn + 2}"', self.client.get(self.address("table")).content.decode())
        for turn in (-1, 2_000_000_001, "1", None, True, 1.5):
            self.assertEqual(self.tick(self.entry(1, turn=turn)).status_code, 400, turn)
        for odd in (
            {"device": "\ud83d"},
            {"device": {"a": 1}},
            {"device": "\0"},
            {"at": 1e999},
            {"seconds": None},
            {"key": 7},
        ):
            self.assertEqual(self.tick(self.entry(1) | odd).status_code, 400, odd)

    def test_strokes_and_settings_are_what_was_promised_and_the_file_says_what_the_screen_shows(self):
        self.mark("bench")
        steps, shown = CutSteps(self.now().steps), self.now().fit.shown
        self.assertEqual((steps.strokes, steps.settings), (shown.strokes, shown.settings))
        told = self.client.get(reverse("bench:steps_json", args=[self.card_class.pk])).json()["papers"][0]
        self.assertEqual([entry["count"] for entry in told["steps"]], [step.count for step in steps.steps])
        self.assertEqual((told["strokes"], told["settings"]), (steps.strokes, steps.settings))
        page = self.client.get(self.address("table")).content.decode()
        self.assertEqual(page.count('class="bench-step" data-step'), len(steps.steps))

    def test_the_order_of_the_steps_is_found_once_and_anew_for_other_habits(self):
        """The worker that makes a plan keeps its steps, so that no page has to look for them."""
        cut = reverse("bench:steps", args=[self.card_class.pk])
        with mock.patch("zester.plans.kept.cutting_steps", side_effect=AssertionError) as looks:
            self.assertContains(self.client.get(cut), "steps")
            page = self.client.get(self.address("paper")).content.decode()
            looks.assert_not_called()
        kept = steps_of(self.fit)
        made = read_made(self.fit.shown)
        self.assertEqual(
            kept, cutting_steps(made.paper, made.plan, made.job.bench, habits_of(self.fit, self.fit.pieces))
        )
        self.assertEqual(page.count('<li class="step stands"'), len(kept.steps))
        Trimmer.objects.update(setting_seconds=300, stack_seconds=1)
        with mock.patch("zester.plans.kept.cutting_steps", side_effect=cutting_steps) as looks:
            self.client.get(cut)
            looks.assert_called_once()

    def test_another_pace_and_another_table_change_no_step_under_their_hands(self):
        self.mark("bench")
        before = self.client.get(self.address("table")).content.decode()
        Trimmer.objects.update(setting_seconds=300, stack_seconds=1, most_piles=3)
        cache.clear()
        after = self.client.get(self.address("table")).content.decode()
        rails = r'class="bench-rail.*?</p>|<li class="result.*?</li>'
        self.assertEqual(re.findall(rails, after, re.DOTALL), re.findall(rails, before, re.DOTALL))
        places = re.search(r"at (\d+)&nbsp;places? at least", self.shown(self.address("paper")))
        self.assertGreater(int(places[1]), 0)

    def test_what_is_no_tick_is_refused_and_changes_nothing(self):
        self.mark("bench")
        bad = [
            b"",
            b"{}",
            b"[[]]",
            b'[{"key": "x", "run": 1, "done": 1, "at": 1}]',
            json.dumps([self.entry(1) | {"done": True}]).encode(),
            json.dumps([self.entry(1) | {"at": 1e300}]).encode(),
            json.dumps([self.entry(1) | {"seconds": "nan"}]).encode(),
            b"[" * 100_000,
        ]
        for body in bad:
            answer = self.client.post(self.address("ticks"), body, content_type="application/json")
            self.assertEqual(answer.status_code, 400, body[:60])
        # A step that is not there, and a run that was ended, are no step of this one.
        self.assertEqual(self.tick(self.entry(999), self.entry(1, run=7)).json()["done"], 0)

    def test_the_bench_is_only_for_a_paper_that_is_being_cut(self):
        self.assertRedirects(self.client.get(self.address("table")), self.address("paper"))
        self.mark("cutting")
        self.assertEqual(self.client.get(self.address("table")).status_code, 200)
        self.mark("not", sure="yes")
        self.assertEqual((Run.objects.count(), self.now()), (0, None))

    def test_a_plan_that_is_being_cut_does_not_change_under_their_hands(self):
        self.mark("bench")
        plan = self.now().fit.shown_id
        steps = Run.objects.get().steps
        self.card_class.participants = 20
        self.card_class.save()
        fitted(self.card_class)
        self.assertEqual((self.now().fit.shown_id, Run.objects.get().steps), (plan, steps))

        # A new fit of a paper in work asks first; other wishes are refused.
        for name, data in (("release", {}), ("pool", {"pool": "own"}), ("pin", {"layout": 0})):
            self.client.post(reverse(f"fits:{name}", args=[self.card_class.pk, self.paper.key]), data)
            self.assertEqual((self.now().fit.shown_id, self.now().fit.held), (plan, "cutting"), name)
        self.mark("not", sure="yes")
        fitted(self.card_class)
        self.assertNotEqual(PaperFit.objects.get(pk=self.fit.pk).shown_id, plan)

    def test_a_spoiled_piece_and_how_it_goes_on(self):
        self.mark("bench")
        of = len(self.now().steps)
        self.tick(*(self.entry(n + 1, 20 * n) for n in range(of - 1)))
        self.assertContains(self.client.get(self.address("wrong")), "the last step")
        page = self.spoil(self.spoiled_piece(), 1)
        self.assertContains(page, "Noted:")
        self.assertContains(page, "Take it back")
        run = self.now().run
        self.assertEqual((run.number, run.done), (2, 0))
        # What is wanted is there in the end.
        self.tick(*(self.entry(n + 1, 2000 + 20 * n, run=2) for n in range(len(self.now().steps))))
        made = sum(each.count for each in self.now().table.of(PIECE))
        self.assertGreaterEqual(made, sum(piece.count for piece in self.now().made.paper.pieces))
        page = self.shown(self.address("paper"))
        counted = re.findall(r'<td class="num">(\d+)</td><td class="num">(\d+)</td></tr>', page)
        self.assertTrue(counted and all(int(cut) >= int(asked) for asked, cut in counted), counted)
        # The new steps are begun, so it cannot be taken back any more.
        self.client.post(self.address("undo_mishap"))
        self.assertEqual(self.now().run.number, 2)

    def test_a_mishap_is_taken_back_and_nonsense_is_refused(self):
        self.mark("bench")
        self.tick(self.entry(1))
        stand = self.now().stand
        there = stand.table.lying[0]
        what = f"{there.kind}|{there.label}|{there.width}|{there.height}"
        self.spoil(what, 1)
        self.assertEqual(self.now().run.number, 2)
        self.client.post(self.address("undo_mishap"))
        self.assertEqual((self.now().run.number, self.now().stand.done), (1, 1))
        for said, count, words in (
            ("", 1, "Nothing was chosen"),
            ("piece|Z9|1|1", 1, "There are not 1 of Z9"),
            (what, 0, "How many were spoiled?"),
            (what, 9999, "There are not 9999"),
        ):
            self.assertContains(self.spoil(said, count), words)
        self.assertContains(self.spoil(what, 1, done=0), "Somebody has gone on")
        long = "the knife slipped, " * 7
        self.assertContains(self.spoil(what, 1, reason=long), f"“{long.strip()}” has 132")
        self.assertEqual(self.now().run.number, 1)

    def test_the_end_books_what_was_really_used_and_logs_it(self):
        stock_take(self.paper, None, 30)
        self.mark("bench")
        of = len(self.now().steps)
        self.tick(*(self.entry(n + 1, 20 * n) for n in range(of)))
        self.spoil(self.spoiled_piece(), 1, reason="cut at the wrong mark")
        run = self.now().run
        self.tick(*(self.entry(n + 1, 2000 + 20 * n, run=2) for n in range(len(run.steps))))
        opened = sum(self.now().table.opened.values())
        page = self.client.get(self.address("paper"))
        self.assertContains(page, "All of it is cut: book it")
        kept = {f"keep{n}": 1 for n in range(3)}
        self.assertContains(self.mark("cut", place="box " * 30, **kept), "a place holds 80 letters")
        self.assertFalse(CutLog.objects.exists())
        page = self.mark("cut", place="box", **kept)
        self.assertContains(page, "is cut, and booked on the shelf")
        self.paper.refresh_from_db()
        self.assertEqual(self.paper.on_hand, 30 - opened)
        offcuts = Sheet.objects.filter(paper=self.paper, is_offcut=True)
        self.assertEqual({(sheet.on_hand, sheet.place) for sheet in offcuts}, {(1, "box")})
        log = CutLog.objects.get()
        self.assertEqual((log.sheets, log.steps), (opened, of + len(run.steps)))
        self.assertEqual(log.seconds, 20 * log.steps)
        self.assertEqual(log.spoiled[0]["reason"], "cut at the wrong mark")
        self.assertContains(self.client.get(reverse("bench:log")), "cut at the wrong mark")
        # Booked twice it is booked once; taken back nothing is left of it.
        self.mark("cut", **kept)
        self.assertEqual(CutLog.objects.count(), 1)
        self.mark("not", sure="yes")
        self.paper.refresh_from_db()
        self.assertEqual((self.paper.on_hand, CutLog.objects.count()), (30, 0))
        self.assertEqual(sum(sheet.on_hand for sheet in Sheet.objects.filter(is_offcut=True)), 0)

    def test_a_torn_sheet_is_booked_as_spoiled(self):
        stock_take(self.paper, None, 30)
        self.mark("bench")
        self.spoil("sheet|sheet|0|0", 2)
        self.mark("cut")
        booked = {entry.kind: entry.count for entry in Entry.objects.filter(source__startswith="plan:")}
        self.assertEqual((booked["spoiled"], booked["used"]), (-2, -self.now().fit.shown.sheets))

    def test_what_is_kept_is_what_lies_on_the_table(self):
        self.mark("bench")
        there = sum(each.count for each in self.now().stand.before.after(self.now().steps).of(KEEP))
        page = self.client.get(self.address("paper")).content.decode()
        offered = page.count('name="keep')
        self.assertEqual(bool(there), bool(offered))

    def test_the_pace_is_learnt_from_what_was_ticked(self):
        trimmer = self.card_class.trimmer
        self.assertIsNone(pace_learnt(trimmer))
        begin(self.fit)
        run = Run.objects.get()
        for turn in range(8):
            for done, (moved, stacks, strokes) in enumerate(_work(run), 1):
                seconds = 20 * moved + 10 * stacks + 6 * strokes
                Tick.objects.create(run=run, done=done, at=self.started + timedelta(minutes=turn), seconds=seconds)
        pace = pace_learnt(trimmer)
        self.assertLess(abs(pace.setting - 20) + abs(pace.stack - 10) + abs(pace.stroke - 6), 8)
        self.assertContains(self.client.get(reverse("bench:log")), "Reckon with my pace")
        self.client.post(reverse("bench:take_pace", args=[trimmer.pk]))
        trimmer.refresh_from_db()
        self.assertEqual(trimmer.pace, pace)

    def test_the_order_of_work_with_minutes(self):
        page = self.client.get(reverse("bench:evening", args=[self.card_class.pk]), {"minutes": 15})
        for words in (
            "at the trimmer",
            "Trimmed first, for what has to dry",
            "Tag",
            "emboss",
            "by Finn",
            "Sitting 2",
            "rollers",
        ):
            self.assertContains(page, words)
        self.mark("cut", bought0="0")
        page = self.client.get(reverse("bench:evening", args=[self.card_class.pk]))
        self.assertContains(page, "✓")
        self.assertNotContains(page, "of which")

    def job_done(self, **sent):
        return self.client.post(reverse("bench:job_done", args=[self.card_class.pk]), sent, follow=True)

    def test_a_job_by_hand_is_done_and_its_minutes_count_from_then_on(self):
        tasks = evening_of(self.card_class, 90)["phases"]
        emboss = next(task for phase in tasks for task, _ in phase.rows if task.job.startswith("emboss"))
        sent = {"job": emboss.job, "by": emboss.by}
        for wrong in ("x", "0", "-3", "6001", "1" * 40):
            self.assertContains(self.job_done(**sent, minutes=wrong), "is no number of minutes")
        self.assertContains(self.job_done(job="paint", by="", minutes="3"), "not among the jobs any more")
        self.assertFalse(HandLog.objects.exists())
        self.job_done(**sent)
        self.assertEqual(HandLog.objects.get().seconds, 0)
        page = self.job_done(**sent, minutes="30")
        self.assertContains(page, "done in 30 min; your own time counts from now on")
        self.assertContains(self.client.get(reverse("bench:log")), "30 min")
        other = make_class(self.user, "Mat 2 x 3 brass embossed before class", participants=1)
        fitted(other)
        rows = [row for phase in evening_of(other, 90)["phases"] for row in phase.rows if row[0].job == "emboss"]
        each = 30 * 60 / emboss.count
        self.assertEqual(rows[0][0].seconds, rows[0][0].count * int(each + 0.5))
        self.set_list(f"{CARD}\nSlip 1 x 2 brass, embossed before class, 2 min each\n+ 2 tied bows")
        self.assertContains(self.job_done(**sent, undo="1"), "is to be done again")
        self.assertFalse(HandLog.objects.exists())
        self.client.force_login(self.stranger)
        self.assertEqual(self.job_done(**sent).status_code, 404)

    def test_what_came_to_a_job_since_it_was_done_is_left(self):
        self.set_list("Mat 2 x 3 brass embossed before class")
        fitted(self.card_class)
        self.job_done(job="emboss", by="", minutes="20")
        self.assertContains(self.client.get(reverse("bench:evening", args=[self.card_class.pk])), "change")
        CardClass.objects.filter(pk=self.card_class.pk).update(participants=self.card_class.participants + 2)
        recount(self.card_class.pk)
        fitted(self.card_class)
        done = HandLog.objects.get().count
        self.assertContains(
            self.client.get(reverse("bench:evening", args=[self.card_class.pk])), f"{done} of {done + 2} are done"
        )
        # The time of those that came to it is added, so that all of them teach.
        self.job_done(job="emboss", by="", minutes="3")
        log = HandLog.objects.get()
        self.assertEqual((log.count, log.minutes), (done + 2, 23))

    def test_what_is_tied_beforehand_is_in_the_order_of_work(self):
        self.set_list(f"{CARD}\nSlip 1 x 2 brass, tied before class\n+ 2 tied bows")
        fitted(self.card_class)
        page = self.client.get(reverse("bench:evening", args=[self.card_class.pk]))
        self.assertContains(page, "tie: 6 A4 Slip")
        self.assertContains(page, "tied bows: tie 12")

    def test_the_practice_sheet_finds_how_far_off_the_rail_is(self):
        address = reverse("bench:practice", args=[self.card_class.trimmer.pk])
        wrong = self.client.post(address, {"measured0": "1", "measured1": "", "measured2": "9"})
        self.assertContains(wrong, "That is far from 4¼")
        self.assertContains(wrong, 'aria-invalid="true"', count=2)
        right = {"measured0": "1 1/32", "measured1": "2 17/32", "measured2": "4 9/32"}
        page = self.client.post(address, right, follow=True)
        self.assertContains(page, "1⁄32 in; the steps reckon with it. All three came out too wide")
        self.card_class.trimmer.refresh_from_db()
        self.assertEqual(self.card_class.trimmer.error, 8128 // 32)

    def test_a_hair_short_and_the_rehearsal(self):
        self.assertContains(self.client.get(self.address("short")), "1⁄16 in short")
        self.assertContains(self.client.get(self.address("rehearsal")), "play-steps")

    def test_after_the_trimmer_with_cautions(self):
        page = self.client.get(self.address("paper"))
        for words in ("After the trimmer", "score at 4¼ in across the width", "Fingers, hair and sleeves"):
            self.assertContains(page, words)

    def test_a_table_with_little_room(self):
        Trimmer.objects.update(most_piles=3)
        page = self.shown(self.address("paper"))
        self.assertRegex(page, r"[0-3]&nbsp;piles? waits? at once|no pile waits")


def _work(run: Run) -> list[tuple[int, int, int]]:
    """Of every step: settings, stacks, strokes."""
    return CutSteps(read_steps(run.steps)).work
