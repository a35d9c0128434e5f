"""The drawings: what stands in the way is all of the machine, and every place lies on the part that it is said to."""

from __future__ import annotations

import itertools
import json
from pathlib import Path

import pytest
import yaml
from shapely.geometry import LineString, MultiPoint, Point, Polygon
from shapely.ops import unary_union

from jutrel.catalog import catalog
from jutrel.catalog.build_drawing import redrawn
from jutrel.catalog.compile import edition_of
from jutrel.catalog.files import BadFile, SourceFile
from jutrel.catalog.models import build_model
from jutrel.catalog.whole import FOLDER
from jutrel.core.edition import compiled, load_edition
from jutrel.core.machine.drawing import plan_drawing, side_drawing, side_to_see
from jutrel.core.machine.drawing.part import SLACK_M, outline_beside, outlines_above
from jutrel.core.machine.family import Level
from jutrel.core.machine.model import Model, walk_of
from jutrel.core.route.ground import CLEARANCE_M
from jutrel.core.route.plan import Lap, plan_route

MODELS = list(catalog().models.values())
HEAD_M = 1.9
every_model = pytest.mark.parametrize("model", MODELS, ids=lambda m: m.id)


def solid(model: Model) -> dict[str, Polygon]:
    """What a person on the ground would bump into: all that hangs lower than a head."""
    return {p.id: unary_union([Polygon(o) for o in outlines_above(p)]) for p in model.parts if p.low[2] < HEAD_M}


@every_model
def test_outlines_are_convex_and_hold_everything_drawn(model: Model) -> None:
    outlines = [Polygon(o) for o in plan_drawing(model).obstacles]
    for outline in outlines:
        assert outline.is_valid
        assert outline.exterior.is_ccw
        assert outline.convex_hull.area == pytest.approx(outline.area)
    # Nobody bumps into a part that the outline forgot: a hand's breadth at most stands over.
    wall = unary_union(outlines).buffer(0.12)
    hung = Polygon(max(outlines, key=lambda o: o.area).exterior)
    assert hung.area > 3
    for part in model.parts:
        for outline in outlines_above(part):
            if model.family.shape == "rigid-hauler" and part.id in ("body", "body-floor"):
                continue  # its tail hangs over a person's head: the test after this one
            out = [p for p in outline if part.low[2] < HEAD_M and not wall.covers(MultiPoint([p]))]
            assert not out, (part.id, out[:3])


def test_what_is_walked_under_is_over_a_head() -> None:
    """The tail of a rigid hauler's body reaches over the station behind it."""
    for model in (m for m in MODELS if m.family.shape == "rigid-hauler"):
        back = min(x for o in model.obstacles for x, _ in o)
        body = next(p for p in model.parts if p.id == "body")
        assert body.low[0] < back
        hung = Polygon(outline_beside(body)).intersection(Polygon([(-30, 0), (back, 0), (back, 30), (-30, 30)]))
        assert hung.bounds[1] > HEAD_M, model.id


@every_model
def test_no_leg_crosses_what_is_drawn(model: Model) -> None:
    """Not only the outline: the very shapes of tracks, wheels, body and tool."""
    walk = walk_of(model, frozenset(model.options))
    under = ("body", "body-floor") if model.family.shape == "rigid-hauler" else ()
    ladders = ("steps", "ladder", "mirror")  # one stands close to what one climbs, and under a mirror
    drawn = unary_union([o for id_, o in solid(model).items() if id_ not in under and not id_.startswith(ladders)])
    level = {s.id: s.level for s in walk.stations}
    lap = Lap(walk)
    for a, b in itertools.combinations(lap.stations, 2):
        line, metres = lap.ways[lap.stations.index(a)][lap.stations.index(b)]
        assert metres >= LineString([line[0], line[-1]]).length - 1e-9
        assert not LineString(line).intersects(drawn.buffer(CLEARANCE_M - 0.15)), (a, b)
    for leg in plan_route(walk).legs:
        if level[leg.station] in (Level.GROUND, Level.UNDER) and len(leg.line) > 1:
            assert not LineString(leg.line[1:] if leg.line[0] not in lap.feet else leg.line).intersects(drawn)


@every_model
def test_all_views_show_the_same_machine(model: Model) -> None:
    """As long from either side as from above, and turned round: from the left the front is at the left hand."""
    above, left, right = plan_drawing(model), side_drawing(model, "left"), side_drawing(model, "right")
    for view, sign in ((left, -1.0), (right, 1.0)):
        assert all(z >= -0.01 for s in view.shapes for _, z in s.points)
        for part in model.parts:
            xs = [sign * x for s in view.shapes if s.part == part.id for x, _ in s.points]
            flat = [x for s in above.shapes if s.part == part.id for x, _ in s.points]
            roofed = model.family.shape == "rigid-hauler" and part.id == "body"  # its canopy is a part of its own
            if xs and not roofed and part.kind.value not in ("ladder", "line", "bar", "cab"):
                assert (min(xs), max(xs)) == pytest.approx((min(flat), max(flat)), abs=0.25), part.id
    # what is filled and nearer is drawn later: the cab of a machine hides what stands behind it
    order = [s.part for s in left.shapes]
    near = [p.high[1] for name in order for p in model.parts if p.id == name]
    assert near == sorted(near)


@every_model
def test_each_place_lies_in_its_part_in_both_views(model: Model) -> None:
    """Judged by another library than the loader's own sums."""
    parts = {p.id: p for p in model.parts}
    walk = walk_of(model, frozenset(model.options))
    assert {c.id for c in walk.checkpoints} <= set(model.on_part)
    for checkpoint in walk.checkpoints:
        (x, y, z), on = model.places[checkpoint.id], model.on_part[checkpoint.id]
        if on == "ground":
            assert z == 0, checkpoint.id
            continue
        part = parts[on]
        assert min(Polygon(o).distance(Point(x, y)) for o in outlines_above(part)) <= SLACK_M + 1e-6, checkpoint.id
        assert Polygon(outline_beside(part)).distance(Point(x, z)) <= SLACK_M + 1e-6, checkpoint.id
        # what is looked at from one side of the machine is not on its other side
        stands = model.station_places[checkpoint.station][1]
        level = next(s.level for s in walk.stations if s.id == checkpoint.station)
        aside = level is Level.GROUND and abs(stands) > 1.2 and checkpoint.station != "approach"
        assert not aside or y * stands >= 0 or abs(y) < 0.5, checkpoint.id
        assert side_to_see(stands, y) in ("left", "right")


def test_places_follow_the_figures() -> None:
    """A longer machine has its places farther apart: the same share of the same part."""
    small, large = catalog().models["korveth-kw32"], catalog().models["korveth-kw64"]
    for checkpoint in (set(small.on_part) & set(large.on_part)) - {"stance", "pools"} - set(large.moved):
        a, b = (next((p for p in m.parts if p.id == m.on_part[checkpoint]), None) for m in (small, large))
        assert (a is None) == (b is None)
        if a is None or b is None or a.spine or a.kind.value == "wheel":
            continue
        for i in range(3):
            shares = [
                (m.places[checkpoint][i] - p.low[i]) / (p.high[i] - p.low[i]) for m, p in ((small, a), (large, b))
            ]
            assert shares[0] == pytest.approx(shares[1], abs=1e-6), checkpoint


def test_what_was_kept_before_parts_is_still_read() -> None:
    """An edition of before is drawn with its own figures; a site's own model file of before is still a model."""
    now = edition_of(catalog(), catalog().models["korveth-kw64"])
    plain = json.loads(compiled(now))
    for name in ("parts", "obstacles", "zones", "edges", "postures", "on_part"):
        del plain["model"][name]
    plain["model"]["shape"]["bucket_width"] = 4.0
    before = load_edition(json.dumps(plain).encode())
    assert before.model.parts == ()
    assert plan_drawing(before.model).bounds == (-1.0, -1.0, 1.0, 1.0)  # not drawn, and no error
    drawn = redrawn(catalog().drawings, before).model
    assert {p.id for p in drawn.parts} == {p.id for p in now.model.parts}
    assert next(p for p in drawn.parts if p.id == "bucket").high[1] == 2.0
    assert drawn.places == now.model.places
    del plain["model"]["shape"]["bucket_width"]  # figures that no drawing can be made from
    assert redrawn(catalog().drawings, load_edition(json.dumps(plain).encode())).model.parts == ()

    data = yaml.safe_load((FOLDER / "models" / "korveth-kw64.yaml").read_text())
    data["places"] = {c: [0.5, 0.5, 1.0] for c in now.model.places}
    source = SourceFile(Path("own.yaml"), json.dumps(data))
    known = catalog().families, catalog().schools, catalog().drawings
    kept = build_model(source, *known, kept=True)
    assert kept.parts == now.model.parts
    # What it has elsewhere than its family stays on the side where it said; the rest is on its part.
    assert (kept.places["belts"], kept.on_part.get("belts", "")) == ((0.5, 0.5, 1.0), "")
    assert kept.places["seat"] == now.model.places["seat"]
    with pytest.raises(BadFile, match="say on which part it is"):
        build_model(source, *known)
