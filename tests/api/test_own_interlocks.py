"""What is each new family's own, tried through the API: without it nobody is ready, and nothing goes in the wrong order.

Lost so: somebody on a stairway that is down when the house slews; at a service centre; under an arm whose presence
switch is bridged; beside a drum that shakes on; in a seat while the engine fires again after its cable was let go.
"""

from __future__ import annotations

from typing import Any

import pytest

from tests.api.conftest import Tablets
from tests.api.test_runs import Plain, begin, engine, left, run_of, say
from tests.device import Device

# what is left out on which machine, and the furthest that a run may come without it
OWED = [
    ("mx-15", "stairs-up", "warming"),
    ("mx-15", "service-in", "warming"),
    ("mx-15", "stow-test", "testing"),
    ("cl-13", "operate-off", "warming"),
    ("cl-13", "presence-test", "testing"),
    ("rr-11", "vibration-off", "warming"),
    ("sc-10", "vibration-test", "testing"),
    ("sc-10", "lever-stop", "testing"),
    ("bh-12", "digger-still", "warming"),
    ("bh-12", "legs-test", "testing"),
    ("ul-14", "air-moves", "warming"),
    ("ul-14", "cable-in", "warming"),
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
        for s in todo[:1] if todo[0]["near"] else todo:
            word = " ".join(p["id"] for p in [*s["parts"], *s["ways"][:1]])
            say(me, machine, stream, s["id"], word=now["gate"]["accepted_as"] if s["id"] == "limits" else word)
    raise AssertionError("it does not come to an end")


@pytest.mark.parametrize(("machine", "step"), [(m, s) for m, s, _ in OWED])
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
            else:
                say(me, machine, stream, s["id"])
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
