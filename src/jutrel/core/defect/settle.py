"""What is open: reports, and the acts that set them aside by right.

The answer depends on the set of entries alone, not on their order of arrival. An act counts for
a report only if its author had seen it: its `replaces` names the report's entry, or names an
entry that had seen it.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Iterator, Mapping, Sequence
from copy import copy
from dataclasses import dataclass
from datetime import datetime

from jutrel.core.defect.authority import (
    NEEDED,
    RELEASERS,
    SLIP_WITHIN,
    Clear,
    Deed,
    SetAsideBy,
    right_for,
    what_it_takes,
)
from jutrel.core.defect.kinds import Rechecked, Released
from jutrel.core.defect.report import Report
from jutrel.core.grading.grade import Grade
from jutrel.core.inspection.finding import Answer
from jutrel.core.inspection.kinds import (
    Abandoned,
    Answered,
    AnyRead,
    Arrived,
    Noted,
    Opened,
    Photographed,
    Signed,
    Undone,
)
from jutrel.core.log.entry import Entry
from jutrel.core.people import Role
from jutrel.core.procedure.kinds import StepOutcome, Stepped
from jutrel.core.wording import Said

LAST = 2**62
"""The place in the log of what has none yet."""


@dataclass(frozen=True, slots=True)
class Settled:
    """A report that an act set aside, and by what right. `pending`: another person has to confirm it still."""

    act: str
    by: str
    ground: SetAsideBy
    pending: bool = False


@dataclass(frozen=True, slots=True)
class Ignored:
    """An act that has no right to what it tried: it is kept and does not count."""

    entry: str
    by: str
    checkpoint: str
    report: str
    says: Said


def is_act(entry: Entry) -> bool:
    """Whether an entry can set others aside."""
    return isinstance(entry.what, (Answered, AnyRead, Undone, Released))


def checkpoint_of(entry: Entry) -> str:
    """The checkpoint an entry answers; empty for others."""
    return entry.what.checkpoint if isinstance(entry.what, (Answered, AnyRead, Released)) else ""


class Court:
    """Hears a set of entries and says which stand, which reports are settled and which acts do not count."""

    def __init__(self, entries: Iterable[Entry], reports: Iterable[Report]) -> None:
        self.entries: dict[str, Entry] = {}
        for entry in entries:
            self.entries.setdefault(entry.id, entry)
        self.reports: dict[str, list[Report]] = {}
        for report in {r.id: r for r in reports}.values():
            self.reports.setdefault(report.entry, []).append(report)
        self._signatures = [e for e in self.entries.values() if isinstance(e.what, Signed)]
        self._rechecks = [e for e in self.entries.values() if isinstance(e.what, Rechecked)]
        self._namers: dict[str, list[Entry]] = {}
        self._undoers: dict[str, list[Entry]] = {}
        self._circles = False
        for entry in self.entries.values():
            for named in entry.replaces:
                self._namers.setdefault(named, []).append(entry)
                self._circles = self._circles or named >= entry.id
            if isinstance(entry.what, Undone):
                self._undoers.setdefault(entry.what.target, []).append(entry)
        self._seen: dict[str, frozenset[str]] = {}
        self._alive: dict[str, bool] = {}
        self.settled: dict[str, Settled] = {}
        self.ignored: list[Ignored] = []
        self._hear()

    def plainly_with(self, entry: Entry) -> Court | None:
        """The court with one more entry that touches no report, as if it had been there from the start.

        None if it is not that plain: it takes back or signs something, names what was reported, taken back or is
        not here, was named by others before it came, or has been heard already. Then all has to be heard anew.
        """
        if entry.id in self.entries or entry.id in self._namers or entry.id in self._undoers:
            return None
        if not isinstance(entry.what, (Answered, Noted, Photographed, Arrived, Stepped)):
            return None
        if isinstance(entry.what, Stepped) and entry.what.outcome not in (StepOutcome.DONE, StepOutcome.SKIPPED):
            return None
        if isinstance(entry.what, Answered) and entry.what.findings:
            return None
        before = self._before(entry)
        if any(one not in self.entries or one in self.reports or one in self._undoers for one in before):
            return None
        more = copy(self)
        more.entries = {**self.entries, entry.id: entry}
        more._namers = {**self._namers, **{n: [*self._namers.get(n, ()), entry] for n in entry.replaces}}
        more._circles = self._circles or any(n >= entry.id for n in entry.replaces)
        return more

    def _before(self, entry: Entry) -> set[str]:
        """What an entry's author had seen, reckoned without keeping it for each entry of a long row."""
        found: set[str] = set()
        todo = list(entry.replaces)
        while todo:
            one = todo.pop()
            if one in found or one == entry.id:
                continue
            found.add(one)
            before = self.entries.get(one)
            if before is not None and not isinstance(before.what, Undone):
                todo.extend(before.replaces)
        return found

    # --- what an author had seen

    def seen(self, entry: Entry) -> frozenset[str]:
        """Ids that the author of an entry had seen there, also through what those had seen."""
        if entry.id not in self._seen:
            self._seen[entry.id] = frozenset(self._before(entry))
        return self._seen[entry.id]

    def _bound(self, entry: str, author: str, act: str) -> bool:
        """Whether an entry is signed without the act, or another person had seen it."""
        for signature in self._signatures:
            assert isinstance(signature.what, Signed)
            if entry in signature.what.covers and (act not in signature.what.covers or signature.by != author):
                return True
        # Another person had seen it, and had not seen that it was put right.
        return any(e.by != author and act not in self.seen(e) for e in self._namers.get(entry, ()))

    # --- taking back

    def alive(self, entry: Entry) -> bool:
        """Whether nobody entitled took the entry back. A circle of undos takes nothing back."""
        return self._is_alive(entry, frozenset())

    def _is_alive(self, entry: Entry, asking: frozenset[str]) -> bool:
        if entry.id in self._alive:
            return self._alive[entry.id]
        if entry.id in asking:
            return False
        deeper = asking | {entry.id}
        gone = any(
            self._may_undo(undo, entry) and self._is_alive(undo, deeper) for undo in self._undoers.get(entry.id, ())
        )
        if not asking:
            self._alive[entry.id] = not gone
        return not gone

    def _may_undo(self, undo: Entry, target: Entry) -> bool:
        if undo.by != target.by or undo.stream != target.stream or undo.id == target.id:
            return False
        if isinstance(target.what, Signed) or not self._undoable(target):
            return False
        reports = self.reports.get(target.id, ())
        if reports:
            return all(self.right(undo, r) is not None for r in reports)
        return not self._bound(target.id, target.by, undo.id)

    @staticmethod
    def _undoable(target: Entry) -> bool:
        return not isinstance(target.what, (Opened, Abandoned))

    # --- rights

    def relisted(self, act: Entry, report: Report) -> Report | None:
        """The act's own report of the same thing, if it has one."""
        return next((r for r in self.reports.get(act.id, ()) if r.key == report.key), None)

    def deed(self, act: Entry, report: Report) -> Deed:
        """How an act stands to a report, for the table of rights."""
        what = act.what
        again = self.relisted(act, report)
        own = act.by == report.by and act.stream == report.look and act.time - report.at <= SLIP_WITHIN
        reason = getattr(what, "reason", "") or getattr(what, "amends", "") or getattr(what, "done", "")
        put_right = again is not None and again.finding.put_right is not None
        # A figure that is good now, with what was done; one that is still too low puts nothing right.
        if again is None and isinstance(what, AnyRead) and what.put_right is not None:
            level = what.answers and report.finding.failure_mode == "level"
            put_right = level or (not what.answers and report.reading == what.reading)
        return Deed(
            role=act.role,
            own=own,
            bound=self._bound(report.entry, report.by, act.id),
            reason=bool(str(reason).strip()),
            put_right=put_right,
            may_put_right=report.may_put_right,
            same_or_worse=again is not None and again.grade >= report.grade,
            takes_back=isinstance(what, Undone),
        )

    def right(self, act: Entry, report: Report) -> Settled | None:
        """The right by which an act sets a report aside, or None."""
        what = act.what
        if act.stale:
            return None  # what clears counts only from a living pen
        if isinstance(what, Released) and what.failure_mode != report.finding.failure_mode:
            return None
        if not isinstance(what, Undone) and checkpoint_of(act) != report.checkpoint:
            return None
        if isinstance(what, Answered) and what.answer is Answer.UNSEEN:
            return None  # who could not see it says nothing of it
        if isinstance(what, AnyRead) and not what.answers and what.reading != report.reading:
            return None  # a good figure says nothing of what was found otherwise
        deed = self.deed(act, report)
        again = self.relisted(act, report)
        if again is None and not deed.own and self.reports.get(act.id) and not isinstance(what, Undone):
            return None  # another defect at the place says nothing of this one
        if again is not None and not deed.own and act.role not in RELEASERS and not deed.put_right:
            return None  # reporting it again joins it
        right = right_for(deed, report.grade)
        if right is None:
            return None
        second = right.second_from is not None and report.grade >= right.second_from
        if second and again is not None and again.grade >= report.grade:
            return None  # found again no milder: nothing is released
        return Settled(act.id, act.by, right.ground, second and not self._confirmed(act))

    def clear_for(self, report: Report, person: str, role: Role, look: str, at: datetime, undo: bool = False) -> Clear:
        """What it takes of a person in a look to set a report aside; `undo`: by taking their own entry back."""
        own = person == report.by and look == report.look and at - report.at <= SLIP_WITHIN
        bound = self._bound(report.entry, report.by, "")
        deed = Deed(role, own, bound, False, False, report.may_put_right and not undo, False, undo)
        return what_it_takes(deed, report.grade)

    def _confirmed(self, act: Entry) -> bool:
        signed = any(
            isinstance(s.what, Signed) and act.id in s.what.covers and s.by != act.by for s in self._signatures
        )
        return signed or any(
            isinstance(c.what, Rechecked) and c.what.release == act.id and c.by != act.by for c in self._rechecks
        )

    def acts_on(self, report: Report) -> list[Entry]:
        """The acts that stand and whose authors had seen a report, through whatever they had seen."""
        found = {u.id: u for u in self._undoers.get(report.entry, ())}
        found |= {namer.id: namer for namer in self._after(report.entry)}
        return [e for e in found.values() if self._may_mean(e, report) and self.alive(e)]

    @staticmethod
    def _may_mean(act: Entry, report: Report) -> bool:
        """Whether an act can be about a report: taking back one's repeat leaves what was reported before."""
        if isinstance(act.what, Undone):
            return act.what.target == report.entry
        return is_act(act) and act.id != report.entry

    def _hear(self) -> None:
        for report in sorted((r for rs in self.reports.values() for r in rs), key=lambda r: r.id):
            tried: list[Entry] = []
            # The first to come in counts: what came later changes nothing of a report that is settled.
            for act in sorted(self.acts_on(report), key=lambda e: (e.seq or LAST, e.id)):
                found = self.right(act, report)
                if found is None:
                    tried.append(act)
                    continue
                have = self.settled.get(report.id)
                if have is None or (have.pending and not found.pending):
                    self.settled[report.id] = found
            if report.id in self.settled or report.grade < Grade.MEND:
                continue
            for act in tried:
                again = self.relisted(act, report)
                unseen = isinstance(act.what, Answered) and act.what.answer is Answer.UNSEEN
                if (again is None or again.grade < report.grade) and not unseen:
                    self.ignored.append(Ignored(act.id, act.by, report.checkpoint, report.id, NEEDED[report.grade]))

    # --- what is open

    def is_open(self, report: Report) -> bool:
        """Whether a report still counts; one that waits for a second person does."""
        have = self.settled.get(report.id)
        return have is None or have.pending

    def open_reports(self) -> list[Report]:
        """All reports that still count, oldest first."""
        found = [r for rs in self.reports.values() for r in rs if self.is_open(r)]
        return sorted(found, key=lambda r: (r.at, r.id))

    def heads(self, answers: Sequence[Entry]) -> tuple[Entry, ...]:
        """The answers in force among those of one checkpoint of one look. More than one: people differ."""
        alive = {a.id: a for a in answers if self.alive(a)}
        kept = [a for a in alive.values() if not self._passed(a, alive)]
        # Who saw what another found, and has no right to say otherwise, does not count beside it.
        found = [e for e in kept if self.reports.get(e.id)]
        if found:
            kept = [e for e in kept if self.reports.get(e.id) or not any(f.id in self.seen(e) for f in found)]
        return tuple(sorted(kept, key=lambda e: (e.time, e.id)))

    def _passed(self, entry: Entry, among: Mapping[str, Entry]) -> bool:
        """Whether somebody who had seen an answer, also through others, has given another with the right to it."""
        for namer in self._after(entry.id):
            if namer.id not in among or (self._circles and namer.id < entry.id and namer.id in self.seen(entry)):
                continue  # where two name each other, the later id counts
            if self._supersedes(namer, entry):
                return True
        return False

    def _after(self, entry: str) -> Iterator[Entry]:
        """Entries whose authors had seen an entry, also through what those had seen; the nearest first."""
        visited, todo = {entry}, deque([entry])
        while todo:
            for namer in self._namers.get(todo.popleft(), ()):
                if namer.id in visited:
                    continue
                visited.add(namer.id)
                yield namer
                if not isinstance(namer.what, Undone):
                    todo.append(namer.id)

    def _supersedes(self, act: Entry, entry: Entry) -> bool:
        for report in self.reports.get(entry.id, ()):
            again = self.relisted(act, report)
            if again is not None and again.grade >= report.grade:
                continue
            if self.right(act, report) is None:
                return False
        return True
