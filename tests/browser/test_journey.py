"""The whole job in the real interface, from the door to the signed record."""

from __future__ import annotations

import json
import re
from pathlib import Path

import jsonschema
import pytest
from PIL import Image
from playwright.sync_api import expect

from jutrel.exchange.record import record_schema
from tests.browser.conftest import NewHand
from tests.conftest import Serve

pytestmark = pytest.mark.browser


def test_from_the_door_to_the_signed_record(demo: str, serve: Serve, hand: NewHand, tmp_path: Path) -> None:
    photo = tmp_path / "wet.png"
    Image.new("RGB", (1800, 1200), "#665533").save(photo)
    me = hand(serve(demo))
    me.sign_in()
    bay = me.see("bay-ex-01")
    expect(bay).to_contain_text("Ready")
    expect(me.see("bay-ex-03")).to_contain_text("Held")
    me.begin("ex-01")

    # Approach and the next two: all sound, onward with the one primary action.
    for _ in range(3):
        me.all_sound_here()
        before = me.where()
        me.onward()
        expect(me.see("panel")).not_to_have_attribute("data-station", before)
    # A wrong tap is taken back.
    me.station("deck")
    me.sound("engine-oil")
    me.tap("undo")
    expect(me.card("engine-oil").locator("[aria-pressed=true]")).to_have_count(0)
    me.all_sound_here()
    me.station("under-rear")
    me.unseen("drive-covers", "standing water")
    me.page.keyboard.press("ArrowUp")
    me.tap("note")
    me.page.get_by_role("textbox", name="Why, in a few words").fill("lamp left here")
    me.tap("save-text")
    expect(me.page.locator("section.panel")).to_contain_text("lamp left here")
    me.see("photo-here").set_input_files(photo)
    # A finger draws round what matters, and an arrow to it; one too many is taken away again.
    marks = me.see("photo-marks").bounding_box()
    assert marks is not None
    for shape, (dx, dy) in (("circle", (80, 60)), ("arrow", (-90, 40)), ("circle", (0, 0))):
        me.tap(f"photo-{shape}")
        me.page.mouse.move(marks["x"] + 150, marks["y"] + 120)
        me.page.mouse.down()
        me.page.mouse.move(marks["x"] + 150 + dx, marks["y"] + 120 + dy)
        me.page.mouse.up()
    me.tap("photo-undo")
    assert me.axe() == []
    me.tap("photo-keep")
    expect(me.page.locator("section.panel")).to_contain_text("one photo")
    me.sound("slew-bolts")

    # A reload in the middle: the place and every tap are still there.
    me.all_sent()
    me.page.reload()
    me.stands_at("under-rear")
    expect(me.card("slew-bolts").get_by_role("button", name="Sound", exact=True)).to_have_attribute(
        "aria-pressed", "true"
    )
    expect(me.card("drive-covers").get_by_role("button", name="Not seen")).to_have_attribute("aria-pressed", "true")

    # A leak at a pressurised flat-face coupling, with a photo: graded at once, with the reason.
    me.station("equipment")
    me.defect(
        "equipment-hoses",
        "leak",
        "Wet or stained, no drop",
        "A flat-face coupling with a ring",
        photo=photo,
        note="dusty and damp",
    )
    preview = me.see("preview")
    expect(preview).to_contain_text("Mend")
    expect(preview).to_contain_text("Tightening does not seal it")
    me.see("mode-leak").get_by_role("button", name="A drop forms and stays").click()
    expect(preview).to_contain_text("Hold")
    expect(preview).to_contain_text("Release the pressure and fit a new ring; do not tighten")
    me.see("mode-leak").get_by_role("button", name="Wet or stained, no drop").click()
    expect(preview).to_contain_text("Mend")
    me.save()
    expect(me.card("equipment-hoses")).to_contain_text("one photo")

    # The glass: on a slope the reading is refused with the reason; then it is read in the posture at hand.
    me.station("front-right")
    expect(me.see("take")).to_be_disabled()
    me.see("pitch").get_by_role("spinbutton").fill("4")
    me.page.keyboard.press("Tab")
    expect(me.see("judgement")).to_contain_text("Move to level ground")
    expect(me.see("judgement")).to_contain_text("says more about the slope than about the oil")
    me.see("pitch").get_by_role("spinbutton").fill("0")
    me.see("oil").get_by_role("spinbutton").fill("60")
    me.page.keyboard.press("Tab")
    expect(me.see("judgement")).to_contain_text("Wait until the oil has cooled")
    me.see("oil").get_by_role("spinbutton").fill("-4")
    me.page.keyboard.press("Tab")
    me.page.get_by_role("group", name="Arm rod").get_by_role("button", name="out", exact=True).click()
    glass = me.see("glass")
    glass.focus()
    for _ in range(9):
        glass.press("ArrowDown")  # 0.50 to 0.32, dragged by keyboard
    # 0.32 seen; arm rod 95 mm × 1.5 m out: +0.148; 240 L 24 K cold: +0.056
    expect(me.see("corrected")).to_have_text("52 %")
    expect(me.see("judgement")).to_contain_text("Do not top up")
    me.take_level()

    me.walk_the_rest()
    me.all_sent()
    expect(me.see("outcome")).to_have_text("Limited")
    expect(me.see("limits")).to_contain_text("Look at Inner final drive covers at the first stop.")
    covers = me.see("item-drive-covers")
    expect(covers).to_contain_text("unseen.mandatory")
    hoses = me.see("item-equipment-hoses")
    hoses.get_by_role("button").first.click()
    expect(hoses).to_contain_text("power.leak.I+flat-face+pressurised")
    expect(hoses).to_contain_text("common practice")
    expect(hoses.locator("img")).to_be_visible()
    me.tap("sign")
    me.tap("sign-now")
    expect(me.page.get_by_role("heading", name="Record of EX-01")).to_be_visible()
    expect(me.page.get_by_text("signed by Mira Tolland")).to_be_visible()

    # On paper and in the open format.
    with me.page.expect_download() as download:
        me.tap("json")
    record = json.loads(Path(download.value.path()).read_text())
    jsonschema.Draft202012Validator(record_schema()).validate(record)
    assert record["verdict"]["outcome"] == "limited"
    assert len(record["photos"]) == 2
    assert all(p["sha256"] for p in record["photos"])
    pdf = me.page.request.get(str(me.see("pdf").get_attribute("href")))
    assert pdf.body().startswith(b"%PDF")

    # Amended afterwards, with a reason, and signed again.
    me.tap("amend")
    me.page.get_by_role("combobox", name="Which checkpoint").click()
    me.page.get_by_role("option", name="Inner final drive covers").click()
    me.tap("amend-why")
    me.page.keyboard.type("pumped dry, looked again")
    me.tap("amend-sound")
    expect(me.page.get_by_text("amended after it was signed")).to_be_visible()
    me.page.get_by_role("link", name="Read and sign").click()
    expect(me.see("outcome")).to_have_text("Ready, mends due")
    me.tap("sign")
    me.tap("sign-now")
    expect(me.page.get_by_role("heading", name="Record of EX-01")).to_be_visible()
    me.page.goto("/")
    expect(me.see("bay-ex-01")).to_contain_text("Ready, mends due")
    assert me.errors == []


def test_a_drip_is_counted_against_the_clock(demo: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(demo))
    me.sign_in()
    me.begin("ex-02")
    me.station("bays-right")
    me.defect("main-pump", "leak", "Drops fall", "A seal, gland or cover")
    me.tap("drop")
    for _ in range(5):
        me.page.wait_for_timeout(250)
        me.tap("drop")
    me.tap("drops-done")
    counter = me.page.locator(".counter")
    expect(counter).to_contain_text("36.0 L stand above the ADD mark")
    expect(counter).to_contain_text(re.compile(r"It loses \d+ mL an hour"))
    me.save()
    me.all_sent()


def test_the_walk_goes_on_in_another_hand(demo: str, serve: Serve, hand: NewHand) -> None:
    """On a phone, by touch, on another device, by another person; and the mark is on the plan."""
    base = serve(demo)
    mira = hand(base)
    mira.sign_in()
    mira.begin("ex-04")
    mira.all_sound_here()
    mira.station("bays-left")
    mira.defect("cooling-pack", "dirty", "Some dirt")
    mira.save()
    mira.all_sent()
    osk = hand(base, 390, 844, has_touch=True, is_mobile=True)
    osk.sign_in("Osk Brandel")
    osk.see("row-ex-04").get_by_role("link", name="Resume").tap()
    osk.stands_at("bays-left")
    expect(osk.card("cooling-pack").get_by_role("button", name="Defect", exact=True)).to_have_attribute(
        "aria-pressed", "true"
    )
    assert osk.sideways() <= 0
    osk.card("batteries").get_by_role("button", name="Sound", exact=True).tap()
    osk.all_sent()
    mira.page.reload()
    expect(mira.card("batteries").get_by_role("button", name="Sound", exact=True)).to_have_attribute(
        "aria-pressed", "true"
    )
    expect(mira.page.locator(".map text", has_text=re.compile("^W$")).first).to_be_visible()
    assert mira.errors == osk.errors == []


def test_by_keyboard_alone(demo: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(demo))
    me.sign_in()
    me.begin("ex-04")
    keys = me.page.keyboard
    keys.press("s")
    keys.press("s")
    expect(me.page.locator(".panel article.sound")).to_have_count(2)
    keys.press("u")
    expect(me.page.locator(".panel article.sound")).to_have_count(1)
    keys.press("n")
    keys.type("fog")
    for _ in range(12):
        keys.press("Tab")
        if me.page.evaluate("document.activeElement.dataset.test") == "save-text":
            break
    keys.press("Enter")
    expect(me.page.locator(".panel article.unseen")).to_have_count(1)
    expect(me.see("save-text")).to_be_hidden()
    keys.press("ArrowRight")
    expect(me.see("panel")).not_to_have_attribute("data-station", "approach")
    keys.press("m")
    expect(me.page.get_by_text("Why:").first).to_be_visible()
    keys.press("d")
    expect(me.see("save-defect")).to_be_visible()
    keys.press("Escape")
    expect(me.see("save-defect")).to_be_hidden()
    keys.press("?")
    expect(me.page.get_by_role("dialog", name="Keyboard")).to_be_visible()
