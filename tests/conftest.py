"""A throw-away database cluster for the whole run, and fresh databases copied from templates."""

from __future__ import annotations

import asyncio
import fcntl
import json
import os
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import psycopg
import pytest
from argon2 import PasswordHasher
from hypothesis import settings

from jutrel.catalog import catalog
from jutrel.cluster import Cluster, free_port
from jutrel.demo import load
from jutrel.demo.load import base as base_data
from jutrel.demo.load import load_demo
from jutrel.service.context import Books
from jutrel.service.site.upgrade import bring_up
from jutrel.store.base import Store
from tests.deep import DEEP

ROOT = Path(__file__).resolve().parents[1]
# The servers of the tests, on a machine that runs others beside them.
os.environ.setdefault("JUTREL_BESIDE_S", "100")


CATALOG = catalog()
# The same examples in each run of `make test`; new ones are searched for by `make test-deep`. None is timed: a busy
# machine is no fault of what is tried, and speed is measured in bench/.
settings.register_profile("jutrel", derandomize=not DEEP, deadline=None)
settings.load_profile("jutrel")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Browsers last: their driver keeps an event loop in the thread, and nothing else can run one beside it."""
    items.sort(key=lambda item: "tests/browser/" in item.nodeid)


@pytest.fixture(scope="session")
def cluster(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Cluster]:
    """One cluster for all workers of a run; whoever needs it last takes it away."""
    run = os.environ.get("PYTEST_XDIST_TESTRUNUID", str(os.getpid()))[:12]
    made = Cluster(ROOT / ".jutrel" / f"test-{run}", durable=False)
    users = made.folder.with_suffix(".users")
    with _alone(run):
        count = int(users.read_text()) if users.exists() else 0
        made.make()
        made.start()
        users.write_text(str(count + 1))
    yield made
    with _alone(run):
        count = int(users.read_text()) - 1
        users.write_text(str(count))
        if count == 0:
            made.drop()
            users.unlink()


@contextmanager
def _alone(run: str) -> Iterator[None]:
    """One worker at a time: for what they share."""
    lock = ROOT / ".jutrel" / f"test-{run}.lock"
    lock.parent.mkdir(exist_ok=True)
    with open(lock, "w") as held:
        fcntl.flock(held, fcntl.LOCK_EX)
        yield
    if not lock.with_suffix(".users").exists():
        lock.unlink(missing_ok=True)


def sql(cluster: Cluster, statement: str, database: str = "postgres") -> list[tuple[Any, ...]]:
    """Ask a database of the cluster something, as its owner."""
    with psycopg.connect(cluster.url_of(database, owner=True).replace("+psycopg", ""), autocommit=True) as connection:
        done = connection.execute(statement)
        return list(done.fetchall()) if done.description else []


def owner_of(url: str) -> str:
    """The same database as its owner: for what the serving role may not."""
    folder = next(
        p for p in (ROOT / ".jutrel").glob("test-*") if (p / "port").exists() and f":{(p / 'port').read_text()}/" in url
    )
    return Cluster(folder).url_of(url.rsplit("/", 1)[1], owner=True)


def _cheap(pin: str) -> str:
    """A PIN's hash that is checked in no time: what it costs to guess one is tried where that is the matter."""
    return PasswordHasher(time_cost=1, memory_cost=8, parallelism=1).hash(pin)


def _template(cluster: Cluster, name: str, fill: Callable[[str], None]) -> str:
    """A database that others are copied from, made once for all workers."""
    run = cluster.folder.name.removeprefix("test-")
    with _alone(run):
        if not sql(cluster, f"select 1 from pg_database where datname = '{name}'"):
            sql(cluster, f'drop database if exists "{name}_begun"')
            sql(cluster, f'create database "{name}_begun"')
            _aside(lambda: bring_up(cluster.url_of(f"{name}_begun", owner=True), CATALOG))
            with pytest.MonkeyPatch.context() as patch:
                patch.setattr(load, "hash_pin", _cheap)
                _aside(lambda: fill(cluster.url_of(f"{name}_begun", owner=False)))
            sql(cluster, f'alter database "{name}_begun" rename to "{name}"')
    return name


_count = 0


def _copy(cluster: Cluster, template: str) -> str:
    global _count
    _count += 1
    name = f"{template}_{os.getpid()}_{_count}"
    run = cluster.folder.name.removeprefix("test-")
    with _alone(run):  # a template cannot be copied twice at once
        sql(cluster, f'create database "{name}" template "{template}"')
    return cluster.url_of(name, owner=False)


def fill_base(url: str) -> None:
    """Write people and machines, no history."""

    async def fill() -> None:
        store = Store(url)
        async with store.transaction() as db:
            await base_data(db, Books(CATALOG))
        await store.close()

    asyncio.run(fill())


def _fill_demo(url: str) -> None:
    assert load_demo(url, CATALOG, datetime.now(UTC))
    assert not load_demo(url, CATALOG)  # loading again changes nothing


@pytest.fixture(scope="session")
def bare_template(cluster: Cluster) -> str:
    """People and machines, no history."""
    return _template(cluster, "bare", fill_base)


@pytest.fixture
def empty(cluster: Cluster) -> str:
    """A fresh database with its tables and nothing in them, as the serving role."""
    return _copy(cluster, _template(cluster, "empty", lambda url: None))


@pytest.fixture(scope="session")
def demo_template(cluster: Cluster) -> str:
    """The demo with its ten days."""
    return _template(cluster, "demo", _fill_demo)


def _aside(work: Callable[[], Any]) -> Any:
    """Run in a thread of its own: the browser's driver keeps an event loop in this one."""
    with ThreadPoolExecutor(1) as pool:
        return pool.submit(work).result()


@pytest.fixture
def bare(cluster: Cluster, bare_template: str) -> str:
    """The address of a fresh database with people and machines, as the serving role."""
    return _copy(cluster, bare_template)


@pytest.fixture
def demo(cluster: Cluster, demo_template: str) -> str:
    """The address of a fresh copy of the demo, as the serving role."""
    return _copy(cluster, demo_template)


Serve = Callable[..., str]


@pytest.fixture(scope="session")
def one_server() -> Iterator[str]:
    """A server for all tests of a worker, which is put on the database of whoever asks."""
    port = free_port()
    process = subprocess.Popen([sys.executable, "-m", "tests.one_server", str(port)], cwd=ROOT)
    base = f"http://127.0.0.1:{port}"
    _until_answered(process, base + "/test/use")
    yield base
    process.terminate()
    process.wait(10)


def put_on(base: str, url: str, **more: str) -> None:
    """Put a worker's server on a database: what is served at its address from now on is that one."""
    settings = {key.removeprefix("JUTREL_").lower(): value for key, value in more.items()}
    body = json.dumps({"database_url": url, **settings}).encode()
    with urllib.request.urlopen(urllib.request.Request(base + "/test/use", body, method="POST"), timeout=60):
        pass


@pytest.fixture
def serve(request: pytest.FixtureRequest) -> Iterator[Serve]:
    """The real server on a database address; gives its own address.

    The first that a test asks for is the worker's; one with a clock of its own, and a second one, is a new process.
    """
    used: list[str] = []
    for start in _serving():

        def give(url: str, start: Serve = start, **more: str) -> str:
            if used or {"CLOCK", "CATALOG"} & more.keys():
                return start(url, **more)
            base = str(request.getfixturevalue("one_server"))
            used.append(base)
            put_on(base, url, **more)
            return base

        yield give


@pytest.fixture(scope="module")
def serve_all() -> Iterator[Serve]:
    """The same for all tests of a file."""
    yield from _serving()


def _serving() -> Iterator[Serve]:
    started: list[subprocess.Popen[bytes]] = []

    def start(url: str, **more: str) -> str:
        port = free_port()
        env = {**os.environ, "JUTREL_DATABASE_URL": url, **more}
        command = [str(Path(sys.executable).with_name("jutrel")), "serve", "--port", str(port)]
        if "CATALOG" in more:  # the same server, with families that do not ship
            command = [sys.executable, "-m", "tests.made_server", str(port), more["CATALOG"]]
        if "CLOCK" in more:  # the same server, with a clock that can be put forward
            command = [sys.executable, "-m", "tests.clock_server", str(port)]
        process = subprocess.Popen(command, env=env, cwd=ROOT)
        started.append(process)
        base = f"http://127.0.0.1:{port}"
        _until_answered(process, base + "/api/health")
        return base

    yield start
    for process in started:
        process.terminate()
        process.wait(10)


def _until_answered(process: subprocess.Popen[bytes], address: str) -> None:
    for _ in range(600):
        try:
            with urllib.request.urlopen(address, timeout=2):
                return
        except OSError:
            assert process.poll() is None, "the server ended"
            time.sleep(0.1)
    raise AssertionError("the server does not answer")
