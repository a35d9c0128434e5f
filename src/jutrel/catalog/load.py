"""Loading the whole catalog: systems, families, models and the rulebook."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from pathlib import Path
from typing import Any, TypeVar

from jutrel.catalog.build_drawing import load_drawings
from jutrel.catalog.documents.families import CheckpointDoc, CommonFile, FamilyFile, KindsFile, SystemsFile, UseDoc
from jutrel.catalog.duties import check_answers
from jutrel.catalog.files import Loc, SourceFile
from jutrel.catalog.glossary import load_glossary
from jutrel.catalog.judgement import judgement
from jutrel.catalog.models import build_model
from jutrel.catalog.procedures import load_procedures
from jutrel.catalog.rulebook import citations, load_rulebooks
from jutrel.catalog.schools import load_schools
from jutrel.catalog.traits import Traits
from jutrel.catalog.whole import FOLDER, USUAL, Catalog
from jutrel.core.errors import BadInput
from jutrel.core.grading.facts import MAIN_TANKS
from jutrel.core.grading.rulebook import Rulebook
from jutrel.core.machine.family import (
    Bound,
    Checkpoint,
    Duty,
    Family,
    FigureChoice,
    LimitKind,
    Option,
    OrderRule,
    Station,
    System,
    SystemClass,
)
from jutrel.core.machine.kind import InspectionKind, Question, Take
from jutrel.core.reading.all import READINGS, listed
from jutrel.core.reading.bound import OF_TANK
from jutrel.core.reading.registry import check

T = TypeVar("T")
COMPARTMENTS: Mapping[str, frozenset[str]] = {
    "hydraulic-oil": frozenset({"hydraulics", "steering", "tool", "coupler", "body", "circle", "slew"}),
    "engine-oil": frozenset({"engine"}),
    "coolant": frozenset({"cooling", "engine"}),
    "fuel": frozenset({"fuel"}),
    "exhaust-fluid": frozenset({"exhaust"}),
}
"""Systems whose fluid comes from the compartment of that name; elsewhere a part holds its own, unmeasured."""


def _compartment(doc: CheckpointDoc) -> str | None:
    return doc.fluid if doc.fluid and doc.system in COMPARTMENTS.get(doc.fluid, ()) else None


def _checkpoint(
    doc: CheckpointDoc, station: str, systems: Mapping[str, System], duties: Mapping[str, Duty]
) -> Checkpoint:
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
        when=tuple(doc.when),
        not_when=tuple(doc.not_when),
        must_when=tuple(doc.must_when),
        limits=tuple(doc.limits),
        compartment=doc.compartment or _compartment(doc),
        duty=duties[doc.duty],
        duties={mode: duties[duty] for mode, duty in doc.duties.items()},
        pressurised=doc.pressurised,
        couplings=tuple(doc.couplings),
        fluids=tuple(doc.fluids),
        sees=tuple(doc.sees),
        through=doc.through,
        readings=tuple(_bound(key, given) for key, given in doc.readings.items()),
        limit=doc.limit,
        unfused=doc.unfused,
        overhead=doc.overhead,
        every_h=float(doc.every.removesuffix(" h")) if doc.every.endswith("h") else 0.0,
        every_days=int(doc.every.removesuffix(" d")) if doc.every.endswith("d") else 0,
    )


def _bound(key: str, given: Mapping[str, bool | float | str | list[str]]) -> Bound:
    """A reading at a checkpoint; words that are no choice are the names of the machine's figures."""
    always: dict[str, bool | float | str] = {}
    figures: dict[str, tuple[str, ...]] = {}
    for name, value in given.items():
        one = listed(key).input(name)
        if isinstance(value, list):
            figures[name] = tuple(value)
        elif isinstance(value, str) and one is not None and (not one.choices or value.startswith(OF_TANK)):
            figures[name] = (value,)
        else:
            always[name] = value
    return Bound(key, always, figures)


def _check_readings(
    source: SourceFile, loc: Loc, doc: CheckpointDoc, limits: Mapping[str, str], reserves: Collection[str]
) -> None:
    """That each reading is there, can be bound so, and finds only what can be found there."""
    for key, given in doc.readings.items():
        at: Loc = (*loc, "readings", key)
        if key not in READINGS:
            raise source.refuse(at, "no reading is called '{key}'", key=key)
        for mode in READINGS[key].modes:
            if mode not in doc.modes:
                says = "the reading can find '{mode}', which cannot be chosen here"
                raise source.refuse(at, says, mode=mode)
        for name, value in given.items():
            one = READINGS[key].input(name)
            if one is None:
                raise source.refuse((*at, name), "the reading has no input '{name}'", name=name)
            if isinstance(value, list) != (one.given.many is not None):
                raise source.refuse((*at, name), "give a list where the input is one, else one figure")
            if isinstance(value, list) or (isinstance(value, str) and (not one.choices or value.startswith(OF_TANK))):
                for figure in value if isinstance(value, list) else [value]:
                    fluid = figure.removeprefix("reserve.")
                    for part in OF_TANK:
                        fluid = fluid.removeprefix(part)
                    if figure != fluid and fluid not in reserves:
                        raise source.refuse((*at, name), "no compartment holds '{fluid}'", fluid=fluid)
                    if figure == fluid and not limits.get(figure):
                        says = "this family has no figure with a unit called '{figure}'"
                        raise source.refuse((*at, name), says, figure=figure)
                continue
            try:
                check(one, value)
            except BadInput as error:
                raise source.refuse((*at, name), "{why}", why=error.says) from None


def _mirrored(doc: CheckpointDoc) -> CheckpointDoc:
    """The same checkpoint on the other side of the machine."""
    turned: dict[str, Any] = {"id": doc.id.replace("left", "right"), "name": doc.name.replace("left", "right")}
    if doc.backup_set:
        turned["backup_set"] = doc.backup_set.replace("left", "right")
    turned["sees"] = [((360 - b) % 360, (360 - a) % 360) for a, b in doc.sees]
    return doc.model_copy(update=turned)


def _check(
    source: SourceFile,
    loc: Loc,
    doc: CheckpointDoc,
    systems: Mapping[str, System],
    options: set[str],
    rulebook: Rulebook,
) -> None:
    if doc.system not in systems:
        raise source.refuse((*loc, "system"), "no system is called '{system}'", system=doc.system)
    if doc.option is not None and doc.option not in options:
        raise source.refuse((*loc, "option"), "this family has no option '{option}'", option=doc.option)
    for i, mode in enumerate(doc.modes):
        if mode not in rulebook.modes:
            raise source.refuse((*loc, "modes", i), "no failure mode is called '{mode}'", mode=mode)
    for i, energy in enumerate(doc.energy):
        if energy not in rulebook.safe_repair:
            raise source.refuse((*loc, "energy", i), "there is no safe-repair note for '{energy}'", energy=energy)
    for field, named in (("duty", [doc.duty]), ("duties", list(doc.duties.values()))):
        for duty in named:
            if duty not in rulebook.duties:
                raise source.refuse((*loc, field), "no duty is called '{duty}'", duty=duty)
    for mode in doc.duties:
        if mode not in doc.modes:
            raise source.refuse((*loc, "duties", mode), "it does not offer '{mode}'", mode=mode)
    couplings = {c.id for c in rulebook.attributes["coupling"].choices}
    for i, coupling in enumerate(doc.couplings):
        if coupling not in couplings:
            raise source.refuse((*loc, "couplings", i), "no coupling is called '{coupling}'", coupling=coupling)
    fluids = {c.id for c in rulebook.attributes["fluid"].choices}
    for i, fluid in enumerate(doc.fluids):
        if fluid not in fluids:
            raise source.refuse((*loc, "fluids", i), "no fluid is called '{fluid}'", fluid=fluid)
    if doc.fluid is not None and doc.fluid not in fluids:
        raise source.refuse((*loc, "fluid"), "no fluid is called '{fluid}'", fluid=doc.fluid)


def load_family(
    source: SourceFile,
    file: FamilyFile,
    systems: Mapping[str, System],
    rulebook: Rulebook,
    common: Mapping[str, CheckpointDoc],
    questions: set[str],
    traits: Traits,
) -> Family:
    """A family from its file; raises BadFile."""
    traits.check_names(source, file)
    options, limits = {o.id for o in file.options}, {x.id for x in file.limits}
    units = {x.id: x.unit for x in file.limits}
    taken: dict[str, list[CheckpointDoc]] = {}
    checkpoints: dict[str, Checkpoint] = {}
    for i, station in enumerate(file.stations):
        docs: list[CheckpointDoc] = []
        if station.mirror_of is not None:
            if station.mirror_of not in taken:
                raise source.refuse(
                    ("stations", i, "mirror_of"), "no earlier station '{mirror_of}'", mirror_of=station.mirror_of
                )
            docs = [_mirrored(d) for d in taken[station.mirror_of]]
        for j, entry in enumerate(station.checkpoints):
            if isinstance(entry, UseDoc):
                if entry.use not in common:
                    raise source.refuse(
                        ("stations", i, "checkpoints", j, "use"),
                        "no common checkpoint is called '{use}'",
                        use=entry.use,
                    )
                docs.append(entry.on(common[entry.use]))
            else:
                docs.append(entry)
        own = len(docs) - len(station.checkpoints)
        for j, doc in enumerate(docs):
            loc: Loc = ("stations", i, "checkpoints", j - own) if j >= own else ("stations", i, "mirror_of")
            _check(source, loc, doc, systems, options, rulebook)
            for field, known in (("when", questions), ("not_when", questions), ("must_when", questions)):
                for k, asked in enumerate(getattr(doc, field)):
                    if asked not in known:
                        raise source.refuse((*loc, field, k), "the approach asks nothing called '{asked}'", asked=asked)
            for k, limit in enumerate(doc.limits):
                if limit not in limits:
                    raise source.refuse((*loc, "limits", k), "this family has no limit '{limit}'", limit=limit)
            _check_readings(source, loc, doc, units, MAIN_TANKS | {"gear-oil"})
            if doc.id in checkpoints:
                raise source.refuse((*loc, "id"), "checkpoint '{id}' is there twice", id=doc.id)
            made = _checkpoint(doc, station.id, systems, rulebook.duties)
            if made.by_interval and made.kind is SystemClass.LIFE:
                raise source.refuse((*loc, "every"), "a life depends on it: it is looked at before each shift")
            checkpoints[doc.id] = made
        taken[station.id] = docs
    for c in checkpoints.values():
        if c.through and c.through not in checkpoints:
            says = "'{id}' is shown on '{screen}', which is not there"
            raise source.refuse(("stations",), says, id=c.id, screen=c.through)
    for i, option in enumerate(file.options):
        for needed in option.needs:
            if needed not in options:
                raise source.refuse(("options", i, "needs"), "there is no option '{it}'", it=needed)
    for i, rule in enumerate(file.order):
        for station_id in (rule.first, *rule.then):
            if station_id not in taken:
                raise source.refuse(("order", i), "there is no station '{station_id}'", station_id=station_id)
    family = Family(
        file.id,
        file.name,
        file.shape,
        tuple(Option(o.id, o.name, tuple(o.needs)) for o in file.options),
        tuple(Station(s.id, s.name, s.level, s.stance) for s in file.stations),
        tuple(checkpoints.values()),
        tuple(OrderRule(o.first, tuple(o.then), o.says) for o in file.order),
        tuple(
            LimitKind(x.id, x.name, x.unit, x.low, x.high, tuple(FigureChoice(c.id, c.name) for c in x.choices))
            for x in file.limits
        ),
        tuple(file.traits),
    )
    traits.check_checkpoints(source, file, family)
    return family


def _common(path: Path, systems: Mapping[str, System], rulebook: Rulebook) -> dict[str, CheckpointDoc]:
    source = SourceFile(path)
    out: dict[str, CheckpointDoc] = {}
    for i, doc in enumerate(source.parse(CommonFile).checkpoints):
        options = {doc.option} if doc.option else set()  # which family has it, the family says
        _check(source, ("checkpoints", i), doc, systems, options, rulebook)
        if doc.id in out:
            raise source.refuse(("checkpoints", i, "id"), "checkpoint '{id}' is there twice", id=doc.id)
        out[doc.id] = doc
    return out


def _kinds(path: Path, systems: Mapping[str, System]) -> tuple[dict[str, InspectionKind], tuple[Question, ...]]:
    source = SourceFile(path)
    file = source.parse(KindsFile)
    kinds: dict[str, InspectionKind] = {}
    for i, doc in enumerate(file.kinds):
        takes = []
        for j, take in enumerate(doc.takes):
            for system in take.systems:
                if system not in systems:
                    raise source.refuse(
                        ("kinds", i, "takes", j, "systems"), "no system is called '{system}'", system=system
                    )
            takes.append(
                Take(
                    take.says,
                    frozenset(take.checkpoints),
                    frozenset(take.systems),
                    frozenset(take.classes),
                    frozenset(take.modes),
                    frozenset(take.how),
                    take.mandatory_only,
                    frozenset(take.duties),
                )
            )
        kinds[doc.id] = InspectionKind(
            doc.id,
            doc.name,
            doc.says,
            doc.clears,
            tuple(takes),
            doc.answers_add,
            doc.ends,
            doc.sees_changes,
            doc.walked,
            doc.continues,
            doc.by_interval,
        )
    return kinds, tuple(Question(q.id, q.asks, q.says, q.computed) for q in file.questions)


def load_catalog(folder: Path = FOLDER) -> Catalog:
    """The catalog of a folder.

    Raises
    ------
    BadFile
        For the first thing that is wrong, with file, line and field.
    """
    rulebooks, regimes = load_rulebooks(folder)
    rulebook = rulebooks[USUAL]
    file = SourceFile(folder / "systems.yaml").parse(SystemsFile)
    systems = {s.id: System(s.id, s.name, s.kind) for s in file.systems}
    kinds, questions = _kinds(folder / "kinds.yaml", systems)
    asked = {q.id for q in questions}
    common = _common(folder / "checkpoints" / "common.yaml", systems, rulebook)
    traits = Traits(folder / "traits.yaml")
    drawings = load_drawings(folder)
    files: dict[str, tuple[SourceFile, FamilyFile]] = {}

    def family_of(path: Path) -> Family:
        source = SourceFile(path)
        file = source.parse(FamilyFile)
        if file.shape not in drawings.files:
            raise source.refuse(("shape",), "no drawing is called '{it}'", it=file.shape)
        files.setdefault(file.id, (source, file))
        return load_family(source, file, systems, rulebook, common, asked, traits)

    families = _each_once(folder / "families", family_of, lambda family: family.id)
    loaded = list(families.values())
    offered = {
        (duty.id, mode): c.name
        for family in loaded
        for c in family.checkpoints
        for mode in c.failure_modes
        if (duty := c.duty_of(mode))
    }
    check_answers(rulebook.duties, rulebook.rules, rulebook.modes, rulebook.attributes, offered, folder / "rules")
    schools = load_schools(folder / "procedures" / "schools.yaml", families, traits)
    models = _each_once(
        folder / "models",
        lambda path: build_model(SourceFile(path), families, schools, drawings),
        lambda model: model.id,
    )
    return Catalog(
        families,
        models,
        rulebook,
        kinds,
        questions,
        rulebooks,
        regimes,
        citations(folder),
        load_procedures(folder / "procedures", families, asked, schools, traits, files),
        schools,
        load_glossary(folder),
        judgement(),
        drawings,
    )


def _each_once(folder: Path, load: Callable[[Path], T], name: Callable[[T], str]) -> dict[str, T]:
    """What the files of a folder hold, by name; raises BadFile for a name that is there twice."""
    out: dict[str, T] = {}
    first: dict[str, str] = {}
    for path in sorted(folder.glob("*.yaml")):
        one = load(path)
        if (before := first.get(name(one))) is not None:
            says = "'{id}' is the id of {other} already; give this one another"
            raise SourceFile(path).refuse(("id",), says, id=name(one), other=before)
        out[name(one)], first[name(one)] = one, path.name
    return out
