"""Model files from site to site: signed by the site that gives one away, checked by the one that takes it in.

A signed file is a JSON Web Signature in its compact form (RFC 7515) with ES256. What is signed is a JSON object:
`format`, `model`, `file` (the file's text), `site` (its name), `at`, and `key`, the public half of the site's key.
"""

from __future__ import annotations

import hashlib
import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from jutrel.core.errors import BadInput
from jutrel.core.log.codec import encode, time_of
from jutrel.service.context import Here
from jutrel.service.log.seal import holds, opened, sealed
from jutrel.service.machine.models import MOST_BYTES, export_model
from jutrel.service.people.pens import site_key
from jutrel.service.problem import Conflict

FORMAT = "jutrel-model/1"
LONGEST = 2 * MOST_BYTES
_SIGNED = re.compile(r"[A-Za-z0-9_-]+\.[A-Za-z0-9_-]+\.[A-Za-z0-9_-]+")


@dataclass(frozen=True, slots=True)
class SignedBy:
    """Who signed a file: the site as it calls itself, when, the fingerprint of its key, and whether it is this one."""

    site: str
    at: datetime
    key: str
    own: bool


def fingerprint(key: str) -> str:
    """A public key as two people compare it by telephone: the first 80 bits of its SHA-256, in groups of four.

    >>> fingerprint("MFkw")
    '4616 1997 9CB3 0953 C96D'
    """
    whole = hashlib.sha256(key.encode()).hexdigest()[:20].upper()
    return " ".join(whole[n : n + 4] for n in range(0, 20, 4))


async def own_key(here: Here) -> str:
    """The fingerprint of this site's key, to be read out to another site."""
    return fingerprint((await site_key(here))[1])


async def signed_model(here: Here, model_id: str) -> str:
    """The file of a model, signed by this site; NotFound if there is no such model."""
    private, public = await site_key(here)
    says = {
        "format": FORMAT,
        "model": model_id,
        "file": await export_model(here, model_id, as_json=False),
        "site": here.site.name,
        "at": encode(here.now),
        "key": public,
    }
    return sealed(private, fingerprint(public), says)


def is_signed(text: str) -> bool:
    """Whether a file is a signed one."""
    return _SIGNED.fullmatch(text.strip()) is not None


async def opened_model(here: Here, text: str) -> tuple[str, SignedBy]:
    """The file within a signed one, and who signed it.

    Raises
    ------
    BadInput
        If it is no signed model file, or not as it was signed.
    """
    signed = text.strip()
    try:
        says = opened(signed, LONGEST).says
    except BadInput as no:
        raise BadInput("text", no.says) from None
    file, key = _word(says, "file", MOST_BYTES), _word(says, "key", 400)
    if says.get("format") != FORMAT:
        raise BadInput("text", "is signed, and is no model file")
    try:
        good = holds(signed, key)
    except BadInput:
        good = False
    if not good:
        raise BadInput("text", "is not as it was signed: it was changed on the way. Ask for it again")
    own = key == (await site_key(here))[1]
    return file, SignedBy(_word(says, "site", 200), time_of("at", says.get("at")), fingerprint(key), own)


def check_signer(signed: SignedBy, compared: str) -> None:
    """That somebody compared the key with the site that signed; Conflict if not. This site's own needs none."""
    if signed.own or compared.replace(" ", "").upper() == signed.key.replace(" ", ""):
        return
    raise Conflict(
        "unknown-signer",
        "{site} signed it with the key {key}. Ask them by telephone whether it is theirs, then take it in with it.",
        field="signer",
        site=signed.site,
        key=signed.key,
    )


def _word(says: Mapping[str, Any], name: str, most: int) -> str:
    value = says.get(name)
    if not isinstance(value, str) or not 0 < len(value) <= most:
        raise BadInput("text", "lacks its `{name}`", name=name)
    return value
