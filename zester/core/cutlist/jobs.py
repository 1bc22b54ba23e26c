"""The jobs of a piece as its line says them: what is done to it, when, by whom, and whether it has to dry.

    embossed and tied before class by Finn, washed in class, dry first
    +----------------+ +----------+ +-----+ +----+ +------+ +-------+
     two jobs           when         who     a job  when     it dries

What is said of when, who and drying belongs to the jobs before it, back to the last that had something said of them; in
front of all jobs it belongs to the first. What could belong to two jobs is asked.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import replace

from zester.core.cutlist.lines import Written, segments
from zester.core.errors import Choice, NotInForm, Question
from zester.core.pieces import BEFORE, FIRST, FOLDED, IN_CLASS, NOTCH, OF_ITS_FORM, SCORE, SHAPE, WINDOW, PieceJob, Tool

_DONE = {
    "emb": "embossed",
    "hea": "heat-embossed",
    "die": "die-cut",
    "pun": "punched",
    "sta": "stamped",
    "tie": "tied",
    "pai": "painted",
    "was": "washed",
    "col": "coloured",
    "ink": "inked",
    "cut": "cut out by hand",
}
_BY_TOOL = {"die": "die-cut", "punch": "punched", "folder": "embossed"}
# What a piece has: nobody says of each when it is made, so it goes with the job before it.
_HAS = {
    "folded": SCORE,
    "score": SCORE,
    "window": WINDOW,
    "hole": WINDOW,
    "notch": NOTCH,
    "shape": SHAPE,
    "corners": "corners rounded",
}
_TIMES = {BEFORE: "before class", IN_CLASS: "in class"}
_SAID = {"before_class": ("when", BEFORE), "in_class": ("when", IN_CLASS), "first": ("dries", FIRST), "by": ("by", "")}
_TOLD = {"preparation", "folded", "corners", *_SAID}


def jobs_of(written: Written, tool: Tool | None) -> tuple[PieceJob, ...]:
    """The jobs in the order they are written.

    Raises
    ------
    Question
        If two times are said for one job, or a job stands behind the time of another without one of its own.
    """
    # Most lines say nothing of what is done.
    return _Jobs(written).read(tool) if tool or written.rules.keys() & _TOLD else ()


class _Jobs:
    """One line's."""

    def __init__(self, written: Written):
        self.written = written
        self.jobs: dict[str, PieceJob] = {}
        self.asked: dict[str, re.Match[str]] = {}

    def read(self, tool: Tool | None) -> tuple[PieceJob, ...]:
        group: list[str] = []
        before, first, closed = list[tuple[str, str]](), group, False
        for _, name, value in sorted(self._words(tool), key=lambda word: word[0]):
            if name == "do":
                if closed:
                    group, closed = [], False
                    first = first or group
                self.jobs.setdefault(value, PieceJob(what=value))
                group.append(value)
            elif group:
                self._say(group, name, value)
                closed = True
            else:
                before.append((name, value))
        if before and not group:
            self.jobs[""], first = PieceJob(what=""), [""]
        for name, value in before:
            self._say(first, name, value)
        self._ask_or_follow()
        # That a piece has a form needs no words.
        said = (job for job in self.jobs.values() if job.what not in OF_ITS_FORM or job != PieceJob(what=job.what))
        return tuple(said)

    def _words(self, tool: Tool | None) -> Iterator[tuple[int, str, str]]:
        """Where what stands: something done, or the name of what is said of it."""
        written = self.written
        for found in written.rules.get("preparation", ()):
            what = _DONE[found["how"].lower()[:3]]
            self.asked[what] = found
            yield found.start(), "do", what
        if tool:
            # Where the tool gives the size, what else is done comes first.
            at = len(written.plain) if written.how == "tool" else written.tool_at
            yield at, "do", _BY_TOOL[tool.kind]
        for found in written.rules.get("folded", ()):
            # Whoever folds has scored.
            yield found.start() + 1, "do", FOLDED
        for name, what in _HAS.items():
            had = written.rule(name) or written.holes.get(name)
            if had:
                yield had.start(), "do", what
        for rule, (name, value) in _SAID.items():
            for found in written.rules.get(rule, ()):
                yield found.start(), name, value or found["by"]

    def _say(self, group: list[str], name: str, value: str) -> None:
        for what in group:
            job = self.jobs[what]
            known = getattr(job, name)
            if known and known != value:
                raise (
                    self._which(what)
                    if name == "when"
                    else NotInForm(
                        f"{known} or {value}?", mend="Write who after each: embossed by Finn, stamped by Orla"
                    )
                )
            self.jobs[what] = replace(job, **{name: value})

    def _ask_or_follow(self) -> None:
        """What has no time of its own, where others have one: made with the job before it, or asked about."""
        last = None
        timed = any(job.when for job in self.jobs.values())
        for what, job in self.jobs.items():
            if timed and not job.when and last:
                if what in self.asked:
                    raise self._when(what)
                self.jobs[what] = replace(last, what=what)
            last = self.jobs[what]

    def _which(self, what: str) -> Question:
        """Two times for one job: each taken away gives one way to read the line."""
        lines = []
        for rule in ("in_class", "before_class"):
            text, places = self.written.text, self.written.places
            spans = [span for found in self.written.rules[rule] for span in segments(found, self.written)]
            for start, end in sorted(spans, reverse=True):
                text = f"{text[: places[start]].rstrip(' ,')} {text[places[end] :].lstrip()}".rstrip()
            lines.append(text)
        words = f"{what[:1].upper()}{what[1:]}" if what else "Done"
        return Question(f"{words} before class, or in class?", choices=tuple(Choice(line, line) for line in lines))

    def _when(self, what: str) -> Question:
        at = self.written.places[self.asked[what].end()]
        text = self.written.text
        lines = [f"{text[:at].rstrip()} {words}{text[at:]}" for words in _TIMES.values()]
        return Question(f"When is it {what}?", choices=tuple(Choice(line, line) for line in lines))
