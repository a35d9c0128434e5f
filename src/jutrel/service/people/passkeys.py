"""Passkeys beside the PIN: a key of one's own, on a phone or a stick, that signs in without a PIN being typed.

A shared tablet keeps none: whoever knows how to unlock it would be whoever made one there. What clears a machine asks
for the PIN all the same.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from urllib.parse import urlsplit

from webauthn import (
    base64url_to_bytes,
    generate_authentication_options,
    generate_registration_options,
    options_to_json,
    verify_authentication_response,
    verify_registration_response,
)
from webauthn.helpers import bytes_to_base64url
from webauthn.helpers.exceptions import WebAuthnException
from webauthn.helpers.structs import (
    AuthenticatorAttachment,
    AuthenticatorSelectionCriteria,
    PublicKeyCredentialDescriptor,
    ResidentKeyRequirement,
    UserVerificationRequirement,
)

from jutrel.core.account import AccountChange
from jutrel.core.wording import say
from jutrel.service.context import Here, Shop, here_of
from jutrel.service.people.account import note
from jutrel.service.people.people import Actor, open_session
from jutrel.service.people.pins import TriedPin, after_own_pin
from jutrel.service.problem import Conflict, NotFound, NotSignedIn, Problem, TooSoon
from jutrel.store.queries import passkeys as store
from jutrel.store.queries import people as people_store
from jutrel.store.queries.passkeys import Passkey

__all__ = ["KeyPlace", "Passkey"]
ASKED_FOR = timedelta(minutes=3)
MOST_KEYS, MOST_ASKED, MOST_ASKED_OF_ALL = 5, 5, 500
WAIT_S = 30
NOT_THIS = say("This key is not known here. Sign in with your PIN.")


@dataclass(frozen=True, slots=True)
class KeyPlace:
    """Where a page is: the origin that a browser tells, and the name by which keys know this site."""

    origin: str

    @property
    def name(self) -> str:
        """The host.

        >>> KeyPlace("https://yard.example:8443").name
        'yard.example'
        """
        return urlsplit(self.origin).hostname or ""


async def begin_adding(
    shop: Shop, actor: Actor, place: KeyPlace, pin: str, now: datetime, tablet: str
) -> dict[str, Any]:  # fmt: skip
    """What the browser is to ask of a new key, after the PIN; raises NotSignedIn for a wrong one."""
    asked: dict[str, Any] = {}

    async def ask(here: Here) -> None:
        have = await store.keys_of(here.db, here.site.id, actor.person.id)
        if len(have) >= MOST_KEYS:
            raise Conflict("many-keys", "You have {most} keys. Take one away first.", most=MOST_KEYS)
        options = generate_registration_options(
            rp_id=place.name,
            rp_name=here.site.name,
            user_name=actor.person.name,
            user_id=actor.person.id.encode(),
            authenticator_selection=AuthenticatorSelectionCriteria(
                authenticator_attachment=AuthenticatorAttachment.CROSS_PLATFORM,
                resident_key=ResidentKeyRequirement.REQUIRED,
                user_verification=UserVerificationRequirement.REQUIRED,
            ),
            exclude_credentials=[PublicKeyCredentialDescriptor(id=base64url_to_bytes(k.id)) for k in have],
        )
        await _ask(here, bytes_to_base64url(options.challenge), actor.person.id, MOST_ASKED)
        asked.update(json.loads(options_to_json(options)))

    await after_own_pin(shop, actor.person.id, pin, now, tablet, ask)
    return asked


async def add(here: Here, actor: Actor, place: KeyPlace, name: str, credential: dict[str, Any]) -> Passkey:
    """Keep a key that answered what `begin_adding` asked.

    Raises
    ------
    Problem
        If it did not, or took too long.
    """
    challenge = await _challenge_of(here, credential, actor.person.id)
    try:
        found = verify_registration_response(
            credential=credential,
            expected_challenge=challenge,
            expected_rp_id=place.name,
            expected_origin=place.origin,
            require_user_verification=True,
        )
    except (WebAuthnException, ValueError, KeyError, TypeError):
        raise Problem("not-this-key", "This key did not answer as it should. Try again, or use another.") from None
    made = Passkey(
        bytes_to_base64url(found.credential_id), actor.person.id, " ".join(name.split()) or "1",
        found.credential_public_key, found.sign_count, here.now,
    )  # fmt: skip
    if await store.key(here.db, here.site.id, made.id) is not None:
        raise Conflict("key-there", "This key was added already.")
    await store.keep(here.db, here.site.id, made)
    await note(here, actor.person.id, AccountChange.KEY_ADDED, actor.person.id)
    return made


async def keys(here: Here, actor: Actor) -> list[Passkey]:
    """One's own keys."""
    return await store.keys_of(here.db, here.site.id, actor.person.id)


async def take_away(here: Here, actor: Actor, key: str) -> None:
    """Take one's own key away; NotFound if there is none such."""
    if not await store.let_go(here.db, here.site.id, actor.person.id, key):
        raise NotFound("no-key", "There is no such key any more.")
    await note(here, actor.person.id, AccountChange.KEY_ENDED, actor.person.id)


async def begin_signing_in(here: Here, place: KeyPlace) -> dict[str, Any]:
    """What the browser is to ask of whichever key is there; it tells nobody who has one."""
    options = generate_authentication_options(
        rp_id=place.name, user_verification=UserVerificationRequirement.REQUIRED
    )  # fmt: skip
    await _ask(here, bytes_to_base64url(options.challenge), "", MOST_ASKED_OF_ALL)
    asked: dict[str, Any] = json.loads(options_to_json(options))
    return asked


async def sign_in(
    shop: Shop, place: KeyPlace, credential: dict[str, Any], device: str, hours: float, now: datetime, pen_key: str,
    tablet: str,
) -> tuple[Here, TriedPin]:  # fmt: skip
    """Open a session for whoever's key answered.

    Raises
    ------
    NotSignedIn
        If the key is not known here, was not used by its owner, or its person left or has a PIN to choose.
    """
    async with shop.store.transaction() as db:
        here = await here_of(db, shop.books, now)
        challenge = await _challenge_of(here, credential, "")
    async with shop.store.transaction() as db:
        here = await here_of(db, shop.books, now)
        known = await store.key(here.db, here.site.id, str(credential.get("id")))
        pin = None if known is None else await people_store.pin_of(here.db, here.site.id, known.person)
        if known is None or pin is None or not pin.person.active or pin.once:
            raise NotSignedIn("not-this-key", NOT_THIS)
        try:
            found = verify_authentication_response(
                credential=credential,
                expected_challenge=challenge,
                expected_rp_id=place.name,
                expected_origin=place.origin,
                credential_public_key=known.public,
                credential_current_sign_count=known.count,
                require_user_verification=True,
            )
        except (WebAuthnException, ValueError, KeyError, TypeError):
            raise NotSignedIn("not-this-key", NOT_THIS) from None
        await store.used(here.db, here.site.id, known.id, found.new_sign_count, here.now)
        return here, await open_session(here, pin.person, device, hours, pen_key, tablet)


async def _ask(here: Here, challenge: str, person: str, most: int) -> None:
    if not await store.ask(here.db, here.site.id, challenge, person, here.now + ASKED_FOR, here.now, most):
        raise TooSoon(
            "busy", "Many keys are asked just now. Wait {wait} s, or use your PIN.", wait_s=WAIT_S, wait=WAIT_S
        )


async def _challenge_of(here: Here, credential: dict[str, Any], person: str) -> bytes:
    """The challenge that a key says it signed, used up; Problem if nobody asked it."""
    try:
        told = json.loads(base64url_to_bytes(credential["response"]["clientDataJSON"]))
        challenge = str(told["challenge"]).rstrip("=")
        asked = base64url_to_bytes(challenge)
    except (KeyError, TypeError, ValueError):
        raise Problem("not-this-key", "This key did not answer as it should. Try again, or use another.") from None
    if not await store.take_asked(here.db, here.site.id, challenge, person, here.now):
        raise Problem("asked-too-long-ago", "It took too long. Try again.")
    return asked
