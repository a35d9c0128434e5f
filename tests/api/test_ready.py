"""Whether a server can be relied on, as a watcher asks it; and what is kept that nobody shows.

Lost so: a database on a full disk that said it was well, and everybody's taps turned away; photos without end.
"""

from __future__ import annotations

import io
from typing import Any

import pytest
from fastapi.testclient import TestClient
from PIL import Image

from jutrel.api.app import make_app
from jutrel.service.inspection.photo import MOST_UNSHOWN
from jutrel.settings import Settings
from tests.api.conftest import Tablets
from tests.command import run
from tests.conftest import CATALOG, Cluster, owner_of, sql


def asked(url: str) -> tuple[int, list[str]]:
    """What a server on a database says to a watcher."""
    with TestClient(make_app(Settings(database_url=url), CATALOG)) as client:
        reply = client.get("/api/ready")
        told: dict[str, Any] = reply.json()
        assert told["ready"] == (reply.status_code == 200)
        assert all(told["amiss"].values()), "each with a sentence"
        return reply.status_code, sorted(told["amiss"])


def test_a_database_that_is_well_away_empty_frozen_or_of_another_time(bare: str, cluster: Cluster) -> None:
    name = bare.rsplit("/", 1)[1]
    assert asked(bare) == (200, [])
    assert asked(bare) == (200, []), "and once more: the beat before was just now"
    assert asked("postgresql+psycopg://nobody@127.0.0.1:1/none") == (503, ["database"])
    # The clock was put back an hour since it beat last.
    sql(cluster, "update heartbeat set at = clock_timestamp() + interval '1 hour'", name)
    assert asked(bare) == (503, ["clock"])
    assert asked(bare) == (200, [])
    # It takes nothing any more, as on a full disk or after a switch to a copy that is only read.
    sql(cluster, f'alter database "{name}" set default_transaction_read_only = on', "postgres")
    assert asked(bare) == (503, ["writes"])
    sql(cluster, f'alter database "{name}" reset default_transaction_read_only', "postgres")
    sql(cluster, "update alembic_version set version_num = '0019'", name)
    assert asked(bare) == (503, ["release"])
    sql(cluster, f'create database "{name}_none"')
    assert asked(cluster.url_of(f"{name}_none", owner=False)) == (503, ["release"])


def test_photos_that_nothing_shows_are_few_and_go(bare: str, cluster: Cluster, tablets: Tablets) -> None:
    mira = tablets()
    mira.sign_in("Mira")
    out = io.BytesIO()
    Image.new("RGB", (20, 20), "red").save(out, "JPEG")

    def put(look: str, photo: str) -> int:
        return mira.http.put(f"/api/photos/{photo}", params={"inspection": look}, content=out.getvalue()).status_code

    look, shown = mira.new_id(), mira.new_id()
    walk = mira.walk("ex-01")
    place = walk[-1]["what"]["checkpoint"]
    assert mira.send("ex-01", look, [*walk, mira.entry("photographed", checkpoint=place, photo=shown)]).is_success
    assert put(look, shown) == 204
    for _ in range(MOST_UNSHOWN):
        assert put(mira.new_id(), mira.new_id()) == 204
    assert put(mira.new_id(), mira.new_id()) == 429, "later it will go: nothing on the tablet is given up"
    assert put(look, shown) in (204, 429)
    name = bare.rsplit("/", 1)[1]
    sql(cluster, "update photo set received_at = received_at - interval '8 days'", name)
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("JUTREL_OWNER_URL", owner_of(bare))
        tidied = run("site", "tidy")
    assert f"photos taken away: {MOST_UNSHOWN}" in tidied.stdout
    assert sql(cluster, "select id from photo", name) == [(shown,)]
    assert mira.http.get(f"/api/photos/{shown}").status_code == 200
    assert put(mira.new_id(), mira.new_id()) == 204
