"""How a site does things, and who was shown what."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert

from jutrel.core.procedure.kinds import RUN
from jutrel.core.training import Taught, Training
from jutrel.store.base import Db
from jutrel.store.tables import LookRow, MachineRow, SchoolChoiceRow, TrainingRow


@dataclass(frozen=True, slots=True)
class Chosen:
    """A choice of the site, and whose it was."""

    school: str
    choice: str
    by: str
    at: datetime


async def schools_chosen(db: Db, site: str) -> Mapping[str, Chosen]:
    """The newest choice of each school."""
    rows = await db.execute(select(SchoolChoiceRow).where(SchoolChoiceRow.site_id == site).order_by(SchoolChoiceRow.no))
    return {r.school: Chosen(r.school, r.choice, r.by, r.at) for r in rows.scalars()}


async def choose_school(db: Db, site: str, id_: str, chosen: Chosen) -> bool:
    """Write a choice down; False if one of this id is there."""
    values = {"school": chosen.school, "choice": chosen.choice, "by": chosen.by, "at": chosen.at}
    made = insert(SchoolChoiceRow).values(site_id=site, id=uuid.UUID(id_), **values).on_conflict_do_nothing()
    return bool((await db.execute(made.returning(SchoolChoiceRow.id))).first())


async def trainings_of(db: Db, site: str, person: str | None = None) -> list[Training]:
    """Who was shown what, oldest first; what was withdrawn says so."""
    query = select(TrainingRow).where(TrainingRow.site_id == site).order_by(TrainingRow.at, TrainingRow.id)
    if person is not None:
        query = query.where(TrainingRow.person_id == person)
    rows = (await db.execute(query)).scalars().all()
    gone = {r.withdraws for r in rows if r.withdraws}
    return [
        Training(str(r.id), r.person_id, Taught(r.taught), r.model_id, r.note, r.by, r.at, r.id in gone)
        for r in rows
        if r.withdraws is None
    ]


async def add_training(db: Db, site: str, told: Training, withdraws: str = "") -> bool:
    """Write it down; False if one of this id is there."""
    made = insert(TrainingRow).values(
        site_id=site,
        id=uuid.UUID(told.id),
        person_id=told.person,
        taught=told.taught.value,
        model_id=told.model,
        note=told.note,
        by=told.by,
        at=told.at,
        withdraws=uuid.UUID(withdraws) if withdraws else None,
    )
    return bool((await db.execute(made.on_conflict_do_nothing().returning(TrainingRow.id))).first())


async def last_runs(
    db: Db, site: str, person: str, model: str, but: str = ""
) -> tuple[datetime | None, datetime | None]:  # fmt: skip
    """When a person last began a run of a model, and of anything on this site; `but`: a run that does not count."""
    mine = (
        LookRow.site_id == site,
        LookRow.kind == RUN,
        LookRow.data["begun_by"].astext == person,
        LookRow.id != but,
    )
    any_ = select(func.max(LookRow.begun_at)).where(*mine)
    here = (MachineRow.site_id == LookRow.site_id) & (MachineRow.id == LookRow.machine_id)
    same = any_.join(MachineRow, here).where(MachineRow.model_id == model)
    return (await db.execute(same)).scalar(), (await db.execute(any_)).scalar()
