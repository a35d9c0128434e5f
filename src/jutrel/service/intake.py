"""Taking entries in: each once, in whatever order they come, and the projections with them in one transaction."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from typing import Any

from jutrel.core.errors import BadInput
from jutrel.core.inspection.look import Status
from jutrel.core.log.chain import said_by_device
from jutrel.core.log.entry import Entry
from jutrel.core.log.kinds import kind_of
from jutrel.core.machine.unit import Unit
from jutrel.core.wording import say
from jutrel.service.context import Books, Here, NothingAsked, Shop
from jutrel.service.inspection.look import KnownLook
from jutrel.service.inspection.record import keep_signed
from jutrel.service.log.incoming import Door
from jutrel.service.log.projections import project
from jutrel.service.log.sent import No, Refused, Sent, TakenBatch, of_field, read_batch
from jutrel.service.machine.find import no_machine
from jutrel.service.machine.standing import Was, was_of
from jutrel.service.people.pens import Shown, hashed, pens_shown
from jutrel.service.people.people import Actor, here_and_actor
from jutrel.store.base import Db
from jutrel.store.queries import log as log_store
from jutrel.store.queries import machines as machine_store
from jutrel.store.queries.tap import any_known, standpoint, write_at_end

PLAIN_KINDS = ("answered", "arrived", "noted", "photographed", "stepped")
"""What changes nothing of a machine but one look, where it reports nothing."""
KNOWN_KINDS = (*PLAIN_KINDS, "measured", "read", "filled", "greased")
"""What can be taken by what this process knows of a look."""
NOTHING_SHOWN = Shown()


async def take_batch(
    shop: Shop, token: str | None, machine: str, stream: str, data: Sequence[Any], shown: Shown, now: datetime
) -> tuple[TakenBatch, Here, Actor]:
    """Store a batch of entries of one stream, each once, in any order, for whoever the session belongs to.

    What cannot be stored is refused one by one; the rest is kept, with its projections, in one transaction.
    Writers of one machine wait for each other without holding a connection.
    """
    good, bad = read_batch(data)
    async with shop.turns.of(machine):
        if good and shown == NOTHING_SHOWN and (plain := await _take_straight(shop, token, machine, stream, good, now)):
            taken, here, actor = plain
            return replace(taken, refused=(*bad, *taken.refused)), here, actor
        for attempt in (1, 2, 3):
            try:
                async with shop.store.transaction() as db:
                    here, actor, unit, fresh = await _standpoint(db, shop.books, token, machine, good, now)
                    taken = await _taken(here, actor, unit, stream, good, shown, fresh)
                break
            except log_store.IdTaken:
                # The same ids came to another machine at the same moment: asked again, they are known.
                if attempt == 3:
                    raise
    return replace(taken, refused=(*bad, *taken.refused)), here, actor


async def _take_straight(
    shop: Shop, token: str | None, machine: str, stream: str, batch: Sequence[Sent], now: datetime
) -> tuple[TakenBatch, Here, Actor] | None:
    """The ordinary tap in two statements straight to the driver; None, and nothing stored, if it is not that plain.

    Nothing is locked between the two: the second writes only if the log still ends where the first found it.
    """
    if len(batch) != 1 or not _may_be_plain(batch[0]) or not shop.books.shelf.may_know(machine, f"look {stream}"):
        return None
    try:
        async with shop.store.driver() as driver:
            ids = [s.id for s in batch]
            stands = await standpoint(driver, hashed(token) if token else "", machine, ids, now, lock=False)
            if stands is None or stands.known:
                return None
            actor, here = Actor(stands.site.id, stands.person, stands.pen), Here(None, stands.site, shop.books, now)
            was = was_of(here, stands.unit, stream)
            door = await _by_what_is_known(here, actor, stands.unit, stream, batch, was)
            look = _plainly(was, door.fresh) if door else None
            if (
                door is None
                or look is None
                or not await write_at_end(driver, here.site.id, door.fresh[0], look.summary)
            ):
                return None
            here.books.shelf.put(here.where, door.unit, f"look {stream}", look)
            return TakenBatch((door.fresh[0].id,), (), (), door.unit), here, actor
    except (log_store.IdTaken, NothingAsked):
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


async def take(here: Here, actor: Actor, machine: str, stream: str, batch: Sequence[Sent]) -> TakenBatch:
    """Store entries of one stream within a transaction."""
    unit = await machine_store.unit(here.db, here.site.id, machine, lock=True)
    if unit is None:
        raise no_machine(machine)
    fresh = not await any_known(here.db, here.site.id, [s.id for s in batch])
    return await _taken(here, actor, unit, stream, [replace(s, form=True) for s in batch], NOTHING_SHOWN, fresh)


async def _taken(
    here: Here, actor: Actor, unit: Unit, stream: str, batch: Sequence[Sent], shown: Shown, fresh: bool
) -> TakenBatch:
    """Store entries under the machine's lock. `fresh`: if the log ends where it was known to, they are new to it."""
    was = was_of(here, unit, stream)
    if fresh and shown == NOTHING_SHOWN:
        door = await _by_what_is_known(here, actor, unit, stream, batch, was)
        if door is not None:
            unit = await _store(here, door, was, _plainly(was, door.fresh))
            return TakenBatch(tuple(e.id for e in door.fresh), (), (), unit)
    owner = await log_store.machine_of_stream(here.db, here.site.id, stream)
    if owner not in (None, unit.id):
        return _other_machine(unit, batch)
    pens = await pens_shown(here, actor.pen, shown, {s.pen for s in batch if s.seal} - {actor.pen.id})
    have = await log_store.entries_by_id(here.db, here.site.id, [s.id for s in batch])
    door = Door(here, actor, unit, stream, pens, await log_store.entries_of_stream(here.db, here.site.id, stream))
    known, refused = await _let_in(door, batch, have)
    if not door.fresh:
        return TakenBatch((), known, refused, unit)
    # Only what is stored makes a look this machine's.
    if owner is None and await log_store.claim_stream(here.db, here.site.id, stream, unit.id) != unit.id:
        return _other_machine(unit, batch)
    return TakenBatch(tuple(e.id for e in door.fresh), known, refused, await _store(here, door, was))


async def _let_in(
    door: Door, batch: Sequence[Sent], have: Mapping[str, Entry]
) -> tuple[tuple[str, ...], tuple[Refused, ...]]:
    """Each entry of a batch through the door: which are known already, and which are refused and why.

    `have`: entries by id that are stored, whichever log they are in.
    """
    known: list[str] = []
    refused: list[Refused] = []
    # Signatures last: what they cover may arrive in the same batch.
    for sent in sorted(batch, key=lambda s: (s.kind == "signed", s.id)):
        try:
            entry = door.entry(sent)
            if (old := have.get(sent.id)) is not None:
                if said_by_device(old) != said_by_device(entry):
                    raise No("id-taken", "This id was used for some other entry.")
                known.append(sent.id)
                continue
            if any(e.id == sent.id for e in door.fresh):
                raise No("id-taken", "This id stands twice in the batch.")
            await door.take(entry)
        except BadInput as error:
            refused.append(Refused(sent.id, "bad-entry", of_field(error), error.field))
        except No as no:
            refused.append(Refused(sent.id, no.kind, no.says, None, no.again))
    return tuple(known), tuple(refused)


async def _by_what_is_known(
    here: Here, actor: Actor, unit: Unit, stream: str, batch: Sequence[Sent], was: Was
) -> Door | None:
    """The author's own new answers at a look that was worked out before, taken in by that; nothing is written yet.

    None where more has to be looked up before they can be taken, or one of them would be refused.
    """
    now = was.look
    if not batch or now is None or now.heard.look.status is not Status.WALKING:
        return None
    own = {e.id for e in now.heard.case.entries} | {s.id for s in batch}
    if any(s.kind not in KNOWN_KINDS or s.by != actor.person.id or not s.replaces <= own for s in batch):
        return None
    door = Door(here, actor, unit, stream, [actor.pen], now.heard.case.entries)
    if not door.pinned or not door.opened:
        return None
    door.edition = now.heard.case.edition
    door.answers = Counter({at: len(all_) for at, all_ in now.heard.case.answers.items()})
    _, refused = await _let_in(door, batch, {})
    return None if refused else door


def _plainly(was: Was, fresh: Sequence[Entry]) -> KnownLook | None:
    """The look with new entries that report nothing; None where anything about them is not that plain."""
    now = was.look
    for entry in fresh:
        plain = now is not None and kind_of(entry.what).name in PLAIN_KINDS
        now = now.with_entry(entry) if now is not None and plain else None
    return now


async def _store(here: Here, door: Door, was: Was, look: KnownLook | None = None) -> Unit:
    """Write what came through the door and what it changes, under the machine's lock; the unit as it is then.

    `look`: what the look is with it, where that is all that changes.
    """
    if look is not None:
        for entry in door.fresh:
            if not await write_at_end(here.db, here.site.id, entry, look.summary):
                raise RuntimeError(f"the log of {entry.machine} moved under its lock")
        here.books.shelf.put(here.where, door.unit, f"look {door.stream}", look)
        return door.unit
    await log_store.add_entries(here.db, here.site.id, door.fresh)
    if door.kept is not None:
        await keep_signed(here, door.unit, door.stream, door.kept)
    return await project(here, door.unit, door.stream, door.entries, door.fresh, was)


def _may_be_plain(sent: Sent) -> bool:
    return sent.kind in PLAIN_KINDS and not getattr(sent.what, "findings", ())


def _other_machine(unit: Unit, batch: Sequence[Sent]) -> TakenBatch:
    says = say("These entries belong to a look at another machine: they stay with that one.")
    return TakenBatch((), (), tuple(Refused(s.id, "other-machine", says) for s in batch), unit)
