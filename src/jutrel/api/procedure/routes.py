"""Routes: a run of a machine from key to key."""

from __future__ import annotations

from fastapi import APIRouter, Query, Request, Response

from jutrel.api.cookies import token_of
from jutrel.api.door import PROBLEMS, Who, Work, now, shop_of
from jutrel.api.inspection.wire_verdict import JudgementOut
from jutrel.api.language import Tongue
from jutrel.api.machine.wire import DrawingOut
from jutrel.api.machine.wire_file import locks_out
from jutrel.api.machine.yard import drawing_out, machine_out
from jutrel.api.panel.routes import stale_of
from jutrel.api.panel.wire import panel_out
from jutrel.api.procedure.run_fixed import FixedParts
from jutrel.api.procedure.wire import (
    AgainOut,
    BriefingOut,
    GateOut,
    GaugeOut,
    HandedOut,
    HoldingOut,
    PointOut,
    RunLineOut,
    RunNoteOut,
    RunOut,
    RunStepOut,
    StepTakenOut,
    WaitOut,
)
from jutrel.api.wire import NO_NUL, Slug, Uuid7
from jutrel.core.inspection.kinds import HandedOver
from jutrel.core.log.codec import encode
from jutrel.core.machine.drawing import parked_drawing
from jutrel.core.procedure.gauges import GAUGES, gauges_read
from jutrel.core.procedure.greasing import Greased, PointNow
from jutrel.core.procedure.handover import HandoverLine
from jutrel.core.procedure.kinds import Colour, Remarked
from jutrel.core.procedure.school import as_words
from jutrel.core.procedure.state import Mark, StepNow
from jutrel.core.reading.registry import Reading
from jutrel.core.training import Briefing
from jutrel.core.wording import Wording, spoken
from jutrel.service.context import Here
from jutrel.service.people.people import Person, here_and_actor, names_of
from jutrel.service.people.training import briefing_of
from jutrel.service.procedure.handover import handover_of, printed_handover
from jutrel.service.procedure.run import Note, RunOnMachine, machine_run

JSON = "application/json"
router = APIRouter(prefix="/api/machines", tags=["run"], responses=PROBLEMS)


def _lines(lines: tuple[HandoverLine, ...], wording: Wording) -> list[RunLineOut]:
    return [RunLineOut.model_validate({**encode(x), "says": wording.say(x.says).strip()}) for x in lines]


def _wait(reading: Reading, wording: Wording) -> WaitOut:
    return WaitOut(
        minutes=reading.value, judgement=JudgementOut.model_validate(spoken(reading.judgement, wording))
    )  # fmt: skip


def _note(note: Note | None, names: dict[str, str], wording: Wording) -> RunNoteOut | None:
    if note is None:
        return None
    return RunNoteOut(text=note.text, by=names.get(note.by, note.by), at=note.at, lines=_lines(note.lines, wording))


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


def _step(r: RunOnMachine, s: StepNow, watched: bool, names: dict[str, str], wording: Wording) -> RunStepOut:
    return RunStepOut(
        id=s.step.id,
        mark=s.mark,
        says=wording.say(s.says),
        settled=s.settled,
        watched=watched,
        ready_at=s.ready_at,
        heads=list(s.heads),
        value=s.value,
        by=names.get(s.by, s.by),
        at=s.at,
        reason=s.reason,
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
            if m.tries(s.step)
        ],
        points=[_point(p, r, names, wording) for p in r.points.get(s.step.id, ())],
        measured=s.mark in (Mark.DONE, Mark.VOID) and not s.heads,
    )


def run_out(
    r: RunOnMachine,
    who: Person,
    told: Briefing,
    names: dict[str, str],
    here: Here,
    wording: Wording,
    fixed_name: str,
) -> RunOut:
    """A run as the client sees it, without what does not change."""
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
        again=[AgainOut.model_validate({**encode(a), "says": wording.say(a.says).strip()}) for a in r.again],
        briefing=BriefingOut.model_validate(spoken(told, wording)),
        fixed_name=fixed_name,
    )


def _gauges(r: RunOnMachine, wording: Wording) -> list[GaugeOut]:
    read = {g.key: g for g in gauges_read(r.entries)}
    out = []
    for key, name in GAUGES.items():
        last = read.get(key)
        seen = {"colour": last.colour if last else None, "at": last.at if last else None}
        out.append(GaugeOut.model_validate({"key": key, "name": wording.say(name), **seen}))
    return out


@router.get("/{machine}/run", response_model=RunOut)
async def get_run(
    request: Request,
    here: Work,
    who: Who,
    wording: Tongue,
    machine: Slug,
    run: Uuid7 | None = None,
    known: str = Query(
        default="", pattern=NO_NUL, max_length=40, description="The name of the fixed part that the client has."
    ),
) -> Response:
    """The run named, else the one under way, else the one that could begin now."""
    found = await machine_run(here, machine, run, stale_of(request), who.person.id)
    told = await briefing_of(here, who.person.id, found.model.id, found.look)
    name, fixed = here.books.one(FixedParts).of(found, here, wording)
    now_ = run_out(found, who.person, told, await names_of(here), here, wording, name)
    made = now_.model_dump_json(exclude={"fixed"}).encode()
    return Response(made[:-1] + b',"fixed":' + (b"null" if known == name else fixed) + b"}", media_type=JSON)


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
