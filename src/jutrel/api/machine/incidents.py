"""Routes: what happened to a machine. It is told like everything that devices write, as entries."""

from __future__ import annotations

from datetime import datetime

from fastapi import APIRouter
from pydantic import Field

from jutrel.api.door import PROBLEMS, Who, Work
from jutrel.api.language import Tongue
from jutrel.api.wire import Out, Slug
from jutrel.core.machine.event import Done, WorkedOn, done_said
from jutrel.core.machine.incident import EXAMINERS, IncidentKind, happened_said
from jutrel.service.machine.incidents import incidents, works
from jutrel.service.people.people import names_of

router = APIRouter(prefix="/api", tags=["machine"], responses=PROBLEMS)


class IncidentOut(Out):
    """Something that happened to a machine, and who examined it after that."""

    id: str
    what: IncidentKind
    says: str
    note: str
    by: str
    at: datetime
    waits: bool = Field(description="Nobody starts the machine before somebody has examined it.")
    found: str = Field(description="What was looked at and found; empty: nobody has examined it.")
    examined_by: str
    examined_at: datetime | None


class DoneOut(Out):
    """Something that was done to a machine: it ended the inspection before it."""

    id: str
    what: Done
    says: str
    note: str
    by: str
    at: datetime


class IncidentsOut(Out):
    machine: str
    name: str
    may_examine: bool
    incidents: list[IncidentOut]
    done: list[DoneOut]


@router.get("/machines/{machine}/incidents")
async def get_incidents(here: Work, who: Who, wording: Tongue, machine: Slug) -> IncidentsOut:
    """What happened to a machine, newest first."""
    unit, all_ = await incidents(here, machine)
    names = await names_of(here)
    return IncidentsOut(
        machine=unit.id,
        name=unit.name,
        may_examine=who.person.role in EXAMINERS,
        incidents=[
            IncidentOut(
                id=h.id,
                what=h.what,
                says=wording.say(happened_said(h.what)),
                note=h.note,
                by=names.get(h.by, h.by),
                at=h.at,
                waits=h.waits,
                found=h.found,
                examined_by=names.get(h.examined_by or "", h.examined_by or ""),
                examined_at=h.examined_at,
            )
            for h in all_
        ],
        done=[
            DoneOut(
                id=e.id,
                what=e.what.what,
                says=wording.say(done_said(e.what.what)),
                note=e.what.note,
                by=names.get(e.by, e.by),
                at=e.time,
            )
            for e in await works(here, machine)
            if isinstance(e.what, WorkedOn)
        ],
    )
