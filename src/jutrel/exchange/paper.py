"""The record on paper: A4, with the drawing and the marks, readable in black and white."""

from __future__ import annotations

import io
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from xml.sax.saxutils import escape
from zoneinfo import ZoneInfo

import reportlab
from reportlab.graphics.shapes import Circle, Group, Polygon, PolyLine, Rect, String
from reportlab.graphics.shapes import Drawing as Canvas
from reportlab.lib import colors
from reportlab.lib.enums import TA_CENTER
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.platypus import Flowable, Image, KeepTogether, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from jutrel.core.machine.drawing import Drawing
from jutrel.core.machine.model import Model
from jutrel.exchange.record import Record

INK = colors.HexColor("#10333d")
SOFT = colors.HexColor("#5a6b70")
RULE = colors.HexColor("#c9c3b4")
WORDS = {
    "ready": "Ready",
    "ready-mends-due": "Ready, mends due",
    "limited": "Limited",
    "held": "Held",
    "incomplete": "Incomplete",
}
MOST_PHOTOS, MOST_NOTES, MOST_ITEMS = 60, 200, 80
"""On paper; the record's file has all."""
LETTERS = {"watch": "W", "mend": "M", "limit": "L", "hold": "H"}


def zone_name(zone: ZoneInfo, at: datetime) -> str:
    """A zone at a time as people say it: hours and minutes ahead of or behind UTC.

    >>> from datetime import UTC
    >>> zone_name(ZoneInfo("Etc/GMT-1"), datetime(2026, 5, 4, tzinfo=UTC))
    'UTC+1'
    """
    minutes = round((at.astimezone(zone).utcoffset() or timedelta()).total_seconds() / 60)
    if minutes == 0:
        return "UTC"
    hours, rest = divmod(abs(minutes), 60)
    return f"UTC{'+' if minutes > 0 else '−'}{hours}{f':{rest:02}' if rest else ''}"


def verdict_time(record: Record) -> datetime:
    """When a record's newest entry was made: what its zone is told for."""
    return max((e.heard_at for e in record.entries), default=datetime.now(UTC))


@dataclass(frozen=True, slots=True)
class Words:
    """What is read where the record holds ids: failure modes, what is observed, and its values by observation."""

    modes: Mapping[str, str] = field(default_factory=dict)
    observed: Mapping[str, str] = field(default_factory=dict)
    values: Mapping[tuple[str, str], str] = field(default_factory=dict)

    def told(self, key: str, value: object) -> str:
        """An observation with its value."""
        what = self.observed.get(key, key.replace("_", " ")).rstrip("?")
        if isinstance(value, bool):
            return f"{what}: {'yes' if value else 'no'}"
        return f"{what}: {self.values.get((key, str(value)), value)}"


NO_WORDS = Words()


def _fonts() -> None:
    folder = Path(reportlab.__file__).parent / "fonts"
    for name, file in (("Body", "Vera.ttf"), ("Bold", "VeraBd.ttf")):
        pdfmetrics.registerFont(TTFont(name, str(folder / file)))


def _style(name: str, size: float, **more: Any) -> ParagraphStyle:
    return ParagraphStyle(
        name, fontName=more.pop("font", "Body"), fontSize=size, leading=size * 1.35, textColor=INK, **more
    )


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
            style["fillColor"] = INK
            c = r * 0.48
            points = [
                x - c,
                y + r,
                x + c,
                y + r,
                x + r,
                y + c,
                x + r,
                y - c,
                x + c,
                y - r,
                x - c,
                y - r,
                x - r,
                y - c,
                x - r,
                y + c,
            ]
            group.add(Polygon(points, **style))
    ink = colors.white if grade == "hold" else INK
    group.add(
        String(
            x,
            y - r * 0.42,
            LETTERS.get(grade, "?"),
            fontName="Bold",
            fontSize=r * 1.2,
            fillColor=ink,
            textAnchor="middle",
        )
    )
    return group


def _plan(drawing: Drawing, model: Model, worst: Mapping[str, str], width: float) -> Canvas:
    x0, y0, x1, y1 = drawing.bounds
    margin = 0.5
    scale = width / (x1 - x0 + 2 * margin)
    height = (y1 - y0 + 2 * margin) * scale
    canvas = Canvas(width, height)

    def at(x: float, y: float) -> tuple[float, float]:
        return (x - x0 + margin) * scale, (y - y0 + margin) * scale

    for shape in drawing.shapes:
        flat = [c for p in shape.points for c in at(*p)]
        weight = {"hair": 0.25, "hidden": 0.4, "panel": 0.5}.get(shape.role, 0.9)
        dash = [2, 2] if shape.role == "hidden" else None
        if shape.closed:
            fill = colors.HexColor("#f1ede2") if shape.role in ("track", "tool") else colors.white
            canvas.add(
                Polygon(
                    flat,
                    fillColor=None if shape.role in ("panel", "hidden") else fill,
                    strokeColor=INK,
                    strokeWidth=weight,
                    strokeDashArray=dash,
                )
            )
        else:
            canvas.add(PolyLine(flat, strokeColor=INK, strokeWidth=weight, strokeDashArray=dash))
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


def _key() -> Canvas:
    canvas = Canvas(174 * mm, 14)
    x = 6.0
    for grade, word in (("watch", "Watch"), ("mend", "Mend"), ("limit", "Limit"), ("hold", "Hold")):
        canvas.add(mark_shape(grade, x, 7, 5))
        canvas.add(String(x + 10, 4, word, fontName="Body", fontSize=8, fillColor=INK))
        x += 62
    return canvas


def _text(value: object) -> str:
    return escape(str(value))


LONGEST_CELL = 240
"""Letters of a note that stand in a table; a row cannot go over a page, so longer ones stand below in full."""
GROUNDS = {
    "release": "Released",
    "own-slip": "Taken back by who reported it",
    "looked-again": "Looked at again and found sound",
    "put-right": "Put right",
}


def _short(note: str) -> str:
    return note if len(note) <= LONGEST_CELL else note[: LONGEST_CELL - 18] + "… (in full above)"


def _item_rows(
    item: Mapping[str, Any], zone: ZoneInfo, body: ParagraphStyle, inset: ParagraphStyle, words: Words
) -> list[Flowable]:
    """One thing in the verdict: its mark and name, then what was seen and the rules that spoke, which may be long."""
    due = f" · mend by {item['due_hour']:.0f} h" if item["due_hour"] is not None else ""
    since = datetime.fromisoformat(item["since"]).astimezone(zone)
    old = f" · open since {since:%d %b %Y}" if item["carried"] or item["reports"] > 1 else ""
    finding = item["finding"]
    mode = words.modes.get(finding["failure_mode"], finding["failure_mode"])
    title = Paragraph(f"<b>{_text(item['name'])}</b> · {_text(mode)}{due}{old}", body)
    mark = Canvas(14, 14)
    mark.add(mark_shape(item["grade"], 7, 7, 5.5))
    style = TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LINEABOVE", (0, 0), (-1, -1), 0.3, RULE)])
    rows: list[Flowable] = [Table([[mark, title]], colWidths=[9 * mm, 165 * mm], style=style)]
    seen = ", ".join(words.told(k, v) for k, v in finding["attributes"].items())
    right = finding.get("put_right")
    done = f"put right: {right['done']} {right['amount']}".strip() if right else ""
    if told := " · ".join(t for t in (seen, finding["note"], done) if t):
        rows.append(Paragraph(_text(told), inset))
    for t in item["trace"]:
        source = f"<font color='#5a6b70'>[{_text(t['rule'])} · {_text(t['source'])}]</font>"
        rows.append(Paragraph(f"{_text(t['says'])} {source}", inset))
    if item["first_action"]:
        rows.append(Paragraph("First: " + _text(item["first_action"]), inset))
    rows += [Paragraph(_text(note), inset) for note in item["safe_repair"]]
    return [KeepTogether(rows[:2]), *rows[2:]] if len(told) < 600 else rows


def record_pdf(
    record: Record, model: Model, drawing: Drawing, photos: dict[str, bytes], words: Words = NO_WORDS
) -> bytes:
    """The record as a PDF.

    Parameters
    ----------
    record : what happened and the verdict
    model, drawing : for the plan and the places of the marks
    photos : JPEG bytes by photo id; those that have not arrived are named, not shown
    """
    _fonts()
    body, small = _style("body", 9), _style("small", 7.5, spaceAfter=1)
    head, title = _style("head", 11, font="Bold", spaceBefore=8, spaceAfter=4), _style("title", 17, font="Bold")
    cell = _style("cell", 7.6)
    people = {p.id: p.name for p in record.people}
    names = {c.id: c.name for c in record.checkpoints}
    zone = ZoneInfo(record.site.zone)

    def when(at: datetime | None) -> str:
        return f"{at.astimezone(zone):%d %b %Y %H:%M}" if at else "-"

    out = io.BytesIO()
    verdict = record.verdict
    signature = next((e for e in reversed(record.entries) if e.kind == "signed"), None)
    word = WORDS[verdict.outcome.value]
    story: list[Flowable] = [
        Paragraph(f"{_text(record.machine.name)} · {_text(record.machine.family)}", title),
        Spacer(1, 3 * mm),
        Paragraph(
            f"<b>{_text(record.kind_name)}</b> · "
            f"{_text(record.machine.maker)} {_text(record.machine.model)} · hour meter {record.hour_meter:.1f} h · "
            f"{_text(record.site.name)} · times in {_text(zone_name(zone, verdict_time(record)))}",
            body,
        ),
        Spacer(1, 3 * mm),
        Table(
            [
                [
                    Paragraph(_text(word), _style("verdict", 18, font="Bold", alignment=TA_CENTER)),
                    Paragraph(_text(verdict.why), body),
                ]
            ],
            colWidths=[48 * mm, 126 * mm],
            style=TableStyle(
                [
                    ("BOX", (0, 0), (-1, -1), 1.4, INK),
                    ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
                    ("LINEAFTER", (0, 0), (0, 0), 0.6, INK),
                    ("TOPPADDING", (0, 0), (-1, -1), 7),
                    ("BOTTOMPADDING", (0, 0), (-1, -1), 9),
                ]
            ),
        ),
        Spacer(1, 2 * mm),
    ]
    if verdict.limits:
        story += [Paragraph("Limits", head), *(Paragraph("• " + _text(t), body) for t in verdict.limits)]
    worst = {c.id: c.grade for c in record.checkpoints if c.grade != "sound"}
    story += [Spacer(1, 2 * mm), _plan(drawing, model, worst, 174 * mm), Spacer(1, 1 * mm), _key()]
    if verdict.items:
        story.append(Paragraph("Findings", head))
    inset = _style("inset", 7.5, spaceAfter=1, leftIndent=9 * mm)
    # The worst stand first. Beyond what anybody reads through, each is named, with its grade.
    for item in verdict.items[:MOST_ITEMS]:
        story += _item_rows(item, zone, body, inset, words)
    rest = [f"{i['name']} ({i['grade']}: {i['finding']['failure_mode']})" for i in verdict.items[MOST_ITEMS:]]
    story += [Paragraph(_text("; ".join(rest[n : n + 40])), small) for n in range(0, len(rest), 40)]
    for line in verdict.combined:
        story.append(Paragraph(f"{_text(line['says'])} <font color='#5a6b70'>[{_text(line['rule'])}]</font>", small))
    for line in verdict.released:
        what = f"{_text(names.get(line['checkpoint'], ''))}, {_text(line['failure_mode'])}"
        by = _text(people.get(line["by"], line["by"]))
        story.append(Paragraph(f"{GROUNDS[line['ground']]}: {what}, by {by}. {_text(line['reason'])}", small))
    for line in verdict.ignored:
        what, by = _text(names.get(line["checkpoint"], "")), _text(people.get(line["by"], line["by"]))
        story.append(Paragraph(f"Does not count: what {by} answered at {what}. {_text(line['says'])}", small))
    if verdict.differ:
        listed = ", ".join(_text(names.get(c, c)) for c in verdict.differ)
        story.append(Paragraph(f"Two people answered differently: {listed}. The worse counts.", small))
    long = [(c.name, c.note) for c in record.checkpoints if len(c.note) > LONGEST_CELL]
    if long:
        story.append(Paragraph("Notes in full", head))
        story += [Paragraph(f"<b>{_text(name)}</b> {_text(note)}", small) for name, note in long]
    story += _photo_rows(record, photos, names, small, head)
    story += _notes(record, people, names, small, head)
    story.append(Paragraph("Every checkpoint", head))
    rows: list[list[Any]] = [["", "Checkpoint", "Answer", "By", "At", "Note"]]
    for c in record.checkpoints:
        mark = Canvas(12, 11)
        if c.grade != "sound":
            mark.add(mark_shape(c.grade, 6, 5.5, 4.4))
        answer = (
            {"sound": "sound", "defect": "DEFECT", "unseen": "NOT SEEN"}[c.answer.value]
            if c.answer
            else "not looked at"
        )
        rows.append(
            [
                mark,
                Paragraph(_text(c.name), cell),
                Paragraph(answer, cell),
                Paragraph(_text(people.get(c.by or "", "")), cell),
                Paragraph(f"{c.at.astimezone(zone):%H:%M}" if c.at else "", cell),
                Paragraph(_text(_short(c.note)), cell),
            ]
        )
    story.append(
        Table(
            rows,
            colWidths=[8 * mm, 56 * mm, 24 * mm, 30 * mm, 13 * mm, 43 * mm],
            repeatRows=1,
            style=TableStyle(
                [
                    ("FONT", (0, 0), (-1, 0), "Bold", 7.6),
                    ("TEXTCOLOR", (0, 0), (-1, -1), INK),
                    ("LINEBELOW", (0, 0), (-1, -1), 0.25, RULE),
                    ("TOPPADDING", (0, 0), (-1, -1), 1.5),
                    ("BOTTOMPADDING", (0, 0), (-1, -1), 2.5),
                    ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
                ]
            ),
        )
    )
    signed = "NOT SIGNED."
    if signature:
        signed = f"Signed by {people.get(signature.by, signature.by)} on {when(signature.at)}. "
        if verdict.valid_until is not None and verdict.outcome.value not in ("held", "incomplete"):
            signed += (
                f"Valid until {when(verdict.valid_until)} or {verdict.valid_until_hour or 0:.1f} h on the meter, "
                "change of operator, service, transport or an incident, whichever comes first."
            )
    if record.status.value == "amended":
        signed = "AMENDED AFTER SIGNING, not signed again. " + signed
    story += [
        KeepTogether(
            [
                Spacer(1, 5 * mm),
                Paragraph(_text(signed), _style("signed", 9.5, font="Bold")),
                Spacer(1, 2 * mm),
                Paragraph(_text(record.caution), small),
            ]
        )
    ]

    def foot(canvas: Any, document: Any) -> None:
        canvas.saveState()
        canvas.setFont("Body", 7)
        canvas.setFillColor(SOFT)
        canvas.drawString(
            18 * mm,
            10 * mm,
            f"{record.machine.name} · {record.inspection} · rulebook {verdict.rulebook}, regime {verdict.regime}",
        )
        canvas.drawRightString(192 * mm, 10 * mm, str(document.page))
        canvas.restoreState()

    SimpleDocTemplate(
        out,
        pagesize=A4,
        leftMargin=18 * mm,
        rightMargin=18 * mm,
        topMargin=15 * mm,
        bottomMargin=17 * mm,
        title=f"Inspection of {record.machine.name}",
        author=record.site.name,
    ).build(story, onFirstPage=foot, onLaterPages=foot)
    return out.getvalue()


def _notes(
    record: Record, people: dict[str, str], names: dict[str, str], small: ParagraphStyle, head: ParagraphStyle
) -> list[Flowable]:
    kept = set(record.notes)
    noted = [e for e in record.entries if e.id in kept]
    lines = [
        Paragraph(
            f"{_text(names.get(str(e.what.get('checkpoint', '')), ''))} {_text(e.what['text'])} · "
            f"{_text(people.get(e.by, e.by))}",
            small,
        )
        for e in noted[:MOST_NOTES]
    ]
    more = len(noted) - MOST_NOTES
    if more > 0:
        lines.append(Paragraph(f"{more} more notes belong to this record; its file has them all.", small))
    return [Paragraph("Notes", head), *lines] if lines else []


def _photo_rows(
    record: Record, photos: dict[str, bytes], names: dict[str, str], small: ParagraphStyle, head: ParagraphStyle
) -> list[Flowable]:
    if not record.photos:
        return []
    cells: list[list[Flowable]] = []
    shows: dict[str, list[str]] = {}
    for photo in record.photos:
        shows.setdefault(photo.id, []).append(names.get(photo.checkpoint, photo.checkpoint))
    # Each photo once, whatever it was taken for; so many that nobody leafs through them stay in the record file.
    for id_, places in list(shows.items())[:MOST_PHOTOS]:
        named = dict.fromkeys(places)
        caption = Paragraph(_text(", ".join(list(named)[:8]) + (" …" if len(named) > 8 else "")), small)
        if id_ in photos:
            picture = Image(io.BytesIO(photos[id_]), width=54 * mm, height=40 * mm, kind="proportional")
            cells.append([picture, caption])
        else:
            cells.append([Paragraph("photo has not arrived", small), caption])
    rows = [cells[i : i + 3] for i in range(0, len(cells), 3)]
    rows[-1] += [[Spacer(1, 1)] for _ in range(3 - len(rows[-1]))]
    more = len(shows) - MOST_PHOTOS
    rest = [Paragraph(f"{more} more photos belong to this record; its file names them all.", small)] if more > 0 else []
    return [Paragraph("Photos", head), Table(rows, colWidths=[58 * mm] * 3), *rest]
