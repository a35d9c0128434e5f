"""Something that comes and goes is told once, with how often it came, when it has stayed away for a while."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable
from dataclasses import dataclass, field, replace

from jutrel.core.panel.told import PanelEvent, PanelEventKind
from jutrel.core.procedure.kinds import Colour

OFTEN, WITHIN_S, STEADY_S = 3, 60.0, 10.0
"""So many times within so many seconds is flicker; it is over when it has stayed away for so long."""
WORSE = (PanelEventKind.ALERT, PanelEventKind.SILENT)
BETTER = {PanelEventKind.OVER: PanelEventKind.ALERT, PanelEventKind.HEARD: PanelEventKind.SILENT}


@dataclass(slots=True)
class _One:
    """A word that comes and goes: as what it is told, when it came, and its end that waits."""

    told: Colour | None = None
    came: deque[float] = field(default_factory=deque)
    times: int = 0
    ends: PanelEvent | None = None


@dataclass
class Steady:
    """Passes on what happened, in order; the worse at once, the better when it is not to be taken for flicker.

    What the engine does, and what came to stand, is always passed on. `patience`: as of the reader.

    >>> steady, on, off = Steady(), PanelEventKind.ALERT, PanelEventKind.OVER
    >>> came = [PanelEvent(float(n), off if n % 2 else on, "hot", Colour.RED) for n in range(9)]
    >>> [h.what.value for h in steady.pass_on(came, 9.0)]
    ['alert', 'over', 'alert', 'over', 'alert']
    >>> [(h.what.value, h.value) for h in steady.pass_on([PanelEvent(10.0, off, "hot")], 10.0)]
    []
    >>> [(h.what.value, h.value) for h in steady.pass_on([], 21.0)]
    [('over', 5.0)]
    """

    patience: float = 1.0
    _words: dict[tuple[PanelEventKind, str], _One] = field(default_factory=dict)

    @property
    def waits(self) -> bool:
        """Whether there is a word whose end may have to be told."""
        return bool(self._words)

    def pass_on(self, happened: Iterable[PanelEvent], at: float) -> list[PanelEvent]:
        """Those of them that are told now, at a time [s], and the ends that have waited long enough."""
        out = []
        for h in happened:
            if h.what in WORSE:
                if self._worse(self._words.setdefault((h.what, h.word), _One()), h):
                    out.append(h)
            elif h.what in BETTER and (one := self._words.get((BETTER[h.what], h.word))) is not None:
                if self._waits(one, h):
                    one.ends = h
                else:
                    one.told = None
                    out.append(h)
            else:
                out.append(h)
        return out + self._over(at)

    def _worse(self, one: _One, h: PanelEvent) -> bool:
        """Whether it is told: not where it is told still, with this colour or a worse one."""
        if one.ends is not None or one.told is None:
            one.came.append(h.at)
            one.times += 1
        one.ends = None
        known = one.told is Colour.RED or one.told is h.colour
        if not known:
            one.told = h.colour
        return not known

    def _waits(self, one: _One, h: PanelEvent) -> bool:
        while one.came and h.at - one.came[0] > WITHIN_S * self.patience:
            one.came.popleft()
        return len(one.came) >= OFTEN

    def _over(self, at: float) -> list[PanelEvent]:
        """What has stayed away long enough; and words that were quiet for long are forgotten."""
        out = []
        for key, one in list(self._words.items()):
            if one.ends is not None and at - one.ends.at >= STEADY_S * self.patience:
                times = float(one.times) if one.ends.what is PanelEventKind.OVER else one.ends.value
                out.append(replace(one.ends, at=at, value=times))
                del self._words[key]
            elif one.told is None and (not one.came or at - one.came[-1] > WITHIN_S * self.patience):
                del self._words[key]
        return out
