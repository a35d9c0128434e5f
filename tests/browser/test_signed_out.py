"""What is left on a shared tablet when somebody signs out: encrypted, and sent all the same.

How it could lose what was reported: a tap that was not sent yet when its author left. How it could hurt: a word in that
author's name by whoever picks the tablet up.
"""

from __future__ import annotations

import re
from datetime import UTC, datetime
from pathlib import Path

import pytest
from PIL import Image
from playwright.sync_api import Route, expect

from tests.browser.conftest import NewHand
from tests.browser.test_seals import ALL
from tests.conftest import Serve

pytestmark = pytest.mark.browser
NOTE = "weeping at the left ram, the Ostrander bench"
LEFT = f"""async () => {{ {ALL}
  const db = await new Promise((done) => {{
    const asked = indexedDB.open("jutrel");
    asked.onsuccess = () => done(asked.result);
  }});
  const found = {{}};
  for (const table of db.objectStoreNames) found[table] = await all(table);
  const texts = [JSON.stringify(found), JSON.stringify(localStorage), JSON.stringify(sessionStorage)];
  for (const photo of found.photos) texts.push(await photo.blob.text());
  const keys = found.pens.filter((p) => p.sealing).length + found.kept.filter((k) => k.value?.key).length;
  return {{ text: texts.join(), keys, entries: found.entries, photos: found.photos.length }};
}}"""


def test_who_signs_out_leaves_nothing_that_can_be_read_and_all_of_it_arrives(
    bare: str, serve: Serve, hand: NewHand, tmp_path: Path
) -> None:
    picture = tmp_path / "ram.png"
    Image.new("RGB", (60, 40), "olive").save(picture)
    me = hand(serve(bare))
    me.sign_in()
    me.begin("ex-01")
    me.all_sent()
    walk = me.page.url
    look = walk.rsplit("/", 1)[-1]
    me.sound("stance")
    me.all_sent()
    # The server says no for good to one, is away for the others.
    no = {"stored": [], "known": [], "now": datetime.now(UTC).isoformat(), "look": None}

    def refuse(route: Route) -> None:
        sent = route.request.post_data_json["entries"]
        refused = [{"id": e["id"], "kind": "x", "says": "Not so.", "again": False, "field": None} for e in sent]
        route.fulfill(json={**no, "refused": refused})

    me.page.route("**/api/entries", refuse)
    me.card("pools").get_by_role("button", name="Sound", exact=True).click()
    me.page.get_by_role("alert").filter(has_text="Not so.").wait_for()
    me.page.unroute("**/api/entries")
    for address in ("**/api/entries", "**/api/photos/**"):
        me.page.route(address, lambda route: route.abort())
    me.defect("outline", "bend", "Bent, and does not do its work", note=NOTE, photo=picture)
    me.save()
    expect(me.see("connection")).to_contain_text(re.compile("kept here|on the way"))
    before = me.page.evaluate(LEFT)
    assert NOTE in before["text"]
    assert before["keys"]
    assert before["photos"]
    me.page.goto("/")
    me.sign_out()
    left = me.page.evaluate(LEFT)
    assert [e["state"] for e in left["entries"]].count(2) == 1
    assert len(left["entries"]) == len(before["entries"])
    assert left["photos"] == before["photos"]
    for told in (NOTE, "answered", "bend", "Mira", "JFIF", '"seal"'):
        assert told not in left["text"], told
    assert left["keys"] == 0, "no key of hers is here any more"
    # Another person signs in: what she told goes its way at once, in her name; what was refused waits for her.
    for address in ("**/api/entries", "**/api/photos/**"):
        me.page.unroute(address)
    me.sign_in("Osk Brandel")
    expect(me.see("connection")).to_have_text("All sent")
    found = me.page.request.get(f"/api/inspections/{look}").json()
    crack = next(a for a in found["answers"] if a["checkpoint"] == "outline")
    assert NOTE in str(crack)
    assert all(me.page.request.get(f"/api/photos/{p}").ok for ps in found["photos"].values() for p in ps)
    me.page.goto(walk)
    said = me.page.get_by_role("alert").filter(has_text="Something that somebody else told here")
    expect(said).to_contain_text("Not so.")
    expect(said).to_contain_text("They decide about it when they sign in")
    expect(said.get_by_role("button", name=re.compile("Drop|Let it go"))).to_have_count(0)
    said.get_by_role("button", name="Hide").click()
    expect(said).to_have_count(0)
    me.page.goto("/")
    me.sign_out()
    # She comes back: it is hers again, and goes when she says so.
    me.sign_in()
    me.page.goto(walk)
    again = me.page.get_by_role("alert").filter(has_text="Not so.")
    expect(again.get_by_role("button")).to_have_count(2)
    again.get_by_role("button").first.click()
    expect(again).to_have_count(0)
    me.all_sent()
    entries = me.page.request.get(f"/api/inspections/{look}").json()["entries"]
    assert len({e["by"] for e in entries if e["kind"] in ("answered", "photographed")}) == 1, "all of it hers"
    answers = me.page.request.get(f"/api/inspections/{look}").json()["answers"]
    assert {a["checkpoint"] for a in answers} == {"stance", "pools", "outline"}
    assert not me.errors


def test_a_tablet_that_was_cut_off_while_it_encrypted_goes_on_when_it_is_opened_again(
    bare: str, serve: Serve, hand: NewHand
) -> None:
    """A battery that dies between the key of the entries and their last one."""
    me = hand(serve(bare))
    me.sign_in()
    me.begin("ex-01")
    me.sound("stance")
    me.all_sent()
    me.page.goto("/")
    me.page.get_by_role("button", name="Sign out").wait_for()
    me.page.evaluate("""() => { let left = 1; window.__encrypt = crypto.subtle.encrypt;
        crypto.subtle.encrypt = function (...a) { if (left-- <= 0) return new Promise(() => {});
          return window.__encrypt.apply(this, a); }; }""")
    me.page.get_by_role("button", name="Sign out").click()
    me.page.wait_for_timeout(500)
    me.page.reload()
    me.page.get_by_role("heading", name="Who are you?").wait_for()
    left = me.page.evaluate(LEFT)
    assert left["entries"]
    assert left["keys"] == 0
    assert "answered" not in left["text"]
