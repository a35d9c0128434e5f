"""Frames to a panel: decoded, put together, watched; one machine, or many at once, each by itself."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from jutrel.core.panel.control_units import ControlUnits
from jutrel.core.panel.faults import ANNOUNCE, DM1, PIECE, Collector, read_faults
from jutrel.core.panel.figures import PanelFigures
from jutrel.core.panel.identity import IDENTIFICATION, Identities
from jutrel.core.panel.senders import Senders
from jutrel.core.panel.signals import BY_PGN, EVERYBODY, Value
from jutrel.core.panel.steady import Steady
from jutrel.core.panel.told import PanelEvent, happened
from jutrel.core.panel.watch import Alert, Panel, heard, rules_for, stands_for
from jutrel.core.procedure.kinds import Colour

JUDGED_EVERY_S = 0.2
"""Frames of one moment are judged together."""
BACK_S = 1.0
"""A clock that goes back by more than this has been set back; by less, frames of several lines came out of order."""


@dataclass
class Reader:
    """Reads one machine's bus. `panel`: what is known as of the last time it was judged; `frames`: how many came.

    `happened`: what a run goes by, in order, until somebody takes it away. `set_back`: how often the clock of what is
    read went back; times go on from where they were then.
    """

    panel: Panel = field(default_factory=Panel)
    frames: int = 0
    happened: list[PanelEvent] = field(default_factory=list)
    set_back: int = 0
    senders: Senders = field(default_factory=Senders)
    identities: Identities = field(default_factory=Identities)
    _fresh: dict[str, Value] = field(default_factory=dict)
    _warned: bool = False
    _judged_at: float = -1.0
    _last: float = float("-inf")
    _shift: float = 0.0
    _pieces: Collector = field(default_factory=Collector)
    _units: ControlUnits = field(default_factory=ControlUnits)
    _steady: Steady = field(default_factory=Steady)
    _figures: PanelFigures = field(default_factory=PanelFigures)

    def __post_init__(self) -> None:
        """All that waits has the same patience; by whose word it goes is said in the panel."""
        self.senders.patience = self._units.patience = self._steady.patience = self.panel.patience
        self.identities.patience = self.panel.patience
        self.panel = replace(self.panel, named=self.senders.engine is not None)
        self._last = self.panel.at

    def named(self, engine: int | None, figures: PanelFigures | None = None) -> None:
        """Take the address of the engine that the machine's file names; None: it names none. `figures`: its own."""
        self.senders.named(engine)
        if figures is not None and figures != self._figures:
            self._figures = figures
            self.panel = replace(self.panel, rules=rules_for(figures), stands_from=stands_for(figures))
        if self.panel.named is not (engine is not None):
            self.panel = replace(self.panel, named=engine is not None)

    def take(self, at: float, pgn: int, source: int, data: bytes, to: int = EVERYBODY) -> tuple[Alert, ...]:
        """Take a frame at a time [s]; what began to hold with it. What is addressed to one unit is not for us."""
        self.frames += 1
        at += self._shift
        if at < self._last:
            at = self._back(at)
        self._last = at
        senders = self.senders
        if senders.alone.get(pgn) == source:  # so it is with nearly every frame
            senders.came[pgn] = at, data
        elif pgn in BY_PGN:
            senders.take(at, pgn, source, data, self._fresh)
        elif to == EVERYBODY:
            if pgn in (ANNOUNCE, PIECE):
                whole = self._pieces.take(pgn, source, data, at)
                if whole is None:
                    return ()
                pgn, data = whole
            if pgn == IDENTIFICATION:
                self.identities.take(at, source, data)
            if pgn != DM1 or len(data) < 2:
                return ()
            self._units.take(at, source, read_faults(data))
            self._warned = True
        return () if at - self._judged_at < JUDGED_EVERY_S else self._judge(at)

    def tick(self, at: float) -> tuple[Alert, ...]:
        """What came until now is judged, and what did not come; what began to hold with that."""
        at += self._shift
        self._last = at if at >= self._last else self._back(at)
        return self._judge(self._last)

    def _back(self, at: float) -> float:
        """The time [s] on our own count, which never goes back, where that of what is read did.

        It may also begin before ours does: a log can count from any moment.
        """
        begins = self.frames <= 1
        if begins or self._last - at > BACK_S:
            self._shift += self._last - at
            self.set_back += not begins
        return self._last

    def _judge(self, at: float) -> tuple[Alert, ...]:
        before, senders = self.panel, self.senders
        senders.read(self._fresh)
        if senders.several:
            senders.settle(at, self._fresh)
        doubt = self._warned or before.warned or senders.strange or senders.several
        self.panel = heard(before, self._fresh, at, self._warnings(at) if doubt else None)
        self._fresh, self._judged_at = {}, at
        news: list[PanelEvent] = []
        if self.panel.alerts != before.alerts or self.panel.values != before.values:
            news = happened(before, self.panel)
        if news or self._steady.waits:
            self.happened += self._steady.pass_on(news, at)
        return tuple(a for key, a in self.panel.alerts.items() if key not in before.alerts)

    def _warnings(self, at: float) -> dict[str, Colour] | None:
        """What units warn of, and two who tell of one engine; None: the same as before."""
        both = self.senders.doubled(at)
        self._warned = False
        found = self._units.holds(at)
        if both:
            found[f"senders-{both[0]}-{both[1]}"] = Colour.AMBER
        return None if found == self.panel.warned else found
