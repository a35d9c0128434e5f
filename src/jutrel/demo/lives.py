"""What wore, leaked and broke on the demo job in twelve weeks, and what became of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any


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


DAMP = {"leak_class": "I", "coupling": "other"}
DAMP_COUPLING, DRIPPING_COUPLING = (
    {"leak_class": "I", "coupling": "flat-face"}, {"leak_class": "II", "coupling": "flat-face"}
)  # fmt: skip
WET = {"leak_class": "II"}

LIVES = (
    DefectLife("ex-01", "arm-cylinder", "leak", 71, 58, "wet ring at the gland", DAMP,
               "Gland seal and wiper renewed, rod without scores.", "seal kit, 1", grows={61: WET}),
    DefectLife("ex-01", "lamps-boom", "inoperative", 46, 45, "left boom lamp dead", {"works": "dead"},
               "Plug was wet; dried and greased."),
    DefectLife("ex-01", "steps-cab", "wear", 39, 26, "strip on the second step smooth", {"wear": "three-quarters"},
               "New strip on both steps.", "anti-slip strip, 2"),
    DefectLife("ex-01", "air-cleaner", "dirty", 52, 52, "bowl full of dust", {"dirt": "heavy"},
               at_once=("Cleaned", "")),
    DefectLife("ex-02", "rollers-right", "leak", 68, 55, "oil at the third roller", DAMP, "Third roller replaced.",
               "track roller, 1"),
    DefectLife("ex-02", "cab-glass", "broken", 49, 41, "crack from the lower corner", {"broken": "cracked"},
               "Side glass replaced.", "side glass, 1"),
    DefectLife("ex-02", "teeth", "wear", 34, 20, "middle tooth", {"wear": "half"}, "Set of teeth changed.",
               "teeth, 5; pins, 5", grows={24: {"wear": "three-quarters"}}),
    DefectLife("ex-03", "fuel-filters", "leak", 63, 63, "diesel at the drain screw", DAMP,
               "Drain screw had no washer; new one, bled.", "washer, 1"),
    DefectLife("ex-03", "final-drive-left", "leak", 37, 15, "damp at the cover", DAMP,
               "Cover sealed anew, oil filled, ran without loss.", "gasket, 1; gear oil, 4.5 L"),
    DefectLife("ex-04", "mirror-left", "broken", 57, 56, "glass gone, branch", {"broken": "view-lost"},
               "New mirror, set from the seat.", "mirror, 1"),
    DefectLife("ex-04", "bucket", "wear", 44, 16, "right side cutter", {"wear": "half"}, "Side cutter turned."),
    DefectLife("ld-05", "edge", "fastener", 73, 73, "one bolt of the edge loose",
               {"fastener_state": "loose", "fastener_share": "fifth"}, "All bolts of the edge tightened."),
    DefectLife("ld-05", "steering-cylinders", "leak", 48, 30, "left one, damp at the rod", DAMP, "Rod seal renewed.",
               "seal kit, 1"),
    DefectLife("ld-05", "wiper", "wear", 27, 26, "blade smears", {"wear": "three-quarters"}, "New blade.",
               "blade, 1"),
    DefectLife("dz-06", "carrier-right", "leak", 66, 40, "front carrier roller, damp", DAMP,
               "Carrier roller replaced.", "carrier roller, 1"),
    DefectLife("dz-06", "ripper-lamp", "inoperative", 29, 27, "dead", {"works": "dead"},
               "Wire chafed at the frame; new piece with a sleeve.", "sleeve, 0.4 m"),
    DefectLife("dz-06", "deck-surface", "wear", 55, 33, "paint with grit gone at the door", {"wear": "half"},
               "Painted with grit.", "grit paint, 1 L"),
    DefectLife("ah-07", "camera-rear", "dirty", 60, 60, "lens full of mud", {"dirt": "heavy"},
               at_once=("Cleaned", "")),
    DefectLife("ah-07", "hoist-left", "leak", 51, 28, "wet ring at the gland", DAMP, "Hoist sealed anew.",
               "seal kit, 1", grows={31: WET}),
    DefectLife("ah-07", "mirror-right", "broken", 22, 21, "chip at the edge", {"broken": "chip"}, "Glass replaced.",
               "mirror glass, 1"),
    DefectLife("rh-08", "ladder", "bend", 64, 62, "lowest rung pushed in by a stone", {"bend": "dent"},
               "Rung straightened and looked at for cracks."),
    DefectLife("rh-08", "lamps-front", "inoperative", 43, 42, "right low beam", {"works": "dead"}, "Bulb.",
               "bulb, 1"),
    DefectLife("rh-08", "tie-rod-left", "wear", 35, 18, "boot is split, a little play", {"wear": "half"},
               "Tie rod end and boot renewed, toe set.", "tie rod end, 1"),
    DefectLife("gr-09", "edges", "wear", 70, 53, "both ends", {"wear": "three-quarters"}, "Edges changed.",
               "edges, 2; bolts, 18"),
    DefectLife("gr-09", "tandem-case-right", "leak", 47, 24, "damp at the cover", DAMP, "Cover sealed anew.",
               "gasket, 1"),
    DefectLife("gr-09", "cab-glass", "broken", 32, 30, "smashed in the night, a stone lies on the seat",
               {"broken": "view-lost"}, "Glass replaced, cab cleaned of splinters.", "side glass, 1"),
    DefectLife("sc-10", "scraper-rear", "wear", 58, 36, "left end", {"wear": "three-quarters"}, "Scraper set anew."),
    DefectLife("sc-10", "beacon-lamp", "inoperative", 25, 24, "dead", {"works": "dead"}, "Fuse.", "fuse, 1"),
    DefectLife("rr-11", "nozzles-front", "dirty", 62, 62, "one of nine blocked", {"dirt": "light"},
               at_once=("Cleaned", "")),
    DefectLife("rr-11", "mats-front", "wear", 50, 31, "thin in the middle", {"wear": "three-quarters"},
               "Mat replaced.", "mat, 1"),
    DefectLife("bh-12", "leg-foot-left", "wear", 67, 38, "pad down to the bolt heads", {"wear": "three-quarters"},
               "Pads of both feet changed.", "pads, 4"),
    DefectLife("bh-12", "hammer-lines", "leak", 33, 32, "drops at the coupling", DRIPPING_COUPLING,
               "Coupling renewed.", "flat coupling, 1"),
    DefectLife("cl-13", "tool-couplings", "leak", 45, 34, "damp with dust", DAMP_COUPLING, "Ring renewed.",
               "ring, 2"),
    DefectLife("cl-13", "mirror-left", "dirty", 23, 23, "mud on the glass", {"dirt": "light"},
               at_once=("Cleaned", "")),
    DefectLife("ul-14", "oil-bath", "dirty", 59, 59, "sludge to a finger in the cup", {"dirt": "heavy"},
               at_once=("Cleaned", "0.8 L")),
    DefectLife("ul-14", "axle-rear", "leak", 42, 22, "damp at the pinion", DAMP, "Pinion seal renewed.", "seal, 1"),
    DefectLife("mx-15", "stairs-light", "inoperative", 54, 52, "dark", {"works": "dead"}, "Lamp renewed.", "lamp, 1"),
    DefectLife("mx-15", "lube-drum", "leak", 40, 29, "grease at the follower plate", DAMP,
               "Plate seal renewed, pump bled.", "plate seal, 1"),
    DefectLife("tr-16", "skirts-left", "cut", 56, 35, "torn at the hem", {"cut_depth": "cover"}, "Skirt replaced.",
               "skirt, 1"),
)  # fmt: skip
