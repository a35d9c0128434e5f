"""`make demo` as a newcomer meets it: starts, stops cleanly, keeps data, repairs, and says what is wrong."""

from __future__ import annotations

import os
import re
import shutil
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path

import pytest

from jutrel.cluster import Cluster, ClusterError, free_port
from jutrel.demo.story import PIN
from jutrel.service.log.whole_log import verify_all
from tests.conftest import CATALOG
from tests.deep import DEEP
from tests.device import Device
from tests.patience import client, within

ROOT = Path(__file__).resolve().parents[1]
Start = Callable[..., "subprocess.Popen[str]"]


@pytest.fixture
def folder() -> Iterator[Path]:
    made = ROOT / ".jutrel" / f"test-demo-{os.getpid()}"
    yield made
    if (made / "made-by-jutrel").exists():
        Cluster(made).drop()
    shutil.rmtree(made, ignore_errors=True)
    made.with_suffix(".lock").unlink(missing_ok=True)


@pytest.fixture
def start(folder: Path) -> Iterator[Start]:
    running: list[subprocess.Popen[str]] = []

    def go(port: int, *arguments: str) -> subprocess.Popen[str]:
        env = {**os.environ, "JUTREL_DEMO_FOLDER": str(folder), "PORT": str(port), "PYTHONUNBUFFERED": "1"}
        process = subprocess.Popen(
            [sys.executable, str(ROOT / "scripts/demo.py"), *arguments],
            env=env,
            text=True,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            start_new_session=True,
        )
        running.append(process)
        return process

    yield go
    for process in running:
        if process.poll() is None:
            os.killpg(process.pid, signal.SIGINT)
            process.wait(30)


def until_served(process: subprocess.Popen[str]) -> str:
    said = ""
    assert process.stdout is not None
    for line in process.stdout:
        said += line
        if "Ctrl-C" in line:
            return said
    raise AssertionError(said)


def stopped(process: subprocess.Popen[str]) -> None:
    os.killpg(process.pid, signal.SIGINT)  # as a terminal's Ctrl-C does: the whole group at once
    assert process.wait(40) == 0


def walk_a_little(port: int) -> str:
    with client(f"http://127.0.0.1:{port}") as http:
        device = Device(http)
        assert device.sign_in().is_success
        inspection = device.new_id()
        assert device.send("ex-04", inspection, [device.opening("ex-04")]).json()["stored"]
        return inspection


def known(port: int, inspection: str) -> bool:
    with client(f"http://127.0.0.1:{port}") as http:
        Device(http).sign_in()
        return http.get(f"/api/inspections/{inspection}").is_success


def left_over(folder: Path) -> dict[int, str]:
    """What runs of the demo in a folder, but for its database: commands by process."""
    found = {}
    for process in Path("/proc").glob("[0-9]*"):
        with suppress(OSError):
            mine = f"JUTREL_DEMO_FOLDER={folder}".encode() in (process / "environ").read_bytes().split(b"\0")
            command = (process / "cmdline").read_text().replace("\0", " ")
            if mine and command and "scripts/demo.py" not in command and "postgres" not in command:
                found[int(process.name)] = command
    return found


def test_the_life_of_a_demo(folder: Path, start: Start) -> None:
    port = free_port()
    # A set-up that was cut off half-way: data without the mark that it is whole.
    (folder / "data").mkdir(parents=True)
    (folder / "data" / "PG_VERSION").write_text("15")
    first = start(port)
    said = until_served(first)
    assert f"http://127.0.0.1:{port}/" in said
    assert f"PIN:      {PIN}" in said
    assert "Mira Tolland (operator)" in said
    inspection = walk_a_little(port)
    # Twelve weeks stand behind it, with chains that hold.
    for line in verify_all(Cluster(folder).serve_url, CATALOG, "gr-09"):
        assert line.whole, line
        assert int(line.says.split("whole, ")[1].split()[0]) > 5000, line

    second = start(free_port())
    assert (
        second.communicate(timeout=60)[0]
        .strip()
        .endswith("the demo already runs from this folder, in another terminal")
    )
    assert second.returncode == 1
    stopped(first)
    assert not Cluster(folder).running()

    began = time.monotonic()
    again = start(port)
    until_served(again)
    assert time.monotonic() - began < within(30)
    assert known(port, inspection)

    # Killed: no server is left that holds the port, no second bus, no process that waits for good; it starts again.
    assert left_over(folder)
    os.kill(again.pid, signal.SIGKILL)
    again.wait(10)
    until = time.monotonic() + within(15)
    while left := left_over(folder):
        assert time.monotonic() < until, left
        time.sleep(0.2)
    again = start(port)
    until_served(again)
    assert known(port, inspection)
    server = next(pid for pid, command in left_over(folder).items() if " serve " in command)
    os.kill(server, signal.SIGKILL)
    assert again.wait(40) == 0, "it ends with its server"
    assert left_over(folder) == {}
    if not DEEP:  # the demo is loaded anew: a matter of half a minute
        return

    fresh = start(port, "--reset")
    until_served(fresh)
    assert not known(port, inspection)
    stopped(fresh)


def test_a_taken_port_gives_one_sentence(start: Start) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        process = start(port)
        said = process.communicate(timeout=60)[0]
    assert process.returncode == 1
    assert said.strip() == f"Cannot go on: port {port} is in use; stop what uses it, or run  make demo PORT={port + 1}"


def test_a_port_that_is_none(start: Start) -> None:
    process = start("eighty")  # type: ignore[arg-type]
    said = process.communicate(timeout=60)[0]
    assert "PORT must be a number" in said
    assert "Traceback" not in said


def test_a_cluster_is_only_dropped_by_who_made_it(tmp_path: Path) -> None:
    foreign = tmp_path / "theirs"
    (foreign / "data").mkdir(parents=True)
    (foreign / "data" / "PG_VERSION").write_text("15")
    (foreign / "data" / "precious").write_text("x")
    with pytest.raises(ClusterError, match="not made by Jutrel"):
        Cluster(foreign).drop()
    assert (foreign / "data" / "precious").exists()


@pytest.mark.skipif(os.geteuid() != 0, reason="only root hands the cluster to another user")
def test_a_folder_that_postgres_cannot_enter(tmp_path: Path) -> None:
    shut = tmp_path / "shut"
    shut.mkdir(mode=0o700)
    with pytest.raises(ClusterError, match=re.escape("cannot reach")):
        Cluster(shut / "cluster").make()
