"""Routes: a new installation set up on its page, with a code from its console."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Request
from pydantic import Field

from jutrel.api.door import PROBLEMS, now, shop_of
from jutrel.api.language import Tongue
from jutrel.api.site.routes import ShiftTimeIn
from jutrel.api.wire import NO_NUL, In, Out, PickOut
from jutrel.core.machine.unit import SiteInfo, UnitSystem
from jutrel.service.context import here_of
from jutrel.service.problem import NotAllowed, NotFound
from jutrel.service.site.setup import check_code, site_by_page, slug_of

router = APIRouter(prefix="/api", tags=["site"], responses=PROBLEMS)
Words = Annotated[str, Field(pattern=NO_NUL, max_length=80)]


class SetupOut(Out):
    """Whether this installation waits to be set up, and whose rules a site can choose."""

    needed: bool
    regimes: list[PickOut]


class SetupIn(In):
    """A site as it is set up. `code`: what the console gave; `numbers`: whom to call in an emergency."""

    code: Annotated[str, Field(pattern=NO_NUL, max_length=40)]
    name: Words
    zone: Words
    regime: Words = "house"
    units: UnitSystem = UnitSystem.METRIC
    shifts: Annotated[list[ShiftTimeIn], Field(min_length=1, max_length=12)]
    numbers: Annotated[list[tuple[Words, Words]], Field(max_length=12, default=[])]
    chief: Annotated[str, Field(pattern=NO_NUL, max_length=80, description="The name of the first administrator.")]


class FirstPinOut(Out):
    """A person's PIN for the first time: they choose their own when they sign in."""

    person: str
    pin: str


@router.get("/setup")
async def get_setup(request: Request, wording: Tongue) -> SetupOut:
    """Whether a site is still to be set up here. Needs no session: there is nobody yet."""
    shop = shop_of(request)
    async with shop.store.transaction() as db:
        try:
            await here_of(db, shop.books, now())
        except NotFound:
            books = shop.books.catalog.rulebooks
            regimes = [PickOut(id=id_, name=shop.books.catalog.regimes[id_].name) for id_ in books]
            return SetupOut(needed=True, regimes=regimes)
    return SetupOut(needed=False, regimes=[])


@router.post("/setup", status_code=201)
async def post_setup(request: Request, body: SetupIn) -> FirstPinOut:
    """Set the site up, once; what comes back is the administrator's PIN for the first time."""
    shop, first = shop_of(request), None
    shifts = tuple((s.begins, s.hours) for s in body.shifts)
    longest = max(hours for _, hours in shifts)
    made = SiteInfo(
        slug_of(body.name), body.name.strip(), body.zone, body.regime, longest, body.units,
        tuple((who.strip(), which.strip()) for who, which in body.numbers if who.strip() and which.strip()), shifts,
    )  # fmt: skip
    async with shop.store.transaction() as db:
        # The code is locked from here on: of two who use it at the same moment one comes too late.
        if await check_code(db, body.code, now()):
            first = await site_by_page(db, shop.books, made, body.chief, now())
    if first is None:
        raise NotAllowed(
            "setup-code",
            "This is not the code from the console, or its hour is over. `jutrel site code` gives another.",
            field="code",
        )
    return FirstPinOut(person=first.person.name, pin=first.pin)
