"""`jutrel`, as far as the catalog goes: checked, put into words, printed as tables."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from jutrel.catalog import catalog
from jutrel.catalog.files import BadFile
from jutrel.catalog.load import load_catalog
from jutrel.catalog.texts import TEXTS, all_sentences, read_wording, template, write_translation
from jutrel.commands.said import fail
from jutrel.exchange.signing import grading_sheet

app = typer.Typer()


@app.command()
def check_catalog(
    folder: Annotated[Path | None, typer.Argument(help="A catalog folder; default: the one shipped.")] = None,
) -> None:
    """Load a catalog and say what is in it, or what is wrong with it."""
    try:
        found = load_catalog(folder) if folder else catalog()
    except BadFile as error:
        raise fail(str(error)) from None
    for model in found.models.values():
        typer.echo(f"{model.maker} {model.name}: {len(model.family.checkpoints)} checkpoints")
    typer.echo(f"rulebook {found.rulebook.version}: {len(found.rulebook.rules)} rules")


@app.command()
def texts(
    language: Annotated[str, typer.Argument(help="A language's code, such as pl.")],
    into: Annotated[Path, typer.Option(help="The folder that holds the languages' folders.")] = TEXTS,
) -> None:
    """Write LANGUAGE's sentences.po with every sentence there is, keeping the translations that it has."""
    folder = into / language
    folder.mkdir(parents=True, exist_ok=True)
    every = all_sentences(catalog())
    have = read_wording(folder)
    write_translation(template(every, language, have), folder / "sentences.po")
    kept = sum((s.context, s.text) in have.texts for s in every)
    typer.echo(f"{folder / 'sentences.po'}: {len(every)} sentences, {kept} of them translated")


@app.command()
def grading(family: str, regime: str = "house") -> None:
    """All grades of a family of machines, as a table to be read and signed."""
    known = catalog()
    model = next((m for m in known.models.values() if m.family.id == family), None)
    if model is None or regime not in known.rulebooks:
        those = known.families if model is None else known.rulebooks
        typer.echo(f"There is no such {'family' if model is None else 'regime'}; one of: {', '.join(those)}", err=True)
        raise typer.Exit(1)
    typer.echo(grading_sheet(model, known.rulebooks[regime]), nl=False)
