"""When a job is done that its line gives no time: what a teacher does beforehand as a rule, and what the class does.

A job is never earlier than a job that is written before it: what is stamped in class and then cut out is cut out in
class. A scrap is worked by whoever gets it, and so is what is cut at home.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from zester.core.pieces import (
    BEFORE,
    FOLDED,
    HOME,
    IN_CLASS,
    NOTCH,
    OF_ITS_FORM,
    SCORE,
    SHAPE,
    WINDOW,
    CutPiece,
    PieceJob,
)

# As people choose them: what it is called, and the jobs it stands for.
KINDS = {
    "score": ("Scored", (SCORE,)),
    "fold": ("Folded", (FOLDED,)),
    "die-cut": ("Die-cut, with its openings", ("die-cut", WINDOW, SHAPE)),
    "punched": ("Punched", ("punched", NOTCH)),
    "embossed": ("Embossed in a folder", ("embossed",)),
    "corners": ("Corners rounded or snipped", ("corners rounded", "corners snipped")),
    "tied": ("Tied or threaded", ("tied", "threaded")),
    "cut out": ("Cut out by hand", ("cut out by hand",)),
    "taped": ("Tape attached", ("taped",)),
    "stamped": ("Stamped", ("stamped",)),
    "heated": ("Embossed with heat", ("heat-embossed", "heated")),
    "inked": ("Edges inked", ("inked",)),
    "coloured": ("Coloured", ("coloured",)),
    "washed": ("Washed", ("washed",)),
    "painted": ("Painted", ("painted",)),
}
# Common practice, no source: most do beforehand what needs a machine or a tie, and leave the rest to the class.
BEFOREHAND = frozenset({"score", "die-cut", "punched", "embossed", "corners", "tied"})
_KIND_OF = {job: kind for kind, (_, jobs) in KINDS.items() for job in jobs}
ORDER = {BEFORE: 0, IN_CLASS: 1, HOME: 2}


@dataclass(frozen=True, kw_only=True)
class UsualTimes:
    """What is done when, where no line says."""

    before: frozenset[str] = BEFOREHAND
    """The keys of ``KINDS`` that are done before the class."""
    by_people: frozenset[str] = frozenset()
    """The keys of papers that people cut themselves: nothing of them can be done beforehand."""

    def job(self, piece: CutPiece, what: str) -> PieceJob:
        """The job of that name with its time: as the line says, else as it usually is."""
        earliest = BEFORE
        for job in piece.jobs:
            when = job.when or max(self._usual(piece, job.what), earliest, key=ORDER.__getitem__)
            if job.what == what:
                return replace(job, when=when)
            # A hole or a score line stands wherever its measures were written.
            earliest = earliest if job.what in OF_ITS_FORM else when
        job = piece.job(what)
        return replace(job, when=job.when or self._usual(piece, what))

    def _usual(self, piece: CutPiece, what: str) -> str:
        if piece.loose == "scrap" or piece.paper in self.by_people:
            return IN_CLASS
        return BEFORE if _KIND_OF.get(what) in self.before else IN_CLASS


USUAL_TIMES = UsualTimes()
