"""How the plans of a class stand, from what is stored: for the thread of stations and the strip of papers."""

from __future__ import annotations

import datetime
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from hashlib import blake2b

from django.db.models import QuerySet
from django.utils import timezone

from zester.classes.models import CardClass
from zester.core.fitting.jobs.job import AT_HOME
from zester.plans.models import PaperFit, PaperPlan, Work, Worker
from zester.shelf.models import Paper, Sheet
from zester.shelf.services import with_sheets
from zester.shelf.uses import Promised, promised
from zester.site.owned import Owned
from zester.site.prepared import prepared
from zester.site.stations import some
from zester.site.templatetags.zester import money

# A worker says that it lives every second.
LIVES = datetime.timedelta(seconds=6)
# Work that was due so long ago and that nobody has begun, while no worker lives, is said to wait for one.
OVERDUE = datetime.timedelta(seconds=3)
URGENT = (Work.Kind.QUICK, Work.Kind.PROVE)


def state_of(fit: PaperFit, working: bool) -> str:
    """``cut``, ``waiting``, ``quick``, ``proven``, ``polished``, ``short`` or ``off``."""
    if fit.held == PaperFit.Held.CUT:
        return "cut"
    if fit.problem:
        return "off"
    if not fit.answered:
        return "waiting" if working else "off"
    if fit.short:
        return "short"
    if fit.shown.stage == PaperPlan.Stage.POLISHED:
        return "polished"
    return "proven" if fit.shown.proven or fit.shown.stage == PaperPlan.Stage.PROVEN else "quick"


@dataclass(frozen=True, kw_only=True)
class Entry:
    """One paper of the strip."""

    fit: PaperFit
    """What is needed of it and what is shown."""
    state: str
    """As ``state_of`` has it."""
    working: bool
    """Whether a plan is being looked for now."""
    words: str
    """The state in a few words."""
    has_supplement: bool = False
    """Whether more of the paper is cut than its plan was made for."""

    @property
    def sheets(self) -> int | None:
        """How many new sheets the shown plan opens."""
        return self.fit.shown.new_sheets if self.fit.shown else None

    @property
    def offcuts(self) -> int:
        """How many offcuts it takes beside them."""
        return self.fit.shown.offcuts if self.fit.shown else 0

    @property
    def saved(self) -> str:
        """What those save, in words; empty if there are none."""
        shown = self.fit.shown
        if not shown or not shown.offcuts:
            return ""
        verb = "saves" if shown.offcuts == 1 else "save"
        what = some(shown.saved_sheets, "sheet") if shown.saved_sheets > 0 else money(shown.saved_cost)
        return f"{some(shown.offcuts, 'offcut')} {verb} {what}"

    @property
    def mark(self) -> str:
        """A sign for the state, so that colour does not stand alone."""
        return MARKS[self.state]


MARKS = {"cut": "✓", "waiting": "…", "quick": "~", "proven": "✓", "polished": "✓✓", "short": "!", "off": "–"}
WORDS = {
    "cut": "cut",
    "waiting": "looking for sheets",
    "quick": "a first plan",
    "proven": "fewest, proven",
    "polished": "fewest, in few minutes",
    "off": "not fitted",
}


def _entry(fit: PaperFit, kinds: set[str], *, has_supplement: bool) -> Entry:
    working = any(kind in kinds for kind in URGENT)
    state = state_of(fit, working)
    words = WORDS.get(state, "")
    if fit.problem:
        words = fit.problem
    elif state == "short":
        # What is cut at home is not short of pieces: sheets to hand out are.
        home = fit.class_paper.pool in AT_HOME
        words = f"{some(fit.short, 'sheet')} to buy, to hand out" if home else f"{some(fit.short, 'sheet')} short"
    elif state == "polished" and not fit.shown.proven:
        words = "few minutes; maybe not the fewest"
    elif state == "proven" and not fit.shown.proven:
        words = "no proof in time"
    elif state == "off" and fit.shown:
        words = "held as it was" if fit.answer_offered else "changed, not fitted again"
    return Entry(fit=fit, state=state, working=working, words=words, has_supplement=has_supplement)


@dataclass(frozen=True, kw_only=True)
class Papers:
    """All papers of a class: what lists and the strip say of them."""

    card_class: CardClass
    """The class."""
    entries: tuple[Entry, ...]
    """A paper each, card stock first."""
    nobody: bool
    """Whether work waits and no worker lives to do it."""
    failed: str
    """What went wrong with the last work, if that is still needed."""

    @cached_property
    def working(self) -> bool:
        """Whether a plan is being looked for."""
        return any(entry.working for entry in self.entries)

    @property
    def shown(self) -> list[PaperFit]:
        """The fits that have a plan."""
        return [entry.fit for entry in self.entries if entry.fit.shown]

    @property
    def papers(self) -> int:
        """How many papers those are of: a supplement is of the same."""
        return len({fit.class_paper_id for fit in self.shown})

    @property
    def sheets(self) -> int:
        """New sheets in all."""
        return sum(fit.shown.new_sheets for fit in self.shown)

    @property
    def current(self) -> bool:
        """Whether every paper has a plan that answers what is needed now, and all lines could be read."""
        return bool(self.entries) and not self.card_class.n_wrong and all(e.fit.answered for e in self.entries)

    @property
    def proven(self) -> int:
        """How many of the plans are proven the best."""
        return sum(fit.shown.proven for fit in self.shown)

    @property
    def short(self) -> list[PaperFit]:
        """Papers that the shelf has not enough of."""
        return [entry.fit for entry in self.entries if entry.state == "short"]

    @property
    def to_fit(self) -> bool:
        """Whether there is a paper that no plan answers and none is being looked for."""
        unanswered = (entry for entry in self.entries if not entry.fit.answered and not entry.fit.answer_offered)
        return any(not entry.working and not entry.fit.problem for entry in unanswered)


@prepared
def _fits_shown(card_class: int) -> QuerySet:
    rows = PaperFit.objects.filter(class_paper__card_class=card_class).exclude(need="", problem="")
    paper = [f"class_paper__paper__{name}" for name in ("on_hand", "price", "name", "colour", "repeat")]
    return rows.order_by("pk").values_list("pk", "changed_at", *paper)


@prepared
def _sheets_shown(card_class: int) -> QuerySet:
    return Sheet.objects.filter(paper__class_papers__card_class=card_class).values_list("pk", "on_hand", "price")


@prepared
def _fits_promised(owner: int) -> QuerySet:
    return PaperFit.objects.promised(owner).values_list("pk", "changed_at")


@prepared
def _open_works(card_class: int) -> QuerySet:
    mine = Work.objects.filter(fit__class_paper__card_class=card_class, status__in=Work.OPEN, stop_asked=False)
    return mine.order_by("pk").values_list("fit_id", "kind", "status", "due_at")


def stamp_of(card_class: CardClass) -> str:
    """Another one whenever anything that the strip or the wall shows of a class has changed.

    Pages ask for it again and again, so it is made of a few columns; it is read before what is shown with it.
    """
    fits = [*_fits_shown(card_class.pk), *_sheets_shown(card_class.pk), *_fits_promised(card_class.owner_id)]
    works = _open_works(card_class.pk)
    late = timezone.now() - OVERDUE
    nobody = any(kind in URGENT and due < late for _, kind, _, due in works) and not living_workers()
    facts = [
        getattr(card_class, name) for name in ("n_cards", "n_lines", "n_wrong", "n_faults", "n_pieces", "auto_fit")
    ]
    told = repr((fits, [work[:2] for work in works], nobody, facts))
    return blake2b(told.encode(), digest_size=9).hexdigest()


def is_cut(thing: Owned) -> bool:
    """Whether something is cut from a removed paper."""
    done = PaperFit.objects.filter(held__in=PaperFit.DONE)
    return isinstance(thing, Paper) and done.filter(class_paper__paper=thing).exists()


def any_cut(card_class: CardClass) -> bool:
    """Whether a paper of the class is cut, or being cut."""
    return PaperFit.objects.filter(class_paper__card_class=card_class, held__in=PaperFit.DONE).exists()


def papers_in(card_class: CardClass) -> Papers:
    """How all papers of a class stand."""
    return stated([card_class])[card_class.pk]


@prepared
def _fits_wanted(classes: list[int]) -> QuerySet[PaperFit]:
    rows = PaperFit.objects.wanted().filter(class_paper__card_class__in=classes).prefetch_related(None)
    # The classes are here already; for a hundred of them that is a fifth of the time. Their sheets come by themselves.
    return rows.select_related(None).select_related("class_paper__paper", "shown", "offered")


@prepared
def _open_work(classes: list[int]) -> QuerySet[Work]:
    mine = Work.objects.filter(fit__class_paper__card_class__in=classes)
    return mine.filter(status__in=Work.OPEN, stop_asked=False).defer("found", "problem")


def all_papers(classes: Iterable[CardClass]) -> dict[int, Papers]:
    """The same for many classes at once, by key."""
    classes = {each.pk: each for each in classes}
    keys = list(classes)
    fits = _fits_wanted(keys)
    with_sheets([fit.class_paper.paper for fit in fits])
    wanted = _promised_by_paper({each.owner_id for each in classes.values()}) if fits else {}
    for fit in fits:
        fit.class_paper.card_class = classes[fit.class_paper.card_class_id]
        fit.promised = wanted.get(fit.class_paper.paper_id, {})
    open_work = _open_work(keys)
    kinds: dict[int, set[str]] = {}
    for work in open_work:
        kinds.setdefault(work.fit_id, set()).add(work.kind)
    nobody = _nobody(open_work)
    more = {fit.class_paper_id for fit in fits if fit.part > 1}
    entries: dict[int, list[Entry]] = {key: [] for key in classes}
    for fit in fits:
        entry = _entry(fit, kinds.get(fit.pk, set()), has_supplement=fit.class_paper_id in more)
        entries[fit.class_paper.card_class_id].append(entry)
    return {
        key: Papers(
            card_class=each,
            entries=tuple(entries[key]),
            nobody=any(entry.fit.pk in nobody for entry in entries[key]),
            failed=next((entry.fit.failed for entry in entries[key] if entry.fit.failed and not entry.working), ""),
        )
        for key, each in classes.items()
    }


def _promised_by_paper(owners: Iterable[int]) -> dict[int, dict[str, list[Promised]]]:
    found: dict[int, dict[str, list[Promised]]] = {}
    for owner in owners:
        for (paper, sheet), row in promised(owner).items():
            found.setdefault(paper, {})[sheet] = row
    return found


@prepared
def _beats() -> QuerySet:
    return Worker.objects.values_list("beat_at")


def living_workers() -> int:
    """How many workers live. A clock that was set back or forward counts for nothing beyond the next beat."""
    now = timezone.now()
    return sum(now - LIVES <= beat <= now + LIVES for (beat,) in _beats())


def workers_now() -> str:
    """For a monitor: how many workers live; RuntimeError if none does."""
    living = living_workers()
    if not living:
        raise RuntimeError("no worker lives; plans wait")
    return some(living, "worker")


def _nobody(open_work: list[Work]) -> set[int]:
    """The fits whose work is overdue while no worker lives."""
    late = timezone.now() - OVERDUE
    overdue = {work.fit_id for work in open_work if work.kind in URGENT and work.due_at < late}
    if overdue and living_workers():
        return set()
    return overdue


def stated(classes: Iterable[CardClass]) -> dict[int, Papers]:
    """As ``all_papers``, asked only once for the same classes of one page, whichever station asks."""
    classes = list(classes)
    if not all(hasattr(each, "papers_stated") for each in classes):
        found = all_papers(classes)
        for each in classes:
            each.papers_stated = found[each.pk]
    return {each.pk: each.papers_stated for each in classes}
