"""Locks: nobody starts a machine that somebody works on.

How it could send somebody out, or crush who is underneath: a repair of something small that nobody sees at the start;
a second mechanic's word that takes the first one's lock off; an operator who takes off another's; a lock that goes
with a page or a session; one put on while it runs that nobody hears of.
"""

from __future__ import annotations

from tests.api.conftest import Tablets
from tests.api.test_defects import act, listed
from tests.api.test_runs import Plain, run_of, started
from tests.device import Device

WORN = {"answer": "defect", "findings": [{"failure_mode": "wear", "attributes": {"wear": "limit"}, "note": "n"}]}


def lock(me: Device, machine: str, why: str = "greasing under the arms", entry: str = "") -> tuple[int, Plain]:
    reply = me.http.post(f"/api/machines/{machine}/locks", json={"id": entry or me.new_id(), "why": why})
    return reply.status_code, dict(reply.json())


def off(me: Device, machine: str, which: str, reason: str = "") -> tuple[int, Plain]:
    body = {"id": me.new_id(), "reason": reason}
    reply = me.http.post(f"/api/machines/{machine}/locks/{which}/off", json=body)
    return reply.status_code, dict(reply.json())


def test_only_who_put_a_lock_takes_it_off_or_a_supervisor_who_says_how(tablets: Tablets) -> None:
    mira, osk, dag, pell, rolf = (tablets() for _ in range(5))
    for device, who in ((mira, "Mira"), (osk, "Osk"), (dag, "Dag"), (pell, "Pell"), (rolf, "Rolf")):
        device.sign_in(who)
    mira.whole("ex-02")
    assert run_of(mira, "ex-02")["gate"]["may"]
    first = osk.new_id()
    assert lock(osk, "ex-02", entry=first)[0] == 200
    assert lock(osk, "ex-02", entry=first)[0] == 200, "said again it is the same lock"
    assert lock(dag, "ex-02", "looking at the swivel")[0] == 200
    assert lock(mira, "ex-02", "x")[0] == 422, "what for is said"
    assert lock(rolf, "ex-02")[0] == 403
    gate = run_of(mira, "ex-02")["gate"]
    assert (gate["may"], gate["held"], len(gate["locks"])) == (False, True, 2)
    assert "greasing under the arms" in gate["why"]
    assert [x["yours"] for x in gate["locks"]] == [False, False]
    assert mira.yard("ex-02")["go"] == "held"
    again = mira.whole("ex-02")
    assert mira.yard("ex-02")["go"] == "held", "walked round it is locked all the same"
    assert "somebody works on it" in mira.look(again)["locked"]
    assert off(mira, "ex-02", first, "he told me to")[0] == 403
    assert off(dag, "ex-02", first, "he has gone home")[0] == 403
    status, problem = off(pell, "ex-02", first)
    assert (status, problem["field"]) == (422, "reason")
    assert off(pell, "ex-02", first, "reached him by phone, looked all round it")[0] == 200
    assert off(osk, "ex-02", first)[0] == 404, "it is off already"
    assert not run_of(mira, "ex-02")["gate"]["may"], "the other lock is still on"
    second = run_of(dag, "ex-02")["gate"]["locks"][0]
    assert (second["yours"], second["with_reason"]) == (True, False)
    assert off(dag, "ex-02", second["id"])[0] == 200
    assert run_of(mira, "ex-02")["gate"]["may"]
    file = mira.http.get("/api/machines/ex-02").json()
    kinds = [e["kind"] for e in file["entries"]]
    assert kinds[:4] == ["unlocked", "unlocked", "locked", "locked"]


def test_a_repair_of_something_small_locks_until_who_began_it_is_done(tablets: Tablets) -> None:
    mira, dag, other, pell = (tablets() for _ in range(4))
    mira.sign_in()
    dag.sign_in("Dag")
    pell.sign_in("Pell")
    admin = tablets()
    admin.sign_in("Rolf")
    new = {"id": "22222222-1111-4111-8111-111111111111", "name": "Bo Lund-Test", "role": "mechanic", "pin": "13579"}
    assert admin.http.post("/api/people", json=new).status_code == 201
    session = {"person": new["id"], "pin": new["pin"], "device": other.name, "new_pin": "730418"}
    assert other.http.post("/api/session", json=session).is_success
    other.by, other.pin = new["id"], "730418"
    mira.whole("ex-03", {"teeth": WORN})
    assert run_of(mira, "ex-03")["gate"]["may"], "worn teeth hold nobody up"
    defect = listed(dag, "ex-03")[0]
    assert act(dag, defect, "isolated", energies=[], note="isolator locked, arm on the ground").status_code == 200
    gate = run_of(mira, "ex-03")["gate"]
    assert (gate["may"], gate["held"]) == (False, True)
    assert gate["locks"][0]["repair"]
    assert act(other, listed(dag, "ex-03")[0], "released", note="teeth changed, pins in").status_code == 200
    assert not run_of(mira, "ex-03")["gate"]["may"], "another's word takes nobody's lock off"
    assert off(other, "ex-03", gate["locks"][0]["id"])[0] == 403
    assert off(dag, "ex-03", gate["locks"][0]["id"])[0] == 200
    assert run_of(mira, "ex-03")["gate"]["may"]


def test_a_lock_put_on_while_it_runs_stops_it(tablets: Tablets) -> None:
    mira, dag = tablets(), tablets()
    mira.sign_in()
    dag.sign_in("Dag")
    mira.whole("ld-05")
    stream = started(mira, "ld-05")
    assert lock(dag, "ld-05", "a hose is off at the rear")[0] == 200
    now = run_of(mira, "ld-05", stream)
    assert now["stand"] == "stop"
    assert "a hose is off" in now["says"]
