"""Routes: what is open on all machines, its tag, its list, and what mechanic and supervisor do about it."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import AsyncIterator, Mapping
from datetime import datetime
from typing import Annotated, Literal
from zoneinfo import ZoneInfo

from babel.dates import format_datetime
from fastapi import APIRouter, Path, Query, Request, Response
from fastapi.responses import StreamingResponse
from pydantic import Field

from jutrel.api.door import PROBLEMS, Who, Work, public_address, shop_of
from jutrel.api.inspection.wire_verdict import FindingOut, TraceOut
from jutrel.api.language import Tongue
from jutrel.api.wire import NO_NUL, GradeWord, In, Out, PickOut, Slug, Uuid7
from jutrel.core.defect.kinds import Accepted, Acknowledged, Asked, AskedOf, Isolated, Rechecked, Released
from jutrel.core.defect.life import DefectStage, may_ask
from jutrel.core.errors import BadInput
from jutrel.core.log.codec import encode, time_of
from jutrel.core.log.entry import Entry
from jutrel.core.log.kinds import kind_of
from jutrel.core.people import Role
from jutrel.core.wording import Wording, spoken
from jutrel.service.context import Here
from jutrel.service.defect.defects import Act, acceptance_holds, act, done_before, left_of, one_defect
from jutrel.service.defect.open_defects import (
    PAGE,
    Cursor,
    DefectPage,
    OpenDefect,
    Picked,
    page_of_defects,
    sums_of_defects,
    what_defects_are_of,
)
from jutrel.service.machine.find import unit_of
from jutrel.service.people.people import Actor, names_of

router = APIRouter(prefix="/api", tags=["defects"], responses=PROBLEMS)
HEADS = (
    *("machine", "name", "place", "failure", "grade", "stage", "since", "by", "reports"),
    *("due_hour", "due_earliest", "due_likely", "due_latest", "why", "note"),
)
ID = r"^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}\.[0-9]{1,3}$"
Id = Annotated[str, Path(pattern=ID)]
Words = Annotated[str, Field(pattern=NO_NUL, max_length=2000)]


class StepOut(Out):
    """Something that was done about a defect."""

    kind: str
    at: datetime
    by: str
    says: str
    of: AskedOf | None = Field(description="Who was asked.")


class DueOut(Out):
    """When it is due by the meter, and between which dates the machine will most likely get there."""

    hour: float = Field(description="Hours on the meter as it shows.")
    likely: datetime | None
    earliest: datetime | None
    latest: datetime | None


class LoweredOut(Out):
    """A correction of hours by which something was overdue no more: what the meter stood at, and what it says now."""

    by: str
    at: datetime
    shown: float
    now: float
    why: str


class OpenDefectOut(Out):
    """A defect: what, where, how bad, how far."""

    id: str
    machine: str
    machine_name: str
    checkpoint: str
    place: str
    failure: str
    duty: str
    duty_id: str
    finding: FindingOut
    grade: GradeWord
    why: str
    trace: list[TraceOut]
    limits: list[str]
    first_action: str
    safe_repair: list[str]
    energies: list[str]
    since: datetime
    by: str
    reports: int
    shifts: int
    stage: DefectStage
    steps: list[StepOut]
    due: DueOut | None
    lowered: LoweredOut | None
    accepted_by: str
    release: str = Field(description="The entry that waits for another person's check; empty: none does.")
    released_by: str
    photos: list[str]
    entries: list[str] = Field(description="The reports that are open: who acts on it names those that were seen.")
    may: list[str] = Field(description="What the person who asks may do about it now.")
    may_ask: list[AskedOf] = Field(description="Whom they may ask for what they may not do.")
    asked: list[AskedOf] = Field(description="Who was asked and has done nothing about it since.")


class DefectsOut(Out):
    """A page of what is open, worst first; `after` asks for the next, null: there is none.

    `count`, `holds`: how many are open on the site, and how many machines one of them holds; `machines`, `duties`: what
    the list can be picked by. These come with the first page.
    """

    defects: list[OpenDefectOut]
    after: str | None
    count: int | None = None
    holds: int | None = None
    machines: list[PickOut] = Field(default=[])
    duties: list[PickOut] = Field(default=[])


class ActIn(In):
    """What somebody did about a defect. The id is made by the client: sent twice it is one."""

    id: Uuid7
    kind: Literal["acknowledged", "asked", "accepted", "isolated", "released", "rechecked"]
    note: Words = ""
    energies: list[Slug] = Field(default=[], max_length=12)
    parts: str = Field(default="", pattern=NO_NUL, max_length=400)
    seen: list[Uuid7] = Field(max_length=400, description="The reports that the page showed when it was decided.")
    role: AskedOf | None = Field(default=None, description="For a request: of whom it is asked.")
    release: str = Field(
        default="", pattern=NO_NUL, max_length=60, description="For a check: the repair that the page showed."
    )


def _may(d: OpenDefect, role: Role, person: str, accepted: bool) -> list[str]:
    grade = d.item.grade.word
    may = []
    if role in (Role.SUPERVISOR, Role.MECHANIC) and d.life.stage is DefectStage.REPORTED:
        may.append("acknowledged")
    if role is Role.SUPERVISOR and grade == "limit" and not accepted:
        may.append("accepted")
    if role is Role.MECHANIC and not d.defect.pending_by:
        may += ["isolated", "released"]
    if d.defect.pending_by and d.defect.pending_by != person and role in kind_of(Rechecked("")).roles:
        may.append("rechecked")
    return may


def _step(entry: Entry, names: Mapping[str, str]) -> StepOut:
    what = entry.what
    told = getattr(what, "note", "") or getattr(what, "reason", "") or getattr(what, "how", "")
    done, parts = getattr(what, "done", ""), getattr(what, "parts", "")
    says = "; ".join(x for x in (told, done, parts) if x)
    of = what.role if isinstance(what, Asked) else None
    return StepOut(kind=kind_of(what).name, at=entry.time, by=names.get(entry.by, "?"), says=says, of=of)


def _lowered(d: OpenDefect, names: Mapping[str, str]) -> LoweredOut | None:
    w = d.lowered
    if w is None:
        return None
    before, after = (round(h - d.unit.offset, 1) for h in (w.before, w.after))
    return LoweredOut(by=names.get(w.by, "?"), at=w.at, shown=before, now=after, why=w.reason)


def defect_out(d: OpenDefect, here: Here, names: Mapping[str, str], who: Actor, w: Wording) -> OpenDefectOut:
    """A defect as the person who asks sees it."""
    book = here.catalog.rulebook
    mode, item = book.modes.get(d.defect.key[1]), spoken(d.item, w)
    due = None
    if d.item.due_hour is not None:
        hour = round(d.item.due_hour - d.unit.offset, 1)
        when = d.due
        due = DueOut(
            hour=hour,
            likely=when.likely if when else None,
            earliest=when.earliest if when else None,
            latest=when.latest if when else None,
        )
    duty = book.duties.get(d.duty)
    accepted = acceptance_holds(here, d.defect)
    return OpenDefectOut(
        id=d.defect.id,
        machine=d.unit.id,
        machine_name=d.unit.name,
        checkpoint=d.item.checkpoint,
        place=item["name"],
        failure=w.word("failure", mode.name) if mode else d.defect.key[1],
        duty=w.word("duty", duty.name) if duty else "",
        duty_id=d.duty,
        finding=FindingOut.model_validate(encode(d.defect.latest.finding)),
        grade=d.item.grade.word,  # type: ignore[arg-type]
        why=item["why"],
        trace=[TraceOut.model_validate(line) for line in item["trace"]],
        limits=item["limits"],
        first_action=item["first_action"],
        safe_repair=item["safe_repair"],
        energies=list(d.energies),
        since=d.defect.first.at,
        by=names.get(d.defect.first.by, "?"),
        reports=d.defect.looks,
        shifts=d.defect.unmended_shifts,
        stage=d.life.stage,
        steps=[_step(e, names) for e in d.life.steps],
        due=due,
        lowered=_lowered(d, names),
        accepted_by=names.get(d.defect.accepted_by, "") if accepted else "",
        release=d.defect.release,
        released_by=names.get(d.defect.pending_by, "") if d.defect.pending_by else "",
        photos=list(d.photos),
        entries=sorted(d.entries),
        may=_may(d, who.person.role, who.person.id, accepted),
        may_ask=list(may_ask(d.life, who.person.role, d.item.grade, accepted)),
        asked=sorted(d.life.asked),
    )


After = Annotated[
    str, Query(pattern=NO_NUL, max_length=120, description="From the page before: where this one begins.")
]


def _cursor(text: str) -> Cursor | None:
    if not text:
        return None
    grade, _, rest = text.partition("~")
    since, _, id_ = rest.partition("~")
    if not re.fullmatch(r"[0-9]", grade) or not re.fullmatch(r"[0-9a-f-]{36}\.[0-9]{1,3}", id_):
        raise BadInput("after", "give what the page before gave")
    return int(grade), time_of("after", since), id_


def _after(cursor: Cursor | None) -> str | None:
    return None if cursor is None else f"{cursor[0]}~{encode(cursor[1])}~{cursor[2]}"


@router.get("/defects")
async def get_defects(
    here: Work,
    who: Who,
    wording: Tongue,
    machine: Slug | None = None,
    duty: Annotated[str, Query(pattern=NO_NUL, max_length=60)] = "",
    stage: DefectStage | None = None,
    asked: Annotated[bool, Query(description="Only what the role of the person who asks was asked for.")] = False,
    defect: Annotated[
        str | None,
        Query(pattern=ID, description="Only what is open of this one of a machine's, whatever its id is now."),
    ] = None,
    after: After = "",
    most: Annotated[int, Query(ge=1, le=200)] = PAGE,
) -> DefectsOut:
    """What is open on all machines or on one, a page at a time: what holds a machine first, then the oldest."""
    names = await names_of(here)
    if machine is not None:
        await unit_of(here, machine)
    if machine is not None and defect:
        left = await left_of(here, machine, defect)
        found = DefectPage((left,) if left else (), None)
    else:
        picked = Picked(machine, duty, stage, str(who.person.role) if asked else "")
        found = await page_of_defects(here, picked, _cursor(after), most)
    out = DefectsOut(
        defects=[defect_out(d, here, names, who, wording) for d in found.defects], after=_after(found.after)
    )
    if after:
        return out
    count, holds = await sums_of_defects(here)
    machines, duties = await what_defects_are_of(here)
    known = here.catalog.rulebook.duties
    said = [PickOut(id=d, name=wording.word("duty", known[d].name)) for d in duties if d in known]
    return out.model_copy(
        update={
            "count": count,
            "holds": holds,
            "machines": [PickOut(id=id_, name=name) for id_, name in machines],
            "duties": sorted(said, key=lambda p: p.name),
        }
    )


def _plain(text: str) -> str:
    """A cell that no table program takes for a formula."""
    return f"'{text}" if text[:1] in tuple("=+-@\t\r") else text


@router.get("/defects.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}})
async def get_list(request: Request, here: Work, who: Who, wording: Tongue) -> StreamingResponse:
    """The same as a table (RFC 4180, UTF-8), page by page as it is worked out."""
    names, shop, site = await names_of(here), shop_of(request), here.site

    async def pages() -> AsyncIterator[bytes]:
        out = io.StringIO(newline="")
        csv.writer(out).writerow(HEADS)
        yield out.getvalue().encode()
        after, more = None, True
        while more:
            # Each page has a connection to itself: nobody holds one as long as a slow reader takes.
            async with shop.store.transaction() as db:
                now_here = Here(db, site, shop.books, here.now)
                found = await page_of_defects(now_here, after=after)
                out = io.StringIO(newline="")
                table = csv.writer(out)
                for d in found.defects:
                    table.writerow(_row(defect_out(d, now_here, names, who, wording)))
            yield out.getvalue().encode()
            after, more = found.after, found.after is not None

    headers = {"Content-Disposition": 'attachment; filename="defects.csv"'}
    return StreamingResponse(pages(), media_type="text/csv; charset=utf-8", headers=headers)


def _row(o: OpenDefectOut) -> list[object]:
    due = o.due
    dates = [x.date().isoformat() if x else "" for x in (due.earliest, due.likely, due.latest)] if due else [""] * 3
    row = [o.machine, o.machine_name, o.place, o.failure, o.grade, o.stage, o.since.isoformat(), o.by, o.reports]
    row += [due.hour if due else "", *dates, o.why, o.finding.note]
    return [_plain(x) if isinstance(x, str) else x for x in row]


@router.get(
    "/machines/{machine}/defects/{defect}/tag.pdf",
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}}}},
)
async def get_tag(request: Request, here: Work, who: Who, wording: Tongue, machine: Slug, defect: Id) -> Response:
    """The tag to hang on the machine, A6, with a code back to the defect."""
    from jutrel.exchange.tag import Tag, tag_pdf  # what draws takes long to load and is seldom needed

    d = await one_defect(here, machine, defect)
    base = public_address(request) or str(request.base_url).rstrip("/")
    zone, names = ZoneInfo(here.site.zone), await names_of(here)

    def read(at: datetime) -> str:
        return format_datetime(at.astimezone(zone), "yyyy-MM-dd HH:mm", locale=wording.language.replace("-", "_"))

    mode = here.catalog.rulebook.modes.get(d.defect.key[1])
    tag = Tag(
        machine=d.unit.name,
        site=here.site.name,
        grade=d.item.grade,
        place=wording.word("checkpoint", d.item.name),
        failure=wording.word("failure", mode.name) if mode else d.defect.key[1],
        why=d.item.why,
        note=d.defect.latest.finding.note,
        by=names.get(d.defect.first.by, "?"),
        since=read(d.defect.first.at),
        printed=read(here.now),
        address=f"{base}/defects/{machine}/{defect}",
    )
    headers = {"Content-Disposition": f'inline; filename="{machine}-tag.pdf"'}
    return Response(tag_pdf(tag, wording), media_type="application/pdf", headers=headers)


def _what(d: OpenDefect, body: ActIn) -> Act:
    at = {"checkpoint": d.defect.key[0], "failure_mode": d.defect.key[1]}
    if body.kind in ("accepted", "isolated", "released") and len(body.note.strip()) < 3:
        raise BadInput("note", "say in a few words what was done, and why")
    match body.kind:
        case "acknowledged":
            return Acknowledged(**at, note=body.note.strip())
        case "asked":
            if body.role is None:
                raise BadInput("role", "say whom you ask")
            return Asked(**at, role=body.role, note=body.note.strip())
        case "accepted":
            return Accepted(**at, reason=body.note.strip())
        case "isolated":
            return Isolated(**at, energies=tuple(body.energies), how=body.note.strip())
        case "released":
            return Released(**at, done=body.note.strip(), parts=body.parts.strip())
        case "rechecked":
            return Rechecked(body.release or "00000000-0000-0000-0000-000000000000")


@router.post("/machines/{machine}/defects/{defect}/acts")
async def post_act(here: Work, who: Who, wording: Tongue, machine: Slug, defect: Id, body: ActIn) -> DefectsOut:
    """Write down what was done about a defect; what is open on the machine after it."""
    if not await done_before(here, who, machine, body.id):
        what = _what(await one_defect(here, machine, defect), body)
        await act(here, who, machine, defect, body.id, what, frozenset(body.seen))
    return await get_defects(here, who, wording, machine)
