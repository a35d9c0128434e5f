"""`make demo`: the demo's database and server, started together and stopped together."""

from __future__ import annotations

import ctypes
import fcntl
import os
import secrets
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

from jutrel.cluster import Cluster, ClusterError
from jutrel.demo.story import PEOPLE, PIN

ROOT = Path(__file__).resolve().parents[1]
READ, CHANNEL = "ex-01", "239.74.163.2"
"""The machine of the demo that is read over its bus."""
PR_SET_PDEATHSIG = 1
FOLDER = Path(os.environ.get("JUTREL_DEMO_FOLDER", ROOT / ".jutrel" / "demo"))


def stop(says: str) -> None:
    sys.exit(f"Cannot go on: {says}")


def port_free(port: int) -> bool:
    with socket.socket() as s:
        s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            s.bind(("127.0.0.1", port))
        except OSError:
            return False
        return True


def run(*command: str, env: dict[str, str]) -> None:
    if subprocess.run([str(ROOT / ".venv" / "bin" / "jutrel"), *command], env=env, check=False).returncode != 0:
        stop(f"'jutrel {' '.join(command)}' failed; the lines above say why")


def ends_with_me() -> None:
    """In a child: ended with this process, however that ends. Left over, it would hold the port, or be a second bus."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGTERM)


def live(port: int, env: dict[str, str]) -> list[subprocess.Popen[bytes]]:
    """One machine that is read over a bus: its stand-in and the reader, each in a process of its own."""
    bus = 42000 + port % 1000
    lines = FOLDER / "buses.toml"
    lines.write_text(
        f'[[machine]]\nid = "{READ}"\ninterface = "udp_multicast"\nchannel = "{CHANNEL}"\n'
        f"port = {bus}\nsimulated = true\n"
    )
    jutrel, here = str(ROOT / ".venv" / "bin" / "jutrel"), f"http://127.0.0.1:{port}"
    told = open(FOLDER / "panel.log", "w")  # noqa: SIM115  (held until the process ends)
    standin = [jutrel, "panel", "stand-in", READ, "--channel", CHANNEL, "--port", str(bus), "--server", here]
    reader = [jutrel, "panel", "follow", str(lines), "--server", here]
    return [subprocess.Popen(c, env=env, stdout=told, stderr=told, preexec_fn=ends_with_me) for c in (standin, reader)]


def main() -> None:
    wanted = os.environ.get("PORT", "8000")
    if not wanted.isdecimal() or not 0 < int(wanted) < 65536:
        stop(f"PORT must be a number from 1 to 65535, not '{wanted}'")
    port = int(wanted)
    try:
        FOLDER.parent.mkdir(parents=True, exist_ok=True)
        lock = open(FOLDER.with_suffix(".lock"), "w")  # noqa: SIM115  (held until the process ends)
    except PermissionError:
        stop(f"this folder cannot be written to: {ROOT}")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        stop("the demo already runs from this folder, in another terminal")
    if not port_free(port):
        stop(f"port {port} is in use; stop what uses it, or run  make demo PORT={port + 1}")
    try:
        cluster = Cluster(FOLDER)
        if "--reset" in sys.argv:
            print("Removing the demo's database", flush=True)
            cluster.drop()
        if not (FOLDER / "made-by-jutrel").exists():
            print("Making the demo's database", flush=True)
        cluster.make()
        cluster.start()
    except ClusterError as error:
        stop(str(error))
    names = ", ".join(f"{name} ({role})" for _, name, role in PEOPLE)
    env = {
        **os.environ,
        "JUTREL_DATABASE_URL": cluster.serve_url,
        "JUTREL_OWNER_URL": cluster.url,
        "JUTREL_DEMO_PIN": PIN,
        "JUTREL_DEVICE_KEY": secrets.token_urlsafe(24),
    }
    server = None
    beside: list[subprocess.Popen[bytes]] = []
    # Ctrl-C reaches the whole group; the server ends by itself, the database is stopped below.
    signal.signal(signal.SIGTERM, lambda *_: (_ for _ in ()).throw(KeyboardInterrupt))
    try:
        run("migrate", env=env)
        print("Loading the demo data if there is none (about twenty seconds)", flush=True)
        run("demo", env=env)
        server = subprocess.Popen(
            [str(ROOT / ".venv" / "bin" / "jutrel"), "serve", "--port", str(port)], env=env, preexec_fn=ends_with_me
        )
        for _ in range(120):
            if server.poll() is not None:
                stop("the server ended while starting; the lines above say why")
            try:
                with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/health", timeout=2):
                    break
            except OSError:
                time.sleep(0.25)
        beside = live(port, env)
        print(
            f"\nJutrel:   http://127.0.0.1:{port}/\nSign in:  {names}\nPIN:      {PIN}\n"
            f"Live:     {READ.upper()} is read over a bus; its key is turned on its page /machines/{READ}/run\n"
            "Ctrl-C stops it.\n",
            flush=True,
        )
        server.wait()
    except KeyboardInterrupt:
        print("\nStopping", flush=True)
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        for process in [*beside, *([server] if server else [])]:
            if process.poll() is None:
                process.terminate()
                try:
                    process.wait(10)
                except subprocess.TimeoutExpired:
                    process.kill()
        cluster.stop()


if __name__ == "__main__":
    main()
