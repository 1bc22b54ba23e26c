"""Backups while Zester runs: everything in one file, and back from it.

A backup is a ZIP file of three things: ``about.json``, the database as its own tool writes it at one moment (SQLite's
backup interface; ``pg_dump``), and the photos. Photos are read before the database and the new ones once more after
it, so that none is missing that the database names.
"""

from __future__ import annotations

import datetime
import json
import os
import shutil
import sqlite3
import subprocess
import tempfile
import zipfile
from pathlib import Path

from django.apps import apps
from django.conf import settings
from django.core.management import call_command
from django.db import connection
from django.utils import timezone

FORMAT = "zester-backup/1"
PHOTOS = "photos"


class BackupError(Exception):
    """Why it cannot be done, and what to do."""


def write_backup(path: Path) -> dict:
    """Write everything into a file; what it holds, as ``about.json`` says it."""
    about = {"zester": FORMAT, "made_at": timezone.now().isoformat(timespec="seconds"), "database": connection.vendor}
    part = path.with_name(f"{path.name}.part")
    try:
        with tempfile.TemporaryDirectory() as folder, zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED) as packed:
            names = _pack_photos(packed, set())
            database = Path(folder, "database")
            _dump(database)
            packed.write(database, "database")
            about["photos"] = len(names | _pack_photos(packed, names))
            about["rows"] = counts()
            packed.writestr("about.json", json.dumps(about, indent=1))
        # Only a whole file gets the name.
        os.replace(part, path)
    except OSError as error:
        part.unlink(missing_ok=True)
        raise BackupError(f"{path} cannot be written: {error.strerror}.") from error
    return about


def read_backup(path: Path, *, replace: bool = False) -> dict:
    """Put a backup in place of what is here; what it holds. Raises BackupError before anything is changed."""
    try:
        with zipfile.ZipFile(path) as packed, tempfile.TemporaryDirectory() as folder:
            about = json.loads(packed.read("about.json"))
            if about.get("zester") != FORMAT:
                raise BackupError(f"{path} is no {FORMAT}.")
            if about["database"] != connection.vendor:
                raise BackupError(f"{path} is of a {about['database']} database; this is {connection.vendor}.")
            if not replace and _in_use():
                raise BackupError("There are accounts here already. Back them up, then say --replace.")
            broken = packed.testzip()
            if broken:
                raise BackupError(f"{path} is damaged: {broken}.")
            database = Path(packed.extract("database", folder))
            _load(database)
            _unpack_photos(packed)
    except (OSError, zipfile.BadZipFile, KeyError, ValueError) as error:
        raise BackupError(f"{path} is no backup of Zester, or cannot be read: {error}") from error
    call_command("migrate", verbosity=0)
    return about


def counts() -> dict[str, int]:
    """How many rows of each kind there are, but for sessions and what workers note of themselves."""
    passing = ("session", "worker", "dbtaskresult")
    models = (model for model in apps.get_models() if model._meta.model_name not in passing and not model._meta.proxy)
    return {model._meta.label: model.objects.count() for model in models if hasattr(model, "objects")}


def _in_use() -> bool:
    tables = connection.introspection.table_names()
    return "auth_user" in tables and apps.get_model("auth", "User").objects.exists()


def _dump(target: Path) -> None:
    if connection.vendor == "sqlite":
        connection.ensure_connection()
        with sqlite3.connect(target) as copy:
            connection.connection.backup(copy)
        copy.close()
    else:
        _run("pg_dump", "--format=custom", "--no-owner", f"--file={target}")


def _load(source: Path) -> None:
    if connection.vendor == "sqlite":
        with sqlite3.connect(source) as copy:
            if copy.execute("PRAGMA integrity_check").fetchone() != ("ok",):
                raise BackupError("The database in the backup is damaged.")
            connection.ensure_connection()
            copy.backup(connection.connection)
        copy.close()
        connection.close()
    else:
        connection.close()
        _run("pg_restore", "--clean", "--if-exists", "--no-owner", "--single-transaction", "--dbname=", str(source))


def _run(tool: str, *arguments: str) -> None:
    """One of PostgreSQL's own tools, told by its variables where the database is."""
    found = settings.DATABASES["default"]
    options = found.get("OPTIONS", {})
    variables = {
        "PGDATABASE": str(connection.settings_dict["NAME"]),
        "PGUSER": found.get("USER", ""),
        "PGPASSWORD": found.get("PASSWORD", ""),
        "PGHOST": found.get("HOST") or options.get("host", ""),
        "PGPORT": str(found.get("PORT", "")),
    }
    variables = os.environ | {name: value for name, value in variables.items() if value}
    arguments = [each.replace("--dbname=", f"--dbname={variables['PGDATABASE']}") for each in arguments]
    program = shutil.which(tool)
    if program is None:
        raise BackupError(f"{tool} is not there: install PostgreSQL’s client, sudo apt-get install postgresql-client")
    done = subprocess.run([program, *arguments], env=variables, capture_output=True, text=True, check=False)  # noqa: S603
    if done.returncode:
        raise BackupError(f"{tool}: {done.stderr.strip().splitlines()[-1] if done.stderr else done.returncode}")


def _pack_photos(packed: zipfile.ZipFile, already: set[str]) -> set[str]:
    folder = Path(settings.MEDIA_ROOT, PHOTOS)
    names = {path.name for path in folder.glob("*.jpg")} - already if folder.exists() else set()
    for name in sorted(names):
        try:
            packed.write(folder / name, f"{PHOTOS}/{name}", zipfile.ZIP_STORED)
        except FileNotFoundError:
            # Replaced by another just now, which is found the second time.
            continue
    return names


def _unpack_photos(packed: zipfile.ZipFile) -> None:
    folder = Path(settings.MEDIA_ROOT, PHOTOS)
    folder.mkdir(parents=True, exist_ok=True)
    for part in packed.namelist():
        if part.startswith(f"{PHOTOS}/"):
            # By its plain name only: whatever else stands in the file cannot lead out of the folder.
            (folder / Path(part).name).write_bytes(packed.read(part))


def usual_name() -> str:
    """``zester-2026-05-04-1830.zip``."""
    return f"zester-{datetime.datetime.now(tz=timezone.get_current_timezone()):%Y-%m-%d-%H%M}.zip"
