"""How form fields are drawn: inputs, of which a page may have hundreds, without the three templates each of Django's.

A test holds them against what those templates draw.
"""

from __future__ import annotations

from typing import Any

from django.forms import widgets
from django.forms.renderers import DjangoTemplates
from django.http import HttpRequest
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString

# Django's templates that do nothing but include its one for an input.
INPUTS = frozenset(
    kind.template_name
    for kind in (
        *(widgets.Input, widgets.TextInput, widgets.NumberInput, widgets.HiddenInput, widgets.CheckboxInput),
        *(widgets.EmailInput, widgets.URLInput, widgets.DateInput, widgets.TimeInput, widgets.PasswordInput),
        *(widgets.FileInput, widgets.SearchInput, widgets.TelInput, widgets.ColorInput),
    )
)


class FormRenderer(DjangoTemplates):
    """Draws inputs itself, and all else as Django does."""

    def render(self, template_name: str, context: dict[str, Any], request: HttpRequest | None = None) -> str:
        """The widget as HTML."""
        if template_name in INPUTS:
            return input_html(context["widget"])
        return super().render(template_name, context, request)


def input_html(widget: dict[str, Any]) -> SafeString:
    """An input with its type, name, value and attributes, as a widget's context has them."""
    value = widget["value"]
    shown = format_html(' value="{}"', str(value)) if value is not None else ""
    attributes = format_html_join("", "{}{}", map(_attribute, widget["attrs"].items()))
    return format_html('<input type="{}" name="{}"{}{}>', widget["type"], widget["name"], shown, attributes)


def _attribute(item: tuple[str, Any]) -> tuple[str, str]:
    name, value = item
    if value is False:
        return "", ""
    return format_html(" {}", name), "" if value is True else format_html('="{}"', str(value))
