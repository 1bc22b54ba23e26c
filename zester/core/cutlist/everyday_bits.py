"""Lines without a size: bits, remarks, and pieces whose size is missing."""

from __future__ import annotations

import re
from collections.abc import Sequence
from fractions import Fraction

from zester.core.cutlist.find_paper import runs_of
from zester.core.cutlist.taking import UNIT, VAGUE, WORD_COUNTS, Line, words_of
from zester.core.cutlist.words import COUNTED, LENGTHWISE, NOUNS
from zester.core.errors import Choice, Question, sure
from zester.core.lengths import LENGTH, SIZE
from zester.core.pieces import Known
from zester.core.sizes import iso_a

NO_SIZE = "No size found"
# A count and so many words more may be things to count.
MOST_WORDS = 4
_BIT = re.compile(
    rf"\b(?P<bit>{'|'.join((*LENGTHWISE, *COUNTED))}|foam\s+(?:square|pad|dot|strip)|glue\s+dot)(?P<many>e?s)?\b",
    re.IGNORECASE,
)
_STANDS_FOR = "namedsize"
# A size that is known by its name is no number of things.
_NAMED_SIZE = re.compile(r"\b(?:[a-z]{1,2}\d{1,2}(?:/[a-z]?\d{1,2})?|no\.?\s*\d{1,3})\b", re.IGNORECASE)
# Measures of what is counted by nobody.
_MEASURED = re.compile(r"\b(?:dl|ml|cl|kg|g|grams?|oz|tsp|tbsp|cups?|spoons?|spoonfuls?|handfuls?)\b", re.IGNORECASE)
_COUNTED_WORDS = re.compile(
    rf"(?P<many>\d{{1,3}}|an?|{'|'.join(WORD_COUNTS)})\s+(?:x\s+)?(?P<name>[a-z][\w'-]*(?:\s+[a-z][\w'-]*){{0,2}})"
    rf"(?P<of>\s+{SIZE})?",
    re.IGNORECASE,
)
LENGTHS_OF = re.compile(rf"\b(?:{'|'.join(LENGTHWISE)})\b", re.IGNORECASE)


def without_size(taken: Line, typed: str, known: Known) -> str:
    """A bit, a remark, or a piece whose size is missing."""
    bit = _BIT.search(taken.text)
    words = [word for word in words_of(taken.text) if word]
    named = taken.papers or runs_of(words, known.papers)
    if bit and not named:
        return _bit_line(taken, bit)
    if (
        not (_COUNTED_WORDS.fullmatch(typed.strip(" .!")) and len(typed.split()) <= MOST_WORDS)
        and not re.search(r"\d", taken.text)
        and not named
        and len(words) >= 3
        and words[0].casefold().rstrip("s") not in NOUNS
    ):
        return ""
    remark = Choice("Keep it as a remark", f"# {typed}")
    series = re.search(r"(?<![\w/])A(?P<number>[4-8])\b", typed)
    if series and named:
        size = "{} x {} mm".format(*iso_a(int(series["number"])))
        line = f"{typed[: series.start()]}{size}{typed[series.end() :]}"
        raise Question(NO_SIZE, mend="A size is width × height, like 4 x 5¼", choices=(Choice(line, line), remark))
    counted = None if named else _COUNTED_WORDS.fullmatch(typed.strip(" .!"))
    if counted and counted["name"].split()[0].casefold().rstrip("s") not in NOUNS:
        many = WORD_COUNTS.get(counted["many"].casefold()) or (int(counted["many"]) if counted["many"].isdigit() else 1)
        line = f"+ {many} {counted['name']}"
        raise Question(NO_SIZE, mend="A size is width × height, like 4 x 5¼", choices=(Choice(line, line), remark))
    raise Question(NO_SIZE, mend="A size is width × height, like 4 x 5¼", choices=(remark,))


def _bit_line(taken: Line, bit: re.Match[str]) -> str:
    text = taken.text.lstrip("+ ")
    remarks = [part.strip() for part in text.split(",") if not re.search(r"\d", part) and not _BIT.search(part)]
    for remark in remarks:
        text = text.replace(remark, "")
    line = _bit_words(Line(text, taken.ruler), bit)
    return f"{line}  # {', '.join(filter(None, remarks))}" if any(remarks) else line


def _bit_words(taken: Line, bit: re.Match[str]) -> str:
    text = taken.text
    lengthwise = bit["bit"].lower() in LENGTHWISE
    around = re.search(r"\b(?:a?round)\s+(?:the\s+)?(?P<on>[\w ]+)$", text, re.IGNORECASE)
    wide = re.search(rf"(?P<length>{LENGTH})\s*wide\b", text, re.IGNORECASE)
    rest = text.replace(wide.group(), " ") if wide else text
    names = [each.group() for each in _NAMED_SIZE.finditer(rest)]
    # Words without a number stand for them while numbers are looked for.
    rest = _NAMED_SIZE.sub(_STANDS_FOR, rest)
    found = re.findall(LENGTH, rest, re.IGNORECASE)
    name = " ".join(
        word
        for word in words_of(re.sub(LENGTH, " \0 ", rest, flags=re.IGNORECASE))
        if word and word.casefold() not in ("long", "x", "tie", *WORD_COUNTS)
    )
    for each in names:
        name = name.replace(_STANDS_FOR, each, 1)
    name = f"{name} {wide.group().strip()}" if wide else name
    if around and not found:
        ribbon = re.sub(r"\s+", " ", text[: around.start()]).strip()
        return f"+ {ribbon} round {around['on'].strip()}"
    if len(name.split()) > 3 and not wide:
        # How much is not lost in the remark.
        much = f"{found[0].strip()} " if len(found) == 1 else ""
        lines = (f"+ {much}{bit['bit']}{bit['many'] or ''}  # {text.strip()}", f"# {text.strip()}")
        raise Question(
            f"What of “{text.strip()}” goes into the bag?", choices=tuple(Choice(line, line) for line in lines)
        )
    if _MEASURED.search(name):
        raise Question(f"How much is “{text.strip()}”?", mend="Write it like: 6 gems, or 12 in ribbon")
    word = next((WORD_COUNTS[each] for each in rest.casefold().split() if each in WORD_COUNTS), 0)
    return f"+ {_how_much(found, word, bool(bit['many']), lengthwise, name)} {name}"


def _how_much(found: Sequence[str], word: int, many: bool, lengthwise: bool, name: str) -> str:
    said = [each.strip() for each in found if each.strip()]
    counts = [each for each in (*said, str(word or "")) if each.isdigit()]
    lengths = [each for each in said if re.search(rf"{UNIT}$", each, re.IGNORECASE)]
    if len(counts) == 1 and len(lengths) == 1 and not re.search(r"/\s*0+\b", lengths[0]):
        # Neither the number of pieces nor their length is lost.
        if not lengthwise:
            either = (f"+ {counts[0]} {name}  # {lengths[0]}", f"+ {lengths[0]} {name}  # {counts[0]}")
            raise Question(f"How much {name} is that?", choices=tuple(Choice(line, line) for line in either))
        value, unit = sure(re.fullmatch(rf"(.*?)\s*({UNIT})", lengths[0], re.IGNORECASE)).groups()
        total = int(counts[0]) * sum(Fraction(part.replace(",", ".")) for part in re.split(r"[ -]+", value.strip()))
        whole, part = divmod(total, 1)
        much = " ".join(str(each) for each in (whole, part) if each)
        lines = (f"+ {much} {unit} {name}  # {counts[0]} of {lengths[0]}", f"+ {lengths[0]} {name}  # {counts[0]}")
        raise Question(f"How much {name} is that?", choices=tuple(Choice(line, line) for line in lines))
    if len(said) > 1 or (said and word):
        raise Question(
            f"How much {name} is that?", choices=tuple(Choice(f"+ {each} {name}", f"+ {each} {name}") for each in said)
        )
    has_unit = said and re.search(rf"{UNIT}$|/|[.,]\d", said[0], re.IGNORECASE)
    if said and lengthwise and not has_unit:
        each = (f"+ {said[0]} in {name}", f"+ {said[0]} cm {name}", f"+ {said[0]} {name}")
        raise Question(f"{said[0]} of what measure?", choices=tuple(Choice(line, line) for line in each))
    if not said and not word and (many or lengthwise or VAGUE.search(name) or "glitter" in name.casefold()):
        raise Question(
            f"How much {name}?" if lengthwise else f"How many {name}?", mend="Write it like: 6 gems, or 12 in ribbon"
        )
    return said[0] if said else str(word or 1)
