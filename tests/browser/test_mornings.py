"""Three mornings, each from the page that a person comes to: the supervisor's first minutes, the mechanic's, and an
operator's who scans a label with a phone in one hand."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Locator, expect

from tests.api.test_incidents import tell
from tests.browser.conftest import NewHand
from tests.browser.hand import Hand
from tests.browser.test_run import Clock, ready
from tests.conftest import Serve
from tests.device import Device
from tests.patience import client

pytestmark = pytest.mark.browser
THUMB = 844 / 3
"""On a phone held in one hand, what is used most lies below this line, px."""


def come_in(me: Hand, name: str) -> None:
    """Signed in, on one's own page."""
    me.page.goto("/")
    me.page.get_by_role("button", name=name).click()
    me.type_pin("2468")
    expect(me.page.get_by_role("heading", name=me.say("today.title"), level=1)).to_be_visible()


def test_a_supervisor_goes_through_what_waits_what_stands_and_who_is_missing(
    demo: str, serve: Serve, hand: NewHand
) -> None:
    me = hand(serve(demo))
    come_in(me, "Pell Aronsk")
    # What waits for a word: looked at on its own page, said by name with the PIN, and gone from the list.
    waits = me.see("today-waits").locator("li", has_text="EX-02")
    expect(waits.first).to_be_visible()
    before = waits.count()
    waits.first.get_by_role("link").click()
    me.page.locator("article.marked, article.defect").get_by_test_id("do-accepted").first.click()
    me.see("act-note").fill("by day only, seen myself")
    me.tap("act-send")
    me.pin_again()
    expect(me.page.get_by_role("dialog")).to_have_count(0)
    me.tap("today")
    expect(me.see("today-waits").locator("li", has_text="EX-02")).to_have_count(before - 1)
    # What stands, and why: to the finding, and on to the machine's life without going back.
    held = me.see("today-held").locator("li", has_text="EX-03")
    expect(held).to_contain_text("Main pump")
    held.get_by_role("link", name="EX-03").click()
    expect(me.see("state")).to_contain_text("Do not start it")
    me.see("next").click()
    expect(me.page.locator("article.defect").first).to_contain_text("Main pump")
    me.page.go_back()
    me.see("whole-life").click()
    expect(me.page.locator("[data-test^=event-]").first).to_be_visible()
    # Who walks now, and which machine nobody has walked round.
    me.tap("today")
    walks = me.see("today-walks")
    expect(walks).to_contain_text("EX-04")
    walks.locator(".chips a").first.click()
    expect(me.see("state")).to_contain_text("Not yet inspected")
    assert me.axe() == me.errors == []


def test_a_mechanic_takes_the_first_machine_that_stands_and_hands_it_on(demo: str, serve: Serve, hand: NewHand) -> None:
    base = serve(demo)
    me = hand(base)
    come_in(me, "Dag Hollmer")
    repairs = me.see("today-repairs")
    first = repairs.locator("article", has_text="EX-03")
    first.get_by_role("link", name="Main pump").click()
    card = me.page.locator("article.defect", has_text="Main pump").first
    expect(card.locator("svg").first).to_be_visible()
    card.get_by_test_id("do-isolated").click()
    me.see("act-note").fill("battery off, locked, pressure let off")
    me.tap("act-send")
    expect(card).to_contain_text("In repair")
    card.get_by_test_id("do-released").click()
    me.see("act-note").fill("new ring fitted")
    me.see("act-parts").fill("ring 28.2 x 2.6")
    me.tap("act-send")
    me.pin_again()
    expect(card).to_contain_text("Another person has to check it")
    me.tap("today")
    expect(me.see("today-repairs").get_by_role("link", name="Main pump")).to_have_count(0)
    # It does not go by his word: another hand sees it first on their own page, and it stands until then.
    you = hand(base)
    come_in(you, "Pell Aronsk")
    waits = you.see("today-waits").locator("li", has_text="Main pump")
    expect(waits).to_have_count(1)
    expect(you.see("today-held")).to_contain_text("EX-03")
    waits.get_by_role("link").click()
    you.page.locator("article.defect", has_text="Main pump").get_by_test_id("do-rechecked").click()
    you.tap("act-send")
    you.pin_again()
    you.tap("today")
    expect(you.see("today-waits").locator("li", has_text="Main pump")).to_have_count(0)
    expect(you.see("today-held").locator("li", has_text="EX-03")).to_have_count(0)
    assert me.errors == you.errors == []


def low(target: Locator) -> None:
    """Taps what a thumb reaches: in the lower two thirds, without scrolling first where it is seen."""
    expect(target).to_be_enabled()
    box = target.bounding_box()
    assert box is not None
    assert box["y"] + box["height"] / 2 >= THUMB, (target, box)
    assert box["height"] >= 55.5
    target.click()


def test_a_label_says_that_a_machine_must_not_start_where_no_finding_holds_it(
    bare: str, serve: Serve, hand: NewHand
) -> None:
    base = serve(bare)
    with client(base) as http:
        mira = Device(http)
        mira.sign_in()
        mira.whole("ex-01")
        tell(mira, "ex-01", "tipped", note="over the edge")
    me = hand(base, 390, 844)
    me.page.goto("/machines/ex-01/start")
    me.page.get_by_role("button", name="Mira Tolland").click()
    me.type_pin("2468")
    expect(me.see("stands-now")).to_contain_text("Held")
    low(me.see("stands-next"))
    expect(me.see("state")).to_contain_text("Held")
    assert me.axe() == me.errors == []


def test_an_operator_goes_from_the_label_to_the_engine_with_one_hand(
    demo: str, serve: Serve, hand: NewHand, tmp_path: Path
) -> None:
    clock = Clock(tmp_path / "ahead")
    me = hand(serve(demo, CLOCK=str(clock.file)), 390, 844)
    me.page.goto("/machines/ex-01/start")  # what the code on the label says
    me.page.get_by_role("button", name="Mira Tolland").click()
    for digit in "2468":
        low(me.page.get_by_role("button", name=digit, exact=True))
    low(me.see("enter"))
    stands = me.see("stands-now")
    expect(stands).to_contain_text("Ready")
    low(me.see("stands-next"))
    low(me.see("begin-run"))
    engine = me.see("crank")
    for _ in range(60):
        expect(
            me.page.locator("[data-test^=now-]:not(.later)").or_(me.page.locator("[data-test=crank]:enabled")).first
        ).to_be_visible()
        if engine.is_enabled():
            break
        step = str(me.page.locator("[data-test^=now-]").first.get_attribute("data-test"))
        ready(me, step[4:])
        if me.see("left").count() or (step == "now-preheat-second" and me.see("yes").is_disabled()):
            clock.forward(12)
        low(me.see(step).get_by_test_id("yes"))
        expect(me.see(step)).to_have_count(0)
    low(engine)
    low(me.see("runs"))
    expect(me.see("engine")).to_have_attribute("data-engine", "running")
    assert me.errors == []
