"""Several sites in one database, each at its own address.

How it could hurt somebody: a machine of one site released by the mechanic of another; a page that shows the yard of the
site next door, with a machine of the same number on it, ready; a query of ours that forgot to say which site.
"""

from __future__ import annotations

from collections.abc import Iterator

import psycopg
import pytest
from fastapi.testclient import TestClient
from psycopg.sql import SQL, Identifier

from jutrel.api.app import make_app
from jutrel.service.site import shops
from jutrel.settings import Settings
from tests.api.office import NEW, Console, enter, pin_in
from tests.conftest import CATALOG, Cluster, owner_of, sql
from tests.device import OPTIONS, Device, Plain

RIDGE, FORD = "ridge.test", "ford.test"
OF_ALL = {"alembic_version", "edition", "heartbeat", "setup_code", "site_address"}
"""What an installation keeps for all of its sites: nothing in it says anything of one of them."""
SECOND = ("site", "new", "Ford Levee", "--zone", "UTC", "--administrator", "Fay Test", "--shift", "06:00=8")


def at(app: TestClient, host: str) -> TestClient:
    """One more tablet, on a site."""
    client = TestClient(app.app, base_url=f"http://{host}")
    client.portal = app.portal
    return client


@pytest.fixture
def app(empty: str, monkeypatch: pytest.MonkeyPatch) -> Iterator[TestClient]:
    monkeypatch.setattr(shops, "KNOWN_S", 0.0)
    with TestClient(make_app(Settings(database_url=empty), CATALOG), base_url=f"http://{RIDGE}") as client:
        yield client


@pytest.fixture
def two(app: TestClient, console: Console, monkeypatch: pytest.MonkeyPatch) -> tuple[Device, Device]:
    """A supervisor on each of two sites, and on each a machine with the same id and another name."""
    first = pin_in(console(*NEW))
    assert "needs an id and an address of its own" in console(*SECOND, code=2)
    refused = console(*SECOND, "--address", FORD, code=2)
    assert "Give the site 'ridge-dam' an address of its own first" in refused
    assert "no host that others can reach" in console("site", "address", "localhost", code=2)
    console("site", "address", RIDGE)
    second = pin_in(console(*SECOND, "--address", FORD))
    made = []
    for host, chief, pin, own in ((RIDGE, "Ada Berg-Test", first, "730418"), (FORD, "Fay Test", second, "604193")):
        office, yard = at(app, host), at(app, host)
        assert enter(office, chief, pin, own)["person"]["role"] == "administrator"
        body = {"id": "11111111-1111-4111-8111-111111111111", "name": f"Sam of {host}", "role": "supervisor"}
        made_here = office.post("/api/people", json={**body, "pin": "4711", "reason": "The first day."})
        assert made_here.status_code == 201, made_here.text
        enter(yard, f"Sam of {host}", "4711", "518264")
        sam = Device(yard)
        sam.by = body["id"]
        file = {
            "id": sam.new_id(),
            "name": f"EX-1 of {host}",
            "model_id": "tolvane-e24",
            "hour_meter": 12.0,
            "options": [],
        }
        assert yard.put("/api/machines/ex-1", json=file).is_success
        made.append(sam)
    monkeypatch.setitem(OPTIONS, "ex-1", frozenset())
    return made[0], made[1]


def names(device: Device) -> list[str]:
    return [m["machine"]["name"] for m in device.http.get("/api/yard").json()["machines"]]


def test_each_address_leads_to_its_own_site_and_another_nowhere(app: TestClient, two: tuple[Device, Device]) -> None:
    ridge, ford = two
    assert (names(ridge), names(ford)) == ([f"EX-1 of {RIDGE}"], [f"EX-1 of {FORD}"])
    for host in ("other.test", "localhost", "127.0.0.1"):
        for path in ("/api/door", "/api/setup", "/", "/yard"):
            assert at(app, host).get(path).status_code == 421, (host, path)
    assert at(app, "127.0.0.1").get("/api/health").json()["database"] is True, "whoever watches asks for no site"
    assert at(app, "127.0.0.1").get("/api/ready").json()["ready"] is True
    # A session of one site is none on the other, though the browser that holds both would send it.
    cookie = {"cookie": f"jutrel={ridge.http.cookies['jutrel']}"}
    stranger = at(app, FORD)
    assert stranger.get("/api/yard", headers=cookie).status_code == 401
    people = [p["name"] for p in stranger.get("/api/door").json()["people"]]
    assert people == ["Fay Test", f"Sam of {FORD}"]
    # A label that is printed here leads here.
    label = ridge.http.get("/api/machines/ex-1/label.svg").text
    assert label != ford.http.get("/api/machines/ex-1/label.svg").text


def test_the_same_ids_on_two_sites_meet_nowhere(two: tuple[Device, Device], console: Console) -> None:
    """One machine's number, one person's id and one look's id on both: what is reported here holds nothing there."""
    ridge, ford = two
    look = ridge.new_id()
    found = {"failure_mode": "crack", "attributes": {"crack_where": "parent"}, "note": "n"}
    bad: Plain = {"answer": "defect", "findings": [found]}
    for device in two:
        assert device.send("ex-1", look, device.walk("ex-1", hour_meter=12.5)).json()["refused"] == []
    crack = next(
        c["id"] for c in ridge.http.post("/api/machines/ex-1/walk", json={}).json()["checkpoints"]
        if "crack" in c["failure_modes"]
    )  # fmt: skip
    worse = ridge.entry("answered", ridge.seen("ex-1", crack, look), checkpoint=crack, **bad)
    assert ridge.send("ex-1", look, [worse]).json()["refused"] == []
    assert ford.send("ex-1", look, [ford.signature(look)]).json()["refused"] == []
    assert [d["checkpoint"] for d in ridge.open("ex-1")] == [crack]
    assert ford.open("ex-1") == []
    told = console("verify")
    assert all(f"{site} ex-1: whole" in told for site in ("ridge-dam", "ford-levee"))
    assert console("rebuild").count("the same as before") == 2


def test_the_database_itself_shows_one_site_alone(
    two: tuple[Device, Device], cluster: Cluster, empty: str, console: Console
) -> None:
    """As the serving role, straight in SQL, with queries that name no site at all."""
    ridge, ford = two
    ridge.whole("ex-1", hour_meter=12.5)
    ford.whole("ex-1", hour_meter=12.5)
    database = empty.rsplit("/", 1)[1]
    tables = {str(t) for (t,) in sql(cluster, "select tablename from pg_tables where schemaname = 'public'", database)}
    guarded = {
        str(t) for (t,) in sql(cluster, "select tablename from pg_policies where policyname = 'of_one_site'", database)
    }
    assert tables - guarded == OF_ALL, "a table that is not guarded, or one that is for all of them"
    on = "select relname from pg_class where relrowsecurity and relkind = 'r'"
    assert {str(t) for (t,) in sql(cluster, on, database)} == guarded
    held = {
        table: dict(sql(cluster, f'select {key}, count(*) from "{table}" group by 1', database))
        for table in guarded
        for key in ("id" if table == "site" else "site_id",)
    }
    full = {table for table, counts in held.items() if len(counts) == 2}
    assert full >= {"site", "person", "machine", "entry", "look", "record", "session", "pen", "account", "stream"}
    url = empty.replace("+psycopg", "")
    for site, other in (("ridge-dam", "ford-levee"), ("ford-levee", "ridge-dam"), ("", ""), ("no-such", "")):
        with psycopg.connect(url, autocommit=True, options=f"-c jutrel.site={site}") as serving:
            for table in sorted(guarded):
                seen = serving.execute(SQL("select count(*) from {}").format(Identifier(table))).fetchone()
                assert seen == (held[table].get(site, 0),), (site, table)
            if other:
                moved = serving.execute("update machine set name = 'x' where site_id = %s", (other,))
                assert moved.rowcount == 0
                with pytest.raises(psycopg.errors.InsufficientPrivilege, match="row-level security"):
                    serving.execute("insert into own_tablet select %s, id, 'x' from person", (other,))
                with pytest.raises(psycopg.Error):
                    serving.execute("insert into site_address values ('a.test', %s)", (site,))


def test_whoever_would_see_all_of_them_serves_none(
    two: tuple[Device, Device], empty: str, console: Console, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A server that was given the owner's role by mistake: row-level security does not bind that one."""
    assert "good   The database keeps 2 sites apart." in console("check", code=1)
    with TestClient(make_app(Settings(database_url=owner_of(empty)), CATALOG), base_url=f"http://{RIDGE}") as http:
        assert http.get("/api/door").status_code == 421
        assert at(http, "127.0.0.1").get("/api/health").json()["database"] is True
    monkeypatch.setenv("JUTREL_DATABASE_URL", owner_of(empty))
    assert "WRONG  There are several sites, and JUTREL_DATABASE_URL serves as a role" in console("check", code=1)


def test_what_is_told_at_once_is_told_to_its_own_site(two: tuple[Device, Device], app: TestClient) -> None:
    ridge, _ = two
    assert app.portal is not None
    live = app.app.state.shop.live  # type: ignore[attr-defined]

    async def bells(what: str) -> int:
        return int(await live.after(what, -1, 0.0))

    count = {site: app.portal.call(bells, site) for site in ("ridge-dam", "ford-levee")}
    app.portal.call(live.after, "ridge-dam", count["ridge-dam"], 1.0)  # it listens by now
    count = {site: app.portal.call(bells, site) for site in count}
    ridge.whole("ex-1", hour_meter=12.5)
    assert app.portal.call(live.after, "ridge-dam", count["ridge-dam"], 10.0) > count["ridge-dam"]
    assert app.portal.call(bells, "ford-levee") == count["ford-levee"]


def test_the_console_asks_which_site_is_meant(
    two: tuple[Device, Device], console: Console, monkeypatch: pytest.MonkeyPatch, app: TestClient
) -> None:
    assert "Say which with JUTREL_SITE: ford-levee, ridge-dam" in console(
        "person", "new", "Kit Test", "operator", code=2
    )
    assert "Nobody would" not in console("site", "backed-up", "2026-01-01T00:00:00Z")
    console("site", "tidy")
    both = console("check", code=1)
    assert "The site is Ridge Dam" in both
    assert "The site is Ford Levee" in both
    monkeypatch.setenv("JUTREL_SITE", "ford-levee")
    console("person", "new", "Kit Test", "operator")
    assert "Nobody would reach this site any more" in console("site", "address", FORD, "--take-away", code=2)
    assert f"{RIDGE} leads to the site 'ridge-dam'" in console("site", "address", RIDGE, code=2)
    assert "Ridge" not in console("check", code=1)
    monkeypatch.setenv("JUTREL_SITE", "no-such")
    assert "There is no site 'no-such'" in console("person", "new", "Kit Test", "operator", code=2)
    names = [p["name"] for p in at(app, FORD).get("/api/door").json()["people"]]
    assert "Kit Test" in names
    assert "Kit Test" not in at(app, RIDGE).get("/api/door").text
