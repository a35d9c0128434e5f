"""What a tap costs on a tablet at a quarter of the speed: requests, bytes, writes, the main thread's time."""

from __future__ import annotations

import statistics
from datetime import UTC, datetime
from typing import Any

from playwright.sync_api import Page, sync_playwright

from bench.lines import Lines
from bench.served import Client, catalog, cluster, served
from jutrel.demo.story import PIN
from jutrel.service.site.upgrade import bring_up
from tests.browser.many import grown
from tests.conftest import fill_base

SLOWER = 4
COUNTING = """
window.writes = 0;
const begin = IDBDatabase.prototype.transaction;
IDBDatabase.prototype.transaction = function (...a) { window.writes += 1; return begin.apply(this, a); };
"""
TURN = """(dial, key) => new Promise((done) => {
  const value = document.querySelector("[data-test=value]"), before = value.textContent;
  const begun = performance.now();
  const watch = new MutationObserver(() => {
    if (document.querySelector("[data-test=value]")?.textContent === before) return;
    watch.disconnect();
    done(performance.now() - begun);
  });
  watch.observe(document.body, { subtree: true, childList: true, characterData: true });
  dial.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true }));
})"""
PRESS = """(button) => new Promise((done) => {
  const at = performance.now();
  button.click();
  requestAnimationFrame(() => requestAnimationFrame(() => done(performance.now() - at)));
})"""
SEARCH = """(words) => new Promise((done) => {
  const box = document.querySelector("[data-test=search-yard]"), list = document.querySelector("[data-test=yard-list]");
  const begun = performance.now();
  const watch = new MutationObserver(() => { watch.disconnect(); done(performance.now() - begun); });
  watch.observe(list.parentElement, { subtree: true, childList: true, characterData: true });
  box.value = words;
  box.dispatchEvent(new Event("input", { bubbles: true }));
})"""
FIRST_KB = 0.4 * 573  # of what it was
FRAME_MS = 1000 / 60


def walk(page: Page, base: str) -> dict[str, Any]:
    """Tap sound at everything that has no reading; what that took."""
    session = page.context.new_cdp_session(page)
    for domain in ("Network", "Performance"):
        session.send(f"{domain}.enable")
    got: list[float] = []
    # A drawing that stands in the style sheet itself is told as a load too, of nothing: no request goes out for it.
    session.on("Network.loadingFinished", lambda e: got.append(n) if (n := e["encodedDataLength"]) else None)
    page.goto(base)
    page.get_by_role("button", name="Mira Tolland").wait_for()
    page.wait_for_load_state("networkidle")
    first = (len(got), sum(got))
    page.get_by_role("button", name="Mira Tolland").click()
    for digit in PIN:
        page.get_by_role("button", name=digit, exact=True).click()
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("heading", name="Today").wait_for()
    page.goto(f"{base}/machines/ex-01/start")
    page.get_by_test_id("begin").click()
    page.get_by_test_id("panel").wait_for()
    page.wait_for_timeout(3000)
    session.send("Emulation.setCPUThrottlingRate", {"rate": SLOWER})

    def busy() -> float:
        found = session.send("Performance.getMetrics")["metrics"]
        return float(next(m["value"] for m in found if m["name"] == "TaskDuration"))

    taps, shown, idle = 0, [], busy()
    page.wait_for_timeout(2000)
    idle = (busy() - idle) / 2  # what the page does in a second by itself
    took: list[float] = []
    got.clear()
    writes = int(page.evaluate("window.writes"))
    moves = 0
    for _ in range(20):
        for card in page.get_by_role("button", name="Sound", exact=True).all():
            before, begun = busy(), datetime.now(UTC)
            shown.append(float(card.evaluate(PRESS)))
            page.wait_for_timeout(1200)  # the answer is here and the hand has rested
            taps += 1
            took.append((busy() - before) - idle * (datetime.now(UTC) - begun).total_seconds())
        onward = page.get_by_test_id("onward")
        if "verdict" in onward.inner_text().lower() or taps >= 98:
            break
        onward.click()
        page.wait_for_timeout(1500)
        moves += 1
    # Counted before another page is opened: its own counting begins at nought.
    wrote, requests, sizes = int(page.evaluate("window.writes")) - writes, len(got), sum(got)
    judged = control(page, base)
    session.send("Emulation.setCPUThrottlingRate", {"rate": 1})
    return {
        "judged": judged,
        "first": first, "taps": taps, "requests": requests, "bytes": sizes, "moves": moves,
        "writes": wrote, "took": took, "shown": shown,
    }  # fmt: skip


def control(page: Page, base: str) -> list[float]:
    """Milliseconds from the last move of a needle to the new judgement on the page."""
    page.goto(f"{base}/readings/tyre-pressure")
    page.get_by_test_id("value").wait_for()
    page.get_by_test_id("dial").focus()
    page.wait_for_timeout(1500)
    return [float(page.get_by_test_id("dial").evaluate(TURN, key)) for key in ["ArrowUp", "ArrowDown"] * 6]


def yard_of_many(page: Page, base: str) -> tuple[float, list[float]]:
    """Milliseconds until a yard of five hundred can be used, and from a letter of a search to its lines."""
    page.route("**/api/yard", grown)
    session = page.context.new_cdp_session(page)
    page.goto(f"{base}/readings")
    page.evaluate("localStorage.setItem('jutrel-yard', 'list')")
    session.send("Emulation.setCPUThrottlingRate", {"rate": SLOWER})
    page.goto(base, wait_until="commit")
    page.locator("[data-test^=row-]").first.wait_for()
    usable = float(page.evaluate("performance.now()"))
    page.wait_for_timeout(2000)
    found = [float(page.evaluate(SEARCH, words)) for words in ("ex0", "gr", "ld-01", "tr", "coupling")]
    session.send("Emulation.setCPUThrottlingRate", {"rate": 1})
    page.unroute("**/api/yard")
    return usable, found


def run(lines: Lines) -> None:
    """All lines about the tablet."""
    lines.head(f"A tablet at a quarter of the speed ({SLOWER}× throttled), a whole walk")
    with cluster() as made:
        bring_up(made.url, catalog())
        fill_base(made.serve_url)
        with served(made.serve_url) as client, sync_playwright() as playwright:
            assert isinstance(client, Client)
            playwright.selectors.set_test_id_attribute("data-test")
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.add_init_script(COUNTING)
            seen = walk(page, f"http://127.0.0.1:{client.connection.port}")
            usable, found = yard_of_many(page, f"http://127.0.0.1:{client.connection.port}")
            browser.close()
    lines.add("a yard of 500 until it can be used", usable, 1500, "ms")
    lines.add("  from a letter of a search to its lines", max(found), 100, "ms")
    lines.add("requests before one can sign in", seen["first"][0], 8, "")
    lines.add("kilobytes of them", seen["first"][1] / 1000, FIRST_KB, "kB")
    taps = seen["taps"]
    print(f"({taps} taps, {seen['moves']} moves to the next station, which are entries too)")
    lines.add("requests a tap or move", seen["requests"] / (taps + seen["moves"]), 1.5, "")
    lines.add("bytes a tap or move", seen["bytes"] / (taps + seen["moves"]), None, "B")
    lines.add("IndexedDB transactions a tap or move", seen["writes"] / (taps + seen["moves"]), 3, "")
    lines.add("main thread a tap", 1000 * statistics.median(seen["took"]), None, "ms")
    lines.add("from a needle at rest to its judgement", statistics.median(seen["judged"]), 100, "ms")
    lines.add("from press to the second frame after it", statistics.median(seen["shown"]) / FRAME_MS, 3, "fr")


if __name__ == "__main__":
    run(Lines())
