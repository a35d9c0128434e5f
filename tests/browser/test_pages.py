"""Every page of the router: waits and fails with words, fits the narrowest screen, reads in any light.

The list is the router's own: a page that is added is met here without being named.
"""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, Route, TimeoutError, expect

from tests.browser.conftest import NewHand
from tests.browser.hand import Hand
from tests.conftest import ROOT, Serve
from tests.deep import DEEP

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
"""Theme, language and size; each page is met in one of them, the next in the next; `make test-deep`: in all."""


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
    silent: list[str] = []
    for n, answer in enumerate(("hangs", "fails")):
        me.page.unroute_all(behavior="ignoreErrors")
        as_if(me.page, answer)
        for path in all_ if DEEP else all_[n::2]:
            me.page.goto(path)
            said = me.page.locator("main [role=status]:visible, main [role=alert]:visible, main .waits")
            try:
                said.first.wait_for()
            except TimeoutError:
                silent.append(f"{path} when it {answer}")
    assert silent == [], "\n".join(silent)


def test_every_page_fits_and_reads_in_every_light(demo: str, serve: Serve, hand: NewHand) -> None:
    base = serve(demo)
    hands = {}
    for theme, language, (width, height) in WAYS:
        me = hand(base, width, height, language)
        me.page.add_init_script(f"localStorage.setItem('jutrel-theme', '{theme}')")
        # A person reads one language: what a tablet is set to goes with them.
        me.sign_in("Rolf Amsing" if language == "en" else "Pell Aronsk")
        hands[theme, language, width] = me
    wrong: list[str] = []
    for n, path in enumerate(pages(me)):
        for turn in range(len(WAYS) if DEEP else 1):
            theme, language, (width, _) = WAYS[(n + turn) % len(WAYS)]
            me = hands[theme, language, width]
            reply = me.page.goto(path)
            if reply is None or reply.status != 200:
                wrong.append(f"{path}: {reply and reply.status} to whoever comes by a code on a label or a tag")
                continue
            try:
                me.page.locator("main h1, main h2").first.wait_for()
            except TimeoutError:
                wrong.append(f"{path}: no heading")
                continue
            expect(me.page.locator("main .waits")).to_have_count(0)
            me.page.wait_for_timeout(250)
            found = {
                "axe": me.axe(),
                "small text": me.small_text(),
                "small targets": me.small_targets(),
                "sideways": me.sideways() > 0,
                "errors": me.errors,
            }
            wrong += [f"{path} ({theme}, {language}, {width}): {k} {v}" for k, v in found.items() if v]
    assert wrong == [], "\n".join(wrong)
