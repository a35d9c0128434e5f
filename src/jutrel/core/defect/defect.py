"""A defect: the open reports of one thing on one machine, whoever reported it and in whichever look."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from jutrel.core.defect.kinds import Accepted
from jutrel.core.defect.report import Key, Report
from jutrel.core.defect.settle import Court
from jutrel.core.grading.grade import Grade
from jutrel.core.inspection.finding import Finding
from jutrel.core.log.entry import Entry
from jutrel.core.people import Role
from jutrel.core.wording import Said


@dataclass(frozen=True, slots=True)
class Defect:
    """Open reports of one key, oldest first. `looked_again`: when somebody was there and could not clear it.

    `pending_by`: who released all of it, when another person has to confirm that still.
    """

    reports: tuple[Report, ...]
    looked_again: tuple[tuple[datetime, float], ...] = ()
    pending_by: str = ""
    accepted_by: str = ""
    """The supervisor who accepted, having seen the latest report, that it works within its limits."""
    accepted_at: datetime | None = None
    """When that was; it holds for one shift."""
    release: str = ""
    """The entry that released it, when another person has to confirm that still."""

    @property
    def id(self) -> str:
        """The first open report's id."""
        return self.reports[0].id

    @property
    def key(self) -> Key:
        """Checkpoint, failure mode, which of several."""
        return self.reports[0].key

    @property
    def first(self) -> Report:
        """Who reported it first."""
        return self.reports[0]

    @property
    def latest(self) -> Report:
        """How it was when it was last reported."""
        return self.reports[-1]

    @property
    def worst(self) -> Report:
        """The report with the worst grade."""
        return max(self.reports, key=lambda r: r.grade)

    @property
    def grade(self) -> Grade:
        """The worst grade it was reported with."""
        return self.worst.grade

    @property
    def limits(self) -> tuple[Said, ...]:
        """The limits that were said with that grade."""
        texts = [t for r in self.reports if r.grade == self.grade for t in r.limits]
        return tuple(dict.fromkeys(texts))

    @property
    def looks(self) -> int:
        """In how many looks it was reported."""
        return len({r.look for r in self.reports})

    @property
    def previous(self) -> Finding | None:
        """How it was in the look before the latest report's."""
        before = [r for r in self.reports if r.look != self.latest.look]
        return before[-1].finding if before else None

    @property
    def due_hour(self) -> float | None:
        """The machine's hours [h] by which it is to be mended: finding it again never buys time."""
        return min((r.due_hour for r in self.reports if r.due_hour is not None), default=None)

    @property
    def put_right(self) -> str:
        """What was done on the spot, if that is all that is left of it."""
        if self.grade > Grade.WATCH or self.latest.finding.put_right is None:
            return ""
        done = self.latest.finding.put_right
        return f"{done.done}{f', {done.amount}' if done.amount else ''}."

    @property
    def unmended_shifts(self) -> int:
        """On how many different shifts it stood as Mend or worse: reported again, or looked at and not cleared."""
        if self.grade < Grade.MEND:
            return 1
        times = [(r.shift_start, r.shift_hours) for r in self.reports if r.grade >= Grade.MEND]
        return max(1, shifts([*times, *self.looked_again]))


def shifts(starts: Iterable[tuple[datetime, float]]) -> int:
    """How many different shifts these are: a new one begins when the one before is over.

    Parameters
    ----------
    starts
        Beginning and length [h] of the shift in which something was seen.

    >>> day = datetime(2026, 5, 4, 6)
    >>> shifts([(day, 10.0), (day + timedelta(hours=4), 10.0), (day + timedelta(hours=12), 10.0)])
    2
    """
    count = 0
    ends: datetime | None = None
    for start, hours in sorted(starts):
        if ends is None or start >= ends:
            count += 1
            ends = start + timedelta(hours=hours)
    return count


def _accepted(reports: Sequence[Report], court: Court) -> Entry | None:
    """Who accepted it last, having seen its latest report."""
    key, latest = reports[-1].key, reports[-1].entry
    found = [
        e
        for e in court.entries.values()
        if isinstance(e.what, Accepted)
        and (e.what.checkpoint, e.what.failure_mode) == key[:2]
        and latest in court.seen(e)
        and e.role is Role.SUPERVISOR
    ]
    return max(found, key=lambda e: (e.time, e.id), default=None)


def defects_of(court: Court, starts: dict[str, tuple[datetime, float]]) -> tuple[Defect, ...]:
    """The open defects, oldest first. `starts`: when the shift of each look began, and its length [h]."""
    return group(court.open_reports(), court, starts)


def group(reports: Sequence[Report], court: Court, starts: dict[str, tuple[datetime, float]]) -> tuple[Defect, ...]:
    """Open reports, oldest first, joined by what they are about."""
    by_key: dict[Key, list[Report]] = {}
    for report in reports:
        by_key.setdefault(report.key, []).append(report)
    out = []
    for mine in by_key.values():
        again = []
        for ignored in court.ignored:
            if any(ignored.report == r.id for r in mine):
                entry = court.entries[ignored.entry]
                again.append(starts.get(entry.stream, (entry.time, 10.0)))
        waits = [court.settled[r.id] for r in mine if r.id in court.settled]
        whole = waits[0] if waits and len(waits) == len(mine) else None
        accepted = _accepted(mine, court)
        out.append(
            Defect(
                tuple(mine),
                tuple(sorted(set(again))),
                whole.by if whole else "",
                accepted.by if accepted else "",
                accepted.time if accepted else None,
                whole.act if whole else "",
            )
        )
    return tuple(sorted(out, key=lambda d: (d.first.at, d.id)))
