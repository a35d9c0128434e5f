"""The demo at any hour of the day: machines that are ready, at work, limited, held and not inspected."""

from __future__ import annotations

import asyncio
from datetime import UTC, datetime, timedelta

import pytest

from jutrel.cluster import Cluster
from jutrel.core.machine.unit import SiteInfo
from jutrel.demo.load import load_demo, shifts_at
from jutrel.service.context import Books, Here, here_of
from jutrel.service.machine.yard import yard
from jutrel.service.procedure.run import machine_run
from jutrel.service.site.shifts import timetable_about
from jutrel.store.base import Store
from tests.conftest import CATALOG, _aside, _copy, _template
from tests.deep import DEEP

NIGHT = datetime(2026, 10, 24, 22, 40, tzinfo=UTC)
"""The night in which summer time ends where the demo's clocks hang."""


@pytest.mark.parametrize("hour", range(24) if DEEP else ())
def test_loaded_at_any_hour_it_shows_all_there_is(cluster: Cluster, hour: int) -> None:
    url, now = _copy(cluster, _template(cluster, "empty", lambda url: None)), NIGHT + timedelta(hours=hour)
    assert _aside(lambda: load_demo(url, CATALOG, now))

    async def ask() -> tuple[dict[str, str], str, bool]:
        store = Store(url)
        async with store.transaction() as db:
            here = await here_of(db, Books(CATALOG), now)
            go = {m.unit.id: m.go.value for m in await yard(here)}
            run = await machine_run(here, "dz-06")
            soon = await machine_run(Here(here.db, here.site, here.books, now + timedelta(hours=8)), "dz-06")
        await store.close()
        return go, run.state.stand.value, soon.state.ready_to_work

    go, stand, later = _aside(lambda: asyncio.run(ask()))
    assert {"ready", "limited", "held", "uninspected"} <= set(go.values()), go
    assert (stand, later) == ("working", False)
    assert go["dz-06"] in ("ready", "ready-mends-due")


@pytest.mark.parametrize("minute", range(0, 1440, 15))
def test_its_shift_began_long_enough_ago_and_lasts_long_enough(minute: int) -> None:
    now = NIGHT + timedelta(minutes=minute)
    info = SiteInfo("s", "s", "CET", "house", 8.0, shifts=shifts_at(now))
    shift = timetable_about(info, now).shift_of(now)
    assert shift is not None
    assert timedelta(hours=1.9) <= now - shift.begins
    assert shift.ends - now >= timedelta(hours=2.9)
