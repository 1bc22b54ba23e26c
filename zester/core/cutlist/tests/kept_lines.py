"""Lines with all that is read of them beside them, field by field: ``data/every_rule.txt`` and ``data/asked.txt``.

    Mat 4 x 5¼ brass window 2 x 3 => Mat; 4 x 5 1/4; Telescope Brass; window rectangle 2 x 3 at 1, 1 1/8

Everything that is not what it would be if nothing were said is told; nothing else. What is refused or asked about is
told with its mend and with every reading to pick from. ``# in`` and ``# mm`` say which ruler the lines below are read
with.
"""

from __future__ import annotations

from dataclasses import asdict, fields, replace
from fractions import Fraction
from pathlib import Path

from zester.core.cutlist.lines import Reading
from zester.core.cutlist.notation import read_list
from zester.core.cutlist.tests.writers import ABOVE, METRIC_SHELF, SHELF
from zester.core.errors import Question
from zester.core.lengths import MILLIMETRES, SIXTEENTHS, TICKS_PER_INCH, TICKS_PER_MM, Ruler
from zester.core.pieces import IN_CLASS, CardLine, CutPiece

DATA = Path(__file__).parent / "data"
_PLAIN = {field.name: field.default for field in fields(CutPiece)}
# Told in front of all else.
_FRONT = ("number", "count", "name", "width", "height", "paper")


def cases(name: str) -> list[tuple[Ruler, str, str]]:
    """Ruler, line and what is told of it, for every line of a file beside the tests."""
    found, ruler = [], SIXTEENTHS
    for line in (DATA / name).read_text(encoding="utf-8").splitlines():
        if line.startswith("# "):
            ruler = MILLIMETRES if line == "# mm" else SIXTEENTHS
        elif " => " in line:
            text, _, told = line.partition(" => ")
            found.append((ruler, text, told))
    return found


def told_of(text: str, ruler: Ruler) -> str:
    """How the last of these lines is read below a card, a base, a mat and a panel.

    ``|`` ends a line; with ``^`` in front nothing stands above.
    """
    above = "" if text.startswith("^") else ABOVE[ruler.unit]
    shelf = METRIC_SHELF if ruler.unit == "mm" else SHELF
    readings = read_list(above + text.removeprefix("^").replace(" | ", "\n"), shelf, ruler)
    return told(readings[-1], ruler)


def told(reading: Reading, ruler: Ruler) -> str:
    """All that was read, in one line."""
    if reading.error:
        error = reading.error
        choices = [choice.line.replace("\n", " // ") for choice in getattr(error, "choices", ())]
        asked = "asked" if isinstance(error, Question) else "refused"
        return " / ".join([f"{asked}: {error.what}", *([error.mend] if error.mend else []), *choices])
    if reading.card:
        return _card(reading.card, ruler)
    if reading.bit:
        bit = reading.bit
        much = f"length {_length(bit.length, ruler)}" if bit.length else f"{bit.count}"
        more = [f"only {bit.only}"] if bit.only else []
        return "; ".join([f"bit {bit.name}", much, *more, *([f"around #{bit.around}"] if bit.around else [])])
    return _piece(reading.piece, ruler) if reading.piece else "remark"


def _card(card: CardLine, ruler: Ruler) -> str:
    size = f" {_size(card.width, card.height, ruler)}" if card.width is not None else ""
    pocket = f" pocket {card.pocket_at or 'below'}" if card.pocket else ""
    return f"card{size} {card.fold}{pocket}"


def _piece(piece: CutPiece, ruler: Ruler) -> str:
    front = [f"{piece.count if piece.count != 1 else ''} {piece.name}".strip(), _size(piece.width, piece.height, ruler)]
    more = []
    for name, plain in _PLAIN.items():
        value = getattr(piece, name)
        if name == "jobs":
            more += _jobs(piece)
        elif name not in _FRONT and value != plain:
            more.append(f"{name.replace('_', ' ')}{_value(value, ruler)}")
    return "; ".join([*front, piece.paper, *more])


def _jobs(piece: CutPiece) -> list[str]:
    """What is done to it; one by one where the jobs are not all alike in when, who and drying."""
    if len({replace(job, what="") for job in piece.jobs}) > 1:
        words = ([job.what or "all", job.when, job.by and f"by {job.by}", job.dries] for job in piece.jobs)
        return [f"job {' '.join(filter(None, each))}" for each in words]
    done = [f"preparations {', '.join(piece.preparations)}"] if piece.preparations else []
    alike = piece.jobs[:1]
    when = [f"{'in' if job.when == IN_CLASS else 'before'} class" for job in alike if job.when]
    return done + when + [f"by {job.by}" for job in alike if job.by] + ["first" for job in alike if job.dries]


def _value(value: object, ruler: Ruler) -> str:
    if value is True:
        return ""
    if value is False:
        return " not"
    if isinstance(value, str):
        return f" {value}"
    if isinstance(value, int):
        return f" {_length(value, ruler)}"
    if isinstance(value, tuple):
        return " " + ", ".join(each if isinstance(each, str) else _length(each, ruler) for each in value)
    # A distance of nothing is said (flush); a tilt of nothing is not.
    inner = {name: each for name, each in asdict(value).items() if each is not None and each not in ("", ())}
    inner = {name: each for name, each in inner.items() if each is not False and (name, each) != ("tilt", 0)}
    said = (
        f"{name.replace('_', ' ')} {Fraction(each, 10)}" if name == "tilt" else f"{name}{_value(each, ruler)}"
        for name, each in inner.items()
    )
    return f" ({' '.join(said)})"


def _length(ticks: int, ruler: Ruler) -> str:
    if ruler.unit == "mm":
        return f"{float(Fraction(ticks, TICKS_PER_MM)):g}"
    whole, part = divmod(Fraction(ticks, TICKS_PER_INCH), 1)
    return " ".join(text for text in (str(whole) if whole else "", str(part) if part else "") if text) or "0"


def _size(width: int | None, height: int | None, ruler: Ruler) -> str:
    return f"{_length(width or 0, ruler)} x {_length(height or 0, ruler)}"
