"""A site set up at the server's console, and its people on tablets of their own."""

from __future__ import annotations

import re
import uuid
from collections.abc import Callable
from contextlib import ExitStack

from fastapi.testclient import TestClient

from tests.device import Plain

Console = Callable[..., str]
"""The server's console: what a command prints."""
NEW = ("site", "new", "Ridge Dam", "--zone", "UTC", "--administrator", "Ada Berg-Test", "--shift", "06:00=8")


def pin_in(said: str) -> str:
    found = re.search(r"PIN ([0-9]{8})\n", said)
    assert found is not None, said
    return found[1]


def enter(http: TestClient, name: str, pin: str, own: str = "", device: str = "tablet-1", key: str = "") -> Plain:
    person = next(p["id"] for p in http.get("/api/door").json()["people"] if p["name"] == name)
    body = {"person": person, "pin": pin, "device": device, "key": key, "new_pin": own}
    return dict(http.post("/api/session", json=body).json())


ADA, BO, MEK = "Ada Berg-Test", "Bo Test", "Mek Test"


class Office:
    """A site with people who each have a tablet; whoever is named is signed in on theirs."""

    def __init__(self, app: TestClient, stack: ExitStack) -> None:
        self.app, self.stack = app, stack
        self.tablets: dict[str, TestClient] = {}
        self.ids: dict[str, str] = {}

    def at(self, name: str) -> TestClient:
        if name not in self.tablets:
            client = TestClient(self.app.app, base_url="http://yard.test")
            client.portal = self.app.portal
            self.tablets[name] = client
        return self.tablets[name]

    def enter(self, name: str, pin: str, own: str = "", at: str = "") -> Plain:
        return enter(self.at(at or name), name, pin, own, device=f"tablet-{(at or name).split()[0].lower()}")

    def add(self, by: str, name: str, role: str, pin: str = "4711", code: int = 201, **more: str) -> Plain:
        person = self.ids.setdefault(name, str(uuid.uuid4()))
        reply = self.at(by).post("/api/people", json={"id": person, "name": name, "role": role, "pin": pin, **more})
        assert reply.status_code == code, reply.text
        return dict(reply.json())

    def change(self, by: str, name: str, code: int = 200, **what: object) -> Plain:
        reply = self.at(by).patch(f"/api/people/{self.ids[name]}", json=what)
        assert reply.status_code == code, reply.text
        return dict(reply.json())

    def confirm(self, by: str, name: str, role: str, pin: str, code: int = 204) -> str:
        reply = self.at(by).post(f"/api/people/{self.ids[name]}/role", json={"role": role, "pin": pin})
        assert reply.status_code == code, reply.text
        return str(reply.json()["type"]).split("/")[-1] if reply.content else ""

    def person(self, by: str, name: str) -> Plain:
        return next(dict(p) for p in self.at(by).get("/api/people").json() if p["name"] == name)

    def account(self) -> list[tuple[str, str, str]]:
        lines = self.at(ADA).get("/api/account").json()
        assert lines["whole"]
        return [(x["by"], x["says"], x["about"]) for x in lines["lines"]]
