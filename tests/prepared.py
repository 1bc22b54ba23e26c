"""The demo, fitted once for all processes of a run and all runs of the same code on the same day.

``var/tests/KEY/data`` is a folder as Zester's data lie in, ``demo.json`` the same rows for a database that exists.
Run as a program it makes one: ``python -m tests.prepared FOLDER``.
"""

from __future__ import annotations

import fcntl
import hashlib
import os
import shutil
import subprocess
import sys
import tempfile
from datetime import UTC, datetime
from functools import cache
from pathlib import Path
from unittest import mock

ROOT = Path(__file__).parents[1]
PLACE = ROOT / "var" / "tests"
# The served demo has a database of its own, whatever the tests run on.
LEFT_OUT = ("ZESTER_DEBUG", "DATABASE_URL")
# What belongs to Django's own tables, or to whoever is signed in, is not the demo's.
NOT_THINGS = (
    "contenttypes",
    "sessions",
    "admin",
    "axes",
    "django_tasks_database",
    "auth.permission",
    "accounts.session",
)
LONGEST = 280


@cache
def prepared() -> Path:
    """The folder with ``data`` and ``demo.json``; nothing runs on it and nobody changes it."""
    PLACE.mkdir(parents=True, exist_ok=True)
    folder = PLACE / _key()
    with (PLACE / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not folder.exists():
            for older in PLACE.iterdir():
                if older.is_dir():
                    shutil.rmtree(older)
            with tempfile.TemporaryDirectory(dir=PLACE) as unfinished:
                command = [sys.executable, "-m", "tests.prepared", unfinished]
                subprocess.run(command, env=in_folder(Path(unfinished, "data")), check=True, timeout=LONGEST)
                shutil.copytree(unfinished, folder)
    return folder


def in_folder(folder: Path) -> dict[str, str]:
    """What Zester finds around it when its data lie in this folder."""
    variables = {"ZESTER_DEMO": "1", "ZESTER_DATA": str(folder), "PYTHONPATH": str(ROOT)}
    # What nobody waits for would take half of the machine while the journeys run; its own tests ask for it.
    variables |= {"DJANGO_SETTINGS_MODULE": "zester.site.settings", "ZESTER_IDLE_WORK": "0"}
    return {key: value for key, value in os.environ.items() if key not in LEFT_OUT} | variables


def _key() -> str:
    """All code of the application, and the day: the demo's classes lie some days ahead."""
    code = hashlib.sha256(f"{datetime.now(UTC).date()} {Path(__file__).read_text()}".encode())
    for path in sorted((ROOT / "zester").rglob("*.py")):
        if "tests" not in path.parts:
            code.update(str(path.relative_to(ROOT)).encode() + path.read_bytes())
    return code.hexdigest()[:16]


def things() -> list[type]:
    """The models whose rows are the demo's, in an order in which they can be saved."""
    from django.apps import apps
    from django.core import serializers

    models = [
        model
        for model in apps.get_models()
        if model._meta.app_label not in NOT_THINGS and model._meta.label_lower not in NOT_THINGS
    ]
    return serializers.sort_dependencies([(None, models)])


def main(folder: str) -> None:
    """Migrate, load and fit the demo, write its rows down."""
    Path(folder, "data", "static").mkdir(parents=True)
    import django
    from django.core import serializers
    from django.core.management import call_command

    django.setup()
    call_command("migrate", verbosity=0)
    # What is proven in a second is proven on a busy machine, too.
    with mock.patch("zester.plans.work.PAPER_SECONDS", 90.0), open(os.devnull, "w") as nowhere:
        call_command("load_demo", stdout=nowhere)
    rows = (row for model in things() for row in model._base_manager.order_by("pk"))
    Path(folder, "demo.json").write_text(serializers.serialize("json", rows))


if __name__ == "__main__":
    main(sys.argv[1])
