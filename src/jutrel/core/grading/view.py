"""What can be seen from the seat, and what is lost with a mirror, a camera, a screen or glass.

Directions are whole degrees clockwise round the operator: 0 straight ahead, 90 to the right, 180 behind.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from typing import Annotated

from jutrel.core.grading.grade import Grade
from jutrel.core.grading.item import Item
from jutrel.core.machine.family import Checkpoint
from jutrel.core.machine.model import Walk
from jutrel.core.wording import Said, Words, say

Arc = tuple[int, int]
"""From, to, clockwise [deg]; the end may be less than the start: 300 to 60 is ahead."""

BLINDING = frozenset({"broken", "dirty", "missing", "inoperative"})
"""Failure modes that take the view away when they are bad enough to limit the machine."""
SIDES = (
    say("ahead", context="side"),
    say("ahead right", context="side"),
    say("right", context="side"),
    say("behind right", context="side"),
    say("behind", context="side"),
    say("behind left", context="side"),
    say("left", context="side"),
    say("ahead left", context="side"),
)


@dataclass(frozen=True, slots=True)
class Aid:
    """Something to see by, the directions it shows [deg], and whether it shows them now."""

    checkpoint: str
    name: Annotated[str, Words("checkpoint")]
    arcs: tuple[Arc, ...]
    blind: bool


@dataclass(frozen=True, slots=True)
class View:
    """What is seen from the seat, what is lost of it, and the names of the sides lost."""

    aids: tuple[Aid, ...]
    seen: tuple[Arc, ...]
    lost: tuple[Arc, ...]
    sides: tuple[Said, ...]

    @property
    def widest(self) -> int:
        """The widest part lost in one piece [deg]."""
        return max((width(arc) for arc in self.lost), default=0)


def view_of(walk: Walk, items: Sequence[Item]) -> View | None:
    """What of the view is lost with what is open; None where nothing is.

    All aids that the machine has count, also those that this look leaves out: what is open there is among the
    items. A camera shows nothing on a dead screen. What was wiped or put right is no longer in the way.
    """
    # Most findings have nothing to do with it, and a verdict is given after each tap.
    if not any(_blinds(i) for i in items):
        return None
    fitted = [c for c in walk.model.family.checkpoints if c.option is None or c.option in walk.options]
    by = {c.id: c for c in fitted}
    screens = {c.through for c in fitted if c.through}
    out = {i.checkpoint for i in items if _blinds(i) and _takes_view(i, by.get(i.checkpoint), screens)}
    aids = tuple(Aid(c.id, c.name, c.sees, c.id in out or (c.through or "") in out) for c in fitted if c.sees)
    sound = _degrees(arc for aid in aids for arc in aid.arcs)
    seen = _degrees(arc for aid in aids if not aid.blind for arc in aid.arcs)
    lost = arcs_of(sound - seen)
    if not lost:
        return None
    sides = tuple(dict.fromkeys(SIDES[n] for arc in lost for n in _eighths(arc)))
    return View(aids, arcs_of(seen), lost, sides)


def _blinds(item: Item) -> bool:
    finding = item.finding
    return item.grade >= Grade.LIMIT and finding.failure_mode in BLINDING and finding.put_right is None


def _takes_view(item: Item, c: Checkpoint | None, screens: Collection[str]) -> bool:
    """Whether what is open there takes the view; a window that does not latch still shows what is outside."""
    if c is None or not (c.sees or c.id in screens):
        return False
    return item.finding.failure_mode != "inoperative" or c.through is not None or c.id in screens


def width(arc: Arc) -> int:
    """How wide an arc is [deg].

    >>> width((300, 60)), width((90, 120)), width((0, 360))
    (120, 30, 360)
    """
    return (arc[1] - arc[0]) % 360 or 360


def _degrees(arcs: Iterable[Arc]) -> frozenset[int]:
    return frozenset(d % 360 for arc in arcs for d in range(arc[0], arc[0] + width(arc)))


def arcs_of(degrees: frozenset[int]) -> tuple[Arc, ...]:
    """The arcs, clockwise, that cover these whole degrees and no others.

    >>> arcs_of(frozenset([359, 0, 1, 90]))
    ((90, 91), (359, 2))
    """
    if len(degrees) == 360:
        return ((0, 360),)
    starts = sorted(d for d in degrees if (d - 1) % 360 not in degrees)
    ends = sorted(d + 1 for d in degrees if (d + 1) % 360 not in degrees)
    return tuple((s, next((e for e in ends if e > s), ends[0]) % 360) for s in starts)


def _eighths(arc: Arc) -> list[int]:
    """The eighths of the round, ahead first, that an arc covers by a third or more; at least the one of its middle."""
    covered = _degrees([arc])
    hit = [n for n in range(8) if len(covered & _degrees([(45 * n - 22, 45 * n + 23)])) >= 15]
    return hit or [round(((arc[0] + width(arc) / 2) % 360) / 45) % 8]
