"""A defect from the operator to its end, live on every page; what one writes another sees within two seconds."""

from __future__ import annotations

from playwright.sync_api import expect

from tests.browser.conftest import NewHand
from tests.conftest import Serve
from tests.device import CRACK, Device
from tests.patience import client, within

AT_ONCE = 1000 * within(2.5)
"""A page hears of what others do without asking [ms]."""


def test_a_hold_goes_through_all_hands_and_every_page_sees_it(bare: str, serve: Serve, hand: NewHand) -> None:
    base = serve(bare)
    with client(base) as http:
        mira = Device(http)
        mira.sign_in()
        pell = hand(base)
        pell.sign_in("Pell Aronsk")
        bay = pell.see("bay-ex-01")
        expect(bay).to_contain_text("Not yet inspected")
        mira.whole("ex-01")
        expect(bay).to_contain_text("Ready", timeout=AT_ONCE)

        # The operator finds a crack in the boom: the supervisor's yard holds it at once, and puts it first.
        mira.whole("ex-01", {"boom": CRACK})
        expect(bay).to_contain_text("Held", timeout=AT_ONCE)
        assert pell.page.locator("[data-test^=bay-]").first.get_attribute("data-test") == "bay-ex-01"
        bay.get_by_role("link", name="Do not start it").click()
        card = pell.see("defect-ex-01-boom")
        expect(card).to_contain_text("Reported")
        with pell.page.context.expect_page() as popup:
            card.get_by_test_id("tag").click()
        assert "tag.pdf" in popup.value.url
        popup.value.close()
        card.get_by_test_id("do-acknowledged").click()
        pell.see("act-note").fill("to the workshop")
        pell.tap("act-send")
        expect(card).to_contain_text("Pell Aronsk has seen it.")

        # The mechanic stands beside it with a phone.
        dag = hand(base, width=390, height=844)
        dag.sign_in("Dag Hollmer")
        # He lowers the boom first: that needs the engine, and is no work.
        dag.page.goto("/machines/ex-01/run")
        expect(dag.see("gate")).to_have_attribute("data-may", "false")
        dag.tap("put-right-open")
        dag.tap("cure-lower")
        dag.see("cure-how").fill("onto stands, Osk keeps people away")
        expect(dag.see("cure-say")).to_be_disabled()  # nobody near is said, too
        dag.tap("cure-clear")
        dag.tap("cure-say")
        dag.pin_again()
        expect(dag.see("cure")).to_contain_text("What is up is lowered to the ground")
        dag.page.goto("/defects/ex-01")
        mine = dag.see("defect-ex-01-boom")
        mine.get_by_test_id("do-isolated").click()
        expect(dag.page.get_by_role("dialog")).to_contain_text("block or crib them before anyone goes under")
        expect(dag.see("act-send")).to_be_disabled()  # how it is isolated is said
        dag.see("act-note").fill("boom on stands, lock 7")
        dag.tap("act-send")
        expect(mine).to_contain_text("In repair")
        mine.get_by_test_id("do-released").click()
        dag.see("act-note").fill("plate welded in")
        dag.see("act-parts").fill("plate 12 mm")
        dag.tap("act-send")
        dag.pin_again("1111")
        expect(dag.see("pin-again")).to_contain_text("do not belong together")
        dag.pin_again()
        expect(mine).to_contain_text("Another person has to check it")
        expect(mine.get_by_test_id("do-rechecked")).to_have_count(0)

        # Another person's page shows it by itself, and there it is checked.
        expect(card).to_contain_text("plate welded in; plate 12 mm", timeout=AT_ONCE)
        card.get_by_test_id("do-rechecked").click()
        expect(pell.page.get_by_role("dialog")).to_contain_text("Dag Hollmer repaired it. Look at it yourself")
        pell.tap("act-send")
        pell.pin_again()
        expect(card).to_have_count(0)
        expect(mine).to_have_count(0, timeout=AT_ONCE)
        pell.page.goto("/")
        expect(pell.see("bay-ex-01")).to_contain_text("Ready")


def test_the_rulebook_is_read_searched_and_tried(bare: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(bare))
    me.sign_in("Rolf Amsing")
    me.page.goto("/rulebook")
    me.tap("duty-light")
    grade = me.see("if-grade")
    me.tap("if-inoperative")
    me.tap("if-works-dead")
    expect(grade).to_contain_text("Mend")
    expect(grade).to_contain_text("The operator may put it right")
    me.tap("if-dark")
    expect(grade).to_contain_text("Limit")
    expect(grade).to_contain_text("Daylight only.")
    me.tap("if-third")
    expect(grade).to_contain_text("Hold")
    me.see("rules-search").fill("seat belt 1926")
    expect(me.see("hits")).to_contain_text("seat belts (from memory)")
    me.see("rules-search").fill("")
    # A site may choose: by US rules a signaller stands in for a dead alarm.
    regime = me.page.get_by_role("combobox", name="Rules beside the duties")
    regime.click(force=True)  # what is chosen lies over it
    me.page.get_by_role("option", name="US construction").click()
    expect(me.page.get_by_text("Check your own law and manual")).to_be_visible()
    me.tap("duty-warn")
    me.tap("if-inoperative")
    me.tap("if-works-dead")
    expect(grade).to_contain_text("Limit")
    me.tap("go-by")
    expect(me.page.get_by_text("In force now: US construction")).to_be_visible()
    me.page.reload()
    expect(me.page.get_by_text("These rules are in force here.")).to_be_visible()
    expect(me.page.locator(".regime")).to_contain_text("Construction work in the United States")


def test_a_night_in_the_yard_is_told_at_the_place_and_on_its_page(bare: str, serve: Serve, hand: NewHand) -> None:
    base = serve(bare)
    with client(base) as http:
        osk = Device(http)
        osk.sign_in("Osk")
        osk.whole("ex-02")
    me = hand(base)
    me.sign_in()
    me.begin("ex-02")
    me.station("front-right")
    me.defect("mirror-right", "broken", "In pieces, or no view through it", note="glass on the ground")
    expect(me.see("left")).to_contain_text("nothing found")
    me.save()
    me.all_sent()
    me.page.goto("/machines/ex-02")
    me.tap("overnight")
    expect(me.see("window")).to_contain_text("Left by Osk Brandel, found by Mira Tolland.")
    expect(me.see("change-new")).to_contain_text("Mirror, right: Broken")
    expect(me.see("change-new")).to_contain_text("glass on the ground")


def test_what_is_open_is_reported_again_in_one_tap(bare: str, serve: Serve, hand: NewHand) -> None:
    base = serve(bare)
    leak = {"failure_mode": "leak", "attributes": {"leak_class": "I", "coupling": "other"}, "note": "wet ring"}
    with client(base) as http:
        osk = Device(http)
        osk.sign_in("Osk")
        osk.whole("ex-02", {"bucket-cylinder": {"answer": "defect", "findings": [leak]}})
        me = hand(base)
        me.sign_in()
        me.begin("ex-02")
        me.station("equipment")
        me.card("bucket-cylinder").get_by_role("button", name="Defect", exact=True).click()
        again = me.see("again-leak")
        expect(again).to_contain_text("Leak Open since")
        expect(again).to_contain_text("reported once. wet ring")
        again.get_by_test_id("again-worse").click()
        # Worse than last time raises it: a drop is a Mend, and worse makes it a Limit.
        expect(me.see("preview")).to_contain_text("Limit")
        expect(me.see("preview")).to_contain_text("It is worse than last time.")
        me.save()
        me.all_sent()
        found = [
            d for d in http.get("/api/defects?machine=ex-02").json()["defects"] if d["checkpoint"] == "bucket-cylinder"
        ]
        assert len(found) == 1, "found again it joins what is open"
        assert (found[0]["reports"], found[0]["grade"]) == (2, "limit")
        assert found[0]["finding"]["attributes"] == {"leak_class": "II", "coupling": "other"}


def test_low_oil_is_filled_and_the_machine_is_ready(bare: str, serve: Serve, hand: NewHand) -> None:
    """An honest operator is not punished: reported, filled, written down, and on he goes."""
    me = hand(serve(bare))
    me.sign_in()
    me.begin("ex-01")
    me.station("deck")
    me.defect("engine-oil", "level", "Under the low mark")
    expect(me.see("preview")).to_contain_text("Hold")
    expect(me.see("preview")).to_contain_text("Before it starts: filled")
    me.tap("put-right-now")
    me.see("put-right-amount").fill("4 L, 10W-30")
    expect(me.see("preview")).to_contain_text("Watch")
    expect(me.see("preview")).to_contain_text("Found and put right")
    me.save()
    me.station("front-right")
    me.take_level()
    me.walk_the_rest()
    me.all_sent()
    expect(me.see("outcome")).to_have_text("Ready")
    expect(me.see("item-engine-oil")).to_contain_text("4 L, 10W-30")
    me.tap("sign")
    me.tap("sign-now")
    expect(me.page.get_by_role("heading", name="Record of EX-01")).to_be_visible()
    me.page.goto("/")
    expect(me.see("bay-ex-01")).to_contain_text("Ready")
