"""Devices: stand-ins set by hand, real ones with a key; and what the shift needs, out of what is known."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from jutrel.core.errors import BadInput
from jutrel.core.reading.instrument import INSTRUMENTS, Told, check_says, known_now
from jutrel.core.reading.registry import Known
from tests.api.conftest import Tablets
from tests.device import Device

NOW = datetime(2026, 3, 2, 6, tzinfo=UTC)


def say(device: Device, key: str, on: bool = True, **says: Any) -> Any:
    return device.http.put(f"/api/instruments/{key}", json={"on": on, "says": says})


def test_what_is_old_or_switched_off_fills_nothing() -> None:
    """A figure of this morning under a needle of this afternoon would be taken for now."""
    at = {"slope-sensor": NOW - timedelta(minutes=9), "weather-station": NOW - timedelta(hours=5)}
    told = {
        k: Told(k, True, check_says(k, dict.fromkeys(INSTRUMENTS[k].figures, 2)), t, "x", True) for k, t in at.items()
    }
    assert set(known_now(told, NOW)) == {Known.PITCH, Known.ROLL, Known.AIR, Known.LOW, Known.HUMIDITY}
    later = known_now(told, NOW + timedelta(minutes=2))
    assert Known.PITCH not in later
    assert Known.AIR in later
    off = {"slope-sensor": Told("slope-sensor", False, {"pitch": 2.0}, NOW, "x", True)}
    assert known_now(off, NOW) == {}
    for key, says in (("no-such", {}), ("tyre-gauge", {"air_c": 3}), ("tyre-gauge", {"pressure": 9e9})):
        with pytest.raises(BadInput):
            check_says(key, says)


def test_a_stand_in_is_set_shown_and_switched_off(tablets: Tablets) -> None:
    mira, nobody = tablets(), tablets()
    mira.sign_in("Mira")
    assert nobody.http.get("/api/instruments").status_code == 401
    assert say(nobody, "tyre-gauge", pressure=450).status_code == 401
    one = say(mira, "tyre-gauge", pressure=450, tyre_c=11).json()
    assert (one["now"], one["simulated"], one["by"]) == ({"pressure": 450, "tyre_c": 11}, True, "Mira Tolland")
    assert say(mira, "tyre-gauge", on=False, pressure=450).json()["now"] == {}
    wrong = say(mira, "tyre-gauge", pressure=5000)
    assert (wrong.status_code, wrong.json()["field"]) == (422, "says.pressure")
    assert say(mira, "toaster", pressure=1).status_code == 422


def test_without_a_key_of_its_own_no_device_is_heard(tablets: Tablets) -> None:
    http = tablets().http
    body = {"says": {"pressure": 452}}
    address = "/api/instruments/tyre-gauge/says"
    for key in ("", "x", "None", "0" * 200):
        reply = http.post(address, json=body, headers={"x-device-key": key})
        assert reply.status_code == 401, key


def test_the_needs_of_a_shift_come_from_what_was_read_and_what_is_known(tablets: Tablets) -> None:
    mira = tablets()
    mira.sign_in("Mira")

    def needs(**query: Any) -> dict[str, Any]:
        reply = mira.http.get("/api/machines/ex-04/needs", params=query).raise_for_status()
        return {n["key"]: n for n in reply.json()}

    bare = needs()
    assert bare["fuel-shift"]["judgement"] is None
    assert "How full" in bare["fuel-shift"]["lacks"]
    assert "Lowest temperature" in bare["oil-grade"]["lacks"]
    look = mira.new_id()
    reads = [
        mira.entry("read", checkpoint="fuel-level", reading="fuel-shift", given={"seen": 0.5, "shift_hours": 10}),
        mira.entry("read", checkpoint="engine-oil", reading="engine-oil", given={"seen": 0.05, "minutes": 600}),
    ]
    assert mira.send("ex-04", look, [mira.opening("ex-04"), *reads]).json()["refused"] == []
    say(mira, "weather-station", air_c=-12, low_c=-31, humidity=80)
    say(mira, "position", latitude=52.4, longitude=9.7, altitude=60)
    short, long = needs(shift_hours=1, work="light"), needs(shift_hours=24, work="hard")
    assert short["fuel-shift"]["judgement"]["band"] == "in-band"
    assert long["fuel-shift"]["judgement"]["band"] == "act"
    assert long["fuel-shift"]["more"]["order"] >= short["fuel-shift"]["more"]["order"]
    assert long["oil-grade"]["judgement"]["band"] == "stop"  # 10W-30 does not crank at -31 °C
    assert "close to the low mark" in long["engine-oil"]["judgement"]["action"]
    assert long["dark"]["judgement"]["band"] == "act"  # a night is in every 24 hours there
    assert mira.http.get("/api/machines/ex-04/needs", params={"shift_hours": 90}).status_code == 422
    assert mira.http.get("/api/machines/no-such/needs").status_code == 404
