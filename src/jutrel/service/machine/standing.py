"""How a machine stands, in its row: what is open on it, what happened to it, by which rules that is judged."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from jutrel.catalog.compile import edition_of as edition_of_model
from jutrel.core.clearance.unseen import missing_in, newest_of_log, unseen_left
from jutrel.core.defect.defect import Defect
from jutrel.core.edition import Edition
from jutrel.core.inspection.look import pins_of
from jutrel.core.log.entry import Entry
from jutrel.core.machine.event import KINDS as EVENT_KINDS
from jutrel.core.machine.incident import KINDS as INCIDENT_KINDS
from jutrel.core.machine.limits import KINDS as LIMIT_KINDS
from jutrel.core.machine.lock import KINDS as LOCK_KINDS
from jutrel.core.machine.putting_right import KINDS as CURE_KINDS
from jutrel.core.machine.state import LookSummary, items_of_each, listed, standing_of
from jutrel.core.machine.unit import Unit
from jutrel.service.context import Here
from jutrel.service.inspection.look import KnownLook, case_of, known_of, open_defects
from jutrel.service.machine.models import unit_model
from jutrel.store.queries import log as log_store
from jutrel.store.queries import machines as machine_store
from jutrel.store.queries import open_defects as open_rows
from jutrel.store.queries import projections as rows

ABOUT_KINDS = tuple({*LOCK_KINDS, *INCIDENT_KINDS, *EVENT_KINDS, *LIMIT_KINDS, *CURE_KINDS})
"""Kinds of entries that say how a machine stands besides its defects."""
SEEN_KINDS = ("answered", "measured", "read", "signed")


@dataclass(frozen=True, slots=True)
class About:
    """What says how a machine stands beside its defects: words about it, and looks in which somebody could not see
    what a life depends on."""

    words: tuple[Entry, ...]
    blind: tuple[LookSummary, ...]


@dataclass(frozen=True, slots=True)
class Was:
    """What is known of a look and its machine before something comes in: nobody wrote there since."""

    look: KnownLook | None
    about: About | None


def was_of(here: Here, unit: Unit, stream: str) -> Was:
    """What this process knows of a look and its machine, as the log ends."""
    things = here.books.shelf.at(here.where, unit)
    return Was(things.get(f"look {stream}"), things.get(ABOUT))


ABOUT = "about"
"""By which it is kept as long as nobody writes there."""


async def judged_anew(here: Here, unit: Unit) -> Unit:
    """A machine's row written anew by the rules and the model in force now."""
    return await put_unit(here, unit, await open_defects(here, unit))


async def put_unit(
    here: Here,
    unit: Unit,
    defects: Sequence[Defect],
    entries: Sequence[Entry] = (),
    look: KnownLook | None = None,
    whole: str | None = None,
    furthest: int | None = None,
    about: About | None = None,
) -> Unit:
    """Write the machine's row with what is open on it.

    `entries`: the stream that was written; `look`: what it is, if it is a look; `whole`: the whole inspection that
    the machine went on before, if that may stay; `about`: what else says how it stands, where that is known.
    """
    was = unit.standing
    name, edition = await edition_in_force(here, unit)
    editions = await standing_editions(here, unit, defects, look)
    items = items_of_each(editions, defects, unit.hours)
    if about is None or about.blind or (look is not None and look.summary.unseen):
        words = await log_store.entries_of_kinds(here.db, here.site.id, unit.id, ABOUT_KINDS)
        about = About(tuple(words), tuple(await rows.blind_looks(here.db, here.site.id, unit.id)))
    blind = about.blind
    seen = await log_store.entries_of_kinds(here.db, here.site.id, unit.id, SEEN_KINDS) if blind else ()
    left = unseen_left(blind, seen)
    waits = {u.checkpoint for u in left}
    # What somebody has seen and signed since is seen for good: it is asked for no more.
    await rows.note_seen(
        here.db, here.site.id, [k.id for k in blind if not any(u.checkpoint in waits for u in k.unseen)]
    )
    newest = newest_of_log(entries)
    times = [t for t in (was.newest_at, newest.received_at if newest else None) if t is not None]
    standing = replace(
        standing_of(editions, items, unit.offset, about.words),
        unseen=left,
        judged_by=name,
        missing=await _missing(here, unit, name, edition, look, whole),
        newest_at=max(times, default=None),
        furthest_seq=was.furthest_seq if furthest is None else furthest,
    )
    unit = replace(unit, standing=standing)
    await machine_store.put_unit(here.db, here.site.id, unit)
    if defects or was.open:
        await open_rows.put_open(here.db, here.site.id, unit.id, listed(editions, defects, items))
    here.books.shelf.put(here.where, unit, ABOUT, about)
    return unit


async def _missing(
    here: Here, unit: Unit, name: str, edition: Edition, look: KnownLook | None, before: str | None
) -> tuple[str, ...]:  # fmt: skip
    """What the whole inspection that a machine goes on did not look at, of what it has now."""
    whole = unit.newest.whole
    if whole is None:
        return ()
    if whole == before and unit.standing.judged_by == name and (look is None or look.heard.case.look != whole):
        return unit.standing.missing
    if look is None or look.heard.case.look != whole:
        entries = await log_store.entries_of_stream(here.db, here.site.id, whole)
        look = await known_of(here, await case_of(here, unit, whole, entries))
    return missing_in(look.heard.look, edition, unit.options, dict(unit.own_limits))


async def edition_in_force(here: Here, unit: Unit) -> tuple[str, Edition]:
    """The rules and the model by which a machine is judged now, and their name."""
    model = await unit_model(here, unit, own=False)
    return here.editions.of(model)[0], edition_of_model(here.catalog, model)


async def standing_editions(
    here: Here, unit: Unit, defects: Sequence[Defect], look: KnownLook | None = None
) -> tuple[Edition, ...]:
    """The rules by which a machine's open defects are told: those of the newest look that reported one, and those in
    force; once, where they are the same."""
    _, edition = await edition_in_force(here, unit)
    newest = max((d.latest for d in defects), key=lambda r: (r.at, r.id), default=None)
    if newest is None:
        return (edition,)
    if look is not None and look.heard.case.look == newest.look:
        first = look.heard.case.entries
    else:
        first = await log_store.entries_of_stream(here.db, here.site.id, newest.look)
    return await editions_told_by(here, unit, pins_of(first).edition)


async def editions_told_by(here: Here, unit: Unit, bound: str) -> tuple[Edition, ...]:
    """The rules of that name, and those in force for a machine; once, where they are the same or none are named."""
    name, edition = await edition_in_force(here, unit)
    return (edition,) if bound in ("", name) else (await here.books.edition(here.db, bound), edition)
