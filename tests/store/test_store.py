"""Migrations match the tables; writers at the same time lose nothing; the projection is only a copy of the log."""

from __future__ import annotations

import random
from concurrent.futures import ThreadPoolExecutor

import httpx
import psycopg
import pytest
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import create_engine

import jutrel.store.tables  # noqa: F401  (fills the metadata)
from jutrel.store.base import Base
from jutrel.store.migrate import alembic_config
from tests.conftest import Serve
from tests.device import Device


def test_migrations_and_tables_agree(bare: str) -> None:
    engine = create_engine(bare)
    with engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []
    command.downgrade(alembic_config(bare), "base")
    with engine.connect() as connection:
        left = connection.exec_driver_sql("select tablename from pg_tables where schemaname='public'").scalars().all()
    assert left == ["alembic_version"]
    command.upgrade(alembic_config(bare), "head")
    engine.dispose()


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_four_tablets_at_once(bare: str, serve: Serve, seed: int) -> None:
    """The same walk in overlapping pieces from four tablets at the same time: each entry once, one projection."""
    base = serve(bare)
    rng = random.Random(seed)
    with httpx.Client(base_url=base, timeout=30) as http:
        first = Device(http)
        first.sign_in()
        walk, inspection = first.walk("ex-01"), first.new_id()

        def send(number: int) -> int:
            own = random.Random(seed * 10 + number)
            with httpx.Client(base_url=base, timeout=30) as other:
                tablet = Device(other)
                tablet.sign_in()
                stored = 0
                for _ in range(6):
                    piece = own.sample(walk, own.randint(5, 60))
                    stored += len(tablet.send("ex-01", inspection, piece).raise_for_status().json()["stored"])
                return stored

        with ThreadPoolExecutor(4) as pool:
            stored = sum(pool.map(send, range(4)))
        rest = walk[:]
        rng.shuffle(rest)
        stored += len(first.send("ex-01", inspection, rest).json()["stored"])
        assert stored == len(walk)
        seen = first.http.get(f"/api/inspections/{inspection}").json()
        assert sorted(e["id"] for e in seen["entries"]) == sorted(e["id"] for e in walk)
        row = first.http.get("/api/inspections").json()["inspections"][0]
    assert (row["outcome"], row["answered"]) == (seen["verdict"]["outcome"], len(walk) - 1)


def test_entries_cannot_be_half_written(bare: str, serve: Serve) -> None:
    """If the projection fails, the entries of the batch are not there either."""
    url = bare.replace("+psycopg", "")
    with psycopg.connect(url, autocommit=True) as db, httpx.Client(base_url=serve(bare)) as http:
        tablet = Device(http)
        tablet.sign_in()
        walk, inspection = tablet.walk("ex-01"), tablet.new_id()
        db.execute("alter table inspection add constraint broken check (answered < 5)")
        assert tablet.send("ex-01", inspection, walk).status_code == 500
        assert db.execute("select count(*) from entry").fetchone() == (0,)
        db.execute("alter table inspection drop constraint broken")
        assert len(tablet.send("ex-01", inspection, walk).json()["stored"]) == len(walk)
