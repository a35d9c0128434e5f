"""`jutrel serve` and what comes before it: tables, demo data, the document of the API."""

from __future__ import annotations

import json
import os
import sys
import tempfile
from pathlib import Path
from typing import Annotated

import typer
import uvicorn

from jutrel.api.app import make_app
from jutrel.api.heads import HeadInTime
from jutrel.api.metrics import SEVERAL
from jutrel.catalog import catalog
from jutrel.demo.load import load_demo
from jutrel.service.site.upgrade import bring_up
from jutrel.settings import Settings

app = typer.Typer()


@app.command()
def openapi() -> None:
    """Print the OpenAPI document."""
    json.dump(
        make_app(Settings(database_url="postgresql+psycopg://nobody@127.0.0.1/none"), catalog()).openapi(),
        sys.stdout,
        indent=1,
    )


@app.command()
def migrate() -> None:
    """Bring the database up to date."""
    bring_up(Settings().owner_url or Settings().database_url, catalog())


@app.command()
def demo() -> None:
    """Load the demo job with its twelve weeks if the database is empty."""
    loaded = load_demo(Settings().database_url, catalog(), weeks=True)
    typer.echo("demo data loaded" if loaded else "demo data already there")


@app.command()
def serve(
    host: str = "127.0.0.1",
    port: int = 8000,
    workers: Annotated[int, typer.Option(min=1, max=64, help="Processes that answer; each may be on a core.")] = 1,
    certificate: Annotated[Path | None, typer.Option(exists=True, help="TLS by itself, without a proxy: PEM.")] = None,
    certificate_key: Annotated[Path | None, typer.Option(exists=True, help="Its key: PEM.")] = None,
) -> None:
    """Serve API and front end."""
    if workers > 1 and SEVERAL not in os.environ:
        # Each process counts for itself, and any of them tells all.
        os.environ[SEVERAL] = tempfile.mkdtemp(prefix="jutrel-counts-")
    uvicorn.run(
        "jutrel.serving:app",
        factory=True,
        host=host,
        port=port,
        workers=workers,
        http=HeadInTime,
        ssl_certfile=certificate,
        ssl_keyfile=certificate_key,
        log_level=os.environ.get("JUTREL_LOG", "warning"),
        server_header=False,
        access_log=False,  # a line of our own names no person and no machine
        timeout_graceful_shutdown=3,  # a page that listens never ends by itself
        # A worker that begins on a busy machine is not there in five seconds: it was killed and begun without end.
        timeout_worker_healthcheck=60,
    )
