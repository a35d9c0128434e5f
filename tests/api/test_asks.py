"""Who may not do something asks those who may; it stays until somebody saw to it.

Lost so: what was asked when the answer got lost; what somebody else marks as done.
"""

from __future__ import annotations

import uuid

from tests.api.conftest import Tablets
from tests.device import Device


def test_what_is_asked_is_seen_by_those_who_may_and_by_nobody_else(tablets: Tablets) -> None:
    people: dict[str, Device] = {}
    for name in ("Mira", "Osk", "Dag", "Rolf"):
        people[name] = tablets()
        assert people[name].sign_in(name).is_success
    mira = people["Mira"]
    refused = mira.http.get("/api/people")
    assert (refused.status_code, refused.json()["roles"]) == (403, ["administrator"])
    ask = {"id": mira.new_id(), "path": "/people", "roles": refused.json()["roles"]}
    for _ in range(2):  # the answer was lost
        assert mira.http.post("/api/asks", json=ask).status_code == 204
    assert people["Osk"].http.post("/api/asks", json=ask).json()["type"].endswith("/id-taken")

    def seen(name: str) -> list[tuple[str, bool]]:
        return [(a["path"], a["own"]) for a in people[name].http.get("/api/asks").json()]

    assert {name: seen(name) for name in people} == {
        "Mira": [("/people", True)], "Osk": [], "Dag": [], "Rolf": [("/people", False)],
    }  # fmt: skip
    done = f"/api/asks/{ask['id']}/done"
    assert people["Dag"].http.post(done).json()["type"].endswith("/not-asked-of-you")
    for _ in range(2):
        assert people["Rolf"].http.post(done).status_code == 204
    assert (seen("Mira"), seen("Rolf")) == ([], [])
    assert mira.http.post(f"/api/asks/{mira.new_id()}/done").status_code == 404
    for path in ("people", "//elsewhere.example/a", "/a?b=c", "/a b", "javascript:alert(1)"):
        assert mira.http.post("/api/asks", json={**ask, "id": mira.new_id(), "path": path}).status_code == 422, path
    assert mira.http.post("/api/asks", json={**ask, "id": str(uuid.uuid4())}).status_code == 422
    for n in range(21):
        told = mira.http.post("/api/asks", json={**ask, "id": mira.new_id()})
        assert told.status_code == (204 if n < 20 else 409)
