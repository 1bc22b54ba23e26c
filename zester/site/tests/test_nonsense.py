"""Nonsense in every field of every form: an answer always, never an error of the house's own.

Each form gets a share of the nonsense each time, and all of it with ``ZESTER_THOROUGH=1``.
"""

import re

from django.urls import reverse

from zester.core.tests.share import SHARE, each_of
from zester.site.tests.test_access import OwnerTests

NAMES = re.compile(r'name="([\w-]+)"')
NONSENSE = (
    "",
    "0",
    "-1",
    "9" * 30,
    "½ x ½",
    "￼𝟜 ¼⁄⁄",
    "2027-02-30",
    "x" * 3000,
    "a\nb\r\nc",
    "a\0b",
)


class NonsenseTests(OwnerTests):
    """What the walk of addresses finds, and the pages of nobody's, with their own fields filled in wrongly."""

    def test_every_form_answers_nonsense(self):
        addresses = self.addresses() | {
            name: reverse(name)
            for name in self.NOBODYS
            if name.startswith(("shelf:", "classes:", "designs:", "fits:", "example:"))
        }
        # What takes things away is tried by its own tests.
        tried = {name: url for name, url in addresses.items() if not re.search(r"remove|delete|restore|throw", name)}
        for number, (name, url) in each_of(enumerate(tried.items())):
            # A PDF has no fields; its tests try what may be asked of it.
            if name.endswith("_pdf"):
                continue
            page = self.client.get(url)
            fields = set(NAMES.findall(page.content.decode(errors="replace"))) if page.status_code == 200 else set()
            fields |= {"who", "state", "line", "lines", "key", "count", "class", "kind", "number", "size", "layout"}
            for value in NONSENSE[number % SHARE :: SHARE]:
                with self.subTest(name, value=value[:20]):
                    data = dict.fromkeys(fields - {"csrfmiddlewaretoken"}, value)
                    self.assertLess(self.client.post(url, data).status_code, 500)
            with self.subTest(name):
                asked = dict.fromkeys(("class", "since", "lines", "size"), "9" * 30)
                self.assertLess(self.client.get(url, asked).status_code, 500)


# The walk itself is tried where it is written.
for _name in [name for name in dir(OwnerTests) if name.startswith("test_")]:
    setattr(NonsenseTests, _name, None)
del OwnerTests
