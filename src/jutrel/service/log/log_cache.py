"""What this process worked out of a machine's log: kept as long as the log ends where it ended then."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Awaitable, Callable
from typing import Any, TypeVar

from jutrel.core.machine.unit import Unit

MOST_MACHINES = 64
MOST_THINGS = 12
T = TypeVar("T")


class Shelf:
    """Things worked out of logs, by machine. The last link of a chain says all of what is in the log before it.

    So what is kept under it is right for whoever finds the log ending there: another process may have written in
    between, a transaction may have been undone, a backup may have been brought back.
    """

    def __init__(self) -> None:
        self._of: OrderedDict[tuple[str, str], tuple[int, str, OrderedDict[str, Any]]] = OrderedDict()

    def at(self, site: str, unit: Unit) -> OrderedDict[str, Any]:
        """What is kept of a machine's log that ends as this unit's does; to be added to."""
        key = (site, unit.id)
        seq, head, things = self._of.get(key, (-1, "", OrderedDict()))
        if (seq, head) == (unit.seq, unit.head):
            self._of.move_to_end(key)
            return things
        fresh: OrderedDict[str, Any] = OrderedDict()
        if unit.seq >= seq:  # who reads an earlier state does not push out a later one
            self._of[key] = (unit.seq, unit.head, fresh)
            self._of.move_to_end(key)
            if len(self._of) > MOST_MACHINES:
                self._of.popitem(last=False)
        return fresh

    def may_know(self, machine: str, name: str) -> bool:
        """Whether something of that name is kept of a machine, wherever its log ends by now."""
        return any(name in things for (_, of), (_, _, things) in self._of.items() if of == machine)

    def put(self, site: str, unit: Unit, name: str, thing: object) -> None:
        """Keep something of a log that ends as this unit's does."""
        things = self.at(site, unit)
        things[name] = thing
        things.move_to_end(name)
        if len(things) > MOST_THINGS:
            things.popitem(last=False)

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
