"""Signing in by one's account at the company, at the desk: out of the page, over the company's, and back."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from jutrel.standin.company import ACCOUNTS, CLIENT, SECRET
from tests.browser.conftest import NewHand
from tests.company import served
from tests.conftest import Serve
from tests.device import PIN

pytestmark = pytest.mark.browser


def test_at_the_desk_one_signs_in_over_the_companys_page(bare: str, serve: Serve, hand: NewHand) -> None:
    # To the browser 127.0.0.1 is another site than localhost, as a company's page is.
    with served("127.0.0.1") as company:
        settings = {"ISSUER": company.issuer, "CLIENT": CLIENT, "SECRET": SECRET, "NAME": "Levee Works"}
        base = serve(bare, **{f"JUTREL_COMPANY_{key}": it for key, it in settings.items()})
        base = base.replace("127.0.0.1", "localhost")
        me = hand(base)
        me.sign_in("Pell")
        me.page.goto(f"{base}/sessions")
        me.tap("add-company")
        for digit in PIN:
            me.page.get_by_role("button", name=digit, exact=True).click()
        me.tap("enter")
        expect(me.page.get_by_role("heading", name="Stand-in")).to_be_visible()
        account = next(iter(ACCOUNTS.values()))
        me.page.get_by_role("button", name=account).click()
        expect(me.see("end-company")).to_be_visible()
        assert me.axe() == []
        me.sign_out()
        me.page.goto(f"{base}/sign-in?to=/defects")
        me.tap("by-company")
        me.page.get_by_role("button", name=account).click()
        expect(me.page).to_have_url(f"{base}/defects")
        assert me.page.request.get(f"{base}/api/session").json()["person"]["name"] == "Pell Aronsk"
        # The pen that came with it writes, sealed by this browser's own key.
        me.page.goto(f"{base}/sessions")
        me.tap("end-company")
        expect(me.see("add-company")).to_be_visible()
        me.sign_out()
        me.page.goto(f"{base}/sign-in")
        me.tap("by-company")
        me.page.get_by_role("button", name=account).click()
        expect(me.page.get_by_role("alert")).to_contain_text("Nobody here signs in by this account")
        # Whoever is sent here by another page brought nothing that this browser went for.
        me.page.goto(f"{base}/company?code=a&state=a-state-that-was-never-asked-for")
        expect(me.page.get_by_role("alert")).to_contain_text("You were not signed in there")
        expect(me.page).to_have_url(f"{base}/company")
        assert me.axe() == []
