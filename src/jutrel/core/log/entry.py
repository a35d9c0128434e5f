"""An entry: made once on a device, stamped once by the server, never changed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime, timedelta

from jutrel.core.log.codec import Plain
from jutrel.core.people import Role
from jutrel.core.wording import Said

Limit = float | str


@dataclass(frozen=True, slots=True)
class Pins:
    """What the first entry of a look is bound to: rules and model as they were then, and the unit as it was.

    `changed`: what was otherwise than at the look before; `open_at`: checkpoints with something open; `schools`: of a
    run, what was in force; `looked`: what is looked at by interval, and what the meter showed [h] when it was last.
    """

    edition: str = ""
    options: frozenset[str] = frozenset()
    own_limits: Mapping[str, Limit] = field(default_factory=dict)
    changed: Mapping[str, Said] = field(default_factory=dict)
    open_at: frozenset[str] = frozenset()
    schools: Mapping[str, str] = field(default_factory=dict)
    looked: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Came:
    """What a reading came to by the rules of the time when it came in.

    `band`: as a word; `action`: what it said to do; `mode`, `attributes`: the finding that it amounted to, empty: none.
    """

    band: str
    action: Said
    mode: str = ""
    attributes: Mapping[str, bool | float | str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Entry:
    """One entry. The device makes the first part, the server adds the second.

    Parameters
    ----------
    id
        UUIDv7 made on the device.
    machine, stream
        The unit, and which look, file or defect of it.
    by, at
        Who, and the device's time (UTC).
    what
        A payload of a declared kind.
    replaces
        Ids of the entries that the author saw there and sets aside.
    offset_ms
        Server's clock minus device's clock [ms] when last measured; None: never.
    seq
        Gapless place in the machine's log, from 1.
    role
        The author's, as of the entry.
    pen, device, sent_by
        By which pen it was written, the device's label, whose session sent it.
    received_at, heard_at
        When the server got it, and its time as far as the server can vouch for.
    stale
        It came in when its pen had ended, or without the seal of a pen that has one: what it makes worse counts, what
        it clears does not.
    pins
        On the first entry of a look.
    told
        On a reading: figures that the machine's own instruments told of its inputs when it came, where a hand said
        otherwise, in the units of the inputs.
    came
        On a reading: what it came to when it came in. Another judgement can make it worse later, never better.
    seal
        The device's own part of it as its pen sealed it (RFC 7515), for whoever wants to check it; empty: from before
        there were seals, or from a device that cannot make one.
    prev, hash
        The chain.
    """

    id: str
    machine: str
    stream: str
    by: str
    at: datetime
    what: object
    replaces: frozenset[str] = frozenset()
    offset_ms: int | None = None
    seq: int = 0
    role: Role = Role.OPERATOR
    pen: str = ""
    device: str = ""
    sent_by: str = ""
    received_at: datetime | None = None
    heard_at: datetime | None = None
    pins: Pins | None = None
    prev: str = ""
    hash: str = ""
    stale: bool = False
    told: Mapping[str, float] = field(default_factory=dict)
    came: Came | None = None
    seal: str = ""

    @property
    def time(self) -> datetime:
        """When it happened, as far as the server can vouch for; the device's time before that."""
        return self.heard_at or self.at


def heard_time(at: datetime, offset_ms: int | None, earliest: datetime, received: datetime) -> datetime:
    """The time of an entry, bounded by what the server knows: not before the pen was given, not in the future.

    >>> day = datetime(2026, 5, 4)
    >>> heard_time(day.replace(year=2036), None, day, day + timedelta(hours=1)).hour
    1
    """
    said = at + timedelta(milliseconds=offset_ms or 0)
    return min(max(said, earliest), received)


Chained = Mapping[str, Plain]
