"""Routes: asking those who may do something."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter
from pydantic import Field, StringConstraints

from jutrel.api.door import PROBLEMS, Who, Work
from jutrel.api.wire import NO_NUL, In, Out, Uuid7
from jutrel.core.people import Role
from jutrel.service.people import asks as service
from jutrel.service.people.people import names_of

router = APIRouter(prefix="/api", tags=["people"], responses=PROBLEMS)


class AskIn(In):
    """What is asked: the page on which somebody was refused, and of whom. `id` is made by the client."""

    id: Uuid7
    path: Annotated[str, StringConstraints(pattern=r"^/([A-Za-z0-9_.-][A-Za-z0-9/_.-]{0,199})?$")]
    roles: Annotated[list[Role], Field(min_length=1, max_length=5)]
    note: Annotated[str, StringConstraints(pattern=NO_NUL, max_length=300)] = ""


class AskOut(Out):
    """What somebody asks; `own`: whoever is signed in asks it."""

    id: str
    by: str
    at: datetime
    path: str
    note: str
    own: bool


@router.post("/asks", status_code=204)
async def post_ask(here: Work, who: Who, body: AskIn) -> None:
    """Ask those who may do something to see to it."""
    await service.ask(here, who, body.id, body.path, body.note, frozenset(body.roles))


@router.get("/asks")
async def get_asks(here: Work, who: Who) -> list[AskOut]:
    """What is asked of whoever is signed in, or by them, and nobody saw to."""
    names = await names_of(here)
    return [
        AskOut(id=a.id, by=names.get(a.by, a.by), at=a.at, path=a.path, note=a.note, own=a.by == who.person.id)
        for a in await service.asks_for(here, who)
    ]


@router.post("/asks/{ask}/done", status_code=204)
async def ask_done(here: Work, who: Who, ask: Uuid7) -> None:
    """Note that it was seen to, or take it back."""
    await service.seen_to(here, who, ask)
