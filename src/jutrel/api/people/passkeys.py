"""Routes: passkeys beside the PIN."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any

from fastapi import APIRouter, Request, Response
from pydantic import Field, StringConstraints

from jutrel.api.cookies import new_tablet, tablet_of
from jutrel.api.door import PROBLEMS, Open, Who, Work, now, settings_of, shop_of
from jutrel.api.people.place import place_of
from jutrel.api.people.routes import entered
from jutrel.api.people.wire import SignedInOut
from jutrel.api.wire import NO_NUL, In, Out, Slug
from jutrel.service.log.seal import read_key
from jutrel.service.people import passkeys as service
from jutrel.service.people.passkeys import KeyPlace
from jutrel.service.people.pens import hashed
from jutrel.service.problem import Conflict

router = APIRouter(prefix="/api", tags=["people"], responses=PROBLEMS)
Text = Annotated[str, StringConstraints(pattern=NO_NUL, max_length=8000)]
KeyId = Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9_-]{8,1400}$")]


class KeyAsked(In):
    """The PIN, before a key is added."""

    pin: Annotated[str, StringConstraints(pattern=NO_NUL, max_length=20)]


class KeyOptionsOut(Out):
    """What the browser is to ask of a key (WebAuthn), as it takes it."""

    options: dict[str, Any]


class Credential(In):
    """What a key answered, as the browser writes it (WebAuthn, `toJSON`)."""

    id: KeyId
    rawId: KeyId  # noqa: N815
    type: Annotated[str, StringConstraints(pattern=r"^public-key$")]
    response: dict[Slug, Text | list[Text] | int | None]
    authenticatorAttachment: Annotated[str, StringConstraints(pattern=r"^[a-z-]{1,20}$")] | None = None  # noqa: N815
    clientExtensionResults: dict[str, Any] = Field(default_factory=dict)  # noqa: N815


class KeyIn(In):
    """A key that answered; `name`: what its owner calls it."""

    name: Annotated[str, StringConstraints(pattern=NO_NUL, max_length=40)] = ""
    credential: Credential


class KeyOut(Out):
    """A key of one's own."""

    id: str
    name: str
    made_at: datetime
    used_at: datetime | None


class KeySignIn(In):
    """A key that answered when somebody signs in; `key`: as for a PIN."""

    credential: Credential
    device: Slug
    key: Annotated[str, StringConstraints(max_length=300, pattern=r"^[A-Za-z0-9_-]*$")] = ""


def _place(request: Request) -> KeyPlace:
    place = place_of(request, settings_of(request))
    if place is None:
        raise Conflict("no-keys-here", "Keys are used where this site has its own address, over TLS.")
    return place


@router.post("/passkeys/options")
async def begin_key(request: Request, who: Who, body: KeyAsked) -> KeyOptionsOut:
    """Begin to add a key of one's own, with the PIN."""
    tablet = hashed(tablet_of(request) or "")
    return KeyOptionsOut(
        options=await service.begin_adding(shop_of(request), who, _place(request), body.pin, now(), tablet)
    )  # fmt: skip


@router.post("/passkeys", status_code=201)
async def add_key(request: Request, here: Work, who: Who, body: KeyIn) -> KeyOut:
    """Add a key of one's own that answered what was asked."""
    credential = body.credential.model_dump(exclude_none=True)
    return KeyOut.model_validate(await service.add(here, who, _place(request), body.name, credential))


@router.get("/passkeys")
async def get_keys(request: Request, here: Work, who: Who) -> list[KeyOut]:
    """One's own keys; refused where browsers use none."""
    _place(request)
    return [KeyOut.model_validate(k) for k in await service.keys(here, who)]


@router.delete("/passkeys/{key}", status_code=204)
async def delete_key(here: Work, who: Who, key: KeyId) -> None:
    """Take one's own key away."""
    await service.take_away(here, who, key)


@router.post("/session/passkey/options")
async def ask_key(request: Request, here: Open) -> KeyOptionsOut:
    """Begin to sign in with whichever key is there."""
    return KeyOptionsOut(options=await service.begin_signing_in(here, _place(request)))


@router.post("/session/passkey")
async def sign_in_by_key(request: Request, response: Response, body: KeySignIn) -> SignedInOut:
    """Sign in with a key that answered what was asked. The answer is that of signing in with a PIN."""
    settings = settings_of(request)
    if body.key:
        read_key(body.key)
    tablet = tablet_of(request) or new_tablet()
    credential = body.credential.model_dump(exclude_none=True)
    here, tried = await service.sign_in(
        shop_of(request), _place(request), credential, body.device, settings.session_hours, now(), body.key,
        hashed(tablet),
    )  # fmt: skip
    return entered(response, settings, here, tried, tablet)
