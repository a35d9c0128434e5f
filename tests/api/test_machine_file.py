"""A machine's file: written once, nothing lost, own figures in force where they are needed, hours that go on."""

from __future__ import annotations

import io
from typing import Any

import httpx
from PIL import Image
from pypdf import PdfReader

from jutrel.service.inspection.photo import made_small
from tests.api.conftest import Tablets
from tests.device import OPTIONS, Device

LEAK = {"failure_mode": "leak", "attributes": {"leak_class": "II", "coupling": "flat-face"}}


def editor(tablets: Tablets, who: str = "Dag") -> Device:
    device = tablets()
    assert device.sign_in(who).is_success
    return device


def filed(device: Device, machine: str, **change: Any) -> dict[str, Any]:
    """What stands in the file, with a change, as the form sends it."""
    now = device.http.get(f"/api/machines/{machine}").json()
    return {
        "id": device.new_id(),
        "name": now["machine"]["name"],
        "model_id": now["model"]["id"],
        "options": now["options"],
        "own_limits": now["own_limits"],
        "bay": now["machine"]["bay"],
        "note": now["note"],
        **change,
    }


def put(device: Device, machine: str, body: dict[str, Any]) -> httpx.Response:
    return device.http.put(f"/api/machines/{machine}", json=body)


def test_a_unit_is_written_down_once_and_walked(tablets: Tablets) -> None:
    dag = editor(tablets)
    body = {
        "id": dag.new_id(),
        "name": "  GR  10 ",
        "model_id": "sandvarn-p22",
        "options": ["beacon"],
        "bay": 10,
        "hour_meter": 12.5,
    }
    first = put(dag, "gr-10", body).raise_for_status().json()
    assert put(dag, "gr-10", body).json() == first  # sent twice, written once
    assert first["machine"]["name"] == "GR 10"
    assert len(first["entries"]) == 1
    clash = put(dag, "gr-10", {**body, "name": "GR-11"})
    assert (clash.status_code, clash.json()["field"]) == (409, "id")
    mira = tablets()
    mira.sign_in()
    assert "gr-10" in [m["machine"]["id"] for m in mira.http.get("/api/yard").json()["machines"]]
    walk = mira.http.get("/api/machines/gr-10/walk").json()
    assert walk["options"] == ["beacon"]
    assert walk["machine"]["hour_meter"] == 12.5
    # An operator reads the file and writes nothing in it.
    assert mira.http.get("/api/machines/gr-10").json()["may_edit"] is False
    assert put(mira, "gr-10", {**body, "id": mira.new_id()}).status_code == 403
    # Off the site: gone from the yard, kept in the file.
    put(dag, "gr-10", filed(dag, "gr-10", active=False)).raise_for_status()
    assert "gr-10" not in [m["machine"]["id"] for m in mira.http.get("/api/yard").json()["machines"]]
    assert len(dag.http.get("/api/machines/gr-10").json()["entries"]) == 2


def test_a_wrong_field_is_named_and_nothing_changes(tablets: Tablets) -> None:
    dag = editor(tablets)
    before = dag.http.get("/api/machines/ld-05").json()
    for change, field, says in (
        ({"name": "   "}, "name", "give the machine its name"),
        ({"name": "EX-01"}, "name", "another machine"),
        ({"model_id": "korveth-x"}, "model_id", "no model"),
        ({"options": ["wings"]}, "options", "not an option"),
        ({"own_limits": {"tyre-cold-front": 9000}}, "own_limits.tyre-cold-front", "between 100 and 1000 kPa"),
        ({"own_limits": {"tyre-cold-front": "soft"}}, "own_limits.tyre-cold-front", "number of kPa"),
        ({"own_limits": {"engine-oil-grade": 40}}, "own_limits.engine-oil-grade", "as words"),
        ({"own_limits": {"sag": 30}}, "own_limits.sag", "no figure of this family"),
        ({"bay": -1}, "bay", "is below 0"),
    ):
        reply = put(dag, "ld-05", filed(dag, "ld-05", **change))
        assert reply.status_code == 422, change
        assert reply.json()["field"] == field
        assert says in reply.json()["detail"]
    assert dag.http.get("/api/machines/ld-05").json() == before


def test_own_figures_are_in_force_and_stay_in_the_record(tablets: Tablets) -> None:
    dag, mira = editor(tablets), tablets()
    mira.sign_in()
    put(dag, "ld-05", filed(dag, "ld-05", own_limits={"tyre-cold-front": 333.0})).raise_for_status()
    limits = {x["id"]: x for x in mira.http.get("/api/machines/ld-05/walk").json()["limits"]}
    assert (limits["tyre-cold-front"]["value"], limits["tyre-cold-front"]["own"]) == (333.0, True)
    assert limits["tyre-cold-rear"]["own"] is False
    inspection = mira.new_id()
    mira.send("ld-05", inspection, mira.walk("ld-05"))
    put(dag, "ld-05", filed(dag, "ld-05", own_limits={})).raise_for_status()
    record = mira.http.get(f"/api/inspections/{inspection}/record.json").json()
    assert record["machine"]["own_limits"] == {"tyre-cold-front": 333.0}


def test_hours_go_on_over_another_meter(tablets: Tablets) -> None:
    dag, mira = editor(tablets), tablets()
    mira.sign_in()
    mira.send("ex-01", mira.new_id(), [mira.opening("ex-01", hour_meter=7000.0)])
    worn = [{"failure_mode": "wear", "attributes": {"wear": "three-quarters"}, "note": ""}]

    def meter(**what: Any) -> httpx.Response:
        body = {"id": dag.new_id(), "last": 7010.0, "first": 0.0, "why": "dead display", **what}
        return dag.http.post("/api/machines/ex-01/meter", json=body)

    assert "was read at 7000.0 h already" in meter(last=6990.0).json()["detail"]
    assert meter(first=8000.0).json()["field"] == "first"
    assert meter(why=" ").json()["field"] == "why"
    same = dag.new_id()
    file = meter(id=same).raise_for_status().json()
    assert meter(id=same).json() == file
    assert (file["meter"], file["machine"]["hour_meter"], file["machine"]["meter_offset"]) == (0.0, 7010.0, 7010.0)
    # The next walk reads 4 h on the new meter: the machine has 7014, and deadlines count from there.
    inspection = mira.new_id()
    walk = mira.walk("ex-01", {"teeth": {"answer": "defect", "findings": worn}}, hour_meter=4.0)
    assert mira.send("ex-01", inspection, walk).json()["refused"] == []
    seen = mira.http.get(f"/api/inspections/{inspection}").json()
    assert seen["hour_meter"] == 7014.0
    assert seen["verdict"]["valid_until_hour"] == 7024.0
    due = next(i["due_hour"] for i in seen["verdict"]["items"] if i["checkpoint"] == "teeth")
    assert due > 7014.0
    assert f"mended by {due - 7010.0:.0f} h on the meter" in seen["verdict"]["why"]
    assert dag.http.get("/api/machines/ex-01").json()["meter"] == 4.0


def test_an_option_with_something_open_is_not_taken_off(tablets: Tablets) -> None:
    """A Hold must not go out of sight because its checkpoint does."""
    dag, mira = editor(tablets), tablets()
    mira.sign_in()
    loose = [{"failure_mode": "inoperative", "attributes": {"works": "dead"}, "note": ""}]
    inspection = mira.new_id()
    mira.send("ex-04", inspection, mira.walk("ex-04", {"coupler-lock": {"answer": "defect", "findings": loose}}))
    mira.send("ex-04", inspection, [mira.signature(inspection)])
    without = sorted(set(OPTIONS["ex-04"]) - {"quick-coupler"})
    reply = put(dag, "ex-04", filed(dag, "ex-04", options=without))
    assert (reply.status_code, reply.json()["field"]) == (409, "options")
    assert "coupler-lock" in reply.json()["detail"]
    put(dag, "ex-04", filed(dag, "ex-04", options=sorted({*OPTIONS["ex-04"], "positioning"}))).raise_for_status()


def test_how_a_checkpoint_looks_when_it_is_sound(tablets: Tablets) -> None:
    """For one machine, or for all of its model; only who may write the file shows it, and it can be taken away."""
    dag, mira = editor(tablets), tablets()
    mira.sign_in()
    raw = io.BytesIO()
    Image.new("RGB", (300, 200), "olive").save(raw, "PNG")

    def show(machine: str, who: Device = dag, checkpoint: str = "boom", **more: Any) -> httpx.Response:
        params = {"photo": who.new_id(), **more}
        return who.http.put(f"/api/machines/{machine}/good/{checkpoint}", params=params, content=raw.getvalue())

    def seen(machine: str) -> list[tuple[str, bool]]:
        return [(g["photo"], g["whole_model"]) for g in mira.http.get(f"/api/machines/{machine}/walk").json()["good"]]

    assert show("ex-01", mira).status_code == 403
    assert show("ex-01", checkpoint="moon").json()["field"] == "checkpoint"
    all_ = show("ex-01", whole_model=True).raise_for_status().json()[0]["photo"]
    model = {m["machine"]["id"]: m["machine"]["model"] for m in mira.http.get("/api/yard").json()["machines"]}
    same = next(m for m in model if m != "ex-01" and model[m] == model["ex-01"])
    assert seen("ex-01") == seen(same) == [(all_, True)]
    assert seen("ld-05") == []
    own = show(same).raise_for_status().json()[0]["photo"]
    assert (seen("ex-01"), seen(same)) == ([(all_, True)], [(own, False)])
    assert Image.open(io.BytesIO(mira.http.get(f"/api/photos/{own}").content)).size == (300, 200)
    gone = dag.http.delete(f"/api/machines/{same}/good/boom", params={"entry": dag.new_id()})
    assert [g["photo"] for g in gone.raise_for_status().json()] == [all_], "the model's own shows again"
    dag.http.delete(f"/api/machines/{same}/good/boom", params={"entry": dag.new_id(), "whole_model": True})
    assert seen("ex-01") == seen(same) == [], "taken away from wherever it was shown last"


def test_a_pictures_comment_is_not_kept() -> None:
    """Found so: what a camera or a person wrote into the file went into the record."""
    raw = io.BytesIO()
    Image.new("RGB", (40, 30), "red").save(raw, "JPEG", comment=b"at home, 12 Long Lane")
    assert b"Long Lane" in raw.getvalue()
    small = made_small(raw.getvalue())
    assert b"Long Lane" not in small
    assert "comment" not in Image.open(io.BytesIO(small)).info


def test_label_and_photo(tablets: Tablets) -> None:
    dag = editor(tablets)
    pdf = dag.http.get("/api/machines/rh-08/label.pdf")
    page = PdfReader(io.BytesIO(pdf.content)).pages[0]
    assert "RH-08" in page.extract_text()
    assert (round(float(page.mediabox.width)), round(float(page.mediabox.height))) == (283, 176)  # 100 by 62 mm
    assert "<svg" in dag.http.get("/api/machines/rh-08/label.svg").text
    raw = io.BytesIO()
    Image.new("RGB", (2400, 1200), "olive").save(raw, "JPEG")
    photo = dag.new_id()
    for _ in range(2):
        file = dag.http.put("/api/machines/rh-08/photo", params={"photo": photo}, content=raw.getvalue())
    assert file.json()["photo"] == photo
    assert [e["kind"] for e in file.json()["entries"]] == ["pictured", "filed"]
    kept = Image.open(io.BytesIO(dag.http.get(f"/api/photos/{photo}").content))
    assert max(kept.size) == 1600
    assert dag.http.put("/api/machines/rh-08/photo", params={"photo": dag.new_id()}, content=b"x").status_code == 400
