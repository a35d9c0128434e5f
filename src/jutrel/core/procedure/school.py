"""Schools: where good hands differ, what a site or a model chose, and what counts where nobody did."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Annotated

from jutrel.core.errors import BadInput
from jutrel.core.wording import Words

WAY_ROUND = "way-round"
"""The school of which way round a machine is walked."""
COOL_DOWN = "cool-down"
"""The school of how long it idles before it is stopped."""


@dataclass(frozen=True, slots=True)
class SchoolChoice:
    """One way of doing it. `minutes`: of a wait that is always as long."""

    id: str
    name: Annotated[str, Words("school")]
    why: Annotated[str, Words("school")]
    minutes: float | None = None


@dataclass(frozen=True, slots=True)
class School:
    """A question on which good hands differ.

    Parameters
    ----------
    usual
        The choice that counts where nobody chose, and `why`.
    families
        Which machines it is about; empty: all.
    by_model
        The maker decides: a site cannot choose, since the wrong way ruins the machine.
    at
        Checkpoints at which it is told how it is done here.
    """

    id: str
    asks: Annotated[str, Words("school")]
    why: Annotated[str, Words("school")]
    choices: tuple[SchoolChoice, ...]
    usual: str
    families: frozenset[str] = frozenset()
    by_model: bool = False
    at: tuple[str, ...] = ()

    @property
    def settled(self) -> bool:
        """Whether it is done in one way on every site, because a life hangs on it."""
        return len(self.choices) == 1

    def choice(self, chosen: str) -> SchoolChoice:
        """A choice by its id; raises BadInput if there is none."""
        found = next((c for c in self.choices if c.id == chosen), None)
        if found is None:
            raise BadInput("choice", "'{it}' is not one of {those}", it=chosen, those=[c.id for c in self.choices])
        return found


def in_force(schools: Iterable[School], site: Mapping[str, str], model: Mapping[str, str]) -> dict[str, str]:
    """What is done on a machine: as its maker wants it, else as the site chose, else as is usual.

    A choice that there is no longer is as if nobody had chosen.

    >>> two = (SchoolChoice("end", "", ""), SchoolChoice("start", "", ""))
    >>> in_force([School("grease", "", "", two, "end")], {"grease": "start"}, {})
    {'grease': 'start'}
    """
    out = {}
    for school in schools:
        offered = {c.id for c in school.choices}
        said = [model.get(school.id), None if school.by_model else site.get(school.id), school.usual]
        out[school.id] = next(c for c in said if c in offered)
    return out


def told_at(checkpoint: str, schools: Iterable[School], chosen: Mapping[str, str]) -> tuple[str, ...]:
    """How it is done here at a checkpoint, where good hands differ.

    >>> two = (SchoolChoice("marks", "Witness marks, daily", ""), SchoolChoice("torque", "Torque check", ""))
    >>> told_at("wheel-nuts", [School("nuts", "", "", two, "marks", at=("wheel-nuts",))], {"nuts": "torque"})
    ('Torque check',)
    """
    here = (s for s in schools if checkpoint in s.at and s.id in chosen)
    return tuple(s.choice(chosen[s.id]).name for s in here)


def as_words(chosen: Mapping[str, str]) -> frozenset[str]:
    """Choices as the words by which steps name them.

    >>> as_words({"grease": "end"})
    frozenset({'grease.end'})
    """
    return frozenset(f"{school}.{choice}" for school, choice in chosen.items())
