"""What is known about a finding beside what was observed of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from jutrel.core.errors import BadInput
from jutrel.core.grading.rulebook import AttributeKind, Rulebook
from jutrel.core.inspection.finding import Conditions, Finding, Value
from jutrel.core.machine.family import Checkpoint, SystemClass
from jutrel.core.machine.model import Model
from jutrel.core.reading.leak import Coupling, LeakClass, LeakReading, leak_reading

MAIN_TANKS = frozenset({"hydraulic-oil", "engine-oil", "coolant", "fuel", "exhaust-fluid"})
FLAMMABLE = frozenset({"fuel", "engine-oil", "hydraulic-oil", "gear-oil", "grease"})


@dataclass(frozen=True, slots=True)
class History:
    """What is known of a defect from earlier: on how many shifts it stood unmended, how it was, when it is due."""

    unmended: int = 1
    previous: Finding | None = None
    due_hour: float | None = None


@dataclass(frozen=True, slots=True)
class Place:
    """Where and when a finding is graded: the machine, its conditions, its hours [h], what stands in its tanks [L]."""

    model: Model
    conditions: Conditions
    hours: float | None
    reserves: Mapping[str, float]


def fluid_of(finding: Finding, checkpoint: Checkpoint) -> str:
    """The fluid that leaks: as it was said, else the one that is there."""
    return str(finding.attributes.get("fluid", checkpoint.fluid or ""))


def coupling_of(finding: Finding, checkpoint: Checkpoint) -> str:
    """Where it leaks from: as it was said, else the worst that can be there."""
    return str(finding.attributes.get("coupling", checkpoint.couplings[0] if checkpoint.couplings else "other"))


def compartment_of(finding: Finding, checkpoint: Checkpoint) -> str | None:
    """The compartment that a leak there empties; None where its content is not known.

    A checkpoint's own compartment holds for its own fluid only: oil of the main system at a strut comes
    from the main tank.
    """
    fluid = fluid_of(finding, checkpoint)
    if fluid == (checkpoint.fluid or ""):
        return checkpoint.compartment
    return fluid if fluid in MAIN_TANKS else None


def leak_of(finding: Finding, checkpoint: Checkpoint, place: Place) -> LeakReading | None:
    """The leak reading that a finding's attributes hold, or None if it is no leak."""
    if finding.failure_mode != "leak" or "leak_class" not in finding.attributes:
        return None
    seen = finding.attributes
    coupling = coupling_of(finding, checkpoint)
    drops, seconds = seen.get("drops"), seen.get("seconds")
    if isinstance(drops, str) or isinstance(seconds, str):
        raise BadInput("attributes.drops", "give the drops and the seconds as plain numbers")
    compartment = compartment_of(finding, checkpoint)
    return leak_reading(
        LeakClass(str(seen["leak_class"])),
        place.reserves.get(compartment) if compartment else None,
        place.conditions.shift_hours,
        drops=drops,
        seconds=seconds,
        coupling=Coupling(coupling) if coupling in set(Coupling) else Coupling.OTHER,
    )


def is_worse(now: Finding, before: Finding, rulebook: Rulebook) -> bool:
    """Whether any ordered thing about a finding is worse than it was last time."""
    for key, value in now.attributes.items():
        attribute = rulebook.attributes.get(key)
        if attribute is None or attribute.kind is AttributeKind.CHOICE or key not in before.attributes:
            continue
        if attribute.rank(value) > attribute.rank(before.attributes[key]):
            return True
    return False


def facts_of(
    finding: Finding, checkpoint: Checkpoint, place: Place, rulebook: Rulebook, history: History, backups_out: int
) -> dict[str, Value]:
    """The facts that rules may ask for. `backups_out` counts what is out of the checkpoint's set."""
    conditions = place.conditions
    facts: dict[str, Value] = {
        "checkpoint": checkpoint.id,
        "place": checkpoint.name,
        "system": checkpoint.system.id,
        "life": checkpoint.kind is SystemClass.LIFE,
        "vital": checkpoint.kind is not SystemClass.SERVICE,
        "mandatory": checkpoint.mandatory,
        "dark": conditions.dark,
        "rain": conditions.rain,
        "people_on_foot": conditions.people_on_foot,
        "shift_hours": conditions.shift_hours,
        "backups_out": backups_out,
        "unmended_reports": history.unmended,
        "worse_than_last": bool(history.previous and is_worse(finding, history.previous, rulebook)),
        "overdue": history.due_hour is not None and place.hours is not None and place.hours > history.due_hour,
    }
    duty = checkpoint.duty_of(finding.failure_mode)
    if duty is not None:
        facts |= {
            "duty": duty.id,
            "life": duty.kind is SystemClass.LIFE,
            "vital": duty.kind is not SystemClass.SERVICE,
            "fluid": fluid_of(finding, checkpoint),
            "coupling": coupling_of(finding, checkpoint),
            "pressurised": checkpoint.pressurised,
            "unfused": checkpoint.unfused,
            "overhead": checkpoint.overhead,
        }
        if duty is checkpoint.duty and checkpoint.limit:
            facts["limit"] = checkpoint.limit
    if finding.failure_mode == "leak":
        fluid = fluid_of(finding, checkpoint)
        facts["fluid"] = fluid
        facts["near_heat"] = checkpoint.near_heat and fluid in FLAMMABLE
        reading = leak_of(finding, checkpoint, place)
        if reading and reading.hours_to_add is not None:
            facts["hours_to_add"] = reading.hours_to_add
            facts["twice_shift"] = 2 * conditions.shift_hours
            facts["runs_out_twice"] = reading.hours_to_add < 2 * conditions.shift_hours
            facts["runs_out"] = reading.hours_to_add < conditions.shift_hours
    else:
        # Trash in a hot place burns; in what was kept before parts had duties, somebody had to say that it can.
        burns = bool(finding.attributes.get("still_dirty" if duty is not None else "burns", False))
        facts["near_heat"] = checkpoint.near_heat and burns
    return facts
