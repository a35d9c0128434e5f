"""What does not change in a run: how its steps are written, and how the machine is drawn; told once, by name."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Iterable

from jutrel.api.machine.figures import limit_out
from jutrel.api.machine.yard import drawing_out
from jutrel.api.procedure.wire import (
    FieldOut,
    RunFixedOut,
    RunStepTextOut,
    SchoolNowOut,
    StepFigureOut,
    ZoneOut,
)
from jutrel.api.wire import PickOut
from jutrel.core.machine.drawing import plan_drawing
from jutrel.core.machine.model import Model
from jutrel.core.procedure.detection import INNER_M, fields_of
from jutrel.core.procedure.school import School
from jutrel.core.procedure.step import Step
from jutrel.core.wording import Said, Wording, spoken
from jutrel.service.context import Here
from jutrel.service.procedure.run import RunOnMachine

DISTANCE = "detection-distance"
"""The figure of a unit at which its person detection stops it [m]."""
MOST_FIXED = 64


def _stops_m(model: Model) -> float:
    found = model.limits.get(DISTANCE)
    return float(found) if isinstance(found, (int, float)) else INNER_M


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


def _written(step: Step, model: Model, wording: Wording) -> RunStepTextOut:
    return RunStepTextOut(
        id=step.id,
        phase=step.phase,
        kind=step.kind,
        role=step.means,
        wait=step.wait,
        name=wording.word("step", step.name),
        does=wording.word("step", step.does),
        why=wording.word("step", step.why),
        no=wording.word("step", step.no) if step.no else "",
        life=step.life,
        unit=step.unit,
        low=step.low,
        high=step.high,
        checkpoint=step.checkpoints[0] if step.modes else "",
        modes=list(step.modes),
        people=step.people,
        engine=step.engine,
        within_s=step.within_s,
        needles=list(step.needles),
        parts=[PickOut(id=p.id, name=wording.word("step", p.name)) for p in step.parts],
        ways=[PickOut(id=p.id, name=wording.word("step", p.name)) for p in step.ways],
        near=step.near,
        nobody=step.nobody,
        figures=_figures(model, step.figures, wording),
        measures=list(step.measures),
    )


class FixedParts:
    """What does not change in the runs of machines that are alike, as bytes with its name."""

    def __init__(self) -> None:
        self._kept: OrderedDict[object, tuple[str, bytes]] = OrderedDict()

    def of(self, r: RunOnMachine, here: Here, wording: Wording) -> tuple[str, bytes]:
        """The name and the JSON of a run's `RunFixedOut`."""
        steps, model = tuple(s.step for s in r.state.steps), r.model
        key = (
            steps, model.id, model.family.id, model.parts, tuple(model.limits.items()), r.unit.options,
            tuple(model.station_places.items()), tuple(sorted(r.schools.items())), wording.language,
            here.catalog.rulebook.version,
        )  # fmt: skip
        if key not in self._kept:
            data = run_fixed(r, here, wording).model_dump_json().encode()
            self._kept[key] = (hashlib.sha256(data).hexdigest()[:20], data)
            if len(self._kept) > MOST_FIXED:
                self._kept.popitem(last=False)
        self._kept.move_to_end(key)
        return self._kept[key]


def run_fixed(r: RunOnMachine, here: Here, wording: Wording) -> RunFixedOut:
    """What does not change in a run."""
    steps = [s.step for s in r.state.steps]
    choices = here.catalog.rulebook.attributes["fluid"].choices
    return RunFixedOut(
        steps=[_written(s, r.model, wording) for s in steps],
        options=sorted(r.unit.options),
        schools=_schools(r, here.catalog.schools, wording),
        fluids={c.id: wording.say(Said(c.label, (), "choice")) for c in choices},
        stations={s.id: wording.word("station", s.name) for s in r.model.family.stations},
        station_places=dict(r.model.station_places),
        drawing=drawing_out(plan_drawing(r.model)),
        detection=[
            FieldOut.model_validate(f)
            for f in fields_of(r.model.edges, frozenset(s.id for s in steps), _stops_m(r.model))
        ],
        zones=[ZoneOut.model_validate(spoken(z, wording)) for z in r.model.zones],
    )
