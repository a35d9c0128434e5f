"""`jutrel`, as far as models and families go: print, check, draw, begin a new one."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from jutrel.catalog.blank import blank_family, blank_model
from jutrel.catalog.files import BadFile
from jutrel.catalog.kept import catalog
from jutrel.catalog.traits import Traits
from jutrel.catalog.whole import FOLDER
from jutrel.commands.said import fail
from jutrel.core.machine.model import Model, walk_of
from jutrel.core.route.plan import plan_route
from jutrel.core.wording import ENGLISH
from jutrel.exchange.drawn_svg import VIEWS, checkpoint_names, drawing_svg
from jutrel.service.machine.models import as_json_file, read_model, shipped_file
from jutrel.service.problem import Problem

app = typer.Typer()
new = typer.Typer(no_args_is_help=True, help="Print a file to be filled in, with every question beside its line.")
app.add_typer(new, name="new")


def _model_of(name: str) -> Model:
    """A model that ships, or the one in a file; fails with a word on what is wrong."""
    if (found := catalog().models.get(name)) is not None:
        return found
    file = Path(name)
    try:
        return read_model(catalog(), file.name, file.read_text(encoding="utf-8"))
    except OSError as error:
        raise fail(f"{file}: {error.strerror}") from None
    except UnicodeDecodeError:
        raise fail(f"{file}: is not text") from None
    except BadFile as error:
        raise fail(str(error)) from None


@app.command()
def check_model(file: Annotated[str, typer.Argument(help="A model file, YAML or JSON.")]) -> None:
    """Say whether FILE could be taken in as a model, or what is wrong with it: line, field, reason."""
    model = _model_of(file)
    lap = plan_route(walk_of(model, frozenset(model.options)))
    typer.echo(f"{model.maker} {model.name}: good; {len(lap.legs)} stations, {lap.seconds / 60:.0f} min")


@app.command()
def export_model(
    model: Annotated[str, typer.Argument(help="A model that ships, such as tolvane-e24.")],
    as_json: Annotated[bool, typer.Option("--json", help="As JSON instead of YAML.")] = False,
) -> None:
    """Print the file of MODEL, to be edited and taken in again."""
    try:
        text = shipped_file(catalog(), model)
    except Problem as problem:
        raise fail(str(problem.says)) from None
    typer.echo(as_json_file(text) if as_json else text, nl=False)


@app.command()
def draw(
    model: Annotated[str, typer.Argument(help="A model that ships, or a model file.")],
    view: Annotated[str, typer.Option(help="above, left or right")] = "above",
    station: Annotated[str, typer.Option(help="Only what is looked at from this station.")] = "",
) -> None:
    """Print MODEL as an SVG drawing, with every place that is looked at."""
    found = _model_of(model)
    if view not in VIEWS:
        raise fail(f"view: one of {', '.join(VIEWS)}")
    stations = [s.id for s in found.family.stations]
    if station and station not in stations:
        raise fail(f"station: one of {', '.join(stations)}")
    typer.echo(drawing_svg(found, view, checkpoint_names(found, station, ENGLISH)), nl=False)


@new.command("model")
def new_model(
    family: Annotated[str, typer.Argument(help="The family, such as wheel-loader.")],
    id: Annotated[str, typer.Argument(help="The model's id, such as maker-name.")],
) -> None:
    """A model file of FAMILY."""
    known = catalog().families.get(family)
    if known is None:
        raise fail(f"family: one of {', '.join(catalog().families)}")
    typer.echo(blank_model(known, catalog().drawings, id), nl=False)


@new.command("family")
def new_family(id: Annotated[str, typer.Argument(help="The family's id, such as road-roller.")]) -> None:
    """A family file with what its traits owe."""
    typer.echo(blank_family(Traits(FOLDER / "traits.yaml"), id), nl=False)
