"""Models go out as files and come in again; a broken one is refused where it is broken, and nothing changes."""

from __future__ import annotations

import json
from typing import Any

import httpx
import pytest
import yaml

from jutrel.catalog import catalog
from jutrel.core.log.codec import encode
from jutrel.core.machine.drawing import plan_drawing
from jutrel.service.machine.models import as_json_file, read_model, shipped_file
from tests.api.conftest import Tablets
from tests.conftest import CATALOG
from tests.device import Device

SHIPPED = shipped_file(CATALOG, "korveth-kw64")


@pytest.fixture
def pell(tablets: Tablets) -> Device:
    device = tablets()
    assert device.sign_in("Pell").is_success
    return device


def take(device: Device, text: str, name: str = "korveth.yaml", **more: Any) -> httpx.Response:
    return device.http.post("/api/models", json={"id": device.new_id(), "name": name, "text": text, **more})


@pytest.mark.parametrize("model", catalog().models)
def test_out_and_in_again_is_the_same(model: str) -> None:
    text = shipped_file(CATALOG, model)
    for form in (text, as_json_file(text)):
        assert read_model(CATALOG, "again", form) == catalog().models[model]


# old text, new text, field, reason, whether the line must be that of the change
BREAKAGE = [
    ("wheelbase: ", "wheelbase: -", "shape.wheelbase", "outside 1 to 9", True),
    ("wheelbase: ", "wheelbass: ", "shape.wheelbass", "no such figure", False),
    ("wheelbase: ", "wheelbase: two #", "file", "not readable YAML", False),
    ("\nmaker: ", "\nmakr: ", "maker", "is missing", False),
    ("\nname: ", "\ncolour: red\nname: ", "colour", "not a known field", True),
    ("family: wheel-loader", "family: hovercraft", "family", "no family is called 'hovercraft'", True),
    ("options: [", "options: [wings, ", "options.0", "has no option 'wings'", True),
    ("tyre-cold-front: 450", "tyre-cold-front: 45000", "limits.tyre-cold-front", "between 100 and 1000", True),
    ("tyre-cold-front: 450, ", "", "limits", "'tyre-cold-front' is missing", False),
    ("  belts: {part", "  edges: {part", "places.edges", "no such checkpoint", False),
    ("  rear: [", "  rear: [0, 0] #", "stations.rear", "nobody can stand there", True),
    ("  rear: [", "  rear: [0, 0]\n  rear: [", "stations.rear", "there twice", True),
    ("leads_to: [cab]", "leads_to: [rear]", "access.0.leads_to.0", "no station that is climbed to", True),
    ("checked_by: steps-cab", "checked_by: wings", "access.0.checked_by", "no checkpoint 'wings'", True),
    ("band: ", "band: .nan #", "tank.band", "give a plain number", True),
    ("system_oil: ", "system_oil: plenty #", "tank.system_oil", "number", True),
]


@pytest.mark.parametrize(("old", "new", "field", "reason", "at_change"), BREAKAGE)
def test_a_broken_model_is_refused(pell: Device, old: str, new: str, field: str, reason: str, at_change: bool) -> None:
    assert old in SHIPPED
    before = pell.http.get("/api/models").json()
    reply = take(pell, SHIPPED.replace(old, new, 1))
    problem = reply.json()
    assert reply.status_code == 422, problem
    assert problem["field"] == field
    assert any(word in problem["detail"] for word in reason.split("|")), problem["detail"]
    assert "Nothing was changed" in problem["detail"]
    assert "korveth.yaml" in problem["detail"]
    if at_change:
        assert abs(problem["line"] - SHIPPED[: SHIPPED.index(old) + 1].count("\n") - 1) <= 1, problem
    assert pell.http.get("/api/models").json() == before


@pytest.mark.parametrize(
    ("text", "reason"),
    [
        ("", "is empty"),
        ("[1, 2]", "is empty, or not a list of fields"),
        ("{", "not readable YAML"),
        ("a: &a [1]\nb: [*a, *a]", "uses references"),
        ("id: x\n" + "# filler\n" * 60_000, "larger than 400 kB|longer than 500000 letters"),
        ("\x00", "not readable YAML"),
    ],
)
def test_what_is_no_model_file(pell: Device, text: str, reason: str) -> None:
    problem = take(pell, text).json()
    assert problem["status"] == 422
    assert any(word in problem["detail"] for word in reason.split("|")), problem["detail"]


def test_a_changed_model_is_in_force_at_once(pell: Device, tablets: Tablets) -> None:
    data = yaml.safe_load(SHIPPED)
    data["shape"]["bucket_width"] += 0.4
    data["name"] = "KW64 wide"
    data["places"]["bucket"] = {"part": "bucket", "side": "in", "at": [0.4, 0.5, 0.3]}
    text = json.dumps(data)
    trial = take(pell, text, "wide.json", keep=False)
    assert trial.status_code == 200
    assert pell.http.get("/api/machines/ld-05").json()["model"]["edition"] == 0  # only tried
    same = {"id": pell.new_id(), "name": "wide.json", "text": text}
    for _ in range(2):
        assert pell.http.post("/api/models", json=same).json()["edition"] == 1
    model = read_model(CATALOG, "wide", text)
    walk = pell.http.get("/api/machines/ld-05/walk").json()
    assert walk["machine"]["model"] == "KW64 wide"
    assert walk["drawing"]["shapes"] == encode(plan_drawing(model).shapes)
    assert walk["drawing"]["bounds"] != list(plan_drawing(catalog().models["korveth-kw64"]).bounds)
    # Out again it is what was taken in, and a preview reads its figures.
    assert pell.http.get("/api/models/korveth-kw64/file.json").json() == data
    leak = {"model": "korveth-kw64", "fluid": "coolant", "leak_class": "III", "drops": 10, "seconds": 60}
    assert pell.http.post("/api/readings/leak", json=leak).status_code == 200
    # A machine may not lose what it has.
    data["options"].remove("quick-coupler")
    problem = take(pell, json.dumps(data)).json()
    assert (problem["status"], problem["field"]) == (422, "options")
    assert "LD-05 has 'quick-coupler'" in problem["detail"]
    # Its record brings the file along: it can be graded elsewhere.
    mira = tablets()
    mira.sign_in()
    inspection = mira.new_id()
    mira.send("ld-05", inspection, mira.walk("ld-05"))
    record = mira.http.get(f"/api/inspections/{inspection}/record.json").json()
    assert json.loads(record["machine"]["model_file"]) == yaml.safe_load(text)
    assert take(mira, SHIPPED).status_code == 403


def test_the_preview_speaks_of_the_sites_own_edition(pell: Device, tablets: Tablets) -> None:
    """A tank that the site's file makes smaller empties within the shift: in the preview as in the verdict."""
    data = yaml.safe_load(SHIPPED)
    data["reserves"]["coolant"] = 0.2
    assert take(pell, json.dumps(data)).status_code == 200
    mira = tablets()
    mira.sign_in()
    drops = {"leak_class": "III", "fluid": "coolant", "coupling": "other", "drops": 30, "seconds": 60}
    finding = {"failure_mode": "leak", "attributes": drops, "note": ""}
    body = {"machine": "ld-05", "checkpoint": "cooling-pack", "finding": finding}
    preview = mira.http.post("/api/grade", json=body).raise_for_status().json()
    inspection = mira.new_id()
    answer = mira.entry("answered", checkpoint="cooling-pack", answer="defect", findings=[finding])
    mira.send("ld-05", inspection, [mira.opening("ld-05"), answer])
    item = mira.look(inspection)["verdict"]["items"][0]
    assert (item["grade"], item["leak"]) == ("hold", preview["leak"])
    assert [t["rule"] for t in item["trace"]] == [t["rule"] for t in preview["trace"]]
    assert "run.leak.runs_out" in [t["rule"] for t in preview["trace"]]
