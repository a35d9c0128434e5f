"""The engine, the session and the base of all tables."""

from __future__ import annotations

import copy
import time
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from dataclasses import dataclass
from typing import Any

import psycopg
from psycopg import AsyncConnection
from sqlalchemy import event
from sqlalchemy.exc import (
    DBAPIError,
    DisconnectionError,
    IntegrityError,
    TimeoutError,
)
from sqlalchemy.ext.asyncio import AsyncEngine, AsyncSession, async_sessionmaker, create_async_engine
from sqlalchemy.orm import DeclarativeBase
from sqlalchemy.pool import ConnectionPoolEntry

from jutrel.store.driver_pool import ASK_FOR, NoneFree, Straight

Db = AsyncSession
"""A transaction under way, handed from a service to the queries."""
Asks = AsyncSession | AsyncConnection[Any]
"""What a statement that is made once can be asked on: a session's connection, or one straight from the driver."""
LOCK_WAIT_MS = 4000
STATEMENT_MS = 20_000
IDLE_MS = 30_000
IDLE_TRUST_S = 1.0
DISK_FULL, FULL_FOR_S = "53100", 60.0
SITE = "jutrel-site"
"""Under which a connection notes for which site it asks."""
BUSY = ("55P03", "57014", "40P01", "40001")
"""SQLSTATEs of passing trouble: lock not available, cancelled for time, deadlock, serialisation."""


class Base(DeclarativeBase):
    """All tables hang on this."""


class StoreAway(RuntimeError):
    """PostgreSQL does not answer."""


class StoreFault(RuntimeError):
    """The database refused a statement: a fault of ours. Told without what was in it."""


class StoreBusy(RuntimeError):
    """The record store answers, but somebody holds what is needed; later it will go."""


def _note_time(_: Any, record: ConnectionPoolEntry) -> None:
    record.info["used"] = time.monotonic()


def _ask_if_idle(connection: Any, record: ConnectionPoolEntry, _: Any) -> None:
    """A connection that stood idle may have been cut: it is tried before it is used, one in use all the time is not."""
    if time.monotonic() - record.info.get("used", time.monotonic()) < IDLE_TRUST_S:
        return
    try:
        cursor = connection.cursor()
        cursor.execute("select 1")
        cursor.close()
        connection.rollback()
    except Exception as error:
        raise DisconnectionError("the connection was cut while it stood idle") from error


def _trouble(error: BaseException | None) -> Exception:
    """The database's error as one of ours.

    What it says of a fault can quote what somebody wrote: that goes no further.
    """
    state = getattr(error, "sqlstate", None)
    if state in BUSY:
        return StoreBusy(str(error).splitlines()[0])
    if isinstance(error, (psycopg.OperationalError, psycopg.InterfaceError)):
        return StoreAway((str(error) or "it does not answer").splitlines()[0])
    return StoreFault(f"{type(error).__name__} {state or ''}")


@dataclass(slots=True)
class DiskFull:
    """When the database last turned something away because its disk is full [s, monotonic]."""

    at: float = float("-inf")

    def seen(self, error: BaseException | None) -> None:
        """Note it, if that is what an error says."""
        if getattr(error, "sqlstate", None) == DISK_FULL:
            self.at = time.monotonic()

    def lately(self) -> bool:
        """Whether that was within the last minute."""
        return time.monotonic() - self.at < FULL_FOR_S


class Store:
    """Hands out sessions; one transaction each. `site`: whose rows alone it sees; empty: those of the only site."""

    def __init__(self, url: str) -> None:
        limits = (
            f"-c lock_timeout={LOCK_WAIT_MS} -c statement_timeout={STATEMENT_MS} "
            f"-c idle_in_transaction_session_timeout={IDLE_MS} -c jit=off"  # no statement of ours is worth compiling
        )
        self.engine: AsyncEngine = create_async_engine(
            url,
            pool_size=8,
            max_overflow=8,
            pool_timeout=5,
            hide_parameters=True,
            connect_args={"connect_timeout": 3, "options": limits},
        )
        self._straight = Straight(url, limits)
        event.listen(self.engine.sync_engine, "checkin", _note_time)
        event.listen(self.engine.sync_engine, "checkout", _ask_if_idle)
        self._session = async_sessionmaker(self.engine, expire_on_commit=False)
        self.site = ""
        self.disk_full = DiskFull()

    def of(self, site: str) -> Store:
        """The same connections, for one site: the database shows it no row of another."""
        other = copy.copy(self)
        other.site = site
        return other

    @asynccontextmanager
    async def driver(self) -> AsyncIterator[AsyncConnection[Any]]:
        """A connection of the driver; each statement on it is a transaction of its own. Raises as `transaction`."""
        async with self._told_plainly(), self._straight.connection(self.site) as driver:
            yield driver

    @asynccontextmanager
    async def transaction(self) -> AsyncIterator[Db]:
        """A session whose work is committed at the end, or undone if anything fails.

        Raises
        ------
        StoreAway
            If the database cannot be reached.
        StoreBusy
            If it can, but something else holds a connection or a lock for too long.
        """
        async with self._told_plainly(), self._session() as session, session.begin():
            await self._ask_for_site(session)
            yield session

    async def _ask_for_site(self, session: Db) -> None:
        """Have the session's connection ask for this site, before anything is asked on it."""
        connection = await (await session.connection()).get_raw_connection()
        about = connection.info
        if about.get(SITE, "") == self.site:
            return
        about[SITE] = None  # until it is done it asks for none that anybody knows of
        driver = connection.driver_connection
        assert isinstance(driver, AsyncConnection)
        await driver.execute(ASK_FOR, (self.site,))
        # Not undone with whatever follows.
        await driver.commit()
        about[SITE] = self.site

    @asynccontextmanager
    async def _told_plainly(self) -> AsyncIterator[None]:
        """The database's trouble as one of ours."""
        try:
            yield
        except (TimeoutError, NoneFree) as error:
            raise StoreBusy("no connection is free") from error
        except IntegrityError:
            raise
        except DBAPIError as error:
            self.disk_full.seen(error.orig)
            raise _trouble(error.orig) from None
        except psycopg.Error as error:
            self.disk_full.seen(error)
            raise _trouble(error) from None
        except ConnectionError as error:
            raise StoreAway(str(error).splitlines()[0]) from error

    async def answers(self) -> None:
        """Ask it something; raises StoreAway or StoreBusy."""
        async with self.driver() as driver:
            await driver.execute("select 1")

    async def close(self) -> None:
        """Let all connections go."""
        await self._straight.close()
        await self.engine.dispose()


async def driver_of(db: Db) -> AsyncConnection[Any]:
    """The driver's own connection of a transaction under way."""
    connection = await (await db.connection()).get_raw_connection()
    driver = connection.driver_connection
    assert isinstance(driver, AsyncConnection)
    return driver
