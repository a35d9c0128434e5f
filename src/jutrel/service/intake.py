"""The one door for entries: who wrote it and by what right, each once, chained, and the projections with it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any, cast

from jutrel.core.defect.kinds import Rechecked, Released
from jutrel.core.edition import Edition
from jutrel.core.errors import BadInput
from jutrel.core.grading.finding_grade import check_finding
from jutrel.core.grading.verdict import OUTCOMES, Outcome, level_of
from jutrel.core.inspection.finding import Answer
from jutrel.core.inspection.kinds import (
    MOST_AT_ONE,
    MOST_FINDINGS,
    MOST_IN_LOOK,
    Answered,
    Arrived,
    Measured,
    Noted,
    Opened,
    Photographed,
    Read,
    Signed,
    Undone,
)
from jutrel.core.inspection.look import pins_of
from jutrel.core.log.chain import START, chained, said_by_device
from jutrel.core.log.codec import EntryId, decode, time_of
from jutrel.core.log.entry import Entry, heard_time
from jutrel.core.log.kinds import StreamKind, kind_named, kind_of
from jutrel.core.machine.family import SystemClass
from jutrel.core.machine.file import with_own_limits
from jutrel.core.machine.unit import Unit
from jutrel.core.people import role_said
from jutrel.core.procedure.gauges import gauge_problem
from jutrel.core.procedure.greasing import Greased
from jutrel.core.procedure.kinds import RUN, Engine, Filled, Remarked, Stepped
from jutrel.core.reading.bound import check_read
from jutrel.core.run import as_if_signed
from jutrel.core.wording import NOTHING, Said, say
from jutrel.service import look as look_service
from jutrel.service.context import Books, Here, Shop
from jutrel.service.look import Known
from jutrel.service.models import unit_model
from jutrel.service.people import Actor, Pen, hashed, here_and_actor, pen_for, pens_shown
from jutrel.service.problem import NotFound
from jutrel.service.record import keep_signed
from jutrel.service.schools import schools_of
from jutrel.store.base import Db
from jutrel.store.queries import log as log_store
from jutrel.store.queries import machines as machine_store
from jutrel.store.queries.tap import any_known, standpoint, write_at_end

MOST_CLOCK_MS = 4_000_000_000_000
MOST_NAMED = 500
PLAIN_KINDS = ("answered", "arrived", "noted", "photographed")
DEFECT_PREFIX, FILE_PREFIX = "defect.", "file."


@dataclass(frozen=True, slots=True)
class Sent:
    """An entry as a device sends it: nothing of it is believed yet."""

    id: str
    kind: str
    by: str
    at: datetime
    what: object
    replaces: frozenset[str] = frozenset()
    offset_ms: int | None = None


@dataclass(frozen=True, slots=True)
class Refused:
    """An entry that was not stored. `again` says whether sending it later can help."""

    id: str
    kind: str
    says: Said
    field: str | None = None
    again: bool = False


@dataclass(frozen=True, slots=True)
class Taken:
    """What became of a batch: stored now, known already, refused; and the unit with it."""

    stored: tuple[str, ...]
    known: tuple[str, ...]
    refused: tuple[Refused, ...]
    unit: Unit


class No(Exception):
    """An entry that is refused for a reason of its own."""

    def __init__(self, kind: str, says: str, again: bool = False, **values: Any) -> None:
        self.says = Said(says, tuple(values.items()))
        super().__init__(str(self.says))
        self.kind, self.again = kind, again


def of_field(error: BadInput) -> Said:
    """What is wrong with an entry, with the field it is about."""
    return say("{field}: {says}", field=error.field, says=error.says)


def read_sent(data: Any) -> Sent:
    """An entry from plain data; raises BadInput with the field."""
    if not isinstance(data, Mapping):
        raise BadInput("entry", "give fields with their values")
    for key in data:
        if key not in ("id", "by", "at", "what", "replaces", "offset_ms"):
            raise BadInput(str(key)[:60], "is not a known field of an entry")
    what = data.get("what")
    if not isinstance(what, Mapping) or not isinstance(what.get("kind"), str):
        raise BadInput("what.kind", "is missing")
    kind = kind_named(what["kind"])
    offset = data.get("offset_ms")
    if offset is not None and (isinstance(offset, bool) or not isinstance(offset, int) or abs(offset) > MOST_CLOCK_MS):
        raise BadInput("offset_ms", "give the clock's offset as a whole number of milliseconds")
    replaces = data.get("replaces") or []
    if not isinstance(replaces, list) or len(replaces) > MOST_NAMED:
        raise BadInput("replaces", "give a list of at most {n} ids", n=MOST_NAMED)
    return Sent(
        decode(EntryId, data.get("id"), "id"),
        kind.name,
        str(data.get("by", ""))[:60],
        time_of("at", data.get("at")),
        decode(kind.payload, {k: v for k, v in what.items() if k != "kind"}),
        frozenset(decode(EntryId, r, "replaces") for r in replaces),
        offset,
    )


def read_batch(data: Sequence[Any]) -> tuple[list[Sent], list[Refused]]:
    """Entries that can be read, and for each of the others why not."""
    good, bad = [], []
    for raw in data:
        try:
            good.append(read_sent(raw))
        except BadInput as error:
            name = raw.get("id") if isinstance(raw, Mapping) else None
            bad.append(Refused(str(name or "")[:60], "bad-entry", of_field(error), error.field))
    return good, bad


async def take_batch(
    shop: Shop, token: str | None, machine: str, stream: str, data: Sequence[Any], secrets: Sequence[str], now: datetime
) -> tuple[Taken, Here, Actor]:
    """Store a batch of entries of one stream, each once, in any order, for whoever the session belongs to.

    What cannot be stored is refused one by one; the rest is kept, with its projections, in one transaction.
    Writers of one machine wait for each other without holding a connection.
    """
    good, bad = read_batch(data)
    async with shop.turns.of(machine):
        if good and not secrets and (plain := await _take_straight(shop, token, machine, stream, good, now)):
            taken, here, actor = plain
            return replace(taken, refused=(*bad, *taken.refused)), here, actor
        for attempt in (1, 2, 3):
            try:
                async with shop.store.transaction() as db:
                    here, actor, unit, fresh = await _standpoint(db, shop.books, token, machine, good, now)
                    taken = await _taken(here, actor, unit, stream, good, secrets, fresh)
                break
            except log_store.IdTaken:
                # The same ids came to another machine at the same moment: asked again, they are known.
                if attempt == 3:
                    raise
    return replace(taken, refused=(*bad, *taken.refused)), here, actor


async def _take_straight(
    shop: Shop, token: str | None, machine: str, stream: str, batch: Sequence[Sent], now: datetime
) -> tuple[Taken, Here, Actor] | None:
    """The ordinary tap in two statements straight to the driver; None, and nothing stored, if it is not that plain.

    Nothing is locked between the two: the second writes only if the log still ends where the first found it.
    """
    if len(batch) != 1 or not shop.books.shelf.may_know(machine, f"look {stream}"):
        return None
    try:
        async with shop.store.driver() as driver:
            ids = [s.id for s in batch]
            stands = await standpoint(driver, hashed(token) if token else "", machine, ids, now, lock=False)
            if stands is None or stands.known:
                return None
            actor = Actor(stands.site.id, stands.person, stands.pen)
            # Nothing on this way asks a session; what would need one is not plain.
            here = Here(cast(Db, driver), stands.site, shop.books, now)
            plain = await _plainly(here, actor, stands.unit, stream, batch)
            if plain is None:
                return None
            door, look = plain
            if not await write_at_end(driver, here.site.id, door.fresh[0], look.summary):
                return None
            shop.books.shelf.put(here.site.id, door.unit, f"look {stream}", look)
            return Taken((door.fresh[0].id,), (), (), door.unit), here, actor
    except log_store.IdTaken:
        return None


async def _standpoint(
    db: Db, books: Books, token: str | None, machine: str, batch: Sequence[Sent], now: datetime
) -> tuple[Here, Actor, Unit, bool]:
    """Who sends, and the machine, whose log is theirs until the transaction ends; whether the entries look new."""
    stands = await standpoint(db, hashed(token) if token else "", machine, [s.id for s in batch], now)
    if stands is None:
        await here_and_actor(db, books, token, now)
        raise no_machine(machine)
    actor = Actor(stands.site.id, stands.person, stands.pen)
    return Here(db, stands.site, books, now), actor, stands.unit, not stands.known


async def take(here: Here, actor: Actor, machine: str, stream: str, batch: Sequence[Sent]) -> Taken:
    """Store entries of one stream within a transaction."""
    unit = await machine_store.unit(here.db, here.site.id, machine, lock=True)
    if unit is None:
        raise no_machine(machine)
    fresh = not await any_known(here.db, here.site.id, [s.id for s in batch])
    return await _taken(here, actor, unit, stream, batch, (), fresh)


async def _taken(
    here: Here, actor: Actor, unit: Unit, stream: str, batch: Sequence[Sent], secrets: Sequence[str], fresh: bool
) -> Taken:
    """Store entries under the machine's lock. `fresh`: if the log ends where it was known to, they are new to it."""
    if fresh and not secrets and (taken := await _take_plainly(here, actor, unit, stream, batch)) is not None:
        return taken
    if await log_store.machine_of_stream(here.db, here.site.id, stream) not in (None, unit.id):
        return _other_machine(unit, batch)
    pens = await pens_shown(here, actor, secrets)
    have = await log_store.entries_by_id(here.db, here.site.id, [s.id for s in batch])
    door = _Door(here, actor, unit, stream, pens, await log_store.entries_of_stream(here.db, here.site.id, stream))
    known: list[str] = []
    refused: list[Refused] = []
    # Signatures last: what they cover may arrive in the same batch.
    for sent in sorted(batch, key=lambda s: (s.kind == "signed", s.id)):
        try:
            entry = door.entry(sent)
            if (old := have.get(sent.id)) is not None:
                if said_by_device(old) != said_by_device(entry):
                    raise No("id-taken", "Another entry with this id is already recorded.")
                known.append(sent.id)
                continue
            if any(e.id == sent.id for e in door.fresh):
                raise No("id-taken", "This id stands twice in the batch.")
            await door.take(entry)
        except BadInput as error:
            refused.append(Refused(sent.id, "bad-entry", of_field(error), error.field))
        except No as no:
            refused.append(Refused(sent.id, no.kind, no.says, None, no.again))
    if not door.fresh:
        return Taken((), tuple(known), tuple(refused), unit)
    # Only what is stored makes a look this machine's.
    if await log_store.claim_stream(here.db, here.site.id, stream, unit.id) != unit.id:
        return _other_machine(unit, batch)
    unit = door.unit
    await log_store.add_entries(here.db, here.site.id, door.fresh)
    if door.kept is not None:
        await keep_signed(here, unit, stream, door.kept)
    unit = await look_service.project(here, unit, stream, door.entries)
    return Taken(tuple(e.id for e in door.fresh), tuple(known), tuple(refused), unit)


def _other_machine(unit: Unit, batch: Sequence[Sent]) -> Taken:
    says = say("These entries belong to a look at another machine: they stay with that one.")
    return Taken((), (), tuple(Refused(s.id, "other-machine", says) for s in batch), unit)


async def _take_plainly(here: Here, actor: Actor, unit: Unit, stream: str, batch: Sequence[Sent]) -> Taken | None:
    """The ordinary tap: the author's own new answers that report nothing, at a look that was worked out before.

    None where anything about them is not that plain: then the whole look is gone through.
    """
    plain = await _plainly(here, actor, unit, stream, batch)
    if plain is None:
        return None
    door, now = plain
    await look_service.project_plainly(here, door.unit, door.fresh, now)
    return Taken(tuple(e.id for e in door.fresh), (), (), door.unit)


async def _plainly(
    here: Here, actor: Actor, unit: Unit, stream: str, batch: Sequence[Sent]
) -> tuple[_Door, Known] | None:
    """The ordinary tap worked out, nothing written yet: the door with its entries, and the look after them."""
    now: Known | None = here.books.shelf.at(here.site.id, unit).get(f"look {stream}")
    if now is None:
        return None
    plain = all(s.kind in PLAIN_KINDS and s.by == actor.person.id for s in batch)
    if not plain or not batch or len({s.id for s in batch}) < len(batch):
        return None
    door = _Door(here, actor, unit, stream, [actor.pen], now.heard.case.entries)
    if not door.pinned:
        return None
    door.edition = now.heard.case.edition
    door.answers = Counter({at: len(all_) for at, all_ in now.heard.case.answers.items()})
    try:
        for sent in sorted(batch, key=lambda s: s.id):
            await door.take(door.entry(sent))
            more = now.with_entry(door.entries[-1])
            if more is None:
                return None
            now = more
    except (BadInput, No):
        return None
    return door, now


class _Door:
    """One batch on its way into one machine's log."""

    def __init__(
        self, here: Here, actor: Actor, unit: Unit, stream: str, pens: Sequence[Pen], entries: Sequence[Entry]
    ) -> None:
        self.here, self.actor, self.unit, self.stream, self.pens = here, actor, unit, stream, pens
        self.entries = list(entries)
        self.fresh: list[Entry] = []
        self.pinned = any(e.pins for e in entries)
        self.opened = any(isinstance(e.what, Opened) for e in entries)
        self.edition: Edition | None = None
        self.answers: Counter[str] | None = None
        """How many there are at each checkpoint, once somebody asked."""
        self.kept: look_service.Kept | None = None
        if stream.startswith(FILE_PREFIX):
            self.kind = StreamKind.FILE
        elif stream.startswith(DEFECT_PREFIX):
            self.kind = StreamKind.DEFECT
        else:
            self.kind = StreamKind.LOOK

    def entry(self, sent: Sent) -> Entry:
        """The entry with everything the server adds but its place in the chain."""
        pen = pen_for(self.pens, sent.by, sent.at)
        if pen is None:
            raise No(
                "unknown-pen",
                "Whoever wrote this is not known on this device: they sign in here once, then it is sent.",
                again=True,
            )
        return Entry(
            id=sent.id,
            machine=self.unit.id,
            stream=self.stream,
            by=sent.by,
            at=sent.at,
            what=sent.what,
            replaces=sent.replaces,
            offset_ms=sent.offset_ms,
            role=pen.role,
            pen=pen.id,
            device=pen.device,
            sent_by=self.actor.person.id,
            received_at=self.here.now,
            heard_at=heard_time(sent.at, sent.offset_ms, pen.given_at, max(self.here.now, pen.given_at)),
        )

    async def take(self, entry: Entry) -> None:
        """Check an entry and put it at the end of the log."""
        kind = kind_of(entry.what)
        if kind.stream is not self.kind:
            raise No("wrong-stream", "An entry of the kind '{name}' does not belong here.", name=kind.name)
        if entry.role not in kind.roles:
            roles = tuple(role_said(r) for r in sorted(kind.roles))
            raise No(
                "not-your-role",
                "This is written by: {roles}. It was written as {role}.",
                roles=roles,
                role=role_said(entry.role),
            )
        if full := self._full(entry):
            raise No("look-full", "One look holds {full} at most: sign it and begin another.", full=full)
        if self.kind is StreamKind.LOOK:
            if not self.pinned:
                pins = await look_service.pins_kept(self.here, self.unit)
                if not isinstance(entry.what, Opened) or entry.what.purpose == RUN:
                    model = await unit_model(self.here, self.unit)
                    pins = replace(pins, schools=await schools_of(self.here, model))
                entry = replace(entry, pins=pins)
            if self.edition is None:
                self.edition = await look_service.edition_of(self.here, [*self.entries, entry])
            self._check_look(entry, self.edition)
        linked = chained(entry, self.unit.seq + 1, self.unit.head or START)
        if isinstance(entry.what, Signed):
            self.kept = await self._signed(linked)
        self.pinned = self.pinned or linked.pins is not None
        self.opened = self.opened or isinstance(linked.what, Opened)
        self.unit = replace(self.unit, seq=linked.seq, head=linked.hash)
        if self.answers is not None and isinstance(linked.what, (Answered, Measured, Read)):
            self.answers[linked.what.checkpoint] += 1
        self.entries.append(linked)
        self.fresh.append(linked)

    @property
    def _walked(self) -> bool:
        """Whether the look is known to be walked, and no run."""
        return any(isinstance(e.what, Opened) and e.what.purpose != RUN for e in self.entries)

    def _full(self, entry: Entry) -> Said:
        """What a look has no more room for; empty if it has."""
        if len(self.entries) >= MOST_IN_LOOK:
            return say("{n} entries", n=MOST_IN_LOOK)
        if not isinstance(entry.what, (Answered, Measured, Read)):
            return NOTHING
        if self.answers is None:
            self.answers = Counter(
                e.what.checkpoint for e in self.entries if isinstance(e.what, (Answered, Measured, Read))
            )
        if self.answers[entry.what.checkpoint] >= MOST_AT_ONE:
            return say("{n} answers at one checkpoint", n=MOST_AT_ONE)
        more = len(getattr(entry.what, "findings", ()))
        if more and sum(len(getattr(e.what, "findings", ())) for e in self.entries) + more > MOST_FINDINGS:
            return say("{n} findings", n=MOST_FINDINGS)
        return NOTHING

    def _check_look(self, entry: Entry, edition: Edition) -> None:
        model = edition.model
        known = {c.id: c for c in model.family.checkpoints}
        what = entry.what
        match what:
            case Opened():
                if what.purpose not in edition.kinds:
                    raise BadInput(
                        "purpose",
                        "'{purpose}' is no kind of inspection; one of {those}",
                        purpose=what.purpose,
                        those=", ".join(edition.kinds),
                    )
                for option in sorted(what.options):
                    if option not in {o.id for o in model.family.options}:
                        raise BadInput("options", "'{option}' is not an option of this machine", option=option)
                if self.opened:
                    raise No("already-open", "This look has been opened already.")
            case Answered():
                checkpoint = known.get(what.checkpoint)
                if checkpoint is None:
                    raise BadInput(
                        "checkpoint", "this machine has no checkpoint '{checkpoint}'", checkpoint=what.checkpoint
                    )
                if what.together and (what.answer is not Answer.SOUND or checkpoint.kind is SystemClass.LIFE):
                    raise BadInput("together", "only what is sound, and no life depends on, is answered together")
                if what.answer is Answer.DEFECT and not what.findings:
                    raise BadInput("findings", "say what is wrong: a defect has at least one finding")
                if what.answer is not Answer.DEFECT and what.findings:
                    raise BadInput("findings", "only a defect has findings")
                for finding in what.findings:
                    check_finding(finding, edition.rulebook)
                    if finding.failure_mode not in checkpoint.failure_modes:
                        modes = ", ".join(checkpoint.failure_modes)
                        raise BadInput(
                            "failure_mode",
                            "'{failure_mode}' cannot be chosen at '{id}'; one of {modes}",
                            failure_mode=finding.failure_mode,
                            id=checkpoint.id,
                            modes=modes,
                        )
            case Measured():
                checkpoint = known.get(what.checkpoint)
                if checkpoint is None or checkpoint.reading is None:
                    raise BadInput("checkpoint", "nothing is measured at '{checkpoint}'", checkpoint=what.checkpoint)
                level_of(what, look_service.walk_of_everything(edition))  # raises BadInput for figures that cannot be
            case Read():
                if what.checkpoint not in known:
                    says = "this machine has no checkpoint '{checkpoint}'"
                    raise BadInput("checkpoint", says, checkpoint=what.checkpoint)
                own = pins_of([*self.entries, entry]).own_limits
                check_read(what.checkpoint, what.reading, what.given, with_own_limits(model, own))
            case Photographed() | Noted():
                if what.checkpoint and what.checkpoint not in known:
                    raise BadInput(
                        "checkpoint", "this machine has no checkpoint '{checkpoint}'", checkpoint=what.checkpoint
                    )
            case Arrived():
                if what.station not in {s.id for s in model.family.stations}:
                    raise BadInput("station", "this machine has no station '{station}'", station=what.station)
            case Stepped() | Engine() | Remarked() | Filled() | Greased() if self._walked:
                raise No("not-a-run", "This belongs to a run from key to key, and this is a walk.")
            case Stepped():
                if what.step not in {s.id for s in edition.steps}:
                    raise BadInput("step", "this machine's procedure has no step '{step}'", step=what.step)
            case Remarked():
                if problem := gauge_problem(what):
                    raise BadInput("gauge", problem)
                if what.station and what.station not in {s.id for s in model.family.stations}:
                    raise BadInput("station", "this machine has no station '{station}'", station=what.station)
            case Filled():
                if what.fluid not in {c.id for c in edition.rulebook.attributes["fluid"].choices}:
                    raise BadInput("fluid", "there is no fluid '{fluid}'", fluid=what.fluid)
            case Greased():
                if what.point not in {p.id for s in edition.steps for p in s.points}:
                    raise BadInput("point", "this machine is not greased at '{point}'", point=what.point)
            case Undone():
                if any(e.id == what.target and isinstance(e.what, (Opened, Signed)) for e in self.entries):
                    raise No("not-undone", "An opening or a signature is not taken back; a look is abandoned instead.")
            case Released() | Rechecked():
                pass
            case _:
                pass

    async def _signed(self, signature: Entry) -> look_service.Kept:
        """A signature must cover exactly what there is, and the verdict it names must be the one it leads to."""
        assert isinstance(signature.what, Signed)
        covers = signature.what.covers
        there = {e.id for e in self.entries if not isinstance(e.what, Signed)}
        if covers - there:
            raise No("entries-missing", "Some entries of this look have not arrived yet.", again=True)
        if there - covers:
            raise No("more-entries", "Another device added to this look: read the verdict again, then sign.")
        if not self.opened:
            raise No("entries-missing", "The opening of this look has not arrived yet.", again=True)
        case = await look_service.case_of(self.here, self.unit, self.stream, self.entries)
        heard = as_if_signed(case, signature)
        outcome = heard.verdict.outcome
        if outcome is Outcome.INCOMPLETE:
            raise No("incomplete", "Mandatory checkpoints not looked at yet: {n}.", n=len(heard.verdict.left))
        if outcome != signature.what.outcome:
            raise No(
                "other-verdict", "The verdict is now '{outcome}': read it again, then sign.", outcome=OUTCOMES[outcome]
            )
        return look_service.Kept(signature, heard)


async def unit_of(here: Here, machine: str) -> Unit:
    """A unit of the site; NotFound if there is none."""
    unit = await machine_store.unit(here.db, here.site.id, machine)
    if unit is None:
        raise no_machine(machine)
    return unit


def no_machine(machine: str) -> NotFound:
    """What is said where there is no such machine."""
    return NotFound("no-machine", "There is no machine '{machine}' on this site.", machine=machine)
