"""What stands beside the machine, and what the figures of the approach amount to."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import Polygon
from shapely.ops import unary_union

from jutrel.catalog import catalog
from jutrel.core.inspection.finding import Conditions
from jutrel.core.inspection.kinds import Opened
from jutrel.core.inspection.occasion import SLOPE_DEG, answers_given, neighbours, steepest_deg, walk_on
from jutrel.core.log.entry import Pins
from jutrel.core.machine.drawing import plan_drawing
from jutrel.core.machine.family import Level
from jutrel.core.machine.model import Model, walk_of
from jutrel.core.route.plan import KNEEL_S, plan_route

MODELS = list(catalog().models.values())
gaps = st.one_of(st.none(), st.floats(0, 20))


@given(st.sampled_from(MODELS), gaps, gaps, gaps, gaps)
def test_neighbours_stand_as_far_off_as_was_said(
    model: Model, left: float | None, right: float | None, rear: float | None, front: float | None
) -> None:
    said = Conditions(gap_left=left, gap_right=right, gap_rear=rear, gap_front=front)
    machine = unary_union([Polygon(o) for o in plan_drawing(model).obstacles])
    box = machine.envelope
    stand = [Polygon(n) for n in neighbours(model, said)]
    given_gaps = [g for g in (left, right, rear, front) if g is not None]
    assert len(stand) == len(given_gaps)
    for outline, gap in zip(stand, given_gaps, strict=True):
        assert outline.exterior.is_ccw
        assert outline.distance(box) == pytest.approx(gap, abs=1e-6)
        assert outline.intersection(machine).area < 1e-6


@given(st.floats(-20, 20), st.floats(-20, 20))
def test_the_steepest_slope(pitch: float, roll: float) -> None:
    steep = steepest_deg(Conditions(pitch_deg=pitch, roll_deg=roll))
    assert steep >= max(abs(pitch), abs(roll)) - 1e-9
    normal = (math.tan(math.radians(pitch)), math.tan(math.radians(roll)), 1.0)
    # The angle between the ground's normal and the plumb line; geometry.
    assert steep == pytest.approx(math.degrees(math.acos(1 / math.hypot(*normal))), abs=1e-4)
    assert ("slope" in answers_given(Conditions(pitch_deg=pitch, roll_deg=roll), catalog().questions)) == (
        steep >= SLOPE_DEG
    )


@pytest.mark.parametrize("model", MODELS, ids=lambda m: m.id)
def test_kneeling_is_counted_where_one_kneels(model: Model) -> None:
    walk = walk_of(model, frozenset(model.options))
    under = {s.id for s in walk.stations if s.level is Level.UNDER}
    for leg in plan_route(walk).legs:
        if leg.station in under:
            assert leg.climb_s >= KNEEL_S
            assert leg.seconds == pytest.approx(leg.metres + leg.climb_s)


def test_an_unknown_kind_looks_at_everything() -> None:
    """A log of a later release must not shrink a walk."""
    walk = walk_of(MODELS[0], frozenset(MODELS[0].options))
    opened = Opened(1.0, Conditions(), walk.options, purpose="moon-landing")
    assert walk_on(walk, opened, Pins(), catalog().kinds, catalog().questions) is walk
