"""Twelve weeks of the demo job: who worked what, what wore, leaked and broke, and what became of it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

from jutrel.core.machine.incident import IncidentKind
from jutrel.demo.lives import LIVES, DefectLife
from jutrel.demo.shifts import SHIFTS, DemoShift
from jutrel.demo.story import MACHINES, DemoMachine, DemoMorning, air_c, day_of

CREW = {
    "ex-01": ("Mira", "Ines"), "ex-02": ("Osk", "Bo"), "ex-03": ("Ines", "Mira"), "ex-04": ("Bo", "Osk"),
    "ld-05": ("Tamsin", "Hale"), "dz-06": ("Hale", "Tamsin"), "ah-07": ("Nim", "Ode"), "rh-08": ("Ode", "Nim"),
    "gr-09": ("Wren", "Col"), "sc-10": ("Col", "Wren"), "rr-11": ("Fay", "Jory"), "bh-12": ("Ivo", "Kit"),
    "cl-13": ("Kit", "Ivo"), "ul-14": ("Sol", "Ash"), "mx-15": ("Ash", "Sol"), "tr-16": ("Jory", "Fay"),
}  # fmt: skip
"""Who works which machine, and with whom they change every third week."""
FIRST = 84
"""Days ago."""
NO_WORK = 3
"""The day of the week on which the site rests, counted back from today."""
SERVICE_H = 250.0
"""Hours between two services."""


@dataclass(frozen=True)
class DemoIncident:
    """Something that happened to a machine at work, days ago; who told it, and what the examination found."""

    ago: int
    machine: str
    by: str
    what: IncidentKind
    note: str
    found: str


INCIDENTS = (
    DemoIncident(36, "ah-07", "Mira", IncidentKind.SLID, "Slid off the ramp sideways to the berm, nobody hurt.",
                 "Frame, joint, wheels and steering looked at on stands: nothing bent or cracked, nuts at torque."),
    DemoIncident(19, "ex-02", "Osk", IncidentKind.STRUCK, "Counterweight touched the pile frame while slewing.",
                 "Paint only. Slew bearing bolts and gear looked at, no play."),
)  # fmt: skip

EVENINGS = (("gr-09", 33), ("ex-01", 26), ("ld-05", 12), ("rh-08", 1), ("gr-09", 1))
"""Machines that were walked round at the end of their shift as well, and how many days ago."""

GROUND = "Ramps, the ditch, the power line at peg 12."
TAUGHT = (
    *((83 - n // 6, who, "ground", "", GROUND) for n, who in enumerate(dict.fromkeys(a for a, _ in CREW.values()))),
    *((80 - n // 3, CREW[m.id][0], "model", m.model, "") for n, m in enumerate(MACHINES)),
    (65, "Ivo", "model", "hestrun-m3", "Presence bar tried each way."),
    (44, "Sol", "model", "ostrelle-x190", "Stairway, cord stops, both fuel cut-offs, rope ladder."),
)
"""Days ago, whom the trainer showed what, and the note."""


def works_on(machine: DemoMachine, ago: int) -> bool:
    """Whether a machine is worked on a day."""
    return ago <= 10 or (ago % 7 != NO_WORK and (ago + MACHINES.index(machine)) % 19 != 0)


def from_day(machine: DemoMachine, ago: int) -> int:
    """The first day of work at or after a day, in days ago."""
    return next((a for a in range(ago, 0, -1) if works_on(machine, a)), 0)


def lives(machine: DemoMachine) -> list[DefectLife]:
    """The defects of a machine, seen first and mended on days on which it is worked."""
    mine = (x for x in LIVES if x.machine == machine.id)
    return [replace(x, since=from_day(machine, x.since), until=from_day(machine, x.until)) for x in mine]


def worked_h(machine: DemoMachine, ago: int) -> float:
    """What its hour meter shows on the morning of a day [h]."""
    days = sum(works_on(machine, d) for d in range(11, ago + 1))
    return round(machine.hours + machine.per_day * (10 - ago if ago <= 10 else -days), 1)


def driver(machine: DemoMachine, ago: int) -> str:
    """Who works a machine on a day."""
    first, second = CREW[machine.id]
    return second if ago // 7 % 3 == 2 else first


def _levels(machine: DemoMachine, ago: int) -> dict[tuple[str, str], dict[str, Any]]:
    """What is read off on a morning: levels that sink and are filled, an air cleaner that fills with dust."""
    n, place = FIRST - ago, MACHINES.index(machine)
    hours = worked_h(machine, ago)
    out: dict[tuple[str, str], dict[str, Any]] = {}
    if n % 2 == 0:
        out["engine-oil", "engine-oil"] = {"seen": round(0.92 - 0.035 * ((n + 3 * place) % 21), 2), "minutes": 700}
    if (n + place) % 3 == 0:
        since = hours % (2 * SERVICE_H) / (2 * SERVICE_H)
        out["air-cleaner", "air-restriction"] = {"restriction": round(1.9 + 2.6 * since + 0.1 * (n % 4), 2)}
    if (n + place) % 4 == 0:
        seen = (0.95, 0.9, 0.93, 0.86, 0.97)[(n + place) % 5]
        out["fuel-level", "fuel-shift"] = {"seen": seen, "shift_hours": 9}
    return out


def _put_right(machine: DemoMachine, ago: int) -> dict[tuple[str, str], tuple[str, str]]:
    """What is filled up or changed on a morning before it is read: whatever stands where it starts anew."""
    n, place = FIRST - ago, MACHINES.index(machine)
    out: dict[tuple[str, str], tuple[str, str]] = {}
    if n % 2 == 0 and (n + 3 * place) % 21 < 2:
        out["engine-oil", "engine-oil"] = ("Filled up", f"{2.5 + 0.5 * (place % 4):.1f} L")
    service = worked_h(machine, ago) // (2 * SERVICE_H), worked_h(machine, min(FIRST, ago + 3)) // (2 * SERVICE_H)
    if (n + place) % 3 == 0 and service[0] > service[1]:
        out["air-cleaner", "air-restriction"] = ("Outer element changed", "")
    return out


def morning(machine: DemoMachine, ago: int) -> DemoMorning:
    """The walk of a morning."""
    if ago <= machine.days:
        day = day_of(ago, machine.id, driver(machine, ago))
    else:
        air = round(air_c(ago), 1)
        glass = round(0.62 - 0.008 * ((FIRST - ago + 5 * MACHINES.index(machine)) % 25), 2)
        day = DemoMorning(ago, machine.id, driver(machine, ago), air_c=air, oil_c=round(air + 1.5, 1), seen=glass)
        day = replace(day, dark=ago < 40, read=_levels(machine, ago), before=_put_right(machine, ago))
    for life in lives(machine):
        if life.until <= ago <= life.since:
            day.defects.setdefault(life.checkpoint, []).append(life.finding(ago))
    return day


def shift(machine: DemoMachine, ago: int) -> DemoShift:
    """The shift that follows."""
    told = next((s for s in SHIFTS if (s.machine, s.ago) == (machine.id, ago)), None)
    if told is not None:
        return replace(told, by=driver(machine, ago))
    n = FIRST - ago + MACHINES.index(machine)
    filled = (("fuel", round(machine.per_day * (13.0 + n % 5), 0)),) if n % 2 == 0 else ()
    notes = ("", "Nothing to tell.", "Parked at the upper yard, nose to the gate.", "", "Fuel is full.")
    return DemoShift(ago, machine.id, driver(machine, ago), filled=filled, note=notes[n % len(notes)] or "All well.",
                     noon=n % 3 == 0)  # fmt: skip


def days() -> Iterator[tuple[int, DemoMachine]]:
    """Every day of work of every machine before today, oldest first."""
    for ago in range(FIRST, 0, -1):
        for machine in MACHINES:
            if works_on(machine, ago):
                yield ago, machine
