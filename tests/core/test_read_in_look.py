"""Readings in a look: tries to get a dangerous machine past them."""

from __future__ import annotations

import random
from typing import Any

import pytest

from jutrel.core.errors import BadInput
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.verdict import Outcome
from jutrel.core.reading.all import run
from jutrel.core.reading.bound import check_read, read_at
from jutrel.core.reading.judgement import Band
from tests.walks import DAG, LEVEL, MIRA, MODEL, Plain, as_read, defect, entry, heard, verdict_of, walked

OSK = "0d000000-0000-4000-8000-000000000002"
GOOD = {"seen": 0.6, "minutes": 600.0}
LOW = {"seen": -0.4, "minutes": 600.0}


def read(number: int, given: Plain, at: str = "engine-oil", key: str = "engine-oil", by: str = MIRA,
         replaces: tuple[str, ...] = (), role: str = "operator", **more: Any) -> Plain:  # fmt: skip
    what = {"checkpoint": at, "reading": key, "given": given, **more}
    return entry(number, "read", what, by, role, replaces=replaces)


def test_low_oil_on_the_stick_holds_the_machine_though_the_eye_found_it_sound() -> None:
    verdict = verdict_of([*walked(), read(200, LOW)])
    assert verdict.outcome is Outcome.HELD
    item = next(i for i in verdict.items if i.checkpoint == "engine-oil")
    assert item.grade is Grade.HOLD
    assert "look for the leak" in str(item.says)
    assert [t.key for t in verdict.readings] == ["engine-oil"]


def test_a_good_figure_says_nothing_of_what_the_eye_found() -> None:
    log = walked({"engine-oil": defect("leak", leak_class="III", drops=60.0, seconds=30.0)})
    found = next(e["id"] for e in log if e["what"].get("checkpoint") == "engine-oil")
    before = verdict_of(log)
    after = verdict_of([*log, read(200, GOOD, replaces=(found,), reason="full")])
    assert after.outcome is before.outcome is Outcome.HELD


def test_a_sound_tap_of_somebody_else_leaves_what_was_read() -> None:
    low = read(200, LOW)
    sound = entry(201, "answered", {"checkpoint": "engine-oil", "answer": "sound", "reason": "looks full"}, OSK,
                  replaces=[low["id"]])  # fmt: skip
    assert verdict_of([*walked(), low, sound]).outcome is Outcome.HELD


def test_reading_it_again_without_a_word_leaves_the_first() -> None:
    low = read(200, LOW)
    again = read(201, GOOD, replaces=(low["id"],))
    assert verdict_of([*walked(), low, again]).outcome is Outcome.HELD
    # A slip of one's own is told with its reason; then the second figure counts.
    told = read(201, GOOD, replaces=(low["id"],), reason="stick was not wiped")
    assert verdict_of([*walked(), low, told]).outcome is Outcome.READY
    # Another operator did not make that slip.
    other = read(201, GOOD, by=OSK, replaces=(low["id"],), reason="stick was not wiped")
    assert verdict_of([*walked(), low, other]).outcome is Outcome.HELD


def test_filled_on_the_spot_is_told_and_watched() -> None:
    low = read(200, LOW)
    filled = read(201, GOOD, replaces=(low["id"],), put_right={"done": "Filled, no leak found", "amount": "3 L"})
    verdict = verdict_of([*walked(), low, filled])
    assert verdict.outcome is Outcome.READY
    item = next(i for i in verdict.items if i.checkpoint == "engine-oil")
    assert item.grade is Grade.WATCH
    assert "Filled" in str(item.why)


def test_filled_and_still_too_low_takes_nobodys_report_away() -> None:
    """Lost so: the other's Hold moves to one's own reading, and that is told as a slip of one's own."""
    low = read(200, LOW, by=OSK)
    mine = read(201, LOW, replaces=(low["id"],), put_right={"done": "Filled", "amount": ""})
    assert verdict_of([*walked(), low, mine]).outcome is Outcome.HELD
    slip = read(202, GOOD, replaces=(mine["id"],), reason="stick was not wiped")
    assert verdict_of([*walked(), low, mine, slip]).outcome is Outcome.HELD


def test_another_reading_at_the_same_place_clears_nothing() -> None:
    low = read(200, LOW)
    grade = read(201, {"grade": "10W", "low_c": 5}, key="oil-grade", replaces=(low["id"],), reason="the right oil")
    assert verdict_of([*walked(), low, grade]).outcome is Outcome.HELD


def test_what_cannot_be_judged_is_not_kept() -> None:
    """Taken one minute after the stop it shows too little; kept, it could set aside what was read properly."""
    with pytest.raises(BadInput, match="cannot be judged so: Wait 4 min more") as refused:
        check_read("engine-oil", "engine-oil", {"seen": 0.6, "minutes": 1.0}, MODEL)
    assert refused.value.field == "given"
    alone = verdict_of([*walked(), read(200, {"seen": -0.9, "minutes": 1.0})])
    assert alone.readings[0].judgement.band is Band.REFUSED, "and if it were, it would be told as such"


def test_a_reading_alone_answers_no_checkpoint() -> None:
    assert verdict_of([*walked(leave=("engine-oil",)), read(200, GOOD)]).outcome is Outcome.INCOMPLETE


def test_the_level_that_was_read_is_what_a_leak_there_has_left() -> None:
    slow = {"oil-filter": defect("leak", leak_class="III", drops=6.0, seconds=60.0)}
    full, near = (read(200, {**GOOD, "seen": s}) for s in (1.0, 0.02))
    assert heard([*walked(slow), full]).case.place.reserves["engine-oil"] == pytest.approx(MODEL.reserves["engine-oil"])
    low = heard([*walked(slow), near])
    assert low.case.place.reserves["engine-oil"] == pytest.approx(0.02 * MODEL.reserves["engine-oil"])
    hours = []
    for r in (full, near):
        item = next(i for i in verdict_of([*walked(slow), r]).items if i.checkpoint == "oil-filter")
        assert item.leak
        hours.append(item.leak.hours_to_add)
    assert hours[1] == pytest.approx(0.02 * hours[0])


def test_the_machines_own_figures_are_no_matter_of_opinion() -> None:
    with pytest.raises(BadInput, match="has its own figure") as refused:
        check_read("sag-left", "track-sag", {"sag": 900 / 3, "measured": "lifted", "wanted": 150.0}, MODEL)
    assert refused.value.field == "given.wanted"
    given = {"sag": 300.0, "measured": "lifted"}
    check_read("sag-left", "track-sag", given, MODEL)
    told = read_at("sag-left", "track-sag", {**given, "wanted": 5.0}, MODEL)
    assert told == read_at("sag-left", "track-sag", given, MODEL)
    for at, key, wrong, field in (
        ("boom", "engine-oil", {}, "reading"),
        ("engine-oil", "no-such", {}, "reading"),
        ("engine-oil", "engine-oil", {"seen": float("nan"), "minutes": 9}, "given.seen"),
        ("engine-oil", "engine-oil", {"seen": 0.5}, "given.minutes"),
        ("engine-oil", "engine-oil", {**GOOD, "grade": "0W"}, "given.grade"),
    ):
        with pytest.raises(BadInput) as no:
            check_read(at, key, wrong, MODEL)
        assert no.value.field == field


def test_a_mechanic_may_set_a_reading_aside_with_another() -> None:
    low = read(200, LOW)
    again = read(201, GOOD, by=DAG, role="mechanic", replaces=(low["id"],), reason="stick bent, changed it")
    assert verdict_of([*walked(), low, again]).outcome is not Outcome.INCOMPLETE
    released = verdict_of([*walked(), low, again]).released
    assert [r.by for r in released] == [DAG]


def test_a_tyre_that_may_be_run_flat_counts_as_run_flat() -> None:
    """By its value it is just over 80 %, by its range it may be under: nobody is told to inflate it."""
    reading = run("tyre-pressure", {"pressure": 365, "cold": 450, "tyre_c": 20})
    assert reading.value is not None
    assert reading.value > 0.8 * 450
    assert reading.judgement.band is Band.STOP
    assert reading.finding == ("pressure", {"tyre_pressure": "run-flat"})


def test_a_mark_that_says_do_not_start_is_no_mere_drip() -> None:
    given = {"across": 15, "along": 15, "surface": "gravel", "parked_h": 1, "reserve": 0.5, "shift_hours": 10}
    reading = run("leak-mark", given)
    assert reading.judgement.band is Band.STOP
    assert reading.finding == ("pool", {"pool": "pool"})


def test_a_level_in_the_form_before_means_what_it_means_today() -> None:
    """Logs hold levels as they were sent before they were readings like the others: each is judged the same."""
    rng, outcomes = random.Random(22), set()
    for number in range(60):
        level = LEVEL | {
            "seen": rng.choice([rng.uniform(-1.2, 1.5), 0.5]),
            "oil_c": rng.uniform(-20, 60),
            "pitch_deg": rng.uniform(-3.2, 3.2),
            "roll_deg": rng.uniform(-2, 2),
            "extensions": {group: rng.random() for group in LEVEL["extensions"]},
            "put_right": {"done": "filled", "amount": "4 L"} if number % 3 == 0 else None,
            "reason": "read again" if number % 4 == 0 else "",
        }
        if number % 10 == 0:
            level = LEVEL | {"seen": rng.uniform(0.2, 0.8)}
        whole = walked(leave=("hydraulic-level",))
        found = entry(300, "answered", {"checkpoint": "hydraulic-level", **defect("level", low_level="low")})
        found_before = [*whole, found] if number % 5 else whole
        names = [found["id"]] if number % 2 and number % 5 else []
        before = heard([*found_before, entry(301, "measured", level, replaces=names)])
        today = heard([*found_before, entry(301, "read", as_read(level), replaces=names)])
        assert before.verdict == today.verdict
        assert before.case.reports == today.case.reports
        assert before.case.place == today.case.place
        assert before.defects == today.defects
        outcomes.add(today.verdict.outcome)
    assert outcomes >= {Outcome.READY, Outcome.HELD, Outcome.INCOMPLETE}
