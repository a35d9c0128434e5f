"""The verdict: what forbids 'ready', what is carried, who releases it."""

from __future__ import annotations

import random
from datetime import timedelta
from typing import Any

import pytest

from jutrel.core.defect.report import Report
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.verdict import Outcome
from jutrel.core.inspection.finding import Finding
from jutrel.core.log.codec import encode
from jutrel.core.people import Role
from tests.walks import DAG, MIRA, MODEL, START, Plain, defect, entry, heard, verdict_of, walked

FLAT = {"leak_class": "II", "fluid": "hydraulic-oil", "coupling": "flat-face", "pressurised": True}
UNSEEN = {"answer": "unseen", "reason": "water"}


def signed(log: list[Plain], by: str = MIRA, outcome: str = "ready") -> list[Plain]:
    return [*log, entry(900, "signed", {"covers": [e["id"] for e in log], "outcome": outcome}, by)]


def earlier(point: str, mode: str, grade: str, **more: Any) -> list[Report]:
    """A report of an earlier look that is still open."""
    of = Grade.of(grade)
    fields: dict[str, Any] = {
        "entry": f"earlier-{point}-{mode}",
        "index": 0,
        "look": "before",
        "checkpoint": point,
        "slot": 0,
        "finding": Finding(mode),
        "grade": of,
        "as_found": of,
        "why": "It was seen.",
        "limits": (),
        "within_hours": None,
        "by": MIRA,
        "role": Role.OPERATOR,
        "at": START - timedelta(days=1),
        "shift_start": START - timedelta(days=1),
        "shift_hours": 10.0,
        "hours": 6200.0,
        "may_put_right": False,
        **more,
    }
    return [Report(**fields)]


@pytest.mark.parametrize(
    ("answers", "outcome", "words"),
    [
        ({}, Outcome.READY, "Nothing stands against"),
        ({"teeth": defect("wear", wear="half")}, Outcome.READY, "Look again at: Teeth"),
        ({"teeth": defect("wear", wear="limit")}, Outcome.READY_MENDS_DUE, "by 6239 h"),
        ({"sag-left": defect("tension", tension="far")}, Outcome.HELD, "only to where the track is set"),
        ({"links-left": defect("pin-out", pin_out="proud")}, Outcome.LIMITED, "within limits"),
        ({"drive-covers": UNSEEN}, Outcome.LIMITED, "mandatory and could not be seen"),
        ({"slew-bolts": UNSEEN}, Outcome.HELD, "a life depends on it"),
        ({"toolbox": UNSEEN}, Outcome.READY, "Look again at: Toolbox"),
        ({"equipment-hoses": defect("leak", **FLAT)}, Outcome.HELD, "do not tighten"),
        ({"hydraulic-level": {"seen": -0.2}}, Outcome.HELD, "Before it starts: filled"),
        ({"hydraulic-level": {"seen": -0.9}}, Outcome.HELD, "The fluid went somewhere"),
        ({"hydraulic-level": {"seen": 1.3}}, Outcome.READY_MENDS_DUE, "Hydraulic level"),
        ({"hydraulic-level": {"pitch_deg": 4.0}}, Outcome.INCOMPLETE, "Move to level ground"),
        ({"hydraulic-level": {"oil_c": 60.0}}, Outcome.INCOMPLETE, "Wait until the oil has cooled"),
    ],
)
def test_outcomes(answers: dict[str, Plain], outcome: Outcome, words: str) -> None:
    verdict = verdict_of(walked(answers))
    assert verdict.outcome is outcome, verdict.why
    assert words in str(verdict.why)
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
    assert "3 mends on one system (Tracks)" in str(three.combined[0].says)
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
    gone, chip = defect("broken", broken="view-lost"), defect("broken", broken="cracked")
    options = ("side-camera",)
    one = verdict_of(walked({"mirror-left": gone}, options=options))
    both = verdict_of(walked({"mirror-left": gone, "camera-left": gone}, options=options))
    assert max(i.grade for i in both.items) is one.items[0].grade.raised()
    assert "raise.backup" in [t.rule for t in both.items[0].trace]
    # A cracked one still shows something: only what is really out counts.
    cracked = verdict_of(walked({"mirror-left": gone, "camera-left": chip}, options=options))
    assert max(i.grade for i in cracked.items) is one.items[0].grade
    worn = verdict_of(walked({"mirror-left": chip, "camera-left": chip}, options=options))
    assert worn.outcome is Outcome.READY_MENDS_DUE


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
def test_what_is_open_needs_somebody_entitled(grade: str, role: str, outcome: Outcome) -> None:
    before = earlier("boom", "crack", grade)
    log = walked(roles={"boom": role}, earlier=before)
    verdict = verdict_of(signed(log), before)
    assert verdict.outcome is outcome
    if outcome is not Outcome.READY:
        assert verdict.items[0].trace[-1].rule == "carried.open"
        assert verdict.items[0].carried
        assert [i.by for i in verdict.ignored] == [MIRA]
        assert "mechanic releases it" in str(verdict.ignored[0].says)


def test_who_had_not_seen_it_does_not_clear_it() -> None:
    """A 'sound' of somebody whose page did not show the report says nothing of it, whoever it is."""
    for grade in ("watch", "mend", "hold"):
        log = walked(roles={"boom": "mechanic"})
        assert verdict_of(signed(log), earlier("boom", "crack", grade)).items[0].grade >= Grade.of(grade)


def test_who_releases_a_hold_does_not_sign_it() -> None:
    before = earlier("boom", "crack", "hold")
    log = walked(roles={"boom": "mechanic"}, earlier=before)
    assert verdict_of(log, before).released[0].other_must_sign
    assert verdict_of(signed(log, by=DAG), before).outcome is Outcome.HELD
    assert verdict_of(signed(log, by=MIRA), before).outcome is Outcome.READY


def test_a_milder_look_does_not_lower_what_is_open() -> None:
    milder, before = {"boom": defect("crack", crack_where="paint")}, earlier("boom", "crack", "hold")
    log = walked(milder, earlier=before)
    assert verdict_of(log, before).items[0].grade is Grade.HOLD
    by_mechanic = walked(milder, roles={"boom": "mechanic"}, earlier=before)
    assert verdict_of(by_mechanic, before).outcome is Outcome.HELD  # it waits for another person
    # Nor does a mechanic ease a Hold and sign it alone.
    assert verdict_of(signed(by_mechanic, by=DAG), before).outcome is Outcome.HELD
    assert verdict_of(signed(by_mechanic, by=MIRA), before).outcome is Outcome.READY
    # Another defect at the same place does not release the first.
    other = walked({"boom": defect("bend", bend="dent")}, roles={"boom": "mechanic"}, earlier=before)
    assert verdict_of(signed(other), before).outcome is Outcome.HELD


def test_finding_it_again_buys_no_time_and_is_counted() -> None:
    before = earlier(
        "teeth", "wear", "mend", hours=6190.0, within_hours=25.0, finding=Finding("wear", {"wear": "limit"})
    )
    item = verdict_of(walked({"teeth": defect("wear", wear="limit")}, earlier=before), before).items[0]
    assert item.due_hour == 6215.0
    assert (item.reports, item.unmended, item.carried) == (2, 2, False)


@pytest.mark.parametrize(
    "answer", [defect("wear", wear="limit"), {"answer": "sound"}, {"answer": "unseen", "reason": "mud"}]
)
def test_overdue_speaks_whatever_is_tapped(answer: Plain) -> None:
    """Reported again, tapped sound or not seen: an overdue Mend is the same Limit until a mechanic looked."""
    before = earlier(
        "teeth", "wear", "mend", hours=6100.0, within_hours=25.0, finding=Finding("wear", {"wear": "limit"})
    )
    item = next(i for i in verdict_of(walked({"teeth": answer}, earlier=before), before).items if i.defect)
    assert item.grade is Grade.LIMIT
    assert "raise.overdue" in [t.rule for t in item.trace]


def test_three_looks_in_one_shift_are_one_shift() -> None:
    finding = Finding("wear", {"wear": "limit"})
    same = [earlier("teeth", "wear", "mend", entry=f"e{n}", look=f"l{n}", at=START - timedelta(hours=5 - n),
                    shift_start=START - timedelta(hours=5 - n), finding=finding)[0] for n in range(3)]  # fmt: skip
    assert verdict_of(walked(earlier=same), same).items[0].unmended == 1
    days = [earlier("teeth", "wear", "mend", entry=f"e{n}", look=f"l{n}", at=START - timedelta(days=3 - n),
                    shift_start=START - timedelta(days=3 - n), finding=finding)[0] for n in range(2)]  # fmt: skip
    # The third shift counts whether it is reported again or tapped sound without a right to it.
    for answer in (defect("wear", wear="limit"), {"answer": "sound"}):
        item = verdict_of(walked({"teeth": answer}, earlier=days), days).items[0]
        assert (item.unmended, item.grade) == (3, Grade.LIMIT)


def test_two_of_one_mode_at_one_place_are_two() -> None:
    both = {"answer": "defect", "findings": [
        {"failure_mode": "crack", "attributes": {"crack_where": "parent"}},
        {"failure_mode": "crack", "attributes": {"crack_where": "paint"}}]}  # fmt: skip
    out = heard(walked({"boom": both}))
    assert [(d.key, d.grade) for d in out.defects] == [
        (("boom", "crack", 0), Grade.HOLD),
        (("boom", "crack", 1), Grade.WATCH),
    ]


def test_what_limits_it_is_still_said_the_next_day() -> None:
    before = earlier(
        "lamps-boom",
        "inoperative",
        "limit",
        limits=("Daylight only.",),
        finding=Finding("inoperative", {"works": "dead"}),
    )
    verdict = verdict_of(signed(walked(earlier=before)), before)
    assert verdict.outcome is Outcome.LIMITED
    assert "Daylight only." in map(str, verdict.limits)


def test_unseen_is_no_defect() -> None:
    assert heard(walked({"slew-bolts": UNSEEN})).defects == ()


def test_an_empty_glass_is_a_hold_whatever_posture_and_oil_would_explain() -> None:
    empty = {"hydraulic-level": {"seen": -1.0, "oil_c": -10.0, "extensions": {"boom": 0.9, "arm": 0.9, "bucket": 0.9}}}
    verdict = verdict_of(walked(empty))
    assert verdict.outcome is Outcome.HELD
    assert "No oil shows in the glass" in str(verdict.levels[0][1].judgement.action)


def test_a_leak_empties_what_stands_in_the_tank_now_and_no_other() -> None:
    drops = defect("leak", leak_class="III", fluid="hydraulic-oil", coupling="other", drops=30, seconds=60)
    full = verdict_of(
        walked(
            {"boom-cylinders": drops}
            if "boom-cylinders" in {c.id for c in MODEL.family.checkpoints}
            else {"arm-cylinder": drops}
        )
    )
    low = verdict_of(walked({"arm-cylinder": drops, "hydraulic-level": {"seen": 0.02}}))
    hours = [next(i.leak.hours_to_add for i in v.items if i.leak) for v in (full, low)]
    assert hours[0] is not None
    assert hours[1] is not None
    assert hours[1] < hours[0] / 10
    # A track roller holds its own oil: the final drive's litres are not its own.
    roller = verdict_of(
        walked({"rollers-left": defect("leak", leak_class="III", fluid="gear-oil", drops=30, seconds=60)})
    )
    assert next(i.leak.hours_to_add for i in roller.items if i.leak) is None


def test_validity() -> None:
    verdict = verdict_of(signed(walked(conditions={"shift_hours": 8.0})))
    assert verdict.valid_until is not None
    assert verdict.valid_until.isoformat() == "2026-05-04T14:00:00+00:00", "counted from its beginning"
    assert verdict.valid_until_hour == pytest.approx(6224.3)
    assert verdict_of(walked()).valid_until is None


def test_plain_form_holds_everything() -> None:
    plain = encode(verdict_of(walked({"equipment-hoses": defect("leak", **FLAT)})))
    assert plain["items"][0]["grade"] == "hold"
    assert plain["levels"][0][0] == "hydraulic-level"
    assert plain["rulebook"].startswith("2-")
