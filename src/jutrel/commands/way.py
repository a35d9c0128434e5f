"""`jutrel route`: the way round a machine."""

from __future__ import annotations

from typing import Annotated

import typer

from jutrel.catalog import catalog
from jutrel.commands.said import as_json_text, fail
from jutrel.core.errors import BadInput
from jutrel.core.route.pair import plan_pair
from jutrel.core.route.plan import Wishes, plan_route
from jutrel.core.route.precedence import Direction
from jutrel.core.wording import ENGLISH, spoken
from jutrel.service.route.walk import route_wishes

app = typer.Typer()


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
        raise fail(str(error)) from None
    if as_json:
        as_json_text(
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
            }
        )
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
