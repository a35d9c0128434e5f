"""What goes over the wire: findings, readings, verdicts."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from jutrel.api.inspection.wire_finding import ConditionsIn, FindingIn
from jutrel.api.wire import AttributeValue, Finite, GradeWord, In, Out, Slug, Uuid7
from jutrel.core.defect.authority import SetAsideBy
from jutrel.core.grading.verdict import Outcome
from jutrel.core.reading.judgement import Band
from jutrel.core.reading.leak import Coupling, LeakClass


class PutRightOut(Out):
    done: str
    amount: str


class FindingOut(Out):
    failure_mode: str
    attributes: dict[str, AttributeValue]
    note: str
    put_right: PutRightOut | None = None


class FigureOut(Out):
    name: str
    value: float
    unit: str


class JudgementOut(Out):
    band: Band
    action: str
    why: str
    figures: list[FigureOut]


class HydraulicLevelOut(Out):
    seen: float
    posture: float
    temperature: float
    tilt: float
    corrected: float | None
    low: float | None
    high: float | None
    litres_to_middle: float | None
    judgement: JudgementOut


class LeakIn(In):
    model: Slug
    fluid: Slug | None = None
    leak_class: LeakClass
    coupling: Coupling = Coupling.OTHER
    drops: Finite | None = None
    seconds: Finite | None = None
    shift_hours: Finite = 10.0


class LeakOut(Out):
    rate: float | None
    hours_to_add: float | None
    hours_low: float | None
    hours_high: float | None
    judgement: JudgementOut


class TraceOut(Out):
    rule: str
    stage: str
    says: str
    source: str
    grade: GradeWord


class ItemOut(Out):
    checkpoint: str
    name: str
    station: str
    finding: FindingOut
    grade: GradeWord
    why: str
    trace: list[TraceOut]
    limits: list[str]
    due_hour: float | None
    first_action: str
    safe_repair: list[str]
    by: str
    since: datetime
    reports: int
    unmended: int
    carried: bool
    leak: LeakOut | None
    defect: str
    entries: list[str]
    pending: str
    says: str = Field(default="", description="What a reading said to do about it.")


class CombinedOut(Out):
    rule: str
    says: str
    source: str
    grade: GradeWord
    limit: str | None


class ReleaseOut(Out):
    checkpoint: str
    failure_mode: str
    grade: GradeWord
    by: str
    ground: SetAsideBy
    reason: str
    other_must_sign: bool


class IgnoredOut(Out):
    """An entry without the right to what it says: kept, not counted."""

    entry: str
    by: str
    checkpoint: str
    report: str
    says: str


class AidOut(Out):
    checkpoint: str
    name: str
    arcs: list[tuple[int, int]] = Field(description="What it shows: from, to, clockwise from straight ahead, degrees.")
    blind: bool


class ViewOut(Out):
    """What cannot be seen from the seat; directions in degrees, clockwise from straight ahead."""

    aids: list[AidOut]
    seen: list[tuple[int, int]]
    lost: list[tuple[int, int]]
    sides: list[str]


class ReadOut(Out):
    """A reading in force: where, which, what it came to, by whom, and its entry."""

    checkpoint: str
    name: str
    key: str
    title: str
    value: float | None
    unit: str
    low: float | None
    high: float | None
    judgement: JudgementOut
    finding: FindingOut | None
    by: str
    entry: str


class VerdictOut(Out):
    outcome: Outcome
    why: str
    items: list[ItemOut]
    combined: list[CombinedOut]
    released: list[ReleaseOut]
    ignored: list[IgnoredOut]
    differ: list[str]
    limits: list[str]
    left: list[str]
    levels: list[tuple[str, HydraulicLevelOut]]
    valid_until: datetime | None
    valid_until_hour: float | None
    rulebook: str
    regime: str
    view: ViewOut | None = Field(default=None, description="What of the view is lost with what is open, if anything.")
    readings: list[ReadOut] = Field(default=[], description="Readings in force, in the order of the walk.")


class OpenedIn(In):
    """What the approach said, before or after the look was begun."""

    hour_meter: Finite = Field(default=0.0, ge=0, le=200_000)
    conditions: ConditionsIn = ConditionsIn()
    options: list[Slug] = Field(default=[], max_length=60)
    purpose: Slug = "pre-start"


class GradeIn(In):
    """One finding on a machine: what would its grade be? `inspection`: the look it is found in, if it has begun."""

    machine: Slug
    inspection: Uuid7 | None = None
    opened: OpenedIn = OpenedIn()
    checkpoint: Slug
    finding: FindingIn
