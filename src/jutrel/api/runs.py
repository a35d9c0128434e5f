"""Routes: a run of a machine from key to key."""

from __future__ import annotations

from collections.abc import Iterable

from fastapi import APIRouter, Request, Response

from jutrel.api.door import PROBLEMS, Who, Work, now, shop_of, token_of
from jutrel.api.figures import limit_out
from jutrel.api.panel import stale_of
from jutrel.api.tongue import Tongue
from jutrel.api.wire import Slug, Uuid7
from jutrel.api.wire_file import locks_out
from jutrel.api.wire_machine import DrawingOut
from jutrel.api.wire_panel import panel_out
from jutrel.api.wire_run import (
    AgainOut,
    BriefingOut,
    FieldOut,
    GateOut,
    GaugeOut,
    HandedOut,
    HoldingOut,
    PointOut,
    RunLineOut,
    RunNoteOut,
    RunOut,
    RunStepOut,
    SchoolNowOut,
    StepFigureOut,
    StepPartOut,
    StepTakenOut,
    WaitOut,
    ZoneOut,
)
from jutrel.api.wire_verdict import JudgementOut
from jutrel.api.yard import drawing_out, machine_out
from jutrel.core.inspection.kinds import HandedOver
from jutrel.core.machine.drawing import parked_drawing, plan_drawing
from jutrel.core.machine.model import Model
from jutrel.core.procedure.detection import INNER_M, fields_of
from jutrel.core.procedure.gauges import GAUGES, gauges_read
from jutrel.core.procedure.greasing import Greased, PointNow
from jutrel.core.procedure.handover import Line
from jutrel.core.procedure.kinds import Colour, Remarked
from jutrel.core.procedure.school import School, as_words
from jutrel.core.procedure.state import Mark, StepNow
from jutrel.core.reading.registry import Reading
from jutrel.core.training import Briefing
from jutrel.core.wording import Said, Wording, spoken
from jutrel.service.context import Here
from jutrel.service.handover import handover_of, printed_handover
from jutrel.service.people import Person, here_and_actor, names_of
from jutrel.service.run import Note, RunOnMachine, machine_run
from jutrel.service.training import briefing_of

DISTANCE = "detection-distance"
"""The figure of a unit at which its person detection stops it [m]."""
router = APIRouter(prefix="/api/machines", tags=["run"], responses=PROBLEMS)


def _lines(lines: tuple[Line, ...], wording: Wording) -> list[RunLineOut]:
    return [RunLineOut(says=wording.say(x.says).strip(), entry=x.entry, urgent=x.urgent) for x in lines]


def _wait(reading: Reading, wording: Wording) -> WaitOut:
    return WaitOut(
        minutes=reading.value, judgement=JudgementOut.model_validate(spoken(reading.judgement, wording))
    )  # fmt: skip


def _note(note: Note | None, names: dict[str, str], wording: Wording) -> RunNoteOut | None:
    if note is None:
        return None
    return RunNoteOut(text=note.text, by=names.get(note.by, note.by), at=note.at, lines=_lines(note.lines, wording))


def _stops_m(model: Model) -> float:
    found = model.limits.get(DISTANCE)
    return float(found) if isinstance(found, (int, float)) else INNER_M


def _handed(r: RunOnMachine, names: dict[str, str]) -> HandedOut | None:
    for e in reversed(r.entries):
        if isinstance(e.what, HandedOver):
            return HandedOut(text=e.what.note, by=names.get(e.by, e.by), at=e.time)
    return None


def _point(p: PointNow, r: RunOnMachine, names: dict[str, str], wording: Wording) -> PointOut:
    said = p.said
    what = said.what if said is not None and isinstance(said.what, Greased) else None
    place = r.model.places.get(p.point.at)
    return PointOut(
        id=p.point.id,
        name=wording.word("grease", p.point.name),
        checkpoint=p.point.at,
        at=place and (place[0], place[1]),
        fittings=p.point.fittings,
        strokes=p.point.strokes,
        every_h=p.point.every_h,
        due=p.due,
        last=p.last,
        took=what.took if what else None,
        strokes_given=what.strokes if what else 0,
        note=what.note if what else "",
        by=names.get(said.by, said.by) if said else "",
        heads=[said.id] if said else [],
    )


def _schools(r: RunOnMachine, schools: Iterable[School], wording: Wording) -> list[SchoolNowOut]:
    """What is in force and is about this machine."""
    return [
        SchoolNowOut(
            id=s.id,
            asks=wording.word("school", s.asks),
            choice=r.schools[s.id],
            name=wording.word("school", s.choice(r.schools[s.id]).name),
        )
        for s in schools
        if s.id in r.schools and (not s.families or r.model.family.id in s.families)
    ]


def _figures(model: Model, named: Iterable[str], wording: Wording) -> list[StepFigureOut]:
    kinds = {x.id: x for x in model.family.limits}
    out = []
    for key in named:
        told = limit_out(kinds[key], model.limits.get(key, ""), False, wording)
        out.append(StepFigureOut(name=told.name, value=told.value if key in model.limits else None, unit=told.unit))
    return out


def _step(r: RunOnMachine, s: StepNow, watched: bool, names: dict[str, str], wording: Wording) -> RunStepOut:
    step = s.step
    return RunStepOut(
        id=step.id,
        phase=step.phase,
        kind=step.kind,
        name=wording.word("step", step.name),
        does=wording.word("step", step.does),
        why=wording.word("step", step.why),
        no=wording.word("step", step.no) if step.no else "",
        life=step.life,
        mark=s.mark,
        says=wording.say(s.says),
        settled=s.settled,
        watched=watched,
        ready_at=s.ready_at,
        heads=list(s.heads),
        value=s.value,
        unit=step.unit,
        low=step.low,
        high=step.high,
        by=names.get(s.by, s.by),
        at=s.at,
        reason=s.reason,
        checkpoint=step.checkpoints[0] if step.modes else "",
        modes=list(step.modes),
        people=step.people,
        engine=step.engine,
        within_s=step.within_s,
        needles=list(step.needles),
        parts=[StepPartOut(id=p.id, name=wording.word("step", p.name)) for p in step.parts],
        ways=[StepPartOut(id=p.id, name=wording.word("step", p.name)) for p in step.ways],
        near=step.near,
        nobody=step.nobody,
        figures=_figures(r.model, step.figures, wording),
        measures=list(step.measures),
        taken=[
            StepTakenOut(
                entry=m.entry,
                reading=m.reading,
                value=m.value,
                unit=m.unit,
                says=wording.say(m.action),
                fails=m.fails,
                at=m.at,
            )
            for m in r.measured
            if m.tries(step)
        ],
        points=[_point(p, r, names, wording) for p in r.points.get(step.id, ())],
        measured=s.mark in (Mark.DONE, Mark.VOID) and not s.heads,
    )


def run_out(
    r: RunOnMachine,
    who: Person,
    told: Briefing,
    names: dict[str, str],
    fluids: dict[str, str],
    here: Here,
    wording: Wording,
) -> RunOut:
    """A run as the client sees it."""
    state = r.state
    watched = {s.step.id for s in r.watched}
    locks = locks_out(r.unit, who, names)
    holding = [
        HoldingOut(
            name=wording.word("checkpoint", h.name),
            entries=list(h.entries),
            yours=who.role in h.by,
            moved=h.moved,
            cures=sorted(h.cures),
        )
        for h in r.unit.standing.holding
    ]
    until = {"valid_until": r.gate.until, "valid_until_hour": r.gate.until_hour} if r.gate.may else {}
    return RunOut(
        machine=machine_out(r.unit, r.model, wording),
        run=r.look,
        now=here.now,
        stand=state.stand,
        says=wording.say(state.says),
        missing=[wording.say(m) for m in state.missing],
        ready_to_start=state.ready_to_start and r.mine,
        ready_to_work=state.ready_to_work and r.mine,
        may_crank=state.may_crank and r.mine,
        engine=state.engine,
        engine_since=state.engine_since,
        engine_heads=list(state.engine_heads),
        started_at=state.started_at,
        due_at=state.due_at,
        tries=state.tries,
        needs_cause=state.needs_cause,
        panel=panel_out(r.unit.id, r.panel, wording) if r.panel else None,
        gate=GateOut.model_validate(
            {**spoken(r.gate, wording), "go": r.go, "locks": locks, "holding": holding, **until}
        ),
        options=sorted(r.unit.options),
        steps=[_step(r, s, s.step.id in watched, names, wording) for s in state.steps],
        warm_up=_wait(r.warm, wording),
        cool_down=_wait(r.cool, wording) if r.cool else None,
        lines=_lines(r.lines, wording),
        red=any(isinstance(e.what, Remarked) and e.what.colour == "red" for e in r.entries)
        or any(t.colour is Colour.RED for t in r.told),
        handed=_handed(r, names),
        before=_note(r.before, names, wording),
        gauges=_gauges(r, wording),
        counted=[wording.say(x) for x in r.counted.says] if r.counted else [],
        again=[AgainOut(says=wording.say(a.says).strip(), station=a.station) for a in r.again],
        briefing=BriefingOut(says=wording.say(told.says), offer=told.offer),
        schools=_schools(r, here.catalog.schools, wording),
        fluids=fluids,
        stations={s.id: wording.word("station", s.name) for s in r.model.family.stations},
        station_places=dict(r.model.station_places),
        drawing=drawing_out(plan_drawing(r.model)),
        detection=[
            FieldOut(step=f.step, part=f.part, outline=list(f.outline))
            for f in fields_of(r.model.edges, frozenset(s.step.id for s in state.steps), _stops_m(r.model))
        ],
        zones=[ZoneOut(id=z.id, name=wording.word("zone", z.name), outline=list(z.outline)) for z in r.model.zones],
    )


def _gauges(r: RunOnMachine, wording: Wording) -> list[GaugeOut]:
    read = {g.key: g for g in gauges_read(r.entries)}
    out = []
    for key, name in GAUGES.items():
        last = read.get(key)
        out.append(
            GaugeOut(
                key=key, name=wording.say(name), colour=last.colour if last else None, at=last.at if last else None
            )
        )
    return out


@router.get("/{machine}/run")
async def get_run(
    request: Request, here: Work, who: Who, wording: Tongue, machine: Slug, run: Uuid7 | None = None
) -> RunOut:
    """The run named, else the one under way, else the one that could begin now."""
    found = await machine_run(here, machine, run, stale_of(request), who.person.id)
    choices = here.catalog.rulebook.attributes["fluid"].choices
    fluids = {c.id: wording.say(Said(c.label, (), "choice")) for c in choices}
    told = await briefing_of(here, who.person.id, found.model.id, found.look)
    return run_out(found, who.person, told, await names_of(here), fluids, here, wording)


@router.get("/{machine}/run/{run}/parked")
async def get_parked(request: Request, here: Work, who: Who, machine: Slug, run: Uuid7) -> DrawingOut:
    """How the machine of a run is parked, from its left side: as the site or the maker wants it."""
    found = await machine_run(here, machine, run, stale_of(request))
    return drawing_out(parked_drawing(found.model, as_words(found.schools)))


@router.get(
    "/{machine}/run/{run}/hand-over.pdf",
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}}}},
)
async def get_hand_over(request: Request, wording: Tongue, machine: Slug, run: Uuid7) -> Response:
    """What a run leaves for the next operator and the mechanic, on paper, A4."""
    shop = shop_of(request)
    async with shop.store.transaction() as db:
        here, _ = await here_and_actor(db, shop.books, token_of(request), now())
        paper = await handover_of(here, machine, run, stale_of(request), wording)
    data = await shop.aside.run(printed_handover, paper)
    headers = {"Content-Disposition": f'inline; filename="{machine}-{run[:13]}-hand-over.pdf"'}
    return Response(data, media_type="application/pdf", headers=headers)
