"""What the control units of a machine warn of: each by itself, all of them counted."""

from __future__ import annotations

from collections import deque
from collections.abc import Mapping
from dataclasses import dataclass, field

from jutrel.core.panel.faults import Faults
from jutrel.core.procedure.kinds import Colour
from jutrel.core.wording import Said, say

RED_LAMP, OTHER_LAMP, MANY = "lamp-red", "lamp-amber", "fault-many"
SILENT_AFTER_S = 60.0
"""What a unit said that has told no fault message for so long is no longer shown, unless it was red."""
MOST_CODES, MOST_NEW, NEW_WITHIN_S = 100, 40, 10.0
"""Codes that are told by themselves at once, and new ones within so many seconds; the rest is told as many."""

LAMP_SAYS: Mapping[str, Said] = {
    RED_LAMP: say("The red stop lamp is lit, with no code. Stop the engine now."),
    OTHER_LAMP: say("A warning lamp is lit, with no code: read it on the machine's own panel."),
    MANY: say("So many fault codes that they cannot be told one by one: read the machine's own panel."),
}


@dataclass
class Units:
    """What each control unit's newest fault message says, by its address. A red stays until that unit says otherwise.

    `patience`: as of the reader, where time runs faster than the clock.
    """

    patience: float = 1.0
    _said: dict[int, tuple[float, Faults]] = field(default_factory=dict)
    _known: frozenset[str] = frozenset()
    _new: deque[float] = field(default_factory=deque)

    def take(self, at: float, source: int, faults: Faults) -> None:
        """Take a unit's fault message at a time [s]: of this unit it counts in place of what it said before."""
        self._said[source] = at, faults

    def holds(self, at: float) -> dict[str, Colour]:
        """What all of them warn of at a time [s]: the name of an alert, and how urgent.

        >>> from jutrel.core.panel.faults import Code
        >>> units = Units()
        >>> units.take(0.0, 0, Faults(frozenset({"red"}), (Code(100, 1),)))
        >>> units.take(0.1, 3, Faults())
        >>> {k: c.value for k, c in units.holds(0.2).items()}
        {'fault-100-1': 'red'}
        >>> units.take(0.3, 0, Faults(frozenset({"red"})))
        >>> {k: c.value for k, c in units.holds(0.4).items()}
        {'lamp-red': 'red'}
        """
        found: dict[str, Colour] = {}
        for source, (when, faults) in sorted(self._said.items()):
            red = "red" in faults.lamps
            if not red and at - when > SILENT_AFTER_S * self.patience:
                del self._said[source]
                continue
            names = [f"fault-{c.spn}-{c.mode}" for c in faults.codes]
            if not names and faults.lamps:
                names = [RED_LAMP if red else OTHER_LAMP]
            for name in names:
                if found.get(name) is not Colour.RED:
                    found[name] = Colour.RED if red else Colour.AMBER
        return self._few(at, found)

    def _few(self, at: float, found: dict[str, Colour]) -> dict[str, Colour]:
        """Those that are told by themselves, known ones first; the rest as many, as urgent as the worst of it."""
        while self._new and at - self._new[0] > NEW_WITHIN_S * self.patience:
            self._new.popleft()
        out = {name: c for name, c in found.items() if name in self._known}
        for name, colour in sorted(found.items(), key=lambda x: x[1] is not Colour.RED):
            if name in out:
                continue
            if len(out) < MOST_CODES and len(self._new) < MOST_NEW:
                out[name] = colour
                self._new.append(at)
            elif out.get(MANY) is not Colour.RED:
                out[MANY] = colour
        self._known = frozenset(out) - {MANY}
        return out
