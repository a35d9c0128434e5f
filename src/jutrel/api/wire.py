"""What goes over the wire: requests and responses, typed for the OpenAPI document."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from jutrel.core.defect.authority import Clear, Ground
from jutrel.core.grading.verdict import Outcome
from jutrel.core.inspection.look import Status
from jutrel.core.log.kinds import all_kinds, payload_schema
from jutrel.core.machine.unit import Units
from jutrel.core.people import Role
from jutrel.core.reading.judgement import Band
from jutrel.core.reading.leak import Coupling, LeakClass

Uuid = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$")]
Uuid7 = Annotated[
    str, StringConstraints(pattern=r"^[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$")
]
UUID7 = "^[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$"
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
    language: str = Field(default="", description="The language they chose; empty: none.")


class DoorOut(Out):
    """What the sign-in page shows: the site and who may sign in."""

    site: str
    people: list[PersonOut]
    hint: str


class SessionOut(Out):
    person: PersonOut
    site: str
    zone: str
    units: Units = Field(description="What people of the site usually read.")
    numbers: list[tuple[str, str]] = Field(description="Whom they call in an emergency, and under which number.")
    now: datetime = Field(description="The server's clock, for the device to measure its own by.")


class PenOut(Out):
    """A pen: with its secret, entries of this person on this device can be sent later, by whoever is signed in."""

    id: str
    secret: str
    ends_at: datetime


class SignedInOut(SessionOut):
    pen: PenOut


class LanguageIn(In):
    language: Slug


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


class PutRightOut(Out):
    done: str
    amount: str


class FindingOut(Out):
    failure_mode: str
    attributes: dict[str, AttributeValue]
    note: str
    put_right: PutRightOut | None = None


class DefectOut(Out):
    """Something open on the machine. `entries`: what one has seen who answers there; `clear`: what clearing takes."""

    id: str
    checkpoint: str
    finding: FindingOut
    grade: GradeWord
    since: datetime
    by: str
    reports: int
    limits: list[str]
    due_hour: float | None
    entries: list[str]
    clear: Clear
    needs: str
    pending_by: str


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
    shift_hours: Finite = Field(default=10.0, ge=0.5, le=24)
    moved: bool = False
    serviced: bool = False
    transported: bool = False
    frost: bool = False
    gap_left: Gap = None
    gap_right: Gap = None
    gap_rear: Gap = None
    gap_front: Gap = None


class PutRightIn(In):
    done: Annotated[str, StringConstraints(min_length=1, max_length=400, pattern=r"^[^\x00]*$")]
    amount: Annotated[str, StringConstraints(max_length=80, pattern=r"^[^\x00]*$")] = ""


class FindingIn(In):
    failure_mode: Slug
    attributes: dict[Slug, AttributeValue] = Field(default={}, max_length=24)
    note: Prose = ""
    put_right: PutRightIn | None = None


def _typed(**says: Any) -> Callable[[dict[str, Any]], None]:
    """A schema that the document shows, for a field that is read by the core's own decoder."""

    def write(schema: dict[str, Any]) -> None:
        title = schema.get("description")
        schema.clear()
        schema.update(says)
        if title:
            schema["description"] = title

    return write


def _what_schema(schema: dict[str, Any]) -> None:
    """What an entry may hold: one of the declared kinds, from the core's own declarations."""
    schema.clear()
    schema["oneOf"] = [payload_schema(k) for k in all_kinds() if k.stream != "file"]


class EntryIn(BaseModel):
    """An entry as the device made it. `by` is the person's id, `at` the device's time.

    Each entry is read by itself: one that cannot be read is refused by itself.
    """

    model_config = ConfigDict(
        extra="allow", json_schema_extra={"required": ["id", "by", "at", "what"], "additionalProperties": False}
    )

    id: Any = Field(default=None, json_schema_extra=_typed(type="string", format="uuid", pattern=UUID7))
    by: Any = Field(default=None, json_schema_extra=_typed(type="string", format="uuid"))
    at: Any = Field(default=None, json_schema_extra=_typed(type="string", format="date-time"))
    what: Any = Field(default=None, json_schema_extra=_what_schema)
    replaces: Any = Field(
        default=[],
        description="Ids of the entries that the author saw there and sets aside.",
        json_schema_extra=_typed(type="array", items={"type": "string", "pattern": UUID7}, maxItems=500),
    )
    offset_ms: Any = Field(
        default=None,
        description="Server's clock minus the device's when last measured; null: never.",
        json_schema_extra=_typed(anyOf=[{"type": "integer"}, {"type": "null"}]),
    )


Stream = Annotated[
    str,
    StringConstraints(
        pattern=r"^(defect\.)?[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}(\.[0-9]{1,2})?$"
    ),
]


class BatchIn(In):
    """Entries of one look, or of one defect (`defect.` and its id). `pens`: secrets of those who wrote them."""

    machine: Slug
    stream: Stream
    entries: list[EntryIn] = Field(min_length=1, max_length=500)
    pens: list[Annotated[str, StringConstraints(max_length=100)]] = Field(default=[], max_length=40)
    since: int | None = Field(
        default=None, ge=0, description="The place in the machine's log up to which the device knows the look."
    )


class RefusedOut(Out):
    id: str
    kind: str
    says: str
    field: str | None
    again: bool


class EntryOut(Out):
    """An entry. `at` as far as the server can vouch for it; `counts`: false if it was taken back or has no right."""

    id: str
    seq: int
    by: str
    role: Role
    at: datetime
    kind: str
    what: dict[str, Any]
    counts: bool
    says: str = Field(default="", description="Why it does not count.")


class MeasuredOut(Out):
    seen: float
    oil_c: float
    pitch_deg: float
    roll_deg: float
    extensions: dict[str, float]


class AnswerOut(Out):
    """What stands at a checkpoint. `heads`: the entries in force; more than one when people `differ`.

    `clear`: what it takes of the person who asks to put something milder in its place.
    """

    checkpoint: str
    heads: list[str]
    by: list[str]
    answer: Literal["sound", "defect", "unseen", "measured"]
    differ: bool
    findings: list[FindingOut]
    reason: str
    measured: MeasuredOut | None
    grade: GradeWord
    clear: Clear


class UndoableOut(Out):
    """The newest entry that this person can take back; `reason`: it takes one."""

    id: str
    kind: str
    checkpoint: str
    reason: bool


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
    ground: Ground
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
    together: int = Field(default=0, description="How many checkpoints were answered by one tap with others.")


class OpeningOut(Out):
    purpose: str
    hour_meter: float
    options: list[str]
    conditions: ConditionsIn


class NoteOut(Out):
    id: str
    text: str
    checkpoint: str


class InspectionOut(Out):
    """A look as the core tells it: what stands at each checkpoint, who differs, what does not count, the verdict."""

    id: str
    machine: MachineOut
    kind: KindOut
    pace: PaceOut
    status: Status
    hour_meter: float
    conditions: ConditionsIn
    opened: OpeningOut | None
    seq: int = Field(description="The place in the machine's log up to which this tells.")
    answers: list[AnswerOut]
    notes: list[NoteOut]
    photos: dict[str, list[str]]
    visits: list[str] = Field(description="Stations in the order in which they were come to.")
    undoable: UndoableOut | None
    entries: list[EntryOut]
    late: list[str]
    verdict: VerdictOut
    people: dict[str, str]
    joined: list[str] = Field(description="Who takes part.")
    handed_over: str
    abandoned: str
    opened_at: datetime | None
    signed_at: datetime | None
    signed_by: str | None
    edition: str
    locked: str = Field(
        description="Why the machine is not started whatever this look found: somebody works on it, or something "
        "happened to it since. Empty: nothing of that."
    )


class LookNowOut(Out):
    """What has become of a look since a place of the machine's log."""

    id: str
    seq: int = Field(description="The place up to which this tells.")
    since: int
    entries: list[str] = Field(description="Entries that came in since.")
    answers: list[AnswerOut] = Field(description="Those that may be otherwise.")
    gone: list[str] = Field(description="Checkpoints at which no answer stands.")
    status: Status
    notes: list[NoteOut]
    photos: dict[str, list[str]]
    visits: list[str]
    undoable: UndoableOut | None
    late: list[str]
    verdict: VerdictOut
    joined: list[str]


class TakenOut(Out):
    """What became of a batch; `look`: the look after it, if `since` asked for it."""

    stored: list[str]
    known: list[str]
    refused: list[RefusedOut]
    now: datetime = Field(description="The server's clock.")
    look: LookNowOut | None


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
