"""Photos: made small, stripped of where they were taken, kept once."""

from __future__ import annotations

import hashlib
import io
from datetime import timedelta

from PIL import Image, ImageOps, UnidentifiedImageError

from jutrel.core.wording import say
from jutrel.service.context import Here
from jutrel.service.people.pens import Shown, pens_shown
from jutrel.service.people.people import Actor
from jutrel.service.problem import NotFound, Problem, TooSoon
from jutrel.store.queries import log as log_store
from jutrel.store.queries import photos as store
from jutrel.store.queries.photos import Photo

LONGEST_SIDE = 1600
MOST_BYTES = 15_000_000
MOST_PIXELS = 24_000_000
"""A tablet's camera makes a dozen million; decoding more holds a thread for seconds."""
FORMATS = ("JPEG", "PNG", "WEBP")
UNSHOWN, MOST_UNSHOWN = timedelta(days=7), 60
"""So long a picture waits for the entry that shows it, and so many of one person at most; then it is taken away."""
TOO_MANY = say("So many of your photos belong to nothing that has been sent yet. Send what shows them first.")


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
        with Image.open(io.BytesIO(data), formats=FORMATS) as picture:
            if picture.width * picture.height > MOST_PIXELS:
                raise Problem("photo-too-large", "The photo has more than 24 million points: make it smaller.", "photo")
            picture.draft("RGB", (LONGEST_SIDE, LONGEST_SIDE))
            upright = ImageOps.exif_transpose(picture).convert("RGB")
    except (UnidentifiedImageError, OSError, Image.DecompressionBombError, ValueError, SyntaxError):
        raise Problem("not-a-photo", "This is not a picture that can be read.", field="photo") from None
    upright.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    upright.info.clear()  # a comment would be written out again
    out = io.BytesIO()
    upright.save(out, "JPEG", quality=82)
    return out.getvalue()


async def store_photo(here: Here, by: str, photo: str, of: str, data: bytes) -> None:
    """Store a photo of a look or a machine (`of`), made small, once for each author; the caller has asked who may."""
    kept = Photo(photo, by, of, "image/jpeg", hashlib.sha256(data).hexdigest(), data)
    await store.keep_photo(here.db, here.site.id, kept, here.now)


async def keep_photo(here: Here, actor: Actor, photo: str, inspection: str, data: bytes, secret: str | None) -> None:
    """Keep a photo of a look under the id its device gave it; sending it again changes nothing.

    It belongs to the person who took it: the signed-in one, or the one whose pen's secret is shown. Another
    person's picture under the same id stands beside it and is never shown in its place.
    """
    by = actor.person.id
    if secret is not None:
        shown = await pens_shown(here, actor.pen, Shown((secret,)))
        by = shown[-1].person
    if await store.photos_waiting(here.db, here.site.id, by, here.now - UNSHOWN) >= MOST_UNSHOWN:
        raise TooSoon("photos-waiting", TOO_MANY, wait_s=60)
    await store_photo(here, by, photo, inspection, data)


async def photo_bytes(here: Here, photo: str) -> Photo:
    """A kept photo: the one whose author announced it in the log; NotFound if it has not arrived."""
    kept = await store.photos_by_id(here.db, here.site.id, photo)
    authors = await log_store.announced_by(here.db, here.site.id, photo)
    for one in kept:
        if one.by in authors:
            return one
    raise NotFound("no-photo", "This photo has not arrived.")


async def tidy_photos(here: Here) -> int:
    """Take away pictures that nothing has shown for a week; as the database's owner. How many they were."""
    return await store.drop_unannounced(here.db, here.site.id, here.now - UNSHOWN)
