"""The inspections of a machine that its clearance stands on."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from jutrel.core.machine.state import LookSummary, Newest


@dataclass(frozen=True, slots=True)
class Looks:
    """The newest looks at a machine: signed, one that cleared it, one that ended that, one under way, and the newest
    whole one that cleared it."""

    newest: LookSummary | None = None
    cleared: LookSummary | None = None
    ended: LookSummary | None = None
    current: LookSummary | None = None
    whole: LookSummary | None = None

    @property
    def base(self) -> LookSummary | None:
        """The whole inspection that a machine goes on: the one that cleared it, or the one that this goes on from."""
        if self.cleared is not None and self.cleared.continues:
            return self.whole
        return self.cleared


def looks_named(newest: Newest, found: Mapping[str, LookSummary]) -> Looks:
    """The looks that a machine's row names, of those that were found."""
    n = newest
    return Looks(*(found.get(i or "") for i in (n.signed, n.cleared, n.ended, n.walking, n.whole)))
