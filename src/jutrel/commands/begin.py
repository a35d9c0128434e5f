"""Where the command line begins: it loads what the first word needs, then does what it was asked."""

from __future__ import annotations

import gc
import sys
from collections.abc import Mapping, Sequence
from importlib import import_module
from typing import Annotated

import typer

from jutrel import __version__

WORDS: Mapping[str, tuple[str, ...]] = {
    "calc": ("calc",),
    "records": ("grade", "replay", "seals", "schema"),
    "logs": ("verify", "rebuild"),
    "way": ("route",),
    "knowledge": ("check-catalog", "texts", "grading"),
    "server": ("openapi", "migrate", "demo", "serve"),
    "panel": ("panel",),
    "model": ("check-model", "export-model", "draw", "new"),
    "site": ("site", "person", "check"),
}
"""By its module: the words it answers to. Loading all of them takes five times as long as `jutrel calc` itself."""


def _version(asked: bool) -> None:
    if asked:
        typer.echo(f"jutrel {__version__}")
        raise typer.Exit


def root(
    version: Annotated[
        bool, typer.Option("--version", callback=_version, is_eager=True, help="Print the version.")
    ] = False,
) -> None:
    """Jutrel: walk round it, read it, grade it, record it."""


def app_for(word: str) -> typer.Typer:
    """The commands of the module that answers to a word; of all, where none does."""
    app = typer.Typer(no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False)
    app.callback()(root)
    if word == "--version":
        return app
    for module in [m for m, words in WORDS.items() if word in words] or WORDS:
        app.add_typer(import_module(f"jutrel.commands.{module}").app)
    return app


def main() -> None:
    """Run the command line. Nothing of what is loaded becomes garbage, so it is not looked for meanwhile."""
    gc.disable()
    app = app_for(sys.argv[1] if len(sys.argv) > 1 else "")
    gc.freeze()
    gc.enable()
    sys.exit(_run(app, sys.argv[1:]))


def main_with(arguments: Sequence[str]) -> int:
    """What a command gives back."""
    return _run(app_for(arguments[0] if arguments else ""), arguments)


def _run(app: typer.Typer, arguments: Sequence[str]) -> int:
    """What a command gives back; a catalog that cannot be read and a database that is away are told in a sentence."""
    try:
        app(arguments, prog_name="jutrel")
    except SystemExit as done:
        return done.code if isinstance(done.code, int) else int(done.code is not None)
    except Exception as error:
        from jutrel.catalog.files import BadFile  # these load much, which most commands never need
        from jutrel.store.base import StoreAway, StoreBusy

        if not isinstance(error, (BadFile, StoreAway, StoreBusy)):
            raise
        print(error if isinstance(error, BadFile) else f"The database does not answer: {error}", file=sys.stderr)
        return 2
    return 0
