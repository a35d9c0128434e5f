"""Machine file and models in the browser: own figures reach the walk, a broken file is refused where it breaks."""

from __future__ import annotations

from pathlib import Path

import pytest
from PIL import Image
from playwright.sync_api import Route, expect

from jutrel.catalog import catalog
from jutrel.service.machine.models import shipped_file
from tests.browser.conftest import NewHand
from tests.conftest import Serve

pytestmark = pytest.mark.browser


def test_a_unit_gets_its_own_figures_meter_and_photo(bare: str, serve: Serve, hand: NewHand, tmp_path: Path) -> None:
    base = serve(bare)
    me = hand(base)
    me.sign_in("Dag Hollmer")
    me.see("bay-ld-05").get_by_role("link", name="LD-05").click()
    expect(me.see("limit-tyre-cold-front")).to_contain_text("390 kPa")
    me.tap("edit-file")
    own = me.see("own-tyre-cold-front").locator("visible=true").first
    own.fill("9000")
    me.tap("save-file")
    expect(me.see("file-problem")).to_contain_text("between 100 and 1000 kPa")
    own.fill("365")
    for way in ("Less", "More"):  # to whoever hears the page, two of them are not alike
        expect(me.page.get_by_role("button", name=f"{way}: {me.say('file.bay')}", exact=True)).to_have_count(1)
    me.tap("option-ride-control")  # taken off
    me.tap("save-file")
    expect(me.see("limit-tyre-cold-front")).to_contain_text("365 kPa")
    expect(me.see("options")).not_to_contain_text("Ride control")
    me.tap("replace-meter")
    me.see("meter-why").locator("visible=true").first.fill("glass broken")
    me.tap("meter-save")
    expect(me.see("meter")).to_have_text("Shows 0.0 h")
    expect(me.see("total")).to_contain_text("4310.2 h in all")
    photo = tmp_path / "machine.png"
    Image.new("RGB", (900, 600), "#4a6b57").save(photo)
    me.see("new-photo").set_input_files(photo)
    expect(me.see("machine-photo")).to_be_visible()
    assert me.page.request.get(str(me.see("label").get_attribute("href"))).body().startswith(b"%PDF")

    # The label's code leads a stranger to the door and then to this machine's walk, with its own figure in it.
    you = hand(base, 390, 844, has_touch=True, is_mobile=True)
    you.page.goto("/machines/ld-05/start")
    you.page.get_by_role("button", name="Mira Tolland").tap()
    for digit in "2468":
        you.page.get_by_role("button", name=digit, exact=True).tap()
    you.tap("enter")
    expect(you.page.get_by_text("Before you walk round LD-05")).to_be_visible()
    you.tap("begin")
    you.station("front-left")
    expect(you.card("tyre-front-left")).to_contain_text("365 kPa")
    expect(you.card("tyre-front-left")).to_contain_text("this machine's own")
    you.station("joint")
    expect(you.card("ride-accumulators")).to_have_count(0)
    assert me.errors == you.errors == []


def test_models_go_out_and_come_in(bare: str, serve: Serve, hand: NewHand, tmp_path: Path) -> None:
    me = hand(serve(bare))
    me.sign_in("Pell Aronsk")
    me.page.get_by_role("link", name="Models").click()
    with me.page.expect_download() as download:
        me.tap("yaml-sandvarn-p14")
    text = Path(download.value.path()).read_text()
    assert text == shipped_file(catalog(), "sandvarn-p14")
    file = tmp_path / "grader.yaml"
    file.write_text(text.replace("\nname: P14", "\nname: P14 long\nwings: 2"))
    me.see("model-file").set_input_files(file)
    expect(me.see("refused")).to_contain_text("field wings")
    expect(me.see("refused")).to_contain_text("is not a known field. Nothing was changed.")
    expect(me.see("model-sandvarn-p14")).to_contain_text("as it ships")
    file.write_text(text.replace("\nname: P14", "\nname: P14 long"))
    me.see("model-file").set_input_files(file)
    expect(me.see("took")).to_contain_text("Sandvarn P14 long is taken in")
    expect(me.see("model-sandvarn-p14")).to_contain_text("edition 1 of this site, Pell Aronsk")
    # A new machine of it.
    me.page.goto("/")
    me.tap("add-machine")
    me.see("machine-id").locator("visible=true").first.fill("gr-77")
    me.see("machine-name").locator("visible=true").first.fill("GR-77")
    me.page.get_by_role("combobox", name="Model").click()
    me.page.get_by_role("option", name="Sandvarn P14 long").click()
    me.tap("option-beacon")
    me.tap("save-file")
    expect(me.page.get_by_role("heading", name="GR-77", exact=True)).to_be_visible()
    me.page.goto("/")
    expect(me.see("bay-gr-77")).to_contain_text("Not yet inspected")
    assert me.errors == []


def test_a_model_is_written_here_and_drawn_while_one_types(bare: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(bare))
    me.sign_in("Dag Hollmer")
    me.page.goto("/models")
    me.tap("draft")
    me.see("draft-from").select_option("hestrun-m3")
    says = me.see("draft-says")
    expect(says).to_contain_text("Nothing is missing")
    before = me.see("draft-drawing").inner_html()
    text = me.see("draft-text")
    own = text.input_value().replace("id: hestrun-m3", "id: own-m4").replace("name: M3", "name: M4", 1)
    text.fill(own.replace("bucket_width: 1.4", "bucket_width: 14"))
    expect(says).to_contain_text("bucket_width: Width of the bucket (0.6 to 2.4)")
    expect(me.see("draft-take")).to_have_count(0)
    text.fill(own.replace("bucket_width: 1.4", "bucket_width: 1.9"))
    expect(says).to_contain_text("Nothing is missing")
    assert me.see("draft-drawing").inner_html() != before, "the wider bucket is drawn"
    assert me.axe() == []
    me.tap("draft-take")
    expect(me.see("draft-took")).to_contain_text("M4")
    # A list with a machine of that model: looked at first, then taken in.
    me.page.goto("/models")
    file = {"name": "ours.csv", "mimeType": "text/csv", "buffer": b"number;model;hours\nCL-50;own-m4;12,5\n"}
    me.page.locator("[data-test=machine-list-file]").set_input_files(files=[file])
    expect(me.see("machine-list-says")).to_contain_text("1 new, 0 on file already, 0 refused")
    me.tap("machine-list-keep")
    expect(me.see("machine-list-says")).to_contain_text("One machine is on file")
    assert me.axe() == []
    # A long one says how far it is, stops between two parts when it is told to, and goes on.
    rows = b"number;model;hours\n" + b"".join(b"CL-%d;own-m4;12,5\n" % n for n in range(60, 105))
    me.page.locator("[data-test=machine-list-file]").set_input_files(files=[{**file, "buffer": rows}])
    expect(me.see("machine-list-says")).to_contain_text("45 new")
    held: list[Route] = []
    me.page.route("**/api/machine-list", lambda route: route.continue_() if held else held.append(route))
    me.tap("machine-list-keep")
    expect(me.see("machine-list-says")).to_contain_text("0 of 45 are taken in")
    assert me.axe() == []
    me.tap("machine-list-stop")
    held[0].continue_()
    expect(me.see("machine-list-says")).to_contain_text("Stopped. 20 of 45 are taken in")
    me.tap("machine-list-keep")
    expect(me.see("machine-list-says")).to_contain_text("45 machines are on file")
    me.page.goto("/yard")
    expect(me.see("bay-cl-50")).to_contain_text("Not yet inspected")
    assert me.errors == []


def test_a_machines_page_says_first_how_it_stands_and_what_comes_next(demo: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(demo))
    me.sign_in()
    # Held: what holds it, where it is on the drawing, and the way to it.
    me.page.goto("/machines/ex-03")
    expect(me.see("state")).to_contain_text("Held")
    expect(me.see("open-here").get_by_role("link").first).to_contain_text("Main pump")
    me.page.locator("[data-test=open-here] .pin").first.click()
    me.page.wait_for_url("**/defects/ex-03/*")
    me.page.goto("/machines/ex-03")
    me.tap("next")
    me.page.wait_for_url("**/defects/ex-03")
    # Nobody walked round it yet: the walk. Walked and good, by the one who asks: the start.
    me.page.goto("/machines/ex-04")
    me.tap("next")
    me.see("begin").wait_for()
    me.page.goto("/machines/ex-01")
    expect(me.see("state")).to_contain_text("Ready")
    me.tap("next")
    me.see("begin-run").wait_for()
    # What was told before is not taken for how it stands now: it says so, and no start is offered by it.
    me.page.route("**/api/yard", lambda route: route.abort())
    me.page.goto("/machines/ex-01")
    me.see("without").wait_for()
    expect(me.see("next")).to_have_text("Walk again")
    me.page.unroute("**/api/yard")
    # One that is not there leads on.
    me.page.goto("/machines/zz-99")
    me.page.get_by_role("link", name="The yard", exact=True).click()
    me.page.get_by_role("heading", name="Yard").wait_for()
