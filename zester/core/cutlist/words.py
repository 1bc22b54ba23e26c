"""The words that everyday lines are made of."""
# ruff: noqa: SIM905

from __future__ import annotations

import re

# Words that only join others; all else that nobody knows is asked about.
JOINING = frozenset(
    """
    a an the of from in out for to with on and then also cut make use take need needs you i we put piece pieces pcs
    pc each ea it is at by as w inch inches please another per card my your lastly everyone everybody gets get our using
    you'll want we'll i'd you'd wants
    one's this that sheet will takes goes measuring size remember don't dont forget about some-of
    """.split()
)
# What pieces are called by their kind; none of them is taken for the beginning of a paper's name.
NOUNS = frozenset(
    """
    base mat panel strip tag label greeting sentiment layer front cover backing inside liner circle square banner
    band scallop oval topper frame pocket flap door piece shape border blank scrap mask spare rectangle bits disc
    """.split()
)
# Left over, these are a rule that is not whole, not a remark.
RULE_WORDS = frozenset(
    """
    score scored sc window hole notch middle overhang border tilted tilt match on left right top bottom side fold
    only as upright raised
    """.split()
)
# Bits that go by the length, and bits that go by the number.
LENGTHWISE = tuple("ribbon thread twine cord lace string floss yarn trim rib braid tape".split())
COUNTED = tuple(
    """
    gem pearl brad button bow envelope sequin eyelet sticker clip pin charm bell rhinestone jewel bead dot glitter
    candle magnet feather
    """.split()
)
# Words that change what a line means. Left over they are asked about, whatever stands around them.
UNSURE = {
    "negation": r"^x(?=\s+[a-z])|not|no|never|without|do\s+not|don'?t|skip|omit(?:ted)?|except|unless|instead|"
    r"cancell?ed|cancel|ignore|unused|nobody|none|neither|leave|keep|delete|remove|all\s+but|but|old|already|done|struck",
    "doubt": r"do\s+(?:we|i|you)|still|optional(?:ly)?|maybe|perhaps|possibly|if|or|could|might|should|at\s+least|"
    r"up\s+to|similar",
    "about": r"about|approx(?:imately)?|circa|roughly|almost|nearly",
    "amount": r"cut\s+in(?:to)?\s+(?!half\b)\w+|(?<!fold )(?<!folded )(?<!score )(?<!scored )in\s+half|"
    r"few|several|many|some|twins?|triplets?|^(?:ii|iii|iv|vi{1,3})(?=\s+[a-z])|"
    r"(?:two|three|four|five|six|\d+)\s+equal|twice|thrice|doubled?|"
    r"tripled?|cut\s+\w+\s+on\s+(?:the\s+)?fold|(?:on\s+)?both\s+sides|again|another|couple|trio|dozens?|thirds|half\s+(?:of|the|an?)|quarters?|"
    r"eighths?|sixteenths?|plus|less|minus|fewer|extra|(?:one|two|three|\d+)\s+more|ditto|same|equal|remaining|leftovers?|left\s+over",
    "people": r"(?:one|1)\s+each|every(?:one|body)|people|persons?|ladies|kids|children|guests|students|participants?|"
    r"kits?|sets|set\s+of|groups?|members?|friends",
    "direction": r"sideways|diagonal(?:ly)?|crosswise|length(?:wise|ways)|width(?:wise|ways)|upside|flip(?:ped)?|"
    r"turn(?:ed)?|rotated?|angle|backwards|mirrored|vertical(?:ly)?|horizontal(?:ly)?|face\s+(?:up|down)|grain",
    "verb": r"fussy|all\s+corners|corner\s+punch(?:ed)?|holes?\s+(?:at|in|near|on)|"
    r"on\s+(?:the\s+)?fold(?!\s*\d)|tear|rip|gather|glued?|stick|reduced?|ink|bring|buy|print|"
    r"laminated?|perforated?|curl|weave|spray|sew|hang|tuck(?:ed)?|bend|roll|wrap|trimmed|see|comes?|goes|hold|pre-\w+",
}
PEOPLE = re.compile(rf"\b(?:{UNSURE['people']})\b", re.IGNORECASE)
# A name does not begin or go on like this: a sentence does, which everyday reading takes to pieces.
SENTENCE = re.compile(
    r"^(?:then|and|also|you|we|i|there|this|please|my|our)\b|,?\s+each$|"
    r"\b(?:at|along|on|to|against)\s+the\s+(?:very\s+)?(?:top|bottom|left|right)\b",
    re.IGNORECASE,
)
# What stands behind it is a name, whatever its words.
CALLED = re.compile(r"\s*(?:\d+\s+)?called\s+", re.IGNORECASE)
_UNSURE = re.compile("|".join(rf"\b(?:{words})\b" for words in UNSURE.values()), re.IGNORECASE)


def is_sure_name(name: str) -> bool:
    """Whether a name is read as one wherever it stands; otherwise a list says “called” before it."""
    return not (_UNSURE.search(name) or re.search(r"\w\s*:\s*\w", name) or "?" in name)


# Examples in inches, and what they are to whoever writes in millimetres.
_EXAMPLES = {
    "4¼, 4 1/4, 4.25 or 108 mm": "108, 108.5 or 4¼ in",
    "4¼ x 5½, or 108 x 140 mm": "108 x 140, or 4¼ x 5½ in",
    "card 4¼ x 5½": "card 105 x 148",
    "4¼ x 5½": "105 x 148",
    "4 x 5¼": "99 x 142",
    "score 4¼": "score 105",
}


def with_examples(mend: str, unit: str) -> str:
    """The mend with examples in the card's own unit, ``in`` or ``mm``."""
    if unit == "mm" and "108.5" not in mend and "108 x 140, or" not in mend:
        for inches, millimetres in _EXAMPLES.items():
            if inches in mend:
                return mend.replace(inches, millimetres)
    return mend
