"""What a tablet kept of somebody who signed out, sent by whoever is signed in on it now.

On signing out a tablet encrypts what it still keeps by a key of that person, which it then forgets: nobody who signs in
next, and nobody who finds it, reads what was tapped. It is sent as it is; the server opens it, and each entry goes the
way of any other, by its seal or its pen. Form: `encrypted.`, the person's id, a dot, and in base64url 12 bytes of nonce
with what AES-256-GCM makes of the JSON of `EntryIn`; its id is bound to it.
"""

from __future__ import annotations

import json
from base64 import urlsafe_b64decode
from collections.abc import Mapping, Sequence
from typing import Any

from cryptography.exceptions import InvalidTag
from cryptography.hazmat.primitives.ciphers.aead import AESGCM

from jutrel.core.errors import BadInput
from jutrel.service.context import Here
from jutrel.service.people.pens import Shown, tablet_key

PREFIX, PEN = "encrypted.", "pen"
"""Before whatever is encrypted; and what a pen's secret is bound to."""
NONCE = 12
LONGEST = 90_000
"""Something encrypted that can be read [characters]."""


def is_encrypted(entry: Any) -> bool:
    """Whether an entry, as it was sent, is one that its tablet encrypted."""
    return isinstance(entry, Mapping) and isinstance(entry.get("encrypted"), str)


def opened(key: bytes, data: bytes, bound: str) -> bytes:
    """What was encrypted by a key and bound to an id; raises BadInput where it was not.

    >>> sealed = AESGCM(bytes(32)).encrypt(bytes(12), b"4 L", b"an-id")
    >>> opened(bytes(32), bytes(12) + sealed, "an-id")
    b'4 L'
    """
    try:
        return AESGCM(key).decrypt(data[:NONCE], data[NONCE:], bound.encode())
    except (InvalidTag, ValueError):
        raise BadInput("encrypted", "was not encrypted on a tablet of this site, or was changed since") from None


class Opener:
    """Opens what tablets encrypted, each person's key worked out once."""

    def __init__(self, here: Here) -> None:
        self.here = here
        self._keys: dict[str, bytes] = {}

    async def bytes_of(self, person: str, data: bytes, bound: str) -> bytes:
        """What was encrypted of a person; raises BadInput where it cannot be opened."""
        if person not in self._keys:
            self._keys[person] = await tablet_key(self.here, person)
        return opened(self._keys[person], data, bound)

    async def text_of(self, text: str, bound: str) -> bytes:
        """The same, in its form as text."""
        person, _, data = text.removeprefix(PREFIX).partition(".")
        if not text.startswith(PREFIX) or not data or len(text) > LONGEST:
            raise BadInput("encrypted", "give `encrypted.`, the person's id, a dot and what was encrypted")
        try:
            raw = urlsafe_b64decode(data + "=" * (-len(data) % 4))
        except ValueError:
            raise BadInput("encrypted", "is not base64url") from None
        return await self.bytes_of(person, raw, bound)

    async def secret(self, secret: str) -> str:
        """A pen's secret, opened if it was encrypted; empty where it cannot be: it then opens nothing."""
        try:
            return await self.told(secret)
        except BadInput:
            return ""

    async def told(self, secret: str) -> str:
        """The same; raises BadInput where it cannot be opened."""
        return (await self.text_of(secret, PEN)).decode() if secret.startswith(PREFIX) else secret

    async def entry(self, entry: Any) -> Any:
        """An entry as it was before it was encrypted; one that cannot be opened as it is, to be refused by itself."""
        if not is_encrypted(entry):
            return entry
        try:
            found = json.loads(await self.text_of(entry["encrypted"], str(entry.get("id"))))
            json.dumps(
                found, ensure_ascii=False, allow_nan=False
            ).encode()  # what no database can keep: a number that is none
        except (BadInput, ValueError, RecursionError):
            return entry
        return {**found, "id": entry["id"]} if isinstance(found, dict) and "encrypted" not in found else entry


def has_encrypted(entries: Sequence[Any], shown: Shown) -> bool:
    """Whether anything in a batch has to be opened first."""
    return any(map(is_encrypted, entries)) or any(s.startswith(PREFIX) for s in shown.secrets)


async def opened_batch(here: Here, entries: Sequence[Any], shown: Shown) -> tuple[list[Any], Shown]:
    """A batch with everything opened that its tablet encrypted."""
    opener = Opener(here)
    secrets = tuple([s for secret in shown.secrets if (s := await opener.secret(secret))])
    return [await opener.entry(e) for e in entries], Shown(secrets, shown.certificates)
