"""What was tapped is kept and arrives, whatever the network, the session, the device or somebody else does."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from PIL import Image
from playwright.sync_api import Route, expect

from tests.browser.conftest import NewHand
from tests.conftest import Serve

pytestmark = pytest.mark.browser


def test_passing_errors_pass_and_another_persons_session_carries_them(bare: str, serve: Serve, hand: NewHand) -> None:
    """A server at fault, a busy one, an administrator's session, a PIN that was changed: nothing is given up."""
    me = hand(serve(bare))
    me.sign_in()
    me.begin("ex-01")
    me.all_sent()
    answers = iter([500, 429, 503])

    def fail(route: Route) -> None:
        status = next(answers, None)
        if status is None:
            route.continue_()
        else:
            route.fulfill(status=status, json={"status": status, "detail": "x", "title": "x", "type": "x"})

    me.page.route("**/api/entries", fail)
    me.sound("stance")
    expect(me.see("connection")).to_contain_text(re.compile("on the way|kept here"))
    expect(me.see("connection")).to_have_text("All sent")
    me.page.unroute("**/api/entries")
    # The session ends under the walk, the PIN is changed; the administrator signs in on this tablet.
    me.page.request.delete("/api/session")
    me.sound("pools")
    expect(me.see("sign-in-again")).to_contain_text("Sign in to send 1")
    walk = me.page.url
    me.tap("sign-in-again")
    me.page.get_by_role("button", name="Rolf Amsing").click()
    for digit in "2468":
        me.page.keyboard.press(digit)
    me.page.keyboard.press("Enter")
    me.page.wait_for_url(walk)
    expect(me.see("connection")).to_have_text("All sent")
    seen = me.page.request.get(f"/api/inspections/{walk.rsplit('/', 1)[-1]}").json()
    assert {a["checkpoint"] for a in seen["answers"]} == {"stance", "pools"}


def test_signing_out_with_no_network_signs_out(bare: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(bare))
    me.sign_in()
    me.page.route("**/api/**", lambda route: route.abort())
    me.page.get_by_role("button", name="Sign out").click()
    me.page.get_by_role("heading", name="Who are you?").wait_for()
    me.page.reload()
    me.page.get_by_role("heading", name="Who are you?").wait_for()
    me.page.unroute("**/api/**")
    me.page.goto("/")
    me.page.get_by_role("heading", name="Who are you?").wait_for()
    assert me.page.request.get("/api/session").status == 401


def test_not_graded_yet_looks_like_nothing_mild(bare: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(bare))
    me.sign_in()
    me.begin("ex-01")
    me.all_sent()
    me.page.route("**/api/entries", lambda route: route.abort())
    me.page.route("**/api/grade", lambda route: route.abort())
    me.defect("outline", "bend", "Bent, and does not do its work")
    me.save()
    expect(me.card("outline").get_by_role("img", name="Not graded yet")).to_be_visible()
    me.page.unroute("**/api/entries")
    expect(me.card("outline").get_by_role("img", name="Not graded yet")).to_have_count(0)
    expect(me.card("outline").get_by_role("img", name="Hold")).to_be_visible()


def test_a_full_device_says_so_and_keeps_the_drawer_open(bare: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(bare))
    me.sign_in()
    me.begin("ex-01")
    me.all_sent()
    me.page.evaluate("""() => { window.__add = IDBObjectStore.prototype.add;
        IDBObjectStore.prototype.add = () => { throw new DOMException('full', 'QuotaExceededError'); }; }""")
    me.defect("outline", "bend", "A dent or a slight bend", note="low on the left")
    me.tap("save-defect")
    expect(me.page.get_by_text("This device would not store it")).to_be_visible()
    expect(me.see("save-defect")).to_be_visible()
    expect(me.page.get_by_role("textbox", name="Note")).to_have_value("low on the left")
    me.page.evaluate("() => { IDBObjectStore.prototype.add = window.__add; }")
    me.save()
    me.all_sent()


def test_an_unreadable_photo_stops_nobody_from_signing(bare: str, serve: Serve, hand: NewHand, tmp_path: Path) -> None:
    """Nor does a session that ended look like a signature."""
    broken, good = tmp_path / "broken.jpg", tmp_path / "good.png"
    broken.write_bytes(b"no picture at all")
    Image.new("RGB", (60, 40), "olive").save(good)
    me = hand(serve(bare))
    me.sign_in()
    me.page.goto("/machines/ex-01/start")
    me.tap("kind-once-over")
    me.see("begin").get_by_text(re.compile("Begin: [0-9]+ checkpoints")).wait_for()
    me.tap("begin")
    me.see("panel").wait_for()
    me.see("photo-here").set_input_files(broken)
    expect(me.page.get_by_role("alert")).to_contain_text("not a picture that can be read")
    me.walk_the_rest()
    expect(me.see("sign")).to_be_enabled()
    verdict = me.page.url
    me.page.request.delete("/api/session")
    me.tap("sign")
    me.tap("sign-now")
    expect(me.see("says")).to_contain_text("You are signed out")
    assert me.page.url == verdict
    me.see("says").get_by_role("link", name="Sign in").click()
    me.page.get_by_role("heading", name="Who are you?").wait_for()
    me.page.get_by_role("button", name="Mira Tolland").click()
    for digit in "2468":
        me.page.keyboard.press(digit)
    me.page.keyboard.press("Enter")
    inspection = verdict.split("/")[-2]
    # What was signed after that signing out is not hers to have said: it is told, and she signs again.
    expect(me.see("connection")).to_contain_text("All sent")
    me.page.goto(verdict)
    me.see("sign").wait_for()
    me.tap("sign")
    me.tap("sign-now")
    me.page.wait_for_url(lambda url: url != verdict)
    assert me.page.request.get(f"/api/inspections/{inspection}").json()["status"] == "signed"


def test_quick_taps_and_going_back_make_one_answer_and_one_walk(bare: str, serve: Serve, hand: NewHand) -> None:
    base = serve(bare)
    me = hand(base)
    me.sign_in()
    me.begin("ex-01")
    for _ in range(20):
        me.card("stance").get_by_role("button", name="Sound", exact=True).click(no_wait_after=True)
    me.all_sent()
    walk = me.page.url
    entries = me.page.request.get(f"/api/inspections/{walk.rsplit('/', 1)[-1]}").json()["entries"]
    assert [e["what"].get("checkpoint") for e in entries if e["kind"] == "answered"] == ["stance"]
    me.page.goto("/machines/ex-01/start")
    expect(me.see("begin")).to_be_disabled()
    me.tap("join")
    me.page.wait_for_url(walk)
    # Another person joins it as the ordinary way, or ends it with a reason; then a new one can begin.
    osk = hand(base)
    osk.sign_in("Osk Brandel")
    osk.page.goto("/machines/ex-01/start")
    expect(osk.see("under-way")).to_contain_text("Mira Tolland is walking round it already")
    osk.tap("leave")
    osk.see("leave-why").fill("Mira was called away")
    osk.tap("leave-now")
    expect(osk.see("under-way")).to_have_count(0)
    osk.tap("begin")
    osk.see("panel").wait_for()
    assert len(osk.page.request.get("/api/inspections").json()["inspections"]) == 2


def test_a_hold_is_not_tapped_away_and_what_may_be_put_right_is(bare: str, serve: Serve, hand: NewHand) -> None:
    base = serve(bare)
    mira, osk = hand(base), hand(base)
    mira.sign_in()
    mira.begin("ex-01")
    mira.station("deck")
    mira.defect("engine-oil", "level", "Nothing in the glass or on the stick")
    mira.save()
    mira.all_sent()
    walk = mira.page.url
    osk.sign_in("Osk Brandel")
    osk.page.goto(walk)
    osk.stands_at("deck")
    osk.card("engine-oil").get_by_role("button", name="Sound", exact=True).click()
    expect(osk.see("cannot")).to_contain_text("putting it right")
    osk.page.get_by_role("button", name="Put right on the spot").click()
    osk.tap("put-right-now")
    osk.see("put-right-amount").fill("4 L, 10W-30")
    expect(osk.see("preview")).to_contain_text("Watch")
    osk.save()
    osk.all_sent()
    expect(osk.card("engine-oil").get_by_role("img", name="Watch")).to_be_visible()
    # One's own slip takes a reason, and it shows.
    osk.station("equipment")
    osk.defect("boom", "crack", "In the plate itself")
    osk.save()
    osk.all_sent()
    osk.card("boom").get_by_role("button", name="Sound", exact=True).click()
    osk.page.get_by_label("Why, in a few words").fill("a scratch in the paint of EX-02, wrong machine")
    osk.tap("save-text")
    osk.all_sent()
    osk.page.goto(walk + "/verdict")
    expect(osk.see("released").first).to_contain_text("Hold taken back by Osk Brandel")
    expect(osk.see("released").first).to_contain_text("wrong machine")
    assert mira.errors == osk.errors == []
