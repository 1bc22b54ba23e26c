"""The demo: Stargazer Card Evening. Every name in it is invented."""

from __future__ import annotations

import datetime
from decimal import Decimal

from django.contrib.auth import get_user_model
from django.db import transaction
from django.utils import timezone

from zester.classes.models import CardClass, ClassCard
from zester.core.sizes import SHEET_SIZES
from zester.designs.models import Card
from zester.shelf.models import Paper
from zester.site.context import DEMO_PASSWORD, DEMO_USER

TITLE = "Stargazer Card Evening"

# name, kind, sheet, colour, repeat, direction, price
PAPERS = [
    ("Telescope Brass", "card", "letter", "#b98f45", "plain", "free", "0.42"),
    ("Midnight Dome", "card", "letter", "#24304f", "plain", "free", "0.42"),
    ("Chalk Moon", "card", "letter", "#f3eee2", "plain", "free", "0.35"),
    ("Ember Dust", "card", "letter", "#a9503c", "plain", "free", "0.42"),
    ("Star Chart", "patterned", "12x12", "#3d5078", "stars", "free", "1.10"),
    ("Brass Rays", "patterned", "12x12", "#e6cf94", "rays", "free", "1.10"),
    ("Moon Phases", "patterned", "6x6", "#c9cbd3", "moons", "free", "0.30"),
    ("Pine Ridge", "patterned", "6x6", "#b4cbb4", "pines", "upright", "0.30"),
]

CARDS = {
    "Rising Moon": """\
# side fold
Base  8½ x 5½  midnight dome  score 4¼
Mat  4 x 5¼  telescope brass  middle 3¼ x 4½
Panel  3⅞ x 5⅛  star chart
Hills  3⅞ x 1¾  pine ridge
Moon blank  2½ x 2½  chalk moon  # 2¼ circle
Sentiment  3 x ¾  chalk moon
Inside panel  3½ x 4¾  chalk moon
Inside strip  3½ x ½  star chart""",
    "Dome at Night": """\
# top fold
Base  4¼ x 11  chalk moon  score 5½
Mat  4 x 5¼  midnight dome
Panel  3¾ x 5  star chart
Horizon  3¾ x 1¼  moon phases
Dome blank  3 x 2  telescope brass  from a middle  # half circle
Shutter  ½ x 1¾  midnight dome
Sentiment  2½ x ¾  chalk moon
Inside panel  4 x 5¼  ember dust""",
    "Brass Telescope": """\
# gate fold: the doors meet in the middle
Base  8½ x 5½  telescope brass  score 2⅛, 6⅜
2 Door mats  1⅞ x 5¼  midnight dome
2 Door panels 1⅝ x 5  brass rays  match doors
Middle mat  4 x 5¼  midnight dome
Middle panel  3¾ x 5  brass rays
Belly band  1 x 9½  ember dust
Seal blank  2¼ x 2¼  moon phases
Seal mat  2½ x 2½  chalk moon""",
    "Little Comet": """\
Base  5½ x 8½  ember dust  score 4¼
Mat  5¼ x 4  chalk moon
Panel  5 x 3¾  brass rays
3 Tail strips ½ x 4½  moon phases
Comet blank  2 x 2  telescope brass  from a middle
Tag  2⅛ x 2¾  chalk moon
Tag panel  1⅞ x 2½  pine ridge  upright
Border  ½ x 4  telescope brass  filler""",
}


@transaction.atomic
def load() -> CardClass | None:
    """Make the demo's user, papers and class; None if they are there already."""
    user, new = get_user_model().objects.get_or_create(username=DEMO_USER)
    if new:
        user.set_password(DEMO_PASSWORD)
        user.save()
    if CardClass.objects.filter(owner=user).exists():
        return None
    for name, kind, sheet, colour, repeat, direction, price in PAPERS:
        size = SHEET_SIZES[sheet]
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
            direction=direction,
            price=Decimal(price),
        )
    date = timezone.localdate() + datetime.timedelta(days=18)
    card_class = CardClass.objects.create(owner=user, title=TITLE, date=date, participants=14)
    for letter, (name, text) in zip("ABCD", CARDS.items(), strict=True):
        card = Card.objects.create(owner=user, name=name, cut_list=text)
        ClassCard.objects.create(card_class=card_class, card=card, letter=letter, each=2, samples=1)
    return card_class
