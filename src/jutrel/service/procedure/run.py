"""A run from key to key as it stands: its steps, what is missing, what the machine's last inspection allows."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta

from jutrel.catalog.compile import steps_of
from jutrel.core.clearance.answer import Clearance
from jutrel.core.clearance.go import Go, go_of
from jutrel.core.inspection.finding import Conditions
from jutrel.core.inspection.kinds import HandedOver, Opened, Undone
from jutrel.core.inspection.look import LAPSES_AFTER
from jutrel.core.inspection.occasion import answers_given
from jutrel.core.log.entry import Entry
from jutrel.core.machine.incident import happened_said
from jutrel.core.machine.limits import name_of
from jutrel.core.machine.model import Model
from jutrel.core.machine.state import LookSummary
from jutrel.core.machine.unit import Unit
from jutrel.core.panel.told import PanelWord
from jutrel.core.procedure.again import Again, look_again
from jutrel.core.procedure.counted import Counted, counted
from jutrel.core.procedure.engine import UNEXPLAINED, EngineLine
from jutrel.core.procedure.greasing import PointNow, last_greased
from jutrel.core.procedure.handover import HandoverLine, handover_lines
from jutrel.core.procedure.kinds import RUN, Colour, Engine, EngineNow, Remarked
from jutrel.core.procedure.measured import RunMeasurement, measured_in
from jutrel.core.procedure.school import COOL_DOWN, as_words, in_force
from jutrel.core.procedure.state import Gate, Run, RunState, Stand, StepNow
from jutrel.core.procedure.step import StepRole, having_role, steps_for
from jutrel.core.procedure.times import cool_down_for, ran_before, started_at, stopped_before, waits_of, warm_up_for
from jutrel.core.reading.registry import Reading
from jutrel.core.wording import NOTHING, Said, say
from jutrel.service.clearance.clearance import clears
from jutrel.service.context import Here
from jutrel.service.inspection.look import LookStanding, open_defects, standing
from jutrel.service.machine.find import unit_of
from jutrel.service.machine.models import unit_model
from jutrel.service.panel.panel import Bus, PanelNow, bus_of, red_told
from jutrel.service.problem import NotFound
from jutrel.service.site.schools import schools_of
from jutrel.store.queries import log as log_store
from jutrel.store.queries import panel as panel_store
from jutrel.store.queries import projections as rows

OVER = (Stand.SECURED, Stand.ENDED)
STALE = timedelta(seconds=5)
ENGINE_KINDS, MOST_WORDS, MOST_GREASED = ("engine", "remarked", "undone"), 300, 1000
"""A machine's words about its engine, and about its grease, over all runs: the newest of them."""
LONGEST_RUN = timedelta(hours=16)
"""After so long a run takes no new start; common practice: function tests are of the shift."""
NO_BUS = Bus(None, ())
LEVEL, TANK = "fuel-level", "fuel-tank"
"""The signal of the fuel level [%], and the figure of a model that says how much the tank holds [L]."""


@dataclass(frozen=True, slots=True)
class Note:
    """What somebody left for whoever comes next."""

    text: str
    by: str
    at: datetime
    lines: tuple[HandoverLine, ...]


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
    lines: tuple[HandoverLine, ...]
    before: Note | None
    """What the run before this one left."""
    go: Go
    cleared: LookSummary | None = None
    """The inspection that lets it work; it says until when."""
    panel: PanelNow | None = None
    told: tuple[PanelWord, ...] = ()
    """What the machine told over its bus during the run."""
    measured: tuple[RunMeasurement, ...] = ()
    """What was measured for its tests."""
    owes: Said = NOTHING
    """That it was stopped for something bad and nobody wrote down what was found."""
    schools: Mapping[str, str] = field(default_factory=dict)
    """How it is done here what good hands do differently."""
    points: Mapping[str, tuple[PointNow, ...]] = field(default_factory=dict)
    """By step: what it greases, point by point."""
    again: tuple[Again, ...] = ()
    """After a stop: what to look at before it works on."""
    counted: Counted | None = None
    """What the run used up so far."""
    mine: bool = True
    """Whether it is cleared for whoever asks, where somebody else runs it."""


def gate_by(found: Clearance) -> Gate:
    """What a clearance means for the engine: may it be cranked, is it to be stopped, may it work."""
    start, ended = found.start, found.start.ended
    held = start.held or ended is not None
    why = found.why
    if ended is not None and not start.held:
        why = say("Stop it: {why}", why=ended.says)
    name, right = name_of(found.limits), found.put_right
    cure = next((p.says for p in right.premises if p.key == "named"), NOTHING)
    if cure and not start.may:
        if right.may:
            return Gate(True, False, why, found.limits, name, why, right.until, None, cure, found.moved)
        # Its hour is over with something in the air, perhaps: it is put down, and then the engine is stopped.
        if [x.key for x in right.lacks] == ["hour-over"] and found.lately_over:
            return Gate(
                False, False, right.why, found.limits, name, right.why, None, None, cure, found.moved, right.why
            )
    no_work = NOTHING if start.lacks else found.work.why
    no_cure = right.why if cure else NOTHING
    return Gate(
        start.may, held, why, found.limits, name, no_work, start.until, start.until_hour, NOTHING, False, no_cure
    )


def driver_of(entries: Sequence[Entry]) -> str:
    """Who runs a machine in a run: who said last that they crank or that it runs; before that, who began the run."""
    turns = [e for e in entries if isinstance(e.what, Engine) and e.what.state is not EngineNow.STOPPED]
    newest = max(turns, key=lambda e: e.seq, default=None)
    return newest.by if newest is not None else entries[0].by if entries else ""


def still_running(words: Sequence[Entry], stream: str, own: Sequence[Entry]) -> Entry | None:
    """The last word of another run about the engine, if that left it running; None: it stands, or nobody ever said.

    Nobody who begins a run finds an engine "stopped" that nobody stopped: they look, and say so.
    """
    gone = {e.what.target for e in words if isinstance(e.what, Undone)}
    first = min((e.seq for e in own), default=None)
    said = [e for e in words if isinstance(e.what, Engine) and e.stream != stream and e.id not in gone]
    before = [e for e in said if first is None or e.seq < first]
    last = max(before, key=lambda e: e.seq, default=None)
    runs = last is not None and isinstance(last.what, Engine) and last.what.state is not EngineNow.STOPPED
    return last if runs else None


def gone_by(gate: Gate, over: bool, followed: bool) -> Gate:
    """The gate of a run that is over: its function tests were of another day, so nobody starts the machine in it.

    `followed`: another run has begun since; an engine that turns belongs to that one.
    """
    if not over or gate.held:
        return gate
    why = say("This run is over: begin a new one.")
    if followed:
        why = say("Another run of this machine was begun after this one: go on in that one.")
    if not gate.may:
        why = gate.why
    return replace(gate, may=False, held=followed, why=why)


async def machine_run(
    here: Here, machine: str, look: str | None = None, stale: timedelta = STALE, asks: str = ""
) -> RunOnMachine:  # fmt: skip
    """The run of a unit: the one named, else the one under way, else the one that could begin now.

    `stale`: what its bus told longer ago than this is unknown. `asks`: who would begin it, of one that has not begun.

    Raises
    ------
    NotFound
        If there is no such unit, or no such run.
    """
    unit = await unit_of(here, machine)
    runs = await rows.looks_of(here.db, here.site.id, machine, 2, kind=RUN)
    may = await clears(here, unit)
    gate, go = gate_by(may.whoever(asks)), go_of(may.whoever())
    cleared = may.machine.looks.cleared
    engine = await log_store.latest_of_kinds(here.db, here.site.id, machine, ENGINE_KINDS, MOST_WORDS)
    newest = runs[0][1].id if runs else None
    if look is not None or newest is not None:
        named = await standing(here, look or newest or "")
        if named.unit.id != machine or named.heard.look.opened.purpose != RUN:
            raise NotFound("no-run", "There is no such run of this machine.")
        later = next((k.begun_at for _, k in runs if k.id > named.id), None)
        since = named.entries[0].time if named.entries else here.now
        bus = await bus_of(here, unit, since, stale, later)
        earlier = next((k for _, k in runs if k.id < named.id), None)
        before, owed = await _left(here, unit, earlier, since, gate, go, engine)
        over = later is not None or named.heard.look.handed_over is not None or here.now - since > LONGEST_RUN
        driver = driver_of(named.entries) or asks
        own = gone_by(gate_by(may.whoever(driver)), over, later is not None)
        found = await _heard(here, named, own, go, engine, bus, owed, later)
        if asks and asks != driver:
            found = replace(found, gate=gone_by(gate, over, later is not None), mine=gate.may)
        # One that is named may have been begun since the list was read: it is told as it is.
        if look is not None:
            return replace(found, before=before, cleared=cleared)
        lapsed = found.state.stand is Stand.PREPARING and here.now - runs[0][1].begun_at > LAPSES_AFTER
        if not (found.state.stand in OVER or lapsed):
            return replace(found, before=before, cleared=cleared)
    model = await unit_model(here, unit)
    schools = await schools_of(here, model)
    steps = steps_for(steps_of(here.catalog, model), unit.options, (), as_words(schools))
    warm = warm_up_for(Conditions().air_c, stopped_before(engine, here.now), here.now, ran_before(engine, here.now))
    bus = await bus_of(here, unit, here.now, stale)
    before, owed = await _left(here, unit, runs[0][1] if runs else None, here.now, gate, go, engine)
    run = Run(steps, (), gate, waits_of(warm, None), bus.told, owed=owed, left=still_running(engine, "", ()))
    state = run.at(here.now)
    fresh = RunOnMachine(unit, model, None, (), state, gate, _watched(run, state, here.now), warm, None, (), None, go)
    return replace(fresh, before=before, cleared=cleared, panel=bus.now, schools=schools)


def _watched(run: Run, state: RunState, now: datetime) -> tuple[StepNow, ...]:
    return tuple(run.watched(now)) if state.engine is not EngineNow.STOPPED else ()


async def _heard(
    here: Here,
    s: LookStanding,
    gate: Gate,
    go: Go,
    engine: Sequence[Entry],
    bus: Bus = NO_BUS,
    owed: Said = NOTHING,
    until: datetime | None = None,
) -> RunOnMachine:
    """A run from its entries, by the procedure that it is bound to. `until`: when another run followed it."""
    heard = s.heard
    opened = heard.look.opened
    answers = answers_given(opened.conditions, heard.case.edition.questions)
    entries = [e for e in s.entries if heard.court.alive(e)]
    # What it began with; what began before there were schools goes by what is usual.
    schools = in_force(here.catalog.schools, {}, heard.look.pins.schools)
    # What its file says it has: what a device knew of it takes no step out.
    steps = steps_for(heard.case.edition.steps, heard.look.pins.options, answers, as_words(schools))
    begun = next((e.time for e in entries), here.now)
    start = started_at(entries, here.now)
    warm = warm_up_for(opened.conditions.air_c, stopped_before(engine, start), start, ran_before(engine, start))
    always = next((x.choice(schools[x.id]).minutes for x in here.catalog.schools if x.id == COOL_DOWN), None)
    cool = cool_down_for(entries, always, having_role(steps, StepRole.LAST_WORK))
    waits = waits_of(warm, cool)
    # A run that was finished with its last word is finished: what the machine does later belongs to the next.
    ends = max((e.time for e in entries), default=here.now)
    measured = measured_in(entries, s.walk)
    greased = await _greased_before(here, s, begun)
    hours = s.unit.hours if heard.case.hours is None else heard.case.hours
    early = [t for t in bus.told if t.at <= ends]
    left_running = None if until is not None else still_running(engine, s.id, entries)
    run = Run(steps, entries, gate, waits, early, measured, greased, hours, owed, left_running)
    # A clock that was put back takes no running engine for one that stands.
    now = max([here.now, *(e.time for e in entries)])
    state = run.at(now)
    if state.stand not in OVER and len(early) < len(bus.told):
        run = replace(run, told=bus.told)
        state = run.at(now)
    fluids = {c.id: Said(c.label, (), "choice") for c in here.catalog.rulebook.attributes["fluid"].choices}
    lines = tuple(handover_lines(state, entries, s.walk.model, fluids, run.told, measured))
    happened = s.unit.standing.incidents
    told = {h.id: h for h in (*happened.waiting, happened.newest)} if happened else {}
    during = [h for h in told.values() if begun <= h.at < (until or here.now)]
    lines = (*(HandoverLine(happened_said(h.what), h.id, True) for h in during), *lines)
    again: tuple[Again, ...] = ()
    if state.started_at is not None and state.stand in (Stand.STOPPED, Stand.PREPARING):
        changed = heard.look.pins.changed
        again = look_again(await open_defects(here, s.unit), entries, changed, s.walk.model, here.catalog.rulebook)
    return RunOnMachine(
        s.unit, s.walk.model, s.id, tuple(entries), state, gate, _watched(run, state, here.now), warm, cool, lines,
        None, go, None, bus.now, tuple(run.told), measured, run.unexplained(here.now), schools,
        _points(run, state, here.now), again, await _counted(here, s, run, state, bus, until),
    )  # fmt: skip


def _points(run: Run, state: RunState, now: datetime) -> dict[str, tuple[PointNow, ...]]:
    return {s.step.id: run.points(s.step, now) for s in state.steps if s.step.points}


async def _counted(here: Here, s: LookStanding, run: Run, state: RunState, bus: Bus, later: datetime | None) -> Counted:
    """What a run used up: until its last word, another run, or its longest time, where nobody ended it."""
    entries = run.entries
    begun, until = (entries[0].time, entries[-1].time) if entries else (here.now, here.now)
    if state.stand not in OVER:
        until = min(here.now, later or here.now, begun + LONGEST_RUN)
    opening = s.heard.look.opening
    meter = opening.what.hour_meter if opening and isinstance(opening.what, Opened) else None
    levels = None
    if bus.now is not None and state.stand not in OVER and not bus.now.doubt:
        first = await panel_store.first_value(here.db, here.site.id, s.unit.id, LEVEL, begun, until)
        last = bus.now.shown.values.get(LEVEL)
        levels = (first, float(last)) if first is not None and isinstance(last, float) else None
    tank, reads = s.walk.model.limits.get(TANK), having_role(run.steps, StepRole.METER)
    holds = tank if isinstance(tank, (int, float)) else None
    return counted(entries, run.line, begun, until, meter, levels, holds, reads)


async def _greased_before(here: Here, s: LookStanding, begun: datetime) -> dict[str, float]:
    """At how many hours each point was greased before this run; what was taken back was not."""
    kinds = ("greased", "undone")
    words = await log_store.latest_of_kinds(here.db, here.site.id, s.unit.id, kinds, MOST_GREASED)
    gone = {e.what.target for e in words if isinstance(e.what, Undone)}
    return last_greased(e for e in words if e.id not in gone and e.time < begun)


async def _left(
    here: Here, unit: Unit, look: LookSummary | None, until: datetime, gate: Gate, go: Go, engine: Sequence[Entry]
) -> tuple[Note | None, Said]:
    """What a run left for the next: a note, and what nobody wrote down that has to be before it is started again."""
    if look is None:
        return None, NOTHING
    s = await standing(here, look.id)
    bus = await bus_of(here, unit, look.begun_at, STALE, until)
    found = await _heard(here, s, gate, go, engine, bus, until=until)
    owed = found.owes or await _red_before(here, unit, until, engine)
    lines = (*found.lines, *(HandoverLine(says, "") for says in (found.counted.says if found.counted else ())))
    handed = s.heard.look.handed_over
    if handed is not None and isinstance(handed.what, HandedOver):
        return Note(handed.what.note, handed.by, handed.time, lines), owed
    last = found.entries[-1] if found.entries else None
    return Note("", last.by, last.time, lines) if last and found.lines else None, owed


async def _red_before(here: Here, unit: Unit, until: datetime, words: Sequence[Entry]) -> Said:
    """That red was stopped for in whichever run, and nobody wrote down since what was found; empty if not."""
    gone = {e.what.target for e in words if isinstance(e.what, Undone)}
    standing_ = [e for e in words if e.id not in gone and e.time < until]
    reds = [e.time for e in standing_ if isinstance(e.what, Remarked) and e.what.colour is Colour.RED]
    if (told := await red_told(here, unit, until)) is not None:
        reds.append(told)
    line = EngineLine([e for e in standing_ if isinstance(e.what, Engine)])
    return UNEXPLAINED if reds and not line.cause_since(max(reds), until) else NOTHING
