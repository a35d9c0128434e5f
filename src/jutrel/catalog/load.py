"""Loading the whole catalog: systems, families, models and the rulebook."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from jutrel.catalog.documents import CheckpointDoc, FamilyFile, ModelFile, StationDoc, SystemsFile
from jutrel.catalog.files import Loc, SourceFile
from jutrel.catalog.rulebook import load_rulebook
from jutrel.core.grading.rulebook import Rulebook
from jutrel.core.inspection.route import inside
from jutrel.core.machine.drawing import plan_drawing
from jutrel.core.machine.family import Checkpoint, Family, Level, Option, Station, System
from jutrel.core.machine.model import ExcavatorShape, HydraulicTank, Model, RodGroup

FOLDER = Path(__file__).parent


@dataclass(frozen=True, slots=True)
class Catalog:
    """Everything the catalog folder says, checked and cross-checked."""

    families: Mapping[str, Family]
    models: Mapping[str, Model]
    rulebook: Rulebook


def _checkpoint(doc: CheckpointDoc, station: str, systems: Mapping[str, System]) -> Checkpoint:
    return Checkpoint(
        id=doc.id,
        name=doc.name,
        station=station,
        system=systems[doc.system],
        look=doc.look,
        why=doc.why,
        how=doc.how,
        how_kind=doc.how_kind,
        engine=doc.engine,
        posture=doc.posture,
        mandatory=doc.mandatory,
        seconds=doc.seconds,
        failure_modes=tuple(doc.modes),
        option=doc.option,
        cautions=tuple(doc.cautions),
        energy=tuple(doc.energy),
        fluid=doc.fluid,
        near_heat=doc.near_heat,
        backup_set=doc.backup_set,
        reading=doc.reading,
        also=tuple(doc.also),
    )


def _mirrored(doc: CheckpointDoc) -> CheckpointDoc:
    """The same checkpoint on the other side of the machine."""
    return doc.model_copy(update={"id": doc.id.replace("left", "right"), "name": doc.name.replace("left", "right")})


def _check(
    source: SourceFile,
    loc: Loc,
    doc: CheckpointDoc,
    systems: Mapping[str, System],
    options: set[str],
    rulebook: Rulebook,
) -> None:
    if doc.system not in systems:
        raise source.refuse((*loc, "system"), f"no system is called '{doc.system}'")
    if doc.option is not None and doc.option not in options:
        raise source.refuse((*loc, "option"), f"this family has no option '{doc.option}'")
    for i, mode in enumerate(doc.modes):
        if mode not in rulebook.modes:
            raise source.refuse((*loc, "modes", i), f"no failure mode is called '{mode}'")
    for i, energy in enumerate(doc.energy):
        if energy not in rulebook.safe_repair:
            raise source.refuse((*loc, "energy", i), f"there is no safe-repair note for '{energy}'")
    fluids = {c.id for c in rulebook.attributes["fluid"].choices}
    if doc.fluid is not None and doc.fluid not in fluids:
        raise source.refuse((*loc, "fluid"), f"no fluid is called '{doc.fluid}'")


def load_family(path: Path, systems: Mapping[str, System], rulebook: Rulebook) -> Family:
    """A family from its file; raises BadFile."""
    source = SourceFile(path)
    file = source.parse(FamilyFile)
    options = {o.id for o in file.options}
    by_id: dict[str, StationDoc] = {}
    checkpoints: dict[str, Checkpoint] = {}
    for i, station in enumerate(file.stations):
        docs = station.checkpoints
        if station.mirror_of is not None:
            if station.mirror_of not in by_id:
                raise source.refuse(("stations", i, "mirror_of"), f"no earlier station '{station.mirror_of}'")
            docs = [_mirrored(d) for d in by_id[station.mirror_of].checkpoints]
        for j, doc in enumerate(docs):
            loc: Loc = ("stations", i, "checkpoints", j)
            _check(source, loc, doc, systems, options, rulebook)
            if doc.id in checkpoints:
                raise source.refuse((*loc, "id"), f"checkpoint '{doc.id}' is there twice")
            checkpoints[doc.id] = _checkpoint(doc, station.id, systems)
        by_id[station.id] = station
    return Family(
        file.id,
        file.name,
        tuple(Option(o.id, o.name) for o in file.options),
        tuple(Station(s.id, s.name, s.level, s.stance) for s in file.stations),
        tuple(checkpoints.values()),
    )


def load_model(path: Path, families: Mapping[str, Family]) -> Model:
    """A model from its file, checked against its family and its own outline; raises BadFile."""
    source = SourceFile(path)
    file = source.parse(ModelFile)
    family = families.get(file.family)
    if family is None:
        raise source.refuse(("family",), f"no family is called '{file.family}'")
    for i, option in enumerate(file.options):
        if option not in {o.id for o in family.options}:
            raise source.refuse(("options", i), f"family '{family.id}' has no option '{option}'")
    wanted = {c.id for c in family.checkpoints if c.option is None or c.option in file.options}
    for missing in sorted(wanted - set(file.places)):
        raise source.refuse(("places",), f"the place of checkpoint '{missing}' is missing")
    for extra in sorted(set(file.places) - {c.id for c in family.checkpoints}):
        raise source.refuse(("places", extra), "the family has no such checkpoint")
    shape = ExcavatorShape(**file.shape.model_dump())
    drawing = plan_drawing(shape)
    for station in family.stations:
        if station.id not in file.stations:
            raise source.refuse(("stations",), f"the standing place of station '{station.id}' is missing")
        at = file.stations[station.id]
        climbed = station.level in (Level.DECK, Level.CAB)
        if not climbed and any(inside(at, outline) for outline in drawing.obstacles):
            raise source.refuse(("stations", station.id), "nobody can stand there: it is inside the machine's outline")
    tank = file.tank.model_dump()
    rods = tuple(RodGroup(**r) for r in tank.pop("rods"))
    return Model(
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
    )


def load_catalog(folder: Path = FOLDER) -> Catalog:
    """The catalog of a folder.

    Raises
    ------
    BadFile
        For the first thing that is wrong, with file, line and field.
    """
    rulebook = load_rulebook(folder)
    file = SourceFile(folder / "systems.yaml").parse(SystemsFile)
    systems = {s.id: System(s.id, s.name, s.kind) for s in file.systems}
    loaded = [load_family(path, systems, rulebook) for path in sorted((folder / "families").glob("*.yaml"))]
    families = {family.id: family for family in loaded}
    models = [load_model(path, families) for path in sorted((folder / "models").glob("*.yaml"))]
    return Catalog(families, {model.id: model for model in models}, rulebook)


@lru_cache(maxsize=1)
def catalog() -> Catalog:
    """The catalog that ships with the package, loaded once."""
    return load_catalog()
