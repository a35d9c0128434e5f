"""What goes over the wire: requests and responses, typed for the OpenAPI document."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from jutrel.core.grading.verdict import Outcome
from jutrel.core.inspection.entry import Answer, Role
from jutrel.core.inspection.fold import Status
from jutrel.core.reading.judgement import Band
from jutrel.core.reading.leak import Coupling, LeakClass

Uuid = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$")]
Uuid7 = Annotated[
    str, StringConstraints(pattern=r"^[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$")
]
Slug = Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9][A-Za-z0-9_.-]{0,59}$")]
Prose = Annotated[str, StringConstraints(max_length=2000, pattern=r"^[^\x00]*$")]
GradeWord = Literal["sound", "watch", "mend", "limit", "hold"]
Finite = Annotated[float, Field(allow_inf_nan=False)]
AttributeValue = bool | Finite | Annotated[str, StringConstraints(max_length=60, pattern=r"^[^\x00]*$")]


class In(BaseModel):
    """A request; unknown fields are refused."""

    model_config = ConfigDict(extra="forbid")


class Out(BaseModel):
    """A response."""

    model_config = ConfigDict(from_attributes=True)


class ProblemOut(Out):
    """A problem document (RFC 9457)."""

    type: str
    title: str
    status: int
    detail: str
    field: str | None = None
    wait_s: int | None = None
    line: int | None = Field(default=None, description="Of a file that was sent in.")


class HealthOut(Out):
    database: bool
    version: str


# --- people


class SignIn(In):
    person: Uuid
    pin: Annotated[str, StringConstraints(max_length=20)]
    device: Slug


class PersonOut(Out):
    id: str
    name: str
    role: Role
    active: bool = True


class DoorOut(Out):
    """What the sign-in page shows: the site and who may sign in."""

    site: str
    people: list[PersonOut]
    hint: str


class SessionOut(Out):
    person: PersonOut
    site: str
    zone: str


class NewPerson(In):
    id: Uuid
    name: Annotated[str, StringConstraints(min_length=1, max_length=80, pattern=r"^[^\x00]*$")]
    role: Role
    pin: Annotated[str, StringConstraints(max_length=20)]


class PersonChange(In):
    role: Role | None = None
    pin: Annotated[str, StringConstraints(max_length=20)] | None = None
    active: bool | None = None


# --- the machine and what is open on it


class MachineOut(Out):
    id: str
    name: str
    model: str
    maker: str
    family: str
    hour_meter: float = Field(description="What it has run in all, over all meters.")
    meter_offset: float = Field(description="What earlier meters had run up: the meter shows the difference.")
    bay: int


class KindOut(Out):
    """A kind of inspection; `clears`: a good verdict lets the machine work."""

    id: str
    name: str
    says: str
    clears: bool


class FindingOut(Out):
    failure_mode: str
    attributes: dict[str, AttributeValue]
    note: str


class CarriedOut(Out):
    checkpoint: str
    finding: FindingOut
    grade: GradeWord
    since: datetime
    by: str
    reports: int
    unmended: int
    due_hour: float | None


# --- entries


Gap = Annotated[float | None, Field(ge=0, le=30, allow_inf_nan=False)]


class ConditionsIn(In):
    """What the approach says. Gaps: metres to what stands beside it; null: nothing does."""

    air_c: Finite = Field(default=15.0, ge=-60, le=60)
    pitch_deg: Finite = Field(default=0.0, ge=-45, le=45)
    roll_deg: Finite = Field(default=0.0, ge=-45, le=45)
    dark: bool = False
    rain: bool = False
    people_on_foot: bool = False
    shift_hours: Finite = Field(default=10.0, gt=0, le=24)
    moved: bool = False
    serviced: bool = False
    transported: bool = False
    frost: bool = False
    gap_left: Gap = None
    gap_right: Gap = None
    gap_rear: Gap = None
    gap_front: Gap = None


class FindingIn(In):
    failure_mode: Slug
    attributes: dict[Slug, AttributeValue] = {}
    note: Prose = ""


class OpenedIn(In):
    kind: Literal["opened"] = "opened"
    hour_meter: Finite = Field(ge=0, le=200_000)
    conditions: ConditionsIn = ConditionsIn()
    options: list[Slug] = []
    purpose: Slug = "pre-start"


class AnsweredIn(In):
    kind: Literal["answered"] = "answered"
    checkpoint: Slug
    answer: Answer
    findings: list[FindingIn] = Field(default=[], max_length=12)
    reason: Prose = ""
    amends: Prose = ""


class MeasuredIn(In):
    kind: Literal["measured"] = "measured"
    checkpoint: Slug
    seen: Finite
    oil_c: Finite
    pitch_deg: Finite
    roll_deg: Finite
    extensions: dict[Slug, Finite]
    amends: Prose = ""


class ArrivedIn(In):
    kind: Literal["arrived"] = "arrived"
    station: Slug


class NotedIn(In):
    kind: Literal["noted"] = "noted"
    text: Prose
    checkpoint: Slug | Literal[""] = ""


class PhotographedIn(In):
    kind: Literal["photographed"] = "photographed"
    photo: Uuid7
    checkpoint: Slug


class UndoneIn(In):
    kind: Literal["undone"] = "undone"
    target: Uuid7


class SignedIn(In):
    kind: Literal["signed"] = "signed"
    covers: list[Uuid7] = Field(max_length=5000)
    outcome: Outcome


What = Annotated[
    OpenedIn | AnsweredIn | MeasuredIn | ArrivedIn | NotedIn | PhotographedIn | UndoneIn | SignedIn,
    Field(discriminator="kind"),
]


class EntryIn(In):
    """An entry as the device made it. `by` is the person's id, `at` the device's time."""

    id: Uuid7
    by: Uuid
    at: datetime
    what: What


class BatchIn(In):
    machine: Slug
    inspection: Uuid7
    entries: list[EntryIn] = Field(min_length=1, max_length=500)


class RefusedOut(Out):
    id: str
    kind: str
    says: str
    field: str | None
    again: bool


class TakenOut(Out):
    stored: list[str]
    known: list[str]
    refused: list[RefusedOut]


class EntryOut(Out):
    id: str
    by: str
    at: datetime
    kind: str
    what: dict[str, Any]


# --- readings and verdict


class FigureOut(Out):
    name: str
    value: float
    unit: str


class JudgementOut(Out):
    band: Band
    action: str
    why: str
    figures: list[FigureOut]


class HydraulicLevelIn(In):
    model: Slug
    seen: Finite
    oil_c: Finite
    pitch_deg: Finite = 0.0
    roll_deg: Finite = 0.0
    extensions: dict[Slug, Finite]


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
    other_must_sign: bool


class VerdictOut(Out):
    outcome: Outcome
    why: str
    items: list[ItemOut]
    combined: list[CombinedOut]
    released: list[ReleaseOut]
    limits: list[str]
    left: list[str]
    levels: list[tuple[str, HydraulicLevelOut]]
    valid_until: datetime | None
    valid_until_hour: float | None
    rulebook: str
    regime: str


class CarriedIn(In):
    checkpoint: Slug
    finding: FindingIn
    grade: GradeWord
    since: datetime
    by: str
    reports: int = Field(ge=1, le=100_000)
    unmended: int = Field(default=0, ge=0, le=100_000)
    due_hour: Finite | None = None


class GradeIn(In):
    """One finding on a machine of this model: what would its grade be?"""

    model: Slug
    options: list[Slug] = []
    conditions: ConditionsIn = ConditionsIn()
    hour_meter: Finite = Field(default=0.0, ge=0, le=200_000)
    checkpoint: Slug
    finding: FindingIn
    carried: list[CarriedIn] = Field(default=[], max_length=200)


class StationPaceOut(Out):
    station: str
    name: str
    planned_s: int
    taken_s: float | None
    hurried: bool


class ShowMeOut(Out):
    checkpoint: str
    name: str
    shown: bool


class PaceOut(Out):
    """How honestly it was walked: shown to the one who walks."""

    planned_s: int
    taken_s: float
    stations: list[StationPaceOut]
    asks: list[ShowMeOut]


class InspectionOut(Out):
    id: str
    machine: MachineOut
    kind: KindOut
    pace: PaceOut
    status: Status
    hour_meter: float
    conditions: ConditionsIn
    entries: list[EntryOut]
    late: list[str]
    verdict: VerdictOut
    people: dict[str, str]
    opened_at: datetime | None
    signed_at: datetime | None
    signed_by: str | None


class InspectionRowOut(Out):
    id: str
    machine: str
    kind: str
    kind_name: str
    status: Status
    outcome: Outcome
    why: str
    opened_at: datetime
    opened_by: str
    signed_at: datetime | None
    signed_by: str | None
    hour_meter: float
    answered: int
    planned: int
    worst: list[GradeWord]


class HistoryOut(Out):
    inspections: list[InspectionRowOut]
