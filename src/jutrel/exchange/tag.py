"""The tag of a defect: A6, hung where nobody can start the machine without seeing it."""

from __future__ import annotations

import io
from dataclasses import dataclass

from reportlab.graphics import renderPDF
from reportlab.graphics.shapes import Drawing
from reportlab.lib.colors import black
from reportlab.lib.pagesizes import A6
from reportlab.lib.units import mm
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.pdfgen.canvas import Canvas

from jutrel.core.grading.grade import Grade
from jutrel.core.wording import ENGLISH, Said, Wording, say
from jutrel.exchange.drawn import mark_shape
from jutrel.exchange.label import code_drawing
from jutrel.exchange.lettering import fonts, in_order, visible

HEADS = {
    Grade.HOLD: say("DO NOT START"),
    Grade.LIMIT: say("ONLY WITHIN ITS LIMITS"),
    Grade.MEND: say("TO BE MENDED"),
    Grade.WATCH: say("LOOK AGAIN"),
}


@dataclass(frozen=True, slots=True)
class Tag:
    """What a tag says; `since` and `printed` as they are read, in the site's time."""

    machine: str
    site: str
    grade: Grade
    place: str
    failure: str
    why: Said
    note: str
    by: str
    since: str
    printed: str
    address: str


def tag_pdf(tag: Tag, wording: Wording = ENGLISH) -> bytes:
    """A tag, A6 upright: what must not be done, the machine, what is wrong, by whom, and a code to the defect."""
    out = io.BytesIO()
    fonts()
    canvas = Canvas(out, pagesize=A6)
    width, height = A6
    left, room = 8 * mm, width - 16 * mm
    canvas.setTitle(wording.say(say("Tag {name}", name=tag.machine)))
    canvas.setLineWidth(2.4)
    canvas.rect(4 * mm, 4 * mm, width - 8 * mm, height - 8 * mm)
    canvas.circle(width / 2, height - 10 * mm, 3 * mm)  # punched for the string
    y = height - 24 * mm
    mark = Drawing(16 * mm, 16 * mm)
    mark.add(mark_shape(tag.grade.word, 8 * mm, 8 * mm, 6.4 * mm))
    renderPDF.draw(mark, canvas, left, y - 6 * mm)
    _fit(canvas, wording.say(HEADS.get(tag.grade, HEADS[Grade.WATCH])), left + 19 * mm, y, room - 19 * mm, 20.0)
    y -= 15 * mm
    y = _fit(canvas, tag.machine, left, y, room, 30.0) - 8 * mm
    y = _paragraph(canvas, "Bold", 12.0, f"{tag.place}: {tag.failure}", left, y, room, 3)
    y = _paragraph(canvas, "Body", 10.0, wording.say(tag.why), left, y - 1 * mm, room, 5)
    if tag.note:
        y = _paragraph(canvas, "Body", 10.0, f"“{tag.note}”", left, y - 1 * mm, room, 3)
    side = 34 * mm
    renderPDF.draw(code_drawing(tag.address, side), canvas, width - 8 * mm - side, 8 * mm)
    low = 36 * mm
    for line in (
        wording.say(say("Reported by {who}", who=tag.by)),
        tag.since,
        tag.site,
        wording.say(say("Printed {at}", at=tag.printed)),
        wording.say(say("Only who repaired it and who checked it take this tag off.")),
    ):
        low = _paragraph(canvas, "Body", 8.5, line, left, low, room - side - 3 * mm, 3)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def _fit(canvas: Canvas, text: str, x: float, y: float, room: float, size: float) -> float:
    shown = in_order(visible(text), "L")
    while size > 8 and stringWidth(shown, "Bold", size) > room:
        size -= 0.5
    canvas.setFillColor(black)
    canvas.setFont("Bold", size)
    canvas.drawString(x, y, shown)
    return y


def _paragraph(canvas: Canvas, font: str, size: float, text: str, x: float, y: float, room: float, most: int) -> float:
    """Lines of a text from `y` down, at most so many; where the next one goes."""
    lines = [""]
    for word in visible(text).split():
        longer = f"{lines[-1]} {word}".strip()
        if stringWidth(longer, font, size) <= room or not lines[-1]:
            lines[-1] = longer
        else:
            lines.append(word)
    if len(lines) > most:
        lines = [*lines[: most - 1], lines[most - 1] + " …"]
    canvas.setFont(font, size)
    for line in lines:
        canvas.drawString(x, y, in_order(line, "L"))
        y -= size * 1.25
    return y
