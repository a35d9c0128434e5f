"""Drawings to scale, computed from a model's parts: from above, and from either side.

Screen and paper draw the same shapes, so they cannot disagree.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Protocol

from jutrel.core.machine.drawing.part import MachinePart
from jutrel.core.machine.drawing.pen import Drawing, Outline, Shape
from jutrel.core.machine.drawing.views import plan_of, side_of

__all__ = ["Drawing", "Shape", "parked_drawing", "plan_drawing", "side_drawing", "side_to_see"]

ASIDE_M = 0.3
"""So far from the middle line [m] one stands on a side, not before or behind it; common practice."""


class HasParts(Protocol):
    """What has parts: a model."""

    @property
    def parts(self) -> tuple[MachinePart, ...]:
        """Back to front, as seen from above."""

    @property
    def obstacles(self) -> tuple[Outline, ...]:
        """The convex outlines that nobody can walk through."""

    @property
    def postures(self) -> Mapping[str, tuple[MachinePart, ...]]:
        """Its parts as they stand under a school, by `school.choice`."""


def plan_drawing(model: HasParts) -> Drawing:
    """The machine from above, to scale, with the outlines nobody can walk through."""
    return plan_of(model.parts, model.obstacles)


def side_drawing(model: HasParts, side: str = "left") -> Drawing:
    """The machine's `left` or `right` as one sees it from there: from the left the front is at the left hand."""
    return side_of(model.parts, side)


def parked_drawing(model: HasParts, schools: Iterable[str]) -> Drawing:
    """The machine's left side as it is parked under these schools (each `school.choice`): tool down, body down."""
    chosen = next((model.postures[s] for s in sorted(schools) if s in model.postures), model.parts)
    return side_of(chosen, "left")


def side_to_see(stands_y: float, place_y: float) -> str:
    """From which side a place is shown: the one on which one stands; before or behind it, the nearer one.

    >>> side_to_see(-2.2, 0.4), side_to_see(0.0, 0.4)
    ('right', 'left')
    """
    y = stands_y if abs(stands_y) > ASIDE_M else place_y
    return "right" if y < 0 else "left"
