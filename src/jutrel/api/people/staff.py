"""Routes: looking after the people of a site, and what was changed about whoever is signed in."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Request, Response
from pydantic import Field, StringConstraints

from jutrel.api.cookies import tablet_of
from jutrel.api.door import PROBLEMS, Who, Work, now, settings_of, shop_of
from jutrel.api.language import Tongue
from jutrel.api.people.routes import line_out
from jutrel.api.people.wire import (
    NewPerson,
    NewsOut,
    NewsReadIn,
    PersonChange,
    PersonOut,
    RoleAskedOut,
    RoleConfirmIn,
    StaffOut,
)
from jutrel.api.wire import NO_NUL, In, Out, Uuid
from jutrel.core.people import Right
from jutrel.core.wording import spoken
from jutrel.service.context import Here
from jutrel.service.people import changes, roles
from jutrel.service.people import people as service
from jutrel.service.people.account import news_for, read_news
from jutrel.service.people.pens import Actor, hashed
from jutrel.service.people.people import Person
from jutrel.service.people.people_list import PeopleNews, PersonLine, people_in, people_out

router = APIRouter(prefix="/api", tags=["people"], responses=PROBLEMS)


async def _staff(here: Here, who: Actor, listed: list[Person]) -> list[StaffOut]:
    names = await service.names_of(here)
    asked = await roles.asked(here)

    def one(p: Person) -> StaffOut:
        plain = PersonOut.model_validate(p).model_dump()
        wants = asked.get(p.id)
        return StaffOut(
            **plain,
            erased=p.erased,
            asked=None
            if wants is None
            else RoleAskedOut(
                role=wants.role,
                by=names.get(wants.by, wants.by),
                at=wants.at,
                may_confirm=who.person.id not in (wants.by, p.id),
            ),
        )

    return [one(p) for p in listed]


@router.get("/people")
async def people(here: Work, who: Who) -> list[StaffOut]:
    """All people of the site, those who left too; for administrators."""
    service.require(who, Right.MANAGE)
    return await _staff(here, who, await service.people(here, with_inactive=True))


@router.post("/people", status_code=201)
async def add(request: Request, here: Work, who: Who, body: NewPerson) -> StaffOut:
    """Add a person, who chooses their own PIN at first. The id comes from the client: sending twice adds one.

    A role by which machines are cleared waits for a second administrator, as soon as there are two.
    """
    once = not settings_of(request).demo_pin
    made = await changes.add_person(
        here, who, body.name, body.role, body.pin, body.id, once=once, reason=body.reason
    )  # fmt: skip
    return (await _staff(here, who, [made]))[0]


@router.patch("/people/{person}")
async def change(request: Request, here: Work, who: Who, person: Uuid, body: PersonChange) -> StaffOut:
    """Change a person's role or PIN, or note that they left or came back. A PIN given so is for the first time.

    A role by which machines are cleared waits for a second administrator, as soon as there are two.
    """
    once = not settings_of(request).demo_pin
    made = await changes.change_person(
        here, who, person, body.role, body.pin, body.active, once=once, reason=body.reason
    )
    return (await _staff(here, who, [made]))[0]


@router.post("/people/{person}/role", status_code=204)
async def confirm_role(request: Request, who: Who, person: Uuid, body: RoleConfirmIn) -> None:
    """Give a role that another administrator asked for, with one's own PIN."""
    tablet = hashed(tablet_of(request) or "")
    await roles.confirm_role(shop_of(request), who, person, body.role, body.pin, now(), tablet)


@router.delete("/people/{person}/role", status_code=204)
async def drop_role(here: Work, who: Who, person: Uuid) -> None:
    """Do not give a role that is asked for."""
    await roles.drop_asked(here, who, person)


@router.delete("/people/{person}/name")
async def erase(here: Work, who: Who, person: Uuid) -> StaffOut:
    """Erase the name of somebody who left: records call them by a number from then on; it cannot be taken back."""
    service.require(who, Right.MANAGE)
    made = await changes.erase_person(here, who.person.id, person)
    return (await _staff(here, who, [made]))[0]


class PeopleListIn(In):
    """A list of people as CSV: name, role, here. `id` is made by the client."""

    id: Uuid
    text: Annotated[str, StringConstraints(pattern=NO_NUL, max_length=100_000)]
    keep: bool = Field(default=False, description="False: only say what it would come to.")
    after: int = Field(
        default=0, ge=0, le=100_000, description="After which line to go on: `next` of the answer before."
    )


class PersonLineOut(Out, of=PersonLine):
    """A line of the list, and what it comes to; `pin`: for the first time of one who was added, said this once."""


class PeopleListOut(Out, of=PeopleNews):
    """What the list comes to; `kept`: all its new people are on the site. `next`: there are more than one
    request takes in; the same list is sent again with this as `after`."""


@router.post("/people-list")
async def post_people_list(here: Work, who: Who, wording: Tongue, body: PeopleListIn) -> PeopleListOut:
    """Look at a list of people, and add those who are new, some with each request; none while a line is refused."""
    news = await people_in(here, who, body.id, body.text, body.keep, wording, body.after)
    return PeopleListOut.model_validate(spoken(news, wording))


@router.get("/people-list.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}})
async def get_people_list(here: Work, who: Who) -> Response:
    """The people of the site as a list: to be edited, and taken in elsewhere."""
    service.require(who, Right.MANAGE)
    headers = {"Content-Disposition": 'attachment; filename="people.csv"'}
    return Response(await people_out(here), media_type="text/csv", headers=headers)


@router.get("/session/news")
async def news(here: Work, who: Who, wording: Tongue) -> NewsOut:
    """What others changed about whoever is signed in, and, for those who run the site, what one administrator did
    alone, until they say that they read it."""
    lines = await news_for(here, who.person)
    names = await service.names_of(here)
    return NewsOut(lines=[line_out(x, names, wording) for x in lines], seq=lines[-1].seq if lines else 0)


@router.post("/session/news", status_code=204)
async def news_read(here: Work, who: Who, body: NewsReadIn) -> None:
    """Note that whoever is signed in read what was changed, up to a line."""
    await read_news(here, who.person, body.seq)
