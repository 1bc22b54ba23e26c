"""What a class that is cut, packed or past keeps of the shelf: what its papers were called, and its owner's tools."""

from __future__ import annotations

from collections.abc import Iterable
from copy import copy
from dataclasses import asdict, replace
from typing import Any

from zester.core.pieces import Known, KnownPaper
from zester.core.pieces import Tool as CoreTool
from zester.designs.services import Holdings
from zester.shelf.models import Paper
from zester.shelf.services import known_papers


def to_keep(held: Holdings) -> dict[str, Any]:
    """Papers by key with their names, the tools, words of her own, as ``CardClass.kept_shelf`` has them."""
    words = {"words": [list(each) for each in held.known.words]} if held.known.words else {}
    return words | {
        "papers": {paper.key: paper.name for paper in held.papers},
        "tools": [asdict(tool) for tool in held.known.tools],
    }


def as_kept(held: Holdings, kept: dict[str, Any], owner: int) -> Holdings:
    """What lists of a class may name: today's shelf, its papers and tools called and made as the class keeps them.

    A paper that was taken off the shelf since is there for it; one that has taken another's name since is not.
    ``owner`` is whose shelf it is, by key.
    """
    if not kept:
        return held
    papers = papers_as_kept(held.papers, kept, owner)
    now = {paper.key: paper.name for paper in held.papers}
    known = tuple(_known(each, now) for each in known_papers(papers))
    words = tuple((word, means) for word, means in kept.get("words", ()))
    return Holdings(tuple(papers), Known(known, tuple(map(_tool, kept["tools"])), words))


def papers_as_kept(there: Iterable[Paper], kept: dict[str, Any], owner: int) -> list[Paper]:
    """The papers on the shelf (``there``) as the class calls them: see ``as_kept``."""
    papers = list(there)
    if not kept:
        return papers
    names = kept["papers"]
    gone = names.keys() - {paper.key for paper in papers}
    papers += Paper.objects.filter(owner=owner, key__in=gone) if gone else ()
    others = {name.casefold() for name in names.values()}
    papers = [paper for paper in papers if paper.key in names or paper.name.casefold() not in others]
    return sorted((named(paper, kept) for paper in papers), key=lambda paper: (paper.kind, paper.name))


def named(paper: Paper, kept: dict[str, Any]) -> Paper:
    """The paper, called as the class keeps it; to be looked at, not to be stored."""
    name = kept.get("papers", {}).get(paper.key, paper.name)
    if name == paper.name:
        return paper
    paper = copy(paper)
    paper.name = name
    return paper


def _known(paper: KnownPaper, now: dict[str, str]) -> KnownPaper:
    """A list that the class takes in anew may call it as it is called today."""
    name = now.get(paper.key, paper.name)
    former = tuple(each for each in (*paper.former, name) if each.casefold() != paper.name.casefold())
    return replace(paper, former=former)


def _tool(entry: dict[str, Any]) -> CoreTool:
    pairs = {"sizes": tuple(tuple(size) for size in entry["sizes"])}
    largest = tuple(entry["largest"]) if entry["largest"] else None
    return CoreTool(**(entry | pairs | {"largest": largest}))
