"""Every reading by itself and in the walk of a machine; taken with its picture, kept, taken back."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import expect

from jutrel.catalog import catalog
from jutrel.core.machine.model import walk_of
from jutrel.core.reading.all import READINGS, run
from jutrel.demo.story import MACHINES
from tests.browser.conftest import NewHand
from tests.browser.hand import Hand
from tests.conftest import Serve
from tests.deep import DEEP

pytestmark = pytest.mark.browser
KEYS = sorted(READINGS)


def places() -> dict[str, list[tuple[str, str, str]]]:
    """For each machine of the demo, which readings are tried there, each where it is first found."""
    left, out = set(KEYS) - {"hydraulic-glass"}, {}  # that one is the glass on its own card
    for m in (m for m in MACHINES if m.id in ("ex-04", "ld-05", "dz-06", "gr-09")):
        walk = walk_of(catalog().models[m.model], frozenset(m.options))
        for c in walk.checkpoints:
            for b in c.readings:
                if b.reading in left:
                    left.discard(b.reading)
                    out.setdefault(m.id, []).append((c.station, c.id, b.reading))
    assert not left, left
    return out


PLACES = places()


def test_every_calculator_says_what_the_core_says(demo: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(demo))
    me.sign_in()
    me.page.goto("/readings")
    for key in KEYS:
        me.tap(f"calc-{key}")
        told = run(key, READINGS[key].example)
        expect(me.see("judgement")).to_contain_text(str(told.judgement.action))
        expect(me.page.get_by_role("heading", name=str(READINGS[key].title), exact=True)).to_be_visible()
    assert me.errors == []


@pytest.mark.parametrize("machine", sorted(PLACES) if DEEP else sorted(PLACES)[-1:])
def test_every_reading_is_reached_in_the_walk_of_a_machine(
    bare: str, serve: Serve, hand: NewHand, machine: str
) -> None:
    me = hand(serve(bare))
    me.sign_in()
    me.begin(machine)
    for station, checkpoint, key in PLACES[machine]:
        if me.where() != station:
            me.station(station)
        me.tap(f"read-{checkpoint}-{key}")
        expect(me.see("reading-dialog")).to_be_visible()
        expect(me.see("keep")).to_be_visible()
        me.page.keyboard.press("Escape")
        expect(me.see("reading-dialog")).to_have_count(0)
    if machine == "ex-04":
        me.station("front-right")
        me.see("glass").press("ArrowUp")
        expect(me.see("ghost")).to_have_count(1)  # a level line has no height
    assert me.errors == []


@pytest.fixture
def me(bare: str, serve: Serve, hand: NewHand) -> Iterator[Hand]:
    mine = hand(serve(bare))
    mine.sign_in()
    yield mine
    assert mine.errors == []


def test_a_flat_tyre_is_found_among_all_and_taken_back(me: Hand) -> None:
    me.begin("ld-05")
    me.tap("read-tyres-all-tyre-set")
    me.see("tyre-2").click()
    expect(me.see("keep")).to_be_disabled()  # where the needles start is nobody's reading
    for _ in range(3):
        me.see("dial").press("PageDown")
    expect(me.see("judgement")).to_contain_text("Tyre 3: Do not fill it")
    me.tap("keep")
    taken = me.see("taken-tyres-all-tyre-set")
    expect(taken).to_contain_text("Tyre 3: Do not fill it")
    me.all_sent()
    me.page.goto(me.page.url + "/verdict")
    expect(me.see("outcome")).to_contain_text("Held")
    expect(me.see("says").first).to_contain_text("Tyre 3")
    expect(me.see("readings")).to_contain_text("All tyres together")
    me.page.go_back()
    me.stands_at("approach")
    me.page.get_by_role("button", name="Undo").click()
    me.page.get_by_label(me.say("walk.why")).or_(me.page.get_by_role("dialog").locator("textarea, input")).first.fill(
        "wrong needle"
    )
    me.tap("save-text")
    expect(taken).to_have_count(0)


def test_figures_are_typed_with_units_and_low_oil_is_filled(me: Hand) -> None:
    me.begin("ex-04")
    me.station("deck")
    me.tap("read-engine-oil-engine-oil")
    me.see("level").focus()
    for _ in range(4):
        me.see("level").press("PageDown")
    me.see("in-minutes").fill("3 h")
    me.see("in-minutes").press("Enter")
    expect(me.see("judgement")).to_contain_text("Low. Before it starts, add about")
    expect(me.see("keep")).to_be_enabled()
    me.tap("keep")
    expect(me.see("taken-engine-oil-engine-oil")).to_contain_text("Low.")
    # Filled and read again, with a word of it.
    me.tap("read-engine-oil-engine-oil")
    expect(me.page.get_by_text("Found here in this look")).to_be_visible()
    me.see("level").press("ArrowUp")
    me.see("in-minutes").fill("185")
    me.see("in-minutes").press("Enter")
    me.see("read-put-right").fill("Filled 4 L, no leak found")
    expect(me.see("judgement")).to_contain_text("Good.")
    me.tap("keep")
    expect(me.see("taken-engine-oil-engine-oil")).to_contain_text("Good.")
    me.all_sent()
    me.page.goto(me.page.url + "/verdict")
    expect(me.page.get_by_text("Found and put right").locator("visible=true").first).to_be_visible()


def test_the_other_units_are_shown_and_understood(demo: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(demo))
    me.sign_in()
    me.page.goto("/readings/tyre-pressure")
    expect(me.see("value")).to_have_text("561 kPa")
    me.tap("units-us")
    expect(me.see("value")).to_have_text("81.4 psi")
    me.see("in-pressure").fill("80")
    me.see("in-pressure").press("Enter")
    expect(me.see("value")).to_have_text("72.3 psi")
    me.see("in-pressure").fill("5.5 bar")
    me.see("in-pressure").press("Enter")
    expect(me.see("value")).to_have_text("72.1 psi")
    me.see("in-pressure").fill("5.5 gallons")
    me.see("in-pressure").press("Enter")
    expect(me.page.get_by_role("alert")).to_contain_text("is no unit for this")
    # What was read on a machine is there to be looked at over time.
    me.page.goto("/machines/ex-01/readings")
    expect(me.see("series-engine-oil-engine-oil").get_by_test_id("plot")).to_be_visible()
    expect(me.page.locator("[data-test^=series-]")).to_have_count(3)
    # The same values as a table, in a file, as a picture, and nearer by button and by key.
    row = me.see("series-engine-oil-engine-oil")
    row.locator("canvas").wait_for()
    row.locator("summary").click()
    expect(row.locator("td.value").first).to_contain_text("%")
    expect(row.get_by_test_id("zoom-all")).to_have_count(0)
    row.get_by_test_id("zoom-in").click()
    expect(row.get_by_test_id("zoom-all")).to_be_visible()
    row.get_by_test_id("plot").press("0")
    expect(row.get_by_test_id("zoom-all")).to_have_count(0)
    with me.page.expect_download() as table:
        row.get_by_test_id("plot-csv").click()
    lines = Path(table.value.path()).read_text("utf-8-sig").splitlines()
    assert lines[0] == "time,what,low,high,unit,by,event"
    assert len(lines) > 4
    assert all(line.count(",") >= 6 for line in lines)
    with me.page.expect_download() as picture:
        row.get_by_test_id("plot-png").click()
    assert Path(picture.value.path()).read_bytes().startswith(b"\x89PNG")
    assert me.errors == []
