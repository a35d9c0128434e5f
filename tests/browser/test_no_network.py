"""The shell starts with no network, and a walk goes on after a reload; everything arrives later."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import NewHand
from tests.browser.hand import Hand
from tests.conftest import Serve
from tests.deep import DEEP

pytestmark = pytest.mark.browser


def shell_is_kept(me: Hand) -> None:
    """Until the browser holds everything that the pages need."""
    me.page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    me.page.wait_for_function("""async () => {
      for (const name of await caches.keys()) if ((await (await caches.open(name)).keys()).length > 30) return true;
      return false;
    }""")


@pytest.mark.parametrize("language", ["en", "es"] if DEEP else ["es"])
def test_a_reload_in_the_middle_of_a_walk(bare: str, serve: Serve, hand: NewHand, language: str) -> None:
    """What was tapped before, while, and after there was no network: all of it is there, and all of it arrives."""
    me = hand(serve(bare), 390, 844, language=language, service_workers="allow")
    me.sign_in()
    shell_is_kept(me)
    me.page.goto("/")
    me.begin("ex-01")
    me.sound("stance")
    me.all_sent()
    me.page.wait_for_timeout(1800)  # what the server said last is written when the hand rests
    me.page.context.set_offline(True)
    me.defect("pools", "pool", {"en": "Fresh drips", "es": "Gotas frescas"}[language])
    me.save()
    me.page.reload()
    me.see("panel").wait_for()
    card = me.card("stance").get_by_role("button", name=me.say("card.sound"), exact=True)
    expect(card).to_have_attribute("aria-pressed", "true")
    expect(me.card("pools").get_by_role("button", name=me.say("card.defect"), exact=True)).to_have_attribute(
        "aria-pressed", "true"
    )
    me.sound("people")
    expect(me.see("connection")).to_contain_text("2")
    walk = me.page.url.rsplit("/", 1)[-1]
    # The frame of the pages starts, too, and says what can be done without the record store.
    me.page.goto("/")
    expect(me.see("without")).to_contain_text(me.say("connection.without"))
    expect(me.see("row-ex-01")).to_be_visible()
    me.page.go_back()
    me.see("panel").wait_for()
    me.page.reload()
    me.see("panel").wait_for()
    me.page.context.set_offline(False)
    expect(me.see("connection")).to_have_text(me.say("connection.here"))
    seen = me.page.request.get(f"/api/inspections/{walk}").json()
    answers = {a["checkpoint"]: a["answer"] for a in seen["answers"]}
    assert answers == {"stance": "sound", "pools": "defect", "people": "sound"}
    assert me.errors == []


def test_it_can_be_installed(bare: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(bare), service_workers="allow")
    me.page.goto("/")
    shell_is_kept(me)
    manifest = me.page.request.get(str(me.page.locator("link[rel=manifest]").get_attribute("href"))).json()
    assert manifest["display"] == "standalone"
    assert manifest["start_url"] == "/"
    for icon in manifest["icons"]:
        reply = me.page.request.get(icon["src"])
        assert reply.headers["content-type"] == "image/png"
    worker = me.page.request.get("/sw.js")
    assert re.search("no-cache", worker.headers["cache-control"])
