"""The shelf: the papers a designer has or can buy."""

from __future__ import annotations

import secrets

from django.core.validators import MaxValueValidator, MinValueValidator, RegexValidator
from django.db import models

from zester.core.fitting.job import Margins
from zester.core.lengths import show_size
from zester.core.papers import REPEATS, repeat_ink
from zester.core.sizes import SHEET_SIZES
from zester.site.owned import Owned

UNITS = [("in", "inches"), ("mm", "millimetres")]


PACK_LEAST = MinValueValidator(1, "A pack holds at least %(limit_value)s sheet.")
PACK_MOST = MaxValueValidator(10_000, "A pack holds at most %(limit_value)s sheets.")


def new_key() -> str:
    """A key that nobody has yet and that says nothing."""
    return f"p{secrets.token_hex(5)}"


class Paper(Owned):
    """A paper, or any other sheet, in one size. Lengths are ticks; ``on_hand`` empty means it is bought as needed.

    Everything else knows it by its ``key``, which never changes; the name is for people. ``former_names`` are what it
    was called before: lists may still say so.
    ``weight`` is grams a square metre, ``caliper`` the thickness of a sheet in micrometres; empty if nobody knows.
    ``photo`` is the swatch of a sheet as a data URL; with one its repeat is not drawn.
    """

    what = "paper"
    restore_view = "shelf:restore"

    class Kind(models.TextChoices):
        """What a paper is for."""

        CARD = "card", "card stock"
        PATTERNED = "patterned", "patterned paper"
        VELLUM = "vellum", "vellum"
        GLITTER = "glitter", "glitter and foil paper"
        WINDOW = "window", "clear window sheet"
        FOAM = "foam", "foam sheet"
        ADHESIVE = "adhesive", "adhesive sheet"

    class Direction(models.TextChoices):
        """How its pieces may lie on the sheet."""

        FREE = "free", "any way round"
        HALF = "half", "half a turn only"
        UPRIGHT = "upright", "one way up only"

    class Back(models.TextChoices):
        """What its other side, side B, looks like."""

        SAME = "same", "like side A"
        OTHER = "other", "another colour or pattern"
        NONE = "none", "blank, not to be seen"

    key = models.CharField(max_length=12, default=new_key, editable=False)
    name = models.CharField(max_length=60)
    former_names = models.JSONField(default=list, blank=True, editable=False)
    kind = models.CharField(max_length=10, choices=Kind, default=Kind.CARD)
    sheet = models.CharField(max_length=10, default="letter")
    unit = models.CharField(max_length=2, choices=UNITS, default="in")
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    direction = models.CharField(max_length=7, choices=Direction, default=Direction.FREE)
    margin_left = models.PositiveIntegerField(default=0)
    margin_top = models.PositiveIntegerField(default=0)
    margin_right = models.PositiveIntegerField(default=0)
    margin_bottom = models.PositiveIntegerField(default=0)
    on_hand = models.PositiveIntegerField(null=True, blank=True, validators=[MaxValueValidator(100_000)])
    price = models.DecimalField(
        max_digits=8, decimal_places=2, null=True, blank=True, validators=[MinValueValidator(0)]
    )
    pack = models.PositiveIntegerField(default=1, validators=[PACK_LEAST, PACK_MOST])
    colour = models.CharField(
        max_length=7, default="#e8d9b0", validators=[RegexValidator(r"^#[0-9a-fA-F]{6}$", "Choose a colour.")]
    )
    repeat = models.CharField(max_length=10, choices=list(REPEATS.items()), default="plain")
    back = models.CharField(max_length=5, choices=Back, default=Back.SAME)
    back_colour = models.CharField(
        max_length=7, default="#f7f4ea", validators=[RegexValidator(r"^#[0-9a-fA-F]{6}$", "Choose a colour.")]
    )
    back_repeat = models.CharField(max_length=10, choices=list(REPEATS.items()), default="plain")
    photo = models.TextField(blank=True, max_length=20_000)
    weight = models.PositiveIntegerField(null=True, blank=True)
    caliper = models.PositiveIntegerField(null=True, blank=True)

    class Meta:
        ordering = ["kind", "name"]
        constraints = [
            models.UniqueConstraint("owner", "key", name="one_paper_of_a_key"),
            models.UniqueConstraint(
                "owner", models.functions.Lower("name"), name="one_paper_of_a_name", condition=models.Q(removed_at=None)
            ),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def size_text(self) -> str:
        """``letter, 8½ × 11 in``."""
        named = SHEET_SIZES.get(self.sheet)
        size = show_size(self.width, self.height, self.unit)
        return f"{named.name}, {size}" if named and "×" not in named.name else size

    @property
    def margins(self) -> Margins:
        """What cannot be used along its sides, in ticks."""
        return Margins(self.margin_left, self.margin_top, self.margin_right, self.margin_bottom)

    @property
    def ink(self) -> str:
        """The colour its repeat is drawn in."""
        return repeat_ink(self.colour)

    @property
    def side_b(self) -> dict[str, str]:
        """How its other side is drawn: colour, ink, repeat. A blank side is the white of the sheet."""
        colour, repeat, photo = {
            self.Back.SAME: (self.colour, self.repeat, self.photo),
            self.Back.OTHER: (self.back_colour, self.back_repeat, ""),
        }.get(self.back, ("#fbfaf6", "plain", ""))
        return {"colour": colour, "ink": repeat_ink(colour), "repeat": repeat, "photo": photo}
