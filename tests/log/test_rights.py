"""Who may do what: every kind of entry, every role, every state of a defect, from the tables, through the API."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest
from fastapi.testclient import TestClient

from jutrel.api.app import make_app
from jutrel.core.defect.authority import RIGHTS, SetAsideBy
from jutrel.core.grading.grade import Grade
from jutrel.core.log.kinds import all_kinds
from jutrel.core.people import Role
from jutrel.settings import Settings
from tests.conftest import CATALOG
from tests.device import Device

NAMES = {
    Role.OPERATOR: "Osk",
    Role.MECHANIC: "Dag",
    Role.SUPERVISOR: "Pell",
    Role.TRAINER: "Una",
    Role.ADMINISTRATOR: "Rolf",
}
FOUND: dict[Grade, tuple[str, dict[str, Any]]] = {
    Grade.WATCH: ("teeth", {"failure_mode": "wear", "attributes": {"wear": "half"}}),
    Grade.MEND: ("teeth", {"failure_mode": "wear", "attributes": {"wear": "limit"}}),
    Grade.LIMIT: ("links-left", {"failure_mode": "pin-out", "attributes": {"pin_out": "proud"}}),
    Grade.HOLD: ("boom", {"failure_mode": "crack", "attributes": {"crack_where": "parent"}}),
}


@pytest.fixture(scope="module")
def people(request: pytest.FixtureRequest) -> Iterator[dict[Role, Device]]:
    """One application and one tablet for each role; every case takes a look of its own."""
    from tests.conftest import _copy

    cluster, template = request.getfixturevalue("cluster"), request.getfixturevalue("bare_template")
    with TestClient(
        make_app(Settings(database_url=_copy(cluster, template)), CATALOG), base_url="http://y.test"
    ) as http:
        out = {}
        for role, name in NAMES.items():
            client = TestClient(http.app, base_url="http://y.test")
            client.portal = http.portal
            out[role] = Device(client)
            assert out[role].sign_in(name).is_success
        yield out


MACHINES = ("ex-01", "ex-02", "ex-03", "ex-04")
FREE = iter(range(10**6))


def reported(people: dict[Role, Device], grade: Grade, state: str) -> tuple[str, str, str, str]:
    """A report of this grade by Mira, in a state: machine, look, checkpoint, the report's entry."""
    mira = Device(people[Role.OPERATOR].http)
    machine = "ex-01"
    mira.sign_in("Mira")
    look = mira.new_id()
    checkpoint, finding = FOUND[grade]
    entry = mira.entry("answered", checkpoint=checkpoint, answer="defect", findings=[finding])
    # Signing takes the whole walk, and so does releasing a Hold in a look, which another has to sign.
    whole = state == "signed" or grade is Grade.HOLD
    walk = (
        [e for e in mira.walk(machine) if e["what"].get("checkpoint") != checkpoint]
        if whole
        else [mira.opening(machine)]
    )
    assert mira.send(machine, look, [*walk, entry]).json()["refused"] == []
    if state == "signed":
        assert mira.send(machine, look, [mira.signature(look)]).json()["refused"] == []
    people[Role.OPERATOR].sign_in("Osk")
    return machine, look, checkpoint, entry["id"]


def is_open(device: Device, machine: str, entry: str) -> bool:
    return any(entry in d["entries"] for d in device.open(machine))


@pytest.mark.parametrize("role", list(NAMES))
@pytest.mark.parametrize("state", ["open", "signed"])
@pytest.mark.parametrize("grade", list(FOUND))
def test_tapping_sound_over_what_another_reported(
    people: dict[Role, Device], grade: Grade, state: str, role: Role
) -> None:
    """Only a row of the table sets it aside; a Hold waits for another person."""
    machine, look, checkpoint, entry = reported(people, grade, state)
    me = people[role]
    reply = me.send(machine, look, [me.entry("answered", [entry], checkpoint=checkpoint, answer="sound", amends="r")])
    rights = [
        r
        for r in RIGHTS
        if role in r.roles and grade <= r.up_to and r.ground in (SetAsideBy.LOOKED_AGAIN, SetAsideBy.RELEASE)
    ]
    if role is Role.ADMINISTRATOR:
        assert [r["kind"] for r in reply.json()["refused"]] == ["not-your-role"]
    second = bool(rights) and all(r.second_from is not None and grade >= r.second_from for r in rights)
    assert is_open(me, machine, entry) == (not rights or second)
    if second:
        other = people[Role.OPERATOR]
        signed = other.signature(look)
        assert me.send(machine, look, [me.signature(look)]).json()["refused"], "not one's own"
        refused = other.send(machine, look, [signed]).json()["refused"]
        assert [r["kind"] for r in refused] == ["pin-again"], "who confirms what another released answers for it"
        assert other.pin_again(signed["id"]).is_success
        assert other.send(machine, look, [signed]).json()["refused"] == []
        assert not is_open(other, machine, entry)
    clean(people, machine, entry)


@pytest.mark.parametrize("role", list(NAMES))
@pytest.mark.parametrize("grade", list(FOUND))
def test_releasing_outside_a_look(people: dict[Role, Device], grade: Grade, role: Role) -> None:
    machine, _, checkpoint, entry = reported(people, grade, "open")
    me = people[role]
    stream = f"defect.{entry}.0"
    what = {"checkpoint": checkpoint, "failure_mode": FOUND[grade][1]["failure_mode"], "done": "mended"}
    release = me.entry("released", [entry], **what)
    refused = me.send(machine, stream, [release]).json()["refused"]
    assert bool(refused) == (role is not Role.MECHANIC)
    assert is_open(me, machine, entry) == (role is not Role.MECHANIC or grade is Grade.HOLD)
    if role is Role.MECHANIC and grade is Grade.HOLD:
        own = me.entry("rechecked", [release["id"]], release=release["id"])
        me.send(machine, stream, [own])
        assert is_open(me, machine, entry), "not by the same person"
        other = people[Role.SUPERVISOR]
        other.send(machine, stream, [other.entry("rechecked", [release["id"]], release=release["id"])])
        assert not is_open(me, machine, entry)
    clean(people, machine, entry)


def clean(people: dict[Role, Device], machine: str, entry: str) -> None:
    """Leave nothing open for the next case."""
    dag, pell = people[Role.MECHANIC], people[Role.SUPERVISOR]
    for d in dag.open(machine):
        stream, what = (
            f"defect.{d['id']}",
            {"checkpoint": d["checkpoint"], "failure_mode": d["finding"]["failure_mode"]},
        )
        release = dag.entry("released", d["entries"], done="mended", **what)
        dag.send(machine, stream, [release])
        pell.send(machine, stream, [pell.entry("rechecked", [release["id"]], release=release["id"])])
    assert not is_open(dag, machine, entry)


WHAT: dict[str, dict[str, Any]] = {
    "opened": {"hour_meter": 20000.0, "options": []},
    "answered": {"checkpoint": "door", "answer": "sound"},
    "measured": {"checkpoint": "hydraulic-level", "seen": 0.5, "oil_c": 15, "pitch_deg": 0, "roll_deg": 0,
                 "extensions": {"boom": 0.1, "arm": 0, "bucket": 0}},
    "read": {"checkpoint": "engine-oil", "reading": "engine-oil", "given": {"seen": 0.5, "minutes": 600}},
    "arrived": {"station": "rear"},
    "noted": {"text": "t"},
    "photographed": {"checkpoint": "door"},
    "undone": {},
    "signed": {"covers": [], "outcome": "ready"},
    "joined": {},
    "handed-over": {"note": "n"},
    "stepped": {"step": "fit", "outcome": "done"},
    "engine": {"state": "stopped"},
    "remarked": {"sense": "noise", "colour": "amber"},
    "filled": {"fluid": "fuel", "litres": 20.0, "protected": True},
    "greased": {"point": "bucket-pins", "took": "greased", "strokes": 12, "hours": 6214.5},
    "abandoned": {"reason": "called away"},
    "released": {"checkpoint": "door", "failure_mode": "bend", "done": "mended"},
    "rechecked": {},
    "acknowledged": {"checkpoint": "door", "failure_mode": "bend"},
    "asked": {"checkpoint": "door", "failure_mode": "bend", "role": "mechanic", "note": "rain comes in"},
    "accepted": {"checkpoint": "door", "failure_mode": "bend", "reason": "one shift"},
    "putting-right": {"cure": "lower", "how": "bucket on the ground", "clear": True},
    "limits-accepted": {"limits": "0123456789abcdef", "reason": "by day"},
    "incident": {"what": "struck"},
    "worked-on": {"what": "serviced"},
    "examined": {"found": "looked all over it"},
    "isolated": {"checkpoint": "door", "failure_mode": "bend", "energies": [], "how": "locked"},
}  # fmt: skip


ANSWERS = {"rechecked": "release-unknown", "examined": "incident-unknown"}


@pytest.mark.parametrize("kind", [k.name for k in all_kinds() if k.stream != "file"])
@pytest.mark.parametrize("role", list(NAMES))
def test_every_kind_is_written_by_its_roles_alone(people: dict[Role, Device], kind: str, role: Role) -> None:
    declared = next(k for k in all_kinds() if k.name == kind)
    me = people[role]
    stream = f"defect.{me.new_id()}.0" if declared.stream == "defect" else me.new_id()
    ids = {"photographed": "photo", "undone": "target", "rechecked": "release", "examined": "incident"}
    what = WHAT[kind] | ({ids[kind]: me.new_id()} if kind in ids else {})
    refused = me.send("ex-02", stream, [me.entry(kind, **what)]).json()["refused"]
    if role not in declared.roles:
        assert [r["kind"] for r in refused] == ["not-your-role"]
    elif kind == "signed":
        assert [r["kind"] for r in refused] == ["entries-missing"]
    elif kind in ANSWERS:
        assert [r["kind"] for r in refused] == [ANSWERS[kind]], "nobody answers what has not been told"
    else:
        assert refused == []
    # Nor in a stream where it does not belong, whoever writes it.
    wrong = me.new_id() if declared.stream == "defect" else f"defect.{me.new_id()}.0"
    again = me.send("ex-02", wrong, [me.entry(kind, **what)]).json()["refused"]
    assert again[0]["kind"] == "wrong-stream"


@pytest.mark.parametrize("role", list(NAMES))
def test_the_machines_file_is_written_by_its_roles_alone(people: dict[Role, Device], role: Role) -> None:
    me = people[role]
    for kind in (k for k in all_kinds() if k.stream == "file"):
        body: dict[str, Any] = {"id": me.new_id(), "why": "dead", "reading": me.new_id(), "hours": None}
        match kind.name:
            case "filed":
                body = {"id": me.new_id(), "name": "EX-03", "model_id": "tolvane-e24", "options": ["beacon"]}
                reply = me.http.put("/api/machines/ex-03", json=body)
            case "meter-replaced":
                reply = me.http.post(
                    "/api/machines/ex-03/meter", json={"id": me.new_id(), "last": 1.0, "first": 9.0, "why": "w"}
                )
            case "meter-corrected":
                me.pin_again(body["id"])
                reply = me.http.post("/api/machines/ex-03/meter/correction", json=body)
            case "locked":
                reply = me.http.post("/api/machines/ex-04/locks", json={"id": me.new_id(), "why": "greasing"})
            case "unlocked":
                at = f"/api/machines/ex-04/locks/{me.new_id()}/off"
                reply = me.http.post(at, json={"id": me.new_id(), "reason": ""})
            case "good-shown":
                reply = me.http.delete("/api/machines/ex-03/good/door", params={"entry": me.new_id()})
            case _:
                reply = me.http.put("/api/machines/ex-03/photo", params={"photo": me.new_id()}, content=b"none")
        assert (reply.status_code == 403) == (role not in kind.roles), (kind.name, reply.text)
