"""A machine's life: what stands in it, what was taken back, searched, by groups, page by page without a gap."""

from __future__ import annotations

from typing import Any

import pytest

from jutrel.service.machine import life as life_service
from tests.api.conftest import Tablets
from tests.api.test_incidents import tell
from tests.api.test_readings import GOOD, read
from tests.api.test_runs import begin, run_of


def life(tablet: Any, machine: str, **asked: Any) -> dict[str, Any]:
    return dict(tablet.http.get(f"/api/machines/{machine}/life", params=asked).raise_for_status().json())


def test_a_life_tells_what_was_found_done_and_changed(tablets: Tablets) -> None:
    mira = tablets()
    mira.sign_in("Mira")
    look = mira.new_id()
    sound = mira.entry("answered", checkpoint="boom", answer="sound")
    found = [{"failure_mode": "broken", "attributes": {"broken": "chip"}, "note": "a stone"}]
    worn = mira.entry("answered", checkpoint="mirror-right", answer="defect", findings=found)
    slip = mira.entry("answered", checkpoint="mirror-left", answer="defect", findings=found)
    back = mira.entry("undone", (slip["id"],), target=slip["id"], reason="wrong side")
    filled = read(mira, GOOD)
    filled["what"] = {**filled["what"], "put_right": {"done": "Filled up", "amount": "1.5 L"}}
    assert mira.send("ex-04", look, [mira.opening("ex-04"), sound, worn, slip, back, filled]).json()["refused"] == []
    tell(mira, "ex-04", "struck", note="the pile frame")

    told = life(mira, "ex-04")
    rows = [(e["group"], e["says"], e["words"], e["taken_back"]) for e in told["events"]]
    assert rows[0] == ("happened", "It hit something, or something hit it", "the pile frame", False)
    assert ("filled", "Put right: Engine oil", "Filled up 1.5 L", False) in rows
    reported = [(r[2], r[3]) for r in rows if r[1].startswith("Reported: ")]
    assert sorted(reported) == [("a stone", False), ("a stone", True)], "the slip stays, and is told as taken back"
    assert any(r[0] == "inspections" and "begun at" in r[1] for r in rows)
    assert not any("Boom" in r[1] for r in rows)
    assert told["before"] is None

    assert [e["says"] for e in life(mira, "ex-04", group="happened")["events"]] == [rows[0][1]]
    assert {e["words"] for e in life(mira, "ex-04", words="STONE mira")["events"]} == {"a stone"}
    assert life(mira, "ex-04", words="nothing-like-it")["events"] == []

    whole, paged, before = [e["entry"] for e in told["events"]], [], None
    for _ in range(len(whole) + 1):
        page = life(mira, "ex-04", limit=2, **({"before": before} if before else {}))
        paged += [e["entry"] for e in page["events"]]
        if (before := page["before"]) is None:
            break
    assert sorted(paged) == sorted(whole)
    assert len(set(paged)) == len(paged)

    assert mira.http.get("/api/machines/no-such/life").status_code == 404
    assert tablets().http.get("/api/machines/ex-04/life").status_code == 401
    es = mira.http.get("/api/machines/ex-04/life", params={"group": "happened"}, headers={"accept-language": "es"})
    assert es.json()["events"][0]["says"] != rows[0][1]


@pytest.mark.parametrize("batch", [1, 2, 3, 7])
def test_what_is_greased_in_one_run_is_told_once(tablets: Tablets, monkeypatch: pytest.MonkeyPatch, batch: int) -> None:
    """However the log is read in batches and pages, and where two grease the same machine at once."""
    mira, osk = tablets(), tablets()
    for me, who in ((mira, "Mira"), (osk, "Osk")):
        me.sign_in(who)
    mira.whole("gr-09")
    looks = {id(me): begin(me, "gr-09") for me in (mira, osk)}
    steps = run_of(mira, "gr-09", looks[id(mira)])["steps"]
    points = [p["id"] for s in steps for p in s["points"]][:4]
    assert len(points) == 4
    last = {}
    for n, point in enumerate(points):
        for me in (mira, osk)[:: 1 if n % 2 else -1]:
            entry = me.entry("greased", point=point, took="greased", strokes=4, hours=5000.0)
            assert me.send("gr-09", looks[id(me)], [entry]).json()["refused"] == []
            last[me.by] = entry
    osk.send("gr-09", looks[id(osk)], [osk.entry("undone", target=last[osk.by]["id"], reason="missed it")])

    monkeypatch.setattr(life_service, "BATCH", batch)
    said, before = [], None
    for _ in range(40):
        page = life(mira, "gr-09", limit=1, group="filled", **({"before": before} if before else {}))
        said += [(e["by"], e["says"]) for e in page["events"]]
        if (before := page["before"]) is None:
            break
    assert sorted(n for _, n in said) == ["3 places greased", "4 places greased"], said
