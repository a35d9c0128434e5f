"""Connections of the driver with no session round them: for one question, or for the few statements of a tap.

A session that is opened, bound, reset and put back costs several times what such a statement costs the database.
"""

from __future__ import annotations

import asyncio
import time
from collections import deque
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Any

import psycopg
from psycopg import AsyncConnection
from psycopg.pq import TransactionStatus

MOST = 8
WAIT_S = 5.0
IDLE_TRUST_S = 1.0
ASK_FOR = "select set_config('jutrel.site', %s, false)"
"""Has a connection ask for a site alone from then on; the database shows it the rows of no other."""


class NoneFree(Exception):
    """All are in use, for longer than anybody should wait."""


class Straight:
    """A few connections, the last used first; one that stood idle is tried before it is used."""

    def __init__(self, url: str, options: str) -> None:
        self._url, self._options = url.replace("+psycopg", ""), options
        self._idle: deque[tuple[float, AsyncConnection[Any], str]] = deque()
        self._room = asyncio.Semaphore(MOST)

    @asynccontextmanager
    async def connection(self, site: str = "") -> AsyncIterator[AsyncConnection[Any]]:
        """One connection that asks for a site; each statement is its own transaction unless one is begun.

        Raises
        ------
        NoneFree
            If all are in use.
        psycopg.Error
            The driver's, as they come.
        """
        try:
            async with asyncio.timeout(WAIT_S):
                await self._room.acquire()
        except TimeoutError:
            raise NoneFree from None
        try:
            one, before = await self._one()
            if before != site:
                await one.execute(ASK_FOR, (site,))
            try:
                yield one
            finally:
                if one.closed or one.info.transaction_status is not TransactionStatus.IDLE:
                    await one.close()  # something is under way on it: nobody else gets that
                else:
                    self._idle.append((time.monotonic(), one, site))
        finally:
            self._room.release()

    async def _one(self) -> tuple[AsyncConnection[Any], str]:
        while self._idle:
            used, one, site = self._idle.pop()
            if one.closed:
                continue
            if time.monotonic() - used < IDLE_TRUST_S:
                return one, site
            try:
                await one.execute("select 1")
            except psycopg.Error:
                await one.close()  # it was cut while it stood idle
                continue
            return one, site
        return await AsyncConnection.connect(self._url, autocommit=True, connect_timeout=3, options=self._options), ""

    async def close(self) -> None:
        """Let all of them go."""
        while self._idle:
            await self._idle.pop()[1].close()
