"""A release: one file that runs without this folder; what it is made with; its notes."""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
import sysconfig
import time
import urllib.request
from pathlib import Path

import pytest

import jutrel
from jutrel.cluster import free_port
from tests.conftest import ROOT, Cluster, owner_of


@pytest.fixture(scope="module")
def installed(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Path]:
    """The wheel, and a folder into which it was installed with nothing else of ours."""
    out, into = tmp_path_factory.mktemp("out"), tmp_path_factory.mktemp("into")
    subprocess.run([str(ROOT / "scripts" / "wheel.sh"), str(out)], check=True, cwd=ROOT)
    (wheel,) = out.glob("jutrel-*.whl")
    pip = [sys.executable, "-m", "pip", "install", "-q", "--no-deps", "--disable-pip-version-check"]
    subprocess.run([*pip, "--target", str(into), str(wheel)], check=True)
    return out, into


def test_the_wheel_alone_sets_up_and_serves_a_site(
    installed: tuple[Path, Path], empty: str, cluster: Cluster, tmp_path: Path
) -> None:
    """Lost so: a release that finds its pages, fonts or tables only in the folder of whoever built it."""
    _, into = installed
    needed = sysconfig.get_paths()["purelib"]  # what it needs from others; there our own is only a link, not followed
    env = {**os.environ, "PYTHONPATH": f"{into}{os.pathsep}{needed}", "JUTREL_DATABASE_URL": empty}
    env |= {"JUTREL_OWNER_URL": owner_of(empty)}
    python = [sys.executable, "-S"]

    def run(*arguments: str) -> str:
        command = [*python, "-c", "from jutrel.commands.begin import main; main()", *arguments]
        done = subprocess.run(command, env=env, cwd=tmp_path, capture_output=True, text=True, check=False)
        assert done.returncode == 0, done.stderr
        return done.stdout

    where = subprocess.run(
        [*python, "-c", "import jutrel; print(jutrel.__file__)"],
        env=env, cwd=tmp_path, capture_output=True, text=True, check=True,
    ).stdout  # fmt: skip
    assert where.startswith(str(into)), where
    assert run("--version").strip() == f"jutrel {jutrel.__version__}"
    run("migrate")
    assert "PIN" in run(
        "site", "new", "Ridge Dam", "--zone", "UTC", "--administrator", "Ada Test", "--shift", "06:00=8"
    )
    assert "<svg" in run("draw", "tolvane-e24")
    port = free_port()
    serve = [*python, "-c", "from jutrel.commands.begin import main; main()", "serve", "--port", str(port)]
    process = subprocess.Popen(serve, env=env, cwd=tmp_path)
    try:
        base = f"http://127.0.0.1:{port}"
        for _ in range(600):
            try:
                with urllib.request.urlopen(f"{base}/api/ready", timeout=5) as ready:
                    assert json.load(ready)["ready"]
                    break
            except OSError:
                assert process.poll() is None
                time.sleep(0.1)
        with urllib.request.urlopen(base, timeout=5) as page:
            html = page.read().decode()
        script = re.search(r'src="(/assets/[^"]+\.js)"', html)
        assert script is not None
        with urllib.request.urlopen(base + script[1], timeout=5) as found:
            assert found.status == 200
        with urllib.request.urlopen(f"{base}/api/door", timeout=5) as door:
            assert json.load(door)["site"] == "Ridge Dam"
    finally:
        process.terminate()
        process.wait(10)
    assert list((into / "jutrel").rglob("*.ttf")), "paper has its letters"


def test_what_it_is_made_with_is_told(installed: tuple[Path, Path]) -> None:
    bill = json.loads((installed[0] / "jutrel.cdx.json").read_text())
    assert (bill["bomFormat"], bill["metadata"]["component"]["version"]) == ("CycloneDX", jutrel.__version__)
    named = {c["name"] for c in bill["components"]}
    assert {"fastapi", "sqlalchemy", "vue", "element-plus"} <= named
    assert [c["name"] for c in bill["components"] if c["licenses"][0]["license"]["name"] == "not installed here"] == []
    page = (ROOT / "docs" / "notices.md").read_text()
    assert [c["purl"] for c in bill["components"] if f"| {c['name']} | {c['version']} |" not in page] == []


def test_the_notes_begin_with_this_release() -> None:
    notes = (ROOT / "CHANGELOG.md").read_text()
    assert re.findall(r"^## ([0-9.]+)", notes, flags=re.MULTILINE)[0] == jutrel.__version__
