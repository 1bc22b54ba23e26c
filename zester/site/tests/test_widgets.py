"""Inputs are drawn as Django's own templates draw them, whatever they hold."""

from django import forms
from django.forms.renderers import DjangoTemplates
from django.test import SimpleTestCase
from django.utils.safestring import mark_safe

from zester.site.widgets import INPUTS, FormRenderer

WIDGETS = (
    *(forms.TextInput, forms.NumberInput, forms.HiddenInput, forms.CheckboxInput, forms.EmailInput, forms.URLInput),
    *(forms.DateInput, forms.TimeInput, forms.PasswordInput, forms.FileInput, forms.SearchInput, forms.TelInput),
    forms.ColorInput,
)
VALUES = (None, "", 0, 7, 1234567.5, "5¼ x 4", '"><b>&amp;', "it’s 'so'", mark_safe("a &amp; b"), False, True)
ATTRIBUTES = (
    {},
    {"id": "id_a", "required": True, "readonly": False, "size": 4},
    {"data-say": 'x" onfocus="y', "aria-label": "Ines & Odo <2>", "class": mark_safe("a&amp;b")},
)


class InputTests(SimpleTestCase):
    def test_as_djangos_templates_draw_them(self):
        for widget in WIDGETS:
            self.assertIn(widget.template_name, INPUTS)
            for value in VALUES:
                for attributes in ATTRIBUTES:
                    drawn = [
                        widget().render("pieces-1", value, attributes, renderer).strip()
                        for renderer in (FormRenderer(), DjangoTemplates())
                    ]
                    self.assertEqual(*drawn)

    def test_all_else_is_djangos(self):
        select = forms.Select(choices=[("a", "A & B")])
        self.assertEqual(
            select.render("way", "a", {}, FormRenderer()), select.render("way", "a", {}, DjangoTemplates())
        )
