"""A role that clears machines takes two administrators; people are erased; sessions that nobody uses end.

How it could hurt somebody: an administrator makes himself, or an invented person, the mechanic who releases a Hold;
takes the second administrator away first, or signs in as them; gives the role straight in the database; a change that
nobody hears of. How it could lose what was reported: a person's name erased together with what they wrote.
"""

from __future__ import annotations

import json
import re
import subprocess
import uuid
from binascii import unhexlify
from collections.abc import Iterator
from contextlib import ExitStack
from datetime import UTC, datetime, timedelta
from pathlib import Path

import psycopg
import pytest
from fastapi.testclient import TestClient

from jutrel.api import door
from jutrel.api.app import make_app
from jutrel.service.log.seal import new_site_key, opened
from jutrel.service.people.people_list import PART
from jutrel.settings import Settings
from tests.api.office import ADA, BO, MEK, NEW, Console, Office, enter, pin_in
from tests.command import run
from tests.conftest import CATALOG, Cluster, owner_of, sql
from tests.device import OPTIONS, Device, Plain


@pytest.fixture
def office(empty: str, console: Console) -> Iterator[Office]:
    """Ada and Bo, administrators with PINs of their own."""
    with ExitStack() as stack:
        app = stack.enter_context(
            TestClient(make_app(Settings(database_url=empty), CATALOG), base_url="http://yard.test")
        )
        made = Office(app, stack)
        made.enter(ADA, pin_in(console(*NEW)), "730418")
        made.ids[ADA] = made.at(ADA).get("/api/session").json()["person"]["id"]
        # The first second one comes by the first alone: there was nobody to ask.
        assert made.add(ADA, BO, "administrator")["asked"] is None
        made.enter(BO, "4711", "604193")
        yield made


def test_two_administrators_give_a_role_that_clears_machines(office: Office) -> None:
    assert office.add(ADA, "Olu Test", "operator")["asked"] is None, "who clears nothing comes by one"
    waits = office.add(ADA, MEK, "mechanic")
    assert (waits["active"], waits["role"], waits["asked"]["role"], waits["asked"]["by"]) == (
        False, "operator", "mechanic", ADA,
    )  # fmt: skip
    assert office.add(ADA, MEK, "mechanic")["asked"]["role"] == "mechanic", "sent twice"
    assert MEK not in {p["name"] for p in office.at(ADA).get("/api/door").json()["people"]}
    assert [office.person(who, MEK)["asked"]["may_confirm"] for who in (ADA, BO)] == [False, True]
    # Not by whoever asked, not with a wrong PIN, not another role, not by who is no administrator.
    assert office.confirm(ADA, MEK, "mechanic", "730418", 409) == "second-administrator"
    assert office.confirm(BO, MEK, "mechanic", "111999", 401) == "wrong-pin"
    assert office.confirm(BO, MEK, "supervisor", "604193", 404) == "not-asked"
    office.enter("Olu Test", "4711", "518264")
    assert office.confirm("Olu Test", MEK, "mechanic", "518264", 403) == "not-your-role"
    for _ in range(2):  # the answer was lost: said again
        assert office.confirm(BO, MEK, "mechanic", "604193") == ""
    assert office.enter(MEK, "4711", "918273")["person"]["role"] == "mechanic"
    # A PIN that is given anew meanwhile takes nothing back that was asked.
    office.change(ADA, MEK, role="supervisor")
    office.change(ADA, MEK, pin="4712")
    assert office.person(BO, MEK)["asked"]["role"] == "supervisor"
    office.enter(MEK, "4712", "918273")
    # A change waits, too, and what they are goes on until then; one that is not given leaves no trace but the account.
    assert office.change(ADA, MEK, role="supervisor")["role"] == "mechanic"
    assert office.at(MEK).get("/api/session").json()["person"]["role"] == "mechanic"
    assert office.at(BO).delete(f"/api/people/{office.ids[MEK]}/role").status_code == 204
    assert office.confirm(BO, MEK, "supervisor", "604193", 404) == "not-asked"
    # Who comes back as a mechanic is given the role anew.
    office.change(ADA, MEK, active=False)
    assert office.change(ADA, MEK, active=True)["active"] is False
    assert office.confirm(BO, MEK, "mechanic", "604193") == ""
    assert office.person(ADA, MEK)["active"] is True
    said = [(by, says) for by, says, about in office.account() if about == MEK]
    assert said[:3] == [
        (BO, "Somebody came back."),
        (ADA, "A role was asked for; another administrator has to confirm it."),
        (ADA, "Somebody left: no sign-in any more."),
    ]


def test_one_administrator_is_not_two(office: Office, console: Console) -> None:
    office.add(ADA, MEK, "mechanic")
    # Ada gives Bo a PIN, signs in as Bo with it, chooses, and would confirm what Ada asked: before or after.
    office.change(ADA, BO, pin="8264")
    office.enter(BO, "8264", "370915", at="another")
    assert office.confirm("another", MEK, "mechanic", "370915", 409) == "pin-of-other"
    office.change(ADA, MEK, role="mechanic", active=True)
    assert office.confirm("another", MEK, "mechanic", "370915", 409) == "pin-of-other"
    # Changing it once more as Bo does not make it Bo's own.
    assert office.at("another").patch(f"/api/people/{office.ids[BO]}", json={"pin": "660417"}).is_success
    office.enter(BO, "660417", at="another")
    office.change(ADA, MEK, role="mechanic", active=True)
    assert office.confirm("another", MEK, "mechanic", "660417", 409) == "pin-of-other"
    # From the console Bo has one that Ada does not know.
    office.enter(BO, pin_in(console("person", "pin", BO)), "604193")
    office.change(ADA, MEK, role="mechanic", active=True)
    assert office.confirm(BO, MEK, "mechanic", "604193") == ""
    # Taking the second one away makes nobody the only one; a role is then given with a reason that others are told.
    office.add(ADA, "Sam Test", "supervisor", reason="Bo is on leave, and the night shift has nobody.")
    office.enter("Sam Test", "4711", "827364")
    for away in ({"role": "operator"}, {"active": False}):
        office.change(ADA, BO, **away)
        assert office.add(ADA, "Eve Test", "mechanic", code=409)["type"].endswith("/alone")
    office.add(ADA, "Eve Test", "mechanic", reason="No mechanic came today.")
    told = [x["says"] for x in office.at("Sam Test").get("/api/session/news").json()["lines"]]
    assert told == ["One administrator alone gave a role that two should give."] * 2
    # Bo cannot be brought back as administrator by whoever took that away, unless everybody hears of it.
    assert office.change(ADA, BO, code=409, role="administrator", active=True)["type"].endswith("/alone")


def test_a_person_is_told_what_others_changed_about_them(office: Office) -> None:
    office.add(ADA, "Olu Test", "operator")
    office.enter("Olu Test", "4711", "518264")
    news = office.at("Olu Test")
    assert news.get("/api/session/news").json() == {"lines": [], "seq": 0}
    office.change(BO, "Olu Test", role="trainer")
    office.change(ADA, "Olu Test", pin="9182")
    office.enter("Olu Test", "9182", "271804")
    told = news.get("/api/session/news").json()
    assert [(x["by"], x["says"]) for x in told["lines"]] == [
        (BO, "Somebody got another role."), (ADA, "Somebody was given a new PIN."),
    ]  # fmt: skip
    assert news.get("/api/session/news").json() == told, "until it is read"
    for _ in range(2):
        assert news.post("/api/session/news", json={"seq": told["seq"]}).status_code == 204
    assert news.get("/api/session/news").json()["lines"] == []
    # Nobody reads ahead of what was written.
    assert news.post("/api/session/news", json={"seq": 10**9}).status_code == 204
    office.change(BO, "Olu Test", role="operator")
    office.enter("Olu Test", "271804")
    assert len(news.get("/api/session/news").json()["lines"]) == 1


def test_no_role_changes_in_the_database_without_a_line_of_the_account(
    office: Office, empty: str, cluster: Cluster
) -> None:
    """A server that was broken into can say much, but not hide it: the account is only added to."""
    bo = office.ids[BO]
    serving = empty.replace("+psycopg", "")
    database = empty.rsplit("/", 1)[1]
    for statement in (
        f"update person set role = 'mechanic' where id = '{bo}'",
        f"update person set active = false where id = '{bo}'",
        f"update person set name = 'Somebody' where id = '{bo}'",
        "insert into person (site_id, id, name, role, pin_hash, active, wrong_pins) "
        "values ('ridge-dam', 'x', 'X', 'mechanic', '-', true, 0)",
    ):
        with pytest.raises(psycopg.errors.InsufficientPrivilege), psycopg.connect(serving) as db:
            db.execute(statement)
    with psycopg.connect(serving) as db:
        db.execute(f"update person set role = role, wrong_pins = 1 where id = '{bo}'")
    assert sql(cluster, f"select role, wrong_pins from person where id = '{bo}'", database) == [("administrator", 1)]


def test_who_left_is_erased_and_what_they_wrote_stays_whole(
    office: Office,
    console: Console,
    empty: str,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setitem(OPTIONS, "ex-1", frozenset())
    office.add(ADA, "Olu Test", "operator")
    private, public = new_site_key()
    entered = enter(office.at("Olu Test"), "Olu Test", "4711", "518264", device="tablet-olu", key=public)
    office.add(ADA, "Sam Test", "supervisor", reason="The first day.")
    office.enter("Sam Test", "4711", "827364")
    sam, olu = Device(office.at("Sam Test")), Device(office.at("Olu Test"))
    file = {"id": sam.new_id(), "name": "EX-1", "model_id": "tolvane-e24", "hour_meter": 12.0, "options": []}
    assert office.at("Sam Test").put("/api/machines/ex-1", json=file).is_success
    olu.by = office.ids["Olu Test"]
    olu.pens[olu.by], olu.keys[olu.by] = entered["pen"]["secret"], (private, entered["pen"]["id"])
    look = olu.whole("ex-1", hour_meter=12.5)
    before = olu.http.get(f"/api/inspections/{look}/record.json").json()
    assert "Olu Test" in str(before)
    assert before["pens"]
    erased = f"/api/people/{office.ids['Olu Test']}/name"
    assert office.at(ADA).delete(erased).json()["type"].endswith("/still-here")
    assert office.at("Sam Test").delete(erased).status_code == 403
    office.change(ADA, "Olu Test", active=False)
    for _ in range(2):
        assert office.at(ADA).delete(erased).json()["name"] == "Person 1"
    assert office.change(ADA, "Olu Test", code=409, active=True)["type"].endswith("/erased")
    everything = [
        office.at("Sam Test").get(at).text
        for at in (f"/api/inspections/{look}", "/api/yard", "/api/account", "/api/account.csv", "/api/people",
                   "/api/door", "/api/machines/ex-1/log.ndjson")
    ]  # fmt: skip
    assert "Person 1" in everything[0]
    assert not [text for text in everything if "Olu" in text]
    # The document of a look that they signed, too; who wrote what is proven by it as before.
    assert "documents of looks that named them: 1" in console("site", "tidy")
    assert "documents of looks that named them: 0" in console("site", "tidy")
    after = office.at("Sam Test").get(f"/api/inspections/{look}/record.json").json()
    assert {**after, "people": 0, "pens": 0} == {**before, "people": 0, "pens": 0}
    assert [p["name"] for p in after["people"]] == ["Person 1"]
    (tmp_path / "record.json").write_text(json.dumps(after))
    checked = run("seals", str(tmp_path / "record.json"), "--key", before["site"]["key"])
    assert (checked.returncode, json.loads(checked.stdout)["wrong"]) == (0, []), checked.stdout
    assert json.loads(checked.stdout)["sealed"] > 10
    # Nowhere in the database, in whatever form it is kept there.
    dump = subprocess.run(
        ["pg_dump", "--inserts", owner_of(empty).replace("+psycopg", "")], check=True, capture_output=True
    ).stdout
    kept = [dump, *(unhexlify(found) for found in re.findall(rb"'\\x([0-9a-f]+)'", dump))]
    assert any(b"Person 1" in text for text in kept[1:]), "documents were looked through"
    assert not [text for text in kept if b"Olu" in text]
    assert {opened(word).says["name"] for word in after["pens"].values()} == {"Person 1"}
    assert "good" in console("check", code=1)
    console("verify")


def test_names_of_people_who_left_go_by_the_sites_rule(
    office: Office, console: Console, cluster: Cluster, empty: str
) -> None:
    database = empty.rsplit("/", 1)[1]
    for name in ("Olu Test", "Tam Test", "Wyn Test"):
        office.add(ADA, name, "operator")
    for name in ("Olu Test", "Tam Test"):
        office.change(ADA, name, active=False)
    back = f"update person set left_at = left_at - interval '41 days' where id = '{office.ids['Olu Test']}'"
    sql(cluster, back, database)
    assert "names erased: 0" in console("site", "tidy"), "no rule, nobody is erased"
    assert "days: give 30 days or more" in console("site", "erase-after", "7", code=2)
    console("site", "erase-after", "40")
    assert "names erased: 1" in console("site", "tidy")
    assert "names erased: 0" in console("site", "tidy")
    names = {p["name"] for p in office.at(ADA).get("/api/people").json()}
    assert names == {ADA, BO, "Person 1", "Tam Test", "Wyn Test"}
    assert ("", "Somebody's name was erased.", "Person 1") in office.account()


def test_many_people_come_from_one_list(office: Office) -> None:
    office.add(ADA, "Olu Test", "operator")
    sending = str(uuid.uuid4())

    def send(rows: str, keep: bool = True, by: str = ADA, sent: str = sending) -> Plain:
        body = {"id": sent, "text": f"name;role;here\n{rows}", "keep": keep}
        return dict(office.at(by).post("/api/people-list", json=body).json())

    good = "Tam Test;Operator;yes\nolu test;operator;\nWyn Test;mechanic;\nGone Test;operator;no\n"
    looked = send(good, keep=False)
    assert ([x["does"] for x in looked["lines"]], looked["kept"]) == (["new", "same", "waits"], False)
    assert len(office.at(ADA).get("/api/people").json()) == 3, "nothing is written by looking"
    bad = send(good + ";operator;\nUla Test;boss;\nTam Test;operator;\nBo Test;trainer;\nEd Test;operator;perhaps\n")
    assert [(x["line"], x["field"]) for x in bad["lines"] if x["does"] == "refused"] == [
        (6, "name"), (7, "role"), (8, "name"), (9, "role"), (10, "here"),
    ]  # fmt: skip
    assert (bad["kept"], len(office.at(ADA).get("/api/people").json())) == (False, 3), "all or none"
    kept = send(good)
    pins = {x["name"]: x["pin"] for x in kept["lines"]}
    assert kept["kept"]
    assert [bool(pins[n]) for n in ("Tam Test", "olu test", "Wyn Test")] == [True, False, True]
    # The answer was lost: sent again it adds nobody, and says PINs that are good.
    again = {x["name"]: x["pin"] for x in send(good)["lines"]}
    assert office.enter("Tam Test", pins["Tam Test"], "918273")["type"].endswith("/wrong-pin")
    assert office.enter("Tam Test", again["Tam Test"], "918273")["person"]["role"] == "operator"
    assert [x["pin"] for x in send(good)["lines"] if x["name"] == "Tam Test"] == [""], "once it is theirs, it stays"
    assert len(office.at(ADA).get("/api/people").json()) == 5
    # Another list changes nobody; a mechanic of a list waits for the second administrator.
    assert [x["does"] for x in send(good, sent=str(uuid.uuid4()))["lines"]] == ["same", "same", "same"]
    office.ids["Wyn Test"] = office.person(BO, "Wyn Test")["id"]
    assert office.person(BO, "Wyn Test")["active"] is False
    office.confirm(BO, "Wyn Test", "mechanic", "604193")
    out = office.at(ADA).get("/api/people-list.csv").text
    assert "Wyn Test,mechanic,yes\r\n" in out
    assert "Tam Test,operator,yes\r\n" in out
    back = {"id": sending, "text": out, "keep": True}
    assert {x["does"] for x in office.at(BO).post("/api/people-list", json=back).json()["lines"]} == {"same"}
    assert office.at("Tam Test").post("/api/people-list", json=back).status_code == 403
    # More than one request takes in: the PINs of a part before are not given anew by the next.
    rows = "name;role;here\n" + "".join(f"P{n} Test;operator;\n" for n in range(PART + 3))
    body = {"id": str(uuid.uuid4()), "text": rows, "keep": True}
    first = office.at(ADA).post("/api/people-list", json=body).json()
    assert (first["kept"], first["next"]) == (False, PART + 1)
    assert [bool(x["pin"]) for x in first["lines"]] == [True] * PART + [False] * 3
    rest = office.at(ADA).post("/api/people-list", json={**body, "after": first["next"]}).json()
    assert (rest["kept"], rest["next"]) == (True, None)
    assert [bool(x["pin"]) for x in rest["lines"]] == [False] * PART + [True] * 3
    assert office.enter("P0 Test", first["lines"][0]["pin"], "918273")["person"]["role"] == "operator"
    skipping = {**body, "id": str(uuid.uuid4()), "text": rows.replace("P", "Q"), "after": PART}
    assert office.at(ADA).post("/api/people-list", json=skipping).json()["kept"] is False, "some were left out"
    many = "".join(f"P{n} Test;operator;\n" for n in range(101))
    assert "take in 100 people at a time" in send(many)["detail"]


def test_a_session_that_nobody_uses_ends(
    office: Office, monkeypatch: pytest.MonkeyPatch, cluster: Cluster, empty: str
) -> None:
    start = datetime.now(UTC)

    def later(**by: float) -> None:
        monkeypatch.setattr(door, "now", lambda: start + timedelta(**by))

    # A shift that is over ends sessions too: at whatever hour this is tried, it is not what is meant here.
    sql(cluster, "update session set ends_at = ends_at + interval '1 day'", empty.rsplit("/", 1)[1])
    later(hours=1, minutes=40)
    # Where nothing can be written (a full disk), what is there is read all the same.
    sql(cluster, "revoke update on session from jutrel_serve", empty.rsplit("/", 1)[1])
    assert office.at(BO).get("/api/sessions").is_success
    sql(cluster, "grant update on session to jutrel_serve", empty.rsplit("/", 1)[1])
    later(hours=1, minutes=50)
    assert office.at(BO).get("/api/session").is_success, "somebody is there"
    untouched = {"Jutrel-Untouched": "1"}
    later(hours=3)
    assert office.at(BO).get("/api/sessions", headers=untouched).is_success, (
        "a page asks by itself, and nobody is there"
    )
    assert office.at(ADA).get("/api/sessions").status_code == 401
    later(hours=3, minutes=55)
    assert office.at(BO).get("/api/sessions").status_code == 401
