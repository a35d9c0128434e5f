"""What this process worked out of a machine's log: kept as long as the log ends where it ended then."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field
from typing import Any, TypeVar

from jutrel.core.machine.unit import Unit

MOST_BYTES = 400_000_000
"""So much is kept in all, as it is weighed: a thousand machines with a walk of a hundred entries under way."""
MOST_THINGS = 12
USUAL_BYTES = 20_000
"""What a thing weighs that does not say so itself."""
T = TypeVar("T")


@dataclass(slots=True)
class _Kept:
    """What is kept of one log, with where it ended and what it weighs."""

    seq: int
    head: str
    things: OrderedDict[str, Any] = field(default_factory=OrderedDict)
    weight: int = 0


def _weight(thing: object) -> int:
    return int(getattr(thing, "weight", USUAL_BYTES))


class Shelf:
    """Things worked out of logs, by machine. The last link of a chain says all of what is in the log before it.

    So what is kept under it is right for whoever finds the log ending there: another process may have written in
    between, a transaction may have been undone, a backup may have been brought back. What was used longest ago goes
    first when it becomes too much: how many machines there are decides nothing.
    """

    def __init__(self, most_bytes: int = MOST_BYTES) -> None:
        self._most = most_bytes
        self._weight = 0
        self._of: OrderedDict[tuple[str, str], _Kept] = OrderedDict()
        self._sites: dict[str, set[str]] = {}

    def __len__(self) -> int:
        return len(self._of)

    def at(self, site: str, unit: Unit) -> OrderedDict[str, Any]:
        """What is kept of a machine's log that ends as this unit's does; to be added to."""
        return self._at(site, unit).things

    def _at(self, site: str, unit: Unit) -> _Kept:
        key = (site, unit.id)
        kept = self._of.get(key)
        if kept is not None and (kept.seq, kept.head) == (unit.seq, unit.head):
            self._of.move_to_end(key)
            return kept
        fresh = _Kept(unit.seq, unit.head)
        if kept is None or unit.seq >= kept.seq:  # who reads an earlier state does not push out a later one
            if kept is not None:
                self._drop(key)
            self._of[key] = fresh
            self._sites.setdefault(unit.id, set()).add(site)
        return fresh

    def _drop(self, key: tuple[str, str]) -> None:
        self._weight -= self._of.pop(key).weight
        site, machine = key
        self._sites[machine].discard(site)
        if not self._sites[machine]:
            del self._sites[machine]

    def known(self, site: str, machine: str, end: tuple[int, str], name: str) -> Any:
        """What is kept under a name of a machine's log that ends there; None: nothing."""
        kept = self._of.get((site, machine))
        if kept is None or (kept.seq, kept.head) != end:
            return None
        self._of.move_to_end((site, machine))
        return kept.things.get(name)

    def may_know(self, machine: str, name: str) -> bool:
        """Whether something of that name is kept of a machine, wherever its log ends by now."""
        return any(name in self._of[site, machine].things for site in self._sites.get(machine, ()))

    def put(self, site: str, unit: Unit, name: str, thing: object) -> None:
        """Keep something of a log that ends as this unit's does."""
        kept = self._at(site, unit)
        mine = self._of.get((site, unit.id)) is kept
        before = kept.weight
        if name in kept.things:
            kept.weight -= _weight(kept.things.pop(name))
        kept.things[name] = thing
        kept.weight += _weight(thing)
        if len(kept.things) > MOST_THINGS:
            kept.weight -= _weight(kept.things.popitem(last=False)[1])
        if mine:
            self._weight += kept.weight - before
            while self._weight > self._most and len(self._of) > 1:
                self._drop(next(iter(self._of)))

    async def get(self, site: str, unit: Unit, name: str, make: Callable[[], Awaitable[T]]) -> T:
        """What is kept under a name, or worked out now."""
        things = self.at(site, unit)
        if name in things:
            things.move_to_end(name)
            found: T = things[name]
            return found
        made = await make()
        self.put(site, unit, name, made)
        return made
