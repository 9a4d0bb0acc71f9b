"""A photograph as it is kept: upright, without metadata, and a small copy of it."""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass
from typing import TYPE_CHECKING

from assayer.core.errors import FileError, TooLargeError

if TYPE_CHECKING:
    from PIL.Image import Image

MOST_BYTES = 50_000_000
MOST_PIXELS = 60_000_000
THUMB = 480
"""Longest side of the small copy, pixels."""

_KINDS = ("JPEG", "PNG", "WEBP")
_ORIENTATION = 0x0112
_MEDIA = {"JPEG": "image/jpeg", "PNG": "image/png"}


@dataclass(frozen=True, slots=True)
class Picture:
    """Bytes to be kept, their media type, size in pixels, and a small JPEG."""

    data: bytes
    media: str
    width: int
    height: int
    thumb: bytes


def read_picture(data: bytes) -> Picture:
    """Take a photograph in.

    A JPEG that lies upright keeps its very pixels; what has to be turned is written anew.

    Raises
    ------
    TooLargeError
        If it has more bytes or pixels than are taken.
    FileError
        If it is no picture, or a broken one.
    """
    # takes a while to load, and most starts never need it
    from PIL import Image as Pictures
    from PIL import ImageOps, UnidentifiedImageError

    if len(data) > MOST_BYTES:
        raise TooLargeError(f"the picture has more than {MOST_BYTES / 1e6:.0f} MB: save it smaller")
    with warnings.catch_warnings():
        # a size that Pillow warns of is judged here
        warnings.simplefilter("ignore", Pictures.DecompressionBombWarning)
        try:
            found = Pictures.open(io.BytesIO(data), formats=_KINDS)
            if found.width * found.height > MOST_PIXELS:
                raise TooLargeError(f"the picture has {found.width * found.height / 1e6:.0f} million pixels: at most {MOST_PIXELS / 1e6:.0f} are taken")
            found.load()
            turned = ImageOps.exif_transpose(found)
        except UnidentifiedImageError:
            raise FileError("this is no picture that can be read: JPEG, PNG or WebP is meant") from None
        except (OSError, SyntaxError, ValueError, Pictures.DecompressionBombError) as error:
            if isinstance(error, FileError):
                raise
            raise FileError(f"the picture is broken ({error}): take or export it again") from None
    kept, media = _written(data, found, turned)
    small = turned.convert("RGB")
    small.thumbnail((THUMB, THUMB))
    return Picture(kept, media, turned.width, turned.height, _jpeg(small, 85))


def _written(data: bytes, found: Image, turned: Image) -> tuple[bytes, str]:
    """The bytes that are kept, and their media type."""
    if found.format == "JPEG" and found.getexif().get(_ORIENTATION, 1) == 1:
        return without_metadata(data), _MEDIA["JPEG"]
    if found.format == "PNG":
        out = io.BytesIO()
        turned.save(out, "PNG")
        return out.getvalue(), _MEDIA["PNG"]
    return _jpeg(turned.convert("RGB"), 94), _MEDIA["JPEG"]


_TOLD = {0xE0, 0xE2, 0xEE}
"""Segments of an application that a picture needs to be shown right: JFIF, colour profile, colour transform."""


def without_metadata(data: bytes) -> bytes:
    """A JPEG without what was written beside its pixels, which stay as they are; nothing after its end is kept.

    Raises
    ------
    FileError
        If its segments do not hold together.
    """
    kept, at = [data[:2]], 2
    while True:
        mark = data.find(b"\xff", at)
        if mark < 0 or mark + 1 >= len(data):
            raise FileError("the picture is broken (it has no end): take or export it again")
        kind = data[mark + 1]
        if kind == 0xFF:
            at = mark + 1
            continue
        if kind == 0x00 or 0xD0 <= kind <= 0xD7:
            # a byte of the picture itself
            kept.append(data[at : mark + 2])
            at = mark + 2
            continue
        kept.append(data[at:mark])
        if kind == 0xD9:
            return b"".join((*kept, b"\xff\xd9"))
        end = mark + 2 + int.from_bytes(data[mark + 2 : mark + 4], "big")
        if not (0xE0 <= kind <= 0xEF or kind == 0xFE) or kind in _TOLD:
            kept.append(data[mark:end])
        at = end


def _jpeg(picture: Image, quality: int) -> bytes:
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=quality)
    return out.getvalue()
