"""The shelf: the papers a designer has or can buy."""

from __future__ import annotations

import secrets

from django.conf import settings
from django.core.exceptions import ValidationError
from django.core.validators import MaxValueValidator, MinValueValidator, RegexValidator
from django.db import models

from zester.core.errors import ZesterError
from zester.core.fitting.jobs.job import Margins
from zester.core.lengths import show_size
from zester.core.papers import REPEATS, repeat_ink
from zester.core.pictures import Pictures, read_pictures
from zester.core.sizes import SHEET_SIZES
from zester.core.stock.ledger import KINDS as LEDGER_KINDS
from zester.site.links import LONGEST_LINK, is_link
from zester.site.owned import Owned
from zester.site.photos import colours_of

UNITS = [("in", "inches"), ("mm", "millimetres")]


LOOKS = [("busy", "busy"), ("calm", "calm")]
# Up to five main colours of a side.
of_tones = RegexValidator(
    r"^#[0-9a-fA-F]{6}( #[0-9a-fA-F]{6}){0,4}$", "Up to five colours like #b4472f, apart by spaces."
)
PACK_LEAST = MinValueValidator(1, "A pack holds at least %(limit_value)s sheet.")
NOT_BELOW_NOTHING = MinValueValidator(0, "Write %(limit_value)s or more.")
PACK_MOST = MaxValueValidator(10_000, "A pack holds at most %(limit_value)s sheets.")


def new_key() -> str:
    """A key that nobody has yet and that says nothing."""
    return f"p{secrets.token_hex(5)}"


def size_words(sheet: str, width: int, height: int, unit: str) -> str:
    """A sheet's size with the name it has, if it has one: ``letter, 8½ × 11 in``."""
    named = SHEET_SIZES.get(sheet)
    size = show_size(width, height, unit)
    return f"{named.name}, {size}" if named and "×" not in named.name else size


def new_sheet_key() -> str:
    """The same for a size of a paper, or an offcut."""
    return f"s{secrets.token_hex(5)}"


def of_pictures(text: str) -> None:
    """It can be read.

    Raises
    ------
    ValidationError
        If it cannot.
    """
    try:
        read_pictures(text)
    except ZesterError as error:
        raise ValidationError(error.advice()) from error


class Paper(Owned):
    """A paper, or any other sheet, in its usual size; other sizes and offcuts are ``sheets``. Lengths are ticks.

    ``on_hand`` is the sum of its entries in the ledger; empty means that nobody counts it, it is bought as needed.

    Everything else knows it by its ``key``, which never changes; the name is for people. ``former_names`` are what it
    was called before: lists may still say so.
    ``weight`` is grams a square metre, ``caliper`` the thickness of a sheet in micrometres; empty if nobody knows.
    ``photo`` is the swatch of a sheet as a data URL, ``back_photo`` that of its side B; with one no repeat is drawn.
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
    on_hand = models.IntegerField(null=True, blank=True, editable=False)
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
    # How pieces that show side B may lie; empty: as with side A.
    back_direction = models.CharField(max_length=7, choices=Direction, blank=True)
    # Whether a side is busy or calm, and its main colours, for castings; empty: nobody said.
    look = models.CharField(max_length=4, choices=LOOKS, blank=True)
    back_look = models.CharField(max_length=4, choices=LOOKS, blank=True)
    tones = models.CharField(max_length=40, blank=True, validators=[of_tones])
    back_tones = models.CharField(max_length=40, blank=True, validators=[of_tones])
    photo = models.TextField(blank=True, max_length=20_000)
    back_photo = models.TextField(blank=True, max_length=20_000)
    # Of a sheet of pictures how many lie beside and below each other, and how many of each; see ``core.pictures``.
    pictures = models.CharField(max_length=200, blank=True, validators=[of_pictures])
    weight = models.PositiveIntegerField(null=True, blank=True)
    caliper = models.PositiveIntegerField(null=True, blank=True)
    place = models.CharField(max_length=80, blank=True)
    merchant = models.CharField(max_length=60, blank=True)
    link = models.CharField(max_length=LONGEST_LINK, blank=True, validators=[is_link])

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
    def shown_pictures(self) -> Pictures | None:
        """The pictures a sheet carries; None if it carries none."""
        try:
            return read_pictures(self.pictures) if self.pictures else None
        except ZesterError:
            return None

    @property
    def size_text(self) -> str:
        """``letter, 8½ × 11 in``."""
        return size_words(self.sheet, self.width, self.height, self.unit)

    @property
    def margins(self) -> Margins:
        """What cannot be used along its sides, in ticks."""
        return Margins(self.margin_left, self.margin_top, self.margin_right, self.margin_bottom)

    @property
    def ink(self) -> str:
        """The colour its repeat is drawn in."""
        return repeat_ink(self.colour)

    def main_colours(self, side: str) -> tuple[str, ...]:
        """The main colours of a side: as they were said, else as it is drawn, else as its photo has them."""
        said = self.tones if side == "a" else self.back_tones
        if said:
            return tuple(said.lower().split())
        look = {"colour": self.colour, "repeat": self.repeat, "photo": self.photo, "ink": self.ink}
        look = look if side == "a" else self.side_b
        if look["photo"]:
            return colours_of(look["photo"])
        return (look["colour"].lower(),) if look["repeat"] == "plain" else (look["colour"].lower(), look["ink"].lower())

    @property
    def side_b(self) -> dict[str, str]:
        """How its other side is drawn: colour, ink, repeat. A blank side is the white of the sheet."""
        colour, repeat, photo = {
            self.Back.SAME: (self.colour, self.repeat, self.photo),
            self.Back.OTHER: (self.back_colour, self.back_repeat, self.back_photo),
        }.get(self.back, ("#fbfaf6", "plain", ""))
        return {"colour": colour, "ink": repeat_ink(colour), "repeat": repeat, "photo": photo}


class Sheet(models.Model):
    """Another size that a paper comes in, or offcuts of one size. Lengths are ticks, of an offcut as it is kept.

    Plans know it by its ``key``. ``on_hand`` is the sum of its entries; empty: nobody counts it. ``up`` is the edge at
    which the top of the pattern lies.
    """

    UPS = [("top", "above"), ("right", "on the right"), ("bottom", "below"), ("left", "on the left")]

    paper = models.ForeignKey(Paper, on_delete=models.CASCADE, related_name="sheets")
    key = models.CharField(max_length=12, default=new_sheet_key, editable=False)
    is_offcut = models.BooleanField(default=False)
    sheet = models.CharField(max_length=10, default="typed")
    unit = models.CharField(max_length=2, choices=UNITS, default="in")
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    up = models.CharField(max_length=6, choices=UPS, default="top")
    price = models.DecimalField(max_digits=8, decimal_places=2, null=True, blank=True, validators=[NOT_BELOW_NOTHING])
    pack = models.PositiveIntegerField(default=1, validators=[PACK_LEAST, PACK_MOST])
    on_hand = models.IntegerField(null=True, blank=True, editable=False)
    place = models.CharField(max_length=80, blank=True)
    removed_at = models.DateTimeField(null=True, blank=True, editable=False)

    class Meta:
        ordering = ["is_offcut", "-width", "-height", "pk"]
        constraints = [models.UniqueConstraint("paper", "key", name="one_sheet_of_a_key")]

    def __str__(self) -> str:
        return f"{self.paper}, {self.size_text}"

    @property
    def size_text(self) -> str:
        """``letter, 8½ × 11 in``."""
        return size_words(self.sheet, self.width, self.height, self.unit)


class Bit(Owned):
    """Something that is not cut from a sheet: ribbon by the length, gems by the count. ``pack`` is a roll or a packet.

    Lists know it by its name. Of what goes by the length ``pack`` and ``on_hand`` are ticks. ``grams`` is what one
    weighs, or a metre.
    """

    what = "bit"
    restore_view = "shelf:restore_bit"

    name = models.CharField(max_length=60)
    by_length = models.BooleanField(default=False)
    unit = models.CharField(max_length=2, choices=UNITS, default="in")
    pack = models.PositiveBigIntegerField(default=1, validators=[MinValueValidator(1, "A packet holds something.")])
    price = models.DecimalField(max_digits=8, decimal_places=2, null=True, blank=True, validators=[NOT_BELOW_NOTHING])
    on_hand = models.BigIntegerField(null=True, blank=True, editable=False)
    place = models.CharField(max_length=80, blank=True)
    merchant = models.CharField(max_length=60, blank=True)
    link = models.CharField(max_length=LONGEST_LINK, blank=True, validators=[is_link])
    grams = models.DecimalField(max_digits=8, decimal_places=3, null=True, blank=True, validators=[NOT_BELOW_NOTHING])

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(
                "owner",
                models.functions.Lower("name"),
                "by_length",
                name="one_bit_of_a_name",
                condition=models.Q(removed_at=None),
            )
        ]

    def __str__(self) -> str:
        return self.name


class Pad(Owned):
    """A pad or pack of several patterns, bought as one thing. ``holds``: by a paper's key how many of its sheets."""

    what = "pad"
    restore_view = "shelf:restore_pad"

    name = models.CharField(max_length=60)
    holds = models.JSONField(default=dict)
    price = models.DecimalField(max_digits=8, decimal_places=2, null=True, blank=True, validators=[NOT_BELOW_NOTHING])
    merchant = models.CharField(max_length=60, blank=True)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name

    @property
    def sheets(self) -> int:
        """How many sheets it has."""
        return sum(self.holds.values())


class EntryQuerySet(models.QuerySet):
    """Queries for the ledger."""

    def of_sheet(self, paper: Paper, sheet: Sheet | None) -> EntryQuerySet:
        """The entries of a paper in one size; without a sheet in its usual one."""
        return self.filter(paper=paper, sheet=sheet)


class Entry(models.Model):
    """One entry of the stock ledger: sheets of a paper, offcuts, or a bit. Never changed and never deleted alone.

    ``count`` is what it adds to what is there; of a bit by the length it is ticks. ``about`` says what it was for,
    ``by`` by what it was booked; ``source`` is what a program finds it again by.
    """

    KINDS = [(key, words) for key, (words, _) in LEDGER_KINDS.items()]

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    paper = models.ForeignKey(Paper, on_delete=models.CASCADE, null=True, blank=True, related_name="entries")
    sheet = models.ForeignKey(Sheet, on_delete=models.CASCADE, null=True, blank=True, related_name="entries")
    bit = models.ForeignKey(Bit, on_delete=models.CASCADE, null=True, blank=True, related_name="entries")
    kind = models.CharField(max_length=9, choices=KINDS)
    count = models.BigIntegerField()
    at = models.DateTimeField(auto_now_add=True)
    about = models.CharField(max_length=200, blank=True)
    by = models.CharField(max_length=40, default="by hand")
    source = models.CharField(max_length=40, blank=True, db_index=True)
    corrects = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, blank=True, related_name="corrected_by")

    objects = EntryQuerySet.as_manager()

    class Meta:
        ordering = ["-pk"]
        verbose_name_plural = "entries"
        constraints = [
            models.CheckConstraint(
                name="an_entry_is_of_one_thing",
                condition=models.Q(paper__isnull=False, bit=None) | models.Q(paper=None, sheet=None, bit__isnull=False),
            )
        ]

    def __str__(self) -> str:
        return f"{self.count:+} {self.get_kind_display()}"
