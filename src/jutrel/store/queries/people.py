"""People, their pens and sessions."""

from __future__ import annotations

from collections.abc import Collection
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

import psycopg
from psycopg import AsyncConnection
from sqlalchemy import bindparam, delete, func, select, update
from sqlalchemy.dialects.postgresql import insert

from jutrel.core.machine.unit import SiteInfo, UnitSystem
from jutrel.core.people import Role
from jutrel.store.base import Db, driver_of
from jutrel.store.queries.machines import numbers_of, shifts_of
from jutrel.store.statements import Hot
from jutrel.store.tables import OwnTabletRow, PenRow, PersonRow, PinGivenRow, SessionRow, SiteKeyRow, SiteRow


@dataclass(frozen=True, slots=True)
class Person:
    """A person of a site, without the PIN. `language`: the one they chose; empty: none.

    `erased`: their name was erased, and they are called by a number.
    """

    id: str
    name: str
    role: Role
    active: bool = True
    language: str = ""
    erased: bool = False


@dataclass(frozen=True, slots=True)
class Pin:
    """What trying a PIN needs to know."""

    person: Person
    pin_hash: str
    wrong: int
    wait_until: datetime | None
    once: bool = False
    """Whether it is only good for choosing one's own."""
    own_tablet: bool = False
    """Whether it is tried on a tablet of theirs: `wrong` and `wait_until` are of that tablet then."""


@dataclass(frozen=True, slots=True)
class Pen:
    """By what right entries of a person on a device are taken: role, and the time it covers.

    `key`: the public half of its key pair; empty: it has none.
    """

    id: str
    person: str
    role: Role
    device: str
    given_at: datetime
    ends_at: datetime
    key: str = ""


def _person(row: PersonRow) -> Person:
    return Person(row.id, row.name, Role(row.role), row.active, row.language, row.erased_as is not None)


def _pen(row: PenRow) -> Pen:
    return Pen(row.id, row.person_id, Role(row.role), row.device, row.given_at, row.ends_at, row.key)


async def hold_site(db: Db, site: str) -> None:
    """Hold the site until the transaction ends: one change of its people after another."""
    await db.execute(select(SiteRow.id).where(SiteRow.id == site).with_for_update())


async def people(db: Db, site: str, with_inactive: bool = False) -> list[Person]:
    """The people of a site by name."""
    query = select(PersonRow).where(PersonRow.site_id == site).order_by(PersonRow.name)
    if not with_inactive:
        query = query.where(PersonRow.active)
    # As they are now: who waited for the site to be free does not go by what they read before.
    now = await db.execute(query.execution_options(populate_existing=True))
    return [_person(row) for row in now.scalars()]


async def person(db: Db, site: str, id_: str) -> Person | None:
    """One person as they are now, or None."""
    row = await db.get(PersonRow, (site, id_), populate_existing=True)
    return None if row is None else _person(row)


async def pin_of(db: Db, site: str, id_: str, tablet: str = "") -> Pin | None:
    """A person's PIN hash and tries, locked until the transaction ends; on a tablet of theirs the tries made there."""
    query = select(PersonRow).where(PersonRow.site_id == site, PersonRow.id == id_).with_for_update()
    row = (await db.execute(query.execution_options(populate_existing=True))).scalar_one_or_none()
    if row is None:
        return None
    own = await db.get(OwnTabletRow, (site, id_, tablet), populate_existing=True) if tablet else None
    tries = row if own is None else own
    return Pin(_person(row), row.pin_hash, tries.wrong_pins, tries.wait_until, row.pin_once, own is not None)


async def know_tablet(db: Db, site: str, id_: str, tablet: str, at: datetime) -> None:
    """Note that a person signed in on a tablet; those not used for two months are forgotten."""
    mine = (OwnTabletRow.site_id == site, OwnTabletRow.person_id == id_)
    await db.execute(delete(OwnTabletRow).where(*mine, OwnTabletRow.last_at < at - timedelta(days=60)))
    await db.execute(
        insert(OwnTabletRow)
        .values(site_id=site, person_id=id_, tablet=tablet, wrong_pins=0, last_at=at)
        .on_conflict_do_update(index_elements=["site_id", "person_id", "tablet"], set_={"last_at": at})
    )


async def note_try(
    db: Db, site: str, id_: str, wrong: int, wait_until: datetime | None, tablet: str = ""
) -> None:  # fmt: skip
    """Note how many wrong PINs stand in a row, and until when the next must wait: on that tablet, or anywhere else."""
    if tablet:
        mine = (OwnTabletRow.site_id == site, OwnTabletRow.person_id == id_, OwnTabletRow.tablet == tablet)
        await db.execute(update(OwnTabletRow).where(*mine).values(wrong_pins=wrong, wait_until=wait_until))
        return
    await db.execute(
        update(PersonRow)
        .where(PersonRow.site_id == site, PersonRow.id == id_)
        .values(wrong_pins=wrong, wait_until=wait_until)
    )


async def choose_language(db: Db, site: str, id_: str, language: str) -> None:
    """Note the language that a person chose."""
    await db.execute(update(PersonRow).where(PersonRow.site_id == site, PersonRow.id == id_).values(language=language))


async def add_person(
    db: Db,
    site: str,
    who: Person,
    pin_hash: str,
    at: datetime | None = None,
    by: str | None = None,
    once: bool = False,
) -> None:
    """Write a person down; `at`, `by`: when the PIN was set, and by whom; `once`: it is for choosing one's own."""
    db.add(
        PersonRow(
            site_id=site,
            id=who.id,
            name=who.name,
            role=who.role.value,
            pin_hash=pin_hash,
            active=who.active,
            left_at=None if who.active else at,
            wrong_pins=0,
            pin_set_at=at,
            pin_set_by=by,
            pin_once=once,
        )
    )
    await db.flush()


async def change_person(
    db: Db, site: str, who: Person, pin_hash: str | None, at: datetime, by: str, once: bool = False
) -> None:
    """Write a person's role, whether they are here, and perhaps another PIN, set by somebody at a time."""
    values: dict[str, object] = {"role": who.role.value, "active": who.active}
    if who.active:
        values["left_at"] = None
    else:
        values["left_at"] = func.coalesce(PersonRow.left_at, at)
    if pin_hash is not None:
        values |= {"pin_hash": pin_hash, "wrong_pins": 0, "wait_until": None, "pin_set_at": at, "pin_set_by": by}
        values["pin_once"] = once
    await db.execute(update(PersonRow).where(PersonRow.site_id == site, PersonRow.id == who.id).values(**values))


async def erase_person(db: Db, site: str, id_: str, pin_hash: str) -> None:
    """Call a person by the next number from now on, and let go of all else that is theirs."""
    last = await db.scalar(select(func.max(PersonRow.erased_as)).where(PersonRow.site_id == site))
    number = (last or 0) + 1
    values = {"name": f"Person {number}", "erased_as": number, "pin_hash": pin_hash, "language": ""}
    await db.execute(update(PersonRow).where(PersonRow.site_id == site, PersonRow.id == id_).values(**values))
    await db.execute(delete(OwnTabletRow).where(OwnTabletRow.site_id == site, OwnTabletRow.person_id == id_))
    await db.execute(delete(SessionRow).where(SessionRow.site_id == site, SessionRow.person_id == id_))


async def still_in_documents(db: Db, site: str) -> dict[str, str]:
    """What those are called from now on whose name was erased and still stands in kept documents."""
    query = select(PersonRow.id, PersonRow.name).where(
        PersonRow.site_id == site, PersonRow.erased_as.is_not(None), ~PersonRow.documents_done
    )
    return {row.id: row.name for row in await db.execute(query)}


async def documents_done(db: Db, site: str, people: Collection[str]) -> None:
    """Keep that no kept document names these people any more."""
    mine = PersonRow.site_id == site, PersonRow.id.in_(people)
    await db.execute(update(PersonRow).where(*mine).values(documents_done=True))


async def left_before(db: Db, site: str, at: datetime) -> list[str]:
    """Who left before a time and still has a name."""
    query = select(PersonRow.id).where(
        PersonRow.site_id == site, ~PersonRow.active, PersonRow.erased_as.is_(None), PersonRow.left_at < at
    )
    return list((await db.execute(query.order_by(PersonRow.id))).scalars())


async def erase_after(db: Db, site: str, days: int | None) -> None:
    """Keep after how many days the name of somebody who left is erased; None: never by itself."""
    await db.execute(update(SiteRow).where(SiteRow.id == site).values(erase_after_days=days))


async def erased_after(db: Db, site: str) -> int | None:
    """After how many days the name of somebody who left is erased; None: never by itself."""
    days: int | None = await db.scalar(select(SiteRow.erase_after_days).where(SiteRow.id == site))
    return days


async def told_up_to(db: Db, site: str, id_: str) -> int:
    """Up to which line of the account a person knows what was changed about them."""
    query = select(PersonRow.told_seq).where(PersonRow.site_id == site, PersonRow.id == id_)
    return (await db.scalar(query)) or 0


async def note_told(db: Db, site: str, id_: str, seq: int) -> None:
    """Note that a person knows the account up to a line; never less than before."""
    mine = (PersonRow.site_id == site, PersonRow.id == id_)
    await db.execute(update(PersonRow).where(*mine, PersonRow.told_seq < seq).values(told_seq=seq))


async def note_pin(db: Db, site: str, person_id: str, entries: Collection[str], device: str, at: datetime) -> None:
    """Note that a person gave the PIN again for these entries."""
    rows = [
        {"site_id": site, "entry_id": e, "person_id": person_id, "device": device, "given_at": at}
        for e in sorted(set(entries))
    ]
    if rows:
        await db.execute(insert(PinGivenRow).on_conflict_do_nothing(), rows)


async def pin_given(db: Db, site: str, person_id: str, entry: str) -> bool:
    """Whether a person gave the PIN again for an entry."""
    return await db.get(PinGivenRow, (site, entry, person_id)) is not None


async def pin_set(db: Db, site: str, person_id: str) -> tuple[datetime | None, str | None]:
    """Since when a person's PIN stands, and who set it; None: from the beginning."""
    query = select(PersonRow.pin_set_at, PersonRow.pin_set_by).where(
        PersonRow.site_id == site, PersonRow.id == person_id
    )
    row = (await db.execute(query)).first()
    return (None, None) if row is None else (row[0], row[1])


async def give_pen(db: Db, site: str, pen: Pen, secret_hash: str, token_hash: str | None) -> None:
    """Keep a new pen, and open a session with it."""
    db.add(
        PenRow(
            id=pen.id,
            secret_hash=secret_hash,
            site_id=site,
            person_id=pen.person,
            role=pen.role.value,
            device=pen.device,
            given_at=pen.given_at,
            ends_at=pen.ends_at,
            key=pen.key,
        )
    )
    if token_hash is not None:
        await db.execute(delete(SessionRow).where(SessionRow.ends_at < pen.given_at - timedelta(days=30)))
        db.add(
            SessionRow(
                token_hash=token_hash,
                site_id=site,
                person_id=pen.person,
                pen_id=pen.id,
                opened_at=pen.given_at,
                ends_at=pen.ends_at,
            )
        )
    await db.flush()


async def pen_given_at(db: Db, pen: str) -> datetime | None:
    """When a pen was given; None if there is no such pen."""
    return await db.scalar(select(PenRow.given_at).where(PenRow.id == pen))


async def pens_by_secret(db: Db, site: str, hashes: Collection[str]) -> list[Pen]:
    """Pens whose secrets were shown."""
    if not hashes:
        return []
    rows = (await db.execute(select(PenRow).where(PenRow.site_id == site, PenRow.secret_hash.in_(hashes)))).scalars()
    return [_pen(row) for row in rows]


async def pens_by_id(db: Db, site: str, ids: Collection[str]) -> list[Pen]:
    """Pens by their ids, of any person of the site."""
    if not ids:
        return []
    rows = (await db.execute(select(PenRow).where(PenRow.site_id == site, PenRow.id.in_(ids)))).scalars()
    return [_pen(row) for row in rows]


async def site_key(db: Db, site: str) -> tuple[str, str] | None:
    """The private and the public half of a site's key; None: it has none yet."""
    row = await db.get(SiteKeyRow, site)
    return None if row is None else (row.private, row.public)


async def keep_site_key(db: Db, site: str, private: str, public: str, now: datetime) -> None:
    """Keep a site's key, unless somebody kept one at the same moment."""
    values = {"site_id": site, "private": private, "public": public, "made_at": now}
    await db.execute(insert(SiteKeyRow).values(values).on_conflict_do_nothing())


async def change_site_key(db: Db, site: str, private: str) -> None:
    """Keep the private half of a site's key otherwise; as the database's owner."""
    await db.execute(update(SiteKeyRow).where(SiteKeyRow.site_id == site).values(private=private))


_SESSION = Hot(
    select(PersonRow.id, PersonRow.name, PersonRow.role, PenRow.id, PenRow.role, PenRow.device, PenRow.given_at,
           PenRow.ends_at, PenRow.key, SiteRow.id, SiteRow.name, SiteRow.zone, SiteRow.regime, SiteRow.shift_hours,
           SiteRow.units, SiteRow.numbers, SiteRow.shifts,
           func.coalesce(SessionRow.used_at, SessionRow.opened_at))
    .select_from(SessionRow)
    .join(PersonRow, (PersonRow.site_id == SessionRow.site_id) & (PersonRow.id == SessionRow.person_id))
    .join(PenRow, PenRow.id == SessionRow.pen_id)
    .join(SiteRow, SiteRow.id == SessionRow.site_id)
    .where(
        SessionRow.token_hash == bindparam("token"), SessionRow.ends_at > bindparam("now"), PersonRow.active,
        func.coalesce(SessionRow.used_at, SessionRow.opened_at) > bindparam("idle_since"),
    )
)  # fmt: skip
_USED = Hot(
    update(SessionRow).where(SessionRow.token_hash == bindparam("token")).values(used_at=bindparam("now"))
)  # fmt: skip
IDLE = timedelta(hours=2)
"""A session that nobody used for so long has ended: common practice. The page asks for the PIN much sooner."""
_USED_EACH = timedelta(minutes=5)


async def site_and_session(
    db: Db, token_hash: str, now: datetime, used: bool = True
) -> tuple[SiteInfo, Person, Pen] | None:  # fmt: skip
    """Site, person and pen of a session that has not ended. `used`: somebody is there, who uses it."""
    found = await _SESSION.rows(db, _asked(token_hash, now))
    if found and used and now - found[0][-1] > _USED_EACH:
        # Where nothing can be written just now, what is there is read all the same.
        with suppress(psycopg.Error):
            driver = await driver_of(db)
            async with driver.transaction():
                await _USED.ask(driver, {"token": token_hash, "now": now})
    return _session_of(found)


def _asked(token_hash: str, now: datetime) -> dict[str, object]:
    return {"token": token_hash, "now": now, "idle_since": now - IDLE}


async def site_and_session_shortly(
    driver: AsyncConnection[Any], token_hash: str, now: datetime
) -> tuple[SiteInfo, Person, Pen] | None:
    """The same, asked without a transaction."""
    return _session_of(await _SESSION.ask(driver, _asked(token_hash, now)))


def _session_of(found: list[Any]) -> tuple[SiteInfo, Person, Pen] | None:
    if not found:
        return None
    (who, name, role, pen, pen_role, device, given, ends, key, site, job, zone, regime, shift, units, numbers,
     shifts, _) = found[0]  # fmt: skip
    return (
        SiteInfo(site, job, zone, regime, shift, UnitSystem(units), numbers_of(numbers), shifts_of(shifts)),
        Person(who, name, Role(role)),
        Pen(pen, who, Role(pen_role), device, given, ends, key),
    )


async def end_session(db: Db, token_hash: str, now: datetime) -> None:
    """End a session, and the time that its pen covers."""
    row = await db.get(SessionRow, token_hash)
    if row is not None:
        row.ends_at = now
        await db.execute(update(PenRow).where(PenRow.id == row.pen_id, PenRow.ends_at > now).values(ends_at=now))


@dataclass(frozen=True, slots=True)
class SignedIn:
    """Somebody who is signed in on a device, by the pen that they hold."""

    pen: str
    person: str
    name: str
    device: str
    since: datetime
    until: datetime


async def signed_in(db: Db, site: str, now: datetime, only: str | None = None) -> list[SignedIn]:
    """Who is signed in, or one person alone, the newest first."""
    query = (
        select(PenRow.id, PersonRow.id, PersonRow.name, PenRow.device, SessionRow.opened_at, SessionRow.ends_at)
        .join(PenRow, PenRow.id == SessionRow.pen_id)
        .join(PersonRow, (PersonRow.site_id == SessionRow.site_id) & (PersonRow.id == SessionRow.person_id))
        .where(SessionRow.site_id == site, SessionRow.ends_at > now)
        .order_by(SessionRow.opened_at.desc())
    )
    if only is not None:
        query = query.where(SessionRow.person_id == only)
    return [SignedIn(*row) for row in (await db.execute(query)).tuples()]


async def end_session_by(db: Db, site: str, pen: str, now: datetime) -> None:
    """End the session of a pen; what it wrote until now is still taken."""
    mine = (SessionRow.site_id == site, SessionRow.pen_id == pen, SessionRow.ends_at > now)
    await db.execute(update(SessionRow).where(*mine).values(ends_at=now))
    await db.execute(
        update(PenRow).where(PenRow.site_id == site, PenRow.id == pen, PenRow.ends_at > now).values(ends_at=now)
    )


async def end_sessions(db: Db, site: str) -> None:
    """End everybody's session; what their pens wrote is still taken."""
    await db.execute(delete(SessionRow).where(SessionRow.site_id == site))


async def end_sessions_of(db: Db, site: str, id_: str, now: datetime) -> None:
    """End all sessions of a person; what their pens wrote until now is still taken."""
    await db.execute(delete(SessionRow).where(SessionRow.site_id == site, SessionRow.person_id == id_))
    await db.execute(
        update(PenRow).where(PenRow.site_id == site, PenRow.person_id == id_, PenRow.ends_at > now).values(ends_at=now)
    )
