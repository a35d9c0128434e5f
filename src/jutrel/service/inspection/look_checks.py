"""What an entry of a look may say: of this machine, by the rules that the look is bound to."""

from __future__ import annotations

from collections.abc import Sequence

from jutrel.core.edition import Edition
from jutrel.core.errors import BadInput
from jutrel.core.grading.finding_grade import check_finding
from jutrel.core.inspection.finding import Answer
from jutrel.core.inspection.kinds import (
    Answered,
    AnyRead,
    Arrived,
    Noted,
    Opened,
    Photographed,
    Signed,
    Undone,
)
from jutrel.core.inspection.look import pins_of
from jutrel.core.log.entry import Entry
from jutrel.core.machine.family import Checkpoint, SystemClass
from jutrel.core.machine.file import with_own_limits
from jutrel.core.procedure.gauges import gauge_problem
from jutrel.core.procedure.greasing import Greased
from jutrel.core.procedure.kinds import RUN, Engine, Filled, Remarked, Stepped
from jutrel.core.reading.bound import check_read, check_told
from jutrel.service.log.sent import No


def _walked(entries: Sequence[Entry]) -> bool:
    """Whether a look is known to be walked, and no run."""
    return any(isinstance(e.what, Opened) and e.what.purpose != RUN for e in entries)


def check_look(entry: Entry, edition: Edition, entries: Sequence[Entry], opened: bool) -> None:
    """That an entry can be one of a look with these entries before it; BadInput or No if not.

    `edition`: the rules and the model that the look is bound to; `opened`: whether it has its opening.
    """
    what = entry.what
    match what:
        case Opened():
            _opening(what, edition, opened)
        case Answered():
            _answer(what, _checkpoint(edition, what.checkpoint), edition)
        case AnyRead():
            _checkpoint(edition, what.checkpoint)
            mine = with_own_limits(edition.model, pins_of([*entries, entry]).own_limits)
            check_read(what.checkpoint, what.reading, what.given, mine)
            check_told(what.reading, what.told)
        case Photographed() | Noted():
            if what.checkpoint:
                _checkpoint(edition, what.checkpoint)
        case Arrived():
            _station(edition, what.station)
        case Stepped() | Engine() | Remarked() | Filled() | Greased():
            if _walked(entries):
                raise No("not-a-run", "This belongs to a run from key to key, and this is a walk.")
            _of_run(what, edition)
        case Undone():
            if any(e.id == what.target and isinstance(e.what, (Opened, Signed)) for e in entries):
                raise No("not-undone", "A beginning or a signature stays. End the inspection instead.")
        case _:
            pass


def _checkpoint(edition: Edition, name: str) -> Checkpoint:
    found = next((c for c in edition.model.family.checkpoints if c.id == name), None)
    if found is None:
        raise BadInput("checkpoint", "this machine has no checkpoint '{checkpoint}'", checkpoint=name)
    return found


def _station(edition: Edition, name: str) -> None:
    if name not in {s.id for s in edition.model.family.stations}:
        raise BadInput("station", "this machine has no station '{station}'", station=name)


def _opening(what: Opened, edition: Edition, opened: bool) -> None:
    if what.purpose not in edition.kinds:
        says = "'{purpose}' is no kind of inspection; one of {those}"
        raise BadInput("purpose", says, purpose=what.purpose, those=", ".join(edition.kinds))
    strange = what.options - {o.id for o in edition.model.family.options}
    if strange:
        raise BadInput("options", "'{option}' is not an option of this machine", option=min(strange))
    if opened:
        raise No("already-open", "This look has been opened already.")


def _answer(what: Answered, checkpoint: Checkpoint, edition: Edition) -> None:
    if what.together and (what.answer is not Answer.SOUND or checkpoint.kind is SystemClass.LIFE):
        raise BadInput("together", "only what is sound, and no life depends on, is answered together")
    if what.answer is Answer.DEFECT and not what.findings:
        raise BadInput("findings", "say what is wrong: a defect has at least one finding")
    if what.answer is not Answer.DEFECT and what.findings:
        raise BadInput("findings", "only a defect has findings")
    for finding in what.findings:
        check_finding(finding, edition.rulebook)
        if finding.failure_mode not in checkpoint.failure_modes:
            raise BadInput(
                "failure_mode",
                "'{failure_mode}' cannot be chosen at '{id}'; one of {modes}",
                failure_mode=finding.failure_mode,
                id=checkpoint.id,
                modes=", ".join(checkpoint.failure_modes),
            )


def _of_run(what: Stepped | Engine | Remarked | Filled | Greased, edition: Edition) -> None:
    """What is said in a run: its step, gauge, fluid and grease point are this machine's."""
    match what:
        case Stepped():
            if what.step not in {s.id for s in edition.steps}:
                raise BadInput("step", "this machine's procedure has no step '{step}'", step=what.step)
        case Remarked():
            if problem := gauge_problem(what):
                raise BadInput("gauge", problem)
            if what.station:
                _station(edition, what.station)
        case Filled():
            if what.fluid not in {c.id for c in edition.rulebook.attributes["fluid"].choices}:
                raise BadInput("fluid", "there is no fluid '{fluid}'", fluid=what.fluid)
        case Greased():
            if what.point not in {p.id for s in edition.steps for p in s.points}:
                raise BadInput("point", "this machine is not greased at '{point}'", point=what.point)
        case Engine():
            pass
