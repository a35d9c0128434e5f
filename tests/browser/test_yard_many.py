"""The yard of a site with hundreds of machines: found by what people know of one, and drawn only where one looks."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import NewHand
from tests.browser.many import grown
from tests.conftest import Serve

pytestmark = pytest.mark.browser


def test_one_of_five_hundred_is_found_by_number_and_by_what_is_wrong(demo: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(demo))
    me.page.route("**/api/yard", grown)
    me.sign_in()
    me.page.get_by_role("button", name="List", exact=True).click()
    rows = me.page.locator("[data-test^=row-]")
    expect(rows.first).to_be_visible()
    assert rows.count() < 40, "only what is in sight is drawn"
    # By keyboard on to the others.
    first = rows.first.get_attribute("data-test")
    me.see("yard-list").focus()
    me.page.keyboard.press("End")
    expect(me.page.locator(f"[data-test={first}]")).to_have_count(0)
    # By its number, with or without the dash; the address keeps it.
    me.see("search-yard").fill("ex 0192")
    expect(rows).to_have_count(1)
    expect(rows.first).to_contain_text("EX-0192")
    me.page.wait_for_url("**/?words=ex*")
    me.page.reload()
    expect(rows).to_have_count(1)
    # By what is wrong with it, among those that are held.
    me.see("search-yard").fill("coupling")
    me.tap("only-held")
    expect(rows.first).to_contain_text("Held")
    assert all("coupling" in text.lower() for text in rows.locator(".why").all_inner_texts())
    me.page.wait_for_url("**only=held**")
    me.see("search-yard").fill("no such thing")
    expect(me.page.get_by_text("No machine fits")).to_be_visible()
    assert me.axe() == []


def test_five_machines_stand_on_a_phones_screen(demo: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(demo), 390, 844)
    me.sign_in()
    me.page.locator("[data-test^=row-]").first.wait_for()
    boxes = me.page.locator("[data-test^=row-]").evaluate_all("all => all.map(x => x.getBoundingClientRect().bottom)")
    assert sum(bottom <= 844 for bottom in boxes) >= 5
