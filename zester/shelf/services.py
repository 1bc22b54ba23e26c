"""What the rest of Zester may ask of the shelf."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import QuerySet

from zester.core.class_job import SHEET_ID, OffcutSize, SheetSize, ShelfPaper
from zester.core.errors import ZesterError, sure
from zester.core.paper_lines import PaperLine, ReadLine
from zester.core.papers import is_dark, usual_caliper
from zester.core.pieces import KnownPaper
from zester.shelf.models import Pad, Paper, Sheet
from zester.shelf.signals import CHANGED, GONE, NEW, paper_changed
from zester.shelf.stock import BY_HAND, stock_take, stop_counting
from zester.site.prepared import prepared


def papers_of(user: AbstractBaseUser) -> QuerySet[Paper]:
    """The papers on the user's shelf."""
    return Paper.objects.of(user)


def known_papers(papers: Iterable[Paper]) -> list[KnownPaper]:
    """The papers as a cut list names them."""
    return [
        KnownPaper(
            key=paper.key,
            name=paper.name,
            width=paper.width,
            height=paper.height,
            direction=paper.direction,
            back=paper.back_direction,
            two_sided=paper.back != Paper.Back.NONE,
            caliper=paper.caliper or usual_caliper(paper.weight, paper.kind),
            measured=paper.caliper is not None,
            clear=paper.kind in (Paper.Kind.WINDOW, Paper.Kind.VELLUM),
            dark=is_dark(paper.side_b["colour"]),
            former=tuple(paper.former_names),
            pictures=paper.shown_pictures,
        )
        for paper in papers
    ]


@prepared
def _sizes(owner: int) -> QuerySet[Sheet]:
    return Sheet.objects.filter(paper__owner=owner, removed_at=None).exclude(is_offcut=True, on_hand__lte=0)


def sizes_of(owner: int) -> dict[int, list[Sheet]]:
    """The other sizes of the papers of the user with this key and their offcuts that are there, by paper."""
    found: dict[int, list[Sheet]] = {}
    for sheet in _sizes(owner):
        found.setdefault(sheet.paper_id, []).append(sheet)
    return found


@prepared
def _sheets(papers: list[int]) -> QuerySet[Sheet]:
    return Sheet.objects.filter(paper__in=papers)


def with_sheets(papers: Iterable[Paper]) -> None:
    """Read all sheets of papers at once, as ``prefetch_related("sheets")`` does."""
    papers = list(papers)
    found: dict[int, list[Sheet]] = {paper.pk: [] for paper in papers}
    for sheet in _sheets(sorted(found)):
        found[sheet.paper_id].append(sheet)
    for paper in papers:
        for sheet in found[paper.pk]:
            sheet.paper = paper
        there = paper.sheets.all()
        there._result_cache, there._prefetch_done = found[paper.pk], True
        paper._prefetched_objects_cache = {**getattr(paper, "_prefetched_objects_cache", {}), "sheets": there}


def shelf_paper(
    paper: Paper, sheets: Iterable[Sheet] = (), there: Mapping[str, int] | None = None, *, offcuts_too: bool = False
) -> ShelfPaper:
    """The paper as the fitting takes it: in all its sizes, with what may be used of what lies there, by key.

    Offcuts only where they are wanted.
    """
    sheets, there = list(sheets), there or {}
    return ShelfPaper(
        key=paper.key,
        name=paper.name,
        width=paper.width,
        height=paper.height,
        price=paper.price,
        margins=paper.margins,
        pack=paper.pack,
        there=there.get(SHEET_ID, 0),
        sizes=tuple(_size(each, there.get(each.key, 0)) for each in sheets if not each.is_offcut),
        offcuts=tuple(
            OffcutSize(id=each.key, width=each.width, height=each.height, count=there[each.key], up=each.up)
            for each in sheets
            if offcuts_too and each.is_offcut and there.get(each.key, 0) > 0
        ),
    )


def _size(sheet: Sheet, there: int) -> SheetSize:
    sides = {"width": sheet.width, "height": sheet.height}
    return SheetSize(id=sheet.key, price=sheet.price, pack=sheet.pack, there=there, **sides)


def names_of(papers: Iterable[Paper]) -> dict[str, str]:
    """What the papers are called, by key."""
    return {paper.key: paper.name for paper in papers}


# What the page of a paper is about.
PAPER_FIELDS = tuple(
    field.name
    for field in Paper._meta.concrete_fields
    if field.editable and field.name not in ("id", "owner", "created_at", "photo", "back_photo")
)


_AS_IT_IS = object()


@transaction.atomic
def keep_paper(paper: Paper, counted: int | object | None = _AS_IT_IS) -> Paper:
    """Store a paper, new or changed. A name it had before stays known, so that lists written then still read.

    ``counted`` is how many of its sheets lie there, which is booked; None: it is bought as needed.
    """
    before = Paper.objects.filter(pk=paper.pk).values_list("name", flat=True).first() if paper.pk else None
    same = paper.name.casefold()
    former = [name for name in paper.former_names if name.casefold() != same]
    if before and before.casefold() != same:
        former = [*former, before]
    paper.former_names = former
    paper.save(update_fields=[*PAPER_FIELDS, "former_names"] if before else None)
    if counted is None:
        stop_counting(paper)
    elif counted is not _AS_IT_IS:
        stock_take(paper, None, counted, about="" if before else "when it was put on the shelf", by=BY_HAND)
    paper_changed.send(Paper, paper=paper, kind=CHANGED if before else NEW, was_called=before)
    return paper


@transaction.atomic
def put_on(user: AbstractBaseUser, lines: Iterable[PaperLine]) -> list[Paper]:
    """Papers that were written as lines, put on the shelf.

    Raises
    ------
    ZesterError
        If a paper is or was called so already; then none of them is put there.
    """
    out = []
    for line in lines:
        other = called(user, line.name)
        if other:
            raise ZesterError(f"{line.name} is on your shelf already", mend="Take that line out, or use another name")
        about = dict(vars(line))
        counted = about.pop("on_hand")
        out.append(keep_paper(Paper(owner=user, **about), counted))
    return out


@transaction.atomic
def put_lines_on(user: AbstractBaseUser, read: Sequence[ReadLine]) -> tuple[list[Paper], list[Pad]]:
    """Papers and pads that were written as lines, put on the shelf.

    Raises
    ------
    ZesterError
        If a paper or a pad is called so already; then none of them is put there.
    """
    papers = put_on(user, [sure(line.paper) for line in read if line.paper])
    keys = {paper.name: paper.key for paper in papers}
    there = {name.casefold() for name in Pad.objects.of(user).values_list("name", flat=True)}
    pads: dict[str, Pad] = {}
    for line in read:
        if not line.pad:
            continue
        name = line.pad.name
        if name.casefold() in there:
            raise ZesterError(f"A pad called {name} is on your shelf already", mend="Use another name")
        pad = pads.setdefault(name, Pad(owner=user, name=name, price=line.pad.price))
        if line.paper:
            pad.holds[keys[line.paper.name]] = line.sheets
    for pad in pads.values():
        pad.save()
    return papers, list(pads.values())


@transaction.atomic
def keep_swatch(paper: Paper, photo: str, colour: str, side: str = "a") -> None:
    """Draw a side of a paper by a photo and its colour; without a photo by its colour and repeat."""
    fields = {"photo": photo, "colour": colour} if side == "a" else {"back_photo": photo, "back_colour": colour}
    for name, value in fields.items():
        setattr(paper, name, value)
    paper.save(update_fields=list(fields))
    paper_changed.send(Paper, paper=paper, kind=CHANGED)


@transaction.atomic
def forget_name(paper: Paper, name: str) -> None:
    """Let a former name go; another paper may be called so then."""
    paper.former_names = [each for each in paper.former_names if each != name]
    paper.save(update_fields=["former_names"])
    paper_changed.send(Paper, paper=paper, kind=CHANGED)


@transaction.atomic
def take_off(paper: Paper) -> None:
    """Take a paper off the shelf; can be undone."""
    paper.remove()
    paper_changed.send(Paper, paper=paper, kind=GONE)


@transaction.atomic
def put_back(paper: Paper) -> None:
    """Put a paper back on the shelf."""
    paper.restore()
    paper_changed.send(Paper, paper=paper, kind=NEW)


def called(user: AbstractBaseUser, name: str, but: Paper | None = None) -> Paper | None:
    """The paper on the user's shelf that is or was called so, other than ``but``."""
    wanted = name.casefold()
    papers = papers_of(user).exclude(pk=but.pk if but else None)
    return next((each for each in papers if wanted in (n.casefold() for n in (each.name, *each.former_names))), None)
