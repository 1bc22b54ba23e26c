"""The demo: Stargazer Card Evening and Kite Post. Every name in it is invented."""

from __future__ import annotations

import datetime
from dataclasses import dataclass
from decimal import Decimal

from django.contrib.auth import get_user_model
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.utils import timezone

from zester.casting.guides import keep_guide, use_guide
from zester.casting.models import ClassGuide, Guide
from zester.classes.models import CardClass, Casting, ClassCard, ClassPaper, Offer
from zester.classes.people import add_people, keep_offer, sayable_of
from zester.classes.services import also_make, begin_kit_list, recount, usual_trimmer
from zester.core.kits.order_lines import read_people
from zester.core.lengths import TICKS_PER_INCH, TICKS_PER_MM
from zester.core.sizes import SHEET_SIZES
from zester.core.stock.offcut_lines import read_offcuts
from zester.demo.models import Example
from zester.demo.past import write_past
from zester.designs.models import Card, Tool
from zester.designs.services import remove_card, take_tool_off
from zester.plans.needs import begin_class
from zester.shelf.models import Bit, Pad, Paper, Sheet
from zester.shelf.services import known_papers, take_off
from zester.shelf.stock import book, buy_pad, count_bit, put_offcuts
from zester.shelf.uses import used_in
from zester.site.context import DEMO_EMPTY, DEMO_PASSWORD, DEMO_USER

TOOL_NAMES = ("Moon circles", "Planet punch", "Cloud folder")
TITLE = "Stargazer Card Evening"
BY_POST = "Kite Post"

# name, kind, sheet, colour, repeat, price, what else
PAPERS = [
    ("Telescope Brass", "card", "letter", "#b98f45", "plain", "0.42", {"weight": 216}),
    ("Midnight Dome", "card", "letter", "#24304f", "plain", "0.42", {"weight": 216}),
    ("Chalk Moon", "card", "letter", "#f3eee2", "plain", "0.35", {"weight": 270}),
    ("Ember Dust", "card", "letter", "#a9503c", "plain", "0.42", {"weight": 216}),
    ("Star Chart", "patterned", "12x12", "#3d5078", "stars", "1.10", {"side_b": ("#e7d9ae", "dots"), "weight": 160}),
    ("Brass Rays", "patterned", "12x12", "#e6cf94", "rays", "1.10", {"side_b": ("#8e6a33", "plain"), "weight": 160}),
    ("Moon Phases", "patterned", "6x6", "#c9cbd3", "moons", "0.30", {"weight": 150}),
    ("Pine Ridge", "patterned", "6x6", "#b4cbb4", "pines", "0.30", {"direction": "upright", "back": "none"}),
    ("Harbour Wind", "card", "a4", "#3f6b78", "plain", "0.28", {"weight": 240, "caliper": 290}),
    ("Chalk Cliff", "card", "a4", "#f5f1e6", "plain", "0.24", {"weight": 270, "caliper": 320}),
    ("Kite Tails", "patterned", "6x6", "#e2b5a0", "kites", "0.30", {"side_b": ("#cfe0df", "stripes")}),
    ("Wind Rope", "patterned", "6x6", "#cfd8c8", "waves", "0.30", {}),
    ("Clear Pane", "window", "a4", "#dcebec", "plain", "0.60", {"caliper": 150}),
    ("Gull Feather", "patterned", "6x6", "#e9e6dc", "dots", "", {"side_b": ("#7d8f99", "plain")}),
    ("Quay Pictures", "card", "6x6", "#dfe6e4", "plain", "0.45", {"pictures": "3 x 3: 3 gull, 3 boat, 3 lamp"}),
    ("Rope Ladder", "patterned", "6x6", "#d8c7a5", "steps", "", {}),
]
# What lies on the shelf of the usual sizes; papers that are not named are bought as needed.
ON_HAND = {
    "Telescope Brass": 50, "Midnight Dome": 80, "Chalk Moon": 70, "Ember Dust": 45, "Star Chart": 60, "Brass Rays": 30,
    "Moon Phases": 30, "Pine Ridge": 24, "Harbour Wind": 30, "Chalk Cliff": 45, "Kite Tails": 20, "Wind Rope": 24,
}  # fmt: skip
# Other sizes, bought as needed: paper, sheet, price.
MORE_SIZES = [
    ("Telescope Brass", "12x12", "0.95"),
    ("Midnight Dome", "12x12", "0.95"),
    ("Chalk Moon", "a4", "0.36"),
]
OFFCUTS = """\
telescope 4¼ x 6, 2, drawer one
telescope 2 x 11, 3, drawer one
midnight 4¼ x 5½, 3, drawer one
chalk moon 3½ x 8½, 4, drawer one
chalk moon 4 x 5¼, drawer two
ember 2½ x 8½, 2, drawer two
star chart 4 x 12, 2, blue box
brass rays 3 x 6, blue box
pine ridge 3 x 6, top on the left, blue box
harbour 100 x 148 mm, 2, blue box"""
# name, by the length, pack (pieces or ticks), price, on hand, grams of one or of a metre.
BITS = [
    ("Envelopes", False, 25, "4.50", 160, "6.2"),
    ("Foam squares", False, 200, "3.80", 150, "0.04"),
    ("Gems", False, 100, "2.90", 40, "0.05"),
    ("Clear bags", False, 50, "3.20", 20, "1.6"),
    ("Brass thread", True, 10 * 1000 * TICKS_PER_MM, "2.40", 4 * 1000 * TICKS_PER_MM, "0.8"),
]
PAD = ("Harbour pad", {"Kite Tails": 6, "Wind Rope": 6, "Gull Feather": 6, "Rope Ladder": 6}, "6.40")
MERCHANT = "Lantern Lane Papers"

# name, price, what else.
OFFERS = [
    ("full kit", "34.00", {"extras": "1 bottle of paint\n6 dots of glue"}),
    ("card stock cut", "26.00", {"pools": {"card": "together", "patterned": "whole"}, "extras": "1 bottle of paint"}),
    ("class only", "15.00", {"pools": {"card": "none", "patterned": "none"}, "kit_list": False, "bits": False}),
    ("gift kit", None, {"cards": {"G": 1}, "free_above": "60.00", "kit_list": False}),
]
PEOPLE = """\
Ines Falk: full kit, paid
Odo Brackwater: full kit 2, paid, note one set for her sister
Marla Quist: full kit, paid 20
Tove Lind: card stock cut, paid
Hanno Reyl: full kit, ink and brushes 18.50, own 3.70, paid 20
Sunniva Dahl: full kit, note allergic to glitter
Pell Aster: class only, paid
Greta Ohm: full kit
Jory Windle: card stock cut, paid 30
Bea Callow: full kit, paid
Nils Otterby: full kit
Amrit Sole: class only
Wanda Kestrel: full kit
Lio Marchetti: card stock cut, paid
Runa Tarn: full kit, waiting
Caspar Vale: full kit 2, waiting"""
KITE_OFFERS = [
    (
        "kit by post",
        "22.00",
        {
            "pools": {"patterned": "portions"}, "with_post": True, "post_to": "the mainland", "choose": 1,
            "among": ["Gull Feather", "Rope Ladder", "Kite Tails"], "size": (152.4, 76.2),
        },
    ),
    (
        "kit with gulls",
        "24.00",
        {
            "pools": {"patterned": "portions"}, "with_post": True, "post_to": "the mainland",
            "cards": {"A": 2, "C": 1, "D": 1},
        },
    ),
    ("paper only", "9.00", {"pools": {"card": "portions", "patterned": "portions"}, "kit_list": False}),
]  # fmt: skip
HOMES = """\
Ada Moor: kit by post, paid, address Tidewater 4, papers gull feather
Bo Hedley: kit by post, address Lighthouse Row 11
Cora Finch: kit by post, paid, address Mill Lane 2, papers rope ladder
Dov Arkwright: kit by post, address Harbour Steps 7
Edda Storr: kit by post 2, paid, address Cliff Road 30, papers kite tails
Finn Abel: kit by post, address The Slip 1
Gwen Pryor: kit by post, paid, address North Quay 18
Hal Merrow: kit with gulls, address Net Loft
Ilse Brandt: kit by post, paid, address Chapel Hill 5"""
KIT_LIST = """\
White to stamp on  4 x 6  chalk moon
+ 1 pencil
+ 1 catalogue"""

STARGAZER = {
    "Rising Moon": (
        2,
        """\
card 4¼ x 5½ side fold
Base  midnight dome
Mat  ⅛ border  telescope brass  middle 3¼ x 4½
Panel  3⅞ x 5⅛  star chart
Hills  3⅞ x 1¾  pine ridge  flush bottom
Moon  moon circles no. 4  chalk moon  washed in class 2 min, dry first  top ¾ raised
Sentiment  3 x ¾  chalk moon  bottom ¼ stamped in class
Inside panel  3½ x 4¾  chalk moon
Inside strip  3½ x ½  star chart side b  bottom ¼  overhang ¼
+ 4 foam squares
+ envelope""",
    ),
    "Dome at Night": (
        2,
        """\
card 4¼ x 5½ top fold
Base  chalk moon
Mat  ⅛ border  midnight dome  middle 3¼ x 4½
Panel  ⅛ border  star chart
Horizon  3¾ x 1¼  moon phases  flush bottom
Dome  3 x 2  telescope brass  from a middle  oval bottom 1
Shutter  ½ x 1¾  midnight dome  bottom 1⅛
Sentiment  2½ x ¾  chalk moon  top ¼ stamped in class
Inside panel  4 x 5¼  ember dust
+ envelope""",
    ),
    "Brass Telescope": (
        2,
        """\
card 4¼ x 5½ gate fold
Base  telescope brass
2 Door mats  ⅛ border  midnight dome
2 Door panels  ⅛ border  brass rays  match doors
Middle mat  ⅛ border  midnight dome  middle 3¼ x 4½
Middle panel  ⅛ border  brass rays
Belly band  9½ x 1  ember dust
Seal mat  2½ x 2½  chalk moon  on band scallop
Seal  2¼ x 2¼  moon phases  on seal mat circle 2 raised
+ 1 gem
+ 1 tied bow
+ envelope""",
    ),
    "Little Comet": (
        2,
        """\
card 5½ x 4¼ top fold
Base  ember dust
Mat  ⅛ border  chalk moon
Panel  ⅛ border  brass rays
3 Tail strips  4½ x ½  moon phases  tilted 8 left
Comet  2 x 2  telescope brass  from a middle  circle right ½ top ½
Tag  2⅛ x 2¾  chalk moon  left ¼ tag hole ⅛ top die-cut before class, stamped in class, coloured at home
Tag panel  1⅞ x 2½  pine ridge  upright on tag tag
Border  ½ x 4  telescope brass  filler
+ 8 in brass thread
+ envelope""",
    ),
    "Meteor Pocket": (
        1,
        """\
card 4¼ x 5½ no fold with a pocket
Base  4¼ x 7¾  midnight dome  score 5½
Panel  4 x 3  star chart  top ⅛
Meteor  2 x 1  ember dust  banner top 1 tilted 20 left raised
Pocket strip  4¼ x ½  brass rays  on pocket top ¼ overhang ¼
Sentiment  2½ x ¾  chalk moon  on pocket bottom ¼ stamped in class
+ 2 foam squares
+ envelope""",
    ),
    "Orbit Tag": (
        1,
        """\
card 2⅛ x 4¼ no fold
Base  telescope brass  tag
Panel  1⅞ x 3  star chart  bottom ⅛
Planet  planet punch  chalk moon  bottom 1 punched
Ring  1½ x ¼  ember dust  bottom 1⅜ tilted 15 left
+ 10 in brass thread""",
    ),
    "Comet Bag Topper": (
        1,
        """\
card 4 x 2½ top fold
Base  midnight dome
Panel  ¼ border  moon phases side b
Comet  moon circles no. 2  ember dust  left ½ raised
Words  2 x ½  chalk moon  right ½ stamped
+ 1 clear bag""",
    ),
}

KITE_POST = {
    "Kite Aloft": (
        2,
        """\
card 105 x 148 side fold
Base  harbour wind
Mat  3 border  chalk cliff
Panel  3 border  kite tails
Kite  40 x 55  wind rope  top 20 tilted 15 raised
Tail  90 x 8  kite tails side b  banner bottom 30 as topper
Words  60 x 15  chalk cliff  bottom 8 stamped in class
Inside panel  95 x 138  chalk cliff
+ 20 cm thread
+ envelope""",
    ),
    "Harbour Window": (
        1,
        """\
card 148 x 105 top fold
Base  chalk cliff
Backing  140 x 97  wind rope  as mat
Pane  80 x 80  clear pane  on backing
Front mat  140 x 97  harbour wind  on backing window circle 65 raised 2
Boat  30 x 20  kite tails  bottom 20
Gulls  25 x 10  chalk cliff  top 12 only stepped-up
Inside panel  138 x 95  harbour wind
+ 8 foam strips
+ 12 glass beads # they shake behind the pane
+ envelope""",
    ),
    "Cliff Walk": (
        1,
        """\
card 120 x 120 side fold
Base  chalk cliff
Mat  3 border  harbour wind
Panel  3 border  wind rope
2 Cliff strips  108 x 20  chalk cliff  overhang 5  bottom 10
Gull  40 x 40  chalk cliff  stamped, cut out by hand  top 15 # leave a rim of white round it
Lamp  picture of a lamp  quay pictures  bottom 35 raised
+ envelope""",
    ),
}
# Cards that come out of a pad by a guide: of Kite Post the fifth, sixth and seventh.
OF_THE_PAD = {
    "Gull Landing": (
        1,
        """\
card 105 x 148 side fold
Base  chalk cliff
Sky  95 x 75  sheet A  top 6
Sea  95 x 50  sheet C, either side  bottom 6
Words  60 x 15  chalk cliff  on sea  stamped in class
Inside panel  75 x 100  sheet B
Flag  55 x 50  optional C  on sky
+ envelope""",
    ),
    "Net and Float": (
        1,
        """\
card 105 x 148 side fold
Base  harbour wind
Net  95 x 50  sheet C  top 6
Water  95 x 75  sheet A side b  bottom 6
Float  55 x 75  sheet A  raised
Inside panel  75 x 90  sheet B
Corner  55 x 50  sheet C or card stock  on inside panel
+ envelope""",
    ),
    "Slip Lantern": (
        1,
        """\
card 105 x 148 side fold
Base  chalk cliff
Window  75 x 60  sheet B, either side  top 6
Deck  75 x 50  sheet B side b  bottom 6
Lantern  55 x 75  sheet A  raised
Inside panel  95 x 50  sheet C
+ envelope""",
    ),
}
# A pad of small sheets, 150 x 150 mm: name, colour, repeat, other side, how it may lie, what it looks like.
BREAKWATER = [
    ("Tide Lines", "#9fc3cf", "waves", ("#eef1ea", "dots"), "free", "busy", "calm"),
    ("Salt Specks", "#eef0ec", "dots", ("#7fa6b5", "plain"), "free", "calm", "calm"),
    ("Net Knots", "#c8b692", "steps", ("#f1e6cf", "stripes"), "free", "busy", "calm"),
    ("Buoy Rings", "#e7c9b8", "moons", ("#b4533c", "plain"), "free", "busy", "calm"),
    ("Slate Shore", "#8b97a0", "stripes", ("#dfe4e6", "plain"), "half", "calm", "calm"),
    ("Gull Wake", "#d7e3e4", "kites", ("#5f7f8c", "dots"), "upright", "busy", "busy"),
]
BREAKWATER_PAD, EACH_OF_PAD, PADS_THERE = "Breakwater pad", 4, 2
GUIDE_NAME = "Three cards from three sheets"
GUIDE = """\
A: 95 x 75 cards 5, 6; 55 x 75 cards 6, 7
B: 75 x 100 card 5; 75 x 50 card 7; 75 x 90 card 6; 75 x 60 card 7
C: 95 x 50 cards 5, 6, 7; 55 x 50 cards 5, 6; 55 x 50 filler"""
CASTINGS = [
    ("Sea set", {"A": "Tide Lines", "B": "Salt Specks", "C": "Slate Shore"}, 0),
    ("Sand set", {"A": "Buoy Rings", "B": "Gull Wake", "C": "Net Knots"}, 4),
]


# What the designs name besides paper.
SUPPLIES = {
    "Rising Moon": f"""\
Crescent of the moon stamps, for the sentiment | {MERCHANT}, page 12
Dark blue ink | {MERCHANT}
Pearl wash and a flat brush, for the moon | {MERCHANT}, page 30 | https://example.org/pearl-wash
White gel pen, if you have it
kit: 6 dots of glue""",
    "Little Comet": "Comet trail stamp | the box with the stars\nWarm markers, whatever you have",
    "Harbour Window": "Glue for clear pane, a fine tip | https://example.org/fine-tip",
}


@dataclass(frozen=True, kw_only=True)
class _Class:
    """A demo class."""

    title: str
    """Its title."""
    days: int
    """Days from today."""
    participants: int
    """How many come."""
    ruler: str
    """The key of its ruler."""
    cards: dict
    """Name of a card: how many each makes, its list."""


@transaction.atomic
def load(name: str = DEMO_USER) -> list[CardClass]:
    """Make the demo's user, papers, tools and classes; the classes, or none if they are there already.

    ``name`` is that of somebody else who shall have the same; without a password nobody can sign in as them.
    """
    user, new = get_user_model().objects.get_or_create(username=name)
    if name == DEMO_USER:
        _nothing_yet()
    if new and name == DEMO_USER:
        # Whoever tries the demo looks after the house, too.
        user.is_staff = True
        user.set_password(DEMO_PASSWORD)
        user.save()
    if CardClass.objects.filter(owner=user).exists():
        return []
    for paper in PAPERS:
        _paper(user, *paper)
    _breakwater(user)
    _tools(user)
    by_post = _make(user, _Class(title=BY_POST, days=32, participants=9, ruler="mm", cards=KITE_POST))
    # Kits that are cut up at home: each gets its own portions of the patterned papers.
    for paper in Paper.objects.of(user).filter(name__in=("Kite Tails", "Wind Rope")):
        ClassPaper.objects.create(card_class=by_post, paper=paper, pool="portions")
    evening = _make(user, _Class(title=TITLE, days=18, participants=14, ruler="in16", cards=STARGAZER))
    _stock(user)
    for card_class in (evening, by_post):
        recount(card_class.pk)
    _fill_evening(evening)
    _fill_post(by_post)
    write_past(user)
    return [evening, by_post]


def _nothing_yet() -> None:
    """Somebody who begins."""
    user, new = get_user_model().objects.get_or_create(username=DEMO_EMPTY)
    if new:
        user.set_password(DEMO_PASSWORD)
        user.save()


def _stock(user: AbstractBaseUser) -> None:
    """What lies on the shelf: sheets, other sizes, offcuts, bits, a pad."""
    papers = {paper.name: paper for paper in Paper.objects.of(user)}
    for name, count in ON_HAND.items():
        book(papers[name], None, "bought", count, about="before the season")
    for name, key, price in MORE_SIZES:
        size = SHEET_SIZES[key]
        sides = {"width": size.width, "height": size.height, "unit": size.unit}
        Sheet.objects.create(paper=papers[name], sheet=key, price=Decimal(price), **sides)
    read = read_offcuts(OFFCUTS, known_papers(papers.values()))
    put_offcuts(user, [line.offcut for line in read], about="from the last class")
    for name, by_length, pack, price, count, grams in BITS:
        unit = "mm" if by_length else "in"
        about = {"by_length": by_length, "unit": unit, "pack": pack, "price": Decimal(price), "merchant": MERCHANT}
        about["grams"] = Decimal(grams)
        count_bit(Bit.objects.create(owner=user, name=name, **about), count)
    name, holds, price = PAD
    sheets = {papers[paper].key: count for paper, count in holds.items()}
    Pad.objects.create(owner=user, name=name, holds=sheets, price=Decimal(price), merchant=MERCHANT)


def _fill_evening(evening: CardClass) -> None:
    """Fourteen people, three kinds of order, two who wait, a kit to give away and a kit list."""
    evening.time, evening.place, evening.capacity = datetime.time(18, 30), "Reading room of the observatory", 14
    evening.order_by = evening.date - datetime.timedelta(days=6)
    evening.give_aways, evening.repeats = 1, CardClass.Repeats.MONTH
    evening.save()
    kit = begin_kit_list(evening)
    Card.objects.filter(pk=kit.card_id).update(cut_list=KIT_LIST)
    _offers(evening, OFFERS)
    CardClass.objects.filter(pk=evening.pk).update(costs="room 60\ntea and cake 3.20 a person\n6 h at 15")
    add_people(evening, [row.person for row in read_people(PEOPLE, sayable_of(evening))])


def _fill_post(by_post: CardClass) -> None:
    """Nine homes, most of their papers cut up there from portions."""
    by_post.where, by_post.place = CardClass.Where.POST, "a call on Saturday morning"
    by_post.order_by = by_post.date - datetime.timedelta(days=14)
    by_post.save()
    # Whoever likes gets the window with gulls: the same design, under a letter of its own.
    window = by_post.class_cards.select_related("card", "card_class").get(letter="B")
    also_make(window, "stepped-up")
    _cast(by_post)
    _offers(by_post, KITE_OFFERS)
    CardClass.objects.filter(pk=by_post.pk).update(
        costs="bags 0.25 a kit\n5 h at 15", post_rates="100 g, 10 mm: 1.60\n250 g, 25 mm: 3.20\n500 g: 4.60"
    )
    add_people(by_post, [row.person for row in read_people(HOMES, sayable_of(by_post))])


def _breakwater(user: AbstractBaseUser) -> None:
    """A pad of six patterns, and two of it bought; a guide for its sheets."""
    side, holds = 150 * TICKS_PER_MM, {}
    for name, colour, repeat, (back_colour, back_repeat), direction, look, back_look in BREAKWATER:
        paper = Paper.objects.create(
            owner=user, name=name, kind="patterned", sheet="typed", unit="mm", width=side, height=side, colour=colour,
            repeat=repeat, back="other", back_colour=back_colour, back_repeat=back_repeat, direction=direction,
            back_direction="free", look=look, back_look=back_look, merchant=MERCHANT,
        )  # fmt: skip
        holds[paper.key] = EACH_OF_PAD
    pad = Pad.objects.create(owner=user, name=BREAKWATER_PAD, holds=holds, price=Decimal("7.20"), merchant=MERCHANT)
    buy_pad(pad, PADS_THERE, about="before the season")
    keep_guide(Guide(owner=user, name=GUIDE_NAME, unit="mm", width=side, height=side, lines=GUIDE))


def _cast(by_post: CardClass) -> None:
    """Kite Post by its guide: one casting for most, another for the last kits."""
    for letter, (name, (each, text)) in zip("EFG", OF_THE_PAD.items(), strict=True):
        card = Card.objects.create(owner=by_post.owner, name=name, cut_list=text, ruler=by_post.ruler)
        ClassCard.objects.create(card_class=by_post, card=card, letter=letter, each=each, samples=1)
    papers = {paper.name: paper.key for paper in Paper.objects.of(by_post.owner)}
    for name, letters, last in CASTINGS:
        cast = {"letters": {letter: papers[paper] for letter, paper in letters.items()}}
        Casting.objects.create(card_class=by_post, name=name, cast=cast, last=last)
    guide = Guide.objects.get(owner=by_post.owner, name=GUIDE_NAME)
    pad = Pad.objects.get(owner=by_post.owner, name=BREAKWATER_PAD)
    ClassGuide.objects.create(card_class=by_post, pad=pad)
    use_guide(by_post, guide)


def _offers(card_class: CardClass, offers: list) -> None:
    papers = {paper.name: paper.key for paper in Paper.objects.of(card_class.owner)}
    for name, price, more in offers:
        fields = dict(more)
        fields["among"] = [papers[paper] for paper in fields.pop("among", [])]
        if "patterned" in fields.get("pools", {}) and card_class.castings.exists():
            # The pad's sheets are cut by the guide for everybody.
            fields["pools"] = fields["pools"] | {papers[row[0]]: "together" for row in BREAKWATER if row[0] in papers}
        width, height = fields.pop("size", (None, None))
        if width:
            fields |= {"choice_width": int(width * TICKS_PER_MM), "choice_height": int(height * TICKS_PER_MM)}
        money = {key: Decimal(fields.pop(key)) for key in ("free_above",) if key in fields}
        keep_offer(Offer(card_class=card_class, name=name, price=price and Decimal(price), **money, **fields))


@transaction.atomic
def give_example(user: AbstractBaseUser) -> CardClass:
    """The example evening in somebody's account, with the papers and tools it needs and they do not have; once."""
    given, new = Example.objects.select_for_update().get_or_create(owner=user)
    if not new and given.card_class and given.card_class.removed_at is None:
        return given.card_class
    have = {paper.name.casefold() for paper in Paper.objects.of(user)}
    before = set(Paper.objects.of(user).values_list("pk", flat=True))
    for paper in PAPERS:
        if paper[0].casefold() not in have:
            _paper(user, *paper)
    tools = set(Tool.objects.of(user).values_list("pk", flat=True))
    if not Tool.objects.of(user).filter(name__in=TOOL_NAMES).exists():
        _tools(user)
    evening = _make(user, _Class(title=f"{TITLE}, an example", days=18, participants=14, ruler="in16", cards=STARGAZER))
    given.card_class = evening
    given.papers = [pk for pk in Paper.objects.of(user).values_list("pk", flat=True) if pk not in before]
    given.tools = [pk for pk in Tool.objects.of(user).values_list("pk", flat=True) if pk not in tools]
    given.cards = list(evening.class_cards.values_list("card_id", flat=True))
    given.save()
    recount(evening.pk)
    begin_class(evening)
    return evening


@transaction.atomic
def throw_example_away(user: AbstractBaseUser) -> None:
    """Take everything away that came with the example and is used nowhere else; it can be brought back."""
    given = Example.objects.select_for_update().filter(owner=user).first()
    if given is None:
        return
    if given.card_class and given.card_class.removed_at is None:
        given.card_class.remove()
    used = ClassCard.objects.used().filter(card_class__owner=user).exclude(card_class=given.card_class)
    for card in Card.objects.of(user).filter(pk__in=given.cards).exclude(pk__in=used.values("card_id")):
        remove_card(card)
    for paper in Paper.objects.of(user).filter(pk__in=given.papers):
        if not used_in(paper):
            take_off(paper)
    others = "\n".join(Card.objects.of(user).values_list("cut_list", flat=True)).casefold()
    for tool in Tool.objects.of(user).filter(pk__in=given.tools):
        if tool.name.casefold() not in others:
            take_tool_off(tool)
    given.delete()


def _paper(user: AbstractBaseUser, name: str, kind: str, sheet: str, colour: str, repeat: str, price: str, more: dict):
    size = SHEET_SIZES[sheet]
    more = dict(more)
    side_b = more.pop("side_b", None)
    if side_b:
        more |= {"back": "other", "back_colour": side_b[0], "back_repeat": side_b[1]}
    Paper.objects.create(
        owner=user,
        name=name,
        kind=kind,
        sheet=sheet,
        unit=size.unit,
        width=size.width,
        height=size.height,
        colour=colour,
        repeat=repeat,
        price=Decimal(price) if price else None,
        merchant=MERCHANT,
        **more,
    )


def _tools(user: AbstractBaseUser) -> None:
    quarter = TICKS_PER_INCH // 4
    circles = [[k * quarter, k * quarter] for k in (4, 5, 7, 9, 11)]
    Tool.objects.create(owner=user, name="Moon circles", kind="die", shape="circle", sizes=circles)
    Tool.objects.create(
        owner=user, name="Planet punch", kind="punch", shape="circle", sizes=[[4 * quarter] * 2], reach=5 * quarter
    )
    Tool.objects.create(
        owner=user, name="Cloud folder", kind="folder", largest_width=17 * quarter, largest_height=22 * quarter
    )


def _make(user: AbstractBaseUser, demo: _Class) -> CardClass:
    date = timezone.localdate() + datetime.timedelta(days=demo.days)
    card_class = CardClass.objects.create(
        owner=user, title=demo.title, date=date, participants=demo.participants, ruler=demo.ruler
    )
    CardClass.objects.filter(pk=card_class.pk).update(trimmer=usual_trimmer(user))
    card_class.refresh_from_db()
    for letter, (name, (each, text)) in zip("ABCDEFGHIJ", demo.cards.items(), strict=False):
        supplies = SUPPLIES.get(name, "")
        card = Card.objects.create(owner=user, name=name, cut_list=text, ruler=demo.ruler, supplies=supplies)
        ClassCard.objects.create(card_class=card_class, card=card, letter=letter, each=each, samples=1)
    return card_class
