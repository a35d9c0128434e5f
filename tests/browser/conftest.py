from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from tests.browser.hand import ROOT, Hand
from tests.patience import PATIENCE_MS

FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
NewHand = Callable[..., Hand]


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    expect.set_options(timeout=PATIENCE_MS)
    with sync_playwright() as p:
        p.selectors.set_test_id_attribute("data-test")
        started = p.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield started
        started.close()


@pytest.fixture
def hand(browser: Browser, request: pytest.FixtureRequest) -> Iterator[NewHand]:
    """Makes a person with a device in hand; `hand(base, width=…, height=…, language=…)`."""
    contexts: list[Any] = []
    pages: list[Page] = []

    def make(base: str, width: int = 1280, height: int = 800, language: str = "en", **options: Any) -> Hand:
        # A service worker would hide requests from `route`; who tries starting with no network asks for it.
        options.setdefault("service_workers", "block")
        # Nothing slides in or fades: what is looked at is what is there.
        options.setdefault("reduced_motion", "reduce")
        context = browser.new_context(
            viewport={"width": width, "height": height}, base_url=base, accept_downloads=True, **options
        )
        if language != "en":
            context.add_init_script(f"localStorage.setItem('jutrel-language', '{language}')")
        context.set_default_timeout(PATIENCE_MS)
        contexts.append(context)
        page = context.new_page()
        pages.append(page)
        return Hand(page, language)

    yield make
    if getattr(request.node, "failed", False):
        folder = Path(ROOT / "test-results")
        folder.mkdir(exist_ok=True)
        for number, page in enumerate(pages):
            page.screenshot(path=folder / f"{request.node.name}-{number}.png")
    for context in contexts:
        context.close()


@pytest.hookimpl(hookwrapper=True)
def pytest_runtest_makereport(item: pytest.Item) -> Iterator[None]:
    outcome = yield
    if outcome.get_result().when == "call":  # type: ignore[attr-defined]
        item.failed = outcome.get_result().failed  # type: ignore[attr-defined]
