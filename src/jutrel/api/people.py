"""Routes: the door and the people."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response

from jutrel.api.door import COOKIE, PROBLEMS, Db, Who, now, set_cookie, settings_of, store_of
from jutrel.api.wire import DoorOut, NewPerson, PersonChange, PersonOut, SessionOut, SignIn, Uuid
from jutrel.core.inspection.entry import Role
from jutrel.service import people as service
from jutrel.store.tables import SiteRow

router = APIRouter(prefix="/api", tags=["people"], responses=PROBLEMS)


@router.get("/door")
async def door(request: Request, db: Db) -> DoorOut:
    """Who may sign in here. Needs no session: it is what a shared tablet shows."""
    site = await service.only_site(db)
    listed = await service.people(db, site.id)
    return DoorOut(
        site=site.name, people=[PersonOut.model_validate(p) for p in listed], hint=settings_of(request).demo_hint
    )


@router.post("/session")
async def sign_in(request: Request, response: Response, body: SignIn) -> SessionOut:
    """Sign in by name and PIN. Wrong PINs make the next try wait, longer each time."""
    settings = settings_of(request)
    async with store_of(request).transaction() as db:
        site = await service.only_site(db)
        tried = await service.try_pin(db, site.id, body.person, body.pin, body.device, now(), settings.session_hours)
    if tried.refusal is not None:
        raise tried.refusal  # after the commit, so that the wrong try counts
    assert tried.token is not None
    assert tried.actor is not None
    set_cookie(response, tried.token, settings)
    return SessionOut(person=PersonOut.model_validate(tried.actor.person), site=site.name, zone=site.zone)


@router.get("/session")
async def session(db: Db, who: Who) -> SessionOut:
    """Who is signed in on this device."""
    site = await db.get_one(SiteRow, who.site)
    return SessionOut(person=PersonOut.model_validate(who.person), site=site.name, zone=site.zone)


@router.delete("/session", status_code=204)
async def sign_out(request: Request, response: Response, db: Db, who: Who) -> None:
    """Sign out on this device."""
    await service.sign_out(db, request.cookies[COOKIE], now())
    response.delete_cookie(COOKIE, path="/api", httponly=True, samesite="strict")


@router.get("/people")
async def people(db: Db, who: Who) -> list[PersonOut]:
    """All people of the site, those who left too; for administrators."""
    service.allow(who, Role.ADMINISTRATOR)
    return [PersonOut.model_validate(p) for p in await service.people(db, who.site, with_inactive=True)]


@router.post("/people", status_code=201)
async def add(db: Db, who: Who, body: NewPerson) -> PersonOut:
    """Add a person. The id comes from the client, so that sending twice adds one."""
    return PersonOut.model_validate(await service.add_person(db, who, body.name, body.role, body.pin, body.id))


@router.patch("/people/{person}")
async def change(db: Db, who: Who, person: Uuid, body: PersonChange) -> PersonOut:
    """Change a person's role or PIN, or note that they left or came back."""
    return PersonOut.model_validate(await service.change_person(db, who, person, body.role, body.pin, body.active))
