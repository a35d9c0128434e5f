"""Queries: accounts that people have at their company, and sign-ins by them that are under way."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import delete, func, select, update

from jutrel.store.base import Db
from jutrel.store.tables.company import CompanyAccountRow, CompanyAskedRow


@dataclass(frozen=True, slots=True)
class CompanyAsked:
    """A browser that went to the company's page; `person`: who adds an account; empty: whoever signs in."""

    state: str
    browser: str
    person: str
    nonce: str
    verifier: str
    begun_at: datetime


async def ask(db: Db, site: str, asked: CompanyAsked, forgotten: datetime, most: int) -> bool:
    """Keep that a browser went; False where too many are on their way. Those from before `forgotten` are let go."""
    await db.execute(
        delete(CompanyAskedRow).where(CompanyAskedRow.site_id == site, CompanyAskedRow.begun_at < forgotten)
    )
    mine = CompanyAskedRow.site_id == site, CompanyAskedRow.person_id == asked.person
    if (await db.scalar(select(func.count()).where(*mine))) >= most:  # type: ignore[operator]
        return False
    db.add(
        CompanyAskedRow(
            site_id=site, state=asked.state, browser=asked.browser, person_id=asked.person, nonce=asked.nonce,
            verifier=asked.verifier, begun_at=asked.begun_at,
        )
    )  # fmt: skip
    await db.flush()
    return True


async def take_asked(db: Db, site: str, state: str) -> CompanyAsked | None:
    """Use it up; None if there is none."""
    found = await db.execute(
        delete(CompanyAskedRow)
        .where(CompanyAskedRow.site_id == site, CompanyAskedRow.state == state)
        .returning(CompanyAskedRow)
    )
    row = found.scalar_one_or_none()
    if row is None:
        return None
    return CompanyAsked(row.state, row.browser, row.person_id, row.nonce, row.verifier, row.begun_at)


async def person_of(db: Db, site: str, issuer: str, subject: str) -> str | None:
    """Whose account it is; None: nobody's here."""
    return await db.scalar(
        select(CompanyAccountRow.person_id).where(
            CompanyAccountRow.site_id == site, CompanyAccountRow.issuer == issuer, CompanyAccountRow.subject == subject
        )
    )


async def used(db: Db, site: str, issuer: str, subject: str, at: datetime) -> None:
    """Note that somebody signed in by it."""
    mine = (
        CompanyAccountRow.site_id == site, CompanyAccountRow.issuer == issuer, CompanyAccountRow.subject == subject,
    )  # fmt: skip
    await db.execute(update(CompanyAccountRow).where(*mine).values(used_at=at))


async def keep(db: Db, site: str, issuer: str, subject: str, person: str, at: datetime) -> None:
    """Keep whose account it is; one a person."""
    await let_go(db, site, person)
    db.add(CompanyAccountRow(site_id=site, issuer=issuer, subject=subject, person_id=person, made_at=at))
    await db.flush()


async def has_one(db: Db, site: str, person: str) -> bool:
    """Whether a person signs in by an account at their company."""
    mine = CompanyAccountRow.site_id == site, CompanyAccountRow.person_id == person
    return bool(await db.scalar(select(func.count()).where(*mine)))


async def let_go(db: Db, site: str, person: str) -> bool:
    """A person signs in by no such account any more; whether they did."""
    query = delete(CompanyAccountRow).where(CompanyAccountRow.site_id == site, CompanyAccountRow.person_id == person)
    return (await db.execute(query.returning(CompanyAccountRow.subject))).first() is not None
