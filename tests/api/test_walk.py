"""The walk as the client gets it, and the preview of a grade against the verdict it turns into."""

from __future__ import annotations

import random
from typing import Any

import pytest

from jutrel.catalog import catalog
from jutrel.core.log.codec import encode
from jutrel.core.machine.drawing import plan_drawing, side_drawing
from jutrel.core.machine.model import walk_of
from jutrel.core.reading.leak import Coupling, LeakClass, leak_reading
from jutrel.core.reading.tank import hydraulic_level
from jutrel.core.wording import ENGLISH, spoken
from jutrel.demo.story import MACHINES
from tests.device import OPTIONS, Device
from tests.walks import BOOK, MODEL, walk_with


@pytest.mark.parametrize("machine", OPTIONS)
def test_a_walk_holds_what_this_unit_has_and_nothing_else(tablet: Device, machine: str) -> None:
    got = tablet.http.get(f"/api/machines/{machine}/walk").json()
    model = catalog().models[next(m.model for m in MACHINES if m.id == machine)]
    walk = walk_of(model, frozenset(OPTIONS[machine]))
    assert [c["id"] for c in got["checkpoints"]] == [c.id for c in walk.checkpoints]
    assert sorted(s["id"] for s in got["stations"]) == sorted(s.id for s in walk.stations)
    assert got["stations"][0]["id"] == walk.stations[0].id
    assert got["drawing"]["shapes"] == encode(plan_drawing(model).shapes)
    assert got["sides"]["right"]["shapes"] == encode(side_drawing(model, "right").shapes)
    assert got["because"] == []
    modes = {m["id"] for m in got["modes"]}
    asked = {a["id"] for a in got["attributes"]}
    for c in got["checkpoints"]:
        assert set(c["failure_modes"]) <= modes
    for m in got["modes"]:
        assert set(m["attributes"]) <= asked
    # Planned time: looking, walking at a metre a second, climbing.
    looking = sum(c.seconds for c in walk.checkpoints)
    assert got["planned_s"] == pytest.approx(sum(s["seconds"] for s in got["stations"]))
    assert got["planned_s"] == pytest.approx(looking + got["moving_s"])
    assert 20 < got["moving_s"] < 200


def _some_finding(rng: random.Random) -> tuple[str, dict[str, Any]]:
    point = rng.choice([c for c in walk_with(OPTIONS["ex-01"]).checkpoints if c.reading is None])
    mode = BOOK.modes[rng.choice(point.failure_modes)]
    attributes: dict[str, Any] = {}
    for key in mode.attributes:
        attribute = BOOK.attributes[key]
        if attribute.choices:
            attributes[key] = rng.choice(attribute.choices).id
        elif attribute.kind.value == "flag":
            attributes[key] = rng.random() < 0.5
        else:
            attributes[key] = float(rng.randint(1, 90))
    return point.id, {"failure_mode": mode.id, "attributes": attributes, "note": "as seen"}


def test_the_preview_is_the_verdict_to_come(tablet: Device) -> None:
    """What stands beside the control while choosing is what the record says afterwards."""
    rng = random.Random(11)
    conditions = {"dark": True, "rain": True, "people_on_foot": True, "shift_hours": 9.0}
    compared = 0
    for _ in range(12):
        point, finding = _some_finding(rng)
        opened = {"conditions": conditions, "hour_meter": 20000.0, "options": sorted(OPTIONS["ex-01"])}
        body = {"machine": "ex-01", "opened": opened, "checkpoint": point, "finding": finding}
        preview = tablet.http.post("/api/grade", json=body).raise_for_status().json()
        # On a look of its own, and once more on that look as it stands: the same, whatever was open before.
        inspection = tablet.new_id()
        tablet.send("ex-01", inspection, [tablet.opening("ex-01", conditions=conditions)])
        again = tablet.http.post("/api/grade", json=body | {"inspection": inspection}).raise_for_status().json()
        answer = tablet.entry(
            "answered", tablet.seen("ex-01", point), checkpoint=point, answer="defect", findings=[finding]
        )
        assert tablet.send("ex-01", inspection, [answer]).json()["refused"] == []
        items = tablet.http.get(f"/api/inspections/{inspection}").json()["verdict"]["items"]
        item = next(
            i for i in items if i["checkpoint"] == point and i["finding"]["failure_mode"] == finding["failure_mode"]
        )
        for said in (preview, again):
            compared += 1
            assert [t["rule"] for t in item["trace"]] == [t["rule"] for t in said["trace"]]
            assert (item["grade"], item["limits"], item["reports"]) == (said["grade"], said["limits"], said["reports"])
            assert item["due_hour"] == pytest.approx(said["due_hour"])
    assert compared == 24


def test_readings_over_the_wire_are_the_cores(tablet: Device) -> None:
    rng = random.Random(5)
    for _ in range(20):
        seen, oil, pitch, roll = rng.uniform(-0.4, 1.4), rng.uniform(-20, 60), rng.uniform(-4, 4), rng.uniform(-4, 4)
        rods = {r.id: rng.random() for r in MODEL.tank.rods}
        figures = {"seen": seen, "oil_c": oil, "pitch_deg": pitch, "roll_deg": roll}
        inputs = {**figures, **{f"out.{group}": out for group, out in rods.items()}}
        got = tablet.http.post("/api/readings/hydraulic-level", json={"model": MODEL.id, "inputs": inputs}).json()
        level = hydraulic_level(MODEL.tank, seen, oil, pitch, roll, rods)
        assert (got["value"], got["low"], got["high"]) == (level.corrected, level.low, level.high)
        assert got["judgement"] == spoken(level.judgement, ENGLISH)
    body = {"model": MODEL.id, "fluid": "coolant", "leak_class": "III", "drops": 12, "seconds": 60, "shift_hours": 8}
    core = leak_reading(LeakClass.III, MODEL.reserves["coolant"], 8, 12, 60, Coupling.OTHER)
    assert tablet.http.post("/api/readings/leak", json=body).json() == spoken(core, ENGLISH)
