"""Who may tell something without a person: a key for each device, and what it is named for.

How it could send somebody out: a reader's key, read from a box in one cab, that tells of every machine; a stand-in
left running where real machines are; a key that nobody can take back.
"""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import httpx

from tests.api.conftest import Tablets
from tests.device import Device

Plain = dict[str, Any]


def told(me: Device, machine: str, key: str, **more: Any) -> httpx.Response:
    now = datetime.now(UTC)
    body = {"since": (now - timedelta(minutes=1)).isoformat(), "at": now.isoformat(), "values": {}, **more}
    return me.http.put(f"/api/machines/{machine}/panel", json=body, headers={"x-device-key": key})


def named(me: Device, device: str, **of: Any) -> str:
    return str(me.http.put(f"/api/devices/{device}", json=of).raise_for_status().json()["key"])


def test_a_device_tells_of_what_it_is_named_for_until_it_is_ended(tablets: Tablets) -> None:
    chief, mira = tablets(), tablets()
    chief.sign_in("Rolf")
    mira.sign_in("Mira")
    assert mira.http.put("/api/devices/cab-01", json={"machines": ["ex-01"]}).status_code == 403
    for wrong, field in (({"machines": []}, "machines"), ({"instruments": ["crystal-ball"]}, "instruments")):
        reply = chief.http.put("/api/devices/cab-01", json=wrong)
        assert (reply.status_code, reply.json()["field"]) == (400, field)
    assert chief.http.put("/api/devices/cab-01", json={"machines": ["nobody"]}).status_code == 404
    first = named(chief, "cab-01", machines=["ex-01", "ld-05"])
    assert len(first) > 30
    assert first not in chief.http.get("/api/devices").text, "said once"
    assert told(mira, "ex-01", first).is_success
    reply = told(mira, "gr-09", first)
    assert (reply.status_code, reply.json()["type"]) == (403, "/problems/other-machine")
    assert "ex-01, ld-05" in reply.json()["detail"]
    assert mira.http.get("/api/machines/gr-09/panel").json() is None
    at = datetime.now(UTC).isoformat()
    sample = {"samples": [{"at": at, "values": {"coolant": 80.0}}]}
    for machine, status in (("ex-01", 200), ("gr-09", 403)):
        path = f"/api/machines/{machine}/panel/samples"
        assert mira.http.post(path, json=sample, headers={"x-device-key": first}).status_code == status
    says = {"machine": "ld-05", "says": {"pressure": 452}}
    headers = {"x-device-key": first}
    assert mira.http.post("/api/instruments/tyre-gauge/says", json=says, headers=headers).status_code == 403
    gauge = named(chief, "gauge", machines=["ld-05"], instruments=["tyre-gauge"])
    assert mira.http.post("/api/instruments/tyre-gauge/says", json=says, headers={"x-device-key": gauge}).is_success
    assert told(mira, "ex-01", gauge).status_code == 403
    # A stand-in is no machine, whatever key it shows.
    assert told(mira, "ex-01", first, simulated=True).json()["type"].endswith("no-demo")
    # A new key takes the place of the old one; an ended device is heard no more.
    second = named(chief, "cab-01", machines=["ex-01"])
    assert told(mira, "ex-01", first).status_code == 401
    assert told(mira, "ex-01", second).is_success
    assert chief.http.delete("/api/devices/cab-01").status_code == 204
    assert told(mira, "ex-01", second).status_code == 401
    assert chief.http.delete("/api/devices/cab-99").status_code == 404
    listed = {d["id"]: d for d in chief.http.get("/api/devices").json()}
    assert listed["cab-01"]["ended_at"]
    assert listed["gauge"]["made_by"].startswith("Rolf")
