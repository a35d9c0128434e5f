"""Can it go? The yard through a shift, with the clock in hand."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Coroutine
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import NAMESPACE_URL, uuid5

import pytest

from jutrel.core.log.kinds import payload_of
from jutrel.core.people import Role
from jutrel.demo.story import WHO
from jutrel.service.context import Books, Here, here_of
from jutrel.service.inspection.look import open_defects, standing
from jutrel.service.intake import take
from jutrel.service.log.sent import Sent
from jutrel.service.machine.yard import YardMachine, yard
from jutrel.service.people.people import Actor, Pen, Person
from jutrel.service.route.walk import machine_walk
from jutrel.store.base import Db, Store
from jutrel.store.queries import machines as machine_store
from jutrel.store.queries import people as people_store
from tests.conftest import CATALOG
from tests.device import OPTIONS
from tests.walks import defect, walked

MORNING = datetime(2026, 5, 4, 6, 0, tzinfo=UTC)
SITE = "quillmere"
SHIFTS = (("08:00", 10.0), ("18:00", 10.0))
"""By the clock on the wall, two hours ahead of UTC in May."""


class Shift:
    """A day on the site: walks at given times, looks at the yard at given times."""

    def __init__(self, url: str) -> None:
        self.store = Store(url)
        self.books = Books(CATALOG)
        self.count = 0

    def actor(self, who: str, at: datetime) -> Actor:
        role = {"Dag": Role.MECHANIC}.get(who, Role.OPERATOR)
        pen = Pen(str(uuid5(NAMESPACE_URL, who)), WHO[who], role, "tab", at - timedelta(days=1), at + timedelta(days=1))
        return Actor(SITE, Person(WHO[who], who, role), pen)

    async def here(self, db: Db, at: datetime) -> Here:
        here = await here_of(db, self.books, at)
        return replace(here, site=replace(here.site, shifts=SHIFTS))

    async def walk(
        self,
        at: datetime,
        answers: dict[str, Any] | None = None,
        who: str = "Mira",
        sign: bool = True,
        hours: float = 10.0,
        meter: float = 7000.0,
        leave: tuple[str, ...] = (),
        purpose: str = "pre-start",
    ) -> str:
        self.count += 1
        inspection = f"019df046-5800-7000-8000-{self.count:012d}"
        async with self.store.transaction() as db:
            here = await self.here(db, at)
            unit = await machine_store.unit(db, SITE, "ex-01")
            assert unit is not None
            seen: dict[str, list[str]] = {}
            for d in await open_defects(here, unit):
                seen.setdefault(d.key[0], []).extend(r.entry for r in d.reports)
            batch = []
            options = OPTIONS["ex-01"]
            plain = walked(
                answers, options, leave, conditions={"shift_hours": hours}, hour_meter=meter, purpose=purpose
            )
            for number, e in enumerate(plain):
                when = at + timedelta(seconds=number)
                named = frozenset(seen.get(e["what"].get("checkpoint", ""), ()))
                id_ = f"{inspection[:24]}{self.count:04d}{number:08d}"
                batch.append(Sent(id_, e["kind"], WHO[who], when, payload_of(e["kind"], e["what"]), named, 0))
            later = Here(here.db, here.site, here.books, at + timedelta(minutes=10))
            taken = await take(later, self.actor(who, at), "ex-01", inspection, batch)
            assert not taken.refused, taken.refused
            if sign:
                outcome = (await standing(later, inspection)).verdict.outcome
                what = payload_of("signed", {"covers": [s.id for s in batch], "outcome": outcome.value})
                last = Sent(
                    f"{inspection[:24]}{self.count:04d}99999999",
                    "signed",
                    WHO[who],
                    at + timedelta(minutes=12),
                    what,
                    frozenset(),
                    0,
                )
                await people_store.note_pin(here.db, here.site.id, WHO[who], [last.id], "", at)
                end = Here(here.db, here.site, here.books, at + timedelta(minutes=13))
                taken = await take(end, self.actor(who, at), "ex-01", inspection, [last])
                assert not taken.refused, taken.refused
        return inspection

    async def look(self, at: datetime) -> YardMachine:
        async with self.store.transaction() as db:
            return next(m for m in await yard(await self.here(db, at)) if m.unit.id == "ex-01")

    async def carried(self) -> dict[str, str]:
        async with self.store.transaction() as db:
            unit = await machine_store.unit(db, SITE, "ex-01")
            assert unit is not None
            return {d.key[0]: d.grade.word for d in await open_defects(await self.here(db, MORNING), unit)}


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
        assert (await day.look(MORNING + timedelta(hours=7, minutes=59))).go == "ready"
        # A shift that its operator said is shorter ends sooner, counted from the beginning and not from the signature.
        after = await day.look(MORNING + timedelta(hours=8, minutes=1))
        assert (after.go, str(after.why)) == ("uninspected", "It was last looked at for an earlier shift.")
        # One of 24 hours by the operator's word ends with the site's shift.
        await day.walk(MORNING + timedelta(minutes=20), hours=24, meter=7001)
        assert (await day.look(MORNING + timedelta(hours=9, minutes=59))).go == "ready"
        assert (await day.look(MORNING + timedelta(hours=10, minutes=1))).go == "uninspected"
        # Ten hours of running: a look at a stop reads the meter.
        await day.walk(MORNING + timedelta(hours=6), meter=7012, purpose="once-over")
        later = await day.look(MORNING + timedelta(hours=7))
        assert (later.go, str(later.why)[:9]) == ("uninspected", "Ten hours")

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
            offered = await machine_walk(await day.here(db, MORNING + timedelta(minutes=30)), "ex-01")
            assert offered.current is not None
            assert offered.current.id == mine
            stale = await machine_walk(await day.here(db, MORNING + timedelta(hours=10, minutes=1)), "ex-01")
            assert stale.current is None
        row = await day.look(MORNING + timedelta(minutes=30))
        assert (row.go, str(row.why)) == ("walking", "1 mandatory checkpoint left, next: Door and latch.")

    tell(story)


def test_a_hold_of_the_morning_that_was_mended_does_not_stop_the_yard(tell: Callable[[Story], None]) -> None:
    """Signed Held before the shift, mended and released in a once-over, confirmed by another: it may go."""

    async def story(day: Shift) -> None:
        await day.walk(MORNING, {"boom": defect("crack", crack_where="parent")})
        noon = MORNING + timedelta(hours=3)
        await day.walk(noon, who="Dag", sign=False, purpose="once-over")
        assert (await day.look(noon + timedelta(hours=1))).go == "held"
        inspection = f"019df046-5800-7000-8000-{day.count:012d}"
        async with day.store.transaction() as db:
            here = await day.here(db, noon + timedelta(minutes=30))
            s = await standing(here, inspection)
            covers = [e.id for e in s.entries]
            what = payload_of("signed", {"covers": covers, "outcome": s.verdict.outcome.value})
            sent = Sent(f"{inspection[:24]}{day.count:04d}99999999", "signed", WHO["Osk"], here.now, what)
            await people_store.note_pin(db, here.site.id, WHO["Osk"], [sent.id], "", noon)
            assert not (await take(here, day.actor("Osk", noon), "ex-01", inspection, [sent])).refused
        after = await day.look(noon + timedelta(hours=1))
        assert (after.go, str(after.why)) == ("ready", "Nothing stands against starting it.")

    tell(story)
