"""Which station must come before which, and why."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from jutrel.core.errors import BadInput
from jutrel.core.machine.family import EngineState, Level
from jutrel.core.machine.model import Walk
from jutrel.core.wording import Said, say

CLIMBED = (Level.DECK, Level.CAB)
POWERED = (EngineState.KEY_ON, EngineState.IDLING)


class Direction(StrEnum):
    """Which way round, seen from above."""

    CLOCKWISE = "clockwise"
    ANTICLOCKWISE = "anticlockwise"


@dataclass(frozen=True, slots=True)
class ComesBefore:
    """`first` comes before `then`."""

    first: str
    then: str
    says: Said
    carries: bool = False
    """The first are steps that must carry whoever goes on to the other."""


def order_rules(walk: Walk) -> tuple[ComesBefore, ...]:
    """The rules of order for a walk: safety first, then what only tells the truth cold."""
    stations = {s.id: s for s in walk.stations}
    approach = walk.stations[0].id
    rules = [
        ComesBefore(approach, s, say("The approach comes first: ground, stance and people are seen from a distance."))
        for s in stations
        if s != approach
    ]
    for access in walk.model.access:
        checked = walk.station_of(access.checked_by)
        for station in access.leads_to:
            if checked in stations and station in stations and checked not in (station, *access.leads_to):
                says = say("{steps} are checked before they carry you.", steps=Said(access.name, (), "access"))
                rules.append(ComesBefore(checked, station, says, carries=True))
    engine = {s: {c.engine for c in walk.at(s)} for s in stations}
    for cold in (s for s in stations if EngineState.OFF_COLD in engine[s]):
        for powered in (s for s in stations if s != cold and engine[s] & set(POWERED)):
            if EngineState.OFF_COLD not in engine[powered]:
                rules.append(ComesBefore(cold, powered, say("What is read cold comes before anything is switched on.")))
    for rule in walk.model.family.order:
        rules += [
            ComesBefore(rule.first, then, Said(rule.says, (), "order"))
            for then in rule.then
            if rule.first in stations and then in stations
        ]
    for cab in (s for s in stations.values() if s.level is Level.CAB):
        rules += [
            ComesBefore(
                s, cab.id, say("The cab comes last: nobody sits at the levers while someone is at the machine.")
            )
            for s in stations
            if s != cab.id and stations[s].level is not Level.CAB
        ]
    return tuple(dict.fromkeys(rules))


def start_rules(walk: Walk, start: str, rules: Sequence[ComesBefore]) -> tuple[ComesBefore, ...]:
    """Rules that make `start` the first station after the approach, as a school may want it.

    Raises
    ------
    BadInput
        If there is no such station, or another one has to come before it.
    """
    approach = walk.stations[0].id
    if start not in {s.id for s in walk.stations}:
        raise BadInput("pin_start", "this walk has no station '{it}'", it=start)
    for rule in rules:
        if rule.then == start and rule.first != approach:
            raise BadInput("pin_start", "'{it}' cannot be the first: {why}", it=start, why=rule.says)
    if start == approach:
        return ()
    return tuple(
        ComesBefore(start, s.id, say("It starts there, as pinned."))
        for s in walk.stations
        if s.id not in (start, approach)
    )


def direction_rules(
    walk: Walk, direction: Direction, start: str | None, blocked: frozenset[str], rules: Sequence[ComesBefore]
) -> tuple[ComesBefore, ...]:
    """Rules that lead the ground stations round in one direction, beginning at `start`.

    Where another rule wants something first, that goes first and the lap goes on from there.
    """
    places = walk.model.station_places
    ground = [s.id for s in walk.stations[1:] if s.level not in CLIMBED and s.id not in blocked]
    origin = start if start in ground else walk.stations[0].id
    sign = -1.0 if direction is Direction.CLOCKWISE else 1.0

    def turned(station: str) -> float:
        (x, y), (x0, y0) = places[station], places[origin]
        return (sign * (math.atan2(y, x) - math.atan2(y0, x0))) % math.tau

    waiting = sorted(ground, key=turned)
    needs = {s: {g for g in ground if g != s and s in _following(g, rules)} for s in ground}
    lap: list[str] = []
    while waiting:
        free = next((s for s in waiting if needs[s] <= set(lap)), waiting[0])
        waiting.remove(free)
        lap.append(free)
    clockwise = direction is Direction.CLOCKWISE
    says = say("It goes round clockwise, as pinned.") if clockwise else say("It goes round anticlockwise, as pinned.")
    return tuple(ComesBefore(a, b, says) for i, a in enumerate(lap) for b in lap[i + 1 : i + 2])


def blocked_rules(
    stations: Sequence[str], blocked: frozenset[str], rules: Sequence[ComesBefore]
) -> tuple[ComesBefore, ...]:
    """Rules that leave blocked stations as late as the others allow.

    What waits for one of them may come after any: else two that are blocked could each have to wait for the other.
    """
    later = set().union(*(_following(b, rules) for b in blocked))
    return tuple(
        ComesBefore(s, b, say("Blocked: left until the rest is done."))
        for b in sorted(blocked)
        for s in stations
        if s not in blocked and s not in later
    )


def _following(station: str, rules: Sequence[ComesBefore]) -> set[str]:
    """Every station that has to wait for `station`, directly or through others."""
    found: set[str] = set()
    queue = [station]
    while queue:
        here = queue.pop()
        for rule in rules:
            if rule.first == here and rule.then not in found:
                found.add(rule.then)
                queue.append(rule.then)
    return found
