"""The Pack station: the board, the packing table, what is short, what to check."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from zester.bags import marks, shortages
from zester.bags.board import Board, ShownKit, ShownStack, board_of
from zester.bags.checks import checks_of, hints_of, weights_of
from zester.bags.models import Shortage
from zester.bags.ready import from_shelf_for, made_for_shelf, ready_here
from zester.bench.refits import ASKED
from zester.classes.models import CardClass
from zester.classes.services import class_or_404
from zester.core.errors import ZesterError
from zester.core.kits.packing import ALL, BAGGINGS, Item
from zester.designs.desk import drawings_of
from zester.shelf.services import papers_of
from zester.site.back import page_of_ours
from zester.site.owned import key_of
from zester.site.stations import some, thread


def class_of(request: HttpRequest, pk: int) -> CardClass:
    """One’s own class."""
    return class_or_404(request.user, pk, "owner")


def page_of(card_class: CardClass, **more) -> dict:
    """What every page of the station shows."""
    return {"card_class": card_class, "stations": thread(card_class, "pack")} | more


@require_GET
def pack(request: HttpRequest, pk: int) -> HttpResponse:
    """The board: all bags design by design, all kits person by person."""
    card_class = class_of(request, pk)
    board = board_of(card_class)
    about = {"board": board, "baggings": BAGGINGS.items(), "ready": ready_here(card_class, board)}
    about |= {"made": made_for_shelf(board), "from_shelf": from_shelf_for(card_class)}
    return render(request, "bags/pack.html", page_of(card_class, **about))


def _stack(board: Board, key: str) -> ShownStack:
    found = board.stack(key)
    if found is None:
        raise Http404
    return found


def _kit(board: Board, key: str) -> ShownKit:
    found = board.kits_by_key.get(key)
    if found is None:
        raise Http404
    return found


@require_GET
def stack(request: HttpRequest, pk: int, stack: str) -> HttpResponse:
    """Bags that hold the same, one after the other, to be read from an arm's length."""
    card_class = class_of(request, pk)
    board = board_of(card_class)
    shown = _stack(board, stack)
    keys = [each.key for each in board.stacks]
    after = next((each for each in board.stacks[keys.index(shown.key) + 1 :] if each.done < len(each.rows)), None)
    now = shown.next
    context = {"card_class": card_class, "board": board, "shown": shown, "after": after, "now": now}
    alike, sides = hints_of(board, shown)
    context["hints"] = [*alike, *sides]
    context["now_for"] = now.name if now else ""
    context |= {
        "drawing": _picture(board, shown.stack.letter, shown.stack.items),
        "weight": weights_of(board).of_bag(shown.stack.items),
    }
    return render(request, "bags/stack.html", context)


def _picture(board: Board, letter: str, items: Iterable[Item]):
    """The finished card, as far as it can be drawn, of the papers that are in the bag."""
    card = board.cards.get(letter)
    if letter == ALL or card is None:
        return None
    held = board.counted.held
    instead = board.instead_in(items)
    drawn = drawings_of(card.entry.card, letter, held.known, held.papers, card.entry.version, instead, card.shown)
    return drawn[0] if drawn else None


@require_GET
def kit(request: HttpRequest, pk: int, kit: str) -> HttpResponse:
    """One kit: its bags, what lies beside them, whose it is."""
    card_class = class_of(request, pk)
    board = board_of(card_class)
    shown = _kit(board, kit)
    person = None
    if shown.kit.person:
        person = card_class.people.filter(pk=key_of(shown.kit.person)).first()
    keys = [each.kit.key for each in board.kits]
    place = keys.index(shown.kit.key)
    others = [*board.kits[place + 1 :], *board.kits[:place]]
    weights = weights_of(board)
    context = {
        "card_class": card_class,
        "board": board,
        "shown": shown,
        "person": person,
        "after": next((each for each in others if not each.done), None),
        "bags": [
            (bag, board.card_name(bag.bag.letter), board.lines(bag.bag.items, board.notes.get(bag.bag.key, ())))
            for bag in shown.bags
        ],
        "beside": board.lines(shown.kit.beside, board.notes.get(shown.kit.key, ())),
        "weight": weights.of_kit(shown.kit),
    }
    return render(request, "bags/kit.html", context)


@require_GET
def bag(request: HttpRequest, pk: int, bag: str) -> HttpResponse:
    """The code on a bag's label: its kit, with the bag in view."""
    board = board_of(class_of(request, pk))
    shown = board.bags.get(bag)
    if shown is None:
        raise Http404
    return redirect(f"{reverse('bags:kit', args=[pk, shown.kit.key])}#{bag}")


@require_POST
def ticks(request: HttpRequest, pk: int) -> JsonResponse:
    """Keep what was ticked at a table, and say how all stands."""
    card_class = class_of(request, pk)
    try:
        sent = marks.read_ticks(request.body if request.content_type == "application/json" else b"")
    except ZesterError as error:
        return JsonResponse({"problem": error.text()}, status=400)
    took, board = marks.tick(card_class, sent)
    return JsonResponse(_state(request, board) | {"took": took})


@require_GET
def state(request: HttpRequest, pk: int) -> JsonResponse:
    """How far the packing is."""
    return JsonResponse(_state(request, board_of(class_of(request, pk))))


def _state(request: HttpRequest, board: Board) -> dict:
    stack, kit = request.GET.get("stack"), request.GET.get("kit")
    if stack:
        shown = board.stack(stack)
        return marks.state_of(board, stack=shown) if shown else {"gone": True}
    if kit:
        shown = board.kits_by_key.get(kit)
        return marks.state_of(board, kit=shown) if shown else {"gone": True}
    return marks.state_of(board)


@require_POST
def how(request: HttpRequest, pk: int) -> HttpResponse:
    """Choose how many bags a kit has."""
    card_class = class_of(request, pk)
    try:
        marks.set_bagging(card_class, request.POST.get("bagging", ""))
    except ZesterError as error:
        messages.error(request, error.text())
    return redirect("bags:pack", pk)


@require_POST
def again(request: HttpRequest, pk: int) -> HttpResponse:
    """Nothing is packed after all."""
    number = marks.begin_again(class_of(request, pk))
    messages.success(request, f"Begun again: {number} marks are gone. What is short stays noted.")
    return redirect("bags:pack", pk)


@require_POST
def surplus(request: HttpRequest, pk: int) -> HttpResponse:
    """What is packed for nobody: taken apart, or somebody else's now."""
    card_class, what, to = class_of(request, pk), request.POST.get("what", "")[:80], request.POST.get("to", "")
    try:
        if to:
            marks.hand_on(card_class, what, to)
        else:
            marks.take_apart(card_class, what)
    except ZesterError as error:
        messages.error(request, error.text())
    return redirect("bags:pack", pk)


def short(request: HttpRequest, pk: int) -> HttpResponse:
    """Piles to count, what is missing, for whom, and what is done about it."""
    card_class = class_of(request, pk)
    return _count(request, card_class) if request.method == "POST" else _short(request, card_class)


def _short(request: HttpRequest, card_class: CardClass, typed: Mapping[str, str] | None = None) -> HttpResponse:
    """The page; ``typed`` are numbers that were sent and could not be used."""
    board, typed = board_of(card_class), typed or {}
    rows = [
        {
            "shortage": each,
            "headline": shortages.headline(board, each),
            "means": shortages.means(board, each),
            "is_cut": shortages.is_cut(each),
            "fit": shortages.fit_for(board, each) if each.is_piece else None,
        }
        for each in board.shortages
    ]
    piles = [
        {"pile": pile, "typed": typed.get(pile.line.key, ""), "wrong": _no_number(typed.get(pile.line.key, ""))}
        for pile in shortages.piles_of(board)
    ]
    context = page_of(card_class, board=board, rows=rows, piles=piles, papers=papers_of(request.user))
    return render(request, "bags/short.html", context, status=422 if typed else 200)


def _no_number(text: str) -> bool:
    return bool(text) and not (text.isascii() and text.isdecimal() and len(text) <= 6)


def _count(request: HttpRequest, card_class: CardClass) -> HttpResponse:
    typed = {
        name.removeprefix("pile-"): text.strip()
        for name, text in request.POST.items()
        if name.startswith("pile-") and text.strip()
    }
    wrong = sum(_no_number(text) for text in typed.values())
    if wrong:
        messages.error(
            request, f"{some(wrong, 'number')} cannot be read. Nothing was compared yet; all you wrote is here."
        )
        return _short(request, card_class, typed)
    counted = {key: int(text) for key, text in typed.items()}
    try:
        found, over = shortages.count_piles(card_class, counted)
    except ZesterError as error:
        messages.error(request, error.text())
        return _short(request, card_class, typed)
    if over:
        messages.info(request, f"More than needed: {'; '.join(over)}.")
    if found:
        words = "pile is" if len(found) == 1 else "piles are"
        messages.error(request, f"{len(found)} {words} short. Say below what is done about it.")
    elif counted:
        messages.success(request, "Counted: nothing is short.")
    return redirect("bags:short", card_class.pk)


@require_POST
def missing(request: HttpRequest, pk: int) -> HttpResponse:
    """Something is missing from a bag: noted, with what it means."""
    card_class = class_of(request, pk)
    try:
        shortages.report(card_class, request.POST.get("thing", ""), key_of(request.POST.get("count", "")))
    except ZesterError as error:
        messages.error(request, error.text())
        return redirect(_next(request) or reverse("bags:short", args=[pk]))
    return redirect("bags:short", pk)


def _next(request: HttpRequest) -> str:
    """Where somebody came from, if that is a page of ours."""
    return page_of_ours(request, request.POST.get("next", ""))


@require_POST
def shortage(request: HttpRequest, pk: int, row: int) -> HttpResponse:
    """What is done about something that is missing."""
    card_class = class_of(request, pk)
    each = get_object_or_404(Shortage.objects.filter(card_class=card_class), pk=row)
    act = request.POST.get("act")
    try:
        if act == "bench":
            refit = shortages.to_bench(card_class, each)
            request.session[ASKED] = refit.pk
            return redirect("bench:table", pk, refit.run.fit.key)
        if act == "instead":
            paper = papers_of(request.user).filter(pk=key_of(request.POST.get("paper", ""))).first()
            shortages.take_instead(each, paper, request.POST.get("words", ""))
        elif act in ("there", "open"):
            shortages.set_there(each, act == "there")
        elif act == "wrong":
            each.delete()
    except ZesterError as error:
        messages.error(request, error.text())
    return redirect("bags:short", pk)


@require_GET
def checks(request: HttpRequest, pk: int) -> HttpResponse:
    """What can be checked without counting: weights, what looks alike, sides, the parcel."""
    card_class = class_of(request, pk)
    board = board_of(card_class)
    return render(request, "bags/checks.html", page_of(card_class, board=board, checks=checks_of(board)))
