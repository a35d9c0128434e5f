"""`jutrel panel`: a day on the stand-in as a log, a log read and judged, our signals as a CAN database."""

from __future__ import annotations

import json
import time
from pathlib import Path
from typing import Annotated

import typer

from jutrel.core.errors import BadInput
from jutrel.core.panel.reader import Reader
from jutrel.core.panel.signals import Lack, dbc
from jutrel.core.panel.watch import Alert
from jutrel.exchange.bus import open_bus, read_bus, read_log, send, write_log
from jutrel.standin.scenario import SCENARIOS, frames, scenario

app = typer.Typer(no_args_is_help=True, help="What a machine tells over its bus: stand-in, reader, database.")


def _told(at: float, alert: Alert, as_json: bool) -> None:
    if as_json:
        print(json.dumps({"at": round(at, 2), "id": alert.id, "colour": alert.colour.value, "says": str(alert.says)}))
    else:
        print(f"{at:9.1f} s  {alert.colour.value:5}  {alert.says}", flush=True)


@app.command()
def scenarios() -> None:
    """The stand-in's scenarios."""
    for key, one in SCENARIOS.items():
        print(f"{key:20} {one.minutes:g} min")


@app.command()
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
        print(f"{write_log(log, ((f.at, f.pgn, f.data) for f in frames(run)))} frames in {log}")
    if not interface:
        return
    with open_bus(interface, channel) as bus:
        began = time.monotonic()
        for f in frames(run):
            time.sleep(max(0.0, began + f.at / speed - time.monotonic()))
            send(bus, f.pgn, f.data)


@app.command()
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
            source = read_log(log)
        elif interface:
            source = read_bus(interface, channel, seconds)
        else:
            raise BadInput("log", "name a log, or an interface to listen to")
        first = None
        for when, pgn, sender, data in source:
            first = when if first is None else first
            at = when - first
            found = reader.tick(at) if pgn < 0 else reader.take(at, pgn, sender, data)
            for alert in found:
                _told(at, alert, as_json)
    except (OSError, ValueError) as error:
        typer.echo(str(error), err=True)
        raise typer.Exit(2) from None
    values = {k: v.value if isinstance(v, Lack) else round(v, 2) for k, v in reader.panel.values.items()}
    print(json.dumps({"frames": reader.frames, "values": values}) if as_json else f"{reader.frames} frames. {values}")


@app.command()
def database() -> None:
    """Our signals as a CAN database (DBC)."""
    print(dbc(), end="")
