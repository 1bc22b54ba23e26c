"""A browser's window without a browser: a page's form as it stands there, filled in and sent later."""

from __future__ import annotations

from dataclasses import dataclass, field
from html.parser import HTMLParser

from django.http import HttpResponse
from django.test import Client


class _Forms(HTMLParser):
    """All forms of a page: their addresses and what their fields would send."""

    def __init__(self):
        super().__init__(convert_charrefs=True)
        self.forms: list[tuple[str, dict[str, str]]] = []
        self._open: dict[str, str] | None = None
        self._select = self._text = ""

    def handle_starttag(self, tag: str, attrs: list) -> None:
        given = dict(attrs)
        if tag == "form":
            self._open = {}
            self.forms.append((given.get("action") or "", self._open))
        elif self._open is None:
            return
        elif tag == "input" and given.get("name"):
            ticked = given.get("type") in ("radio", "checkbox")
            if not ticked or "checked" in given:
                self._open[given["name"]] = given.get("value") or ("on" if ticked else "")
        elif tag == "select":
            self._select = given.get("name") or ""
        elif tag == "option" and self._select:
            if "selected" in given or self._select not in self._open:
                self._open[self._select] = given.get("value") or ""
        elif tag == "textarea":
            self._text = given.get("name") or ""
            self._open[self._text] = ""

    def handle_data(self, data: str) -> None:
        if self._text:
            # What follows the tag on a line of its own is not part of the text.
            self._open[self._text] += data if self._open[self._text] else data.removeprefix("\n")

    def handle_endtag(self, tag: str) -> None:
        if tag == "form":
            self._open = None
        elif tag == "select":
            self._select = ""
        elif tag == "textarea":
            self._text = ""


@dataclass
class Window:
    """A page that somebody has open, with the form that holds a field."""

    client: Client
    url: str
    holds: str
    fields: dict[str, str] = field(default_factory=dict)

    def __post_init__(self):
        self.load(self.client.get(self.url))

    def load(self, page: HttpResponse) -> None:
        """Show a page: take over what its form holds."""
        reader = _Forms()
        reader.feed(page.content.decode())
        self.action, self.fields = next(each for each in reader.forms if self.holds in each[1])

    def send(self, script: bool = False, **typed: str) -> HttpResponse:
        """Send the form with this typed into it; what comes back."""
        self.fields |= typed
        headers = {"HX-Request": "true"} if script else {}
        answer = self.client.post(self.action or self.url, self.fields, headers=headers)
        if answer.status_code == 200 and not script:
            self.load(answer)
        return answer
