"""Twenty tablets at work while server, workers and database are killed, the disk is full and the clock jumps.

What was acknowledged is there, once.

Lost so: an entry that was acknowledged before the disk had it; one that is stored twice because its answer was lost;
a chain that a kill left without its end; an entry that was refused for good because the server's clock was an hour off;
a dump made in the middle that puts back less than it says. In `make test-deep` a hundred and fifty troubles, else six.
The database keeps its promises here as on a real site: nothing of its durability is switched off. Its disk is one in
memory, so that it can be filled to the last byte: for that one has to be root; else it is left out.
"""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path

import httpx
import psycopg
import pytest

from jutrel.cluster import Cluster, ClusterError, free_port
from jutrel.demo.story import MACHINES, WHO
from jutrel.service.log.whole_log import verify_all
from jutrel.service.site.upgrade import bring_up
from tests.conftest import CATALOG, ROOT, _aside, fill_base
from tests.deep import DEEP
from tests.device import Device, Plain
from tests.patience import PATIENCE_S

JUTREL = str(Path(sys.executable).with_name("jutrel"))
KINDS = ("server", "worker", "database", "backend", "clock", "disk")
KILLS = int(os.environ.get("JUTREL_KILLS", 25 * len(KINDS) if DEEP else len(KINDS)))
DISK_MB = 600
HOUR = 3600
TABLETS = 20
WRITERS = [name for name in WHO if name in ("Mira", "Osk", "Ines", "Dag", "Pell")]
CHECKPOINTS = 25


@dataclass
class Site:
    """A cluster of its own and a server with two workers on it."""

    cluster: Cluster
    port: int = field(default_factory=free_port)
    server: subprocess.Popen[bytes] | None = None
    clock: Path = Path(os.devnull)
    may_fill: bool = False
    """Whether its disk is one of its own, in memory."""

    @property
    def base(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def serve(self, database: str = "jutrel") -> None:
        env = {**os.environ, "JUTREL_DATABASE_URL": self.cluster.url_of(database, owner=False)}
        # Each process of the server reads its clock here: see tests/clock_server.py.
        env |= {"CLOCK": str(self.clock), "PYTHONPATH": f"{self.clock.parent}:{ROOT}"}
        command = [JUTREL, "serve", "--port", str(self.port), "--workers", "2"]
        self.server = subprocess.Popen(command, cwd=ROOT, env=env, start_new_session=True, stdout=subprocess.DEVNULL)
        self.answers()

    def answers(self) -> None:
        """Wait until it answers with its database: a server and its workers begin anew, on a machine that is busy."""
        until, said = time.monotonic() + PATIENCE_S, ""
        while time.monotonic() < until:
            assert self.server is not None
            assert self.server.poll() is None, f"the server ended: {self.server.returncode}"
            try:
                told = httpx.get(self.base + "/api/health", timeout=5)
                said = told.text
                if told.json()["database"]:
                    return
            except httpx.HTTPError as error:
                said = repr(error)
            time.sleep(0.2)
        raise AssertionError(f"the server did not come back: {said}; the database runs: {self.runs()}")

    def kill_server(self) -> None:
        assert self.server is not None
        os.killpg(self.server.pid, signal.SIGKILL)
        self.server.wait()
        self.serve()

    def kill_worker(self, chance: random.Random) -> None:
        assert self.server is not None
        told = subprocess.run(["ps", "-o", "pid=", "--ppid", str(self.server.pid)], capture_output=True, text=True)
        workers = [int(pid) for pid in told.stdout.split()]
        with suppress(ProcessLookupError):
            os.kill(chance.choice(workers), signal.SIGKILL)
        self.answers()

    def kill_database(self) -> None:
        first = (self.cluster.data / "postmaster.pid").read_text().split()[0]
        os.kill(int(first), signal.SIGKILL)
        self.start_database()
        self.answers()

    def start_database(self) -> None:
        until, port = time.monotonic() + PATIENCE_S, self.cluster.port
        while True:
            try:
                self.cluster.start(port)
                break
            except ClusterError:  # what it left behind is still going
                if self.runs():
                    break
                assert time.monotonic() < until
                time.sleep(0.3)

    def clock_jumps(self, chance: random.Random) -> None:
        """The server's clock goes an hour on, or back, until whoever watches is told; then it is set right."""
        self.clock.write_text(str(chance.choice((-HOUR, HOUR))))
        self.told("clock")
        self.clock.write_text("0")

    def told(self, *one_of: str) -> None:
        """Wait until the server says by itself that one of these is amiss."""
        until = time.monotonic() + PATIENCE_S
        while True:
            with suppress(httpx.HTTPError):
                amiss = httpx.get(self.base + "/api/ready", timeout=10).json()["amiss"]
                if set(one_of) & set(amiss):
                    return
            assert time.monotonic() < until, f"nobody was told of {one_of}"
            time.sleep(0.2)

    def fill_disk(self) -> None:
        """The database's disk is full to the last byte until whoever watches is told, and makes room."""
        filler = self.cluster.folder / "filler"
        with open(filler, "wb", buffering=0) as full, suppress(OSError):
            for size in (1 << 20, 1 << 12):
                with suppress(OSError):
                    while True:
                        full.write(bytes(size))
        self.told("writes", "database")
        filler.unlink()
        if not self.runs():
            self.start_database()
        self.answers()

    def runs(self) -> bool:
        """Whether the database still runs: on a full disk it stops rather than promise what it cannot keep."""
        with suppress(psycopg.Error):
            psycopg.connect(self.cluster.url.replace("+psycopg", ""), connect_timeout=3).close()
            return True
        return False

    def kill_backend(self) -> None:
        """One of the database's own processes: it takes all others along and recovers by itself."""
        with psycopg.connect(self.cluster.url.replace("+psycopg", "")) as db:
            asked = "select pid from pg_stat_activity where usename = 'jutrel_serve' limit 1"
            found = db.execute(asked).fetchone()
        if found is not None:
            with suppress(ProcessLookupError):
                os.kill(found[0], signal.SIGKILL)
        self.answers()


@pytest.fixture
def site(tmp_path: Path) -> Iterator[Site]:
    made = Site(Cluster(ROOT / ".jutrel" / f"kills-{os.getpid()}", durable=True), clock=tmp_path / "clock")
    made.clock.write_text("0")
    (tmp_path / "sitecustomize.py").write_text(
        "from jutrel.api import door\nfrom tests.clock_server import Ahead\ndoor.datetime = Ahead\n"
    )
    folder = made.cluster.folder
    folder.mkdir(parents=True)
    mount = ["mount", "-t", "tmpfs", "-o", f"size={DISK_MB}m", "tmpfs", str(folder)]
    made.may_fill = subprocess.run(mount, capture_output=True).returncode == 0
    try:
        made.cluster.make()
        with open(made.cluster.data / "postgresql.conf", "a") as settings:
            settings.write("\nmax_wal_size = 96MB\n")
        made.cluster.start()
        _aside(lambda: bring_up(made.cluster.url, CATALOG))
        fill_base(made.cluster.serve_url)
        made.serve()
        yield made
    finally:
        if made.server is not None and made.server.poll() is None:
            os.killpg(made.server.pid, signal.SIGKILL)
            made.server.wait()
        made.cluster.drop()
        if made.may_fill:
            subprocess.run(["umount", "-l", str(folder)], check=True)
            folder.rmdir()


@dataclass
class Tablet:
    """A tablet that walks and walks: sends, and sends again what nobody acknowledged."""

    site: Site
    n: int
    sent: list[tuple[str, str, list[Plain]]] = field(default_factory=list)
    acknowledged: list[str] = field(default_factory=list)
    refused: list[str] = field(default_factory=list)
    troubles: int = 0
    fault: str = ""

    def run(self, done: threading.Event) -> None:
        try:
            self._walk(done)
        except Exception as error:  # told by the test: a thread's own would be lost
            self.fault = f"{type(error).__name__}: {error}"

    def _walk(self, done: threading.Event) -> None:
        machine = MACHINES[self.n % len(MACHINES)].id
        with httpx.Client(base_url=self.site.base, timeout=30) as http:
            me = Device(http)
            self._until(lambda: me.sign_in(WRITERS[self.n % len(WRITERS)]), (200,))
            while not done.is_set():
                look = me.new_id()
                walk = self._until(lambda: http.post(f"/api/machines/{machine}/walk", json={}), (200,)).json()
                self.send(me, machine, look, [self._opening(me, machine)])
                places = [c["id"] for c in walk["checkpoints"] if not c["reading"]][:CHECKPOINTS]
                while places and not done.is_set():
                    some, places = places[: 1 + self.n % 3], places[1 + self.n % 3 :]
                    self.send(me, machine, look, [me.entry("answered", checkpoint=c, answer="sound") for c in some])

    def _opening(self, me: Device, machine: str) -> Plain:
        while True:
            with suppress(httpx.HTTPError):
                return me.opening(machine)
            time.sleep(0.15)

    def send(self, me: Device, machine: str, look: str, entries: list[Plain]) -> None:
        self.sent.append((machine, look, entries))
        told = self._until(lambda: me.send(machine, look, entries), (200,)).json()
        self.acknowledged += [*told["stored"], *told["known"]]
        self.refused += [r["id"] for r in told["refused"]]

    def _until(self, ask, good: tuple[int, ...]) -> httpx.Response:  # type: ignore[no-untyped-def]
        """Ask until somebody answers."""
        until = time.monotonic() + PATIENCE_S
        while True:
            with suppress(httpx.HTTPError):
                reply: httpx.Response = ask()
                if reply.status_code in good:
                    return reply
                if reply.status_code not in (429, 500, 502, 503):
                    raise AssertionError(f"{reply.status_code} {reply.text[:300]}")
            self.troubles += 1
            assert time.monotonic() < until, "nobody answered"
            time.sleep(0.15)


def _at_work(tablets: list[Tablet], entries: int) -> None:
    """Wait until so many more entries were acknowledged: a kill while nobody works says nothing."""
    before, until = sum(len(t.acknowledged) for t in tablets), time.monotonic() + PATIENCE_S
    while sum(len(t.acknowledged) for t in tablets) < before + entries:
        assert time.monotonic() < until, [t.fault for t in tablets if t.fault] or "nobody works any more"
        time.sleep(0.05)


def stored(site: Site, database: str = "jutrel") -> list[str]:
    with psycopg.connect(site.cluster.url_of(database, owner=True).replace("+psycopg", "")) as db:
        return [str(row[0]) for row in db.execute("select id from entry").fetchall()]


@pytest.mark.timeout(7200 if DEEP else 900)
def test_what_was_acknowledged_is_there_once_whatever_is_killed(site: Site, tmp_path: Path) -> None:
    chance, done = random.Random(26), threading.Event()
    tablets = [Tablet(site, n) for n in range(TABLETS)]
    threads = [threading.Thread(target=t.run, args=(done,)) for t in tablets]
    for thread in threads:
        thread.start()
    kinds = [k for k in KINDS if k != "disk" or site.may_fill]
    kills = dict.fromkeys(kinds, 0)
    dump = tmp_path / "middle.dump"
    for n in range(KILLS):
        _at_work(tablets, 20)
        time.sleep(chance.uniform(0.0, 1.0))
        what = kinds[n % len(kinds)]
        kills[what] += 1
        match what:
            case "server":
                site.kill_server()
            case "worker":
                site.kill_worker(chance)
            case "database":
                site.kill_database()
            case "clock":
                site.clock_jumps(chance)
            case "disk":
                site.fill_disk()
            case _:
                site.kill_backend()
        if n == KILLS // 2:
            owner = site.cluster.url.replace("+psycopg", "")
            subprocess.run(
                [str(site.cluster.bin / "pg_dump"), "-Fc", "--no-owner", f"--file={dump}", owner], check=True
            )
    _at_work(tablets, 20)
    done.set()
    for thread in threads:
        thread.join(PATIENCE_S)
    assert [t.fault for t in tablets if t.fault] == []
    acknowledged = [e for t in tablets for e in t.acknowledged]
    there = stored(site)
    lost, doubled = set(acknowledged) - set(there), len(there) - len(set(there))
    print(f"kills {kills}, acknowledged {len(acknowledged)}, troubles {sum(t.troubles for t in tablets)}")
    assert (lost, doubled) == (set(), 0)
    assert sum(t.troubles for t in tablets) > KILLS // 2, "they noticed"
    assert [e for t in tablets for e in t.refused] == []
    assert all(line.whole for line in _aside(lambda: verify_all(site.cluster.serve_url, CATALOG)))
    # All of it sent once more changes nothing.
    with httpx.Client(base_url=site.base, timeout=60) as http:
        me = Device(http)
        assert me.sign_in(WRITERS[tablets[0].n]).is_success
        for machine, look, entries in tablets[0].sent:
            assert me.send(machine, look, entries).json()["stored"] == []
    assert sorted(stored(site)) == sorted(there)
    _put_back(site, tablets, dump, set(there))


def _put_back(site: Site, tablets: list[Tablet], dump: Path, there: set[str]) -> None:
    """The dump of the middle, and what the tablets sent since: the same entries, and whole chains."""
    owner = site.cluster.url_of("postgres", owner=True).replace("+psycopg", "")
    with psycopg.connect(owner, autocommit=True) as db:
        db.execute("create database again")
    again = site.cluster.url_of("again", owner=True).replace("+psycopg", "")
    restore = [str(site.cluster.bin / "pg_restore"), "--no-owner", "--exit-on-error", f"--dbname={again}", str(dump)]
    subprocess.run(restore, check=True)
    assert site.server is not None
    os.killpg(site.server.pid, signal.SIGKILL)
    site.server.wait()
    before = set(stored(site, "again"))
    assert before < there, "the dump was made in the middle"
    site.serve("again")
    for tablet in tablets:
        with httpx.Client(base_url=site.base, timeout=60) as http:
            me = Device(http)
            assert me.sign_in(WRITERS[tablet.n % len(WRITERS)]).is_success
            for machine, look, entries in tablet.sent:
                told = tablet._until(lambda me=me, m=machine, k=look, e=entries: me.send(m, k, e), (200,)).json()
                assert told["refused"] == [], told
    now = stored(site, "again")
    assert (set(now), len(now)) == (there, len(there))
    url = site.cluster.url_of("again", owner=False)
    assert all(line.whole for line in _aside(lambda: verify_all(url, CATALOG)))
