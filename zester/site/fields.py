"""Form fields for exact lengths, which take every notation and give ticks, and for numbers with a point or a comma."""

from __future__ import annotations

from collections.abc import Callable
from decimal import Decimal

from django import forms
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from zester.core.csv_files import LARGEST_TABLE
from zester.core.errors import LengthError, ZesterError
from zester.core.lengths import RULERS, parse_length, parse_size, with_unit
from zester.core.numbers import NotSure, read_decimal


class LengthField(forms.CharField):
    """A length; the form may set ``ruler_key`` before cleaning. With ``zero`` a plain 0 is a length, too.

    What is ``kept`` is taken as it is shown, on the ruler or not: it came from elsewhere.
    """

    ruler_key = "in16"
    kept: object = None

    def __init__(self, *args, zero: bool = False, **kwargs):
        super().__init__(*args, **kwargs)
        self.zero = zero

    def clean(self, value: str) -> int | None:
        """Ticks, or None if the field is empty and may be."""
        text = super().clean(value)
        if not text:
            return None
        if self.zero and text.strip() == "0":
            return 0
        if isinstance(self.kept, int) and text in (with_unit(self.kept, unit) for unit in ("in", "mm")):
            return self.kept
        try:
            return parse_length(text, RULERS[self.ruler_key])
        except LengthError as error:
            raise forms.ValidationError(error.advice()) from error

    def prepare_value(self, value: int | str | None) -> str:
        """Ticks as text; what was typed stays as it was."""
        if value == 0:
            return "0" if self.zero else ""
        return with_unit(value, RULERS[self.ruler_key].unit) if isinstance(value, int) else (value or "")


class SizeField(forms.CharField):
    """A width × height; gives a pair of ticks."""

    ruler_key = "in16"

    def clean(self, value: str) -> tuple[int, int] | None:
        """Ticks (width, height), or None if the field is empty and may be."""
        text = super().clean(value)
        if not text:
            return None
        try:
            return parse_size(text, RULERS[self.ruler_key])
        except LengthError as error:
            raise forms.ValidationError(error.advice()) from error


_MOST_DIGITS = 18
LIMITS = (MinValueValidator, MaxValueValidator)


class _ShortKeys:
    """Refuses keys longer than the database can hold as no choice, before it is asked for them."""

    def clean(self, value: object) -> object:
        """The choice, or the choices."""
        keys = value if isinstance(value, list | tuple) else [value]
        if any(len(str(key or "")) > _MOST_DIGITS for key in keys):
            raise forms.ValidationError("That is none of the choices. Choose again.", code="invalid_choice")
        return super().clean(value)


class ChoiceOfField(_ShortKeys, forms.ModelChoiceField):
    """One thing of the database."""


class ChoicesOfField(_ShortKeys, forms.ModelMultipleChoiceField):
    """Some things of the database."""


def _take_a_comma(field: forms.DecimalField) -> None:
    """Read a number with a point or a comma. A browser's own field for numbers would drop the sign it does not know."""
    read = field.to_python
    field.widget = forms.TextInput({"inputmode": "decimal"} | {"class": field.widget.attrs.get("class", "")})

    def to_python(value: object) -> Decimal | None:
        if isinstance(value, str) and value.strip():
            try:
                value = read_decimal(value)
            except NotSure as error:
                raise forms.ValidationError(error.advice()) from error
            except ZesterError:
                return read("none")
        return read(value)

    field.to_python = to_python


class BootstrapMixin:
    """Bootstrap's classes on the widgets; Django itself ties errors and help to their fields."""

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        stored = {}
        if isinstance(self, forms.ModelForm):
            stored = {
                each.name: each for each in self._meta.model._meta.fields if each.name not in self.declared_fields
            }
        for name, field in self.fields.items():
            if type(field) is forms.DecimalField:
                _take_a_comma(field)
            if isinstance(field, LengthField):
                field.kept = self.get_initial_for_field(field, name)
            field.validators = _said_plainly(field, stored.get(name))
            widget = field.widget
            # A browser would cut off what is pasted beyond it, and say nothing.
            widget.attrs.pop("maxlength", None)
            if isinstance(widget, forms.CheckboxInput):
                kind = "form-check-input"
            elif isinstance(widget, forms.RadioSelect):
                continue
            else:
                kind = "form-select" if isinstance(widget, forms.Select) else "form-control"
            widget.attrs["class"] = f"{widget.attrs.get('class', '')} {kind}".strip()


class TableField(forms.FileField):
    """A CSV table somebody sends; gives its bytes, or None if none was sent and none has to be."""

    def clean(self, data: object, initial: object = None) -> bytes | None:
        """What is too large is not read."""
        sent = super().clean(data, initial)
        if not sent:
            return None
        if sent.size > LARGEST_TABLE:
            most = f"Send up to {LARGEST_TABLE // 1000:,} kB."
            raise forms.ValidationError(f"The file has {sent.size // 1000:,} kB. {most}")
        return sent.read()


def count_field(label: str, most: int, initial: int | None = None) -> forms.IntegerField:
    """A field for a count that may be empty, for forms that make their fields themselves."""
    field = forms.IntegerField(label=label, required=False, initial=initial)
    field.validators += [
        MinValueValidator(0, "Write %(limit_value)s or more."),
        MaxValueValidator(most, "At most %(limit_value)s."),
    ]
    field.widget.attrs |= {"class": "form-control count", "min": "0", "max": str(most)}
    return field


def _said_plainly(field: forms.Field, stored: models.Field | None) -> list[Callable]:
    """What a field is checked by: the limits of what is stored first, in words somebody would say."""
    of_number = stored.validators if stored and isinstance(field, forms.IntegerField) else ()
    limits = [each for each in of_number if isinstance(each, LIMITS)]
    kinds = {type(each) for each in limits}
    return [_in_plain_words(each) for each in [*limits, *(v for v in field.validators if type(v) not in kinds)]]


def _in_plain_words(validator: Callable) -> Callable:
    """Django's own “Ensure this value is greater than or equal to 0” as somebody would say it."""
    if isinstance(validator, LIMITS) and validator.message == type(validator).message:
        words = (
            "Write %(limit_value)s or more." if isinstance(validator, MinValueValidator) else "At most %(limit_value)s."
        )
        return type(validator)(validator.limit_value, words)
    return validator
