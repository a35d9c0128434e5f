"""What the server writes to its log: one line of JSON for each thing that went wrong, and, if asked, each request.

No line says who asked or for which machine: a line's number is also in the answer, and whoever tells of it is found.
"""

from __future__ import annotations

import json
import logging
import os
import re
import secrets
import sys
from contextvars import ContextVar
from datetime import UTC, datetime

from starlette.types import Scope

log = logging.getLogger("jutrel")
_about: ContextVar[dict[str, str] | None] = ContextVar("request", default=None)
_ID = re.compile(r"[A-Za-z0-9_-]{8,64}")
_TRACE = re.compile(r"[0-9a-f]{2}-([0-9a-f]{32})-[0-9a-f]{16}-[0-9a-f]{2}")


def note_request(scope: Scope) -> str:
    """Give the request under way a number, or take the proxy's; keep the trace that it belongs to (W3C traceparent)."""
    heads = {
        key: value.decode("latin-1") for key, value in scope["headers"] if key in (b"x-request-id", b"traceparent")
    }
    given = heads.get(b"x-request-id", "")
    id_ = given if _ID.fullmatch(given) else secrets.token_hex(8)
    trace = _TRACE.fullmatch(heads.get(b"traceparent", ""))
    _about.set({"request": id_} | ({"trace": trace[1]} if trace else {}))
    return id_


class JsonLine(logging.Formatter):
    """A record as one line: what happened, how bad, when, what it was about, and where it was raised."""

    def format(self, record: logging.LogRecord) -> str:
        """The line, without its end."""
        line = {
            "event": record.getMessage(),
            "level": record.levelname.lower(),
            "timestamp": datetime.fromtimestamp(record.created, UTC).isoformat(),
            **(_about.get() or {}),
            **getattr(record, "about", {}),
        }
        if record.exc_info:
            line["exception"] = self.formatException(record.exc_info)
        return json.dumps(line, ensure_ascii=False)


def log_plainly() -> None:
    """Write lines to standard output, once however often it is asked for."""
    if not log.handlers:
        handler = logging.StreamHandler(sys.stdout)
        handler.setFormatter(JsonLine())
        log.addHandler(handler)
        log.propagate = False
        log.setLevel(os.environ.get("JUTREL_LOG", "warning").upper())
