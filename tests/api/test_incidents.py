"""Incidents: what happened to a machine ends what cleared it.

How it could send somebody out: a machine that lay on its side is set up and works on; the look that was begun before it
is signed after it; the short look of the next operator clears it; who tipped it over says himself that nothing is bent;
it is told with no signal and arrives hours later; a short look in the morning goes on from a night.
"""

from __future__ import annotations

from tests.api.conftest import Tablets
from tests.api.test_runs import Plain, begin, run_of, started
from tests.device import Device


def tell(me: Device, machine: str, what: str, offset_ms: int | None = 0, **more: str) -> str:
    """An incident as a tablet tells it whose clock was measured; its id."""
    entry = me.entry("incident", what=what, **more) | {"offset_ms": offset_ms}
    reply = me.send(machine, f"defect.{me.new_id()}", [entry]).json()
    assert reply["refused"] == [], reply
    return str(entry["id"])


def examine(me: Device, machine: str, incident: str, found: str = "frame, pins, cab posts: sound") -> list[Plain]:
    entry = me.entry("examined", incident=incident, found=found)
    return list(me.send(machine, f"defect.{me.new_id()}", [entry]).json()["refused"])


def go(me: Device, machine: str) -> tuple[str, bool]:
    """How the yard has it, and whether a run of it is to stop."""
    return me.yard(machine)["go"], run_of(me, machine)["gate"]["held"]


def test_what_happened_ends_the_work_at_once(tablets: Tablets) -> None:
    mira = tablets()
    mira.sign_in()
    mira.whole("ex-02")
    stream = started(mira, "ex-02")
    assert run_of(mira, "ex-02", stream)["stand"] != "stop"
    half = mira.new_id()  # a walk that was begun before it
    half_walk = mira.walk("ex-02")
    tell(mira, "ex-02", "struck", note="swung into the pile cap")
    run = run_of(mira, "ex-02", stream)
    assert (run["stand"], run["ready_to_start"], run["ready_to_work"]) == ("stop", False, False)
    assert any("hit something" in x["says"] and x["urgent"] for x in run["lines"]), "whoever comes next reads it"
    assert go(mira, "ex-02") == ("uninspected", True)
    assert "Walk round the whole machine" in mira.yard("ex-02")["why"]
    # Signed after it, but looked at before it: that says nothing of what it struck.
    mira.send("ex-02", half, half_walk)
    assert go(mira, "ex-02") == ("walking", True), "walked round it is to stop all the same"
    assert mira.send("ex-02", half, [mira.signature(half)]).json()["refused"] == []
    assert go(mira, "ex-02") == ("uninspected", True)
    assert "hit something" in mira.look(half)["locked"], "the verdict page says so, too"
    mira.whole("ex-02", purpose="change-of-operator")
    assert go(mira, "ex-02") == ("uninspected", True), "the short one is not enough"
    after = mira.whole("ex-02")
    assert (go(mira, "ex-02"), mira.look(after)["locked"]) == (("ready", False), "")


def test_a_grave_one_is_examined_by_somebody_who_answers_for_it(tablets: Tablets) -> None:
    mira, dag, rolf = tablets(), tablets(), tablets()
    mira.sign_in()
    dag.sign_in("Dag")
    rolf.sign_in("Rolf")
    mira.whole("ex-02")
    tipped = tell(mira, "ex-02", "tipped", note="over the edge of the bank")
    assert go(mira, "ex-02") == ("held", True)
    assert "over the edge of the bank" in mira.yard("ex-02")["why"]
    mira.whole("ex-02")
    assert go(mira, "ex-02") == ("held", True), "whoever walks round it cannot see a bent post"
    assert [r["kind"] for r in examine(mira, "ex-02", tipped)] == ["not-your-role"]
    assert [r["kind"] for r in examine(rolf, "ex-02", tipped)] == ["not-your-role"]
    assert examine(dag, "ex-02", tipped, "x")[0]["kind"] == "bad-entry", "in words"
    assert [r["kind"] for r in examine(dag, "ex-02", dag.new_id())] == ["incident-unknown"], "of another one"
    assert go(mira, "ex-02") == ("held", True)
    assert examine(dag, "ex-02", tipped) == []
    # Whoever looked at it before the mechanic did looked at it after it happened: that holds.
    assert go(mira, "ex-02") == ("ready", False)
    found = mira.http.get("/api/machines/ex-02/incidents").json()
    assert (found["may_examine"], [i["waits"] for i in found["incidents"]]) == (False, [False])
    assert found["incidents"][0]["found"].startswith("frame, pins")
    # A second one waits by itself, and a lighter one after it hides nothing of it.
    stream = begin(mira, "ex-02")
    tell(mira, "ex-02", "fire")
    tell(mira, "ex-02", "slid")
    assert go(mira, "ex-02") == ("held", True)
    lines = [x["says"] for x in run_of(mira, "ex-02", stream)["lines"]]
    assert [any(w in x for x in lines) for w in ("burned", "slid")] == [True, True]


def test_what_was_never_walked_whole_is_stopped_after_an_incident_too(tablets: Tablets) -> None:
    mira = tablets()
    mira.sign_in()
    mira.whole("dz-06", purpose="change-of-operator")
    tell(mira, "dz-06", "sunk")
    assert go(mira, "dz-06") == ("uninspected", True)


def test_told_with_no_signal_it_counts_from_when_it_happened(tablets: Tablets) -> None:
    far, mira = tablets(), tablets()
    far.sign_in("Osk")
    mira.sign_in()
    mira.whole("ld-05")
    held_back = far.entry("incident", what="slid") | {"offset_ms": 0}
    unclocked = far.entry("incident", what="sunk")
    stream = f"defect.{far.new_id()}"
    assert go(mira, "ld-05") == ("ready", False)
    assert far.send("ld-05", stream, [held_back]).json()["stored"] == [held_back["id"]]
    assert far.send("ld-05", stream, [held_back]).json()["known"] == [held_back["id"]], "sent twice it is one"
    assert go(mira, "ld-05")[0] == "uninspected"
    opening = mira.walk("ld-05")
    for entry in opening:
        entry["offset_ms"] = 0
    look = mira.new_id()
    mira.send("ld-05", look, opening)
    # It arrives after the look and no clock says when it was: the look may not have seen it.
    far.send("ld-05", f"defect.{far.new_id()}", [unclocked])
    mira.send("ld-05", look, [mira.signature(look)])
    assert go(mira, "ld-05")[0] == "uninspected"
    mira.whole("ld-05")
    assert go(mira, "ld-05") == ("ready", False)


def test_a_short_inspection_goes_on_from_a_whole_one_that_holds(tablets: Tablets) -> None:
    """Sent out so: in the morning the short one is chosen because it is short."""
    mira, osk = tablets(), tablets()
    mira.sign_in()
    osk.sign_in("Osk")

    def told() -> str:
        reply = osk.http.post("/api/machines/gr-09/walk", json={"purpose": "change-of-operator"})
        return str(reply.json()["clears_not"])

    assert "there is none" in told(), "said before a step is walked"
    vain = osk.whole("gr-09", purpose="change-of-operator")
    row = osk.yard("gr-09")
    assert (row["go"], "goes on from a whole one" in row["why"]) == ("uninspected", True)
    assert "there is none" in osk.look(vain)["locked"], "its verdict may say ready: it clears nothing"
    mira.whole("gr-09")
    assert (osk.yard("gr-09")["go"], told(), osk.look(vain)["locked"]) == ("ready", "", "")
    osk.whole("gr-09", purpose="change-of-operator")
    assert run_of(osk, "gr-09")["gate"]["may"]
    mira.whole("gr-09", purpose="end-of-shift")
    osk.whole("gr-09", purpose="change-of-operator")
    row = osk.yard("gr-09")
    assert (row["go"], "holds no longer" in row["why"]) == ("uninspected", True)
