"""What goes wrong at the tablet, and what the page says then."""

from __future__ import annotations

import pytest
from playwright.sync_api import Route, expect

from jutrel.demo.story import PEOPLE
from tests.browser.conftest import NewHand
from tests.conftest import Serve

pytestmark = pytest.mark.browser


def test_a_wrong_pin(bare: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(bare))
    me.page.goto("/walk/ex-01/nowhere")  # leads to the door first
    me.page.get_by_role("button", name="Osk Brandel").click()
    for _ in range(3):
        for digit in "1111":
            me.page.keyboard.press(digit)
        with me.page.expect_response("**/api/session"):
            me.page.keyboard.press("Enter")
        expect(me.page.get_by_role("alert")).to_contain_text("do not belong together")
    expect(me.page.get_by_role("alert")).to_contain_text("Wait 2 s")
    me.page.get_by_role("button", name="Ines Varro").click()
    expect(me.page.get_by_role("alert")).to_be_empty()


def test_signed_out_elsewhere_in_the_middle_of_a_walk(bare: str, serve: Serve, hand: NewHand) -> None:
    """The session ends under the walk: taps stay, and go out when somebody signs in again."""
    me = hand(serve(bare))
    me.sign_in()
    me.begin("ex-01")
    me.sound("stance")
    me.all_sent()
    me.page.request.delete("/api/session")
    me.sound("pools")
    expect(me.see("connection")).to_contain_text("Sign in to send 1")
    walk = me.page.url
    me.page.goto("/")
    me.page.get_by_role("heading", name="Who are you?").wait_for()
    me.sign_in("Osk Brandel")
    me.page.goto(walk)
    expect(me.card("pools").get_by_role("button", name="Sound", exact=True)).to_have_attribute("aria-pressed", "true")
    me.all_sent()


def test_an_entry_that_is_not_taken_is_shown(bare: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(bare))
    # Served without TLS: the pen is no key pair, and what is sent can be changed on its way.
    me.page.add_init_script("Object.defineProperty(window, 'isSecureContext', { value: false })")
    me.page.goto("/")
    expect(me.see("no-seal")).to_contain_text("lacks encryption")
    me.sign_in()
    me.begin("ex-01")
    me.all_sent()
    # A tablet with an older catalog: a checkpoint that this machine no longer has.
    me.page.route(
        "**/api/entries",
        lambda route: route.continue_(
            post_data=route.request.post_data.replace('"pools"', '"puddles"') if route.request.post_data else None
        ),
    )
    me.sound("stance")
    me.sound("pools")
    expect(me.page.get_by_role("alert")).to_contain_text(
        "Pools and fresh drips was not taken: checkpoint: this machine has no checkpoint 'puddles'"
    )
    expect(me.card("pools").locator("[aria-pressed=true]")).to_have_count(0)
    me.page.get_by_role("button", name="Let it go").click()
    expect(me.page.get_by_role("alert")).to_have_count(0)
    me.page.unroute("**/api/entries")
    me.sound("pools")
    me.all_sent()


def test_a_meter_that_runs_backwards(bare: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(bare))
    me.sign_in()
    me.page.goto("/machines/ex-02/start")
    meter = me.see("hour-meter").get_by_role("spinbutton")
    meter.fill("9000")
    me.page.keyboard.press("Tab")
    expect(me.page.get_by_text("Below the last reading, 9411.0")).to_be_visible()
    expect(me.see("begin")).to_be_disabled()
    meter.fill("9411.5")
    me.page.keyboard.press("Tab")
    me.tap("begin")
    me.page.locator(".station").first.wait_for()


def test_an_unfinished_walk_cannot_be_signed_but_a_hold_can(bare: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(bare))
    me.sign_in()
    me.begin("ex-01")
    me.all_sound_here()
    me.all_sent()
    walk = me.page.url
    me.page.goto(walk + "/verdict")
    expect(me.see("outcome")).to_have_text("Incomplete")
    expect(me.see("sign")).to_be_disabled()
    # What is left leads back to where it is.
    me.page.get_by_role("button", name="Seat belt").or_(me.page.get_by_role("button", name="Cab frame")).first.click()
    me.stands_at("cab-side")
    me.defect("cab-structure", "crack", "In the plate itself")
    me.save()
    me.all_sent()
    me.page.goto(walk + "/verdict")
    expect(me.see("outcome")).to_have_text("Held")
    me.tap("sign")
    me.tap("sign-now")
    expect(me.page.get_by_role("heading", name="Record of EX-01")).to_be_visible()
    me.page.goto("/")
    expect(me.see("bay-ex-01")).to_contain_text("Held")


def test_the_administrator_adds_a_person(bare: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(bare))
    me.sign_in("Rolf Amsing")
    me.page.get_by_role("link", name="People").click()
    me.tap("add-person")
    me.page.get_by_label("Name").fill("Bo Testrup")
    me.page.get_by_label("PIN for the first time").fill("12")
    me.tap("save-person")
    expect(me.page.get_by_role("alert")).to_contain_text("four to eight digits")
    me.page.get_by_label("PIN for the first time").fill("7531")
    me.tap("save-person")
    expect(me.page.get_by_text("Bo Testrup")).to_be_visible()
    me.sign_out()
    # Somebody else knows that PIN: it is good for choosing one that nobody else knows.
    me.page.get_by_role("button", name="Bo Testrup").click()
    for typed, asked in (
        ("7531", "choose your own PIN"),
        ("7304", "choose your own PIN"),  # too short
        ("730418", "the same once more"),
        ("730419", "choose your own PIN"),  # another
        ("123456", "the same once more"),
        ("123456", "choose your own PIN"),  # a row
        ("730418", "the same once more"),
    ):
        me.type_pin(typed)
        expect(me.see("ask")).to_contain_text(asked)
    me.type_pin("730418")
    me.page.get_by_role("heading", name="Today").wait_for()
    expect(me.page.get_by_role("link", name="People")).to_have_count(0)
    me.sign_out()
    me.sign_in("Rolf Amsing")
    me.page.get_by_role("link", name="People").click()
    me.tap("account")
    lines = me.see("account-lines").locator("li")
    expect(lines).to_have_count(2 + len(PEOPLE))
    expect(lines.first).to_contain_text("Somebody chose their own PIN. Bo Testrup")
    expect(lines.nth(1)).to_contain_text("Rolf Amsing")
    assert me.axe() == []


def test_a_browser_that_keeps_nothing_says_so(bare: str, serve: Serve, hand: NewHand) -> None:
    """Found so: a blank page, the emergency cards with it, and no word."""
    me = hand(serve(bare))
    me.page.add_init_script("indexedDB.open = () => { throw new DOMException('denied', 'SecurityError'); }")
    me.page.goto("/")
    expect(me.see("denied")).to_contain_text("nothing be kept on the device")
    me.page.get_by_role("button", name="Mira Tolland").click()
    me.type_pin("2468")
    expect(me.page.get_by_text("What you tap would be lost").first).to_be_visible()
    me.page.goto("/emergency")
    expect(me.page.get_by_role("heading").first).to_be_visible()
    expect(me.page.locator("main")).to_contain_text("Fire")


def test_a_newer_build_on_the_server_and_no_network_lead_on(bare: str, serve: Serve, hand: NewHand) -> None:
    """Lost so: a tap that leads to another page did nothing and said nothing: its script was of an older build."""
    me = hand(serve(bare))
    me.sign_in()
    records = me.page.get_by_role("link", name=me.say("records.title"))
    # No network: what is on the screen stays, and says what is the matter.
    me.page.route("**/*", lambda route: route.abort())
    records.click()
    expect(me.see("not-brought")).to_contain_text("could not be loaded")
    expect(me.page.get_by_role("heading", name=me.say("yard.title"))).to_be_visible()
    assert me.axe() == []
    me.page.unroute("**/*")
    # The script is gone for good from the server: the page that it has now is loaded, by itself and once.
    gone = iter([404])

    def answer(route: Route) -> None:
        status = next(gone, None)
        route.fulfill(status=status, body="") if status else route.continue_()

    me.page.route("**/assets/DefectsView-*.js", answer)
    me.page.get_by_role("link", name=me.say("defects.title")).click()
    me.page.wait_for_url("**/defects")
    expect(me.page.get_by_role("heading", name=me.say("defects.title"))).to_be_visible()
    expect(me.see("not-brought")).to_be_hidden()
    assert next(gone, None) is None


def test_where_is_it(bare: str, serve: Serve, hand: NewHand) -> None:
    """A new hand asks for a component in words and is shown the place, the station and what a good one looks like."""
    me = hand(serve(bare))
    me.sign_in()
    me.see("bay-ex-04").get_by_role("link", name="EX-04").click()
    me.page.get_by_role("link", name="Where is it?").click()
    box = me.page.get_by_role("textbox", name="Search a component")
    box.fill("water separator")
    found = me.see("found")
    expect(found).to_contain_text("Fuel water separator")
    expect(found).to_contain_text("Pump and filter compartment, standing, doors open")
    expect(found).to_contain_text("bowl clear, no water line")
    expect(me.page.locator(".map .spot")).to_have_count(2)  # from above and from the side
    expect(me.page.locator(".map .lit")).to_have_count(2)  # on its part
    expect(me.page.get_by_text("Seen from the right")).to_be_visible()  # where one stands
    box.fill("radiator")  # another word for it
    expect(found).to_contain_text("Cooling pack")
    box.fill("gear oil dip")
    expect(found).to_contain_text("Slew drive oil")
    box.fill("masts")  # an option that this unit has not
    expect(me.page.get_by_text("Nothing on this machine is called")).to_be_visible()
    me.see("st-deck").click()
    expect(found).to_contain_text("Deck surface")
    # Who cannot think of the word chooses from what the machine has.
    box.fill("")
    system = me.see("system-Cooling")
    system.locator("summary").click()
    assert me.axe() == []
    system.get_by_role("button", name="Coolant level").click()
    expect(found).to_contain_text("Coolant level")


def test_a_way_that_took_too_long_is_asked_for_again(bare: str, serve: Serve, hand: NewHand) -> None:
    """The server says that it is tried again: then it is, and nobody stands before a page that waits for good."""
    me = hand(serve(bare))
    me.sign_in()
    asked = 0

    def busy(route: Route) -> None:
        nonlocal asked
        asked += 1
        if asked > 2:
            route.fallback()
            return
        says = {"type": "/problems/too-slow", "title": "Busy", "status": 503, "detail": "It is tried again."}
        route.fulfill(status=503, content_type="application/problem+json", json=says)

    me.page.route("**/api/machines/ex-04/walk", busy)
    me.page.goto("/machines/ex-04/start")
    expect(me.page.get_by_text("It is tried again.")).to_be_visible()
    me.see("begin").wait_for()
    expect(me.page.get_by_text("It is tried again.")).to_have_count(0)
    assert asked >= 3
    assert me.errors == []
