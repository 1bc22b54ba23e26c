"""Photos that people send: read by a library, turned upright, made smaller, and without what they tell of."""

from __future__ import annotations

import base64
import io
import struct
from functools import lru_cache

from django import forms
from django.core.files.uploadedfile import UploadedFile
from PIL import Image, ImageOps

from zester.site.turns import one_at_a_time

LARGEST_PHOTO = 8_000_000
# A JPEG is read at a reduced size as it is unpacked; other kinds have to be unpacked whole.
MOST_PIXELS = {"JPEG": 50_000_000}
MOST_PIXELS_ELSE = 24_000_000
SWATCH_SIDE = 96


def small_photo(sent: UploadedFile, side: int) -> bytes:
    """The photo as a plain JPEG of at most so many pixels a side. Raises ValidationError for what is none."""
    return _read(sent, lambda picture: _small(picture, side))


def swatch_of(sent: UploadedFile) -> tuple[str, str]:
    """The middle of a photo as a small picture in a data URL, and its mean colour."""
    data = _read(sent, lambda picture: _small(picture, 8 * SWATCH_SIDE, square=SWATCH_SIDE))
    with Image.open(io.BytesIO(data)) as picture:
        mean = picture.convert("RGB").resize((1, 1), Image.Resampling.BOX).getpixel((0, 0))
    return f"data:image/jpeg;base64,{base64.b64encode(data).decode()}", "#" + "".join(f"{part:02x}" for part in mean)


@lru_cache(maxsize=64)
def shown_photo(path: str, side: int, *, grey: bool = False) -> str:
    """A photo that is kept as a data URL, at most so many pixels a side; empty if it is not there or cannot be read.

    Kept files never change: a new photo has a new name.
    """
    out = io.BytesIO()
    try:
        with Image.open(path) as picture:
            picture.draft("RGB", (side, side))
            picture.thumbnail((side, side))
            picture.convert("L" if grey else "RGB").save(out, "JPEG", quality=80)
    except (OSError, ValueError, SyntaxError, struct.error, Image.DecompressionBombError):
        return ""
    return f"data:image/jpeg;base64,{base64.b64encode(out.getvalue()).decode()}"


def _read(sent: UploadedFile, make) -> bytes:
    if sent.size > LARGEST_PHOTO:
        raise forms.ValidationError("Photos may have up to 8 MB. Make it smaller and send it again.")
    width, height = sent.image.size
    if width * height > MOST_PIXELS.get(sent.image.format, MOST_PIXELS_ELSE):
        raise forms.ValidationError("The photo has too many pixels. Make it smaller and send it again.")
    sent.seek(0)
    try:
        with one_at_a_time("photos"):
            return make(sent)
    except (OSError, ValueError, SyntaxError, EOFError, struct.error, Image.DecompressionBombError) as error:
        raise forms.ValidationError("The photo cannot be read. Save it as JPEG or PNG.") from error


def _small(sent: UploadedFile, side: int, square: int = 0) -> bytes:
    """Made small first, then turned: a large picture is never there twice."""
    out = io.BytesIO()
    with Image.open(sent) as whole:
        whole.draft("RGB", (side, side))
        picture = whole if whole.mode in ("RGB", "L", "CMYK") else whole.convert("RGB")
        picture.thumbnail((side, side))
        upright = ImageOps.exif_transpose(picture).convert("RGB")
        if square:
            upright = ImageOps.fit(upright, (square, square))
        upright.save(out, "JPEG", quality=85)
    return out.getvalue()


@lru_cache(maxsize=256)
def colours_of(swatch: str) -> tuple[str, ...]:
    """The main colours of a swatch (a data URL), that of most of it first: median cut (Heckbert 1982), by Pillow."""
    with Image.open(io.BytesIO(base64.b64decode(swatch.partition(",")[2]))) as picture:
        few = picture.convert("RGB").quantize(colors=3, method=Image.Quantize.MEDIANCUT)
    palette, counts = few.getpalette() or [], sorted(few.getcolors() or [], reverse=True)
    return tuple("#" + "".join(f"{part:02x}" for part in palette[3 * at : 3 * at + 3]) for _, at in counts)
