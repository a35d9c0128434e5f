"""From key to key by eye alone, as a hand in the cab does it: one tap after another, timers by themselves."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import TimeoutError, expect

from jutrel.demo.story import MACHINES, WHO
from tests.api.test_runs import left, run_of, say
from tests.browser.conftest import NewHand
from tests.browser.hand import Hand
from tests.clearance.yard import readied, started
from tests.conftest import Serve
from tests.deep import DEEP
from tests.device import Device
from tests.patience import client

pytestmark = pytest.mark.browser
LONG = pytest.mark.skipif(not DEEP, reason="a whole shift by hand once more: make test-deep")
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
    """Yes to what is on now, once its time is over; its step. On a slow page another may come on meanwhile."""
    end = time.monotonic() + 180
    while True:
        card = me.page.locator("[data-test^=now-]")
        step = str(card.get_attribute("data-test"))[4:]
        yes = me.page.locator(f"[data-test=now-{step}] [data-test=yes]")
        try:
            ready(me, step)
            if me.see("left").count() or (step == "preheat-second" and me.see("yes").is_disabled()):
                clock.forward(12)
            expect(yes).to_be_enabled(timeout=6_000)
            yes.click(timeout=3_000)
            break
        except (AssertionError, TimeoutError):
            if time.monotonic() > end:
                raise
    expect(me.see(f"now-{step}")).to_have_count(0)
    return step


def ready(me: Hand, step: str) -> None:
    """What a step asks for before its yes."""
    on = f"[data-test=now-{step}]"
    if step == "place":
        me.page.locator(f"{on} [data-test=work-usual]").click(timeout=3_000)
    for first in ("walk-in", "way-self-test:not(.chosen)"):
        name, _, rest = first.partition(":")
        button = me.page.locator(f"{on} [data-test={name}]{':' + rest if rest else ''}")
        if button.count():
            button.click(timeout=3_000)
    left = me.page.locator(f"{on} [data-test^=part-of-][aria-pressed=false]")
    while left.count():
        left.first.click(timeout=3_000)
    me.grease()


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
            there = me.page.locator(", ".join(f"[data-test=run][data-stand={s}]" for s in until))
            expect(me.page.locator("[data-test^=now-]").or_(me.see("work")).or_(there).first).to_be_visible()
            if me.see("work").count() or there.count():
                break
        said.append(say_yes(me, clock))
    return said


def stop(me: Hand, clock: Clock) -> list[str]:
    """From work to the engine off."""
    card = me.page.locator("[data-test^=now-]")
    before = str(card.first.get_attribute("data-test")) if card.count() else "none"
    me.tap("part-shutdown")
    expect(me.see(before)).to_have_count(0)
    said: list[str] = []
    cooled = me.page.locator("[data-test=step-cool-down][data-mark=done]")
    while not cooled.count():
        expect(me.page.locator("[data-test^=now-]:not(.later)").or_(cooled).first).to_be_visible()
        if not cooled.count():
            said.append(say_yes(me, clock))
    me.tap("engine-off")
    expect(me.see("engine")).to_have_attribute("data-engine", "stopped")
    return said


def shut_down(me: Hand, clock: Clock) -> list[str]:
    return stop(me, clock) + through(me, clock, "secured")


def whole(me: Hand, clock: Clock, machine: str) -> list[str]:
    begin(me, machine)
    said = prepare(me, clock)
    start(me)
    said += through(me, clock, "working")
    return said + shut_down(me, clock)


def tablet_of(base: str, who: str) -> Device:
    """Another tablet of the same person, without a page."""
    device = Device(client(base))
    assert device.sign_in(who).is_success
    return device


@LONG
def test_a_shift_by_eye_with_amber_and_a_hand_over(demo: str, serve: Serve, hand: NewHand, clock: Clock) -> None:
    base = serve(demo, CLOCK=str(clock.file))
    me = hand(base)
    me.sign_in()
    begin(me, "ex-01")
    said = prepare(me, clock)
    # The tab is gone in the middle of a start: what was said stays said.
    me.page.reload()
    expect(me.see("crank")).to_be_enabled()
    expect(me.see("run")).to_contain_text("Ready to start: yes")
    start(me)
    expect(me.see("due")).to_contain_text("s left")
    said += through(me, clock, "warming")
    # Somebody comes near: one tap, and the page says to stop; out again, it goes on.
    me.tap("lock-people-clear")
    expect(me.see("stop-now")).to_contain_text("Nobody near")
    assert me.axe() == []
    me.tap("lock-people-clear")
    expect(me.see("run")).to_have_attribute("data-stand", "warming")
    # With no connection the page knows of no readiness, and what this hand reports is stopped for all the same.
    me.page.context.set_offline(True)
    me.tap("lock-belt")
    expect(me.see("not-known")).to_be_visible()
    expect(me.see("stop-now")).to_be_visible()
    me.page.context.set_offline(False)
    expect(me.see("run")).to_have_attribute("data-stand", "stop")
    me.tap("lock-belt")
    expect(me.see("run")).to_have_attribute("data-stand", "warming")
    said += through(me, clock, "working")
    expect(me.see("ready-to-work")).to_have_text("Ready to work: yes")
    me.tap("sense-noise")
    me.tap("at-rear")
    me.see("remark-note").fill("squeals when it turns left")
    me.tap("amber")
    expect(me.see("work")).to_contain_text("squeals when it turns left")
    said += shut_down(me, clock)
    # Zones with the engine off and before anybody says that nobody is near; the stop with a dummy, brakes tried first.
    assert said.index("key-on") < said.index("detection-rear") < said.index("people-clear")
    assert said.index("travel") < said.index("detection-stop")
    assert said.index("people-clear") < said.index("horn") < said.index("oil-pressure") < said.index("slew-test")
    assert said.index("meter") < said.index("purge") < said.index("isolator-off") < said.index("key-away")
    assert said.index("cool-down") < said.index("purge")
    me.tap("fluid-fuel")
    me.see("litres").locator("input").fill("120")
    me.tap("fill")
    expect(me.see("handover")).to_contain_text("120.0 L of Fuel filled")
    me.see("hand-note").fill("Left the ramp free.")
    me.tap("hand-over")
    expect(me.page.get_by_text("Handed over.")).to_be_visible()
    assert me.errors == []
    # The next hand reads it before anything else.
    other = hand(base)
    other.sign_in("Osk Brandel")
    other.page.goto("/machines/ex-01/run")
    expect(other.see("before")).to_contain_text("Left the ramp free.")
    expect(other.see("before")).to_contain_text("squeals when it turns left")
    # And looks at it before starting it: another operator answers for it now.
    expect(other.see("gate")).to_contain_text("change of operator")
    expect(other.see("begin-run")).to_be_disabled()
    other.tap("walk-first")
    expect(other.see("kind-change-of-operator")).to_have_attribute("aria-pressed", "true")


@LONG
def test_oil_pressure_late_a_mechanics_cause_and_the_run_to_its_end(
    demo: str, serve: Serve, hand: NewHand, clock: Clock
) -> None:
    base = serve(demo, CLOCK=str(clock.file))
    me = hand(base, width=390, height=844)
    me.sign_in("Osk Brandel")
    tablet = tablet_of(base, "Osk")
    hours = run_of(tablet, "rh-08")["machine"]["hour_meter"]
    readied(tablet, "rh-08", lambda: clock.forward(0.3), hour_meter=hours)
    me.page.goto("/machines/rh-08/run")
    start(me)
    clock.forward(0.3)
    expect(me.see("stop-now")).to_contain_text("Oil pressure stands")
    assert me.sideways() <= 0
    me.tap("engine-off")
    expect(me.see("run")).to_have_attribute("data-stand", "stopped")
    assert me.see("crank").is_disabled(), "the start is gone through again"
    me.page.goto("/")
    bay = me.page.locator("[data-test=bay-rh-08], [data-test=row-rh-08]")
    expect(bay).to_contain_text("Held")

    # The mechanic writes down what it was; it stays held until another person has looked.
    dag = hand(base)
    dag.sign_in("Dag Hollmer")
    dag.page.goto("/defects/rh-08")
    mine = dag.page.locator("[data-test^=defect-rh-08-]").filter(has_text="oil pressure")
    mine.get_by_test_id("do-released").click()
    dag.see("act-note").fill("suction pipe loose, drew air; seal new, primed, pressure read by gauge")
    dag.tap("act-send")
    dag.pin_again()
    expect(mine).to_contain_text("Another person has to check it")
    expect(bay).to_contain_text("Held")
    pell = hand(base)
    pell.sign_in("Pell Aronsk")
    pell.page.goto("/defects/rh-08")
    theirs = pell.page.locator("[data-test^=defect-rh-08-]").filter(has_text="suction pipe loose")
    theirs.get_by_test_id("do-rechecked").click()
    pell.tap("act-send")
    pell.pin_again()
    expect(theirs).to_have_count(0)
    expect(bay).not_to_contain_text("Held")
    dag.page.goto("about:blank")
    pell.page.goto("about:blank")
    # In the same run it is tried again with the cause at hand; now it comes up, and the run goes to its end.
    me.page.goto("/machines/rh-08/run")
    me.tap("part-start")
    prepare(me, clock)
    assert me.see("run").get_attribute("data-stand") == "stopped"
    if me.see("cause").count():
        me.see("cause").fill("seal of the suction pipe new, by Dag")
        me.tap("crank-again")
    else:
        me.tap("crank")
    expect(me.see("engine")).to_have_attribute("data-engine", "cranking")
    me.tap("runs")
    said = through(me, clock, "working")
    assert said[0] == "oil-pressure"
    shut_down(me, clock)
    expect(me.see("run")).to_have_attribute("data-stand", "secured")
    assert me.errors == []


@LONG
def test_detection_that_only_warns_and_a_purge_lamp_that_stays_on(
    bare: str, serve: Serve, hand: NewHand, clock: Clock
) -> None:
    """Ready to work without a stop that it has not; left at the end with the isolator on, and held for it."""
    base = serve(bare, CLOCK=str(clock.file))
    device = tablet_of(base, "Mira")
    device.whole("ex-04")
    me = hand(base)
    me.sign_in()
    begin(me, "ex-04")
    while not me.see("now-detection-rear").count():
        say_yes(me, clock)
    # Nobody is there to help yet: on with the rest, and it stays to be done.
    me.tap("later")
    expect(me.see("now-people-clear")).to_be_visible()
    me.see("now-people-clear").get_by_test_id("yes").click()
    expect(me.see("step-people-clear")).to_have_attribute("data-mark", "done")
    me.tap("step-detection-rear")
    expect(me.see("part-of-outer")).to_have_count(0)
    me.tap("walk-in")
    expect(me.see("somebody-near")).to_be_visible()
    expect(me.see("step-people-clear")).to_have_attribute("data-mark", "lost")
    assert me.axe() == []
    assert me.sideways() <= 0
    said = prepare(me, clock)
    start(me)
    said += through(me, clock, "working")
    assert "detection-test" in said
    assert "detection-stop" not in said
    expect(me.see("ready-to-work")).to_have_text("Ready to work: yes")
    stop(me, clock)
    while not me.see("now-purge").count():
        say_yes(me, clock)
    expect(me.see("step-left-on")).to_have_count(0)
    me.tap("not-so")
    me.see("reason").locator("input").or_(me.see("reason")).last.fill("still lit after ten minutes")
    me.tap("reason-save")
    expect(me.see("step-left-on")).to_be_visible()
    expect(me.see("step-isolator-off")).to_have_count(0)
    expect(me.see("now-left-on")).to_be_visible()
    said = through(me, clock, "secured")
    assert said.index("left-on") < said.index("key-away")
    me.page.goto("/")
    expect(me.page.locator("[data-test=bay-ex-04], [data-test=row-ex-04]")).to_contain_text("Held")
    assert me.errors == []


def test_what_fails_or_is_measured_counts_and_what_happened_ends_it(
    demo: str, serve: Serve, hand: NewHand, clock: Clock
) -> None:
    base = serve(demo, CLOCK=str(clock.file))
    me = hand(base)
    me.sign_in("Osk Brandel")
    # The start goes as it should, on another tablet.
    other = tablet_of(base, "Osk")
    hours = run_of(other, "rh-08")["machine"]["hour_meter"]
    stream = started(other, "rh-08", lambda: clock.forward(0.3), hour_meter=hours)
    now = run_of(other, "rh-08", stream)
    say(other, "rh-08", stream, *left(now, "start"))
    me.page.goto("/machines/rh-08/run")
    while not me.see("now-service-brake").count():
        say_yes(me, clock)

    def stops_in(metres: str) -> None:
        me.tap("measure-service-brake")
        for key, figure in (("speed", "20"), ("distance", metres)):
            me.see(f"in-{key}").fill(figure)
            me.see(f"in-{key}").press("Enter")
        me.tap("keep")
        expect(me.see("reading-dialog")).to_have_count(0)

    stops_in("40")
    expect(me.see("stop-now")).to_be_visible()
    assert me.axe() == []
    # Whoever saw the figure may measure again; the new one counts then.
    me.tap("part-tests")
    me.tap("step-service-brake")
    stops_in("6")
    expect(me.see("measured-service-brake")).to_contain_text("The brake holds.")
    expect(me.see("stop-now")).to_be_visible()  # what was found stays open until a mechanic has looked at it
    # A test that passed fails later: it is reported like any other defect, and the machine is held for it, too.
    me.tap("part-tests")
    me.tap("step-horn-test")
    me.see("now-horn-test").get_by_test_id("not-so").click()
    me.see("mode-inoperative").get_by_role("button", name="Not at all", exact=False).first.click()
    me.save()
    me.tap("part-tests")
    expect(me.see("step-horn-test")).to_have_attribute("data-mark", "failed")
    # It tips over where there is no signal: the page says to stop, and the word goes out later.
    me.page.goto("/machines/rh-08/incident")
    me.see("happened-tipped").wait_for()
    me.page.context.set_offline(True)
    me.tap("happened-tipped")
    me.see("incident-note").fill("over the edge at the culvert")
    me.tap("incident-save")
    expect(me.see("incident-kept")).to_be_visible()
    me.page.context.set_offline(False)
    expect(me.see("incident-tipped")).to_contain_text("over the edge at the culvert")
    me.page.goto("/machines/rh-08/run")
    expect(me.see("stop-now")).to_contain_text("A mechanic or a supervisor has to examine it")
    me.page.goto("/")
    expect(me.see("bay-rh-08")).to_contain_text("tipped over")
    expect(me.see("start-rh-08")).to_have_count(0)
    # Who answers for the site chooses how it is done and writes down who was shown what.
    chief = hand(base)
    chief.sign_in("Pell Aronsk")
    chief.page.goto("/schools")
    chief.tap("choice-cool-down-five")
    expect(chief.see("choice-cool-down-five")).to_have_attribute("aria-checked", "true")
    chief.page.goto("/training")
    chief.tap(f"teach-{WHO['Osk']}")
    chief.tap("taught-ground")
    chief.see("taught-note").fill("the soft shoulder at the culvert")
    chief.tap("taught-save")
    expect(chief.see(f"trained-{WHO['Osk']}")).to_contain_text("the soft shoulder at the culvert")
    assert me.errors + chief.errors == []


def test_emergency_cards_with_nobody_signed_in_and_no_network(bare: str, serve: Serve, hand: NewHand) -> None:
    base = serve(bare)
    me = hand(base, service_workers="allow")
    me.sign_in("Pell Aronsk")
    me.page.request.put("/api/numbers", data={"numbers": [["First aid", "0 123 45"]]})
    me.page.reload()
    me.page.evaluate("navigator.serviceWorker.ready")
    # Loaded anew in the middle of things, the frame says its words, not their names.
    expect(me.page.get_by_role("link", name="Yard", exact=True)).to_be_visible()
    me.sign_out()
    me.page.context.set_offline(True)
    me.page.goto("/emergency")
    expect(me.see("numbers")).to_contain_text("0 123 45")
    me.tap("card-line")
    expect(me.page.get_by_text("Stay in the cab. Touch nothing outside.")).to_be_visible()
    assert me.axe() == []
    # And where no script loads at all: the same cards as a plain page, in every language.
    plain = hand(base, java_script_enabled=False)
    plain.page.goto("/cards.html")
    plain.page.get_by_text("Contacto con una línea aérea").click()
    expect(plain.page.get_by_text("Quédese en la cabina.")).to_be_visible()


FAMILIES = [m.id for m in MACHINES if m.id not in ("ex-01", "ex-02", "ex-03")]
SIZES = ((1280, 800), (390, 844))


@pytest.mark.skipif(not DEEP, reason="make test-deep walks every family")
@pytest.mark.parametrize(("size", "language"), [(SIZES[0], "en"), (SIZES[1], "es")])
@pytest.mark.parametrize("machine", FAMILIES)
def test_every_family_from_key_to_key(
    bare: str, serve: Serve, hand: NewHand, clock: Clock, machine: str, size: tuple[int, int], language: str
) -> None:
    base = serve(bare, CLOCK=str(clock.file))
    device = Device(client(base))
    device.sign_in("Mira")
    device.whole(machine)
    me = hand(base, *size, language=language)
    me.sign_in()
    said = whole(me, clock, machine)
    assert len(said) == len(set(said)) > 50
    assert me.sideways() <= 0
