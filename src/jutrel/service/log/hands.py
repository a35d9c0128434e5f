"""Whose hand it is: what clears, accepts, releases or lowers asks for the PIN again, whoever left a tablet open; and
whoever answers for what another did does it with a PIN that is older than what was reported."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from datetime import datetime

from jutrel.core.defect.authority import SetAsideBy
from jutrel.core.defect.kinds import Accepted, Rechecked, Released
from jutrel.core.grading.grade import Grade
from jutrel.core.inspection.hear import Heard
from jutrel.core.inspection.kinds import Signed
from jutrel.core.log.entry import Entry
from jutrel.core.machine.file import MeterCorrected
from jutrel.core.machine.incident import Examined
from jutrel.core.machine.limits import LimitsAccepted
from jutrel.core.machine.putting_right import LASTS, Permit, PuttingRight, against, check_putting_right
from jutrel.core.machine.unit import Unit
from jutrel.core.wording import Number
from jutrel.service.context import Here, Shop
from jutrel.service.inspection.look import meter_now
from jutrel.service.log.sent import No
from jutrel.service.people.people import Actor
from jutrel.service.people.pins import CHOOSE, SAYS, TriedPin, checked_pin, still_right
from jutrel.service.problem import Conflict, NotSignedIn
from jutrel.store.queries import log as log_store
from jutrel.store.queries import people as store
from jutrel.store.queries.people import Pin

ANSWERS_FOR = (Released, Rechecked, Accepted, LimitsAccepted, Examined, PuttingRight)
"""Kinds of entries that ask for the PIN again, always."""


async def give_pin(
    shop: Shop, actor: Actor, person: str, pin: str, entries: Collection[str], now: datetime, tablet: str
) -> TriedPin:
    """Note that a person gave the PIN again, on the device of whoever is signed in, for what these entries say."""

    async def given(here: Here, known: Pin) -> TriedPin:
        right = await still_right(here, known, tablet)
        if right is None:
            return TriedPin(refusal=NotSignedIn("wrong-pin", SAYS))
        if right.once:  # whoever gave it knows it
            return TriedPin(refusal=Conflict("choose-pin", CHOOSE))
        await store.note_pin(here.db, here.site.id, right.person.id, entries, actor.pen.device, here.now)
        return TriedPin()

    return (await checked_pin(shop, person, pin, now, tablet, given))[1]


async def check_hand(here: Here, unit: Unit, entry: Entry) -> None:
    """Refuse what is not certainly its author's own word; raises No."""
    what = entry.what
    if isinstance(what, PuttingRight):
        check_putting_right(what)
        if other := next((p for p in unit.standing.permits if _under_way(p, entry, unit)), None):
            raise No(
                "cure-under-way",
                "Somebody else started it to put it right, {minutes} ago. Ask them; nobody goes near it before.",
                minutes=Number((here.now - other.at).total_seconds() / 60, 0, "min"),
            )
    if isinstance(what, ANSWERS_FOR) or (isinstance(what, MeterCorrected) and await _lowers(here, unit, what)):
        await _pin_again(here, entry)
    if isinstance(what, Rechecked):
        release = (await _named(here, [what.release])).get(what.release)
        if release is None:  # a check in advance would be of work that nobody has seen
            raise No("release-unknown", "The release that this checks is not here yet. Send it first, then check it.")
        await _older_pin(here, entry, (await _named(here, release.replaces)).values(), release)
    if isinstance(what, Examined):
        told = (await _named(here, [what.incident])).get(what.incident)
        if told is None:
            raise No("incident-unknown", "The incident that this answers is not here yet. Send it first.")
        if told.by == entry.by:
            raise No("own-incident", "You reported this yourself: somebody else looks the machine over.")
        await _older_pin(here, entry, [told], told)


def _under_way(permit: Permit, entry: Entry, unit: Unit) -> bool:
    """Whether another person's word that they start it to put it right holds still."""
    heard = entry.received_at or entry.time
    return permit.by != entry.by and heard <= permit.at + LASTS and against(permit, unit.standing.holding) is None


async def check_signature(here: Here, signature: Entry, heard: Heard) -> None:
    """The same for a signature that releases, or confirms what another released; any other asks for nothing."""
    assert isinstance(signature.what, Signed)
    court, covers = heard.court, signature.what.covers
    released = [
        (r, settled)
        for reports in court.reports.values()
        for r in reports
        if (settled := court.settled.get(r.id)) is not None and r.grade >= Grade.MEND
        if settled.ground is SetAsideBy.RELEASE and settled.act in covers
        if settled.by == signature.by or r.grade is Grade.HOLD
    ]
    if not released:
        return
    await _pin_again(here, signature)
    for r, settled in released:
        if settled.by != signature.by:
            await _older_pin(here, signature, [court.entries[r.entry]], court.entries[settled.act])


async def _lowers(here: Here, unit: Unit, what: MeterCorrected) -> bool:
    """Whether a correction makes the machine younger than it is taken for, or strikes a reading out."""
    meter = await meter_now(here, unit)
    shown = next((r.shown for r in meter.readings if r.entry == what.reading), None)
    return what.hours is None or shown is None or what.hours < shown


async def _named(here: Here, ids: Iterable[str]) -> dict[str, Entry]:
    return await log_store.entries_by_id(here.db, here.site.id, list(ids))


async def _pin_again(here: Here, entry: Entry) -> None:
    if not await store.pin_given(here.db, here.site.id, entry.by, entry.id):
        raise No("pin-again", "Give your PIN again: you answer for this by name.", again=True)


async def _older_pin(here: Here, entry: Entry, reports: Iterable[Entry], other: Entry) -> None:
    """Two people are two PINs, and both were known to them alone before there was anything to answer for."""
    latest = max((r.received_at or r.time for r in reports), default=None)
    if latest is None:
        return
    set_at, set_by = await store.pin_set(here.db, here.site.id, entry.by)
    if set_at is not None and set_at > latest:
        raise No(
            "pin-newer",
            "Your PIN was set after this was told. Somebody else answers for it, or you look yourself and report anew.",
        )
    if set_by == other.by:
        raise No("pin-of-other", "Your PIN was set by whoever you answer for here. Somebody else does it.")
    theirs, _ = await store.pin_set(here.db, here.site.id, other.by)
    if entry.device == other.device and theirs is not None and theirs > latest:
        raise No("pin-newer-here", "The other PIN was set after this was told. Answer for it on another device.")
