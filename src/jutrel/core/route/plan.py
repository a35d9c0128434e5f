"""The way round a machine: shortest in walking and climbing, and honest about what comes first."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from jutrel.core.errors import BadInput
from jutrel.core.machine.family import Level
from jutrel.core.machine.model import Access, Walk
from jutrel.core.route.ground import Ground, Line, Polygon
from jutrel.core.route.order import best_order
from jutrel.core.route.precedence import (
    CLIMBED,
    ComesBefore,
    Direction,
    blocked_rules,
    direction_rules,
    order_rules,
    start_rules,
)
from jutrel.core.wording import Said, say

WALKING_M_PER_S = 1.0  # gloves, boots, uneven ground; common practice
DECK_M_PER_S = 0.7
KNEEL_S = 4.0  # down on a knee and up again, lamp in hand; common practice


@dataclass(frozen=True, slots=True)
class Wishes:
    """What is asked of a route.

    `pin_start`: the first station after the approach; `direction`: which way round;
    `blocked`: stations that cannot be reached now; `beside`: convex outlines [m] of what
    stands near; `done`: stations that need no visit any more; `here`: the station stood at.
    """

    pin_start: str | None = None
    direction: Direction | None = None
    blocked: frozenset[str] = frozenset()
    beside: tuple[Line, ...] = ()
    done: frozenset[str] = frozenset()
    here: str | None = None


@dataclass(frozen=True, slots=True)
class Leg:
    """The way to a station: a line [m], walking [m], climbing and kneeling [s], both together [s], looking [s]."""

    station: str
    line: Line
    metres: float
    climb_s: float
    seconds: float
    look_s: int
    blocked: bool = False


@dataclass(frozen=True, slots=True)
class Unreached:
    """A station that no way leads to, and what waits for it."""

    station: str
    says: Said


@dataclass(frozen=True, slots=True)
class Route:
    """Legs in order; times [s]; the rules that shaped it; what is left out; states looked at for the proof."""

    legs: tuple[Leg, ...]
    moving_s: float
    looking_s: int
    rules: tuple[ComesBefore, ...]
    unreached: tuple[Unreached, ...]
    states: int

    @property
    def seconds(self) -> float:
        """Walking, climbing and looking together [s]."""
        return self.moving_s + self.looking_s


@lru_cache(maxsize=128)
def _ground(obstacles: tuple[Line, ...]) -> Ground:
    return Ground(obstacles)


class Lap:
    """All ways between the stations of a walk, measured once."""

    def __init__(self, walk: Walk, beside: Sequence[Polygon] = ()) -> None:
        self.walk = walk
        self.stations = [s.id for s in walk.stations]
        self.look = {s: sum(c.seconds for c in walk.at(s)) for s in self.stations}
        self.kneel = {s.id: KNEEL_S if s.level is Level.UNDER else 0.0 for s in walk.stations}
        obstacles = (*walk.model.obstacles, *(tuple(p) for p in beside))
        self.ground = _ground(obstacles)
        self.access: dict[str, Access] = {
            s.id: access
            for access in walk.model.access
            for s in walk.stations
            if s.id in access.leads_to and s.level in CLIMBED
        }
        places = walk.model.station_places
        # Where one stands on the ground for a station: its place, its gate, or the foot of its ladder.
        self.feet = [
            self.access[s].foot if s in self.access else walk.model.gates.get(s, places[s]) for s in self.stations
        ]
        self.ways = self.ground.ways(self.feet)
        self.reached = {s: self.ground.free(foot) for s, foot in zip(self.stations, self.feet, strict=True)}

    def _last_steps(self, station: str) -> float:
        """From gate to standing place [m]."""
        gate = self.walk.model.gates.get(station)
        return math.dist(gate, self.walk.model.station_places[station]) if gate else 0.0

    def leg(self, a: str, b: str) -> Leg:
        """The way from station a to station b."""
        i, j = self.stations.index(a), self.stations.index(b)
        here, there = self.access.get(a), self.access.get(b)
        places = self.walk.model.station_places
        if a == b:
            return Leg(b, (places[b],), 0.0, 0.0, 0.0, self.look[b])
        if here is not None and here is there:
            metres = math.dist(places[a], places[b])
            return Leg(b, (places[a], places[b]), metres, 0.0, metres / DECK_M_PER_S, self.look[b])
        line, metres = self.ways[i][j]
        metres += self._last_steps(a) + self._last_steps(b)
        climb = (here.down_s if here else 0.0) + (there.up_s if there else 0.0) + self.kneel[b]
        head = (places[a],) if places[a] != line[0] else ()
        tail = (places[b],) if places[b] != line[-1] else ()
        return Leg(b, (*head, *line, *tail), metres, climb, metres / WALKING_M_PER_S + climb, self.look[b])

    def matrix(self, stations: Sequence[str]) -> list[list[float]]:
        """Seconds of walking and climbing between every two of `stations`."""
        return [[self.leg(a, b).seconds for b in stations] for a in stations]


def before_bits(stations: Sequence[str], rules: Sequence[ComesBefore]) -> list[int]:
    """For each station the bits of those that must come before it."""
    at = {s: i for i, s in enumerate(stations)}
    bits = [0] * len(stations)
    for rule in rules:
        if rule.first in at and rule.then in at:
            bits[at[rule.then]] |= 1 << at[rule.first]
    return bits


def _unreached(lap: Lap, rules: Sequence[ComesBefore], start: str) -> tuple[Unreached, ...]:
    """Stations that no way leads to, and those that may not be visited without them."""
    names = {s.id: s.name for s in lap.walk.stations}
    out: dict[str, Said] = {}
    for s in lap.stations:
        if s != start and not math.isfinite(lap.leg(start, s).seconds):
            out[s] = say(
                "No way leads to it: what stands beside leaves less than a shoulder's breadth. {station} waits.",
                station=Said(names[s], (), "station"),
            )
    ladders = [r for r in rules if r.then in lap.access and r.carries]
    for rule in ladders:
        if rule.first in out and rule.then not in out:
            out[rule.then] = say(
                "Waits for {station}: {why}", station=Said(names[rule.first], (), "station"), why=rule.says
            )
    return tuple(Unreached(s, says) for s, says in out.items())


def _check(walk: Walk, wishes: Wishes) -> None:
    known = {s.id for s in walk.stations}
    for field, asked in (("blocked", wishes.blocked), ("done", wishes.done), ("here", {wishes.here} - {None})):
        for station in sorted(str(s) for s in asked):
            if station not in known:
                raise BadInput(
                    field, "this walk has no station '{it}'; one of {those}", it=station, those=", ".join(sorted(known))
                )


def all_rules(walk: Walk, wishes: Wishes) -> tuple[ComesBefore, ...]:
    """Every rule that this route has to keep; raises BadInput if pins contradict the others."""
    rules = order_rules(walk)
    if wishes.pin_start is not None:
        if wishes.pin_start in wishes.blocked:
            raise BadInput("pin_start", "'{it}' is blocked: start somewhere else", it=wishes.pin_start)
        rules += start_rules(walk, wishes.pin_start, rules)
    if wishes.direction is not None:
        rules += direction_rules(walk, wishes.direction, wishes.pin_start, wishes.blocked, rules)
    if wishes.blocked:
        rules += blocked_rules([s.id for s in walk.stations], wishes.blocked, rules)
    return rules


def plan_route(walk: Walk, wishes: Wishes = Wishes(), lap: Lap | None = None) -> Route:
    """The proven shortest way round, in seconds of walking and climbing, that keeps every rule.

    Raises
    ------
    BadInput
        If a wish names no station of this walk, or pins contradict the rules of order.
    """
    _check(walk, wishes)
    lap = lap or Lap(walk, wishes.beside)
    rules = all_rules(walk, wishes)
    start = wishes.here or lap.stations[0]
    unreached = _unreached(lap, rules, start)
    gone = {u.station for u in unreached} | (wishes.done - {start})
    stations = [start, *(s for s in lap.stations if s not in gone and s != start)]
    # What is done already asks nothing of the order; where one stands comes first as it is.
    waiting = [r for r in rules if r.first not in wishes.done and r.first != start and r.then != start]
    order = best_order(lap.matrix(stations), before_bits(stations, waiting))
    legs, before = [], start
    for index in order.places:
        station = stations[index]
        if station == start and start in wishes.done:
            continue
        leg = lap.leg(before, station)
        legs.append(replace(leg, blocked=station in wishes.blocked))
        before = station
    return Route(tuple(legs), sum(x.seconds for x in legs), sum(x.look_s for x in legs), rules, unreached, order.states)
