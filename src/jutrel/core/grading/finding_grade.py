"""Grading one finding: base, raise, floor, and a trace of every rule that spoke."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from jutrel.core.errors import BadInput
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.rulebook import Attribute, AttributeKind, Rulebook, Stage
from jutrel.core.inspection.finding import Finding, Value
from jutrel.core.units import number


@dataclass(frozen=True, slots=True)
class TraceLine:
    """One rule that spoke: what it said, whence, and the grade after it."""

    rule: str
    stage: str
    says: str
    source: str
    grade: Grade


@dataclass(frozen=True, slots=True)
class Graded:
    """A grade with its reasons. `due_hour` [h on the meter] is set from Mend upward."""

    grade: Grade
    trace: tuple[TraceLine, ...]
    limits: tuple[str, ...]
    within_hours: float | None


class _Gaps(dict[str, str]):
    def __missing__(self, key: str) -> str:
        return "?"


def _written(value: Value) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:.3g}" if isinstance(value, float) else str(value)


def _filled(text: str, facts: Mapping[str, Value]) -> str:
    return text.format_map(_Gaps({key: _written(value) for key, value in facts.items()}))


def check_finding(finding: Finding, rulebook: Rulebook) -> None:
    """Refuse a finding that the rulebook has no words for.

    Raises
    ------
    BadInput
        Naming the failure mode or the attribute, and what is allowed.
    """
    mode = rulebook.modes.get(finding.failure_mode)
    if mode is None:
        raise BadInput("failure_mode", f"'{finding.failure_mode}' is not known; one of {', '.join(rulebook.modes)}")
    for key, value in finding.attributes.items():
        if key not in mode.attributes:
            raise BadInput(f"attributes.{key}", f"does not belong to '{mode.id}'; it has {', '.join(mode.attributes)}")
        _check_value(rulebook.attributes[key], value)


def _check_value(attribute: Attribute, value: Value) -> None:
    where = f"attributes.{attribute.id}"
    match attribute.kind:
        case AttributeKind.SCALE | AttributeKind.CHOICE:
            if value not in {c.id for c in attribute.choices}:
                raise BadInput(where, f"'{value}' is not one of {', '.join(c.id for c in attribute.choices)}")
        case AttributeKind.FLAG:
            if not isinstance(value, bool):
                raise BadInput(where, "answer yes or no")
        case AttributeKind.NUMBER:
            if isinstance(value, (bool, str)):
                raise BadInput(where, f"give a plain number, not {value!r}")
            number(where, value, attribute.low, attribute.high)


HISTORY_FACTS = frozenset({"unmended_reports", "worse_than_last", "overdue"})
"""Facts about what was before: rules on them raise the grade that a defect had when it was found, too."""


def grade_finding(
    finding: Finding, facts: Mapping[str, Value], rulebook: Rulebook, kept: Grade = Grade.SOUND, needed: str = ""
) -> Graded:
    """Grade one finding from what was observed and from the facts about its place.

    Parameters
    ----------
    finding : mode and attributes; `unseen` is the mode of a checkpoint not looked at
    facts : what is known beside the finding: life, dark, reports, runs_out …
    rulebook : the rules in force
    kept : the grade it had when it was reported, which nothing here lowers
    needed : who may ease it, said when the kept grade is the worse

    Notes
    -----
    Base is the worst of all base rules that hold; each raising rule that holds
    adds one step; floors come last. Nothing here lowers a grade.
    """
    known = {**facts, **finding.attributes}
    grade = Grade.SOUND
    trace: list[TraceLine] = []
    limits: list[str] = []
    within: list[float] = []
    ruled = Grade.SOUND
    for stage in Stage:
        for rule in rulebook.rules:
            if rule.stage is not stage or (rule.modes and finding.failure_mode not in rule.modes):
                continue
            if not all(c.holds(known, rulebook.attributes) for c in rule.conditions):
                continue
            if stage is Stage.RAISE:
                if any(c.fact in HISTORY_FACTS for c in rule.conditions):
                    kept = kept.raised() if kept > Grade.SOUND else kept
                if grade is Grade.HOLD:
                    continue
                grade = grade.raised()
            elif rule.grade is not None:
                if rule.grade < grade or (stage is Stage.FLOOR and rule.grade == grade and not rule.limit):
                    continue  # said already, and worse
                if rule.within_hours is not None:
                    within.append(rule.within_hours)
                grade = ruled = rule.grade
            trace.append(TraceLine(rule.id, stage.value, _filled(rule.says, known), rule.source, grade))
            if rule.limit:
                limits.append(_filled(rule.limit, known))
    if grade is Grade.SOUND:
        # A defect without a rule is never sound: the person saw something.
        grade = Grade.WATCH
        trace.append(
            TraceLine(
                "watch.seen",
                "base",
                "Something was seen that no rule speaks of: look again each time.",
                "common practice",
                grade,
            )
        )
    if kept > grade:
        grade = kept
        trace.append(
            TraceLine(
                "carried.open",
                "carried",
                f"Reported as {grade.word.capitalize()} and open since. {needed}".strip(),
                "30 CFR 56.14100(c): defects stay recorded until corrected",
                grade,
            )
        )
    deadline = None
    if grade >= Grade.MEND:
        # A date longer than the usual one holds only for the grade that its rule gave.
        usual = [rulebook.mend_within_hours] if grade > ruled or not within else []
        deadline = min([*usual, *within])
    return Graded(grade, tuple(trace), tuple(limits), deadline)
