"""The evening of a class: its order of work, one step at a time to teach from, the page that follows."""

from __future__ import annotations

import re

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from zester.bags import evenings, sharing
from zester.bags.own_ways import own_steps, own_way
from zester.bags.views import class_of, page_of
from zester.classes.closed import leaves_class_alone
from zester.classes.services import count_class
from zester.core.cautions import cautions_for
from zester.core.cutting.evening import minutes_in_words
from zester.core.kits.class_evening import against_length
from zester.site.owned import key_of


@require_GET
def evening(request: HttpRequest, pk: int) -> HttpResponse:
    """What the participants do, over all cards, with minutes."""
    card_class = class_of(request, pk)
    planned = evenings.class_evening_of(count_class(card_class))
    tools = {each.step.tool for part in planned.parts for each in part.steps}
    context = page_of(
        card_class,
        evening=planned,
        parts=[(part, _clock(part.begins // 60), minutes_in_words(part.minutes)) for part in planned.parts],
        words=against_length(planned, card_class.minutes),
        cautions=cautions_for(tools),
    )
    return render(request, "bags/evening.html", context)


def _clock(minutes: int) -> str:
    return f"{minutes // 60}:{minutes % 60:02d}"


# Which step is shown changes nothing of the class.
@leaves_class_alone
@require_http_methods(["GET", "POST"])
def teach(request: HttpRequest, pk: int) -> HttpResponse:
    """One step at a time, large enough for the back of the room."""
    card_class = class_of(request, pk)
    if request.method == "POST":
        over = "over" in request.POST
        at = key_of(request.POST.get("at", ""))
        evenings.show_step(card_class, None if over else min(at, 10_000))
        return redirect("bags:evening", pk) if over else redirect(f"{reverse('bags:teach', args=[pk])}?at={at}")
    counted = count_class(card_class)
    moments = evenings.moments_of(evenings.class_evening_of(counted))
    if not moments:
        return redirect("bags:evening", pk)
    moment = moments[min(key_of(request.GET.get("at", "")), len(moments) - 1)]
    after = moments[moment.at + 1 :]
    next_part = next((each for each in after if each.part is not moment.part), None)
    context = page_of(
        card_class,
        moment=moment,
        drawing=evenings.drawn_so_far(counted, moment, moments),
        own_words=evenings.words_of(counted, moment),
        caution=evenings.caution_of(moment),
        starts=_clock(moment.begins),
        next_step=after[0] if after else None,
        next_part=next_part,
        next_part_at=next_part.at if next_part else None,
        timer=moment.step.step.dries if moment.step else moment.part.minutes,
        timer_name=f"{moment.step.letter} dries" if moment.step else moment.part.title,
        follows=sharing.shared_of(card_class).is_open,
    )
    return render(request, "bags/teach.html", context)


# A note goes to the design, not to the class.
@leaves_class_alone
@require_POST
def note(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep a note to a step with its design."""
    card_class = class_of(request, pk)
    at, letter = key_of(request.POST.get("at", "")), request.POST.get("letter", "")
    text = re.sub(r"\s+", " ", request.POST.get("note", "")).strip()
    letters = {read.entry.letter for read in count_class(card_class).designs}
    if letter not in letters:
        messages.error(request, "That card is not in this class any more; the note was not kept.")
    elif len(text) > evenings.LONGEST_NOTE:
        messages.error(
            request, f"A note holds {evenings.LONGEST_NOTE} letters: shorten it. It was not kept: “{text[:400]}”"
        )
    elif text:
        what = " ".join(request.POST.get("what", "").split())[:80]
        if evenings.note_down(card_class, letter, what, text):
            messages.success(request, f"Noted with {letter}: it stands at the desk as what to mind next time.")
        else:
            messages.error(
                request, f"The notes of {letter} are full. Make room at its design; it was not kept: “{text}”"
            )
    return redirect(f"{reverse('bags:teach', args=[pk])}?at={at}")


@login_not_required
@never_cache
@require_GET
def now(request: HttpRequest, token: str) -> HttpResponse:
    """The step that is taught now, for the page of the participants; 404 where that is not open."""
    page = sharing.found_by(token)
    if page is None:
        raise Http404
    at = evenings.step_followed(page)
    if request.GET.get("at", "") == ("" if at is None else str(at)):
        # Asked every few seconds by everybody in the room: nothing is counted while nothing has changed.
        return HttpResponse(status=204)
    counted = count_class(page.card_class)
    moments = evenings.moments_of(evenings.class_evening_of(counted)) if at is not None else []
    moment = moments[at] if at is not None and at < len(moments) else None
    words = evenings.words_of(counted, moment) if moment else ""
    way = own_way(counted, request.GET.get("mine", ""))
    letter = moment.step.letter if moment and moment.step else ""
    mine, steps = own_steps(counted, moment.step, way) if letter and way else (letter, [])
    context = {"moment": moment, "token": token, "own_words": words, "at": at, "way": way, "mine": mine, "steps": steps}
    answer = render(request, "bags/_now.html", context)
    answer["Referrer-Policy"] = "no-referrer"
    return answer
