"""Everyday lines: any order, any of the usual words, a row of a spreadsheet. What is meant, as a line of a cut list.

    Telescope brass: two mats, 4 by 5 1/4      ->  2 mats  4 x 5 1/4  Telescope Brass
    ½ x 4 star chart strips – 4                ->  4 strips  ½ x 4  Star Chart
    12 in. ribbon                              ->  + 12 in ribbon

A line is taken to pieces from its surest words to its least sure ones. What is left at the end decides: nothing, and
the line is read as it is written anew; a number, a second size, a second paper, a word that nobody knows, and it is a
question with every reading that is possible. Nothing is
dropped: words that only join others are listed (``words.JOINING``).
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

from zester.core.cutlist.columns import cells_in_a_row, is_heading
from zester.core.cutlist.dies import ask_which, by_number
from zester.core.cutlist.everyday_bits import LENGTHS_OF, without_size
from zester.core.cutlist.find_paper import find_paper, runs_of
from zester.core.cutlist.lines import NO_SECOND
from zester.core.cutlist.odd_sizes import part_of_a_sheet, several_pieces, size_of_a_shape, trimmed_to
from zester.core.cutlist.spelled import any_of, with_places
from zester.core.cutlist.taking import (
    BRACKET,
    BULLET,
    BY_WORD,
    GONE,
    SIZE_PATTERNS,
    VAGUE,
    Line,
    take_counts,
    take_papers,
    take_rules,
    take_size,
    take_tools,
    words_of,
)
from zester.core.cutlist.words import JOINING, NOUNS, PEOPLE, RULE_WORDS, SENTENCE, is_sure_name
from zester.core.errors import Choice, CutListError, LengthError, NotInForm, Question
from zester.core.lengths import LENGTH, SIZE, TICKS_PER_INCH, TICKS_PER_MM, Ruler, parse_length, plain, type_length
from zester.core.pieces import Known

_OVAL = re.compile(
    rf"\bovals?\b[\s:,-]*(?P<after>{LENGTH}){NO_SECOND}|"
    rf"(?<![\w/])(?P<before>{LENGTH}(?<=[\"a-z.])|\d*[ -]*\d+\s*/\s*\d+|"
    r"\d*[.,]\d+)\s*ovals?\b(?!\s*[\d.])",
    re.IGNORECASE,
)
_HANGING = re.compile(r"\b(?:in|on|at|by|with|for|to)\s*$", re.IGNORECASE)


def counted_in_words(name: str) -> bool:
    """Whether a name begins with a number in words: “two strips”, “a pair of tags”."""
    return bool(re.match(rf"(?:an?\s+)?(?:{BY_WORD})\b", name, re.IGNORECASE))


@lru_cache(maxsize=4096)
def other_paper_in(name: str, paper: str, known: Known) -> bool:
    """Whether a name holds the whole name of another paper, or a word for one before the kind of piece."""
    pattern = any_of(tuple(each.name for each in known.papers if each.key != paper))
    if pattern and pattern.search(name):
        return True
    words = name.split()
    return any(
        _before_noun(run, words) and find_paper(run[2], known.papers).key != paper
        for run in runs_of(words, known.papers)
    )


def meant(line: str, known: Known, names: Sequence[str], ruler: Ruler, paper: str = "") -> str:
    """The line of a cut list that an everyday line means; empty if it is a remark.

    Parameters
    ----------
    line : str
        As it was written, on one line.
    known : Known
        The papers and tools it may name.
    names : sequence of str
        What a piece may be on, in small letters.
    ruler : Ruler
        The card's own.
    paper : str
        The name of the paper that it is cut from if it names none.

    Raises
    ------
    Question
        If it can be read in several ways, with the line for each of them; or if something in it is not understood.
    CutListError, LengthError
        If it cannot be read at all.
    """
    ask_which(line, known)
    typed, _, note = line.partition("#")
    words = plain(typed).strip()
    if not any(char.isalnum() for char in words) or is_heading(words):
        return ""
    rows = cells_in_a_row(re.sub(r"\.{2,}", ",", words))
    if len(rows) > 1:
        raise Question("Which of the numbers is how many?", choices=_each_row(rows, known, names, ruler))
    words = BULLET.sub("", rows[0]).strip(" .!")
    words, _ = by_number(*with_places(words), known)
    oval = _OVAL.search(words)
    if oval:
        raise Question(
            "How large is the oval the other way?",
            mend="Write both measures, like: oval 2½ x 2",
            choices=_either_oval(words, oval, known, names, ruler),
        )
    taken = Line(re.sub(r"[ \t]+", " ", words), ruler, otherwise=paper, source=words)
    if note.strip():
        taken.remarks.append(note.strip())
    card = _card_in_other_words(taken)
    if card:
        return card
    take_papers(taken, known)
    take_tools(taken, known)
    if words.startswith("+") or (LENGTHS_OF.search(taken.text) and not re.search(SIZE, taken.text, re.IGNORECASE)):
        return without_size(taken, typed.strip(), known)
    _ask_about_several(words, known, names, ruler)
    said_otherwise = trimmed_to(words) or part_of_a_sheet(words, known, ruler)
    what, ways = said_otherwise or ("", [])
    choices = _each_row(ways, known, names, ruler)
    if choices:
        raise Question(what, choices=choices)
    take_size(taken)
    if not taken.size:
        what, ways = size_of_a_shape(words) or ("", [])
        choices = _each_row(ways, known, names, ruler)
        if choices:
            raise Question(what, choices=(*choices, Choice("Keep it as a remark", f"# {words}")))
        return without_size(taken, typed.strip(), known)
    _take_brackets(taken, known, names)
    take_rules(taken, names)
    take_counts(taken)
    anew = _written_anew(taken, known)
    _all_numbers_in(words, anew, taken)
    return anew


def _ask_about_several(words: str, known: Known, names: Sequence[str], ruler: Ruler) -> None:
    """Several pieces in one line: a line for each, if all of them can be read."""
    rows = several_pieces(words)
    lines = []
    for row in rows:
        try:
            lines.append(meant(row, known, names, ruler))
        except Question as more:
            # It asks for itself, once it stands on a line of its own.
            lines += [re.sub(r"\s+", " ", row).strip()] if more.choices else []
        except (CutListError, LengthError):
            return
    if rows and len(lines) == len(rows):
        text = "\n".join(lines)
        raise Question(f"{len(rows)} pieces in one line: a line for each?", choices=(Choice(" / ".join(lines), text),))


def _either_oval(
    words: str, found: re.Match[str], known: Known, names: Sequence[str], ruler: Ruler
) -> tuple[Choice, ...]:
    """The line with the oval lying and standing, three quarters the other way; on a blank if it has no size."""
    unit, mark = ruler.unit, TICKS_PER_MM if ruler.unit == "mm" else ruler.step
    long = parse_length((found["after"] or found["before"]).strip(), ruler)
    short, margin = max(mark, long * 3 // 4 // mark * mark), 6 * TICKS_PER_MM if unit == "mm" else TICKS_PER_INCH // 4
    before, after = words[: found.start()], words[found.end() :]
    sized = re.search(SIZE, before + after, re.IGNORECASE)
    choices = []
    for width, height in ((long, short), (short, long)):
        blank, size = (
            f"{type_length(width + more, unit)} x {type_length(height + more, unit)}" for more in (margin, 0)
        )
        for choice in _each_row(
            [f"{before} {after}" if sized else f"{before} oval {blank} {after}"], known, names, ruler
        ):
            line = f"{choice.line}  oval {size}"
            choices.append(Choice(line, line))
    return tuple(choices)


def _all_numbers_in(words: str, anew: str, taken: Line) -> None:
    """Every number that was written stands in what is read, but for a one in front and those reckoned with."""
    if taken.reckoned:
        return
    left = re.findall(r"\d+", plain(anew))
    for number in re.findall(r"\d+", words):
        if number in left:
            left.remove(number)
        elif number != "1":
            raise Question(f"What is “{number}”?", choices=(Choice("Keep the line as a remark", f"# {words}"),))


def _each_row(rows: Sequence[str], known: Known, names: Sequence[str], ruler: Ruler) -> tuple[Choice, ...]:
    """A row for every way to read its numbers."""
    choices = []
    for row in rows:
        try:
            line = meant(row, known, names, ruler)
        except (CutListError, LengthError):
            continue
        choices.append(Choice(line, line))
    return tuple(choices)


def _card_in_other_words(taken: Line) -> str:
    """“4¼ x 5½ card, opens at the top”."""
    found = re.fullmatch(
        rf"(?:card\s+(?P<before>{SIZE})|(?P<size>{SIZE})\s+card)\b[\s,]*"
        rf"(?:(?:that\s+)?(?:opens?|opening)\s+at\s+the\s+(?P<way>top|side)|"
        rf"(?P<fold>(?:side|top|gate|no)[ -]fold))?",
        taken.text,
        re.IGNORECASE,
    )
    if not found:
        return ""
    fold = found["fold"] or f"{(found['way'] or 'side').lower()} fold"
    return f"card {found['size'] or found['before']} {fold}"


def _take_brackets(taken: Line, known: Known, names: Sequence[str]) -> None:
    """What stands in brackets is a number of pieces, a rule, a paper or a remark."""
    while found := taken.take(BRACKET):
        inside = found["inside"].replace(GONE, " ").strip(" ,;")
        apart = Line(inside, taken.ruler, cut=taken.cut)
        take_rules(apart, names)
        apart.text = f"({apart.text})"
        take_counts(apart)
        if not re.search(r"\w", apart.text):
            taken.rules += apart.rules
            taken.counts += apart.counts
            continue
        try:
            taken.papers.append(find_paper(inside, known.papers).name)
        except CutListError as error:
            if "could be" in error.what:
                raise _no_paper(taken, known, inside, _plain_name(taken)) from None
            if re.search(r"\d", inside):
                raise Question(f"What is “{inside}”?", choices=_with_remark(taken, known, inside)) from None
            taken.remarks.append(inside)


def _plain_name(taken: Line) -> str:
    """The words before the size."""
    return " ".join(word for word in words_of(taken.text[: taken.at]) if word)


def _with_remark(taken: Line, known: Known, words: str) -> tuple[Choice, ...]:
    copy = replace(taken, remarks=[*taken.remarks, words], rules=[*taken.rules])
    try:
        return (Choice("Keep it as a remark", _written_anew(copy, known)),)
    except (CutListError, LengthError):
        return ()


def _written_anew(taken: Line, known: Known) -> str:
    """The line, if nothing is left that could mean something."""
    more = list(SIZE_PATTERNS["size"].finditer(taken.text))
    if len(more) > 1:
        raise Question(f"{len(more) + 1} sizes in one line", mend="Write one piece a line")
    if more:
        (second,) = more
        raise Question("Two sizes: which one is cut?", choices=_either_size(taken, known, second))
    head, tail = taken.text[: taken.at], taken.text[taken.at :]
    head_words, tail_words = words_of(head), words_of(tail)
    paper, head_words, tail_words = _paper(taken, known, head_words, tail_words)
    name, odd = _name(taken, head_words, tail_words)
    name = name[:1].upper() + name[1:]
    hanging = _HANGING.search(tail.rstrip(", "))
    odd = [*odd, hanging.group().strip()] if hanging else odd
    numbers = re.findall(rf"{LENGTH}(?:\s*g\b)?", f"{head} {tail}", re.IGNORECASE)
    anew = _Anew(taken, paper, name)
    _ask_about_words(anew, odd)
    _ask_about_numbers(anew, [number.strip() for number in numbers if number.strip()])
    if odd:
        _near_a_paper(taken, known, tail)
        _ask_about_odd(anew, odd)
    if taken.either:
        _ask_about_a_tool(anew)
    return anew.line(count=_one_count(anew))


def _ask_about_words(anew: _Anew, odd: Sequence[str]) -> None:
    """“brass or midnight”, “a few strips”: words that say that something is open."""
    name = anew.name
    if SENTENCE.search(name):
        raise Question(f"“{name}” is more than a name", choices=(anew.choice(name="Piece", remark=name),))
    unsure = [word for word in name.split() if word.casefold() in ("or", "maybe", "perhaps")]
    if unsure:
        raise Question(f"“{unsure[0]}”: which of the two?", mend="Write the one that is meant")
    vague = VAGUE.search(name) or next((word for word in odd if VAGUE.fullmatch(word)), None)
    if vague:
        raise Question(
            "How many is that?",
            mend="Write a number in front of the name",
            choices=(anew.choice(count=2), anew.choice(count=3)),
        )


def _ask_about_odd(anew: _Anew, odd: Sequence[str]) -> None:
    """Words that nobody can place: a remark, or a part of the name."""
    words = " ".join(odd)
    if any(word.casefold() in RULE_WORDS for word in odd):
        what, mend = f"“{words}” is not understood", "A remark comes last, after #"
        if " " not in words:
            # “On” alone, before a remark, is where something should stand.
            raise NotInForm(what, mend=mend)
        raise Question(what, mend=mend, choices=(Choice("Keep it as a remark", anew.line(remark=words)),))
    raise Question(
        f"“{words}” is not understood",
        choices=(
            Choice("Keep it as a remark", anew.line(remark=words)),
            Choice("It belongs to the name", anew.line(name=f"{anew.name} {words}")),
        ),
    )


def _ask_about_a_tool(anew: _Anew) -> None:
    """“with circles 4”: cut to that shape, or with a hole of it?"""
    taken = anew.taken
    ways = [[*taken.rules, f"{way} {taken.either}"] for way in ("die-cut", "window")]
    lines = [replace(anew, taken=replace(taken, rules=rules)).line() for rules in ways]
    raise Question(
        "Is it cut to that shape, or is it a hole in it?", choices=tuple(Choice(line, line) for line in lines)
    )


def _near_a_paper(taken: Line, known: Known, tail: str) -> None:
    """“telescop brass”: words beside a paper's that make its name when spelled right."""
    for part in re.split(r"\0+|[,;:|()]", tail):
        words = " ".join(part.split())
        try:
            find_paper(words, known.papers)
        except CutListError as error:
            if error.mend.startswith("Did you mean"):
                raise _no_paper(taken, known, words, _plain_name(taken)) from None


def _as_typed(words: str) -> str:
    """Quarters with their own signs, as the desk writes them."""
    return re.sub(r"(?:(?<=\d) |(?<=\d)-)?(?<![\d/.])(1/4|1/2|3/4)(?![\d/])", lambda found: _QUARTERS[found[1]], words)


_QUARTERS = {"1/4": "¼", "1/2": "½", "3/4": "¾"}


@dataclass(frozen=True)
class _Anew:
    """What is written anew, with one thing said otherwise if asked."""

    taken: Line
    paper: str
    name: str

    def line(self, *, count: int = 0, size: str = "", paper: str = "", name: str = "", remark: str = "") -> str:
        """The line of a cut list."""
        many = count or (self.taken.counts[0] if self.taken.counts else 1)
        said = name or self.name
        said = said if is_sure_name(said) else f"called {said}"
        remarks = [*self.taken.remarks, remark] if remark else self.taken.remarks
        parts = [
            f"{many} {said}" if many != 1 else said,
            size or self.taken.size,
            paper or self.paper,
            *self.taken.rules,
            f"# {', '.join(remarks)}" if remarks else "",
        ]
        return "  ".join(_as_typed(re.sub(r"\s+", " ", part).strip()) for part in parts if part.strip())

    def choice(self, **otherwise: Any) -> Choice:
        """One way to read it."""
        line = self.line(**otherwise)
        return Choice(line, line)


def _one_count(anew: _Anew) -> int:
    """How many; what two counts could mean is asked, and so is what is halved."""
    counts = [count for count in anew.taken.counts if count != 1] or anew.taken.counts
    several = sorted(set(counts))
    if len(counts) > 1:
        product = 1
        for count in counts:
            product *= count
        either = dict.fromkeys((*several, product))
        raise Question("Which is the number of pieces?", choices=tuple(anew.choice(count=count) for count in either))
    if anew.taken.one_of_many and not anew.taken.counts and "base" not in anew.name.casefold().split():
        raise Question("How many of the parts go on one card?", choices=tuple(anew.choice(count=n) for n in (1, 2, 4)))
    return counts[0] if counts else 1


def _counted(anew: _Anew, numbers: Sequence[str], **otherwise: str) -> list[Choice]:
    """The number as the count, if it can be."""
    one = numbers[0] if len(numbers) == 1 and not anew.taken.counts else ""
    return [anew.choice(count=int(one), **otherwise)] if one.isdigit() and 1 <= int(one) <= 500 else []


def _ask_about_numbers(anew: _Anew, numbers: Sequence[str]) -> None:
    if not numbers:
        return
    name, aside = anew.name, " ".join(numbers)
    people = PEOPLE.search(name)
    of_people = people or re.search(rf"\b{re.escape(numbers[0])}\s+(?:{PEOPLE.pattern})", plain(anew.taken.text), re.I)
    if people:
        # “For the ladies 3 tags”: they are no part of the name.
        name = re.sub(r"\s+", " ", f"{name[: people.start()]} {name[people.end() :]}").strip() or "Piece"
        them = f"for the {people.group().lower()}"
        choices = [*_counted(anew, numbers, name=name, remark=them), anew.choice(name=name, remark=f"{aside} {them}")]
    elif of_people:
        # “For 12 people”, “12 kits”: most likely not a count of pieces.
        choices = [anew.choice(remark=of_people.group()), *_counted(anew, numbers)]
    else:
        choices = [*_counted(anew, numbers), anew.choice(remark=aside)]
    told = " and ".join(f"“{number}”" for number in numbers)
    what = f"What {'is' if len(numbers) == 1 else 'are'} {told}?"
    if anew.taken.size:
        # “Tag 1 x 1 and 1 and 1”: which figures are meant, and which are not.
        count = anew.taken.counts[0] if anew.taken.counts else 0
        read = f"the size, {_as_typed(anew.taken.size)}" + (f", and the count, {count}" if count else "")
        what += f" Read without {'it' if len(numbers) == 1 else 'them'}: {read}"
    raise Question(what, choices=tuple(choices), of_people=bool(of_people))


def _either_size(taken: Line, known: Known, second: re.Match[str]) -> tuple[Choice, ...]:
    rest = replace(taken)
    rest.blank(*second.span())
    choices = []
    for size in (taken.size, second.group().strip()):
        copy = replace(rest, size=size, rules=[*taken.rules])
        try:
            line = _written_anew(copy, known)
        except (CutListError, LengthError):
            continue
        choices.append(Choice(line, line))
    return tuple(choices)


def _paper(taken: Line, known: Known, head: list[str], tail: list[str]) -> tuple[str, list[str], list[str]]:
    """The paper that is meant; and the words before and after the size without it."""
    named = list(dict.fromkeys(taken.papers))
    in_head, in_tail = runs_of(head, known.papers), runs_of(tail, known.papers)
    if named:
        # Beside a whole name only what no other word explains is another paper.
        named_pieces = [run for run in in_head if not _before_noun(run, head) and run[1] - run[0] == 1]
        others = [run for run in (*in_head, *in_tail) if run[2] not in named and run not in named_pieces]
        found = list(
            dict.fromkeys([*(find_paper(name, known.papers).name for name in named), *(run[2] for run in others)])
        )
    else:
        runs = in_tail or in_head
        found = list(dict.fromkeys(run[2] for run in runs))
        for run in runs[:1] if len(found) == 1 else ():
            where = tail if run in in_tail else head
            where[run[0] : run[1]] = [""]
    if len(found) == 1:
        return found[0], head, tail
    if not found and taken.otherwise:
        return taken.otherwise, head, tail
    if not found:
        words = _first_words(tail) or " ".join(
            word for word in head if word and word.casefold().rstrip("s") not in NOUNS
        )
        raise _no_paper(taken, known, words, " ".join(word for word in head if word))
    bare = _name(taken, [word for word in head if word], [])[0]
    raise Question("Which paper?", choices=_each_paper(_Anew(taken, "", bare), found[:4], in_head))


def _first_words(words: list[str]) -> str:
    """The words up to where something was taken out."""
    start = next((k for k, word in enumerate(words) if word), len(words))
    end = next((k for k, word in enumerate(words) if k > start and not word), len(words))
    return " ".join(words[start:end])


def _each_paper(anew: _Anew, papers: Sequence[str], in_head: list[Any]) -> tuple[Choice, ...]:
    """A line for each paper; that the other one is a word of the name is said by “from”."""
    named = {run[2] for run in in_head}
    return tuple(anew.choice(paper=paper if paper in named else f"from {paper}") for paper in papers)


def _before_noun(run: tuple[Any, ...], words: list[str]) -> bool:
    """“brass mat”: a paper's word before the kind of piece tells the paper more often than a name."""
    behind = words[run[1] : run[1] + 1]
    whole = words[run[0]].casefold() in run[2].casefold().split()
    return (
        whole
        and bool(behind)
        and behind[0].casefold().rstrip("s") in ("mat", "panel", "strip", "base", "layer", "liner")
    )


def _with_paper(anew: _Anew, words: str, paper: str) -> Choice:
    """The line with that paper where its words stood, so that nothing else is lost which is still to be asked about."""
    spelled = re.compile(rf"\b{re.escape(words)}(?!\w)", re.IGNORECASE)
    line, found = spelled.subn(lambda _: paper, _as_typed(anew.taken.source), count=1)
    if not found:
        return anew.choice(paper=paper)
    line += f"  # {', '.join(anew.taken.remarks)}" if anew.taken.remarks else ""
    return Choice(line, line)


def _no_paper(taken: Line, known: Known, words: str, head: str) -> CutListError:
    try:
        find_paper(words, known.papers)
    except CutListError as error:
        near = re.findall(r"“([^”]+)”", error.mend) if error.mend.startswith("Did you mean") else []
        near += re.findall(r"“([^”]+)”", error.what) if "could be" in error.what else []
        anew = _Anew(taken, "", taken.name or head or "Piece")
        choices = tuple(_with_paper(anew, words, paper) for paper in near if paper != words)
        return Question(
            error.what, mend=error.mend, choices=choices, missing=words if "No paper is" in error.what else ""
        )
    return Question("Which paper?")


def _name(taken: Line, head: list[str], tail: list[str]) -> tuple[str, list[str]]:
    """What the piece is called, and the words that nobody can place."""
    head, tail = _without_ends(head), _without_ends(tail)
    if taken.name and not head:
        nouns = [word for word in tail if word.casefold().rstrip("s") == taken.name.rstrip("s")]
        return taken.name, [word for word in tail if word not in nouns]
    if head:
        if taken.name and taken.name.rstrip("s") not in " ".join(head).casefold():
            # “Three hearts, 1¼ in square” are hearts; “punched circles” are circles.
            thing = taken.name.startswith("sq") and len(head) == 1 and head[0].endswith("s")
            head = head if thing else [*head, taken.name]
        return " ".join(head), tail
    if tail:
        return " ".join(tail), []
    if any(rule.startswith("score") for rule in taken.rules):
        return "Base", []
    if called := next((said for said in taken.remarks if said.split()[-1].casefold().rstrip("s") in NOUNS), ""):
        # “Brass 4 x 5 (mat)”: nothing else says what it is.
        taken.remarks.remove(called)
        return called, []
    return ("Inside panel" if "on inside" in taken.rules else "Piece"), []


def _without_ends(words: list[str]) -> list[str]:
    """The words; those that joined something that was taken out are gone with it."""
    beside = [words[k + 1] if k + 1 < len(words) else "" for k in range(len(words))]
    return [
        word for word, after in zip(words, beside, strict=True) if word and (after or word.casefold() not in JOINING)
    ]
