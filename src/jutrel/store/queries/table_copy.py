"""Whole tables as PostgreSQL copies them, out of a database and into an empty one."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from datetime import date

import psycopg
from psycopg.sql import SQL, Composed, Identifier

from jutrel.store.base import Db, driver_of

COLUMNS: Mapping[str, tuple[str, ...]] = {
    "site": (),
    "person": (),
    "machine": (),
    "stream": ("site_id", "id", "machine_id"),
    "edition": (),
    "entry": (),
    "look": (),
    "report": (),
    "record": ("site_id", "signature", "look", "verdict", "document"),
    "open_defect": (),
    "pin_given": (),
    "training": (),
}
"""The tables that are copied, in the order in which they are taken in, and which columns; none named: all."""
ORDER = {
    "entry": ("machine_id", "seq"), "stream": ("no",), "look": ("machine_id", "begun_at"), "record": ("signature",),
    "report": ("machine_id", "entry", "index"), "edition": ("first_used", "hash"),
}  # fmt: skip
OF_MACHINE = {
    "entry": SQL("machine_id = {}"),
    "look": SQL("machine_id = {}"),
    "report": SQL("machine_id = {}"),
    "record": SQL("look in (select id from look where machine_id = {})"),
}
"""Those that can be copied for one machine alone."""
LEFT_OUT = ("alembic_version", "heartbeat", "site_key", "pen", "session", "account")
"""What an installation makes for itself."""
AT_ONCE = 1 << 20


class CopiedOut:
    """Tables read out of a database, with all times in UTC; closed by whoever opened it."""

    def __init__(self, url: str) -> None:
        self._db = psycopg.connect(url.replace("postgresql+psycopg", "postgresql"))
        self._db.execute("set time zone 'UTC'")

    def __enter__(self) -> CopiedOut:
        return self

    def __exit__(self, *_: object) -> None:
        self._db.close()

    def lost(self) -> list[str]:
        """Tables that hold something and are not copied."""
        found = self._db.execute("select tablename from pg_tables where schemaname = 'public'").fetchall()
        others = sorted({str(row[0]) for row in found} - set(COLUMNS) - set(LEFT_OUT))
        ask = SQL("select from {} limit 1")
        return [t for t in others if self._db.execute(ask.format(Identifier(t))).fetchone() is not None]

    def columns(self, table: str) -> list[str]:
        """The columns of a table that are copied."""
        if COLUMNS[table]:
            return list(COLUMNS[table])
        asked = "select column_name from information_schema.columns where table_name = %s order by ordinal_position"
        return [str(row[0]) for row in self._db.execute(asked, (table,)).fetchall()]

    def rows(self, table: str, machine: str = "") -> Iterator[str]:
        """The rows of a table, as text; of one machine, if it is named. A document as the text that it is."""
        columns = [
            SQL("convert_from({}, 'UTF8')").format(Identifier(c)) if c == "document" else Identifier(c)
            for c in self.columns(table)
        ]
        order = SQL(", ").join(Identifier(c) for c in ORDER.get(table, self.columns(table)[:2]))
        where = SQL("where ") + OF_MACHINE[table].format(machine) if machine else Composed([])
        asked = SQL("copy (select {} from {} {} order by {}) to stdout").format(
            SQL(", ").join(columns), Identifier(table), where, order
        )
        with self._db.cursor() as cursor, cursor.copy(asked) as copied:
            text = b"".join(bytes(part) for part in copied).decode()
        yield from (line for line in text.split("\n") if line)

    def streams(self) -> list[tuple[str, str]]:
        """The number and the id of each stream, in their order."""
        return [(str(r[0]), str(r[1])) for r in self._db.execute("select no, id from stream order by no").fetchall()]

    def last_day(self) -> date:
        """The day of the newest entry."""
        found = self._db.execute("select (max(at) at time zone 'UTC')::date from entry").fetchone()
        assert found is not None
        return date.fromisoformat(str(found[0]))


async def copy_in(db: Db, table: str, columns: Sequence[str], text: str) -> None:
    """Take rows in, as they were copied out; those of the site that is asked for alone."""
    if not text:
        return
    names = SQL(", ").join(map(Identifier, columns))
    beside = Identifier(f"copied_{table}")
    # PostgreSQL copies into no table that shows each site its own rows: they are copied beside it, and put in.
    copying = SQL("copy {} ({}) from stdin").format(beside, names)
    async with (await driver_of(db)).cursor() as cursor:
        await cursor.execute(
            SQL("create temp table {} on commit drop as select {} from {} with no data").format(
                beside, names, Identifier(table)
            )
        )
        async with cursor.copy(copying) as copied:
            for n in range(0, len(text), AT_ONCE):
                await copied.write(text[n : n + AT_ONCE])
            await copied.write("\n")
        await cursor.execute(
            SQL("insert into {} ({}) select {} from {} order by ctid").format(Identifier(table), names, names, beside)
        )
        await cursor.execute(SQL("drop table {}").format(beside))


async def first_stream(db: Db) -> int:
    """The number of the first stream; they were numbered in their order."""
    asked = await (await driver_of(db)).execute("select min(no), max(no), count(*) from stream")
    found = await asked.fetchone()
    assert found is not None
    assert found[1] - found[0] + 1 == found[2], "the streams are not numbered one by one"
    return int(found[0])
