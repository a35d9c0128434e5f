"""The pen in the browser: what is tapped is sealed there, and the private half of its key cannot be taken out.

How it could lose what was reported: a seal that cannot be made, so that nothing is written down.
"""

from __future__ import annotations

import json
from typing import Any

import pytest
from playwright.sync_api import Route, expect

from jutrel.service.log.seal import holds, opened
from tests.browser.conftest import NewHand
from tests.conftest import Serve

pytestmark = pytest.mark.browser
ALL = """const all = async (table) => {
  const db = await new Promise((done) => {
    const asked = indexedDB.open("jutrel");
    asked.onsuccess = () => done(asked.result);
  });
  return new Promise((done) => {
    const asked = db.transaction(table).objectStore(table).getAll();
    asked.onsuccess = () => done(asked.result);
  });
};"""
PENS = f"""async () => {{ {ALL}
  const taken = (key) => crypto.subtle.exportKey("pkcs8", key).then(() => true, () => false);
  return Promise.all((await all("pens")).filter((p) => p.sealing).map(async (p) => (
    {{ id: p.id, extractable: p.sealing.extractable, kind: p.sealing.type, taken: await taken(p.sealing) }})));
}}"""
ENTRIES = f"""async () => {{ {ALL} return all("entries"); }}"""


def test_what_is_tapped_is_sealed_and_its_key_stays(demo: str, serve: Serve, hand: NewHand) -> None:
    demo_at = serve(demo)
    me = hand(demo_at)
    me.sign_in("Osk Brandel")
    (pen,) = me.page.evaluate(PENS)
    assert pen == {"id": pen["id"], "extractable": False, "kind": "private", "taken": False}
    me.begin_at("ld-05")
    me.all_sound_here()
    me.all_sent()
    sealed: list[Any] = [e for e in me.page.evaluate(ENTRIES) if e["state"] == 1]
    assert sealed
    certificate = me.page.request.get(f"/api/pens/{pen['id']}").json()["certificate"]
    assert holds(certificate, me.page.request.get("/api/site/key").json()["key"])
    for entry in sealed:
        assert holds(entry["seal"], str(opened(certificate).says["key"]))
        says = opened(entry["seal"]).says
        assert json.dumps(says["what"], sort_keys=True) == json.dumps(entry["what"], sort_keys=True)
        assert (says["machine"], says["stream"]) == ("ld-05", entry["inspection"])
    # Signed out and in again in the same shift: the newest pen writes, and what it signs counts.
    me.page.goto("/")
    me.sign_out()
    me.sign_in("Osk Brandel")
    (again,) = me.page.evaluate(PENS)
    assert again["id"] != pen["id"], "the first has no key any more"
    me.begin_at("gr-09")
    me.all_sound_here()
    me.all_sent()
    # Another tablet checks it by itself; a word that somebody changes on the server's way to it is found.
    walk = sealed[0]["inspection"]
    other = hand(demo_at)
    other.sign_in("Mira Tolland")
    other.page.goto(f"/records/{walk}")
    other.page.get_by_test_id("check-seals").click()
    result = other.page.get_by_test_id("seals")
    expect(result).to_have_attribute("data-wrong", "0")
    assert int(result.get_attribute("data-sealed") or 0) >= len(sealed)

    def lied(route: Route) -> None:
        document = route.fetch().json()
        entry = next(e for e in document["entries"] if e["kind"] == "answered")
        route.fulfill(
            json={
                **document,
                "entries": [
                    {**e, "what": {**e["what"], "answer": "unseen"}} if e is entry else e for e in document["entries"]
                ],
            }
        )

    other.page.route("**/record.json*", lied)
    other.page.get_by_test_id("check-seals").click()
    expect(result).to_have_attribute("data-wrong", "1")
    later = [e for e in me.page.evaluate(ENTRIES) if e["machine"] == "gr-09"]
    assert later
    assert {opened(e["seal"]).pen for e in later} == {again["id"]}
    assert me.errors == []
