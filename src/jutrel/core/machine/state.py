"""How a machine stands: what is open on it, and which looks at it count."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Annotated

from jutrel.core.defect.defect import Defect
from jutrel.core.edition import Edition
from jutrel.core.grading.combine import combine
from jutrel.core.grading.facts import Place
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.item import Item, item_of, unaccepted, with_names
from jutrel.core.grading.verdict import DEFAULT_LIMIT, Verdict, mend_by, named, nothing_against
from jutrel.core.inspection.finding import Answer, Conditions
from jutrel.core.inspection.kinds import Answered, Signed
from jutrel.core.inspection.look import Look, Status, answers_at
from jutrel.core.log.entry import Entry
from jutrel.core.machine.event import Event, newest_event
from jutrel.core.machine.family import SystemClass
from jutrel.core.machine.incident import Incidents, incidents_of
from jutrel.core.machine.limits import AcceptedAs, accepted_as
from jutrel.core.machine.lock import Lock, locks_of
from jutrel.core.machine.model import Walk, checkpoint_of, walk_of
from jutrel.core.machine.putting_right import Holding, Permit, holdings_of, permits_of
from jutrel.core.procedure.kinds import RUN
from jutrel.core.wording import NOTHING, Said, Words, say, together


@dataclass(frozen=True, slots=True)
class Word:
    """A grade with its sentence and its limits."""

    grade: Grade
    why: Said
    limits: tuple[Said, ...] = ()
    together: tuple[Said, ...] = ()
    """Those of them that several things make together."""


@dataclass(frozen=True, slots=True)
class Standing:
    """What is open on a machine, told as one: the worst grade, the sentence, the limits, how many things; its locks,
    and what happened to it."""

    word: Word = field(default_factory=lambda: Word(Grade.SOUND, nothing_against(NOTHING)))
    open: int = 0
    locks: tuple[Lock, ...] = ()
    incidents: Incidents | None = None
    event: Event | None = None
    """The last thing that ended what was found before it."""
    unseen: tuple[Unseen, ...] = ()
    """What a life depends on and nobody could see, until somebody has."""
    limited: bool = False
    """Whether something on it works only within limits that a supervisor has to accept."""
    accepted_at: datetime | None = None
    """When the oldest acceptance of them was given; None: one of them has none."""
    together: tuple[Said, ...] = ()
    """What it works within by several things together."""
    accepted: tuple[AcceptedAs, ...] = ()
    """What was accepted beside the defects' own limits."""
    holding: tuple[Holding, ...] = ()
    """What holds it, and who may start it to put that right."""
    permits: tuple[Permit, ...] = ()
    """Words that somebody starts it to put it right: the newest of each person, the newest first."""
    judged_by: str = ""
    """By which edition all of this was judged."""
    missing: tuple[Annotated[str, Words("checkpoint")], ...] = ()
    """What that edition wants looked at on this unit, and the inspection that it goes on did not look at."""
    newest_at: datetime | None = None
    """When the newest entry came in that says something of this."""
    furthest_seq: int = 0
    """Which entry read the furthest hours."""


Items = tuple[tuple[Item, ...], ...]
"""The open defects of a machine under each of some editions."""


def items_of_each(editions: Sequence[Edition], defects: Sequence[Defect], hours: float) -> Items:
    """The open defects under each edition, as `items_of` tells them."""
    return tuple(items_of(edition, defects, hours) for edition in editions)


def items_of(edition: Edition, defects: Sequence[Defect], hours: float) -> tuple[Item, ...]:
    """The open defects of a machine outside any look: by day, dry, nobody near, at these hours [h]."""
    model = edition.model
    place = Place(model, Conditions(), hours, model.reserves)
    walk = walk_of(model, frozenset(model.options))
    return tuple(
        item_of(d, walk.checkpoint(d.key[0]) or checkpoint_of(model, d.key[0]), place, edition.rulebook, "")
        for d in defects
    )


def worst_items(editions: Sequence[Edition], defects: Sequence[Defect], hours: float) -> tuple[Item, ...]:
    """Each open defect by the rules under which it is worst: those it was reported by, or those in force."""
    return worst_of(items_of_each(editions, defects, hours))


def worst_of(items: Items) -> tuple[Item, ...]:
    """Of each defect the worst that an edition says."""
    return tuple(max(each, key=lambda i: i.grade) for each in zip(*items, strict=True))


@dataclass(frozen=True, slots=True)
class ListedDefect:
    """An open defect as the list of all orders and picks it. `duty`: of what fails; empty: it has none."""

    id: str
    grade: Grade
    since: datetime
    duty: str


def listed(editions: Sequence[Edition], defects: Sequence[Defect], items: Items) -> tuple[ListedDefect, ...]:
    """What is open on a machine, for the list of all; `items`: as `items_of_each` told it."""
    out = []
    for defect, item in zip(defects, worst_of(items), strict=True):
        duty = checkpoint_of(editions[0].model, defect.key[0]).duty_of(defect.key[1])
        out.append(ListedDefect(defect.id, item.grade, defect.first.at, duty.id if duty else ""))
    return tuple(out)


@dataclass(frozen=True, slots=True)
class Unseen:
    """A checkpoint that a life depends on and that nobody could see: its name, why, and the entry that says so."""

    checkpoint: str
    name: Annotated[str, Words("checkpoint")]
    why: Said
    entry: str
    seq: int


def standing_of(editions: Sequence[Edition], each: Items, offset: float, about: Sequence[Entry] = ()) -> Standing:
    """What the open defects of a machine amount to, told as one; `about`: entries that tell of locks and incidents.

    `editions`: the rules they were reported under, and those in force: the worse word counts. `each`: the defects under
    each of them, as `items_of_each` tells them.
    """
    words: list[tuple[Word, tuple[Item, ...]]] = []
    for edition, items in zip(editions, each, strict=True):
        walk = walk_of(edition.model, frozenset(edition.model.options))
        words.append((told(items, walk, edition, offset), items))
    word, items = max(words, key=lambda w: w[0].grade)
    limits = [i for i in items if i.grade is Grade.LIMIT]
    held = max((i for _, i in words), key=lambda i: sum(x.grade is Grade.HOLD for x in i))
    force = editions[-1]
    duties = [checkpoint_of(force.model, i.checkpoint).duty_of(i.finding.failure_mode) for i in held]
    accepted = [i.accepted_at for i in limits]
    return Standing(
        word, len(items), locks_of(about), incidents_of(about), newest_event(about), limited=bool(limits),
        accepted_at=None if None in accepted else min((a for a in accepted if a is not None), default=None),
        together=word.together, accepted=accepted_as(about), permits=permits_of(about),
        holding=holdings_of(held, word.grade is Grade.HOLD, force.rulebook, duties),
    )  # fmt: skip


def told(items: Sequence[Item], walk: Walk, edition: Edition, offset: float) -> Word:
    """The worst of what is open, in a sentence."""
    combined = [x for rule in edition.rulebook.combinations if (x := combine(rule, items, walk))]
    worst = max([Grade.SOUND, *(i.grade for i in items), *(x.grade for x in combined)])
    hit = [i for i in items if i.grade is worst]
    names = named(i.name for i in hit)
    says = next((x.says for x in combined if x.grade is worst), NOTHING)
    if hit:
        says = with_names(names, hit[0].name, hit[0].why)
    limits: tuple[Said, ...] = ()
    match worst:
        case Grade.HOLD:
            waits = [i for i in hit if i.pending]
            more = say("It was released; somebody else has to sign that.") if waits else NOTHING
            return Word(worst, together([say("Do not start it: {why}", why=says), more]))
        case Grade.LIMIT:
            own = [t for i in hit for t in i.limits or (DEFAULT_LIMIT,)]
            shared = [x.limit or DEFAULT_LIMIT for x in combined if x.grade is worst]
            limits = tuple(dict.fromkeys(own + shared))
            why = say("It works only within limits: {why}", why=says)
            return Word(worst, together([why, unaccepted(hit)]), limits, tuple(dict.fromkeys(shared)))
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
    saw: int = 0
    """Up to where its opening knew the machine's log: only what stands there happened before it."""
    opened_seq: int = 0
    signed_seq: int = 0
    """Where its opening and its signature stand in the machine's log."""
    earliest: datetime | None = None
    """When it can have been begun at the earliest, where its device's clock was never measured."""
    unseen: tuple[Unseen, ...] = ()
    """What a life depends on and nobody could see in it, whatever became of it."""
    looked: tuple[str, ...] = ()
    """What is looked at by interval and was looked at in it."""

    @property
    def begun(self) -> datetime:
        """From when its life counts: what clears counts from its earliest possible time."""
        return self.begun_at if self.earliest is None else min(self.earliest, self.begun_at)


def own_word(verdict: Verdict) -> Word:
    """What a look says beside the defects, which are told by themselves: what nobody could see."""
    unseen = [i for i in verdict.items if not i.defect]
    worst = max((i.grade for i in unseen), default=Grade.SOUND)
    hit = [i for i in unseen if i.grade is worst]
    why = NOTHING
    if hit and worst >= Grade.LIMIT:
        why = with_names(Said(hit[0].name, (), "checkpoint"), hit[0].name, hit[0].why)
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
    # By what its opening knew of the log, then by its place there; clocks settle nothing here.
    in_order = sorted(looks, key=lambda look: (look.saw, look.opened_seq, look.id), reverse=True)

    def first(fits: Callable[[LookSummary], bool]) -> str | None:
        return next((look.id for look in in_order if fits(look)), None)

    return Newest(
        first(lambda look: look.signed_at is not None),
        first(lambda look: look.signed_at is not None and look.clears),
        max(((look.opened_seq, look.id) for look in in_order if look.ends), default=(0, None))[1],
        first(lambda look: look.status is Status.WALKING and look.kind != RUN),
        first(lambda look: look.signed_at is not None and look.clears and not look.continues),
    )


def first_pinned(entries: Sequence[Entry]) -> Entry | None:
    """The first entry of a look, which is bound to an edition."""
    return min((e for e in entries if e.pins is not None), key=lambda e: e.seq, default=None)


def summary_of(
    look_id: str,
    look: Look,
    walk: Walk,
    verdict: Verdict,
    entries: Sequence[Entry],
    worst: Sequence[Grade],
    news: Mapping[str, Said],
    hours: float | None,
    signed: Verdict | None = None,
    saw: int = 0,
    earliest: datetime | None = None,
) -> LookSummary:
    """A look in a row. `signed`: the verdict that its signature kept; `saw`: up to where its opening knew the log;
    `earliest`: when it can have been begun, where its clock is not known."""
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
        saw=saw,
        opened_seq=look.opening.seq if look.opening else 0,
        signed_seq=signature.seq if signature and look.status is Status.SIGNED else 0,
        earliest=earliest,
        unseen=unseen_in(look, walk, verdict, entries),
        looked=tuple(c.id for c in walk.checkpoints if c.by_interval and _seen(look.heads.get(c.id, ()))),
    )


def _seen(heads: Sequence[Entry]) -> bool:
    """Whether everybody who answered there has seen it."""
    return bool(heads) and not any(isinstance(e.what, Answered) and e.what.answer is Answer.UNSEEN for e in heads)


def unseen_in(look: Look, walk: Walk, verdict: Verdict, entries: Sequence[Entry]) -> tuple[Unseen, ...]:
    """What a life depends on and somebody could not see in a look; where people differ, the worse counts.

    What was signed as unseen stays so until somebody signs that they have seen it: a word after it is not enough.
    """
    signature = look.signature
    covers = signature.what.covers if signature and isinstance(signature.what, Signed) else frozenset()
    signed = [e for e in entries if e.id in covers]
    stands = {key: [*heads, *_last_signed(key, signed)] for key, heads in look.heads.items()}
    why = {i.checkpoint: i.why for i in verdict.items if not i.defect}
    out = []
    for key, said in stands.items():
        c = walk.checkpoint(key)
        if c is None or c.kind is not SystemClass.LIFE or not c.mandatory:
            continue
        for e in said:
            if isinstance(e.what, Answered) and e.what.answer is Answer.UNSEEN:
                out.append(Unseen(key, c.name, why.get(key, NOBODY_SAW), e.id, e.seq))
                break
    return tuple(out)


NOBODY_SAW = say("Nobody could see it, and a life depends on it.")


def _last_signed(checkpoint: str, signed: Sequence[Entry]) -> list[Entry]:
    """The last answer at a place among those that were signed."""
    return sorted(answers_at(signed).get(checkpoint, ()), key=lambda e: e.seq)[-1:]
