"""Loading the demo through the same services that people use, with times given from outside."""

from __future__ import annotations

import asyncio
import random
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import select
from sqlalchemy.ext.asyncio import AsyncSession

from jutrel.catalog import catalog
from jutrel.core.inspection.entry import Opened, Role
from jutrel.core.inspection.plan import plan_route
from jutrel.core.machine.file import Filed
from jutrel.core.machine.model import walk_of
from jutrel.core.plain import payload_of
from jutrel.demo.story import MACHINES, PEOPLE, PIN, SITE, WHO, Day, story
from jutrel.service.ids import uuid7
from jutrel.service.inspection import Sent, standing, take_entries
from jutrel.service.machine import write_file
from jutrel.service.people import Actor, Person, hash_pin
from jutrel.service.walk import carried_findings, occasion_of
from jutrel.store.base import Store
from jutrel.store.tables import PersonRow, SiteRow

FILED = datetime(2026, 1, 5, 7, 0, tzinfo=UTC)
"""When the demo's machines came to the site."""


async def base(db: AsyncSession) -> None:
    """Write the site, its people and its machines, without history."""
    site, name, zone = SITE
    db.add(SiteRow(id=site, name=name, zone=zone, regime="house", shift_hours=10.0))
    await db.flush()
    pin = hash_pin(PIN)
    for person, who, role in PEOPLE:
        db.add(PersonRow(site_id=site, id=person, name=who, role=role, pin_hash=pin, active=True, wrong_pins=0))
    await db.flush()
    boss = next((p, n, r) for p, n, r in PEOPLE if r == Role.SUPERVISOR)
    actor = Actor(site, Person(boss[0], boss[1], Role(boss[2])), "demo-tablet")
    for bay, m in enumerate(MACHINES, 1):
        filed = Filed(m.name, m.model, frozenset(m.options), dict(m.own_limits), bay, m.note)
        await write_file(db, actor, m.id, uuid7(FILED, bay), filed, FILED, m.hours)
    await db.flush()


def _answer(day: Day, checkpoint: str) -> dict[str, Any]:
    if checkpoint in day.defects:
        return {
            "checkpoint": checkpoint,
            "answer": "defect",
            "findings": day.defects[checkpoint],
            "reason": "",
            "amends": "",
        }
    if checkpoint in day.unseen:
        return {
            "checkpoint": checkpoint,
            "answer": "unseen",
            "findings": [],
            "reason": day.unseen[checkpoint],
            "amends": "",
        }
    return {"checkpoint": checkpoint, "answer": "sound", "findings": [], "reason": "", "amends": ""}


async def _walk(db: AsyncSession, day: Day, now: datetime, rng: random.Random) -> None:
    unit = next(m for m in MACHINES if m.id == day.machine)
    machine, options = unit.id, unit.options
    person = WHO[day.by]
    name, role = next((n, r) for p, n, r in PEOPLE if p == person)
    actor = Actor(SITE[0], Person(person, name, Role(role)), "demo-tablet")
    model = catalog().models[unit.model]
    tank = {r.id: r.extension_at_check for r in model.tank.rods}
    at = now - timedelta(days=day.ago, minutes=62 + 4 * MACHINES.index(unit)) + timedelta(hours=day.later_h)
    inspection = uuid7(at, rng.getrandbits(74))
    hour_meter = round(unit.hours + unit.per_day * (10 - day.ago) + day.later_h * 0.6, 1)
    batch: list[Sent] = []

    def add(kind: str, what: dict[str, Any], seconds: float) -> None:
        nonlocal at
        at += timedelta(seconds=seconds)
        batch.append(Sent(uuid7(at, rng.getrandbits(74)), kind, person, at, what))

    opening = {
        "hour_meter": hour_meter,
        "options": sorted(options),
        "purpose": day.kind,
        "conditions": {
            "air_c": day.air_c,
            "pitch_deg": 0.5,
            "roll_deg": -0.4,
            "dark": day.dark,
            "rain": False,
            "people_on_foot": True,
            "shift_hours": 10.0,
        },
    }
    add("opened", opening, 1)
    carried = await carried_findings(db, SITE[0], machine, leaving_out=inspection)
    opened = payload_of("opened", opening)
    assert isinstance(opened, Opened)
    opened = replace(opened, carried=carried)
    walk = occasion_of(walk_of(model, frozenset(options)), opened)
    route = plan_route(walk)
    for leg in route.legs:
        add("arrived", {"station": leg.station}, leg.seconds * rng.uniform(0.8, 1.3))
        for c in walk.at(leg.station):
            pause = c.seconds * rng.uniform(0.6, 1.3)
            if c.reading:
                add(
                    "measured",
                    {
                        "checkpoint": c.id,
                        "seen": round(day.seen, 2),
                        "oil_c": day.oil_c,
                        "pitch_deg": 0.5,
                        "roll_deg": -0.4,
                        "extensions": {**tank, **({"arm": day.arm_out} if "arm" in tank else {})},
                        "amends": "",
                    },
                    pause,
                )
            else:
                add("answered", _answer(day, c.id), pause)
    taken = await take_entries(db, actor, machine, inspection, batch, at)
    assert not taken.refused, taken.refused
    outcome = (await standing(db, SITE[0], inspection)).verdict.outcome
    covers = sorted(s.id for s in batch)
    at += timedelta(seconds=20)
    sign = Sent(uuid7(at, rng.getrandbits(74)), "signed", person, at, {"covers": covers, "outcome": outcome.value})
    taken = await take_entries(db, actor, machine, inspection, [sign], at)
    assert not taken.refused, taken.refused


async def _load(url: str, now: datetime) -> bool:
    store = Store(url)
    try:
        async with store.transaction() as db:
            if (await db.execute(select(SiteRow.id).limit(1))).first():
                return False
            await base(db)
            rng = random.Random(7)
            for day in story():
                await _walk(db, day, now, rng)
        return True
    finally:
        await store.close()


def load_demo(url: str, now: datetime | None = None) -> bool:
    """Load the demo into an empty database, all or nothing; false if it already holds a site."""
    return asyncio.run(_load(url, now or datetime.now(UTC)))
