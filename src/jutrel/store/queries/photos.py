"""Queries: pictures, and which of them no look shows."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import ColumnElement, Exists, delete, exists, func, select
from sqlalchemy.dialects.postgresql import insert

from jutrel.store.base import Db
from jutrel.store.tables import EntryRow, PhotoRow, StreamRow


@dataclass(frozen=True, slots=True)
class Photo:
    """A kept picture."""

    id: str
    by: str
    of: str
    mime: str
    sha256: str
    data: bytes


async def keep_photo(db: Db, site: str, photo: Photo, at: datetime) -> None:
    """Keep a picture, once for each author."""
    await db.execute(
        insert(PhotoRow)
        .values(
            site_id=site,
            id=photo.id,
            by=photo.by,
            of=photo.of,
            mime=photo.mime,
            sha256=photo.sha256,
            data=photo.data,
            received_at=at,
        )
        .on_conflict_do_nothing()
    )


def _announced() -> Exists:
    """Whether the look that a picture was sent for shows it."""
    return exists().where(
        StreamRow.site_id == PhotoRow.site_id,
        StreamRow.id == PhotoRow.of,
        EntryRow.stream_no == StreamRow.no,
        EntryRow.what["photo"].astext == PhotoRow.id,
    )


async def photos_waiting(db: Db, site: str, by: str, since: datetime) -> int:
    """How many pictures a person sent since then that no look shows yet."""
    query = select(func.count()).where(
        PhotoRow.site_id == site, PhotoRow.received_at >= since, PhotoRow.by == by, _of_a_look(), ~_announced()
    )
    return int((await db.execute(query)).scalar_one())


async def drop_unannounced(db: Db, site: str, before: datetime) -> int:
    """Take away pictures that no look has shown until then; as the database's owner. How many they were."""
    gone = delete(PhotoRow).where(
        PhotoRow.site_id == site, PhotoRow.received_at < before, _of_a_look(), ~_announced()
    )  # fmt: skip
    return len((await db.execute(gone.returning(PhotoRow.id))).all())


def _of_a_look() -> ColumnElement[bool]:
    return PhotoRow.of.not_like("machine/%")


def _photo(row: PhotoRow) -> Photo:
    return Photo(row.id, row.by, row.of, row.mime, row.sha256, row.data)


async def photos_of(db: Db, site: str, of: str) -> list[Photo]:
    """All pictures of a look or a machine."""
    rows = (await db.execute(select(PhotoRow).where(PhotoRow.site_id == site, PhotoRow.of == of))).scalars()
    return [_photo(row) for row in rows]


async def photo_ids_of(db: Db, site: str, of: str) -> list[tuple[str, str]]:
    """All pictures of a look or a machine by their ids and who took them, in order."""
    query = select(PhotoRow.id, PhotoRow.by).where(PhotoRow.site_id == site, PhotoRow.of == of)
    return sorted((id_, by) for id_, by in (await db.execute(query)).all())


async def photos_by_id(db: Db, site: str, id_: str) -> list[Photo]:
    """Pictures kept under an id, one for each author who sent one."""
    query = select(PhotoRow).where(PhotoRow.site_id == site, PhotoRow.id == id_).order_by(PhotoRow.received_at)
    return [_photo(row) for row in (await db.execute(query)).scalars()]
