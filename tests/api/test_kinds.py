"""Kinds of inspection: each takes what it needs, answers change it and say why, the yard knows what holds."""

from __future__ import annotations

from typing import Any

import pytest

from jutrel.catalog import catalog
from jutrel.core.machine.model import walk_for, walk_of
from tests.api.conftest import Tablets
from tests.device import OPTIONS, Device

WORN = {"answer": "defect", "findings": [{"failure_mode": "wear", "attributes": {"wear": "half"}, "note": ""}]}


def occasion(device: Device, machine: str, purpose: str = "pre-start", **conditions: Any) -> dict[str, Any]:
    body = {"purpose": purpose, "conditions": conditions}
    got: dict[str, Any] = device.http.post(f"/api/machines/{machine}/walk", json=body).raise_for_status().json()
    return got


def ids(walk: dict[str, Any]) -> set[str]:
    return {c["id"] for c in walk["checkpoints"]}


def walked(device: Device, machine: str, answers: dict[str, Any] | None = None, **opened: Any) -> str:
    inspection = device.new_id()
    device.send(machine, inspection, device.walk(machine, answers, **opened))
    device.send(machine, inspection, [device.signature(inspection)])
    return inspection


def go(device: Device, machine: str) -> tuple[str, str]:
    yard = device.http.get("/api/yard").json()["machines"]
    return next((m["go"], m["why"]) for m in yard if m["machine"]["id"] == machine)


@pytest.mark.parametrize("machine", ["ex-01", "ld-05", "dz-06", "ah-07", "rh-08", "gr-09"])
def test_each_kind_takes_its_own(tablet: Device, machine: str) -> None:
    whole = ids(occasion(tablet, machine))
    sizes = {k: ids(occasion(tablet, machine, k)) for k, kind in catalog().kinds.items() if kind.walked}
    assert sizes["pre-start"] == whole
    for kind, taken in sizes.items():
        assert taken <= whole | sizes["after-transport"] | sizes["after-service"], kind
    assert len(sizes["once-over"]) < len(sizes["change-of-operator"]) < len(whole)
    assert {"pools", "people"} <= sizes["once-over"]
    # Answers add, take out and make mandatory, and every change has its sentence.
    rain = occasion(tablet, machine, rain=True)
    assert "wiped" in ids(rain) - whole
    assert {b["checkpoint"] for b in rain["because"]} >= {"wiped"}
    carried = occasion(tablet, machine, transported=True)
    assert "tie-downs" in ids(carried)
    frost = occasion(tablet, machine, air_c=-3.0)
    assert "ice-steps" in ids(frost)
    slope = occasion(tablet, machine, pitch_deg=2.5, roll_deg=2.0)
    assert "chocks" in {b["checkpoint"] for b in slope["because"]} or "chocks" in ids(slope)
    for walk in (rain, carried, frost, slope):
        assert all(len(b["says"]) > 15 for b in walk["because"])
        assert walk["planned_s"] > walk["moving_s"] > 0
        assert {c["station"] for c in walk["checkpoints"]} == {s["id"] for s in walk["stations"]}


def test_every_answer_changes_something_somewhere() -> None:
    """A question that changes no walk of any machine would be asked for nothing."""
    for question in catalog().questions:
        changed = 0
        for model in catalog().models.values():
            whole = walk_of(model, frozenset(model.options))
            for kind in (k for k in catalog().kinds.values() if k.walked):
                plain, asked = walk_for(whole, kind, {}), walk_for(whole, kind, {question.id: question.says})
                changed += plain.checkpoints != asked.checkpoints
                assert {b.says for b in asked.because} <= {question.says}
        assert changed, question.id


def test_a_once_over_lists_what_is_open_and_what_changed(tablets: Tablets) -> None:
    mira, dag = tablets(), tablets()
    mira.sign_in()
    dag.sign_in("Dag")
    usual = ids(occasion(mira, "ex-04", "once-over"))
    assert not usual & {"teeth", "slew-bolts", "masts"}
    walked(mira, "ex-04", {"teeth": WORN, "slew-bolts": {"answer": "unseen", "reason": "mud"}})
    walk = occasion(mira, "ex-04", "once-over")
    why = {b["checkpoint"]: b["says"] for b in walk["because"]}
    assert "open there" in why["teeth"]  # an open Watch
    assert "Nobody could see it" in why["slew-bolts"]
    # A look that finds the tooth sound closes the Watch; the next look sees whether that holds.
    walked(mira, "ex-04", {}, purpose="once-over")
    why = {b["checkpoint"]: b["says"] for b in occasion(mira, "ex-04", "once-over")["because"]}
    assert "found sound again" in why["teeth"]
    assert "slew-bolts" not in why
    # What is fitted in between is looked at too.
    file = dag.http.get("/api/machines/ex-04").json()
    body = {"id": dag.new_id(), "name": "EX-04", "model_id": "tolvane-e24", "bay": 4}
    dag.http.put("/api/machines/ex-04", json={**body, "options": [*file["options"], "positioning"]}).raise_for_status()
    why = {b["checkpoint"]: b["says"] for b in occasion(mira, "ex-04", "once-over")["because"]}
    assert "fitted since the last look" in why["masts"]


def test_what_holds_and_what_ends_it(tablet: Device) -> None:
    assert go(tablet, "dz-06")[0] == "uninspected"
    walked(tablet, "dz-06")
    assert go(tablet, "dz-06")[0] == "ready"
    # A once-over clears nothing and ends nothing, but what it finds counts.
    seen = walked(tablet, "dz-06", purpose="once-over")
    verdict = tablet.http.get(f"/api/inspections/{seen}").json()["verdict"]
    assert (verdict["outcome"], verdict["valid_until"]) == ("ready", None)
    assert "does not clear it for a shift" in verdict["why"]
    assert go(tablet, "dz-06")[0] == "ready"
    pool = {"failure_mode": "pool", "attributes": {"pool": "pool"}, "note": ""}
    walked(tablet, "dz-06", {"pools": {"answer": "defect", "findings": [pool]}}, purpose="once-over")
    assert go(tablet, "dz-06")[0] in ("limited", "held")
    # Another machine: after service it must be walked anew.
    walked(tablet, "gr-09")
    assert go(tablet, "gr-09")[0] == "ready"
    walked(tablet, "gr-09", purpose="after-service")
    state, why = go(tablet, "gr-09")
    assert state == "uninspected"
    assert "After service" in why


def test_a_defect_outside_the_kind_still_counts(tablet: Device) -> None:
    """Somebody on a once-over sees a cracked boom: it is in the verdict, though the kind does not ask for it."""
    assert "boom" not in ids(occasion(tablet, "ex-01", "once-over"))
    inspection = tablet.new_id()
    crack = {"failure_mode": "crack", "attributes": {"crack_where": "parent"}, "note": ""}
    entries = tablet.walk("ex-01", purpose="once-over")
    entries.append(tablet.entry("answered", checkpoint="boom", answer="defect", findings=[crack]))
    assert tablet.send("ex-01", inspection, entries).json()["refused"] == []
    verdict = tablet.http.get(f"/api/inspections/{inspection}").json()["verdict"]
    assert "boom" in {i["checkpoint"] for i in verdict["items"]}
    assert verdict["outcome"] == "held"


def test_an_unknown_kind_is_refused_by_name(tablet: Device) -> None:
    reply = tablet.http.post("/api/machines/ex-01/walk", json={"purpose": "stroll"})
    assert (reply.status_code, reply.json()["field"]) == (422, "purpose")
    opening = tablet.entry("opened", hour_meter=20000.0, options=sorted(OPTIONS["ex-01"]), purpose="stroll")
    assert tablet.send("ex-01", tablet.new_id(), [opening]).json()["refused"][0]["field"] == "purpose"
