"""Folding the entries of a look into its state. The set of entries decides, not their order of arrival."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from enum import StrEnum

from jutrel.core.defect.settle import Court
from jutrel.core.inspection.finding import Answer
from jutrel.core.inspection.kinds import (
    Abandoned,
    Answered,
    AnyRead,
    Arrived,
    HandedOver,
    Joined,
    Noted,
    Opened,
    Photographed,
    Signed,
)
from jutrel.core.log.entry import Entry, Pins
from jutrel.core.procedure.kinds import Stepped

LAPSES_AFTER = timedelta(hours=10)
"""A look left open for longer is no longer this shift's: a new one is begun, its findings stay."""


class Status(StrEnum):
    """How far a look has come. Amended: something came after the signature. Lapsed: left open for too long."""

    EMPTY = "empty"
    WALKING = "walking"
    SIGNED = "signed"
    AMENDED = "amended"
    ABANDONED = "abandoned"
    LAPSED = "lapsed"


@dataclass(frozen=True, slots=True)
class Look:
    """The state of one look. `heads` holds the answers in force at each checkpoint; more than one: people differ."""

    status: Status
    opening: Entry | None
    opened: Opened
    pins: Pins
    heads: Mapping[str, tuple[Entry, ...]]
    photos: Mapping[str, tuple[str, ...]]
    notes: tuple[Entry, ...]
    arrivals: tuple[Entry, ...]
    signature: Entry | None
    late: tuple[str, ...]
    """Entries that the newest signature does not cover."""
    people: tuple[str, ...]
    handed_over: Entry | None
    abandoned: Entry | None
    last: Entry | None
    conditions_known: bool = field(default=True)
    readings: Mapping[tuple[str, str], tuple[Entry, ...]] = field(default_factory=dict)
    """The readings in force, by checkpoint and reading; more than one: people read differently."""

    @property
    def differ(self) -> tuple[str, ...]:
        """Checkpoints at which people gave answers that have not seen each other."""
        return tuple(c for c, heads in self.heads.items() if len(heads) > 1)

    def status_at(self, now: datetime) -> Status:
        """The status at a time: an open look lapses."""
        begun = self.opening.time if self.opening else None
        return lapsed(self.status, begun, now)


def lapsed(status: Status, begun: datetime | None, now: datetime) -> Status:
    """The status of a look begun then, at a time.

    >>> day = datetime(2026, 5, 4, 6)
    >>> lapsed(Status.WALKING, day, day + timedelta(hours=11)).value
    'lapsed'
    """
    if status is Status.WALKING and begun is not None and now - begun > LAPSES_AFTER:
        return Status.LAPSED
    return status


def opening_of(entries: Iterable[Entry]) -> Entry | None:
    """The opening that counts: the first by its time; it cannot be taken back."""
    found = [e for e in entries if isinstance(e.what, Opened)]
    return min(found, key=lambda e: (e.time, e.id), default=None)


def pins_of(entries: Iterable[Entry]) -> Pins:
    """What the look is bound to: the pins of its first entry."""
    pinned = [e for e in entries if e.pins is not None]
    first = min(pinned, key=lambda e: e.seq, default=None)
    return first.pins if first is not None and first.pins is not None else Pins()


def answers_at(entries: Iterable[Entry]) -> dict[str, list[Entry]]:
    """Answers by checkpoint: what was said there, and the reading that is itself the answer."""
    out: dict[str, list[Entry]] = {}
    for entry in entries:
        if isinstance(entry.what, Answered) or (isinstance(entry.what, AnyRead) and entry.what.answers):
            out.setdefault(entry.what.checkpoint, []).append(entry)
    return out


def readings_at(entries: Iterable[Entry]) -> dict[tuple[str, str], list[Entry]]:
    """Readings that stand beside answers, by checkpoint and which reading."""
    out: dict[tuple[str, str], list[Entry]] = {}
    for entry in entries:
        if isinstance(entry.what, AnyRead) and not entry.what.answers:
            out.setdefault((entry.what.checkpoint, entry.what.reading), []).append(entry)
    return out


def fold_look(entries: Sequence[Entry], court: Court) -> Look:
    """The state that a look's entries describe, with what the court says of its answers."""
    once = sorted({e.id: e for e in entries}.values(), key=lambda e: (e.time, e.id))
    opening = opening_of(once)
    signatures = [e for e in once if isinstance(e.what, Signed)]
    # The newest signature is the one that covers most; its order is not left to clocks.
    signature = max(signatures, key=lambda e: (_covers(e), e.seq, e.id), default=None)
    covered = signature.what.covers if signature and isinstance(signature.what, Signed) else frozenset()
    rest = [e for e in once if not isinstance(e.what, Signed) and e.id not in covered]
    counted = [e for e in once if court.alive(e)]
    abandoned = next((e for e in once if isinstance(e.what, Abandoned)), None)
    photos: dict[str, list[str]] = {}
    for entry in counted:
        if isinstance(entry.what, Photographed):
            photos.setdefault(entry.what.checkpoint, []).append(entry.what.photo)
    if signature is not None:
        changed = any(_matters(e, court) for e in rest)
        status = Status.AMENDED if changed else Status.SIGNED
    elif abandoned is not None:
        status = Status.ABANDONED
    else:
        status = Status.WALKING if once else Status.EMPTY
    handed = [e for e in counted if isinstance(e.what, HandedOver)]
    return Look(
        status=status,
        opening=opening,
        opened=opening.what if opening and isinstance(opening.what, Opened) else Opened(0.0),
        pins=pins_of(once),
        heads={c: heads for c, all_ in answers_at(once).items() if (heads := court.heads(all_))},
        photos={key: tuple(ids) for key, ids in photos.items()},
        notes=tuple(e for e in counted if isinstance(e.what, Noted)),
        arrivals=tuple(e for e in counted if isinstance(e.what, Arrived)),
        signature=signature,
        late=tuple(e.id for e in rest) if signature else (),
        people=tuple(dict.fromkeys(e.by for e in once if isinstance(e.what, (Opened, Joined)))),
        handed_over=handed[-1] if handed else None,
        abandoned=abandoned,
        last=once[-1] if once else None,
        conditions_known=opening is not None,
        readings={at: heads for at, all_ in readings_at(once).items() if (heads := court.heads(all_))},
    )


def look_with(look: Look, court: Court, answers: Sequence[Entry], entry: Entry) -> Look | None:
    """The look with one more plain entry, as if it had been folded with it; `answers`: all at its checkpoint.

    None where all has to be folded anew: a look not begun or already signed, an entry older than its last one.
    """
    if look.opening is None or look.signature is not None or look.last is None:
        return None
    if (entry.time, entry.id) <= (look.last.time, look.last.id):
        return None
    match entry.what:
        case Answered(checkpoint=checkpoint):
            if checkpoint not in look.heads and len(answers) > 1:
                return None
            return replace(look, heads={**look.heads, checkpoint: court.heads(answers)}, last=entry)
        case Photographed(checkpoint=checkpoint, photo=photo):
            photos = {**look.photos, checkpoint: (*look.photos.get(checkpoint, ()), photo)}
            return replace(look, photos=photos, last=entry)
        case Noted():
            return replace(look, notes=(*look.notes, entry), last=entry)
        case Arrived():
            return replace(look, arrivals=(*look.arrivals, entry), last=entry)
        case Stepped():
            # Later than all others it changes nothing that an engine's stop before it said: see `outcomes_of`.
            return replace(look, last=entry)
        case _:
            return None


def _matters(entry: Entry, court: Court) -> bool:
    """Whether something that came after the signature changes what was signed; a late 'sound' does not."""
    match entry.what:
        case Answered(answer=answer, amends=amends):
            return bool(amends) or answer is Answer.UNSEEN or bool(court.reports.get(entry.id))
        case AnyRead(amends=amends):
            return bool(amends) or bool(court.reports.get(entry.id))
        case _:
            return False


def _covers(entry: Entry) -> int:
    return len(entry.what.covers) if isinstance(entry.what, Signed) else 0
