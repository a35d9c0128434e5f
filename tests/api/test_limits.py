"""Any single request, however made, is finished or refused, and nobody else waits for it.

On an idle machine within two seconds: that is measured in `make bench`. Here other tests take the cores, so
that only what hangs is found.
"""

from __future__ import annotations

import asyncio
import io
import json
import math
import os
import socket
import struct
import threading
import time
import zlib
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from typing import Any

import httpx
import pytest
from PIL import Image

from jutrel.demo.story import WHO
from jutrel.service.worker_pool import Aside, Slow
from tests.conftest import Cluster, Serve, _copy
from tests.device import Device
from tests.patience import client, within

SECONDS, BESIDE = within(8.0), within(3.0)
MIRA = WHO["Mira"]


class Beside:
    """Asks for health all the time, and keeps the longest that it had to wait."""

    def __init__(self, base: str) -> None:
        self.worst, self._base, self._stop = 0.0, base, threading.Event()
        self._thread = threading.Thread(target=self._ask)

    def _ask(self) -> None:
        with client(self._base) as http:
            while not self._stop.is_set():
                begun = time.perf_counter()
                assert http.get("/api/health").status_code == 200
                self.worst = max(self.worst, time.perf_counter() - begun)
                time.sleep(0.01)

    def __enter__(self) -> Beside:
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._stop.set()
        self._thread.join()


@pytest.fixture(scope="module")
def yard(cluster: Cluster, bare_template: str, serve_all: Serve) -> Iterator[tuple[str, Device]]:
    """One server for all of these, and a mechanic signed in on it."""
    base = serve_all(_copy(cluster, bare_template))
    with client(base) as http:
        dag = Device(http)
        dag.sign_in("Dag")
        # What works aside is there.
        picture = io.BytesIO()
        Image.new("RGB", (40, 30)).save(picture, "JPEG")
        assert http.put(f"/api/photos/{dag.new_id()}?inspection={dag.new_id()}", content=picture.getvalue()).is_success
        yield base, dag


def bomb(width: int, height: int) -> bytes:
    """A PNG of one colour: small as a file, as large as it says when it is opened."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    packer = zlib.compressobj(9)
    row = b"\0" * (1 + 3 * width)
    data = b"".join(packer.compress(row) for _ in range(height)) + packer.flush()
    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", data) + chunk(b"IEND", b"")


def model(text: str) -> dict[str, Any]:
    return {"id": "019df192-7300-7eb1-8567-a9c378000001", "name": "m.yaml", "text": text, "keep": False}


def deep(levels: int) -> Any:
    out: Any = 1
    for _ in range(levels):
        out = [out]
    return out


READING = "/api/readings/hydraulic-level"
CASES: dict[str, tuple[str, str, Callable[[], Any], tuple[int, ...]]] = {
    "nested JSON": ("POST", READING, lambda: b"[" * 60_000, (413,)),
    "nested JSON below the limit of bytes": ("POST", "/api/entries", lambda: b'{"a":' * 200_000, (413,)),
    "many small lists": ("POST", "/api/entries", lambda: b"[" + b"[]," * 400_000 + b"[]]", (413,)),
    "a number of 5,000 digits": ("POST", READING, lambda: b'{"model": ' + b"9" * 5000 + b"}", (400, 422)),
    "20 MB to a reading": ("POST", READING, lambda: b"x" * 20_000_000, (413,)),
    "a long text": ("POST", "/api/session", lambda: {"person": MIRA, "pin": "1" * 60_000, "device": "d"}, (422,)),
    "a model of nested brackets": ("POST", "/api/models", lambda: model("a: " + "[" * 30_000), (422,)),
    "a model of nested blocks": ("POST", "/api/models", lambda: model("- " * 30_000 + "a"), (422,)),
    "a model of references": ("POST", "/api/models", lambda: model("a: &a [1]\nb: [*a, *a]\n" * 2), (422,)),
    "a model of sexagesimals": ("POST", "/api/models", lambda: model("a: [" + "1:2:3:4:5, " * 30_000 + "1]"), (422,)),
    "a model of long numbers": ("POST", "/api/models", lambda: model("a: " + "9" * 300_000), (422,)),
    "a model with a tag": ("POST", "/api/models", lambda: model("a: !!int abc"), (422,)),
    "a model with a date that is none": ("POST", "/api/models", lambda: model("id: 2026-02-31"), (422,)),
    "a picture with too many points": ("PUT", "photo", lambda: bomb(9000, 9000), (400,)),
    "a picture with nearly too many": ("PUT", "photo", lambda: bomb(4800, 4800), (204,)),
    "a picture that is noise": ("PUT", "photo", lambda: b"\xff\xd8\xff" + b"\x80" * 1_000_000, (400,)),
}  # fmt: skip


@pytest.mark.parametrize("name", list(CASES))
def test_the_worst_of_each_kind(yard: tuple[str, Device], name: str) -> None:
    base, dag = yard
    method, path, make, statuses = CASES[name]
    body = make()
    if path == "photo":
        path = f"/api/photos/{dag.new_id()}?inspection={dag.new_id()}"
    content = body if isinstance(body, bytes) else json.dumps(body).encode()
    with Beside(base) as beside:
        begun = time.perf_counter()
        reply = dag.http.request(method, path, content=content, headers={"content-type": "application/json"})
        took = time.perf_counter() - begun
    assert reply.status_code in statuses, reply.text[:300]
    if reply.status_code >= 400:
        assert reply.headers["content-type"] == "application/problem+json"
        assert reply.json()["detail"]
    assert took < SECONDS, took
    assert beside.worst < BESIDE, beside.worst


def test_who_is_not_signed_in_brings_in_nothing_large(yard: tuple[str, Device]) -> None:
    base, _ = yard
    with client(base) as stranger:
        for method, path in (("POST", "/api/entries"), ("POST", "/api/models"), ("PUT", "/api/photos/x")):
            reply = stranger.request(method, path, content=b"x" * 800_000)
            assert (reply.status_code, reply.json()["type"]) == (401, "/problems/not-signed-in"), path

        # Without saying how much it is: cut off where the limit is reached.
        sent = 0

        def without_end() -> Iterator[bytes]:
            nonlocal sent
            for _ in range(20_000):
                sent += 10_000
                yield b"x" * 10_000

        with suppress(httpx.WriteError):
            assert stranger.post(READING, content=without_end()).status_code == 413
        assert sent < 20_000_000


def test_sixteen_slow_uploads_hold_up_nobody(yard: tuple[str, Device]) -> None:
    base, dag = yard
    host, port = base.removeprefix("http://").split(":")
    cookie = f"Cookie: jutrel={dag.http.cookies['jutrel']}\r\n"
    slow = []
    for _ in range(24):
        s = socket.create_connection((host, int(port)))
        address = f"PUT /api/photos/{dag.new_id()}?inspection={dag.new_id()} HTTP/1.1\r\n"
        s.sendall(f"{address}Host: {host}\r\n{cookie}Content-Length: 2000000\r\n\r\nabc".encode())
        slow.append(s)
    with Beside(base) as beside:
        begun = time.perf_counter()
        for _ in range(5):
            assert len(dag.http.get("/api/yard").json()["machines"]) == 16
        assert dag.http.get("/api/machines/ex-01/walk").is_success
        assert time.perf_counter() - begun < SECONDS
    assert beside.worst < BESIDE
    for s in slow:
        s.close()


def test_half_a_head_is_waited_for_ten_seconds_and_no_longer(yard: tuple[str, Device]) -> None:
    """Lost so: two hundred connections that never say what they want stay open for good."""
    base, dag = yard
    host, port = base.removeprefix("http://").split(":")
    halves = [b"", b"GET /api/health HT", f"GET /api/health HTTP/1.1\r\nHost: {host}\r\nX-More: ".encode()]
    whole = f"GET /api/health HTTP/1.1\r\nHost: {host}\r\n\r\n".encode()
    open_ = []
    for n in range(180):
        s = socket.create_connection((host, int(port)))
        if n % 2:  # a whole one first: what follows on the same connection is waited for no longer
            s.sendall(whole)
            answer = b""
            while not answer.endswith(b"}"):
                answer += s.recv(4000)
            assert answer.startswith(b"HTTP/1.1 200")
        s.sendall(halves[n % 3])
        s.settimeout(40)
        open_.append(s)
    assert dag.http.get("/api/yard").is_success
    begun = time.monotonic()
    for s in open_:
        with suppress(ConnectionResetError):
            assert s.recv(10) == b""
        s.close()
    assert time.monotonic() - begun < 10 + SECONDS
    assert dag.http.get("/api/yard").is_success


def test_who_takes_too_long_beside_the_server_takes_nobody_along() -> None:
    """Lost so: a record that takes too long to print, and with it the picture that somebody else had sent."""

    async def both() -> tuple[list[object], list[object]]:
        beside = Aside(processes=2, seconds=1.5)
        try:
            await beside.warm()
            slow = [beside.run(time.sleep, 30) for _ in range(2)]
            quick = [beside.run(os.path.basename, f"a/{n}") for n in range(6)]
            first = asyncio.gather(slow[0], return_exceptions=True)
            done = await asyncio.gather(*quick, return_exceptions=True)
            late = await asyncio.gather(slow[1], return_exceptions=True)
            return [*await first, *late], done
        finally:
            beside.close()

    late, done = asyncio.run(both())
    assert [type(x) for x in late] == [Slow, Slow]
    assert done == [str(n) for n in range(6)]


def test_a_hundred_wrong_pins_at_once(yard: tuple[str, Device]) -> None:
    """They wait as long as one after another, and other people sign in meanwhile."""
    base, _ = yard

    def wrong(n: int) -> int:
        with client(base) as http:
            body = {"person": WHO["Osk"], "pin": f"{1000 + n}", "device": f"d{n}"}
            return http.post("/api/session", json=body).status_code

    began = time.monotonic()
    with ThreadPoolExecutor(20) as pool, Beside(base) as beside:
        codes = list(pool.map(wrong, range(100)))
        with client(base) as http:
            assert Device(http).sign_in("Mira").is_success
    # Three at once, and one more each time that the doubling wait is over: on a slow machine it may be, meanwhile.
    most = 4 + int(math.log2((time.monotonic() - began) / 2 + 1))
    assert codes.count(401) <= most
    assert codes.count(429) >= 100 - most
    assert beside.worst < BESIDE


def test_a_look_of_all_that_it_can_hold(yard: tuple[str, Device]) -> None:
    """Hundreds of findings, thousands of entries, three hundred uses of one photo: told, judged and printed in time."""
    base, dag = yard
    look, photo = dag.new_id(), dag.new_id()
    picture = io.BytesIO()
    Image.effect_noise((1600, 1200), 40).save(picture, "JPEG")
    dag.http.put(f"/api/photos/{photo}?inspection={look}", content=picture.getvalue())
    points = [
        c["id"] for c in dag.http.get("/api/machines/ex-01/walk").json()["checkpoints"] if "crack" in c["failure_modes"]
    ]
    crack = {"failure_mode": "crack", "attributes": {"crack_where": "parent"}, "note": "mud " * 20}
    entries = [dag.opening("ex-01")]
    entries += [dag.entry("answered", checkpoint=p, answer="defect", findings=[crack] * 12) for p in points * 9]
    entries += [dag.entry("photographed", checkpoint="boom", photo=photo) for _ in range(300)]
    entries += [dag.entry("noted", text="mud " * 300, checkpoint="boom") for _ in range(500)]
    with Beside(base) as beside:
        for n in range(0, len(entries), 200):
            begun = time.perf_counter()
            reply = dag.send("ex-01", look, entries[n : n + 200])
            took = time.perf_counter() - begun
            assert reply.status_code == 200, reply.text[:200]
            assert {r["kind"] for r in reply.json()["refused"]} <= {"look-full"}
            assert took < SECONDS, took
        for path in (f"/api/inspections/{look}", "/api/machines/ex-01/walk", f"/api/inspections/{look}/record.pdf"):
            for tried in range(8):  # on a busy machine it says that it took too long just now, and is asked again
                begun = time.perf_counter()
                reply = dag.http.get(path)
                assert time.perf_counter() - begun < SECONDS, path
                if reply.status_code != 503 or "PYTEST_XDIST_WORKER" not in os.environ:
                    break
                assert (bool(reply.headers["retry-after"]), tried < 7) == (True, True)
                time.sleep(min(3.0, float(reply.headers["retry-after"])))
            assert reply.status_code == 200, path
    assert beside.worst < BESIDE, beside.worst
    assert dag.yard("ex-01")["go"] == "held"


def test_heads_are_answered_and_missing_files_are_missing(yard: tuple[str, Device]) -> None:
    _, dag = yard
    whole = dag.http.get("/")
    head = dag.http.head("/")
    assert (head.status_code, head.content, head.headers["content-type"]) == (200, b"", whole.headers["content-type"])
    assert dag.http.head("/api/health").status_code == 200
    for path in ("/assets/gone.js", "/gone.css", "/assets/../secret.txt", "/made-for"):
        assert dag.http.get(path).headers["content-type"].startswith(("application/problem", "text/html")), path
    assert dag.http.get("/assets/gone.js").status_code == 404
    assert dag.http.get("/machines/ex-01/start").status_code == 200  # the single page
