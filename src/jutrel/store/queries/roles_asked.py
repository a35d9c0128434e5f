"""Queries: roles that wait for a second administrator."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert

from jutrel.core.people import Role
from jutrel.store.base import Db
from jutrel.store.tables import RoleAskedRow


@dataclass(frozen=True, slots=True)
class RoleAsked:
    """A role that one administrator wants to give to a person."""

    person: str
    role: Role
    by: str
    at: datetime


async def roles_asked(db: Db, site: str) -> dict[str, RoleAsked]:
    """What is asked on a site, by person."""
    rows = (await db.execute(select(RoleAskedRow).where(RoleAskedRow.site_id == site))).scalars()
    return {r.person_id: RoleAsked(r.person_id, Role(r.role), r.asked_by, r.asked_at) for r in rows}


async def ask_role(db: Db, site: str, asked: RoleAsked) -> None:
    """Keep what is asked; for a person the newest counts."""
    values = {"role": asked.role.value, "asked_by": asked.by, "asked_at": asked.at}
    await db.execute(
        insert(RoleAskedRow)
        .values(site_id=site, person_id=asked.person, **values)
        .on_conflict_do_update(index_elements=["site_id", "person_id"], set_=values)
    )


async def drop_role(db: Db, site: str, person: str) -> None:
    """Nothing is asked for this person any more."""
    await db.execute(delete(RoleAskedRow).where(RoleAskedRow.site_id == site, RoleAskedRow.person_id == person))
