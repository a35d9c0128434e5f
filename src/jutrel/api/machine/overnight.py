"""Route: what changed while a machine was parked."""

from __future__ import annotations

from datetime import datetime

from fastapi import APIRouter

from jutrel.api.door import PROBLEMS, Who, Work
from jutrel.api.language import Tongue
from jutrel.api.wire import Out, Slug, Uuid7
from jutrel.core.inspection.finding import Finding
from jutrel.core.machine.overnight import Change, findings_at, left_at
from jutrel.core.wording import Wording
from jutrel.service.context import Here
from jutrel.service.machine.overnight import left_and_found, parked
from jutrel.service.people.people import names_of

router = APIRouter(prefix="/api", tags=["machine"], responses=PROBLEMS)


class ChangedOut(Out):
    """Something found in the evening, in the morning, or both; as it was seen, in words."""

    checkpoint: str
    place: str
    failure: str
    change: Change
    evening: str
    morning: str


class LostOut(Out):
    """What a level lost while it stood."""

    checkpoint: str
    place: str
    litres: float
    unsure: float
    an_hour: float
    says: str


class OvernightOut(Out):
    """The window, who left it, who found it, what changed. Null where it never stood between two looks."""

    parked_at: datetime
    parked_by: str
    found_at: datetime
    found_by: str
    changes: list[ChangedOut]
    lost: list[LostOut]


class LeftOut(Out):
    """How a place was left, in words; empty: it was looked at, and nothing was found."""

    checkpoint: str
    said: str


class EveningOut(Out):
    """How a machine was left before a look, at the places that somebody looked at."""

    at: datetime
    places: list[LeftOut]


def _seen(finding: Finding | None, here: Here, wording: Wording) -> str:
    if finding is None:
        return ""
    book = here.catalog.rulebook
    words = []
    for key, value in finding.attributes.items():
        attribute = book.attributes.get(key)
        label = next((c.label for c in attribute.choices if c.id == value), "") if attribute else ""
        words += [wording.word("choice", label)] if label else []
    return ". ".join([*words, *([finding.note] if finding.note else [])])


@router.get("/machines/{machine}/overnight")
async def get_overnight(
    here: Work, who: Who, wording: Tongue, machine: Slug, inspection: Uuid7 | None = None
) -> OvernightOut | None:
    """The evening's look against the one after it, level by level and place by place."""
    found = await parked(here, machine, inspection)
    if found is None:
        return None
    told, morning = found
    names, book = await names_of(here), here.catalog.rulebook
    places = {c.id: wording.word("checkpoint", c.name) for c in morning.walk.checkpoints}

    def failure(mode: str) -> str:
        return wording.word("failure", book.modes[mode].name) if mode in book.modes else mode

    return OvernightOut(
        parked_at=told.parked_at,
        parked_by=names.get(told.parked_by, "?"),
        found_at=told.found_at,
        found_by=names.get(told.found_by, "?"),
        changes=[
            ChangedOut(
                checkpoint=c.checkpoint,
                place=places.get(c.checkpoint, c.checkpoint),
                failure=failure(c.failure_mode),
                change=c.change,
                evening=_seen(c.evening, here, wording),
                morning=_seen(c.morning, here, wording),
            )
            for c in told.changes
        ],
        lost=[
            LostOut(
                checkpoint=x.checkpoint,
                place=places.get(x.checkpoint, x.checkpoint),
                litres=round(x.litres, 2),
                unsure=round(x.unsure, 2),
                an_hour=round(x.an_hour, 3),
                says=wording.say(x.says),
            )
            for x in told.lost
        ],
    )


@router.get("/machines/{machine}/evening")
async def get_evening(here: Work, who: Who, wording: Tongue, machine: Slug, inspection: Uuid7) -> EveningOut | None:
    """How the machine was left before a look, to be told at the place concerned while one walks."""
    found = await left_and_found(here, machine, inspection)
    if found is None:
        return None
    left, book = found[0], here.catalog.rulebook
    places = []
    for c in left.walk.checkpoints:
        seen = findings_at(left, c.id)
        if seen is None:
            continue
        said = []
        for mode, finding in seen.items():
            name = wording.word("failure", book.modes[mode].name) if mode in book.modes else mode
            said.append(": ".join(x for x in (name, _seen(finding, here, wording)) if x))
        places.append(LeftOut(checkpoint=c.id, said=". ".join(said)))
    return EveningOut(at=left_at(left), places=places)
