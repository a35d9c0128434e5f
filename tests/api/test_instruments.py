"""Devices: stand-ins set by hand, real ones with a key; and what the shift needs, out of what is known."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from jutrel.core.errors import BadInput
from jutrel.core.reading.instrument import INSTRUMENTS, DeviceWord, check_says, known_now
from jutrel.core.reading.registry import InputSource
from tests.api.conftest import Tablets
from tests.device import Device

NOW = datetime(2026, 3, 2, 6, tzinfo=UTC)


SITE, MACHINE = ("weather-station", "position"), ("slope-sensor", "tyre-gauge", "sound-meter")


def real(chief: Device, machine: str = "", *instruments: str) -> str:
    """The key of a device that an administrator named."""
    of = {"machines": [machine] if machine else [], "instruments": list(instruments or SITE)}
    return str(chief.http.put("/api/devices/box-1", json=of).raise_for_status().json()["key"])


def tells(device: Device, key: str, instrument: str, machine: str = "", **says: float) -> Any:
    body = {"machine": machine, "says": says}
    return device.http.post(f"/api/instruments/{instrument}/says", json=body, headers={"x-device-key": key})


def test_what_is_old_or_switched_off_fills_nothing() -> None:
    """A figure of this morning under a needle of this afternoon would be taken for now."""
    at = {"slope-sensor": NOW - timedelta(minutes=9), "weather-station": NOW - timedelta(hours=5)}
    told = {
        k: DeviceWord(k, "", True, check_says(k, dict.fromkeys(INSTRUMENTS[k].figures, 2)), t, "x", True)
        for k, t in at.items()
    }
    assert set(known_now(told, NOW)) == {
        InputSource.PITCH,
        InputSource.ROLL,
        InputSource.AIR,
        InputSource.LOW,
        InputSource.HUMIDITY,
    }
    later = known_now(told, NOW + timedelta(minutes=2))
    assert InputSource.PITCH not in later
    assert InputSource.AIR in later
    off = {"slope-sensor": DeviceWord("slope-sensor", "ex-04", False, {"pitch": 2.0}, NOW, "x", True)}
    assert known_now(off, NOW) == {}
    for key, says in (("no-such", {}), ("tyre-gauge", {"air_c": 3}), ("tyre-gauge", {"pressure": 9e9})):
        with pytest.raises(BadInput):
            check_says(key, says)


def test_on_a_real_site_nobody_sets_what_a_device_says(tablets: Tablets) -> None:
    """A figure that somebody typed on a page would count as measured on every machine."""
    chief, mira, nobody = tablets(), tablets(), tablets()
    chief.sign_in("Rolf")
    mira.sign_in("Mira")
    assert nobody.http.get("/api/instruments").status_code == 401
    for key, machine in ((SITE[0], ""), *((k, "ld-05") for k in MACHINE)):
        body = {"on": True, "machine": machine, "says": {}}
        assert nobody.http.put(f"/api/instruments/{key}", json=body).status_code == 401
        reply = mira.http.put(f"/api/instruments/{key}", json=body)
        assert (reply.status_code, reply.json()["type"]) == (400, "/problems/no-demo"), key
    where = {"on": True, "says": {"latitude": 52.4, "longitude": 9.7, "altitude": 60}}
    assert mira.http.put("/api/instruments/position", json=where).status_code == 403
    one = chief.http.put("/api/instruments/position", json=where).json()
    assert (one["simulated"], one["settable"], one["now"]["altitude"]) == (False, True, 60)


def test_a_device_speaks_for_its_machine_and_for_no_other(tablets: Tablets) -> None:
    chief, mira = tablets(), tablets()
    chief.sign_in("Rolf")
    mira.sign_in("Mira")
    key = real(chief, "ld-05", *MACHINE, "weather-station")
    assert tells(mira, key, "tyre-gauge", "ld-05", pressure=310, tyre_c=11).status_code == 204
    assert tells(mira, key, "tyre-gauge", "gr-09", pressure=450).status_code == 403
    for instrument, machine in (("tyre-gauge", ""), ("weather-station", "ld-05")):
        wrong = tells(mira, key, instrument, machine)
        assert (wrong.status_code, wrong.json()["field"]) == (422, "machine")
    assert tells(mira, key, "tyre-gauge", "ld-05", pressure=5000).json()["field"] == "says.pressure"
    assert tells(mira, key, "toaster", "ld-05", pressure=1).status_code == 403

    def now(**of: str) -> Any:
        return {i["key"]: i["now"] for i in mira.http.get("/api/instruments", params=of).raise_for_status().json()}

    assert now(machine="ld-05")["tyre-gauge"] == {"pressure": 310, "tyre_c": 11}
    assert now(machine="gr-09")["tyre-gauge"] == {}
    assert set(now()) == set(SITE), "of no machine, only what speaks for the site"


GLASS = {"seen": 0.5, "oil_c": 20.0, "pitch_deg": 0.0, "roll_deg": 0.0}


def test_a_hand_and_an_instrument_are_both_kept_and_the_worse_counts(tablets: Tablets) -> None:
    """Somebody says "level ground" on a slope: the glass of a tank that is low reads full."""
    chief, mira = tablets(), tablets()
    chief.sign_in("Rolf")
    mira.sign_in("Mira")
    key = real(chief, "ex-04", "slope-sensor")
    walk = mira.walk("ex-04")
    level = dict(next(e["what"] for e in walk if e["what"].get("reading") == "hydraulic-level"))
    del level["kind"]
    level["given"] = level["given"] | GLASS
    look = mira.new_id()
    assert mira.send("ex-04", look, [walk[0]]).json()["refused"] == []

    def measured(**what: Any) -> dict[str, Any]:
        said = {**level, "given": {**level["given"], **what}}
        taken = mira.send("ex-04", look, [mira.entry("read", **said)]).json()
        assert taken["refused"] == []
        return dict(mira.look(look)["entries"][-1])

    assert measured()["what"]["told"] == {}
    assert tells(mira, key, "slope-sensor", "ex-04", pitch=0.4, roll=-0.5).is_success
    low = -0.05  # a hand's breadth of oil lacks
    assert mira.look(look)["verdict"]["items"] == []
    measured(seen=low)
    as_level = mira.look(look)["verdict"]["items"]
    assert tells(mira, key, "slope-sensor", "ex-04", pitch=2.4, roll=-0.5).is_success
    measured(seen=0.1)
    found = mira.look(look)["verdict"]["items"]
    assert len(found) > 0, "by the sensor's slope it is low, whatever the hand says"
    assert found[0]["finding"]["attributes"]["low_level"] == as_level[0]["finding"]["attributes"]["low_level"]
    record = mira.http.get(f"/api/inspections/{look}/record.json").raise_for_status().json()
    last = record["entries"][-1]
    assert last["told"] == {"pitch_deg": 2.4}, "within a degree they mean the same"
    assert last["what"]["given"]["pitch_deg"] == 0


def test_what_was_taken_from_a_gauge_and_changed_by_hand_counts_as_the_gauge_told(tablets: Tablets) -> None:
    mira = tablets()
    mira.sign_in("Mira")
    look, n = mira.new_id(), iter(range(9))
    mira.send("ld-05", look, [mira.opening("ld-05")])

    def read(given: float, **told: Any) -> Any:
        at = "tyre-" + ("rear-left", "rear-right", "front-left", "front-right")[next(n)]
        what = {"checkpoint": at, "reading": "tyre-pressure", "given": {"pressure": given, "tyre_c": 11}, **told}
        taken = mira.send("ld-05", look, [mira.entry("read", **what)]).json()
        grade = [i["grade"] for i in mira.look(look)["verdict"]["items"] if i["checkpoint"] == at]
        return [r["field"] for r in taken["refused"]] or grade

    alone, beside, better = read(200), read(270, told={"pressure": 200}), read(200, told={"pressure": 270})
    assert (alone, "hold" in beside, "hold" in better) == (["hold"], True, True)
    assert read(280, told={"nuts": 3}) == ["told.nuts"]


def test_without_a_key_of_its_own_no_device_is_heard(tablets: Tablets) -> None:
    http = tablets().http
    body = {"machine": "ld-05", "says": {"pressure": 452}}
    address = "/api/instruments/tyre-gauge/says"
    for key in ("", "x", "None", "0" * 200):
        reply = http.post(address, json=body, headers={"x-device-key": key})
        assert reply.status_code == 401, key


def test_the_needs_of_a_shift_come_from_what_was_read_and_what_is_known(tablets: Tablets) -> None:
    chief, mira = tablets(), tablets()
    chief.sign_in("Rolf")
    mira.sign_in("Mira")
    key = real(chief)

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
    assert tells(mira, key, "weather-station", air_c=-12, low_c=-31, humidity=80).is_success
    assert tells(mira, key, "position", latitude=52.4, longitude=9.7, altitude=60).is_success
    short, long = needs(shift_hours=1, work="light"), needs(shift_hours=24, work="hard")
    assert short["fuel-shift"]["judgement"]["band"] == "in-band"
    assert long["fuel-shift"]["judgement"]["band"] == "act"
    assert long["fuel-shift"]["more"]["order"] >= short["fuel-shift"]["more"]["order"]
    assert long["oil-grade"]["judgement"]["band"] == "stop"  # 10W-30 does not crank at -31 °C
    assert "close to the low mark" in long["engine-oil"]["judgement"]["action"]
    assert long["dark"]["judgement"]["band"] == "act"  # a night is in every 24 hours there
    assert mira.http.get("/api/machines/ex-04/needs", params={"shift_hours": 90}).status_code == 422
    assert mira.http.get("/api/machines/no-such/needs").status_code == 404
