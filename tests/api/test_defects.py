"""Defects to their end: seen, accepted, isolated, repaired, checked by another; and what must never get past it."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from typing import Any

from fastapi.testclient import TestClient
from pypdf import PdfReader

from jutrel.api.app import make_app
from jutrel.settings import Settings
from tests.api.conftest import Tablets
from tests.conftest import CATALOG
from tests.device import ASKS_AGAIN, CRACK, Device

Plain = dict[str, Any]
GRADES = ["watch", "mend", "limit", "hold"]
LEAK = {
    "answer": "defect",
    "findings": [{"failure_mode": "leak", "note": "=cmd|x", "attributes": {"leak_class": "III"}}],
}


def listed(device: Device, machine: str = "ex-01") -> list[dict[str, Any]]:
    return list(device.http.get(f"/api/defects?machine={machine}").raise_for_status().json()["defects"])


def act(device: Device, defect: dict[str, Any], kind: str, id_: str = "", **more: Any) -> Any:
    body = {"id": id_ or device.new_id(), "kind": kind, "note": more.pop("note", "done as agreed"), **more}
    if kind in ASKS_AGAIN:
        device.pin_again(body["id"])
    body |= {"seen": defect["entries"], "release": defect["release"]}
    return device.http.post(f"/api/machines/{defect['machine']}/defects/{defect['id']}/acts", json=body)


def test_a_hold_from_report_to_end(tablet: Device, tablets: Tablets) -> None:
    tablet.whole("ex-01", {"boom": CRACK})
    dag, pell = tablets(), tablets()
    dag.sign_in("Dag")
    pell.sign_in("Pell")
    held = listed(pell)[0]
    assert (held["checkpoint"], held["grade"], held["stage"]) == ("boom", "hold", "reported")
    assert held["duty_id"] == "carry"
    assert held["may"] == ["acknowledged"]
    assert listed(tablet)[0]["may"] == []  # an operator reads it
    assert act(pell, held, "acknowledged", note="").status_code == 200
    assert listed(dag)[0]["stage"] == "seen"

    # Nobody gets it going by the wrong door: a Hold is not accepted, an operator repairs nothing, nothing was repaired.
    assert act(pell, held, "accepted").json()["type"].endswith("no-limit")
    assert act(tablet, held, "released").status_code == 403
    assert act(pell, held, "rechecked").status_code == 422
    assert act(dag, held, "released", note=" ").json()["field"] == "note"
    assert tablet.yard("ex-01")["go"] == "held"

    assert act(dag, held, "isolated", energies=["magic"]).json()["field"] == "energies"
    assert act(dag, held, "isolated", energies=[], note="boom on stands, lock 7").status_code == 200
    assert listed(dag)[0]["stage"] == "in-repair"
    again = dag.new_id()
    for _ in range(2):  # sent twice it is one
        assert act(dag, held, "released", again, note="welded and ground", parts="plate 12 mm").status_code == 200
    repaired = listed(dag)[0]
    assert (repaired["stage"], repaired["released_by"], repaired["release"]) == ("repaired", "Dag Hollmer", again)
    assert tablet.yard("ex-01")["go"] == "held"
    # Who repaired it does not check it; another person does, and the story stays.
    assert act(dag, repaired, "rechecked").status_code == 409
    assert "rechecked" not in repaired["may"]
    assert [s["kind"] for s in repaired["steps"]] == ["acknowledged", "isolated", "released"]
    assert "welded and ground; plate 12 mm" in repaired["steps"][-1]["says"]
    check = pell.new_id()
    assert act(pell, repaired, "rechecked", check).json()["defects"] == []
    assert act(pell, repaired, "rechecked", check).status_code == 200  # known already
    assert act(dag, repaired, "acknowledged", check).status_code == 409  # somebody else's id
    assert act(pell, repaired, "acknowledged").status_code == 404
    assert tablet.yard("ex-01")["go"] != "held"


def test_who_may_not_do_it_asks_and_whoever_may_is_told(tablet: Device, tablets: Tablets) -> None:
    tablet.whole("ex-01", {"boom": CRACK})
    dag, pell = tablets(), tablets()
    dag.sign_in("Dag")
    pell.sign_in("Pell")

    def told(device: Device) -> list[str]:
        return [
            d["checkpoint"] for d in device.http.get("/api/defects?asked=true").raise_for_status().json()["defects"]
        ]

    held, before = listed(tablet)[0], tablet.yard("ex-01")
    assert (held["may_ask"], held["asked"]) == (["mechanic"], [])  # a Hold is nobody's to accept
    assert told(dag) == told(pell) == []
    for role in ("", "operator", "administrator"):
        assert act(tablet, held, "asked", role=role or None).status_code == 422
    assert act(tablet, held, "asked", role="supervisor").json()["type"].endswith("not-to-ask")
    again = tablet.new_id()
    for _ in range(2):  # sent twice it is one
        assert act(tablet, held, "asked", again, role="mechanic", note="needed at ten").status_code == 200
    assert act(tablet, held, "asked", role="mechanic").status_code == 409  # asked once until something is done
    assert (told(dag), told(pell), told(tablet)) == (["boom"], [], [])
    # It changes nothing of the machine, and brings the defect no further.
    now = tablet.yard("ex-01")
    assert {k: now[k] for k in ("go", "why", "cleared_for")} == {k: before[k] for k in ("go", "why", "cleared_for")}
    seen = listed(dag)[0]
    assert (seen["stage"], seen["asked"], seen["steps"][0]["of"]) == ("reported", ["mechanic"], "mechanic")
    assert listed(dag)[0]["may_ask"] == [], "nobody asks themselves"
    assert act(dag, seen, "acknowledged", note="after the loader").status_code == 200
    assert told(dag) == []
    assert listed(tablet)[0]["may_ask"] == ["mechanic"], "asked again when nothing came of it"


def test_found_again_it_is_not_repaired(tablet: Device, tablets: Tablets) -> None:
    tablet.whole("ex-01", {"boom": CRACK})
    dag = tablets()
    dag.sign_in("Dag")
    act(dag, listed(dag)[0], "released")
    assert listed(dag)[0]["stage"] == "repaired"
    tablet.whole("ex-01", {"boom": CRACK})
    now = listed(dag)[0]
    assert (now["stage"], now["reports"], now["release"]) == ("reported", 2, "")
    assert tablet.yard("ex-01")["go"] == "held"


def test_what_is_left_of_a_defect_is_found_by_what_it_was_called(tablet: Device, tablets: Tablets) -> None:
    """Its first report is cleared by one hand, its worse one waits for another: the page and the tag name the first."""
    paint = {"answer": "defect", "findings": [{"failure_mode": "crack", "attributes": {"crack_where": "paint"}}]}
    tablet.whole("ex-01", {"boom": paint})
    first = listed(tablet)[0]["id"]
    tablet.whole("ex-01", {"boom": CRACK})
    assert listed(tablet)[0]["id"] == first
    dag, pell = tablets(), tablets()
    dag.sign_in("Dag")
    pell.sign_in("Pell")
    assert act(dag, listed(dag)[0], "released").status_code == 200
    left = listed(dag)[0]
    assert (left["stage"], left["grade"]) == ("repaired", "hold")

    def by(id_: str, machine: str = "ex-01") -> list[str]:
        told = dag.http.get("/api/defects", params={"machine": machine, "defect": id_}).raise_for_status().json()
        return [d["id"] for d in told["defects"]]

    assert by(left["id"]) == [left["id"]]
    assert by(first) == [left["id"]], "whoever comes by the tag sees that it still stands"
    assert by(first, "ex-02") == by(first[:-1] + "7") == by(dag.new_id() + ".0") == []
    assert dag.http.get("/api/defects", params={"machine": "ex-01", "defect": "it"}).status_code == 422
    stale = dag.http.post(
        f"/api/machines/ex-01/defects/{first}/acts", json={"id": dag.new_id(), "kind": "acknowledged"}
    )
    assert stale.status_code in (404, 422), "what is done is done about what somebody has seen"
    assert act(pell, listed(pell)[0], "rechecked").status_code == 200
    assert by(first) == by(left["id"]) == []


def test_a_limit_works_when_a_supervisor_has_accepted_it_by_name(tablet: Device, tablets: Tablets) -> None:
    tablet.whole("ex-01", {"arm-cylinder": {"answer": "defect", "findings": [
        {"failure_mode": "leak", "attributes": {"leak_class": "III", "coupling": "other"}}]}})  # fmt: skip
    pell, dag = tablets(), tablets()
    pell.sign_in("Pell")
    dag.sign_in("Dag")
    waits = "A supervisor has to accept it"
    assert waits in tablet.yard("ex-01")["why"]
    limit = listed(pell)[0]
    assert limit["may"] == ["acknowledged", "accepted"]
    assert act(dag, limit, "accepted").status_code == 403
    assert act(pell, limit, "accepted", note="two hours in the pit, watched").status_code == 200
    assert listed(pell)[0]["accepted_by"] == "Pell Aronsk"
    assert waits not in tablet.yard("ex-01")["why"]
    # Reported anew, what was accepted is another thing.
    tablet.whole("ex-01", {"arm-cylinder": {"answer": "defect", "findings": [
        {"failure_mode": "leak", "attributes": {"leak_class": "III", "coupling": "other"}}]}})  # fmt: skip
    assert listed(pell)[0]["accepted_by"] == ""
    assert waits in tablet.yard("ex-01")["why"]


def test_what_holds_stands_first_and_the_list_is_a_table(tablet: Device) -> None:
    tablet.whole("ex-02", {"idler-left": LEAK})
    tablet.whole("ex-01", {"boom": CRACK, "teeth": {"answer": "defect", "findings": [
        {"failure_mode": "wear", "attributes": {"wear": "three-quarters"}}]}})  # fmt: skip
    found = tablet.http.get("/api/defects").json()["defects"]
    order = ["hold", "limit", "mend", "watch"]
    assert [d["grade"] for d in found] == sorted((d["grade"] for d in found), key=order.index)
    due = next(d["due"] for d in found if d["checkpoint"] == "teeth")
    assert due["hour"] > 100
    text = tablet.http.get("/api/defects.csv").raise_for_status().text
    rows = list(csv.DictReader(io.StringIO(text)))
    assert [r["place"] for r in rows] == [d["place"] for d in found]
    assert next(r["note"] for r in rows if r["machine"] == "ex-02") == "'=cmd|x"  # no table program runs it


def test_the_tag(tablet: Device) -> None:
    tablet.whole("ex-01", {"boom": CRACK})
    d = listed(tablet)[0]
    pdf = tablet.http.get(f"/api/machines/ex-01/defects/{d['id']}/tag.pdf").raise_for_status().content
    page = PdfReader(io.BytesIO(pdf)).pages[0]
    assert (round(float(page.mediabox.width)), round(float(page.mediabox.height))) == (298, 420)  # A6, ISO 216
    text = " ".join(page.extract_text().split())
    for words in ("DO NOT START", "EX-01", "Boom and its welds: Crack", "Reported by Mira Tolland"):
        assert words in text
    spanish = tablet.http.get(f"/api/machines/ex-01/defects/{d['id']}/tag.pdf", headers={"Accept-Language": "es"})
    assert "NO ARRANCAR" in PdfReader(io.BytesIO(spanish.content)).pages[0].extract_text()
    other = tablet.http.get(f"/api/machines/ex-02/defects/{d['id']}/tag.pdf")
    assert other.status_code == 404


def test_nobody_decides_about_a_report_that_he_has_not_seen(tablet: Device, tablets: Tablets) -> None:
    """The page was opened, then it was reported again: no repair, acceptance or check reaches that report."""
    weep = {"answer": "defect", "findings": [
        {"failure_mode": "leak", "attributes": {"leak_class": "III", "coupling": "other"}}]}  # fmt: skip
    burst = {"answer": "defect", "findings": [
        {"failure_mode": "leak", "attributes": {"leak_class": "spray", "coupling": "hose"}}]}  # fmt: skip
    tablet.whole("ex-01", {"arm-cylinder": weep})
    dag, pell = tablets(), tablets()
    dag.sign_in("Dag")
    pell.sign_in("Pell")
    old = listed(pell)[0]
    tablet.whole("ex-01", {"arm-cylinder": burst})
    for who, kind in ((pell, "accepted"), (dag, "isolated"), (dag, "released")):
        assert act(who, old, kind).json()["type"].endswith("reported-again" if kind != "accepted" else "no-limit")
    assert tablet.yard("ex-01")["go"] == "held"
    # Repaired, and then found again before the check: the check of the repair that was on the page reaches nothing.
    assert act(dag, listed(dag)[0], "released").status_code == 200
    repaired = listed(pell)[0]
    tablet.whole("ex-01", {"arm-cylinder": burst})
    assert act(pell, repaired, "rechecked").json()["type"].endswith("no-release")
    assert tablet.yard("ex-01")["go"] == "held"


def test_the_list_in_pages_is_the_list_whole_whatever_is_remembered_and_however_it_is_picked(demo: str) -> None:
    """Lost so: a list that nobody waited for any more, because it was made anew from every machine's whole log."""
    whole: list[Plain] = []
    with TestClient(make_app(Settings(database_url=demo), CATALOG), base_url="http://yard.test") as http:
        tablet = Device(http)
        assert tablet.sign_in("Pell").is_success

        def pages(most: int, **picked: str) -> Iterator[Plain]:
            after = ""
            while True:
                asked = http.get("/api/defects", params={**picked, "most": most, "after": after})
                page = asked.raise_for_status().json()
                yield page
                if page["after"] is None:
                    return
                assert len(page["defects"]) == most
                after = page["after"]

        def told(most: int = 200, **picked: str) -> list[Plain]:
            return [d for page in pages(most, **picked) for d in page["defects"]]

        whole = told()
        assert len(whole) > 8
        order = [(-GRADES.index(d["grade"]), d["since"], d["id"]) for d in whole]
        assert order == sorted(order)
        for most in (1, 3, 7):
            assert told(most) == whole
        first = next(pages(5))
        assert first["count"] == len(whole)
        assert first["holds"] == len({d["machine"] for d in whole if d["grade"] == "hold"})
        assert {m["id"] for m in first["machines"]} == {d["machine"] for d in whole}
        assert {x["id"] for x in first["duties"]} == {d["duty_id"] for d in whole if d["duty_id"]}
        for key, field in (("machine", "machine"), ("duty", "duty_id"), ("stage", "stage")):
            for value in {d[field] for d in whole if d[field]}:
                assert told(2, **{key: value}) == [d for d in whole if d[field] == value], (key, value)
        rows = list(csv.DictReader(io.StringIO(http.get("/api/defects.csv").raise_for_status().text)))
        assert [r["machine"] for r in rows] == [d["machine"] for d in whole]
        assert all(not r["due_likely"].startswith("'") for r in rows)
        for wrong in (
            "²~2026-11-25T06:00:00Z~00000000-0000-7000-8000-000000000000.0",
            "x",
            "3~x~y",
            "3~2026-01-01T00:00:00Z~zz",
            "~~",
            "9" * 119,
        ):
            assert http.get("/api/defects", params={"after": wrong}).status_code == 422, wrong
        assert http.get("/api/defects", params={"machine": "none"}).status_code == 404
    # Another process, which remembers nothing, tells the same; one machine by itself, too.
    with TestClient(make_app(Settings(database_url=demo), CATALOG), base_url="http://yard.test") as http:
        tablet = Device(http)
        assert tablet.sign_in("Pell").is_success
        for machine in {d["machine"] for d in whole}:
            alone = http.get("/api/defects", params={"machine": machine}).json()["defects"]
            assert alone == [d for d in whole if d["machine"] == machine]
        assert http.get("/api/defects", params={"most": 200}).json()["defects"] == whole
