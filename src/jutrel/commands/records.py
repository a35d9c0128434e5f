"""`jutrel`, as far as records go: graded, replayed, checked."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer

from jutrel.catalog import catalog
from jutrel.commands.said import as_json_text, document_of
from jutrel.core.wording import ENGLISH, spoken
from jutrel.exchange.record import record_schema
from jutrel.service.grading.grade import grade_file, replayed
from jutrel.service.log.seal_check import check_seals

app = typer.Typer()


@app.command()
def grade(file: Annotated[Path, typer.Argument(help="An exported record, or a file with model and findings.")]) -> None:
    """Print the verdict that today's rules give on FILE, and its trace, as JSON."""

    def work(document: dict[str, Any]) -> dict[str, Any]:
        graded = grade_file(catalog(), document)
        recorded = (document.get("verdict") or {}).get("rulebook")
        return {
            "verdict": spoken(graded.verdict, ENGLISH),
            "rest_assumed_sound": graded.assumed,
            "same_rulebook": recorded in (None, graded.verdict.rulebook),
        }

    document_of(file, work)


@app.command()
def replay(file: Annotated[Path, typer.Argument(help="An exported record.")]) -> None:
    """Print what the record FILE said, and what today's rules would say of the same entries."""
    document_of(file, lambda document: replayed(catalog(), document))


@app.command()
def seals(
    file: Annotated[Path, typer.Argument(help="An exported record.")],
    key: Annotated[
        str, typer.Option(help="The site's public key, known from elsewhere; default: the record's own.")
    ] = "",
) -> None:
    """Check who wrote each entry of the record FILE: no server is asked. Exit 1 if a seal does not hold."""
    wrong = False

    def work(document: dict[str, Any]) -> dict[str, Any]:
        nonlocal wrong
        checked = check_seals(document, key)
        wrong = bool(checked.wrong)
        said: dict[str, Any] = spoken(checked, ENGLISH)
        return said

    document_of(file, work)
    if wrong:
        raise typer.Exit(1)


@app.command()
def schema() -> None:
    """Print the JSON Schema of a record."""
    as_json_text(record_schema())
