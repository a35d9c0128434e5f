"""Procedures from their files, and refusing those that could send somebody out on a machine that hurts them."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path

from jutrel.catalog.documents.families import FamilyFile
from jutrel.catalog.documents.procedures import ProcedureFile, StepDoc
from jutrel.catalog.files import Loc, SourceFile
from jutrel.catalog.grease import load_points
from jutrel.catalog.traits import Traits, having
from jutrel.core.machine.family import Family
from jutrel.core.panel.signals import BY_KEY
from jutrel.core.panel.watch import STANDS_FROM
from jutrel.core.procedure.greasing import GreasePoint
from jutrel.core.procedure.kinds import EngineNow
from jutrel.core.procedure.school import School
from jutrel.core.procedure.step import Phase, Step, StepKind, StepPart, StepRole, Wait

ORDER = tuple(Phase)
MOST_WORD = 60
MEASURED = (StepKind.OBSERVE, StepKind.WAIT)


def _step(doc: StepDoc, families: frozenset[str]) -> Step:
    return Step(
        doc.id,
        doc.phase,
        doc.kind,
        doc.name,
        doc.does,
        doc.why,
        doc.no,
        doc.life,
        tuple(doc.after),
        doc.until,
        doc.engine,
        doc.wait,
        doc.wait_s,
        doc.reads,
        doc.needles,
        doc.within_s,
        doc.unit,
        doc.low,
        doc.high,
        tuple(doc.checkpoints),
        tuple(doc.modes),
        doc.people,
        families,
        frozenset(doc.options),
        frozenset(doc.without),
        frozenset(doc.when),
        tuple(StepPart(p.id, p.name, frozenset(p.options)) for p in doc.parts),
        tuple(doc.measures),
        frozenset(doc.schools),
        ways=tuple(StepPart(p.id, p.name) for p in doc.ways),
        near=doc.near,
        nobody=doc.nobody,
        instead=doc.instead,
        spares=tuple(doc.spares),
        figures=tuple(doc.figures),
        role=doc.role,
    )


def _asked(its: Mapping[str, Collection[str]], doc: StepDoc) -> frozenset[str]:
    """The families that are asked this step, by their traits; empty: all of them."""
    had = having(its, doc.traits)
    if doc.not_traits:
        return (had or frozenset(its)) - having(its, doc.not_traits)
    return had


def load_procedures(
    folder: Path,
    families: Mapping[str, Family],
    questions: Iterable[str],
    schools: Sequence[School],
    traits: Traits,
    files: Mapping[str, tuple[SourceFile, FamilyFile]],
) -> dict[str, tuple[Step, ...]]:
    """The steps of each family, in the order of the file; `files`: by family, its file.

    Raises
    ------
    BadFile
        For a step that nobody can reach, an interlock that nobody watches, a test that cannot be reported, a name
        that is not there, a life step that a trait owes and nobody is asked.
    """
    source = SourceFile(folder / "run.yaml")
    words = {f"{s.id}.{c.id}" for s in schools for c in s.choices}
    points = {f.id: load_points(*files[f.id], f, words) for f in families.values()}
    its = {f.id: f.traits for f in families.values()}
    docs = source.parse(ProcedureFile).steps
    asked = set(questions)
    known: dict[str, int] = {}
    for i, doc in enumerate(docs):
        at: Loc = ("steps", i)
        if doc.id in known:
            raise source.refuse((*at, "id"), "step '{id}' is there twice", id=doc.id)
        known[doc.id] = i
        for name in [*doc.traits, *doc.not_traits]:
            if name not in traits.by_id:
                raise source.refuse((*at, "traits"), "there is no trait '{name}'", name=name)
        if (doc.traits or doc.not_traits) and not _asked(its, doc):
            raise source.refuse((*at, "traits"), "no family has one of these traits: nobody would be asked")
        had = _asked(its, doc) or families.keys()
        offered = {o.id for f in families.values() if f.id in had for o in f.options}
        for option in [*doc.options, *doc.without]:
            if option not in offered:
                raise source.refuse((*at, "options"), "none of these families has an option '{it}'", it=option)
        for part in doc.parts:
            for option in part.options:
                if option not in offered:
                    raise source.refuse((*at, "parts"), "none of these families has an option '{it}'", it=option)
        for key in doc.figures:
            if not any(key in {x.id for x in families[f].limits} for f in had):
                raise source.refuse((*at, "figures"), "none of these families has a figure '{it}'", it=key)
        if doc.role is not None and doc.role in [d.role for d in docs[:i]]:
            raise source.refuse((*at, "role"), "another step is '{it}' already", it=doc.role)
        for word in doc.schools:
            if word not in words:
                raise source.refuse((*at, "schools"), "no school offers '{it}'", it=word)
        for answer in doc.when:
            if answer not in asked:
                raise source.refuse((*at, "when"), "the approach asks nothing called '{asked}'", asked=answer)
    for i, doc in enumerate(docs):
        _check(source, ("steps", i), doc, docs, known)
    taken = {b.reading for f in families.values() for c in f.checkpoints for b in c.readings}
    for i, doc in enumerate(docs):
        if doc.measures and doc.kind is not StepKind.TEST:
            raise source.refuse(("steps", i, "measures"), "only a test is measured")
        for key in doc.measures:
            if key not in taken:
                raise source.refuse(("steps", i, "measures"), "no checkpoint takes a reading '{it}'", it=key)
    for role in StepRole:
        if role not in [
            d.role for d in docs if not (d.traits or d.not_traits or d.options or d.without or d.when or d.schools)
        ]:
            raise source.refuse(("steps",), "no step of every machine has the role '{it}'", it=role)
    steps = [_step(doc, _asked(its, doc)) for doc in docs]
    out: dict[str, tuple[Step, ...]] = {}
    for family in families.values():
        out[family.id] = _of_family(source, steps, docs, family, points[family.id])
        traits.check_steps(*files[family.id], out[family.id])
    return out


def _check(source: SourceFile, at: Loc, doc: StepDoc, docs: Sequence[StepDoc], known: Mapping[str, int]) -> None:
    """That a step can be reached, and that what it promises is watched."""
    here = ORDER.index(doc.phase)
    for name in doc.after:
        if name not in known:
            raise source.refuse((*at, "after"), "there is no step '{step}'", step=name)
        if known[name] >= known[doc.id]:
            raise source.refuse((*at, "after"), "'{step}' stands later: nobody could ever reach this step", step=name)
        before = docs[known[name]]
        if before.phase is not doc.phase and before.phase in (Phase.SHUTDOWN, Phase.HAND_OVER):
            raise source.refuse((*at, "after"), "'{step}' belongs to a later part of the run", step=name)
        if (
            doc.engine is EngineNow.STOPPED
            and here < ORDER.index(Phase.SHUTDOWN)
            and before.engine is EngineNow.RUNNING
        ):
            raise source.refuse((*at, "after"), "'{step}' needs the engine to run", step=name)
    if doc.kind is StepKind.INTERLOCK:
        if not doc.life or doc.phase is not Phase.START or doc.engine is not None:
            says = "an interlock is a life step of the start, before the engine is cranked: later nobody would watch it"
            raise source.refuse((*at, "kind"), says)
        if doc.until:
            until = docs[known[doc.until]] if doc.until in known else None
            if until is None:
                raise source.refuse((*at, "until"), "there is no step '{step}'", step=doc.until)
            if until.engine is not EngineNow.RUNNING or not until.life:
                says = "'{step}' can be done or skipped before the engine runs: nobody would watch the interlock"
                raise source.refuse((*at, "until"), says, step=doc.until)
    elif doc.until:
        raise source.refuse((*at, "until"), "only an interlock is watched until something")
    if doc.kind is StepKind.WAIT and doc.wait is None:
        raise source.refuse((*at, "wait"), "say what tells how long")
    if doc.wait is Wait.SECONDS and not doc.wait_s:
        raise source.refuse((*at, "wait_s"), "say how many seconds")
    if doc.within_s is not None and doc.engine is not EngineNow.RUNNING:
        raise source.refuse((*at, "within_s"), "it is counted from the engine's start: say 'engine: running'")
    if doc.reads and doc.reads not in STANDS_FROM:
        raise source.refuse((*at, "reads"), "no machine tells that '{it}' stands", it=doc.reads)
    if doc.reads and (doc.engine is not EngineNow.RUNNING or doc.kind not in MEASURED):
        raise source.refuse((*at, "reads"), "what a machine tells by itself is observed or waited for, engine running")
    for key in doc.needles:
        if key not in BY_KEY:
            raise source.refuse((*at, "needles"), "no signal is called '{it}'", it=key)
    if doc.near and (doc.engine is not EngineNow.STOPPED or doc.people < 2):
        raise source.refuse(
            (*at, "near"), "nobody stands near a machine whose engine turns: 'engine: stopped', two people"
        )
    if doc.instead and doc.instead not in known:
        raise source.refuse((*at, "instead"), "there is no step '{step}'", step=doc.instead)
    for name in doc.spares:
        if name not in known:
            raise source.refuse((*at, "spares"), "there is no step '{step}'", step=name)
    if len({p.id for p in doc.parts}) < len(doc.parts) or len(" ".join(p.id for p in doc.parts)) > MOST_WORD:
        raise source.refuse((*at, "parts"), "each part is named once, and all of them fit into a word")
    if doc.unit and doc.low >= doc.high:
        raise source.refuse((*at, "high"), "the highest figure lies above the lowest")
    off = doc.phase is Phase.TESTS and doc.engine is EngineNow.STOPPED
    if doc.phase in (Phase.WARM_UP, Phase.TESTS, Phase.MOVE_OFF) and doc.engine is not EngineNow.RUNNING and not off:
        raise source.refuse((*at, "engine"), "this part of the run has the engine running: say so")
    if doc.phase is Phase.READY and doc.engine is not None:
        raise source.refuse((*at, "engine"), "nothing is said of the engine before it is started")


def _of_family(
    source: SourceFile,
    steps: Sequence[Step],
    docs: Sequence[StepDoc],
    family: Family,
    points: tuple[GreasePoint, ...],
) -> tuple[Step, ...]:
    """A family's own steps: tests with the checkpoint where it reports them, waits with what begins them."""
    checkpoints = {c.id: c for c in family.checkpoints}
    options = {o.id for o in family.options}
    out: list[Step] = []
    for i, step in enumerate(steps):
        if (docs[i].traits and family.id not in step.families) or not step.options <= options:
            continue
        if step.kind is StepKind.TEST:
            place = next((checkpoints[c] for c in step.checkpoints if c in checkpoints), None)
            if place is None:
                says = "{family} has none of these checkpoints: a failed test could not be reported"
                raise source.refuse(("steps", i, "checkpoints"), says, family=family.id)
            modes = tuple(m for m in step.modes if m in place.failure_modes)
            if not modes:
                says = "'{id}' of {family} offers none of these failure modes"
                raise source.refuse(("steps", i, "modes"), says, id=place.id, family=family.id)
            taken = {b.reading for b in place.readings}
            measures = tuple(m for m in step.measures if m in taken)
            step = replace(step, checkpoints=(place.id,), modes=modes, measures=measures)
        step = replace(step, figures=tuple(f for f in step.figures if f in {x.id for x in family.limits}))
        if docs[i].greases:
            step = replace(step, points=points)
        out.append(step)
    there = {s.id for s in out}
    for s in out:
        if s.until and s.until not in there:
            says = "{family} has no step '{step}': nobody would end the interlock '{id}'"
            at: Loc = ("steps", [d.id for d in docs].index(s.id), "until")
            raise source.refuse(at, says, family=family.id, step=s.until, id=s.id)
    if not any(s.kind is StepKind.INTERLOCK for s in out):
        raise source.refuse(("steps",), "{family} could be started with nothing watched", family=family.id)
    return tuple(replace(s, after=tuple(a for a in s.after if a in there)) for s in out)
