"""Pictures beside an entry of the log: looked at before they are read, and written anew, so that nothing else is kept with them."""

from __future__ import annotations

import base64
import binascii
import io
import warnings

from PIL import Image, ImageOps, UnidentifiedImageError

from yardmeter.core.errors import EditError
from yardmeter.server.builds.errors import NotFoundError
from yardmeter.server.builds.models import LogPicture
from yardmeter.server.builds.services.log import get_entry
from yardmeter.server.builds.services.lookup import get_plan

FORMATS = ("PNG", "JPEG")
MOST_PIXELS = 40_000_000
LONGEST = 2000
"""Pixels of the longer side that are kept."""
QUALITY = 85
MOST_OF_AN_ENTRY = 12


def add_picture(plan_id: int, entry_id: int, encoded: str) -> LogPicture:
    """Raises EditError for what is no picture, or too large a one."""
    entry = get_entry(plan_id, entry_id)
    if entry.pictures.count() >= MOST_OF_AN_ENTRY:
        raise EditError(f"An entry has {MOST_OF_AN_ENTRY} pictures at most.", where="picture", remedy="Write another entry.")  # fmt: skip
    jpeg, width, height = anew(encoded)
    return LogPicture.objects.create(entry=entry, width=width, height=height, jpeg=jpeg)


def anew(encoded: str) -> tuple[bytes, int, int]:
    """A picture decoded, turned as its camera said, made no larger than is shown, and written as JPEG without anything else in it."""
    try:
        raw = base64.b64decode(encoded, validate=True)
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            seen = Image.open(io.BytesIO(raw), formats=FORMATS)
            if seen.width * seen.height > MOST_PIXELS:  # told by its head, before anything is unpacked
                raise EditError(f"The picture is {seen.width} × {seen.height}; {MOST_PIXELS // 1_000_000} million pixels are the most.", where="picture", remedy="Make it smaller.")  # fmt: skip
            turned = ImageOps.exif_transpose(seen).convert("RGB")
    except (
        binascii.Error,
        UnidentifiedImageError,
        OSError,
        SyntaxError,
        ValueError,
        Image.DecompressionBombError,
        Warning,
    ):
        raise EditError("This is no PNG or JPEG picture.", where="picture", remedy="Choose a photograph in one of these.") from None  # fmt: skip
    turned.thumbnail((LONGEST, LONGEST))
    out = io.BytesIO()
    turned.save(out, "JPEG", quality=QUALITY)
    return out.getvalue(), turned.width, turned.height


def picture(plan_id: int, picture_id: int) -> bytes:
    plan = get_plan(plan_id)
    found = LogPicture.objects.filter(pk=picture_id, entry__plan__build=plan.build_id).first()
    if found is None:
        raise NotFoundError(
            "This picture is not in the log.", where=f"picture {picture_id}", remedy="Look at its entry."
        )
    return bytes(found.jpeg)
