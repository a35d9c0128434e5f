"""`jutrel calc`: take a reading. It needs no catalog and no database."""

from __future__ import annotations

import json
from typing import Annotated

import typer

from jutrel.commands.said import as_json_text, fail
from jutrel.core.errors import BadInput
from jutrel.core.reading.all import READINGS, listed
from jutrel.core.wording import ENGLISH, spoken
from jutrel.exchange.readings import listing, take

app = typer.Typer()


@app.command()
def calc(
    key: Annotated[str | None, typer.Argument(help="A reading, such as tyre-pressure.")] = None,
    inputs: Annotated[
        str, typer.Argument(help='Its inputs as JSON: {"pressure": "92 psi", …}; default: its example.')
    ] = "",
    list_: Annotated[bool, typer.Option("--list", help="Every reading, each with an example that runs.")] = False,
    as_json: Annotated[bool, typer.Option("--json", help="As JSON.")] = False,
) -> None:
    """Take a reading: what it comes to, what to do, and the figures behind it."""
    if list_ or key is None:
        rows = [listing(one) for one in READINGS.values()]
        if as_json:
            as_json_text(rows)
            return
        for row in rows:
            typer.echo(
                f"{row['title']}\n    {row['summary']}\n    jutrel calc {row['key']} '{json.dumps(row['example'])}'\n"
            )
        return
    try:
        given = json.loads(inputs) if inputs else dict(listed(key).example)
        if not isinstance(given, dict):
            raise BadInput("inputs", "give the inputs as a JSON object")
        taken = take(key, given)
    except json.JSONDecodeError as error:
        raise fail(f"inputs: is not JSON: {error}") from None
    except BadInput as error:
        raise fail(str(error)) from None
    if as_json:
        as_json_text({"key": key, "inputs": taken.inputs, **spoken(taken.reading, ENGLISH)})
        return
    r = taken.reading
    value = "cannot be judged so" if r.value is None else f"{r.value:.4g} {r.unit}".rstrip()
    wide = "" if r.low is None or r.high is None or r.low == r.high else f"  ({r.low:.4g} to {r.high:.4g})"
    typer.echo(f"{listed(key).title}: {value}{wide}\n{r.judgement.action}\n{r.judgement.why}")
    for figure in r.judgement.figures:
        typer.echo(f"    {figure.name!s:36} {figure.value:10.4g} {figure.unit}")
