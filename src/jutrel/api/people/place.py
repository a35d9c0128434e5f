"""Where a page is, as keys know it."""

from __future__ import annotations

from fastapi import Request

from jutrel.api.door import public_address
from jutrel.service.people.passkeys import KeyPlace
from jutrel.settings import Settings


def place_of(request: Request, settings: Settings) -> KeyPlace | None:
    """Where keys are used: at the public address, or on localhost; None: browsers use no keys here."""
    if address := public_address(request):
        return KeyPlace(address) if settings.over_tls else None
    told = request.headers.get("host", "")
    return KeyPlace(f"{request.url.scheme}://{told}") if told.partition(":")[0] == "localhost" else None
