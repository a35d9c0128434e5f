"""The record on paper: A4, with the drawing and the marks, readable in black and white."""

from __future__ import annotations

import io
from collections.abc import Callable, Mapping
from datetime import UTC, datetime
from typing import Any
from zoneinfo import ZoneInfo

from reportlab.graphics.shapes import Drawing as Canvas
from reportlab.lib import colors
from reportlab.lib.enums import TA_CENTER
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Image, KeepTogether, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from jutrel.core.defect.authority import SetAsideBy
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.verdict import OUTCOMES
from jutrel.core.inspection.finding import Answer
from jutrel.core.machine.drawing import Drawing
from jutrel.core.machine.model import Model
from jutrel.core.people import role_said
from jutrel.core.wording import ENGLISH, Number, Wording, as_written, say
from jutrel.exchange.drawn import INK, key, mark_shape, plan
from jutrel.exchange.lettering import in_order, inline, visible
from jutrel.exchange.press import NO_WORDS, WIDE, Press, RecordWords, bold, soft, style, zone_name
from jutrel.exchange.record import Record

SOFT = colors.HexColor("#5a6b70")
RULE = colors.HexColor("#c9c3b4")
MOST_PHOTOS, MOST_NOTES, MOST_ITEMS = 60, 200, 80
"""On paper; the record's file has all."""
LONGEST_CELL = 240
"""Letters of a note that stand in a table; a row cannot go over a page, so longer ones stand below in full."""
GROUNDS = {
    SetAsideBy.RELEASE: say("Released: {what}, by {who}."),
    SetAsideBy.OWN_SLIP: say("Taken back by who reported it: {what}, by {who}."),
    SetAsideBy.LOOKED_AGAIN: say("Looked at again and found sound: {what}, by {who}."),
    SetAsideBy.PUT_RIGHT: say("Put right: {what}, by {who}."),
}
ANSWERS = {
    Answer.SOUND: say("sound", context="answer"),
    Answer.DEFECT: say("DEFECT", context="answer"),
    Answer.UNSEEN: say("NOT SEEN", context="answer"),
}


def record_pdf(
    record: Record,
    model: Model,
    drawing: Drawing,
    photos: dict[str, bytes],
    words: RecordWords = NO_WORDS,
    wording: Wording = ENGLISH,
    read: str = "",
) -> bytes:
    """The record as a PDF.

    Parameters
    ----------
    record : what happened and the verdict, in the words of the reader's language
    model, drawing : for the plan and the places of the marks
    photos : JPEG bytes by photo id; those that have not arrived are named, not shown
    words : what is read where the record holds ids
    wording : the reader's language
    read : the verdict in the words that the signer read, if that was in another language
    """
    page = _Page(record, Press(wording, ZoneInfo(record.site.zone), words))
    press, verdict = page.press, record.verdict
    story = page.top()
    if verdict.limits:
        story += [page.heading("Limits"), *(press.p(f"• {t}", press.body) for t in verdict.limits)]
    worst = {c.id: c.grade for c in record.checkpoints if c.grade != "sound"}
    story += [Spacer(1, 2 * mm), plan(drawing, model, worst, WIDE), Spacer(1, 1 * mm), key(wording)]
    story += page.findings() + page.acts() + page.long_notes() + page.photos(photos) + page.notes()
    story += page.checkpoints() + page.took_part() + page.signature(read)
    out = io.BytesIO()
    SimpleDocTemplate(
        out,
        pagesize=A4,
        leftMargin=18 * mm,
        rightMargin=18 * mm,
        topMargin=15 * mm,
        bottomMargin=17 * mm,
        title=press.say("Inspection of {machine}", machine=record.machine.name),
        author=record.site.name,
        lang=wording.language,
    ).build(story, onFirstPage=page.foot, onLaterPages=page.foot)
    return out.getvalue()


class _Page:
    """The parts of one record's paper."""

    def __init__(self, record: Record, press: Press) -> None:
        self.record, self.press = record, press
        self.people = {p.id: p.name for p in record.people}
        self.names = {c.id: c.name for c in record.checkpoints}

    def heading(self, text: str) -> Paragraph:
        """A heading."""
        return self.press.p(self.press.said(HEADINGS[text]), self.press.head)

    def who(self, person: str | None) -> str:
        """A person's name."""
        return self.people.get(person or "", person or "")

    def top(self) -> list[Flowable]:
        """What was looked at, when, and the verdict in a box."""
        r, press = self.record, self.press
        newest = max((e.heard_at for e in r.entries), default=datetime.now(UTC))
        about = press.say(
            "{machine} · hour meter {hours} · {site} · times in {zone}",
            machine=f"{r.machine.maker} {r.machine.model}",
            hours=Number(r.hour_meter, 1, "h"),
            site=r.site.name,
            zone=zone_name(press.zone, newest),
        )
        word = press.p(press.said(OUTCOMES[r.verdict.outcome]), style("verdict", 18, font="Bold", alignment=TA_CENTER))
        box = [
            ("BOX", (0, 0), (-1, -1), 1.4, INK),
            ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
            ("LINEAFTER", (0, 0), (0, 0), 0.6, INK),
            ("TOPPADDING", (0, 0), (-1, -1), 7),
            ("BOTTOMPADDING", (0, 0), (-1, -1), 9),
        ]
        why = press.p(r.verdict.why, press.body, 122 * mm)
        return [
            press.p(f"{r.machine.name} · {r.machine.family}", press.title),
            Spacer(1, 3 * mm),
            press.parts(press.body, bold(r.kind_name), " · ", inline(about)),
            Spacer(1, 3 * mm),
            Table([[word, why]], colWidths=[52 * mm, 122 * mm], style=TableStyle(box)),
            Spacer(1, 2 * mm),
        ]

    def findings(self) -> list[Flowable]:
        """What counts, the worst first; beyond what anybody reads through each is named, with its grade."""
        items = self.record.verdict.items
        out: list[Flowable] = [self.heading("Findings")] if items else []
        for item in items[:MOST_ITEMS]:
            out += self._item(item)
        rest = [f"{i['name']} ({self._grade(i['grade'])}: {self._mode(i['finding'])})" for i in items[MOST_ITEMS:]]
        return out + [self.press.p("; ".join(rest[n : n + 40]), self.press.small) for n in range(0, len(rest), 40)]

    def _grade(self, word: str) -> str:
        return self.press.said(Grade.of(word).name_said)

    def _mode(self, finding: Mapping[str, Any]) -> str:
        return self.press.words.modes.get(finding["failure_mode"], finding["failure_mode"])

    def _item(self, item: Mapping[str, Any]) -> list[Flowable]:
        """One thing: its mark and name, then what was seen and the rules that spoke, which may be long."""
        press, finding = self.press, item["finding"]
        facts = [self._mode(finding)]
        if item["due_hour"] is not None:
            facts.append(press.say("mend by {hours}", hours=Number(item["due_hour"], 0, "h")))
        if item["carried"] or item["reports"] > 1:
            since = press.date(datetime.fromisoformat(item["since"]), "d MMM y")
            facts.append(press.say("open since {day}", day=since))
        title = press.parts(press.body, bold(item["name"]), *(f" · {inline(f)}" for f in facts))
        mark = Canvas(14, 14)
        mark.add(mark_shape(item["grade"], 7, 7, 5.5))
        ruled = TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LINEABOVE", (0, 0), (-1, -1), 0.3, RULE)])
        rows: list[Flowable] = [Table([[mark, title]], colWidths=[9 * mm, 165 * mm], style=ruled)]
        seen = ", ".join(press.words.told(k, v, press.wording) for k, v in finding["attributes"].items())
        right = finding.get("put_right")
        done = press.say("put right: {done}", done=f"{right['done']} {right['amount']}".strip()) if right else ""
        if told := " · ".join(t for t in (seen, item.get("says", ""), finding["note"], done) if t):
            rows.append(press.p(told, press.inset))
        for t in item["trace"]:
            rows.append(press.parts(press.inset, inline(t["says"]), " ", soft(f"[{t['rule']} · {t['source']}]")))
        if item["first_action"]:
            rows.append(press.p(press.say("First: {action}", action=item["first_action"]), press.inset))
        rows += [press.p(note, press.inset) for note in item["safe_repair"]]
        return [KeepTogether(rows[:2]), *rows[2:]] if len(told) < 600 else rows

    def acts(self) -> list[Flowable]:
        """What findings mean together, what was set aside by whom, what does not count, and who differ."""
        press, verdict = self.press, self.record.verdict
        out: list[Flowable] = []
        for line in verdict.combined:
            out.append(press.parts(press.small, inline(line["says"]), " ", soft(f"[{line['rule']}]")))
        for line in verdict.released:
            mode = press.words.modes.get(line["failure_mode"], line["failure_mode"])
            what = f"{self.names.get(line['checkpoint'], '')}, {mode}"
            told = press.say(GROUNDS[SetAsideBy(line["ground"])].text, what=what, who=self.who(line["by"]))
            out.append(press.p(f"{told} {line['reason']}", press.small))
        for line in verdict.ignored:
            told = press.say(
                "Does not count: what {who} answered at {what}. {why}",
                who=self.who(line["by"]),
                what=self.names.get(line["checkpoint"], ""),
                why=line["says"],
            )
            out.append(press.p(told, press.small))
        for line in verdict.readings:
            value = "" if line["value"] is None or not line["unit"] else f"{line['value']:.4g} {line['unit']}: "
            told = press.say("{what}, {reading}: {said}", what=line["name"], reading=line["title"],
                             said=f"{value}{line['judgement']['action']}")  # fmt: skip
            out.append(press.p(told, press.small))
        if verdict.differ:
            listed = ", ".join(self.names.get(c, c) for c in verdict.differ)
            told = press.say("Two people gave two answers: {names}. The worse one counts.", names=listed)
            out.append(press.p(told, press.small))
        return out

    def long_notes(self) -> list[Flowable]:
        """Notes that are too long for their row."""
        long = [(c.name, c.note) for c in self.record.checkpoints if len(c.note) > LONGEST_CELL]
        rows = [self.press.p(f"{name}: {note}", self.press.small) for name, note in long]
        return [self.heading("Notes in full"), *rows] if rows else []

    def notes(self) -> list[Flowable]:
        """Remarks that stand."""
        kept = set(self.record.notes)
        noted = [e for e in self.record.entries if e.id in kept]
        press, out = self.press, []
        for e in noted[:MOST_NOTES]:
            at = self.names.get(str(e.what.get("checkpoint", "")), "")
            out.append(press.p(f"{at} {e.what['text']} · {self.who(e.by)}".strip(), press.small))
        if (more := len(noted) - MOST_NOTES) > 0:
            told = press.say(
                "{n} more note belongs to this record; its file has them all.",
                many="{n} more notes belong to this record; its file has them all.",
                n=more,
            )
            out.append(press.p(told, press.small))
        return [self.heading("Notes"), *out] if out else []

    def photos(self, have: Mapping[str, bytes]) -> list[Flowable]:
        """Each photo once, whatever it was taken for; so many that nobody leafs through them stay in the file."""
        shows: dict[str, list[str]] = {}
        for photo in self.record.photos:
            shows.setdefault(photo.id, []).append(self.names.get(photo.checkpoint, photo.checkpoint))
        if not shows:
            return []
        press, cells = self.press, []
        for id_, places in list(shows.items())[:MOST_PHOTOS]:
            named = list(dict.fromkeys(places))
            caption = press.p(", ".join(named[:8]) + (" …" if len(named) > 8 else ""), press.small, 54 * mm)
            if id_ in have:
                picture = Image(io.BytesIO(have[id_]), width=54 * mm, height=40 * mm, kind="proportional")
                cells.append([picture, caption])
            else:
                cells.append([press.p(press.say("photo has not arrived"), press.small, 54 * mm), caption])
        rows: list[list[Any]] = [cells[i : i + 3] for i in range(0, len(cells), 3)]
        rows[-1] += [[Spacer(1, 1)] for _ in range(3 - len(rows[-1]))]
        out: list[Flowable] = [self.heading("Photos"), Table(rows, colWidths=[58 * mm] * 3)]
        if (more := len(shows) - MOST_PHOTOS) > 0:
            told = press.say(
                "{n} more photo belongs to this record; its file names them all.",
                many="{n} more photos belong to this record; its file names them all.",
                n=more,
            )
            out.append(press.p(told, press.small))
        return out

    def checkpoints(self) -> list[Flowable]:
        """Every checkpoint in a row."""
        press = self.press
        widths = [8 * mm, 56 * mm, 26 * mm, 30 * mm, 13 * mm, 41 * mm]
        head = style("row head", 7.6, font="Bold")
        columns = [press.said(c) for c in COLUMNS]
        rows: list[list[Any]] = [["", *(press.p(c, head, w) for c, w in zip(columns, widths[1:], strict=True))]]
        for c in self.record.checkpoints:
            mark = Canvas(12, 11)
            if c.grade != "sound":
                mark.add(mark_shape(c.grade, 6, 5.5, 4.4))
            answer = press.said(ANSWERS[c.answer]) if c.answer else press.say("not looked at")
            told = [c.name, answer, self.who(c.by), press.date(c.at, "HH:mm") if c.at else "", self._short(c.note)]
            cells = [press.p(t, press.cell, w - 4 * mm) for t, w in zip(told, widths[1:], strict=True)]
            rows.append([mark, *cells])
        lined = [
            ("LINEBELOW", (0, 0), (-1, -1), 0.25, RULE),
            ("TOPPADDING", (0, 0), (-1, -1), 1.5),
            ("BOTTOMPADDING", (0, 0), (-1, -1), 2.5),
            ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
        ]
        return [
            self.heading("Every checkpoint"),
            Table(rows, colWidths=widths, repeatRows=1, style=TableStyle(lined)),
        ]

    def took_part(self) -> list[Flowable]:
        """Who wrote in this look, each name in a line of its own: so every viewer's search finds it, in any script."""
        press = self.press
        wrote = {e.by for e in self.record.entries}
        rows: list[Flowable] = []
        for person in self.record.people:
            if person.id in wrote:
                rows += [press.p(person.name, press.body), press.p(press.said(role_said(person.role)), press.small)]
        return [KeepTogether([self.heading("People"), *rows])] if rows else []

    def _short(self, note: str) -> str:
        if len(note) <= LONGEST_CELL:
            return note
        return note[: LONGEST_CELL - 18] + self.press.say("… (in full above)")

    def signature(self, read: str) -> list[Flowable]:
        """Who stands by it, what they read, until when it holds, and what comes before it."""
        r, press = self.record, self.press
        signed = next((e for e in reversed(r.entries) if e.kind == "signed"), None)
        told = [press.say("NOT SIGNED.")]
        if signed is not None:
            name = self.who(signed.by)
            told = [press.say("Signed by {name} on {when}.", name=name, when=press.date(signed.at))]
            v = r.verdict
            if v.valid_until is not None and v.outcome.value not in ("held", "incomplete"):
                told.append(
                    press.say(
                        "Valid until {when} or {hours} on the meter. A new operator, service, transport or an "
                        "incident ends it sooner.",
                        when=press.date(v.valid_until),
                        hours=Number(v.valid_until_hour or 0, 1, "h"),
                    )
                )
        if r.status.value == "amended":
            told.insert(0, press.say("AMENDED AFTER SIGNING, not signed again."))
        rows: list[Flowable] = [Spacer(1, 5 * mm), press.p(" ".join(told), style("signed", 9.5, font="Bold"))]
        if read:
            words = press.say("In the words that were read when it was signed: {words}", words=as_written(read))
            rows.append(press.p(words, press.small))
        return [KeepTogether([*rows, Spacer(1, 2 * mm), press.p(r.caution, press.small)])]

    @property
    def foot(self) -> Callable[[Any, Any], None]:
        """The foot of each page."""
        r, press = self.record, self.press
        book = press.say("rulebook {version}, regime {regime}", version=r.verdict.rulebook, regime=r.verdict.regime)
        told = in_order(visible(f"{r.machine.name} · {r.inspection} · {book}"), "L")

        def draw(canvas: Any, document: Any) -> None:
            canvas.saveState()
            canvas.setFont("Body", 7)
            canvas.setFillColor(SOFT)
            canvas.drawString(18 * mm, 10 * mm, told)
            canvas.drawRightString(192 * mm, 10 * mm, str(document.page))
            canvas.restoreState()

        return draw


HEADINGS = {
    "Limits": say("Limits"),
    "Findings": say("Findings"),
    "Notes in full": say("Notes in full"),
    "Notes": say("Notes"),
    "Photos": say("Photos"),
    "People": say("People"),
    "Every checkpoint": say("Every checkpoint"),
}
COLUMNS = (
    say("Checkpoint", context="column"),
    say("Answer", context="column"),
    say("By", context="column"),
    say("At", context="column"),
    say("Note", context="column"),
)
