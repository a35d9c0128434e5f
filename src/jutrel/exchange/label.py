"""A machine's label: its name and a code that opens its walk, to be stuck beside the cab steps."""

from __future__ import annotations

import io

import segno
from reportlab.graphics import renderPDF
from reportlab.graphics.shapes import Drawing, Rect
from reportlab.lib.colors import black, white
from reportlab.lib.units import mm
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.pdfgen.canvas import Canvas

from jutrel.core.wording import ENGLISH, Wording, say
from jutrel.exchange.lettering import fonts, in_order, visible

WIDTH, HEIGHT = 100 * mm, 62 * mm
QUIET = 4
"""Modules of white that the code needs round it (ISO/IEC 18004)."""


def label_code(address: str) -> segno.QRCode:
    """The code of a walk's address, with a quarter of it allowed to be scratched."""
    return segno.make(address, error="q", micro=False)


def label_svg(address: str) -> str:
    """The code as a picture for the screen."""
    out = io.BytesIO()
    label_code(address).save(out, kind="svg", border=QUIET, dark="#000", light="#fff", scale=6)
    return out.getvalue().decode()


def code_drawing(address: str, side: float) -> Drawing:
    matrix = [list(row) for row in label_code(address).matrix]
    step = side / (len(matrix) + 2 * QUIET)
    drawing = Drawing(side, side)
    for y, row in enumerate(matrix):
        for x, dark in enumerate(row):
            if dark:
                at = ((x + QUIET) * step, side - (y + QUIET + 1) * step)
                drawing.add(Rect(*at, step, step, fillColor=black, strokeColor=None, strokeWidth=0))
    return drawing


def label_pdf(name: str, model: str, site: str, address: str, wording: Wording = ENGLISH) -> bytes:
    """A label of 100 by 62 mm: the code on the left, in words on the right what it opens."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(WIDTH, HEIGHT))
    fonts()
    canvas.setTitle(wording.say(say("Label {name}", name=name)))
    canvas.setFillColor(white)
    canvas.rect(0, 0, WIDTH, HEIGHT, stroke=0, fill=1)
    renderPDF.draw(code_drawing(address, 54 * mm), canvas, 3 * mm, 4 * mm)
    canvas.setFillColor(black)
    left, room = 59 * mm, WIDTH - 62 * mm
    size = 30.0
    shown = in_order(visible(name), "L")
    while size > 9 and stringWidth(shown, "Bold", size) > room:
        size -= 0.5
    canvas.setFont("Bold", size)
    canvas.drawString(left, 44 * mm, shown)
    canvas.setFont("Body", 8.5)
    y = 36 * mm
    how = wording.say(say("Point the camera here to walk round it."))
    for line in (model, *_lines(site, room), "", *_lines(how, room)):
        canvas.drawString(left, y, in_order(line, "L"))
        y -= 4.2 * mm
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def _lines(text: str, room: float) -> list[str]:
    lines = [""]
    for word in visible(text).split():
        longer = f"{lines[-1]} {word}".strip()
        if stringWidth(longer, "Body", 8.5) <= room:
            lines[-1] = longer
        else:
            lines.append(word)
    return [line for line in lines if line][:3]
