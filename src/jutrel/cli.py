"""The command line."""

from __future__ import annotations

import json
import os
import sys
from pathlib import Path
from typing import Annotated

import typer
import uvicorn

from jutrel.api.app import make_app
from jutrel.catalog import catalog
from jutrel.catalog.files import BadFile
from jutrel.catalog.load import load_catalog
from jutrel.core.errors import BadInput
from jutrel.core.plain import to_plain
from jutrel.demo.load import load_demo
from jutrel.exchange.record import record_schema
from jutrel.service.grade import grade_file
from jutrel.settings import Settings
from jutrel.store.migrate import migrate as run_migrations

app = typer.Typer(
    no_args_is_help=True, add_completion=False, help="Jutrel: walk round it, read it, grade it, record it."
)


def _fail(says: str) -> typer.Exit:
    typer.echo(says, err=True)
    return typer.Exit(2)


@app.command()
def grade(file: Annotated[Path, typer.Argument(help="An exported record, or a file with model and findings.")]) -> None:
    """Print the verdict on FILE and its trace as JSON."""
    try:
        document = json.loads(file.read_text(encoding="utf-8"))
        if not isinstance(document, dict):
            raise BadInput("file", "the document is not an object")
        verdict, assumed = grade_file(document)
    except OSError as error:
        raise _fail(f"{file}: {error.strerror}") from None
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        raise _fail(f"{file}: is not JSON: {error}") from None
    except BadInput as error:
        raise _fail(f"{file}: {error}") from None
    recorded = document.get("verdict", {}).get("rulebook")
    out = {
        "verdict": to_plain(verdict),
        "rest_assumed_sound": assumed,
        "same_rulebook": recorded in (None, verdict.rulebook),
    }
    json.dump(out, sys.stdout, indent=2, ensure_ascii=False)
    sys.stdout.write("\n")


@app.command()
def check_catalog(
    folder: Annotated[Path | None, typer.Argument(help="A catalog folder; default: the one shipped.")] = None,
) -> None:
    """Load a catalog and say what is in it, or what is wrong with it."""
    try:
        found = load_catalog(folder) if folder else catalog()
    except BadFile as error:
        raise _fail(str(error)) from None
    for model in found.models.values():
        typer.echo(f"{model.maker} {model.name}: {len(model.family.checkpoints)} checkpoints")
    typer.echo(f"rulebook {found.rulebook.version}: {len(found.rulebook.rules)} rules")


@app.command()
def openapi() -> None:
    """Print the OpenAPI document."""
    json.dump(
        make_app(Settings(database_url="postgresql+psycopg://nobody@127.0.0.1/none")).openapi(), sys.stdout, indent=1
    )


@app.command()
def schema() -> None:
    """Print the JSON Schema of a record."""
    json.dump(record_schema(), sys.stdout, indent=2)
    sys.stdout.write("\n")


@app.command()
def migrate() -> None:
    """Bring the database up to date."""
    run_migrations(Settings().database_url)


@app.command()
def demo() -> None:
    """Load the demo job if the database is empty."""
    typer.echo("demo data loaded" if load_demo(Settings().database_url) else "demo data already there")


@app.command()
def serve(host: str = "127.0.0.1", port: int = 8000) -> None:
    """Serve API and front end."""
    uvicorn.run(make_app(), host=host, port=port, log_level=os.environ.get("JUTREL_LOG", "warning"))
