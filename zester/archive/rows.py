"""What an archive holds: for every kind of thing its model and what its references mean, in the order they are made.

A row is a thing's fields by name, as JSON: lengths in ticks, money and dates as text. ``id`` counts within its kind;
references are such numbers. Nothing in it says whose it was.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from django.contrib.auth.models import AbstractBaseUser
from django.db import models

from zester.bags.models import Mark, ReadyKit, Shortage
from zester.bench.models import CutLog, HandLog, Run, Tick
from zester.casting.models import ClassGuide, Guide
from zester.classes.models import (
    CardClass,
    Casting,
    ClassCard,
    ClassPaper,
    Offer,
    Order,
    Participant,
    Payment,
    Substitution,
    Trimmer,
)
from zester.designs.models import Card, ColumnMap, Edition, OwnWord, Photo, Tool
from zester.money.models import ClassRecord
from zester.plans.models import PaperFit, PaperPlan
from zester.shelf.models import Bit, Entry, Pad, Paper, Sheet


@dataclass(frozen=True)
class Kind:
    """One kind of thing."""

    name: str
    """What the file calls it."""
    model: type[models.Model]
    """Where it is kept."""
    owned_by: str
    """The path to its owner."""
    refers_to: Mapping[str, str] = field(default_factory=dict)
    """For each reference the kind it is to."""
    left_out: tuple[str, ...] = ()
    """Fields that are files, or made anew."""
    many: Mapping[str, str] = field(default_factory=dict)
    """For each field of several references the kind they are to."""
    goes_with: str = ""
    """The reference it belongs to: where that thing was there already, it is taken as it is there, without this."""
    keyed: tuple[str, ...] = ()
    """Fields in which keys of kits stand, see ``kit_keys``."""

    @property
    def fields(self) -> list[models.Field]:
        """What is written of it beside its references."""
        skip = {"id", "owner", *self.refers_to, *self.left_out}
        return [each for each in self.model._meta.concrete_fields if each.name not in skip]

    def of(self, user: AbstractBaseUser) -> models.QuerySet:
        """Everything of the kind that is the user's, removed or not, the oldest first."""
        return self.model._base_manager.filter(**{self.owned_by: user}).order_by("pk")


_ENTRY = {"paper": "papers", "sheet": "sheets", "corrects": "ledger_of_papers"}
_BIT_ENTRY = {"bit": "bits", "corrects": "ledger_of_bits"}
_INSTEAD = {"card_class": "classes", "paper": "papers", "other": "papers"}
_SHORT = {"card_class": "classes", "run": "runs", "paper": "papers"}
_CUT_BY = {"card_class": "classes", "guide": "guides", "pad": "pads"}
IN_CLASS = "class_paper__card_class__owner"
KINDS = (
    Kind("papers", Paper, "owner"),
    Kind("sheets", Sheet, "paper__owner", {"paper": "papers"}, goes_with="paper"),
    Kind("bits", Bit, "owner"),
    Kind("pads", Pad, "owner"),
    Kind("ledger_of_papers", Entry, "paper__owner", _ENTRY, ("bit",), goes_with="paper"),
    Kind("ledger_of_bits", Entry, "bit__owner", _BIT_ENTRY, ("paper", "sheet"), goes_with="bit"),
    Kind("tools", Tool, "owner"),
    Kind("designs", Card, "owner", left_out=("saved_by",)),
    Kind("words", OwnWord, "owner"),
    Kind("columns_of_tables", ColumnMap, "owner"),
    Kind("photos", Photo, "owner", {"card": "designs"}, left_out=("image",)),
    Kind("kept_lists", Edition, "card__owner", {"card": "designs"}),
    Kind("trimmers", Trimmer, "owner"),
    Kind("classes", CardClass, "owner", {"trimmer": "trimmers"}, ("touched",)),
    Kind("cards_of_classes", ClassCard, "card_class__owner", {"card_class": "classes", "card": "designs"}),
    Kind("papers_of_classes", ClassPaper, "card_class__owner", {"card_class": "classes", "paper": "papers"}),
    Kind("offers", Offer, "card_class__owner", {"card_class": "classes"}),
    Kind("people", Participant, "card_class__owner", {"card_class": "classes"}),
    Kind("orders", Order, "participant__card_class__owner", {"participant": "people", "offer": "offers"}),
    Kind("payments", Payment, "participant__card_class__owner", {"participant": "people"}),
    Kind("substitutions", Substitution, "card_class__owner", _INSTEAD, many={"people": "people"}),
    Kind("castings", Casting, "card_class__owner", {"card_class": "classes"}, ("past", "undone")),
    Kind("guides", Guide, "owner"),
    Kind("guides_of_classes", ClassGuide, "card_class__owner", _CUT_BY),
    Kind("plans", PaperPlan, IN_CLASS, {"class_paper": "papers_of_classes"}, left_out=("steps",)),
    Kind("needs", PaperFit, IN_CLASS, {"class_paper": "papers_of_classes", "shown": "plans", "offered": "plans"}),
    Kind("runs", Run, f"fit__{IN_CLASS}", {"fit": "needs", "plan": "plans"}),
    Kind("ticks", Tick, f"run__fit__{IN_CLASS}", {"run": "runs"}, ("key",)),
    Kind("packed", Mark, "card_class__owner", {"card_class": "classes"}, ("key", "wanted"), keyed=("what",)),
    Kind("ready_kits", ReadyKit, "owner", {"card_class": "classes", "taken_by": "people"}),
    Kind("short", Shortage, "card_class__owner", _SHORT, ("refit",), keyed=("lacking",)),
    Kind("jobs_done", HandLog, "owner", {"card_class": "classes"}),
    Kind("cut_papers", CutLog, "owner", {"plan": "plans"}),
    Kind("records_of_classes", ClassRecord, "owner", {"card_class": "classes"}),
)
FORMAT = "zester-archive/1"
