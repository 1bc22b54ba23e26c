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
from typing import Any

from zester.core.care import TIMES
from zester.core.cutlist.lines import Written, matched, segments
from zester.core.errors import Choice, NotInForm, Question
from zester.core.pieces import (
    BEFORE,
    BY_HAND,
    FIRST,
    FOLDED,
    HOME,
    IN_CLASS,
    LAST,
    NOTCH,
    OF_ITS_FORM,
    SCORE,
    SHAPE,
    WINDOW,
    PieceJob,
    Tool,
)

# By how a job may be written, in a regular expression from its beginning.
_DONE = {
    "emb": "embossed",
    "heat[ -]": "heat-embossed",
    "heated": "heated",
    "die": "die-cut",
    "pun": "punched",
    "sta": "stamped",
    "tie": "tied",
    "thr": "threaded",
    "tap": "taped",
    "pai": "painted",
    "was": "washed",
    "col": "coloured",
    "ink|the|edg": "inked",
    "sni|cor": "corners snipped",
    "cut": BY_HAND,
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
# What to do where something other than a time is said twice.
_TWICE = {
    "by": "Write who after each: embossed by Finn, stamped by Orla",
    "dries": "Write dry first or dry last behind the job that is meant",
    "seconds": "Write the minutes of one piece once behind each job: stamped 2 min, coloured 5 min",
}
_SAID: dict[str, tuple[str, Any]] = {
    "before_class": ("when", BEFORE),
    "in_class": ("when", IN_CLASS),
    "at_home": ("when", HOME),
    "first": ("dries", FIRST),
    "last": ("dries", LAST),
    "minutes": ("seconds", 0),
    "by": ("by", ""),
}
_TOLD = {"preparation", "out_of", "folded", "corners", *_SAID}


def jobs_of(written: Written, tool: Tool | None) -> tuple[PieceJob, ...]:
    """The jobs in the order they are written.

    Raises
    ------
    Question
        If two times are said for one job, or one has none where others have one.
    """
    # Most lines say nothing of what is done.
    return _Jobs(written).read(tool) if tool or written.rules.keys() & _TOLD else ()


class _Jobs:
    """One line's."""

    def __init__(self, written: Written):
        self.written = written
        self.jobs: dict[str, PieceJob] = {}
        # Of jobs that have words of their own where those end; of the times that were said where they stand.
        self.ends: dict[str, int] = {}
        self.times: dict[str, re.Match[str]] = {}

    def read(self, tool: Tool | None) -> tuple[PieceJob, ...]:
        group = first = list[str]()
        if tool and self.written.how == "tool":
            # It gives the size and stands wherever a size does; it is made before anything is done to what it gives.
            self.jobs[_BY_TOOL[tool.kind]] = PieceJob(what=_BY_TOOL[tool.kind])
        in_front, closed = list[tuple[str, re.Match[str]]](), False
        for _, what, said in sorted(self._words(tool), key=lambda word: word[0]):
            if said is None:
                group, closed = ([], False) if closed else (group, False)
                self.jobs.setdefault(what, PieceJob(what=what))
                group.append(what)
            elif group:
                self._say(group, what, said)
                closed = True
            else:
                in_front.append((what, said))
        if in_front and not first:
            timed = next((said for rule, said in in_front if rule == "minutes"), None)
            if timed and not self.jobs:
                words = matched(timed, self.written)
                raise NotInForm(f"{words} for what?", mend="Write it behind what is done: stamped 2 min")
            self.jobs = self.jobs or {"": PieceJob(what="")}
            first += self.jobs
        for rule, said in in_front:
            self._say(first, rule, said)
        self._ask_or_follow()
        # That a piece has a form needs no words.
        jobs = (job for job in self.jobs.values() if job.what not in OF_ITS_FORM or job != PieceJob(what=job.what))
        return tuple(jobs)

    def _words(self, tool: Tool | None) -> Iterator[tuple[int, str, re.Match[str] | None]]:
        """Where what stands: a job, or the rule of what is said of jobs with where that was found."""
        written = self.written
        for found in written.rules.get("preparation", ()):
            what = next(word for sign, word in _DONE.items() if re.match(sign, found["how"], re.IGNORECASE))
            self.ends[what] = found.end()
            yield found.start(), what, None
        if tool and written.how != "tool":
            start, end = written.tool_span
            what = _BY_TOOL[tool.kind]
            self.ends[what] = max(end, self.ends.get(what, 0))
            yield start, what, None
        for found in written.rules.get("out_of", ()):
            self.ends[BY_HAND] = found.end()
            yield found.start(), BY_HAND, None
        for found in written.rules.get("folded", ()):
            # Whoever folds has scored.
            yield found.start() + 1, FOLDED, None
        for name, what in _HAS.items():
            had = written.rule(name) or written.holes.get(name)
            if had:
                yield had.start(), what, None
        for rule in _SAID:
            for found in written.rules.get(rule, ()):
                yield found.start(), rule, found

    def _say(self, group: list[str], rule: str, said: re.Match[str]) -> None:
        name, value = _SAID[rule]
        words = said["by"] if name == "by" else matched(said, self.written)
        if name == "by":
            value = words
        elif name == "seconds":
            value = _seconds(said["minutes"])
            if len(group) > 1:
                raise NotInForm(f"{words} for which of {' and '.join(group)}?", mend=_TWICE[name])
        for what in group:
            known = getattr(self.jobs[what], name)
            if known and known != value:
                if name == "when":
                    raise self._which(what, (known, value), said)
                raise NotInForm(f"{known} or {words}?" if name == "by" else f"And {words}?", mend=_TWICE[name])
            self.jobs[what] = replace(self.jobs[what], **{name: value})
            if name == "when":
                self.times[what] = said

    def _ask_or_follow(self) -> None:
        """What has no time of its own, where others have one: asked about, or made with the job before it."""
        last = None
        timed = any(job.when for job in self.jobs.values())
        for what, job in self.jobs.items():
            if timed and not job.when and what in self.ends:
                raise self._when(what)
            if timed and not job.when and last:
                self.jobs[what] = replace(last, what=what)
            last = self.jobs[what]

    def _which(self, what: str, said: tuple[str, str], second: re.Match[str]) -> Question:
        """Two times for one job: each of the two taken away gives one way to read the line."""
        lines = [self._without(second), self._without(self.times[what])]
        words = f"{what[:1].upper()}{what[1:]}" if what else "Done"
        times = " or ".join(words for time, words in TIMES.items() if time in said)
        return Question(f"{words} {times}?", choices=tuple(Choice(line, line) for line in lines))

    def _without(self, found: re.Match[str]) -> str:
        text, places = self.written.text, self.written.places
        for start, end in sorted(segments(found, self.written), reverse=True):
            text = f"{text[: places[start]].rstrip(' ,')} {text[places[end] :].lstrip()}".rstrip()
        return text

    def _when(self, what: str) -> Question:
        text, at = self.written.text, self.written.places[self.ends[what]]
        lines = [f"{text[:at].rstrip()} {TIMES[time]}{text[at:]}" for time in (BEFORE, IN_CLASS)]
        return Question(f"When is it {what}?", choices=tuple(Choice(line, line) for line in lines))


def _seconds(minutes: str) -> int:
    """``2``, ``1.5``, ``1,5``, ``1 1/2`` or ``1/2`` minutes."""
    whole, half, _ = re.sub(r"[.,]5|1/2", "½", minutes).partition("½")
    return 60 * int(whole.strip() or 0) + (30 if half else 0)
