"""Routes: what machines work within beside their defects' own limits, and a supervisor's word on it."""

from __future__ import annotations

from datetime import datetime

from fastapi import APIRouter
from pydantic import Field

from jutrel.api.door import PROBLEMS, Who, Work
from jutrel.api.language import Tongue
from jutrel.api.wire import NO_NUL, In, Out, Slug, Uuid7
from jutrel.core.machine.limits import LimitsAccepted
from jutrel.core.people import Role
from jutrel.service.clearance import work_limits as service
from jutrel.service.people.people import names_of

router = APIRouter(prefix="/api", tags=["defects"], responses=PROBLEMS)


class WithinOut(Out):
    """What a machine works within; `name`: by which it is accepted as it is told here."""

    machine: str
    machine_name: str
    says: list[str]
    name: str
    accepted_by: str = Field(description="Whose word on it holds in this shift; empty: nobody's.")
    accepted_at: datetime | None
    may: bool = Field(description="Whether the person who asks may accept it now.")


class AcceptIn(In):
    """A supervisor's word on it. The id is made by the client: sent twice it is one."""

    id: Uuid7
    limits: str = Field(pattern=r"^[0-9a-f]{16}$", description="The name of what the page showed.")
    reason: str = Field(max_length=2000, pattern=NO_NUL)


@router.get("/limits")
async def get_limits(here: Work, who: Who, wording: Tongue, machine: Slug | None = None) -> list[WithinOut]:
    """The machines that work within something that several things together, or what nobody could see, make."""
    names = await names_of(here)
    return [
        WithinOut(
            machine=w.unit.id,
            machine_name=w.unit.name,
            says=[wording.say(x) for x in w.clearance.shared],
            name=w.name,
            accepted_by=names.get(w.accepted.by, "?") if w.accepted else "",
            accepted_at=w.accepted.at if w.accepted else None,
            may=who.person.role is Role.SUPERVISOR and w.accepted is None,
        )
        for w in await service.all_within(here, machine)
    ]


@router.post("/machines/{machine}/limits")
async def post_limits(here: Work, who: Who, wording: Tongue, machine: Slug, body: AcceptIn) -> list[WithinOut]:
    """Accept what a machine works within, for this shift."""
    await service.accept(here, who, machine, body.id, LimitsAccepted(body.limits, body.reason.strip()))
    return await get_limits(here, who, wording, machine)
