"""The engine, the session and the base of all tables."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from sqlalchemy.exc import InterfaceError, OperationalError
from sqlalchemy.ext.asyncio import AsyncEngine, AsyncSession, async_sessionmaker, create_async_engine
from sqlalchemy.orm import DeclarativeBase


class Base(DeclarativeBase):
    """All tables hang on this."""


class StoreAway(RuntimeError):
    """PostgreSQL does not answer."""


class Store:
    """Hands out sessions; one transaction each."""

    def __init__(self, url: str) -> None:
        self.engine: AsyncEngine = create_async_engine(
            url, pool_pre_ping=True, pool_size=8, max_overflow=8, connect_args={"connect_timeout": 3}
        )
        self._session = async_sessionmaker(self.engine, expire_on_commit=False)

    @asynccontextmanager
    async def transaction(self) -> AsyncIterator[AsyncSession]:
        """A session whose work is committed at the end, or undone if anything fails.

        Raises
        ------
        StoreAway
            If the database cannot be reached.
        """
        try:
            async with self._session() as session, session.begin():
                yield session
        except (OperationalError, InterfaceError, ConnectionError) as error:
            raise StoreAway(str(error).splitlines()[0]) from error

    async def close(self) -> None:
        """Let all connections go."""
        await self.engine.dispose()
