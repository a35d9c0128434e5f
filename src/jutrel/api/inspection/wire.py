"""What goes over the wire: looks and their records."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import Field

from jutrel.api.inspection.wire_finding import ConditionsIn
from jutrel.api.inspection.wire_verdict import FindingOut, VerdictOut
from jutrel.api.wire import GradeWord, KindOut, MachineOut, Out
from jutrel.core.defect.authority import Clear
from jutrel.core.grading.verdict import Outcome
from jutrel.core.inspection.look import Status
from jutrel.core.inspection.pace import Pace, ShowMe, StationPace
from jutrel.core.people import Role


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


class AnswerOut(Out):
    """What stands at a checkpoint. `heads`: the entries in force; more than one when people `differ`.

    `clear`: what it takes of the person who asks to put something milder in its place.
    """

    checkpoint: str
    heads: list[str]
    by: list[str]
    answer: Literal["sound", "defect", "unseen", "read"]
    differ: bool
    findings: list[FindingOut]
    reason: str
    given: dict[str, float] | None = Field(description="Where a reading is the answer: its inputs.")
    grade: GradeWord
    clear: Clear


class UndoableOut(Out):
    """The newest entry that this person can take back; `reason`: it takes one."""

    id: str
    kind: str
    checkpoint: str
    reason: bool


# --- readings and verdict


class StationPaceOut(Out, of=StationPace):
    pass


class ShowMeOut(Out, of=ShowMe):
    pass


class PaceOut(Out, of=Pace):
    """How honestly it was walked: shown to the one who walks."""

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
