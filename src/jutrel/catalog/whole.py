"""The catalog as a whole: what the files of its folder say, checked and put together."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Annotated

from jutrel.catalog.build_drawing import Drawings
from jutrel.core.glossary import Term
from jutrel.core.grading.rulebook import Rule, Rulebook
from jutrel.core.machine.family import Family
from jutrel.core.machine.kind import InspectionKind, Question
from jutrel.core.machine.model import Model
from jutrel.core.procedure.school import School
from jutrel.core.procedure.step import Step
from jutrel.core.wording import Words

FOLDER = Path(__file__).parent
USUAL = "house"
"""The regime of a site that chose none."""


@dataclass(frozen=True, slots=True)
class Citation:
    """A source: what it is, what it holds for, and whether it was written down from memory."""

    id: str
    text: str
    scope: Annotated[str, Words("source")]
    from_memory: bool

    @property
    def told(self) -> str:
        """As it stands beside a rule."""
        return f"{self.text} (from memory)" if self.from_memory else self.text


@dataclass(frozen=True, slots=True)
class Regime:
    """A set of floors that a site goes by: where it holds, what records it asks for, and what it includes."""

    id: str
    name: Annotated[str, Words("regime")]
    scope: Annotated[str, Words("regime")]
    caution: Annotated[str, Words("regime")]
    records: tuple[Annotated[str, Words("regime")], ...]
    floors: tuple[Rule, ...]


@dataclass(frozen=True, slots=True)
class Catalog:
    """Everything the catalog folder says, checked and cross-checked."""

    families: Mapping[str, Family]
    models: Mapping[str, Model]
    rulebook: Rulebook
    kinds: Mapping[str, InspectionKind]
    questions: tuple[Question, ...]
    rulebooks: Mapping[str, Rulebook]
    """By regime; `rulebook` is the one in force."""
    regimes: Mapping[str, Regime]
    citations: Mapping[str, Citation]
    procedures: Mapping[str, tuple[Step, ...]]
    """By family: every step that its machines can have, from key to key."""
    schools: tuple[School, ...]
    """Where good hands differ."""
    glossary: tuple[Term, ...] = ()
    """What else people say for a thing."""
    judgement: str = ""
    """The version of the core's judgement by which all this is read."""
    drawings: Drawings = field(default_factory=Drawings)
    """What the machines are drawn from."""

    def under(self, regime: str) -> Catalog:
        """The same catalog with the rules of a regime in force; of the usual one, where there is no such."""
        return replace(self, rulebook=self.rulebooks.get(regime, self.rulebooks[USUAL]))
