"""The list of classes, their settings, and the Count station."""

from __future__ import annotations

from django.contrib import messages
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from zester.classes.forms import ClassForm, CountForm, ParticipantsForm
from zester.classes.models import CardClass
from zester.classes.services import bring_class_back, classes_of, count_class, recount
from zester.site.stations import thread, threads


def class_list(request: HttpRequest) -> HttpResponse:
    """All classes, each with its thread of stations."""
    classes = classes_of(request.user)
    stations = threads(classes)
    rows = [{"card_class": each, "stations": stations[each.pk]} for each in classes]
    return render(request, "classes/list.html", {"rows": rows})


def new_class(request: HttpRequest) -> HttpResponse:
    """Open a new class."""
    form = ClassForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        form.instance.owner = request.user
        with transaction.atomic():
            card_class = form.save()
            recount(card_class.pk)
        return redirect("classes:desk", card_class.pk)
    return render(request, "classes/form.html", {"form": form})


def edit_class(request: HttpRequest, pk: int) -> HttpResponse:
    """Change a class."""
    card_class = get_object_or_404(CardClass.objects.of(request.user), pk=pk)
    form = ClassForm(request.POST or None, instance=card_class)
    if request.method == "POST" and form.is_valid():
        with transaction.atomic():
            card_class.save(update_fields=list(form.fields))
            recount(pk)
        messages.success(request, "The class is saved.")
        return redirect("classes:desk", pk)
    return render(request, "classes/form.html", {"form": form, "card_class": card_class})


@require_POST
def remove_class(request: HttpRequest, pk: int) -> HttpResponse:
    """Remove a class; can be undone."""
    card_class = get_object_or_404(CardClass.objects.of(request.user), pk=pk)
    card_class.remove()
    messages.info(request, f"{card_class.title} is removed.", extra_tags=f"undo:classes:restore:{pk}")
    return redirect("classes:list")


@require_POST
def restore_class(request: HttpRequest, pk: int) -> HttpResponse:
    """Undo the removal of a class."""
    card_class = get_object_or_404(CardClass.objects.removed_of(request.user), pk=pk)
    bring_class_back(card_class)
    messages.success(request, f"{card_class.title} is back.")
    return redirect("classes:list")


def count(request: HttpRequest, pk: int) -> HttpResponse:
    """The Count station: how many of each card, and the tally of every piece that follows."""
    card_class = get_object_or_404(CardClass.objects.of(request.user), pk=pk)
    data = request.POST or None
    people = ParticipantsForm(data, instance=card_class, prefix="class")
    forms = [
        CountForm(data, instance=card.entry, prefix=f"card{card.entry.pk}", versions=card.versions)
        for card in count_class(card_class).cards
    ]
    valid = data is not None and all([people.is_valid(), *(form.is_valid() for form in forms)])
    if valid:
        _store_counts(card_class, [people, *forms])
    # What is not valid is shown beside its field; the tally stays as it was last saved.
    card_class = CardClass.objects.get(pk=pk)
    context = {"counted": count_class(card_class), "card_class": card_class, "people": people, "forms": forms}
    context["stations"] = thread(card_class, "count")
    if request.htmx and data is not None:
        return render(request, "classes/_tally.html", context | {"answer": True})
    if valid:
        return redirect("classes:count", pk)
    return render(request, "classes/count.html", context)


@transaction.atomic
def _store_counts(card_class: CardClass, forms: list) -> None:
    for form in forms:
        form.instance.save(update_fields=list(form.fields))
    recount(card_class.pk)
