"""Today: what waits for whoever asks stands first, and one tap leads to it."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import NewHand
from tests.conftest import Serve

pytestmark = pytest.mark.browser
THUMB = 844 / 3
"""On a phone held in one hand, what is used most lies below this line, px."""


def test_an_operator_finds_the_machine_and_starts_it_with_one_hand(demo: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(demo), 390, 844)
    me.sign_in()
    me.tap("today")
    mine = me.see("mine-ex-01")
    expect(mine).to_contain_text("Ready")
    box = mine.get_by_test_id("start").bounding_box()
    assert box is not None
    assert box["y"] >= THUMB
    assert box["height"] >= 64
    mine.get_by_test_id("start").click()
    me.see("begin-run").wait_for()
    # Another machine by what stands on its label, however it is written.
    me.page.goto("/today")
    me.see("find-machine").fill("ex 04")
    me.tap("found-ex-04")
    me.see("begin").wait_for()
    me.tap("begin")
    me.see("panel").wait_for()
    # Whoever is called away in the middle comes back to it from anywhere.
    me.page.goto("/today")
    me.see("mine-ex-04").get_by_test_id("go-on").click()
    me.see("panel").wait_for()
    me.page.goto("/today")
    me.see("find-machine").fill("ZZ-99")
    expect(me.page.get_by_text("No machine of this site fits")).to_be_visible()
    assert me.axe() == []


def test_a_supervisor_sees_first_what_waits_for_a_word(demo: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(demo))
    me.sign_in("Pell Aronsk")
    me.tap("today")
    waits = me.see("today-waits")
    expect(waits).to_contain_text("EX-02")
    expect(me.page.locator("h2").first).to_have_text("Waits for your word")
    held = me.see("today-held")
    for machine in ("AH-07", "EX-03", "LD-05"):
        expect(held).to_contain_text(machine)
    expect(me.see("today-walks")).to_contain_text("EX-04")
    assert me.axe() == []
    assert me.small_targets() == []
    waits.get_by_role("link", name="Look at it").first.click()
    me.tap("do-accepted")


def test_who_may_not_repair_asks_with_one_tap_and_a_mechanic_sees_it_first(
    demo: str, serve: Serve, hand: NewHand
) -> None:
    base = serve(demo)
    me, you = hand(base, 390, 844), hand(base)
    me.sign_in()
    me.page.goto("/defects/ex-03")
    me.see("ask-mechanic").first.click()
    expect(me.see("asked-mechanic").first).to_contain_text("stands on their page Today")
    me.page.goto("/machines/ex-03/life?group=defects")
    expect(me.see("event-defects").first).to_contain_text("Help asked for")
    you.sign_in("Dag Hollmer")
    you.tap("today")
    expect(you.see("today-waits")).to_contain_text("You are asked for this.")
    you.see("today-waits").get_by_role("link", name="Look at it").first.click()
    expect(you.page.locator(".steps").first).to_contain_text("Mira Tolland asked a mechanic.")
    assert me.axe() == you.axe() == []
    assert me.errors == you.errors == []


def test_a_mechanic_sees_first_what_holds_machines(demo: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(demo))
    me.sign_in("Dag Hollmer")
    me.tap("today")
    repairs = me.see("today-repairs")
    expect(repairs.locator("article").first).to_contain_text("EX-03")
    assert "repair" in me.page.locator("h2").first.inner_text()
    assert me.axe() == []
    repairs.get_by_role("link").first.click()
    me.see("do-released").wait_for()


def test_who_may_not_see_a_page_asks_with_one_tap(bare: str, serve: Serve, hand: NewHand) -> None:
    """And sees what became of it; whoever may do it is led to the page."""
    base = serve(bare)
    me = hand(base)
    me.sign_in("Mira")
    me.page.goto(f"{base}/people")
    expect(me.see("ask-bar")).to_contain_text("Administrator")
    me.tap("ask-them")
    expect(me.see("ask-bar")).to_contain_text("They see it on Today")
    assert me.axe() == []
    me.page.goto(f"{base}/today")
    expect(me.page.get_by_test_id("ask-bar")).to_have_count(0)
    expect(me.see("asks")).to_contain_text("the page “People”")
    me.sign_out()
    me.sign_in("Rolf")
    me.page.goto(f"{base}/today")
    me.see("asks").get_by_role("link", name="Open the page").click()
    expect(me.page.get_by_role("heading", name="People", exact=True)).to_be_visible()
    me.page.goto(f"{base}/today")
    me.tap("ask-done")
    expect(me.page.get_by_test_id("asks")).to_have_count(0)


def test_on_a_phone_the_menu_has_one_row_and_the_rest_on_a_tap(bare: str, serve: Serve, hand: NewHand) -> None:
    base = serve(bare)
    for width in (390, 320):
        me = hand(base, width, 844)
        me.sign_in("Rolf")
        me.page.goto("/today")
        nav = me.page.get_by_role("navigation").first
        shown = nav.locator(".tab:visible")
        expect(shown).to_have_count(5)
        assert shown.evaluate_all("all => all.every((e) => e.getBoundingClientRect().right <= innerWidth)")
        expect(me.see("more-pages")).to_have_attribute("aria-expanded", "false")
        me.tap("more-pages")
        expect(shown).to_have_count(9)
        assert shown.evaluate_all("all => all.every((e) => e.getBoundingClientRect().right <= innerWidth)")
        assert me.axe() == []
        nav.get_by_role("link").last.click()
        me.page.wait_for_url("**/people")
        expect(shown).to_have_count(5)
    wide = hand(base, 1280, 800)
    wide.sign_in("Rolf")
    expect(wide.see("more-pages")).to_be_hidden()
