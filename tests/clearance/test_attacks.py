"""Ways to a machine that shows ready and must not: careless, lazy, late and unlucky people, through the API.

Each was tried by hand first and succeeded, before clearance was a proof.
"""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from jutrel.api import door
from jutrel.api.app import make_app
from jutrel.settings import Settings
from tests.api.test_runs import Plain, begin, engine, run_of, say
from tests.clearance.yard import Clock, Yard, go, may, started, to_work
from tests.conftest import CATALOG, _copy
from tests.device import CRACK, Device

UNSEEN = {"answer": "unseen", "reason": "too dark to see it"}
MIRROR = {"answer": "defect", "findings": [{"failure_mode": "broken", "attributes": {"broken": "cracked"}}]}
SAG = {"answer": "defect", "findings": [{"failure_mode": "tension", "attributes": {"tension": "far"}}]}
HORN = {"answer": "defect", "findings": [{"failure_mode": "inoperative", "attributes": {"works": "weak"}}]}


@pytest.fixture(scope="module")
def site(request: pytest.FixtureRequest) -> Iterator[Yard]:
    cluster, template = request.getfixturevalue("cluster"), request.getfixturevalue("bare_template")
    before = door.datetime
    door.datetime = Clock  # type: ignore[attr-defined]
    app = make_app(Settings(database_url=_copy(cluster, template)), CATALOG)
    with TestClient(app, base_url="http://yard.test") as http:
        yield Yard(http)
    door.datetime = before  # type: ignore[attr-defined]


@pytest.fixture
def yard(site: Yard) -> Iterator[Yard]:
    yield site
    Clock.ahead = Clock.ahead * 0
    site.boss = site.tablet("Pell")


def sent(me: Device, machine: str, stream: str, *entries: Plain) -> list[str]:
    return [r["kind"] for r in me.send(machine, stream, list(entries)).json()["refused"]]


# --- what must be looked at


def test_options_that_a_device_leaves_out_are_looked_at_all_the_same(yard: Yard) -> None:
    me = yard.tablet("Mira")
    machine, look = yard.machine("tolvane-e24", "quick-coupler"), me.new_id()
    walk = [e for e in me.walk(machine, options=[]) if e["what"].get("checkpoint") != "coupler-lock"]
    assert sent(me, machine, look, *walk) == []
    assert sent(me, machine, look, me.signature(look, "ready")) == ["incomplete"]
    assert "coupler-lock" in [c["checkpoint"] if isinstance(c, dict) else c for c in me.look(look)["verdict"]["left"]]
    assert not may(me, machine)


def test_a_run_owes_the_steps_of_the_unit_and_not_of_the_device(yard: Yard) -> None:
    me = yard.tablet("Mira")
    machine = yard.machine("tolvane-e24", "quick-coupler", "person-detection")
    stream = begin(me, machine, options=[])
    assert {"coupler-test", "detection-test", "purge"} <= {s["id"] for s in run_of(me, machine, stream)["steps"]}


LOADER = CATALOG.models["korveth-s180"]
HAS = {"exhaust-fluid", "rear-camera", "quick-coupler"}


@pytest.mark.parametrize(
    "change",
    [
        {"options": sorted(LOADER.options)},
        {"options": ["exhaust-fluid", "rear-camera"]},
        {"own_limits": {"tyre-cold-front": 420}},
        {"model_id": "hestrun-k36", "options": [], "own_limits": {}},
        {"active": False},
    ],
    ids=["fitted", "taken off", "another figure", "another family", "off the site"],
)
def test_another_unit_than_the_one_that_was_looked_at(yard: Yard, change: Plain) -> None:
    me, machine = yard.tablet("Mira"), yard.machine(options=sorted(HAS))
    me.whole(machine, options=sorted(HAS))
    assert may(me, machine)
    yard.refile(machine, note="Washed.")
    assert may(me, machine), "a note changes nothing of it"
    yard.refile(machine, **change)
    assert not may(me, machine)
    if change.get("active") is False:
        yard.refile(machine, active=True)
    assert go(me, machine) == "uninspected"


def test_stricter_rules_reach_what_is_signed(yard: Yard) -> None:
    me, rolf, machine = yard.tablet("Mira"), yard.tablet("Rolf"), yard.machine()
    me.whole(machine, {"horn-button": HORN})
    assert go(me, machine) == "limited"
    try:
        rolf.http.put("/api/rulebook/regime", json={"regime": "us-construction"}).raise_for_status()
        assert (go(me, machine), may(me, machine)) == ("held", False)
    finally:
        rolf.http.put("/api/rulebook/regime", json={"regime": "house"}).raise_for_status()
    assert go(me, machine) == "limited", "reported as a Limit it is that again"


# --- its life


def test_signed_long_after_it_was_walked(yard: Yard) -> None:
    me, machine = yard.tablet("Mira"), yard.machine()
    look = me.new_id()
    assert sent(me, machine, look, *me.walk(machine)) == []
    yard.later(me, hours=60)
    me.sign_in()
    assert sent(me, machine, look, me.signature(look)) == ["lapsed"]
    assert not may(me, machine)


def test_ended_by_one_and_signed_by_another(yard: Yard) -> None:
    me, other, machine = yard.tablet("Mira"), yard.tablet("Osk"), yard.machine()
    look = me.new_id()
    assert sent(me, machine, look, *me.walk(machine)) == []
    assert sent(me, machine, look, me.entry("abandoned", reason="called away")) == []
    assert sent(other, machine, look, other.signature(look)) == ["abandoned"]
    assert not may(other, machine)


def test_a_shift_of_24_hours_by_ones_own_word_and_a_short_one_after_it(yard: Yard) -> None:
    me, other, machine = yard.tablet("Mira"), yard.tablet("Osk"), yard.machine()
    me.whole(machine, conditions={"shift_hours": 24})
    assert may(me, machine)
    yard.later(me, other, hours=9)
    me.sign_in()
    other.sign_in("Osk")
    assert not may(me, machine)
    other.whole(machine, purpose="change-of-operator")
    assert not may(other, machine), "it goes on from one that ran out"


def test_a_short_one_begun_in_time_and_sent_late(yard: Yard) -> None:
    me, other, machine = yard.tablet("Mira"), yard.tablet("Osk"), yard.machine()
    me.whole(machine)
    look, walk = other.new_id(), other.walk(machine, purpose="change-of-operator")
    yard.later(me, other, hours=9)
    other.sign_in("Osk")
    assert sent(other, machine, look, *walk) == []
    assert sent(other, machine, look, other.signature(look)) == []
    assert not may(other, machine), "the whole one that it goes on from has ended"


def test_at_work_when_the_inspection_ends(yard: Yard) -> None:
    me, machine = yard.tablet("Mira"), yard.machine()
    me.whole(machine)
    stream = started(me, machine)
    now = to_work(me, machine, stream)
    assert (now["stand"], now["ready_to_work"]) == ("working", True), now["missing"]
    yard.later(me, hours=9)
    me.sign_in()
    now = run_of(me, machine, stream)
    assert (now["stand"], now["ready_to_work"]) == ("not-cleared", False)
    assert "Put down what is up" in now["says"]
    yard.later(me, hours=8)
    me.sign_in()
    assert not run_of(me, machine, stream)["ready_to_work"]


# --- nothing bad stands


@pytest.mark.parametrize("seen", [False, True])
def test_a_word_after_the_signature_takes_no_hold_away(yard: Yard, seen: bool) -> None:
    me, machine = yard.tablet("Mira"), yard.machine()
    me.whole(machine)
    look = me.whole(machine, {"lever-lock": UNSEEN})
    assert go(me, machine) == "held"
    saw = me.seen(machine, "lever-lock", look) if seen else []
    late = me.entry("answered", saw, checkpoint="lever-lock", answer="sound", amends="it is light now")
    assert sent(me, machine, look, late) == []
    assert not may(me, machine)
    assert seen or go(me, machine) == "held"


def test_a_walk_that_saw_nothing_and_was_ended_holds_it(yard: Yard) -> None:
    me, machine = yard.tablet("Mira"), yard.machine()
    me.whole(machine)
    look = me.new_id()
    walk = me.walk(machine, {"lever-lock": UNSEEN})
    assert sent(me, machine, look, *walk) == []
    assert sent(me, machine, look, me.entry("abandoned", reason="it rains")) == []
    assert (go(me, machine), may(me, machine)) == ("held", False)
    assert "lever" in me.yard(machine)["why"].lower()
    me.whole(machine)
    assert may(me, machine), "somebody has seen it"


def test_a_limit_that_nobody_accepted_is_started_and_not_worked(yard: Yard) -> None:
    me, machine = yard.tablet("Mira"), yard.machine("tolvane-e24")
    me.whole(machine, {"sag-left": SAG})
    assert (go(me, machine), may(me, machine)) == ("limited", True)
    stream = begin(me, machine)
    for _ in range(5):
        now = run_of(me, machine, stream)
        for s in now["steps"]:
            if s["phase"] in ("ready", "start") and s["engine"] is None and not s["settled"]:
                word = now["gate"]["accepted_as"] if s["id"] == "limits" else ""
                say(me, machine, stream, s["id"], word=word)
    assert run_of(me, machine, stream)["ready_to_start"], run_of(me, machine, stream)["missing"]
    engine(me, machine, stream, "cranking", "running")
    now = to_work(me, machine, stream)
    assert (now["stand"], now["ready_to_work"]) == ("not-cleared", False), now["missing"]
    assert "supervisor" in now["says"]
    defect = next(d for d in me.open(machine) if d["checkpoint"] == "sag-left")
    what = {"checkpoint": "sag-left", "failure_mode": "tension", "reason": "short runs only"}
    accept = yard.boss.entry("accepted", defect["entries"], **what)
    assert sent(yard.boss, machine, f"defect.{defect['id']}", accept) == []
    assert to_work(me, machine, stream)["ready_to_work"]
    # The same the next day: yesterday's word is yesterday's.
    yard.later(me, hours=24)
    me.sign_in()
    me.whole(machine, {"sag-left": SAG | {"answer": "sound", "findings": []}})
    now = run_of(me, machine, stream)
    assert not now["ready_to_work"]


# --- nothing has happened since


@pytest.mark.parametrize("what", ["serviced", "hot-work", "lines-opened", "carried", "moved"])
def test_what_was_done_to_it_ends_the_inspection(yard: Yard, what: str) -> None:
    me, dag, machine = yard.tablet("Mira"), yard.tablet("Dag"), yard.machine()
    me.whole(machine)
    walked = me.new_id(), me.walk(machine)
    assert sent(dag, machine, f"defect.{dag.new_id()}", dag.entry("worked-on", what=what, note="two hours")) == []
    assert (go(me, machine), may(me, machine)) == ("uninspected", False)
    # A walk begun before it and signed after it says nothing of it.
    assert sent(me, machine, walked[0], *walked[1]) == []
    assert sent(me, machine, walked[0], me.signature(walked[0])) == []
    assert not may(me, machine)
    me.whole(machine)
    assert may(me, machine)


def test_an_opening_that_names_what_it_cannot_know(yard: Yard) -> None:
    me, machine = yard.tablet("Mira"), yard.machine()
    assert sent(me, machine, f"defect.{me.new_id()}", me.entry("worked-on", what="moved")) == []
    me.whole(machine, knew=2, head="0" * 64)
    assert not may(me, machine), "not a head of this log"
    me.whole(machine, knew=0, head="")
    assert not may(me, machine), "a tablet that says nothing of what it knew"


def test_who_tells_of_an_incident_is_not_who_examines(yard: Yard) -> None:
    dag, machine = yard.tablet("Dag"), yard.machine()
    tipped = dag.entry("incident", what="tipped", note="ran off the bank")
    assert sent(dag, machine, f"defect.{dag.new_id()}", tipped) == []
    examined = dag.entry("examined", incident=tipped["id"], found="posts and frame: sound")
    assert sent(dag, machine, f"defect.{dag.new_id()}", examined) == ["own-incident"]
    boss = yard.boss.entry("examined", incident=tipped["id"], found="posts and frame: sound")
    assert sent(yard.boss, machine, f"defect.{dag.new_id()}", boss) == []


# --- it is yours


def test_a_second_operator_goes_on_with_the_first_ones_run(yard: Yard) -> None:
    me, other, machine = yard.tablet("Mira"), yard.tablet("Osk"), yard.machine()
    me.whole(machine)
    stream = started(me, machine)
    assert to_work(me, machine, stream)["ready_to_work"]
    engine(me, machine, stream, "stopped")
    now = run_of(other, machine, stream)
    assert (now["gate"]["may"], now["ready_to_start"], now["ready_to_work"]) == (False, False, False)
    now = engine(other, machine, stream, "cranking", "running")
    assert (now["stand"], now["ready_to_work"]) == ("stop", False)
    other.whole(machine, purpose="change-of-operator")
    now = run_of(other, machine, stream)
    assert now["gate"]["may"], "now it is the other's"
    assert not any("Somebody else" in m for m in now["missing"])


# --- the run


def test_oil_pressure_that_nobody_spoke_of_is_not_forgotten(yard: Yard) -> None:
    for after in (["stopped"], ["stopped", "cranking"], ["cranking"]):
        me, machine = yard.tablet("Mira"), yard.machine()
        me.whole(machine)
        stream = started(me, machine)
        engine(me, machine, stream, *after)
        assert (go(me, machine), may(me, machine)) == ("held", False), after
        assert "Oil pressure" in me.yard(machine)["why"]
        # A mechanic names the cause, another person looks at it: then it goes on.
        dag = yard.tablet("Dag")
        defect = next(d for d in dag.open(machine) if d["checkpoint"] == "engine-oil")
        what = {"checkpoint": "engine-oil", "failure_mode": "failed", "done": "sender changed, 340 kPa measured"}
        release = dag.entry("released", defect["entries"], **what)
        assert sent(dag, machine, f"defect.{defect['id']}", release) == []
        checked = me.entry("rechecked", [release["id"]], release=release["id"])
        assert sent(me, machine, f"defect.{defect['id']}", checked) == []
        assert may(me, machine)


def test_oil_pressure_said_late_by_who_started_it(yard: Yard) -> None:
    me, machine = yard.tablet("Mira"), yard.machine()
    me.whole(machine)
    stream = started(me, machine)
    yard.later(me, seconds=40)
    now = say(me, machine, stream, "oil-pressure")
    step = next(s for s in now["steps"] if s["id"] == "oil-pressure")
    assert (step["mark"], "after the start" in step["says"]) == ("done", True)
    engine(me, machine, stream, "stopped")
    assert go(me, machine) == "ready"


@pytest.mark.parametrize(
    ("step", "outcome"), [("service-brake", "failed"), ("oil-pressure", "failed"), ("control-lock", "lost")]
)
def test_an_outcome_is_a_finding_whatever_a_page_sends_beside_it(yard: Yard, step: str, outcome: str) -> None:
    me, machine = yard.tablet("Mira"), yard.machine()
    me.whole(machine)
    stream = started(me, machine)
    said = me.entry("stepped", step=step, outcome=outcome)
    assert sent(me, machine, stream, said) == []
    assert (go(me, machine), may(me, machine)) == ("held", False)
    # Said again that it is so, and taken back without a word: it stands.
    assert sent(me, machine, stream, me.entry("stepped", [said["id"]], step=step, outcome="done")) == []
    assert sent(me, machine, stream, me.entry("undone", [said["id"]], target=said["id"])) == []
    assert go(me, machine) == "held"


def test_red_taken_back_without_a_word(yard: Yard) -> None:
    me, machine = yard.tablet("Mira"), yard.machine()
    me.whole(machine)
    stream = started(me, machine)
    say(me, machine, stream, "oil-pressure")
    red = me.entry("remarked", sense="lamp", colour="red", note="brake pressure")
    assert sent(me, machine, stream, red) == []
    assert go(me, machine) == "held"
    assert "brake pressure" in me.yard(machine)["why"]
    assert sent(me, machine, stream, me.entry("undone", [red["id"]], target=red["id"])) == []
    assert go(me, machine) == "held"
    slip = me.entry("undone", [red["id"]], target=red["id"], reason="tapped by the sleeve")
    assert sent(me, machine, stream, slip) == []
    assert go(me, machine) == "ready", "one's own slip, with a reason, and nobody else had seen it"


def test_a_run_that_nobody_closed_leaves_no_stopped_engine(yard: Yard) -> None:
    me, machine = yard.tablet("Mira"), yard.machine()
    me.whole(machine)
    say(me, machine, started(me, machine), "oil-pressure")
    stream = begin(me, machine)
    now = run_of(me, machine, stream)
    assert (now["engine"], now["ready_to_start"]) == ("running", False)
    now = engine(me, machine, stream, "stopped")
    assert now["engine"] == "stopped"


# --- time


def test_a_clock_that_was_put_back(yard: Yard) -> None:
    me, machine = yard.tablet("Mira"), yard.machine()
    me.whole(machine)
    yard.later(me, hours=2)
    stream = started(me, machine)
    say(me, machine, stream, "oil-pressure")
    tell = me.entry("incident", what="struck", note="the pile")
    assert sent(me, machine, f"defect.{me.new_id()}", tell) == []
    yard.later(me, hours=-2)
    now = run_of(me, machine, stream)
    assert (now["gate"]["may"], now["engine"], now["ready_to_work"]) == (False, "running", False)
    assert go(me, machine) not in ("ready", "limited", "ready-mends-due")


def test_a_clock_that_nobody_measured_counts_from_the_signing_in(yard: Yard) -> None:
    me, machine = yard.tablet("Mira"), yard.machine()
    me.whole(machine, conditions={"shift_hours": 1})
    yard.later(me, minutes=61)
    assert not may(me, machine)


def test_a_meter_read_too_high_names_the_meter(yard: Yard) -> None:
    me, machine = yard.tablet("Mira"), yard.machine()
    look = me.new_id()
    assert sent(me, machine, look, me.opening(machine, hour_meter=29_000.0)) == []
    assert sent(me, machine, look, me.entry("abandoned", reason="typed it wrongly")) == []
    me.whole(machine)
    row = me.yard(machine)
    assert row["go"] == "uninspected"
    assert "29000" in row["why"].replace(" ", "").replace(" ", "").replace(",", "")
    read = me.http.get(f"/api/machines/{machine}").json()["readings"]
    wrong = next(r for r in read if r["shown"] == 29_000.0)["entry"]
    other = yard.tablet("Osk")
    body = {"id": me.new_id(), "reading": wrong, "hours": None, "why": "one digit too many"}
    path = f"/api/machines/{machine}/meter/correction"
    assert other.http.post(path, json=body).status_code == 403, "another operator's reading"
    assert me.http.post(path, json=body | {"why": "."}).status_code == 422
    assert me.http.post(path, json=body).is_success
    assert may(me, machine)


def test_a_cracked_mirror_on_four_shifts_is_one_of_four(yard: Yard) -> None:
    """Each second walk is begun ten minutes early: it is for the shift that comes."""
    me, machine = yard.tablet("Mira"), yard.machine()
    at = next(e["what"]["checkpoint"] for e in me.walk(machine) if "mirror" in e["what"].get("checkpoint", ""))
    told = []
    for n in range(4):
        me.whole(machine, {at: MIRROR})
        told.append(next(d for d in me.open(machine) if d["checkpoint"] == at))
        yard.later(me, minutes=470 if n % 2 == 0 else 490)
        me.sign_in()
    assert [d["grade"] for d in told] == ["mend", "mend", "limit", "limit"], "the third shift raises it"


# --- hands


def test_a_release_of_somebody_who_left(yard: Yard) -> None:
    me, machine = yard.tablet("Mira"), yard.machine("tolvane-e24")
    me.whole(machine, {"boom": CRACK})
    tab = yard.tablet("Dag")
    defect = next(d for d in tab.open(machine))
    what = {"checkpoint": defect["checkpoint"], "failure_mode": "crack", "done": "welded and looked at"}
    release = tab.entry("released", defect["entries"], **what)
    tab.http.delete("/api/session")
    yard.later(me, tab, hours=72)
    tab.sign_in("Mira")
    assert sent(tab, machine, f"defect.{defect['id']}", release) == ["pen-ended"]
    assert go(tab, machine) == "held"


def test_a_mechanics_word_in_a_look_with_a_pen_that_ended(yard: Yard) -> None:
    """What clears in a look counts from a living pen, too; it is kept and does not count."""
    me, machine = yard.tablet("Mira"), yard.machine("tolvane-e24")
    me.whole(machine, {"sag-left": SAG})
    tab = yard.tablet("Dag")
    look = tab.new_id()
    sound = tab.entry("answered", tab.seen(machine, "sag-left"), checkpoint="sag-left", answer="sound")
    walk = [tab.opening(machine), sound]
    tab.http.delete("/api/session")
    tab.sign_in("Mira")
    assert sent(tab, machine, look, *walk) == []
    assert [d["checkpoint"] for d in tab.open(machine)] == ["sag-left"]


def test_signed_in_the_name_of_somebody_who_signed_out_in_another_tab(yard: Yard) -> None:
    tab, machine = yard.tablet("Mira"), yard.machine()
    look = tab.new_id()
    assert sent(tab, machine, look, *tab.walk(machine)) == []
    signature = tab.signature(look)
    tab.http.delete("/api/session")
    tab.sign_in("Osk")
    assert sent(tab, machine, look, signature) == ["pen-ended"]
    assert not may(tab, machine)


def test_a_reason_is_words(yard: Yard) -> None:
    me, dag, machine = yard.tablet("Mira"), yard.tablet("Dag"), yard.machine("tolvane-e24")
    me.whole(machine, {"boom": CRACK})
    defect = next(d for d in dag.open(machine))
    what = {"checkpoint": defect["checkpoint"], "failure_mode": "crack"}
    for dots in ("...", " . . . ", "---"):
        release = dag.entry("released", defect["entries"], done=dots, **what)
        assert sent(dag, machine, f"defect.{defect['id']}", release) == ["bad-entry"]


# --- honest ways stay as short as they are


def test_the_ordinary_shift_takes_no_more_taps_than_before(yard: Yard) -> None:
    """A wheel loader of the demo. Before clearance was a proof it took 93 checkpoints, one opening, one signature and
    59 steps from key to key; no question was added."""
    me, machine = yard.tablet("Mira"), yard.machine()
    walk = me.walk(machine)
    assert len(walk) == 1 + WALK_BEFORE
    look = me.new_id()
    assert sent(me, machine, look, *walk) == []
    assert sent(me, machine, look, me.signature(look)) == []
    stream = started(me, machine)
    now = to_work(me, machine, stream)
    assert now["stand"] == "working"
    assert len(now["steps"]) == STEPS_BEFORE


WALK_BEFORE, STEPS_BEFORE = 93, 59
