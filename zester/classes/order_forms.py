"""Forms for people, offers, and papers taken in place of others."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import Decimal

from django import forms

from zester.classes.kept_shelf import named
from zester.classes.models import CardClass, ClassCard, Offer, Participant, Payment, Substitution
from zester.classes.people import papers_for
from zester.classes.services import bits_of
from zester.core.errors import ZesterError
from zester.core.kits.demand import LAST, SINCE, SOME
from zester.core.kits.goods import NoPaper, is_sheets, nearly_called, sheets_in
from zester.core.kits.offers import MOST_KITS, WAYS
from zester.core.lengths import show_size
from zester.core.money.accounts import SENT
from zester.core.tally import MOST_EACH, MOST_PARTICIPANTS
from zester.shelf.models import Paper
from zester.shelf.services import known_papers
from zester.site.fields import (
    BootstrapMixin,
    ChoiceOfField,
    ChoicesOfField,
    SizeField,
    TableField,
    count_field,
)
from zester.site.seen import SeenMixin

LONGEST_LINES = 200_000


class PeopleLinesForm(BootstrapMixin, forms.Form):
    """People written one a line, or sent as a table."""

    lines = forms.CharField(
        required=False,
        label="People, one a line",
        max_length=LONGEST_LINES,
        strip=False,
        widget=forms.Textarea(attrs={"rows": 4, "spellcheck": "false"}),
    )
    table = TableField(required=False, label="or a CSV table")


class PersonForm(SeenMixin, BootstrapMixin, forms.ModelForm):
    """One person: how to reach them, what they ordered, the papers they chose."""

    chosen = forms.MultipleChoiceField(required=False, label="Papers chosen", widget=forms.CheckboxSelectMultiple)

    class Meta:
        model = Participant
        fields = ["name", "state", "contact", "address", "note", "ordered_on", "sets"]
        fields += ["goods", "amount", "own_share", "member", "sent"]
        labels = {
            "goods": "Goods beside the offers",
            "amount": "What they come to",
            "own_share": "of that, your own share",
            "member": "A member: members’ prices",
            "sent": "Where a kit goes",
            "sets": "Sets of everything",
            "ordered_on": "Ordered on",
            "contact": "Mail or telephone",
            "state": "How the order stands",
        }
        widgets = {
            "ordered_on": forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"),
            "address": forms.Textarea(attrs={"rows": 2}),
            "note": forms.Textarea(attrs={"rows": 2}),
        }

    def __init__(self, *args, offers: list[Offer], papers: dict[str, str], **kwargs):
        super().__init__(*args, **kwargs)
        self.offers = [offer for offer in offers if offer.free_above is None]
        if self.offers:
            del self.fields["sets"]
        self.fields["amount"].required = self.fields["own_share"].required = False
        self.fields["sent"].choices = list(SENT.items())
        ordered = {}
        if self.instance.pk:
            ordered = dict(self.instance.orders.values_list("offer_id", "count"))
        for offer in self.offers:
            name = f"offer{offer.pk}"
            self.fields[name] = count_field(offer.name, MOST_KITS, ordered.get(offer.pk, 0))
        if papers:
            self.fields["chosen"].choices = list(papers.items())
            self.initial["chosen"] = [key for key in self.instance.chosen if key in papers]
        else:
            del self.fields["chosen"]

    @property
    def offer_fields(self) -> list:
        """The fields of the offers."""
        return [self[f"offer{offer.pk}"] for offer in self.offers]

    @property
    def orders(self) -> dict[int, int]:
        """By an offer's key how many."""
        return {offer.pk: self.cleaned_data.get(f"offer{offer.pk}") or 0 for offer in self.offers}

    @property
    def own_fields(self) -> list[str]:
        """What is stored with the person."""
        return [name for name in (*self.Meta.fields, "chosen") if name in self.fields]

    def clean_amount(self) -> Decimal:
        """Empty is nothing."""
        return self.cleaned_data["amount"] or Decimal(0)

    def clean_own_share(self) -> Decimal:
        """Empty is nothing."""
        return self.cleaned_data["own_share"] or Decimal(0)

    def clean(self) -> dict:
        """No more papers than the offers let one choose; something has to be ordered."""
        data = super().clean()
        if data.get("own_share") and data["own_share"] > (data.get("amount") or 0):
            self.add_error("own_share", "That is more than the goods come to.")
        counts = {offer: data.get(f"offer{offer.pk}") for offer in self.offers}
        ordered = [offer for offer, count in counts.items() if count]
        unclear = any(f"offer{offer.pk}" in self.errors for offer in self.offers)
        if self.offers and not ordered and not unclear:
            self.add_error(f"offer{self.offers[0].pk}", "Nothing is ordered. Write how many, or cancel the person.")
        elif "chosen" in data:
            self.instance.chosen = data["chosen"]
            most = max((offer.choose for offer in ordered if not offer.choose_at_home), default=0)
            if len(data["chosen"]) > most:
                self.add_error("chosen", f"{len(data['chosen'])} are chosen; what is ordered has {most}.")
        return data


class PaymentForm(BootstrapMixin, forms.ModelForm):
    """An amount on a day; it stands on a page with the person's own form, which has an amount, too."""

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **({"auto_id": "id_pay_%s"} | kwargs))

    class Meta:
        model = Payment
        fields = ["amount", "kind", "on", "words"]
        labels = {"amount": "Amount", "kind": "was", "on": "on", "words": "How, or why"}
        widgets = {"on": forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")}


class UnnamedForm(BootstrapMixin, forms.Form):
    """What the people without a name have, by offer."""

    def __init__(self, *args, card_class: CardClass, offers: Iterable[Offer], **kwargs):
        super().__init__(*args, **kwargs)
        self.card_class = card_class
        self.offers = [offer for offer in offers if offer.free_above is None]
        for offer in self.offers:
            self.fields[f"unnamed{offer.pk}"] = count_field(offer.name, MOST_PARTICIPANTS, offer.unnamed or None)

    @property
    def counts(self) -> dict[int, int]:
        """By an offer's key how many."""
        return {offer.pk: self.cleaned_data.get(f"unnamed{offer.pk}") or 0 for offer in self.offers}

    def clean(self) -> dict:
        """No more than there are."""
        data = super().clean()
        said, there = sum(self.counts.values()), self.card_class.participants
        if said > there and self.offers:
            words = (
                f"{said} are more than the {there} without a name. Change the number of people first, or write fewer."
            )
            self.add_error(f"unnamed{self.offers[0].pk}", words)
        return data


class PostForm(BootstrapMixin, forms.ModelForm):
    """What a kit costs more by where it is sent."""

    class Meta:
        model = CardClass
        fields = ["post_inside", "post_abroad"]
        labels = {"post_inside": "in the country", "post_abroad": "abroad"}


class OfferForm(SeenMixin, BootstrapMixin, forms.ModelForm):
    """What can be ordered, and what it holds."""

    card = forms.ChoiceField(required=False, choices=list(WAYS.items()), label="Card stock")
    patterned = forms.ChoiceField(required=False, choices=list(WAYS.items()), label="Patterned and other papers")
    among = forms.MultipleChoiceField(required=False, label="among these papers", widget=forms.CheckboxSelectMultiple)
    choice_size = SizeField(required=False, label="of this size each")

    class Meta:
        model = Offer
        fields = ["name", "price", "sets", "extras", "bits", "kit_list", "with_post", "post_to"]
        fields += ["free_above", "free_below", "free_from", "free_until", "choose", "choose_at_home"]
        fields += ["later_price", "later_from", "member_price", "closes_on", "limit"]
        labels = {
            "name": "What it is called",
            "price": "Price",
            "sets": "Sets of cards in one",
            "extras": "What comes with it that is not cut, once a kit, one a line",
            "bits": "The bits of the cards go with it: thread, gems, envelopes",
            "kit_list": "The kit list goes with it",
            "with_post": "Post is in the price",
            "post_to": "Posted to",
            "free_above": "Free with an order of at least",
            "free_below": "and below",
            "later_price": "A later price",
            "later_from": "from",
            "member_price": "Price for members",
            "closes_on": "Sold until",
            "limit": "How many there are",
            "free_from": "ordered from",
            "free_until": "until",
            "choose": "Papers to choose",
            "choose_at_home": "One of each is handed out; they choose when they cut, at home",
        }
        help_texts = {"extras": "Like: 1 bottle of paint, 60 cm ribbon, or 6 sheets of White."}
        widgets = {
            "extras": forms.Textarea(attrs={"rows": 3}),
            "later_from": forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"),
            "closes_on": forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"),
            "free_from": forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"),
            "free_until": forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"),
        }

    def __init__(self, *args, letters: dict[str, str], papers: list[Paper], used: list[Paper], **kwargs):
        super().__init__(*args, **kwargs)
        offer = self.instance
        self.letters, self.used = letters, used
        self.fields["choose"].required = self.fields["sets"].required = False
        for letter, name in letters.items():
            self.fields[f"card_{letter}"] = count_field(f"{letter} {name}", MOST_EACH, offer.cards.get(letter))
        for paper in used:
            field = forms.ChoiceField(
                label=paper.name, required=False, choices=list(WAYS.items()), initial=offer.pools.get(paper.key, "")
            )
            field.widget.attrs["class"] = "form-select form-select-sm"
            self.fields[f"way_{paper.key}"] = field
        self.fields["among"].choices = [(paper.key, paper.name) for paper in papers]
        unit = offer.card_class.unit
        self.fields["choice_size"].ruler_key = "mm" if unit == "mm" else "in16"
        self.initial |= {"card": offer.pools.get("card", ""), "patterned": offer.pools.get("patterned", "")}
        self.initial["among"] = list(offer.among)
        if offer.choice_width:
            self.initial["choice_size"] = show_size(offer.choice_width, offer.choice_height, unit)

    @property
    def card_fields(self) -> list:
        """How many of each card a set holds."""
        return [self[f"card_{letter}"] for letter in self.letters]

    @property
    def way_fields(self) -> list:
        """How single papers are handed out."""
        return [self[f"way_{paper.key}"] for paper in self.used]

    def clean_name(self) -> str:
        """One offer of a name in a class, with a letter so that a line can name it."""
        name = " ".join(self.cleaned_data["name"].split())
        if not any(char.isalpha() for char in name) or any(char in name for char in ",;:+&|"):
            raise forms.ValidationError("Letters, no commas or other signs between words: lines name the offer by it.")
        others = self.instance.card_class.offers.exclude(pk=self.instance.pk)
        if others.filter(name__iexact=name).exists():
            raise forms.ValidationError("This class has an offer of that name already.")
        return name

    def clean_sets(self) -> int:
        """One set, if nobody says otherwise."""
        return self.cleaned_data["sets"] or 1

    def clean_choose(self) -> int:
        """None to choose, if nobody says otherwise."""
        return self.cleaned_data["choose"] or 0

    def clean_extras(self) -> str:
        """Every line is a bit."""
        text = self.cleaned_data["extras"]
        for line in text.splitlines():
            if is_sheets(line):
                self._check_sheets(line)
            elif line.strip() and not bits_of(line):
                raise forms.ValidationError(
                    f"“{line.strip()[:60]}” is not understood. Write it like: 2 bottles of paint."
                )
        return text

    def _check_sheets(self, line: str) -> None:
        """Sheets of a paper that is on the shelf, or of something else; nearly a paper's name is asked about."""
        papers = known_papers(papers_for(self.instance.card_class))
        try:
            sheets_in(line, papers, {})
        except NoPaper as error:
            near = nearly_called(line, papers)
            if near:
                raise forms.ValidationError(f"{error.what}. Is {near} meant?") from error
        except ZesterError as error:
            raise forms.ValidationError(error.advice()) from error

    def clean(self) -> dict:
        """What belongs together is said together."""
        data = super().clean()
        if data.get("free_from") and data.get("free_until") and data["free_until"] < data["free_from"]:
            self.add_error("free_until", "That is before the first day.")
        if (data.get("free_from") or data.get("free_until")) and data.get("free_above") is None:
            self.add_error("free_above", "From which amount on? Without one nothing is free.")
        if data.get("free_below") is not None and data["free_below"] <= (data.get("free_above") or 0):
            self.add_error("free_below", "That has to be more than the amount it begins with.")
        if (data.get("later_price") is None) != (not data.get("later_from")):
            self.add_error("later_from", "A later price has an amount and a first day.")
        if data.get("choose"):
            if len(data.get("among") or []) <= data["choose"]:
                self.add_error("among", f"To choose {data['choose']}, tick more papers than that.")
            if not data.get("choice_size") and "choice_size" not in self.errors:
                self.add_error("choice_size", "How large is what is handed out of each? Like 6 x 6.")
        self._check_size(data)
        self._check_envelopes(data)
        return data

    def _check_envelopes(self, data: dict) -> None:
        """A card that goes into the envelope of another comes with that one."""
        if any(data.get(f"card_{letter}") is not None for letter in self.letters):
            used = ClassCard.objects.there().filter(card_class=self.instance.card_class).exclude(envelope_of="")
            for letter, host in used.values_list("letter", "envelope_of"):
                if data.get(f"card_{letter}") and not data.get(f"card_{host}"):
                    words = f"It goes into the envelope of {host}, which is not in this offer."
                    self.add_error(f"card_{letter}", f"{words} Give it an envelope of its own on the Count page first.")

    def _check_size(self, data: dict) -> None:
        if not data.get("choice_size") or not data.get("among"):
            return
        sides = sorted(data["choice_size"])
        for paper in Paper.objects.of(self.instance.card_class.owner).filter(key__in=data["among"]):
            sheet = sorted((paper.width, paper.height))
            if sides[0] > sheet[0] or sides[1] > sheet[1]:
                self.add_error("choice_size", f"{paper.name} is smaller: {paper.size_text}.")
                return

    def filled(self) -> Offer:
        """The offer as it was filled in."""
        data, offer = self.cleaned_data, self.save(commit=False)
        cards = {letter: data.get(f"card_{letter}") for letter in self.letters}
        said = {letter: count for letter, count in cards.items() if count is not None}
        offer.cards = {letter: said.get(letter, 0) for letter in cards} if said else {}
        ways = {"card": data["card"], "patterned": data["patterned"]}
        ways |= {paper.key: data.get(f"way_{paper.key}") for paper in self.used}
        offer.pools = {name: way for name, way in ways.items() if way}
        offer.among = data["among"] if data["choose"] else []
        offer.choice_width, offer.choice_height = (
            data["choice_size"] or (None, None) if data["choose"] else (None, None)
        )
        return offer


class InsteadForm(BootstrapMixin, forms.ModelForm):
    """One paper in place of another, or one bit."""

    last = count_field("how many of the last kits", MOST_PARTICIPANTS)
    bit = forms.ChoiceField(label="Or in place of the bit", required=False)

    class Meta:
        model = Substitution
        fields = ["paper", "other", "bit", "other_bit", "who", "people", "last", "since", "reason"]
        labels = {"paper": "In place of", "other": "take", "who": "for", "people": "for these", "reason": "Why"}
        labels |= {"other_bit": "take the bit", "since": "from this day on"}
        widgets = {
            "since": forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"),
            "people": forms.CheckboxSelectMultiple,
            "who": forms.RadioSelect,
        }
        field_classes = {"paper": ChoiceOfField, "other": ChoiceOfField, "people": ChoicesOfField}

    def __init__(self, *args, card_class: CardClass, used: list[Paper], **kwargs):
        super().__init__(*args, **kwargs)
        self.instance.card_class = card_class
        self.fields["paper"].queryset = Paper.objects.filter(pk__in=[paper.pk for paper in used])
        self.fields["other"].queryset = Paper.objects.of(card_class.owner)
        for name in ("paper", "other"):
            self.fields[name].label_from_instance = lambda paper: named(paper, card_class.kept_shelf).name
        self.fields["people"].queryset = card_class.people.exclude(state="cancelled")
        # As the class was counted last.
        bits = sorted({row[0] for row in card_class.bits}, key=str.casefold)
        self.fields["bit"].choices = [("", "choose…"), *((name, name) for name in bits)]
        self.fields["paper"].empty_label = self.fields["other"].empty_label = "choose…"

    def clean_last(self) -> int:
        """None, if it is not for the last kits."""
        return self.cleaned_data["last"] or 0

    def clean(self) -> dict:
        """Two papers, and somebody for whom."""
        data = super().clean()
        paper, other, bit, other_bit = (data.get(name) for name in ("paper", "other", "bit", "other_bit"))
        if paper and bit:
            self.add_error("bit", "A paper or a bit, one at a time.")
        elif not paper and not bit:
            self.add_error("paper", "In place of what? Choose a paper, or a bit below.")
        if paper and not other:
            self.add_error("other", "Which paper is taken?")
        if bit and not other_bit:
            self.add_error("other_bit", "Which bit is taken?")
        if paper and other and paper == other:
            self.add_error("other", "That is the same paper.")
        if bit and other_bit and bit.casefold() == other_bit.strip().casefold():
            self.add_error("other_bit", "That is the same bit.")
        # What belongs to the other way of saying it is not kept.
        data |= {"other_bit": ""} if not bit else {"other": None}
        if data.get("who") == SINCE and not data.get("since") and "since" not in self.errors:
            self.add_error("since", "From which day on?")
        if data.get("who") == SOME and not data.get("people"):
            self.add_error("people", "For whom? Tick the people.")
        if data.get("who") == LAST and not data.get("last") and "last" not in self.errors:
            self.add_error("last", "For how many of the last kits?")
        return data
