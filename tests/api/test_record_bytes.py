"""A record is the same bytes whoever makes it: a server that keeps its entries in mind, and one that just began."""

from __future__ import annotations

from tests.conftest import Serve
from tests.device import Device
from tests.patience import client


def test_a_server_that_just_began_makes_the_same_record(bare: str, serve: Serve) -> None:
    """With what others wrote of the defect beside the walk, and each entry linked to the one before it."""
    base = serve(bare)
    mira, dag = Device(client(base)), Device(client(base))
    mira.sign_in("Mira")
    dag.sign_in("Dag")
    walk = mira.new_id()
    damp = {"failure_mode": "leak", "attributes": {"leak_class": "I", "coupling": "other"}, "note": "damp"}
    leak = mira.entry("answered", checkpoint="arm-cylinder", answer="defect", findings=[damp])
    taken = mira.send("ex-01", walk, [mira.opening("ex-01"), mira.entry("arrived", station="approach"), leak]).json()
    assert taken["refused"] == []
    defect = next(d for d in dag.http.get("/api/defects").json()["defects"] if d["machine"] == "ex-01")
    seen = {"id": dag.new_id(), "kind": "acknowledged", "seen": [leak["id"]], "note": "Ordered."}
    dag.http.post(f"/api/machines/ex-01/defects/{defect['id']}/acts", json=seen).raise_for_status()
    address = f"/api/inspections/{walk}/record.json"
    kept = mira.http.get(address).raise_for_status()
    began = client(serve(bare), cookies=mira.http.cookies).get(address).raise_for_status()
    assert began.content == kept.content
    told = kept.json()
    entries = sorted([*told["entries"], *told["others"]], key=lambda e: e["seq"])
    assert len(entries) > 3
    hashes = {e["seq"]: e["hash"] for e in entries}
    assert all(len(e["prev"]) == 64 for e in entries), [e["prev"] for e in entries]
    assert all(e["prev"] == hashes.get(e["seq"] - 1, e["prev"]) for e in entries)
