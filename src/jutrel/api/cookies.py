"""What this server has a browser keep: the session, and what a tablet is known by."""

from __future__ import annotations

import secrets

from fastapi import Request, Response
from starlette.types import Scope

from jutrel.settings import Settings

COOKIE = "jutrel"
TABLET_S = 400 * 24 * 3600
"""As long as browsers keep a cookie at most."""
COMPANY_S = 600


def token_of(request: Request) -> str | None:
    """The session's token as the device sent it."""
    return request.cookies.get(cookie_name(request.app.state.settings))


def cookie_of(scope: Scope, name: str) -> str | None:
    """A cookie of a request that nobody has taken apart yet."""
    return Request(scope).cookies.get(name)


def cookie_name(settings: Settings, what: str = "") -> str:
    """A cookie's name, the session's or another's: over TLS one that no other host, path or plain page can set."""
    name = f"{COOKIE}-{what}" if what else COOKIE
    return f"__Host-{name}" if settings.over_tls else name


def _keep(response: Response, what: str, value: str, seconds: int, settings: Settings) -> None:
    """Have the browser keep something: not for scripts, not for other sites."""
    response.set_cookie(
        cookie_name(settings, what),
        value,
        max_age=seconds,
        httponly=True,
        samesite="strict",
        secure=settings.over_tls,
        path="/" if settings.over_tls else "/api",
    )


def set_cookie(response: Response, token: str, settings: Settings) -> None:
    """The session cookie."""
    _keep(response, "", token, int(settings.session_hours * 3600), settings)


def tablet_of(request: Request) -> str | None:
    """What this tablet was given when somebody signed in on it first."""
    return request.cookies.get(cookie_name(request.app.state.settings, "tablet"))


def new_tablet() -> str:
    """What a tablet is known by from now on: a secret, and no name."""
    return secrets.token_urlsafe(32)


def set_tablet(response: Response, tablet: str, settings: Settings) -> None:
    """Have the tablet keep it, longer than any session."""
    _keep(response, "tablet", tablet, TABLET_S, settings)


def company_of(request: Request) -> str | None:
    """What this browser was given when it went to the company's page."""
    return request.cookies.get(cookie_name(request.app.state.settings, "company"))


def set_company(response: Response, browser: str, settings: Settings) -> None:
    """Have the browser keep what shows that it is the one which went to the company's page."""
    _keep(response, "company", browser, COMPANY_S, settings)
