"""Forms that know what they were based on, so that two windows cannot overwrite each other unseen.

A form carries what every field said when its page was made. When it comes back, three versions of each field meet:
the one seen, the one stored now, and the one typed. What somebody else has changed and this page has not is taken over;
what both have changed is a conflict, shown field by field with both versions, and whoever saves chooses.
"""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import dataclass

from django import forms
from django.utils.html import format_html
from django.utils.safestring import SafeString

MINE, THEIRS = "mine", "theirs"
LONGEST_SEEN = 100_000


@dataclass(frozen=True, kw_only=True)
class Conflict:
    """A field that two windows have changed."""

    choice: str
    """The name of the field that says which version is meant."""
    against: str
    """The name of the field that says which version it was chosen against."""
    stored: str
    """That version, as a field sends it."""
    seen: str
    """What this page was made with."""
    mine: str
    """What was typed here."""
    theirs: str
    """What is stored."""


class SeenMixin:
    """For a ModelForm whose instance was read, and locked, just now; its template shows ``form.seen``.

    ``merged`` are the names of fields that follow another window. A form that says nothing of what it has seen counts
    as one that has seen what is stored.
    """

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.conflicts: dict[str, Conflict] = {}
        self.merged: list[str] = []
        self._compared = False

    @property
    def seen(self) -> SafeString:
        """The hidden field with what is stored now; of a conflict, until somebody has chosen, with what was seen."""
        stored = {name: self._stored(name) for name in self.fields}
        stored |= {name: conflict.seen for name, conflict in self.conflicts.items()}
        html = '<input type="hidden" name="{}" id="id_{}" value="{}">'
        return format_html(html, self._seen_name, self._seen_name, json.dumps(stored, ensure_ascii=False))

    def seen_after(self, saved: bool) -> dict[str, str]:
        """What the hidden field of a page that stays open holds from now on, by its id."""
        stored = {name: self._typed(name) if saved else self._stored(name) for name in self.fields}
        stored |= {name: conflict.seen for name, conflict in self.conflicts.items()}
        return {f"id_{self._seen_name}": json.dumps(stored, ensure_ascii=False)}

    @property
    def merged_words(self) -> str:
        """What was taken over, as a sentence; empty if nothing was."""
        labels = [str(self[name].label) for name in self.merged]
        return f" As saved in another window: {', '.join(labels)}." if labels else ""

    def full_clean(self) -> None:
        """Compare the three versions first; what is in conflict is an error of its field."""
        if self.is_bound and self.instance.pk and not self._compared:
            self._compared = True
            self._compare()
        super().full_clean()
        for name, conflict in self.conflicts.items():
            self[name].conflict = conflict
            self.add_error(name, "This was changed in another window, too. Which version stays?")

    @property
    def _seen_name(self) -> str:
        return self.add_prefix("seen")

    def _compare(self) -> None:
        seen, data = self._sent(), self.data.copy()
        for name in self.fields:
            stored, typed = self._stored(name), self._typed(name)
            if name not in seen or _same(seen[name], stored):
                continue
            choice = self._choice(name, stored)
            if _same(typed, seen[name]) or choice == THEIRS:
                self._take(data, name, stored)
                self.merged.append(name)
            elif not choice and not _same(typed, stored):
                self.conflicts[name] = Conflict(
                    choice=self.add_prefix(f"choose_{name}"),
                    against=self.add_prefix(f"against_{name}"),
                    stored=stored,
                    seen=seen[name],
                    mine=self._words(name, typed),
                    theirs=self._words(name, stored),
                )
        self.data = data

    def _choice(self, name: str, stored: str) -> str:
        """Which version was chosen; empty if none was, or if what is stored is not what one chose against."""
        against = self.data.get(self.add_prefix(f"against_{name}"))
        if against is None or not _same(against, stored):
            return ""
        choice = self.data.get(self.add_prefix(f"choose_{name}"))
        return choice if choice in (MINE, THEIRS) else ""

    def _sent(self) -> dict[str, str]:
        text = self.data.get(self._seen_name, "")
        try:
            seen = json.loads(text) if len(text) <= LONGEST_SEEN else {}
        except (ValueError, RecursionError):
            return {}
        if not isinstance(seen, dict):
            return {}
        return {name: value for name, value in seen.items() if isinstance(value, str)}

    def _stored(self, name: str) -> str:
        """A field's stored value as its page sends it back."""
        field = self.fields[name]
        value = field.prepare_value(self.get_initial_for_field(field, name))
        if isinstance(field.widget, forms.CheckboxInput):
            return "on" if value else ""
        if isinstance(field.widget, forms.CheckboxSelectMultiple):
            return _several(value)
        shown = field.widget.format_value(value)
        if isinstance(shown, list | tuple):
            shown = shown[0] if shown else ""
        return "" if shown is None else str(shown)

    def _typed(self, name: str) -> str:
        widget = self.fields[name].widget
        value = widget.value_from_datadict(self.data, self.files, self.add_prefix(name))
        if isinstance(widget, forms.CheckboxInput):
            return "on" if value else ""
        if isinstance(widget, forms.CheckboxSelectMultiple):
            return _several(value)
        return "" if value is None else str(value)

    def _take(self, data, name: str, value: str) -> None:
        key = self.add_prefix(name)
        if isinstance(self.fields[name].widget, forms.CheckboxSelectMultiple):
            data.setlist(key, value.splitlines())
        elif isinstance(self.fields[name].widget, forms.CheckboxInput) and not value:
            data.pop(key, None)
        else:
            data[key] = value

    def _words(self, name: str, value: str) -> str:
        """A value as people read it."""
        field = self.fields[name]
        if isinstance(field.widget, forms.CheckboxInput):
            return "yes" if value else "no"
        names = {str(key): str(words) for key, words in getattr(field, "choices", [])}
        if isinstance(field.widget, forms.CheckboxSelectMultiple):
            return ", ".join(names.get(each, each) for each in value.splitlines()) or "nothing"
        return names.get(value, value) or "nothing"


def _several(values: Iterable[object] | None) -> str:
    """What is ticked, one a line, in an order of its own."""
    return "\n".join(sorted(str(value) for value in values or ()))


def _same(one: str, other: str) -> bool:
    """Whether two values are the same to whoever typed them; browsers end lines in their own way."""
    return [line.rstrip() for line in one.strip().splitlines()] == [
        line.rstrip() for line in other.strip().splitlines()
    ]
