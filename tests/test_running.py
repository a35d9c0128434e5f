"""What ships for running it for real: a backup that is put back and equals the original, units that systemd accepts."""

from __future__ import annotations

import fcntl
import os
import re
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import httpx
import pytest

from jutrel.cluster import free_port
from tests.conftest import ROOT, Cluster, owner_of, sql
from tests.patience import PATIENCE_S

DEPLOY = ROOT / "deploy"
TABLES = ("entry", "stream", "look", "report", "machine", "person", "edition", "record", "photo", "account", "site")


def script(name: str, *arguments: str, url: str) -> subprocess.CompletedProcess[str]:
    """Run a script of the folder as the database's owner."""
    jutrel = Path(sys.executable).with_name("jutrel")
    given = {"JUTREL_OWNER_URL": url, "JUTREL_DATABASE_URL": url, "JUTREL_COMMAND": str(jutrel)}
    return subprocess.run(
        [str(DEPLOY / name), *arguments], capture_output=True, text=True, check=False, env={**os.environ, **given}
    )  # fmt: skip


def rows(cluster: Cluster, database: str) -> dict[str, list[tuple[object, ...]]]:
    """Every row of the tables that matter, as text."""
    return {t: sql(cluster, f"select t::text from {t} t order by 1", database) for t in TABLES}


def test_a_backup_put_back_is_the_original(demo: str, cluster: Cluster, tmp_path: Path) -> None:
    """Lost so: a dump that nobody ever read, put back into something that was not empty."""
    url = owner_of(demo)
    made = script("backup.sh", str(tmp_path), url=url)
    assert made.returncode == 0, made.stderr
    dump = Path(made.stdout.strip())
    assert dump.exists()
    assert oct(dump.stat().st_mode)[-3:] == "600"
    assert (tmp_path / "newest").exists()
    assert not list(tmp_path.glob("*.part"))
    # Into one that has something in it: refused, and nothing changed.
    before = rows(cluster, demo.rsplit("/", 1)[1])
    refused = script("restore.sh", str(dump), url=url)
    assert refused.returncode == 1
    assert "is not empty" in refused.stderr
    sql(cluster, f'create database "again_{os.getpid()}"')
    back = script("restore.sh", str(dump), url=cluster.url_of(f"again_{os.getpid()}", owner=True))
    assert back.returncode == 0, back.stderr
    assert "whole" in back.stdout
    after = rows(cluster, f"again_{os.getpid()}")
    # A tablet sees that this is another life of the database; else all of it is as it was.
    told = [line for line in after["account"] if line not in before["account"]]
    assert ["put-back" in str(line) for line in told] == [True]
    unlike = ("account", "site")
    assert {t: r for t, r in after.items() if t not in unlike} == {t: r for t, r in before.items() if t not in unlike}
    lives = [
        sql(cluster, "select epoch, covered_at is null from site", d)[0]
        for d in (demo.rsplit("/", 1)[1], f"again_{os.getpid()}")
    ]
    assert [(epoch == "", covered) for epoch, covered in lives] == [(True, False), (False, True)]
    may = "select has_table_privilege('jutrel_serve', 'entry', w) from unnest(array['insert', 'update', 'delete']) w"
    assert sql(cluster, may, f"again_{os.getpid()}") == [(True,), (False,), (False,)]
    # A dump that is cut off is not taken for one.
    torn = tmp_path / "torn.dump"
    torn.write_bytes(dump.read_bytes()[: dump.stat().st_size // 2])
    sql(cluster, f'create database "torn_{os.getpid()}"')
    half = script("restore.sh", str(torn), url=cluster.url_of(f"torn_{os.getpid()}", owner=True))
    assert half.returncode != 0
    assert sql(cluster, "select count(*) from pg_tables where schemaname = 'public'", f"torn_{os.getpid()}") == [(0,)]


def test_where_nothing_can_be_dumped_there_is_no_backup(tmp_path: Path) -> None:
    done = script("backup.sh", str(tmp_path), url="postgresql://nobody@127.0.0.1:1/nothing")
    assert done.returncode != 0
    assert list(tmp_path.iterdir()) == []


@pytest.mark.skipif(shutil.which("systemd-analyze") is None, reason="systemd is not on this machine")
def test_systemd_takes_the_units(tmp_path: Path) -> None:
    """With what they start in its place here: their folder is not on this machine."""
    for unit in (*DEPLOY.glob("*.service"), *DEPLOY.glob("*.timer")):
        text = unit.read_text().replace("/opt/jutrel/.venv/bin/jutrel", "/bin/true")
        text = text.replace("/opt/jutrel/deploy/backup.sh", "/bin/true")
        text = re.sub(r"^(User|Group)=.*$", "", text, flags=re.MULTILINE)
        (tmp_path / unit.name).write_text(text)
    units = [str(p) for p in sorted(tmp_path.iterdir())]
    done = subprocess.run(["systemd-analyze", "verify", *units], capture_output=True, text=True, check=False)
    ours = [line for line in done.stderr.splitlines() if "jutrel" in line]
    assert ours == []


def test_every_setting_stands_in_the_table() -> None:
    settings = (ROOT / "src/jutrel/settings.py").read_text()
    names = re.findall(r"^    ([a-z_]+): ", settings, flags=re.MULTILINE)
    page = (ROOT / "docs/running.md").read_text()
    assert len(names) > 8
    assert [n for n in names if f"`JUTREL_{n.upper()}`" not in page] == []
    for example in DEPLOY.glob("*.example"):
        assert all(f"`{n}`" in page for n in re.findall(r"^(JUTREL_[A-Z_]+)=", example.read_text(), flags=re.MULTILINE))


def test_each_line_of_the_security_page_names_a_test_there_is_or_says_that_it_does_not_hold() -> None:
    there = {
        name
        for path in (ROOT / "tests").rglob("test_*.py")
        for name in re.findall(r"^(?:async )?def (test_\w+)", path.read_text(), flags=re.MULTILINE)
    }
    rows = [line for line in (ROOT / "docs/security.md").read_text().splitlines() if re.match(r"\| \d", line)]
    assert len(rows) > 20
    for row in rows:
        named = re.findall(r"`(test_\w+)`", row)
        assert set(named) <= there, set(named) - there
        assert named or "**does not hold**" in row, row


def test_workers_that_begin_slowly_are_waited_for(bare: str, tmp_path: Path) -> None:
    """On a busy machine each of them takes longer than what watches over them is patient with one that runs."""
    slow = "import sys, time\nif any('spawn_main' in a for a in sys.orig_argv):\n    time.sleep(12)\n"
    (tmp_path / "sitecustomize.py").write_text(slow)
    port = free_port()
    env = {**os.environ, "JUTREL_DATABASE_URL": bare, "PYTHONPATH": str(tmp_path)}
    command = [str(Path(sys.executable).with_name("jutrel")), "serve", "--port", str(port), "--workers", "2"]
    process = subprocess.Popen(command, cwd=ROOT, env=env, start_new_session=True)
    try:
        until = time.monotonic() + PATIENCE_S
        while True:
            try:
                assert httpx.get(f"http://127.0.0.1:{port}/api/health", timeout=5).json()["database"] is True
                break
            except httpx.TransportError:
                assert time.monotonic() < until, "they never came up"
                assert process.poll() is None
                time.sleep(0.2)
    finally:
        os.killpg(process.pid, signal.SIGKILL)
        process.wait()


def test_two_set_ups_of_one_folder_do_not_spoil_each_other(tmp_path: Path) -> None:
    """The second waits, and says so; the folder is a copy with the script alone in it."""
    (tmp_path / "scripts").mkdir()
    shutil.copy(ROOT / "scripts" / "setup.sh", tmp_path / "scripts")
    (tmp_path / ".jutrel").mkdir()
    with open(tmp_path / ".jutrel" / "setup.lock", "w") as first:
        fcntl.flock(first, fcntl.LOCK_EX)
        command = [str(tmp_path / "scripts" / "setup.sh"), "app"]
        second = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, start_new_session=True)
        assert second.stdout is not None
        assert "Another set-up is at work in this folder" in second.stdout.readline()
        assert second.poll() is None
        os.killpg(second.pid, signal.SIGKILL)
        second.wait()
    assert not (tmp_path / ".venv").exists(), "it did nothing meanwhile"
