"""Checks of the base: score lines, doors, pocket, band, and whether it folds to the size that was meant."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from zester.core.cards.layers import wrap_of
from zester.core.cards.study import Finding, Mend, Study
from zester.core.cutlist.edit import with_rule
from zester.core.cutlist.lines import take_apart
from zester.core.errors import sure
from zester.core.folds import Folded, fold_of, pocket_scores_for, scores_for
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM, type_length
from zester.core.pieces import FOLDS, CardLine, CutPiece, Score
from zester.core.sizes import ID1_HEIGHT, ID1_WIDTH

SHORT_FRONT = TICKS_PER_INCH // 2
DOOR_GAP = TICKS_PER_INCH // 16
GLUE = TICKS_PER_INCH // 4
OVERLAP, LEAST_OVERLAP, EASE = TICKS_PER_INCH // 2, TICKS_PER_INCH // 4, TICKS_PER_INCH // 8
LOOSE = TICKS_PER_INCH * 2


def check_folds(study: Study) -> Iterator[Finding]:
    """What is wrong with the base and what goes round it."""
    folded, base = study.folded, study.base
    if folded is None or base is None:
        return
    meant = list(_as_meant(study, folded, base))
    yield from meant
    if not meant:
        yield from {"side": _halves, "top": _halves, "gate": _doors}.get(folded.fold, _nothing)(study, folded, base)
    yield from _pocket(study, folded, base)
    for piece in study.pieces:
        if piece.role == "band":
            yield from _band(study, folded, piece)


def _nothing(*_: object) -> Iterator[Finding]:
    return iter(())


def _as_meant(study: Study, folded: Folded, base: CutPiece) -> Iterator[Finding]:
    """The base against the card's own line."""
    card = study.card
    if card is None:
        return
    if card.fold != folded.fold:
        found = "has no score line" if folded.fold == "none" else f"is scored for a {FOLDS[folded.fold]}"
        what = f"The card’s line says {FOLDS[card.fold]}, its base {found}"
        mends: tuple[Mend, ...] = ()
        if card.pocket:
            mends = _with_its_pocket(study, folded, base, card)
        else:
            mends = _rescore(study, base, scores_for(card)[2]) if card.width and _same_base(card, folded) else ()
        yield Finding(group="folds", what=what, why="", line=study.line(base), mends=mends)
    elif card.width and card.height and (card.width, card.height) != (folded.width, folded.height):
        width, height, score = scores_for(card)
        mends = ()
        if card.pocket:
            mends = _from_the_other_end(study, base, card) or _with_its_pocket(study, folded, base, card)
        if study.on_marks(width, height) and not card.pocket:
            label = f"Make the base {study.size(width, height)}"
            made = study.make_it(base, width, height)
            mends = tuple(Mend(label, mend.line, _with_score(mend.text, score, study)) for mend in made)
        what = f"The base folds to {study.size(folded.width, folded.height)}"
        why = f"the card is {study.size(card.width, card.height)}"
        yield Finding(group="folds", what=what, why=why, line=study.line(base), mends=mends)


def _from_the_other_end(study: Study, base: CutPiece, card: CardLine) -> tuple[Mend, ...]:
    """The score lines counted from the other end, where that makes the card: somebody measured the pocket."""
    if base.score is None:
        return ()
    side = base.shown_width if base.score.axis == "x" else base.shown_height
    turned = Score(base.score.axis, tuple(sorted(side - place for place in base.score.places)), base.score.cross)
    folded = fold_of(replace(base, score=turned), card)
    if folded is None or (folded.width, folded.height) != (card.width, card.height):
        return ()
    text = _with_score(study.reading(base).text, turned, study)
    return study.rewrite(base, "Measure the pocket from the other end", text)


def _with_its_pocket(study: Study, folded: Folded, base: CutPiece, card: CardLine) -> tuple[Mend, ...]:
    """The base and the score lines that make the card and leave it its pocket: from the base as it is, or a new one."""
    if not card.width or not card.height:
        return ()
    width, height, _ = scores_for(card)
    rest = base.shown_width - width if card.pocket_at in ("left", "right") else base.shown_height - height
    for deep in dict.fromkeys((rest, folded.pocket)):
        if deep <= 0 or not study.on_marks(deep):
            continue
        wide, high, score = pocket_scores_for(card, deep)
        made = fold_of(replace(base, width=wide, height=high, score=score), card)
        if made is None or (made.width, made.height, made.pocket) != (card.width, card.height, deep):
            continue
        if (wide, high) == (base.shown_width, base.shown_height):
            return _rescore(study, base, score)
        sized = study.make_it(base, wide, high)
        label = f"Make the base {study.size(wide, high)}, with a pocket of {study.length(deep)}"
        return tuple(Mend(label, mend.line, _with_score(mend.text, score, study)) for mend in sized)
    return ()


def _same_base(card: CardLine, folded: Folded) -> bool:
    return scores_for(card)[:2] == (folded.open_width, folded.open_height)


def _words(score: Score, study: Study) -> str:
    places = ", ".join(type_length(place, study.unit) for place in score.places)
    ways = ("across", "down") if score.axis == "x" else ("down", "across")
    cross = ", ".join(type_length(place, study.unit) for place in score.cross)
    return f"score {ways[0]} {places}" + (f" {ways[1]} {cross}" if cross else "")


def _with_score(text: str, score: Score | None, study: Study) -> str:
    """A line whose score is written anew, every other word of it kept."""
    written = take_apart(text, study.known)
    return with_rule(written, "score", _words(score, study) if score else "")


def _rescore(study: Study, base: CutPiece, score: Score | None) -> tuple[Mend, ...]:
    if score is None or not study.on_marks(*score.places):
        return ()
    text = with_rule(study.written(base), "score", _words(score, study))
    places = " and ".join(study.length(place) for place in score.places)
    ways = ("across", "down") if score.axis == "x" else ("down", "across")
    cross = "".join(f", {ways[1]} at {study.length(place)}" for place in score.cross)
    return study.rewrite(base, f"Score it {ways[0]} at {places}{cross}" if cross else f"Score it at {places}", text)


def _halves(study: Study, folded: Folded, base: CutPiece) -> Iterator[Finding]:
    score = sure(folded.score)
    whole = folded.inner_width if score.axis == "x" else folded.inner_height
    at = score.places[0]
    off = abs(2 * at - whole)
    if not off:
        return
    grave = off <= SHORT_FRONT
    what = "The score line does not halve the base" if grave else "The front is shorter than the back"
    if not grave and 2 * at > whole:
        what = "The front is longer than the back"
    why = f"half of {study.length(whole)} is {study.length(whole // 2)}; it is scored at {study.length(at)}"
    mends = _rescore(study, base, Score(score.axis, (whole // 2,))) if grave and not folded.pocket else ()
    yield Finding(group="folds", what=what, why=why, line=study.line(base), grave=grave, mends=mends)


def _doors(study: Study, folded: Folded, base: CutPiece) -> Iterator[Finding]:
    first, second = sure(folded.score).places
    width = folded.inner_width
    left, middle, right = first, second - first, width - second
    gap = middle - left - right
    if 0 <= gap <= DOOR_GAP:
        return
    what = f"The doors overlap by {study.length(-gap)}" if gap < 0 else f"The doors leave {study.length(gap)} open"
    why = f"{study.length(left)} + {study.length(right)} over a middle of {study.length(middle)}"
    quarter = width // 4
    mends = _rescore(study, base, Score("x", (quarter, width - quarter))) if width % 4 == 0 else ()
    yield Finding(group="folds", what=what, why=why, line=study.line(base), mends=mends)


def _pocket(study: Study, folded: Folded, base: CutPiece) -> Iterator[Finding]:
    """A gift card stands in the pocket by at least half its height, and between the two glued sides."""
    if not folded.pocket:
        return
    face = folded.faces["pocket"]
    wide = face.height if folded.pocket_at in ("left", "right") else face.width
    inner = wide - 2 * GLUE
    if inner < ID1_WIDTH:
        yield Finding(
            group="folds",
            what="The pocket is too narrow for a gift card",
            why=f"{study.length(wide)} less {study.length(GLUE)} glued at each side; "
            "a gift card is 85.6 mm wide (ISO/IEC 7810 ID-1)",
            line=study.line(base),
        )
    if 2 * folded.pocket < ID1_HEIGHT:
        least = study.rounded_up(ID1_HEIGHT // 2)
        yield Finding(
            group="folds",
            what="The pocket is too shallow for a gift card",
            why=f"{study.length(folded.pocket)} deep; a gift card is 53.98 mm high (ISO/IEC 7810 ID-1) and falls out "
            f"of less than half of it, {study.length(least)}",
            line=study.line(base),
        )


def band_sum(study: Study, folded: Folded, piece: CutPiece) -> tuple[int, str]:
    """The length a band wants, and its sum in words."""
    wrap = wrap_of(piece, folded)
    side = folded.width if wrap.across else folded.height
    thick = study.rounded_up(study.thickness.ticks)
    ease, overlap = _on_unit(EASE, study), _on_unit(OVERLAP, study)
    # What is added up is what is written, or the sum would not come out.
    wanted = study.rounded_up(2 * side + 2 * thick + overlap + ease)
    parts = (
        f"2 × {study.length(side)} round the card",
        f"2 × {study.length(thick)} for its thickness",
        f"{study.length(overlap)} to glue",
        f"{study.length(ease)} to slide",
    )
    return wanted, f"{' + '.join(parts)} = {study.length(wanted)}"


def _on_unit(ticks: int, study: Study) -> int:
    return study.rounded_up(ticks) if study.unit == "mm" else ticks


def _band(study: Study, folded: Folded, piece: CutPiece) -> Iterator[Finding]:
    wrap = wrap_of(piece, folded)
    side = folded.width if wrap.across else folded.height
    wanted, words = band_sum(study, folded, piece)
    round_it = 2 * side + 2 * study.thickness.ticks
    # Written as it lies on the card: a longer one that is written the other way round would go round the other way.
    size = (wanted, wrap.shown) if wrap.across else (wrap.shown, wanted)
    mends = study.make_it(piece, *size)
    line = study.line(piece)
    if wrap.length < round_it + LEAST_OVERLAP:
        yield Finding(
            group="folds", what=f"{piece.name} is too short to go round the card", why=words, line=line, mends=mends
        )
    elif wrap.length < round_it + LEAST_OVERLAP + EASE:
        yield Finding(group="folds", what=f"{piece.name} is too tight to slide off", why=words, line=line, mends=mends)
    elif wrap.length > wanted + LOOSE:
        yield Finding(
            group="folds",
            what=f"{piece.name} is longer than it needs to be",
            why=words,
            line=line,
            grave=False,
            mends=mends,
        )


def pocket_words(study: Study) -> str:
    """How a gift card sits in the pocket; empty without one."""
    folded = study.folded
    if not folded or not folded.pocket:
        return ""
    out = max(0, ID1_HEIGHT - folded.pocket)
    stands = f"a gift card stands {out / TICKS_PER_MM:.0f} mm out of it" if out else "a gift card goes in whole"
    return f"{study.length(folded.pocket)} deep: {stands}"
