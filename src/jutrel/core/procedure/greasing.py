"""Greasing point by point: where the fittings are, which are due, and what became of each."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated

from jutrel.core.inspection.finding import Hours, Prose
from jutrel.core.log.codec import Between, Slug
from jutrel.core.log.entry import Entry
from jutrel.core.log.kinds import StreamKind, kind
from jutrel.core.people import WALKERS
from jutrel.core.wording import Words

EACH_SHIFT_H = 10.0
"""A point that is due as often or more often is greased each shift, whatever the meter says."""


class Took(StrEnum):
    """What became of a point. Blocked: a fitting takes no grease or is missing. Left: not greased, on purpose."""

    GREASED = "greased"
    BLOCKED = "blocked"
    LEFT = "left"


@kind("greased", StreamKind.LOOK, WALKERS)
@dataclass(frozen=True, slots=True)
class Greased:
    """A lubrication point: what became of it, with how many strokes in all, at how many hours of the machine."""

    point: Slug
    took: Took
    strokes: Annotated[int, Between(0, 600)]
    hours: Hours
    note: Prose = ""


@dataclass(frozen=True, slots=True)
class GreasePoint:
    """A joint that is greased by hand.

    Parameters
    ----------
    at
        The checkpoint whose place it has on the machine, and where a blocked fitting is reported.
    fittings, strokes
        How many there are, and strokes of a hand gun for each; common practice, the manual comes first.
    every_h
        How often [h].
    options, without, schools
        On which machines: with an option, without one, where a school is in force.
    """

    id: str
    name: Annotated[str, Words("grease")]
    at: str
    fittings: int
    strokes: int
    every_h: float
    options: frozenset[str] = frozenset()
    without: frozenset[str] = frozenset()
    schools: frozenset[str] = frozenset()

    def fits(self, options: frozenset[str], schools: frozenset[str]) -> bool:
        """Whether a machine with these options has it to be greased by hand, under these schools."""
        return self.options <= options and not self.without & options and self.schools <= schools


@dataclass(frozen=True, slots=True)
class PointNow:
    """A point as it stands. `said`: what became of it in this run; `last`: when it was greased before [h]."""

    point: GreasePoint
    due: bool
    said: Entry | None
    last: float | None

    @property
    def unsaid(self) -> bool:
        """Whether it is due and nobody said what became of it."""
        return self.due and self.said is None


def last_greased(entries: Iterable[Entry]) -> dict[str, float]:
    """At how many hours [h] each point was greased last, by all runs of the machine; a blocked one was not."""
    out: dict[str, float] = {}
    for e in entries:
        if isinstance(e.what, Greased) and e.what.took is Took.GREASED:
            out[e.what.point] = max(e.what.hours, out.get(e.what.point, 0.0))
    return out


def points_now(
    points: Iterable[GreasePoint], entries: Sequence[Entry], before: Mapping[str, float], hours: float
) -> tuple[PointNow, ...]:
    """Each point as it stands: `entries` are this run's, `before` what was greased earlier, `hours` the machine's [h].

    Of two who speak of one point, the word that is not good news counts: a blocked fitting stays blocked until
    somebody who saw that word says otherwise.

    >>> pin = GreasePoint("pin", "Pins", "pins", 2, 3, 50.0)
    >>> [points_now([pin], [], {"pin": 6200.0}, h)[0].due for h in (6210.0, 6250.0)]
    [False, True]
    """
    worst = (Took.BLOCKED, Took.LEFT, Took.GREASED)
    replaced = {r for e in entries for r in e.replaces}
    said: dict[str, Entry] = {}
    for e in sorted(entries, key=lambda e: (e.time, e.id)):
        if not isinstance(e.what, Greased) or e.id in replaced:
            continue
        have = said.get(e.what.point)
        if have is None or worst.index(e.what.took) < worst.index(have.what.took):  # type: ignore[attr-defined]
            said[e.what.point] = e
    out = []
    for p in points:
        last = before.get(p.id)
        due = last is None or p.every_h <= EACH_SHIFT_H or hours - last >= p.every_h - EACH_SHIFT_H / 2
        # At hours that the machine has not reached yet: typed wrongly, and nobody knows when it was.
        due = due or (last is not None and last > hours + EACH_SHIFT_H)
        out.append(PointNow(p, due, said.get(p.id), last))
    return tuple(out)
