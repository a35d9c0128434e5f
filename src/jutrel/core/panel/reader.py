"""Frames to a panel: decoded, put together, watched; one machine, or many at once, each by itself."""

from __future__ import annotations

from dataclasses import dataclass, field

from jutrel.core.panel.faults import ANNOUNCE, DM1, PIECE, Collector, read_faults
from jutrel.core.panel.signals import BY_PGN, decode
from jutrel.core.panel.watch import Alert, Panel, judged, taken, ticked

JUDGED_EVERY_S = 0.1
"""Frames of one moment are judged together."""


@dataclass
class Reader:
    """Reads one machine's bus. `panel` is what is known now; `news` what began and ended since it was asked last."""

    panel: Panel = field(default_factory=Panel)
    frames: int = 0
    judged_at: float = -1.0
    _pieces: Collector = field(default_factory=Collector)

    def take(self, at: float, pgn: int, source: int, data: bytes) -> tuple[Alert, ...]:
        """Take a frame at a time [s]; what began to hold with it."""
        self.frames += 1
        before = self.panel
        if pgn in (ANNOUNCE, PIECE):
            whole = self._pieces.take(pgn, source, data, at)
            if whole is None:
                return ()
            pgn, data = whole
        if pgn == DM1:
            if len(data) < 2:
                return ()
            self.panel = taken(before, {}, at, read_faults(data))
        elif pgn in BY_PGN:
            self.panel = taken(before, decode(pgn, data), at)
        else:
            return ()
        if at - self.judged_at < JUDGED_EVERY_S:
            return ()
        self.judged_at = at
        self.panel = judged(self.panel)
        return self._news(before)

    def tick(self, at: float) -> tuple[Alert, ...]:
        """Time has gone by and nothing came; what began to hold with that."""
        before = self.panel
        self.panel = ticked(before, at)
        return self._news(before)

    def _news(self, before: Panel) -> tuple[Alert, ...]:
        return tuple(a for key, a in self.panel.alerts.items() if key not in before.alerts)
