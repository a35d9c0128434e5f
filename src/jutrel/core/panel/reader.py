"""Frames to a panel: decoded, put together, watched; one machine, or many at once, each by itself."""

from __future__ import annotations

from dataclasses import dataclass, field

from jutrel.core.panel.faults import ANNOUNCE, DM1, PIECE, Collector, Faults, read_faults
from jutrel.core.panel.signals import Value, decode_into
from jutrel.core.panel.told import Happened, happened
from jutrel.core.panel.watch import Alert, Panel, heard

JUDGED_EVERY_S = 0.2
"""Frames of one moment are judged together."""


@dataclass
class Reader:
    """Reads one machine's bus. `panel`: what is known as of the last time it was judged; `frames`: how many came.

    `happened`: what a run goes by, in order, until somebody takes it away.
    """

    panel: Panel = field(default_factory=Panel)
    frames: int = 0
    happened: list[Happened] = field(default_factory=list)
    _fresh: dict[str, Value] = field(default_factory=dict)
    _faults: Faults | None = None
    _judged_at: float = -1.0
    _pieces: Collector = field(default_factory=Collector)

    def take(self, at: float, pgn: int, source: int, data: bytes) -> tuple[Alert, ...]:
        """Take a frame at a time [s]; what began to hold with it."""
        self.frames += 1
        if not decode_into(pgn, data, self._fresh):
            if pgn in (ANNOUNCE, PIECE):
                whole = self._pieces.take(pgn, source, data, at)
                if whole is None:
                    return ()
                pgn, data = whole
            if pgn != DM1 or len(data) < 2:
                return ()
            self._faults = read_faults(data)
        return () if at - self._judged_at < JUDGED_EVERY_S else self.tick(at)

    def tick(self, at: float) -> tuple[Alert, ...]:
        """What came until now is judged, and what did not come; what began to hold with that."""
        before = self.panel
        self.panel = heard(before, self._fresh, at, self._faults)
        self._fresh, self._faults, self._judged_at = {}, None, at
        if self.panel.alerts != before.alerts or self.panel.values != before.values:
            self.happened += happened(before, self.panel)
        return tuple(a for key, a in self.panel.alerts.items() if key not in before.alerts)
