"""`jutrel panel`: a day on the stand-in as a log, a log read and judged, our signals as a CAN database."""

from __future__ import annotations

import json
import signal
import threading
import time
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Annotated

import typer

from jutrel.core.errors import BadInput
from jutrel.core.panel.reader import Reader
from jutrel.core.panel.signals import Lack, dbc
from jutrel.core.panel.watch import Alert
from jutrel.exchange.bus import open_bus, read_bus, send
from jutrel.exchange.logs import Frame, message, read_log, write_log
from jutrel.panel.bus_reader import BusLine, Clock, Follower, Server, read_lines
from jutrel.panel.import_log import import_values
from jutrel.panel.teller import Teller
from jutrel.standin.engine import SimulatedEngine
from jutrel.standin.machine import StandIn
from jutrel.standin.scenario import SCENARIOS, frames, scenario

panel = typer.Typer(no_args_is_help=True, help="What a machine tells over its bus: stand-in, reader, database.")
app = typer.Typer()
app.add_typer(panel, name="panel")


def _told(at: float, alert: Alert, as_json: bool) -> None:
    if as_json:
        print(json.dumps({"at": round(at, 2), "id": alert.id, "colour": alert.colour.value, "says": str(alert.says)}))
    else:
        print(f"{at:9.1f} s  {alert.colour.value:5}  {alert.says}", flush=True)


@panel.command()
def scenarios() -> None:
    """The stand-in's scenarios."""
    for key, one in SCENARIOS.items():
        print(f"{key:20} {one.minutes:g} min")


@panel.command()
def simulate(
    key: Annotated[str, typer.Argument(help="The scenario, as `jutrel panel scenarios` lists them.")],
    log: Annotated[Path | None, typer.Option(help="Write to this log: .asc .blf .log (candump) .csv .trc")] = None,
    interface: Annotated[str, typer.Option(help="Or send on this interface of the CAN library.")] = "",
    channel: Annotated[str, typer.Option(help="Its channel.")] = "",
    speed: Annotated[float, typer.Option(min=0.1, max=600, help="So many times as fast as it happens.")] = 1.0,
) -> None:
    """Play a scenario: into a log file, or onto a bus."""
    try:
        run = scenario(key)
    except BadInput as error:
        typer.echo(str(error), err=True)
        raise typer.Exit(2) from None
    if log is not None:
        print(f"{write_log(log, frames(run))} frames in {log}")
    if not interface:
        return
    with open_bus(interface, channel) as bus:
        began = time.monotonic()
        for f in frames(run):
            time.sleep(max(0.0, began + f.at / speed - time.monotonic()))
            send(bus, f.pgn, f.data)


@panel.command()
def read(
    log: Annotated[Path | None, typer.Argument(help="A log in any open format of the CAN library.")] = None,
    interface: Annotated[str, typer.Option(help="Or listen to this interface.")] = "",
    channel: Annotated[str, typer.Option(help="Its channel.")] = "",
    seconds: Annotated[float, typer.Option(help="Listen for so long; 0: until it is ended.")] = 0.0,
    as_json: Annotated[bool, typer.Option("--json", help="One JSON document a line.")] = False,
) -> None:
    """Read a log or a bus: what begins to hold, as it begins, and the last values."""
    reader, at = Reader(), 0.0
    try:
        if log is not None:
            source: Iterable[tuple[float, Frame | None]] = ((f.at, f) for f in read_log(log))
        elif interface:
            source = read_bus(interface, channel, seconds)
        else:
            raise BadInput("log", "name a log, or an interface to listen to")
        first = None
        for when, frame in source:
            first = when if first is None else first
            at, back = when - first, reader.set_back
            found = reader.tick(at) if frame is None else reader.take(at, *frame[1:])
            if reader.set_back > back:
                typer.echo(
                    f"{at:.1f} s: its clock goes back; what follows is read in the order of its frames", err=True
                )
            for alert in found:
                _told(reader.panel.at, alert, as_json)
    except (OSError, ValueError) as error:
        typer.echo(str(error), err=True)
        raise typer.Exit(2) from None
    values = {k: v.value if isinstance(v, Lack) else round(v, 2) for k, v in reader.panel.values.items()}
    print(json.dumps({"frames": reader.frames, "values": values}) if as_json else f"{reader.frames} frames. {values}")


Address = Annotated[str, typer.Option(envvar="JUTREL_SERVER", help="Where the server is.")]
Key = Annotated[str, typer.Option(envvar="JUTREL_DEVICE_KEY", help="The site's key for devices.")]
Speed = Annotated[float, typer.Option(min=0.1, max=600, help="So many times as fast, for practice and tests.")]
Since = Annotated[float, typer.Option(help="Since when it runs so fast, in seconds since 1970; now where it is 0.")]
HERE = "http://127.0.0.1:8000"


def _until_ended(doing: Teller | StandIn, followers: Sequence[Follower] = ()) -> None:
    """Until somebody ends the process; what the server refuses of a machine is said once."""
    ended = threading.Event()
    for s in (signal.SIGTERM, signal.SIGINT):
        signal.signal(s, lambda *_: ended.set())
    doing.start()
    told: dict[str, str] = {}
    while not ended.wait(2.0):
        for one in followers:
            if one.refused != told.get(one.line.machine, ""):
                told[one.line.machine] = one.refused
                typer.echo(f"{one.line.machine}: {one.refused or 'told again'}", err=True)
    doing.stop()


def _clock(speed: float, since: float) -> Clock:
    return Clock(speed, since or time.time())


@panel.command()
def follow(
    file: Annotated[Path, typer.Argument(help="The buses, in TOML: see docs/panel.md.")],
    server: Address = HERE,
    key: Key = "",
    speed: Speed = 1.0,
    since: Since = 0.0,
) -> None:
    """Read the buses of one or many machines and tell the server, until it is ended."""
    try:
        lines = read_lines(file)
        clock = _clock(speed, since)
        followers = [Follower(line, Server(server, key, line.machine), clock) for line in lines]
        _until_ended(Teller(followers, Server(server, key)), followers)
    except BadInput as error:
        typer.echo(str(error), err=True)
        raise typer.Exit(2) from None


@panel.command()
def stand_in(
    machine: Annotated[str, typer.Argument(help="The machine that it stands in for.")],
    interface: Annotated[str, typer.Option(help="An interface of the CAN library.")] = "udp_multicast",
    channel: Annotated[str, typer.Option(help="Its channel.")] = "239.74.163.2",
    port: Annotated[int, typer.Option(help="The channel's port, where it has one.")] = 0,
    hours: Annotated[float, typer.Option(min=0, help="What its meter shows as it begins; 0: as the file says.")] = 0.0,
    server: Address = HERE,
    key: Key = "",
    speed: Speed = 1.0,
    since: Since = 0.0,
) -> None:
    """A machine that is none: does what the run's page orders and tells it on a bus, until it is ended."""
    more = {"port": port} if port else {}
    line = BusLine(machine, interface, channel, simulated=True, more=more)
    engine = SimulatedEngine(hours=hours)
    _until_ended(StandIn(line, Server(server, key, machine), _clock(speed, since), engine))


@panel.command()
def record(
    log: Annotated[Path, typer.Argument(help="Write to this log: .asc .blf .log (candump) .csv .trc")],
    interface: Annotated[str, typer.Option(help="Of the CAN library.")],
    channel: Annotated[str, typer.Option(help="Its channel.")] = "",
    seconds: Annotated[float, typer.Option(help="For so long; 0: until it is ended.")] = 0.0,
) -> None:
    """Record what comes over a bus, in the open format of the log's ending; `jutrel panel read` judges it."""
    frames = (f for _, f in read_bus(interface, channel, seconds) if f is not None)
    try:
        print(f"{write_log(log, frames)} frames in {log}")
    except (OSError, ValueError) as error:
        typer.echo(str(error), err=True)
        raise typer.Exit(2) from None


@panel.command()
def replay(
    log: Annotated[Path, typer.Argument(help="A log in any open format of the CAN library.")],
    interface: Annotated[str, typer.Option(help="Of the CAN library.")],
    channel: Annotated[str, typer.Option(help="Its channel.")] = "",
    speed: Annotated[float, typer.Option(min=0.1, max=600, help="So many times as fast as it was recorded.")] = 1.0,
) -> None:
    """Play a recorded log onto a bus, each frame at its time."""
    count = 0
    try:
        with open_bus(interface, channel) as bus:
            began = first = None
            for frame in read_log(log):
                began = time.monotonic() if began is None else began
                first = frame.at if first is None else first
                time.sleep(max(0.0, began + (frame.at - first) / speed - time.monotonic()))
                bus.send(message(frame))
                count += 1
    except (OSError, ValueError) as error:
        typer.echo(str(error), err=True)
        raise typer.Exit(2) from None
    print(f"{count} frames played")


@panel.command()
def database() -> None:
    """Our signals as a CAN database (DBC)."""
    print(dbc(), end="")


@panel.command("import")
def import_log(
    log: Annotated[Path, typer.Argument(help="A log in any open format of the CAN library.")],
    machine: Annotated[str, typer.Argument(help="The machine that it is of.")],
    began: Annotated[str, typer.Option(help="When it began, where its times count from zero: 2026-05-04T06:00Z")] = "",
    server: Address = HERE,
    key: Key = "",
) -> None:
    """Take the values of a recorded log into a machine's course; no run ever goes by them."""
    try:
        print(f"{import_values(log, Server(server, key, machine), began)} seconds kept")
    except (BadInput, OSError, ValueError) as error:
        typer.echo(str(error), err=True)
        raise typer.Exit(2) from None
