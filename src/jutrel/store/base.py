"""The engine, the session and the base of all tables."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from sqlalchemy import text
from sqlalchemy.exc import DBAPIError, InterfaceError, OperationalError, TimeoutError
from sqlalchemy.ext.asyncio import AsyncEngine, AsyncSession, async_sessionmaker, create_async_engine
from sqlalchemy.orm import DeclarativeBase

Db = AsyncSession
"""A transaction under way, handed from a service to the queries."""
LOCK_WAIT_MS = 4000
STATEMENT_MS = 20_000
IDLE_MS = 30_000
BUSY = ("55P03", "57014", "40P01", "40001")
"""SQLSTATEs of passing trouble: lock not available, cancelled for time, deadlock, serialisation."""


class Base(DeclarativeBase):
    """All tables hang on this."""


class StoreAway(RuntimeError):
    """PostgreSQL does not answer."""


class StoreBusy(RuntimeError):
    """The record store answers, but somebody holds what is needed; later it will go."""


class Store:
    """Hands out sessions; one transaction each."""

    def __init__(self, url: str) -> None:
        limits = (
            f"-c lock_timeout={LOCK_WAIT_MS} -c statement_timeout={STATEMENT_MS} "
            f"-c idle_in_transaction_session_timeout={IDLE_MS}"
        )
        self.engine: AsyncEngine = create_async_engine(
            url,
            pool_pre_ping=True,
            pool_size=8,
            max_overflow=8,
            pool_timeout=5,
            hide_parameters=True,
            connect_args={"connect_timeout": 3, "options": limits},
        )
        self._session = async_sessionmaker(self.engine, expire_on_commit=False)

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
        try:
            async with self._session() as session, session.begin():
                yield session
        except TimeoutError as error:
            raise StoreBusy("no connection is free") from error
        except DBAPIError as error:
            if getattr(error.orig, "sqlstate", None) in BUSY:
                raise StoreBusy(str(error.orig).splitlines()[0]) from error
            if isinstance(error, (OperationalError, InterfaceError)):
                raise StoreAway(str(error.orig).splitlines()[0]) from error
            raise
        except ConnectionError as error:
            raise StoreAway(str(error).splitlines()[0]) from error

    async def answers(self) -> None:
        """Ask it something; raises StoreAway or StoreBusy."""
        async with self.transaction() as db:
            await db.execute(text("select 1"))

    async def close(self) -> None:
        """Let all connections go."""
        await self.engine.dispose()
