"""A database of an earlier release is brought up to date with everything that was in it, and goes on working."""

from __future__ import annotations

from typing import Any

import psycopg
from alembic import command
from fastapi.testclient import TestClient

from jutrel.api.app import make_app
from jutrel.settings import Settings
from jutrel.store.migrate import alembic_config, migrate
from tests.conftest import CATALOG
from tests.device import OPTIONS, Device


def _rows(url: str, query: str) -> list[tuple[Any, ...]]:
    with psycopg.connect(url.replace("+psycopg", "")) as connection:
        return list(connection.execute(query).fetchall())


def test_machines_and_walks_of_the_first_release_come_along(bare: str) -> None:
    with TestClient(make_app(Settings(database_url=bare), CATALOG), base_url="http://yard.test") as http:
        device = Device(http)
        device.sign_in()
        inspection = device.new_id()
        worn = [{"failure_mode": "wear", "attributes": {"wear": "half"}, "note": "outer left"}]
        walk = device.walk("ex-04", {"teeth": {"answer": "defect", "findings": worn}})
        assert device.send("ex-04", inspection, walk).json()["refused"] == []
        device.send("ex-04", inspection, [device.signature(inspection)])
        before = http.get(f"/api/inspections/{inspection}").json()
    machines = _rows(bare, "select id, name, model_id, options, hour_meter, bay from machine order by id")

    # Back to how the first release kept it: no machine files, no kinds of inspection. Then forward again.
    command.downgrade(alembic_config(bare), "0001")
    columns = {
        c for (c,) in _rows(bare, "select column_name from information_schema.columns where table_name='machine'")
    }
    assert "meter_offset" not in columns
    migrate(bare)
    migrate(bare)  # nothing more to do

    assert _rows(bare, "select id, name, model_id, options, hour_meter, bay from machine order by id") == machines
    with TestClient(make_app(Settings(database_url=bare), CATALOG), base_url="http://yard.test") as http:
        device = Device(http)
        device.sign_in("Dag")
        after = http.get(f"/api/inspections/{inspection}").json()
        assert after["verdict"] == before["verdict"]
        assert after["entries"] == before["entries"]
        for machine, *_ in machines:
            file = http.get(f"/api/machines/{machine}").raise_for_status().json()
            assert [e["kind"] for e in file["entries"]] == ["filed"]
            assert file["options"] == sorted(OPTIONS[machine])
            assert file["own_limits"] == {}
            assert file["machine"]["meter_offset"] == 0
        # The open Watch is still there for the next look, and the file can be written on.
        once_over = http.post("/api/machines/ex-04/walk", json={"purpose": "once-over"}).json()
        assert "teeth" in {c["id"] for c in once_over["checkpoints"]}
        body = {"id": device.new_id(), "last": 20100.0, "first": 0.0, "why": "dead display"}
        assert http.post("/api/machines/ex-04/meter", json=body).json()["meter"] == 0.0
        # Two machines never share an id in the log, however many were written down at once.
        ids = _rows(bare, "select count(*), count(distinct id) from machine_entry")[0]
        assert ids[0] == ids[1]
