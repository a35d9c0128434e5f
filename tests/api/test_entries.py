"""Entries are stored once, whatever the network does to them."""

from __future__ import annotations

import random
from typing import Any

from tests.api.conftest import Tablets
from tests.device import Device
from tests.walks import LEVEL, as_read

FLAT = {
    "answer": "defect",
    "findings": [
        {
            "failure_mode": "leak",
            "attributes": {"leak_class": "II", "coupling": "flat-face"},
            "note": "wet",
        }
    ],
}
UNSEEN = {"answer": "unseen", "reason": "flooded"}


def ids(entries: list[dict[str, Any]]) -> set[str]:
    return {e["id"] for e in entries}


def test_twice_out_of_order_and_half_again(tablet: Device) -> None:
    walk, inspection = (
        tablet.walk(
            "ex-01", {"teeth": FLAT | {"findings": [{"failure_mode": "wear", "attributes": {"wear": "half"}}]}}
        ),
        tablet.new_id(),
    )
    mixed = walk[:]
    random.Random(1).shuffle(mixed)
    half, rest = mixed[: len(mixed) // 2], mixed[len(mixed) // 2 :]
    first = tablet.send("ex-01", inspection, half).json()
    assert set(first["stored"]) == ids(half)
    # The answer to the first half was lost: the device sends it again with the rest.
    second = tablet.send("ex-01", inspection, half + rest).json()
    assert set(second["stored"]) == ids(rest)
    assert set(second["known"]) == ids(half)
    third = tablet.send("ex-01", inspection, walk).json()
    assert third["stored"] == []
    assert third["refused"] == []
    seen = tablet.http.get(f"/api/inspections/{inspection}").json()
    assert ids(seen["entries"]) == ids(walk)
    # One straight delivery of the same walk comes to the same verdict.
    straight = tablet.new_id()
    same = [e | {"id": tablet.new_id()} for e in walk]
    tablet.send("ex-01", straight, same)
    assert (
        tablet.http.get(f"/api/inspections/{straight}").json()["verdict"]["items"][0]["trace"]
        == seen["verdict"]["items"][0]["trace"]
    )


def test_an_id_cannot_be_taken_over(tablet: Device) -> None:
    inspection = tablet.new_id()
    walk = tablet.walk("ex-01")[:3]
    tablet.send("ex-01", inspection, walk)
    other = walk[2] | {"what": walk[2]["what"] | {"answer": "unseen"}}
    reply = tablet.send("ex-01", inspection, [other]).json()
    assert reply["refused"][0]["kind"] == "id-taken"
    elsewhere = tablet.send("ex-01", tablet.new_id(), [walk[2]]).json()
    assert elsewhere["refused"][0]["kind"] == "id-taken"


def test_one_bad_entry_does_not_lose_the_others(tablet: Device) -> None:
    inspection = tablet.new_id()
    good = tablet.walk("ex-01")[:4]
    bad = [
        (tablet.entry("answered", checkpoint="wings", answer="sound"), "checkpoint"),
        (tablet.entry("answered", checkpoint="door", answer="defect"), "findings"),
        (
            tablet.entry("answered", checkpoint="door", answer="defect", findings=[{"failure_mode": "leak"}]),
            "failure_mode",
        ),
        (
            tablet.entry(
                "answered",
                checkpoint="def-level",
                answer="defect",
                findings=[{"failure_mode": "level", "attributes": {"low_level": "gone"}}],
            ),
            "attributes.low_level",
        ),
        (
            # The form before: taken for as long as tablets hold it.
            tablet.entry("measured", **{**LEVEL, "oil_c": -300}),
            "oil_c",
        ),
        (tablet.entry("read", **as_read({**LEVEL, "oil_c": -300})), "given.oil_c"),
        (tablet.entry("read", **as_read({**LEVEL, "extensions": {"boom": 0.1}})), "given.out.arm"),
        (
            tablet.entry("read", **as_read({**LEVEL, "extensions": {**LEVEL["extensions"], "tail": 0.1}})),
            "given.out.tail",
        ),
        (tablet.entry("read", **as_read({**LEVEL, "checkpoint": "door"})), "checkpoint"),
        (tablet.entry("read", **as_read({**LEVEL, "seen": True})), "given.seen"),
        (
            tablet.entry("measured", checkpoint="door", seen=0.5, oil_c=10, pitch_deg=0, roll_deg=0, extensions={}),
            "checkpoint",
        ),
        (tablet.entry("arrived", station="moon"), "station"),
    ]
    reply = tablet.send("ex-01", inspection, good + [e for e, _ in bad]).json()
    assert set(reply["stored"]) == ids(good)
    assert {r["id"]: r["field"] for r in reply["refused"]} == {e["id"]: field for e, field in bad}
    assert all(len(r["says"]) > 15 and not r["again"] for r in reply["refused"])


def test_signing(tablet: Device, tablets: Tablets) -> None:
    inspection = tablet.new_id()
    walk = tablet.walk("ex-01", {"drive-covers": UNSEEN})
    last = [e for e in walk if e["what"].get("checkpoint") == "seat-belt"]
    tablet.send("ex-01", inspection, [e for e in walk if e not in last])
    early = tablet.signature(inspection)
    assert tablet.send("ex-01", inspection, [early]).json()["refused"][0]["kind"] == "incomplete"
    tablet.send("ex-01", inspection, last)
    # A signature under another verdict, one that leaves something out, one that covers what never came.
    assert (
        tablet.send("ex-01", inspection, [tablet.signature(inspection, "ready")]).json()["refused"][0]["kind"]
        == "other-verdict"
    )
    short = tablet.signature(inspection)
    short["what"]["covers"] = short["what"]["covers"][:-1]
    assert tablet.send("ex-01", inspection, [short]).json()["refused"][0]["kind"] == "more-entries"
    beyond = tablet.signature(inspection)
    beyond["what"]["covers"].append(tablet.new_id())
    refused = tablet.send("ex-01", inspection, [beyond]).json()["refused"][0]
    assert (refused["kind"], refused["again"]) == ("entries-missing", True)
    # Another person's signature is not mine to send.
    osk = tablets()
    osk.sign_in("Osk")
    forged = tablet.signature(inspection)
    assert osk.send("ex-01", inspection, [forged]).json()["refused"][0]["kind"] == "unknown-pen"
    assert tablet.send("ex-01", inspection, [tablet.signature(inspection)]).json()["stored"]
    row = next(m for m in tablet.http.get("/api/yard").json()["machines"] if m["machine"]["id"] == "ex-01")
    assert (row["go"], row["signed_by"]) == ("limited", "Mira Tolland")
    assert row["limits"] == ["Look at Inner final drive covers at the first stop."]
    # A 'sound' that comes after the signature changes nothing; an amendment does, and wants a signature.
    late = tablet.entry("answered", checkpoint="door", answer="sound")
    tablet.send("ex-01", inspection, [late])
    seen = tablet.http.get(f"/api/inspections/{inspection}").json()
    assert (seen["status"], seen["late"]) == ("signed", [late["id"]])
    heads = tablet.seen("ex-01", "drive-covers", inspection)
    amend = tablet.entry(
        "answered", heads, checkpoint="drive-covers", answer="sound", amends="pumped dry, looked again"
    )
    tablet.send("ex-01", inspection, [amend])
    seen = tablet.http.get(f"/api/inspections/{inspection}").json()
    assert (seen["status"], seen["verdict"]["outcome"]) == ("amended", "ready")
    tablet.send("ex-01", inspection, [tablet.signature(inspection)])
    assert tablet.http.get(f"/api/inspections/{inspection}").json()["status"] == "signed"


def test_a_hold_goes_on_until_a_mechanic_and_another_person_end_it(tablet: Device, tablets: Tablets) -> None:
    def go() -> str:
        return str(tablet.yard("ex-03")["go"])

    tablet.whole("ex-03", {"main-pump": FLAT})
    assert go() == "held"
    tablet.whole("ex-03")  # an operator who taps 'sound' does not end it
    assert go() == "held"
    dag = tablets()
    dag.sign_in("Dag")
    inspection = dag.new_id()
    dag.send("ex-03", inspection, dag.walk("ex-03"))
    own = dag.signature(inspection)  # nor does the mechanic who both releases and signs
    assert dag.send("ex-03", inspection, [own]).json()["refused"][0]["kind"] == "other-verdict"
    assert go() == "held"
    assert "somebody else has to sign" in tablet.yard("ex-03")["why"]
    second = tablet.signature(inspection)
    assert tablet.send("ex-03", inspection, [second]).json()["refused"][0]["kind"] == "pin-again"
    tablet.pin_again(second["id"])
    assert tablet.send("ex-03", inspection, [second]).json()["stored"]
    assert go() == "ready"


def test_two_people_on_one_tablet(tablet: Device) -> None:
    inspection = tablet.new_id()
    walk = tablet.walk("ex-02")
    tablet.http.delete("/api/session")
    assert tablet.send("ex-02", inspection, walk).status_code == 401  # kept on the device
    mira = tablet.by
    tablet.sign_in("Osk")
    reply = tablet.send("ex-02", inspection, walk).json()  # Mira's taps go out in Osk's session, by Mira's pen
    assert len(reply["stored"]) == len(walk)
    record = tablet.http.get(f"/api/inspections/{inspection}/record.json").json()
    assert {e["by"] for e in record["entries"]} == {mira}
    assert {e["sent_by"] for e in record["entries"]} == {tablet.by}
    stranger = tablet.entry("noted", text="not me") | {"by": "0d000000-0000-4000-8000-000000000003"}
    refused = tablet.send("ex-02", inspection, [stranger]).json()["refused"][0]
    assert (refused["kind"], refused["again"]) == ("unknown-pen", True)


def test_a_machine_that_is_not_there_and_a_meter_that_runs_on(tablet: Device) -> None:
    missing = tablet.http.post(
        "/api/entries",
        json={"machine": "ex-99", "stream": tablet.new_id(), "entries": [tablet.entry("noted", text="x")]},
    )
    assert missing.status_code == 404
    inspection = tablet.new_id()
    tablet.send("ex-01", inspection, [tablet.opening("ex-01", hour_meter=20500.5)])
    yard = tablet.http.get("/api/yard").json()["machines"][0]
    assert yard["machine"]["hour_meter"] == 20500.5
    assert (yard["go"], yard["current"]) == ("walking", inspection)
    again = tablet.send("ex-01", inspection, [tablet.opening("ex-01")]).json()
    assert again["refused"][0]["kind"] == "already-open"
    # Other options than the unit has by now are what the device walked with; what no unit has is refused.
    assert tablet.send("ex-01", tablet.new_id(), [tablet.opening("ex-01", options=["beacon"])]).json()["refused"] == []
    wings = tablet.send("ex-01", tablet.new_id(), [tablet.opening("ex-01", options=["wings"])]).json()
    assert wings["refused"][0]["field"] == "options"
