"""Ids that carry their time: UUID version 7 (RFC 9562)."""

from __future__ import annotations

import secrets
import uuid
from datetime import datetime


def uuid7(at: datetime, noise: int | None = None) -> str:
    """A UUIDv7 for a time; `noise` (74 bits) may be given for repeatable data.

    >>> from datetime import UTC
    >>> uuid7(datetime(2026, 5, 4, tzinfo=UTC), noise=1)
    '019df048-dc00-7000-8000-000000000001'
    """
    milliseconds = int(at.timestamp() * 1000) & ((1 << 48) - 1)
    noise = secrets.randbits(74) if noise is None else noise & ((1 << 74) - 1)
    value = milliseconds << 80 | 7 << 76 | (noise >> 62) << 64 | 2 << 62 | (noise & ((1 << 62) - 1))
    return str(uuid.UUID(int=value))
