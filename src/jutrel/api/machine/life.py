"""Routes: a machine's life, searched and page by page."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import Field

from jutrel.api.door import PROBLEMS, Who, Work
from jutrel.api.language import Tongue
from jutrel.api.wire import NO_NUL, Out, Slug
from jutrel.core.machine.life import LifeEvent, LifeGroup
from jutrel.core.wording import spoken
from jutrel.service.machine.life import life
from jutrel.service.people.people import names_of

router = APIRouter(prefix="/api/machines", tags=["machine"], responses=PROBLEMS)


class LifeEventOut(Out, of=LifeEvent, without=("seq",)):
    by: str = Field(description="Name of who did it.")


class LifeOut(Out):
    """A page of it, newest first."""

    machine: str
    name: str
    events: list[LifeEventOut]
    before: int | None = Field(description="Ask with this for what came before; none: this is the beginning.")


@router.get("/{machine}/life")
async def get_life(
    here: Work,
    who: Who,
    wording: Tongue,
    machine: Slug,
    group: Annotated[list[LifeGroup] | None, Query(max_length=6)] = None,
    words: Annotated[
        str, Query(pattern=NO_NUL, max_length=80, description="All of these words stand in an event.")
    ] = "",
    before: Annotated[int | None, Query(ge=1, le=2**31 - 1)] = None,
    limit: Annotated[int, Query(ge=1, le=200)] = 60,
) -> LifeOut:
    """What was found on a machine, done, filled, changed, and what happened to it."""
    names = await names_of(here)
    asked = words.casefold().split()

    def wanted(event: LifeEvent) -> bool:
        if not asked:
            return True
        text = f"{wording.say(event.says)} {event.words} {names.get(event.by, '')}".casefold()
        return all(w in text for w in asked)

    page = await life(here, machine, group or tuple(LifeGroup), before, limit, wanted)
    return LifeOut(
        machine=machine,
        name=page.name,
        before=page.before,
        events=[LifeEventOut.model_validate({**spoken(e, wording), "by": names.get(e.by, "?")}) for e in page.events],
    )
