"""The command line."""

from __future__ import annotations

import json
import os
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any

import typer
import uvicorn

from jutrel.api.app import make_app
from jutrel.catalog import catalog
from jutrel.catalog.files import BadFile
from jutrel.catalog.load import load_catalog
from jutrel.catalog.texts import TEXTS, all_sentences, read_wording, template, write_translation
from jutrel.commands import model as of_models
from jutrel.commands import panel as of_panel
from jutrel.commands import site as of_site
from jutrel.core.errors import BadInput
from jutrel.core.reading.all import READINGS, listed
from jutrel.core.route.pair import plan_pair
from jutrel.core.route.plan import Wishes, plan_route
from jutrel.core.route.precedence import Direction
from jutrel.core.wording import ENGLISH, spoken
from jutrel.demo.load import load_demo
from jutrel.exchange.readings import listing, take
from jutrel.exchange.record import record_schema
from jutrel.exchange.signing import grading_sheet
from jutrel.service.grading.grade import grade_file, replayed
from jutrel.service.log.seal_check import check_seals
from jutrel.service.log.whole_log import rebuild_all, verify_all
from jutrel.service.route.walk import route_wishes
from jutrel.service.site.upgrade import bring_up
from jutrel.settings import Settings

app = typer.Typer(
    no_args_is_help=True, add_completion=False, help="Jutrel: walk round it, read it, grade it, record it."
)
app.add_typer(of_panel.app, name="panel")
app.add_typer(of_models.app)
app.add_typer(of_site.app)
app.add_typer(of_models.new, name="new")


def _fail(says: str) -> typer.Exit:
    typer.echo(says, err=True)
    return typer.Exit(2)


def _document(file: Path, work: Callable[[dict[str, Any]], dict[str, Any]]) -> None:
    """Read a JSON document, do something with it and print what comes out; says plainly what is wrong with it."""
    try:
        document = json.loads(file.read_text(encoding="utf-8"))
        if not isinstance(document, dict):
            raise BadInput("file", "the document is not an object")
        out = work(document)
    except OSError as error:
        raise _fail(f"{file}: {error.strerror}") from None
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        raise _fail(f"{file}: is not JSON: {error}") from None
    except BadInput as error:
        raise _fail(f"{file}: {error}") from None
    json.dump(out, sys.stdout, indent=2, ensure_ascii=False)
    sys.stdout.write("\n")


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

    _document(file, work)


@app.command()
def replay(file: Annotated[Path, typer.Argument(help="An exported record.")]) -> None:
    """Print what the record FILE said, and what today's rules would say of the same entries."""
    _document(file, lambda document: replayed(catalog(), document))


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

    _document(file, work)
    if wrong:
        raise typer.Exit(1)


@app.command()
def verify(machine: Annotated[str | None, typer.Argument(help="A machine; default: all.")] = None) -> None:
    """Check the chain of a machine's log, or of all: whole, or broken at which entry."""
    broken = False
    for line in verify_all(Settings().database_url, catalog(), machine):
        broken = broken or not line.whole
        typer.echo(line.says)
    if broken:
        raise typer.Exit(1)


@app.command()
def rebuild(machine: Annotated[str | None, typer.Argument(help="A machine; default: all.")] = None) -> None:
    """Make the projections of a machine, or of all, anew from the log; says whether they were what the log says."""
    for line in rebuild_all(Settings().database_url, catalog(), machine):
        typer.echo(line.says)


@app.command()
def route(
    model: Annotated[str, typer.Argument(help="A model of the catalog, such as tolvane-e24.")],
    options: Annotated[str, typer.Option(help="What the unit has, comma-separated; default: everything.")] = "all",
    kind: Annotated[str, typer.Option(help="The kind of inspection.")] = "pre-start",
    answers: Annotated[str, typer.Option(help="Approach answers given with yes, comma-separated.")] = "",
    pin_start: Annotated[str | None, typer.Option(help="The first station after the approach.")] = None,
    direction: Annotated[Direction | None, typer.Option(help="Which way round, seen from above.")] = None,
    block: Annotated[str, typer.Option(help="Stations that cannot be reached now, comma-separated.")] = "",
    done: Annotated[str, typer.Option(help="Stations that are finished, comma-separated.")] = "",
    here: Annotated[str | None, typer.Option(help="The station stood at.")] = None,
    beside: Annotated[str, typer.Option(help="What stands beside it: left=0.5,rear=2 in metres.")] = "",
    people: Annotated[int, typer.Option(min=1, max=2, help="How many share the walk.")] = 1,
    as_json: Annotated[bool, typer.Option("--json", help="Order, legs, polylines, seconds as JSON.")] = False,
) -> None:
    """Print the shortest honest way round a machine."""
    try:
        walk, wishes = route_wishes(
            catalog(),
            model,
            None if options == "all" else _words(options),
            kind,
            _words(answers),
            Wishes(
                pin_start=pin_start,
                direction=direction,
                blocked=frozenset(_words(block)),
                done=frozenset(_words(done)),
                here=here,
            ),
            beside,
        )
        routes = plan_pair(walk, wishes) if people == 2 else (plan_route(walk, wishes),)
    except BadInput as error:
        raise _fail(str(error)) from None
    if as_json:
        json.dump(
            {
                "model": model,
                "people": [
                    {
                        "order": [leg.station for leg in r.legs],
                        "seconds": round(r.seconds, 2),
                        "moving_s": round(r.moving_s, 2),
                        "looking_s": r.looking_s,
                        "legs": spoken(r.legs, ENGLISH),
                        "unreached": spoken(r.unreached, ENGLISH),
                    }
                    for r in routes
                ],
                "rules": [{"first": r.first, "then": r.then, "says": str(r.says)} for r in routes[0].rules],
                "because": spoken(walk.because, ENGLISH),
            },
            sys.stdout,
            indent=2,
            ensure_ascii=False,
        )
        sys.stdout.write("\n")
        return
    names = {s.id: s.name for s in walk.stations}
    for number, r in enumerate(routes, 1):
        if people == 2:
            typer.echo(f"Person {number}")
        for i, leg in enumerate(r.legs, 1):
            blocked = "  (blocked)" if leg.blocked else ""
            typer.echo(
                f"{i:3} {names[leg.station]:34}{leg.metres:6.1f} m {leg.seconds:5.0f} s, look {leg.look_s:4} s{blocked}"
            )
        typer.echo(f"    walking and climbing {r.moving_s:.0f} s, looking {r.looking_s} s")
        for u in r.unreached:
            typer.echo(f"    left out: {u.says}")


def _words(text: str) -> list[str]:
    return [word.strip() for word in text.split(",") if word.strip()]


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
def openapi() -> None:
    """Print the OpenAPI document."""
    json.dump(
        make_app(Settings(database_url="postgresql+psycopg://nobody@127.0.0.1/none"), catalog()).openapi(),
        sys.stdout,
        indent=1,
    )


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
            _print(rows)
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
        raise _fail(f"inputs: is not JSON: {error}") from None
    except BadInput as error:
        raise _fail(str(error)) from None
    if as_json:
        _print({"key": key, "inputs": taken.inputs, **spoken(taken.reading, ENGLISH)})
        return
    r = taken.reading
    value = "cannot be judged so" if r.value is None else f"{r.value:.4g} {r.unit}".rstrip()
    wide = "" if r.low is None or r.high is None or r.low == r.high else f"  ({r.low:.4g} to {r.high:.4g})"
    typer.echo(f"{listed(key).title}: {value}{wide}\n{r.judgement.action}\n{r.judgement.why}")
    for figure in r.judgement.figures:
        typer.echo(f"    {figure.name!s:36} {figure.value:10.4g} {figure.unit}")


def _print(document: object) -> None:
    json.dump(document, sys.stdout, indent=2, ensure_ascii=False)
    sys.stdout.write("\n")


@app.command()
def schema() -> None:
    """Print the JSON Schema of a record."""
    json.dump(record_schema(), sys.stdout, indent=2)
    sys.stdout.write("\n")


@app.command()
def migrate() -> None:
    """Bring the database up to date."""
    bring_up(Settings().owner_url or Settings().database_url, catalog())


@app.command()
def demo() -> None:
    """Load the demo job if the database is empty."""
    typer.echo("demo data loaded" if load_demo(Settings().database_url, catalog()) else "demo data already there")


@app.command()
def serve(
    host: str = "127.0.0.1",
    port: int = 8000,
    workers: Annotated[int, typer.Option(min=1, max=64, help="Processes that answer; each may be on a core.")] = 1,
) -> None:
    """Serve API and front end."""
    uvicorn.run(
        "jutrel.serving:app",
        factory=True,
        host=host,
        port=port,
        workers=workers,
        log_level=os.environ.get("JUTREL_LOG", "warning"),
        server_header=False,
        timeout_graceful_shutdown=3,  # a page that listens never ends by itself
    )
