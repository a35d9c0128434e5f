"""A model from its file, checked against its family, its own outline and the way round it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from itertools import pairwise

from jutrel.catalog.build_drawing import ComposedDrawing, Drawings, compose, figures_of
from jutrel.catalog.documents.drawings import PlaceDoc
from jutrel.catalog.documents.models import ModelDoc
from jutrel.catalog.files import BadFile, SourceFile
from jutrel.catalog.misplaced import misplaced
from jutrel.core.errors import BadInput
from jutrel.core.machine.family import Family, Level
from jutrel.core.machine.file import limit_problem
from jutrel.core.machine.model import Access, HydraulicTank, Model, RodGroup, walk_of
from jutrel.core.procedure.school import School
from jutrel.core.route.ground import CLEARANCE_M, Ground
from jutrel.core.route.plan import Lap, plan_route
from jutrel.core.wording import say

CLIMBED = (Level.DECK, Level.CAB)
ASIDE_M = 1.2
"""A station so far from the middle line [m] is one on a side."""
ACROSS_M = 0.4
"""What is no farther across the middle line [m] than this is seen from either side."""


def _drawn(source: SourceFile, file: ModelDoc, family: Family, drawings: Drawings, kept: bool) -> ComposedDrawing:
    """The model's drawing, with a place for each look that it can have; raises BadFile."""
    try:
        figures = figures_of(drawings.files[family.shape], file.shape)
    except BadInput as error:
        at = ("shape", *([error.field] if error.field in file.shape else []))
        raise source.refuse(at, "{it}: {reason}", it=error.field, reason=error.says) from None
    moved: dict[str, PlaceDoc] = {}
    for checkpoint, place in file.places.items():
        if checkpoint not in {c.id for c in family.checkpoints}:
            raise source.refuse(("places", checkpoint), "the family has no such checkpoint")
        if isinstance(place, PlaceDoc):
            moved[checkpoint] = place
        elif not kept:
            raise source.refuse(("places", checkpoint), "say on which part it is, on which side of it, and where there")
    for checkpoint in sorted(set(file.moved) - set(file.places)):
        if not kept:
            raise source.refuse(("moved", checkpoint), "say under places where this model has it")
    wanted = [c.id for c in family.checkpoints if c.option is None or c.option in file.options]
    try:
        drawn = compose(drawings, family.shape, figures, wanted, moved)
    except BadInput as error:
        raise _where(source, file, family, drawings, error) from None
    if not kept and (wrong := misplaced(drawn, drawings.common.heights) or _behind(file, family, drawn)):
        raise _where(source, file, family, drawings, wrong)
    # Of a file from before: what it has elsewhere than its family is where it said, on no part.
    before = {c: p for c, p in file.places.items() if c in file.moved and not isinstance(p, PlaceDoc)}
    parts = {c: part for c, part in drawn.on_part.items() if c not in before}
    return replace(drawn, places={**drawn.places, **before}, on_part=parts)


def _behind(file: ModelDoc, family: Family, drawn: ComposedDrawing) -> BadInput | None:
    """The first place that is on the other side of the machine than the station it is looked at from."""
    stations = {s.id: s for s in family.stations}
    first = family.stations[0].id
    for c in family.checkpoints:
        station = file.moved.get(c.id, c.station)
        if c.id not in drawn.places or station == first or station not in file.stations or station not in stations:
            continue
        y, place = file.stations[station][1], drawn.places[c.id][1]
        if stations[station].level is Level.GROUND and abs(y) > ASIDE_M and place * y < 0 and abs(place) > ACROSS_M:
            return BadInput(c.id, "is on the other side of the machine than station '{station}'", station=station)
    return None


def _where(source: SourceFile, file: ModelDoc, family: Family, drawings: Drawings, error: BadInput) -> BadFile:
    """Where a place is told that cannot be: in the model's file, or in the drawing that ships with it.

    A site's own model cannot change the drawing: there, it is its figures.
    """
    if error.field in file.places:
        return source.refuse(("places", error.field), error.says)
    if source.path.parent.parent != drawings.folder or error.field not in {c.id for c in family.checkpoints}:
        return source.refuse(("shape",), "{it}: {reason}", it=error.field, reason=error.says)
    own = error.field in drawings.files[family.shape].places or error.field not in drawings.common.places
    path = drawings.folder / ("drawings" if own else "") / (f"{family.shape}.yaml" if own else "places.yaml")
    says = "{it}: {reason} (with the figures of {model})"
    return SourceFile(path).refuse(("places", error.field), says, it=error.field, reason=error.says, model=file.id)


def _check_parts(source: SourceFile, file: ModelDoc, family: Family) -> None:
    """Options, places, limits and moved checkpoints must be the family's."""
    for i, option in enumerate(file.options):
        if option not in {o.id for o in family.options}:
            raise source.refuse(("options", i), "family '{id}' has no option '{option}'", id=family.id, option=option)
    known = {c.id: c for c in family.checkpoints}
    wanted = {c.id for c in family.checkpoints if c.option is None or c.option in file.options}
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


def _check_ground(source: SourceFile, file: ModelDoc, family: Family, ground: Ground) -> None:
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


def _check_schools(source: SourceFile, file: ModelDoc, schools: Iterable[School]) -> None:
    """A maker's way of doing it is one that is known: a wrong word would quietly be the usual way."""
    offered = {s.id: [c.id for c in s.choices] for s in schools}
    for school, choice in file.schools.items():
        if school not in offered:
            raise source.refuse(("schools", school), "no school is called '{it}'", it=school)
        if choice not in offered[school]:
            says = "'{it}' is not one of {those}"
            raise source.refuse(("schools", school), says, it=choice, those=", ".join(offered[school]))


def _check_strapping(source: SourceFile, file: ModelDoc) -> None:
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


def build_model(
    source: SourceFile,
    families: Mapping[str, Family],
    schools: Iterable[School],
    drawings: Drawings,
    kept: bool = False,
) -> Model:
    """A model from a parsed file. `kept`: one that a site keeps from before, whose places as figures are passed over.

    Raises
    ------
    BadFile
        For the first thing that is wrong, with line and field.
    """
    file = source.parse(ModelDoc)
    family = families.get(file.family)
    if family is None:
        raise source.refuse(("family",), "no family is called '{family}'", family=file.family)
    _check_parts(source, file, family)
    _check_schools(source, file, schools)
    _check_strapping(source, file)
    drawn = _drawn(source, file, family, drawings, kept)
    _check_ground(source, file, family, Ground(drawn.obstacles))
    tank = file.tank.model_dump()
    rods = tuple(RodGroup(**r) for r in tank.pop("rods"))
    model = Model(
        file.id,
        file.maker,
        file.name,
        family,
        tuple(file.options),
        dict(file.shape),
        HydraulicTank(**tank, rods=rods),
        dict(file.reserves),
        dict(file.stations),
        dict(drawn.places),
        tuple(Access(a.id, a.name, a.foot, tuple(a.leads_to), a.up_s, a.down_s, a.checked_by) for a in file.access),
        dict(file.gates),
        dict(file.moved),
        dict(file.limits),
        dict(file.schools),
        {fluid: tuple(lines) for fluid, lines in file.strapping.items()},
        drawn.parts,
        drawn.obstacles,
        drawn.zones,
        drawn.edges,
        drawn.postures,
        dict(drawn.on_part),
    )
    walk = walk_of(model, frozenset(file.options))
    try:
        route = plan_route(walk, lap=Lap(walk))
    except BadInput as error:
        raise source.refuse(("moved",), "no order of the stations keeps every rule: {it}", it=error.says) from None
    if route.unreached:
        raise source.refuse(("stations", route.unreached[0].station), "no way leads there round the machine")
    return model
