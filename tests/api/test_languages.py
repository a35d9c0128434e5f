"""Each person is answered in their language; a problem, too; and what was signed keeps its words."""

from __future__ import annotations

from typing import Any

import pytest

from jutrel.catalog.texts import read_languages
from jutrel.demo.story import WHO
from tests.api.conftest import Tablets
from tests.device import Device

SPANISH = {"Accept-Language": "es"}


@pytest.mark.parametrize(
    ("header", "says"),
    [
        ("es", "Identifíquese"),
        ("es-MX;q=0.8, xx", "Identifíquese"),
        ("xx, en;q=0.9, es;q=0.1", "Sign in"),
        ("", "Sign in"),
        (";;;q=,", "Sign in"),
        ("*", "Sign in"),
        ("é" * 400, "Sign in"),
    ],
)
def test_a_problem_comes_in_the_language_that_is_asked_for(tablets: Tablets, header: str, says: str) -> None:
    reply = tablets().http.get("/api/yard", headers={"Accept-Language": header.encode("utf-8")})
    assert reply.status_code == 401
    assert reply.json()["detail"].startswith(says)


def test_every_sort_of_no_is_said_in_spanish(tablet: Device) -> None:
    """From the service, the core, the form's own checks, the limits before work, and the log's door."""
    http = tablet.http
    no = [
        http.get("/api/machines/none", headers=SPANISH),
        http.post("/api/machines/ex-01/walk", json={"purpose": "none"}, headers=SPANISH),
        http.post("/api/machines/ex-01/walk", json={"conditions": {"air_c": 999}}, headers=SPANISH),
        http.post("/api/machines/ex-01/walk", json={"conditions": {"shift_hours": "x"}}, headers=SPANISH),
        http.post("/api/session", content=b"[" * 40, headers={**SPANISH, "content-type": "application/json"}),
        http.post("/api/session", content=b"{", headers={**SPANISH, "content-type": "application/json"}),
        http.put("/api/session/language", json={"language": "none"}, headers=SPANISH),
        http.get("/api/none", headers=SPANISH),
        http.get("/api/people", headers=SPANISH),
    ]
    for reply in no:
        problem = reply.json()
        assert reply.status_code >= 400
        assert not {"the", "is", "of", "not", "give"} & set(problem["detail"].lower().split()), problem
        assert problem["title"] not in ("Clashes", "Too large", "No such thing", "A field is wrong"), problem
    look = tablet.new_id()
    bad = tablet.entry("answered", checkpoint="none", answer="sound")
    body = {"machine": "ex-01", "stream": look, "entries": [tablet.opening("ex-01"), bad]}
    refused = http.post("/api/entries", json=body, headers=SPANISH).json()["refused"]
    assert refused[0]["says"] == "checkpoint: esta máquina no tiene el punto 'none'"


def test_the_same_yard_in_two_languages(tablet: Device) -> None:
    """Two people at two tablets are told the same; neither is given the other's words, nor the other's tag."""
    english = tablet.http.get("/api/yard")
    spanish = tablet.http.get("/api/yard", headers=SPANISH)
    assert english.headers["etag"] != spanish.headers["etag"]
    assert "Accept-Language" in spanish.headers["vary"]
    again = tablet.http.get("/api/yard", headers={**SPANISH, "If-None-Match": english.headers["etag"]})
    assert again.status_code == 200
    told: dict[str, Any] = {m["machine"]["id"]: m for m in spanish.json()["machines"]}
    for m in english.json()["machines"]:
        other = told[m["machine"]["id"]]
        assert (m["go"], m["machine"]["hour_meter"]) == (other["go"], other["machine"]["hour_meter"])
        assert m["why"] != other["why"]
    assert tablet.http.get("/api/yard").json() == english.json()


def test_a_walk_in_two_languages_is_the_same_walk(tablet: Device) -> None:
    """Words differ, nothing else: ids, places, order, what is mandatory, what is open."""

    def bones(thing: Any) -> Any:
        if isinstance(thing, dict):
            return {k: bones(v) for k, v in thing.items() if k not in WORDS}
        return [bones(x) for x in thing] if isinstance(thing, list) else thing

    words = {
        "name",
        "look",
        "why",
        "how",
        "posture",
        "stance",
        "says",
        "asks",
        "ask",
        "label",
        "family",
        "system",
        "duty",
        "title",
    }
    WORDS = words | {"duty", "first_action", "put_right", "also", "here", "cautions", "needs", "limits", "unit"}  # noqa: N806
    english = tablet.http.post("/api/machines/ex-04/walk", json={}).json()
    spanish = tablet.http.post("/api/machines/ex-04/walk", json={}, headers=SPANISH).json()
    assert bones(english) == bones(spanish)
    for one, other in zip(english["checkpoints"], spanish["checkpoints"], strict=True):
        assert all(one[k] != other[k] for k in ("look", "why", "how")), one["id"]


def test_the_language_of_a_person(tablets: Tablets) -> None:
    mira = tablets()
    mira.sign_in()
    assert mira.http.get("/api/session").json()["person"]["language"] == ""
    assert mira.http.put("/api/session/language", json={"language": "es"}).status_code == 204
    again = tablets()
    assert again.sign_in().json()["person"]["language"] == "es"
    osk = tablets()
    assert osk.sign_in("Osk").json()["person"]["language"] == ""
    people = {p["id"]: p for p in osk.http.get("/api/door").json()["people"]}
    assert people[WHO["Mira"]]["language"] == "es"


def test_the_languages_and_what_they_lack(tablets: Tablets) -> None:
    http = tablets().http
    known = {one["code"]: one for one in http.get("/api/languages").json()}
    assert set(known) == set(read_languages())
    for code, one in known.items():
        pages = http.get(f"/api/languages/{code}/pages/{one['tag']}")
        assert "immutable" in pages.headers["cache-control"]
        assert pages.json()["name"] == one["name"]
        assert http.get(f"/api/languages/{code}/lacking").json()["sentences"] == []
    old = http.get(f"/api/languages/es/pages/{'0' * 20}")
    assert old.headers["cache-control"] == "no-store"
    assert http.get("/api/languages/zz/lacking").status_code == 404


def test_two_people_with_two_languages_at_one_look(tablets: Tablets) -> None:
    """A Hold that one reports is a Hold to the other, in the other's words, before and after it is signed."""
    mira, osk = tablets(), tablets()
    mira.sign_in()
    osk.sign_in("Osk")
    smoke = {"answer": "defect", "findings": [{"failure_mode": "abnormal", "attributes": {"abnormal": "smoke"}}]}
    points = mira.http.get("/api/machines/ex-04/walk").json()["checkpoints"]
    at = next(c["id"] for c in points if "abnormal" in c["failure_modes"])
    look = mira.new_id()
    mira.send("ex-04", look, mira.walk("ex-04", {at: smoke}))
    address = f"/api/inspections/{look}"
    told = [mira.http.get(address).json(), osk.http.get(address, headers=SPANISH).json()]
    assert [t["verdict"]["outcome"] for t in told] == ["held", "held"]
    assert told[0]["verdict"]["why"].startswith("Do not start it:")
    assert told[1]["verdict"]["why"].startswith("No la arranque:")
    assert "“Smoke”." in told[0]["verdict"]["why"]
    assert "«Humo»." in told[1]["verdict"]["why"]
    sign = osk.signature(look)
    sign["what"]["language"] = "es"
    assert osk.send("ex-04", look, [sign]).json()["refused"] == []
    now = mira.http.get(address).json()
    assert now["verdict"]["why"] == told[0]["verdict"]["why"]
    assert mira.http.get(f"{address}/record.json").json()["verdict"]["why"] == told[1]["verdict"]["why"]
