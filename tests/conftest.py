"""A throw-away database cluster for the whole run, and fresh databases copied from templates."""

from __future__ import annotations

import asyncio
import os
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import psycopg
import pytest

from jutrel.cluster import Cluster, free_port
from jutrel.demo.load import base as base_data
from jutrel.demo.load import load_demo
from jutrel.store.base import Store
from jutrel.store.migrate import migrate

ROOT = Path(__file__).resolve().parents[1]


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    made = Cluster(ROOT / ".jutrel" / f"test-{os.getpid()}", durable=False)
    made.make()
    made.start()
    yield made
    made.drop()


def _sql(cluster: Cluster, statement: str) -> None:
    url = cluster.url.replace("+psycopg", "").rsplit("/", 1)[0] + "/postgres"
    with psycopg.connect(url, autocommit=True) as connection:
        connection.execute(statement)


def _copy(cluster: Cluster, template: str, name: str) -> str:
    _sql(cluster, f'create database "{name}" template "{template}"')
    return cluster.url.rsplit("/", 1)[0] + "/" + name


def fill_base(url: str) -> None:
    """Write people and machines, no history."""

    async def fill() -> None:
        store = Store(url)
        async with store.transaction() as db:
            await base_data(db)
        await store.close()

    asyncio.run(fill())


@pytest.fixture(scope="session")
def bare_template(cluster: Cluster) -> str:
    """People and machines, no history."""
    _sql(cluster, "create database bare")
    url = cluster.url.rsplit("/", 1)[0] + "/bare"
    migrate(url)

    _aside(lambda: fill_base(url))
    return "bare"


@pytest.fixture(scope="session")
def demo_template(cluster: Cluster) -> str:
    """The demo with its ten days."""
    _sql(cluster, "create database demo")
    url = cluster.url.rsplit("/", 1)[0] + "/demo"
    migrate(url)
    assert _aside(lambda: load_demo(url, datetime.now(UTC)))
    assert not _aside(lambda: load_demo(url))  # loading again changes nothing
    return "demo"


def _aside(work: Callable[[], Any]) -> Any:
    """Run in a thread of its own: the browser's driver keeps an event loop in this one."""
    with ThreadPoolExecutor(1) as pool:
        return pool.submit(work).result()


_count = 0


@pytest.fixture
def bare(cluster: Cluster, bare_template: str) -> str:
    """The address of a fresh database with people and machines."""
    global _count
    _count += 1
    return _copy(cluster, bare_template, f"bare_{_count}")


@pytest.fixture
def demo(cluster: Cluster, demo_template: str) -> str:
    """The address of a fresh copy of the demo."""
    global _count
    _count += 1
    return _copy(cluster, demo_template, f"demo_{_count}")


Serve = Callable[[str], str]


@pytest.fixture
def serve() -> Iterator[Serve]:
    """Starts the real server on a database address and gives its own address."""
    started: list[subprocess.Popen[bytes]] = []

    def start(url: str) -> str:
        port = free_port()
        env = {**os.environ, "JUTREL_DATABASE_URL": url}
        jutrel = Path(sys.executable).with_name("jutrel")
        process = subprocess.Popen([str(jutrel), "serve", "--port", str(port)], env=env)
        started.append(process)
        base = f"http://127.0.0.1:{port}"
        for _ in range(240):
            try:
                with urllib.request.urlopen(base + "/api/health", timeout=2):
                    return base
            except OSError:
                assert process.poll() is None, "the server ended"
                time.sleep(0.1)
        raise AssertionError("the server does not answer")

    yield start
    for process in started:
        process.terminate()
        process.wait(10)
