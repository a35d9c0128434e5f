"""What the machine that is read over a bus told while it worked: the stand-in's engine over the shifts of its log."""

from __future__ import annotations

import random
from collections.abc import Iterator, Mapping
from dataclasses import replace
from datetime import datetime, timedelta
from itertools import pairwise

from jutrel.core.panel.signals import Value
from jutrel.core.procedure.kinds import Engine, EngineNow
from jutrel.demo.story import SITE
from jutrel.service.context import Here
from jutrel.service.panel.course import USUAL, import_samples
from jutrel.standin.engine import Inputs, SimulatedEngine, Turns, signals_of, stepped
from jutrel.store.queries import log as log_store

MACHINE = "ex-01"
DAYS = 8
MINUTE = timedelta(minutes=1)
WARM_UP, COOL_DOWN = timedelta(minutes=8), timedelta(minutes=5)
KEYS = (*USUAL, "load", "fuel-rate")
FULL, REFILL = 92.0, 52.0
"""Filled up to this, where it stood under that when the engine was stopped [%]."""


def values_of(
    begun: datetime, ended: datetime, engine: SimulatedEngine, air_c: float, rng: random.Random
) -> Iterator[tuple[datetime, SimulatedEngine]]:
    """An engine minute by minute from when it was started to when it was stopped: warmed up, worked, cooled down.

    Digging comes in stretches of some minutes, with waiting between them for the hauler.
    """
    at = begun.replace(second=0, microsecond=0) + MINUTE
    busy, left = 0.7, 0
    while at < ended:
        if left <= 0:
            busy, left = (rng.uniform(0.45, 0.95), rng.randint(6, 25)) if busy < 0.3 else (0.05, rng.randint(1, 6))
        idle = at - begun < WARM_UP or ended - at < COOL_DOWN
        throttle = 0.0 if idle else 0.25 if busy < 0.3 else 0.78
        load = 0.05 if idle else min(1.0, max(0.0, busy + rng.uniform(-0.08, 0.08)))
        engine = stepped(engine, Inputs(Turns.RUNS, throttle, load, air_c), 60.0)
        yield at, engine
        at, left = at + MINUTE, left - 1


async def tell_values(here: Here, rng: random.Random, air_c: float = 9.0) -> int:
    """Write what the machine told on the days before today; today's is told by the stand-in itself. How many."""
    entries = await log_store.entries_of_kinds(here.db, SITE[0], MACHINE, ("engine",))
    since, until = here.now - timedelta(days=DAYS), here.now - timedelta(hours=12)
    turns = [(e.time, e.what.state) for e in entries if isinstance(e.what, Engine) and since < e.time < until]
    engine = SimulatedEngine(coolant=air_c, oil=air_c, hydraulic=air_c, transmission=air_c, fuel=FULL)
    samples: dict[datetime, Mapping[str, Value]] = {}
    for (begun, state), (ended, _) in pairwise(turns):
        if state is EngineNow.RUNNING:
            for at, engine in values_of(begun, ended, engine, air_c, rng):  # noqa: B020  (the engine goes on from there)
                told = signals_of(engine)
                samples[at] = {k: round(v, 1) for k in KEYS if isinstance(v := told[k], float)}
        elif state is EngineNow.STOPPED:
            stood = (ended - begun).total_seconds()
            engine = stepped(engine, Inputs(Turns.STANDS, air_c=air_c), stood)
            if engine.fuel < REFILL:
                engine = replace(engine, fuel=FULL)
    return await import_samples(here, MACHINE, samples)
