"""How a site does things, who was shown what, and greasing over the wire.

How it could send somebody out on a machine that hurts them, or lose what was said: a choice that nobody may make; a
run that changes under the hand because the site chose anew; a fitting that takes no grease and is heard of by nobody;
a training that somebody writes down for themselves, or that is gone after a mistake.
"""

from __future__ import annotations

import uuid
from typing import Any

import pytest

from jutrel.demo.story import WHO
from tests.api.conftest import Tablets
from tests.api.test_runs import begin, run_of, say
from tests.device import Device

Plain = dict[str, Any]


def choose(me: Device, school: str, choice: str, id_: str = "") -> int:
    body = {"id": id_ or str(uuid.uuid4()), "choice": choice}
    return me.http.put(f"/api/schools/{school}", json=body).status_code


def chosen(me: Device, school: str) -> Plain:
    return next(s for s in me.http.get("/api/schools").json() if s["id"] == school)


def step_ids(now: Plain) -> list[str]:
    return [s["id"] for s in now["steps"]]


def test_the_site_chooses_and_a_run_keeps_what_it_began_with(tablets: Tablets) -> None:
    me, boss = tablets(), tablets()
    me.sign_in()
    boss.sign_in("Pell")
    usual = chosen(me, "grease")
    assert (usual["choice"], usual["by"], usual["at"], usual["by_model"]) == ("end", "", None, False)
    assert choose(me, "grease", "start") == 403, "an operator does not decide that"
    me.whole("ex-01")
    run = begin(me, "ex-01")
    before = step_ids(run_of(me, "ex-01", run))
    assert {"grease", "fuel", "bucket-down"} <= set(before)
    again = str(uuid.uuid4())
    assert choose(boss, "grease", "start", again) == 204
    assert choose(boss, "grease", "start", again) == 204, "sent twice"
    assert choose(boss, "grease", "end", again) == 409, "the id belongs to another choice"
    assert choose(boss, "excavator-parked", "tucked") == 204
    assert chosen(me, "grease")["by"] == "Pell Aronsk"
    assert step_ids(run_of(me, "ex-01", run)) == before, "a run keeps what it began with"
    me.send("ex-01", run, [me.entry("abandoned", reason="called away")])
    fresh = run_of(me, "ex-01", begin(me, "ex-01"))
    assert {"grease-before", "bucket-tucked"} <= set(step_ids(fresh))
    assert not {"grease", "bucket-down"} & set(step_ids(fresh))
    assert {s["id"]: s["choice"] for s in fresh["schools"]}["grease"] == "start"
    # What the maker decides, what there is not.
    assert choose(boss, "circle", "greased") == 409
    assert choose(boss, "grease", "never") == 422
    assert choose(boss, "nothing", "end") == 404


def test_a_site_that_always_waits_as_long(tablets: Tablets) -> None:
    me, boss = tablets(), tablets()
    me.sign_in()
    boss.sign_in("Pell")
    assert choose(boss, "cool-down", "ten") == 204
    me.whole("rh-08")
    run = begin(me, "rh-08")
    assert run_of(me, "rh-08", run)["cool_down"]["minutes"] == 10


def test_a_fitting_that_takes_no_grease_is_heard_of(tablets: Tablets) -> None:
    me, other = tablets(), tablets()
    me.sign_in()
    other.sign_in("Osk")
    me.whole("gr-09")
    run = begin(me, "gr-09")
    step = next(s for s in run_of(me, "gr-09", run)["steps"] if s["points"])
    assert all(p["at"] and p["due"] and p["last"] is None for p in step["points"])
    point, *rest = step["points"]
    hours = run_of(me, "gr-09", run)["machine"]["hour_meter"]
    blocked = me.entry("greased", point=point["id"], took="blocked", strokes=0, hours=hours, note="sheared off")
    assert me.send("gr-09", run, [blocked]).json()["refused"] == []
    for p in rest:
        took = me.entry("greased", point=p["id"], took="greased", strokes=12, hours=hours)
        assert me.send("gr-09", run, [took]).json()["refused"] == []
    lines = run_of(other, "gr-09", run)["lines"]
    assert any("takes no grease" in x["says"] and "sheared off" in x["says"] and x["urgent"] for x in lines)
    assert any(f"{len(rest)} places greased" in x["says"] for x in lines)
    # The next run knows when each was greased; the blocked one was not.
    me.send("gr-09", run, [me.entry("abandoned", reason="called away")])
    next_step = next(s for s in run_of(me, "gr-09", begin(me, "gr-09"))["steps"] if s["points"])
    lasts = {p["id"]: (p["last"], p["due"]) for p in next_step["points"]}
    assert lasts[point["id"]] == (None, True)
    every = {p["id"]: p["every_h"] for p in step["points"]}
    for p in rest:
        assert lasts[p["id"]] == (hours, every[p["id"]] <= 10)
    # Of a walk, and of a place that this machine has not: refused by name.
    walk = me.new_id()
    me.send("gr-09", walk, [me.opening("gr-09")])
    entry = me.entry("greased", point=point["id"], took="greased", strokes=1, hours=1.0)
    assert [r["kind"] for r in me.send("gr-09", walk, [entry]).json()["refused"]] == ["not-a-run"]
    odd = me.entry("greased", point="bucket-pins", took="greased", strokes=1, hours=1.0)
    run = str(run_of(me, "gr-09")["run"])
    assert [r["field"] for r in me.send("gr-09", run, [odd]).json()["refused"]] == ["point"]


def teach(me: Device, person: str, **more: Any) -> Any:
    body = {
        "id": str(uuid.uuid4()), "person": WHO.get(person, person), "taught": "model", "model": "", "note": "",
        "at": "2026-05-04T06:00:00Z", **more,
    }  # fmt: skip
    return me.http.post("/api/training", json=body)


def test_the_record_offers_a_refresher_and_knows_who_showed_what(tablets: Tablets) -> None:
    me, boss = tablets(), tablets()
    me.sign_in()
    boss.sign_in("Pell")
    told = run_of(me, "ex-01")["briefing"]
    assert told["offer"]
    assert "never ran this model here" in told["says"]
    assert "ground is new to you" in told["says"]
    model = next(iter(k for k, v in boss.http.get("/api/training").json()["models"].items() if "E24" in v))
    assert teach(me, "Mira", model=model).status_code == 403, "nobody writes down their own training"
    when = boss.http.get("/api/session").json()["now"]
    made = teach(boss, "Mira", model=model, at=when)
    assert made.status_code == 201
    same = teach(boss, "Mira", model=model, at=when, id=made.json()["id"])
    assert (same.status_code, same.json()["id"]) == (201, made.json()["id"]), "sent twice, written once"
    assert teach(boss, "Osk", model=model, at=when, id=made.json()["id"]).status_code == 409
    assert teach(boss, "Mira", taught="ground", at=when).status_code == 201
    told = run_of(me, "ex-01")["briefing"]
    assert (told["offer"], told["says"]) == (False, "You were shown this model today.")
    # Written by mistake: it no longer counts, and it is still there.
    gone = boss.http.post(f"/api/training/{made.json()['id']}/withdrawn", json={"id": str(uuid.uuid4())})
    assert gone.status_code == 204
    mine = me.http.get("/api/training").json()
    assert [p["name"] for p in mine["people"]] == ["Mira Tolland"]
    assert sorted(t["withdrawn"] for t in mine["trainings"]) == [False, True]
    assert run_of(me, "ex-01")["briefing"]["offer"]
    # A run of one's own counts from the next run on; somebody else's does not.
    me.whole("ex-01")
    run = begin(me, "ex-01")
    assert run_of(me, "ex-01", run)["briefing"]["offer"], "the run that begins is not yet one that was run"
    me.send("ex-01", run, [me.entry("abandoned", reason="called away")])
    assert run_of(me, "ex-01")["briefing"]["says"] == "You ran this model today."
    assert run_of(boss, "ex-01")["briefing"]["offer"]


@pytest.mark.parametrize(
    ("field", "person", "more"),
    [
        ("person", "0d000000-0000-4000-8000-0000000000ff", {}),
        ("model", "Mira", {"model": "no-such"}),
        ("at", "Mira", {"taught": "ground", "at": "2100-01-01T00:00:00Z"}),
        ("at", "Mira", {"taught": "ground", "at": "2026-05-04T06:00:00"}),
    ],
)
def test_a_training_that_cannot_be(tablets: Tablets, field: str, person: str, more: Plain) -> None:
    boss = tablets()
    boss.sign_in("Pell")
    reply = teach(boss, person, **more)
    assert (reply.status_code, reply.json()["field"]) == (422, field)


def test_who_is_shown_something_says_so_by_the_step_and_may_still_say_no(tablets: Tablets) -> None:
    """Nothing is scored: the step is a word of the person's own, and a no keeps the machine from being started."""
    me = tablets()
    me.sign_in()
    me.whole("ex-01")
    run = begin(me, "ex-01")
    now = say(me, "ex-01", run, "trained", outcome="failed", reason="never sat in one")
    assert not now["ready_to_start"]


def test_how_it_is_done_here_is_told_where_it_is_done(tablets: Tablets) -> None:
    """A checkpoint tells the usual way until the site chooses another; and nothing where good hands agree."""
    me, boss = tablets(), tablets()
    me.sign_in()
    boss.sign_in("Pell")

    def told() -> dict[str, list[str]]:
        return {c["id"]: c["here"] for c in me.http.get("/api/machines/ld-05/walk").json()["checkpoints"]}

    before = told()
    assert before["engine-oil"] == ["Display daily, stick weekly, and when new, after service or in doubt"]
    assert before["wheel-nuts-rear-left"] != []
    assert before["horn-button"] == []
    assert choose(boss, "oil-read", "stick") == 204
    assert told()["engine-oil"] == ["On the stick, each time"]


def test_which_way_round_is_walked_and_planned_as_the_site_chose(tablet: Device) -> None:
    """Whoever walks may still wish otherwise; and no site lets the mechanic lift a Hold alone."""
    rolf = tablet
    rolf.sign_in("Rolf")

    def way(**body: Any) -> list[str]:
        planned = rolf.http.post("/api/machines/ld-05/route", json=body).raise_for_status().json()
        return [leg["station"] for leg in planned["people"][0]["legs"]]

    ways = {d: way(direction=d) for d in ("clockwise", "anticlockwise")}
    assert ways["clockwise"] != ways["anticlockwise"]
    for chosen_way, other in (("clockwise", "anticlockwise"), ("anticlockwise", "clockwise")):
        assert choose(rolf, "way-round", chosen_way) == 204
        assert way() == ways[chosen_way]
        assert way(direction=other) == ways[other]
        walk = rolf.http.post("/api/machines/ld-05/walk", json={}).raise_for_status().json()
        assert [s["id"] for s in walk["stations"]] == ways[chosen_way]
    assert choose(rolf, "way-round", "shortest") == 204
    shown = {s["id"]: s for s in rolf.http.get("/api/schools").json()}
    assert len(shown) == 15
    for settled in ("how-often", "re-check"):
        assert len(shown[settled]["choices"]) == 1
        assert choose(rolf, settled, shown[settled]["choices"][0]["id"]) == 409


def test_a_second_look_from_the_seat_where_the_site_wants_it(tablet: Device) -> None:
    rolf = tablet
    rolf.sign_in("Rolf")
    for choice, there in (("warming", True), ("before", False)):
        assert choose(rolf, "walk-end", choice) == 204
        steps = [s["id"] for s in run_of(rolf, "ld-05")["steps"]]
        assert ("seat-look" in steps) is there
