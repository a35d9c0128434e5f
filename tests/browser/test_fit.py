"""Every view: no axe violation by day or night, text and targets large enough, nothing sideways on a phone."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from jutrel.demo.story import MACHINES
from tests.browser.conftest import NewHand
from tests.browser.hand import Hand
from tests.conftest import Serve
from tests.deep import DEEP

pytestmark = pytest.mark.browser


def check(me: Hand, view: str) -> None:
    me.page.wait_for_timeout(250)
    assert me.axe() == [], view
    assert me.small_text() == [], view
    assert me.small_targets() == [], view
    assert me.sideways() <= 0, view


WAYS = [(390, 844, "dark", "es"), (1280, 800, "light", "en"), (1280, 800, "dark", "es"), (390, 844, "light", "en")]
"""The hardest in every run: the longer words on the narrow screen, in the dark; the others by `make test-deep`."""


@pytest.mark.skipif(not DEEP, reason="every page fits: test_pages.py; each way at length: make test-deep")
@pytest.mark.parametrize(("width", "height", "scheme", "language"), WAYS)
def test_every_view(
    demo: str, serve: Serve, hand: NewHand, width: int, height: int, scheme: str, language: str
) -> None:
    me = hand(serve(demo), width, height, language, color_scheme=scheme)
    me.page.goto("/")
    me.page.get_by_role("button", name="Mira Tolland").wait_for()
    check(me, "sign-in")
    me.sign_in()
    for name in (me.say("yard.list"), me.say("yard.overview"), me.say("yard.line")):
        me.page.get_by_role("button", name=name, exact=True).click()
        check(me, f"yard {name}")
        if name == me.say("yard.overview") and width >= 1280:  # one of each, at a look
            ends = me.page.locator("[data-test^=tile-]").evaluate_all(
                "all => all.map(x => x.getBoundingClientRect().bottom)"
            )
            assert len(ends) == len(MACHINES)
            assert max(ends) <= height, ends
    me.page.get_by_role("link", name=me.say("records.title")).click()
    me.page.get_by_role("link", name="EX-03").first.wait_for()
    check(me, "records")
    me.page.get_by_role("link", name="EX-03").first.click()
    me.page.get_by_role("button", name=re.compile("^" + me.say("record.log", n=r"\d+"))).click()
    check(me, "record")
    me.page.goto("/machines/ex-04/where")
    me.see("where").locator("input").or_(me.page.locator("input[data-test=where]")).first.fill(
        me.word("checkpoint", "Fuel water separator")
    )
    me.see("found").wait_for()
    check(me, "where")
    me.page.goto("/machines/ld-05")
    me.see("meter").wait_for()
    check(me, "machine file")
    views = (
        ("/today", "today-mine"),
        ("/readings/tyre-set", "judgement"),
        ("/readings/wear", "judgement"),
        ("/instruments", "device-position"),
        ("/schools", "school-grease"),
        ("/sessions", "sessions"),
        ("/machines/ex-02/incident", "happened-fire"),
        ("/machines/ex-01/readings", "plot"),
    )
    for address, test in views if scheme == "light" else views[:2]:
        me.page.goto(address)
        me.see(test).first.wait_for()
        check(me, address)
    me.page.goto("/emergency")
    me.tap("card-fire")
    check(me, "emergency")
    me.tap("jobs")
    me.tap("job-attachment")
    check(me, "small jobs")
    me.page.goto("/machines/ex-01/run")
    me.see("begin-run").wait_for()
    check(me, "before a run")
    me.tap("begin-run")
    me.see("now-fit").wait_for()
    for part in ("ready", "start", "tests", "work", "shutdown", "hand-over"):
        me.tap(f"part-{part}")
        check(me, f"run, {part}")
    me.page.goto("/machines/ex-04/start")
    me.see("begin").wait_for()
    me.see("need-dark").wait_for()
    me.tap("beside-left")
    check(me, "approach")
    me.tap("beside-left")
    me.tap("begin")
    me.see("panel").wait_for()
    check(me, "walk")
    me.tap("side")
    check(me, "walk from the side")
    me.tap("side")
    me.tap("way")
    me.page.get_by_role("dialog").wait_for()
    check(me, "the way")
    me.page.keyboard.press("Escape")
    expect(me.page.get_by_role("dialog")).to_be_hidden()
    me.station("front-right")
    me.see("glass").press("ArrowUp")
    me.see("judgement").wait_for()
    check(me, "walk with glass")
    me.tap("read-fuel-level-fuel-shift")
    me.see("keep").wait_for()
    check(me, "reading in the walk")
    me.page.keyboard.press("Escape")
    expect(me.see("keep")).to_have_count(0)
    me.defect("fuel-level", "leak", me.word("choice", "Drops fall"))
    me.see("preview").locator("summary").wait_for()
    check(me, "defect")
    me.save()
    me.all_sent()
    me.page.goto(me.page.url + "/verdict")
    expect(me.see("outcome")).to_be_visible()
    check(me, "verdict")
    me.page.goto("/")
    me.sign_out()
    me.sign_in("Dag Hollmer")
    me.page.goto("/defects")
    me.see("sum").wait_for()
    me.see("do-isolated").first.wait_for()
    check(me, "defects")
    me.see("do-isolated").first.click()
    me.see("act-note").wait_for()
    check(me, "begin a repair")
    me.page.keyboard.press("Escape")
    me.page.goto("/rulebook")
    me.tap("duty-run")
    me.see("if-grade").locator("li").first.wait_for()
    check(me, "rulebook")
    me.page.goto("/")
    me.sign_out()
    me.sign_in("Rolf Amsing")
    me.page.get_by_role("link", name=me.say("people.title")).click()
    me.tap("add-person")
    check(me, "people")
    me.page.keyboard.press("Escape")
    me.page.goto("/models")
    me.see("model-hestrun-k17").wait_for()
    check(me, "models")
    me.page.goto("/machines/ld-05")
    me.tap("edit-file")
    me.see("save-file").wait_for()
    check(me, "file form")
    me.page.goto("/languages")
    me.see("lacking-es").wait_for()
    check(me, "languages")
    me.page.goto("/")
    me.see("language").locator("visible=true").first.click()
    me.see("language-es").wait_for()
    check(me, "choosing a language")
    me.page.keyboard.press("Escape")
    expect(me.see("language-es")).to_be_hidden()
    me.page.keyboard.press("?")
    me.page.locator("kbd").first.wait_for()
    check(me, "keys")
