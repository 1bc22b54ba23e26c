"""Everything of one person as a ZIP: ``zester.json``, and beside it tables, lists and photos for other programs."""

from __future__ import annotations

import datetime
import json
import zipfile
from collections.abc import Iterable
from typing import IO

from django.contrib.auth.models import AbstractBaseUser
from django.core.serializers.json import DjangoJSONEncoder

from zester.archive.kit_keys import renamed
from zester.archive.reading import MOST_TEXT, can_be_read
from zester.archive.rows import FORMAT, KINDS
from zester.core.csv_files import write_csv
from zester.core.cutlist.list_files import rows_of
from zester.core.cutlist.list_files import write_csv as write_list
from zester.core.lengths import RULERS, write_length
from zester.designs.models import Card, Photo
from zester.designs.services import known_to
from zester.printing.models import Print
from zester.shelf.models import Paper


class _Encoder(DjangoJSONEncoder):
    """Times to the microsecond, so that they come back as they were."""

    def default(self, o: object) -> object:
        """What JSON has no words for."""
        return o.isoformat() if isinstance(o, datetime.datetime) else super().default(o)


TOO_LARGE = (
    f"It holds everything, but more than can be brought in at once ({MOST_TEXT // 10**6} MB of text)."
    " To move to another account, ask whoever looks after Zester for a backup."
)


def saved(made: Print, out: IO[bytes]) -> str:
    """Write everything of whoever asked for it; what they should know about it."""
    return "" if pack(made.owner, out) else TOO_LARGE


def pack(user: AbstractBaseUser, out: IO[bytes]) -> bool:
    """Write everything that is the user's into a ZIP file; whether as much can be brought in again."""
    numbers: dict[str, dict[int, int]] = {}
    content: dict = {"format": FORMAT}
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for kind in KINDS:
            things = list(kind.of(user))
            numbers[kind.name] = {thing.pk: number for number, thing in enumerate(things, start=1)}
            rows = (_row(kind, thing, numbers) for thing in things)
            content[kind.name] = [row for row in rows if row is not None]
        text = json.dumps(content, cls=_Encoder, ensure_ascii=False, indent=1)
        archive.writestr("zester.json", text)
        archive.writestr("papers.csv", _papers(Paper.objects.of(user)))
        _write_lists(archive, user)
        _write_photos(archive, user, numbers["photos"])
    return can_be_read(text)


def _row(kind, thing, numbers: dict[str, dict[int, int]]) -> dict | None:
    """A thing as the file has it; None for what was packed for an order that is gone."""
    row = {"id": numbers[kind.name][thing.pk]}
    for name, other in kind.refers_to.items():
        key = getattr(thing, f"{name}_id")
        row[name] = numbers[other].get(key) if key else None
    for name, other in kind.many.items():
        row[name] = [numbers[other][key] for key in getattr(thing, name).order_by("pk").values_list("pk", flat=True)]
    row |= {each.name: each.value_from_object(thing) for each in kind.fields}
    try:
        return row | {name: renamed(row[name], numbers["people"], numbers["offers"]) for name in kind.keyed}
    except KeyError:
        return None


def _papers(papers: Iterable[Paper]) -> bytes:
    head = ("name", "kind", "width", "height", "unit", "on hand", "price", "pack", "weight g/m²")
    return write_csv(head, (_paper_row(paper) for paper in papers))


def _paper_row(paper: Paper) -> tuple:
    size = [write_length(side, paper.unit) for side in (paper.width, paper.height)]
    return (paper.name, paper.kind, *size, paper.unit, paper.on_hand, paper.price, paper.pack, paper.weight)


def _write_lists(archive: zipfile.ZipFile, user: AbstractBaseUser) -> None:
    known = known_to(user)
    for number, card in enumerate(Card.objects.of(user).order_by("pk"), start=1):
        name = "".join(char if char.isalnum() else "-" for char in card.name)
        archive.writestr(f"lists/{number:03}-{name}.txt", card.cut_list)
        archive.writestr(f"lists/{number:03}-{name}.csv", write_list(rows_of(card.cut_list, known, RULERS[card.ruler])))


def _write_photos(archive: zipfile.ZipFile, user: AbstractBaseUser, numbers: dict[int, int]) -> None:
    for photo in Photo.objects.filter(owner=user).exclude(image=""):
        try:
            with photo.image.open("rb") as image:
                archive.writestr(f"photos/p{numbers[photo.pk]}.jpg", image.read())
        except FileNotFoundError:
            continue
