"""A night in the yard: what is otherwise in the morning, at its place, and no more than two readings can tell."""

from __future__ import annotations

from typing import Any

from tests.device import Device
from tests.walks import LEVEL, MODEL

BROKEN = {
    "answer": "defect",
    "findings": [{"failure_mode": "broken", "attributes": {"broken": "view-lost"}, "note": "glass out"}],
}
CHIP = {"answer": "defect", "findings": [{"failure_mode": "broken", "attributes": {"broken": "chip"}}]}
WORN = {"answer": "defect", "findings": [{"failure_mode": "wear", "attributes": {"wear": "half"}}]}


def night(device: Device, machine: str) -> Any:
    return device.http.get(f"/api/machines/{machine}/overnight").raise_for_status().json()


def test_a_mirror_breaks_and_three_litres_go(tablet: Device) -> None:
    assert night(tablet, "ex-02") is None
    band = MODEL.tank.area * MODEL.tank.band * 1000.0
    full = {**{k: v for k, v in LEVEL.items() if k != "checkpoint"}, "seen": 0.8}
    tablet.whole("ex-02", {"hydraulic-level": full, "glass-front": CHIP, "teeth": WORN})
    tablet.whole(
        "ex-02", {"hydraulic-level": {**full, "seen": 0.8 - 3.0 / band}, "mirror-right": BROKEN, "glass-front": BROKEN}
    )
    seen = night(tablet, "ex-02")
    found = {(c["checkpoint"], c["failure"]): c["change"] for c in seen["changes"]}
    assert found[("mirror-right", "Broken")] == "new"
    assert found[("glass-front", "Broken")] == "worse"
    assert found[("teeth", "Worn")] == "gone"
    lost = {x["checkpoint"]: x for x in seen["lost"]}["hydraulic-level"]
    assert abs(lost["litres"] - 3.0) < 0.05
    mirror = next(c for c in seen["changes"] if c["checkpoint"] == "mirror-right")
    assert (mirror["evening"], "glass out" in mirror["morning"]) == ("", True)
    # It names who left and who found it, and says of neither that they did it.
    assert (seen["parked_by"], seen["found_by"]) == ("Mira Tolland", "Mira Tolland")
    text = str(seen).lower()
    assert not any(word in text for word in ("fault", "blame", "guilty", "caused"))


def test_what_two_readings_leave_open_is_no_loss(tablet: Device) -> None:
    """Half a litre is less than glass, thermometer and slope can tell apart: nobody is sent looking for it."""
    band = MODEL.tank.area * MODEL.tank.band * 1000.0
    full = {**{k: v for k, v in LEVEL.items() if k != "checkpoint"}, "seen": 0.8}
    tablet.whole("ex-02", {"hydraulic-level": full})
    tablet.whole("ex-02", {"hydraulic-level": {**full, "seen": 0.8 - 0.3 / band}})
    lost = night(tablet, "ex-02")["lost"][0]
    assert abs(lost["litres"]) < lost["unsure"]
    assert lost["says"].startswith("No more changed")


def test_what_nobody_looked_at_is_not_called_new(tablet: Device) -> None:
    tablet.whole("ex-02", {"mirror-right": {"answer": "unseen", "reason": "another machine stands there"}})
    tablet.whole("ex-02", {"mirror-right": BROKEN})
    found = {c["checkpoint"]: c["change"] for c in night(tablet, "ex-02")["changes"]}
    assert found["mirror-right"] == "not-looked-at"


def test_while_one_walks_each_place_says_how_it_was_left(tablet: Device) -> None:
    tablet.whole("ex-02", {"glass-front": CHIP, "teeth": {"answer": "unseen", "reason": "in the heap"}})
    look = tablet.new_id()
    for _ in range(2):  # before the look has begun, and after
        told = tablet.http.get(f"/api/machines/ex-02/evening?inspection={look}").raise_for_status().json()
        places = {p["checkpoint"]: p["said"] for p in told["places"]}
        assert places["glass-front"] == "Broken: A chip or scratch"
        assert places["mirror-right"] == ""
        assert "teeth" not in places
        tablet.send("ex-02", look, [tablet.opening("ex-02")]).raise_for_status()
