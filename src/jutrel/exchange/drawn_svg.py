"""A machine's drawing as an SVG file, with the places of a walk by name: to lay a model out, and to check it."""

from __future__ import annotations

from collections.abc import Mapping
from xml.sax.saxutils import escape

from jutrel.core.machine.drawing import plan_drawing, side_drawing
from jutrel.core.machine.model import Model, Place
from jutrel.core.wording import Wording

INK, FOUND = "#10333d", "#b4430f"
FILLS = {"track": "#e8e2d2", "tool": "#e8e2d2", "body": "#f3efe6", "steel": "#dfe7e9", "cab": "#ffffff"}
STROKES = {"hair": 0.008, "panel": 0.014, "hidden": 0.014, "ground": 0.04}
MARGIN_M = 0.7
VIEWS = ("above", "left", "right")


def drawing_svg(model: Model, view: str, names: Mapping[str, str]) -> str:
    """One view of a model in metres, with the checkpoints of `names` where they are, in words.

    `view`: above, left or right. From a side only what is on that side of the middle line is named.
    """
    drawing = plan_drawing(model) if view == "above" else side_drawing(model, view)
    x0, y0, x1, y1 = drawing.bounds
    box = (x0 - MARGIN_M, -y1 - MARGIN_M, x1 - x0 + 2 * MARGIN_M, y1 - y0 + 2 * MARGIN_M)
    out = [f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{" ".join(f"{v:.3f}" for v in box)}" width="1400">']
    for s in drawing.shapes:
        path = "M" + "L".join(f"{x:.3f} {-y:.3f}" for x, y in s.points) + ("Z" if s.closed else "")
        dash = ' stroke-dasharray=".06 .06"' if s.role == "hidden" else ""
        fill = FILLS.get(s.role, "none") if s.closed else "none"
        out.append(f'<path d="{path}" fill="{fill}" stroke="{INK}" stroke-width="{STROKES.get(s.role, 0.022)}"{dash}/>')
    for checkpoint, name in names.items():
        if (at := _seen(model.places[checkpoint], view)) is not None:
            x, y = at
            out.append(
                f'<g id="{checkpoint}"><circle cx="{x:.3f}" cy="{-y:.3f}" r=".05" fill="{FOUND}"/>'
                f'<text x="{x + 0.07:.3f}" y="{-y + 0.04:.3f}" font-size=".12" font-family="sans-serif" fill="{FOUND}">'
                f"{escape(name)}</text></g>"
            )
    return "".join([*out, "</svg>\n"])


def _seen(place: Place, view: str) -> tuple[float, float] | None:
    x, y, z = place
    match view:
        case "above":
            return x, y
        case "left":
            return (-x, z) if y >= 0 else None
        case _:
            return (x, z) if y <= 0 else None


def checkpoint_names(model: Model, station: str, wording: Wording) -> dict[str, str]:
    """The checkpoints of a model with everything it can have, at one station or, with none named, at all."""
    return {
        c.id: wording.word("checkpoint", c.name)
        for c in model.family.checkpoints
        if c.id in model.places and station in ("", model.moved.get(c.id, c.station))
    }
