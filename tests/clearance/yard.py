"""One application for many attempts: a machine of its own for each, tablets of several people, a clock to be set."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime, timedelta, tzinfo
from itertools import count
from typing import Any

from fastapi.testclient import TestClient

from jutrel.demo.story import MACHINES
from tests.api.test_runs import Plain, begin, engine, left, run_of, say
from tests.device import OPTIONS, Device

MODELS = {m.model: m for m in reversed(MACHINES)}
_numbers = count(100)


class Clock(datetime):
    """The server's time, which a test puts forward or back."""

    ahead = timedelta()

    @classmethod
    def now(cls, tz: tzinfo | None = None) -> datetime:  # type: ignore[override]
        return datetime.now(tz) + cls.ahead


class Yard:
    """The site: who signs in on which tablet, and machines that nothing was done to."""

    def __init__(self, http: TestClient) -> None:
        self.http = http
        self.boss = self.tablet("Pell")
        begins = (datetime.now(UTC) - timedelta(minutes=90)).hour
        shifts = [{"begins": f"{(begins + n) % 24:02}:00", "hours": 8} for n in (0, 8, 16)]
        self.boss.http.put("/api/site/shifts", json={"shifts": shifts}).raise_for_status()

    def tablet(self, *who: str) -> Device:
        """A tablet on which people sign in, one after another."""
        client = TestClient(self.http.app, base_url="http://yard.test")
        client.portal = self.http.portal
        device = Device(client)
        device.drift = Clock.ahead
        for name in who:
            assert device.sign_in(name).is_success
        return device

    def machine(self, model: str = "korveth-kw64", *more: str, **given: Any) -> str:
        """A new machine as the demo's of that model, with more equipment."""
        n = next(_numbers)
        name, options = f"m-{n}", sorted({*MODELS[model].options, *more})
        body = {"id": self.boss.new_id(), "name": f"M-{n}", "model_id": model, "options": options, "bay": n,
                "hour_meter": 19990.0, **given}  # fmt: skip
        self.boss.http.put(f"/api/machines/{name}", json=body).raise_for_status()
        OPTIONS[name] = tuple(options)
        return name

    def refile(self, machine: str, **change: Any) -> None:
        """Its file with a change."""
        now = self.boss.http.get(f"/api/machines/{machine}").json()
        body = {"id": self.boss.new_id(), "name": now["machine"]["name"], "model_id": now["model"]["id"],
                "options": now["options"], "own_limits": now["own_limits"], "bay": now["machine"]["bay"],
                "note": now["note"], **change}  # fmt: skip
        self.boss.http.put(f"/api/machines/{machine}", json=body).raise_for_status()

    def later(self, *devices: Device, **by: float) -> None:
        """The clock of the server and of these tablets goes on."""
        Clock.ahead += timedelta(**by)
        for device in (self.boss, *devices):
            device.drift = Clock.ahead


def go(me: Device, machine: str) -> str:
    return str(me.yard(machine)["go"])


def may(me: Device, machine: str) -> bool:
    """Whether its run says to whoever is signed in that it may be started."""
    return bool(run_of(me, machine)["gate"]["may"])


def readied(me: Device, machine: str, pause: Callable[[], None] = lambda: None, **more: Any) -> str:
    """A run up to the starter; `pause`: lets time go by, where the start waits for something."""
    stream = begin(me, machine, **more)
    for _ in range(6):
        pause()
        now = run_of(me, machine, stream)
        near(me, machine, stream, now)
        todo = [*left(now, "ready"), *left(now, "start", engine=None)]
        by_id = {x["id"]: x for x in now["steps"]}
        todo = [s for s in todo if by_id[s]["mark"] in ("open", "later", "void")]
        if any(s["near"] and not s["settled"] for s in now["steps"]):
            # Nobody near is said when nobody is any more.
            todo = [s for s in todo if not by_id[s]["nobody"] and s != "horn"]
        elif not todo:
            break
        if "limits" in todo:
            say(me, machine, stream, "limits", word=now["gate"]["accepted_as"])
        if rest := [s for s in todo if s != "limits"]:
            say(me, machine, stream, *rest)
    return stream


def near(me: Device, machine: str, stream: str, now: Plain) -> None:
    """The tests for which somebody walks in, engine off and key on, as far as they can be made."""
    for s in now["steps"]:
        if s["near"] and s["mark"] == "open" and now["engine"] == "stopped":
            say(me, machine, stream, s["id"], word=" ".join(p["id"] for p in s["parts"]))


def started(me: Device, machine: str, pause: Callable[[], None] = lambda: None, **more: Any) -> str:
    """A run up to the running engine, nothing said of it yet."""
    stream = readied(me, machine, pause, **more)
    engine(me, machine, stream, "cranking", "running")
    return stream


def to_work(me: Device, machine: str, stream: str) -> Plain:
    """The rest of a run until it works, or cannot."""
    for _ in range(12):
        now = run_of(me, machine, stream)
        if any(s["id"] == "idle" and not s["settled"] for s in now["steps"]):
            say(me, machine, stream, "idle", outcome="skipped", reason="warm from the run before")
            continue
        todo = [
            s for s in now["steps"]
            if s["phase"] in ("start", "warm-up", "tests", "move-off") and not s["settled"] and s["mark"] == "open"
        ]  # fmt: skip
        if not todo:
            break
        if plain := [s["id"] for s in todo if not (s["parts"] or s["ways"])]:
            say(me, machine, stream, *plain)
        for s in todo:
            if s["parts"] or s["ways"]:
                say(me, machine, stream, s["id"], word=" ".join(p["id"] for p in [*s["parts"], *s["ways"][:1]]))
    return run_of(me, machine, stream)


Make = Callable[..., Device]
