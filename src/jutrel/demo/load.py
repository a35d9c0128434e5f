"""Loading the demo through the same services that people use, with times given from outside."""

from __future__ import annotations

import asyncio
import random
from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from typing import Any, Protocol
from zoneinfo import ZoneInfo

from jutrel.catalog.compile import steps_of
from jutrel.catalog.whole import Catalog
from jutrel.core.account import CONSOLE, AccountChange
from jutrel.core.grading.verdict import Outcome
from jutrel.core.inspection.finding import Conditions
from jutrel.core.inspection.kinds import HYDRAULIC_LEVEL, OUT, Opened
from jutrel.core.inspection.occasion import answers_given
from jutrel.core.log.codec import decode
from jutrel.core.log.kinds import payload_of
from jutrel.core.machine.file import Filed
from jutrel.core.machine.unit import SiteInfo
from jutrel.core.people import Role
from jutrel.core.procedure.kinds import RUN
from jutrel.core.procedure.school import as_words, in_force
from jutrel.core.procedure.step import steps_for
from jutrel.core.reading.instrument import INSTRUMENTS as DEVICES
from jutrel.core.reading.instrument import DeviceWord
from jutrel.core.route.plan import Route, plan_route
from jutrel.demo.history_file import take_in
from jutrel.demo.shifts import SHIFTS, DemoShift, said_of
from jutrel.demo.story import (
    INSTRUMENTS,
    MACHINES,
    MORE_PEOPLE,
    NUMBERS,
    PEOPLE,
    PIN,
    SITE,
    WHO,
    DemoMachine,
    DemoMorning,
    air_c,
    story,
)
from jutrel.demo.values import tell_values
from jutrel.demo.weeks import driver
from jutrel.service.context import Books, Here, here_of
from jutrel.service.ids import uuid7
from jutrel.service.inspection.look import standing
from jutrel.service.intake import take
from jutrel.service.log.sent import Sent
from jutrel.service.machine.file import write_file
from jutrel.service.machine.find import unit_of
from jutrel.service.machine.models import unit_model
from jutrel.service.people.account import note
from jutrel.service.people.changes import enrol
from jutrel.service.people.people import Actor, Person, new_pen, people
from jutrel.service.people.pins import hash_pin
from jutrel.service.route.walk import MachineWalk, machine_walk
from jutrel.store.base import Db, Store
from jutrel.store.queries import instruments as instrument_store
from jutrel.store.queries import machines as machine_store

FILED = datetime(2026, 1, 5, 7, 0, tzinfo=UTC)
"""When the demo's machines came to the site."""


def actor(person: str, at: datetime) -> Actor:
    """A person of the demo with the pen of a tablet, from a time on."""
    name, role = next((n, Role(r)) for p, n, r in (*PEOPLE, *MORE_PEOPLE) if p == person)
    who = Person(person, name, role)
    pen, _ = new_pen(who, "demo-tablet", at - timedelta(minutes=2), 14.0)
    return Actor(SITE[0], who, pen)


def shifts_at(now: datetime) -> tuple[tuple[str, float], ...]:
    """The shifts of the demo's site: three of eight hours, so that one began about three hours ago at whatever hour
    it is loaded."""
    hour = (now - timedelta(hours=3)).astimezone(ZoneInfo(SITE[2])).hour
    return tuple((f"{(hour + n) % 24:02}:00", 8.0) for n in (0, 8, 16))


async def base(db: Db, books: Books, now: datetime | None = None, meters: Mapping[str, float] | None = None) -> None:
    """Write the site, its people and its machines, without history; `meters`: what they showed when they came [h]."""
    site, name, zone = SITE
    shifts = shifts_at(now or datetime.now(UTC))
    await machine_store.add_site(db, SiteInfo(site, name, zone, "house", 8.0, numbers=NUMBERS, shifts=shifts))
    here = await here_of(db, books, FILED)
    pin = hash_pin(PIN)
    for person, who, role in PEOPLE:
        await enrol(here, CONSOLE, Person(person, who, Role(role)), pin, once=False)
    boss = actor(next(p for p, _, r in PEOPLE if r == Role.SUPERVISOR), FILED)
    for bay, m in enumerate(MACHINES, 1):
        filed = Filed(
            m.name,
            m.model,
            frozenset(m.options),
            dict(m.own_limits),
            bay,
            m.note,
            hours=(meters or {}).get(m.id, m.hours),
        )
        await write_file(here, boss, m.id, uuid7(FILED, bay), filed)


def _answer(day: DemoMorning, checkpoint: str) -> dict[str, Any]:
    if checkpoint in day.defects:
        return {"checkpoint": checkpoint, "answer": "defect", "findings": day.defects[checkpoint]}
    if checkpoint in day.unseen:
        return {"checkpoint": checkpoint, "answer": "unseen", "reason": day.unseen[checkpoint]}
    return {"checkpoint": checkpoint, "answer": "sound"}


class Plan(Protocol):
    """When the walk and the shift of a machine begin, so many days ago, and what its meter shows then [h]."""

    def walk_at(self, machine: DemoMachine, ago: int) -> datetime:
        """When somebody begins to walk round it."""

    def work_at(self, machine: DemoMachine, ago: int) -> datetime:
        """When its shift begins."""

    def meter(self, machine: DemoMachine, ago: int, later_h: float = 0.0) -> float:
        """What its hour meter shows, so many hours after the morning [h]."""


@dataclass(frozen=True, slots=True)
class FromNow:
    """Days that begin about an hour before now, all worked."""

    now: datetime

    def walk_at(self, machine: DemoMachine, ago: int) -> datetime:
        """When somebody begins to walk round it."""
        return self.now - timedelta(days=ago, minutes=62 + 4 * MACHINES.index(machine))

    def work_at(self, machine: DemoMachine, ago: int) -> datetime:
        """When its shift begins."""
        return self.now - timedelta(days=ago, minutes=40 + 4 * MACHINES.index(machine))

    def meter(self, machine: DemoMachine, ago: int, later_h: float = 0.0) -> float:
        """What its hour meter shows, so many hours after the morning [h]."""
        return round(machine.hours + machine.per_day * (10 - ago) + later_h * 0.6, 1)


async def walk(db: Db, books: Books, day: DemoMorning, plan: Plan, rng: random.Random) -> Outcome:
    """Walk round a machine and sign; what came of it."""
    unit = next(m for m in MACHINES if m.id == day.machine)
    machine, options = unit.id, unit.options
    person = WHO[day.by]
    model = books.catalog.models[unit.model]
    tank = {r.id: r.extension_at_check for r in model.tank.rods}
    at = plan.walk_at(unit, day.ago) + timedelta(hours=day.later_h)
    who = actor(person, at)
    here = await here_of(db, books, at)
    inspection = uuid7(at, rng.getrandbits(74))
    hour_meter = plan.meter(unit, day.ago, day.later_h)
    batch: list[Sent] = []
    seen: dict[str, frozenset[str]] = {}

    def add(kind: str, what: dict[str, Any], seconds: float) -> None:
        nonlocal at
        at += timedelta(seconds=round(seconds, 1))
        names = seen.get(what.get("checkpoint", ""), frozenset())
        batch.append(Sent(uuid7(at, rng.getrandbits(74)), kind, person, at, payload_of(kind, what), names, 0))

    conditions = {"air_c": day.air_c, "pitch_deg": 0.5, "roll_deg": -0.4, "dark": day.dark, "people_on_foot": True}
    there = await unit_of(here, machine)
    opening = {
        "hour_meter": hour_meter, "options": sorted(options), "purpose": day.kind, "conditions": conditions,
        "knew": there.seq, "head": there.head,
    }  # fmt: skip
    add("opened", opening, 1)
    opened = Opened(hour_meter, decode(Conditions, conditions), frozenset(options), day.kind)
    w = await machine_walk(here, machine, opened)
    for defect in w.defects:
        key = defect.key[0]
        seen[key] = seen.get(key, frozenset()) | {r.entry for r in defect.reports}
    for leg in _way(books, w).legs:
        add("arrived", {"station": leg.station}, leg.seconds * rng.uniform(0.8, 1.3))
        for c in w.walk.at(leg.station):
            pause = c.seconds * rng.uniform(0.6, 1.3)
            if c.reading:
                rods = {**tank, **({"arm": day.arm_out} if "arm" in tank else {})}
                level = {"seen": round(day.seen, 2), "oil_c": day.oil_c, "pitch_deg": 0.5, "roll_deg": -0.4}
                given = {**level, **{f"{OUT}{group}": out for group, out in rods.items()}}
                add("read", {"checkpoint": c.id, "reading": HYDRAULIC_LEVEL, "given": given}, pause)
            else:
                add("answered", _answer(day, c.id), pause)
            for (at_, key), given in day.read.items():
                if at_ == c.id:
                    done, amount = day.before.get((at_, key), ("", ""))
                    right = {"put_right": {"done": done, "amount": amount}} if done else {}
                    add("read", {"checkpoint": c.id, "reading": key, "given": given, **right}, 8)
    taken = await take(later(here, at), who, machine, inspection, batch)
    assert not taken.refused, taken.refused
    outcome = (await standing(later(here, at), inspection)).verdict.outcome
    at += timedelta(seconds=20)
    signed = payload_of("signed", {"covers": sorted(s.id for s in batch), "outcome": outcome.value})
    sign = Sent(uuid7(at, rng.getrandbits(74)), "signed", person, at, signed, frozenset(), 0)
    taken = await take(later(here, at), who, machine, inspection, [sign])
    assert not taken.refused, taken.refused
    return outcome


async def work(db: Db, books: Books, shift: DemoShift, plan: Plan, rng: random.Random) -> None:
    """A whole shift of a machine that was walked round in the morning."""
    unit = next(m for m in MACHINES if m.id == shift.machine)
    at = plan.work_at(unit, shift.ago)
    person, who = WHO[shift.by], actor(WHO[shift.by], at)
    here, stream = await here_of(db, books, at), uuid7(at, rng.getrandbits(74))
    meter = plan.meter(unit, shift.ago)
    air = air_c(shift.ago)
    opening = {"hour_meter": meter, "options": sorted(unit.options), "purpose": RUN, "conditions": {"air_c": air}}
    model = await unit_model(here, await unit_of(here, unit.id))
    answers = answers_given(decode(Conditions, opening["conditions"]), here.catalog.questions)
    schools = as_words(in_force(books.catalog.schools, {}, model.schools))
    steps = steps_for(steps_of(books.catalog, model), frozenset(unit.options), answers, schools)
    said = [("opened", opening, at), *said_of(shift, steps, at, air, meter, unit.per_day, rng)]
    batch: list[Sent] = []
    last: dict[str, str] = {}
    for kind, what, t in said:
        slot = what.get("step", kind) if kind in ("stepped", "engine") else ""
        seen = frozenset({last[slot]} if slot in last else ())
        batch.append(Sent(uuid7(t, rng.getrandbits(74)), kind, person, t, payload_of(kind, what), seen, 0))
        if slot:
            last[slot] = batch[-1].id
    taken = await take(later(here, batch[-1].at), who, unit.id, stream, batch)
    assert not taken.refused, taken.refused


def _way(books: Books, w: MachineWalk) -> Route:
    """The way round, planned once for walks that are alike."""
    kept: dict[object, Route] = books.one(_Ways).kept
    key = (w.bound, tuple(c.id for c in w.walk.checkpoints), w.wishes)
    if key not in kept:
        kept[key] = plan_route(w.walk, w.wishes)
    return kept[key]


class _Ways:
    def __init__(self) -> None:
        self.kept: dict[object, Route] = {}


def later(here: Here, at: datetime) -> Here:
    return Here(here.db, here.site, here.books, at)


async def _load(url: str, books: Books, now: datetime, weeks: bool) -> bool:
    store = Store(url)
    try:
        async with store.transaction() as db:
            if await machine_store.only_site(db) is not None:
                return False
            days, shifts = story(), list(SHIFTS)
            if weeks:
                await take_in(db, now.date())
                here = await here_of(db, books, now)
                for person in await people(here):
                    await note(here, CONSOLE, AccountChange.PERSON_ADDED, person.id, {"role": person.role.value})
                await machine_store.set_shifts(db, SITE[0], shifts_at(now))
                days = [replace(d, by=driver(_unit(d.machine), 0)) for d in days if d.ago == 0]
                shifts = [replace(s, by=driver(_unit(s.machine), 0)) for s in shifts if s.ago == 0]
            else:
                await base(db, books, now)
            rng = random.Random(7)
            for day in days:
                await walk(db, books, day, FromNow(now), rng)
                for shift in shifts:
                    if (shift.ago, shift.machine, "pre-start") == (day.ago, day.machine, day.kind):
                        await work(db, books, shift, FromNow(now), rng)
            if weeks:
                await tell_values(await here_of(db, books, now), rng)
            for machine in ("", *(m.id for m in MACHINES)):
                for key, says in INSTRUMENTS.items():
                    if DEVICES[key].of_machine == bool(machine):
                        told = DeviceWord(key, machine, True, says, now, WHO["Pell"], simulated=True)
                        await instrument_store.put_instrument(db, SITE[0], told)
        return True
    finally:
        await store.close()


def _unit(machine: str) -> DemoMachine:
    return next(m for m in MACHINES if m.id == machine)


def load_demo(url: str, catalog: Catalog, now: datetime | None = None, weeks: bool = False) -> bool:
    """Load the demo into an empty database, all or nothing; false if it already holds a site.

    `weeks`: with twelve weeks before today, as they ship; else with the last days alone, walked now.
    """
    return asyncio.run(_load(url, Books(catalog), now or datetime.now(UTC), weeks))
