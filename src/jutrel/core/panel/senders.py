"""Whose word counts on a bus: each sender by itself, the engine by the address that the machine's file names.

Where the file names none, and of groups that are not the engine's, the worse of several senders counts.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

from jutrel.core.panel.signals import BY_PGN, Lack, Value, decode, decode_into
from jutrel.core.panel.watch import LOWER_IS_WORSE, UPPER_IS_WORSE

ENGINE_GROUPS = frozenset({61443, 61444, 65253, 65262, 65263, 65266, 65270})
"""Groups that an engine's own control unit sends, and nobody else of that engine (from memory)."""
GONE_S = 5.0
"""A sender of a group that says nothing for so long is gone; a group is sent once a second or more."""


@dataclass
class Senders:
    """Who sends which group. `engine`: the engine's address by the machine's file; None: the file names none.

    `patience`: so many times as long a sender may stay away, where time runs faster than the clock.
    """

    engine: int | None = None
    patience: float = 1.0
    alone: dict[int, int] = field(default_factory=dict)
    """The one sender of a group."""
    last: dict[int, tuple[float, bytes]] = field(default_factory=dict)
    """What the one sender of a group said last, and when; what stands in `came` is newer."""
    came: dict[int, tuple[float, bytes]] = field(default_factory=dict)
    """What the one sender of a group said last since `read`, and when: a group that came often is decoded once."""
    several: dict[int, dict[int, tuple[float, bytes]]] = field(default_factory=dict)
    """What each sender of a group said last, and when, where they are several."""
    strange: dict[int, float] = field(default_factory=dict)
    """When somebody who is not the engine sent one of its groups last."""
    _engine_at: dict[int, float] = field(default_factory=dict)
    """When each sender told a speed of an engine last."""

    def named(self, engine: int | None) -> None:
        """Take the engine's address from the machine's file: what others said of its groups counts no longer."""
        if engine == self.engine:
            return
        self.engine = engine
        for pgn in ENGINE_GROUPS:
            self.several.pop(pgn, None)
            self.alone.pop(pgn, None)
            self.came.pop(pgn, None)
        self.strange.clear()

    def read(self, into: dict[str, Value]) -> None:
        """Decode what came from those who are alone with their group; the last of each group counts."""
        for pgn, (_, data) in self.came.items():
            decode_into(pgn, data, into)
        self.last.update(self.came)
        self.came.clear()

    def take(self, at: float, pgn: int, source: int, data: bytes, into: dict[str, Value]) -> None:
        """Take a frame of one of our groups at a time [s]; where it is the only sender, `read` puts its values in."""
        if self.alone.get(pgn) == source:
            self.came[pgn] = at, data
            return
        self.read(into)
        if pgn in ENGINE_GROUPS:
            self._engine_at[source] = at
            if self.engine is not None and source != self.engine:
                self.strange[source] = at
                return
        if pgn in self.several:
            self.several[pgn][source] = at, data
            return
        before = self.alone.get(pgn)
        if before is None or (self.engine is not None and pgn in ENGINE_GROUPS) or self._gone(self.last[pgn][0], at):
            self.alone[pgn], self.last[pgn] = source, (at, data)
            decode_into(pgn, data, into)
            return
        del self.alone[pgn]
        self.several[pgn] = {before: self.last.pop(pgn), source: (at, data)}

    def settle(self, at: float, into: dict[str, Value]) -> None:
        """What several senders of a group come to at a time [s]; a sender who is gone counts no longer."""
        for pgn, said in list(self.several.items()):
            for source in [s for s, (when, _) in said.items() if self._gone(when, at)]:
                del said[source]
            if not said:
                del self.several[pgn]
                continue
            if len(said) == 1:
                (self.alone[pgn], self.last[pgn]) = next(iter(said.items()))
                del self.several[pgn]
            told = [decode(pgn, said[source][1]) for source in sorted(said)]
            for signal in BY_PGN[pgn]:
                into[signal.key] = worst(signal.key, [values[signal.key] for values in told])

    def doubled(self, at: float) -> tuple[int, int] | None:
        """Two addresses that tell of the same engine at a time [s]; None: there is one at most."""
        if not self.strange and not self.several:
            return None
        telling = [s for s, when in self.strange.items() if not self._gone(when, at)]
        if self.engine is not None:
            return (self.engine, min(telling)) if telling else None
        both = {s for pgn, said in self.several.items() if pgn in ENGINE_GROUPS for s in said}
        if len(both) < 2:
            return None
        first, second, *_ = sorted(both)
        return first, second

    def engines(self, at: float) -> tuple[int, ...]:
        """The addresses that tell of an engine at a time [s]."""
        last = {**self.last, **self.came}
        alone = {s for pgn, s in self.alone.items() if pgn in ENGINE_GROUPS and not self._gone(last[pgn][0], at)}
        return tuple(sorted(alone | {s for s, when in self._engine_at.items() if not self._gone(when, at)}))

    def _gone(self, when: float, at: float) -> bool:
        return at - when > GONE_S * self.patience


def worst(key: str, values: Iterable[Value]) -> Value:
    """The worst of what several said of a signal, the first of them where it has no worse; a value before none.

    >>> worst("oil-pressure", [340.0, 0.0, Lack.ERROR]), worst("coolant", [88.0, 104.0]), worst("boost", [12.0, 90.0])
    (0.0, 104.0, 12.0)
    >>> worst("oil-pressure", [Lack.NOT_AVAILABLE, Lack.ERROR]).value
    'error'
    """
    said = list(values)
    known = [v for v in said if not isinstance(v, Lack)]
    if not known:
        return Lack.ERROR if Lack.ERROR in said else Lack.NOT_AVAILABLE
    if key in UPPER_IS_WORSE:
        return max(known)
    return min(known) if key in LOWER_IS_WORSE else known[0]
