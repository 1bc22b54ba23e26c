"""The demo's data for tests: fitted once a run, then brought back as it was."""

from __future__ import annotations

from unittest import mock

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
        # What is proven in a second is proven on a busy machine, too.
        with mock.patch("zester.fits.work.PAPER_SECONDS", 90.0):
            call_command("load_demo", verbosity=0)
        _kept.append(serializers.serialize("json", _things()))
        return
    with transaction.atomic():
        # What the test has made already is in what was kept, too, under other keys.
        for model in reversed(_models()):
            model._base_manager.all().delete()
        for thing in serializers.deserialize("json", _kept[0]):
            thing.save()


def _models() -> list:
    models = [model for model in apps.get_models() if not _is_left_out(model)]
    return serializers.sort_dependencies([(None, models)])


def _things():
    for model in _models():
        yield from model._base_manager.order_by("pk")


def _is_left_out(model) -> bool:
    return model._meta.app_label in LEFT_OUT or model._meta.label_lower in LEFT_OUT
