"""What the engine does, from what people said and from what the machine told of itself.

The worse of the two counts: it turns as long as one of them says so. That it stands a machine never says alone where
a person said that it runs; a person may say so of a machine that tells nothing any more.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime

from jutrel.core.log.entry import Entry
from jutrel.core.panel.told import PanelEventKind, PanelWord
from jutrel.core.procedure.kinds import Engine, EngineNow
from jutrel.core.procedure.words import heads
from jutrel.core.wording import NOTHING, Number, Said, say

LONGEST_CRANK_S, REST_S, MOST_TRIES = 30.0, 120.0, 3
"""Common practice, as in the reading "cranking"."""
GAP_S = 60.0
"""Silence of the bus longer than this may hide that the engine was stopped and started [s]."""
UNEXPLAINED = say("It was stopped for something. Write down what was found before it is started again.")
SPEED = "engine-speed"
ABOUT = (PanelEventKind.SILENT, PanelEventKind.HEARD)
TURNING = (EngineNow.RUNNING, EngineNow.CRANKING)


class EngineLine:
    """The course of the engine over a run: from its entries in order, and what the machine told, in order."""

    def __init__(self, entries: Sequence[Entry], told: Iterable[PanelWord] = ()) -> None:
        self.entries = [e for e in entries if isinstance(e.what, Engine)]
        self.told = [t for t in told if t.what is PanelEventKind.ENGINE or (t.word == SPEED and t.what in ABOUT)]
        self._told_turns = self._turns_told()

    def _turns_told(self) -> list[tuple[datetime, EngineNow]]:
        """When the machine told of something new; the same again after a short silence is nothing new."""
        out: list[tuple[datetime, EngineNow]] = []
        silent: datetime | None = None
        for t in self.told:
            if t.what is PanelEventKind.SILENT:
                silent = silent or t.at
                continue
            if t.what is PanelEventKind.HEARD and not out:
                continue
            state = out[-1][1] if t.what is PanelEventKind.HEARD else EngineNow(t.word)
            gap = silent is not None and (t.at - silent).total_seconds() > GAP_S
            if not out or out[-1][1] is not state or gap:
                out.append((t.at, state))
            silent = None
        return out

    def changes(self, at: datetime) -> list[Entry]:
        """What people said of it until a time."""
        return [e for e in self.entries if e.time <= at]

    def told_at(self, at: datetime) -> EngineNow | None:
        """What the machine told last; None: nothing, or a person said otherwise since it told nothing any more."""
        last: PanelWord | None = None
        silent: datetime | None = None
        for t in self.told:
            if t.at > at:
                break
            if t.what is PanelEventKind.ENGINE:
                last, silent = t, None
            elif t.what is PanelEventKind.HEARD:
                silent = None  # it tells again what it told before
            else:
                silent = silent or t.at
        if last is None or (silent is not None and any(silent <= e.time <= at for e in self.entries)):
            return None
        return EngineNow(last.word)

    def at(self, at: datetime) -> tuple[EngineNow, tuple[Entry, ...]]:
        """What the engine does at a time, and the entries that say so; who differ: it runs until both are seen."""
        found = heads(self.changes(at))
        said = {e.what.state for e in found}  # type: ignore[attr-defined]
        said.add(self.told_at(at))
        return next((state for state in TURNING if state in said), EngineNow.STOPPED), found

    def last(self, state: EngineNow, at: datetime) -> datetime | None:
        """When the engine began to do that last."""
        times = [e.time for e in self.changes(at) if e.what.state is state]  # type: ignore[attr-defined]
        times += [t for t, turned in self._told_turns if turned is state and t <= at]
        return max(times, default=None)

    def starter(self, at: datetime) -> str:
        """Who said last that it runs or is cranked; empty: nobody, the machine told so itself."""
        turned = [e for e in self.changes(at) if e.what.state is not EngineNow.STOPPED]  # type: ignore[attr-defined]
        return turned[-1].by if turned else ""

    def _turns(self, at: datetime) -> list[tuple[datetime, EngineNow, str, bool]]:
        """All turns in order: when, which, why, and whether the machine told it."""
        said = [(e.time, e.what.state, e.what.why, False) for e in self.changes(at)]  # type: ignore[attr-defined]
        said += [(t, state, "", True) for t, state in self._told_turns if t <= at]
        return sorted(said, key=lambda x: x[0])

    def turned(self, at: datetime) -> list[datetime]:
        """When somebody or the machine said something of it, and when the bus fell silent, until a time."""
        return [e.time for e in self.changes(at)] + [t.at for t in self.told if t.at <= at]

    def tries(self, at: datetime) -> int:
        """Cranks since it ran last, or since somebody wrote down what was found; said and told they are one."""
        count, cranked_as = 0, ""
        for _, state, why, told in self._turns(at):
            kind = "told" if told else "said"
            match state:
                case EngineNow.RUNNING:
                    count, cranked_as = 0, ""
                case EngineNow.CRANKING:
                    if why.strip():
                        count, cranked_as = 1, kind
                    elif cranked_as in ("", kind):
                        count, cranked_as = count + 1, kind
                    else:
                        cranked_as = "both"
                case EngineNow.STOPPED:
                    cranked_as = ""
        return count

    def ended(self, at: datetime) -> tuple[datetime, datetime] | None:
        """The last time that it ran and stopped again: from when to when; None if it never did."""
        began: datetime | None = None
        found: tuple[datetime, datetime] | None = None
        for when, state, _, _ in self._turns(at):
            if state is EngineNow.RUNNING:
                began = began or when
            elif began is not None:
                found, began = (began, when), None
        return found

    def cause_since(self, since: datetime | None, at: datetime) -> bool:
        """Whether somebody wrote down, after a time or at all, what was found before it is started again."""
        return any(
            (since is None or e.time > since) and e.what.state is EngineNow.CRANKING and e.what.why.strip()  # type: ignore[attr-defined]
            for e in self.changes(at)
        )

    def no_crank(self, now: datetime) -> Said:
        """Why the starter may not be turned again; empty if it may."""
        turns = self._turns(now)
        cranks = [n for n, (_, state, _, _) in enumerate(turns) if state is EngineNow.CRANKING]
        tries = self.tries(now)
        if tries >= MOST_TRIES:
            return say("Three tries: look for the cause first. Fuel, air, battery, interlock.")
        if tries and cranks:
            ended = [at for at, state, _, _ in turns[cranks[-1] + 1 :] if state is not EngineNow.CRANKING]
            rested = (now - (ended[0] if ended else now)).total_seconds()
            if rested < REST_S:
                return say("Let the starter rest {n} more.", n=Number(REST_S - rested, 0, "s"))
        return NOTHING
