"""A run over the wire: who may start what, what a failed test does to the machine, what stays when something ends.

How it could send somebody out on a machine that hurts them: a run begun on a machine that is held or was not walked
round; a Hold found in a test that nobody else hears of; a run that looks like a walk and clears the machine; a word
of another machine's procedure; a hand-over that nobody reads.
"""

from __future__ import annotations

import io
import json
import math
from typing import Any

from pypdf import PdfReader

from tests.api.conftest import Tablets
from tests.api.test_machine_file import filed, put
from tests.device import Device, whole_run
from tests.walks import LEVEL, as_read

Plain = dict[str, Any]
FAILS = {
    "answer": "defect",
    "findings": [{"failure_mode": "inoperative", "attributes": {"works": "dead"}, "note": "n"}],
}


def run_of(me: Device, machine: str, run: str | None = None) -> Plain:
    reply = me.http.get(f"/api/machines/{machine}/run", params={"run": run} if run else {})
    return whole_run(reply.raise_for_status().json())


def begin(me: Device, machine: str, **more: Any) -> str:
    stream = me.new_id()
    opening = me.opening(machine, purpose="run", **more)
    assert me.send(machine, stream, [opening]).json()["refused"] == []
    return stream


def say(me: Device, machine: str, stream: str, *steps: str, outcome: str = "done", **more: Any) -> Plain:
    """Say so of steps, each naming what was said of it before."""
    now = run_of(me, machine, stream)
    heads = {s["id"]: s["heads"] for s in now["steps"]}
    due = [p for s in now["steps"] if s["id"] in steps and outcome == "done" for p in s["points"] if p["due"]]
    hours = now["machine"]["hour_meter"]
    greased = [me.entry("greased", p["heads"], point=p["id"], took="greased", strokes=9, hours=hours) for p in due]
    entries = greased + [me.entry("stepped", heads.get(s, []), step=s, outcome=outcome, **more) for s in steps]
    assert me.send(machine, stream, entries).json()["refused"] == []
    return run_of(me, machine, stream)


def engine(me: Device, machine: str, stream: str, *states: str) -> Plain:
    for state in states:
        heads = run_of(me, machine, stream)["engine_heads"]
        assert me.send(machine, stream, [me.entry("engine", heads, state=state)]).json()["refused"] == []
    return run_of(me, machine, stream)


def left(now: Plain, *phases: str, engine: str | None = "any") -> list[str]:
    return [
        s["id"] for s in now["steps"]
        if s["phase"] in phases and not s["settled"] and (engine == "any" or s["engine"] in (None, engine))
    ]  # fmt: skip


def can(now: Plain, phase: str) -> list[str]:
    return [s["id"] for s in now["steps"] if s["phase"] == phase and s["mark"] == "open"]


def started(me: Device, machine: str) -> str:
    stream = begin(me, machine)
    say(me, machine, stream, *left(run_of(me, machine, stream), "ready"))
    todo, now = left(run_of(me, machine, stream), "start", engine=None), run_of(me, machine, stream)
    clear = todo.index(next(s["id"] for s in now["steps"] if s["nobody"]))
    now = say(me, machine, stream, *todo[:clear])
    for s in now["steps"]:
        if s["near"]:  # with the key on and the engine off, before anybody says that nobody is near
            say(me, machine, stream, s["id"], word=" ".join(p["id"] for p in s["parts"]))
    now = say(me, machine, stream, *todo[clear:])
    assert now["ready_to_start"], now["missing"]
    engine(me, machine, stream, "cranking", "running")
    now = say(me, machine, stream, *left(run_of(me, machine, stream), "start"))
    assert now["stand"] == "warming"
    return stream


def test_only_a_machine_that_was_walked_round_and_is_not_held_may_be_started(tablets: Tablets) -> None:
    me = tablets()
    me.sign_in()
    now = run_of(me, "ex-01")
    assert (now["run"], now["gate"]["may"], now["ready_to_start"]) == (None, False, False)
    assert "not been walked round" in now["gate"]["why"]
    me.whole("ex-01")
    assert run_of(me, "ex-01")["gate"]["may"] is True
    me.whole("ex-01", {"horn-button": FAILS})
    held = run_of(me, "ex-01")
    assert (held["gate"]["held"], held["gate"]["may"]) == (True, False)
    # Begun all the same, and every step said: it is not ready, and an engine that turns is to be stopped.
    stream = begin(me, "ex-01")
    say(me, "ex-01", stream, *left(run_of(me, "ex-01", stream), "ready"))
    now = say(me, "ex-01", stream, *left(run_of(me, "ex-01", stream), "start", engine=None))
    assert not now["ready_to_start"]
    now = engine(me, "ex-01", stream, "cranking", "running")
    assert (now["stand"], now["ready_to_work"]) == ("stop", False)


def test_nobody_starts_it_on_another_persons_inspection(tablets: Tablets) -> None:
    """Sent out so: the second shift starts on what the first one saw in the morning; common practice, a new look."""
    me, other = tablets(), tablets()
    me.sign_in()
    other.sign_in("Osk")
    me.whole("ld-05")
    assert run_of(me, "ld-05")["gate"]["may"] is True
    theirs = run_of(other, "ld-05")["gate"]
    assert (theirs["may"], theirs["held"], theirs["go"]) == (False, False, "ready")
    assert "change of operator" in theirs["why"]
    # Begun all the same: it is not ready to start, whoever looks at the page.
    stream = begin(other, "ld-05")
    say(other, "ld-05", stream, *left(run_of(other, "ld-05", stream), "ready"))
    now = say(other, "ld-05", stream, *left(run_of(other, "ld-05", stream), "start", engine=None))
    assert (now["ready_to_start"], run_of(me, "ld-05", stream)["ready_to_start"]) == (False, False)
    # The short inspection for it, and it may.
    other.whole("ld-05", purpose="change-of-operator")
    assert run_of(other, "ld-05", stream)["ready_to_start"]
    theirs = run_of(me, "ld-05")
    assert (theirs["gate"]["may"], theirs["ready_to_start"]) == (False, False), "now it is the other's to run"


def test_a_run_is_no_walk_and_clears_nothing(tablets: Tablets) -> None:
    me = tablets()
    me.sign_in()
    begin(me, "ex-02")
    row = me.yard("ex-02")
    assert (row["go"], row["current"]) == ("uninspected", None)
    assert "run" not in {k["id"] for k in me.http.get("/api/machines/ex-02/walk").json()["kinds"]}
    reply = me.http.post("/api/machines/ex-02/walk", json={"purpose": "run"})
    assert (reply.status_code, reply.json()["field"]) == (422, "purpose")
    walk = me.new_id()
    me.send("ex-02", walk, [me.opening("ex-02")])
    refused = me.send("ex-02", walk, [me.entry("engine", state="running")]).json()["refused"]
    assert [r["kind"] for r in refused] == ["not-a-run"]


def test_a_failed_test_is_graded_at_once_and_everybody_hears_of_it(tablets: Tablets) -> None:
    me, other = tablets(), tablets()
    me.sign_in()
    other.sign_in("Osk")
    me.whole("ld-05")
    stream = started(me, "ld-05")
    found = me.entry("answered", checkpoint="brake-pedal", **FAILS)
    assert me.send("ld-05", stream, [found]).json()["refused"] == []
    now = say(me, "ld-05", stream, "service-brake", outcome="failed", reason="it pulls")
    assert now["stand"] == "stop"
    assert "Do not start it" in now["says"]
    row = other.yard("ld-05")
    assert row["go"] == "held"
    assert "brake" in row["why"]
    assert [d["checkpoint"] for d in other.open("ld-05")] == ["brake-pedal"]
    # The author of the test cannot talk it away; a mechanic and another person can let it go.
    tried = me.entry("answered", [found["id"]], checkpoint="brake-pedal", answer="sound", reason="it works now")
    me.send("ld-05", me.new_id(), [me.opening("ld-05"), tried])
    assert other.yard("ld-05")["go"] == "held"
    assert any("failed" in x["says"] for x in run_of(other, "ld-05", stream)["lines"])


def test_a_measurement_speaks_over_a_word(tablets: Tablets) -> None:
    """Figures of 30 CFR 56.14101, table M-1 (from memory): from 16 km/h a 16 t machine stops within 34 ft, 10.4 m."""
    me = tablets()
    me.sign_in()
    me.whole("ld-05")
    stream = started(me, "ld-05")
    say(me, "ld-05", stream, "idle", outcome="skipped", reason="warm from the run before")
    say(me, "ld-05", stream, "steering-test", "alarm-test")
    now = say(me, "ld-05", stream, "service-brake")
    test = {s["id"]: s for s in now["steps"]}["service-brake"]
    assert (test["mark"], test["measures"], test["taken"]) == ("done", ["service-brake"], [])

    def take(distance: float, *replaces: str) -> Plain:
        given = {"speed": 16.1, "distance": distance}
        entry = me.entry("read", [*replaces], checkpoint="brake-pedal", reading="service-brake", given=given)
        assert me.send("ld-05", stream, [entry]).json()["refused"] == []
        return {**entry, "now": run_of(me, "ld-05", stream)}

    long = take(22.0)
    test = {s["id"]: s for s in long["now"]["steps"]}["service-brake"]
    assert (test["mark"], test["settled"], test["taken"][0]["fails"]) == ("void", False, True)
    assert "measured otherwise" in test["says"]
    assert "service-brake" in left(long["now"], "tests")
    assert me.yard("ld-05")["go"] == "held", "the measurement is graded like any other finding"
    assert any("stopping distance" in x["says"] and x["urgent"] for x in long["now"]["lines"])
    # Said again that it passed: the figure still stands.
    again = say(me, "ld-05", stream, "service-brake")
    assert not {s["id"]: s for s in again["steps"]}["service-brake"]["settled"]
    # Somebody who has not seen it measures too, and finds it good: the worse of the two counts.
    take(5.0)
    assert not {s["id"]: s for s in run_of(me, "ld-05", stream)["steps"]}["service-brake"]["settled"]
    # Taken again, and it holds: the test may pass, and what was found there stays open until somebody repaired it.
    short = take(5.0, long["id"])
    assert {s["id"]: s for s in short["now"]["steps"]}["service-brake"]["mark"] == "done"
    assert me.yard("ld-05")["go"] == "held"


def test_the_person_detection_stops_at_the_distance_that_is_set(tablets: Tablets) -> None:
    """5 m (common practice), or the unit's own figure: the drawn zone and the judged distance are the same one."""
    me, boss = tablets(), tablets()
    me.sign_in()
    boss.sign_in("Pell")
    me.whole("ex-01")
    stream = begin(me, "ex-01")

    def reach(now: Plain) -> float:
        inner = next(f for f in now["detection"] if (f["step"], f["part"]) == ("detection-rear", "inner"))
        far = [math.hypot(x, y) for x, y in inner["outline"]]
        return round(max(far) - min(far), 3)

    def mark(distance: float) -> Plain:
        given = {"stopped": distance}
        heads = [e["id"] for e in taken]
        entry = me.entry("read", heads[-1:], checkpoint="detection-screen", reading="detection-stop", given=given)
        assert me.send("ex-01", stream, [entry]).json()["refused"] == []
        taken.append(entry)
        return {s["id"]: s for s in run_of(me, "ex-01", stream)["steps"]}["detection-stop"]

    taken: list[Plain] = []
    now = run_of(me, "ex-01", stream)
    assert reach(now) == 5.0
    assert (mark(5.4)["mark"], mark(4.9)["mark"]) == ("later", "failed")
    row = me.yard("ex-01")
    assert row["go"] == "held", "people walk there and rely on it"
    # A unit that is set to another distance: drawn so and judged by it.
    body = filed(boss, "ex-02", own_limits={"detection-distance": 7.0})
    body["options"] = [*body["options"], "person-detection"]
    assert put(boss, "ex-02", body).is_success
    stream, taken = begin(me, "ex-02", options=sorted(body["options"])), []
    assert reach(run_of(me, "ex-02", stream)) == 7.0


def test_from_warm_up_to_the_next_hand(tablets: Tablets) -> None:
    """By eye, all of it; the waits are skipped with a reason, since nobody waits in this test."""
    me, other = tablets(), tablets()
    me.sign_in()
    other.sign_in("Osk")
    me.whole("rh-08")
    stream = started(me, "rh-08")
    say(me, "rh-08", stream, "idle", outcome="skipped", reason="warm from the run before")
    while todo := [s for s in left(run_of(me, "rh-08", stream), "warm-up", "tests") if s != "idle"]:
        open_now = [s["id"] for s in run_of(me, "rh-08", stream)["steps"] if s["id"] in todo and s["mark"] == "open"]
        assert open_now, todo
        say(me, "rh-08", stream, *open_now)
    assert run_of(me, "rh-08", stream)["stand"] == "ready-to-work"
    for step in ("shut", "nobody-close", "no-riders", "release", "first-metres"):
        now = say(me, "rh-08", stream, step)
    assert (now["stand"], now["ready_to_work"]) == ("working", True)
    remark = me.entry("remarked", sense="noise", colour="amber", station="rear", note="squeals when it turns left")
    fuel = me.entry("filled", fluid="fuel", litres=180.0, protected=True)
    assert me.send("rh-08", stream, [remark, fuel]).json()["refused"] == []
    say(me, "rh-08", stream, "place", word="heavy")
    now = run_of(me, "rh-08", stream)
    assert now["stand"] == "shutting-down"
    assert 3 <= now["cool_down"]["minutes"] <= 10
    say(me, "rh-08", stream, "stopped-still", "body-down", "lights-off")
    say(me, "rh-08", stream, "cool-down", outcome="skipped", reason="stood at idle before")
    assert engine(me, "rh-08", stream, "stopped")["stand"] == "stopped"
    say(me, "rh-08", stream, "meter", value=20001.5)
    while todo := can(run_of(me, "rh-08", stream), "shutdown"):
        say(me, "rh-08", stream, *todo)
    assert run_of(me, "rh-08", stream)["stand"] == "secured"
    me.send("rh-08", stream, [me.entry("handed-over", note="Left the bay free for the fitter.")])
    paper = other.http.get(f"/api/machines/rh-08/run/{stream}/hand-over.pdf")
    assert (paper.status_code, paper.headers["content-type"]) == (200, "application/pdf")
    read = " ".join(" ".join(page.extract_text() for page in PdfReader(io.BytesIO(paper.content)).pages).split())
    for told in ("RH-08", "Secured", "squeals when it turns left", "Left the bay free", "180.0 L", "started once"):
        assert told in read, told
    spanish = other.http.get(f"/api/machines/rh-08/run/{stream}/hand-over.pdf", params={"language": "es"})
    assert "Segura: motor parado" in PdfReader(io.BytesIO(spanish.content)).pages[0].extract_text()
    assert other.http.get(f"/api/machines/ex-01/run/{stream}/hand-over.pdf").status_code == 404
    fresh = run_of(other, "rh-08")
    assert fresh["run"] is None, "a run that is secured is over"
    assert fresh["before"]["text"] == "Left the bay free for the fitter."
    lines = [x["says"] for x in fresh["before"]["lines"]]
    assert any("squeals when it turns left" in x for x in lines)
    assert any("180.0 L" in x for x in lines)
    assert any("started once" in x for x in lines), "the hours of the run are handed on"
    assert any("skipped" in x for x in lines)


def test_after_a_stop_what_is_open_and_what_was_heard_is_looked_at_again(tablets: Tablets) -> None:
    """Lost so: a weep that everybody knows of grows into a leak at noon, and nobody was told to look."""
    me = tablets()
    me.sign_in()
    weep = {"failure_mode": "leak", "attributes": {"leak_class": "I", "coupling": "other"}, "note": ""}
    me.whole("ld-05", {"lift-cylinders": {"answer": "defect", "findings": [weep]}})
    stream = started(me, "ld-05")
    assert run_of(me, "ld-05", stream)["again"] == []
    heard = me.entry("remarked", sense="noise", colour="amber", station="rear", note="whines")
    plain = me.entry("remarked", sense="smell", colour="none", station="rear", note="like always")
    assert me.send("ld-05", stream, [heard, plain]).json()["refused"] == []
    now = engine(me, "ld-05", stream, "stopped")
    told = [a["says"] for a in now["again"]]
    assert any("whines" in x for x in told)
    assert any("No worse than before?" in x and "Lift" in x for x in told), told
    assert not any("like always" in x for x in told)
    # A needle read by eye: green is no news, amber is looked at after the stop, red stops it.
    for gauge, colour in (("coolant", "amber"), ("coolant", "none"), ("volts", "none")):
        assert me.send("ld-05", stream, [me.entry("remarked", sense="gauge", colour=colour, gauge=gauge)]).is_success
    now = run_of(me, "ld-05", stream)
    assert {g["key"]: g["colour"] for g in now["gauges"] if g["at"]} == {"coolant": "none", "volts": "none"}
    assert [x["says"] for x in now["lines"] if "Coolant" in x["says"] or "Battery" in x["says"]] == [
        "Coolant: amber."
    ], "that it was amber is kept, green again or not"
    assert [x for x in now["counted"] if "started once" in x]
    # Left like that with the engine said to run, and another run begun: its hours end there.
    engine(me, "ld-05", stream, "cranking", "running")
    begin(me, "ld-05")
    assert run_of(me, "ld-05", stream)["counted"][0] == run_of(me, "ld-05")["before"]["lines"][-1]["says"]
    gone = run_of(me, "ld-05", stream)
    assert (gone["gate"]["may"], gone["stand"]) == (False, "stop")
    assert "Another run" in gone["gate"]["why"]


def test_what_does_not_belong_there_is_refused_by_name(tablets: Tablets) -> None:
    me = tablets()
    me.sign_in()
    stream = begin(me, "ex-01")
    for what, field in (
        ({"kind": "stepped", "step": "retarder-test", "outcome": "done"}, "step"),
        ({"kind": "remarked", "sense": "noise", "colour": "amber", "station": "moon"}, "station"),
        ({"kind": "remarked", "sense": "gauge", "colour": "red"}, "gauge"),
        ({"kind": "remarked", "sense": "gauge", "colour": "red", "gauge": "hours"}, "gauge"),
        ({"kind": "remarked", "sense": "noise", "colour": "red", "gauge": "coolant"}, "gauge"),
        ({"kind": "filled", "fluid": "soup", "litres": 3.0, "protected": True}, "fluid"),
        ({"kind": "filled", "fluid": "fuel", "litres": -3.0, "protected": True}, "litres"),
        ({"kind": "engine", "state": "flying"}, "state"),
    ):
        refused = me.send("ex-01", stream, [me.entry(**what)]).json()["refused"]
        assert [r["field"] for r in refused] == [field], refused
    assert me.http.get("/api/machines/ex-01/run", params={"run": me.new_id()}).status_code == 404
    assert me.http.get("/api/machines/nobody/run").status_code == 404
    assert me.http.get("/api/machines/ex-02/run", params={"run": stream}).status_code == 404, "another machine's"
    walk = me.new_id()
    me.send("ex-01", walk, [me.opening("ex-01")])
    assert me.http.get("/api/machines/ex-01/run", params={"run": walk}).status_code == 404, "a walk is no run"


def test_nobody_starts_a_machine_in_a_run_that_is_over(tablets: Tablets) -> None:
    """Its function tests were of another day: opened again from the records it is read, and starts nothing."""
    me = tablets()
    me.sign_in()
    me.whole("ld-05")
    old = started(me, "ld-05")
    engine(me, "ld-05", old, "stopped")
    handed = me.entry("handed-over", note="all well")
    assert me.send("ld-05", old, [handed]).json()["refused"] == []
    now = say(me, "ld-05", old, *left(run_of(me, "ld-05", old), "start", engine=None))
    assert not now["ready_to_start"]
    assert "begin a new one" in now["says"]
    new = begin(me, "ld-05")
    assert run_of(me, "ld-05", new)["gate"]["may"]
    assert engine(me, "ld-05", old, "cranking", "running")["stand"] == "stop", "another run has begun since"


def test_what_does_not_change_is_told_once(tablets: Tablets) -> None:
    """By its name; another machine or language is told anew."""
    me = tablets()
    me.sign_in()
    first = me.http.get("/api/machines/ex-01/run").json()
    again = me.http.get("/api/machines/ex-01/run", params={"known": first["fixed_name"]})
    assert again.json()["fixed"] is None
    assert {s["id"] for s in again.json()["steps"]} == {s["id"] for s in first["fixed"]["steps"]}
    assert len(again.content) < 0.6 * len(json.dumps(first))
    for path, headers in (("rh-08", {}), ("ex-01", {"Accept-Language": "es"})):
        other = me.http.get(f"/api/machines/{path}/run", params={"known": first["fixed_name"]}, headers=headers).json()
        assert other["fixed"] is not None
        assert other["fixed_name"] != first["fixed_name"]
    stream = begin(me, "ex-01")
    assert whole_run(me.http.get("/api/machines/ex-01/run", params={"run": stream}).json())["run"] == stream


def test_a_level_read_in_a_run_takes_nobodys_page_away(tablet: Device) -> None:
    """A hydraulic level is an entry like others and tries no step: the run, its hand-over and the yard are told on."""
    run = begin(tablet, "ex-01")
    before = run_of(tablet, "ex-01", run)
    for form in ("read", "measured"):
        low = {**LEVEL, "seen": -0.9}
        what = as_read(low) if form == "read" else low
        assert tablet.send("ex-01", run, [tablet.entry(form, **what)]).json()["refused"] == []
        now = run_of(tablet, "ex-01", run)
        assert [s["id"] for s in now["steps"]] == [s["id"] for s in before["steps"]]
        assert tablet.http.get(f"/api/inspections/{run}").is_success
        assert tablet.http.get("/api/machines/ex-01/readings").is_success
        assert tablet.http.get("/api/machines/ex-01/needs").is_success
        # What was found counts, wherever it was said.
        assert tablet.yard("ex-01")["go"] == "held", form
