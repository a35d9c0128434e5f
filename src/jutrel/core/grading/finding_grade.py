"""Grading one finding: base, raise, floor, and a trace of every rule that spoke."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from string import Formatter
from typing import Annotated
from weakref import ref

from jutrel.core.amounts import number
from jutrel.core.errors import BadInput
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.rulebook import Attribute, AttributeKind, Rule, Rulebook, RuleStage
from jutrel.core.inspection.finding import Finding, Value
from jutrel.core.wording import NOTHING, Said, Words, say, together


@dataclass(frozen=True, slots=True)
class TraceLine:
    """One rule that spoke: what it said, whence, and the grade after it."""

    rule: str
    stage: str
    says: Said
    source: Annotated[str, Words("source")]
    grade: Grade


@dataclass(frozen=True, slots=True)
class Graded:
    """A grade with its reasons. `due_hour` [h on the meter] is set from Mend upward."""

    grade: Grade
    trace: tuple[TraceLine, ...]
    limits: tuple[Said, ...]
    within_hours: float | None


def _worth(key: str, value: Value) -> object:
    """A fact as it stands in a sentence: to three figures, and the place by its name."""
    if key == "place":
        return Said(str(value), (), "checkpoint")
    return float(f"{value:.3g}") if isinstance(value, float) else value


def _filled(context: str, text: str, facts: Mapping[str, Value]) -> Said:
    """A rule's sentence with the facts that it has a place for."""
    places = [name for _, name, _, _ in Formatter().parse(text) if name]
    return Said(text, tuple((name, _worth(name, facts[name])) for name in places if name in facts), context)


def _label(attribute: Attribute, value: Value) -> Said:
    label = next((c.label for c in attribute.choices if c.id == value), str(value))
    return Said(label, (), "choice")


def _said(rule: Rule, facts: Mapping[str, Value], rulebook: Rulebook) -> Said:
    """What a rule says; one of a duty's table tells which place, the answer that was given there, from which answer on
    it speaks where that is another, and what depends on it."""
    why = _filled("rule", rule.says, facts)
    if not rule.seen:
        return why
    answers: list[Said] = []
    place, told = _worth("place", facts.get("place", "")), list(rule.seen)
    for c in rule.conditions:
        attribute = rulebook.attributes.get(c.fact)
        if attribute is None or not attribute.choices:
            continue
        row, answer = _label(attribute, c.values[0]), _label(attribute, facts[c.fact])
        if row.text in told:
            told.remove(row.text)
        if answer != row:
            answers.append(say("reported as “{answer}”, which counts like “{row}”", answer=answer, row=row))
        elif answers:
            answers.append(say("and “{answer}”", answer=answer))
        else:
            answers.append(say("reported as “{answer}”", answer=answer))
    out = [say("{place}: {answers}.", place=place, answers=tuple(answers))] if answers else []
    return together([*out, *(say("{seen}.", seen=Said(label, (), "choice")) for label in told), why])


def _own_words(limit: str, facts: Mapping[str, Value], rulebook: Rulebook) -> str:
    """A limit in the part's own words, where it is the usual one of its duty."""
    duty = rulebook.duties.get(str(facts.get("duty", "")))
    usual = duty is not None and limit == duty.limit
    return str(facts["limit"]) if usual and "limit" in facts else limit


def check_finding(finding: Finding, rulebook: Rulebook) -> None:
    """Refuse a finding that the rulebook has no words for.

    Raises
    ------
    BadInput
        Naming the failure mode or the attribute, and what is allowed.
    """
    mode = rulebook.modes.get(finding.failure_mode)
    if mode is None:
        modes = ", ".join(rulebook.modes)
        raise BadInput("failure_mode", "'{it}' is not known; one of {those}", it=finding.failure_mode, those=modes)
    for key, value in finding.attributes.items():
        if key not in mode.attributes:
            has = ", ".join(mode.attributes)
            raise BadInput(f"attributes.{key}", "does not belong to '{it}'; it has {those}", it=mode.id, those=has)
        _check_value(rulebook.attributes[key], value)


def _check_value(attribute: Attribute, value: Value) -> None:
    where = f"attributes.{attribute.id}"
    match attribute.kind:
        case AttributeKind.SCALE | AttributeKind.CHOICE:
            if value not in {c.id for c in attribute.choices}:
                raise BadInput(
                    where, "'{it}' is not one of {those}", it=value, those=", ".join(c.id for c in attribute.choices)
                )
        case AttributeKind.FLAG:
            if not isinstance(value, bool):
                raise BadInput(where, "answer yes or no")
        case AttributeKind.NUMBER:
            if isinstance(value, (bool, str)):
                raise BadInput(where, "give a plain number, not {it}", it=repr(value))
            number(where, value, attribute.low, attribute.high)


def _speaking(mode: str, facts: Mapping[str, Value], rulebook: Rulebook) -> list[Rule]:
    """The rules of this failure mode and duty whose conditions hold; most fall away at the first comparison."""
    duty, attributes = facts.get("duty"), rulebook.attributes
    return [
        r
        for r in rulebook.rules
        if (r.duty is None or r.duty == duty)
        and (not r.modes or mode in r.modes)
        and (not r.duties or duty in r.duties)
        and all(c.holds(facts, attributes) for c in r.conditions)
    ]


def _outdoes(other: Rule, rule: Rule, rulebook: Rulebook) -> bool:
    """Whether another rule that speaks says all that this one says: it asks for more, or is a duty's own."""
    if other is rule or not other.seen or not other.implies(rule, rulebook.attributes):
        return False
    return not rule.implies(other, rulebook.attributes) or (other.duty is not None and rule.duty is None)


HISTORY_FACTS = frozenset({"unmended_reports", "worse_than_last", "overdue"})
"""Facts about what was before: rules on them raise the grade that a defect had when it was found, too."""


def grade_finding(
    finding: Finding, facts: Mapping[str, Value], rulebook: Rulebook, kept: Grade = Grade.SOUND, needed: Said = NOTHING
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
    # With the kinds of the values: a yes is not the figure one.
    asked = tuple((name, type(value), value) for name, value in known.items())
    said = _said_by(rulebook)
    question = (finding.failure_mode, asked, kept, needed)
    if question not in said:
        if len(said) >= MOST_SAID:
            said.clear()
        said[question] = _graded(rulebook, *question)
    return said[question]


MOST_SAID = 8192
"""So many answers of a rulebook are kept; a site asks some hundreds of questions."""
_Asked = tuple[tuple[str, type, Value], ...]
_Answers = dict[tuple[str, _Asked, Grade, Said], Graded]
_SAID: dict[int, tuple[ref[Rulebook], _Answers]] = {}
"""What each rulebook said, as long as there is this rulebook: the same question has the same answer, and each tap asks
again about everything that is open. By which object it is, for to compare two of them takes longer than to grade; the
weak reference says that it is that one still."""


def _said_by(rulebook: Rulebook) -> _Answers:
    at = id(rulebook)
    have = _SAID.get(at)
    if have is None or have[0]() is not rulebook:
        have = ref(rulebook, lambda gone: _SAID.pop(at, None) if _SAID.get(at, (None,))[0] is gone else None), {}
        _SAID[at] = have
    return have[1]


def _graded(rulebook: Rulebook, mode: str, asked: _Asked, kept: Grade, needed: Said) -> Graded:
    known = {name: value for name, _, value in asked}
    grade = Grade.SOUND
    trace: list[TraceLine] = []
    limits: list[Said] = []
    within: list[float] = []
    ruled = Grade.SOUND
    speaking = _speaking(mode, known, rulebook)
    for stage in RuleStage:
        for rule in speaking:
            if rule.stage is not stage:
                continue
            if rule.seen and any(_outdoes(o, rule, rulebook) for o in speaking):
                continue  # what is worse says it, too
            if stage is RuleStage.RAISE:
                if any(c.fact in HISTORY_FACTS for c in rule.conditions):
                    kept = kept.raised() if kept > Grade.SOUND else kept
                if grade is Grade.HOLD:
                    continue
                grade = grade.raised()
            elif rule.grade is not None:
                if rule.grade < grade or (stage is RuleStage.FLOOR and rule.grade == grade and not rule.limit):
                    continue  # said already, and worse
                if rule.within_hours is not None:
                    within.append(rule.within_hours)
                grade = ruled = rule.grade
            trace.append(TraceLine(rule.id, stage.value, _said(rule, known, rulebook), rule.source, grade))
            if rule.limit:
                limits.append(_filled("limit", _own_words(rule.limit, known, rulebook), known))
    if grade is Grade.SOUND:
        # A defect without a rule is never sound: the person saw something.
        grade = Grade.WATCH
        trace.append(
            TraceLine(
                "watch.seen",
                "base",
                say("Something was seen that no rule speaks of: look again each time."),
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
                together([say("Reported as {grade} and open since.", grade=grade.name_said), needed]),
                "30 CFR 56.14100(c): defects stay recorded until corrected",
                grade,
            )
        )
    duty = rulebook.duties.get(str(known.get("duty", "")))
    if grade is Grade.LIMIT and not limits and duty is not None and duty.limit:
        limits.append(_filled("limit", _own_words(duty.limit, known, rulebook), known))
    deadline = None
    if grade >= Grade.MEND:
        # A date longer than the usual one holds only for the grade that its rule gave.
        hours = rulebook.mend_within_hours if grade is Grade.MEND else rulebook.limit_within_hours
        usual = [hours] if grade > ruled or not within else []
        deadline = min([*usual, *within])
    return Graded(grade, tuple(trace), tuple(limits), deadline)
