"""`make screenshots`: one picture of each main view, from fresh demo data, into docs/screenshots."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
import urllib.request
from contextlib import suppress
from pathlib import Path

from playwright.sync_api import Page, TimeoutError, sync_playwright

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from jutrel.catalog import catalog  # noqa: E402
from jutrel.cluster import Cluster, free_port  # noqa: E402
from jutrel.demo.load import load_demo  # noqa: E402
from jutrel.service.site.upgrade import bring_up  # noqa: E402
from tests.browser import test_run as run  # noqa: E402
from tests.browser.conftest import FLAGS  # noqa: E402
from tests.browser.hand import Hand  # noqa: E402
from tests.panel.processes import KEY, Processes  # noqa: E402

OUT = ROOT / "docs" / "screenshots"


def serve(url: str) -> tuple[subprocess.Popen[bytes], str]:
    port = free_port()
    env = {**os.environ, "JUTREL_DATABASE_URL": url, "JUTREL_DEVICE_KEY": KEY, "JUTREL_DEMO_PIN": "2468"}
    process = subprocess.Popen([str(Path(sys.executable).with_name("jutrel")), "serve", "--port", str(port)], env=env)
    base = f"http://127.0.0.1:{port}"
    for _ in range(240):
        try:
            with urllib.request.urlopen(base + "/api/health", timeout=2):
                return process, base
        except OSError:
            time.sleep(0.1)
    raise SystemExit("the server does not answer")


def shot(page: Page, name: str) -> None:
    page.wait_for_timeout(700)
    page.screenshot(path=OUT / f"{name}.png")
    print(name)


def take(base: str) -> None:
    with sync_playwright() as p:
        p.selectors.set_test_id_attribute("data-test")
        browser = p.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=base)
        me = Hand(context.new_page())
        me.page.goto("/")
        me.page.get_by_role("button", name="Mira Tolland").click()
        me.sign_in()
        me.see("bay-ex-04").wait_for()
        me.see("bay-mx-15").wait_for()
        me.tap("overview")
        shot(me.page, "2-yard")
        me.page.get_by_role("button", name=me.say("yard.line"), exact=True).click()
        me.page.goto("/machines/gr-09/start")
        me.see("begin").wait_for()
        me.tap("q-serviced")
        me.tap("q-rain")
        me.see("because").get_by_text("It was serviced").first.wait_for()
        shot(me.page, "3-approach")
        me.tap("begin")
        me.see("panel").wait_for()
        me.page.goto("/machines/ex-04/start")
        me.see("begin").wait_for()
        me.tap("begin")
        me.see("panel").wait_for()
        while me.where() != "bays-right":
            me.rest_here()
            here = me.where()
            me.onward()
            me.page.locator(f".panel[data-station={here}]").wait_for(state="detached")
        me.defect(
            "main-pump",
            "leak",
            "Wet or stained, no drop",
            "A flat-face coupling with a ring",
            note="damp with dust on it",
        )
        me.see("preview").get_by_text("Limit").first.wait_for()
        shot(me.page, "5-defect")
        me.save()
        me.all_sound_here(but=("main-pump",))
        me.station("front-right")
        me.page.get_by_role("group", name="Arm rod").get_by_role("button", name="out", exact=True).click()
        me.see("glass").focus()
        for _ in range(9):
            me.see("glass").press("ArrowDown")
        me.see("glass").blur()
        me.all_sent()
        shot(me.page, "4-walk-around")
        me.station("deck")
        me.defect("engine-oil", "level", "Under the low mark")
        me.tap("put-right-now")
        me.see("put-right-amount").fill("4 L, 10W-30")
        me.see("preview").get_by_text("Found and put right").first.wait_for()
        me.save()
        me.station("front-right")
        spanish = browser.new_context(
            viewport={"width": 390, "height": 844}, base_url=base, has_touch=True, is_mobile=True, device_scale_factor=2
        )
        spanish.add_init_script("localStorage.setItem('jutrel-language', 'es')")
        ella = Hand(spanish.new_page(), "es")
        ella.sign_in("Ines Varro")
        ella.see("row-ex-04").get_by_role("link", name=ella.say("yard.resume")).click()
        ella.stands_at("front-right")
        ella.page.locator("[data-test=cp-fuel-level]").scroll_into_view_if_needed()
        shot(ella.page, "19-in-spanish-phone")
        me.page.goto("/")
        me.see("bay-ex-04").get_by_role("link", name="Resume").click()
        me.stands_at("front-right")
        me.walk_the_rest()
        me.all_sent()
        me.see("outcome").wait_for()
        shot(me.page, "9-verdict")
        me.page.goto("/machines/ld-05/start")
        me.tap("begin")
        me.see("panel").wait_for()
        look = me.page.url
        for checkpoint in ("mirror-right", "mirror-rear", "camera-rear"):
            me.station(station_of("wheel-loader", checkpoint))
            me.defect(checkpoint, "broken", "In pieces, or no view through it")
            me.save()
        me.all_sent()
        me.page.goto(look)
        me.stands_at(station_of("wheel-loader", "camera-rear"))
        me.station("approach")
        me.tap("read-tyres-all-tyre-set")
        me.see("tyre-3").click()
        for _ in range(2):
            me.see("dial").press("PageDown")
        me.see("dial").blur()
        me.see("judgement").get_by_text("Tyre 4").wait_for()
        me.see("units-metric").scroll_into_view_if_needed()
        shot(me.page, "15-tyre-set")
        me.page.keyboard.press("Escape")
        me.page.goto("/machines/ex-01/readings")
        me.see("plot").first.wait_for()
        shot(me.page, "18-trends")
        me.page.goto("/records")
        me.page.get_by_role("link", name="EX-03").first.click()
        me.see("outcome").wait_for()
        shot(me.page, "10-record")
        pdf = me.page.request.get(str(me.see("pdf").get_attribute("href"))).body()
        (ROOT / ".jutrel" / "record.pdf").write_bytes(pdf)
        me.page.goto("/machines/ex-02/overnight")
        me.see("window").wait_for()
        shot(me.page, "24-overnight")
        me.page.goto("/")
        me.sign_out()
        me.sign_in("Dag Hollmer")
        me.tap("today")
        me.see("today-repairs").wait_for()
        shot(me.page, "1-today")
        me.page.goto("/machines/ex-03")
        me.see("open-here").get_by_role("link").first.wait_for()
        shot(me.page, "6-machine")
        me.page.goto("/defects")
        me.see("do-isolated").first.wait_for()
        shot(me.page, "22-defects")
        me.page.goto("/")
        me.sign_out()
        me.sign_in()
        a_run(me)
        small = browser.new_context(
            viewport={"width": 390, "height": 844}, base_url=base, has_touch=True, is_mobile=True,
            device_scale_factor=2, color_scheme="dark",
        )  # fmt: skip
        dag = Hand(small.new_page())
        dag.sign_in("Dag Hollmer")
        dag.page.goto("/defects/ex-03")
        dag.see("do-isolated").first.click()
        dag.see("act-note").fill("tool down, pressure let out, lock 7")
        shot(dag.page, "23-repair-phone-night")
        browser.close()


def a_run(me: Hand) -> None:
    """A live machine by its key: the ten-second rule, the warm-up, a detection test, work with amber by night."""
    clock = run.Clock(ROOT / ".jutrel" / "ahead")

    def order(**orders: object) -> None:
        assert me.page.request.put("/api/machines/ex-01/stand-in", data=orders).ok
        me.page.wait_for_timeout(600)

    run.begin(me, "ex-01")
    while me.see("now-detection-left").count() == 0:
        run.say_yes(me, clock)
    me.tap("walk-in")
    me.tap("part-of-outer")
    me.page.evaluate("window.scrollTo(0, 0)")
    shot(me.page, "29-detection")
    run.prepare(me, clock)
    order(turns="cranked", air_c=9)
    me.page.locator("[data-engine=cranking]").wait_for()
    order(turns="runs")
    with suppress(TimeoutError):  # on a slow computer the ten seconds are over before they are drawn
        me.see("due").wait_for(timeout=8000)
        me.page.screenshot(path=OUT / "26-start.png")
    me.see("now-sounds-right").wait_for()
    run.say_yes(me, clock)
    me.tap("step-idle")
    me.page.evaluate("window.scrollTo(0, 0)")
    me.tap("part-work")
    order(faults=["no-charge"], throttle=0.7, load=0.6)
    me.see("alerts").wait_for(timeout=60_000)
    me.page.evaluate("document.documentElement.classList.add('night')")
    me.tap("sense-smell")
    me.page.evaluate("window.scrollTo(0, 0)")
    shot(me.page, "30-work-amber-night")
    me.page.evaluate("document.documentElement.classList.remove('night')")
    me.tap("part-shutdown")
    while me.see("now-cool-down").count() == 0:
        run.say_yes(me, clock)
    me.tap("skip")
    me.see("reason").fill("stood at low idle for ten minutes before")
    me.tap("reason-save")
    order(turns="stands")
    me.page.locator("[data-engine=stopped]").wait_for()
    me.tap("step-purge")
    me.see("now-purge").wait_for()
    me.page.evaluate("window.scrollTo(0, 0)")
    runs = me.page.request.get("/api/inspections", params={"machine": "rh-08"}).json()["inspections"]
    done = next(k["id"] for k in runs if k["kind"] == "run")
    me.page.goto(f"/machines/rh-08/run?run={done}")
    me.see("handover").wait_for()
    shot(me.page, "32-hand-over")
    me.page.goto("/emergency")
    me.tap("card-line")
    shot(me.page, "27-emergency")


def station_of(family: str, checkpoint: str) -> str:
    """The station of a family's lap at which a checkpoint is looked at."""
    return next(c.station for c in catalog().families[family].checkpoints if c.id == checkpoint)


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    cluster = Cluster(ROOT / ".jutrel" / f"shots-{os.getpid()}", durable=False)
    cluster.make()
    cluster.start()
    try:
        bring_up(cluster.url, catalog())
        load_demo(cluster.serve_url, catalog(), weeks=True)
        process, base = serve(cluster.serve_url)
        with tempfile.TemporaryDirectory() as folder:
            live = Processes(Path(folder), "ex-01", cluster.serve_url, 0.0)
            live.base = base
            live.stand_in()
            live.reader()
            try:
                take(base)
            finally:
                live.end()
                process.terminate()
                process.wait(10)
    finally:
        cluster.drop()


if __name__ == "__main__":
    main()
