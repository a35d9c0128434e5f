"""A PostgreSQL cluster of the project's own, in a folder of its own, on loopback.

Standard library only: the start command and the tests use it before anything is
installed. It never touches a cluster that it did not make.
"""

from __future__ import annotations

import os
import pwd
import secrets
import shutil
import socket
import subprocess
import time
from pathlib import Path

MARK = "made-by-jutrel"
SERVING = "jutrel_serve"


class ClusterError(RuntimeError):
    """The database cannot be made or started; the message is one clear sentence."""


def _binaries() -> Path:
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda p: int(p.parts[4]))
    if found:
        return found[-1].parent
    which = shutil.which("initdb")
    if which:
        return Path(which).resolve().parent
    raise ClusterError("PostgreSQL is not installed: install Debian's package 'postgresql' and run this again.")


def _as_owner(command: list[str]) -> list[str]:
    # PostgreSQL refuses to run as root.
    return (
        ["setpriv", "--reuid=postgres", "--regid=postgres", "--init-groups", *command] if os.geteuid() == 0 else command
    )


def _run(command: list[str], what: str) -> None:
    done = subprocess.run(_as_owner(command), capture_output=True, text=True, cwd="/", check=False)
    if done.returncode != 0:
        last = (done.stderr.strip() or done.stdout.strip() or "no message").splitlines()[-1]
        raise ClusterError(f"{what} failed: {last}")


def free_port(wanted: int = 0) -> int:
    """A free port on loopback: the wanted one if it is free, else any.

    >>> free_port() > 1024
    True
    """
    for port in (wanted, 0):
        with socket.socket() as s:
            s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                s.bind(("127.0.0.1", port))
            except OSError:
                continue
            return int(s.getsockname()[1])
    raise ClusterError("No free port on 127.0.0.1.")


class Cluster:
    """A cluster in `folder`. `make` once, then `start` and `stop` at will."""

    def __init__(self, folder: Path, durable: bool = True) -> None:
        self.folder = folder.absolute()
        self.data = self.folder / "data"
        self.durable = durable
        self.bin = _binaries()

    @property
    def port(self) -> int:
        """The port it was given when it was last started."""
        return int((self.folder / "port").read_text())

    @property
    def url(self) -> str:
        """The address of its database as its owner, with the password."""
        return self.url_of("jutrel", owner=True)

    @property
    def serve_url(self) -> str:
        """The address of its database as the role that serves: it may add to the log and read it, no more."""
        return self.url_of("jutrel", owner=False)

    def url_of(self, database: str, owner: bool) -> str:
        """The address of one of its databases, with the password of its owner or of the serving role."""
        password = (self.folder / ("password" if owner else "serve-password")).read_text().strip()
        return f"postgresql+psycopg://{'jutrel' if owner else SERVING}:{password}@127.0.0.1:{self.port}/{database}"

    def make(self) -> None:
        """Make the cluster if it is not there; a half-made one is made anew."""
        if (self.folder / MARK).exists():
            return
        if self.data.exists():
            shutil.rmtree(self.data)  # in our folder, without the mark: a set-up cut off before it held anything
        self.folder.mkdir(parents=True, exist_ok=True)
        password = self.folder / "password"
        password.write_text(secrets.token_urlsafe(24))
        password.chmod(0o600)
        if os.geteuid() == 0:
            try:
                owner = pwd.getpwnam("postgres")
            except KeyError:
                raise ClusterError("The user 'postgres' is missing: install Debian's package 'postgresql'.") from None
            for path in (self.folder, password):
                os.chown(path, owner.pw_uid, owner.pw_gid)
            reach = subprocess.run(_as_owner(["test", "-w", str(self.folder)]), cwd="/", check=False)
            if reach.returncode != 0:
                raise ClusterError(
                    f"The user 'postgres' cannot reach {self.folder}: clone the project to a folder that every user "
                    "may enter, such as /srv, or run this as an ordinary user."
                )
        _run(
            [
                str(self.bin / "initdb"),
                "-D",
                str(self.data),
                "-U",
                "jutrel",
                "--pwfile",
                str(password),
                "-A",
                "scram-sha-256",
                "-E",
                "UTF8",
                "--locale=C.UTF-8",
            ],
            "Making the database",
        )
        (self.folder / MARK).touch()

    def running(self) -> bool:
        """Whether its server runs."""
        done = subprocess.run(
            _as_owner([str(self.bin / "pg_ctl"), "-D", str(self.data), "status"]),
            capture_output=True,
            cwd="/",
            check=False,
        )
        return done.returncode == 0

    def start(self, port: int | None = None) -> None:
        """Start it on a free port, or the one given, and make sure that its database is there."""
        if not self.running():
            if port is None:
                port = free_port(self.port if (self.folder / "port").exists() else 0)
            (self.folder / "port").write_text(str(port))
            options = f"-p {port} -c listen_addresses=127.0.0.1 -c unix_socket_directories=''"
            if not self.durable:
                options += " -c fsync=off -c full_page_writes=off -c synchronous_commit=off"
            _run(
                [
                    str(self.bin / "pg_ctl"),
                    "-D",
                    str(self.data),
                    "-w",
                    "-t",
                    "60",
                    "-l",
                    str(self.data / "server.log"),
                    "-o",
                    options,
                    "start",
                ],
                "Starting the database",
            )
        self._database()

    def _database(self) -> None:
        env = {**os.environ, "PGPASSWORD": (self.folder / "password").read_text().strip()}
        base = [str(self.bin / "psql"), "-h", "127.0.0.1", "-p", str(self.port), "-U", "jutrel", "-tA"]
        for _ in range(20):
            have = subprocess.run(
                [*base, "-d", "postgres", "-c", "select 1 from pg_database where datname='jutrel'"],
                capture_output=True,
                text=True,
                env=env,
                check=False,
            )
            if have.returncode == 0:
                break
            time.sleep(0.25)
        else:
            raise ClusterError(f"The database does not answer: {have.stderr.strip()}")
        if have.stdout.strip() != "1":
            subprocess.run(
                [*base, "-d", "postgres", "-c", "create database jutrel"], check=True, capture_output=True, env=env
            )
        self._serving_role(base, env)

    def _serving_role(self, base: list[str], env: dict[str, str]) -> None:
        """The role that serves, with a password of its own; a cluster of an earlier release gets it now."""
        password = self.folder / "serve-password"
        if password.exists():
            return
        secret = secrets.token_urlsafe(24)
        make = f"do $$ begin create role {SERVING} login; exception when duplicate_object then null; end $$"
        for statement in (make, f"alter role {SERVING} password '{secret}'"):
            subprocess.run([*base, "-d", "postgres", "-c", statement], check=True, capture_output=True, env=env)
        password.write_text(secret)
        password.chmod(0o600)

    def stop(self, fast: bool = True) -> None:
        """Stop it cleanly if it runs."""
        if self.data.exists() and self.running():
            mode = "fast" if fast else "smart"
            _run([str(self.bin / "pg_ctl"), "-D", str(self.data), "-w", "-m", mode, "stop"], "Stopping the database")

    def drop(self) -> None:
        """Stop it and remove its folder; refused where the folder does not bear our mark."""
        if self.data.exists() and not (self.folder / MARK).exists():
            raise ClusterError(f"The cluster in {self.folder} was not made by Jutrel, or only half: remove it by hand.")
        self.stop()
        shutil.rmtree(self.folder, ignore_errors=True)
