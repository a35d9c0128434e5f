"""What requests cost on the running server, each as a multiple of the empty route with as many bytes in its answer."""

from __future__ import annotations

import http.client
import json
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import psycopg

from bench import addresses
from bench.lines import Lines
from bench.served import ROOT, Client, against_empty, catalog, cluster, served, sql, took
from jutrel.demo.load import load_demo
from jutrel.demo.story import PEOPLE, WHO
from jutrel.service.ids import uuid7
from jutrel.service.site.upgrade import bring_up
from tests.api.test_limits import CASES, Beside

MACHINE = "ex-01"
BIG_LOG = 1_000_000
DEFECTS = "ex-02"


class Hand:
    """A person who taps sound at one checkpoint after the other of a walk."""

    def __init__(self, client: Client, machine: str = MACHINE) -> None:
        self.client, self.machine, self.by = client, machine, WHO["Mira"]
        self.seq, self.count, self._last = 0, 0, 0
        self.named: dict[str, str] = {}
        walk = json.loads(client.get(f"/api/machines/{machine}/walk"))
        self.points = [c["id"] for c in walk["checkpoints"] if not c["reading"]]
        self.places, self.reported = [c for c in walk["checkpoints"] if not c["reading"]], 0
        self.look = self.new_id()
        self.send([self.entry("opened", hour_meter=30000.0, options=walk["options"])])

    def new_id(self) -> str:
        self._last = max(self._last + 1, int(time.time() * 1000))
        return uuid7(datetime.fromtimestamp(self._last / 1000, UTC))

    def entry(self, kind: str, replaces: tuple[str, ...] = (), **what: Any) -> dict[str, Any]:
        at = datetime.now(UTC).isoformat()
        what = {"kind": kind, **what}
        return {"id": self.new_id(), "by": self.by, "at": at, "what": what, "replaces": list(replaces), "offset_ms": 0}

    def send(self, entries: list[dict[str, Any]]) -> bytes:
        body = {"machine": self.machine, "stream": self.look, "entries": entries, "pens": [], "since": self.seq}
        status, data = self.client.ask("POST", "/api/entries", body)
        reply = json.loads(data)
        assert status == 200, data[:300]
        assert not reply["refused"], data[:300]
        self.seq = reply["look"]["seq"]
        return data

    def answer(self) -> dict[str, Any]:
        point = self.points[self.count % len(self.points)]
        self.count += 1
        before = (self.named[point],) if point in self.named else ()
        made = self.entry("answered", before, checkpoint=point, answer="sound")
        self.named[point] = made["id"]
        return made

    def tap(self) -> bytes:
        return self.send([self.answer()])

    def report(self) -> bytes:
        """A tap that reports a defect, each at another place."""
        point = self.places[self.reported % len(self.places)]
        self.reported += 1
        finding = {"failure_mode": point["failure_modes"][0], "attributes": {}, "note": "as it was seen"}
        return self.send([self.entry("answered", checkpoint=point["id"], answer="defect", findings=[finding])])

    def until(self, count: int) -> None:
        while self.count < count:
            self.send([self.answer() for _ in range(min(190, count - self.count))])


def requests(lines: Lines, client: Client, owner: str) -> None:
    """Taps, walks, ways, history and the yard."""
    hand = Hand(client)
    hand.until(100)
    few, ms, _ = against_empty(client, hand.tap, 60)
    lines.add(f"a tap, 100 entries in the look ({ms:.1f} ms)", few, 8)
    hand.until(2000)
    many, ms, _ = against_empty(client, hand.tap, 60)
    lines.add(f"a tap, 2,000 entries ({ms:.1f} ms)", many, 8)
    lines.add("  2,000 entries against 100", many / few, 1.5)
    figure, ms, _ = against_empty(client, hand.report, 15)
    lines.add(f"a tap that reports a defect, 2,000 entries ({ms:.1f} ms)", figure, None)
    other = Hand(client, DEFECTS)
    other.until(60)
    figure, ms, _ = against_empty(client, other.report, 15)
    lines.add(f"a tap that reports a defect, 60 entries ({ms:.1f} ms)", figure, 40)
    figure, ms = _run_tap(client)
    lines.add(f"a tap in a run ({ms:.1f} ms)", figure, None)
    page = f"/api/machines/{DEFECTS}/run"
    known = json.loads(client.get(page))["fixed_name"]
    figure, ms, size = against_empty(client, lambda: client.get(f"{page}?known={known}"))
    lines.add(f"a run's page, its fixed part known ({ms:.1f} ms, {size // 1000} kB)", figure, None)
    for name, path, target in (
        ("a walk", f"/api/machines/{MACHINE}/walk", 12),
        ("a look as a whole, 2,000 entries", f"/api/inspections/{hand.look}", None),
        ("60 records", "/api/inspections?limit=60", None),
    ):
        figure, ms, size = against_empty(client, lambda path=path: client.get(path))
        lines.add(f"{name} ({ms:.1f} ms, {size // 1000} kB)", figure, target)
    way = json.dumps({"purpose": "pre-start", "conditions": {}}).encode()
    figure, ms, _ = against_empty(client, lambda: client.ask("POST", f"/api/machines/{MACHINE}/route", way)[1])
    lines.add(f"the same way again ({ms:.1f} ms)", figure, 8)
    room = "select pg_total_relation_size('entry')::float / count(*) from entry"
    lines.add("an entry on the disk with its indexes", sql(owner, "vacuum full entry", room)[0][0], 400, "B")


def _run_tap(client: Client) -> tuple[float, float]:
    """A word in a run from key to key, against the empty route: ratio and its median [ms]."""
    run = Hand(client, DEFECTS)
    run.look, run.seq = run.new_id(), 0
    run.send([run.entry("opened", hour_meter=30000.0, purpose="run")])
    heads: list[str] = []

    def tap() -> bytes:
        word = run.entry("stepped", tuple(heads), step="fit", outcome="done")
        heads[:] = [word["id"]]
        return run.send([word])

    figure, ms, _ = against_empty(client, tap, 20)
    return figure, ms


def growth(lines: Lines, client: Client, owner: str) -> None:
    """The yard with a thousand machines and a log of a million entries; records of fifty thousand looks."""
    history = "/api/inspections?limit=60"
    times = {}
    for count in (1_000, 50_000):
        sql(
            owner,
            f"insert into look select site_id, gen_random_uuid(), machine_id, kind, status, begun_at - n * interval "
            f"'17 min', signed_at, data from look, generate_series(1, 50000) n where id = (select max(id) from look "
            f"where signed_at is not null) limit {count} - (select count(*) from look)",
            "analyze look",
        )
        times[count] = statistics.median(took(lambda: client.get(history), 40))
    lines.add(f"60 records of 50,000 ({times[50_000]:.1f} ms) against of 1,000", times[50_000] / times[1_000], 1.2)
    columns = [
        row[0]
        for row in sql(owner, "select column_name from information_schema.columns where table_name = 'machine'")
        if row[0] not in ("id", "name", "bay")
    ]
    same = ", ".join(f'"{c}"' for c in columns)
    sql(
        owner,
        f"insert into machine (id, name, bay, {same}) select 'm-' || n, 'M-' || n, n + 20, {same} from machine, "
        f"generate_series(1, 991) n where id = '{MACHINE}'",
        "analyze machine",
    )
    _defects(lines, client, owner)
    figure, ms, size = against_empty(client, lambda: client.get("/api/yard"))
    lines.add(f"the yard, 1,000 machines ({ms:.1f} ms, {size // 1000} kB)", figure, 20)
    changed = []
    hand = Hand(client)
    for _ in range(25):
        hand.tap()
        changed += took(lambda: client.get("/api/yard"), 1)
    floor = statistics.median(took(lambda: client.get(f"/api/empty?size={size}"), 25))
    lines.add("the yard, 1,000 machines, one of them written since", statistics.median(changed) / floor, 20)
    client.get("/api/yard")
    tag = client.etag

    def unchanged() -> bytes:
        return client.get("/api/yard", **{"If-None-Match": tag})

    figure, ms, _ = against_empty(client, unchanged, 60)
    lines.add(f"the yard unchanged ({ms:.1f} ms)", figure, 2)
    floor, busy = list[float](), list[float]()
    with psycopg.connect(owner.replace("+psycopg", ""), autocommit=True) as other:
        for _ in range(40):
            other.execute("select txid_current()")
            floor += took(lambda: client.get("/api/empty?size=2"), 1)
            other.execute("select txid_current()")
            busy += took(unchanged, 1)
    lines.add("the yard unchanged, after others wrote", statistics.median(busy) / statistics.median(floor), None)
    few = statistics.median(took(lambda: client.get("/api/yard"), 40))
    sql(
        owner,
        "insert into entry select site_id, 'm-' || (1 + n % 991), 1000 + n, stream_no, at, received_at, heard_at, "
        "offset_ms, gen_random_uuid(), by, pen, sent_by, kind, role, device, hash, what, null, null, null "
        "from (select * from entry where kind = 'answered' limit 1) one, "
        f"generate_series(1, {BIG_LOG}) n",
        "analyze entry",
    )
    many = statistics.median(took(lambda: client.get("/api/yard"), 40))
    lines.add("the yard with 1,000,000 entries against 10,000", many / few, 1.2)
    figure, ms, _ = against_empty(client, hand.tap, 40)
    lines.add(f"a tap with 1,000,000 entries in the log ({ms:.1f} ms)", figure, 8)


def _defects(lines: Lines, client: Client, owner: str) -> None:
    """The list of what is open on a thousand machines, eight on each, forty inspections behind each of them."""
    sql(
        owner,
        "create temp table one as select *, row_number() over (order by entry) as k from report "
        f"where machine_id = '{DEFECTS}' and open limit 8; "
        "create temp table new as select one.*, 'm-' || n as of, gen_random_uuid()::text as named from one, "
        "generate_series(1, 991) n; "
        "insert into report (site_id, entry, index, machine_id, look, open, data, settled) "
        "select site_id, named, index, of, look, true, jsonb_set(data, '{entry}', to_jsonb(named)), null from new; "
        "insert into open_defect select new.site_id, new.named || '.' || new.index, new.of, 1 + (new.k % 4), "
        "now() - new.k * interval '1 day', '' from new; "
        "insert into entry (site_id, machine_id, seq, stream_no, at, received_at, heard_at, id, by, pen, kind, role, "
        "device, hash, what, stale) select site_id, 'm-' || n, d, stream_no, at - d * interval '1 day', "
        "received_at - d * interval '1 day', heard_at - d * interval '1 day', gen_random_uuid(), by, pen, kind, role, "
        "device, decode(md5(n || '/' || d) || md5(d || '/' || n), 'hex'), what, false from (select * from entry where "
        f"kind = 'opened' and machine_id = '{DEFECTS}' limit 1) o, generate_series(1, 991) n, "
        "generate_series(1, 40) d",
        "update machine set standing = jsonb_set(standing, '{open}', '8') where id like 'm-%'",
        "analyze report",
        "analyze open_defect",
        "analyze entry",
    )
    cold, after = [], ""
    for _ in range(12):
        asked = f"/api/defects?after={after}"
        cold += took(lambda asked=asked: client.get(asked), 1)
        page = client.get(asked)
        after = json.loads(page)["after"].replace("+", "%2B")
    floor = statistics.median(took(lambda: client.get(f"/api/empty?size={len(page)}"), 25))
    figure = statistics.median(cold) / floor
    lines.add(f"30 of 8,000 defects, on machines not asked about before ({statistics.median(cold):.0f} ms)", figure, 40)
    figure, ms, size = against_empty(client, lambda: client.get("/api/defects"))
    lines.add(f"30 of 8,000 defects again ({ms:.1f} ms, {size // 1000} kB)", figure, 20)


def beside(lines: Lines, client: Client, port: int) -> None:
    """How long health takes at worst while something heavy is made for somebody else."""
    other = Client(port)
    other.sign_in("Dag")
    looks = [r["id"] for r in json.loads(other.get("/api/inspections?limit=40"))["inspections"] if r["signed_at"]]
    picture = _picture()
    way = {"purpose": "pre-start", "conditions": {}, "people": 2}
    hand = Hand(client)

    def upload(n: int) -> None:
        address = f"/api/photos/{hand.new_id()}?inspection={hand.look}"
        assert other.ask("PUT", address, picture)[0] == 204

    def plan(n: int) -> None:
        conditions = {"gap_left": 2 + n / 100}
        other.post(f"/api/machines/{MACHINE}/route", {**way, "conditions": conditions})

    heavy: dict[str, Callable[[int], object]] = {
        "printing records": lambda n: other.get(f"/api/inspections/{looks[n % len(looks)]}/record.pdf"),
        "planning for two": plan,
        "checking PINs": lambda n: other.sign_in("Osk"),
        "taking photos in": upload,
    }
    alone = took(lambda: client.get("/api/health"), 400)
    idle = _worst(alone)
    for name, work in heavy.items():
        work(0)  # what is needed for it is there
        stop = threading.Event()

        def keep_on(work: Callable[[int], object] = work, stop: threading.Event = stop) -> None:
            n = 1
            while not stop.is_set():
                work(n)
                n += 1

        worker = threading.Thread(target=keep_on)
        worker.start()
        found = took(lambda: client.get("/api/health"), 400)
        stop.set()
        worker.join()
        lines.add(f"health beside {name}", statistics.median(found) / statistics.median(alone), 2)
        lines.add("  at its 99th percentile", _worst(found) / idle, 2)


LISTENERS = 50


def told(lines: Lines, port: int) -> None:
    """How long after a tap is stored the last of fifty open pages hears of it."""
    client = Client(port)
    client.sign_in("Mira")
    hand = Hand(client)
    others = [Client(port) for _ in PEOPLE]  # one person alone does not take all places
    for other, (_, name, _) in zip(others, PEOPLE, strict=True):
        other.sign_in(name.split()[0])
    heard: list[list[float]] = [[] for _ in range(LISTENERS)]
    done = threading.Event()

    def listen(n: int) -> None:
        line = http.client.HTTPConnection("127.0.0.1", port, timeout=30)
        line.request("GET", "/api/events", headers={"Cookie": others[n % len(others)].cookie})
        reply = line.getresponse()
        assert reply.status == 200, reply.status
        while not done.is_set() and (text := reply.readline()):
            if text.startswith(b"data:"):
                heard[n].append(time.perf_counter())

    for n in range(LISTENERS):
        threading.Thread(target=listen, args=(n,), daemon=True).start()
    begun = time.monotonic()
    while not all(heard):
        time.sleep(0.05)
        assert time.monotonic() - begun < 30, "not every page was let listen"
    late = []
    for _ in range(12):
        time.sleep(0.6)
        hand.tap()
        stored = time.perf_counter()
        time.sleep(1.0)
        late += [min((t for t in mine if t > stored - 0.2), default=stored + 9.0) - stored for mine in heard]
    done.set()
    lines.add(f"told to {LISTENERS} open pages, the latest of all", max(0.0, *late), 2, "s")


def _worst(times: list[float]) -> float:
    return statistics.quantiles(times, n=100)[98]


def _picture() -> bytes:
    import io

    from PIL import Image

    out = io.BytesIO()
    Image.effect_noise((3000, 2000), 60).convert("RGB").save(out, "JPEG", quality=85)
    return out.getvalue()


def worst(lines: Lines, port: int) -> None:
    """The worst request of each kind, in seconds, and the longest that health took beside one."""
    client = Client(port)
    client.sign_in("Mira")
    hand = Hand(client)
    client.sign_in("Dag")
    longest, slowest = 0.0, 0.0
    base = f"http://127.0.0.1:{port}"
    for method, path, make, _ in CASES.values():
        body = make()
        sent = body if isinstance(body, bytes) else json.dumps(body).encode()
        if path == "photo":
            path = f"/api/photos/{hand.new_id()}?inspection={hand.look}"
        with Beside(base) as other:
            once = Client(port)
            once.cookie = client.cookie
            with suppress(ConnectionError):  # cut off, as it should be
                longest = max(longest, took(lambda: once.ask(method, path, sent), 1)[0] / 1000)  # noqa: B023
        slowest = max(slowest, other.worst)
    lines.add(f"the worst of {len(CASES)} hostile requests", longest, 2, "s")
    lines.add("health at worst beside them", slowest, 2, "s")


def start(lines: Lines) -> None:
    """From the command to ready, against an app of the same frame with one route."""
    bare = (
        "from fastapi import FastAPI\nimport uvicorn\napp = FastAPI()\n"
        "@app.get('/')\ndef home() -> dict[str, int]: return {}\n"
    )
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "bare.py"
        path.write_text(bare)
        floor = _timed([sys.executable, "-c", f"import sys; sys.path.insert(0, {folder!r}); import bare"])
    mine = _timed([sys.executable, "-c", "from jutrel.serving import app; app()"])
    lines.add(f"start ({mine * 1000:.0f} ms) against a bare app", mine / floor, 4)


def _timed(command: list[str]) -> float:
    times = []
    for _ in range(5):
        begun = time.perf_counter()
        subprocess.run(command, check=True, cwd=ROOT)
        times.append(time.perf_counter() - begun)
    return statistics.median(times)


def run(lines: Lines) -> None:
    """All lines about the server."""
    lines.head("The server: multiples of an empty route with as many bytes, in the same run")
    with cluster() as made:
        bring_up(made.url, catalog())
        begun = time.perf_counter()
        load_demo(made.serve_url, catalog(), datetime.now(UTC))
        print(f"(demo data in {time.perf_counter() - begun:.1f} s)")
        with served(made.serve_url) as client:
            client.sign_in()
            requests(lines, client, made.url)
            beside(lines, client, client.connection.port)
            told(lines, client.connection.port)
            worst(lines, client.connection.port)
            growth(lines, client, made.url)
            addresses.each_address(lines, client.connection.port)
    start(lines)


if __name__ == "__main__":
    run(Lines())
