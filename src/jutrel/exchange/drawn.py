"""What is drawn on paper: the marks of the grades, their key, and the machine from above with the marks in place."""

from __future__ import annotations

from collections.abc import Mapping

from reportlab.graphics.shapes import Circle, Group, Polygon, PolyLine, Rect, String
from reportlab.graphics.shapes import Drawing as Canvas
from reportlab.lib import colors
from reportlab.lib.units import mm
from reportlab.pdfbase.pdfmetrics import stringWidth

from jutrel.core.grading.grade import Grade
from jutrel.core.machine.drawing import Drawing
from jutrel.core.machine.model import Model
from jutrel.core.wording import Wording
from jutrel.exchange.lettering import in_order, visible

INK = colors.HexColor("#10333d")
LETTERS = {"watch": "W", "mend": "M", "limit": "L", "hold": "H"}


def mark_shape(grade: str, x: float, y: float, r: float) -> Group:
    """The mark of a grade: letter and shape, the same on screen and paper, legible in black."""
    group = Group()
    style = {"fillColor": colors.white, "strokeColor": INK, "strokeWidth": 0.9}
    match grade:
        case "watch":
            group.add(Circle(x, y, r, **style))
        case "mend":
            group.add(Rect(x - r * 0.9, y - r * 0.9, r * 1.8, r * 1.8, **style))
        case "limit":
            group.add(Polygon([x, y + r * 1.25, x + r * 1.25, y, x, y - r * 1.25, x - r * 1.25, y], **style))
        case _:
            c = r * 0.48
            corners = [(-c, r), (c, r), (r, c), (r, -c), (c, -r), (-c, -r), (-r, -c), (-r, c)]
            style["fillColor"] = INK
            group.add(Polygon([n for dx, dy in corners for n in (x + dx, y + dy)], **style))
    ink = colors.white if grade == "hold" else INK
    letter = LETTERS.get(grade, "?")
    size = r * 1.2
    group.add(String(x, y - r * 0.42, letter, fontName="Bold", fontSize=size, fillColor=ink, textAnchor="middle"))
    return group


def plan(drawing: Drawing, model: Model, worst: Mapping[str, str], width: float) -> Canvas:
    """The machine from above to scale, with the worst mark at each checkpoint that has one."""
    x0, y0, x1, y1 = drawing.bounds
    margin = 0.5
    scale = width / (x1 - x0 + 2 * margin)
    canvas = Canvas(width, (y1 - y0 + 2 * margin) * scale)

    def at(x: float, y: float) -> tuple[float, float]:
        return (x - x0 + margin) * scale, (y - y0 + margin) * scale

    for shape in drawing.shapes:
        flat = [c for p in shape.points for c in at(*p)]
        style = {
            "strokeColor": INK,
            "strokeWidth": {"hair": 0.25, "hidden": 0.4, "panel": 0.5}.get(shape.role, 0.9),
            "strokeDashArray": [2, 2] if shape.role == "hidden" else None,
        }
        if shape.closed:
            fill = colors.HexColor("#f1ede2") if shape.role in ("track", "tool") else colors.white
            canvas.add(Polygon(flat, fillColor=None if shape.role in ("panel", "hidden") else fill, **style))
        else:
            canvas.add(PolyLine(flat, **style))
    taken: list[tuple[float, float]] = []
    for checkpoint, grade in worst.items():
        px, py = at(*model.places[checkpoint][:2])
        while any(abs(px - tx) < 11 and abs(py - ty) < 11 for tx, ty in taken):
            py -= 11.5
        taken.append((px, py))
        canvas.add(mark_shape(grade, px, py, 5))
    canvas.add(PolyLine([4, 6, 4 + 2 * scale, 6], strokeColor=INK, strokeWidth=0.8))
    canvas.add(String(4 + scale, 9, "2 m", fontName="Body", fontSize=7, fillColor=INK, textAnchor="middle"))
    return canvas


def key(wording: Wording) -> Canvas:
    """The four marks with their names."""
    canvas = Canvas(174 * mm, 14)
    x = 6.0
    for grade in (Grade.WATCH, Grade.MEND, Grade.LIMIT, Grade.HOLD):
        word = in_order(visible(wording.say(grade.name_said)), "L")
        canvas.add(mark_shape(grade.word, x, 7, 5))
        canvas.add(String(x + 10, 4, word, fontName="Body", fontSize=8, fillColor=INK))
        x += 34 + stringWidth(word, "Body", 8)
    return canvas
