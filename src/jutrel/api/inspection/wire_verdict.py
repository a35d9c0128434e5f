"""What goes over the wire: findings, readings, verdicts."""

from __future__ import annotations

from pydantic import Field

from jutrel.api.inspection.limit_signs import LimitSign, signs_of
from jutrel.api.inspection.wire_finding import ConditionsIn, FindingIn
from jutrel.api.wire import Finite, In, Out, Slug, Uuid7
from jutrel.core.defect.settle import Ignored
from jutrel.core.grading.combine import Combined
from jutrel.core.grading.finding_grade import TraceLine
from jutrel.core.grading.item import Item
from jutrel.core.grading.taken import ReadingInForce
from jutrel.core.grading.verdict import Release, Verdict
from jutrel.core.grading.view import Aid, View
from jutrel.core.inspection.finding import Finding, PutRight
from jutrel.core.reading.judgement import Figure, Judgement
from jutrel.core.reading.leak import Coupling, LeakClass, LeakReading
from jutrel.core.reading.tank import HydraulicLevel
from jutrel.core.wording import Wording, spoken


class PutRightOut(Out, of=PutRight):
    pass


class FindingOut(Out, of=Finding):
    note: str


class FigureOut(Out, of=Figure):
    pass


class JudgementOut(Out, of=Judgement):
    pass


class HydraulicLevelOut(Out, of=HydraulicLevel):
    pass


class LeakIn(In):
    model: Slug
    fluid: Slug | None = None
    leak_class: LeakClass
    coupling: Coupling = Coupling.OTHER
    drops: Finite | None = None
    seconds: Finite | None = None
    shift_hours: Finite = 10.0


class LeakOut(Out, of=LeakReading):
    pass


class TraceOut(Out, of=TraceLine):
    pass


class ItemOut(
    Out,
    of=Item,
    without=(
        "accepted_by",
        "accepted_at",
    ),
):
    pass


class CombinedOut(Out, of=Combined):
    pass


class ReleaseOut(Out, of=Release):
    pass


class IgnoredOut(Out, of=Ignored):
    """An entry without the right to what it says: kept, not counted."""


class AidOut(Out, of=Aid):
    arcs: list[tuple[int, int]] = Field(description="What it shows: from, to, clockwise from straight ahead, degrees.")


class ViewOut(Out, of=View):
    """What cannot be seen from the seat; directions in degrees, clockwise from straight ahead."""


class ReadOut(Out, of=ReadingInForce):
    """A reading in force: where, which, what it came to, by whom, and its entry."""


class VerdictOut(Out, of=Verdict):
    """May it start? `limit_signs`: for each limit what it is about, to be drawn beside its sentence."""

    limit_signs: list[list[LimitSign]] = Field(default_factory=list)


def verdict_out(verdict: Verdict, wording: Wording) -> VerdictOut:
    """A verdict in a language."""
    signs = [list(signs_of(limit)) for limit in verdict.limits]
    return VerdictOut.model_validate({**spoken(verdict, wording), "limit_signs": signs})


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
