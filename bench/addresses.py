"""Each address on a site of a thousand machines, asked for the most that may be asked: how long it takes, alone.

What is asked beside the addresses of the document that only read:
the largest lists, pictures, ways and records that are taken.
"""

from __future__ import annotations

import io
import time
from collections.abc import Iterator
from typing import Any

import httpx

from bench.lines import Lines
from jutrel.catalog import catalog
from jutrel.core.inspection.kinds import MOST_FINDINGS
from jutrel.demo.story import MACHINES
from jutrel.service.machine.models import shipped_file
from tests.api.test_limits import Beside
from tests.device import Device

FULL = "ex-01"
"""The machine whose walk is reported on as much as one may."""
STREAMS = ("/api/events",)
"""What never ends."""
WORDS = "Weeping along the weld below the pin, as far as the second bolt; wiped, and wet again after a minute. " * 4
LEAST_S = 0.1


def fullest(device: Device) -> dict[str, str]:
    """A signed look with as many long findings as one may have, and what else it takes to fill addresses."""
    walk = device.http.post(f"/api/machines/{FULL}/walk", json={}).json()
    places = [c for c in walk["checkpoints"] if not c["reading"] and c["failure_modes"]]
    each = max(1, (MOST_FINDINGS - 20) // len(places))
    answers = {
        c["id"]: {
            "answer": "defect",
            "findings": [
                {"failure_mode": m, "attributes": {}, "note": WORDS[:400]}
                for m in (c["failure_modes"] * each)[:each]
            ],
        }
        for c in places
    }  # fmt: skip
    look = device.whole(FULL, answers)
    defects = device.http.get("/api/defects", params={"machine": FULL}).json()["defects"]
    return {
        "machine": FULL, "inspection": look, "defect": defects[0]["id"], "checkpoint": places[0]["id"], "form": "pdf",
        "model": "tolvane-e24", "code": "es", "key": "leak", "school": "key-out", "instrument": "weather-station",
    }  # fmt: skip


def reads(http: httpx.Client, ids: dict[str, str]) -> Iterator[tuple[str, str, Any]]:
    """The document's addresses that only read, where their ids are known."""
    for path, methods in http.get("/api/openapi.json").json()["paths"].items():
        filled = path
        for name, value in ids.items():
            filled = filled.replace(f"{{{name}}}", value)
        if "get" in methods and "{" not in filled and path not in STREAMS:
            yield "GET", filled, None
    yield "GET", "/api/inspections?limit=500", None
    yield "GET", f"/api/machines/{FULL}/life?limit=500", None
    yield "GET", "/api/defects?most=500", None


def writes(device: Device) -> Iterator[tuple[str, str, Any]]:
    """The most that may be sent at once."""
    for machine in MACHINES:
        yield "POST", f"/api/machines/{machine.id}/walk", {}
        for people in (1, 2):
            yield (
                "POST",
                f"/api/machines/{machine.id}/route",
                {"purpose": "pre-start", "conditions": {}, "people": people},
            )
    yield "POST", "/api/model-draft", {"text": shipped_file(catalog(), "tolvane-e24")}
    head = "number,model,options,hours,place,note,figures\n"
    for keep in (False, True):
        lines = [f"BX-{n},tolvane-e24,beacon | Rear camera,6128.4,{2000 + n},From the river job," for n in range(500)]
        yield "POST", "/api/machine-list", {"id": device.new_id(), "text": head + "\n".join(lines), "keep": keep}
    people = "name,role\n" + "\n".join(f"Person {n} Bench,operator" for n in range(200))
    yield "POST", "/api/people-list", {"id": device.new_id(), "text": people, "keep": False}
    look, walk = device.new_id(), device.walk("gr-09")
    more = [device.entry("noted", text="x" * 500) for _ in range(500 - len(walk))]
    yield "POST", "/api/entries", {"machine": "gr-09", "stream": look, "entries": [*walk, *more], "pens": []}
    yield "PUT", f"/api/photos/{device.new_id()}?inspection={look}", _large_picture()


def _large_picture() -> bytes:
    from PIL import Image

    out = io.BytesIO()
    Image.effect_noise((6000, 3900), 60).convert("RGB").save(out, "JPEG", quality=70)
    return out.getvalue()


def ask(people: list[httpx.Client], method: str, path: str, body: Any) -> tuple[float, int]:
    """Seconds until the answer is there, and its status, by the first who may."""
    sent: dict[str, Any] = {"content": body} if isinstance(body, bytes) else {} if body is None else {"json": body}
    for http in people:
        begun = time.perf_counter()
        with http.stream(method, path, **sent) as reply:
            # A list that comes line by line is there when its first lines are.
            parts = reply.iter_raw()
            next(parts, b"")
            if "transfer-encoding" not in reply.headers:
                for _ in parts:
                    pass
            took = time.perf_counter() - begun
        if reply.status_code != 403:
            break
    return took, reply.status_code


def each_address(lines: Lines, port: int) -> None:
    """All of them, one after the other; the slowest are told by name."""
    base = f"http://127.0.0.1:{port}"
    people = [httpx.Client(base_url=base, timeout=120) for _ in range(3)]
    devices = [Device(http) for http in people]
    for device, who in zip(devices, ("Dag", "Rolf", "Pell"), strict=True):
        device.sign_in(who).raise_for_status()
    mira = Device(httpx.Client(base_url=base, timeout=120))
    mira.sign_in("Mira").raise_for_status()
    ids = fullest(mira)
    asked = [*reads(mira.http, ids), *writes(devices[0])]
    found: list[tuple[float, str]] = []
    slowest = 0.0
    for method, path, body in asked:
        with Beside(base) as other:
            took, status = ask(people, method, path, body)
        name = f"{method} {path.replace(ids['inspection'], '…')} {status}"
        assert status < 500 or status == 503, name
        found.append((took, name))
        slowest = max(slowest, other.worst)
    found.sort(reverse=True)
    lines.add(f"the slowest of {len(asked)} different requests", found[0][0], 2, "s")
    for took, name in found[:12]:
        if took > LEAST_S:
            lines.tell(f"  {took:5.2f} s  {name[:100]}")
    lines.add("health at worst beside them", slowest, 2, "s")
