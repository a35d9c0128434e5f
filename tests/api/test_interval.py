"""What is looked at every fifty hours: asked for when it is due, and left out when somebody really looked.

How it could hurt: somebody could not see it, and it rests all the same; a walk that nobody signed counts as a look; a
meter that was exchanged or typed too low hides that it is due; what leaks there is left out because it "rests".
"""

from __future__ import annotations

from typing import Any

from tests.device import Device

OIL, MACHINE = "slew-oil", "ex-02"
LOW = {"answer": "defect", "findings": [{"failure_mode": "contamination", "attributes": {}, "note": "grey"}]}


def asked(me: Device, **body: Any) -> dict[str, Any]:
    return dict(me.http.post(f"/api/machines/{MACHINE}/walk", json=body).raise_for_status().json())


def due(me: Device, **body: Any) -> bool:
    return any(c["id"] == OIL for c in asked(me, **body)["checkpoints"])


def test_it_rests_after_a_look_and_comes_again(tablet: Device) -> None:
    me, at = tablet, 20000.0
    assert due(me), "nobody knows when it was looked at"
    # Somebody who could not see it has not looked; nor has who never signs.
    me.whole(MACHINE, {OIL: {"answer": "unseen", "reason": "no rag"}}, hour_meter=at)
    assert due(me)
    look = me.new_id()
    assert me.send(MACHINE, look, me.walk(MACHINE, hour_meter=at + 1)).json()["refused"] == []
    assert due(me)
    me.send(MACHINE, look, [me.signature(look)]).raise_for_status()
    walk = asked(me)
    assert OIL not in {c["id"] for c in walk["checkpoints"]}
    (why,) = [b for b in walk["because"] if b["checkpoint"] == OIL]
    assert why["change"] == "removed"
    assert "20001 h" in why["says"]
    assert "20051 h" in why["says"]
    # The next one is whole without it, and says nothing of it later: it still rests since then.
    me.whole(MACHINE, hour_meter=at + 30)
    assert not due(me)
    assert me.yard(MACHINE)["go"] == "ready", "what rests is not missing"
    me.whole(MACHINE, hour_meter=at + 40)
    assert not due(me)
    assert due(me, purpose="after-service"), "a service opens it"
    # The file knows 20040 h; who reads 20045 on the meter is asked for it, whatever the page before said.
    look = me.new_id()
    opened = [me.opening(MACHINE, hour_meter=at + 45)]
    assert me.send(MACHINE, look, opened).json()["refused"] == []
    assert OIL in {c["id"] for c in asked(me, inspection=look)["checkpoints"]}


def test_what_is_open_there_never_rests(tablet: Device) -> None:
    me, at = tablet, 21000.0
    me.whole(MACHINE, {OIL: LOW}, hour_meter=at)
    assert due(me)
    me.whole(MACHINE, {OIL: LOW}, hour_meter=at + 1)
    assert due(me)
