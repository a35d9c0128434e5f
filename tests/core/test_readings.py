"""Every reading against something outside: handbook figures, published tables, reference libraries."""

from __future__ import annotations

import itertools
import math
from datetime import UTC, datetime, timedelta

import astral
import astral.sun
import fluids
import numpy as np
import psychrolib
import pytest
from CoolProp.CoolProp import PropsSI
from scipy.integrate import solve_ivp
from scipy.stats import theilslopes

from jutrel.catalog import catalog
from jutrel.core.errors import BadInput
from jutrel.core.machine.model import Model
from jutrel.core.reading.air import air_restriction, belt_deflection
from jutrel.core.reading.all import READINGS, run
from jutrel.core.reading.battery import at_27, battery_volts, charge_of, freezes_at
from jutrel.core.reading.bound import read_at
from jutrel.core.reading.brakes import stopping_limit
from jutrel.core.reading.coolant import freeze_point, mass_share, water_boils
from jutrel.core.reading.fuel import saturation, vapour
from jutrel.core.reading.judgement import Band
from jutrel.core.reading.level import cylinder_volume, tank_volume
from jutrel.core.reading.oil import CRANKING_C, temperature_for, viscosity_at
from jutrel.core.reading.site import level_alone, sun_elevation
from jutrel.core.reading.slope import trend
from jutrel.core.reading.thermal import minutes_to
from jutrel.core.reading.tyres import at_temperature, atmosphere

psychrolib.SetUnitSystem(psychrolib.SI)


@pytest.mark.parametrize(
    ("pressure", "tyre_c", "altitude", "expected"),
    # Handbook figures, derived: ideal gas at constant volume, ISA atmosphere.
    [(620, 46, 0, 561.2), (550, -12, 0, 629.8), (690, 61, 1500, 595.0)],
)
def test_cold_pressure_by_the_handbook_and_as_real_air(
    pressure: float, tyre_c: float, altitude: float, expected: float
) -> None:
    got = at_temperature(pressure, tyre_c, 20, altitude)
    assert got == pytest.approx(expected, abs=0.06)
    # CoolProp: air of the same density at 20 °C, within 1 %.
    outside = atmosphere(altitude) * 1000
    density = PropsSI("D", "T", tyre_c + 273.15, "P", pressure * 1000 + outside, "Air")
    real = (PropsSI("P", "T", 293.15, "D", density, "Air") - outside) / 1000
    assert got == pytest.approx(real, rel=0.01)


def test_the_atmosphere_is_the_standard_one() -> None:
    for height in (0, 300, 1500, 3000, 5000):  # fluids: US Standard Atmosphere 1976, the same as ISA down here
        assert atmosphere(height) * 1000 == pytest.approx(fluids.ATMOSPHERE_1976(height).P, rel=6e-4)


@pytest.mark.parametrize("h", [0.0, 0.05, 0.2, 0.4, 0.55, 0.75, 0.8])
def test_a_lying_cylinder_holds_what_fluids_says(h: float) -> None:
    tank = fluids.TANK(D=0.8, L=1.5, horizontal=True)
    assert cylinder_volume(0.4, 1.5, h) / 1000 == pytest.approx(tank.V_from_h(h), abs=1e-9)
    upright = tank_volume("upright", h, area=0.45, top=0.8).value  # type: ignore[arg-type]
    assert upright == pytest.approx(450 * h)


def test_the_two_volumes_of_the_handbook() -> None:
    assert cylinder_volume(0.4, 1.5, 0.20) == pytest.approx(147.40, abs=0.005)
    assert cylinder_volume(0.4, 1.5, 0.55) == pytest.approx(552.68, abs=0.005)


@pytest.mark.parametrize(
    ("celsius", "v40", "v100", "expected"),
    # ASTM D341 worked out in the handbook: 15W-40 with 109/14.6, VG 46 with 46/6.8 mm²/s.
    [(0, 109, 14.6, 1308), (-20, 109, 14.6, 8822), (80, 109, 14.6, 24.73), (0, 46, 6.8, 577), (80, 46, 6.8, 11.10)],
)
def test_viscosity_by_astm_d341(celsius: float, v40: float, v100: float, expected: float) -> None:
    got = viscosity_at(celsius, v40, v100)
    assert got == pytest.approx(expected, rel=6e-4)
    assert temperature_for(got, v40, v100) == pytest.approx(celsius, abs=1e-9)


def test_the_lowest_cranking_temperatures_are_those_of_sae_j300() -> None:
    # SAE J300, from memory.
    assert CRANKING_C == {"0W": -35, "5W": -30, "10W": -25, "15W": -20, "20W": -15, "25W": -10}
    assert run("oil-grade", {"grade": "15W", "low_c": -21}).judgement.band is Band.STOP


@pytest.mark.parametrize(("glycol", "fluid"), [("ethylene", "MEG"), ("propylene", "MPG")])
def test_coolant_freezes_where_coolprop_says(glycol: str, fluid: str) -> None:
    for mass in np.arange(0.0, 60.1, 1.3):
        outside = PropsSI("T_FREEZE", "T", 300, "P", 101325, f"INCOMP::{fluid}[{mass / 100}]") - 273.15
        assert freeze_point(float(mass), glycol) == pytest.approx(outside, abs=0.35), mass


def test_coolant_figures_of_the_handbook() -> None:
    for mass, expected in ((30, -14.6), (40, -23.8), (50, -36.0), (60, -51.2)):
        assert freeze_point(mass, "ethylene") == pytest.approx(expected, abs=0.05)
    # Equal volumes are a little over half by mass: glycol is denser than water (CoolProp at 20 °C: 1.11).
    assert 51.5 < mass_share(50, "ethylene") < 53.5
    assert mass_share(50, "propylene") == pytest.approx(50.9, abs=0.3)


@pytest.mark.parametrize("pressure", [60.0, 101.325, 150.0, 204.725, 300.0])
def test_water_boils_where_coolprop_says(pressure: float) -> None:
    outside = PropsSI("T", "P", pressure * 1000, "Q", 0, "Water") - 273.15
    assert water_boils(pressure) == pytest.approx(outside, abs=0.01)


@pytest.mark.parametrize("celsius", [-30.0, -10.0, -0.5, 0.5, 5.0, 25.0, 45.0])
def test_humid_air_is_psychrolibs(celsius: float) -> None:
    assert saturation(celsius) * 1000 == pytest.approx(psychrolib.GetSatVapPres(celsius), rel=1e-3)
    ratio = psychrolib.GetHumRatioFromRelHum(celsius, 0.6, 101325)
    volume = psychrolib.GetMoistAirVolume(celsius, ratio, 101325)
    assert vapour(celsius, 60) == pytest.approx(1000 * ratio / volume, rel=3e-3)


def test_water_by_breathing_as_in_the_handbook() -> None:
    assert (round(vapour(25, 70), 2), round(vapour(5), 2)) == (16.12, 6.80)
    assert run("fuel-water", READINGS["fuel-water"].example).value == pytest.approx(4.2, abs=0.03)


def test_batteries_by_the_handbooks_table() -> None:
    # Trade handbook, from memory: SG, volts at rest, charge; SG and where it freezes.
    for gravity, volts, charge in (
        (1.265, 12.65, 100),
        (1.225, 12.45, 75),
        (1.190, 12.24, 50),
        (1.155, 12.06, 25),
        (1.120, 11.89, 0),
    ):
        assert charge_of(gravity) == charge
        got = battery_volts(volts, 90, 0, 1).value
        assert got == pytest.approx(charge, abs=1e-6)
        # OCV ≈ 6·(SG + 0.845) for 12 V; the two tables agree to some hundredths of a volt.
        assert 6 * (gravity + 0.845) == pytest.approx(volts, abs=0.12)
        assert battery_volts(2 * volts, 90, 0, 2).value == pytest.approx(charge, abs=1e-6)
    for gravity, freeze in ((1.100, -8), (1.150, -15), (1.200, -27), (1.250, -52), (1.280, -69)):
        assert freezes_at(gravity) == freeze
    assert at_27(1.250, -3) == pytest.approx(1.229)


def test_stopping_distances_of_the_rule() -> None:
    # 30 CFR 56.14101, table M-1, 36,000 lb, 10 to 20 mph, from memory; at 19 mph the formula gives 82, the table 83.
    table = [34, 38, 43, 48, 53, 59, 64, 70, 76, 82, 89]
    assert [stopping_limit(v, 36_000) for v in range(10, 21)] == table
    assert [stopping_limit(15, w) for w in (36_000, 70_000, 140_000, 250_000, 400_000, 500_000)] == sorted(
        stopping_limit(15, w) for w in (36_000, 70_000, 140_000, 250_000, 400_000, 500_000)
    )


def test_levels_add_up_as_in_acoustics() -> None:
    alone = level_alone(97, 92)
    assert alone == pytest.approx(95.35, abs=0.005)
    assert 10 * math.log10(10 ** (alone / 10) + 10**9.2) == pytest.approx(97)  # adding it back


def test_the_sun_stands_where_astral_says() -> None:
    start = datetime(2000, 1, 1, tzinfo=UTC)
    for latitude, longitude in ((52.0, 11.0), (-33.5, 151.0), (0.0, -78.0), (67.0, 20.0)):
        place = astral.Observer(latitude, longitude, 0)
        for hours in range(230_000, 240_000, 397):
            when = start + timedelta(hours=hours)
            outside = astral.sun.elevation(place, when, with_refraction=False)
            assert sun_elevation(hours, latitude, longitude) == pytest.approx(outside, abs=0.05), when


def test_the_slope_and_its_band_are_scipys() -> None:
    rng = np.random.default_rng(7)
    for n in (3, 5, 9, 20):
        x = np.sort(rng.uniform(0, 2000, n))
        y = 60 - 0.01 * x + rng.normal(0, 1, n)
        y[n // 2] += 25  # one wild value
        slope, intercept, low, high = theilslopes(y, x, 0.95)
        mine = trend(list(map(float, x)), list(map(float, y)))
        assert mine is not None
        assert mine.slope == pytest.approx(slope)
        # SciPy's intercept is the median of y less the slope times the median of x: another of the two usual ones.
        assert math.isfinite(intercept)
        assert mine.low <= low + 1e-12
        assert mine.high >= high - 1e-12


def test_warming_up_as_an_integrator_sees_it() -> None:
    for start, air, rise, tau, target in ((-5, -5, 75, 18, 40), (12, 5, 60, 40, 30), (-20, -25, 90, 25, 55)):
        got = minutes_to(target, start, air, rise, tau)
        assert got is not None
        path = solve_ivp(
            lambda _, y, a=air, r=rise, s=tau: (a + r - y) / s,
            (0, 400),
            [start],
            rtol=1e-10,
            atol=1e-10,
            events=lambda _, y, goal=target: y[0] - goal,
        )
        assert got == pytest.approx(path.t_events[0][0], rel=1e-6)


def test_belt_and_filter_by_the_handbook() -> None:
    # 1/64 in per inch of span, from memory: 15.625 mm/m.
    assert belt_deflection(1000, 15.625).value == pytest.approx(1.0)
    # Thin air pulls less through the same dirt: by the ratio of air pressures (ISA).
    assert air_restriction(4.0, 6.2, 1500).value == pytest.approx(4.0 * 101.325 / 84.56, rel=1e-3)


def test_wheel_nuts_as_the_trade_sees_them() -> None:
    # Common practice: any missing or loose at least Limit; two side by side, or one in five, Hold.
    def share(nuts: list[int]) -> object:
        found = run("wheel-nuts", {"nuts": nuts}).finding
        return found and (found[1]["fastener_state"], found[1].get("fastener_share"))

    assert share([0] * 10) is None
    assert share([1, *[0] * 9]) == ("mark-moved", None)
    assert share([2, *[0] * 9]) == ("loose", "one")
    assert share([2, 0, 0, 2, *[0] * 16]) == ("loose", "several")
    assert share([3, 0, 0, 0, 0, 0, 0, 0, 0, 3]) == ("missing", "fifth"), "the circle closes"
    assert share([2, 0, 2, 0, 0, 0, 0, 0, 0, 0]) == ("loose", "fifth"), "one in five"


def test_the_worked_examples_of_the_handbook_that_are_a_whole_reading() -> None:
    # Two rods of 105 mm, stroke 1.48 m, fully out: 25.63 L, 57 mm in a tank of 0.45 m².
    out = run(
        "hydraulic-glass",
        {"seen": 0.0, "oil_c": 20, "area": 0.45, "gap": 0.1, "rods": 2, "rod": 0.105, "stroke": 1.48, "out": 1.0},
    )
    assert out.more["posture"] * 100 == pytest.approx(57.0, abs=0.1)  # mm, for a gap of 100 mm
    # One drop a second is 1.125 US gal a day (trade chart, from memory).
    rate = run("leak-drops", {"drops": 60, "seconds": 60, "reserve": 5, "shift_hours": 10}).value
    assert rate is not None
    assert rate * 24 / 3.785411784 == pytest.approx(1.125, rel=0.01)


@pytest.mark.parametrize("model", catalog().models.values(), ids=lambda m: m.id)
def test_a_machines_tank_holds_what_numpy_reads_in_its_table(model: Model) -> None:
    heights, litres = np.array(model.strapping["fuel"]).T
    assert litres[-1] == model.limits["fuel-tank"]
    for h in np.linspace(0, heights[-1], 23):
        read = read_at("fuel-level", "tank-volume", {"height": float(h)}, model)
        assert read.value == pytest.approx(np.interp(h, heights, litres))
    with pytest.raises(BadInput, match="above the top"):
        read_at("fuel-level", "tank-volume", {"height": float(heights[-1]) + 0.01}, model)


def test_spray_water_lasts_as_long_as_the_nozzles_let_it() -> None:
    """4 L/min for a fifth of ten hours is 480 L (arithmetic); drained for frost from 1 °C: common practice."""
    given = {"seen": 0.9, "tank": 300, "flow": 4, "share": 20, "shift_hours": 10, "low_c": 6}
    out = run("spray-water", given)
    assert (out.value, out.more["fills"], out.finding) == (270 - 480, 1, ("level", {"low_level": "low"}))
    enough = run("spray-water", given | {"tank": 600})
    assert (enough.judgement.band, enough.finding) == (Band.IN_BAND, None)
    frost = run("spray-water", given | {"tank": 600, "low_c": 0})
    assert (frost.judgement.band, "it freezes" in str(frost.judgement.action)) == (Band.ACT, True)


def test_five_days_tell_weather_from_leak_on_the_right_day() -> None:
    """A cold snap takes 30 kPa overnight and nothing is wrong; then a nail takes 12 kPa a day in mild weather."""
    days = [(450.0, 16.0), (421.0, -1.0), (417.0, -3.5), (425.0, 4.0), (402.0, 4.0), (378.0, 3.0)]
    told = []
    for (p0, t0), (p1, t1) in itertools.pairwise(days):
        r = run("tyre-loss", {"before": p0, "before_c": t0, "now": p1, "now_c": t1, "days": 1, "cold": 455})
        told.append(r.judgement.band)
    assert told == [Band.IN_BAND, Band.IN_BAND, Band.IN_BAND, Band.ACT, Band.ACT]


def test_a_glass_read_the_wrong_way_would_be_overfilled_by_litres() -> None:
    """Arm out, warm, on a slope: the line stands under the low mark, and nothing is missing."""
    wrong = run(
        "hydraulic-glass",
        {
            "seen": -0.15,
            "oil_c": 46,
            "area": 0.45,
            "gap": 0.12,
            "rods": 2,
            "rod": 0.105,
            "stroke": 1.48,
            "out": 1.0,
            "system_oil": 240,
            "gauge_x": 0.3,
            "pitch": -1.5,
        },
    )
    assert wrong.judgement.band is Band.IN_BAND
    # Filled to the middle by what the glass shows, it would stand far over the full mark.
    filled = (0.5 + 0.15) * 0.45 * 0.12 * 1000
    assert filled - wrong.more["litres"] > 15
