"""What is known about a finding beside what was observed of it."""

from __future__ import annotations

from collections.abc import Mapping

from jutrel.core.errors import BadInput
from jutrel.core.grading.rulebook import AttributeKind, Rulebook
from jutrel.core.inspection.entry import Carried, Conditions, Finding, Value
from jutrel.core.machine.family import Checkpoint, SystemClass
from jutrel.core.machine.model import Model
from jutrel.core.reading.leak import Coupling, LeakClass, LeakReading, leak_reading

FLAMMABLE = frozenset({"fuel", "engine-oil", "hydraulic-oil", "gear-oil", "grease"})


def leak_of(finding: Finding, checkpoint: Checkpoint, model: Model, shift_hours: float) -> LeakReading | None:
    """The leak reading that a finding's attributes hold, or None if it is no leak."""
    if finding.failure_mode != "leak" or "leak_class" not in finding.attributes:
        return None
    seen = finding.attributes
    fluid = str(seen.get("fluid", checkpoint.fluid or ""))
    coupling = str(seen.get("coupling", "other"))
    drops, seconds = seen.get("drops"), seen.get("seconds")
    if isinstance(drops, str) or isinstance(seconds, str):
        raise BadInput("attributes.drops", "give the drops and the seconds as plain numbers")
    return leak_reading(
        LeakClass(str(seen["leak_class"])),
        model.reserves.get(fluid),
        shift_hours,
        drops=drops,
        seconds=seconds,
        coupling=Coupling(coupling) if coupling in set(Coupling) else Coupling.OTHER,
    )


def is_worse(now: Finding, before: Finding, rulebook: Rulebook) -> bool:
    """Whether any ordered thing about a finding is worse than it was last time."""
    for key, value in now.attributes.items():
        attribute = rulebook.attributes[key]
        if attribute.kind is AttributeKind.CHOICE or key not in before.attributes:
            continue
        if attribute.rank(value) > attribute.rank(before.attributes[key]):
            return True
    return False


def facts_of(
    finding: Finding,
    checkpoint: Checkpoint,
    conditions: Conditions,
    model: Model,
    rulebook: Rulebook,
    carried: Carried | None,
    backups_out: int,
    hour_meter: float,
) -> dict[str, Value]:
    """The facts that rules may ask for. `backups_out` counts what is out of the checkpoint's set."""
    life = checkpoint.system.kind is SystemClass.LIFE
    facts: dict[str, Value] = {
        "checkpoint": checkpoint.id,
        "place": checkpoint.name,
        "system": checkpoint.system.id,
        "life": life,
        "vital": checkpoint.system.kind is not SystemClass.SERVICE,
        "mandatory": checkpoint.mandatory,
        "dark": conditions.dark,
        "rain": conditions.rain,
        "people_on_foot": conditions.people_on_foot,
        "shift_hours": conditions.shift_hours,
        "backups_out": backups_out,
        "unmended_reports": (carried.unmended + 1) if carried else 1,
        "worse_than_last": bool(carried and is_worse(finding, carried.finding, rulebook)),
        "overdue": bool(carried and carried.due_hour is not None and hour_meter > carried.due_hour),
    }
    if finding.failure_mode == "leak":
        fluid = str(finding.attributes.get("fluid", checkpoint.fluid or ""))
        facts["fluid"] = fluid
        facts["near_heat"] = checkpoint.near_heat and fluid in FLAMMABLE
        reading = leak_of(finding, checkpoint, model, conditions.shift_hours)
        if reading and reading.hours_to_add is not None:
            facts["hours_to_add"] = reading.hours_to_add
            facts["twice_shift"] = 2 * conditions.shift_hours
            facts["runs_out_twice"] = reading.hours_to_add < 2 * conditions.shift_hours
            facts["runs_out"] = reading.hours_to_add < conditions.shift_hours
    else:
        facts["near_heat"] = checkpoint.near_heat and bool(finding.attributes.get("burns", False))
    return facts


def carried_at(carried: tuple[Carried, ...]) -> Mapping[str, tuple[Carried, ...]]:
    """Open findings by checkpoint id."""
    out: dict[str, tuple[Carried, ...]] = {}
    for one in carried:
        out[one.checkpoint] = (*out.get(one.checkpoint, ()), one)
    return out
