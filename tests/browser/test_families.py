"""Every family walked from the approach to the signature, by one shared journey."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import NewHand
from tests.browser.hand import Hand
from tests.catalog.test_traits import copied, made
from tests.conftest import Serve
from tests.deep import DEEP
from tests.device import Device
from tests.patience import client

pytestmark = pytest.mark.browser
PHONE = {"width": 390, "height": 844, "has_touch": True, "is_mobile": True}


def walked_to_sign_off(me: Hand, machine: str, by_keys: bool) -> None:
    """The way as planned, one action after another; then the pace, the verdict and the signature."""
    me.begin(machine)
    drawn = me.page.locator(".map .station").count()
    seen = me.walk_the_rest(by_keys)
    assert len(seen) == len(set(seen)) == drawn
    assert (seen[0], seen[-1]) == ("approach", "cab")
    me.all_sent()
    expect(me.see("outcome")).to_contain_text(me.word("outcome", "Ready"))
    # A machine walked in seconds was not looked at, and the walker is told so first.
    expect(me.see("pace")).to_contain_text(me.say("pace.hurried", names="").split(":")[0])
    expect(me.see("pace")).to_contain_text(me.say("pace.notShown", name="").strip(", "))
    me.tap("sign")
    me.tap("sign-now")
    expect(me.page.get_by_role("heading", name=me.say("record.title", name=machine.upper()))).to_be_visible()
    expect(me.page.locator(".map .station.done")).to_have_count(drawn)
    assert me.errors == []


NEW = ("sc-10", "rr-11", "bh-12", "cl-13", "ul-14", "mx-15", "tr-16")
WALKED = [
    ("ld-05", {}, "en"),
    *((m, {}, "en") for m in ("ex-04", "gr-09", "dz-06", "ah-07", "rh-08")),
    *((m, device, language) for m in NEW for device in ({}, PHONE) for language in ("en", "es")),
]
"""One in every run, on a tablet by keys; the others, on a phone by taps and in Spanish too, by `make test-deep`."""


@pytest.mark.skipif(not DEEP, reason="one that no code has heard of is walked: test-deep walks each")
@pytest.mark.parametrize(("machine", "device", "language"), WALKED)
def test_a_family_walked_to_sign_off(
    bare: str, serve: Serve, hand: NewHand, machine: str, device: dict[str, int], language: str
) -> None:
    me = hand(serve(bare), language=language, **device)
    me.sign_in()
    walked_to_sign_off(me, machine, by_keys=not device)
    assert me.sideways() <= 0


def test_a_family_that_no_code_has_heard_of_is_walked(bare: str, serve: Serve, hand: NewHand, tmp_path: Path) -> None:
    """A wheeled dozer, by files alone: in the yard, round it, its own part lit in the drawing, a crack, held."""
    made(copied(tmp_path))
    base = serve(bare, CATALOG=str(tmp_path))
    with client(base) as http:
        pell = Device(http)
        pell.sign_in("Pell")
        file = {"id": pell.new_id(), "name": "WD-01", "model_id": "korveth-d9", "hour_meter": 12.0}
        assert http.put("/api/machines/wd-01", json=file).is_success
    me = hand(base)
    me.sign_in()
    expect(me.see("bay-wd-01").locator("path").first).to_be_visible()
    me.page.goto("/machines/wd-01/where")
    me.page.get_by_role("textbox", name="Search a component").fill("push arm")
    expect(me.see("found")).to_contain_text("Push arm trunnions")
    expect(me.page.locator(".map .lit")).to_have_count(2)  # the arm itself, from above and from the left
    expect(me.page.get_by_text("Seen from the left")).to_be_visible()
    me.begin_at("wd-01")
    me.station("bucket")
    me.defect("trunnions", "crack", "In the plate itself")
    me.save()
    assert len(me.walk_the_rest()) > 9
    expect(me.see("outcome")).to_have_text("Held")
    me.page.goto("/machines/wd-01/run")
    expect(me.page.locator("main")).to_contain_text("Push arm trunnions")
    assert me.errors == []


def test_the_way_is_planned_anew(demo: str, serve: Serve, hand: NewHand) -> None:
    """Another station than the next, a blocked one, the other side of the machine, two people."""
    me = hand(serve(demo))
    me.sign_in()
    me.page.goto("/machines/gr-09/start")
    me.tap("q-serviced")
    me.tap("q-rain")
    expect(me.see("because")).to_contain_text("It was serviced")
    expect(me.see("because")).to_contain_text("Glass and lamps wiped")
    me.tap("beside-left")
    expect(me.page.get_by_text("Cannot be reached")).to_be_visible()
    me.tap("beside-left")
    expect(me.page.get_by_text("Cannot be reached")).to_be_hidden()
    me.tap("begin")
    me.see("panel").wait_for()
    me.rest_here()
    # The steps are checked before they carry anybody: said, and only then allowed.
    me.see("st-cab").dispatch_event("click")
    expect(me.page.get_by_text("The cab comes last")).to_be_visible()
    me.tap("stay")
    me.stands_at("approach")
    # By free choice to the rear: the way on begins there, and walks on to a neighbour.
    me.station("rear")
    me.rest_here()
    onward = me.page.locator(".leg.next")
    expect(onward).to_have_count(1)
    expect(me.page.locator(".ahead")).to_contain_text("Next: ")
    # The next station cannot be reached: it goes to the end, marked, and is reported as not seen.
    me.onward()
    expect(me.see("panel")).not_to_have_attribute("data-station", "rear")
    stuck = me.where()
    me.tap("blocked")
    expect(me.see("panel")).not_to_have_attribute("data-station", stuck)
    expect(me.see(f"st-{stuck}")).to_have_class("station blocked")
    me.page.reload()
    me.see("panel").wait_for()
    expect(me.see(f"st-{stuck}")).to_have_class("station blocked")
    # Two people: the other one's stations are theirs.
    me.tap("way")
    me.tap("people-2")
    expect(me.page.get_by_text("the other person").first).to_be_visible()
    me.tap("people-1")
    expect(me.page.get_by_text("the other person")).to_have_count(0)
    me.page.keyboard.press("Escape")
    while me.where() != stuck:
        me.rest_here()
        here = me.where()
        me.onward()
        expect(me.see("panel")).not_to_have_attribute("data-station", here)
    me.tap("report-blocked")
    expect(me.page.locator(".panel article.unseen").first).to_be_visible()
    me.walk_the_rest()
    me.all_sent()
    expect(me.see("verdict")).to_be_visible()
    expect(me.see("outcome")).not_to_have_text("Ready")
    assert me.errors == []
