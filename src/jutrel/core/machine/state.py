"""How a machine stands: what is open on it, and which looks at it count."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime

from jutrel.core.defect.defect import Defect
from jutrel.core.edition import Edition
from jutrel.core.grading.combine import combine
from jutrel.core.grading.facts import Place
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.item import Item, item_of, unaccepted
from jutrel.core.grading.verdict import DEFAULT_LIMIT, Verdict, mend_by, named, nothing_against
from jutrel.core.inspection.finding import Conditions
from jutrel.core.inspection.look import Look, Status
from jutrel.core.log.entry import Entry
from jutrel.core.machine.incident import Incidents, incidents_of
from jutrel.core.machine.lock import Lock, locks_of
from jutrel.core.machine.model import Walk, checkpoint_of, walk_of
from jutrel.core.procedure.kinds import RUN
from jutrel.core.wording import NOTHING, Said, say, together


@dataclass(frozen=True, slots=True)
class Word:
    """A grade with its sentence and its limits."""

    grade: Grade
    why: Said
    limits: tuple[Said, ...] = ()


@dataclass(frozen=True, slots=True)
class Standing:
    """What is open on a machine, told as one: the worst grade, the sentence, the limits, how many things; its locks,
    and what happened to it."""

    word: Word = field(default_factory=lambda: Word(Grade.SOUND, nothing_against(NOTHING)))
    open: int = 0
    locks: tuple[Lock, ...] = ()
    incidents: Incidents | None = None


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
    edition: Edition, defects: Sequence[Defect], hours: float, offset: float, about: Sequence[Entry] = ()
) -> Standing:
    """What the open defects of a machine amount to, told as one; `about`: entries that tell of locks and incidents."""
    items = items_of(edition, defects, hours)
    walk = walk_of(edition.model, frozenset(edition.model.options))
    return Standing(told(items, walk, edition, offset), len(items), locks_of(about), incidents_of(about))


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
    continues: bool = False
    """It goes on from a whole inspection that still holds, and clears nothing by itself."""


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
    """Ids of the newest looks at a machine: signed, one that cleared it, one that ended that, one under way, and the
    newest whole one that cleared it."""

    signed: str | None = None
    cleared: str | None = None
    ended: str | None = None
    walking: str | None = None
    whole: str | None = None

    @property
    def ids(self) -> frozenset[str]:
        """All of them."""
        return frozenset(i for i in (self.signed, self.cleared, self.ended, self.walking, self.whole) if i)


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
        first(lambda look: look.signed_at is not None and look.clears and not look.continues),
    )


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
        continues=bool(kind and kind.continues),
    )
