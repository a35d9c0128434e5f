"""What was written, told at once: PostgreSQL says that a machine's row or its panel changed, whoever wrote it."""

from __future__ import annotations

import asyncio
import contextlib
import json
from typing import Any

import psycopg

YARD, PANEL = "yard", "panel"
PAYLOAD = 7800
"""What PostgreSQL carries with one notice, in bytes."""
RETRY_S = 1.0


class Bell:
    """Counts, and wakes whoever waits for the next."""

    def __init__(self) -> None:
        self.count = 0
        self.says: dict[str, Any] | None = None
        """What the last notice carried."""
        self._next: asyncio.Event | None = None

    def ring(self, says: dict[str, Any] | None = None) -> None:
        """One more."""
        self.count += 1
        self.says = says
        if self._next is not None:
            self._next.set()
            self._next = None

    async def after(self, seen: int, patience: float) -> int:
        """The count once it is another than `seen`, or as it is after `patience` [s]."""
        if self.count == seen:
            if self._next is None:
                self._next = asyncio.Event()
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(self._next.wait(), patience)
        return self.count


class Live:
    """Counts changes of each site's machines and panels. One connection a process, when needed."""

    def __init__(self, url: str) -> None:
        self._dsn = url.replace("+psycopg", "")
        self._task: asyncio.Task[None] | None = None
        self._yards: dict[str, Bell] = {}
        self._panels: dict[tuple[str, str], Bell] = {}

    def _heard(self, channel: str, payload: str) -> None:
        if channel == YARD:
            # Whoever looks after all of them rings for all; whoever asked for none hears of all.
            for site, yard in self._yards.items():
                if payload == site or "" in (payload, site):
                    yard.ring()
            return
        told = json.loads(payload)
        bell = self._panels.get((told["site"], told["machine"]))
        if bell is not None:  # nobody looks at the others
            bell.ring(told if "says" in told else None)

    async def _listen(self) -> None:
        while True:
            with contextlib.suppress(psycopg.Error, OSError):
                async with await psycopg.AsyncConnection.connect(
                    self._dsn, autocommit=True, connect_timeout=3, keepalives_idle=20
                ) as connection:
                    await connection.execute(f"listen {YARD}; listen {PANEL}")
                    for bell in (*self._yards.values(), *self._panels.values()):
                        bell.ring()  # whatever was missed before it listened
                    async for notice in connection.notifies():
                        self._heard(notice.channel, notice.payload)
            await asyncio.sleep(RETRY_S)

    def _listens(self) -> None:
        if self._task is None or self._task.done():
            self._task = asyncio.create_task(self._listen())

    async def after(self, site: str, seen: int, patience: float) -> int:
        """The count of a site's yard once it is another than `seen`, or as it is after `patience` [s]."""
        self._listens()
        return await self._yards.setdefault(site, Bell()).after(seen, patience)

    def panel(self, site: str, machine: str) -> Bell:
        """What rings when a machine's panel was written; it carries what the panel says, if that is short."""
        self._listens()
        return self._panels.setdefault((site, machine), Bell())

    async def close(self) -> None:
        """Stop listening."""
        if self._task is not None:
            self._task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await self._task
            self._task = None
