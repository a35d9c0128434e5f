"""The verdict: what forbids 'ready', what is carried, who releases it."""

from __future__ import annotations

import random
from typing import Any

import pytest

from jutrel.core.grading.grade import Grade
from jutrel.core.grading.verdict import Outcome, open_findings
from jutrel.core.plain import to_plain
from tests.walks import DAG, MIRA, MODEL, START, Plain, defect, entry, verdict_of, walked

FLAT = {"leak_class": "II", "fluid": "hydraulic-oil", "coupling": "flat-face", "pressurised": True}
UNSEEN = {"answer": "unseen", "reason": "water"}


def signed(log: list[Plain], by: str = MIRA, outcome: str = "ready") -> list[Plain]:
    return [*log, entry(900, "signed", {"covers": [e["id"] for e in log], "outcome": outcome}, by)]


def carried(point: str, mode: str, grade: str, **more: Any) -> list[Plain]:
    return [
        {
            "checkpoint": point,
            "finding": {"failure_mode": mode, "attributes": {}, "note": ""},
            "grade": grade,
            "since": START.isoformat(),
            "by": MIRA,
            "reports": 1,
            "unmended": 1,
            "due_hour": None,
            **more,
        }
    ]


@pytest.mark.parametrize(
    ("answers", "outcome", "words"),
    [
        ({}, Outcome.READY, "Nothing stands against"),
        ({"teeth": defect("wear", wear="half")}, Outcome.READY, "Look again at: Teeth"),
        ({"teeth": defect("wear", wear="limit")}, Outcome.READY_MENDS_DUE, "by 6239 h"),
        ({"sag-left": defect("tension", tension="far")}, Outcome.LIMITED, "within limits"),
        ({"drive-covers": UNSEEN}, Outcome.LIMITED, "mandatory and could not be seen"),
        ({"slew-bolts": UNSEEN}, Outcome.HELD, "a life depends on it"),
        ({"toolbox": UNSEEN}, Outcome.READY, "Look again at: Toolbox"),
        ({"equipment-hoses": defect("leak", **FLAT)}, Outcome.HELD, "do not tighten"),
        ({"hydraulic-level": {"seen": -0.2}}, Outcome.READY, "Hydraulic level"),
        ({"hydraulic-level": {"seen": -0.9}}, Outcome.HELD, "out of sight"),
        ({"hydraulic-level": {"seen": 1.3}}, Outcome.READY_MENDS_DUE, "Hydraulic level"),
        ({"hydraulic-level": {"pitch_deg": 4.0}}, Outcome.INCOMPLETE, "Move to level ground"),
        ({"hydraulic-level": {"oil_c": 60.0}}, Outcome.INCOMPLETE, "Wait until the oil has cooled"),
    ],
)
def test_outcomes(answers: dict[str, Plain], outcome: Outcome, words: str) -> None:
    verdict = verdict_of(walked(answers))
    assert verdict.outcome is outcome, verdict.why
    assert words in verdict.why
    assert bool(verdict.limits) == (outcome is Outcome.LIMITED)


def test_a_mandatory_checkpoint_left_out_is_never_ready() -> None:
    rng = random.Random(3)
    mandatory = [c.id for c in MODEL.family.checkpoints if c.mandatory and c.option is None]
    for point in rng.sample(mandatory, 12):
        verdict = verdict_of(walked(leave=(point,)))
        assert verdict.outcome is Outcome.INCOMPLETE
        assert verdict.left == (point,)
    assert verdict_of(walked(leave=("toolbox",))).outcome is Outcome.READY
    # A Hold stands above what is left.
    assert verdict_of(walked({"boom": defect("crack", crack_where="parent")}, leave=("door",))).outcome is Outcome.HELD


def test_combinations() -> None:
    both = {
        "coolant-level": defect("level", low_level="low"),
        "engine-oil": defect("contamination", dirt_in_fluid="trace"),
    }
    verdict = verdict_of(walked(both))
    assert verdict.outcome is Outcome.HELD
    assert verdict.combined[0].rule == "combine.coolant-in-oil"
    wear = defect("wear", wear="three-quarters")
    three = verdict_of(walked(dict.fromkeys(("links-left", "links-right", "rollers-left"), wear)))
    assert three.outcome is Outcome.LIMITED
    assert "3 mends on one system (Tracks)" in three.combined[0].says
    nine = {p: defect("sign", legible="faded") for p in ("signs-left",)} | {
        p: defect("dirty", dirt="light")
        for p in (
            "cooling-pack",
            "air-cleaner",
            "rollers-left",
            "rollers-right",
            "sag-left",
            "sag-right",
            "cab-filter",
            "grease-bank",
        )
    }
    assert verdict_of(walked(nine)).outcome is Outcome.LIMITED
    nine.pop("grease-bank")
    assert verdict_of(walked(nine)).outcome is Outcome.READY


def test_two_that_stand_in_for_one_another() -> None:
    chip = defect("broken", broken="cracked")
    one = verdict_of(walked({"mirror-left": chip}, options=("side-camera",)), ("side-camera",))
    both = verdict_of(walked({"mirror-left": chip, "camera-left": chip}, options=("side-camera",)), ("side-camera",))
    assert max(i.grade for i in both.items) is one.items[0].grade.raised()
    assert "raise.backup" in [t.rule for t in both.items[0].trace]


@pytest.mark.parametrize(
    ("grade", "role", "outcome"),
    [
        ("watch", "operator", Outcome.READY),
        ("mend", "operator", Outcome.READY_MENDS_DUE),
        ("mend", "mechanic", Outcome.READY),
        ("limit", "operator", Outcome.LIMITED),
        ("limit", "mechanic", Outcome.READY),
        ("hold", "operator", Outcome.HELD),
        ("hold", "mechanic", Outcome.READY),
    ],
)
def test_what_is_carried_needs_somebody_entitled(grade: str, role: str, outcome: Outcome) -> None:
    log = walked(roles={"boom": role}, carried=carried("boom", "crack", grade))
    verdict = verdict_of(signed(log))
    assert verdict.outcome is outcome
    if outcome is not Outcome.READY:
        assert verdict.items[0].trace[-1].rule == "carried.open"
        assert verdict.items[0].carried


def test_who_releases_a_hold_does_not_sign_it() -> None:
    log = walked(roles={"boom": "mechanic"}, carried=carried("boom", "crack", "hold"))
    assert verdict_of(log).released[0].other_must_sign
    assert verdict_of(signed(log, by=DAG)).outcome is Outcome.HELD
    assert verdict_of(signed(log, by=MIRA)).outcome is Outcome.READY


def test_a_milder_look_does_not_lower_what_is_open() -> None:
    milder = {"boom": defect("crack", crack_where="paint")}
    log = walked(milder, carried=carried("boom", "crack", "hold"))
    assert verdict_of(log).items[0].grade is Grade.HOLD
    by_mechanic = walked(milder, roles={"boom": "mechanic"}, carried=carried("boom", "crack", "hold"))
    assert verdict_of(by_mechanic).items[0].grade < Grade.HOLD
    # Nor does a mechanic ease a Hold and sign it alone.
    assert verdict_of(signed(by_mechanic, by=DAG)).outcome is Outcome.HELD
    assert verdict_of(signed(by_mechanic, by=MIRA)).outcome is Outcome.READY_MENDS_DUE
    # Another defect at the same place does not release the first.
    other = walked(
        {"boom": defect("bend", bend="dent")}, roles={"boom": "mechanic"}, carried=carried("boom", "crack", "hold")
    )
    assert verdict_of(other).outcome is Outcome.HELD


def test_finding_it_again_buys_no_time_and_is_counted() -> None:
    log = walked({"teeth": defect("wear", wear="limit")}, carried=carried("teeth", "wear", "mend", due_hour=6215.0))
    item = verdict_of(log).items[0]
    assert item.due_hour == 6215.0
    assert (item.reports, item.unmended) == (2, 2)
    assert open_findings(verdict_of(log))[0].reports == 2


def test_unseen_is_not_carried_as_a_defect() -> None:
    assert open_findings(verdict_of(walked({"slew-bolts": UNSEEN}))) == ()


def test_validity() -> None:
    verdict = verdict_of(signed(walked(conditions={"shift_hours": 8.0})))
    assert verdict.valid_until is not None
    assert verdict.valid_until.isoformat() == "2026-05-04T14:15:00+00:00"
    assert verdict.valid_until_hour == pytest.approx(6224.3)
    assert verdict_of(walked()).valid_until is None


def test_plain_form_holds_everything() -> None:
    plain = to_plain(verdict_of(walked({"equipment-hoses": defect("leak", **FLAT)})))
    assert plain["items"][0]["grade"] == "hold"
    assert plain["levels"][0][0] == "hydraulic-level"
    assert plain["rulebook"].startswith("1-")
