"""The hydraulic level against the worked figures of the trade and an independent calculation."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from fluids.geometry import TANK
from hypothesis import given
from hypothesis import strategies as st

from jutrel.core.errors import BadInput
from jutrel.core.machine.model import HydraulicTank, RodGroup
from jutrel.core.reading.judgement import Band
from jutrel.core.reading.tank import expansion, hydraulic_level, rod_volume, slope_deg, tilt_rise
from tests.walks import MODEL

# Two 105 mm rods of 1.48 m over a 0.45 m² tank: a worked example of the trade; geometry, so it can be checked by hand.
WORKED = HydraulicTank(0.45, 0.16, 0.3, -0.2, 240.0, 20.0, "as said", (RodGroup("arm", "Arm", 2, 0.105, 1.48, 0.0),))
extents = st.fixed_dictionaries({"boom": st.floats(0, 1), "arm": st.floats(0, 1), "bucket": st.floats(0, 1)})


def test_worked_example() -> None:
    assert rod_volume(2, 0.105, 1.48) == pytest.approx(25.63, abs=0.005)
    assert rod_volume(2, 0.105, 1.48) / 1000 / 0.45 == pytest.approx(0.057, abs=0.0005)
    out = hydraulic_level(WORKED, 0.2, 20.0, 0, 0, {"arm": 1.0})
    assert out.posture * WORKED.band == pytest.approx(0.057, abs=0.0005)
    assert out.corrected == pytest.approx(0.2 + 0.057 / 0.16, abs=0.003)


def independent(
    tank: HydraulicTank, seen: float, oil: float, pitch: float, roll: float, ext: dict[str, float]
) -> float:
    """The same question answered another way: weigh the oil in a tilted box by integrating its depth.

    Solves for the oil's plane through the gauge, integrates the depth over the tank's
    plan, moves the rods, cools the whole system, and reads the level tank.
    """
    side = math.sqrt(tank.area)
    cells = (np.arange(80) + 0.5) / 80 * side - side / 2
    x, y = np.meshgrid(cells, cells)
    # Nose-down oil stands higher to the front, left-down oil to the left.
    slope = np.tan(np.radians([pitch, roll]))
    at_gauge = seen * tank.band + 1.0  # the low mark is a metre above the floor: depth never reaches zero
    depth = at_gauge + slope[0] * (x - tank.gauge_x) + slope[1] * (y - tank.gauge_y)
    litres = depth.mean() * tank.area * 1000
    for rods in tank.rods:
        radius = rods.rod_diameter / 2
        one = TANK(D=2 * radius, L=rods.stroke, horizontal=False).V_total * 1000  # the rod as a cylinder
        litres += rods.count * one * (ext[rods.id] - rods.extension_at_check)
    litres += tank.system_oil * 7e-4 * (tank.cold_c - oil)
    return (litres / 1000 / tank.area - 1.0) / tank.band


@given(seen=st.floats(-0.3, 1.3), oil=st.floats(-25, 49), pitch=st.floats(-2, 2), roll=st.floats(-2, 2), ext=extents)
def test_agrees_with_an_independent_calculation(
    seen: float, oil: float, pitch: float, roll: float, ext: dict[str, float]
) -> None:
    read = hydraulic_level(MODEL.tank, seen, oil, pitch, roll, ext)
    assert read.corrected == pytest.approx(independent(MODEL.tank, seen, oil, pitch, roll, ext), abs=1e-6)
    assert read.low is not None
    assert read.high is not None
    assert read.low < read.corrected < read.high


@given(st.floats(-0.3, 1.3), extents)
def test_reading_again_in_another_posture_gives_the_same_level(seen: float, ext: dict[str, float]) -> None:
    """Moving rods moves oil, not the corrected level."""
    tank = MODEL.tank
    moved = sum(rod_volume(r.count, r.rod_diameter, r.stroke, ext[r.id] - r.extension_at_check) for r in tank.rods)
    drop = moved / 1000 / tank.area / tank.band
    checked = {r.id: r.extension_at_check for r in tank.rods}
    in_posture = hydraulic_level(tank, seen, 20, 0, 0, checked)
    if -1.5 <= seen - drop <= 2.5:
        elsewhere = hydraulic_level(tank, seen - drop, 20, 0, 0, ext)
        assert elsewhere.corrected == pytest.approx(in_posture.corrected)


@pytest.mark.parametrize(
    ("pitch", "roll", "oil", "says"),
    [(3.1, 0, 20, "level ground"), (2.5, 2.5, 20, "level ground"), (0, -4, 20, "level ground"), (0, 0, 51, "cooled")],
)
def test_refused_with_the_sentence_why(pitch: float, roll: float, oil: float, says: str) -> None:
    read = hydraulic_level(WORKED, 0.5, oil, pitch, roll, {"arm": 0})
    assert read.judgement.band is Band.REFUSED
    assert read.corrected is None
    assert says in str(read.judgement.action)
    assert "°" in str(read.judgement.why)
    assert len(str(read.judgement.why)) > 40


def test_limits_themselves_are_read() -> None:
    assert hydraulic_level(WORKED, 0.5, 50.0, 3.0, 0, {"arm": 0}).corrected is not None
    assert slope_deg(3.0, 0.0) == pytest.approx(3.0)


@pytest.mark.parametrize(
    ("seen", "band", "says"),
    [
        (0.5, Band.IN_BAND, "Good. Do not top up."),
        (0.02, Band.IN_BAND, "close to the low mark"),
        (-0.2, Band.ACT, "Add about"),
        (-0.9, Band.STOP, "Do not start"),
        (1.2, Band.ACT, "Drain about"),
    ],
)
def test_judgement(seen: float, band: Band, says: str) -> None:
    read = hydraulic_level(WORKED, seen, 20, 0, 0, {"arm": 0})
    assert read.judgement.band is band
    assert says in str(read.judgement.action)


def test_low_in_the_wrong_posture_is_not_topped_up() -> None:
    read = hydraulic_level(WORKED, -0.1, -4, 0, 0, {"arm": 1})
    assert read.judgement.band is Band.IN_BAND
    assert "would overfill" in str(read.judgement.action)


@pytest.mark.parametrize(
    ("field", "bad"),
    [
        ("seen", float("nan")),
        ("seen", 9),
        ("oil_c", -300),
        ("oil_c", float("inf")),
        ("pitch_deg", 90),
        ("roll_deg", "3"),
    ],
)
def test_bad_input_names_its_field(field: str, bad: float) -> None:
    good = {"seen": 0.5, "oil_c": 20.0, "pitch_deg": 0.0, "roll_deg": 0.0}
    with pytest.raises(BadInput) as caught:
        hydraulic_level(WORKED, **{**good, field: bad}, extensions={"arm": 0})
    assert caught.value.field == field


@pytest.mark.parametrize("ext", [{}, {"arm": 1.2}, {"arm": float("nan")}])
def test_a_missing_or_wrong_rod_is_named(ext: dict[str, float]) -> None:
    with pytest.raises(BadInput, match=r"extensions\.arm"):
        hydraulic_level(WORKED, 0.5, 20, 0, 0, ext)


def test_parts() -> None:
    assert tilt_rise(0.25, 3) == pytest.approx(0.25 * 0.0524, rel=1e-3)
    assert expansion(100, 10) == pytest.approx(0.7)
    wider = replace(WORKED, area=0.9)
    assert hydraulic_level(wider, 0, 20, 0, 0, {"arm": 1}).posture == pytest.approx(
        hydraulic_level(WORKED, 0, 20, 0, 0, {"arm": 1}).posture / 2
    )
