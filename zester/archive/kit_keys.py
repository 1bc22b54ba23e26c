"""Keys of kits and bags name people and offers by their keys in the database; an archive names them by its numbers."""

from __future__ import annotations

import re
from collections.abc import Mapping

_KIT = re.compile(r"^(?:p(?P<person>\d+)|(?P<other>[ugs]))-(?P<offer>\d+)(?=-)")


def renamed(value: object, people: Mapping[int, int], offers: Mapping[int, int]) -> object:
    """The value with every key of a kit in it renamed, lists in it, too.

    Raises KeyError if a key names somebody, or an offer, that is not there.
    """
    if isinstance(value, list):
        return [renamed(each, people, offers) for each in value]
    found = _KIT.match(value) if isinstance(value, str) else None
    if found is None:
        return value
    offer = int(found["offer"])
    # Where nothing can be ordered there is no offer.
    offer = offers[offer] if offer else 0
    whose = f"p{people[int(found['person'])]}" if found["person"] else found["other"]
    return f"{whose}-{offer}{value[found.end() :]}"
