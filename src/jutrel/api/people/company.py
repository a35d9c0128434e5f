"""Routes: signing in by the account that somebody has at their company."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Request, Response
from pydantic import StringConstraints

from jutrel.api.cookies import company_of as browser_of
from jutrel.api.cookies import new_tablet, set_company, tablet_of
from jutrel.api.door import PROBLEMS, Who, Work, now, settings_of, shop_of
from jutrel.api.people.place import company_door
from jutrel.api.people.routes import entered
from jutrel.api.people.wire import SignedInOut
from jutrel.api.wire import NO_NUL, In, Out, Slug
from jutrel.service.log.seal import read_key
from jutrel.service.people import company as service
from jutrel.service.people.company import CompanyDoor
from jutrel.service.people.pens import hashed
from jutrel.service.problem import Conflict

router = APIRouter(prefix="/api", tags=["people"], responses=PROBLEMS)


class CompanyAskIn(In):
    """The PIN, before an account is added."""

    pin: Annotated[str, StringConstraints(pattern=NO_NUL, max_length=20)]


class CompanyAddressOut(Out):
    """Where the browser goes to sign in; `state`: by which it is known when it comes back."""

    address: str
    state: str


class CompanyBackIn(In):
    """With what the company sent the browser back."""

    state: Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9_-]{20,100}$")]
    code: Annotated[str, StringConstraints(pattern=NO_NUL, min_length=1, max_length=4000)]


class CompanySignIn(CompanyBackIn):
    """The same when somebody signs in; `key`: as for a PIN."""

    device: Slug
    key: Annotated[str, StringConstraints(max_length=300, pattern=r"^[A-Za-z0-9_-]*$")] = ""


class CompanyOut(Out):
    """What the company's own sign-in is called here, and whether one signs in by it."""

    name: str
    added: bool


def _door(request: Request) -> tuple[CompanyDoor, str]:
    found = company_door(request, settings_of(request))
    if found is None:
        raise Conflict("no-company", "No company's sign-in is known here.")
    return found


def _address(response: Response, request: Request, browser: str, address: str) -> CompanyAddressOut:
    set_company(response, browser, settings_of(request))
    return CompanyAddressOut(address=address, state=service.state_in(address))


@router.post("/session/company/address")
async def ask_company(request: Request, response: Response) -> CompanyAddressOut:
    """Begin to sign in by one's account at the company."""
    door, back = _door(request)
    browser = new_tablet()
    return _address(
        response, request, browser, await service.begin_signing_in(shop_of(request), door, back, now(), browser)
    )


@router.post("/session/company")
async def sign_in_by_company(request: Request, response: Response, body: CompanySignIn) -> SignedInOut:
    """Sign in with what the company sent back. The answer is that of signing in with a PIN."""
    settings, (door, back) = settings_of(request), _door(request)
    if body.key:
        read_key(body.key)
    here, tried = await service.sign_in(
        shop_of(request), door, back, body.state, body.code, body.device, settings.session_hours, now(), body.key,
        browser_of(request) or "",
    )  # fmt: skip
    return entered(response, settings, here, tried, tablet_of(request) or new_tablet())


@router.get("/company")
async def get_company(request: Request, here: Work, who: Who) -> CompanyOut:
    """Whether one signs in by an account at the company; refused where no company is known."""
    _door(request)
    return CompanyOut(name=settings_of(request).company_name, added=await service.has_one(here, who))


@router.post("/company/address")
async def ask_company_for_own(
    request: Request, response: Response, who: Who, body: CompanyAskIn
) -> CompanyAddressOut:  # fmt: skip
    """Begin to add one's own account at the company, with the PIN."""
    (door, back), browser = _door(request), new_tablet()
    tablet = hashed(tablet_of(request) or "")
    return _address(
        response, request, browser,
        await service.begin_adding(shop_of(request), who, door, back, body.pin, now(), tablet, browser),
    )  # fmt: skip


@router.post("/company", status_code=204)
async def add_company(request: Request, who: Who, body: CompanyBackIn) -> None:
    """Add one's own account, with what the company sent back."""
    door, back = _door(request)
    await service.add(shop_of(request), who, door, back, body.state, body.code, now(), browser_of(request) or "")


@router.delete("/company", status_code=204)
async def delete_company(here: Work, who: Who) -> None:
    """Sign in by no such account any more."""
    await service.take_away(here, who)
