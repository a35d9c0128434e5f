"""Twelve weeks of the demo job: who worked what, what wore, leaked and broke, and what became of it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from jutrel.core.machine.incident import IncidentKind
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
class DefectLife:
    """A defect from the day on which it is seen first until it is mended, both in days ago.

    `grows`: by the day from which on it is seen so, its attributes. `accepted`: a supervisor's reason to work within
    its limits. `done`: what the mechanic did; empty: it is still open. `at_once`: the operator put it right.
    """

    machine: str
    checkpoint: str
    mode: str
    since: int
    until: int
    note: str
    attributes: Mapping[str, str]
    done: str = ""
    parts: str = ""
    accepted: str = ""
    grows: Mapping[int, Mapping[str, str]] = field(default_factory=dict)
    at_once: tuple[str, str] = ("", "")

    def finding(self, ago: int) -> dict[str, Any]:
        """What the operator writes down on a day."""
        grown = [a for since, a in sorted(self.grows.items(), reverse=True) if ago <= since]
        attributes = {**self.attributes, **(grown[-1] if grown else {})}
        found = {"failure_mode": self.mode, "attributes": attributes, "note": self.note if ago == self.since else ""}
        done, amount = self.at_once
        return {**found, "put_right": {"done": done, "amount": amount}} if done else found


OTHER, FLAT, DRY = {"coupling": "other"}, {"coupling": "flat-face"}, {"leak_class": "I"}
WET = {"leak_class": "II"}

LIVES = (
    DefectLife(
        "ex-01",
        "arm-cylinder",
        "leak",
        71,
        58,
        "wet ring at the gland",
        DRY | OTHER,
        "Gland seal and wiper renewed, rod without scores.",
        "seal kit, 1",
        grows={61: WET},
    ),
    DefectLife(
        "ex-01",
        "lamps-boom",
        "inoperative",
        46,
        45,
        "left boom lamp dead",
        {"works": "dead"},
        "Plug was wet; dried and greased.",
    ),
    DefectLife(
        "ex-01",
        "steps-cab",
        "wear",
        39,
        26,
        "strip on the second step smooth",
        {"wear": "three-quarters"},
        "New strip on both steps.",
        "anti-slip strip, 2",
    ),
    DefectLife(
        "ex-01", "air-cleaner", "dirty", 52, 52, "bowl full of dust", {"dirt": "heavy"}, at_once=("Cleaned", "")
    ),
    DefectLife(
        "ex-02",
        "rollers-right",
        "leak",
        68,
        55,
        "oil at the third roller",
        DRY | OTHER,
        "Third roller replaced.",
        "track roller, 1",
    ),
    DefectLife(
        "ex-02",
        "cab-glass",
        "broken",
        49,
        41,
        "crack from the lower corner",
        {"broken": "cracked"},
        "Side glass replaced.",
        "side glass, 1",
        accepted="Sight to the side is free; no work beside the road.",
    ),
    DefectLife(
        "ex-02",
        "teeth",
        "wear",
        34,
        20,
        "middle tooth",
        {"wear": "half"},
        "Set of teeth changed.",
        "teeth, 5; pins, 5",
        grows={24: {"wear": "three-quarters"}},
    ),
    DefectLife(
        "ex-03",
        "fuel-filters",
        "leak",
        63,
        63,
        "diesel at the drain screw",
        DRY | OTHER,
        "Drain screw had no washer; new one, bled.",
        "washer, 1",
    ),
    DefectLife(
        "ex-03",
        "final-drive-left",
        "leak",
        37,
        15,
        "damp at the cover",
        DRY | OTHER,
        "Cover sealed anew, oil filled, ran without loss.",
        "gasket, 1; gear oil, 4.5 L",
    ),
    DefectLife(
        "ex-04",
        "mirror-left",
        "broken",
        57,
        56,
        "glass gone, branch",
        {"broken": "view-lost"},
        "New mirror, set from the seat.",
        "mirror, 1",
    ),
    DefectLife("ex-04", "bucket", "wear", 44, 16, "right side cutter", {"wear": "half"}, "Side cutter turned.", ""),
    DefectLife(
        "ld-05",
        "edge",
        "fastener",
        73,
        73,
        "one bolt of the edge loose",
        {"fastener_state": "loose", "fastener_share": "fifth"},
        "All bolts of the edge tightened.",
        "",
    ),
    DefectLife(
        "ld-05",
        "steering-cylinders",
        "leak",
        48,
        30,
        "left one, damp at the rod",
        DRY | OTHER,
        "Rod seal renewed.",
        "seal kit, 1",
    ),
    DefectLife("ld-05", "wiper", "wear", 27, 26, "blade smears", {"wear": "three-quarters"}, "New blade.", "blade, 1"),
    DefectLife(
        "dz-06",
        "carrier-right",
        "leak",
        66,
        40,
        "front carrier roller, damp",
        DRY | OTHER,
        "Carrier roller replaced.",
        "carrier roller, 1",
    ),
    DefectLife(
        "dz-06",
        "ripper-lamp",
        "inoperative",
        29,
        27,
        "dead",
        {"works": "dead"},
        "Wire chafed at the frame; new piece with a sleeve.",
        "sleeve, 0.4 m",
    ),
    DefectLife(
        "dz-06",
        "deck-surface",
        "wear",
        55,
        33,
        "paint with grit gone at the door",
        {"wear": "half"},
        "Painted with grit.",
        "grit paint, 1 L",
    ),
    DefectLife("ah-07", "camera-rear", "dirty", 60, 60, "lens full of mud", {"dirt": "heavy"}, at_once=("Cleaned", "")),
    DefectLife(
        "ah-07",
        "hoist-left",
        "leak",
        51,
        28,
        "wet ring at the gland",
        DRY | OTHER,
        "Hoist sealed anew.",
        "seal kit, 1",
        grows={31: WET},
    ),
    DefectLife(
        "ah-07",
        "mirror-right",
        "broken",
        22,
        21,
        "chip at the edge",
        {"broken": "chip"},
        "Glass replaced.",
        "mirror glass, 1",
    ),
    DefectLife(
        "rh-08",
        "ladder",
        "bend",
        64,
        62,
        "lowest rung pushed in by a stone",
        {"bend": "dent"},
        "Rung straightened and looked at for cracks.",
        "",
    ),
    DefectLife("rh-08", "lamps-front", "inoperative", 43, 42, "right low beam", {"works": "dead"}, "Bulb.", "bulb, 1"),
    DefectLife(
        "rh-08",
        "tie-rod-left",
        "wear",
        35,
        18,
        "boot is split, a little play",
        {"wear": "half"},
        "Tie rod end and boot renewed, toe set.",
        "tie rod end, 1",
    ),
    DefectLife(
        "gr-09",
        "edges",
        "wear",
        70,
        53,
        "both ends",
        {"wear": "three-quarters"},
        "Edges changed.",
        "edges, 2; bolts, 18",
    ),
    DefectLife(
        "gr-09",
        "tandem-case-right",
        "leak",
        47,
        24,
        "damp at the cover",
        DRY | OTHER,
        "Cover sealed anew.",
        "gasket, 1",
    ),
    DefectLife(
        "gr-09",
        "cab-glass",
        "broken",
        32,
        30,
        "smashed in the night, a stone lies on the seat",
        {"broken": "view-lost"},
        "Glass replaced, cab cleaned of splinters.",
        "side glass, 1",
    ),
    DefectLife(
        "sc-10", "scraper-rear", "wear", 58, 36, "left end", {"wear": "three-quarters"}, "Scraper set anew.", ""
    ),
    DefectLife("sc-10", "beacon-lamp", "inoperative", 25, 24, "dead", {"works": "dead"}, "Fuse.", "fuse, 1"),
    DefectLife(
        "rr-11", "nozzles-front", "dirty", 62, 62, "one of nine blocked", {"dirt": "light"}, at_once=("Cleaned", "")
    ),
    DefectLife(
        "rr-11",
        "mats-front",
        "wear",
        50,
        31,
        "thin in the middle",
        {"wear": "three-quarters"},
        "Mat replaced.",
        "mat, 1",
    ),
    DefectLife(
        "bh-12",
        "leg-foot-left",
        "wear",
        67,
        38,
        "pad down to the bolt heads",
        {"wear": "three-quarters"},
        "Pads of both feet changed.",
        "pads, 4",
    ),
    DefectLife(
        "bh-12",
        "hammer-lines",
        "leak",
        33,
        32,
        "drops at the coupling",
        WET | FLAT,
        "Coupling renewed.",
        "flat coupling, 1",
    ),
    DefectLife("cl-13", "tool-couplings", "leak", 45, 34, "damp with dust", DRY | FLAT, "Ring renewed.", "ring, 2"),
    DefectLife("cl-13", "seat-belt", "dirty", 23, 23, "mud on the tongue", {"dirt": "light"}, at_once=("Cleaned", "")),
    DefectLife(
        "ul-14",
        "oil-bath",
        "dirty",
        59,
        59,
        "sludge to a finger in the cup",
        {"dirt": "heavy"},
        at_once=("Cleaned", "0.8 L"),
    ),
    DefectLife(
        "ul-14", "axle-rear", "leak", 42, 22, "damp at the pinion", DRY | OTHER, "Pinion seal renewed.", "seal, 1"
    ),
    DefectLife("mx-15", "stairs-light", "inoperative", 54, 52, "dark", {"works": "dead"}, "Lamp renewed.", "lamp, 1"),
    DefectLife(
        "mx-15",
        "lube-drum",
        "leak",
        40,
        29,
        "grease at the follower plate",
        DRY | OTHER,
        "Plate seal renewed, pump bled.",
        "plate seal, 1",
    ),
    DefectLife(
        "tr-16", "skirts-left", "cut", 56, 35, "torn at the hem", {"cut_depth": "cover"}, "Skirt replaced.", "skirt, 1"
    ),
)


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

TAUGHT = (
    (83, "Ines", "ground", "", "Ramps, the ditch, the power line at peg 12."),
    (83, "Mira", "ground", "", "Ramps, the ditch, the power line at peg 12."),
    (82, "Osk", "ground", "", "Ramps, the ditch, the power line at peg 12."),
    (80, "Mira", "model", "tolvane-e24", ""),
    (79, "Osk", "model", "tolvane-e24", ""),
    (78, "Ines", "model", "sandvarn-p14", "Two days beside the trainer, then alone on the haul road."),
    (65, "Osk", "model", "hestrun-m3", "Presence bar tried each way."),
    (44, "Mira", "model", "ostrelle-x190", "Stairway, cord stops, both fuel cut-offs, rope ladder."),
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


def morning(machine: DemoMachine, ago: int) -> DemoMorning:
    """The walk of a morning."""
    if ago <= machine.days:
        day = day_of(ago, machine.id, driver(machine, ago))
    else:
        air = round(air_c(ago), 1)
        glass = round(0.62 - 0.008 * ((FIRST - ago + 5 * MACHINES.index(machine)) % 25), 2)
        day = DemoMorning(ago, machine.id, driver(machine, ago), air_c=air, oil_c=round(air + 1.5, 1), seen=glass)
        day = replace(day, dark=ago < 40, read=_levels(machine, ago))
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
