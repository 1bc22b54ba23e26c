"""Reading, saving, keeping and renaming cut lists; the designer's tools."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from difflib import SequenceMatcher
from functools import lru_cache, partial

from django.contrib.auth.models import AbstractBaseUser
from django.core.files.base import ContentFile
from django.db import transaction
from django.db.models import F, QuerySet
from django.utils import timezone

from zester.core.cards.checks import check_card
from zester.core.cards.study import Finding, Study, study
from zester.core.cutlist.lines import Reading, plain_lines
from zester.core.cutlist.notation import read_list, rename_tool
from zester.core.errors import CutListError, Question, ZesterError
from zester.core.lengths import RULERS
from zester.core.pieces import Known
from zester.core.pieces import Tool as CoreTool
from zester.designs.models import Card, Edition, OwnWord, Photo, Tool
from zester.designs.signals import card_changed, tools_changed
from zester.shelf.models import Paper
from zester.shelf.services import known_papers
from zester.site.prepared import prepared

LONGEST_LIST = 40_000
LONGEST_WORDS = 400
MOST_PHOTOS = 12
LONGEST_WORD, LONGEST_MEANING = 40, 80
TOOL_FIELDS = ("name", "kind", "shape", "sizes", "reach", "largest_width", "largest_height", "merchant", "link")


@dataclass(frozen=True)
class Saved:
    """What came of saving."""

    card: Card
    """The card as it is stored now."""
    conflict: bool
    """Whether another window saved in between, so that nothing was overwritten."""


@dataclass(frozen=True, eq=False)
class Holdings:
    """What somebody has that lists may name; the same only if it is the same object, so that it can be looked up by."""

    papers: tuple[Paper, ...]
    """The papers on the shelf."""
    known: Known
    """Papers and tools as lists name them."""


def holdings_of(user: AbstractBaseUser) -> Holdings:
    """The user's papers and tools."""
    return holdings_by(user.pk)


def holdings_by(owner: int) -> Holdings:
    """The papers and tools of the user with this key."""
    # All columns of all rows, as something that can be looked up.
    papers, tools = (tuple(tuple(map(_hashable, row)) for row in rows(owner)) for rows in (_paper_rows, _tool_rows))
    return _holdings(papers, tools, tuple(_own_words(owner)))


@prepared
def _paper_rows(owner: int) -> QuerySet:
    return _columns(Paper.objects.filter(owner=owner, removed_at=None))


@prepared
def _tool_rows(owner: int) -> QuerySet:
    return _columns(Tool.objects.filter(owner=owner, removed_at=None))


@prepared
def _own_words(owner: int) -> QuerySet:
    return OwnWord.objects.filter(owner=owner, removed_at=None, is_used=True).values_list("word", "means")


def _columns(things: QuerySet) -> QuerySet:
    return things.values_list(*[field.attname for field in things.model._meta.concrete_fields])


def _hashable(value: object) -> object:
    return tuple(map(_hashable, value)) if isinstance(value, list) else value


@lru_cache(maxsize=256)
def _holdings(paper_rows: tuple, tool_rows: tuple, words: tuple[tuple[str, str], ...]) -> Holdings:
    """From the same rows the same things: asked for at every keystroke. Nobody changes them."""
    papers, tools = (
        tuple(model.from_db(None, [field.attname for field in model._meta.concrete_fields], row) for row in rows)
        for model, rows in ((Paper, paper_rows), (Tool, tool_rows))
    )
    return Holdings(papers, Known(tuple(known_papers(papers)), tuple(_core_tool(tool) for tool in tools), words))


def known_to(user: AbstractBaseUser) -> Known:
    """The papers and tools the user's lists may name."""
    return holdings_of(user).known


def tools_of(user: AbstractBaseUser) -> QuerySet[Tool]:
    """The user's dies, punches and folders."""
    return Tool.objects.of(user)


def _core_tool(tool: Tool) -> CoreTool:
    largest = (tool.largest_width, tool.largest_height) if tool.largest_width and tool.largest_height else None
    sizes = tuple((width, height) for width, height in tool.sizes)
    return CoreTool(name=tool.name, kind=tool.kind, shape=tool.shape, sizes=sizes, reach=tool.reach, largest=largest)


def read_card(card: Card, known: Known, text: str | None = None) -> list[Reading]:
    """Read the card's list, or ``text`` in its place."""
    return read_list(card.cut_list if text is None else text, known, RULERS[card.ruler])


def study_card(card: Card, known: Known, text: str | None = None, version: str = "") -> Study:
    """The card's list, or ``text`` in its place, looked at as a card."""
    return study(read_card(card, known, text), known, RULERS[card.ruler], version)


@lru_cache(maxsize=64)
def checked(text: str, known: Known, ruler: str, version: str) -> tuple[Study, tuple[Finding, ...]]:
    """A list looked at as one version of a card, and what the checks find. A keystroke asks twice: desk and count."""
    ruled = RULERS[ruler]
    looked = Study(tuple(read_list(text, known, ruled)), known, ruled, version)
    return looked, tuple(check_card(looked))


@lru_cache(maxsize=256)
def faults_in(text: str, known: Known, ruler: str, version: str) -> int:
    """How much of what the checks find in a list would spoil the card. Of a list that is as it was it is known."""
    return sum(finding.grave for finding in checked(text, known, ruler, version)[1])


@prepared
def _card_held(pk: int) -> QuerySet[Card]:
    return Card.objects.select_for_update(of=("self",)).filter(pk=pk)


def save_list(card: Card, text: str, saves: int, editor: str, *, force: bool = False, open_in: object = None) -> Saved:
    """Keep the list exactly as typed, right or wrong.

    Saving is refused if another editor saved since ``saves``, unless ``force``. Line ends are made plain. ``open_in``
    is what the page it is written on is about, as the signal has it.
    """
    text = plain_lines(text)
    with transaction.atomic():
        (card,) = _card_held(card.pk)
        if card.saves != saves and card.saved_by != editor and card.cut_list != text:
            if not force:
                return Saved(card, conflict=True)
            # What the other window was told is saved is not gone: it lies among the kept lists.
            keep_edition(card, "from another window")
        before = card.cut_list
        changed = before != text
        if changed or card.saved_by != editor:
            card.cut_list, card.saved_by, card.saves = text, editor, card.saves + 1
            card.saved_at = timezone.now()
            card.save(update_fields=["cut_list", "saved_by", "saves", "saved_at"])
        if changed:
            _learn(card, before, text)
            card_changed.send(Card, card=card, open_in=open_in, before=before)
    return Saved(card, conflict=False)


def _learn(card: Card, before: str, now: str) -> None:
    """Count what was picked for a word of a paper: picked twice it is proposed as a word of her own."""
    lines, others = before.splitlines(), now.splitlines()
    changed = [at for at, pair in enumerate(zip(lines, others, strict=False)) if pair[0] != pair[1]]
    if len(lines) != len(others) or len(changed) != 1:
        return
    (at,) = changed
    known = holdings_by(card.owner_id).known
    readings = read_list(before, known, RULERS[card.ruler])
    error = readings[at].error if at < len(readings) else None
    if not isinstance(error, Question) or others[at] not in [choice.line for choice in error.choices]:
        return
    asked = re.match(r"(?:No paper is called )?“(?P<word>[^”]{1,40})”(?: could be|$)", error.what)
    picked = [paper.name for paper in known.papers if paper.name in others[at] and paper.name not in lines[at]]
    if not asked or len(picked) != 1 or asked["word"].casefold() == picked[0].casefold():
        return
    words = OwnWord.objects.filter(owner=card.owner_id, word__iexact=asked["word"], means=picked[0])
    if not words.update(seen=F("seen") + 1):
        OwnWord.objects.create(owner=card.owner, word=asked["word"], means=picked[0], seen=1)


@transaction.atomic
def keep_word(owner: AbstractBaseUser, word: str, means: str) -> OwnWord:
    """Use a word of her own from now on; one of a word at a time.

    Raises
    ------
    ZesterError
        If it is no word, or stands for nothing.
    """
    word, means = " ".join(word.split()), " ".join(means.split())
    if not re.fullmatch(r"[^\W\d_][\w'-]*(?: [\w'-]+){0,2}", word) or len(word) > LONGEST_WORD:
        raise ZesterError(f"“{word[:40]}” is no word for a list", mend="One to three words that begin with a letter")
    if not means or "#" in means or len(means) > LONGEST_MEANING:
        raise ZesterError(f"What does “{word}” stand for?", mend="A paper’s name, or other words of a line, without #")
    before = known_to(owner)
    others = OwnWord.objects.of(owner).filter(word__iexact=word, is_used=True).exclude(means=means)
    others.update(removed_at=timezone.now())
    kept, _ = OwnWord.objects.update_or_create(
        owner=owner, word__iexact=word, means=means, defaults={"word": word, "is_used": True, "removed_at": None}
    )
    tools_changed.send(Tool, owner=owner, before=before)
    return kept


def differences(mine: str, theirs: str) -> list[tuple[list[str], list[str]]]:
    """The parts of two lists that are not alike: the lines of one beside those of the other."""
    one, other = mine.splitlines(), theirs.splitlines()
    parts = SequenceMatcher(None, one, other, autojunk=False).get_opcodes()
    return [(one[a:b], other[c:d]) for tag, a, b, c, d in parts if tag != "equal"]


@transaction.atomic
def keep_edition(card: Card, name: str) -> Edition:
    """Keep the list as it is now under a name."""
    return Edition.objects.create(card=card, name=name, cut_list=card.cut_list, ruler=card.ruler)


@transaction.atomic
def mind(pk: int, line: str) -> bool:
    """Write what to mind next time into a design, once; False if there is no room for it."""
    card = Card.objects.select_for_update(of=("self",)).get(pk=pk)
    if line in card.went_wrong.splitlines():
        return True
    kept = f"{card.went_wrong}\n{line}".strip()
    if len(kept) > Card._meta.get_field("went_wrong").max_length:
        return False
    card.went_wrong = kept
    card.save(update_fields=["went_wrong"])
    return True


@transaction.atomic
def replace_list(card: Card, text: str, ruler: str, before: str) -> Card:
    """Put another list in place of the card's; the one before is kept as an edition, unless it was empty.

    Raises CutListError where the list is longer than a card's may be: nothing is cut off it.
    """
    text = plain_lines(text)
    if len(text) > LONGEST_LIST:
        raise CutListError(
            f"The list has {len(text):,} letters, a card’s holds {LONGEST_LIST:,}",
            mend="Make a second card of the rest",
        )
    card = Card.objects.select_for_update(of=("self",)).get(pk=card.pk)
    if card.cut_list.strip():
        keep_edition(card, before)
    card.cut_list, card.ruler = text, ruler or card.ruler
    card.saves, card.saved_by, card.saved_at = card.saves + 1, "library", timezone.now()
    card.save(update_fields=["cut_list", "ruler", "saves", "saved_by", "saved_at"])
    card_changed.send(Card, card=card, open_in=None)
    return card


@transaction.atomic
def keep_card(card: Card, fields: list[str], open_in: object = None) -> None:
    """Store what was changed of a card beside its list: its name, its ruler, its notes."""
    card.save(update_fields=fields)
    card_changed.send(Card, card=card, open_in=open_in)


@transaction.atomic
def keep_photo(card: Card, image: ContentFile, words: str = "") -> Photo:
    """Keep a photo more of a card.

    Raises
    ------
    ZesterError
        If there are as many as a card has room for.
    """
    card = Card.objects.select_for_update(of=("self",)).get(pk=card.pk)
    if Photo.objects.filter(card=card, removed_at=None).count() >= MOST_PHOTOS:
        raise ZesterError(f"A design has room for {MOST_PHOTOS} photos", mend="Remove one first")
    photo = Photo(owner=card.owner, card=card, words=words)
    photo.image.save("photo.jpg", image)
    return photo


def forget_photo(sender: type, instance: Photo, **_) -> None:
    """A photo is deleted for good: it leaves the disk."""
    if instance.image:
        transaction.on_commit(partial(instance.image.storage.delete, instance.image.name))


@dataclass(frozen=True)
class Clash:
    """Words that were changed in another window meanwhile."""

    key: str
    """The step's key."""
    mine: str
    """What was sent."""
    theirs: str
    """What is stored."""


@transaction.atomic
def keep_words(card: Card, sent: Mapping[str, str], seen: Mapping[str, str]) -> list[Clash]:
    """Keep the teacher's words to steps; what another window changed meanwhile is not overwritten but told.

    ``sent`` are the words by a step's key, ``seen`` what the page had shown of them.
    """
    card = Card.objects.select_for_update(of=("self",)).get(pk=card.pk)
    stored, clashes = dict(card.teaching), []
    for key, text in sent.items():
        before, now = seen.get(key, ""), stored.get(key, "")
        if text == before:
            continue
        if now not in (before, text):
            clashes.append(Clash(key, text, now))
        elif text:
            stored[key] = text
        else:
            stored.pop(key, None)
    card.teaching = stored
    card.save(update_fields=["teaching"])
    return clashes


@transaction.atomic
def remove_card(card: Card) -> None:
    """Take a design out of the library and of everything it is used in; can be undone."""
    card.remove()
    card_changed.send(Card, card=card, open_in=None)


@transaction.atomic
def bring_card_back(card: Card) -> None:
    """Undo the removal of a design."""
    card.restore()
    card_changed.send(Card, card=card, open_in=None)


@transaction.atomic
def copy_card(card: Card, name: str) -> Card:
    """A new card with the same list and notes; the photos and the kept lists stay with the old one."""
    return Card.objects.create(
        owner=card.owner,
        name=name,
        ruler=card.ruler,
        cut_list=card.cut_list,
        notes=card.notes,
        went_wrong=card.went_wrong,
        teaching=card.teaching,
        supplies=card.supplies,
    )


@transaction.atomic
def keep_tool(tool: Tool) -> Tool:
    """Store a tool, new or changed; the lists follow a new name."""
    old_name = Tool.objects.filter(pk=tool.pk).values_list("name", flat=True).first() if tool.pk else None
    before = known_to(tool.owner)
    tool.save(update_fields=TOOL_FIELDS if tool.pk else None)
    if old_name and tool.name != old_name:
        _follow_tool(tool.owner, old_name, tool.name, before)
    tools_changed.send(Tool, owner=tool.owner, before=before)
    return tool


@transaction.atomic
def take_tool_off(tool: Tool | OwnWord) -> None:
    """Take a tool, or a word of her own, off the list; can be undone."""
    before = known_to(tool.owner)
    tool.remove()
    tools_changed.send(Tool, owner=tool.owner, before=before)


@transaction.atomic
def put_tool_back(tool: Tool | OwnWord) -> None:
    """Undo that."""
    before = known_to(tool.owner)
    tool.restore()
    tools_changed.send(Tool, owner=tool.owner, before=before)


def _follow_tool(user: AbstractBaseUser, old_name: str, new_name: str, before: Known) -> None:
    """Rename a tool in all the user's lists, which can still be read with ``before``."""
    for card in Card.objects.of(user).select_for_update(of=("self",)):
        text = rename_tool(card.cut_list, old_name, new_name, before, RULERS[card.ruler])
        if text != card.cut_list:
            card.cut_list, card.saves, card.saved_by = text, card.saves + 1, "tools"
            card.save(update_fields=["cut_list", "saves", "saved_by", "saved_at"])


def lists_naming(paper: Paper) -> list[str]:
    """The names of its owner's cards whose lists use the paper."""
    known = known_to(paper.owner)
    return [
        card.name
        for card in Card.objects.of(paper.owner)
        if any(reading.piece and reading.piece.paper == paper.key for reading in read_card(card, known))
    ]


def unclear_after(paper: Paper, name: str) -> list[str]:
    """What lists would no longer say clearly if the paper were called so, one sentence each.

    Every list is looked at, also kept ones and those of removed cards: a name is for people, and giving another must
    not change what anything means.
    """
    known = known_to(paper.owner)
    renamed = tuple(
        replace(each, name=name, former=(*each.former, each.name)) if each.key == paper.key else each
        for each in known.papers
    )
    after = replace(known, papers=renamed)
    found = []
    for where, text, ruler in _all_lists(paper.owner):
        pairs = zip(read_list(text, known, RULERS[ruler]), read_list(text, after, RULERS[ruler]), strict=True)
        for old, new in pairs:
            if old.piece and (new.piece is None or new.piece.paper != old.piece.paper):
                why = new.error.what if new.error else "it would mean another paper"
                found.append(f"{where}, line {old.line + 1}: {why}.")
    return list(dict.fromkeys(found))


def _all_lists(user: AbstractBaseUser) -> Iterator[tuple[str, str, str]]:
    """Every list of the user's, removed and kept ones too: where it is, its text, its ruler."""
    for card in Card.objects.filter(owner=user):
        yield card.name, card.cut_list, card.ruler
    for edition in Edition.objects.filter(card__owner=user).select_related("card"):
        yield f"{edition.card.name}, kept as “{edition.name}”", edition.cut_list, edition.ruler
