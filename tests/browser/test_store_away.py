"""PostgreSQL stops in the middle of a walk: nothing is lost, and the page says how it stands."""

from __future__ import annotations

import os
from collections.abc import Iterator

import pytest
from playwright.sync_api import expect

from jutrel.cluster import Cluster
from jutrel.store.migrate import migrate
from tests.browser.conftest import NewHand
from tests.browser.hand import ROOT
from tests.conftest import Serve, _aside, fill_base

pytestmark = pytest.mark.browser


@pytest.fixture
def own_cluster() -> Iterator[Cluster]:
    made = Cluster(ROOT / ".jutrel" / f"test-away-{os.getpid()}")
    made.make()
    made.start()
    migrate(made.url)
    _aside(lambda: fill_base(made.url))
    yield made
    made.drop()


def test_taps_are_kept_and_sent_when_the_store_is_back(own_cluster: Cluster, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(own_cluster.serve_url))
    me.sign_in()
    me.begin("ex-04")
    me.sound("stance")
    me.page.wait_for_timeout(2000)  # the arrival at the first station is an entry of its own
    me.all_sent()

    own_cluster.stop()
    me.sound("pools")
    me.sound("people")
    state = me.see("connection")
    expect(state).to_contain_text("Record store away · 2 kept here")
    me.station("cab-side")
    me.unseen("mirror-left", "taken off")
    expect(state).to_contain_text("4 kept here")  # two answers, an arrival, one not seen
    # The level is judged all the same: it only computes.
    me.station("front-right")
    expect(me.see("judgement")).to_have_count(0)  # nobody has set the line yet
    me.see("glass").press("ArrowUp")
    expect(me.see("judgement")).to_contain_text("Good")
    # Even a reload loses nothing: it is on the device.
    me.page.reload()
    expect(state).to_contain_text("5 kept here")
    me.station("approach")
    expect(me.card("pools").get_by_role("button", name="Sound", exact=True)).to_have_attribute("aria-pressed", "true")
    me.page.locator("[data-test=onward]").wait_for()

    own_cluster.start(own_cluster.port)
    expect(state).to_have_text("All sent")
    inspection = me.page.url.rsplit("/", 1)[-1]
    entries = me.page.request.get(f"/api/inspections/{inspection}").json()["entries"]
    answers = [e["what"]["checkpoint"] for e in entries if e["kind"] == "answered"]
    assert answers == ["stance", "pools", "people", "mirror-left"]
    assert me.errors == []
