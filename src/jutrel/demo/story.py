"""What happened on the demo job: who walked what, and what they found, day by day."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

SITE = ("quillmere", "Quillmere flood embankment, section 3", "CET")
PIN = "2468"

NUMBERS = (
    ("First aid on the site", "555 0101"),
    ("Fire watch", "555 0102"),
    ("Power company, line off", "555 0103"),
    ("Site office", "555 0104"),
)
# id, name, role
PEOPLE = (
    ("0d000000-0000-4000-8000-000000000001", "Mira Tolland", "operator"),
    ("0d000000-0000-4000-8000-000000000002", "Osk Brandel", "operator"),
    ("0d000000-0000-4000-8000-000000000003", "Ines Varro", "operator"),
    ("0d000000-0000-4000-8000-000000000004", "Dag Hollmer", "mechanic"),
    ("0d000000-0000-4000-8000-000000000005", "Pell Aronsk", "supervisor"),
    ("0d000000-0000-4000-8000-000000000006", "Una Kesterby", "trainer"),
    ("0d000000-0000-4000-8000-000000000007", "Rolf Amsing", "administrator"),
)
# id, name, role: who works on the site besides those whom the demo names at its start.
MORE_PEOPLE = tuple(
    (f"0d000000-0000-4000-8000-0000000000{n}", name, "operator")
    for n, name in enumerate(
        (
            "Bo Ferlund", "Tamsin Orrey", "Hale Brisk", "Nim Caddow", "Ode Vennert", "Wren Tallis", "Col Mabry",
            "Fay Undrell", "Ivo Stannick", "Kit Arbelow", "Sol Deverin", "Ash Quorley", "Jory Pemble",
        ),
        21,
    )
)  # fmt: skip
WHO = {name.split()[0]: person for person, name, _ in (*PEOPLE, *MORE_PEOPLE)}

COMMON = ("exhaust-fluid", "rear-camera", "beacon", "refuel-pump")
E24 = "tolvane-e24"


@dataclass(frozen=True)
class DemoMachine:
    """A unit of the demo job. `hours`: hour meter ten days ago; `per_day`: hours worked a day."""

    id: str
    name: str
    model: str
    options: tuple[str, ...]
    hours: float
    per_day: float
    days: int = 10
    own_limits: dict[str, float | str] = field(default_factory=dict)
    note: str = ""


MACHINES = (
    DemoMachine(
        "ex-01",
        "EX-01",
        E24,
        (
            *COMMON,
            "side-camera",
            "quick-coupler",
            "positioning",
            "person-detection",
            "detection-outside",
            "detection-stops",
        ),
        6128.4,
        8.1,
        own_limits={"bus-identification": "TE24-00417"},
    ),
    DemoMachine("ex-02", "EX-02", E24, (*COMMON, "side-camera", "quick-coupler"), 9411.0, 7.4),
    DemoMachine("ex-03", "EX-03", E24, (*COMMON, "front-guard", "second-slew-drive"), 11873.6, 6.9),
    DemoMachine(
        "ex-04",
        "EX-04",
        E24,
        (*COMMON, "side-camera", "quick-coupler", "auto-lube", "person-detection", "dust-spray"),
        2240.7,
        8.6,
    ),
    DemoMachine(
        "ld-05",
        "LD-05",
        "korveth-kw64",
        ("exhaust-fluid", "rear-camera", "quick-coupler", "ride-control", "secondary-steering", "beacon"),
        4310.2,
        7.0,
        3,
        {"tyre-cold-front": 390, "tyre-cold-rear": 310},
        "Tyres filled for the wet haul road.",
    ),
    DemoMachine("dz-06", "DZ-06", "hestrun-k36", ("ripper", "exhaust-fluid", "rear-camera", "beacon"), 7702.9, 8.0, 3),
    DemoMachine(
        "ah-07",
        "AH-07",
        "ostrelle-h41",
        ("tailgate", "exhaust-fluid", "rear-camera", "secondary-steering", "beacon", "payload-scale"),
        5120.0,
        9.0,
        3,
    ),
    DemoMachine(
        "rh-08",
        "RH-08",
        "ostrelle-q55",
        ("exhaust-fluid", "rear-camera", "side-camera", "secondary-steering", "beacon", "fire-suppression"),
        15230.5,
        9.2,
        3,
    ),
    DemoMachine(
        "gr-09",
        "GR-09",
        "sandvarn-p14",
        ("ripper", "exhaust-fluid", "rear-camera", "positioning", "beacon"),
        3388.8,
        5.5,
        3,
    ),
    DemoMachine(
        "sc-10",
        "SC-10",
        "hestrun-c12",
        ("exhaust-fluid", "rear-camera", "beacon", "presence-switch", "compaction-meter"),
        2874.3,
        6.2,
        3,
    ),
    DemoMachine(
        "rr-11", "RR-11", "sandvarn-t9", ("exhaust-fluid", "beacon", "edge-cutter", "thermometer"), 1960.5, 4.8, 3
    ),
    DemoMachine(
        "bh-12",
        "BH-12",
        "tolvane-b8",
        ("exhaust-fluid", "rear-coupler", "hammer-lines", "road-kit", "beacon", "quick-coupler"),
        5218.9,
        5.1,
        3,
    ),
    DemoMachine("cl-13", "CL-13", "hestrun-m3", ("quick-coupler", "tool-circuit", "road-kit", "beacon"), 812.4, 3.6, 3),
    DemoMachine("ul-14", "UL-14", "korveth-u7", ("fire-suppression", "beacon", "rear-camera"), 6644.0, 7.7, 3),
    DemoMachine(
        "mx-15",
        "MX-15",
        "ostrelle-x190",
        ("exhaust-fluid", "side-camera", "rear-camera", "auto-lube", "fire-suppression", "beacon", "second-slew-drive"),
        18480.7,
        9.4,
        3,
    ),
    DemoMachine("tr-16", "TR-16", "hestrun-p12", ("beacon", "skirts", "presence-switch"), 2410.9, 4.4, 3),
)


INSTRUMENTS: dict[str, dict[str, float]] = {
    "weather-station": {"air_c": 3.0, "low_c": -7.0, "humidity": 82.0},
    "slope-sensor": {"pitch": 0.5, "roll": -0.4},
    "tyre-gauge": {"pressure": 268.0, "tyre_c": 4.0},
    "sound-meter": {"on": 96.0, "background": 81.0},
    "position": {"latitude": 52.4, "longitude": 9.7, "altitude": 62.0},
}
"""What the stand-ins of devices say when the demo begins."""


@dataclass(frozen=True)
class DemoMorning:
    """One morning's walk: days ago, who, what was not sound, and the glass as seen."""

    ago: int
    machine: str
    by: str
    defects: dict[str, list[dict[str, Any]]] = field(default_factory=dict)
    unseen: dict[str, str] = field(default_factory=dict)
    seen: float = 0.45
    oil_c: float = 9.0
    air_c: float = 8.0
    dark: bool = True
    arm_out: float = 0.0
    kind: str = "pre-start"
    later_h: float = 0.0
    read: dict[tuple[str, str], dict[str, Any]] = field(default_factory=dict)
    """What was measured: checkpoint and reading, and its inputs."""
    before: dict[tuple[str, str], tuple[str, str]] = field(default_factory=dict)
    """What was put right before it read so, and how much of what."""


def _one(mode: str, note: str = "", **attributes: Any) -> list[dict[str, Any]]:
    return [{"failure_mode": mode, "attributes": attributes, "note": note}]


REGULAR: dict[str, tuple[str, ...]] = {
    "ex-01": ("Mira", "Mira", "Ines"),
    "ex-02": ("Osk",),
    "ex-03": ("Ines", "Osk", "Ines"),
    "ex-04": ("Mira", "Osk"),
    "ld-05": ("Osk", "Ines"),
    "dz-06": ("Ines",),
    "ah-07": ("Mira", "Ines"),
    "rh-08": ("Osk", "Mira"),
    "gr-09": ("Ines", "Mira"),
    "sc-10": ("Osk", "Mira"),
    "rr-11": ("Ines",),
    "bh-12": ("Mira", "Osk"),
    "cl-13": ("Osk",),
    "ul-14": ("Ines", "Osk"),
    "mx-15": ("Mira",),
    "tr-16": ("Osk", "Ines"),
}
"""Who works which machine, by turns."""


def story() -> list[DemoMorning]:
    """All walks, oldest first."""
    days_kept = {m.id: m.days for m in MACHINES}
    days = []
    for ago in range(10, -1, -1):
        for machine, names in REGULAR.items():
            if machine in ("ex-04", "gr-09", "cl-13") and ago == 0:
                continue  # left for the person who tries the demo
            if ago > days_kept[machine]:
                continue
            days.append(day_of(ago, machine, names[ago % len(names)]))
            if machine == "gr-09" and ago == 1:
                days.append(replace(days[-1], kind="end-of-shift", later_h=9.5, by="Ines", dark=False))
    return days


def air_c(ago: int) -> float:
    """How warm the morning was so many days ago [°C]: it has been getting colder since the summer."""
    return 8.0 - 0.9 * (10 - ago) if ago <= 10 else 8.0 + 0.11 * (ago - 10) + 1.5 * (ago % 5 - 2)


def day_of(ago: int, machine: str, by: str) -> DemoMorning:
    """The walk of a morning in the last ten days."""
    air = air_c(ago)
    day = DemoMorning(ago, machine, by, air_c=round(air, 1), oil_c=round(air + 1.5, 1), seen=0.42 - 0.01 * (10 - ago))
    d = day.defects
    match machine:
        case "ex-01":
            day.read["engine-oil", "engine-oil"] = {"seen": round(0.85 - 0.06 * (10 - ago), 2), "minutes": 700}
            if ago == 10:
                day.before["engine-oil", "engine-oil"] = ("Filled up", "3.5 L")
            dust = round(2.2 + 0.21 * (10 - ago) + (0.15 if ago % 3 == 0 else 0.0), 2)
            day.read["air-cleaner", "air-restriction"] = {"restriction": dust}
            day.read["fuel-level", "fuel-shift"] = {"seen": (0.94, 0.91, 0.95, 0.88)[ago % 4], "shift_hours": 9}
            if ago <= 6:
                d["teeth"] = _one("wear", "outer left tooth", wear="half")
            if ago <= 2:
                d["signs-left"] = _one("sign", "slewing sign bleached", legible="faded")
        case "ex-02":
            if ago <= 3:
                d["mirror-right"] = _one("broken", "stone chip at the edge", broken="chip")
            if ago == 0:
                d["lamps-boom"] = _one("inoperative", "right boom lamp dead, bulb looks black", works="dead")
            if ago == 0:
                day.unseen["drive-covers"] = "standing water under the machine"
        case "ex-03":
            if 4 < ago <= 7:
                d["idler-right"] = _one("leak", "grease at the seal", leak_class="I")
            if ago <= 2:
                d["main-pump"] = _one(
                    "leak",
                    "damp with dust on it, second coupling from the top",
                    leak_class="I",
                    coupling="flat-face",
                )
            if ago == 0:
                d["main-pump"] = _one(
                    "leak",
                    "drop hangs on it now",
                    leak_class="II",
                    coupling="flat-face",
                )
            if ago <= 5:
                d["air-cleaner"] = _one("dirty", "bowl emptied", dirt="light")
        case "ex-04":
            if ago == 8:
                drained = _one("contamination", "two fingers of water", dirt_in_fluid="clear-water")
                d["water-separator"] = [drained[0] | {"put_right": {"done": "Drained", "amount": "0.2 L"}}]
            if ago <= 1:
                d["steps-cab"] = _one("wear", "anti-slip nearly gone on the lower step", wear="half")
            if ago <= 2:
                d["bucket-cylinder"] = _one(
                    "leak",
                    "wet ring at the gland",
                    leak_class="I",
                    coupling="other",
                )
        case "ld-05":
            for side, kept in (("left", 1.0), ("right", (0.915, 0.955, 0.99, 1.0)[min(ago, 3)])):
                good = (310 + 101.3) * (273.15 + air) / 293.15 - 101.3
                given = {"pressure": round(good * kept), "tyre_c": round(air, 1)}
                day.read[f"tyre-rear-{side}", "tyre-pressure"] = given
            if ago <= 1:
                d["edge"] = _one("wear", "left end bit", wear="three-quarters")
        case "dz-06":
            if ago <= 2:
                d["corner-bits"] = _one("wear", "both, the right one more", wear="half")
        case "ah-07":
            if ago == 0:
                d["wheel-nuts-rear-left"] = _one(
                    "fastener", "two marks next to each other turned", fastener_state="loose", fastener_share="fifth"
                )
        case "rh-08":
            if ago <= 1:
                d["strut-front-right"] = _one("leak", "wet ring at the seal", leak_class="I")
        case "gr-09":
            if ago <= 2:
                d["circle"] = _one("dirty", "stones in the shoes, taken out", dirt="light")
        case "sc-10":
            if ago <= 1:
                d["scraper-front"] = _one("wear", "right half, clay sticks behind it", wear="three-quarters")
        case "rr-11":
            if ago == 0:
                d["nozzles-rear"] = _one("dirty", "two of nine blocked, sand in them", dirt="heavy")
        case "bh-12":
            if ago <= 1:
                wet = {"leak_class": "I", "coupling": "other"}
                d["leg-left"] = _one("leak", "wet ring at the gland, no drop", **wet)
        case "ul-14":
            if ago <= 2:
                d["tyre-front-right"] = _one("wear", "inner shoulder, from the wall", wear="half")
        case "mx-15":
            if ago <= 1:
                d["service-lamps"] = _one(
                    "warning-lamp", "coolant-full lamp stays dark in its test", warning_lamp="other"
                )
    return day
