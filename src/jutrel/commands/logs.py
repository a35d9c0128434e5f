"""`jutrel verify` and `jutrel rebuild`: is the log whole, and does what is shown follow from it?"""

from __future__ import annotations

from typing import Annotated

import typer

from jutrel.catalog import catalog
from jutrel.service.log.whole_log import rebuild_all, verify_all
from jutrel.settings import Settings

app = typer.Typer()


@app.command()
def verify(machine: Annotated[str | None, typer.Argument(help="A machine; default: all.")] = None) -> None:
    """Check the chain of a machine's log, or of all: whole, or broken at which entry."""
    broken = False
    settings = Settings()
    for line in verify_all(settings.database_url, catalog(), machine, settings.site):
        broken = broken or not line.whole
        typer.echo(line.says)
    if broken:
        raise typer.Exit(1)


@app.command()
def rebuild(machine: Annotated[str | None, typer.Argument(help="A machine; default: all.")] = None) -> None:
    """Make the projections of a machine, or of all, anew from the log; says whether they were what the log says."""
    settings = Settings()
    for line in rebuild_all(settings.database_url, catalog(), machine, settings.site):
        typer.echo(line.says)
