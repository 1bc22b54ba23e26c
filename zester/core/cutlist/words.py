"""The words that everyday lines are made of."""
# ruff: noqa: SIM905

# Words that only join others; all else that nobody knows is asked about.
JOINING = frozenset(
    """
    a an the of from in out for to with on and then also cut make use take need needs you i we put piece pieces pcs
    pc each ea it is at by as w inch inches please another per card my your everyone everybody gets get our using
    one's this that sheet goes measuring size remember don't dont forget about some-of
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
