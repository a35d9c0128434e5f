"""Devices fill what a reading asks for; the shift's needs; the plan in the hand; the rest of a station in one tap."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import NewHand
from tests.conftest import Serve
from tests.device import PIN

pytestmark = pytest.mark.browser


def test_a_gauge_is_set_taken_and_switched_off(demo: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(demo, JUTREL_DEMO_PIN=PIN))
    me.sign_in()
    me.page.goto("/instruments")
    me.see("instruments-of").click()
    me.page.get_by_role("option", name="LD-05").click()
    gauge = me.see("device-tyre-gauge")
    me.see("says-tyre-gauge-pressure").fill("262")
    me.see("says-tyre-gauge-pressure").press("Tab")
    expect(gauge).to_contain_text("by Mira Tolland: a stand-in")
    me.see("says-tyre-gauge-pressure").fill("9000")
    me.see("says-tyre-gauge-pressure").press("Tab")
    expect(gauge.get_by_role("alert")).to_contain_text("outside 0 to 1500")
    me.begin_at("ld-05")
    me.station(me.place("wheel-loader", "tyre-rear-left"))
    me.tap("read-tyre-rear-left-tyre-pressure")
    # The weather station fills the tyre's warmth, and says that it is a stand-in.
    expect(me.see("reading-dialog")).to_contain_text(re.compile(r"Weather station, \d+ min ago \(a stand-in\)"))
    expect(me.see("keep")).to_be_disabled()
    me.tap("take-tyre-gauge")
    expect(me.see("dial")).to_have_attribute("aria-valuenow", "262")
    expect(me.see("keep")).to_be_enabled()
    # A hand that says otherwise: both are kept, and the gauge's is the worse.
    me.see("in-pressure").fill("290")
    me.see("in-pressure").press("Tab")
    expect(me.see("both-kept")).to_contain_text("Pressure on the gauge: 262 kPa")
    me.tap("keep")
    expect(me.see("taken-tyre-rear-left-tyre-pressure")).to_contain_text("Inflate it to")
    me.page.goto("/instruments")
    me.see("instruments-of").click()
    me.page.get_by_role("option", name="LD-05").click()
    me.see("on-tyre-gauge").click()
    expect(gauge).to_contain_text("Switched off")
    assert me.errors == []


def test_the_shifts_needs_follow_the_work_and_the_weather(demo: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(demo, JUTREL_DEMO_PIN=PIN))
    me.sign_in()
    me.page.goto("/machines/ex-01/start")
    fuel = me.see("need-fuel-shift")
    expect(fuel).to_contain_text("Enough")
    me.page.get_by_role("button", name="Hard work").click()
    expect(fuel).to_contain_text("178 L for 8 h of this work")
    expect(me.see("need-oil-grade")).to_contain_text("This oil will do")
    me.page.goto("/instruments")
    me.see("says-weather-station-low_c").fill("-33")
    me.see("says-weather-station-low_c").press("Tab")
    expect(me.see("device-weather-station")).to_contain_text("by Mira Tolland")
    me.page.goto("/machines/ex-01/start")
    expect(me.see("need-oil-grade")).to_contain_text("Too thick for that cold")
    assert me.errors == []


def test_the_plan_is_turned_dragged_and_made_whole_again(bare: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(bare))
    me.sign_in()
    me.begin("ex-04")
    plan = me.page.locator("svg.map")
    whole = plan.get_attribute("viewBox")
    me.tap("ahead-up")
    first, second = (me.see(f"st-{s}").bounding_box() for s in ("approach", "cab-side"))
    assert first
    assert second
    assert second["y"] < first["y"], "the way ahead is up"
    assert abs(second["x"] - first["x"]) < 40
    me.tap("nearer")
    me.tap("nearer")
    near = plan.get_attribute("viewBox")
    box = plan.bounding_box()
    assert box
    # Dragged from a station's dot to another place: no station is gone to.
    me.page.mouse.move(second["x"] + 10, box["y"] + box["height"] - 60)
    me.page.mouse.down()
    me.page.mouse.move(box["x"] + 80, box["y"] + 200, steps=8)
    me.page.mouse.up()
    assert plan.get_attribute("viewBox") != near
    me.stands_at("approach")
    me.tap("whole")
    expect(plan).to_have_attribute("viewBox", str(whole))
    expect(me.see("whole")).to_have_count(0)


def test_the_rest_is_sound_after_its_time_and_never_for_what_a_life_depends_on(
    bare: str, serve: Serve, hand: NewHand
) -> None:
    me = hand(serve(bare))
    me.page.clock.install()
    me.sign_in()
    me.begin("ex-04")
    me.station(me.place("crawler-excavator", "engine-oil"))
    rest = me.see("rest")
    expect(rest).to_be_disabled()
    me.page.clock.fast_forward("10:00")
    expect(rest).to_be_enabled()
    life = [c for c in me.cards() if me.life("crawler-excavator", c)]
    rest.click()
    expect(rest).to_have_count(0)
    for checkpoint in life:
        expect(me.card(checkpoint).locator("[aria-pressed=true]")).to_have_count(0)
    expect(me.page.locator(".panel article.sound").first).to_be_visible()
    assert me.errors == []
