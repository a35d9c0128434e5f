"""What goes over the wire about a machine's file and about models."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Field, StringConstraints

from jutrel.api.machine.wire import DrawingOut, ReadingOut, SidesOut
from jutrel.api.wire import NO_NUL, Finite, In, MachineOut, Out, PickOut, Prose, Slug, Uuid7
from jutrel.core.machine.unit import Unit
from jutrel.core.people import Role
from jutrel.service.people.people import Person

Name = Annotated[str, StringConstraints(min_length=1, max_length=40, pattern=NO_NUL)]


class LimitKindOut(Out):
    """A figure of a model; no unit: words, or one of `choices`. `low` and `high` bound what a unit's own may be."""

    id: str
    name: str
    unit: str
    low: float
    high: float
    choices: list[PickOut]
    value: float | str | None


class ModelOut(Out):
    """A model the site can use; `edition` 0 is the one that ships."""

    id: str
    maker: str
    name: str
    family: str
    edition: int
    by: str | None
    at: datetime | None
    options: list[PickOut]
    limits: list[LimitKindOut]
    checkpoints: int
    machines: list[str] = Field(description="Names of the site's machines of this model.")


class SignedByOut(Out):
    """Who signed a model file; `key`: the fingerprint of the site's key, `own`: it is this site's."""

    site: str
    at: datetime
    key: str
    own: bool


class ModelTakenOut(ModelOut):
    """A model file that was taken in, or could be."""

    signed_by: SignedByOut | None = Field(description="Null: nobody signed it.")


class ModelsOut(Out):
    models: list[ModelOut]
    key: str = Field(description="The fingerprint of this site's key, to be read out to a site that takes a file in.")


class ModelIn(In):
    """A model file. `id` is made by the client, so that sending twice adds one edition."""

    id: Uuid7
    name: Annotated[str, StringConstraints(pattern=NO_NUL, min_length=1, max_length=80)]
    text: Annotated[str, StringConstraints(max_length=500_000)]
    keep: bool = Field(default=True, description="False: only say whether it could be taken in.")
    signer: Annotated[str, StringConstraints(pattern=NO_NUL, max_length=40)] = Field(
        "", description="The fingerprint that was compared with the other site; for a file that another site signed."
    )


class FiledIn(In):
    """The unit as it is to stand in its file."""

    id: Uuid7
    name: Name
    model_id: Slug
    options: list[Slug] = Field(default=[], max_length=60)
    own_limits: dict[Slug, Finite | Annotated[str, StringConstraints(max_length=80, pattern=NO_NUL)]] = Field(
        default={}, max_length=60
    )
    bay: int = Field(default=0, ge=0, le=9999)
    note: Prose = ""
    active: bool = True
    hour_meter: Finite = Field(default=0.0, ge=0, le=200_000, description="Of a unit that is new here.")


class MeterIn(In):
    """Another hour meter: last reading of the old one, first of the new one."""

    id: Uuid7
    last: Finite = Field(ge=0, le=200_000)
    first: Finite = Field(default=0.0, ge=0, le=200_000)
    why: Prose


class CorrectionIn(In):
    """A wrong reading: the entry it stands in, its right figure or null to strike it, and why."""

    id: Uuid7
    reading: Uuid7
    hours: Finite | None = Field(default=None, ge=0, le=200_000)
    why: Prose


class LockIn(In):
    """A lock that somebody puts on: what they do at the machine."""

    id: Uuid7
    why: Prose


class UnlockIn(In):
    """A lock that goes off. `reason`: of another's, how it was made sure that nobody is at the machine."""

    id: Uuid7
    reason: Prose = ""


class LockOut(Out):
    """A lock that is on. `yours`: you may take it off; `with_reason`: it is another's, so say how you made sure."""

    id: str
    by: str
    at: datetime
    why: str
    repair: bool
    yours: bool
    with_reason: bool


def locks_out(unit: Unit, who: Person, names: dict[str, str]) -> list[LockOut]:
    """The locks on a machine as this person sees them."""
    out = []
    for lock in unit.standing.locks:
        own, may = lock.by == who.id, lock.by == who.id or who.role is Role.SUPERVISOR
        by = names.get(lock.by, lock.by)
        out.append(
            LockOut(
                id=lock.id, by=by, at=lock.at, why=lock.text, repair=lock.repair, yours=may, with_reason=may and not own
            )
        )
    return out


class FileEntryOut(Out):
    """One entry of a machine's file; `changed` names the fields that differ from the entry before."""

    id: str
    by: str
    at: datetime
    kind: Literal["filed", "meter-replaced", "meter-corrected", "pictured", "good-shown", "locked", "unlocked"]
    what: dict[str, Any]
    changed: list[str]


class MachineFileOut(Out):
    machine: MachineOut
    model: ModelOut
    options: list[str]
    own_limits: dict[str, float | str]
    note: str
    active: bool
    photo: str | None
    meter: float = Field(description="What the hour meter shows, as last known.")
    readings: list[ReadingOut] = Field(description="The newest readings of the meter, newest first.")
    entries: list[FileEntryOut]
    people: dict[str, str]
    drawing: DrawingOut
    sides: SidesOut
    may_edit: bool
    locks: list[LockOut]
