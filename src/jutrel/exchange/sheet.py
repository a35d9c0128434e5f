"""What stands on a hand-over, in the words of one reader; apart from what draws it, which takes long to load."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True, slots=True)
class Open:
    """Something open on the machine, in the reader's words; `grade` as a word, `at` its checkpoint."""

    grade: str
    at: str
    says: str


@dataclass(frozen=True, slots=True)
class HandOver:
    """A hand-over, its sentences in the reader's language. `lines`: each with whether it is urgent."""

    run: str
    machine: str
    family: str
    site: str
    zone: str
    stand: str
    by: str
    begun: datetime
    handed: datetime | None
    meter: float
    note: str
    lines: tuple[tuple[str, bool], ...]
    open: tuple[Open, ...]
    counted: tuple[str, ...]
    schools: tuple[str, ...]
    caution: str
