"""How honestly a walk was walked: times from the log, only what was too fast is called so, asks nobody foresees."""

from __future__ import annotations

from datetime import timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jutrel.core.defect.settle import Court
from jutrel.core.inspection.finding import Answer, Conditions
from jutrel.core.inspection.kinds import Answered, Arrived, Opened, Photographed
from jutrel.core.inspection.look import fold_look
from jutrel.core.inspection.pace import ASKS, HURRIED, Pace, pace_of, show_me
from jutrel.core.log.entry import Entry
from jutrel.core.machine.family import How
from tests.walks import MIRA, MODEL, START, walk_with

WALK = walk_with(MODEL.options)
INSPECTION = "019df048-dc00-7000-8000-000000000001"


def log(factor: dict[str, float], pause_at: str | None = None) -> list[Entry]:
    """A walk whose looks take `factor` times the planned seconds, station by station (else as planned)."""
    at, number, out = START, 0, []

    def add(what: object) -> None:
        nonlocal number
        number += 1
        out.append(Entry(f"{number:06}", "ex-01", "look", MIRA, at, what))

    add(Opened(1.0, Conditions(), WALK.options))
    for station in WALK.stations:
        at += timedelta(seconds=5)
        add(Arrived(station.id))
        if station.id == pause_at:
            at += timedelta(hours=1)
        for c in WALK.at(station.id):
            at += timedelta(seconds=c.seconds * factor.get(station.id, 1.0))
            add(Answered(c.id, Answer.SOUND))
    return out


def pace(entries: list[Entry]) -> Pace:
    return pace_of(INSPECTION, fold_look(entries, Court(entries, ())), entries, WALK)


@given(st.dictionaries(st.sampled_from([s.id for s in WALK.stations]), st.floats(0.01, 3.0)))
def test_only_what_was_too_fast_is_called_so(factor: dict[str, float]) -> None:
    seen = pace(log(factor))
    assert seen.planned_s == WALK.seconds
    for station in seen.stations:
        share = factor.get(station.station, 1.0)
        assert station.taken_s == pytest.approx(station.planned_s * share, abs=0.01)
        if abs(share - HURRIED) > 0.01:
            assert station.hurried == (share < HURRIED)
    assert seen.taken_s == pytest.approx(sum(s.taken_s or 0 for s in seen.stations))


def test_a_break_is_no_look() -> None:
    slow, usual = pace(log({}, pause_at="rear")), pace(log({}))
    rear = next(c for c in WALK.at("rear"))
    assert slow.taken_s == pytest.approx(usual.taken_s - rear.seconds)


def test_what_is_asked_to_be_shown() -> None:
    asked = show_me(INSPECTION, WALK)
    assert len(asked) == ASKS == len(set(asked))
    assert asked == show_me(INSPECTION, WALK)  # the same on every device
    many = {c for n in range(200) for c in show_me(f"walk-{n}", WALK)}
    fit = {c.id for c in WALK.checkpoints if c.mandatory and not c.reading and c.how_kind in (How.LOOK, How.READ)}
    assert many <= fit
    assert len(many) > 0.9 * (len(fit) - len(WALK.at("approach")))  # nobody can know which
    entries = log({})
    shown = Entry("999999", "ex-01", "look", MIRA, START + timedelta(hours=1), Photographed("p", asked[0]))
    assert [a.shown for a in pace([*entries, shown]).asks] == [True, False]
