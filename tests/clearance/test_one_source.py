"""What says ready, held, limited or until when comes from clearance: pages, lists, runs and exports say the same."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import pytest
from fastapi.testclient import TestClient

from jutrel.api.app import make_app
from jutrel.core.clearance.answer import Act, Clearance, ClearanceAnswer, Unproven
from jutrel.core.clearance.go import go_of
from jutrel.core.grading.grade import Grade
from jutrel.core.wording import as_written
from jutrel.service.clearance import clearance
from jutrel.service.inspection.look import standing
from jutrel.service.machine import yard
from jutrel.service.procedure.run import machine_run
from jutrel.settings import Settings
from tests.api.test_runs import run_of
from tests.clearance.conftest import Told
from tests.clearance.world import PEOPLE, Asked, History, World, histories
from tests.clearance.yard import Yard
from tests.conftest import CATALOG, ROOT, _copy

ASKS = [h for h in histories() if h.asked]
KNOWN = {
    "GateOut": {"go", "may", "held", "valid_until", "valid_until_hour"},
    "RunOut": {"ready_to_start", "ready_to_work", "may_crank"},
    "YardMachineOut": {"go", "valid_until", "cleared_for"},
    "WithinOut": {"may"},
    "InspectionOut": {"locked"},
    "WalkOut": {"clears_not"},
    # What an inspection found and until when that holds by the clock, not what may be done now.
    "VerdictOut": {"outcome", "valid_until", "valid_until_hour"},
    "RecordVerdict": {"outcome", "valid_until", "valid_until_hour"},
    "InspectionRowOut": {"outcome"},
    # What somebody signed that day, in the machine's life.
    "LifeEventOut": {"outcome"},
    "Record": {"holds_until"},
    "KindOut": {"clears"},
    # What a person may do about a defect, and what their role lets them do.
    "OpenDefectOut": {"may"},
    "SessionOut": {"may"},
    "SignedInOut": {"may"},
}
"""By what is sent: the fields that say whether a machine may be started or work, or until when. Each is tried below, or
says something else, as it is told here."""


SAYS = re.compile(
    r"go|may|held|locked|may_(start|crank|work|go).*|ready_to_.*|holds_until|(valid|cleared|clears|outcome)(_.*)?"
)
BESIDE = {"Signed", "Stepped"}
"""What a person writes, not what is told."""


def test_every_field_that_says_so_is_known() -> None:
    document = json.loads((ROOT / "web/src/api/openapi.json").read_text())
    said = {
        n: {f for f in s.get("properties", {}) if SAYS.fullmatch(f)}
        for n, s in document["components"]["schemas"].items()
    }
    assert {n: f for n, f in said.items() if f and n not in BESIDE} == KNOWN


# --- the same everywhere, in each history that was judged by hand


async def told_elsewhere(world: World, q: Asked) -> tuple[Any, Any, Any]:
    """The machine's card in the yard, its run for whoever asks, and the verdict of the inspection that clears it."""
    async with world.store.transaction() as db:
        here = await world.here(db)
        card = next(y for y in await yard.yard(here) if y.unit.id == world.machine)
        r = await machine_run(here, world.machine, asks=PEOPLE[q.who])
        whole = card.unit.newest.whole
        verdict = (await standing(here, whole)).verdict if whole else None
        return card, r, verdict


@pytest.mark.parametrize("history", ASKS, ids=lambda h: h.name)
def test_the_yard_the_run_and_the_verdict_say_what_clearance_says(told: Told, history: History) -> None:
    last = max(history.asked, key=lambda q: q.when)
    early = [a for a in history.acts if a.when <= last.when]
    answers, world = told(early, [q for q in history.asked if q.when == last.when])
    world.now = last.when
    for q, c in answers:
        card, r, verdict = told.loop.run_until_complete(told_elsewhere(world, q))
        assert r.gate.may == c.start.may
        assert r.gate.held == c.start.held or c.start.ended
        assert (r.gate.until, r.gate.until_hour) == (c.start.until, c.start.until_hour)
        assert (PEOPLE[q.who] in card.clearance.whose) == (c.start.may and q.who in _walked(card, world))
        assert card.go == r.go == go_of(card.clearance)
        if c.start.may and verdict is not None and card.unit.newest.whole == card.unit.newest.cleared:
            assert verdict.valid_until == c.start.until


def _walked(card: Any, world: World) -> set[str]:
    names = {i: n for n, i in PEOPLE.items()}
    return {names[p] for p in card.clearance.whose}


# --- whatever clearance says is what is said


MARK = as_written("Nobody may do anything with it, says the test.")


def refuses(real: Any) -> Any:
    def clearance(*args: Any) -> Clearance:
        found: Clearance = real(*args)
        lack = Unproven("test", MARK, Act.WALK)
        no = ClearanceAnswer((), (lack,), ("test",))
        return replace(found, start=no, work=no, why=MARK, whose=frozenset(), shared=(MARK,), grade=Grade.HOLD)

    return clearance


@pytest.fixture(scope="module")
def site(request: pytest.FixtureRequest) -> Iterator[Yard]:
    cluster, template = request.getfixturevalue("cluster"), request.getfixturevalue("bare_template")
    app = make_app(Settings(database_url=_copy(cluster, template)), CATALOG)
    with TestClient(app, base_url="http://yard.test") as http:
        yield Yard(http)


def test_a_clearance_that_refuses_is_told_everywhere(site: Yard, monkeypatch: pytest.MonkeyPatch) -> None:
    me, machine = site.tablet("Mira"), site.machine()
    look = me.whole(machine)
    before = (me.yard(machine)["go"], run_of(me, machine)["gate"]["may"], me.look(look)["locked"])
    assert before == ("ready", True, "")
    for module in (clearance, yard):
        monkeypatch.setattr(module, "clearance", refuses(module.clearance))
    # Written once more, so that nothing is told from memory.
    site.refile(machine, note="the same machine")
    card, now = me.yard(machine), run_of(me, machine)
    assert (card["go"], card["why"], card["valid_until"], card["cleared_for"]) == ("uninspected", str(MARK), None, [])
    gate = now["gate"]
    assert (gate["go"], gate["may"], gate["valid_until"]) == ("uninspected", False, None)
    assert (now["ready_to_start"], now["ready_to_work"], now["may_crank"]) == (False, False, False)
    assert str(MARK) in now["missing"]
    assert me.look(look)["locked"] == str(MARK)
    assert me.http.get(f"/api/limits?machine={machine}").json()[0]["says"] == [str(MARK)]
    body = {"purpose": "change-of-operator"}
    walk = me.http.post(f"/api/machines/{machine}/walk", json=body).raise_for_status().json()
    assert walk["clears_not"] == str(MARK)
