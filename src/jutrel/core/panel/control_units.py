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
MOST_CODES = {Colour.RED: 100, Colour.AMBER: 40}
MOST_NEW, NEW_WITHIN_S = {Colour.RED: 40, Colour.AMBER: 10}, 10.0
"""Codes that are told by themselves at once, and new ones within so many seconds; the rest is told as many."""
KNOWN_FOR_S = 60.0
"""A code that comes back within so many seconds is nothing new."""

LAMP_SAYS: Mapping[str, Said] = {
    RED_LAMP: say("The red stop lamp is lit, with no code. Stop the engine now."),
    OTHER_LAMP: say("A warning lamp is lit, with no code: read it on the machine's own panel."),
    MANY: say("So many fault codes that they cannot be told one by one: read the machine's own panel."),
}


@dataclass
class ControlUnits:
    """What each control unit's newest fault message says, by its address. A red stays until that unit says otherwise.

    `patience`: as of the reader, where time runs faster than the clock.
    """

    patience: float = 1.0
    _said: dict[int, tuple[float, Faults]] = field(default_factory=dict)
    _known: dict[str, float] = field(default_factory=dict)
    """When each code that was told by itself was there last."""
    _new: dict[Colour, deque[float]] = field(default_factory=lambda: {c: deque() for c in MOST_NEW})

    def take(self, at: float, source: int, faults: Faults) -> None:
        """Take a unit's fault message at a time [s]: of this unit it counts in place of what it said before."""
        self._said[source] = at, faults

    def holds(self, at: float) -> dict[str, Colour]:
        """What all of them warn of at a time [s]: the name of an alert, and how urgent.

        >>> from jutrel.core.panel.faults import Code
        >>> units = ControlUnits()
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
        """Those that are told by themselves; the rest as many. A red never gives way to amber."""
        for new in self._new.values():
            while new and at - new[0] > NEW_WITHIN_S * self.patience:
                new.popleft()
        if len(self._known) > len(found):
            self._known = {k: t for k, t in self._known.items() if at - t <= KNOWN_FOR_S * self.patience}
        out: dict[str, Colour] = {}
        count = dict.fromkeys(MOST_CODES, 0)
        for name, colour in found.items():
            known = name in self._known
            if count[colour] < MOST_CODES[colour] and (known or len(self._new[colour]) < MOST_NEW[colour]):
                out[name] = colour
                count[colour] += 1
                self._known[name] = at
                if not known:
                    self._new[colour].append(at)
            elif out.get(MANY) is not Colour.RED:
                out[MANY] = colour
        return out
