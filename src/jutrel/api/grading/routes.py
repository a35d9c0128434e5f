"""Routes: the rulebook to be read, tried and chosen."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Any

from fastapi import APIRouter, Request
from pydantic import Field

from jutrel.api.cookies import token_of
from jutrel.api.door import PROBLEMS, Who, Work, now, shop_of
from jutrel.api.inspection.wire_verdict import TraceOut
from jutrel.api.language import Tongue
from jutrel.api.machine.wire import AttributeOut, ModeOut
from jutrel.api.wire import NO_NUL, GradeWord, In, Out, Slug
from jutrel.core.grading.rulebook import Rule, Rulebook
from jutrel.core.inspection.finding import Conditions, Finding
from jutrel.core.machine.family import SystemClass
from jutrel.core.wording import Wording, spoken
from jutrel.service.grading.rules import Supposed, choose_regime, places_with, suppose
from jutrel.service.machine.judge_anew import judge_all
from jutrel.service.people.people import here_and_actor

router = APIRouter(prefix="/api/rulebook", tags=["rules"], responses=PROBLEMS)


class RowOut(Out):
    """A rule: when it speaks, what it says, and what it does."""

    id: str
    mode: str
    when: str = Field(description="What must have been seen, in words.")
    keys: list[str] = Field(description="The same as attribute.choice, for its drawing.")
    says: str
    grade: GradeWord | None = Field(description="None: raises the grade one step.")
    within_hours: float | None
    limit: str
    source: str


class DutyOut(Out):
    """What parts are there for, and all its rules on one page."""

    id: str
    name: str
    life: bool
    limit: str
    parts: list[str] = Field(description="Names of the checkpoints that have it.")
    modes: list[str]
    rules: list[RowOut]


class RegimeOut(Out):
    """A set of floors beside the duties' rules: where it holds, and what records it asks for."""

    id: str
    name: str
    scope: str
    caution: str
    records: list[str]
    floors: list[RowOut]


class SourceOut(Out):
    """A source that rules name."""

    text: str
    scope: str
    from_memory: bool


class RulebookOut(Out):
    """Everything that grades."""

    version: str
    regime: str
    may_choose: bool
    duties: list[DutyOut]
    anywhere: list[RowOut]
    together: list[RowOut]
    regimes: list[RegimeOut]
    modes: list[ModeOut]
    attributes: list[AttributeOut]
    sources: list[SourceOut]


class WhatIfIn(In):
    """A finding that nobody made."""

    regime: Slug | None = None
    duty: Slug
    checkpoint: Slug | None = None
    failure_mode: Slug
    attributes: dict[Slug, bool | float | Annotated[str, Field(pattern=NO_NUL, max_length=60)]] = Field(
        default={}, max_length=24
    )
    dark: bool = False
    rain: bool = False
    people_on_foot: bool = False
    shifts: int = Field(default=1, ge=1, le=99, description="Different shifts on which it was reported.")
    overdue: bool = False
    out: int = Field(default=0, ge=0, le=20, description="Things out that stand in for one another.")


class WhatIfOut(Out):
    """What it would be graded, and why."""

    grade: GradeWord
    trace: list[TraceOut]
    limits: list[str]
    within_hours: float | None
    may_put_right: bool
    checkpoint: str
    places: list[tuple[str, str]] = Field(description="Checkpoints where this can be, by id and name.")


class RegimeIn(In):
    """Which regime the site goes by from now on."""

    regime: Slug


def _row(rule: Rule, wording: Wording, book: Rulebook) -> RowOut:
    when = ", ".join(wording.word("choice", label) for label in rule.seen)
    return RowOut(
        id=rule.id,
        mode=rule.modes[0] if len(rule.modes) == 1 else "",
        when=when,
        keys=[
            f"{c.fact}.{c.values[0]}"
            for c in rule.conditions
            if c.fact in book.attributes and any(x.id == c.values[0] for x in book.attributes[c.fact].choices)
        ],
        says=wording.word("rule", rule.says),
        grade=rule.grade.word if rule.grade is not None else None,  # type: ignore[arg-type]
        within_hours=rule.within_hours,
        limit=wording.word("limit", rule.limit) if rule.limit else "",
        source=wording.word("source", rule.source),
    )


def _rows(rules: Iterable[Rule], wording: Wording, book: Rulebook) -> list[RowOut]:
    return [_row(rule, wording, book) for rule in rules]


@router.get("")
async def get_rulebook(here: Work, who: Who, wording: Tongue) -> RulebookOut:
    """All duties with their rules, the regimes with their floors, and the sources."""
    catalog, book = here.catalog, here.catalog.rulebook
    floors = {rule.id for regime in catalog.regimes.values() for rule in regime.floors}
    parts: dict[str, dict[str, str]] = {}
    modes: dict[str, dict[str, None]] = {}
    for family in catalog.families.values():
        for c in family.checkpoints:
            for mode in c.failure_modes:
                if (duty := c.duty_of(mode)) is not None:
                    parts.setdefault(duty.id, {})[c.id] = wording.word("checkpoint", c.name)
                    modes.setdefault(duty.id, {})[mode] = None
    return RulebookOut(
        version=book.version,
        regime=book.regime,
        may_choose=who.person.role.value == "administrator",
        duties=[
            DutyOut(
                id=duty.id,
                name=wording.word("duty", duty.name),
                life=duty.kind is SystemClass.LIFE,
                limit=wording.word("limit", duty.limit) if duty.limit else "",
                parts=list(dict.fromkeys(parts.get(duty.id, {}).values())),
                modes=list(modes.get(duty.id, {})),
                rules=_rows((r for r in book.rules if r.duty == duty.id), wording, book),
            )
            for duty in book.duties.values()
        ],
        anywhere=_rows((r for r in book.rules if r.duty is None and r.id not in floors), wording, book),
        together=[
            RowOut(
                id=c.id,
                mode="",
                when="",
                keys=[],
                says=wording.word("rule", c.says),
                grade=c.grade.word,  # type: ignore[arg-type]
                within_hours=None,
                limit=wording.word("limit", c.limit) if c.limit else "",
                source=wording.word("source", c.source),
            )
            for c in book.combinations
        ],
        regimes=[
            RegimeOut.model_validate({**spoken(r, wording), "floors": _rows(r.floors, wording, book)})
            for r in catalog.regimes.values()
        ],
        modes=[
            ModeOut.model_validate(
                {**spoken(m, wording), "put_right": wording.word("put right", m.put_right.says) if m.put_right else ""}
            )
            for m in book.modes.values()
        ],
        attributes=[AttributeOut.model_validate(spoken(a, wording)) for a in book.attributes.values() if a.ask],
        sources=[
            SourceOut.model_validate({**spoken(c, wording), "text": wording.word("source", c.told)})
            for c in catalog.citations.values()
        ],
    )


@router.post("/what-if")
async def post_what_if(here: Work, who: Who, wording: Tongue, body: WhatIfIn) -> WhatIfOut:
    """What a finding would be graded: nothing is kept."""
    conditions = Conditions(dark=body.dark, rain=body.rain, people_on_foot=body.people_on_foot)
    finding = Finding(body.failure_mode, body.attributes)
    what = Supposed(body.duty, finding, body.checkpoint, conditions, body.shifts, body.overdue, body.out)
    tried = suppose(here.catalog, body.regime, what)
    told: dict[str, Any] = spoken(tried.graded, wording)
    return WhatIfOut(
        grade=told["grade"],
        trace=[TraceOut.model_validate(line) for line in told["trace"]],
        limits=told["limits"],
        within_hours=tried.graded.within_hours,
        may_put_right=tried.may_put_right,
        checkpoint=wording.word("checkpoint", tried.checkpoint.name),
        places=[
            (c.id, wording.word("checkpoint", c.name)) for c in places_with(here.catalog, body.duty, body.failure_mode)
        ],
    )


@router.put("/regime")
async def put_regime(request: Request, wording: Tongue, body: RegimeIn) -> str:
    """Have the site go by another regime. Looks that have begun keep the rules they are bound to; every machine is
    judged anew, and none is cleared before it was."""
    shop, at = shop_of(request), now()
    async with shop.store.transaction() as db:
        here, who = await here_and_actor(db, shop.books, token_of(request), at)
        chosen = await choose_regime(here, who, body.regime)
    await judge_all(shop, at)
    return wording.word("regime", chosen.name)
