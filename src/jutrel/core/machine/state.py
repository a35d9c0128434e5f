"""How a machine stands: what is open on it, which look cleared it, and whether it may go at a time."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from enum import StrEnum

from jutrel.core.defect.defect import Defect
from jutrel.core.edition import Edition
from jutrel.core.grading.combine import combine
from jutrel.core.grading.facts import Place
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.item import Item, item_of, unaccepted
from jutrel.core.grading.verdict import DEFAULT_LIMIT, Verdict, mend_by, named, nothing_against
from jutrel.core.inspection.finding import Conditions
from jutrel.core.inspection.look import LAPSES_AFTER, Look, Status, lapsed
from jutrel.core.log.entry import Entry
from jutrel.core.machine.lock import Lock, locked_said
from jutrel.core.machine.model import Walk, checkpoint_of, walk_of
from jutrel.core.procedure.kinds import RUN
from jutrel.core.wording import NOTHING, Said, say, together


class Go(StrEnum):
    """Whether a machine can go. Uninspected: no valid signed look."""

    READY = "ready"
    READY_MENDS_DUE = "ready-mends-due"
    LIMITED = "limited"
    HELD = "held"
    WALKING = "walking"
    UNINSPECTED = "uninspected"


BY_GRADE = {
    Grade.SOUND: Go.READY,
    Grade.WATCH: Go.READY,
    Grade.MEND: Go.READY_MENDS_DUE,
    Grade.LIMIT: Go.LIMITED,
    Grade.HOLD: Go.HELD,
}


@dataclass(frozen=True, slots=True)
class Word:
    """A grade with its sentence and its limits."""

    grade: Grade
    why: Said
    limits: tuple[Said, ...] = ()


@dataclass(frozen=True, slots=True)
class Standing:
    """What is open on a machine, told as one: the worst grade, the sentence, the limits, how many things; its locks."""

    word: Word = field(default_factory=lambda: Word(Grade.SOUND, nothing_against(NOTHING)))
    open: int = 0
    locks: tuple[Lock, ...] = ()


def items_of(edition: Edition, defects: Sequence[Defect], hours: float) -> tuple[Item, ...]:
    """The open defects of a machine outside any look: by day, dry, nobody near, at these hours [h]."""
    model = edition.model
    place = Place(model, Conditions(), hours, model.reserves)
    walk = walk_of(model, frozenset(model.options))
    return tuple(
        item_of(d, walk.checkpoint(d.key[0]) or checkpoint_of(model, d.key[0]), place, edition.rulebook, "")
        for d in defects
    )


def standing_of(
    edition: Edition, defects: Sequence[Defect], hours: float, offset: float, locks: tuple[Lock, ...] = ()
) -> Standing:
    """What the open defects of a machine amount to, told as one, and whose locks are on it."""
    items = items_of(edition, defects, hours)
    walk = walk_of(edition.model, frozenset(edition.model.options))
    return Standing(told(items, walk, edition, offset), len(items), locks)


def told(items: Sequence[Item], walk: Walk, edition: Edition, offset: float) -> Word:
    """The worst of what is open, in a sentence."""
    combined = [x for rule in edition.rulebook.combinations if (x := combine(rule, items, walk))]
    worst = max([Grade.SOUND, *(i.grade for i in items), *(x.grade for x in combined)])
    hit = [i for i in items if i.grade is worst]
    names = named(i.name for i in hit)
    says = next((x.says for x in combined if x.grade is worst), NOTHING)
    if hit:
        says = say("{names}. {why}", names=names, why=hit[0].why)
    limits: tuple[Said, ...] = ()
    match worst:
        case Grade.HOLD:
            waits = [i for i in hit if i.pending]
            more = say("It was released; another person has to confirm that with a signature.") if waits else NOTHING
            return Word(worst, together([say("Do not start it: {why}", why=says), more]))
        case Grade.LIMIT:
            own = [t for i in hit for t in i.limits or (DEFAULT_LIMIT,)]
            shared = [x.limit or DEFAULT_LIMIT for x in combined if x.grade is worst]
            limits = tuple(dict.fromkeys(own + shared))
            why = say("It works only within limits: {why}", why=says)
            return Word(worst, together([why, unaccepted(hit)]), limits)
        case Grade.MEND:
            due = min((i.due_hour for i in items if i.due_hour is not None), default=None)
            return Word(worst, mend_by(due, offset, names))
        case Grade.WATCH:
            return Word(worst, nothing_against(names))
        case _:
            return Word(worst, nothing_against(NOTHING))


@dataclass(frozen=True, slots=True)
class LookSummary:
    """A look in a row: what lists and the yard need of it. `own` is what it says beside the open defects."""

    id: str
    kind: str
    clears: bool
    ends: bool
    status: Status
    begun_at: datetime
    begun_by: str
    begun_received: datetime
    clock_known: bool
    last_at: datetime
    last_by: str
    signed_at: datetime | None
    signed_by: str | None
    signed_received: datetime | None
    outcome: str
    why: Said
    own: Word
    shift_hours: float
    hour_meter: float
    valid_until: datetime | None
    valid_until_hour: float | None
    answered: int
    planned: int
    worst: tuple[str, ...]
    news: Mapping[str, Said]
    rulebook: str


def own_word(verdict: Verdict) -> Word:
    """What a look says beside the defects, which are told by themselves: what nobody could see."""
    unseen = [i for i in verdict.items if not i.defect]
    worst = max((i.grade for i in unseen), default=Grade.SOUND)
    hit = [i for i in unseen if i.grade is worst]
    why = NOTHING
    if hit and worst >= Grade.LIMIT:
        why = say("{names}. {why}", names=Said(hit[0].name, (), "checkpoint"), why=hit[0].why)
    limits = tuple(dict.fromkeys(t for i in hit for t in i.limits)) if worst is Grade.LIMIT else ()
    return Word(worst, why, limits)


@dataclass(frozen=True, slots=True)
class Newest:
    """Ids of the newest looks at a machine: signed, one that cleared it, one that ended that, one under way."""

    signed: str | None = None
    cleared: str | None = None
    ended: str | None = None
    walking: str | None = None

    @property
    def ids(self) -> frozenset[str]:
        """All of them."""
        return frozenset(i for i in (self.signed, self.cleared, self.ended, self.walking) if i)


def newest_of(looks: Iterable[LookSummary]) -> Newest:
    """The newest looks of a machine among these."""
    in_order = sorted(looks, key=lambda look: (look.begun_at, look.id), reverse=True)

    def first(fits: Callable[[LookSummary], bool]) -> str | None:
        return next((look.id for look in in_order if fits(look)), None)

    return Newest(
        first(lambda look: look.signed_at is not None),
        first(lambda look: look.signed_at is not None and look.clears),
        first(lambda look: look.ends),
        first(lambda look: look.status is Status.WALKING and look.kind != RUN),
    )


@dataclass(frozen=True, slots=True)
class Looks:
    """The newest looks at a machine: signed, one that cleared it, one that ended that, and one under way."""

    newest: LookSummary | None = None
    cleared: LookSummary | None = None
    ended: LookSummary | None = None
    current: LookSummary | None = None


def may_go(standing: Standing, looks: Looks, kinds: Mapping[str, str], hours: float, now: datetime) -> tuple[Go, Word]:
    """Whether a machine may go at a time, and why (not). `kinds`: names of the kinds of inspection.

    What is open on the machine decides first, whichever look found it and whenever it arrived. A look adds
    what nobody could see, and says until when it cleared the machine. A lock comes before all of that: whoever
    put it may be under the machine.
    """
    if standing.locks:
        return Go.HELD, Word(Grade.HOLD, locked_said(standing.locks))
    if standing.word.grade is Grade.HOLD:
        return Go.HELD, standing.word
    current = looks.current
    if current is not None and lapsed(current.status, current.begun_at, now) is not Status.WALKING:
        current = None
    for look in (current, looks.newest):
        if look is not None and look.own.grade is Grade.HOLD:
            return Go.HELD, Word(Grade.HOLD, say("Do not start it: {why}", why=look.own.why))
    if current is not None:
        return Go.WALKING, Word(Grade.SOUND, current.why)
    cleared, ended = looks.cleared, looks.ended
    if cleared is None or cleared.signed_at is None:
        return Go.UNINSPECTED, Word(Grade.SOUND, say("It has not been walked round before a shift yet."))
    if ended is not None and _ends(ended, cleared):
        name = kinds.get(ended.kind, ended.kind)
        says = say(
            "{kind}: what was found before holds no longer. Walk it before it works.",
            kind=Said(name, (), "inspection"),
        )
        return Go.UNINSPECTED, Word(Grade.SOUND, says)
    if cleared.valid_until is None or cleared.valid_until < now:
        return Go.UNINSPECTED, Word(Grade.SOUND, say("The last inspection was for an earlier shift."))
    if cleared.valid_until_hour is not None and hours > cleared.valid_until_hour:
        return Go.UNINSPECTED, Word(Grade.SOUND, say("Ten hours of running have passed since the last inspection."))
    # A later once-over can make it worse, not better.
    own = [look.own for look in (cleared, looks.newest) if look is not None]
    worst = max([standing.word, *own], key=lambda w: w.grade)
    if worst.grade is not standing.word.grade and worst.grade is Grade.LIMIT:
        return Go.LIMITED, Word(worst.grade, say("It works only within limits: {why}", why=worst.why), worst.limits)
    limits = tuple(
        dict.fromkeys([*standing.word.limits, *(t for w in own if w.grade is Grade.LIMIT for t in w.limits)])
    )
    return BY_GRADE[worst.grade], Word(worst.grade, standing.word.why, limits)


MOMENT = timedelta(microseconds=1)


def changes_at(looks: Looks, now: datetime) -> datetime | None:
    """When `may_go` next says something else though nobody did anything; None: never."""
    ends = []
    if looks.current is not None:
        ends.append(looks.current.begun_at + LAPSES_AFTER + MOMENT)
    if looks.cleared is not None and looks.cleared.valid_until is not None:
        ends.append(looks.cleared.valid_until + MOMENT)
    return min((at for at in ends if at > now), default=None)


def _ends(ended: LookSummary, cleared: LookSummary) -> bool:
    """Whether a look of a kind that ends a clearance came after the one that gave it.

    Where the device's clock was never measured its time is not believed: then the arrival decides, too.
    """
    if ended.begun_at > cleared.begun_at:
        return True
    if ended.clock_known or cleared.signed_received is None:
        return False
    return ended.begun_received > cleared.signed_received


def first_pinned(entries: Sequence[Entry]) -> Entry | None:
    """The first entry of a look, which is bound to an edition."""
    return min((e for e in entries if e.pins is not None), key=lambda e: e.seq, default=None)


def summary_of(look_id: str, look: Look, walk: Walk, verdict: Verdict, entries: Sequence[Entry], worst: Sequence[Grade],
               news: Mapping[str, Said], hours: float | None,
               signed: Verdict | None = None) -> LookSummary:  # fmt: skip
    """A look in a row. `signed`: the verdict that its signature kept."""
    opening = look.opening or min(entries, key=lambda e: e.seq)
    last = look.last or opening
    kind = walk.kind
    signature = look.signature
    shown = signed if signed is not None and look.status is Status.SIGNED else verdict
    return LookSummary(
        id=look_id,
        kind=look.opened.purpose,
        clears=walk.clears,
        ends=bool(kind and kind.ends),
        status=look.status,
        begun_at=opening.time,
        begun_by=opening.by,
        begun_received=opening.received_at or opening.time,
        clock_known=opening.offset_ms is not None,
        last_at=last.time,
        last_by=last.by,
        signed_at=signature.time if signature and look.status is Status.SIGNED else None,
        signed_by=signature.by if signature and look.status is Status.SIGNED else None,
        signed_received=signature.received_at if signature and look.status is Status.SIGNED else None,
        outcome=shown.outcome.value,
        why=shown.why,
        own=own_word(shown),
        shift_hours=look.opened.conditions.shift_hours,
        hour_meter=hours or 0.0,
        valid_until=shown.valid_until,
        valid_until_hour=shown.valid_until_hour,
        answered=len(set(look.heads) & {c.id for c in walk.checkpoints}),
        planned=len(walk.checkpoints),
        worst=tuple(g.word for g in sorted(worst, reverse=True)),
        news=dict(news),
        rulebook=shown.rulebook,
    )
