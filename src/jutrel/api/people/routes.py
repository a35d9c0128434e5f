"""Routes: the door and the people."""

from __future__ import annotations

from collections.abc import Mapping

from fastapi import APIRouter, Query, Request, Response

from jutrel.api.cookies import cookie_name, new_tablet, set_cookie, set_tablet, tablet_of, token_of
from jutrel.api.door import PROBLEMS, Open, Who, Work, now, settings_of, shop_of
from jutrel.api.language import Tongue
from jutrel.api.people.place import company_door, place_of
from jutrel.api.people.wire import (
    AccountLineOut,
    AccountOut,
    CertificateOut,
    DoorOut,
    LanguageIn,
    PenOut,
    PersonOut,
    PinAgain,
    SessionOut,
    SignedInLineOut,
    SignedInOut,
    SignIn,
    SiteKeyOut,
)
from jutrel.api.wire import Uuid
from jutrel.core.account import CONSOLE, SAYS, AccountLine
from jutrel.core.people import Role, rights_of, role_said
from jutrel.core.wording import Wording, say
from jutrel.exchange.table import table
from jutrel.service.context import Here
from jutrel.service.log import hands
from jutrel.service.log.seal import read_key
from jutrel.service.people import people as service
from jutrel.service.people.account import account, account_broken_at
from jutrel.service.people.pens import certificate_of, hashed, site_key
from jutrel.service.people.pins import TriedPin
from jutrel.service.people.sessions import end_session_of, sessions_for
from jutrel.settings import Settings

HINT = say("Demo: everyone's PIN is {pin}. All people, makers and numbers are invented.").text
router = APIRouter(prefix="/api", tags=["people"], responses=PROBLEMS)


@router.get("/door")
async def door(request: Request, here: Open, wording: Tongue) -> DoorOut:
    """Who may sign in here. Needs no session: it is what a shared tablet shows."""
    listed = await service.people(here)
    return DoorOut(
        site=here.site.name,
        people=[PersonOut.model_validate(p) for p in listed],
        keys=place_of(request, settings_of(request)) is not None,
        company=settings_of(request).company_name if company_door(request, settings_of(request)) else "",
        hint=wording.say(say(HINT, pin=pin)) if (pin := settings_of(request).demo_pin) else "",
    )


@router.post("/session")
async def sign_in(request: Request, response: Response, body: SignIn) -> SignedInOut:
    """Sign in by name and PIN. Wrong PINs make the next try wait, longer each time.

    The answer brings a pen. With a key, entries are sealed by it on the device; without one, the pen's secret lets
    what is written there be sent later.
    """
    settings, shop = settings_of(request), shop_of(request)
    if body.key:
        read_key(body.key)
    hours = settings.session_hours
    tablet = tablet_of(request) or new_tablet()
    here, tried = await service.try_pin(
        shop, body.person, body.pin, body.device, hours, now(), body.key, body.new_pin, hashed(tablet)
    )
    return entered(response, settings, here, tried, tablet)


def entered(response: Response, settings: Settings, here: Here, tried: TriedPin, tablet: str) -> SignedInOut:
    """The answer of signing in: who, what they may do, and their pen; or the refusal, raised."""
    if tried.refusal is not None:
        raise tried.refusal
    assert tried.actor is not None
    set_cookie(response, tried.token, settings)
    set_tablet(response, tablet, settings)
    return SignedInOut(
        person=PersonOut.model_validate(tried.actor.person),
        may=list(rights_of(tried.actor.person.role)),
        site=here.site.name,
        zone=here.site.zone,
        units=here.site.units,
        numbers=list(here.site.numbers),
        now=now(),
        pen=PenOut(
            id=tried.actor.pen.id,
            secret=tried.secret,
            ends_at=tried.actor.pen.ends_at,
            certificate=tried.certificate,
        ),
        tablet_key=tried.tablet_key,
    )


@router.get("/site/key")
async def get_site_key(here: Work, who: Who) -> SiteKeyOut:
    """The public half of the key with which the site vouches for pens."""
    return SiteKeyOut(site=here.site.id, key=(await site_key(here))[1])


@router.get("/pens/{pen}")
async def get_pen(here: Work, who: Who, pen: Uuid) -> CertificateOut:
    """The site's word for a pen: whose it is, as what, on which device, for how long, and its public half."""
    return CertificateOut(pen=pen, certificate=await certificate_of(here, pen))


@router.get("/session")
async def session(here: Work, who: Who) -> SessionOut:
    """Who is signed in on this device."""
    return SessionOut(
        person=PersonOut.model_validate(who.person),
        may=list(rights_of(who.person.role)),
        site=here.site.name,
        zone=here.site.zone,
        units=here.site.units,
        numbers=list(here.site.numbers),
        now=now(),
    )


@router.post("/session/pin", status_code=204)
async def pin_again(request: Request, who: Who, body: PinAgain) -> None:
    """Give the PIN again for entries that release, accept, examine, confirm what another did, or lower hours.

    It is given before they are sent, or when one is refused as `pin-again`; it counts for these entries alone.
    """
    tablet = hashed(tablet_of(request) or "")
    whose = body.person or who.person.id
    tried = await hands.give_pin(shop_of(request), who, whose, body.pin, body.entries, now(), tablet)
    if tried.refusal is not None:
        raise tried.refusal


@router.get("/sessions")
async def get_sessions(here: Work, who: Who) -> list[SignedInLineOut]:
    """Who is signed in on which device: everybody for administrators, else oneself."""
    return [
        SignedInLineOut(
            id=s.pen, person=s.person, name=s.name, device=s.device, since=s.since, until=s.until,
            own=s.pen == who.pen.id,
        )
        for s in await sessions_for(here, who)
    ]  # fmt: skip


@router.delete("/sessions/{pen}", status_code=204)
async def delete_session(here: Work, who: Who, pen: Uuid) -> None:
    """Sign somebody out on a device: oneself, or anybody for an administrator; what was written there still counts."""
    await end_session_of(here, who, pen)


@router.put("/session/language", status_code=204)
async def choose_language(here: Work, who: Who, body: LanguageIn) -> None:
    """Note the language that the signed-in person reads."""
    await service.choose_language(here, who, body.language)


@router.delete("/session", status_code=204)
async def sign_out(request: Request, response: Response, here: Work, who: Who) -> None:
    """Sign out on this device."""
    await service.sign_out(here, token_of(request) or "")
    settings = settings_of(request)
    path = "/" if settings.over_tls else "/api"
    response.delete_cookie(
        cookie_name(settings), path=path, httponly=True, samesite="strict", secure=settings.over_tls
    )  # fmt: skip


@router.get("/account")
async def get_account(
    here: Work, who: Who, wording: Tongue, before: int | None = Query(default=None, ge=1, le=10**9)
) -> AccountOut:
    """Who changed people, devices, models and the site, the newest first; for administrators and supervisors."""
    service.allow(who, Role.ADMINISTRATOR, Role.SUPERVISOR)
    names = await service.names_of(here)
    lines = await account(here, before)
    return AccountOut(
        lines=[line_out(x, names, wording) for x in lines], whole=await account_broken_at(here) is None
    )  # fmt: skip


@router.get("/account.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}})
async def get_account_csv(here: Work, who: Who, wording: Tongue) -> Response:
    """The whole account as CSV (RFC 4180), the oldest first."""
    service.allow(who, Role.ADMINISTRATOR, Role.SUPERVISOR)
    names = await service.names_of(here)
    rows = []
    for x in reversed(await account(here, None, None)):
        out = line_out(x, names, wording)
        details = "; ".join(f"{k}: {v}" for k, v in sorted(out.details.items()))
        rows.append((x.seq, x.at.isoformat(), out.by or CONSOLE, out.says, out.about, details, x.hash))
    text = table(("seq", "at", "by", "what", "about", "details", "hash"), rows)
    headers = {"Content-Disposition": 'attachment; filename="account.csv"'}
    return Response(text, media_type="text/csv; charset=utf-8", headers=headers)


def line_out(line: AccountLine, names: Mapping[str, str], wording: Wording) -> AccountLineOut:
    """A line with names, in words; the details' roles too."""
    roles = {r.value: wording.say(role_said(r)) for r in Role}
    return AccountLineOut(
        seq=line.seq,
        at=line.at,
        by="" if line.by == CONSOLE else names.get(line.by, line.by),
        says=wording.say(SAYS[line.what]),
        about=names.get(line.about, line.about),
        details={k: roles.get(v, names.get(v, v)) for k, v in line.details.items()},
    )
