"""Many machines from one list: looked at first, then all or none; nothing that is on file is changed by it."""

from __future__ import annotations

import csv
import io
from typing import Any

import pytest

from jutrel.service.machine.machine_list import PART
from tests.api.conftest import Tablets
from tests.device import Device

HEAD = "number,model,options,hours,place,note,figures\n"
GOOD = (
    HEAD + "EX-21,tolvane-e24,beacon | Rear camera,6128.4,21,From the river job,"
    "oil-idle=95;bus-identification=TE24-00512\nRR-22,Sandvarn T9,,1960,22,,\n"
)


def take(me: Device, text: str, keep: bool = False, id_: str = "") -> dict[str, Any]:
    reply = me.http.post("/api/machine-list", json={"id": id_ or me.new_id(), "text": text, "keep": keep})
    return dict(reply.raise_for_status().json())


def does(news: dict[str, Any]) -> list[str]:
    return [x["does"] for x in news["lines"]]


def ids(me: Device) -> set[str]:
    return {m["machine"]["id"] for m in me.http.get("/api/yard").json()["machines"]}


def test_a_list_is_looked_at_then_taken_in_once(tablets: Tablets) -> None:
    me = tablets()
    me.sign_in("Dag")
    before = ids(me)
    assert does(take(me, GOOD)) == ["new", "new"]
    assert ids(me) == before, "it was only looked at"
    sending = me.new_id()
    news = take(me, GOOD, keep=True, id_=sending)
    assert (does(news), news["kept"]) == (["new", "new"], True)
    assert ids(me) == before | {"ex-21", "rr-22"}
    file = me.http.get("/api/machines/ex-21").json()
    assert file["own_limits"] == {"oil-idle": 95, "bus-identification": "TE24-00512"}
    assert (file["options"], file["meter"], file["note"]) == (["beacon", "rear-camera"], 6128.4, "From the river job")
    again = take(me, GOOD, keep=True, id_=sending)
    assert does(again) == ["same", "same"]
    assert len(me.http.get("/api/machines/ex-21").json()["entries"]) == 1, "sent twice, written once"
    # Nobody may drive one for that.
    assert me.yard("ex-21")["go"] == "uninspected"


@pytest.mark.parametrize(
    ("line", "column", "why"),
    [
        (",tolvane-e24,,,,", "number", "as it stands on its side"),
        ("EX-30,tolvane-e99,,,,", "model", "no model"),
        ("EX-30,tolvane-e24,wings,,,", "options", "wings"),
        ("EX-30,tolvane-e24,detection-outside,,,", "options", "person-detection"),
        ("EX-30,tolvane-e24,,6.128.4,,", "hours", "without a mark for thousands"),
        ("EX-30,tolvane-e24,,-5,,", "hours", "6128.4"),
        ("EX-30,tolvane-e24,,,x,", "place", "whole number"),
        ("---,tolvane-e24,,,,", "number", "letters or figures"),
        ("EX-21,tolvane-e24,,,,", "number", "same number"),
        ("EX-01,tolvane-e24,,,,", "options", "on its own page"),
        ("EX 01,tolvane-e24,,,,", "number", "too like 'EX-01'"),
        (f"{'X' * 41},tolvane-e24,,,,", "number", "40"),
        ("EX-30,tolvane-e24,,,,,rope-length=3", "figures", "rope-length"),
        ("EX-30,tolvane-e24,,,,,oil-idle", "figures", "name=value"),
        ("EX-30,tolvane-e24,,,,,oil-idle=90 | oil-idle=95", "figures", "twice"),
        ("EX-30,tolvane-e24,,,,,oil-idle=-90", "figures", "oil-idle"),
        (
            "LD-05,korveth-kw64,exhaust-fluid|rear-camera|quick-coupler|ride-control|secondary-steering|beacon,,,,"
            "tyre-cold-front=250",
            "figures",
            "on its own page",
        ),
    ],
)
def test_one_line_that_cannot_be_keeps_all_of_it_out(tablets: Tablets, line: str, column: str, why: str) -> None:
    """Lost so: half of a list on file; equipment, and its checkpoints with it, taken off by last year's list."""
    me = tablets()
    me.sign_in("Dag")
    before, options = ids(me), me.http.get("/api/machines/ex-01").json()["options"]
    news = take(me, GOOD + line + "\n", keep=True)
    assert not news["kept"]
    refused = [x for x in news["lines"] if x["does"] == "refused"]
    assert [(x["line"], x["field"]) for x in refused] == [(4, column)]
    assert why in refused[0]["says"]
    assert ids(me) == before
    assert me.http.get("/api/machines/ex-01").json()["options"] == options


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("", "number"),
        ("number;model\n", "no machine"),
        ("name;model\nEX-1;tolvane-e24\n", "no column is called 'name'"),
        ("number\nEX-1\n", "lacks the column 'model'"),
        ("number,number,model\na,b,c\n", "twice"),
        (HEAD + "EX-1,tolvane-e24,,,,\n" * 501, "500"),
    ],
)
def test_what_is_no_list_is_refused(tablets: Tablets, text: str, why: str) -> None:
    me = tablets()
    me.sign_in("Dag")
    reply = me.http.post("/api/machine-list", json={"id": me.new_id(), "text": text, "keep": True})
    assert (reply.status_code, reply.json()["field"]) == (422, "text")
    assert why in reply.json()["detail"]


def test_the_list_of_a_site_comes_in_again_as_it_is(tablets: Tablets) -> None:
    me = tablets()
    me.sign_in("Dag")
    take(me, HEAD + 'EX-40,tolvane-e24,,12,,"=SUM(A1); -1"\n', keep=True)
    out = me.http.get("/api/machine-list.csv")
    rows = list(csv.DictReader(io.StringIO(out.text)))
    assert {r["number"] for r in rows} == {m["machine"]["name"] for m in me.http.get("/api/yard").json()["machines"]}
    assert not any(cell.startswith(("=", "+", "-", "@")) for r in rows for cell in r.values()), "no formula goes out"
    assert set(does(take(me, out.text))) == {"same"}
    semicolons = "\ufeff" + "number;model;hours\nEX-41;tolvane-e24;12,5\n"
    take(me, semicolons, keep=True)
    assert me.http.get("/api/machines/ex-41").json()["meter"] == 12.5
    operator = tablets()
    operator.sign_in("Mira")
    assert operator.http.get("/api/machine-list.csv").status_code == 403
    body = {"id": operator.new_id(), "text": GOOD, "keep": True}
    assert operator.http.post("/api/machine-list", json=body).status_code == 403


def test_a_long_list_comes_in_part_by_part_and_goes_on_where_it_was_cut_off(tablets: Tablets) -> None:
    """Lost so: half of a list that nobody knows is only half; a request that lasts until somebody gives up on it."""
    me = tablets()
    me.sign_in("Dag")
    before, sending = ids(me), me.new_id()
    text = HEAD + "".join(f"BX-{n},tolvane-e24,,,,,\n" for n in range(2 * PART + 5))

    def part(after: int) -> dict[str, Any]:
        body = {"id": sending, "text": text, "keep": True, "after": after}
        return dict(me.http.post("/api/machine-list", json=body).raise_for_status().json())

    first = part(0)
    assert (first["kept"], first["next"]) == (False, PART + 1)
    assert len(ids(me) - before) == PART
    skipped = part(2 * PART + 1)
    assert (skipped["kept"], skipped["next"]) == (False, None), "what was left out is not on file"
    assert len(ids(me) - before) == PART + 5
    # Cut off: the answer was lost, or the page closed. The same list sent from its beginning takes in what is missing.
    again = part(0)
    assert again["kept"]
    assert len(ids(me) - before) == 2 * PART + 5
    assert all(len(me.http.get(f"/api/machines/{m}").json()["entries"]) == 1 for m in sorted(ids(me) - before)[::9])
    # A line that is refused by now stops the rest.
    more = text + "".join(f"BY-{n},tolvane-e24,,,,,\n" for n in range(PART + 1)) + "BX-1,korveth-kw64,,,,,\n"
    news = take(me, more, keep=True)
    assert not news["kept"]
    assert len(ids(me) - before) == 2 * PART + 5
