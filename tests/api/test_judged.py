"""A release changes a limit in the code while somebody walks: what was read before keeps its judgement.

How it could send somebody out: a tyre that was run flat at six is good at seven, because the server was renewed.
"""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from jutrel.api.app import make_app
from jutrel.core.reading import tyres
from jutrel.settings import Settings
from tests.api.conftest import Tablets
from tests.conftest import CATALOG
from tests.device import Device

AT = "tyre-rear-left"


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


@pytest.mark.parametrize(("pressure", "limit"), [(200.0, 0.1), (275.0, 1.2)])
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
    assert any(i["checkpoint"] == "tyre-rear-right" and i["grade"] == "hold" for i in items) is (pressure == 275.0)
