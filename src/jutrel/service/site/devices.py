"""Devices that may tell something without a person: each has a key of its own, and tells of what it is named for."""

from __future__ import annotations

import hashlib
import hmac
import secrets
from collections.abc import Collection, Sequence
from dataclasses import dataclass

from jutrel.core.account import AccountChange
from jutrel.core.people import Right
from jutrel.core.reading.instrument import INSTRUMENTS
from jutrel.service.context import Here
from jutrel.service.machine.find import unit_of
from jutrel.service.people.account import note
from jutrel.service.people.people import Actor, require
from jutrel.service.problem import NotAllowed, NotFound, NotSignedIn, Problem
from jutrel.store.queries import devices as store
from jutrel.store.queries.devices import Device

KEY_BYTES = 24


@dataclass(frozen=True, slots=True)
class ShownKey:
    """What a device shows of itself: its key; `demo`: the one key of a demo that does for all, empty: this is none."""

    key: str
    demo: str = ""

    @property
    def hashed(self) -> str:
        """The key as it is kept; it is long and made by chance, so that no slower hash is needed."""
        return hashlib.sha256(self.key.encode()).hexdigest()


async def admitted(here: Here, shown: ShownKey, machines: Collection[str] = (), instrument: str = "") -> None:
    """That a device may tell of machines, or for an instrument.

    Raises
    ------
    NotSignedIn
        If no device has this key.
    NotAllowed
        If the device is not named for that.
    """
    if shown.demo and hmac.compare_digest(shown.demo.encode(), shown.key.encode()):
        return
    device = await store.device_of(here.db, here.site.id, shown.hashed) if shown.key else None
    if device is None:
        raise NotSignedIn("device-key", "No device has this key, or it was ended. An administrator gives a new one.")
    for machine in machines:
        if machine in device.machines:
            continue
        raise NotAllowed(
            "other-machine",
            "The device {device} may tell of {those}, not of {machine}.",
            device=device.id,
            those=", ".join(device.machines) or "-",
            machine=machine,
        )
    if instrument and instrument not in device.instruments:
        raise NotAllowed(
            "other-instrument",
            "The device {device} may tell for {those}, not for {instrument}.",
            device=device.id,
            those=", ".join(device.instruments) or "-",
            instrument=instrument,
        )


async def devices(here: Here, who: Actor) -> list[Device]:
    """The devices of the site; their keys nobody can read again."""
    require(who, Right.MANAGE)
    return await store.devices_of(here.db, here.site.id)


async def name_device(
    here: Here, who: Actor, device: str, machines: Sequence[str], instruments: Sequence[str]
) -> str:  # fmt: skip
    """Give a device a key, in place of the one that it had; it is said this once.

    Raises
    ------
    NotFound
        For a machine that is none of the site's.
    Problem
        If it would tell of nothing, or for an instrument that there is not.
    """
    require(who, Right.MANAGE)
    if not machines and not instruments:
        raise Problem("tells-nothing", "Name the machines or instruments that it tells of.", field="machines")
    for machine in machines:
        await unit_of(here, machine)
    for instrument in instruments:
        if instrument not in INSTRUMENTS:
            raise Problem(
                "no-instrument",
                "There is no instrument '{instrument}'; one of {those}.",
                field="instruments",
                instrument=instrument,
                those=", ".join(INSTRUMENTS),
            )
    shown = ShownKey(secrets.token_urlsafe(KEY_BYTES))
    await store.put_device(
        here.db, here.site.id, device, shown.hashed, machines, instruments, here.now, who.person.id
    )  # fmt: skip
    told = {"machines": ", ".join(machines), "instruments": ", ".join(instruments)}
    await note(here, who.person.id, AccountChange.DEVICE_NAMED, device, told)
    return shown.key


async def end_device(here: Here, who: Actor, device: str) -> None:
    """Take nothing from a device from now on; NotFound if there is none of that name."""
    require(who, Right.MANAGE)
    if not await store.end_device(here.db, here.site.id, device, here.now):
        raise NotFound("no-device", "There is no device '{device}' on this site.", device=device)
    await note(here, who.person.id, AccountChange.DEVICE_ENDED, device)
