"""A tablet that was laid down asks who is there: nobody signs in another's name because it lay open."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from jutrel.demo.story import PIN
from tests.browser.conftest import NewHand
from tests.browser.hand import Hand
from tests.conftest import Serve

pytestmark = pytest.mark.browser


def laid_down(me: Hand, minutes: int) -> None:
    """So long nobody touched it; then it is picked up, by a page that looks anew."""
    me.page.evaluate(f"localStorage.setItem('jutrel-touched', String(Date.now() - {minutes} * 60000))")
    me.page.reload()


def pin(me: Hand, digits: str) -> None:
    pad = me.see("idle")
    for digit in digits:
        pad.get_by_role("button", name=digit, exact=True).click()
    pad.locator("[data-test=enter]").click()


def test_it_asks_who_is_there_and_keeps_what_was_open(bare: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(bare), 390, 844)
    me.sign_in()
    me.begin_at("ex-04")
    laid_down(me, 14)
    me.see("panel").wait_for()
    expect(me.see("idle")).to_have_count(0)
    before = me.where()
    laid_down(me, 16)
    expect(me.see("idle")).to_contain_text("Is it still you, Mira Tolland?")
    assert me.axe() == []
    assert me.small_targets() == []
    assert me.sideways() <= 0
    # Nothing under it can be tapped or reached by keys.
    assert me.page.evaluate("document.querySelector('#main').inert")
    pin(me, "1357")
    expect(me.see("idle")).to_contain_text("PIN")
    expect(me.see("idle")).to_be_visible()
    # Emergency cards are for whoever picked it up; they need nobody's PIN.
    me.tap("idle-emergency")
    expect(me.page.get_by_role("heading", level=1)).to_contain_text("Emergency")
    expect(me.see("idle")).to_have_count(0)
    me.page.go_back()
    pin(me, PIN)
    expect(me.see("idle")).to_have_count(0)
    me.see("panel").wait_for()
    assert me.where() == before
    # Another one: the first is signed out.
    laid_down(me, 60)
    me.tap("idle-other")
    expect(me.page.get_by_role("button", name="Osk Brandel")).to_be_visible()
    me.sign_in("Osk Brandel")
    expect(me.see("idle")).to_have_count(0)
    assert me.errors == []


def test_a_run_is_never_covered(bare: str, serve: Serve, hand: NewHand) -> None:
    """Its page says stop, and who works touches the machine and not the tablet."""
    me = hand(serve(bare))
    me.sign_in()
    me.page.goto("/machines/ex-04/run")
    # Whole first: a page that learns who is signed in counts that as a touch, and would write over what is set below.
    expect(me.page.locator("main")).to_contain_text("EX-04")
    laid_down(me, 300)
    expect(me.page.locator("main")).to_contain_text("EX-04")
    expect(me.see("idle")).to_have_count(0)
    me.page.goto("/")
    expect(me.see("idle")).to_be_visible()


def test_with_no_connection_a_word_does_until_there_is_one(bare: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(bare))
    me.sign_in()
    laid_down(me, 20)
    expect(me.see("idle")).to_be_visible()
    me.page.context.set_offline(True)
    pin(me, PIN)
    me.tap("idle-word")
    expect(me.see("idle")).to_have_count(0)
    me.page.context.set_offline(False)
    expect(me.see("idle")).to_be_visible()
    pin(me, PIN)
    expect(me.see("idle")).to_have_count(0)
    assert me.errors == []
