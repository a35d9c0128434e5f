"""What is each new family's own, tried through the API: without it nobody is ready, and order is kept.

Lost so: somebody on a stairway that is down when the house slews; at a service centre; under an arm whose presence
switch is bridged; beside a drum that shakes on; in a seat while the engine fires again after its cable was let go.
"""

from __future__ import annotations

from typing import Any

import pytest

from tests.api.conftest import Tablets
from tests.api.test_runs import Plain, begin, engine, left, run_of, say
from tests.deep import DEEP
from tests.device import Device

# what is left out on which machine
OWED = [
    ("mx-15", "stairs-up"),
    ("mx-15", "service-in"),
    ("mx-15", "stow-test"),
    ("cl-13", "operate-off"),
    ("cl-13", "presence-test"),
    ("rr-11", "vibration-off"),
    ("sc-10", "vibration-test"),
    ("sc-10", "lever-stop"),
    ("bh-12", "digger-still"),
    ("bh-12", "legs-test"),
    ("ul-14", "air-moves"),
    ("ul-14", "cable-in"),
]
READY = ("ready-to-work", "working")


def on(me: Device, machine: str, stream: str, but: str = "") -> Plain:
    """Say all that can be said until it works, but this; the engine runs as soon as the machine may be started."""
    for _ in range(40):
        now = run_of(me, machine, stream)
        if now["ready_to_start"] and now["engine"] == "stopped":
            now = engine(me, machine, stream, "cranking", "running")
        if now["engine"] == "running" and any(s["id"] == "idle" and not s["settled"] for s in now["steps"]):
            say(me, machine, stream, "idle", outcome="skipped", reason="warm from the run before")
            continue
        todo = [s for s in now["steps"] if s["mark"] in ("open", "void") and not s["settled"] and s["id"] != but
                and s["phase"] not in ("shutdown", "hand-over")
                and (s["engine"] in (None, now["engine"]))]  # fmt: skip
        if any(s["near"] and not s["settled"] for s in now["steps"]) and now["engine"] == "stopped":
            todo = [s for s in todo if not s["nobody"] and s["id"] != "horn"]
        if not todo:
            return now
        if todo[0]["near"]:
            todo = todo[:1]
        if plain := [s["id"] for s in todo if not (s["parts"] or s["ways"] or s["id"] == "limits")]:
            say(me, machine, stream, *plain)
        for s in todo:
            if s["id"] not in plain:
                word = " ".join(p["id"] for p in [*s["parts"], *s["ways"][:1]])
                say(me, machine, stream, s["id"], word=now["gate"]["accepted_as"] if s["id"] == "limits" else word)
    raise AssertionError("it does not come to an end")


@pytest.mark.parametrize(("machine", "step"), OWED if DEEP else OWED[::4])
def test_without_it_nobody_is_ready(tablets: Tablets, machine: str, step: str) -> None:
    me = tablets()
    me.sign_in()
    me.whole(machine)
    stream = begin(me, machine)
    now = on(me, machine, stream, but=step)
    assert now["stand"] not in READY, "it was left out, and the machine works"
    assert not now["ready_to_work"]
    skipped = me.send(machine, stream, [me.entry("stepped", [], step=step, outcome="skipped", reason="in a hurry")])
    assert not run_of(me, machine, stream)["ready_to_work"], skipped.json()
    now = on(me, machine, stream)
    assert now["stand"] in READY, now["missing"]


def shutting_down(me: Device, machine: str, **opened: Any) -> str:
    """A run of a machine that stands, engine running, all said of the shutdown that comes before it is stopped."""
    me.whole(machine, **opened)
    stream = begin(me, machine, **opened)
    assert on(me, machine, stream)["stand"] in READY
    say(me, machine, stream, "place", word="light")
    for _ in range(12):
        now = run_of(me, machine, stream)
        todo = [s for s in now["steps"] if s["phase"] == "shutdown" and s["mark"] == "open" and not s["settled"]
                and s["engine"] in (None, "running")]  # fmt: skip
        if not todo:
            break
        for s in todo:
            if s["id"] == "cool-down":
                say(me, machine, stream, s["id"], outcome="skipped", reason="stood at idle before")
            elif s["id"] == "meter":
                say(me, machine, stream, s["id"], value=now["machine"]["hour_meter"])
        say(me, machine, stream, *[s["id"] for s in todo if s["id"] not in ("cool-down", "meter")])
    return stream


def mark_of(me: Device, machine: str, stream: str, step: str) -> tuple[str, str]:
    s = next(s for s in run_of(me, machine, stream)["steps"] if s["id"] == step)
    return s["mark"], s["says"]


def test_the_stop_cable_is_held_until_the_engine_is_at_rest(tablets: Tablets) -> None:
    me = tablets()
    me.sign_in()
    stream = shutting_down(me, "ul-14")
    say(me, "ul-14", stream, "cable-held")  # said while it still runs
    assert mark_of(me, "ul-14", stream, "cable-held")[0] != "done"
    engine(me, "ul-14", stream, "stopped")
    say(me, "ul-14", stream, "cable-held")  # said at once, with the fan still turning
    mark, why = mark_of(me, "ul-14", stream, "cable-held")
    assert mark != "done", "eight seconds have not gone by"
    say(me, "ul-14", stream, "isolator-off", "key-away")
    assert run_of(me, "ul-14", stream)["stand"] != "secured", why


def test_a_drain_in_the_wrong_order_says_what_comes_first(tablets: Tablets) -> None:
    me = tablets()
    me.sign_in()
    stream = shutting_down(me, "mx-15", conditions={"air_c": -3.0, "frost": True})
    engine(me, "mx-15", stream, "stopped")
    say(
        me, "mx-15", stream, *[s for s in left(run_of(me, "mx-15", stream), "shutdown") if s in ("purge", "lights-off")]
    )
    say(me, "mx-15", stream, "isolator-off")
    say(me, "mx-15", stream, "drain-inner")
    mark, why = mark_of(me, "mx-15", stream, "drain-inner")
    assert mark != "done"
    assert "outer valve open" in why
    for step in ("drain-outer", "drain-inner", "drain-inner-shut", "drain-outer-shut"):
        say(me, "mx-15", stream, step)
        assert mark_of(me, "mx-15", stream, step)[0] == "done", step


def test_ten_grease_points_are_counted_one_by_one(tablets: Tablets) -> None:
    me = tablets()
    me.sign_in()
    me.whole("sc-10")
    stream = begin(me, "sc-10")
    step = next(s for s in run_of(me, "sc-10", stream)["steps"] if s["points"])
    points = [p for p in step["points"] if p["name"][0].isdigit()]
    assert [int(p["name"].split()[0]) for p in points] == list(range(1, 11))
    hours = run_of(me, "sc-10", stream)["machine"]["hour_meter"]
    for p in points[:9]:
        me.send(
            "sc-10", stream, [me.entry("greased", p["heads"], point=p["id"], took="greased", strokes=4, hours=hours)]
        )
    me.send("sc-10", stream, [me.entry("stepped", step["heads"], step=step["id"], outcome="done")])
    now = next(s for s in run_of(me, "sc-10", stream)["steps"] if s["id"] == step["id"])
    assert now["mark"] != "done"
    assert "10 Oscillation stop, right" in now["says"], "the one that was missed is named"


def test_the_air_is_looked_at_before_each_start_not_once_a_day(tablets: Tablets) -> None:
    """Lost so: half an hour at lunch with the fan off, and the engine started on the morning's word."""
    me = tablets()
    me.sign_in()
    me.whole("ul-14")
    stream = begin(me, "ul-14")
    assert on(me, "ul-14", stream)["stand"] in READY
    now = engine(me, "ul-14", stream, "stopped")
    again = next(s for s in now["steps"] if s["id"] == "air-moves")
    assert not again["settled"]
    assert not now["ready_to_start"]


@pytest.mark.parametrize(("machine", "step"), [("rr-11", "vibration-stopped"), ("bh-12", "digger-parked")])
def test_an_engine_that_died_leaves_a_way_to_say_that_it_stands_safely(
    tablets: Tablets, machine: str, step: str
) -> None:
    """Lost so: fuel out, or a stop pressed, and the last word that makes it safe could never be said."""
    me = tablets()
    me.sign_in()
    me.whole(machine)
    stream = begin(me, machine)
    assert on(me, machine, stream)["stand"] in READY
    engine(me, machine, stream, "stopped")
    say(me, machine, stream, "place", word="light")
    for _ in range(4):  # each when what it waits for was said
        now = run_of(me, machine, stream)
        todo = [s["id"] for s in now["steps"] if s["phase"] == "shutdown" and s["mark"] == "open" and not s["settled"]]
        if plain := [s for s in todo if s not in ("meter", "cool-down")]:
            say(me, machine, stream, *plain)
    assert mark_of(me, machine, stream, step)[0] == "done"
