"""Folding a log of entries into the state of an inspection.

The result depends on the set of entries alone: arriving twice, late or in
another order changes nothing. Order is that of the ids, which are UUIDv7 and so
carry the device's time.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from jutrel.core.inspection.entry import (
    Answered,
    Arrived,
    Entry,
    Measured,
    Noted,
    Opened,
    Photographed,
    Signed,
    Undone,
)


class Status(StrEnum):
    """How far an inspection has come. Amended: changed after it was signed, not signed again."""

    EMPTY = "empty"
    WALKING = "walking"
    SIGNED = "signed"
    AMENDED = "amended"


@dataclass(frozen=True, slots=True)
class Inspection:
    """The state of one walk. `answers` holds the entry in force at each checkpoint."""

    status: Status
    opening: Entry | None
    opened: Opened | None
    answers: Mapping[str, Entry]
    photos: Mapping[str, tuple[str, ...]]
    notes: tuple[Entry, ...]
    arrivals: tuple[Entry, ...]
    signature: Entry | None
    late: tuple[str, ...]
    """Ids of entries that came after the signature without being amendments: kept, not counted."""
    last_at: datetime | None

    @property
    def hour_meter(self) -> float:
        """The machine's hours at the opening [h], over all meters it has had; 0 before that."""
        return self.opened.hour_meter + self.opened.meter_offset if self.opened else 0.0


def _in_order(entries: Iterable[Entry]) -> list[Entry]:
    by_id: dict[str, Entry] = {}
    for entry in entries:
        by_id.setdefault(entry.id, entry)
    return [by_id[key] for key in sorted(by_id)]


def _standing(entries: list[Entry]) -> list[Entry]:
    """The entries that no later, itself standing, undo took back."""
    gone: set[str] = set()
    for entry in reversed(entries):
        if isinstance(entry.what, Undone) and entry.id not in gone and entry.what.target < entry.id:
            gone.add(entry.what.target)
    return [e for e in entries if e.id not in gone and not isinstance(e.what, Undone)]


def _amends(entry: Entry) -> bool:
    return isinstance(entry.what, (Answered, Measured)) and bool(entry.what.amends)


def fold(entries: Iterable[Entry]) -> Inspection:
    """The state that a set of entries describes.

    A signature binds exactly the entries that it covers. What else there is counts
    only if it amends, and then wants a new signature.

    >>> fold([]).status
    <Status.EMPTY: 'empty'>
    """
    ordered = _in_order(entries)
    signature = next((e for e in reversed(ordered) if isinstance(e.what, Signed)), None)
    late: tuple[str, ...] = ()
    amended = False
    if signature is None:
        counted = _standing(ordered)
    else:
        covers = signature.what.covers if isinstance(signature.what, Signed) else frozenset()
        bound = [e for e in ordered if e.id in covers and not isinstance(e.what, Signed)]
        rest = [e for e in ordered if e.id not in covers and not isinstance(e.what, Signed)]
        # An undo may take back an amendment, never what is signed.
        fresh = [e for e in _standing(rest) if _amends(e)]
        amended = bool(fresh)
        counted = _standing(bound) + fresh
        kept = {e.id for e in fresh}
        late = tuple(e.id for e in rest if e.id not in kept and not isinstance(e.what, Undone))
    opening = next((e for e in counted if isinstance(e.what, Opened)), None)
    answers: dict[str, Entry] = {}
    photos: dict[str, list[str]] = {}
    for entry in counted:
        match entry.what:
            case Answered(checkpoint=checkpoint) | Measured(checkpoint=checkpoint):
                answers[checkpoint] = entry
            case Photographed(photo=photo, checkpoint=checkpoint):
                photos.setdefault(checkpoint, []).append(photo)
            case _:
                pass
    if signature is not None:
        status = Status.AMENDED if amended else Status.SIGNED
    else:
        status = Status.WALKING if opening else Status.EMPTY
    return Inspection(
        status=status,
        opening=opening,
        opened=opening.what if opening and isinstance(opening.what, Opened) else None,
        answers=answers,
        photos={key: tuple(ids) for key, ids in photos.items()},
        notes=tuple(e for e in counted if isinstance(e.what, Noted)),
        arrivals=tuple(e for e in counted if isinstance(e.what, Arrived)),
        signature=signature,
        late=late,
        last_at=max((e.at for e in counted), default=None),
    )
