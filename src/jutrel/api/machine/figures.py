"""A machine's own figures as they are told."""

from __future__ import annotations

from jutrel.api.machine.wire import LimitOut
from jutrel.core.log.entry import Limit
from jutrel.core.machine.family import LimitKind
from jutrel.core.wording import Wording


def limit_out(kind: LimitKind, value: Limit, own: bool, wording: Wording) -> LimitOut:
    """A figure as it is told."""
    told = kind.label(value)
    told = wording.word("figure", told) if isinstance(told, str) else told
    unit = wording.word("unit", kind.unit)
    return LimitOut(id=kind.id, name=wording.word("figure", kind.name), unit=unit, value=told, own=own)
