"""Signing in by an account at one's company, against a small stand-in for it.

How it could hurt somebody: whoever sits down at the desk is signed in as the one who sat there before; a code that was
taken on its way, or made for another server, opens a session; somebody is taken for a colleague of the same name; a
mechanic's release without a PIN.
"""

from __future__ import annotations

import time
from collections.abc import Iterator
from typing import Any
from urllib.parse import parse_qs, urlsplit

import httpx
import pytest
from fastapi.testclient import TestClient

from jutrel.api.app import make_app
from jutrel.cluster import free_port
from jutrel.settings import Settings
from jutrel.standin.company import CLIENT, SECRET, StandInCompany
from tests.api.test_entries import FLAT
from tests.company import served
from tests.conftest import CATALOG
from tests.device import Device, Plain
from tests.patience import within

HOST = "https://yard.example"


@pytest.fixture(scope="module")
def company() -> Iterator[StandInCompany]:
    with served() as it:
        yield it


def settings_for(bare: str, company: StandInCompany) -> Settings:
    return Settings(
        database_url=bare, public_address=HOST, company_issuer=company.issuer, company_client=CLIENT,
        company_secret=SECRET, company_name="Levee Works",
    )  # fmt: skip


@pytest.fixture
def app(bare: str, company: StandInCompany) -> Iterator[TestClient]:
    company.odd.clear()
    company.clock = time.time
    with TestClient(make_app(settings_for(bare, company), CATALOG), base_url=HOST) as client:
        yield client


def desk(app: TestClient) -> TestClient:
    client = TestClient(app.app, base_url=HOST)
    client.portal = app.portal
    return client


def went(at: Plain, subject: str = "u-1001") -> dict[str, str]:
    """What a browser comes back with that was sent to an address, where somebody picked an account."""
    asked = {k: v[0] for k, v in parse_qs(urlsplit(at["address"]).query).items()}
    assert (asked["prompt"], asked["max_age"]) == ("login", "0"), "it is asked each time who sits there"
    assert (asked["code_challenge_method"], asked["scope"]) == ("S256", "openid")
    back = httpx.post(at["address"].partition("?")[0], data={**asked, "sub": subject})
    told = {k: v[0] for k, v in parse_qs(urlsplit(back.headers["location"]).query).items()}
    assert back.headers["location"].startswith(f"{HOST}/company?")
    assert told["state"] == at["state"]
    return told


def add(http: TestClient, subject: str = "u-1001", pin: str = "2468") -> httpx.Response:
    at = http.post("/api/company/address", json={"pin": pin})
    return http.post("/api/company", json=went(at.json(), subject)) if at.is_success else at


def enter(http: TestClient, told: dict[str, str] | None = None, subject: str = "u-1001") -> httpx.Response:
    told = told or went(http.post("/api/session/company/address").raise_for_status().json(), subject)
    return http.post("/api/session/company", json={**told, "device": "desk-1"})


def kind(reply: httpx.Response) -> str:
    return str(reply.json()["type"]).rpartition("/")[2]


def test_who_added_their_account_signs_in_by_it_and_clears_nothing(app: TestClient) -> None:
    pell, other = Device(desk(app)), desk(app)
    assert app.get("/api/door").json()["company"] == "Levee Works"
    assert kind(enter(other)) == "not-linked", "nobody is known by what the company calls them"
    pell.sign_in("Pell").raise_for_status()
    assert pell.http.get("/api/company").json() == {"name": "Levee Works", "added": False}
    assert kind(add(pell.http, pin="0000")) == "wrong-pin"
    for _ in range(2):
        assert add(pell.http).status_code == 204
    assert pell.http.get("/api/company").json()["added"] is True
    dag = Device(desk(app))
    dag.sign_in("Dag").raise_for_status()
    assert kind(add(dag.http)) == "account-taken"
    assert kind(enter(desk(app), subject="u-1002")) == "not-linked"
    entered = enter(other)
    assert entered.json()["person"]["name"] == "Pell Aronsk"
    # What clears something asks for the PIN, as after any other way in.
    desk_of_pell = Device(other)
    desk_of_pell.by = entered.json()["person"]["id"]
    desk_of_pell.pens[desk_of_pell.by] = entered.json()["pen"]["secret"]
    mira = Device(desk(app))
    mira.sign_in("Mira").raise_for_status()
    mira.whole("ex-03", {"main-pump": FLAT})
    look = dag.new_id()
    assert dag.send("ex-03", look, dag.walk("ex-03")).json()["refused"] == []
    refused = desk_of_pell.send("ex-03", look, [desk_of_pell.signature(look)]).json()["refused"]
    assert [r["kind"] for r in refused] == ["pin-again"]
    rolf = Device(desk(app))
    rolf.sign_in("Rolf").raise_for_status()
    assert "Somebody added their account" in rolf.http.get("/api/account").text
    assert "u-1001" not in rolf.http.get("/api/account").text
    # A PIN given anew ends it: whoever lost theirs may have lost more.
    assert rolf.http.patch(f"/api/people/{desk_of_pell.by}", json={"pin": "9182"}).is_success
    assert kind(enter(desk(app))) == "not-linked"


def test_taken_away_it_signs_nobody_in(app: TestClient) -> None:
    pell = Device(desk(app))
    pell.sign_in("Pell").raise_for_status()
    assert add(pell.http).status_code == 204
    assert pell.http.delete("/api/company").status_code == 204
    assert pell.http.delete("/api/company").status_code == 404
    assert kind(enter(desk(app))) == "not-linked"


def test_a_way_back_is_good_once_in_the_browser_that_went(app: TestClient) -> None:
    pell = Device(desk(app))
    pell.sign_in("Pell").raise_for_status()
    assert add(pell.http).status_code == 204
    mine, theirs = desk(app), desk(app)
    told = went(mine.post("/api/session/company/address").json())
    went(theirs.post("/api/session/company/address").json())
    assert kind(enter(theirs, told)) == "asked-too-long-ago", "somebody else's code, sent to another's browser"
    assert kind(enter(mine, told)) == "asked-too-long-ago", "and used up by that"
    assert enter(mine, told := went(mine.post("/api/session/company/address").json())).is_success
    assert kind(enter(mine, told)) == "asked-too-long-ago", "sent twice"
    # What was asked for signing in adds nothing, and the other way round.
    told = went(pell.http.post("/api/session/company/address").json(), "u-1002")
    assert kind(pell.http.post("/api/company", json=told)) == "asked-too-long-ago"
    told = went(pell.http.post("/api/company/address", json={"pin": "2468"}).json(), "u-1002")
    assert kind(enter(pell.http, told)) == "asked-too-long-ago"
    # With the state of one and the code of another: it was made for another way.
    one, two = went(mine.post("/api/session/company/address").json()), desk(app)
    other = went(two.post("/api/session/company/address").json())
    assert kind(enter(two, {"state": other["state"], "code": one["code"]})) == "company-no"


@pytest.mark.parametrize(
    "odd",
    [
        {"iss": "https://elsewhere.example"}, {"aud": "another"}, {"aud": [CLIENT, "another"]}, {"nonce": "n"},
        {"exp": 1}, {"sub": ""}, {"sub": "a" * 300}, {"auth_time": 1_700_000_000}, {"auth_time": None},
        {"auth_time": "soon"},
    ],
    ids=str,
)  # fmt: skip
def test_a_word_that_does_not_hold_opens_nothing(app: TestClient, company: StandInCompany, odd: dict[str, Any]) -> None:
    pell = Device(desk(app))
    pell.sign_in("Pell").raise_for_status()
    assert add(pell.http).status_code == 204
    company.odd |= odd
    other = desk(app)
    assert kind(enter(other)) == "company-no"
    assert other.get("/api/session").status_code == 401


def test_by_another_key_it_is_nobodys_word_and_new_keys_are_learned(app: TestClient, company: StandInCompany) -> None:
    pell, other = Device(desk(app)), desk(app)
    pell.sign_in("Pell").raise_for_status()
    assert add(pell.http).status_code == 204
    assert enter(other).is_success  # the keys are known from here on
    company.key = StandInCompany("").key  # the company changed its key
    assert kind(enter(other)) == "company-no"
    assert enter(other).is_success, "asked anew after that"


def test_a_company_that_is_away_keeps_nobody_out(bare: str, company: StandInCompany) -> None:
    for issuer in (f"http://localhost:{free_port()}", "http://elsewhere.example", f"{company.issuer}/x"):
        settings = settings_for(bare, company).model_copy(update={"company_issuer": issuer})
        with TestClient(make_app(settings, CATALOG), base_url=HOST) as http:
            begun = time.monotonic()
            reply = http.post("/api/session/company/address")
            assert (reply.status_code, kind(reply)) == (503, "company-away")
            assert time.monotonic() - begun < within(6)
            assert Device(http).sign_in("Mira").is_success
    # Without one there is no button, and no address.
    with TestClient(make_app(Settings(database_url=bare, public_address=HOST), CATALOG), base_url=HOST) as http:
        assert http.get("/api/door").json()["company"] == ""
        assert kind(http.post("/api/session/company/address")) == "no-company"
