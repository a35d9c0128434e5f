"""Rules as data: what a rule is, and when it speaks.

Every attribute that a rule may compare has a worse end, and a rule may only ask
whether a thing is *at least that bad*. So a grade cannot fall when a finding gets
worse: not by care, but because no rule that could do it can be written.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Annotated

from jutrel.core.grading.grade import Grade
from jutrel.core.inspection.finding import Finding, Value
from jutrel.core.machine.family import Checkpoint, Duty
from jutrel.core.wording import Words


class AttributeKind(StrEnum):
    """Scale: ordered choices, the last is the worst. Choice: no order. Flag: true is worse."""

    SCALE = "scale"
    CHOICE = "choice"
    FLAG = "flag"
    NUMBER = "number"


class Worse(StrEnum):
    """Which end of a number is the worse."""

    UP = "up"
    DOWN = "down"


@dataclass(frozen=True, slots=True)
class Choice:
    """One choice of a scale or a choice attribute."""

    id: str
    label: Annotated[str, Words("choice")]


@dataclass(frozen=True, slots=True)
class Attribute:
    """Something that is observed of a defect. `ask` is the question as a person reads it."""

    id: str
    ask: Annotated[str, Words("question")]
    kind: AttributeKind
    choices: tuple[Choice, ...] = ()
    worse: Worse = Worse.UP
    unit: Annotated[str, Words("unit")] = ""
    low: float = 0.0
    high: float = 1e6
    told: Annotated[str, Words("choice")] = ""
    """How a flag that is true is told."""

    def rank(self, value: Value) -> float:
        """The value as a number that grows as the thing gets worse."""
        match self.kind:
            case AttributeKind.SCALE:
                return float(next((i for i, c in enumerate(self.choices) if c.id == value), -1))
            case AttributeKind.FLAG:
                return float(bool(value))
            case _:
                figure = float(value)
                return figure if self.worse is Worse.UP else -figure


@dataclass(frozen=True, slots=True)
class PutRightRule:
    """Where the operator may put a failure mode right himself, and what that is called.

    `systems`, `duties`, `checkpoints`: only there, everywhere if all are empty; `not_systems`, `not_duties`: never
    there; `unless`: attribute values from which on it is no longer his.
    """

    says: Annotated[str, Words("put right")]
    systems: frozenset[str] = frozenset()
    not_systems: frozenset[str] = frozenset()
    unless: Mapping[str, Value] = field(default_factory=dict)
    duties: frozenset[str] = frozenset()
    not_duties: frozenset[str] = frozenset()
    checkpoints: frozenset[str] = frozenset()

    def at(self, c: Checkpoint, mode: str) -> bool:
        """Whether it is the operator's own at this place."""
        duty = c.duty_of(mode)
        if c.system.id in self.not_systems or (duty is not None and duty.id in self.not_duties):
            return False
        if not self.systems and not self.duties and not self.checkpoints:
            return True
        if c.id in self.checkpoints:
            return True
        return c.system.id in self.systems or (duty is not None and duty.id in self.duties)


@dataclass(frozen=True, slots=True)
class FirstAction:
    """What is done first about a failure mode at some places, or from some value of an attribute on; the rest empty."""

    says: Annotated[str, Words("first action")]
    checkpoints: frozenset[str] = frozenset()
    systems: frozenset[str] = frozenset()
    duties: frozenset[str] = frozenset()
    fluids: frozenset[str] = frozenset()
    when: Mapping[str, Value] = field(default_factory=dict)

    def fits(self, finding: Finding, c: Checkpoint, attributes: Mapping[str, Attribute]) -> bool:
        """Whether it is said of a finding at a checkpoint."""
        duty = c.duty_of(finding.failure_mode)
        fluid = str(finding.attributes.get("fluid", c.fluid or ""))
        here = (
            (not self.checkpoints or c.id in self.checkpoints)
            and (not self.systems or c.system.id in self.systems)
            and (not self.duties or (duty is not None and duty.id in self.duties))
            and (not self.fluids or fluid in self.fluids)
        )
        return here and all(
            key in finding.attributes and attributes[key].rank(finding.attributes[key]) >= attributes[key].rank(value)
            for key, value in self.when.items()
        )


@dataclass(frozen=True, slots=True)
class FailureMode:
    """A way to fail: what is asked about it, and what to do first."""

    id: str
    name: Annotated[str, Words("failure")]
    attributes: tuple[str, ...]
    first_action: Annotated[str, Words("first action")]
    put_right: PutRightRule | None = None
    alone: tuple[str, ...] = ()
    """Attributes that say by themselves how bad it is, beside the first: over the mark, where low is asked first."""
    powered: tuple[str, ...] = ()
    """Roles that may start a machine which this holds, to put it right in place; none: it is put right without."""
    first: tuple[FirstAction, ...] = ()
    """What is done first where `first_action` does not fit; the first that fits is said."""


class RuleStage(StrEnum):
    """The order in which rules speak."""

    BASE = "base"
    RAISE = "raise"
    FLOOR = "floor"


class Test(StrEnum):
    """How a condition compares. `AT_LEAST` means: at least that bad."""

    __test__ = False

    IS = "is"
    IN = "in"
    AT_LEAST = "at-least"


@dataclass(frozen=True, slots=True)
class Condition:
    """One comparison of one fact."""

    fact: str
    test: Test
    values: tuple[Value, ...]

    def holds(self, facts: Mapping[str, Value], attributes: Mapping[str, Attribute]) -> bool:
        """Whether it is so; a fact that is not known never makes a condition true."""
        value = facts.get(self.fact)
        if value is None:
            return False
        match self.test:
            case Test.IS | Test.IN:
                return value in self.values
            case Test.AT_LEAST:
                attribute = attributes[self.fact]
                return attribute.rank(value) >= attribute.rank(self.values[0])

    def implies(self, other: Condition, attributes: Mapping[str, Attribute]) -> bool:
        """Whether it cannot hold without the other."""
        if self.fact != other.fact:
            return False
        if self.test is other.test is Test.AT_LEAST:
            attribute = attributes[self.fact]
            return attribute.rank(self.values[0]) >= attribute.rank(other.values[0])
        return self.test is other.test and set(self.values) <= set(other.values)


@dataclass(frozen=True, slots=True)
class Rule:
    """When all conditions hold, the rule says its sentence and gives or raises a grade."""

    id: str
    stage: RuleStage
    says: Annotated[str, Words("rule")]
    source: Annotated[str, Words("source")]
    modes: tuple[str, ...] = ()
    conditions: tuple[Condition, ...] = ()
    grade: Grade | None = None
    within_hours: float | None = None
    limit: Annotated[str, Words("limit")] | None = None
    duty: str | None = None
    """Only where the part has this duty; None: wherever it is."""
    duties: tuple[str, ...] = ()
    """Only where the part has one of these duties; none: wherever it is."""
    seen: tuple[Annotated[str, Words("choice")], ...] = ()
    """What is told as seen, before `says`, in a rule of a duty's table."""

    def implies(self, other: Rule, attributes: Mapping[str, Attribute]) -> bool:
        """Whether it cannot speak without the other, of the same failure mode and duty, speaking too."""
        return all(any(mine.implies(c, attributes) for mine in self.conditions) for c in other.conditions)


class Pick(StrEnum):
    """What a combination counts over."""

    ANY = "any"
    SAME_SYSTEM = "same-system"


@dataclass(frozen=True, slots=True)
class Combination:
    """A rule across findings: either so many of a grade, or certain ones together."""

    id: str
    says: Annotated[str, Words("rule")]
    source: Annotated[str, Words("source")]
    grade: Grade
    limit: Annotated[str, Words("limit")] | None = None
    count: int = 0
    at_least: Grade = Grade.WATCH
    pick: Pick = Pick.ANY
    together: tuple[tuple[str, str], ...] = ()
    """Pairs of checkpoint id and failure mode that must all be present."""
    all_of: tuple[str, ...] = ()
    """Checkpoints each of which must have something at least that bad."""
    unseen_deg: tuple[int, int] | None = None
    """Speaks where the widest part of the view lost in one piece is from the first to the second [deg]."""


@dataclass(frozen=True, slots=True, weakref_slot=True)
class Rulebook:
    """All the rules in force. `version` changes when any of its files changes."""

    version: str
    regime: str
    attributes: Mapping[str, Attribute]
    modes: Mapping[str, FailureMode]
    rules: tuple[Rule, ...]
    combinations: tuple[Combination, ...]
    safe_repair: Mapping[str, Annotated[str, Words("safe repair")]] = field(default_factory=dict)
    mend_within_hours: float = 50.0
    limit_within_hours: float = 50.0
    duties: Mapping[str, Duty] = field(default_factory=dict)

    def first_action(self, finding: Finding, c: Checkpoint) -> str:
        """What is done first about a finding at a checkpoint."""
        mode = self.modes.get(finding.failure_mode)
        if mode is None:
            return ""
        fitting = (f.says for f in mode.first if f.fits(finding, c, self.attributes))
        return next(fitting, mode.first_action)

    def may_put_right(self, finding: Finding, c: Checkpoint) -> bool:
        """Whether a finding at a checkpoint is the operator's own to put right."""
        mode = self.modes.get(finding.failure_mode)
        rule = mode.put_right if mode else None
        if rule is None or not rule.at(c, finding.failure_mode):
            return False
        for key, limit in rule.unless.items():
            if key in finding.attributes:
                attribute = self.attributes[key]
                if attribute.rank(finding.attributes[key]) >= attribute.rank(limit):
                    return False
        return True
