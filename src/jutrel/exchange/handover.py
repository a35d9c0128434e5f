"""A hand-over on paper: A4, what the next operator and the mechanic are to know, readable in black and white."""

from __future__ import annotations

import io
from collections.abc import Callable
from typing import Any
from zoneinfo import ZoneInfo

from reportlab.graphics.shapes import Drawing as Canvas
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, KeepTogether, SimpleDocTemplate, Spacer, Table, TableStyle

from jutrel.core.machine.drawing import plan_drawing
from jutrel.core.machine.model import Model
from jutrel.core.wording import Number, Wording, say
from jutrel.exchange.drawn import INK, key, mark_shape, plan
from jutrel.exchange.lettering import in_order, visible
from jutrel.exchange.press import NO_WORDS, WIDE, Press, style, zone_name
from jutrel.exchange.sheet import HandOver

HEADINGS = {
    "note": say("From hand to hand"),
    "lines": say("From this run"),
    "open": say("Open on this machine"),
    "counted": say("Counted"),
    "schools": say("How it is done here"),
}


def handover_pdf(told: HandOver, model: Model, wording: Wording) -> bytes:
    """A hand-over as a PDF: what is urgent first, then the note, what is open with its mark on the plan, the figures.

    Parameters
    ----------
    told : in the words of the reader's language
    model : for the plan and the places of the marks
    wording : the reader's language
    """
    press = Press(wording, ZoneInfo(told.zone), NO_WORDS)
    page = _Sheet(told, press)
    story = page.top()
    urgent = [line for line, is_urgent in told.lines if is_urgent]
    if urgent:
        box = TableStyle([("BOX", (0, 0), (-1, -1), 1.6, INK), ("TOPPADDING", (0, 0), (-1, -1), 5)])
        cell = [press.p(line, style("urgent", 10.5, font="Bold"), 166 * mm) for line in urgent]
        story += [Table([[c] for c in cell], colWidths=[WIDE], style=box), Spacer(1, 3 * mm)]
    if told.note.strip():
        story += [page.heading("note"), *(press.p(x, press.body) for x in told.note.splitlines() if x.strip())]
    story += page.listed("lines", [line for line, is_urgent in told.lines if not is_urgent])
    story += page.open(model)
    story += page.listed("counted", told.counted) + page.listed("schools", told.schools)
    story += [Spacer(1, 4 * mm), press.p(told.caution, press.small)]
    out = io.BytesIO()
    SimpleDocTemplate(
        out,
        pagesize=A4,
        leftMargin=18 * mm,
        rightMargin=18 * mm,
        topMargin=15 * mm,
        bottomMargin=17 * mm,
        title=press.say("Hand-over of {machine}", machine=told.machine),
        author=told.site,
        lang=wording.language,
    ).build(story, onFirstPage=page.foot, onLaterPages=page.foot)
    return out.getvalue()


class _Sheet:
    """The parts of one hand-over's paper."""

    def __init__(self, told: HandOver, press: Press) -> None:
        self.told, self.press = told, press

    def heading(self, name: str) -> Flowable:
        """A heading."""
        return self.press.p(self.press.said(HEADINGS[name]), self.press.head)

    def top(self) -> list[Flowable]:
        """Which machine, whose run, from when to when."""
        t, press = self.told, self.press
        who = press.say(
            "{by} · begun {begun} · handed over {handed} · hour meter {hours}",
            by=t.by,
            begun=press.date(t.begun),
            handed=press.date(t.handed),
            hours=Number(t.meter, 1, "h"),
        )
        where = press.say("{site} · times in {zone}", site=t.site, zone=zone_name(press.zone, t.begun))
        return [
            press.p(f"{t.machine} · {t.family}", press.title),
            Spacer(1, 2 * mm),
            press.p(t.stand, style("stand", 12, font="Bold")),
            press.p(who, press.body),
            press.p(where, press.small),
            Spacer(1, 3 * mm),
        ]

    def listed(self, name: str, lines: tuple[str, ...] | list[str]) -> list[Flowable]:
        """Lines under their heading; nothing where there are none."""
        rows = [self.press.p(f"• {line}", self.press.body) for line in lines]
        return [KeepTogether([self.heading(name), *rows[:1]]), *rows[1:]] if rows else []

    def open(self, model: Model) -> list[Flowable]:
        """What is open, each with its mark, and where it is on the machine."""
        press, rows = self.press, list[list[Any]]()
        worst: dict[str, str] = {}
        for o in self.told.open:
            mark = Canvas(14, 14)
            mark.add(mark_shape(o.grade, 7, 7, 5.5))
            rows.append([mark, press.p(o.says, press.body, 160 * mm)])
            if o.at in model.places:
                worst.setdefault(o.at, o.grade)
        if not rows:
            return [self.heading("open"), press.p(press.say("Nothing is open."), press.body)]
        table = Table(rows, colWidths=[9 * mm, 165 * mm], style=TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP")]))
        drawn = plan(plan_drawing(model), model, worst, WIDE)
        return [self.heading("open"), table, KeepTogether([Spacer(1, 2 * mm), drawn, key(press.wording)])]

    @property
    def foot(self) -> Callable[[Any, Any], None]:
        """The foot of each page."""
        told = in_order(visible(f"{self.told.machine} · {self.told.run}"), "L")

        def draw(canvas: Any, document: Any) -> None:
            canvas.saveState()
            canvas.setFont("Body", 7)
            canvas.drawString(18 * mm, 10 * mm, told)
            canvas.drawRightString(192 * mm, 10 * mm, str(document.page))
            canvas.restoreState()

        return draw
