"""Grades: never better for a worse finding, and the cases that matter by name."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from jutrel.catalog import catalog
from jutrel.core.errors import BadInput
from jutrel.core.grading.facts import History, Place, facts_of
from jutrel.core.grading.finding_grade import Graded, check_finding, grade_finding
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.rulebook import Attribute, AttributeKind, Worse
from jutrel.core.inspection.finding import Conditions, Finding
from jutrel.core.machine.family import Checkpoint
from jutrel.core.procedure.outcome import FAILED
from tests.deep import DEEP
from tests.walks import BOOK, MODEL, walk_with

POINTS = walk_with(MODEL.options).checkpoints
EVERYWHERE = [c for family in catalog().families.values() for c in family.checkpoints]
BY_ID = {c.id: c for c in POINTS}


def graded(
    c: Checkpoint, finding: Finding, history: History = History(), backups: int = 1, **conditions: Any
) -> Graded:
    place = Place(MODEL, Conditions(**conditions), 6214.0, MODEL.reserves)
    facts = facts_of(finding, c, place, BOOK, history, backups)
    return grade_finding(finding, facts, BOOK)


def values(attribute: Attribute) -> st.SearchStrategy[Any]:
    match attribute.kind:
        case AttributeKind.SCALE | AttributeKind.CHOICE:
            return st.sampled_from([c.id for c in attribute.choices])
        case AttributeKind.FLAG:
            return st.booleans()
        case _:
            return st.floats(max(attribute.low, 1), min(attribute.high, 120))


@st.composite
def cases(draw: st.DrawFn) -> tuple[Checkpoint, Finding, dict[str, Any]]:
    c = draw(st.sampled_from(POINTS))
    mode = BOOK.modes[draw(st.sampled_from(c.failure_modes))]
    attributes = {a: draw(values(BOOK.attributes[a])) for a in mode.attributes if draw(st.booleans())}
    conditions = {
        "dark": draw(st.booleans()),
        "rain": draw(st.booleans()),
        "people_on_foot": draw(st.booleans()),
        "shift_hours": draw(st.floats(1, 12)),
    }
    return c, Finding(mode.id, attributes), conditions


@given(cases(), st.data())
@settings(max_examples=600 if DEEP else 200, deadline=None)
def test_grade_never_falls_when_a_finding_gets_worse(
    case: tuple[Checkpoint, Finding, dict[str, Any]], data: st.DataObject
) -> None:
    c, finding, conditions = case
    ordered = [a for a in finding.attributes if BOOK.attributes[a].kind is not AttributeKind.CHOICE]
    assume(ordered)
    key = data.draw(st.sampled_from(ordered))
    attribute = BOOK.attributes[key]
    worse = data.draw(values(attribute))
    assume(attribute.rank(worse) >= attribute.rank(finding.attributes[key]))
    before = graded(c, finding, **conditions)
    after = graded(c, Finding(finding.failure_mode, {**finding.attributes, key: worse}), **conditions)
    assert after.grade >= before.grade, (key, finding.attributes[key], worse)


@given(cases())
@settings(max_examples=200, deadline=None)
def test_grade_never_falls_when_the_place_gets_worse(case: tuple[Checkpoint, Finding, dict[str, Any]]) -> None:
    c, finding, conditions = case
    base = graded(c, finding, **{**conditions, "dark": False, "rain": False, "people_on_foot": False})
    harder = graded(c, finding, **{**conditions, "dark": True, "rain": True, "people_on_foot": True})
    longer = graded(c, finding, **{**conditions, "shift_hours": 24.0})
    again = graded(c, finding, History(5, finding, 0.0), **conditions)
    both = graded(c, finding, backups=2, **conditions)
    now = graded(c, finding, **conditions)
    assert harder.grade >= base.grade
    assert min(longer.grade, again.grade, both.grade) >= now.grade


@given(cases())
@settings(max_examples=200, deadline=None)
def test_every_grade_explains_itself(case: tuple[Checkpoint, Finding, dict[str, Any]]) -> None:
    c, finding, conditions = case
    out = graded(c, finding, **conditions)
    assert out.trace
    assert out.grade >= Grade.WATCH
    assert out.trace[-1].grade == out.grade
    grades = [line.grade for line in out.trace]
    assert all(a <= b for a, b in pairwise(grades))
    for line in out.trace:
        assert line.says
        assert line.source
        assert "?" not in str(line.says), line
        assert "{" not in str(line.says)


def test_reasons_that_raise() -> None:
    c, finding = BY_ID["arm-cylinder"], Finding("leak", {"leak_class": "I", "coupling": "other"})
    before = Finding("leak", {"leak_class": "I", "coupling": "other"})
    assert graded(c, finding).grade is Grade.WATCH
    worse = graded(c, Finding("leak", {"leak_class": "II", "coupling": "other"}), History(1, before))
    assert worse.grade is Grade.LIMIT  # II is Mend, and worse
    assert [t.rule for t in graded(c, finding, History(3, finding)).trace][-1] == "raise.third"
    assert [t.rule for t in graded(c, finding, History(1, finding, 6000.0)).trace][-1] == "raise.overdue"
    assert graded(c, finding, History(2, finding, 6300.0)).grade is Grade.WATCH


def test_a_date_of_more_than_fifty_hours_is_kept_and_a_floor_says_its_limit() -> None:
    order = graded(BY_ID["teeth"], Finding("wear", {"wear": "three-quarters"}))
    assert (order.grade, order.within_hours) == (Grade.MEND, 100.0)
    raised = graded(BY_ID["teeth"], Finding("wear", {"wear": "three-quarters"}), History(3))
    assert (raised.grade, raised.within_hours) == (
        Grade.LIMIT,
        10.0,
    )  # a longer date is for the grade it was given with


def test_a_floor_says_its_limit_beside_that_of_the_table() -> None:
    dirty = graded(BY_ID["detectors-rear"], Finding("dirty", {"dirt": "heavy"}), people_on_foot=True)
    assert [str(t) for t in dirty.limits] == [
        "Cleaned before it moves.",
        "No people on foot within its reach, and a guide person.",
    ]
    assert dirty.trace[-1].rule == "floor.detection"


def test_the_trace_tells_the_worst_that_was_seen_and_leaves_out_what_that_implies() -> None:
    out = graded(BY_ID["arm-cylinder"], Finding("leak", {"leak_class": "III", "coupling": "other"}))
    assert [t.rule for t in out.trace] == ["power.leak.III"]
    assert str(out.trace[0].says) == "Arm cylinder: reported as “Drops fall”. It gets worse with every hour of work."
    both = graded(BY_ID["slew-bolts"], Finding("fastener", {"fastener_state": "missing", "fastener_share": "fifth"}))
    assert [t.rule for t in both.trace] == ["carry.fastener.loose+fifth", "carry.fastener.missing+several"]


@pytest.mark.parametrize(
    ("finding", "field"),
    [
        (Finding("rattle"), "failure_mode"),
        (Finding("leak", {"works": "dead"}), "attributes.works"),
        (Finding("leak", {"leak_class": "IV"}), "attributes.leak_class"),
        (Finding("leak", {"coupling": "glued"}), "attributes.coupling"),
        (Finding("leak", {"drops": float("nan")}), "attributes.drops"),
        (Finding("leak", {"drops": True}), "attributes.drops"),
        (Finding("leak", {"drops": -1}), "attributes.drops"),
    ],
)
def test_findings_without_words_are_refused(finding: Finding, field: str) -> None:
    with pytest.raises(BadInput) as caught:
        check_finding(finding, BOOK)
    assert caught.value.field == field


def test_every_mode_of_every_checkpoint_can_be_graded() -> None:
    """Each choice of each scale has a rule of its own: none falls through to 'something was seen'."""
    for mode in (m for m in BOOK.modes.values() if m.id != FAILED):  # a run says that one, and it is a Hold
        # of whichever family has it: an excavator has no brake linings
        c = next((c for c in EVERYWHERE if mode.id in c.failure_modes), None)
        assert c is not None, mode.id
        for key in mode.attributes:
            attribute = BOOK.attributes[key]
            if attribute.kind is AttributeKind.SCALE and key not in ("crack_length", "fastener_share"):
                for choice in attribute.choices:
                    rules = [t.rule for t in graded(c, Finding(mode.id, {key: choice.id})).trace]
                    assert "watch.seen" not in rules, (mode.id, key, choice.id)
    assert BOOK.attributes["seconds"].worse is Worse.DOWN
