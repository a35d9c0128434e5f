"""Devices of a site: set by hand as stand-ins, or told by a real one with its own key."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from jutrel.core.machine.unit import UnitSystem
from jutrel.core.people import Right
from jutrel.core.reading.instrument import INSTRUMENTS, DeviceWord, check_says, speaks_for
from jutrel.service.context import Here
from jutrel.service.machine.find import unit_of
from jutrel.service.people.people import Actor, require
from jutrel.service.problem import Problem
from jutrel.service.site.devices import ShownKey, admitted
from jutrel.store.queries import instruments as store
from jutrel.store.queries import machines as machine_store

DEVICE = "device"


async def choose_units(here: Here, who: Actor, units: UnitSystem) -> None:
    """Which units the people of the site usually read; each can choose otherwise on their device."""
    require(who, Right.EDIT_MACHINES)
    await machine_store.set_units(here.db, here.site.id, units)


async def choose_numbers(here: Here, who: Actor, numbers: Sequence[tuple[str, str]]) -> None:
    """Whom the people of the site call in an emergency."""
    require(who, Right.EDIT_MACHINES)
    await machine_store.set_numbers(here.db, here.site.id, numbers)


async def told_now(here: Here, machine: str = "") -> dict[str, DeviceWord]:
    """What each device of the site, and of a machine, said last, in the order of the list.

    One that never did is switched off and says nothing.
    """
    have = await store.instruments_of(here.db, here.site.id, machine)
    return {
        key: have.get(key) or DeviceWord(key, machine if known.of_machine else "", False, {}, here.now, "", True)
        for key, known in INSTRUMENTS.items()
        if machine or not known.of_machine
    }


async def set_instrument(
    here: Here, who: Actor, key: str, machine: str, on: bool, says: Mapping[str, object], demo: bool
) -> DeviceWord:
    """What a stand-in says from now on, by a person's hand; or a fact of the site, by who may edit it.

    Raises
    ------
    BadInput
        For a figure that cannot be, or a machine that is lacking or one too many.
    Problem
        If it is a stand-in and this is no demo.
    """
    fact = key in INSTRUMENTS and INSTRUMENTS[key].by_hand
    require(who, Right.EDIT_MACHINES, *(() if fact and not demo else (Right.WALK,)))
    figures = check_says(key, says)
    if not (fact or demo):
        raise Problem(
            "no-demo",
            "A stand-in is set in a demo alone. A real device tells it with a key of its own.",
            field="instrument",
        )
    told = DeviceWord(
        key, await _of(here, key, machine), on, figures, here.now, who.person.id, simulated=not fact or demo
    )
    await store.put_instrument(here.db, here.site.id, told)
    return told


async def _of(here: Here, key: str, machine: str) -> str:
    """The machine that a device speaks for, which there is; empty: the site."""
    machine = speaks_for(key, machine)
    return (await unit_of(here, machine)).id if machine else ""


async def hear_instrument(
    here: Here, shown: ShownKey, key: str, machine: str, says: Mapping[str, object]
) -> DeviceWord:
    """What a real device says; it shows its own key, and tells only of machines that it is named for."""
    await admitted(here, shown, [machine] if machine else [], instrument=key)
    figures = check_says(key, says)
    told = DeviceWord(key, await _of(here, key, machine), True, figures, here.now, DEVICE, simulated=False)
    await store.put_instrument(here.db, here.site.id, told)
    return told
