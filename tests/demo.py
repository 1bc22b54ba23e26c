"""The demo's data for tests: fitted once a run, then brought back as it was."""

from __future__ import annotations

from django.apps import apps
from django.core import serializers
from django.core.management import call_command
from django.db import transaction

# What belongs to Django's own tables, or to whoever is signed in, is not the demo's.
LEFT_OUT = ("contenttypes", "sessions", "admin", "axes", "django_tasks_database", "auth.permission", "accounts.session")
_kept: list[str] = []


def load_demo() -> None:
    """The demo, as ``manage.py load_demo`` makes it, into an empty database."""
    if not _kept:
        call_command("load_demo", verbosity=0)
        _kept.append(serializers.serialize("json", _things()))
        return
    with transaction.atomic():
        for thing in serializers.deserialize("json", _kept[0]):
            thing.save()


def _things():
    models = [model for model in apps.get_models() if not _is_left_out(model)]
    for model in serializers.sort_dependencies([(None, models)]):
        yield from model._base_manager.order_by("pk")


def _is_left_out(model) -> bool:
    return model._meta.app_label in LEFT_OUT or model._meta.label_lower in LEFT_OUT
