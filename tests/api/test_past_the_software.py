"""Ways to get a dangerous machine past the software, or to lose what was reported: each is tried here."""

from __future__ import annotations

import io
import threading
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from typing import Any

import httpx
import psycopg
import pytest
from PIL import Image
from pypdf import PdfReader

from jutrel.demo.story import WHO
from tests.api.conftest import Tablets
from tests.conftest import Serve, owner_of
from tests.device import CRACK, OPTIONS, Device
from tests.patience import client, within

SOUND = {"answer": "sound"}
UNSEEN = {"answer": "unseen", "reason": "mud"}


@pytest.fixture
def osk(tablets: Tablets) -> Device:
    device = tablets()
    device.sign_in("Osk")
    return device


@pytest.fixture
def dag(tablets: Tablets) -> Device:
    device = tablets()
    device.sign_in("Dag")
    return device


def answer(
    device: Device, machine: str, look: str, checkpoint: str, what: dict[str, Any], **more: Any
) -> dict[str, Any]:
    entry = device.entry("answered", device.seen(machine, checkpoint, look), checkpoint=checkpoint, **what, **more)
    return dict(device.send(machine, look, [entry]).raise_for_status().json())


def begun(device: Device, machine: str = "ex-01", answers: dict[str, Any] | None = None, **opened: Any) -> str:
    look = device.new_id()
    assert device.send(machine, look, device.walk(machine, answers, **opened)).json()["refused"] == []
    return look


# --- who may clear what


@pytest.mark.parametrize("words", [{}, {"reason": "looked again"}, {"amends": "looked again"}])
def test_01_another_operators_sound_does_not_clear_a_hold(tablet: Device, osk: Device, words: dict[str, str]) -> None:
    look = begun(tablet, answers={"boom": CRACK})
    answer(osk, "ex-01", look, "boom", SOUND, **words)
    seen = tablet.look(look)
    assert seen["verdict"]["outcome"] == "held"
    assert [i["by"] for i in seen["verdict"]["ignored"]] == [osk.by]
    assert tablet.yard("ex-01")["go"] == "held"


def test_01_nor_does_an_amendment_and_a_new_signature(tablet: Device) -> None:
    look = tablet.whole("ex-01", {"boom": CRACK})
    answer(tablet, "ex-01", look, "boom", SOUND, amends="looked again", reason="looked again")
    seen = tablet.look(look)
    assert (seen["status"], seen["verdict"]["outcome"]) == ("amended", "held")
    tablet.send("ex-01", look, [tablet.signature(look)])
    assert tablet.yard("ex-01")["go"] == "held"


def test_01_ones_own_slip_takes_a_reason_and_shows(tablet: Device, osk: Device) -> None:
    look = begun(tablet, answers={"boom": CRACK})
    answer(tablet, "ex-01", look, "boom", SOUND)
    assert tablet.yard("ex-01")["go"] == "held"
    answer(tablet, "ex-01", look, "boom", SOUND, reason="that was the other machine")
    verdict = tablet.look(look)["verdict"]
    assert verdict["outcome"] == "ready"
    assert [(r["ground"], r["reason"]) for r in verdict["released"]] == [("own-slip", "that was the other machine")]
    # Once another has seen it, it is no slip any more.
    other = begun(tablet, "ex-02", {"boom": CRACK})
    answer(osk, "ex-02", other, "boom", CRACK)
    answer(tablet, "ex-02", other, "boom", SOUND, reason="wrong machine")
    assert tablet.yard("ex-02")["go"] == "held"


def test_01_taking_back_a_repeat_leaves_what_was_reported_first(tablet: Device) -> None:
    look = begun(tablet, answers={"boom": CRACK})
    again = tablet.entry("answered", tablet.seen("ex-01", "boom", look), checkpoint="boom", **CRACK)
    tablet.send("ex-01", look, [again])
    undo = tablet.entry("undone", [again["id"]], target=again["id"], reason="tapped twice")
    assert tablet.send("ex-01", look, [undo]).json()["refused"] == []
    assert tablet.yard("ex-01")["go"] == "held"
    assert [len(d["entries"]) for d in tablet.open("ex-01") if d["checkpoint"] == "boom"] == [1]


def test_02_entries_under_another_machine_move_nothing(tablet: Device, osk: Device) -> None:
    look = begun(tablet, answers={"boom": CRACK})
    reply = osk.send("ex-02", look, [osk.entry("answered", checkpoint="boom", **SOUND)]).json()
    assert [r["kind"] for r in reply["refused"]] == ["other-machine"]
    assert tablet.look(look)["machine"]["id"] == "ex-01"
    assert (tablet.yard("ex-01")["go"], tablet.yard("ex-02")["go"]) == ("held", "uninspected")
    # What was turned down makes no look another machine's: the right one takes its entries still.
    other = tablet.new_id()
    refused = osk.send("ex-02", other, [osk.entry("answered", checkpoint="boom", answer="defect")]).json()["refused"]
    assert [r["kind"] for r in refused] == ["bad-entry"]
    assert tablet.send("ex-01", other, [tablet.opening("ex-01")]).json()["refused"] == []


def test_03_a_device_name_gives_nobody_a_role(tablet: Device, tablets: Tablets) -> None:
    dag = tablets()
    dag.name = "workshop"
    dag.sign_in("Dag")
    look = begun(tablet, answers={"boom": CRACK})
    osk = tablets()
    osk.name = "workshop"  # the label is free to choose
    osk.sign_in("Osk")
    forged = osk.entry("answered", osk.seen("ex-01", "boom", look), checkpoint="boom", **SOUND) | {"by": WHO["Dag"]}
    assert osk.send("ex-01", look, [forged]).json()["refused"][0]["kind"] == "unknown-pen"
    assert osk.send("ex-01", look, [forged], pens=["guessed"]).json()["refused"][0]["kind"] == "unknown-pen"
    assert tablet.yard("ex-01")["go"] == "held"
    # With the pen that was given to the mechanic on that tablet it is the mechanic's.
    assert osk.send("ex-01", look, [forged], pens=[dag.pens[WHO["Dag"]]]).json()["stored"]


def test_03_the_role_is_that_of_the_entry(tablet: Device, tablets: Tablets, dag: Device) -> None:
    look = begun(tablet, answers={"boom": CRACK})
    before = dag.entry("answered", dag.seen("ex-01", "boom", look), checkpoint="boom", **SOUND)
    admin = tablets()
    admin.sign_in("Rolf")
    assert admin.http.patch(f"/api/people/{WHO['Dag']}", json={"role": "operator"}).is_success
    # Sent by another, after the role went: it was a mechanic who wrote it.
    tablet.pens |= dag.pens
    assert tablet.send("ex-01", look, [before]).json()["stored"] == [before["id"]]
    assert {e["role"] for e in tablet.look(look)["entries"] if e["by"] == WHO["Dag"]} == {"mechanic"}
    # What he writes from now on is an operator's.
    dag.sign_in("Dag")
    other = begun(tablet, "ex-02", {"boom": CRACK})
    answer(dag, "ex-02", other, "boom", SOUND)
    assert tablet.yard("ex-02")["go"] == "held"


def test_04_a_hold_that_arrives_late_holds_the_machine(tablet: Device, osk: Device) -> None:
    late, look = osk.walk("ex-01", {"boom": CRACK}), osk.new_id()
    signed = tablet.whole("ex-01")
    assert tablet.yard("ex-01")["go"] == "ready"
    osk.send("ex-01", look, late)
    assert tablet.yard("ex-01")["go"] == "held"
    assert [d["grade"] for d in tablet.open("ex-01")] == ["hold"]
    assert tablet.look(signed)["verdict"]["outcome"] == "ready"  # what was signed stays as it was


@pytest.mark.parametrize("years", [-50, 10])
def test_05_a_clock_far_off_hides_nothing_and_clears_nothing(tablet: Device, osk: Device, years: int) -> None:
    osk.drift = timedelta(days=365 * years)
    look = begun(osk)
    osk.send("ex-01", look, [osk.signature(look)])
    row = tablet.yard("ex-01")
    now = datetime.now(UTC)
    assert row["go"] == "ready"
    assert datetime.fromisoformat(row["valid_until"]) <= now + timedelta(hours=10, minutes=1)
    begun(tablet, answers={"boom": CRACK})
    assert tablet.yard("ex-01")["go"] == "held"
    # Nor does a slow tablet's defect lose to a 'sound' that its clock says came later.
    other = begun(tablet, "ex-02")
    osk.send("ex-02", other, [osk.entry("answered", checkpoint="boom", **CRACK)])
    assert tablet.yard("ex-02")["go"] == "held"
    assert "boom" in tablet.look(other)["verdict"]["differ"]
    # A clock that was measured to be that far off says so, and its report is kept all the same.
    measured = osk.entry("answered", checkpoint="boom", **CRACK) | {"offset_ms": -years * 365 * 86_400_000}
    assert osk.send("ex-03", osk.new_id(), [measured]).json()["stored"] == [measured["id"]]
    assert tablet.yard("ex-03")["go"] == "held"


def test_07_an_opening_is_not_taken_back(tablet: Device) -> None:
    tablet.whole("ex-01", {"boom": CRACK})
    look = begun(tablet)
    opening = next(e["id"] for e in tablet.look(look)["entries"] if e["kind"] == "opened")
    reply = tablet.send("ex-01", look, [tablet.entry("undone", [opening], target=opening, reason="r")]).json()
    assert [r["kind"] for r in reply["refused"]] == ["not-undone"]
    assert tablet.look(look)["verdict"]["outcome"] == "held"
    ended = tablet.send("ex-01", look, [tablet.entry("abandoned", reason="called away")]).json()
    assert ended["refused"] == []
    assert (tablet.look(look)["status"], tablet.yard("ex-01")["go"]) == ("abandoned", "held")


def test_08_options_that_changed_meanwhile_lose_no_hold(tablet: Device, tablets: Tablets) -> None:
    walk, look = tablet.walk("ex-01", {"coupler-lock": {"answer": "defect", "findings": [
        {"failure_mode": "inoperative", "attributes": {"works": "dead"}}]}}), tablet.new_id()  # fmt: skip
    pell = tablets()
    pell.sign_in("Pell")
    rest = sorted(set(OPTIONS["ex-01"]) - {"quick-coupler"})
    body = {"id": pell.new_id(), "name": "EX-01", "model_id": "tolvane-e24", "options": rest}
    pell.http.put("/api/machines/ex-01", json=body).raise_for_status()
    assert tablet.send("ex-01", look, walk).json()["refused"] == []
    assert [(d["checkpoint"], d["grade"]) for d in tablet.open("ex-01")] == [("coupler-lock", "hold")]
    # Entries whose opening never comes are in the list, and hold the machine.
    lone = tablet.new_id()
    tablet.send("ex-02", lone, [tablet.entry("answered", checkpoint="boom", **CRACK)])
    assert tablet.yard("ex-02")["go"] == "held"
    assert lone in {i["id"] for i in tablet.http.get("/api/inspections").json()["inspections"]}


def test_10_a_wrong_meter_reading_is_struck(tablet: Device) -> None:
    tablet.whole("ex-01", hour_meter=6214.0)
    wrong = begun(tablet, hour_meter=62140.0, purpose="once-over")
    assert tablet.yard("ex-01")["why"].startswith("1 ") or tablet.yard("ex-01")["go"] in ("walking", "uninspected")
    reading = next(e["id"] for e in tablet.look(wrong)["entries"] if e["kind"] == "opened")
    body = {"id": tablet.new_id(), "reading": reading, "hours": None, "why": "one digit too many"}
    for _ in range(2):
        tablet.pin_again(body["id"])
        file = tablet.http.post("/api/machines/ex-01/meter/correction", json=body).raise_for_status().json()
    assert file["meter"] == 6214.0
    assert [e["kind"] for e in file["entries"]] == ["meter-corrected", "filed"]
    tablet.send("ex-01", wrong, [tablet.entry("abandoned", reason="wrong reading")])
    assert tablet.yard("ex-01")["go"] == "ready"


def test_11_readings_that_come_after_the_meter_was_replaced_count_once(tablet: Device, dag: Device) -> None:
    late = tablet.opening("ex-01", hour_meter=6150.0)
    body = {"id": dag.new_id(), "last": 6160.0, "first": 0.0, "why": "dead display"}
    dag.http.post("/api/machines/ex-01/meter", json=body).raise_for_status()
    tablet.send("ex-01", tablet.new_id(), [late])
    assert tablet.yard("ex-01")["machine"]["hour_meter"] == 6160.0


def test_14_after_an_undo_past_the_signature_it_can_be_signed_again(tablet: Device) -> None:
    look = tablet.whole("ex-01", {"drive-covers": UNSEEN})
    heads = tablet.seen("ex-01", "drive-covers", look)
    amend = tablet.entry("answered", heads, checkpoint="drive-covers", answer="sound", amends="pumped dry")
    tablet.send("ex-01", look, [amend])
    tablet.send("ex-01", look, [tablet.entry("undone", [amend["id"]], target=amend["id"])])
    assert tablet.look(look)["verdict"]["outcome"] == "limited"
    again = tablet.entry("answered", heads, checkpoint="drive-covers", answer="sound", amends="looked with a lamp")
    tablet.send("ex-01", look, [again])
    assert tablet.send("ex-01", look, [tablet.signature(look)]).json()["refused"] == []
    assert (tablet.look(look)["status"], tablet.yard("ex-01")["go"]) == ("signed", "ready")


def test_23_what_is_far_out_gets_a_sentence_not_a_fault(tablet: Device) -> None:
    for at in ("0001-01-01T00:00:00+14:00", "9999-12-31T23:59:59-14:00", "1e9", "2026-13-01T00:00:00Z"):
        entry = tablet.entry("noted", text="t") | {"at": at}
        reply = tablet.send("ex-01", tablet.new_id(), [entry])
        assert (reply.status_code, reply.json()["refused"][0]["field"]) == (200, "at")
    for path in ("/%00", "/assets/%00.js", "/api/machines/%00", "/api/inspections/%00"):
        assert tablet.http.get(path).status_code in (404, 422)
    huge = io.BytesIO()
    Image.new("L", (9000, 9000)).save(huge, "PNG")
    reply = tablet.http.put(
        f"/api/photos/{tablet.new_id()}", params={"inspection": tablet.new_id()}, content=huge.getvalue()
    )
    assert (reply.status_code, reply.json()["type"]) == (400, "/problems/photo-too-large")


def test_24_open_since_is_the_sites_day(tablet: Device, bare: str) -> None:
    """At a quarter to midnight UTC it is already the next day on the site, an hour east."""
    tablet.whole(
        "ex-01",
        {"teeth": {"answer": "defect", "findings": [{"failure_mode": "wear", "attributes": {"wear": "limit"}}]}},
    )
    with psycopg.connect(owner_of(bare).replace("+psycopg", ""), autocommit=True) as db:
        db.execute("update report set data = jsonb_set(data, '{at}', '\"2026-05-04T23:45:00Z\"')")
    look = begun(tablet)
    pdf = PdfReader(io.BytesIO(tablet.pdf(look)))
    text = " ".join(" ".join(p.extract_text() for p in pdf.pages).split())
    assert "open since 5 May 2026" in text


def test_27_a_look_lapses_and_another_can_join_or_end_it(tablet: Device, osk: Device, bare: str) -> None:
    look = begun(tablet)
    offered = osk.http.get("/api/machines/ex-01/walk").json()
    assert (offered["open_inspection"], offered["open_by"]) == (look, "Mira Tolland")
    osk.send("ex-01", look, [osk.entry("joined"), osk.entry("handed-over", note="left side is done")])
    seen = tablet.look(look)
    assert (seen["joined"], seen["handed_over"]) == ([tablet.by, osk.by], "left side is done")
    with psycopg.connect(bare.replace("+psycopg", ""), autocommit=True) as db:
        db.execute("update look set begun_at = begun_at - interval '11 hours', data = jsonb_set(data, '{begun_at}', "
                   "to_jsonb(to_char(begun_at - interval '11 hours', 'YYYY-MM-DD\"T\"HH24:MI:SS\"Z\"')))")  # fmt: skip
    row = next(i for i in tablet.http.get("/api/inspections").json()["inspections"] if i["id"] == look)
    assert row["status"] == "lapsed"
    assert tablet.yard("ex-01")["current"] is None


def test_33_nobody_undoes_anothers_hold(tablet: Device, osk: Device, dag: Device) -> None:
    look = begun(tablet, answers={"boom": CRACK})
    target = tablet.seen("ex-01", "boom", look)[0]
    for other in (osk, dag):
        other.send("ex-01", look, [other.entry("undone", [target], target=target, reason="no crack")])
        assert tablet.yard("ex-01")["go"] == "held"
    assert osk.look(look)["undoable"] is None


def test_35_one_bad_entry_stops_no_other(tablet: Device) -> None:
    walk, look = tablet.walk("ex-01", {"boom": CRACK}), tablet.new_id()
    bad = [
        tablet.entry("answered", checkpoint="door", answer="fine"),
        tablet.entry("danced"),
        {"id": "no id", "by": tablet.by, "at": "now", "what": {}},
        {},
        tablet.entry("measured", checkpoint="hydraulic-level", seen=0.5, oil_c=10, pitch_deg=0, roll_deg=0,
                     extensions={f"k{n}": 0 for n in range(2000)}),
        tablet.entry("measured", checkpoint="hydraulic-level", seen="0.5", oil_c=1, pitch_deg=0, roll_deg=0),
        tablet.entry("noted", text="a character that no database keeps: \x00"),
    ]  # fmt: skip
    reply = tablet.send("ex-01", look, [*walk[:40], *bad, *walk[40:]]).json()
    assert len(reply["stored"]) == len(walk)
    assert len(reply["refused"]) == len(bad)
    assert all(r["says"] and not r["again"] for r in reply["refused"])
    assert tablet.yard("ex-01")["go"] == "held"


def test_36_another_persons_picture_does_not_stand_in_the_record(tablet: Device, osk: Device) -> None:
    def picture(colour: str) -> bytes:
        out = io.BytesIO()
        Image.new("RGB", (40, 40), colour).save(out, "PNG")
        return out.getvalue()

    look, photo = begun(tablet), tablet.new_id()
    tablet.send("ex-01", look, [tablet.entry("photographed", photo=photo, checkpoint="boom")])
    osk.http.put(f"/api/photos/{photo}", params={"inspection": look}, content=picture("red"))
    assert tablet.http.get(f"/api/photos/{photo}").status_code == 404
    assert tablet.http.get(f"/api/inspections/{look}/record.json").json()["photos"][0]["sha256"] is None
    # Mira's own arrives later, carried by Osk with Mira's pen.
    osk.http.put(
        f"/api/photos/{photo}",
        params={"inspection": look},
        content=picture("green"),
        headers={"pen": tablet.pens[tablet.by]},
    )
    kept = Image.open(io.BytesIO(osk.http.get(f"/api/photos/{photo}").content)).getpixel((20, 20))
    assert kept[1] > kept[0]  # type: ignore[index, operator]


def test_37_the_same_ids_to_two_machines_at_once(bare: str, serve: Serve) -> None:
    base = serve(bare)
    with client(base) as one, client(base) as two:
        devices = [Device(one), Device(two)]
        for d in devices:
            d.sign_in()
        for _ in range(6):
            look = devices[0].new_id()
            entries = [devices[0].entry("noted", text=str(n)) for n in range(20)]
            gate = threading.Barrier(2)

            def send(
                d: Device, machine: str, gate: Any = gate, look: str = look, batch: Any = entries
            ) -> httpx.Response:
                gate.wait()
                return d.send(machine, look, batch)

            with ThreadPoolExecutor(2) as pool:
                replies = list(pool.map(send, devices, ("ex-01", "ex-02")))
            assert [r.status_code for r in replies] == [200, 200]
            stored = [set(r.json()["stored"]) for r in replies]
            assert not stored[0] & stored[1]
            assert stored[0] | stored[1] == {e["id"] for e in entries}


def test_38_long_notes_print_and_many_can_be_signed(tablet: Device) -> None:
    long = "mud " * 480
    dents = [{"failure_mode": "bend", "attributes": {"bend": "dent"}, "note": long}] * 12
    unseen = {"answer": "unseen", "reason": long}
    look = begun(tablet, answers={"drive-covers": unseen, "boom": {"answer": "defect", "findings": dents}})
    notes = [tablet.entry("noted", text=f"note {n}") for n in range(3500)]
    for n in range(0, len(notes), 500):
        assert tablet.send("ex-01", look, notes[n : n + 500]).json()["refused"] == []
    assert tablet.send("ex-01", look, [tablet.signature(look)]).json()["refused"] == []
    assert len(PdfReader(io.BytesIO(tablet.pdf(look))).pages) > 5


def test_40_nobody_waits_behind_one_locked_machine(bare: str, serve: Serve) -> None:
    base = serve(bare)
    with psycopg.connect(bare.replace("+psycopg", "")) as db, client(base) as http:
        tablet = Device(http)
        tablet.sign_in()
        db.execute("select 1 from machine where id = 'ex-01' for update")

        def stuck(number: int) -> int:
            with client(base, cookies=http.cookies) as mine:
                other = Device(mine)
                other.by, other.pens = tablet.by, tablet.pens
                return other.send(
                    "ex-01", tablet.new_id()[:-2] + f"{number:02}", [tablet.entry("noted", text="x")]
                ).status_code

        with ThreadPoolExecutor(20) as pool:
            waiting = [pool.submit(stuck, n) for n in range(20)]
            for _ in range(5):
                began = datetime.now(UTC)
                assert http.get("/api/yard").status_code == 200
                assert tablet.send("ex-02", tablet.new_id(), [tablet.entry("noted", text="y")]).status_code == 200
                assert datetime.now(UTC) - began < timedelta(seconds=within(4))
            db.rollback()
            codes = [w.result() for w in waiting]
    assert set(codes) <= {200, 503}
    assert 200 in codes


def test_put_right_on_the_spot_is_the_operators_own_where_it_may_be(tablet: Device) -> None:
    low = {"failure_mode": "level", "attributes": {"low_level": "very-low"}, "note": ""}
    filled = low | {"put_right": {"done": "Filled to the mark", "amount": "4 L, 10W-30"}}
    look = begun(tablet, answers={"engine-oil": {"answer": "defect", "findings": [low]}})
    assert tablet.yard("ex-01")["go"] == "held"
    answer(tablet, "ex-01", look, "engine-oil", {"answer": "defect", "findings": [filled]})
    item = next(i for i in tablet.look(look)["verdict"]["items"] if i["checkpoint"] == "engine-oil")
    assert item["grade"] == "watch"
    assert "Filled to the mark, 4 L, 10W-30" in item["why"]
    assert tablet.yard("ex-01")["go"] != "held"
    # A crack is never put right by filling something in.
    boom = {**CRACK["findings"][0], "put_right": {"done": "looks fine now"}}  # type: ignore[dict-item]
    answer(tablet, "ex-01", look, "boom", {"answer": "defect", "findings": [boom]})
    assert tablet.yard("ex-01")["go"] == "held"
