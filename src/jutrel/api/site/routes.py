"""Routes: how this site does what good hands do differently, and who was shown what."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import AwareDatetime, Field

from jutrel.api.door import PROBLEMS, Who, Work
from jutrel.api.language import Tongue
from jutrel.api.people.wire import PersonOut
from jutrel.api.wire import NO_NUL, In, Out, Slug, Uuid
from jutrel.core.log.codec import encode
from jutrel.core.people import Right, rights_of
from jutrel.core.training import Taught, Training
from jutrel.service.machine.models import known_models
from jutrel.service.people import training as service
from jutrel.service.people.people import names_of, people
from jutrel.service.site import schools as school_service
from jutrel.service.site.backups import backup_reach
from jutrel.service.site.shift_begins import choose_shifts

router = APIRouter(prefix="/api", tags=["site"], responses=PROBLEMS)


class SchoolChoiceOut(Out):
    id: str
    name: str
    why: str


class SchoolOut(Out):
    """A question on which good hands differ. `choice`: what is in force where no model says otherwise."""

    id: str
    asks: str
    why: str
    choices: list[SchoolChoiceOut]
    choice: str
    by_model: bool = Field(description="The maker decides: it stands in the model's file.")
    families: list[str] = Field(description="Which machines it is about; empty: all.")
    models: dict[str, str] = Field(description="Models whose maker says otherwise, and what.")
    by: str = Field(description="Who chose; empty: it is the usual way.")
    at: datetime | None


class SchoolIn(In):
    """What this site chooses. The id is the client's: sending twice writes once."""

    id: Uuid
    choice: Slug


class TrainingOut(Out, of=Training):
    """That a person was shown a model or this ground; what was written down wrongly is `withdrawn` and stays."""


class TrainingListOut(Out):
    people: list[PersonOut]
    models: dict[str, str]
    trainings: list[TrainingOut]


class TrainingIn(In):
    """What somebody was shown; the id is the client's."""

    id: Uuid
    person: Uuid
    taught: Taught
    model: Annotated[str, Field(pattern=NO_NUL, max_length=60)] = ""
    note: Annotated[str, Field(pattern=NO_NUL, max_length=400)] = ""
    at: AwareDatetime


class WithdrawIn(In):
    """That it was written down wrongly; the id is the client's."""

    id: Uuid


class ShiftTimeIn(In):
    """A shift: when it begins by the clock on the wall, and how long it lasts."""

    begins: Annotated[str, Field(pattern=NO_NUL, max_length=5, examples=["06:00"])]
    hours: Annotated[float, Field(examples=[8.0], description="Hours.")]


class ShiftTimeOut(Out):
    begins: str
    hours: float


class BackupOut(Out):
    """Which life of the database this is, and until when what was taken is in a backup; null: none is known."""

    life: str
    covered: datetime | None


class ShiftsIn(In):
    shifts: Annotated[list[ShiftTimeIn], Field(max_length=12)]


@router.get("/site/backup")
async def get_backup(here: Work, who: Who) -> BackupOut:
    """How far backups reach; a device keeps what was taken later, and sends it again to another life."""
    reach = await backup_reach(here)
    return BackupOut(life=reach.life, covered=reach.covered)


@router.get("/site/shifts")
async def get_shifts(here: Work, who: Who) -> list[ShiftTimeOut]:
    """When the shifts of this site begin; an inspection ends with the shift that it was begun for."""
    return [ShiftTimeOut(begins=begins, hours=hours) for begins, hours in here.site.shifts]


@router.put("/site/shifts", status_code=204, response_class=Response)
async def put_shifts(here: Work, who: Who, body: ShiftsIn) -> None:
    """Write down when they begin; a supervisor or an administrator does."""
    await choose_shifts(here, who, tuple((s.begins, s.hours) for s in body.shifts))


@router.get("/schools")
async def get_schools(here: Work, who: Who, wording: Tongue) -> list[SchoolOut]:
    """How this site does it, question by question."""
    chosen = await school_service.chosen_here(here)
    names = await names_of(here)
    models = [known.model for known in (await known_models(here)).values()]
    out = []
    for s in here.catalog.schools:
        mine = None if s.by_model else chosen.get(s.id)
        out.append(
            SchoolOut(
                id=s.id,
                asks=wording.word("school", s.asks),
                why=wording.word("school", s.why),
                choices=[
                    SchoolChoiceOut(id=c.id, name=wording.word("school", c.name), why=wording.word("school", c.why))
                    for c in s.choices
                ],
                choice=mine.choice if mine else s.usual,
                by_model=s.by_model,
                families=[wording.word("family", f.name) for f in here.catalog.families.values() if f.id in s.families],
                models={
                    f"{m.maker} {m.name}": wording.word("school", s.choice(m.schools[s.id]).name)
                    for m in models
                    if s.id in m.schools
                },
                by=names.get(mine.by, "") if mine else "",
                at=mine.at if mine else None,
            )
        )
    return out


@router.put("/schools/{school}", status_code=204, response_class=Response)
async def put_school(here: Work, who: Who, school: Slug, body: SchoolIn) -> None:
    """Choose how this site does it from now on; runs under way keep what they began with."""
    await school_service.choose(here, who, body.id, school, body.choice)


def _out(t: Training, names: dict[str, str]) -> TrainingOut:
    return TrainingOut.model_validate({**encode(t), "by": names.get(t.by, t.by)})


@router.get("/training")
async def get_training(here: Work, who: Who) -> TrainingListOut:
    """Who was shown what: everybody's for those who write it down, one's own for the others."""
    told = await service.trainings(here)
    listed = await people(here)
    if Right.TEACH not in rights_of(who.person.role):
        listed = [p for p in listed if p.id == who.person.id]
    shown = {p.id for p in listed}
    names = await names_of(here)
    models = {k: f"{m.model.maker} {m.model.name}" for k, m in (await known_models(here)).items()}
    return TrainingListOut(
        people=[PersonOut.model_validate(p) for p in listed],
        models=models,
        trainings=[_out(t, names) for t in told if t.person in shown],
    )


@router.post("/training", status_code=201)
async def post_training(here: Work, who: Who, body: TrainingIn) -> TrainingOut:
    """Write down that somebody was shown a model, or the ground of this site."""
    told = Training(body.id, body.person, body.taught, body.model, body.note.strip(), "", body.at)
    return _out(await service.add(here, who, told), await names_of(here))


@router.post("/training/{training}/withdrawn", status_code=204, response_class=Response)
async def withdraw_training(here: Work, who: Who, training: Uuid, body: WithdrawIn) -> None:
    """Say that it was written down wrongly; both words stay."""
    await service.withdraw(here, who, body.id, training, here.now)
