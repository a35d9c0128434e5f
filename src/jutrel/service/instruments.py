"""Devices of a site: set by hand as stand-ins, or told by a real one with its own key."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from jutrel.core.machine.unit import Units
from jutrel.core.people import EDITORS, WALKERS
from jutrel.core.reading.instrument import INSTRUMENTS, Told, check_says
from jutrel.service.context import Here
from jutrel.service.devices import Shown, admitted
from jutrel.service.people import Actor, allow
from jutrel.store.queries import instruments as store
from jutrel.store.queries import machines as machine_store

DEVICE = "device"


async def choose_units(here: Here, who: Actor, units: Units) -> None:
    """Which units the people of the site usually read; each can choose otherwise on their device."""
    allow(who, *EDITORS)
    await machine_store.set_units(here.db, here.site.id, units)


async def choose_numbers(here: Here, who: Actor, numbers: Sequence[tuple[str, str]]) -> None:
    """Whom the people of the site call in an emergency."""
    allow(who, *EDITORS)
    await machine_store.set_numbers(here.db, here.site.id, numbers)


async def told_now(here: Here) -> dict[str, Told]:
    """What each device said last, in the order of the list; one that never did is switched off and says nothing."""
    have = await store.instruments_of(here.db, here.site.id)
    return {key: have.get(key) or Told(key, False, {}, here.now, "", True) for key in INSTRUMENTS}


async def set_instrument(here: Here, who: Actor, key: str, on: bool, says: Mapping[str, object]) -> Told:
    """What a stand-in says from now on, by a person's hand."""
    allow(who, *WALKERS, *EDITORS)
    told = Told(key, on, check_says(key, says), here.now, who.person.id, simulated=True)
    await store.put_instrument(here.db, here.site.id, told)
    return told


async def hear_instrument(here: Here, shown: Shown, key: str, says: Mapping[str, object]) -> Told:
    """What a real device says; it shows its own key."""
    await admitted(here, shown, instrument=key)
    told = Told(key, True, check_says(key, says), here.now, DEVICE, simulated=False)
    await store.put_instrument(here.db, here.site.id, told)
    return told
