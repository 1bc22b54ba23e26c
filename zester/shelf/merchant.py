"""The door to merchants: who sells what, in which packs, at which price, and whether it can be had.

One stand-in ships with Zester: it reads its goods from a file (``merchant.json``), answers slowly, and now and then
refuses, as a real one would. A real one is another class with the same ``ask``; ``ZESTER_MERCHANT`` names the file.
"""

from __future__ import annotations

import json
import time
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from pathlib import Path
from typing import Protocol

from django.conf import settings

from zester.core.errors import ZesterError


@dataclass(frozen=True, kw_only=True)
class Quote:
    """What a merchant says of one article."""

    article: str
    """The article as it was asked for."""
    pack: int
    """How many are in a pack."""
    price: Decimal
    """Of a pack."""
    there: int | None
    """How many packs can be had; None: any number."""


class Refused(ZesterError):
    """The merchant does not answer, or not now."""


class Merchant(Protocol):
    """Somebody who sells."""

    name: str

    def ask(self, articles: Sequence[str]) -> dict[str, Quote]:
        """Quotes by article, of those that are sold. Raises Refused."""


class SimulatedMerchant:
    """A merchant whose goods stand in a file."""

    def __init__(self, path: Path):
        try:
            goods = json.loads(path.read_text(encoding="utf-8"))
            self.name = str(goods["name"])
            self.delay = min(5.0, float(goods.get("delay", 0)))
            self.refuses = {str(each).casefold() for each in goods.get("refuses", [])}
            self.goods = {str(entry["article"]).casefold(): entry for entry in goods["goods"]}
        except (OSError, ValueError, KeyError, TypeError) as error:
            raise Refused("The merchant’s goods cannot be read", mend="Look at the file they stand in") from error

    def ask(self, articles: Sequence[str]) -> dict[str, Quote]:
        """Quotes by article; it takes its time, and refuses the whole question if it refuses one of them."""
        time.sleep(self.delay)
        refused = [article for article in articles if article.casefold() in self.refuses]
        if refused:
            raise Refused(f"{self.name} says nothing about {refused[0]} today", mend="Ask again later, or without it")
        return {article: self._quote(article) for article in articles if article.casefold() in self.goods}

    def _quote(self, article: str) -> Quote:
        entry = self.goods[article.casefold()]
        try:
            price, pack, there = Decimal(str(entry["price"])), int(entry["pack"]), entry.get("there")
            if price < 0 or pack < 1 or (there is not None and int(there) < 0):
                raise ValueError
        except (KeyError, ValueError, TypeError, InvalidOperation) as error:
            raise Refused(f"{self.name}’s answer about {article} makes no sense", mend="Ask somebody else") from error
        return Quote(article=article, pack=pack, price=price, there=None if there is None else int(there))


def merchant() -> Merchant:
    """The merchant there is. Raises Refused if there is none."""
    return SimulatedMerchant(Path(settings.MERCHANT_FILE))
