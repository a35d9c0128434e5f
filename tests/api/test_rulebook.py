"""The rulebook over the API: read, tried and chosen; and what a choice must not change."""

from __future__ import annotations

from typing import Any

import pytest

from tests.api.conftest import Tablets
from tests.device import Device

DEAD = {"failure_mode": "inoperative", "attributes": {"works": "dead"}}


def tried(device: Device, **body: Any) -> Any:
    return device.http.post("/api/rulebook/what-if", json={"duty": "light", **DEAD, **body})


def test_every_duty_has_its_page(tablet: Device) -> None:
    book = tablet.http.get("/api/rulebook").raise_for_status().json()
    assert [d["id"] for d in book["duties"]][:4] == ["stop", "steer", "hold-wheel", "hold-tool"]
    assert len(book["duties"]) == 24
    for duty in book["duties"]:
        assert duty["parts"]
        assert 1 <= len(duty["rules"]) <= 60, "a duty is read on one page"
        modes = {r["mode"] for r in duty["rules"]}
        anywhere = {r["mode"] for r in book["anywhere"]}
        assert set(duty["modes"]) <= modes | anywhere, duty["id"]
    assert {r["id"] for r in book["regimes"]} == {"house", "us-construction", "us-mines", "iso", "great-britain"}
    assert all(
        "Check your own law and manual" in r["caution"] or "check your own law" in r["caution"] for r in book["regimes"]
    )
    assert any(s["from_memory"] for s in book["sources"])
    spanish = tablet.http.get("/api/rulebook", headers={"Accept-Language": "es"}).json()
    assert spanish["duties"][0]["name"] == "Parar y retener"
    assert [r["id"] for r in spanish["duties"][0]["rules"]] == [r["id"] for r in book["duties"][0]["rules"]]


def test_what_if_says_what_a_finding_would_be(tablet: Device) -> None:
    day = tried(tablet).json()
    assert (day["grade"], day["within_hours"], day["may_put_right"]) == ("mend", 10.0, True)
    dark = tried(tablet, dark=True).json()
    assert (dark["grade"], dark["limits"]) == ("limit", ["Daylight only."])
    third = tried(tablet, dark=True, shifts=3).json()
    assert (third["grade"], third["trace"][-1]["rule"]) == ("hold", "raise.third")
    assert tried(tablet, overdue=True).json()["trace"][-1]["rule"] == "raise.overdue"
    mirror = tried(tablet, duty="see", failure_mode="missing", attributes={"missing_part": "absent"}, out=2).json()
    assert (mirror["grade"], mirror["trace"][-1]["rule"]) == ("hold", "raise.backup")


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"duty": "fly"}, "duty"),
        ({"failure_mode": "rot"}, "failure_mode"),
        ({"attributes": {"works": "perhaps"}}, "attributes.works"),
        ({"attributes": {"leak_class": "I"}}, "attributes.leak_class"),
        ({"regime": "moon"}, "regime"),
        ({"failure_mode": "pressure", "attributes": {"tyre_pressure": "low"}}, "failure_mode"),
        ({"checkpoint": "boom"}, "checkpoint"),
        ({"shifts": 0}, "shifts"),
    ],
)
def test_what_cannot_be_is_refused_with_its_field(tablet: Device, body: dict[str, Any], field: str) -> None:
    reply = tried(tablet, **body)
    assert reply.status_code == 422
    assert field in reply.json()["field"]


def test_a_regime_is_chosen_by_an_administrator_and_changes_no_look_that_has_begun(
    tablet: Device, tablets: Tablets
) -> None:
    dead = {
        "horn-button": {"answer": "defect", "findings": [DEAD]},
        "alarm-unit": {"answer": "defect", "findings": [DEAD]},
    }
    begun = tablet.new_id()
    tablet.send("ex-01", begun, tablet.walk("ex-01", dead))
    rolf, pell = tablets(), tablets()
    rolf.sign_in("Rolf")
    pell.sign_in("Pell")
    choose = {"regime": "us-construction"}
    assert pell.http.put("/api/rulebook/regime", json=choose).status_code == 403
    assert rolf.http.put("/api/rulebook/regime", json={"regime": "moon"}).json()["field"] == "regime"
    assert rolf.http.put("/api/rulebook/regime", json=choose).status_code == 200
    try:
        assert tablet.http.get("/api/rulebook").json()["regime"] == "us-construction"
        old = tablet.look(begun)["verdict"]
        assert (old["regime"], {i["checkpoint"]: i["grade"] for i in old["items"]}) == (
            "house",
            {"horn-button": "hold", "alarm-unit": "hold"},
        )
        new = tablet.look(tablet.whole("ex-02", dead))["verdict"]
        # A horn has no stand-in; an alarm may have an observer: 29 CFR 1926.602(a)(9), from memory.
        grades = {i["checkpoint"]: i["grade"] for i in new["items"] if i["checkpoint"] in dead}
        assert (new["regime"], grades) == ("us-construction", {"horn-button": "hold", "alarm-unit": "limit"})
        assert "An observer signals that it is safe whenever it goes back." in str(new["items"])
        assert tablet.yard("ex-01")["go"] == "held"
    finally:
        rolf.http.put("/api/rulebook/regime", json={"regime": "house"}).raise_for_status()
