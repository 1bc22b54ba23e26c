"""Which paper a written line means: by its name, by a name it had before, or by the beginning of its words."""

from __future__ import annotations

import difflib
from collections.abc import Sequence

from zester.core.cutlist.words import NOUNS
from zester.core.errors import CutListError
from zester.core.pieces import KnownPaper


def find_paper(words: str, papers: Sequence[KnownPaper]) -> KnownPaper:
    """The paper that is meant: its whole name, or the beginning of one of its words, if only one paper fits.

    A name that a paper had before counts like its own, so that what was written then still reads. A whole name of
    today goes before one of former days.

    Raises
    ------
    CutListError
        Naming the papers that fit, or that come near.
    """
    if not words:
        raise CutListError("No paper named", mend=_offer(papers, "Put a paper after the size"))
    wanted = words.casefold()
    near = _fitting(wanted, papers)
    if len(near) == 1:
        return near[0]
    if near:
        raise CutListError(f"“{words}” could be {_either(near, wanted)}", mend="Write a little more of the name")
    close = difflib.get_close_matches(wanted, [name for paper in papers for name in _names(paper)], n=2, cutoff=0.6)
    meant = [paper for paper in papers if any(name in close for name in _names(paper))]
    if meant:
        raise CutListError(f"No paper is called “{words}”", mend=f"Did you mean {_either(meant)}?")
    raise CutListError(f"No paper is called “{words}”", mend=_offer(papers, "Put it on the shelf first, or use"))


def runs_of(words: list[str], papers: Sequence[KnownPaper]) -> list[tuple[int, int, str]]:
    """Every longest run of words that shortens one paper: where it begins and ends, and the paper's name."""
    found, at = [], 0
    while at < len(words):
        for end in range(len(words), at, -1):
            run = words[at:end]
            if "" in run or (len(run) == 1 and (len(run[0]) < 3 or run[0].casefold().rstrip("s") in NOUNS)):
                continue
            fitting = _fitting(" ".join(run).casefold(), papers)
            if len(fitting) != 1:
                continue
            found.append((at, end, fitting[0].name))
            at = end - 1
            break
        at += 1
    return found


def _fitting(wanted: str, papers: Sequence[KnownPaper]) -> list[KnownPaper]:
    """The papers whose whole name this is, else those that were called so, else those that it shortens."""
    exact = [paper for paper in papers if paper.name.casefold() == wanted] or [
        paper for paper in papers if wanted in (name.casefold() for name in paper.former)
    ]
    return exact or [paper for paper in papers if any(_shortened(wanted, name) for name in _names(paper))]


def _names(paper: KnownPaper) -> list[str]:
    """Its name and those it had, to be compared."""
    return [name.casefold() for name in (paper.name, *paper.former)]


def _shortened(wanted: str, name: str) -> bool:
    parts, words = wanted.split(), name.split()
    return any(
        all(word.startswith(part) for part, word in zip(parts, words[start:], strict=False))
        for start in range(len(words) - len(parts) + 1)
    )


def _either(papers: Sequence[KnownPaper], wanted: str = "") -> str:
    return " or ".join(_called(paper, wanted) for paper in papers[:3])


def _called(paper: KnownPaper, wanted: str) -> str:
    """Its name, and the one it had before if only that is what was written."""
    if not wanted or wanted == paper.name.casefold() or _shortened(wanted, paper.name.casefold()):
        return f"“{paper.name}”"
    before = next((name for name in paper.former if _shortened(wanted, name.casefold())), "")
    return f"“{paper.name}” (once “{before}”)" if before else f"“{paper.name}”"


def _offer(papers: Sequence[KnownPaper], lead: str) -> str:
    return f"{lead}: {', '.join(paper.name for paper in papers[:4])}" if papers else "Put a paper on the shelf first"
