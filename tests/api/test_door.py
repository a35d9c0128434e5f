"""Signing in, roles, cross-site protection, and errors as problem documents."""

from __future__ import annotations

import asyncio
import io
from datetime import UTC, datetime, timedelta

import pytest
from fastapi.testclient import TestClient
from PIL import Image

from jutrel.api.app import make_app
from jutrel.demo.story import PIN, WHO
from jutrel.service.context import Shop
from jutrel.service.people.people import try_pin
from jutrel.service.people.pins import hash_pin, wait_after
from jutrel.settings import Settings
from tests.api.conftest import Tablets
from tests.conftest import CATALOG
from tests.device import Device


def test_cookie_and_session(tablets: Tablets) -> None:
    device = tablets()
    assert device.http.get("/api/session").status_code == 401
    reply = device.sign_in()
    cookie = reply.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=strict" in cookie
    assert device.http.get("/api/session").json()["person"]["name"] == "Mira Tolland"
    token = device.http.cookies["jutrel"]
    assert device.http.delete("/api/session").status_code == 204
    device.http.cookies.set("jutrel", token)
    assert device.http.get("/api/session").status_code == 401  # ended on the server, not only forgotten


def test_wrong_pins_make_the_next_one_wait_longer(bare: str) -> None:
    start = datetime(2026, 5, 4, 6, tzinfo=UTC)

    async def tries() -> list[tuple[int | None, bool]]:
        shop = Shop.open(bare, CATALOG)
        out = []
        at = start
        for pin in ["0000"] * 6 + ["2468", "2468"]:
            _, tried = await try_pin(shop, WHO["Mira"], pin, "d1", 12.0, at)
            out.append((tried.refusal.wait_s if tried.refusal else None, bool(tried.token)))
            # Come back as soon as allowed, but for the last wrong one: then half a second later.
            wait = tried.refusal.wait_s if tried.refusal and tried.refusal.wait_s else 0
            at += timedelta(seconds=wait if len(out) != 6 else 0.5)
        await shop.close()
        return out

    out = asyncio.run(tries())
    waits = [wait for wait, _ in out[:6]]
    assert waits == [None, None, 2, 4, 8, 16] == [wait_after(n) or None for n in range(1, 7)]
    assert out[6] == (16, False)  # the right PIN, too soon
    assert out[7] == (None, True)  # the right PIN, in time; the count starts afresh


def test_a_person_who_does_not_exist_and_a_pin_that_is_none(tablets: Tablets) -> None:
    device = tablets()
    for person in ("0d000000-0000-4000-8000-0000000000ff", WHO["Mira"]):
        reply = device.http.post("/api/session", json={"person": person, "pin": "9999", "device": "d"})
        assert (reply.status_code, reply.json()["detail"]) == (401, "That name and PIN do not belong together.")


@pytest.mark.parametrize(
    "headers",
    [
        {"origin": "http://evil.test"},
        {"sec-fetch-site": "cross-site"},
        {"sec-fetch-site": "same-site"},
        {"origin": "null"},
    ],
)
def test_other_sites_pages_cannot_write(tablet: Device, headers: dict[str, str]) -> None:
    reply = tablet.http.delete("/api/session", headers=headers)
    assert reply.status_code == 403
    assert reply.json()["type"] == "/problems/cross-site"
    assert tablet.http.get("/api/session").status_code == 200
    assert tablet.http.delete("/api/session", headers={"origin": "http://yard.test"}).status_code == 204


def test_everything_but_the_door_needs_a_session(tablets: Tablets) -> None:
    device = tablets()
    spec = device.http.get("/api/openapi.json").json()
    open_to_all = {
        "/api/door",
        "/api/session",
        "/api/health",
        "/api/ready",
        "/api/setup",
        "/api/record-schema",
        "/api/readings/leak",
        "/api/readings",
        "/api/languages",
        "/api/languages/{code}/lacking",
        "/api/languages/{code}/pages/{tag}",
        "/api/machines/{machine}/stand-in",  # to a device with a key: tests/panel/test_live.py
    }
    some = device.new_id()
    for path in set(spec["paths"]) - open_to_all:
        if "get" in spec["paths"][path]:
            address = path.format(
                machine="ex-01", inspection=some, photo=some, person=some, model="x", form="json", drawing="0" * 20,
                defect=f"{some}.0", run=some, pen=some,
            )  # fmt: skip
            assert device.http.get(address).status_code == 401, path
    for stream in ("/api/events", "/api/machines/ex-01/panel/events"):
        assert device.http.get(stream).status_code == 401  # has no end, and so no place in the document
    assert device.http.get("/api/machines/ex-01/stand-in").status_code == 401, "nobody without a key is told"


def test_roles(tablets: Tablets) -> None:
    admin, mira = tablets(), tablets()
    admin.sign_in("Rolf")
    mira.sign_in("Mira")
    new = {
        "id": "11111111-1111-4111-8111-111111111111",
        "name": "  Bo   Lund-Test ",
        "role": "operator",
        "pin": "13579",
    }
    assert mira.http.post("/api/people", json=new).status_code == 403
    assert mira.http.get("/api/people").status_code == 403
    refused = admin.send("ex-01", admin.new_id(), [admin.opening("ex-01")]).json()["refused"]
    assert [r["kind"] for r in refused] == ["not-your-role"]  # an administrator does not walk
    first, second = (admin.http.post("/api/people", json=new) for _ in range(2))
    assert first.status_code == second.status_code == 201
    assert first.json()["name"] == "Bo Lund-Test"
    assert len([p for p in admin.http.get("/api/people").json() if p["id"] == new["id"]]) == 1
    assert admin.http.post("/api/people", json=new | {"id": new["id"][:-1] + "2", "pin": "12"}).json()["field"] == "pin"
    # A new PIN ends the sessions; leaving shuts the door.
    assert admin.http.patch(f"/api/people/{WHO['Mira']}", json={"pin": "8642"}).status_code == 200
    assert mira.http.get("/api/session").status_code == 401
    assert mira.sign_in("Mira", "8642").json()["type"] == "/problems/choose-pin"
    assert mira.sign_in("Mira", "8642", own="730418").is_success
    admin.http.patch(f"/api/people/{WHO['Mira']}", json={"active": False})
    assert mira.http.get("/api/session").status_code == 401
    assert mira.sign_in("Mira", "730418").status_code == 401
    own = admin.http.patch(f"/api/people/{WHO['Rolf']}", json={"role": "operator"})
    assert (own.status_code, own.json()["type"]) == (409, "/problems/own-account")


def test_problem_documents(tablet: Device) -> None:
    cases = [
        (tablet.http.get("/api/nowhere"), 404, None),
        (tablet.http.get("/api/machines/ex-99/walk"), 404, None),
        (tablet.http.get(f"/api/inspections/{tablet.new_id()}"), 404, None),
        (tablet.http.get("/api/inspections/not-an-id"), 422, "inspection"),
        (
            tablet.http.post(
                "/api/readings/hydraulic-level",
                json={
                    "model": "tolvane-e24",
                    "inputs": {
                        "seen": 0.5,
                        "oil_c": -400,
                        "pitch_deg": 0,
                        "roll_deg": 0,
                        "out.boom": 0,
                        "out.arm": 0,
                        "out.bucket": 0,
                    },
                },
            ),
            422,
            "oil_c",
        ),
        (tablet.http.post("/api/readings/leak", json={"model": "none", "leak_class": "I"}), 422, "model"),
        (
            tablet.http.post(
                "/api/grade", json={"machine": "ex-01", "checkpoint": "boom", "finding": {"failure_mode": "rot"}}
            ),
            422,
            "failure_mode",
        ),
        (
            tablet.http.post("/api/entries", json={"machine": "ex-01", "stream": tablet.new_id(), "entries": []}),
            422,
            "entries",
        ),
    ]
    for reply, status, field in cases:
        body = reply.json()
        assert reply.status_code == status, body
        assert reply.headers["content-type"] == "application/problem+json"
        assert body["status"] == status
        assert body["detail"]
        assert body["field"] == field


def test_photos_are_small_upright_and_without_a_place(tablet: Device) -> None:
    picture = Image.new("RGB", (3000, 2000), "teal")
    exif = Image.Exif()
    exif[0x0112], exif[0x010F] = 6, "secret camera"
    raw = io.BytesIO()
    picture.save(raw, "JPEG", exif=exif)
    photo, inspection = tablet.new_id(), tablet.new_id()
    for _ in range(2):
        reply = tablet.http.put(f"/api/photos/{photo}", params={"inspection": inspection}, content=raw.getvalue())
        assert reply.status_code == 204
    assert tablet.http.get(f"/api/photos/{photo}").status_code == 404  # nobody has said what it shows
    tablet.send("ex-01", inspection, [tablet.entry("photographed", photo=photo, checkpoint="boom")])
    kept = tablet.http.get(f"/api/photos/{photo}").content
    with Image.open(io.BytesIO(kept)) as small:
        assert small.size == (1067, 1600)
        assert not small.getexif()
    bad = tablet.http.put(
        f"/api/photos/{tablet.new_id()}", params={"inspection": inspection}, content=b"GIF89a nonsense"
    )
    assert (bad.status_code, bad.json()["type"]) == (400, "/problems/not-a-photo")


def test_without_a_database_there_is_one_sentence() -> None:
    settings = Settings(database_url="postgresql+psycopg://nobody@127.0.0.1:9/none")
    with TestClient(make_app(settings, CATALOG)) as http:
        reply = http.get("/api/door")
        assert (reply.status_code, reply.headers["retry-after"]) == (503, "3")
        assert "stay on this device" in reply.json()["detail"]
        assert http.get("/api/health").json()["database"] is False


def test_a_pin_is_kept_so_that_guessing_costs() -> None:
    """At least the memory and the passes that the Password Storage Cheat Sheet of OWASP gives for argon2id (from
    memory: 19 MiB and two passes)."""
    kept = hash_pin(PIN)
    _, kind, _, costs, _, _ = kept.split("$")
    cost = dict(pair.split("=") for pair in costs.split(","))
    assert kind == "argon2id"
    assert int(cost["m"]) >= 19 * 1024
    assert int(cost["t"]) >= 2
    assert PIN not in kept


def test_a_strangers_guesses_make_nobody_wait_on_their_own_tablet(tablets: Tablets) -> None:
    """Found so: somebody types wrong PINs on a device of his own, and the right person cannot start the shift."""
    mira, stranger = tablets(), tablets()
    assert mira.sign_in("Mira").is_success
    assert mira.sign_in("Osk").is_success
    waits = [stranger.sign_in("Mira", pin="9999") for _ in range(6)]
    assert waits[-1].status_code == 429
    assert stranger.sign_in("Mira").status_code == 429, "the right PIN waits there, too"
    # A tablet's name and a made-up secret make it nobody's.
    posing = tablets()
    posing.name = mira.name
    posing.http.cookies.set("jutrel-tablet", "x" * 43)
    assert posing.sign_in("Mira").status_code == 429
    # On her own tablet she signs in, gives the PIN again, and what the stranger has to wait stays.
    assert mira.sign_in("Mira").is_success
    assert mira.pin_again(mira.new_id()).status_code == 204
    assert stranger.sign_in("Mira").status_code == 429
    # Wrong ones there are counted there: who picks up her tablet does not guess without end, nor for Osk.
    for _ in range(2):
        assert mira.sign_in("Mira", pin="9998").status_code == 401
    assert mira.sign_in("Mira", pin="9998").json()["wait_s"] == 2
    assert mira.sign_in("Mira").status_code == 429
    assert mira.sign_in("Osk").is_success
    # Where somebody has never signed in, the tablet is a stranger's for them.
    assert mira.sign_in("Ines").is_success
    for _ in range(6):
        stranger.sign_in("Dag", pin="9999")
    assert mira.sign_in("Dag").status_code == 429
