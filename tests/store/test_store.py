"""Migrations match the tables; writers at the same time lose nothing; the projection is only a copy of the log."""

from __future__ import annotations

import random
import threading
from concurrent.futures import ThreadPoolExecutor

import psycopg
import pytest
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from fastapi.testclient import TestClient
from sqlalchemy import create_engine

import jutrel.store.tables  # noqa: F401  (fills the metadata)
from jutrel.api.app import make_app
from jutrel.service.log.whole_log import rebuild_all, verify_all
from jutrel.service.site.upgrade import bring_up
from jutrel.settings import Settings
from jutrel.store.base import Base
from jutrel.store.migrate import alembic_config
from tests.conftest import CATALOG, Cluster, Serve, owner_of, sql
from tests.deep import DEEP
from tests.device import CRACK, Device
from tests.patience import client


def test_migrations_and_tables_agree(bare: str) -> None:
    owner = owner_of(bare)
    engine = create_engine(owner)
    with engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []
    with pytest.raises(NotImplementedError, match="restore the backup"):
        command.downgrade(alembic_config(owner), "0003")
    engine.dispose()


def test_the_serving_role_adds_to_the_log_and_never_changes_it(bare: str) -> None:
    """What serves may read and insert entries, editions, records and photos; whatever it is told to do."""
    with TestClient(make_app(Settings(database_url=bare), CATALOG), base_url="http://yard.test") as http:
        tablet = Device(http)
        tablet.sign_in()
        tablet.whole("ex-01")
    with psycopg.connect(bare.replace("+psycopg", ""), autocommit=True) as db:
        for table in ("entry", "edition", "record", "photo"):
            assert db.execute(f"select count(*) from {table}").fetchone() is not None
            first = db.execute(
                f"select column_name from information_schema.columns where table_name = '{table}' limit 1"
            ).fetchone()
            assert first is not None
            for statement in (
                f'update {table} set "{first[0]}" = "{first[0]}"',
                f"delete from {table}",
                f"truncate {table}",
                f"drop table {table}",
                f"alter table {table} add column x int",
            ):
                with pytest.raises(psycopg.errors.InsufficientPrivilege):
                    db.execute(statement)
        with pytest.raises(psycopg.errors.InsufficientPrivilege):
            db.execute("update alembic_version set version_num = '0001'")


def verified(url: str) -> list[str]:
    return [line.says for line in verify_all(url, CATALOG) if not line.whole]


def test_any_row_changed_in_the_database_is_found(bare: str) -> None:
    """Changed, taken out, swapped, put in: found at its entry, by `jutrel verify`."""
    with TestClient(make_app(Settings(database_url=bare), CATALOG), base_url="http://yard.test") as http:
        tablet = Device(http)
        tablet.sign_in()
        tablet.send("ex-01", tablet.new_id(), tablet.walk("ex-01")[:12])
    assert verified(bare) == []
    owner = owner_of(bare).replace("+psycopg", "")
    where = "machine_id = 'ex-01' and seq"
    changes = {
        "a word": (f"update entry set what = jsonb_set(what, '{{answer}}', '\"unseen\"') where {where} = 5", 5),
        "a role": (f"update entry set role = 'mechanic' where {where} = 6", 6),
        "a time": (f"update entry set heard_at = heard_at + interval '1 second' where {where} = 7", 7),
        "a pin": (f"update entry set pins = '{{}}' where {where} = 2", 2),
        "gone": (f"delete from entry where {where} = 8", 8),
        "the last": (f"delete from entry where {where} = 13", 13),
        "swapped": (
            f"update entry set seq = 900 where {where} = 9; update entry set seq = 9 where {where} = 10; "
            f"update entry set seq = 10 where {where} = 900",
            9,
        ),
        "put in": (
            "insert into entry select site_id, machine_id, 14, stream_no, at, received_at, heard_at, offset_ms, "
            "gen_random_uuid(), by, pen, sent_by, kind, role, device, hash, what, replaces, names, null "
            f"from entry where {where} = 13",
            14,
        ),
    }
    with psycopg.connect(owner, autocommit=True) as db:
        db.execute("create table kept as select * from entry")
        for name, (statement, seq) in changes.items():
            db.execute(statement)
            found = verified(bare)
            assert len(found) == 1, name
            assert f"entry {seq}" in found[0] or f"ends at entry {seq - 1}" in found[0], (name, found)
            db.execute("truncate entry; insert into entry select * from kept")
            assert verified(bare) == []


@pytest.mark.parametrize("seed", [1, 2, 3] if DEEP else [1])
def test_four_tablets_at_once(bare: str, serve: Serve, seed: int) -> None:
    """The same walk in overlapping pieces from four tablets at the same time: each entry once, one projection."""
    base = serve(bare)
    rng = random.Random(seed)
    with client(base) as http:
        first = Device(http)
        first.sign_in()
        walk, inspection = first.walk("ex-01"), first.new_id()

        def send(number: int) -> int:
            own = random.Random(seed * 10 + number)
            with client(base) as other:
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


@pytest.mark.parametrize("hold", [40, 41, 42] if DEEP else [41])
def test_single_taps_through_two_servers_at_once(bare: str, serve: Serve, hold: int) -> None:
    """Neither server knows what the other writes: each tap is stored once, the chain is whole, a Hold stays one.

    While one tablet reports a crack in the boom another one, through the other server, finds the boom sound.
    """
    bases = [serve(bare), serve(bare)]
    with client(bases[0]) as http:
        first = Device(http)
        first.sign_in()
        opening, *taps = first.walk("ex-01")
        look = first.new_id()
        assert first.send("ex-01", look, [opening]).json()["refused"] == []
        taps = [t for t in taps if t["what"].get("checkpoint") != "boom"]
        shares = [taps[n::4] for n in range(4)]
        shares[0].insert(hold // 4, first.entry("answered", checkpoint="boom", **CRACK))
        shares[1].insert(hold // 4, first.entry("answered", checkpoint="boom", answer="sound"))
        gate = threading.Barrier(4)

        def send(number: int) -> None:
            with client(bases[number % 2]) as other:
                tablet = Device(other)
                tablet.sign_in()
                gate.wait()
                for tap in shares[number]:
                    for new in ([tap["id"]], []):  # each is sent twice, as after an answer that was lost on the way
                        told = tablet.send("ex-01", look, [tap]).raise_for_status().json()
                        assert (told["stored"], told["refused"]) == (new, [])

        with ThreadPoolExecutor(4) as pool:
            list(pool.map(send, range(4)))
        seen = [http.get(base + f"/api/inspections/{look}").json() for base in bases]
    sent = sorted([opening["id"], *(t["id"] for share in shares for t in share)])
    for one in seen:
        assert sorted(e["id"] for e in one["entries"]) == sent
        assert one["verdict"]["outcome"] == "held"
    assert verified(bare) == []
    assert {line.whole for line in rebuild_all(bare, CATALOG)} == {True}


def test_entries_cannot_be_half_written(bare: str, serve: Serve) -> None:
    """If a projection fails, the entries of the batch are not there either."""
    url = owner_of(bare).replace("+psycopg", "")
    with psycopg.connect(url, autocommit=True) as db, client(serve(bare)) as http:
        tablet = Device(http)
        tablet.sign_in()
        walk, inspection = tablet.walk("ex-01"), tablet.new_id()
        before = db.execute("select count(*) from entry").fetchone()
        db.execute("alter table look add constraint broken check (kind <> 'pre-start')")
        assert tablet.send("ex-01", inspection, walk).status_code == 500
        assert db.execute("select count(*) from entry").fetchone() == before
        assert db.execute("select count(*) from report").fetchone() == (0,)
        db.execute("alter table look drop constraint broken")
        assert len(tablet.send("ex-01", inspection, walk).json()["stored"]) == len(walk)


def test_what_a_release_before_had_open_is_in_the_list(demo: str, cluster: Cluster) -> None:
    """Lost so: a list that says nothing is open, on the morning after a new release."""
    name = demo.rsplit("/", 1)[1]
    every = "select site_id, id, machine_id, grade, since, duty from open_defect order by id"
    before = sql(cluster, every, name)
    assert len(before) > 8
    sql(cluster, "delete from open_defect", name)
    bring_up(owner_of(demo), CATALOG)
    assert sql(cluster, every, name) == before


def test_the_projections_are_only_a_copy_of_the_log(demo: str) -> None:
    """Made anew from the log they are what they were, for ten days of nine machines; and a wrong one is found."""
    assert {line.whole for line in rebuild_all(demo, CATALOG)} == {True}
    with psycopg.connect(demo.replace("+psycopg", ""), autocommit=True) as db:
        db.execute("update report set open = false where machine_id = 'ex-03'")
        db.execute("update machine set standing = '{}' where id = 'ex-03'")
    with TestClient(make_app(Settings(database_url=demo), CATALOG), base_url="http://yard.test") as http:
        tablet = Device(http)
        tablet.sign_in()
        assert tablet.yard("ex-03")["go"] != "held"
        assert [line.machine for line in rebuild_all(demo, CATALOG) if not line.whole] == ["ex-03"]
        assert tablet.yard("ex-03")["go"] == "held"
