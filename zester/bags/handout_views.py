"""The hand-out: on the screen, as PDF, with the teacher's own words; the page that participants open."""

from __future__ import annotations

from collections.abc import Mapping

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.dateparse import parse_date
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from zester.accounts.regions import region_of
from zester.bags import sharing
from zester.bags.guides import guides_for, guides_of, has_guides
from zester.bags.handouts import (
    ENDING,
    OPENING,
    HandoutCard,
    Ink,
    handout_of,
)
from zester.bags.own_ways import own_way, own_ways
from zester.bags.print_views import pdf
from zester.bags.views import class_of, page_of
from zester.classes.closed import leaves_class_alone
from zester.classes.held import keep_class_words
from zester.classes.models import CardClass, ClassCard
from zester.classes.services import count_class
from zester.core.cautions import ALWAYS
from zester.core.kits.own_steps import MARK
from zester.designs.services import LONGEST_WORDS, Clash
from zester.printing.choosers import page_asked
from zester.printing.codes import code_svg
from zester.site.dates import day
from zester.site.regions import within


@require_GET
def handout(request: HttpRequest, pk: int) -> HttpResponse:
    """The hand-out of one card, with what can be printed and shared."""
    return _shown(request, class_of(request, pk), request.GET.get("card", ""))


def _shown(
    request: HttpRequest,
    card_class: CardClass,
    letter: str,
    clashes: Mapping[str, Clash] | None = None,
    status: int = 200,
) -> HttpResponse:
    counted = count_class(card_class)
    letters = [card.entry.letter for card in counted.designs]
    letter = letter if letter in letters else next(iter(letters), "")
    each = next(iter(handout_of(counted, [letter])), None)
    shared = sharing.shared_of(card_class)
    address = request.build_absolute_uri(reverse("bags:shared", args=[shared.token])) if shared.is_on else ""
    context = page_of(
        card_class,
        cards=counted.designs,
        each=each,
        names=counted.names,
        always=ALWAYS,
        fields=_fields(each, clashes or {}) if each else [],
        shared=shared,
        address=address,
        code=code_svg(address) if address else "",
        has_guides=has_guides(counted),
    )
    return render(request, "bags/handout.html", context, status=status)


def _fields(each: HandoutCard, clashes: Mapping[str, Clash]) -> list[dict]:
    """A field for the teacher's words to every step, before the first and after the last."""
    steps = [(step.key, step.what, step.words) for step in (*each.ready, *each.steps)]
    rows = [(OPENING, "Before the first step", each.opening), *steps, (ENDING, "After the last step", each.ending)]
    # Words to a step that is no longer there are kept, and shown, so that nobody loses them.
    known = {key for key, _, _ in rows}
    rows += [
        (key, "To a step that is no longer there", text)
        for key, text in each.card.teaching.items()
        if key not in known and not key.startswith(MARK)
    ]
    return [
        {
            "key": key,
            "label": label,
            "seen": text,
            "value": clashes[key].mine if key in clashes else text,
            "theirs": clashes[key].theirs if key in clashes else "",
        }
        for key, label, text in rows
    ]


@require_POST
def words(request: HttpRequest, pk: int, letter: str) -> HttpResponse:
    """Keep the teacher's own words to the steps of a card."""
    card_class = class_of(request, pk)
    used = ClassCard.objects.there().filter(card_class=card_class)
    entry = get_object_or_404(used.select_related("card"), letter=letter)
    sent = _named(request, "words-")
    if any(len(text) > LONGEST_WORDS for text in sent.values()):
        messages.error(request, f"A step holds {LONGEST_WORDS} letters of yours. Nothing was cut off: shorten it.")
        clashes = {key: Clash(key, text, "") for key, text in sent.items()}
        return _shown(request, card_class, letter, clashes, status=422)
    found = keep_class_words(entry, sent, _named(request, "seen-"))
    if found:
        messages.error(
            request, "Another window wrote some of it meanwhile; both are shown. What else you wrote is kept."
        )
        return _shown(request, card_class, letter, {clash.key: clash for clash in found}, status=409)
    messages.success(request, "Kept with the design.")
    return redirect(f"{reverse('bags:handout', args=[pk])}?card={letter}")


def _named(request: HttpRequest, prefix: str) -> dict[str, str]:
    return {
        name.removeprefix(prefix)[:60]: " ".join(text.split())
        for name, text in request.POST.items()
        if name.startswith(prefix)
    }


@require_GET
def handout_pdf(request: HttpRequest, pk: int) -> HttpResponse:
    """The hand-out of all cards."""
    card_class = class_of(request, pk)
    counted = count_class(card_class)
    grey = request.GET.get("ink") == "grey"
    date = day(card_class.date) if card_class.date else ""
    context = {
        "cards": handout_of(counted, ink=Ink.GREY if grey else Ink.COLOUR),
        "names": counted.names,
        "always": ALWAYS,
        "grey": grey,
        "footer": " ".join(filter(None, (_plain(card_class.title), date))),
    }
    return pdf(request, card_class, "handout", page_asked(request, card_class.unit), context)


@require_GET
def guides_pdf(request: HttpRequest, pk: int) -> HttpResponse:
    """Guides for those who cut at home, papers that may be chosen with the ways to cut them."""
    card_class = class_of(request, pk)
    guides = guides_of(count_class(card_class))
    if not guides:
        messages.error(request, "No paper of this class is handed out to be cut at home.")
        return redirect("bags:handout", pk)
    page = page_asked(request, card_class.unit)
    return pdf(request, card_class, "guides", page, {"guides": guides})


def _plain(text: str) -> str:
    """Text for a style sheet: without what would end it there."""
    return "".join(char for char in text if char.isalnum() or char in " -,.’")


# Nothing of a closed class changes; who may see it does.
@leaves_class_alone
@require_POST
def share(request: HttpRequest, pk: int) -> HttpResponse:
    """Switch the page for participants on or off, or give it another address."""
    card_class, act = class_of(request, pk), request.POST.get("act")
    text = request.POST.get("until", "").strip()
    try:
        until = parse_date(text) if text else None
    except ValueError:
        until = None
    if text and until is None:
        messages.error(request, "That is no day. Write it like 2027-05-31, or leave it empty.")
    elif act == "on" and until and until < timezone.localdate():
        messages.error(request, "That day is over. Choose a later one, or leave it empty.")
    elif act == "new":
        sharing.readdress(card_class)
        messages.success(request, "It has a new address; the old one shows nothing any more.")
    elif act in ("on", "off"):
        sharing.switch(card_class, act == "on", until)
        messages.success(request, "The page is open." if act == "on" else "The page is switched off.")
    return redirect(f"{reverse('bags:handout', args=[pk])}#page")


@login_not_required
@never_cache
@require_GET
def shared(request: HttpRequest, token: str) -> HttpResponse:
    """The page for participants, whole or what comes with one offer; 404 for every address that is not open."""
    page = sharing.found_by(token)
    if page is None:
        raise Http404
    counted = count_class(page.card_class)
    way = own_way(counted, request.GET.get("mine", ""))
    context = {
        "card_class": page.card_class,
        "ways": own_ways(counted),
        "way": way,
        "cards": handout_of(counted, way.letters if way else None, named=False),
        "names": counted.names,
        "always": ALWAYS,
        "unit": page.card_class.unit,
        "guides": guides_for(counted, way),
        "token": token,
    }
    # Nobody is signed in: days and sheets are as the teacher writes them.
    with within(region_of(page.card_class.owner_id)[0]):
        answer = render(request, "bags/shared.html", context)
    answer["Referrer-Policy"] = "no-referrer"
    answer["X-Robots-Tag"] = "noindex, nofollow"
    return answer
