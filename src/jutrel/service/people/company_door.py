"""What is asked of a company's own sign-in (OpenID Connect Core 1.0, code flow with PKCE), and what it answers.

Nothing of the store is held while it is asked: it may be slow, or away.
"""

from __future__ import annotations

import asyncio
import hashlib
import json
import time
from base64 import urlsafe_b64encode
from collections.abc import AsyncIterator, Mapping
from contextlib import asynccontextmanager
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any
from urllib.parse import quote_plus, urlencode, urlsplit

import httpx
from joserfc import jwt
from joserfc.errors import JoseError
from joserfc.jwk import KeySet

from jutrel.core.wording import say
from jutrel.service.problem import NotSignedIn, Problem
from jutrel.settings import LOOPBACK, Settings

ALGORITHMS = ["RS256", "PS256", "ES256", "EdDSA"]
"""Signed by a key that the company alone holds; never by the secret that this server holds as well."""
NO = say("Your company's sign-in did not say who you are. Try again.")
AWAY = say("Your company's sign-in does not answer. Sign in with your PIN.")
WAIT_S, MOST_S, KNOWN_S = 3.0, 4.0, 600.0
MOST_BYTES = 200_000
LEEWAY_S = 60
FIELDS = ("issuer", "authorization_endpoint", "token_endpoint", "jwks_uri")


class CompanyAway(Problem):
    """The company's own sign-in does not answer, or not as it should."""

    status = 503

    def __init__(self) -> None:
        super().__init__("company-away", AWAY)


@dataclass(slots=True)
class CompanyDoor:
    """A company's own sign-in; what it says of itself is kept for ten minutes."""

    issuer: str = ""
    client: str = ""
    secret: str = field(default="", repr=False)
    _about: dict[str, str] = field(default_factory=dict)
    _keys: KeySet | None = None
    _until: float = 0.0

    @classmethod
    def of(cls, settings: Settings) -> CompanyDoor | None:
        """The one that this installation knows; None: it knows none."""
        if not (settings.company_issuer and settings.company_client):
            return None
        return cls(settings.company_issuer.rstrip("/"), settings.company_client, settings.company_secret)

    async def address(self, back: str, state: str, nonce: str, verifier: str) -> str:
        """Where the browser goes to sign in anew, whoever signed in there before; raises CompanyAway."""
        async with _in_time():
            about, _ = await self._known()
        asked = {
            "response_type": "code", "client_id": self.client, "redirect_uri": back, "scope": "openid", "state": state,
            "nonce": nonce, "code_challenge": challenge_of(verifier), "code_challenge_method": "S256",
            # A shared computer may hold somebody else's session at the company: its page asks who it is each time.
            "prompt": "login", "max_age": "0",
        }  # fmt: skip
        there = about["authorization_endpoint"]
        return f"{there}{'&' if '?' in there else '?'}{urlencode(asked)}"

    async def subject(self, code: str, back: str, nonce: str, verifier: str, begun_at: datetime, now: datetime) -> str:
        """Who signed in at the company, as it calls them.

        Raises
        ------
        CompanyAway
            If it does not answer.
        NotSignedIn
            If what it answers does not hold: for somebody else, of another time, by another key.
        """
        form = {
            "grant_type": "authorization_code", "code": code, "redirect_uri": back, "code_verifier": verifier,
            "client_id": self.client,
        }  # fmt: skip
        shown = (quote_plus(self.client), quote_plus(self.secret)) if self.secret else None
        async with _in_time():
            about, keys = await self._known()
            given = await _read(about["token_endpoint"], form, shown)
        try:
            claims = jwt.decode(str(given["id_token"]), keys, algorithms=ALGORITHMS).claims
            jwt.JWTClaimsRegistry(
                now=int(now.timestamp()), leeway=LEEWAY_S,
                iss={"essential": True, "value": about["issuer"]}, aud={"essential": True, "value": self.client},
                sub={"essential": True}, exp={"essential": True}, iat={"essential": True},
                nonce={"essential": True, "value": nonce}, auth_time={"essential": True},
            ).validate(claims)  # fmt: skip
            if isinstance(claims["aud"], list) and len(claims["aud"]) > 1 and claims.get("azp") != self.client:
                raise ValueError("for somebody else")
            # Whoever sits at the computer signed in just now, not whoever sat there in the morning.
            if float(claims["auth_time"]) < (begun_at - timedelta(seconds=LEEWAY_S)).timestamp():
                raise ValueError("signed in before")
            subject = str(claims["sub"])
            if not 0 < len(subject) <= 255 or "\0" in subject:
                raise ValueError("no name")
        except (JoseError, KeyError, TypeError, ValueError):
            self._until = 0.0  # it may have other keys by now
            raise NotSignedIn("company-no", NO) from None
        return subject

    async def _known(self) -> tuple[dict[str, str], KeySet]:
        if self._keys is None or time.monotonic() >= self._until:
            about = await _read(f"{self.issuer}/.well-known/openid-configuration")
            told = {name: str(about.get(name, "")) for name in FIELDS}
            if told["issuer"].rstrip("/") != self.issuer or not all(map(_is_safe, told.values())):
                raise CompanyAway
            try:
                self._keys = KeySet.import_key_set(await _read(told["jwks_uri"]))  # type: ignore[arg-type]
            except (JoseError, KeyError, TypeError, ValueError):
                raise CompanyAway from None
            self._about, self._until = told, time.monotonic() + KNOWN_S
        return self._about, self._keys


@asynccontextmanager
async def _in_time() -> AsyncIterator[None]:
    """All that is asked of the company for one request, within a few seconds; raises CompanyAway after them."""
    try:
        async with asyncio.timeout(MOST_S):
            yield
    except TimeoutError:
        raise CompanyAway from None


def challenge_of(verifier: str) -> str:
    """What is told beforehand of a secret that is shown later (S256).

    The example is that of RFC 7636, appendix B.

    >>> challenge_of("dBjftJeZ4CVP-mB92K27uhbUJU1p1r_wW1gFWFOEjXk")
    'E9Melhoa2OwvFrEMTJguCHaoeK1t8URWbuGJSstw-cM'
    """
    return urlsafe_b64encode(hashlib.sha256(verifier.encode()).digest()).rstrip(b"=").decode()


def _is_safe(address: str) -> bool:
    """Over TLS, or on this machine."""
    parts = urlsplit(address)
    return parts.scheme == "https" or (parts.scheme == "http" and parts.hostname in LOOPBACK)


async def _read(
    address: str, form: Mapping[str, str] | None = None, shown: tuple[str, str] | None = None
) -> dict[str, Any]:  # fmt: skip
    """What an address of the company answers, to a form or without one; NotSignedIn where it says no to a form."""
    if not _is_safe(address):
        raise CompanyAway
    method = "GET" if form is None else "POST"
    try:
        async with (
            httpx.AsyncClient(timeout=WAIT_S, auth=shown) as asking,
            asking.stream(method, address, data=form) as answer,
        ):
            if form is not None and answer.status_code in (400, 401):
                raise NotSignedIn("company-no", NO)
            answer.raise_for_status()
            body = b""
            async for part in answer.aiter_bytes():
                body += part
                if len(body) > MOST_BYTES:
                    raise CompanyAway
        told = json.loads(body)
    except (httpx.HTTPError, ValueError):
        raise CompanyAway from None
    if not isinstance(told, dict):
        raise CompanyAway
    return told
