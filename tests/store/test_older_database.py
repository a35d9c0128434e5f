"""A database of the second release comes along: every record readable, what was open a defect, hours as they were.

The dump was made with that release from its own demo, cut to five machines and three days, with a walk left
unsigned, one amended after signing, a meter that was replaced, a photo, and an entry taken back.
"""

from __future__ import annotations

import gzip
import os
import subprocess
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from jutrel.api.app import make_app
from jutrel.cluster import Cluster
from jutrel.service.log.whole_log import rebuild_all, verify_all
from jutrel.service.site.upgrade import bring_up
from jutrel.settings import Settings
from tests.conftest import CATALOG, sql
from tests.device import Device

DUMP = Path(__file__).with_name("second-release.sql.gz")


@pytest.fixture(scope="module")
def old(cluster: Cluster) -> tuple[str, dict[str, Any]]:
    """The old database, brought up to date; and what it held before."""
    name = f"second_{os.getpid()}"  # both workers may come here
    sql(cluster, f"create database {name}")
    owner = cluster.url_of(name, owner=True)
    psql = [str(cluster.bin / "psql"), "-q", "-v", "ON_ERROR_STOP=1", owner.replace("+psycopg", "")]
    subprocess.run(psql, input=gzip.decompress(DUMP.read_bytes()), check=True, capture_output=True)
    rows = sql(cluster, "select id, machine_id, status, outcome, why, open_findings from inspection", name)
    kept = {
        "looks": {r[0]: r for r in rows},
        "entries": sql(cluster, "select id from entry order by id", name),
        "hours": dict(sql(cluster, "select id, hour_meter from machine", name)),
        "offsets": dict(sql(cluster, "select id, meter_offset from machine", name)),
    }
    bring_up(owner, CATALOG)
    bring_up(owner, CATALOG)  # nothing more to do
    kept["after"] = sql(
        cluster,
        "select e.id::text from entry e join stream s on s.no = e.stream_no where s.id not like 'file.%' order by 1",
        name,
    )
    return cluster.url_of(name, owner=False), kept


def test_everything_of_it_is_there_and_chained(old: tuple[str, dict[str, Any]]) -> None:
    url, kept = old
    assert set(kept["entries"]) <= set(kept["after"])
    # Of what was open from before the cut only the openings tell: it has a report of its own now.
    assert len(kept["after"]) - len(kept["entries"]) < 8
    assert all(line.whole for line in verify_all(url, CATALOG))
    assert all(line.whole for line in rebuild_all(url, CATALOG))


def test_records_read_as_they_were_signed_and_what_was_open_is_open(old: tuple[str, dict[str, Any]]) -> None:
    url, kept = old
    with TestClient(make_app(Settings(database_url=url), CATALOG), base_url="http://yard.test") as http:
        tablet = Device(http)
        tablet.sign_in("Dag")
        for inspection, machine, status, outcome, why, _ in kept["looks"].values():
            look = tablet.look(inspection)
            record = http.get(f"/api/inspections/{inspection}/record.json").raise_for_status().json()
            assert http.get(f"/api/inspections/{inspection}/record.pdf").status_code == 200
            assert look["machine"]["id"] == machine
            if status == "signed":
                assert (look["status"], look["verdict"]["outcome"], look["verdict"]["why"]) == ("signed", outcome, why)
                assert record["verdict"]["outcome"] == outcome
        statuses = {i: tablet.look(i)["status"] for i, r in kept["looks"].items() if r[2] != "signed"}
        assert sorted(statuses.values()) in (["amended", "walking"], ["amended", "lapsed"])
        # The last look at each machine says what was open: all of it from Mend upward is, as bad as it was.
        order = ["watch", "mend", "limit", "hold"]
        last = {r[1]: r for r in sorted(kept["looks"].values(), key=lambda r: str(r[0]))}
        for machine, row in last.items():
            now = {(d["checkpoint"], d["finding"]["failure_mode"]): d["grade"] for d in tablet.open(machine)}
            for found in row[5]:
                key = (found["checkpoint"], found["finding"]["failure_mode"])
                if found["grade"] == "watch":
                    continue
                assert order.index(now[key]) >= order.index(found["grade"]), (machine, key)
        for machine, hours in kept["hours"].items():
            file = http.get(f"/api/machines/{machine}").raise_for_status().json()["machine"]
            assert file["hour_meter"] == pytest.approx(hours)
            assert file["meter_offset"] == pytest.approx(kept["offsets"][machine])
        assert tablet.yard("ex-03")["go"] == "held"
        amended = next(i for i, s in statuses.items() if s == "amended")
        photos = [p for found in tablet.look(amended)["photos"].values() for p in found]
        assert [http.get(f"/api/photos/{p}").status_code for p in photos] == [200]
        # "Not topped up yet" meant that it was still low.
        walking = next(i for i, s in statuses.items() if s != "amended")
        oil = next(a for a in tablet.look(walking)["answers"] if a["checkpoint"] == "engine-oil")
        assert oil["findings"][0]["attributes"] == {"low_level": "low", "still_low": True}


def test_it_goes_on_working(old: tuple[str, dict[str, Any]]) -> None:
    url, _ = old
    with TestClient(make_app(Settings(database_url=url), CATALOG), base_url="http://yard.test") as http:
        tablet = Device(http)
        tablet.sign_in()
        inspection = tablet.whole("ah-07", hour_meter=5300.0)
        assert tablet.look(inspection)["verdict"]["outcome"] == "held"  # the wheel nuts of before
        assert all(line.whole for line in verify_all(url, CATALOG))
