"""What was written, told at once: PostgreSQL says that a machine's row changed, whichever process wrote it."""

from __future__ import annotations

import asyncio
import contextlib

import psycopg

CHANNEL = "yard"
RETRY_S = 1.0


class Live:
    """Counts changes of the site's machines for whoever waits for the next. One connection a process, when needed."""

    def __init__(self, url: str) -> None:
        self._dsn = url.replace("+psycopg", "")
        self._task: asyncio.Task[None] | None = None
        self._next: asyncio.Event | None = None
        self.count = 0

    def _heard(self) -> None:
        self.count += 1
        if self._next is not None:
            self._next.set()
            self._next = None

    async def _listen(self) -> None:
        while True:
            with contextlib.suppress(psycopg.Error, OSError):
                async with await psycopg.AsyncConnection.connect(
                    self._dsn, autocommit=True, connect_timeout=3, keepalives_idle=20
                ) as connection:
                    await connection.execute(f"listen {CHANNEL}")
                    self._heard()  # whatever was missed before it listened
                    async for _ in connection.notifies():
                        self._heard()
            await asyncio.sleep(RETRY_S)

    async def after(self, seen: int, patience: float) -> int:
        """The count once it is another than `seen`, or as it is after `patience` [s]."""
        if self._task is None or self._task.done():
            self._task = asyncio.create_task(self._listen())
        if self.count == seen:
            if self._next is None:
                self._next = asyncio.Event()
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(self._next.wait(), patience)
        return self.count

    async def close(self) -> None:
        """Stop listening."""
        if self._task is not None:
            self._task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await self._task
            self._task = None
