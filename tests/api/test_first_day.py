"""A company's first day with no demo: a site at the console, PINs that only their owners know, an account of it all.

How it could hurt somebody: an administrator who knows the PINs that he gave, and signs in anybody's name; a change of
roles that nobody can see afterwards; a site that answers under any name, so that a foreign page speaks for it.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from jutrel.api.app import make_app
from jutrel.service.people.pins import own_pin
from jutrel.service.problem import Problem
from jutrel.settings import Settings
from tests.api.conftest import Tablets
from tests.api.office import NEW, Console, enter, pin_in
from tests.conftest import CATALOG, Cluster, sql
from tests.device import OPTIONS, Device, Plain


@pytest.fixture
def http(empty: str) -> Iterator[TestClient]:
    with TestClient(make_app(Settings(database_url=empty), CATALOG), base_url="http://yard.test") as client:
        yield client


def test_a_site_from_nothing_to_its_first_inspection(
    console: Console, http: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert "No site has been set up" in http.get("/api/door").json()["detail"]
    assert "No site has been set up" in console("check", code=1)
    said = console(*NEW, "--number", "Ambulance=112", "--regime", "us-mines", "--units", "us")
    first = pin_in(said)
    # The PIN of the console is good for choosing one's own, and for nothing else.
    assert enter(http, "Ada Berg-Test", first)["type"] == "/problems/choose-pin"
    assert http.get("/api/session").status_code == 401
    for weak in ("7304", "111111", "123456", "987654", "121212", "730730", "777788", first):
        assert enter(http, "Ada Berg-Test", first, weak)["type"] == "/problems/weak-pin", weak
    entered = enter(http, "Ada Berg-Test", first, "730418")
    assert (entered["site"], entered["units"], entered["numbers"]) == ("Ridge Dam", "us", [["Ambulance", "112"]])
    assert enter(http, "Ada Berg-Test", first)["type"] == "/problems/wrong-pin", "it was for the first time"
    # People come by the page; each chooses.
    for n, (name, role) in enumerate(
        (("Olu Test", "operator"), ("Sam Test", "supervisor"), ("Mek Test", "mechanic")), 1
    ):
        body = {"id": f"1111111{n}-1111-4111-8111-111111111111", "name": name, "role": role, "pin": "4711"}
        assert http.post("/api/people", json=body).status_code == 201
    assert enter(http, "Sam Test", "4711", "604193")["person"]["role"] == "supervisor"
    sam = Device(http)
    file = {"id": sam.new_id(), "name": "EX-1", "model_id": "tolvane-e24", "hour_meter": 12.0, "options": []}
    assert http.put("/api/machines/ex-1", json=file).is_success
    assert enter(http, "Olu Test", "4711", "518264")["person"]["role"] == "operator"
    olu = Device(http)
    olu.by = "11111111-1111-4111-8111-111111111111"
    walk = http.post("/api/machines/ex-1/walk", json={}).raise_for_status().json()
    monkeypatch.setitem(OPTIONS, "ex-1", frozenset())
    look = olu.new_id()
    taps = [olu.entry("answered", checkpoint=c["id"], answer="sound") for c in walk["checkpoints"]]
    assert olu.send("ex-1", look, [olu.opening("ex-1", hour_meter=12.5), *taps]).json()["refused"] == []
    assert http.get(f"/api/inspections/{look}").json()["verdict"]["outcome"] in ("ready", "incomplete")
    assert http.get("/api/account").status_code == 403
    checked = console("check", code=1)
    assert "good   The site is Ridge Dam: 4 people, 1 with a PIN for the first time." in checked
    assert "WRONG  There are fewer than two administrators" in checked
    assert "good   The role that serves cannot change what was written." in checked


def test_the_account_says_who_changed_whom_and_cannot_be_changed(
    console: Console, http: TestClient, cluster: Cluster, empty: str
) -> None:
    enter(http, "Ada Berg-Test", pin_in(console(*NEW)), "730418")
    mek = "11111111-1111-4111-8111-111111111111"
    person = {"id": mek, "name": "=Mek Test", "role": "mechanic", "pin": "4711"}
    assert http.post("/api/people", json=person).status_code == 201
    assert http.post("/api/people", json=person).status_code == 201  # sent twice
    for change in ({"role": "supervisor"}, {"pin": "9182"}, {"active": False}, {"active": True}, {"active": True}):
        assert http.patch(f"/api/people/{mek}", json=change).is_success
    key = {"machines": [], "instruments": ["weather-station"]}
    assert http.put("/api/devices/mast-1", json=key).is_success
    shifts = {"shifts": [{"begins": "05:00", "hours": 9}]}
    assert http.put("/api/site/shifts", json=shifts).is_success
    assert http.put("/api/site/shifts", json=shifts).is_success
    pin_in(console("person", "pin", "=Mek Test"))
    told = http.get("/api/account").json()
    assert told["whole"] is True
    assert [x["says"] for x in reversed(told["lines"])] == [
        "The site was set up.", "A person was added.", "Somebody chose their own PIN.", "A person was added.",
        "Somebody got another role.", "Somebody was given a new PIN.", "Somebody left: no sign-in any more.",
        "Somebody came back.", "A device was given a key.", "The shifts were changed.",
        "Somebody was given a new PIN.",
    ]  # fmt: skip
    role = told["lines"][-5]
    assert (role["by"], role["about"], role["details"]) == (
        "Ada Berg-Test", "=Mek Test", {"from": "Mechanic", "to": "Supervisor"},
    )  # fmt: skip
    assert told["lines"][0]["by"] == "", "at the console"
    rows = list(csv.reader(io.StringIO(http.get("/api/account.csv").text)))
    assert len(rows) == 12
    assert rows[5][4] == "'=Mek Test", "no formula"
    older = http.get("/api/account", params={"before": 4}).json()["lines"]
    assert [x["seq"] for x in older] == [3, 2, 1]
    # The role that serves cannot rewrite it; whoever owns the database can, and is found out.
    database = empty.rsplit("/", 1)[1]
    may = "select has_table_privilege('jutrel_serve', 'account', w) from unnest(array['update', 'delete']) w"
    assert sql(cluster, may, database) == [(False,), (False,)]
    sql(cluster, "update account set details = '{}' where seq = 5", database)
    assert http.get("/api/account").json()["whole"] is False
    assert "broken at line 5" in console("check", code=1)
    sql(cluster, "delete from account where seq = 5", database)
    assert "broken at line 5" in console("check", code=1), "taken out of the middle"


def test_who_gave_a_pin_stays_known_when_another_is_chosen_with_it(
    console: Console, http: TestClient, cluster: Cluster, empty: str
) -> None:
    """Lost so: an administrator gives a PIN, signs in with it himself, and nothing says whose choice it was."""
    enter(http, "Ada Berg-Test", pin_in(console(*NEW)), "730418")
    ada = http.get("/api/session").json()["person"]["id"]
    body = {"id": "11111111-1111-4111-8111-111111111111", "name": "Olu Test", "role": "operator", "pin": "4711"}
    assert http.post("/api/people", json=body).status_code == 201
    # Nor does it stand for that person beside somebody else's session, before they chose.
    again = {"person": body["id"], "pin": "4711", "entries": [body["id"]]}
    refused = http.post("/api/session/pin", json=again).json()
    assert refused["type"] == "/problems/choose-pin"
    enter(http, "Olu Test", "4711", "518264")
    given = sql(cluster, "select pin_set_by, pin_once from person where name = 'Olu Test'", empty.rsplit("/", 1)[1])
    assert given == [(ada, False)]


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (("--zone", "Moon/Base"), "is no time zone"),
        (("--regime", "none"), "is not one of"),
        (("--shift", "6=8"), "write it as 06:00"),
        (("--shift", "06:00"), "write it as 06:00=8"),
        (("--shift", "06:00=30"), "lasts"),
        (("--number", "Ambulance"), "write it as Ambulance=112"),
        (("--administrator", " "), "give the person's name"),
        (("--id", "a b"), "give a short name"),
    ],
)
def test_what_cannot_be_a_site(console: Console, http: TestClient, arguments: tuple[str, ...], says: str) -> None:
    given = list(NEW)
    if arguments[0] in given:
        given[given.index(arguments[0]) + 1] = arguments[1]
    else:
        given += arguments
    assert says in console(*given, code=2)
    assert "No site" in http.get("/api/door").json()["detail"], "nothing half written"


def test_a_second_site_is_refused(console: Console) -> None:
    console(*NEW)
    assert "has the site 'ridge-dam' already" in console(*NEW, code=2)
    assert "people of the site are called 'Nobody'" in console("person", "pin", "Nobody", code=2)
    assert pin_in(console("person", "new", "Bo Test", "operator"))


@pytest.mark.parametrize("good", ["730418", "90210347", "114477"])
def test_a_pin_of_ones_own(good: str) -> None:
    assert own_pin(good) == good
    for bad in ("", "12345", "222222", "135791", "010101", "123123", "74a418"):
        with pytest.raises(Problem):
            own_pin(bad)


def test_only_its_own_address_is_answered_and_over_tls_the_cookie_goes_nowhere_else(
    empty: str, console: Console
) -> None:
    first = pin_in(console(*NEW))
    settings = Settings(database_url=empty, public_address="https://yard.test")
    with TestClient(make_app(settings, CATALOG), base_url="https://yard.test") as http:
        for host, code in (("yard.test", 200), ("evil.test", 421), ("yard.test.evil.test", 421), ("127.0.0.1:9", 200)):
            assert http.get("/api/door", headers={"Host": host}).status_code == code, host
        assert http.get("/api/door", headers={"Host": "evil.test"}).json()["type"] == "/problems/other-host"
        body = {
            "person": http.get("/api/door").json()["people"][0]["id"],
            "pin": first,
            "device": "t",
            "new_pin": "730418",
        }
        evil = {"Host": "evil.test", "Origin": "https://evil.test"}
        assert http.post("/api/session", json=body, headers=evil).status_code == 421
        reply = http.post("/api/session", json=body)
        cookie = reply.headers["set-cookie"]
        assert cookie.startswith("__Host-jutrel=")
        assert all(word in cookie for word in ("Secure", "HttpOnly", "SameSite=strict", "Path=/"))
        assert "Path=/;" in cookie + ";"
        assert reply.headers["strict-transport-security"].startswith("max-age=")
        policy = reply.headers["content-security-policy"]
        assert all(word in policy for word in ("base-uri 'none'", "form-action 'self'", "frame-ancestors 'none'"))
        assert "permissions-policy" in reply.headers
        assert http.get("/api/session").is_success
        assert http.delete("/api/session").status_code == 204
        assert http.get("/api/session").status_code == 401


@pytest.mark.parametrize(
    "query", ["x=%C3%A9", "language=%C3%A9%ff", "x=%ff%00", "%F0%9F%9A%9C", "language=" + "%C3" * 400]
)
def test_letters_outside_ascii_in_a_question_are_no_fault(http: TestClient, query: str) -> None:
    """Found so: 500 on every route, without headers, signed out too."""
    for path in ("/api/door", "/api/session", "/api/yard", "/api/nowhere", "/"):
        reply = http.get(f"{path}?{query}")
        assert reply.status_code < 500, path
        assert "content-security-policy" in reply.headers


SITE: Plain = {
    "name": "Ridge Dam, east",
    "zone": "UTC",
    "regime": "us-mines",
    "units": "us",
    "shifts": [{"begins": "06:00", "hours": 8.0}],
    "numbers": [["Ambulance", "112"], ["", ""]],
    "chief": "Ada Berg-Test",
}


def code_in(said: str) -> str:
    found = re.search(r"([A-Z2-9]{4}-[A-Z2-9]{4}-[A-Z2-9]{4})\n", said)
    assert found is not None, said
    return found[1]


def test_a_site_is_set_up_on_its_page_by_the_code_of_its_console_alone(
    console: Console, http: TestClient, cluster: Cluster, empty: str
) -> None:
    """Lost so: whoever comes first to a new server makes themselves its administrator."""
    told = http.get("/api/setup").json()
    assert told["needed"]
    assert {"house", "us-mines"} <= {r["id"] for r in told["regimes"]}
    assert http.post("/api/setup", json={**SITE, "code": ""}).status_code == 403, "no code was given"
    code = code_in(console("site", "code"))
    # After five wrong ones the right one is none any more, nor is one whose hour is over, nor the one before.
    for n in range(5):
        assert http.post("/api/setup", json={**SITE, "code": f"AAAA-BBBB-CCC{n + 2}"}).status_code == 403
    assert http.post("/api/setup", json={**SITE, "code": code}).status_code == 403
    before, code = code, code_in(console("site", "code"))
    assert http.post("/api/setup", json={**SITE, "code": before}).status_code == 403
    sql(cluster, "update setup_code set ends_at = now() - interval '1 minute'", empty.rsplit("/", 1)[1])
    assert http.post("/api/setup", json={**SITE, "code": code}).status_code == 403
    code = code_in(console("site", "code"))
    # What cannot be a site uses no code up, and says which field.
    for field, value in (("zone", "Moon/Base"), ("regime", "none"), ("name", " "), ("chief", "")):
        reply = http.post("/api/setup", json={**SITE, "code": code, field: value})
        assert (reply.status_code, "field" in reply.json()) == (422, True), reply.json()
    assert http.get("/api/setup").json()["needed"]
    made = http.post("/api/setup", json={**SITE, "code": code.lower().replace("-", " ")})
    assert made.status_code == 201, made.json()
    first = made.json()["pin"]
    assert http.post("/api/setup", json={**SITE, "code": code}).status_code in (403, 409), "once"
    assert http.get("/api/setup").json() == {"needed": False, "regimes": []}
    assert "already" in console("site", "code", code=2)
    assert enter(http, "Ada Berg-Test", first)["type"] == "/problems/choose-pin"
    entered = enter(http, "Ada Berg-Test", first, "730418")
    assert (entered["site"], entered["units"], entered["numbers"]) == (SITE["name"], "us", [["Ambulance", "112"]])
    assert "The site was set up." in [x["says"] for x in http.get("/api/account").json()["lines"]]


def test_a_lost_tablet_is_signed_out_and_what_was_tapped_on_it_is_taken(tablets: Tablets) -> None:
    """Lost so: somebody else's hand on it until the shift ends, and no way to end that but to take a person's PIN."""
    lost, mira, osk, rolf = tablets(), tablets(), tablets(), tablets()
    lost.name = "lost-one"
    pen = lost.sign_in_with_a_key("Mira")
    for device, who in ((mira, "Mira"), (osk, "Osk"), (rolf, "Rolf")):
        assert device.sign_in(who).is_success
    look, walk = lost.new_id(), lost.walk("gr-09")
    # One sees one's own, and ends nobody else's; an administrator sees all.
    assert {s["name"] for s in osk.http.get("/api/sessions").json()} == {"Osk Brandel"}
    assert osk.http.delete(f"/api/sessions/{pen['id']}").status_code == 404
    mine = mira.http.get("/api/sessions").json()
    assert [(s["device"], s["own"]) for s in mine] == [(mira.name, True), ("lost-one", False)]
    assert len(rolf.http.get("/api/sessions").json()) == 4
    assert mira.http.delete(f"/api/sessions/{pen['id']}").status_code == 204
    assert lost.http.get("/api/session").status_code == 401
    assert mira.http.get("/api/session").status_code == 200
    assert mira.http.delete(f"/api/sessions/{pen['id']}").status_code == 404
    # What it had written before is taken from whoever carries it.
    sealed = [lost.sealed("gr-09", look, e) for e in walk]
    body = {"machine": "gr-09", "stream": look, "entries": sealed, "pens": []}
    assert osk.http.post("/api/entries", json=body).json()["refused"] == []
    # An administrator ends another's, and the account says so.
    theirs = next(s["id"] for s in rolf.http.get("/api/sessions").json() if s["name"] == "Osk Brandel")
    assert rolf.http.delete(f"/api/sessions/{theirs}").status_code == 204
    assert osk.http.get("/api/session").status_code == 401
    line = rolf.http.get("/api/account").json()["lines"][0]
    assert (line["says"], line["about"]) == ("Somebody was signed out on a device.", "Osk Brandel")
