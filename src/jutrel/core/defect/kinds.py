"""Entries about a defect outside a look: a mechanic releases it, another person checks that."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from jutrel.core.log.codec import EntryId, Slug, Text
from jutrel.core.log.kinds import StreamKind, kind
from jutrel.core.people import WALKERS, Role


@kind("released", StreamKind.DEFECT, frozenset({Role.MECHANIC}))
@dataclass(frozen=True, slots=True)
class Released:
    """The defect is mended: what was done. The entry's `replaces` names the reports that the mechanic saw."""

    checkpoint: Slug
    failure_mode: Slug
    done: Annotated[str, Text(2000, 3)]


@kind("rechecked", StreamKind.DEFECT, WALKERS)
@dataclass(frozen=True, slots=True)
class Rechecked:
    """Another competent person looked at a release and found it good."""

    release: EntryId
