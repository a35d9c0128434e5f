"""Statements that every tap takes: written like all others, made into SQL once, and sent straight to the driver.

A statement that is built, keyed and looked up anew each time costs several times what the database takes for it.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from psycopg import AsyncConnection
from psycopg.rows import namedtuple_row
from sqlalchemy.dialects.postgresql.psycopg import PGDialectAsync_psycopg
from sqlalchemy.sql import ClauseElement

from jutrel.store.base import Asks, driver_of

_DIALECT: Any = PGDialectAsync_psycopg()  # type: ignore[no-untyped-call]


class Hot:
    """A statement with named parameters, and perhaps fixed values."""

    def __init__(self, statement: ClauseElement) -> None:
        compiled: Any = statement.compile(dialect=_DIALECT)
        self.sql = str(compiled)
        self._prepare: Mapping[str, Any] = compiled._bind_processors
        self._fixed = {key: value for key, value in compiled.params.items() if value is not None}

    async def rows(self, db: Asks, values: Mapping[str, Any]) -> list[Any]:
        """Run it in a transaction under way; rows with names, none if it gives none. Raises the driver's errors."""
        return await self.ask(db if isinstance(db, AsyncConnection) else await driver_of(db), values)

    async def ask(self, driver: AsyncConnection[Any], values: Mapping[str, Any]) -> list[Any]:
        """Run it on a connection of the driver."""
        prepare = self._prepare
        everything = {**self._fixed, **values}
        given = {key: prepare[key](value) if key in prepare else value for key, value in everything.items()}
        async with driver.cursor(row_factory=namedtuple_row) as cursor:
            await cursor.execute(self.sql, given)
            return await cursor.fetchall() if cursor.description else []
