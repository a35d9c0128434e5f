"""Where a page is, as keys and the company's own sign-in know it."""

from __future__ import annotations

from fastapi import Request

from jutrel.api.door import public_address
from jutrel.service.people.company import CompanyDoor
from jutrel.service.people.passkeys import KeyPlace
from jutrel.settings import Settings

BACK = "/company"
"""The page to which the company sends the browser back."""


def place_of(request: Request, settings: Settings) -> KeyPlace | None:
    """Where keys are used: at the public address, or on localhost; None: browsers use no keys here."""
    if address := public_address(request):
        return KeyPlace(address) if settings.over_tls else None
    told = request.headers.get("host", "")
    return KeyPlace(f"{request.url.scheme}://{told}") if told.partition(":")[0] == "localhost" else None


def company_door(request: Request, settings: Settings) -> tuple[CompanyDoor, str] | None:
    """The company's own sign-in and where it sends browsers back; None: there is none here."""
    place, app = place_of(request, settings), request.app
    if place is None:
        return None
    if not hasattr(app.state, "company"):
        app.state.company = CompanyDoor.of(settings)
    return (app.state.company, place.origin + BACK) if app.state.company is not None else None
