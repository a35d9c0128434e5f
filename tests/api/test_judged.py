"""A release changes a limit in the code while somebody walks: what was read before keeps its judgement.

How it could send somebody out: a tyre that was run flat at six is good at seven, because the server was renewed.
"""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

import pytest
from fastapi.testclient import TestClient

from jutrel.api.app import make_app
from jutrel.core.grading.judged import reading_of
from jutrel.core.grading.taken import findings_of
from jutrel.core.inspection.kinds import Read
from jutrel.core.log.entry import Came, Entry
from jutrel.core.machine.model import walk_of
from jutrel.core.reading import tyres
from jutrel.core.wording import as_written
from jutrel.settings import Settings
from tests.api.conftest import Tablets
from tests.conftest import CATALOG
from tests.device import Device

AT = "tyre-rear-left"
RUN_FLAT = {"tyre_pressure": "run-flat"}


def pressed(mira: Device, pressure: float, at: str = AT) -> str:
    """A look in which that was read of a tyre whose cold pressure is 275 kPa."""
    look = mira.new_id()
    given = {"pressure": pressure, "tyre_c": 20}
    read = mira.entry("read", checkpoint=at, reading="tyre-pressure", given=given)
    assert mira.send("ld-05", look, [mira.opening("ld-05"), read]).json()["refused"] == []
    return look


def verdict(bare: str, look: str) -> dict[str, Any]:
    """What a server that was started anew says of it."""
    with TestClient(make_app(Settings(database_url=bare), CATALOG), base_url="http://yard.test") as http:
        renewed = Device(http)
        renewed.sign_in("Mira")
        return dict(renewed.look(look)["verdict"])


def test_a_finding_as_hard_but_milder_does_not_take_the_place_of_the_first() -> None:
    """Run flat when it was read, low by today's rules, both to be acted on: the tyre is still run flat."""
    walk = walk_of(CATALOG.models["korveth-kw32"], frozenset())
    what = Read(AT, "tyre-pressure", {"pressure": 238.0, "tyre_c": 20.0})
    entry = Entry("01", "ld-05", "look", "mira", datetime(2026, 5, 4, tzinfo=UTC), what)
    (today,) = findings_of(entry, walk)
    assert today.attributes == {"tyre_pressure": "low"}
    flat = Came(reading_of(entry, walk).judgement.band.value, as_written("Stop."), "pressure", RUN_FLAT)
    assert [f.attributes for f in findings_of(replace(entry, came=flat), walk)] == [RUN_FLAT, today.attributes]
    # And of a hand and an instrument both are graded.
    soft = replace(entry, what=replace(what, given={"pressure": 200.0, "tyre_c": 20.0}, told={"pressure": 238.0}))
    assert RUN_FLAT in [f.attributes for f in findings_of(soft, walk)]


@pytest.mark.parametrize(("pressure", "limit"), [(200.0, 0.1), (365.0, 1.2)])
def test_what_was_read_keeps_its_judgement_and_a_harder_one_reaches_it(
    tablets: Tablets, bare: str, monkeypatch: pytest.MonkeyPatch, pressure: float, limit: float
) -> None:
    mira = tablets()
    mira.sign_in("Mira")
    look = pressed(mira, pressure)
    before = mira.look(look)["verdict"]
    assert (before["outcome"] == "held") is (pressure == 200.0)
    monkeypatch.setattr(tyres, "RUN_FLAT", limit)
    monkeypatch.setattr(tyres, "LOW", limit)
    monkeypatch.setattr(tyres, "ADJUST", limit)
    after = verdict(bare, look)
    assert after["outcome"] == "held"
    taken = next(r for r in after["readings"] if r["checkpoint"] == AT)
    assert ("rules have changed" in taken["judgement"]["why"]) is (pressure == 200.0)
    # What is read from now on is judged by today's rules alone.
    fresh = pressed(mira, pressure, "tyre-rear-right")
    items = verdict(bare, fresh)["items"]
    assert any(i["checkpoint"] == "tyre-rear-right" and i["grade"] == "hold" for i in items) is (pressure == 365.0)
