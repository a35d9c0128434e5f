"""A stand-in for a company's own sign-in (OpenID Connect), to try one without a company: nobody's password is asked.

``python -m jutrel.standin.company 8124`` serves it on loopback; whoever opens its page picks who they are.
"""

from __future__ import annotations

import hashlib
import html
import secrets
import sys
import time
from base64 import b64decode, urlsafe_b64encode
from collections.abc import Callable
from dataclasses import dataclass, field
from urllib.parse import parse_qsl, urlencode

import uvicorn
from fastapi import FastAPI, Request
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse, Response
from joserfc import jwt
from joserfc.jwk import ECKey, KeySet

ACCOUNTS = {"u-1001": "Desk of the site office", "u-1002": "Desk of the workshop"}
CLIENT, SECRET = "jutrel", "only-a-stand-in"
PAGE = """<!doctype html><html lang="en"><title>Stand-in</title><style>body{{font:18px sans-serif;margin:3em}}
button{{font:inherit;padding:.8em;margin:.3em;display:block}}</style><h1>Stand-in for a company's sign-in</h1>
<p>Not a real one: pick who you are.</p><form method="post">{hidden}{buttons}</form></html>"""


@dataclass
class StandInCompany:
    """What it has in mind: its key, and codes that were given out."""

    issuer: str
    clock: Callable[[], float] = time.time
    key: ECKey = field(default_factory=lambda: ECKey.generate_key("P-256", {"kid": "1", "use": "sig"}))
    codes: dict[str, dict[str, str]] = field(default_factory=dict)
    odd: dict[str, object] = field(default_factory=dict)
    """Claims that it gets wrong, for trying what is made of them."""

    def code(self, asked: dict[str, str], subject: str) -> str:
        """A code for whoever was picked."""
        code = secrets.token_urlsafe(24)
        self.codes[code] = {**asked, "sub": subject, "at": str(self.clock())}
        return code

    def token(self, code: str, verifier: str, back: str) -> dict[str, object] | None:
        """What a code is good for, once; None: for nothing."""
        given = self.codes.pop(code, None)
        if given is None or given["redirect_uri"] != back:
            return None
        told = urlsafe_b64encode(hashlib.sha256(verifier.encode()).digest()).rstrip(b"=").decode()
        if given.get("code_challenge") != told:
            return None
        now = int(self.clock())
        claims = {
            "iss": self.issuer, "aud": CLIENT, "sub": given["sub"], "iat": now, "exp": now + 300,
            "nonce": given.get("nonce", ""), "auth_time": int(float(given["at"])), **self.odd,
        }  # fmt: skip
        word = jwt.encode({"alg": "ES256", "kid": "1"}, claims, self.key)
        return {"access_token": secrets.token_urlsafe(16), "token_type": "Bearer", "expires_in": 300, "id_token": word}


async def _form(request: Request) -> dict[str, str]:
    return dict(parse_qsl((await request.body()).decode()))


def make_company(it: StandInCompany) -> FastAPI:
    """The stand-in's pages and addresses."""
    app = FastAPI(openapi_url=None)

    @app.get("/.well-known/openid-configuration")
    async def about() -> dict[str, str]:
        return {
            "issuer": it.issuer, "authorization_endpoint": f"{it.issuer}/in", "token_endpoint": f"{it.issuer}/token",
            "jwks_uri": f"{it.issuer}/keys",
        }  # fmt: skip

    @app.get("/keys")
    async def keys() -> JSONResponse:
        return JSONResponse(KeySet([it.key]).as_dict(private=False))

    @app.get("/in")
    async def page(request: Request) -> HTMLResponse:
        hidden = "".join(
            f'<input type="hidden" name="{html.escape(k)}" value="{html.escape(v)}">'
            for k, v in request.query_params.items()
        )
        buttons = "".join(f'<button name="sub" value="{k}">{html.escape(v)}</button>' for k, v in ACCOUNTS.items())
        return HTMLResponse(PAGE.format(hidden=hidden, buttons=buttons))

    @app.post("/in")
    async def picked(request: Request) -> Response:
        asked = await _form(request)
        code = it.code(asked, asked["sub"])
        return RedirectResponse(f"{asked['redirect_uri']}?{urlencode({'code': code, 'state': asked['state']})}", 303)

    @app.post("/token")
    async def token(request: Request) -> JSONResponse:
        asked = await _form(request)
        shown = request.headers.get("authorization", "").removeprefix("Basic ")
        if b64decode(shown).decode() != f"{CLIENT}:{SECRET}":
            return JSONResponse({"error": "invalid_client"}, 401)
        given = it.token(asked["code"], asked.get("code_verifier", ""), asked["redirect_uri"])
        return JSONResponse(given or {"error": "invalid_grant"}, 200 if given else 400)

    return app


def main(port: int) -> None:
    """Serve it on loopback."""
    uvicorn.run(make_company(StandInCompany(f"http://localhost:{port}")), host="127.0.0.1", port=port)


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 8124)
