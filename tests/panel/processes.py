"""A machine on a bus for tests: stand-in, reader and server as processes of their own, each of which can be killed."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path

from jutrel.cluster import free_port
from tests.patience import PATIENCE_S

KEY = "key-of-the-site"
CHANNEL = "239.74.163.7"
ROOT = Path(__file__).resolve().parents[2]
JUTREL = str(Path(sys.executable).with_name("jutrel"))


def free_udp() -> int:
    """A port that no other test's bus uses."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as s:
        s.bind(("127.0.0.1", 0))
        return int(s.getsockname()[1])


class Processes:
    """Starts, kills and starts again."""

    def __init__(self, folder: Path, machine: str, database: str, hours: float, **env: str) -> None:
        self.folder, self.machine, self.hours = folder, machine, hours
        self.env = {
            **os.environ,
            "JUTREL_DATABASE_URL": database,
            "JUTREL_DEVICE_KEY": KEY,
            "JUTREL_DEMO_PIN": "2468",
            **env,
        }
        self.port, self.bus = free_port(), free_udp()
        self.base = f"http://127.0.0.1:{self.port}"
        self.timing: list[str] = []
        self.running: dict[str, subprocess.Popen[bytes]] = {}
        self.lines = folder / "buses.toml"
        self.lines.write_text(
            f'[[machine]]\nid = "{machine}"\ninterface = "udp_multicast"\nchannel = "{CHANNEL}"\n'
            f"port = {self.bus}\nsimulated = true\n"
        )

    def _start(self, name: str, *command: str) -> None:
        self.running[name] = subprocess.Popen(command, env=self.env, cwd=ROOT, start_new_session=True)

    def server(self) -> None:
        """The server, until it answers."""
        if "CLOCK" in self.env:
            self._start("server", sys.executable, "-m", "tests.clock_server", str(self.port))
        else:
            self._start("server", JUTREL, "serve", "--port", str(self.port))
        self.until(self._answers)

    def _answers(self) -> bool:
        try:
            with urllib.request.urlopen(self.base + "/api/health", timeout=2):
                return True
        except OSError:
            return False

    def reader(self) -> None:
        """The reader."""
        self._start("reader", JUTREL, "panel", "follow", str(self.lines), "--server", self.base, *self.timing)

    def stand_in(self) -> None:
        """The machine."""
        bus = ("--channel", CHANNEL, "--port", str(self.bus), "--hours", str(self.hours))
        self._start("stand_in", JUTREL, "panel", "stand-in", self.machine, *bus, "--server", self.base, *self.timing)

    def kill(self, name: str) -> None:
        """At once, with no word to anybody, and with the processes beside it, so that none is left behind."""
        process = self.running.pop(name)
        os.killpg(process.pid, signal.SIGKILL)
        process.wait(10)

    def end(self) -> None:
        """All of them."""
        for process in self.running.values():
            process.terminate()
        for process in self.running.values():
            try:
                process.wait(10)
            except subprocess.TimeoutExpired:
                process.kill()

    @staticmethod
    def until(so: Callable[[], bool], seconds: float = PATIENCE_S) -> None:
        """Wait until it is so."""
        end = time.monotonic() + seconds
        while not so():
            assert time.monotonic() < end, "it did not come to that"
            time.sleep(0.1)
