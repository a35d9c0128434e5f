"""A whole shift of a machine that is read over its bus, sixty times as fast: server, stand-in, reader and page."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import suppress
from datetime import timedelta
from pathlib import Path

import pytest
from playwright.sync_api import TimeoutError, expect

from tests.browser.conftest import NewHand
from tests.browser.hand import Hand
from tests.deep import DEEP
from tests.device import Device
from tests.panel.processes import Processes
from tests.patience import client

pytestmark = pytest.mark.browser
FAST = 60
CLOCK = """(() => { const Plain = Date, now = () => T0 + (Plain.now() - T0) * FAST;
  window.Date = class extends Plain {
    constructor(...a) { if (a.length) super(...a); else super(now()); }
    static now() { return now(); }
  };
})()"""


@pytest.fixture
def machine(tmp_path: Path, bare: str) -> Iterator[tuple[Processes, float]]:
    since = time.time()
    clock = tmp_path / "clock"
    clock.write_text(f"{FAST} {since}")
    p = Processes(tmp_path, "ex-01", bare, 0.0, CLOCK=str(clock), JUTREL_PANEL_STALE_S=str(3 * FAST))
    p.timing = ["--speed", str(FAST), "--since", str(since)]
    p.server()
    yield p, since
    p.end()


def walked(p: Processes, since: float, who: str, **more: object) -> None:
    """A walk-around, by another hand with a tablet of its own."""
    device = Device(client(p.base))
    device.drift = timedelta(seconds=(FAST - 1) * (time.time() - since))
    device.sign_in(who)
    device.whole("ex-01", None, **more)


def one(me: Hand) -> list[str]:
    """Yes to what is on now, if its time has come."""
    card = me.page.locator("[data-test^=now-]:not(.later)")
    try:
        if not card.count():
            time.sleep(0.05)
            return []
        step = str(card.get_attribute("data-test", timeout=1000))[4:]
        if step == "place" and not me.page.locator("[data-test=work-usual].chosen").count():
            me.tap("work-usual")
        for first in ("walk-in", "way-self-test:not(.chosen)"):
            name, _, rest = first.partition(":")
            button = me.page.locator(f"[data-test=now-{step}] [data-test={name}]{':' + rest if rest else ''}")
            if button.count():
                button.click(timeout=1000)
        # Those that are not tapped yet: after a tap that came too late, a second one would take it back.
        left = me.page.locator(f"[data-test=now-{step}] [data-test^=part-of-][aria-pressed=false]")
        while left.count():
            left.first.click(timeout=1000)
        me.grease()
        button = me.page.locator(f"[data-test=now-{step}] [data-test=yes]:enabled")
        if not button.count():
            time.sleep(0.1)
            return []
        button.click(timeout=2000)
    except TimeoutError:  # the machine said so meanwhile, or a time was over
        return []
    time.sleep(0.1)
    return [step]


def yes(me: Hand, until: str) -> list[str]:
    """Yes to whatever is on, until that is to be seen; what the machine says by itself nobody taps."""
    said: list[str] = []
    end = time.monotonic() + 120
    while not me.page.locator(until).count():
        if time.monotonic() > end:  # what is on the page says why
            panel = me.page.request.get("/api/machines/ex-01/panel").text()
            pytest.fail("\n".join((str(said), me.page.get_by_role("main").inner_text(), panel)))
        said += one(me)
    return said


def stands(stand: str) -> str:
    return f"[data-test=run][data-stand={stand}]"


@pytest.mark.skipif(not DEEP, reason="a whole shift in its own time: make test-deep")
def test_a_live_shift_from_key_to_key(machine: tuple[Processes, float], hand: NewHand) -> None:
    p, since = machine
    walked(p, since, "Mira", hour_meter=6128.4)
    me = hand(p.base)
    me.page.context.add_init_script(CLOCK.replace("T0", str(int(since * 1000))).replace("FAST", str(FAST)))
    me.sign_in()
    p.stand_in()
    p.reader()
    me.page.goto("/machines/ex-01/run")
    p.until(lambda: me.page.request.get("/api/machines/ex-01/panel").json() is not None)
    me.page.reload()
    me.tap("begin-run")
    expect(me.see("run")).to_have_attribute("data-stand", "preparing")
    said = yes(me, "[data-test=crank]:enabled")
    assert "oil-pressure" not in said
    me.see("stand-in").locator("summary").click()
    me.tap("key-cranked")
    expect(me.see("engine")).to_have_attribute("data-engine", "cranking")
    me.tap("key-runs")
    expect(me.see("engine")).to_have_attribute("data-engine", "running")
    expect(me.see("machine-tells")).to_have_attribute("data-live", "true")
    # Oil pressure and charge the machine says by itself: nobody taps.
    expect(me.see("now-sounds-right")).to_be_visible()
    said = yes(me, stands("working"))
    assert not {"oil-pressure", "charge"} & set(said)
    assert {"sounds-right", "idle", "slew-test", "first-metres"} <= set(said)
    # At work: no charge is amber, told by itself, and stays in the hand-over.
    expect(me.see("needle-coolant")).to_be_visible()
    assert float(str(me.see("needle-coolant").get_attribute("data-value"))) > 39
    me.tap("fault-no-charge")
    expect(me.see("alerts")).to_contain_text("The battery is not charged")
    expect(me.see("run")).to_have_attribute("data-stand", "working")
    me.tap("fault-no-charge")
    expect(me.see("alerts")).to_have_count(0)
    me.tap("part-shutdown")
    said = yes(me, stands("shutting-down"))
    while "cool-down" not in said:
        said += one(me)
    # At sixty times the speed a turn of the key can be over before the stand-in looks: it is turned again.
    for _ in range(6):
        me.tap("key-stands")
        with suppress(AssertionError):
            expect(me.see("engine")).to_have_attribute("data-engine", "stopped")
            break
    expect(me.see("engine")).to_have_attribute("data-engine", "stopped")
    said += yes(me, stands("secured"))
    assert said.index("purge") < said.index("isolator-off") < said.index("key-away")
    expect(me.see("handover")).to_contain_text("The battery is not charged")
    me.see("hand-note").fill("Charge lamp came and went.")
    me.tap("hand-over")
    expect(me.page.get_by_text("Handed over.")).to_be_visible()
    assert me.errors == []
    # The next hand, the next morning: the note before anything else, and what the night left.
    other = hand(p.base)
    other.page.context.add_init_script(CLOCK.replace("T0", str(int(since * 1000))).replace("FAST", str(FAST)))
    other.sign_in("Osk Brandel")
    other.page.goto("/machines/ex-01/run")
    expect(other.see("before")).to_contain_text("Charge lamp came and went.")
    expect(other.see("before")).to_contain_text("The battery is not charged")
    walked(p, since, "Mira", hour_meter=6130.0, purpose="end-of-shift")
    walked(p, since, "Osk", hour_meter=6130.0)
    other.page.goto("/machines/ex-01/overnight")
    expect(other.page.get_by_role("main")).to_contain_text("Mira Tolland")
    assert other.errors == []
