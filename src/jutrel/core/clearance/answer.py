"""What clearance says: a proof, premise by premise, or a refusal with what is missing and the first step out of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from jutrel.core.grading.grade import Grade
from jutrel.core.wording import NOTHING, Said


class Act(StrEnum):
    """The first step out of a refusal, and whose it is."""

    WALK = "walk"
    FINISH = "finish"
    SHORT = "short"
    SEE = "see"
    REPAIR = "repair"
    EXAMINE = "examine"
    UNLOCK = "unlock"
    ACCEPT = "accept"
    METER = "meter"
    SAY = "say"
    FILE = "file"
    CLOCK = "clock"
    JUDGE = "judge"


@dataclass(frozen=True, slots=True)
class Premise:
    """Something that is proven: which premise, in words, the entry or inspection that gives it, and what ends it."""

    key: str
    says: Said
    entry: str = ""
    until: datetime | None = None
    until_hour: float | None = None
    """Hours of the machine over all meters [h]."""


@dataclass(frozen=True, slots=True)
class Unproven:
    """Something that is not proven. `held`: it is not started at all, and an engine that runs is stopped.

    `ends`: it ends work under way at once, too. `entry`: the entry or inspection that it is about.
    """

    key: str
    says: Said
    act: Act
    held: bool = False
    entry: str = ""
    ends: bool = False


Says = Premise | Unproven


@dataclass(frozen=True, slots=True)
class ClearanceAnswer:
    """Yes with its premises, or no with what is missing. `needs`: which premises there have to be, by their keys."""

    premises: tuple[Premise, ...]
    lacks: tuple[Unproven, ...]
    needs: tuple[str, ...]

    @classmethod
    def of(cls, found: Sequence[Says], needs: Sequence[str]) -> ClearanceAnswer:
        """An answer from what was found and what was not."""
        premises = tuple(x for x in found if isinstance(x, Premise))
        return cls(premises, tuple(x for x in found if isinstance(x, Unproven)), tuple(needs))

    @property
    def may(self) -> bool:
        """Whether it is proven: every premise is there, and nothing speaks against it."""
        return not self.lacks and set(self.needs) <= {p.key for p in self.premises}

    @property
    def held(self) -> bool:
        """Whether it is not started at all."""
        return any(x.held for x in self.lacks)

    @property
    def ended(self) -> Unproven | None:
        """What ends work that is under way at once, beside a Hold."""
        return next((x for x in self.lacks if x.ends), None)

    @property
    def why(self) -> Said:
        """The first thing that is missing; empty where nothing is."""
        return self.lacks[0].says if self.lacks else NOTHING

    @property
    def until(self) -> datetime | None:
        """Until when it holds by the clock."""
        return min((p.until for p in self.premises if p.until is not None), default=None)

    @property
    def until_hour(self) -> float | None:
        """Until which hour of the machine it holds [h]."""
        return min((p.until_hour for p in self.premises if p.until_hour is not None), default=None)


@dataclass(frozen=True, slots=True)
class Clearance:
    """What may be done with a machine now. `grade`: the worst that stands on it; `limits`: what it works within."""

    start: ClearanceAnswer
    work: ClearanceAnswer
    grade: Grade
    limits: tuple[Said, ...]
    why: Said
    whose: frozenset[str] = frozenset()
    """For whom it is cleared, if it is."""
    put_right: ClearanceAnswer = ClearanceAnswer((), (), ("named",))
    """Whether whoever asks may start it to put it right: a named act, never work."""
    moved: bool = False
    """Whether that is to move it to a named place."""
    lately_over: bool = False
    """Whether its hour is over since a few minutes: what is up is put down then."""
    shared: tuple[Said, ...] = ()
    """What of it no single defect says: several things together, or what nobody could see."""
