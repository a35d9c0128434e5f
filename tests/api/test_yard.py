"""Can it go? The yard through a shift, with the clock in hand."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Coroutine
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from jutrel.core.inspection.entry import Role
from jutrel.service.inspection import Sent, standing, take_entries
from jutrel.service.walk import carried_findings, machine_walk

from jutrel.demo.story import WHO
from jutrel.service.people import Actor, Person
from jutrel.service.yard import YardMachine, yard
from jutrel.store.base import Store
from tests.device import OPTIONS
from tests.walks import defect, walked

MORNING = datetime(2026, 5, 4, 6, 0, tzinfo=UTC)
SITE = "quillmere"


class Shift:
    """A day on the site: walks at given times, looks at the yard at given times."""

    def __init__(self, url: str) -> None:
        self.store = Store(url)
        self.count = 0

    def actor(self, who: str) -> Actor:
        role = {"Dag": Role.MECHANIC}.get(who, Role.OPERATOR)
        return Actor(SITE, Person(WHO[who], who, role), "tab")

    async def walk(
        self,
        at: datetime,
        answers: dict[str, Any] | None = None,
        who: str = "Mira",
        sign: bool = True,
        hours: float = 10.0,
        meter: float = 7000.0,
        leave: tuple[str, ...] = (),
    ) -> str:
        self.count += 1
        inspection = f"019df046-5800-7000-8000-{self.count:012d}"
        batch = []
        plain = walked(answers, OPTIONS["ex-01"], leave, conditions={"shift_hours": hours})
        for number, e in enumerate(plain):
            when = at + timedelta(seconds=number)
            e["what"].pop("carried", None)
            if e["kind"] == "opened":
                e["what"]["hour_meter"] = meter
            batch.append(Sent(f"{inspection[:24]}{self.count:04d}{number:08d}", e["kind"], WHO[who], when, e["what"]))
        async with self.store.transaction() as db:
            taken = await take_entries(db, self.actor(who), "ex-01", inspection, batch, at)
            assert not taken.refused, taken.refused
            if sign:
                outcome = (await standing(db, SITE, inspection)).verdict.outcome
                last = Sent(
                    f"{inspection[:24]}{self.count:04d}99999999",
                    "signed",
                    WHO[who],
                    at + timedelta(minutes=12),
                    {"covers": [s.id for s in batch], "outcome": outcome.value},
                )
                taken = await take_entries(db, self.actor(who), "ex-01", inspection, [last], at)
                assert not taken.refused, taken.refused
        return inspection

    async def look(self, at: datetime) -> YardMachine:
        async with self.store.transaction() as db:
            return next(m for m in await yard(db, SITE, at) if m.machine.id == "ex-01")

    async def carried(self) -> dict[str, str]:
        async with self.store.transaction() as db:
            return {c.checkpoint: c.grade for c in await carried_findings(db, SITE, "ex-01")}


Story = Callable[[Shift], Coroutine[Any, Any, None]]


@pytest.fixture
def tell(bare: str) -> Callable[[Story], None]:
    def run(story: Story) -> None:
        async def whole() -> None:
            shift = Shift(bare)
            try:
                await story(shift)
            finally:
                await shift.store.close()

        asyncio.run(whole())

    return run


def test_a_verdict_lapses_with_the_shift_or_ten_hours(tell: Callable[[Story], None]) -> None:
    async def story(day: Shift) -> None:
        assert (await day.look(MORNING)).go == "uninspected"
        await day.walk(MORNING, hours=8)
        assert (await day.look(MORNING + timedelta(hours=8))).go == "ready"
        after = await day.look(MORNING + timedelta(hours=8, minutes=13))
        assert (after.go, after.why) == ("uninspected", "The last inspection was for an earlier shift.")
        # Ten hours of running: somebody opened another walk at a far higher reading, and left it.
        await day.walk(MORNING + timedelta(minutes=20), hours=24, meter=7001)
        await day.walk(MORNING + timedelta(minutes=40), sign=False, meter=7012)
        later = await day.look(MORNING + timedelta(hours=12))
        assert (later.go, later.why[:9]) == ("uninspected", "Ten hours")

    tell(story)


def test_a_hold_does_not_lapse(tell: Callable[[Story], None]) -> None:
    async def story(day: Shift) -> None:
        await day.walk(MORNING, {"boom": defect("crack", crack_where="parent")})
        week = await day.look(MORNING + timedelta(days=7))
        assert week.go == "held"
        await day.walk(MORNING + timedelta(days=7), sign=False, leave=("door",))
        assert (await day.look(MORNING + timedelta(days=7, minutes=5))).go == "held"

    tell(story)


def test_what_an_unsigned_walk_found_is_not_lost(tell: Callable[[Story], None]) -> None:
    async def story(day: Shift) -> None:
        await day.walk(MORNING, {"teeth": defect("wear", wear="limit")})
        tomorrow = MORNING + timedelta(days=1)
        # Begun and never signed: it adds, and its 'sound' takes nothing away.
        await day.walk(tomorrow, {"door": defect("inoperative", works="intermittent")}, sign=False)
        assert await day.carried() == {"teeth": "mend", "door": "limit"}
        assert (await day.look(tomorrow + timedelta(minutes=30))).go == "walking"
        assert (await day.look(tomorrow + timedelta(hours=11))).go == "uninspected"
        # The mechanic mends both and somebody else is not needed below a Hold.
        await day.walk(tomorrow + timedelta(hours=12), who="Dag")
        assert await day.carried() == {}

    tell(story)


def test_the_open_walk_is_offered_to_whoever_comes(tell: Callable[[Story], None]) -> None:
    async def story(day: Shift) -> None:
        mine = await day.walk(MORNING, sign=False, leave=("door",))
        async with day.store.transaction() as db:
            offered = await machine_walk(db, SITE, "ex-01", MORNING + timedelta(minutes=30))
            assert offered.open_inspection == mine
            stale = await machine_walk(db, SITE, "ex-01", MORNING + timedelta(hours=10, minutes=1))
            assert stale.open_inspection is None
        row = await day.look(MORNING + timedelta(minutes=30))
        assert (row.go, row.why) == ("walking", "1 mandatory checkpoint left, next: Door and latch.")

    tell(story)
