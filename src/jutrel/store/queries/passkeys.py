"""Queries: passkeys of people, and challenges under way."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import delete, func, select, update
from sqlalchemy.dialects.postgresql import insert

from jutrel.store.base import Db
from jutrel.store.tables.passkey import PasskeyAskedRow, PasskeyRow


@dataclass(frozen=True, slots=True)
class Passkey:
    """A key that a person carries; `id`: as it names itself (base64url)."""

    id: str
    person: str
    name: str
    public: bytes
    count: int
    made_at: datetime
    used_at: datetime | None = None


def _key(row: PasskeyRow) -> Passkey:
    return Passkey(row.id, row.person_id, row.name, bytes(row.public), row.count, row.made_at, row.used_at)


async def ask(db: Db, site: str, challenge: str, person: str, until: datetime, now: datetime, most: int) -> bool:
    """Keep a challenge; False where too many are under way for this person, or for whoever signs in."""
    await db.execute(delete(PasskeyAskedRow).where(PasskeyAskedRow.site_id == site, PasskeyAskedRow.until < now))
    mine = (PasskeyAskedRow.site_id == site, PasskeyAskedRow.person_id == person)
    if (await db.scalar(select(func.count()).where(*mine))) >= most:  # type: ignore[operator]
        return False
    await db.execute(
        insert(PasskeyAskedRow).values(site_id=site, challenge=challenge, person_id=person, until=until)
    )  # fmt: skip
    return True


async def take_asked(db: Db, site: str, challenge: str, person: str, now: datetime) -> bool:
    """Use a challenge up; False if there is none, or it is over, or another's."""
    mine = (PasskeyAskedRow.site_id == site, PasskeyAskedRow.challenge == challenge)
    found = await db.execute(
        delete(PasskeyAskedRow)
        .where(*mine, PasskeyAskedRow.person_id == person, PasskeyAskedRow.until >= now)
        .returning(PasskeyAskedRow.challenge)
    )
    return found.first() is not None


async def keys_of(db: Db, site: str, person: str) -> list[Passkey]:
    """The keys of a person, the oldest first."""
    query = select(PasskeyRow).where(PasskeyRow.site_id == site, PasskeyRow.person_id == person)
    return [_key(row) for row in (await db.execute(query.order_by(PasskeyRow.made_at))).scalars()]


async def key(db: Db, site: str, id_: str) -> Passkey | None:
    """A key by its id, held until the transaction ends; None if there is none."""
    query = select(PasskeyRow).where(PasskeyRow.site_id == site, PasskeyRow.id == id_).with_for_update()
    row = (await db.execute(query)).scalar_one_or_none()
    return None if row is None else _key(row)


async def keep(db: Db, site: str, it: Passkey) -> None:
    """Keep a new key."""
    db.add(
        PasskeyRow(
            site_id=site, id=it.id, person_id=it.person, name=it.name, public=it.public, count=it.count,
            made_at=it.made_at,
        )
    )  # fmt: skip
    await db.flush()


async def used(db: Db, site: str, id_: str, count: int, at: datetime) -> None:
    """Note that a key was used."""
    mine = (PasskeyRow.site_id == site, PasskeyRow.id == id_)
    await db.execute(update(PasskeyRow).where(*mine).values(count=count, used_at=at))


async def let_go(db: Db, site: str, person: str, id_: str | None = None) -> bool:
    """Take a key of a person away, or all of them; whether there was one."""
    query = delete(PasskeyRow).where(PasskeyRow.site_id == site, PasskeyRow.person_id == person)
    if id_ is not None:
        query = query.where(PasskeyRow.id == id_)
    return (await db.execute(query.returning(PasskeyRow.id))).first() is not None
