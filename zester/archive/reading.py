"""What an archive holds, read with suspicion: measured before it is parsed, damaged ones refused in words."""

from __future__ import annotations

import json
import re
import zipfile
import zlib
from collections.abc import Callable, Iterator
from contextlib import ExitStack
from functools import partial
from lzma import LZMAError
from typing import IO

from zester.archive.rows import FORMAT, Kind
from zester.core.errors import ZesterError

MOST_BYTES = 400_000_000
MOST_ROWS = 50_000
# What some two hundred and fifty classes hold; the worst text of this size takes 330 MB of memory.
MOST_TEXT, MOST_VALUES = 32_000_000, 1_500_000
LARGEST_PHOTO = 20_000_000
# Where a photo stands: by its own number, or, when a design had one at most, by its design's.
_PHOTO = re.compile(r"photos/(p?)([0-9]{1,9})\.jpg")
_HALF_LETTER = re.compile(r"\\u[dD][89a-fA-F]")
_DAMAGED = (
    zipfile.BadZipFile,
    zlib.error,
    LZMAError,
    EOFError,
    KeyError,
    ValueError,
    RecursionError,
    NotImplementedError,
    RuntimeError,
    OSError,
)
OTHER = ZesterError("This is no archive of Zester’s", mend="Take the ZIP file that “Save everything” makes")


def look_at(sent: IO[bytes]) -> None:
    """Whether it may be an archive, from its list of contents alone. Raises ZesterError."""
    with ExitStack() as opened:
        _list_of(opened, sent)
    sent.seek(0)


def _list_of(opened: ExitStack, sent: IO[bytes]) -> zipfile.ZipFile:
    try:
        archive = opened.enter_context(zipfile.ZipFile(sent))
        if sum(entry.file_size for entry in archive.infolist()) > MOST_BYTES:
            raise ZesterError("The archive holds more than Zester takes in", mend="Up to 400 MB unpacked")
        if archive.getinfo("zester.json").file_size > MOST_TEXT:
            raise ZesterError(
                "The archive holds more than Zester takes in", mend=f"Up to {MOST_TEXT // 10**6} MB of text"
            )
    except ZesterError:
        raise
    except _DAMAGED as error:
        raise OTHER from error
    return archive


def opened_in(opened: ExitStack, sent: IO[bytes]) -> tuple[dict, Iterator[tuple[str, int, Callable[[], bytes]]]]:
    """What it holds, and its photos, each read when it is asked for."""
    archive = _list_of(opened, sent)
    try:
        content = _parsed(archive.getinfo("zester.json"), archive)
    except ZesterError:
        raise
    except _DAMAGED as error:
        raise OTHER from error
    if not isinstance(content, dict) or content.get("format") != FORMAT:
        raise OTHER
    return content, _photos(archive)


def _parsed(entry: zipfile.ZipInfo, archive: zipfile.ZipFile) -> object:
    """The JSON, measured before it is parsed: small text can stand for far more memory than its size."""
    text = archive.read(entry).decode("utf-8")
    if _values(text) > MOST_VALUES:
        raise ZesterError("The archive holds more than Zester takes in", mend=f"Up to {MOST_VALUES:,} values")
    content = json.loads(text)
    # Half a letter, which JSON can name, is none that can be stored or shown.
    if _HALF_LETTER.search(text):
        json.dumps(content, ensure_ascii=False).encode()
    return content


def _values(text: str) -> int:
    return sum(text.count(sign) for sign in (",", "[", "{"))


def can_be_read(text: str) -> bool:
    """Whether the JSON of an archive is no more than is taken in."""
    return len(text.encode()) <= MOST_TEXT and _values(text) <= MOST_VALUES


def _photos(archive: zipfile.ZipFile) -> Iterator[tuple[str, int, Callable[[], bytes]]]:
    for entry in archive.infolist():
        named = _PHOTO.fullmatch(entry.filename)
        if named:
            yield "photos" if named[1] else "designs", int(named[2]), partial(_photo, archive, entry)


def _photo(archive: zipfile.ZipFile, entry: zipfile.ZipInfo) -> bytes:
    """Nothing where it is damaged or too large."""
    try:
        return archive.read(entry) if entry.file_size <= LARGEST_PHOTO else b""
    except _DAMAGED:
        return b""


def rows_in(content: dict, kind: Kind) -> list[dict]:
    rows = content.get(kind.name, [])
    if not isinstance(rows, list) or len(rows) > MOST_ROWS or not all(isinstance(row, dict) for row in rows):
        raise broken(kind)
    if len({row.get("id") for row in rows if isinstance(row.get("id"), int)}) != len(rows):
        raise broken(kind)
    return rows


def broken(kind: Kind, why: str = "") -> ZesterError:
    about = f": {why}" if why else ""
    return ZesterError(f"The archive does not hold together ({kind.name.replace('_', ' ')}{about})", mend=OTHER.mend)
