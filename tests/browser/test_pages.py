"""Every page of the router: waits and fails with words, fits the narrowest screen, reads in any light.

The list is the router's own: a page that is added is met here without being named.
"""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, Route, expect

from tests.browser.conftest import NewHand
from tests.browser.hand import Hand
from tests.conftest import ROOT, Serve

pytestmark = pytest.mark.browser
ROUTER = (ROOT / "web/src/app/router.ts").read_text("utf-8")
PATHS = re.findall(r'path: "([^"]+)"', ROUTER)
REST = ("/sign-in", "/setup", "/:rest(.*)*")
"""Met before anybody is signed in, and by their own tests."""
STATIC = {"/emergency", "/jobs", "/machines/new", "/models/draft"}
"""They say all they say without asking the server, so that there is nothing to wait for."""
WAYS = (
    ("sun", "en", (320, 640)),  # reflow (WCAG 1.4.10)
    ("day", "es", (640, 400)),  # a desk at 200 % (WCAG 1.4.4)
    ("night", "es", (844, 390)),  # a phone on its side
    ("sun", "es", (390, 844)),
    ("night", "en", (1280, 800)),
    ("day", "en", (320, 640)),
)
"""Theme, language and size; each page is met in one of them, the next page in the next one."""


def pages(me: Hand) -> list[str]:
    """Every address of the router, with a machine, inspections, a defect and a reading of the demo in it."""
    looks = me.page.request.get("/api/inspections?machine=ex-01&limit=40").json()["inspections"]
    signed = next(x["id"] for x in looks if x["kind"] != "run" and x["status"] == "signed")
    open_ = me.page.request.get("/api/defects?machine=ex-01").json()["defects"][0]["id"]
    known = {":machine": "ex-01", ":inspection": signed, ":defect": open_, ":reading": "wear"}
    made = [re.sub(r":\w+", lambda m: known[m[0]], p) for p in PATHS if p not in REST]
    # A walk is a page of its own kind: it goes on only while it is walked.
    return [p for p in made if not p.startswith("/walk/")]


def as_if(page: Page, answer: str) -> None:
    """What every question to the server meets from now on: no answer at all, or that it cannot just now."""

    def meet(route: Route) -> None:
        asked = route.request.url.split("/api/")[1].split("?")[0]
        if asked in ("session", "languages", "health") or asked.startswith(("live", "session/")):
            route.continue_()
        elif answer == "fails":
            problem = {
                "type": "about:blank",
                "title": "x",
                "status": 422,
                "code": "broken",
                "detail": "It cannot just now.",
            }
            route.fulfill(status=422, content_type="application/problem+json", json=problem)

    page.route("**/api/**", meet)


def test_every_page_says_that_it_waits_and_that_it_failed(demo: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(demo))
    me.sign_in("Rolf Amsing")
    all_ = [p for p in pages(me) if p not in STATIC]
    assert len(all_) > 25
    me.page.context.set_default_timeout(8000)
    silent: list[str] = []
    for answer in ("hangs", "fails"):
        me.page.unroute_all(behavior="ignoreErrors")
        as_if(me.page, answer)
        for path in all_:
            me.page.goto(path)
            said = me.page.locator("main [role=status]:visible, main [role=alert]:visible, main .waits")
            try:
                said.first.wait_for(timeout=8000)
            except Exception:
                silent.append(f"{path} when it {answer}")
    assert silent == []


def test_every_page_fits_and_reads_in_every_light(demo: str, serve: Serve, hand: NewHand) -> None:
    base = serve(demo)
    hands = {}
    for theme, language, (width, height) in WAYS:
        me = hand(base, width, height, language)
        me.page.add_init_script(f"localStorage.setItem('jutrel-theme', '{theme}')")
        me.sign_in("Rolf Amsing")
        hands[theme, language, width] = me
    wrong: list[str] = []
    for n, path in enumerate(pages(me)):
        for turn in range(2):
            theme, language, (width, _) = WAYS[(n + turn * 3) % len(WAYS)]
            me = hands[theme, language, width]
            me.page.goto(path)
            me.page.locator("main h1, main h2").first.wait_for()
            expect(me.page.locator("main .waits")).to_have_count(0)
            me.page.wait_for_timeout(250)
            found = {
                "axe": me.axe() if turn == 0 else [],
                "small text": me.small_text(),
                "small targets": me.small_targets(),
                "sideways": me.sideways() > 0,
                "errors": me.errors,
            }
            wrong += [f"{path} ({theme}, {language}, {width}): {k} {v}" for k, v in found.items() if v]
    assert wrong == []
