"""A model from its file, checked against its family, its own outline and the way round it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from itertools import pairwise

from pydantic import ValidationError

from jutrel.catalog.documents.models import SHAPES, ModelFile
from jutrel.catalog.files import SourceFile
from jutrel.core.errors import BadInput
from jutrel.core.machine.drawing import plan_drawing
from jutrel.core.machine.family import Family, Level
from jutrel.core.machine.file import limit_problem
from jutrel.core.machine.model import Access, HydraulicTank, Model, RodGroup, walk_of
from jutrel.core.machine.shapes import MachineShape
from jutrel.core.procedure.school import School
from jutrel.core.refusal import refused_field
from jutrel.core.route.ground import CLEARANCE_M, Ground
from jutrel.core.route.plan import Lap, plan_route
from jutrel.core.wording import say

CLIMBED = (Level.DECK, Level.CAB)


def _shape(source: SourceFile, family: Family, given: Mapping[str, object]) -> MachineShape:
    shape, document = SHAPES[family.shape]
    try:
        made: MachineShape = shape(**document.model_validate(given).model_dump())
    except ValidationError as error:
        first = error.errors()[0]
        says = refused_field(first["type"], first.get("ctx", {}), first["msg"])
        raise source.refuse(("shape", *first["loc"]), says) from None
    return made


def _check_parts(source: SourceFile, file: ModelFile, family: Family) -> None:
    """Options, places, limits and moved checkpoints must be the family's."""
    for i, option in enumerate(file.options):
        if option not in {o.id for o in family.options}:
            raise source.refuse(("options", i), "family '{id}' has no option '{option}'", id=family.id, option=option)
    known = {c.id: c for c in family.checkpoints}
    wanted = {c.id for c in family.checkpoints if c.option is None or c.option in file.options}
    for missing in sorted(wanted - set(file.places)):
        raise source.refuse(("places",), "the place of checkpoint '{missing}' is missing", missing=missing)
    for extra in sorted(set(file.places) - set(known)):
        raise source.refuse(("places", extra), "the family has no such checkpoint")
    kinds = {x.id: x for x in family.limits}
    for limit, value in file.limits.items():
        if limit not in kinds:
            raise source.refuse(("limits", limit), "the family has no such limit")
        if says := limit_problem(kinds[limit], value):
            raise source.refuse(("limits", limit), says)
    for missing in sorted({x for c in family.checkpoints if c.id in wanted for x in c.limits} - set(file.limits)):
        raise source.refuse(("limits",), "the limit '{missing}' is missing", missing=missing)
    stations = {s.id for s in family.stations}
    for checkpoint, station in file.moved.items():
        if checkpoint not in known:
            raise source.refuse(("moved", checkpoint), "the family has no such checkpoint")
        if station not in stations:
            raise source.refuse(("moved", checkpoint), "there is no station '{station}'", station=station)


def _check_ground(source: SourceFile, file: ModelFile, family: Family, ground: Ground) -> None:
    """Everywhere one stands must be outside the machine, and everything climbed to must have its steps."""
    stations = {s.id: s for s in family.stations}
    inside = say(
        "nobody can stand there: it is inside the machine's outline, or less than {metres} m from it",
        metres=CLEARANCE_M,
    )
    for station in family.stations:
        if station.id not in file.stations:
            raise source.refuse(("stations",), "the standing place of station '{id}' is missing", id=station.id)
        if station.level not in CLIMBED and not ground.free(file.stations[station.id]):
            raise source.refuse(("stations", station.id), inside)
    for extra in sorted(set(file.stations) - set(stations)):
        raise source.refuse(("stations", extra), "the family has no such station")
    for station_id, at in file.gates.items():
        if station_id not in stations:
            raise source.refuse(("gates", station_id), "the family has no such station")
        if not ground.free(at):
            raise source.refuse(("gates", station_id), inside)
    led: set[str] = set()
    for i, access in enumerate(file.access):
        if not ground.free(access.foot):
            raise source.refuse(("access", i, "foot"), inside)
        if access.checked_by not in {c.id for c in family.checkpoints}:
            raise source.refuse(
                ("access", i, "checked_by"), "there is no checkpoint '{checked_by}'", checked_by=access.checked_by
            )
        for j, station_id in enumerate(access.leads_to):
            if station_id not in stations or stations[station_id].level not in CLIMBED:
                raise source.refuse(
                    ("access", i, "leads_to", j),
                    "'{station_id}' is no station that is climbed to",
                    station_id=station_id,
                )
            led.add(station_id)
    for station in family.stations:
        if station.level in CLIMBED and station.id not in led:
            raise source.refuse(("access",), "no steps lead to station '{id}'", id=station.id)


def _check_schools(source: SourceFile, file: ModelFile, schools: Iterable[School]) -> None:
    """A maker's way of doing it is one that is known: a wrong word would quietly be the usual way."""
    offered = {s.id: [c.id for c in s.choices] for s in schools}
    for school, choice in file.schools.items():
        if school not in offered:
            raise source.refuse(("schools", school), "no school is called '{it}'", it=school)
        if choice not in offered[school]:
            says = "'{it}' is not one of {those}"
            raise source.refuse(("schools", school), says, it=choice, those=", ".join(offered[school]))


def _check_strapping(source: SourceFile, file: ModelFile) -> None:
    """A strapping table begins at nought, rises, and ends with as much as the tank holds."""
    for fluid, lines in file.strapping.items():
        if fluid not in file.reserves:
            raise source.refuse(("strapping", fluid), "no compartment holds '{fluid}'", fluid=fluid)
        if lines[0] != (0, 0):
            raise source.refuse(("strapping", fluid, 0), "the table begins at [0, 0]")
        for i, ((h0, l0), (h1, l1)) in enumerate(pairwise(lines), 1):
            if h1 <= h0 or l1 < l0:
                raise source.refuse(("strapping", fluid, i), "heights rise from line to line, and litres never fall")
        holds = file.limits.get(f"{fluid}-tank")
        if isinstance(holds, (int, float)) and abs(lines[-1][1] - holds) > 0.02 * holds:
            raise source.refuse(("strapping", fluid, len(lines) - 1), "the tank holds {holds} L", holds=holds)


def build_model(source: SourceFile, families: Mapping[str, Family], schools: Iterable[School]) -> Model:
    """A model from a parsed file.

    Raises
    ------
    BadFile
        For the first thing that is wrong, with line and field.
    """
    file = source.parse(ModelFile)
    family = families.get(file.family)
    if family is None:
        raise source.refuse(("family",), "no family is called '{family}'", family=file.family)
    shape = _shape(source, family, file.shape)
    _check_parts(source, file, family)
    _check_schools(source, file, schools)
    _check_strapping(source, file)
    _check_ground(source, file, family, Ground(plan_drawing(shape).obstacles))
    tank = file.tank.model_dump()
    rods = tuple(RodGroup(**r) for r in tank.pop("rods"))
    model = Model(
        file.id,
        file.maker,
        file.name,
        family,
        tuple(file.options),
        shape,
        HydraulicTank(**tank, rods=rods),
        dict(file.reserves),
        dict(file.stations),
        dict(file.places),
        tuple(Access(a.id, a.name, a.foot, tuple(a.leads_to), a.up_s, a.down_s, a.checked_by) for a in file.access),
        dict(file.gates),
        dict(file.moved),
        dict(file.limits),
        dict(file.schools),
        {fluid: tuple(lines) for fluid, lines in file.strapping.items()},
    )
    walk = walk_of(model, frozenset(file.options))
    try:
        route = plan_route(walk, lap=Lap(walk))
    except BadInput as error:
        raise source.refuse(("moved",), "no order of the stations keeps every rule: {it}", it=error.says) from None
    if route.unreached:
        raise source.refuse(("stations", route.unreached[0].station), "no way leads there round the machine")
    return model
