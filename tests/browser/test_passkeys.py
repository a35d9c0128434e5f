"""Signing in with a key of one's own, by the browser's own keys on a stick that is made up.

How it could hurt somebody: a key that anybody can use who knows how to unlock a shared tablet; a key that goes on after
its person left or their PIN was given anew; what a key once answered, sent again.
"""

from __future__ import annotations

import json

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import NewHand
from tests.conftest import Serve
from tests.device import PIN

pytestmark = pytest.mark.browser


def test_a_key_of_ones_own_signs_in_and_clears_nothing(bare: str, serve: Serve, hand: NewHand) -> None:
    base = serve(bare).replace("127.0.0.1", "localhost")
    me = hand(base)
    cdp = me.page.context.new_cdp_session(me.page)
    cdp.send("WebAuthn.enable")
    stick = {
        "protocol": "ctap2", "transport": "usb", "hasResidentKey": True, "hasUserVerification": True,
        "isUserVerified": True, "automaticPresenceSimulation": True,
    }  # fmt: skip
    added = cdp.send("WebAuthn.addVirtualAuthenticator", {"options": stick})
    me.sign_in("Dag")
    me.page.goto(f"{base}/sessions")
    me.tap("add-key")
    for digit in PIN:
        me.page.get_by_role("button", name=digit, exact=True).click()
    me.tap("enter")
    expect(me.see("keys").get_by_role("listitem")).to_have_count(1)
    assert me.axe() == []
    me.sign_out()
    # What the key answers is kept, to be sent once more.
    sent: list[str] = []
    me.page.on("request", lambda r: sent.append(r.post_data or "") if r.url.endswith("/session/passkey") else None)
    me.tap("with-key")
    expect(me.page.get_by_role("heading", name="Today")).to_be_visible()
    assert me.page.request.get(f"{base}/api/session").json()["person"]["name"].startswith("Dag")
    again = me.page.request.post(
        f"{base}/api/session/passkey", data=sent[0], headers={"Content-Type": "application/json", "Origin": base}
    )
    assert (again.status, again.json()["type"]) == (400, "/problems/asked-too-long-ago"), "it answers once"
    # It is no PIN: what releases still asks for one.
    entry = {"person": None, "pin": "", "entries": ["01890000-0000-7000-8000-000000000001"]}
    refused = me.page.request.post(
        f"{base}/api/session/pin", data=json.dumps(entry), headers={"Content-Type": "application/json", "Origin": base}
    )
    assert refused.status == 401
    me.sign_out()
    # Its owner was not there: the stick says so, and that is not enough.
    cdp.send("WebAuthn.setUserVerified", {"authenticatorId": added["authenticatorId"], "isUserVerified": False})
    me.tap("with-key")
    expect(me.page.get_by_role("alert").first).to_contain_text("key")
    cdp.send("WebAuthn.setUserVerified", {"authenticatorId": added["authenticatorId"], "isUserVerified": True})
    # The PIN is given anew: who has lost it may have lost the key.
    me.page.reload()
    me.sign_in("Rolf")
    people = me.page.request.get(f"{base}/api/people").json()
    dag = next(p["id"] for p in people if p["name"].startswith("Dag"))
    changed = me.page.request.patch(f"{base}/api/people/{dag}", data={"pin": "4711"}, headers={"Origin": base})
    assert changed.ok
    me.sign_out()
    me.tap("with-key")
    expect(me.page.get_by_role("alert").first).to_contain_text("not known here")
