"""A look as the client sees it: whole, or what has become of it since."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Collection
from dataclasses import replace
from datetime import datetime
from itertools import takewhile
from typing import Any, Literal

from jutrel.api.inspection.wire import AnswerOut, EntryOut, LookNowOut, NoteOut, UndoableOut
from jutrel.api.inspection.wire_verdict import FindingOut, ItemOut, verdict_out
from jutrel.core.defect.authority import Clear
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.item import Item
from jutrel.core.grading.verdict import Verdict
from jutrel.core.inspection.kinds import Answered, AnyRead, Noted, Photographed, Signed, Undone
from jutrel.core.log.codec import encode
from jutrel.core.log.entry import Entry
from jutrel.core.log.kinds import kind_of
from jutrel.core.wording import Wording, spoken
from jutrel.service.inspection.look import LookStanding
from jutrel.service.people.people import Actor

HARDEST = (Clear.FREE, Clear.REASON, Clear.PUT_RIGHT, Clear.SECOND, Clear.MECHANIC)
MOST_KEPT = 200
MOST_ITEMS = 4000
TAPS = (Answered, AnyRead, Noted, Photographed)


def grades_of(s: LookStanding) -> dict[str, Grade]:
    """The worst grade at each checkpoint that has one."""
    out: dict[str, Grade] = {}
    for item in s.verdict.items:
        out[item.checkpoint] = max(item.grade, out.get(item.checkpoint, Grade.SOUND))
    return out


def answer_out(
    checkpoint: str, heads: tuple[Entry, ...], grade: Grade, s: LookStanding, who: Actor, at: datetime
) -> AnswerOut:
    """What stands at a checkpoint, for the person who asks."""
    court = s.heard.court
    reports = [r for e in heads for r in court.reports.get(e.id, ())]
    takes = [court.clear_for(r, who.person.id, who.person.role, s.id, at) for r in reports]
    words: list[Literal["sound", "defect", "unseen", "read"]] = []
    findings: list[FindingOut] = []
    given: dict[str, float] | None = None
    for e in heads:
        match e.what:
            case Answered(answer=answer, findings=found):
                words.append(answer.value)
                findings += [FindingOut.model_validate(encode(f)) for f in found]
            case AnyRead():
                words.append("read")
                given = {k: v for k, v in e.what.given.items() if isinstance(v, float)}
    order = ("sound", "read", "unseen", "defect")
    return AnswerOut(
        checkpoint=checkpoint,
        heads=[e.id for e in heads],
        by=[e.by for e in heads],
        answer=max(words, key=order.index),
        differ=len(heads) > 1,
        findings=findings,
        reason=next((e.what.reason for e in heads if isinstance(e.what, Answered) and e.what.reason), ""),
        given=given,
        grade=grade.word,  # type: ignore[arg-type]
        clear=max(takes, key=HARDEST.index, default=Clear.FREE),
    )


def answers_out(s: LookStanding, who: Actor, at: datetime, only: Collection[str] | None = None) -> list[AnswerOut]:
    """What stands at each checkpoint, or at some."""
    grades = grades_of(s)
    return [
        answer_out(c, heads, grades.get(c, Grade.SOUND), s, who, at)
        for c, heads in s.heard.look.heads.items()
        if only is None or c in only
    ]


def undoable_out(s: LookStanding, who: Actor, at: datetime) -> UndoableOut | None:
    """The person's newest tap that can still be taken back."""
    court = s.heard.court
    signed = s.heard.look.signature is not None
    covered = {c for e in s.entries if isinstance(e.what, Signed) for c in e.what.covers} if signed else set()
    e: Entry | None = None
    for other in reversed(s.entries):
        if e is not None and other.received_at is not None and other.received_at < e.time:
            break  # nothing that came in earlier was made later
        if other.by != who.person.id or not isinstance(other.what, TAPS) or other.id in covered:
            continue
        if (e is None or (other.time, other.id) > (e.time, e.id)) and court.alive(other):
            e = other
    if e is None:
        return None
    reports = court.reports.get(e.id, ())
    takes = [court.clear_for(r, who.person.id, who.person.role, s.id, at, undo=True) for r in reports]
    worst = max(takes, key=HARDEST.index, default=Clear.FREE)
    if worst not in (Clear.FREE, Clear.REASON):
        return None
    checkpoint = str(getattr(e.what, "checkpoint", ""))
    return UndoableOut(id=e.id, kind=kind_of(e.what).name, checkpoint=checkpoint, reason=worst is Clear.REASON)


def notes_out(s: LookStanding) -> list[NoteOut]:
    """Notes that nobody took back."""
    return [
        NoteOut(id=e.id, text=e.what.text, checkpoint=e.what.checkpoint)
        for e in s.heard.look.notes
        if isinstance(e.what, Noted)
    ]


def entries_out(s: LookStanding, wording: Wording) -> list[EntryOut]:
    """All entries, each with whether it counts."""
    court = s.heard.court
    ignored = {i.entry: wording.say(i.says) for i in court.ignored}
    return [
        EntryOut(
            id=e.id,
            seq=e.seq,
            by=e.by,
            role=e.role,
            at=e.time,
            kind=kind_of(e.what).name,
            what=encode(e.what),
            counts=court.alive(e) and e.id not in ignored,
            says=ignored.get(e.id, ""),
        )
        for e in s.entries
    ]


def _touched(s: LookStanding, since: int) -> set[str]:
    """Checkpoints at which something may be otherwise than it was at a place of the log."""
    by_id = s.heard.court.entries
    found = {r.checkpoint for rs in s.heard.court.reports.values() for r in rs}
    for e in _since(s, since):
        entry: Entry | None = e
        while entry is not None and isinstance(entry.what, Undone):
            entry = by_id.get(entry.what.target)
        found.add(str(getattr(entry.what, "checkpoint", "")) if entry else "")
    return found


def _since(s: LookStanding, since: int) -> list[Entry]:
    """Entries that came in after a place of the log, in its order."""
    fresh = list(takewhile(lambda e: e.seq > since, reversed(s.entries)))
    return fresh[::-1]


class Items:
    """Findings of verdicts as they go out: while nothing new is found, a tap changes none of them; something new is one
    more beside the others."""

    def __init__(self) -> None:
        self._kept: OrderedDict[tuple[int, str], tuple[object, list[dict[str, Any]]]] = OrderedDict()
        self._each: OrderedDict[tuple[int, str], tuple[Item, dict[str, Any]]] = OrderedDict()

    def of(self, verdict: Verdict, wording: Wording) -> list[dict[str, Any]]:
        """A verdict's items as plain data of `ItemOut`."""
        key = (id(verdict.items), wording.language)
        have = self._kept.get(key)
        if have is None or have[0] is not verdict.items:
            told = [self._one(i, wording) for i in verdict.items]
            have = self._kept[key] = (verdict.items, told)
            if len(self._kept) > MOST_KEPT:
                self._kept.popitem(last=False)
        return have[1]

    def _one(self, item: Item, wording: Wording) -> dict[str, Any]:
        key = (id(item), wording.language)
        have = self._each.get(key)
        if have is None or have[0] is not item:
            told = ItemOut.model_validate(spoken(item, wording)).model_dump(mode="json")
            have = self._each[key] = (item, told)
            if len(self._each) > MOST_ITEMS:
                self._each.popitem(last=False)
        return have[1]


def look_now(s: LookStanding, who: Actor, since: int, at: datetime, items: Items, wording: Wording) -> dict[str, Any]:
    """What has become of a look since a place of the machine's log, as plain data of a `LookNowOut`.

    Answers are those that may be otherwise: where something came in, and wherever something was ever reported,
    because what others do elsewhere can change what counts there.
    """
    look = s.heard.look
    touched = _touched(s, since)
    now = LookNowOut(
        id=s.id,
        seq=s.unit.seq,
        since=since,
        entries=[e.id for e in _since(s, since)],
        answers=answers_out(s, who, at, touched),
        gone=sorted(c for c in touched if c and c not in look.heads),
        status=look.status_at(at),
        notes=notes_out(s),
        photos={k: list(v) for k, v in look.photos.items()},
        visits=[e.what.station for e in look.arrivals],  # type: ignore[attr-defined]
        undoable=undoable_out(s, who, at),
        late=list(look.late),
        verdict=verdict_out(replace(s.verdict, items=()), wording),
        joined=list(look.people),
    )
    told = now.model_dump(mode="json")
    told["verdict"]["items"] = items.of(s.verdict, wording)
    return told
