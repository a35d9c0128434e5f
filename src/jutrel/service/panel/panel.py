"""What a machine tells over its bus: heard from its reader, asked for by pages and by a run."""

from __future__ import annotations

from collections.abc import AsyncGenerator, Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from typing import Any
from uuid import NAMESPACE_OID, uuid5

from jutrel.core.log.entry import Limit
from jutrel.core.machine.unit import Unit
from jutrel.core.panel.figures import PanelFigures, figures_of
from jutrel.core.panel.shown import ShownPanel, doubt, gone_silent
from jutrel.core.panel.told import PanelEventKind, PanelWord
from jutrel.core.people import Right
from jutrel.core.procedure.engine import SPEED
from jutrel.core.procedure.kinds import EngineNow
from jutrel.core.wording import NOTHING, Said
from jutrel.service.context import Here, Shop
from jutrel.service.machine.find import no_machine, unit_of
from jutrel.service.machine.models import model_of, unit_model
from jutrel.service.people.people import Actor, here_and_actor, require
from jutrel.service.problem import NotAllowed, NotFound
from jutrel.store.queries import panel as store

THIN_EVERY_S = 300
PATIENCE_S, JUST_AFTER_S = 15.0, 0.5
"""How long a page hears nothing at most; how soon after it a page is told that a bus is silent [s]."""
LONGEST = timedelta(hours=48)
"""How long an engine may have been running that nobody saw started."""
AHEAD, BEHIND = timedelta(seconds=2), timedelta(minutes=1)
"""How far before or behind the server's clock a reader's may be that sets itself by it; a message may be under way."""
ENGINE_ADDRESS = "engine-address"
"""The figure of a machine's file that says which address on its bus is its engine."""
BUS_IDENTIFICATION = "bus-identification"
"""The figure that says how the machine is called on its bus."""
PROVES = (PanelEventKind.STOOD, PanelEventKind.HEARD)


@dataclass(frozen=True, slots=True)
class ReaderMessage:
    """A message of a machine's reader: the panel at a time, what happened, values of moments.

    `since`: when it began to read; nobody heard the machine between its last message and that.
    """

    since: datetime
    at: datetime
    says: Mapping[str, Any]
    told: Sequence[PanelWord] = ()
    samples: Mapping[datetime, Mapping[str, Any]] | None = None


@dataclass(frozen=True, slots=True)
class PanelNow:
    """A machine's panel as a page shows it. `live`: it is told now; `doubt`: why it may be another machine's."""

    shown: ShownPanel
    live: bool
    doubt: Said
    figures: PanelFigures = field(default_factory=PanelFigures)
    """By which its alarms are judged."""


@dataclass(frozen=True, slots=True)
class OnBus:
    """A machine's bus by its file: which address is its engine, how it is called there (None: it is not said),
    its own figures."""

    engine: int | None
    plate: Limit | None
    figures: PanelFigures


@dataclass(frozen=True, slots=True)
class Bus:
    """What a run knows of a machine's bus."""

    now: PanelNow | None
    told: tuple[PanelWord, ...]


async def hear_panels(here: Here, heard: Mapping[str, ReaderMessage], demo: bool) -> dict[str, OnBus]:
    """Take messages of machines' readers, all or none; gives back what the machines' files say of their buses.

    Nothing of it is later than now: that would hide what comes next. What is in doubt can stop and proves nothing.

    Raises
    ------
    NotAllowed
        If a stand-in tells one of them and this is no demo.
    NotFound
        For a machine that is none of the site's.
    """
    if not demo and any(message.says.get("simulated") for message in heard.values()):
        raise NotAllowed(
            "no-demo",
            "A stand-in tells this, not a machine. It is taken in a demo alone: take `simulated` away for a real bus.",
        )
    site = here.site.id
    files = await store.bus_files(here.db, site, heard)
    before = await store.told_before(here.db, site, heard)
    buses, taken = {}, {}
    for machine, message in heard.items():
        file = files.get(machine)
        if file is None:
            raise no_machine(machine)
        model = await model_of(here, file.model_id, machine)
        buses[machine] = on_bus = bus_by({**model.limits, **file.own_limits})
        taken[machine] = _taken(message, here.now, machine, before.get(machine), file.hours, on_bus)
    await store.add_told(here.db, site, {machine: t.told for machine, t in taken.items()})
    await store.add_samples(here.db, site, {machine: t.samples for machine, t in taken.items()})
    await store.put_now(here.db, site, {machine: (t.at, t.says) for machine, t in taken.items()})
    for machine, t in taken.items():
        if any(int(at.timestamp()) % THIN_EVERY_S == 0 for at in t.samples):
            await store.thin(here.db, site, machine, here.now)
    return buses


@dataclass(frozen=True, slots=True)
class _Taken:
    """A message as it is kept."""

    at: datetime
    says: dict[str, Any]
    told: list[PanelWord]
    samples: dict[datetime, Mapping[str, Any]]


def _taken(
    heard: ReaderMessage, now: datetime, machine: str, before: datetime | None, hours: float, on_bus: OnBus
) -> _Taken:  # fmt: skip
    """A message as it is kept; `before`: when the machine's reader told last, `hours`: its meter by its file."""
    latest = now + AHEAD
    off = heard.at - now

    def right(at: datetime) -> datetime:
        return min(at, latest)

    says = dict(heard.says)
    says["alerts"] = [[i, c, right(datetime.fromisoformat(t)).isoformat()] for i, c, t in says.get("alerts", ())]
    says["clock_off"] = off.total_seconds() if off > AHEAD or off < -BEHIND else 0.0
    shown = store.shown_of(right(heard.at), says)
    believed = doubt(shown, hours, on_bus.engine, on_bus.plate) == NOTHING
    told = [
        replace(t, at=right(t.at))
        for t in heard.told
        if (believed or t.what is not PanelEventKind.STOOD) and (t.at <= latest or t.what not in PROVES)
    ]
    if before is not None and right(heard.since) > before:
        name = uuid5(NAMESPACE_OID, f"{machine} {before.isoformat()}")
        told.append(PanelWord(str(name), before, PanelEventKind.SILENT, SPEED))
    samples = {right(at).replace(microsecond=0): v for at, v in (heard.samples or {}).items()}
    return _Taken(right(heard.at), says, told, samples)


async def on_bus_of(here: Here, unit: Unit) -> OnBus:
    """What a unit's file says of its bus."""
    return bus_by({**(await unit_model(here, unit)).limits, **unit.own_limits})


def bus_by(limits: Mapping[str, Limit]) -> OnBus:
    """What the figures of a machine say of its bus."""
    address = limits.get(ENGINE_ADDRESS)
    engine = int(address) if isinstance(address, (int, float)) else None
    return OnBus(engine, limits.get(BUS_IDENTIFICATION), figures_of(limits))


def judged(unit: Unit, on_bus: OnBus, shown: ShownPanel, now: datetime, stale: timedelta) -> PanelNow:
    """A panel with whether it is told now, and whether it can be this machine's, by what its file says."""
    live = now - shown.at <= stale and shown.clock_off <= 0
    why = doubt(shown, unit.hours - unit.offset, on_bus.engine, on_bus.plate)
    return PanelNow(shown, live, why, on_bus.figures)


async def bus_of(here: Here, unit: Unit, since: datetime, stale: timedelta, until: datetime | None = None) -> Bus:
    """What a machine told from a time on, for a run to go by, and how its engine came to do what it did then.

    Where the bus may be another machine's, what came to stand does not count: the rest can only stop it.
    """
    shown = await store.now_of(here.db, here.site.id, unit.id)
    if shown is None:
        return Bus(None, ())
    now = judged(unit, await on_bus_of(here, unit), shown, here.now, stale)
    stood = await store.stood_before(here.db, here.site.id, unit.id, since)
    told = await store.told_of(here.db, here.site.id, unit.id, stood or since - LONGEST, until)
    if until is None:
        told += gone_silent(shown, here.now, stale)
    if now.doubt != NOTHING:
        told = [t for t in told if t.what is not PanelEventKind.STOOD]
    return Bus(now, tuple(told))


async def red_told(here: Here, unit: Unit, before: datetime) -> datetime | None:
    """When a machine told red last, with its engine running, before a time."""
    red = await store.red_before(here.db, here.site.id, unit.id, before)
    if red is None:
        return None
    stood = await store.stood_before(here.db, here.site.id, unit.id, red)
    told = await store.told_of(here.db, here.site.id, unit.id, stood or red - LONGEST, before)
    ran = any(t.what is PanelEventKind.ENGINE and t.word == EngineNow.RUNNING and t.at <= red for t in told)
    return red if ran else None


async def panel_now(here: Here, machine: str, stale: timedelta) -> tuple[Unit, PanelNow | None]:
    """A machine, and its panel as its reader said last; None: it is not read."""
    unit = await unit_of(here, machine)
    shown = await store.now_of(here.db, here.site.id, unit.id)
    return unit, None if shown is None else judged(unit, await on_bus_of(here, unit), shown, here.now, stale)


async def set_orders(here: Here, who: Actor, machine: str, orders: Mapping[str, Any]) -> dict[str, Any]:
    """What the stand-in of a machine is to do from now on: these in place of its earlier ones; all of them.

    Raises
    ------
    NotFound
        If the machine is no stand-in: nobody turns the key of a real one from here.
    """
    require(who, Right.WALK, Right.EDIT_MACHINES)
    unit = await unit_of(here, machine)
    shown = await store.now_of(here.db, here.site.id, unit.id)
    if shown is None or not shown.simulated:
        raise NotFound("no-standin", "No stand-in tells anything for this machine.")
    whole = {**(await store.orders_of(here.db, here.site.id, unit.id) or {}), **orders}
    if orders:
        await store.put_orders(here.db, here.site.id, unit.id, whole, here.now, who.person.id)
    return whole


async def orders_now(here: Here, machine: str) -> tuple[Unit, dict[str, Any]]:
    """A machine, and what its stand-in is to do; nothing where nobody said."""
    unit = await unit_of(here, machine)
    return unit, await store.orders_of(here.db, here.site.id, unit.id) or {}


async def panel_feed(
    shop: Shop, token: str | None, machine: str, stale: timedelta, clock: Callable[[], datetime]
) -> AsyncGenerator[PanelNow | None, None]:
    """A machine's panel for one page: as it is, whenever it was told, once more when it falls silent; None: no news.

    Who signs out, or never signed in, hears nothing more; NotFound if there is no such machine.
    """

    async def asked() -> tuple[str, Unit, OnBus, PanelNow | None]:
        async with shop.store.transaction() as db:
            here, _ = await here_and_actor(db, shop.books, token, clock())
            unit, found = await panel_now(here, machine, stale)
            return here.site.id, unit, await on_bus_of(here, unit), found

    site, unit, on_bus, found = await asked()
    bell = shop.live.panel(site, unit.id)
    seen, checked = bell.count, clock()
    yield found
    while True:
        live = found is not None and found.live
        patience = min(PATIENCE_S, stale.total_seconds() + JUST_AFTER_S) if live else PATIENCE_S
        count = await bell.after(seen, patience)
        says, news = bell.says, count != seen
        seen = count
        if news and says is not None and clock() - checked < timedelta(seconds=PATIENCE_S):
            shown = store.shown_of(datetime.fromisoformat(says["at"]), says["says"])
            found = judged(unit, on_bus, shown, clock(), stale)
            yield found
        else:
            before = found
            site, unit, on_bus, found = await asked()
            checked = clock()
            yield found if found != before else None
