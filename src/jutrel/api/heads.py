"""A request's head comes at once or not at all: a connection that sends half of one is closed."""

from __future__ import annotations

import asyncio
from typing import Any

from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

HEAD_S = 10.0
"""So long a head may take [s], from the connection's first byte or its last answer; over the worst mobile network it
is there in two."""


class HeadInTime(HttpToolsProtocol):
    """The server's own protocol, which waits for a head no longer than that."""

    _waiting: asyncio.TimerHandle | None = None

    def connection_made(self, transport: Any) -> None:
        """Somebody connected: they say something now."""
        super().connection_made(transport)
        self._wait()

    def on_message_begin(self) -> None:
        """The first line of a head began to come, the first or a later one on this connection."""
        super().on_message_begin()
        if self._waiting is None:
            self._wait()

    def on_headers_complete(self) -> None:
        """The head is there; how long its body and its answer may take is decided elsewhere."""
        self._stop_waiting()
        super().on_headers_complete()

    def connection_lost(self, exc: Exception | None) -> None:
        """They left."""
        self._stop_waiting()
        super().connection_lost(exc)

    def _wait(self) -> None:
        self._waiting = self.loop.call_later(HEAD_S, self.transport.abort)

    def _stop_waiting(self) -> None:
        if self._waiting is not None:
            self._waiting.cancel()
            self._waiting = None
