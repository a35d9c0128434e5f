"""A run from key to key as it stands: its steps, what is missing, what the machine's last inspection allows."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from jutrel.catalog.compile import steps_of
from jutrel.core.inspection.finding import Conditions
from jutrel.core.inspection.kinds import HandedOver
from jutrel.core.inspection.look import LAPSES_AFTER
from jutrel.core.inspection.occasion import answers_given
from jutrel.core.log.entry import Entry
from jutrel.core.machine.model import Model
from jutrel.core.machine.state import Go, Looks, LookSummary, may_go
from jutrel.core.machine.unit import Unit
from jutrel.core.procedure.handover import Line, handover_lines
from jutrel.core.procedure.kinds import RUN, EngineNow
from jutrel.core.procedure.state import Gate, Run, RunState, Stand, StepNow, watched
from jutrel.core.procedure.step import steps_for
from jutrel.core.procedure.times import cool_down_for, stopped_before, waits_of, warm_up_for
from jutrel.core.reading.registry import Reading
from jutrel.core.wording import Said
from jutrel.service.context import Here
from jutrel.service.intake import unit_of
from jutrel.service.look import Standing, standing
from jutrel.service.models import unit_model
from jutrel.service.problem import NotFound
from jutrel.service.yard import titles_of
from jutrel.store.queries import log as log_store
from jutrel.store.queries import projections as rows

STARTS = (Go.READY, Go.READY_MENDS_DUE, Go.LIMITED)
"""How a machine may stand to be started for work."""
OVER = (Stand.SECURED, Stand.ENDED)


@dataclass(frozen=True, slots=True)
class Note:
    """What somebody left for whoever comes next."""

    text: str
    by: str
    at: datetime
    lines: tuple[Line, ...]


@dataclass(frozen=True, slots=True)
class RunOnMachine:
    """A run of a unit as it stands now; without `look` it has not begun."""

    unit: Unit
    model: Model
    look: str | None
    entries: tuple[Entry, ...]
    state: RunState
    gate: Gate
    watched: tuple[StepNow, ...]
    warm: Reading
    cool: Reading | None
    lines: tuple[Line, ...]
    before: Note | None
    """What the run before this one left."""
    go: Go
    cleared: LookSummary | None = None
    """The inspection that lets it work; it says until when."""


async def gate_of(here: Here, unit: Unit) -> tuple[Gate, Go, LookSummary | None]:
    """Whether a machine may be started now and what it may only do; its state; the look that cleared it."""
    n = unit.newest
    found = {k.id: k for _, k in await rows.looks_of(here.db, here.site.id, ids=n.ids)} if n.ids else {}
    looks = Looks(*(found.get(i or "") for i in (n.signed, n.cleared, n.ended, n.walking)))
    go, word = may_go(unit.standing, looks, titles_of(here), unit.hours, here.now)
    said = "\n".join(str(x) for x in word.limits)
    name = hashlib.sha256(said.encode()).hexdigest()[:16] if said else ""
    return Gate(go in STARTS, go is Go.HELD, word.why, word.limits, name), go, looks.cleared


async def machine_run(here: Here, machine: str, look: str | None = None) -> RunOnMachine:
    """The run of a unit: the one named, else the one under way, else the one that could begin now.

    Raises
    ------
    NotFound
        If there is no such unit, or no such run.
    """
    unit = await unit_of(here, machine)
    runs = await rows.looks_of(here.db, here.site.id, machine, 2, kind=RUN)
    gate, go, cleared = await gate_of(here, unit)
    engine = await log_store.entries_of_kinds(here.db, here.site.id, machine, ("engine",))
    newest = runs[0][1].id if runs else None
    if look is not None or newest is not None:
        named = await standing(here, look or newest or "")
        if named.unit.id != machine or named.heard.look.opened.purpose != RUN:
            raise NotFound("no-run", "There is no such run of this machine.")
        found = await _heard(here, named, gate, go, engine)
        lapsed = found.state.stand is Stand.PREPARING and here.now - runs[0][1].begun_at > LAPSES_AFTER
        if look is not None or not (found.state.stand in OVER or lapsed):
            earlier = next((k.id for _, k in runs if k.id != found.look and k.id < (found.look or "")), None)
            return replace(found, before=await _note(here, earlier, gate, go, engine), cleared=cleared)
    model = await unit_model(here, unit)
    steps = steps_for(steps_of(here.catalog, model), unit.options, ())
    warm = warm_up_for(Conditions().air_c, stopped_before(engine, here.now), here.now)
    run = Run(steps, (), gate, waits_of(warm, None))
    state = run.at(here.now)
    fresh = RunOnMachine(unit, model, None, (), state, gate, _watched(run, state, here.now), warm, None, (), None, go)
    return replace(fresh, before=await _note(here, newest, gate, go, engine), cleared=cleared)


def _watched(run: Run, state: RunState, now: datetime) -> tuple[StepNow, ...]:
    return tuple(watched(run, now)) if state.engine is not EngineNow.STOPPED else ()


async def _heard(here: Here, s: Standing, gate: Gate, go: Go, engine: Sequence[Entry]) -> RunOnMachine:
    """A run from its entries, by the procedure that it is bound to."""
    heard = s.heard
    opened = heard.look.opened
    answers = answers_given(opened.conditions, heard.case.edition.questions)
    entries = [e for e in s.entries if heard.court.alive(e)]
    steps = steps_for(heard.case.edition.steps, s.walk.options, answers)
    begun = next((e.time for e in entries), here.now)
    warm = warm_up_for(opened.conditions.air_c, stopped_before(engine, begun), begun)
    cool = cool_down_for(entries)
    run = Run(steps, entries, gate, waits_of(warm, cool))
    state = run.at(here.now)
    fluids = {c.id: Said(c.label, (), "choice") for c in here.catalog.rulebook.attributes["fluid"].choices}
    lines = tuple(handover_lines(state, entries, s.walk.model, fluids))
    return RunOnMachine(
        s.unit, s.walk.model, s.id, tuple(entries), state, gate, _watched(run, state, here.now), warm, cool, lines,
        None, go,
    )  # fmt: skip


async def _note(here: Here, look: str | None, gate: Gate, go: Go, engine: Sequence[Entry]) -> Note | None:
    """What a run left for the next."""
    if look is None:
        return None
    s = await standing(here, look)
    handed = s.heard.look.handed_over
    found = await _heard(here, s, gate, go, engine)
    if handed is None or not isinstance(handed.what, HandedOver):
        last = found.entries[-1] if found.entries else None
        return Note("", last.by, last.time, found.lines) if last and found.lines else None
    return Note(handed.what.note, handed.by, handed.time, found.lines)
