"""What was done at a place between two readings of it: without it a figure that jumps explains nothing."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from jutrel.core.defect.kinds import Released
from jutrel.core.inspection.kinds import AnyRead, Undone
from jutrel.core.log.entry import Entry
from jutrel.core.machine.file import MeterReplaced

KINDS = ("read", "measured", "undone", "released", "meter-replaced")
"""Entries that say it; `answered` would bring every tap that a machine ever had."""


class WorkDone(StrEnum):
    """What was done."""

    PUT_RIGHT = "put-right"
    """Before it was read: filled up, blown out, tightened."""
    REPAIRED = "repaired"
    METER = "meter"
    """Another hour meter was fitted."""


@dataclass(frozen=True, slots=True)
class Happened:
    """What was done, when, in whose words, by whom; `checkpoint` is empty for what is about the whole machine."""

    at: datetime
    work: WorkDone
    done: str
    by: str
    checkpoint: str = ""


def happened(entries: Iterable[Entry]) -> tuple[Happened, ...]:
    """What was done on a machine, oldest first, without what was taken back.

    A repair counts from the mechanic's word, whether or not another has looked at it yet: the figure moved then.
    """
    every = sorted({e.id: e for e in entries}.values(), key=lambda e: (e.time, e.seq, e.id))
    gone = {e.what.target for e in every if isinstance(e.what, Undone)}
    out = []
    for e in every:
        if e.id in gone:
            continue
        match e.what:
            case AnyRead(put_right=done) if done is not None:
                words = ", ".join(w for w in (done.done, done.amount) if w)
                out.append(Happened(e.time, WorkDone.PUT_RIGHT, words, e.by, e.what.checkpoint))
            case Released():
                out.append(Happened(e.time, WorkDone.REPAIRED, e.what.done, e.by, e.what.checkpoint))
            case MeterReplaced():
                out.append(Happened(e.time, WorkDone.METER, e.what.why, e.by))
            case _:
                pass
    return tuple(out)
