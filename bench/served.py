"""A server of the product on a scratch database, with one route beside: empty, answering as many bytes as asked for.

The empty route is the floor of every figure taken over HTTP: same process, same middleware, same
connection, as many bytes in the answer. What a request costs is told as a multiple of it.
"""

from __future__ import annotations

import http.client
import json
import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import psycopg
import uvicorn
from fastapi import FastAPI, Request, Response

from jutrel.api.app import make_app
from jutrel.catalog import catalog
from jutrel.cluster import Cluster, free_port
from jutrel.demo.story import PIN, WHO
from jutrel.settings import Settings

ROOT = Path(__file__).resolve().parents[1]


def app() -> FastAPI:
    """The product's application and the empty route."""
    made = make_app(Settings(), catalog())

    async def empty(request: Request) -> Response:
        if request.method == "POST":
            await request.body()
        return Response(b"x" * int(request.query_params.get("size", "2")), media_type="application/octet-stream")

    made.add_api_route("/api/empty", empty, methods=["GET", "POST"], response_model=None)
    # Before the page that answers every other address.
    made.router.routes.insert(0, made.router.routes.pop())
    return made


class Client:
    """One kept-open connection: as little of the client's own time in the figures as can be."""

    def __init__(self, port: int) -> None:
        self.connection = http.client.HTTPConnection("127.0.0.1", port, timeout=120)
        self.cookie, self.etag, self.last = "", "", 0.0
        self.cookies: dict[str, str] = {}

    pid = 0
    """The server's process."""

    def ask(self, method: str, path: str, body: Any = None, headers: dict[str, str] | None = None) -> tuple[int, bytes]:
        """Status and body of a request."""
        sent = None if body is None else body if isinstance(body, bytes) else json.dumps(body).encode()
        more = {"Content-Type": "application/json"} if sent is not None else {}
        if self.cookie:
            more["Cookie"] = self.cookie
        if time.monotonic() - self.last > 3:
            self.connection.close()  # the server lets go of who says nothing
        self.connection.request(method, path, sent, {**more, **(headers or {})})
        reply = self.connection.getresponse()
        self.last = time.monotonic()
        data = reply.read()
        for key, value in reply.getheaders():
            if key.lower() == "set-cookie":
                name, _, said = value.split(";")[0].partition("=")
                self.cookies[name] = said
                self.cookie = "; ".join(f"{k}={v}" for k, v in self.cookies.items())
        self.etag = reply.getheader("etag") or ""
        return reply.status, data

    def get(self, path: str, **headers: str) -> bytes:
        """The body of what must go well."""
        status, data = self.ask("GET", path, headers=headers)
        assert status in (200, 304), (status, data[:300])
        return data

    def post(self, path: str, body: Any) -> Any:
        """The answer to what must go well."""
        status, data = self.ask("POST", path, body)
        assert status < 300, (status, data[:300])
        return json.loads(data) if data else None

    def sign_in(self, who: str = "Mira") -> dict[str, Any]:
        """Sign in; the answer with the pen."""
        return dict(self.post("/api/session", {"person": WHO[who], "pin": PIN, "device": "bench"}))


def sql(url: str, *statements: str) -> list[tuple[Any, ...]]:
    """Run statements as the owner; the rows of the last."""
    with psycopg.connect(url.replace("+psycopg", ""), autocommit=True) as connection:
        done = None
        for statement in statements:
            done = connection.execute(statement)
        return list(done.fetchall()) if done is not None and done.description else []


@contextmanager
def cluster() -> Iterator[Cluster]:
    """A scratch cluster; it syncs nothing to the disk, so that the figures are the software's."""
    base = ROOT / ".jutrel"
    base.mkdir(exist_ok=True)
    made = Cluster(Path(tempfile.mkdtemp(prefix="bench-", dir=base)) / "db", durable=False)
    os.chmod(made.folder.parent, 0o755)
    try:
        made.make()
        made.start()
        yield made
    finally:
        made.drop()
        shutil.rmtree(made.folder.parent, ignore_errors=True)


@contextmanager
def served(url: str) -> Iterator[Client]:
    """A server on a database; a client on it."""
    port = free_port()
    env = {**os.environ, "JUTREL_DATABASE_URL": url}
    process = subprocess.Popen([sys.executable, "-m", "bench.served", str(port)], env=env, cwd=ROOT)
    try:
        client = Client(port)
        for _ in range(400):
            try:
                client.get("/api/health")
                break
            except OSError:
                if process.poll() is not None:
                    raise SystemExit("The server ended before it answered: start it alone to see why.") from None
                time.sleep(0.05)
        else:
            raise SystemExit("The server does not answer: nothing is measured.")
        client.pid = process.pid
        yield client
    finally:
        process.terminate()
        process.wait(10)


def processor_s(pid: int) -> float:
    """How long a process has kept the processor busy [s]; without what the database does for it."""
    times = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    return (int(times[11]) + int(times[12])) / os.sysconf("SC_CLK_TCK")


def took(work: Callable[[], object], rounds: int) -> list[float]:
    """Milliseconds of each round."""
    out = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()
        out.append((time.perf_counter() - start) * 1000)
    return out


def against_empty(client: Client, work: Callable[[], bytes], rounds: int = 40) -> tuple[float, float, int]:
    """A request against the empty route with as many bytes, turn by turn: ratio of medians, its median [ms], bytes."""
    size = len(work())
    path = f"/api/empty?size={size}"
    client.get(path)
    mine, floor = [], []
    for _ in range(rounds):
        mine += took(work, 1)
        floor += took(lambda: client.get(path), 1)
    return statistics.median(mine) / statistics.median(floor), statistics.median(mine), size


if __name__ == "__main__":
    uvicorn.run(app(), host="127.0.0.1", port=int(sys.argv[1]), log_level="warning", timeout_graceful_shutdown=3)
