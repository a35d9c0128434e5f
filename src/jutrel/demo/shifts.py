"""Whole shifts of the demo, from key to key: starts, a stop at noon, what was noticed, filled and left for the next."""

from __future__ import annotations

import random
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from jutrel.core.procedure.step import Phase, Step, Wait
from jutrel.core.procedure.times import warm_up_for

AFTER_STOP = (Phase.START, Phase.WARM_UP, Phase.MOVE_OFF)
COOL_DOWN_S = 300.0


@dataclass(frozen=True)
class DemoShift:
    """A day at work: days ago, who, what was noticed (after so many hours), what was filled, the note left."""

    ago: int
    machine: str
    by: str
    remarks: tuple[tuple[float, dict[str, Any]], ...] = ()
    filled: tuple[tuple[str, float], ...] = ()
    note: str = ""
    noon: bool = True
    """Whether the engine was stopped for the break."""
    under_way: bool = False
    """It is at work now."""


SHIFTS = (
    DemoShift(
        2, "ex-01", "Ines", filled=(("fuel", 182.0),), note="Ramp at the north end is soft, keep two metres off."
    ),
    DemoShift(
        1,
        "ex-01",
        "Mira",
        ((2.5, {"sense": "sight", "colour": "none", "station": "", "note": "Outer left tooth is getting short."}),),
        (("fuel", 171.0), ("exhaust-fluid", 12.0)),
        "Bucket stands at the spoil heap; teeth are due this week.",
    ),
    DemoShift(
        1,
        "ex-02",
        "Osk",
        ((3.2, {"sense": "noise", "colour": "amber", "station": "", "note": "Squeals when the fan starts."}),),
        (("fuel", 160.0),),
        "Have the fan belt looked at before noon.",
    ),
    DemoShift(
        1,
        "ld-05",
        "Ines",
        ((1.8, {"sense": "feel", "colour": "amber", "station": "", "note": "Pulls to the left when braked."}),),
        (("fuel", 140.0),),
        "Left rear tyre looks low again.",
    ),
    DemoShift(
        2, "ah-07", "Mira", filled=(("fuel", 210.0),), note="Haul road is washed out at the culvert.", noon=False
    ),
    DemoShift(
        2,
        "rh-08",
        "Osk",
        ((4.0, {"sense": "lamp", "colour": "amber", "station": "", "note": "Retarder lamp, went out by itself."}),),
        (("fuel", 420.0),),
        "Nothing else. Good truck.",
    ),
    DemoShift(
        1,
        "sc-10",
        "Osk",
        (
            (
                2.2,
                {
                    "sense": "feel",
                    "colour": "none",
                    "station": "",
                    "note": "Clay sticks to the right half of the drum.",
                },
            ),
        ),
        (("fuel", 92.0),),
        "Layer four is done to peg 31.",
    ),
    DemoShift(
        1,
        "bh-12",
        "Mira",
        filled=(("fuel", 55.0),),
        note="Trench at the culvert is open; boards stand ready for the legs.",
        noon=False,
    ),
    DemoShift(2, "mx-15", "Mira", filled=(("fuel", 1650.0),), note="Cord on the left was pulled last; rear is next."),
    DemoShift(0, "dz-06", "Ines", under_way=True),
)


def in_order(steps: Iterable[Step]) -> list[Step]:
    """Steps so that each comes after what it waits for; moving off when all else is through."""
    left, out = list(steps), list[Step]()
    while left:
        done = {s.id for s in out}
        known = {s.id for s in left} | done
        early = any(s.phase in (Phase.START, Phase.WARM_UP, Phase.TESTS) for s in left)
        step = next(
            s for s in left if {a for a in s.after if a in known} <= done and not (s.phase is Phase.MOVE_OFF and early)
        )
        out.append(step)
        left.remove(step)
    return out


Entry = tuple[str, dict[str, Any], datetime]


class SaidShift:
    """A shift as it is said, entry by entry."""

    def __init__(self, steps: Sequence[Step], at: datetime, air_c: float, rng: random.Random) -> None:
        self.steps, self.at, self.rng = steps, at, rng
        self.entries: list[Entry] = []
        self.warm_s = 60 * (warm_up_for(air_c, None, at).value or 5.0)

    def add(self, kind: str, seconds: float, **what: Any) -> None:
        """Something said so many seconds later."""
        self.at += timedelta(seconds=round(seconds, 1))
        self.entries.append((kind, what, self.at))

    def step(self, s: Step, meter: float) -> None:
        """A step, done after its time."""
        waits = {Wait.SECONDS: s.wait_s, Wait.WARM_UP: self.warm_s, Wait.COOL_DOWN: COOL_DOWN_S}
        seconds = waits[s.wait] + 2 if s.wait else self.rng.uniform(3, 8) if s.within_s else self.rng.uniform(4, 14)
        word = "light" if s.id == "place" else " ".join(p.id for p in (*s.parts, *s.ways[:1]))
        value = meter if s.unit == "h" else None
        for p in s.points:
            took = {"point": p.id, "took": "greased", "strokes": p.fittings * p.strokes, "hours": meter, "note": ""}
            self.add("greased", self.rng.uniform(25, 70), **took)
        self.add("stepped", seconds, step=s.id, outcome="done", value=value, word=word, reason="")

    def start(self, meter: float, again: bool = False) -> None:
        """From the seat to moving off; after a stop without what holds for the day."""
        mine = [s for s in self.steps if s.id != "limits" and (not again or s.phase in AFTER_STOP)]
        before = in_order(s for s in mine if s.before_crank)
        clear = next(n for n, s in enumerate(before) if s.nobody)
        near = in_order(s for s in mine if s.near)
        for s in (*before[:clear], *near, *before[clear:]):
            self.step(s, meter)
        self.add("engine", 3, state="cranking", why="")
        self.add("engine", self.rng.uniform(1.5, 3.5), state="running", why="")
        rest = [
            s for s in mine if not s.before_crank and not s.near and s.phase not in (Phase.SHUTDOWN, Phase.HAND_OVER)
        ]
        for s in in_order(rest):
            self.step(s, meter)

    def shut_down(self, meter: float) -> None:
        """From a good place to the keys."""
        mine = in_order(s for s in self.steps if s.phase is Phase.SHUTDOWN and not s.instead)
        for s in (s for s in mine if not _stands(s, mine)):
            self.step(s, meter)
        self.add("engine", 4, state="stopped", why="")
        for s in (s for s in mine if _stands(s, mine)):
            self.step(s, meter)


def _stands(step: Step, all_: Sequence[Step]) -> bool:
    """Whether a step of the shutdown comes after the engine was stopped, itself or by what it waits for."""
    before = [s for s in all_ if s.id in step.after]
    return step.engine == "stopped" or any(_stands(s, all_) for s in before)


def said_of(shift: DemoShift, steps: Sequence[Step], at: datetime, air_c: float, meter: float, hours: float,
            rng: random.Random) -> list[Entry]:  # fmt: skip
    """All that was said of a shift, in order. `meter` [h] as it began, `hours` worked."""
    day = SaidShift(steps, at, air_c, rng)
    day.start(meter)
    if shift.under_way:
        return day.entries
    begun = day.at
    remarks = list(shift.remarks)

    def work(until_h: float) -> None:
        while remarks and remarks[0][0] < until_h:
            when, what = remarks.pop(0)
            day.at = begun + timedelta(hours=when)
            day.add("remarked", 0, **what)
        day.at = begun + timedelta(hours=until_h)

    if shift.noon:
        work(hours * 0.45)
        day.add("engine", 0, state="stopped", why="")
        day.at += timedelta(minutes=32)
        day.start(round(meter + hours * 0.45, 1), again=True)
    work(max(hours - 0.6, (day.at - begun).total_seconds() / 3600 + 0.5))
    day.shut_down(round(meter + hours - 0.3, 1))
    for fluid, litres in shift.filled:
        day.add("filled", 240, fluid=fluid, litres=litres, protected=True)
    day.add("handed-over", 60, note=shift.note)
    return day.entries
