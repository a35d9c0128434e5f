"""Makes the twelve weeks of the demo job by walking, running and mending through the services that people use."""

from __future__ import annotations

import asyncio
import random
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

from jutrel.catalog.whole import Catalog
from jutrel.core.account import CONSOLE
from jutrel.core.defect.kinds import Accepted, Acknowledged, Isolated, Rechecked, Released
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.verdict import Outcome
from jutrel.core.log.entry import Entry
from jutrel.core.log.kinds import payload_of
from jutrel.core.machine.event import Done
from jutrel.core.people import Role
from jutrel.core.training import Taught, Training
from jutrel.demo.history_file import write_history
from jutrel.demo.lives import DefectLife
from jutrel.demo.load import actor, base, later, walk, work
from jutrel.demo.story import MACHINES, MORE_PEOPLE, PIN, SITE, WHO, DemoMachine
from jutrel.demo.weeks import (
    EVENINGS,
    FIRST,
    INCIDENTS,
    SERVICE_H,
    TAUGHT,
    days,
    driver,
    from_day,
    lives,
    morning,
    shift,
    worked_h,
    works_on,
)
from jutrel.service.context import Books, Here, here_of
from jutrel.service.defect.defects import Act, act
from jutrel.service.defect.open_defects import OpenDefect, defects_on
from jutrel.service.ids import uuid7
from jutrel.service.intake import take
from jutrel.service.log.sent import Sent
from jutrel.service.machine.find import unit_of
from jutrel.service.people.changes import enrol
from jutrel.service.people.people import Person
from jutrel.service.people.pins import hash_pin
from jutrel.service.people.training import add as add_training
from jutrel.store.base import Db, Store
from jutrel.store.migrate import newest_revision
from jutrel.store.queries import people as people_store
from jutrel.store.queries.log import log_of
from jutrel.store.queries.table_copy import CopiedOut

MORNING = timedelta(hours=5, minutes=12)
"""When the first walk of a day begins, after midnight (UTC)."""
GOES = (Outcome.READY, Outcome.READY_MENDS_DUE, Outcome.LIMITED)


class DayPlan:
    """When the walk and the shift of a machine begin, so many days ago, and what its meter shows then [h]."""

    def __init__(self, midnight: datetime) -> None:
        self.midnight = midnight

    def walk_at(self, machine: DemoMachine, ago: int) -> datetime:
        """When somebody begins to walk round it."""
        return self.midnight - timedelta(days=ago) + MORNING + timedelta(minutes=3 * MACHINES.index(machine))

    def work_at(self, machine: DemoMachine, ago: int) -> datetime:
        """When its shift begins."""
        return self.walk_at(machine, ago) + timedelta(minutes=38)

    def meter(self, machine: DemoMachine, ago: int, later_h: float = 0.0) -> float:
        """What its hour meter shows in the morning, or after the day's work [h]."""
        return round(worked_h(machine, ago) + (machine.per_day if later_h else 0.0), 1)


class Counting(random.Random):
    """Chance for times, and a count where ids take their noise: chance in ids would be most of the file."""

    def __init__(self, seed: str, since: int) -> None:
        super().__init__(seed)
        self._next = since

    def getrandbits(self, k: int, /) -> int:
        """The next number."""
        self._next += 1
        return self._next

    def uniform(self, a: float, b: float) -> float:
        """To a tenth, as a person's clock is read."""
        return round(super().uniform(a, b), 1)


class Weeks:
    """The weeks as they are lived. `seed`: what chance goes by; the same seed gives the same weeks but for ids."""

    def __init__(self, db: Db, books: Books, midnight: datetime, seed: int) -> None:
        self.db, self.books, self.plan, self.seed = db, books, DayPlan(midnight), seed

    async def day(self, ago: int, machine: DemoMachine) -> None:
        """A day of a machine: the walk, the shift if it may work, what happens at it, what is mended in the evening."""
        rng = Counting(f"{self.seed} {machine.id} {ago}", MACHINES.index(machine) << 40 | ago << 20)
        at = self.plan.walk_at(machine, ago)
        mended = [x for x in lives(machine) if x.done and x.until == ago + _gap(machine, ago)]
        for life in mended:
            await self._checked_again(life, machine, at - timedelta(minutes=6), rng)
        came = await walk(self.db, self.books, morning(machine, ago), self.plan, rng)
        for life in (x for x in lives(machine) if x.since == ago):
            await self._seen(life, machine, at + timedelta(minutes=32), rng)
        for life in (x for x in lives(machine) if x.until <= ago <= x.since):
            await self._accepted(life, machine, at + timedelta(minutes=34), rng)
        if came in GOES:
            await work(self.db, self.books, shift(machine, ago), self.plan, rng)
        evening = at + timedelta(hours=machine.per_day + 2.4)
        for incident in (x for x in INCIDENTS if (x.machine, from_day(machine, x.ago)) == (machine.id, ago)):
            told = await self._about(
                machine, incident.by, evening, "incident", rng, what=incident.what.value, note=incident.note
            )
            await self._about(
                machine, "Dag", evening + timedelta(hours=1), "examined", rng, incident=told, found=incident.found
            )
        if (machine.id, ago) in EVENINGS:
            day = replace(morning(machine, ago), kind="end-of-shift", later_h=machine.per_day + 1.4, dark=False)
            await walk(self.db, self.books, day, self.plan, rng)
        for life in (x for x in lives(machine) if x.done and x.until == ago):
            await self._mended(life, machine, evening, rng)
        hours = worked_h(machine, ago)
        if hours // SERVICE_H != (hours + machine.per_day) // SERVICE_H:
            note = (
                f"{SERVICE_H * ((hours + machine.per_day) // SERVICE_H):.0f} h service: oils, filters, samples taken."
            )
            await self._about(
                machine, "Dag", evening + timedelta(hours=2), "worked-on", rng, what=Done.SERVICED.value, note=note
            )

    async def _here(self, at: datetime) -> Here:
        return later(await here_of(self.db, self.books, at), at)

    async def _about(
        self, machine: DemoMachine, by: str, at: datetime, kind: str, rng: random.Random, **what: str
    ) -> str:  # fmt: skip
        """Something told of a machine by itself; its id."""
        here, id_ = await self._here(at), uuid7(at, rng.getrandbits(74))
        await self._pin(here, id_, WHO[by], at)
        sent = Sent(id_, kind, WHO[by], at, payload_of(kind, dict(what)), frozenset(), 0)
        taken = await take(here, actor(WHO[by], at), machine.id, f"defect.{uuid7(at, rng.getrandbits(74))}", [sent])
        assert not taken.refused, taken.refused
        return id_

    async def _pin(self, here: Here, entry: str, person: str, at: datetime) -> None:
        await people_store.note_pin(here.db, here.site.id, person, [entry], "demo-tablet", at)

    async def _open(self, here: Here, machine: DemoMachine, life: DefectLife) -> OpenDefect | None:
        key = (life.checkpoint, life.mode)
        found = await defects_on(here, await unit_of(here, machine.id))
        return next((d for d in found if d.defect.key[:2] == key), None)

    async def _act(
        self, machine: DemoMachine, life: DefectLife, by: str, at: datetime, rng: random.Random,
        what: Callable[[OpenDefect], Act],
    ) -> None:  # fmt: skip
        here = await self._here(at)
        found = await self._open(here, machine, life)
        assert found is not None, (machine.id, life.checkpoint, life.mode, at)
        id_ = uuid7(at, rng.getrandbits(74))
        await self._pin(here, id_, WHO[by], at)
        await act(here, actor(WHO[by], at), machine.id, found.defect.id, id_, what(found), found.entries)

    async def _seen(self, life: DefectLife, machine: DemoMachine, at: datetime, rng: random.Random) -> None:
        if not life.done:
            return
        about = (life.checkpoint, life.mode)
        await self._act(machine, life, "Dag", at, rng, lambda _: Acknowledged(*about, "Ordered." if life.parts else ""))

    async def _accepted(self, life: DefectLife, machine: DemoMachine, at: datetime, rng: random.Random) -> None:
        """A Limit is accepted by name, each shift anew."""
        found = await self._open(await self._here(at), machine, life)
        if found is not None and found.item.grade is Grade.LIMIT:
            about, why = (life.checkpoint, life.mode), life.accepted or "Within its limits today; the mechanic has it."
            await self._act(machine, life, "Pell", at, rng, lambda _: Accepted(*about, why))

    async def _mended(self, life: DefectLife, machine: DemoMachine, at: datetime, rng: random.Random) -> None:
        about = (life.checkpoint, life.mode)

        def isolated(found: OpenDefect) -> Act:
            how = "Parked level, tool down, key out, battery isolator off and locked, pressure let out."
            return Isolated(*about, tuple(found.energies), how)

        await self._act(machine, life, "Dag", at, rng, isolated)
        later_ = at + timedelta(minutes=40)
        await self._act(machine, life, "Dag", later_, rng, lambda _: Released(*about, life.done, life.parts))

    async def _checked_again(self, life: DefectLife, machine: DemoMachine, at: datetime, rng: random.Random) -> None:
        ago = next(a for a in range(life.until - 1, -1, -1) if works_on(machine, a))
        by = driver(machine, ago)
        found = await self._open(await self._here(at), machine, life)
        if found is None or found.defect.release is None:
            return  # only what held a machine is looked at by two
        await self._act(machine, life, by, at, rng, lambda found: Rechecked(found.defect.release or ""))


def _gap(machine: DemoMachine, ago: int) -> int:
    """How many days before this one the machine was worked last."""
    return next((n for n in range(1, 15) if works_on(machine, ago + n)), 1)


async def _taught(db: Db, books: Books, midnight: datetime) -> None:
    for n, (ago, whom, taught, model, note) in enumerate(TAUGHT):
        at = midnight - timedelta(days=ago) + timedelta(hours=13)
        told = Training(uuid7(at, n), WHO[whom], Taught(taught), model, note, "", at)
        await add_training(later(await here_of(db, books, at), at), actor(WHO["Una"], at), told)


async def _make(url: str, books: Books, midnight: datetime, seed: int, last: int) -> None:
    store = Store(url)
    try:
        async with store.transaction() as db:
            meters = {m.id: worked_h(m, FIRST + 1) for m in MACHINES}
            await base(db, books, midnight, meters)
            pin = hash_pin(PIN)
            here = await here_of(db, books, midnight)
            for person, who, role in MORE_PEOPLE:
                await enrol(here, CONSOLE, Person(person, who, Role(role)), pin, once=False)
            await _taught(db, books, midnight)
        for ago, machine in days():
            if ago >= last:
                async with store.transaction() as db:
                    await Weeks(db, books, midnight, seed).day(ago, machine)
    finally:
        await store.close()


def make_history(url: str, catalog: Catalog, midnight: datetime | None = None, seed: int = 7, last: int = 1) -> None:
    """Live the twelve weeks in an empty database, up to `last` days before the day that begins at `midnight`."""
    today = datetime.now(UTC).replace(hour=0, minute=0, second=0, microsecond=0)
    asyncio.run(_make(url, Books(catalog), midnight or today, seed, last))


def keep_history(url: str, path: Path) -> None:
    """Write down the weeks that a database holds."""

    async def entries() -> list[Entry]:
        store = Store(url)
        try:
            async with store.transaction() as db:
                return [e for m in MACHINES async for e in log_of(db, SITE[0], m.id)]
        finally:
            await store.close()

    with CopiedOut(url) as tables:
        write_history(tables, iter(asyncio.run(entries())), newest_revision(), path)
