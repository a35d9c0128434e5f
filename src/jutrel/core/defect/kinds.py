"""Entries about a defect outside a look: seen, isolated, accepted within its limits, repaired, checked again."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated

from jutrel.core.log.codec import WORDS, EntryId, Most, Slug, Text
from jutrel.core.log.kinds import StreamKind, kind
from jutrel.core.people import WALKERS, Role

Told = Annotated[str, Text(2000, 3, WORDS)]


@kind("acknowledged", StreamKind.DEFECT, frozenset({Role.MECHANIC, Role.SUPERVISOR}))
@dataclass(frozen=True, slots=True)
class Acknowledged:
    """Somebody who answers for it has seen it. It changes nothing of the machine."""

    checkpoint: Slug
    failure_mode: Slug
    note: Annotated[str, Text(2000)] = ""


class AskedOf(StrEnum):
    """Who can be asked: whoever repairs, and whoever answers for working within limits."""

    MECHANIC = "mechanic"
    SUPERVISOR = "supervisor"


@kind("asked", StreamKind.DEFECT, WALKERS)
@dataclass(frozen=True, slots=True)
class Asked:
    """Somebody who may not do it asks for it: of whom, and in their words why. It changes nothing of the machine."""

    checkpoint: Slug
    failure_mode: Slug
    role: AskedOf
    note: Annotated[str, Text(400)] = ""


@kind("isolated", StreamKind.DEFECT, frozenset({Role.MECHANIC}))
@dataclass(frozen=True, slots=True)
class Isolated:
    """The repair has begun: which energies were shut off, and how (stands, locks, pressure let out)."""

    checkpoint: Slug
    failure_mode: Slug
    energies: Annotated[tuple[Slug, ...], Most(12)]
    how: Told


@kind("accepted", StreamKind.DEFECT, frozenset({Role.SUPERVISOR}))
@dataclass(frozen=True, slots=True)
class Accepted:
    """A supervisor accepts by name that it works within its limits. It holds until the thing is reported anew."""

    checkpoint: Slug
    failure_mode: Slug
    reason: Told


@kind("released", StreamKind.DEFECT, frozenset({Role.MECHANIC}))
@dataclass(frozen=True, slots=True)
class Released:
    """The defect is mended: what was done. The entry's `replaces` names the reports that the mechanic saw."""

    checkpoint: Slug
    failure_mode: Slug
    done: Told
    parts: Annotated[str, Text(400)] = ""


@kind("rechecked", StreamKind.DEFECT, WALKERS)
@dataclass(frozen=True, slots=True)
class Rechecked:
    """Another competent person looked at a release and found it good."""

    release: EntryId
