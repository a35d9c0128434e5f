"""Words of a log in order, and which of them stand."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from datetime import timedelta

from jutrel.core.log.entry import Entry

MOST_STEPS_BACK = 60
"""How long a row of words with wrong clocks is put in order; a circle of names ends here."""


def in_order(entries: Iterable[Entry]) -> list[Entry]:
    """Entries once each, by time; what sets another aside came after it, whatever a device's clock says."""
    once = {e.id: e for e in entries}
    placed = dict(once)
    for _ in range(MOST_STEPS_BACK):
        moved = False
        for e in list(placed.values()):
            late = max((placed[r].time for r in e.replaces if r in placed and r != e.id), default=None)
            if late is not None and late >= e.time:
                placed[e.id] = replace(e, heard_at=late + timedelta(microseconds=1))
                moved = True
        if not moved:
            break
    return sorted(placed.values(), key=lambda e: (e.time, e.id))


def heads(entries: Sequence[Entry]) -> tuple[Entry, ...]:
    """Those that no other of them has seen and set aside."""
    named = {r for e in entries for r in e.replaces if r != e.id}
    kept = tuple(e for e in entries if e.id not in named)
    return kept or tuple(entries)  # a circle of names sets nothing aside
