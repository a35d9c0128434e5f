"""The real application, put on another database when a test asks: a process starts once for a worker, and not for
each test. Ships with the tests only."""

from __future__ import annotations

import asyncio
import contextlib
import json
import sys
from contextlib import AsyncExitStack
from typing import Any

import uvicorn

from jutrel.api.app import make_app
from jutrel.catalog import catalog
from jutrel.settings import Settings

USE = "/test/use"


class Switch:
    """Passes every request to the application that is in use."""

    def __init__(self) -> None:
        self.app: Any = None
        self.stack = AsyncExitStack()

    async def use(self, settings: Settings) -> None:
        """End the application in use and begin one with other settings."""
        before, self.stack = self.stack, AsyncExitStack()
        with contextlib.suppress(Exception):  # its database may be gone: then there is nothing left to end well
            await asyncio.wait_for(before.aclose(), 10)
        self.app = make_app(settings, catalog())
        await self.stack.enter_async_context(self.app.router.lifespan_context(self.app))

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        """One request, or the beginning and the end of the process."""
        if scope["type"] == "lifespan":
            while (await receive())["type"] != "lifespan.shutdown":
                await send({"type": "lifespan.startup.complete"})
            await self.stack.aclose()
            await send({"type": "lifespan.shutdown.complete"})
        elif scope["path"] == USE:
            body, more = b"", True
            while more:
                part = await receive()
                body, more = body + part.get("body", b""), part.get("more_body", False)
            if body:
                await self.use(Settings(**json.loads(body)))
            await send({"type": "http.response.start", "status": 204, "headers": []})
            await send({"type": "http.response.body", "body": b""})
        else:
            await self.app(scope, receive, send)


if __name__ == "__main__":
    uvicorn.run(Switch(), host="127.0.0.1", port=int(sys.argv[1]), log_level="warning", timeout_graceful_shutdown=3)
