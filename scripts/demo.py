"""`make demo`: the demo's database and server, started together and stopped together."""

from __future__ import annotations

import fcntl
import os
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
    }
    server = None
    # Ctrl-C reaches the whole group; the server ends by itself, the database is stopped below.
    signal.signal(signal.SIGTERM, lambda *_: (_ for _ in ()).throw(KeyboardInterrupt))
    try:
        run("migrate", env=env)
        print("Loading the demo data if there is none (about ten seconds)", flush=True)
        run("demo", env=env)
        server = subprocess.Popen([str(ROOT / ".venv" / "bin" / "jutrel"), "serve", "--port", str(port)], env=env)
        for _ in range(120):
            if server.poll() is not None:
                stop("the server ended while starting; the lines above say why")
            try:
                with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/health", timeout=2):
                    break
            except OSError:
                time.sleep(0.25)
        print(
            f"\nJutrel:   http://127.0.0.1:{port}/\nSign in:  {names}\nPIN:      {PIN}\nCtrl-C stops it.\n", flush=True
        )
        server.wait()
    except KeyboardInterrupt:
        print("\nStopping", flush=True)
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        if server is not None and server.poll() is None:
            server.terminate()
            try:
                server.wait(10)
            except subprocess.TimeoutExpired:
                server.kill()
        cluster.stop()


if __name__ == "__main__":
    main()
