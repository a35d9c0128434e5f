"""The language of an answer: the one that the request asks for."""

from __future__ import annotations

from typing import Annotated, Any
from urllib.parse import parse_qs

from fastapi import Depends, Request
from starlette.types import Scope

from jutrel.core.wording import ENGLISH, Said, Wording


def wording_of(scope: Scope) -> Wording:
    """The language that a request asks for; English before the server knows any."""
    header = next((value for key, value in scope.get("headers", ()) if key == b"accept-language"), b"")
    asked = parse_qs(scope.get("query_string", b"")[:500].decode("latin-1"), errors="replace").get("language")
    # a link that the browser follows by itself names its language
    wanted = asked[-1] if asked else header.decode("latin-1")
    shop = getattr(getattr(scope.get("app"), "state", None), "shop", None)
    return shop.books.languages.choose(wanted) if shop is not None else ENGLISH


def _of_request(request: Request) -> Wording:
    return wording_of(request.scope)


Tongue = Annotated[Wording, Depends(_of_request)]


def told(said: Said | None, wording: Wording) -> Any:
    """A sentence in a language, or None."""
    return None if said is None else wording.say(said)
