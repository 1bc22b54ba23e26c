"""What has to be bought for one class or several: sheets, bits, pads; what of it is booked when it is there.

needs (plans, bits) - what is there, class by class as they are served -> what is missing -> packs (core.kits.buying)
"""

from __future__ import annotations

import datetime
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.utils import timezone

from zester.classes.models import CardClass
from zester.core.class_job import SHEET_ID
from zester.core.kits.buying import Bought, Pack, Purchase, packs_to_buy
from zester.core.kits.coverage import BitNeed, add_bits, bit_key
from zester.core.lengths import show_long
from zester.plans.standing import stated
from zester.shelf.merchant import Quote
from zester.shelf.models import Bit, Pad, Paper, Sheet
from zester.shelf.stock import BY_LIST, book, book_bit, buy_pad

MOST_PACKS = 10_000


@dataclass(frozen=True, kw_only=True)
class Article:
    """Something that is missing."""

    key: str
    """What packs know it by."""
    name: str
    """What people call it."""
    size: str
    """Its size in words; empty for bits."""
    lacking: int
    """How much, of what goes by the length in ticks."""
    why: str
    """The sum in words."""
    paper: Paper | None = None
    """The paper, if it is one."""
    sheet: Sheet | None = None
    """Its size, if it is not the usual one."""
    bit: BitNeed | None = None
    """The bit, if it is one."""

    @property
    def amount(self) -> str:
        """How much is missing, in words."""
        if self.bit and self.bit.by_length:
            return show_long(self.lacking, "in")
        return f"{self.lacking:,}" + ("" if self.bit else " sheet" + ("" if self.lacking == 1 else "s"))


@dataclass(frozen=True, kw_only=True)
class Line:
    """One line of the list."""

    bought: Bought
    """What is bought, and how many."""
    articles: tuple[Article, ...]
    """What it is for."""
    unused: tuple[str, ...]
    """What comes along unused, in words."""
    merchant: str
    """Where it is bought; empty if nobody said."""
    quote: Quote | None = None
    """What the merchant says, if asked."""
    link: str = ""
    """A page about it; empty if nobody gave one."""

    @property
    def sizes(self) -> list[str]:
        """The sizes of what it is for, each once."""
        return list(dict.fromkeys(article.size for article in self.articles if article.size))

    @property
    def in_pack(self) -> str:
        """What is in one pack, in words; empty if it is sold one by one."""
        held = sum(self.bought.pack.holds.values())
        if len(self.articles) == 1 and self.articles[0].bit and self.articles[0].bit.by_length:
            return show_long(held, "in")
        return f"{held:,}" if held > 1 else ""


@dataclass(frozen=True, kw_only=True)
class BuyingList:
    """All that has to be bought."""

    classes: tuple[CardClass, ...]
    """For which classes."""
    articles: tuple[Article, ...]
    """What is missing."""
    purchase: Purchase
    """The packs."""
    by_merchant: tuple[tuple[str, tuple[Line, ...]], ...]
    """The lines, merchant by merchant."""
    waiting: tuple[str, ...]
    """Papers whose plan is not there yet."""

    @property
    def missing(self) -> list[str]:
        """What cannot be had, in words."""
        names = {article.key: article.name for article in self.articles}
        return [f"{count:,} of {names.get(key, key)}" for key, count in self.purchase.missing.items()]


def coming_classes(user: AbstractBaseUser) -> list[CardClass]:
    """The classes something may have to be bought for: those to come, and those without a date, that are not closed."""
    today = timezone.localdate()
    mine = CardClass.objects.of(user).filter(closed_at=None)
    return [each for each in mine.order_by("date", "pk") if each.date is None or each.date >= today]


def buying_list(
    user: AbstractBaseUser, classes: Sequence[CardClass], quotes: dict[str, Quote] | None = None
) -> BuyingList:
    """What has to be bought so that these classes can be made, at today's prices or at what a merchant says."""
    papers = stated(classes)
    articles, waiting = _sheets(papers.values())
    bits = list(Bit.objects.of(user))
    articles += _bits(classes, bits)
    packs, merchants = _packs(user, articles, bits, quotes or {})
    purchase = packs_to_buy({article.key: article.lacking for article in articles}, packs)
    return BuyingList(
        classes=tuple(classes),
        articles=tuple(articles),
        purchase=purchase,
        by_merchant=_by_merchant(purchase, articles, merchants, quotes or {}, _links(articles, bits)),
        waiting=tuple(waiting),
    )


def _sheets(papers: Iterable) -> tuple[list[Article], list[str]]:
    """The sheets that are missing, over all classes; the papers that have no plan for what is needed now."""
    found: dict[str, Article] = {}
    waiting = []
    for each in papers:
        for entry in each.entries:
            fit = entry.fit
            if not fit.answered:
                waiting.append(f"{fit.paper.name} ({each.card_class.title})")
            if fit.shown is None or fit.held == fit.Held.CUT:
                continue
            for key, lacking in lacking_of(fit).items():
                sheet = next((one for one in fit.paper.sheets.all() if one.key == key), None)
                if sheet and sheet.is_offcut:
                    continue
                name = f"sheet:{fit.paper.pk}:{key}"
                before = found.get(name)
                why = f"{lacking} for {each.card_class.title}"
                found[name] = Article(
                    key=name,
                    name=fit.paper.name,
                    size=sheet.size_text if sheet else fit.paper.size_text,
                    lacking=lacking + (before.lacking if before else 0),
                    why=f"{before.why} + {why}" if before else why,
                    paper=fit.paper,
                    sheet=sheet,
                )
    return list(found.values()), waiting


def lacking_of(fit) -> dict[str, int]:
    """How many sheets of each kind the shown plan takes that are not there for it; of what nobody counts all.

    For a class that is closed nothing is bought any more.
    """
    if fit.class_paper.card_class.closed_at:
        return {}
    uncounted = {key for key, there in fit.shelf.items() if there.on_hand is None}
    lacking = dict(fit.judgement.lacking)
    return lacking | {key: count for key, count in fit.shown.used.items() if key in uncounted}


def bits_of_classes(classes: Iterable[CardClass], bits: Iterable[Bit]) -> list[BitNeed]:
    """What classes need of bits against what there is, without what classes that are served before them need."""
    classes = list(classes)
    there = {bit_key(bit.name, bit.by_length): bit.on_hand for bit in bits}
    several = len(classes) > 1
    rows = [
        (name, count, length, f"{why} ({each.title})" if several else why)
        for each in classes
        for name, count, length, why in each.bits
    ]
    others = [tuple(row) for each in served_before(classes) for row in each.bits]
    return add_bits(rows, there, others)


def served_before(classes: Sequence[CardClass]) -> list[CardClass]:
    """The coming classes of the same person that are served before the last of these, these left out."""
    if not classes:
        return []
    last = max(map(_turn, classes))
    mine = {each.pk for each in classes}
    return [each for each in coming_classes(classes[0].owner) if each.pk not in mine and _turn(each) < last]


def _turn(card_class: CardClass) -> tuple:
    """Whose day is sooner is served first, then who was made first; as ``promises`` has it."""
    return card_class.date is None, card_class.date or datetime.date.max, card_class.pk


def _bits(classes: Sequence[CardClass], bits: Sequence[Bit]) -> list[Article]:
    return [
        Article(
            key=f"bit:{bit_key(need.name, need.by_length)}",
            name=need.name,
            size="",
            lacking=need.lacking,
            why=need.why,
            bit=need,
        )
        for need in bits_of_classes(classes, bits)
        if need.lacking
    ]


def _packs(
    user: AbstractBaseUser, articles: Sequence[Article], bits: Sequence[Bit], quotes: dict[str, Quote]
) -> tuple[list[Pack], dict[str, str]]:
    """The packs that are sold, and the merchant of each, by its key.

    A paper that has no price of its own and is in a pad is bought as that pad.
    """
    pads = list(Pad.objects.of(user))
    in_pads = {key for pad in pads for key in pad.holds}
    known = {bit_key(bit.name, bit.by_length): bit for bit in bits}
    packs, merchants = [], {}
    for article in articles:
        if article.paper:
            thing = article.sheet or article.paper
            if thing.price is None and article.sheet is None and article.paper.key in in_pads:
                continue
            packs.append(_quoted(_paper_pack(article, thing), article.name, quotes))
            merchants[article.key] = article.paper.merchant
        else:
            bit = known.get(article.key.removeprefix("bit:"))
            pack = Pack(
                key=article.key,
                name=article.name,
                holds={article.key: bit.pack if bit else _one(article)},
                price=bit.price if bit else None,
            )
            packs.append(pack if article.bit.by_length else _quoted(pack, article.name, quotes))
            merchants[article.key] = bit.merchant if bit else ""
    names = {article.paper.key: article.key for article in articles if article.paper and not article.sheet}
    usual = dict(Paper.objects.of(user).values_list("key", "pk"))
    for pad in (each for each in pads if each.holds):
        holds = {names.get(key, f"sheet:{usual.get(key)}:{SHEET_ID}"): count for key, count in pad.holds.items()}
        packs.append(Pack(key=f"pad:{pad.pk}", name=pad.name, holds=holds, price=pad.price))
        merchants[f"pad:{pad.pk}"] = pad.merchant
    return packs, merchants


def _links(articles: Sequence[Article], bits: Sequence[Bit]) -> dict[str, str]:
    """By the key of a pack of one thing alone a page about that."""
    known = {f"bit:{bit_key(bit.name, bit.by_length)}": bit.link for bit in bits}
    return {each.key: each.paper.link if each.paper else known.get(each.key, "") for each in articles}


def _one(article: Article) -> int:
    """What is counted as one where nobody said how it is sold: a piece, or all of a length."""
    return max(article.lacking, 1) if article.bit.by_length else 1


def _paper_pack(article: Article, thing: Paper | Sheet) -> Pack:
    price = None if thing.price is None else thing.price * thing.pack
    return Pack(key=article.key, name=article.name, holds={article.key: thing.pack}, price=price)


def _quoted(pack: Pack, name: str, quotes: dict[str, Quote]) -> Pack:
    """The pack as a merchant sells it, if one was asked."""
    quote = quotes.get(name)
    if quote is None:
        return pack
    return replace(pack, holds={pack.key: quote.pack}, price=quote.price, most=quote.there)


def _by_merchant(
    purchase: Purchase,
    articles: Sequence[Article],
    merchants: dict[str, str],
    quotes: dict[str, Quote],
    links: dict[str, str],
) -> tuple[tuple[str, tuple[Line, ...]], ...]:
    by_key = {article.key: article for article in articles}
    names = _names(purchase)
    lines: dict[str, list[Line]] = {}
    for bought in purchase.lines:
        # By name: databases keep the keys of a pad in an order of their own.
        there = (by_key[key] for key in bought.pack.holds if key in by_key)
        held = tuple(sorted(there, key=lambda each: each.name))
        left = (_left(key, count, by_key, names) for key, count in bought.unused.items())
        merchant = merchants.get(bought.pack.key, "")
        lines.setdefault(merchant, []).append(
            Line(
                bought=bought,
                articles=held,
                unused=tuple(words for _, words in sorted(left)),
                merchant=merchant,
                quote=quotes.get(bought.pack.name),
                link=links.get(bought.pack.key, ""),
            )
        )
    return tuple((merchant, tuple(rows)) for merchant, rows in sorted(lines.items(), key=lambda item: item[0] or "~"))


def _names(purchase: Purchase) -> dict[str, str]:
    """What papers are called that come along unused, by article."""
    keys = [key for line in purchase.lines for key in line.unused if key.startswith("sheet:")]
    pks = [int(pk) for pk in (key.split(":")[1] for key in keys) if pk.isdecimal()]
    called = dict(Paper.objects.filter(pk__in=pks).values_list("pk", "name")) if pks else {}
    return {key: next((name for pk, name in called.items() if key.split(":")[1] == str(pk)), "sheets") for key in keys}


def _left(key: str, count: int, by_key: dict[str, Article], names: dict[str, str]) -> tuple[str, str]:
    """The name of what is left, and how much of it in words."""
    article = by_key.get(key)
    name = article.name if article else names.get(key, "sheets")
    if article and article.bit and article.bit.by_length:
        return name, f"{show_long(count, 'in')} of {name}"
    return name, f"{count:,} {name}"


@transaction.atomic
def book_bought(user: AbstractBaseUser, bought: BuyingList, counts: dict[str, int]) -> int:
    """Book packs of the list that were bought, by their key as many as is said; how many kinds that were."""
    about = {"about": ", ".join(each.title for each in bought.classes)[:200], "by": BY_LIST}
    articles = {article.key: article for article in bought.articles}
    pads = {f"pad:{pad.pk}": pad for pad in Pad.objects.of(user)}
    done = 0
    for line in bought.purchase.lines:
        count = min(counts.get(line.pack.key, 0), MOST_PACKS)
        if not count:
            continue
        done += 1
        article = articles.get(line.pack.key)
        if line.pack.key in pads:
            buy_pad(pads[line.pack.key], count, **about)
        elif article and article.paper:
            book(article.paper, article.sheet, "bought", line.pack.holds[article.key] * count, **about)
        elif article:
            bit = _bit_for(user, article)
            book_bit(bit, "bought", line.pack.holds[article.key] * count, **about)
    return done


def _bit_for(user: AbstractBaseUser, article: Article) -> Bit:
    """The bit on the shelf; put there with what was bought of it, if it was not."""
    key = article.key.removeprefix("bit:")
    there = next((bit for bit in Bit.objects.of(user) if bit_key(bit.name, bit.by_length) == key), None)
    return there or Bit.objects.create(owner=user, name=article.name[:60], by_length=article.bit.by_length)


def price_of(lines: Iterable[Line]) -> Decimal:
    """What lines come to, as far as prices are known."""
    return sum((line.bought.price for line in lines if line.bought.price is not None), Decimal(0))
