"""Who may do what, for each address of the API, by each role, on each site: nobody's door is open by oversight.

How it could hurt somebody: a new address that forgot to ask who calls; an operator who releases what holds a machine;
a session of the site next door that reads, or changes, a machine here by its id.
"""

from __future__ import annotations

import io
from collections.abc import Iterator
from typing import Any

import httpx
import pytest
import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from PIL import Image

from jutrel.api.app import make_app
from jutrel.core.people import RIGHTS, WALKERS, Right, Role
from jutrel.service.site import shops
from jutrel.settings import Settings
from tests.api.office import Console, enter, pin_in
from tests.api.test_runs import begin
from tests.conftest import CATALOG, Cluster, owner_of, sql
from tests.deep import DEEP
from tests.device import Device, Plain

HERE, NEXT = "here.test", "next.test"
SIGNED = {
    "Mira": Role.OPERATOR,
    "Dag": Role.MECHANIC,
    "Pell": Role.SUPERVISOR,
    "Una": Role.TRAINER,
    "Rolf": Role.ADMINISTRATOR,
}
SECRETS = ("Tolland", "Brandel", "Hollmer", "Aronsk", "Kesterby", "Amsing", "heron")
"""Words that stand in what is kept here, and nowhere next door."""
OPEN = frozenset(
    {
        "GET /api/door", "GET /api/health", "GET /api/ready", "GET /api/setup", "POST /api/setup", "POST /api/session",
        "POST /api/session/passkey/options", "POST /api/session/passkey", "POST /api/session/company/address",
        "POST /api/session/company",
        # Before anybody signs in, and where no person, machine or site is in what comes back.
        "GET /api/languages", "GET /api/languages/{code}/lacking", "GET /api/languages/{code}/pages/{tag}",
        "GET /api/record-schema", "GET /api/readings", "POST /api/readings/leak", "POST /api/readings/{key}",
    }
)  # fmt: skip
"""What needs no session."""
MANAGE, EDIT = RIGHTS[Right.MANAGE], RIGHTS[Right.EDIT_MACHINES]
NEEDS: dict[str, frozenset[Role]] = {
    "GET /api/account": RIGHTS[Right.RUN_SITE],
    "GET /api/account.csv": RIGHTS[Right.RUN_SITE],
    "GET /api/people": MANAGE,
    "POST /api/people": MANAGE,
    "PATCH /api/people/{person}": MANAGE,
    "POST /api/people/{person}/role": MANAGE,
    "DELETE /api/people/{person}/role": MANAGE,
    "DELETE /api/people/{person}/name": MANAGE,
    "POST /api/people-list": MANAGE,
    "GET /api/people-list.csv": MANAGE,
    "GET /api/devices": MANAGE,
    "PUT /api/devices/{device}": MANAGE,
    "DELETE /api/devices/{device}": MANAGE,
    "PUT /api/rulebook/regime": MANAGE,
    "PUT /api/machines/{machine}": EDIT,
    "POST /api/machines/{machine}/meter": EDIT,
    "PUT /api/machines/{machine}/photo": EDIT,
    "PUT /api/machines/{machine}/good/{checkpoint}": EDIT,
    "DELETE /api/machines/{machine}/good/{checkpoint}": EDIT,
    "POST /api/models": EDIT,
    "POST /api/machine-list": EDIT,
    "GET /api/machine-list.csv": EDIT,
    "POST /api/model-draft": EDIT,
    "PUT /api/units": EDIT,
    "PUT /api/numbers": EDIT,
    "POST /api/machines/{machine}/locks": WALKERS,
    "POST /api/machines/{machine}/locks/{lock}/off": WALKERS,
    "POST /api/machines/{machine}/limits": frozenset({Role.SUPERVISOR}),
    "PUT /api/site/shifts": RIGHTS[Right.RUN_SITE],
    "PUT /api/schools/{school}": RIGHTS[Right.DECIDE_SCHOOLS],
    "POST /api/training": RIGHTS[Right.TEACH],
    "POST /api/training/{training}/withdrawn": RIGHTS[Right.TEACH],
}
"""Whose role is asked for; whatever is not named here is for everybody who is signed in.

What a kind of entry asks, by whatever address it comes, is tried in tests/clearance."""
WRITTEN = {"why": "as agreed", "reason": "as agreed"}
NEXT_DOOR = SIGNED if DEEP else ("Dag", "Pell", "Rolf")
"""Who of the other site tries: those whose roles may most."""


@pytest.fixture
def app(bare: str, monkeypatch: pytest.MonkeyPatch) -> Iterator[TestClient]:
    monkeypatch.setattr(shops, "KNOWN_S", 0.0)
    with TestClient(make_app(Settings(database_url=bare), CATALOG), base_url=f"http://{HERE}") as client:
        yield client


def at(app: TestClient, host: str) -> TestClient:
    client = TestClient(app.app, base_url=f"http://{host}", raise_server_exceptions=True)
    client.portal = app.portal
    return client


def here(app: TestClient) -> tuple[dict[str, Device], dict[str, str]]:
    """Everybody of this site on a tablet of their own, and the ids of what they made."""
    people = {name: Device(at(app, HERE)) for name in SIGNED}
    for name, device in people.items():
        device.sign_in(name).raise_for_status()
    mira, dag, pell, rolf = (people[n] for n in ("Mira", "Dag", "Pell", "Rolf"))
    place = next(
        c["id"] for c in mira.http.post("/api/machines/ex-02/walk", json={}).json()["checkpoints"]
        if "crack" in c["failure_modes"]
    )  # fmt: skip
    crack = {"failure_mode": "crack", "attributes": {"crack_where": "parent"}, "note": "under the heron's nest"}
    look = mira.whole("ex-02", {place: {"answer": "defect", "findings": [crack]}})
    picture = io.BytesIO()
    Image.new("RGB", (300, 200), "olive").save(picture, "JPEG")
    photo = dag.new_id()
    assert dag.http.put("/api/machines/ex-02/photo", params={"photo": photo}, content=picture.getvalue()).is_success
    lock, ask, leaver = mira.new_id(), mira.new_id(), "22222222-2222-4222-8222-222222222222"
    assert mira.http.post("/api/machines/ex-02/locks", json={"id": lock, "why": "the heron sits there"}).is_success
    assert mira.http.post("/api/asks", json={"id": ask, "path": "/people", "roles": ["administrator"]}).is_success
    body = {"id": leaver, "name": "Lev heron", "role": "operator", "pin": "4711"}
    assert rolf.http.post("/api/people", json=body).is_success
    gone = Device(at(app, HERE))
    enter(gone.http, "Lev heron", "4711", "518264")  # type: ignore[arg-type]
    pen = next(s["id"] for s in rolf.http.get("/api/sessions").json() if s["name"] == "Lev heron")
    assert rolf.http.put("/api/devices/mast-1", json={"machines": [], "instruments": ["weather-station"]}).is_success
    training = pell.new_id()
    shown = {
        "id": training, "person": leaver, "taught": "model", "note": "heron",
        "model": next(iter(pell.http.get("/api/training").json()["models"])),
        "at": pell.http.get("/api/session").json()["now"],
    }  # fmt: skip
    assert pell.http.post("/api/training", json=shown).is_success
    run = begin(people["Mira"], "ah-07")
    defect = next(d["id"] for d in mira.http.get("/api/defects").json()["defects"] if d["machine"] == "ex-02")
    ids = {
        "machine": "ex-02", "inspection": look, "photo": photo, "lock": lock, "ask": ask, "person": leaver, "pen": pen,
        "device": "mast-1", "training": training, "run": run, "defect": defect, "checkpoint": place, "form": "svg",
        "model": "tolvane-e24", "code": "en", "key": "leak", "school": "key-out", "instrument": "weather-station",
    }  # fmt: skip
    return people, ids


def next_door(app: TestClient, console: Console) -> dict[str, Device]:
    """Everybody of the other site on a tablet of their own, signed in there."""
    console("site", "address", HERE)
    said = console(
        "site", "new", "Ford Levee", "--zone", "UTC", "--administrator", "Rolf", "--shift", "06:00=8", "--address", NEXT
    )
    people = {name: Device(at(app, NEXT)) for name in SIGNED}
    chief = people["Rolf"].http
    enter(chief, "Rolf", pin_in(said), "730418")  # type: ignore[arg-type]
    for n, (name, role) in enumerate((n, r) for n, r in SIGNED.items() if n != "Rolf"):
        id_ = f"1111111{n}-1111-4111-8111-111111111111"
        body = {"id": id_, "name": name, "role": role.value, "pin": "4711", "reason": "The first day."}
        assert chief.post("/api/people", json=body).is_success
        entered = enter(people[name].http, name, "4711", "604193")  # type: ignore[arg-type]
        assert entered["person"]["role"] == role.value
        people[name].by = id_
    return people


def rows(cluster: Cluster, url: str, site: str) -> dict[str, Any]:
    """All that the database holds of a site, but for when a session was used."""
    database = url.rsplit("/", 1)[1]
    tables = sql(cluster, "select tablename from pg_policies where policyname = 'of_one_site' order by 1", database)
    out: dict[str, Any] = {}
    for (table,) in tables:
        key = "id" if table == "site" else "site_id"
        ask = f"select md5(string_agg((to_jsonb(t) - 'used_at')::text, '|' order by t::text)) from \"{table}\" t"
        out[str(table)] = sql(cluster, f"{ask} where {key} = '{site}'", database)
    return out


def one_case(operation: Any) -> Any:
    """What the document of the API says that somebody could send there, as simple as it gets."""
    found: list[Any] = []

    @settings(max_examples=1, deadline=None, suppress_health_check=list(HealthCheck), database=None, derandomize=True)
    @given(case=operation.as_strategy())
    def take(case: Any) -> None:
        found.append(case)

    take()
    return found[0]


def send(http: httpx.Client, case: Any, ids: dict[str, str]) -> httpx.Response:
    path = case.path
    for name, value in (case.path_parameters or {}).items():
        path = path.replace(f"{{{name}}}", ids.get(name, str(value)))
    asked: Plain = {"params": case.query or {}}
    if isinstance(case.body, bytes):
        asked["content"] = case.body
    elif isinstance(case.body, dict):
        given = {"id": Device(http).new_id(), "model_id": ids["model"], **WRITTEN}
        asked["json"] = {**case.body, **{k: v for k, v in given.items() if k in case.body}}
    return http.request(case.method.upper(), path, **asked)


def is_a(reply: httpx.Response, *kinds: str) -> bool:
    return reply.status_code in (401, 403) and str(reply.json()["type"]).rpartition("/")[2] in kinds


def test_each_address_by_each_role_on_each_site(
    app: TestClient, bare: str, cluster: Cluster, console: Console, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("JUTREL_DATABASE_URL", bare)
    monkeypatch.setenv("JUTREL_OWNER_URL", owner_of(bare))
    people, ids = here(app)
    others = next_door(app, console)
    schema = schemathesis.openapi.from_dict(app.app.openapi())  # type: ignore[attr-defined]
    cases = {f"{o.method.upper()} {o.path}": one_case(o) for o in (r.ok() for r in schema.get_all_operations())}
    del cases["DELETE /api/session"]
    (mine,) = {str(s) for (s,) in sql(cluster, "select id from site", bare.rsplit("/", 1)[1])} - {"ford-levee"}
    before = rows(cluster, bare, mine)
    leaks = [
        f"{who}: {name}"
        for name, case in cases.items()
        for who in NEXT_DOOR
        if any(word in send(others[who].http, case, ids).text for word in SECRETS)
    ]
    assert leaks == []
    assert rows(cluster, bare, mine) == before, "nothing here was changed from there"
    nobody = at(app, HERE)
    closed = {name for name, case in cases.items() if is_a(send(nobody, case, ids), "not-signed-in", "device-key")}
    assert set(cases) - closed == OPEN
    may: dict[str, set[Role]] = {name: set(Role) for name in cases}
    for name, case in cases.items():
        for who, role in SIGNED.items():
            reply = send(people[who].http, case, ids)
            assert not is_a(reply, "not-signed-in"), (name, who)
            if is_a(reply, "not-your-role"):
                may[name].remove(role)
                assert set(reply.json()["roles"]) <= {r.value for r in NEEDS[name]} - {role.value}, name
                assert reply.json()["roles"], f"{name}: who may is told"
    assert {name: roles for name, roles in may.items() if roles != set(Role)} == NEEDS
