"""Photos: made small, stripped of where they were taken, kept once."""

from __future__ import annotations

import hashlib
import io
from datetime import datetime

from PIL import Image, ImageOps, UnidentifiedImageError
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncSession

from jutrel.service.people import WALKERS, Actor, allow
from jutrel.service.problem import NotFound, Problem
from jutrel.store.tables import PhotoRow

LONGEST_SIDE = 1600
MOST_BYTES = 15_000_000
Image.MAX_IMAGE_PIXELS = 60_000_000


def made_small(data: bytes) -> bytes:
    """A JPEG no longer than 1600 px a side, upright, without the camera's metadata.

    Raises
    ------
    Problem
        If it is no picture, or too large.
    """
    if len(data) > MOST_BYTES:
        raise Problem("photo-too-large", "The photo is larger than 15 MB.", field="photo")
    try:
        with Image.open(io.BytesIO(data)) as picture:
            upright = ImageOps.exif_transpose(picture).convert("RGB")
    except (UnidentifiedImageError, OSError, Image.DecompressionBombError, ValueError):
        raise Problem("not-a-photo", "This is not a picture that can be read.", field="photo") from None
    upright.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    out = io.BytesIO()
    upright.save(out, "JPEG", quality=82)
    return out.getvalue()


async def store_photo(db: AsyncSession, actor: Actor, photo: str, of: str, data: bytes, now: datetime) -> None:
    """Store a photo of an inspection or a machine (`of`), once, whoever may; the caller has asked that."""
    small = made_small(data)
    await db.execute(
        insert(PhotoRow)
        .values(
            site_id=actor.site,
            id=photo,
            inspection_id=of,
            mime="image/jpeg",
            sha256=hashlib.sha256(small).hexdigest(),
            data=small,
            by=actor.person.id,
            received_at=now,
        )
        .on_conflict_do_nothing()
    )


async def keep_photo(db: AsyncSession, actor: Actor, photo: str, inspection: str, data: bytes, now: datetime) -> None:
    """Keep a photo of a walk under the id its device gave it; sending it again changes nothing."""
    allow(actor, *WALKERS)
    await store_photo(db, actor, photo, inspection, data, now)


async def photo_bytes(db: AsyncSession, site: str, photo: str) -> PhotoRow:
    """A kept photo; NotFound if it has not arrived."""
    row = await db.get(PhotoRow, (site, photo))
    if row is None:
        raise NotFound("no-photo", "This photo has not arrived.")
    return row
