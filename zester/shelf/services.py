"""What the rest of Zester may ask of the shelf."""

from __future__ import annotations

from collections.abc import Iterable

from django.contrib.auth.models import AbstractBaseUser
from django.db.models import QuerySet

from zester.core.class_job import ShelfPaper
from zester.core.cutlist.pieces import Stock
from zester.core.papers import usual_caliper
from zester.shelf.models import Paper


def papers_of(user: AbstractBaseUser) -> QuerySet[Paper]:
    """The papers on the user's shelf."""
    return Paper.objects.of(user)


def stocks(papers: Iterable[Paper]) -> list[Stock]:
    """The papers as a cut list names them."""
    return [
        Stock(
            paper.name,
            paper.name,
            paper.width,
            paper.height,
            paper.direction,
            paper.back != Paper.Back.NONE,
            paper.caliper or usual_caliper(paper.weight, paper.kind),
            paper.caliper is not None,
            paper.kind in (Paper.Kind.WINDOW, Paper.Kind.VELLUM),
        )
        for paper in papers
    ]


def shelf_papers(papers: Iterable[Paper]) -> list[ShelfPaper]:
    """The papers as the fitting takes them."""
    return [
        ShelfPaper(paper.name, paper.width, paper.height, paper.on_hand, paper.price, paper.margins, paper.pack)
        for paper in papers
    ]


def looks(papers: Iterable[Paper]) -> dict[str, dict]:
    """How each paper is drawn and what it costs, as plain data that can be kept with a fit."""
    return {
        paper.name: {
            "name": paper.name,
            "kind": paper.get_kind_display(),
            "size": paper.size_text,
            "colour": paper.colour,
            "ink": paper.ink,
            "repeat": paper.repeat,
            "direction": paper.direction,
            "pack": paper.pack,
            "on_hand": paper.on_hand,
            "price": None if paper.price is None else str(paper.price),
        }
        for paper in papers
    }
