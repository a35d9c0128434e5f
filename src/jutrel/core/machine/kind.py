"""Kinds of inspection: what each is for, and which checkpoints that needs."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from jutrel.core.machine.family import Checkpoint
from jutrel.core.wording import Said, Words


@dataclass(frozen=True, slots=True)
class Take:
    """Takes the checkpoints that fit everything it names; what it does not name does not matter."""

    says: Annotated[str, Words("because")]
    checkpoints: frozenset[str] = frozenset()
    systems: frozenset[str] = frozenset()
    classes: frozenset[str] = frozenset()
    modes: frozenset[str] = frozenset()
    how: frozenset[str] = frozenset()
    mandatory_only: bool = False
    duties: frozenset[str] = frozenset()

    def fits(self, c: Checkpoint) -> bool:
        """Whether it takes this checkpoint."""
        return (
            (not self.checkpoints or c.id in self.checkpoints)
            and (not self.systems or c.system.id in self.systems)
            and (not self.duties or (c.duty is not None and c.duty.id in self.duties))
            and (not self.classes or c.kind in self.classes)
            and (not self.modes or bool(self.modes & set(c.failure_modes)))
            and (not self.how or c.how_kind in self.how)
            and (not self.mandatory_only or c.mandatory)
        )


@dataclass(frozen=True, slots=True)
class InspectionKind:
    """A kind of inspection.

    `clears`: a good verdict lets the machine work. `ends`: from here on what cleared the machine
    earlier holds no longer. `sees_changes`: takes what changed since the look before.
    `walked`: it is walked round the machine; a run from key to key is not.
    `continues`: it clears only while a whole inspection still holds that it goes on from.
    `by_interval`: what is looked at every so many hours or days is left out until then.
    `answers_add`: what an answer makes mandatory is looked at even if the kind would not take it.
    """

    id: str
    name: Annotated[str, Words("inspection")]
    says: Annotated[str, Words("inspection")]
    clears: bool
    takes: tuple[Take, ...]
    answers_add: bool = True
    ends: bool = False
    sees_changes: bool = False
    walked: bool = True
    continues: bool = False
    by_interval: bool = False

    def reason_for(self, c: Checkpoint) -> str | None:
        """Why this kind takes a checkpoint; None if it does not."""
        return next((take.says for take in self.takes if take.fits(c)), None)


@dataclass(frozen=True, slots=True)
class Question:
    """Something the approach asks, or works out from what it was told; `says` is what a yes means.

    `computed`: not asked, known from the figures.
    """

    id: str
    asks: Annotated[str, Words("question")]
    says: Annotated[str, Words("because")]
    computed: bool = False


@dataclass(frozen=True, slots=True)
class Because:
    """A change that an answer made to a walk: added, removed or must (made mandatory)."""

    checkpoint: str
    name: Annotated[str, Words("checkpoint")]
    change: str
    says: Said
