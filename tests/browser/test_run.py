"""From key to key by eye alone, as a hand in the cab does it: one tap after another, timers by themselves."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import NewHand
from tests.browser.hand import Hand
from tests.conftest import Serve

pytestmark = pytest.mark.browser
Look = Callable[[str], None]


class Clock:
    """The server's clock; time goes by when the test says so."""

    def __init__(self, file: Path) -> None:
        self.file = file
        self.file.write_text("0")

    def forward(self, minutes: float) -> None:
        self.file.write_text(str(float(self.file.read_text()) + 60 * minutes))


@pytest.fixture
def clock(tmp_path: Path) -> Clock:
    return Clock(tmp_path / "ahead")


def stand(me: Hand) -> str:
    return str(me.see("run").get_attribute("data-stand"))


def begin(me: Hand, machine: str) -> None:
    me.page.goto(f"/machines/{machine}/run")
    me.tap("begin-run")
    expect(me.see("run")).to_have_attribute("data-stand", "preparing")


def say_yes(me: Hand, clock: Clock) -> str:
    """Yes to what is on now, once its time is over; its step."""
    card = me.page.locator("[data-test^=now-]")
    step = str(card.get_attribute("data-test"))[4:]
    if step == "place":
        me.tap("work-usual")
    if me.see("left").count() or (step == "preheat-second" and me.see("yes").is_disabled()):
        clock.forward(12)
    yes = me.page.locator(f"[data-test=now-{step}] [data-test=yes]")
    expect(yes).to_be_enabled(timeout=30_000)
    yes.click()
    expect(me.see(f"now-{step}")).to_have_count(0)
    return step


def prepare(me: Hand, clock: Clock) -> list[str]:
    """Operator and start, until the starter may be turned."""
    said = []
    may = me.page.locator("[data-test=crank]:enabled")
    while True:
        expect(me.page.locator("[data-test^=now-]:not(.later)").or_(may).first).to_be_visible()
        if may.count():
            return said
        said.append(say_yes(me, clock))


def start(me: Hand) -> None:
    me.tap("crank")
    expect(me.see("engine")).to_have_attribute("data-engine", "cranking")
    me.tap("runs")
    expect(me.see("engine")).to_have_attribute("data-engine", "running")


def through(me: Hand, clock: Clock, *until: str, look: Look = lambda _: None) -> list[str]:
    """Yes to one after another until it stands so."""
    said = []
    while stand(me) not in until:
        look(stand(me))
        if me.page.locator("[data-test^=now-]").count() == 0:
            expect(me.page.locator("[data-test^=now-]").or_(me.see("work")).first).to_be_visible(timeout=30_000)
            if me.see("work").count():
                break
        said.append(say_yes(me, clock))
    return said


def shut_down(me: Hand, clock: Clock) -> list[str]:
    me.tap("part-shutdown")
    said: list[str] = []
    cooled = me.page.locator("[data-test=step-cool-down][data-mark=done]")
    while not cooled.count():
        expect(me.page.locator("[data-test^=now-]:not(.later)").or_(cooled).first).to_be_visible()
        if not cooled.count():
            said.append(say_yes(me, clock))
    me.tap("engine-off")
    expect(me.see("engine")).to_have_attribute("data-engine", "stopped")
    return said + through(me, clock, "secured")


def whole(me: Hand, clock: Clock, machine: str) -> list[str]:
    begin(me, machine)
    said = prepare(me, clock)
    start(me)
    said += through(me, clock, "working")
    return said + shut_down(me, clock)


def test_a_shift_by_eye_with_amber_and_a_hand_over(demo: str, serve: Serve, hand: NewHand, clock: Clock) -> None:
    me = hand(serve(demo, CLOCK=str(clock.file)))
    me.sign_in()
    said = whole(me, clock, "ex-01")
    assert said.index("people-clear") < said.index("horn") < said.index("oil-pressure") < said.index("slew-test")
    assert said.index("cool-down") < said.index("purge") < said.index("isolator-off") < said.index("key-away")
