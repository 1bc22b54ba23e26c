"""Papers, tools and ready lists for tests of cards."""

from __future__ import annotations

from zester.core.cards.checks import check_card
from zester.core.cards.study import Finding, Study, study
from zester.core.cutlist.notation import read_list
from zester.core.lengths import SIXTEENTHS, TICKS_PER_INCH, Ruler
from zester.core.pieces import Known, KnownPaper, Tool

INCH = TICKS_PER_INCH


def letter(name: str, **more) -> KnownPaper:
    """A letter sheet of card stock."""
    return KnownPaper(key=name, name=name, width=17 * INCH // 2, height=11 * INCH, caliper=300, measured=True, **more)


KNOWN = Known(
    (
        letter("Telescope Brass"),
        letter("Midnight Dome"),
        letter("Chalk Moon", two_sided=False),
        letter("Clear Pane", clear=True),
        KnownPaper(key="Star Chart", name="Star Chart", width=12 * INCH, height=12 * INCH),
        KnownPaper(key="Pine Ridge", name="Pine Ridge", width=12 * INCH, height=12 * INCH, direction="upright"),
    ),
    (
        Tool(
            name="Circles", kind="die", shape="circle", sizes=tuple((k * INCH // 2, k * INCH // 2) for k in range(1, 7))
        ),
        Tool(name="Disc punch", kind="punch", shape="circle", sizes=((2 * INCH, 2 * INCH),), reach=2 * INCH),
        Tool(name="Clouds", kind="folder", largest=(17 * INCH // 4, 11 * INCH // 2)),
    ),
)

GATE = """\
card 4¼ x 5½ gate fold
Base  telescope brass
2 Door mats  ⅛ border  midnight dome
2 Door panels  ⅛ border  star chart  match doors
Middle mat  ⅛ border  midnight dome  middle 3¼ x 4½
Middle panel  ⅛ border  star chart
Belly band  9½ x 1  midnight dome
Seal  circle 2  chalk moon  on band"""


def card(text: str, ruler: Ruler = SIXTEENTHS, version: str = "") -> Study:
    """The list read and looked at; fails on a line that cannot be read."""
    readings = read_list(text, KNOWN, ruler)
    errors = [f"{reading.text}: {reading.error}" for reading in readings if reading.error]
    assert not errors, errors
    return study(readings, KNOWN, ruler, version)


def findings(text: str, group: str = "", ruler: Ruler = SIXTEENTHS) -> list[Finding]:
    """What the checks find, of one group if it is named."""
    return [finding for finding in check_card(card(text, ruler)) if group in ("", finding.group)]


def grave(text: str) -> list[str]:
    """What is gravely wrong, in words."""
    return [finding.what for finding in findings(text) if finding.grave]


def mended(text: str, finding: Finding, number: int = 0) -> str:
    """The list after a mend was taken."""
    lines = text.split("\n")
    mend = finding.mends[number]
    for line, words in ((mend.line, mend.text), *mend.others):
        lines[line] = words
    return "\n".join(lines)
