"""A machine's file: what the unit is, told by entries that are only ever added."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Annotated

from jutrel.core.errors import BadInput
from jutrel.core.inspection.finding import Hours
from jutrel.core.log.codec import Between, EntryId, Most, Slug, Text
from jutrel.core.log.entry import Entry
from jutrel.core.log.kinds import StreamKind, kind
from jutrel.core.machine.family import Family, LimitKind
from jutrel.core.machine.lock import Locked, Unlocked
from jutrel.core.machine.model import Limit, Model
from jutrel.core.people import EDITORS, WALKERS
from jutrel.core.wording import Said, say

NEEDS = say("'{it}' needs '{other}' on the same machine: name both, or neither").text
NO_OPTION = say("'{it}' is not an option of {model}; it has {those}").text


@kind("filed", StreamKind.FILE, EDITORS)
@dataclass(frozen=True, slots=True)
class Filed:
    """The unit as somebody wrote it down: replaces what was written before.

    `own_limits` are its figures where they differ from the model's; `active` is false for a unit that has
    left the site; `hours` [h] is the meter of a unit that is new here.
    """

    name: Annotated[str, Text(40)]
    model_id: Slug
    options: Annotated[frozenset[Slug], Most(60)]
    own_limits: Annotated[Mapping[Slug, float | Annotated[str, Text(80)]], Most(60)]
    bay: Annotated[int, Between(0, 9999)]
    note: Annotated[str, Text(2000)] = ""
    active: bool = True
    hours: Hours | None = None


@kind("meter-replaced", StreamKind.FILE, EDITORS)
@dataclass(frozen=True, slots=True)
class MeterReplaced:
    """Another hour meter: `last` [h] on the old one, `first` [h] on the new one, and why."""

    last: Hours
    first: Hours
    why: Annotated[str, Text(400, 1)]


@kind("meter-corrected", StreamKind.FILE, WALKERS | EDITORS)
@dataclass(frozen=True, slots=True)
class MeterCorrected:
    """A wrong reading: the entry it stands in, its right figure [h] or none, and why."""

    reading: EntryId
    hours: Hours | None
    why: Annotated[str, Text(400, 1)]


@kind("pictured", StreamKind.FILE, EDITORS)
@dataclass(frozen=True, slots=True)
class Pictured:
    """A photo of the unit, kept under `photo`."""

    photo: EntryId


@kind("good-shown", StreamKind.FILE, EDITORS)
@dataclass(frozen=True, slots=True)
class GoodShown:
    """A photo of how a checkpoint looks when it is sound: of this unit, or of all units of its model.

    `photo` is None where the picture is taken away.
    """

    checkpoint: Slug
    photo: EntryId | None
    whole_model: bool = False


FilePayload = Filed | MeterReplaced | MeterCorrected | Pictured | GoodShown | Locked | Unlocked


def file_stream(machine: str) -> str:
    """The stream that a machine's file is written in."""
    return f"file.{machine}"


@dataclass(frozen=True, slots=True)
class MachineFile:
    """The unit today."""

    filed: Filed
    photo: str | None = None


@dataclass(frozen=True, slots=True)
class GoodPicture:
    """How a checkpoint looks when it is sound, as somebody photographed it; no photo: it was taken away."""

    checkpoint: str
    photo: str | None
    by: str
    at: datetime
    whole_model: bool


def good_pictures(entries: Iterable[Entry]) -> tuple[GoodPicture, ...]:
    """What a file's entries show of its unit and of its model, one for each checkpoint; the last counts."""
    shown: dict[tuple[str, bool], GoodPicture] = {}
    for entry in sorted({e.id: e for e in entries}.values(), key=lambda e: e.seq):
        if isinstance(what := entry.what, GoodShown):
            picture = GoodPicture(what.checkpoint, what.photo, entry.by, entry.time, what.whole_model)
            shown[what.checkpoint, what.whole_model] = picture
    return tuple(shown.values())


def pictures_for(own: Iterable[GoodPicture], models: Iterable[GoodPicture]) -> tuple[GoodPicture, ...]:
    """What is shown on a unit's walk: its own picture, else the newest that any unit of its model has for them all."""
    best: dict[str, GoodPicture] = {}
    for picture in sorted(models, key=lambda p: p.at):
        best[picture.checkpoint] = picture
    best |= {p.checkpoint: p for p in own if p.photo is not None}
    return tuple(p for p in best.values() if p.photo is not None)


def fold_file(entries: Iterable[Entry]) -> MachineFile | None:
    """The unit after these entries, each counted once; None before it was written down.

    Entries of a file are written at a desk with the server at hand: their order is that of the log.
    """
    file: MachineFile | None = None
    once = {e.id: e for e in entries}
    for entry in sorted(once.values(), key=lambda e: e.seq):
        match entry.what:
            case Filed():
                file = replace(file, filed=entry.what) if file else MachineFile(entry.what)
            case Pictured(photo=photo) if file:
                file = replace(file, photo=photo)
            case _:
                pass
    return file


def limit_problem(kind: LimitKind, value: Limit) -> Said | None:
    """What is wrong with a limit's value, or None.

    >>> str(limit_problem(LimitKind("sag", "Track sag", "mm", 10, 90), 5))
    'Track sag is between 10 and 90 mm'
    """
    name, unit = Said(kind.name, (), "figure"), Said(kind.unit, (), "unit")
    if kind.choices and value not in {c.id for c in kind.choices}:
        those = ", ".join(c.id for c in kind.choices)
        return say("{name} is one of: {those}", name=name, those=those)
    if not kind.unit:
        return None if isinstance(value, str) and value.strip() else say("write {name} as words", name=name)
    if isinstance(value, (str, bool)) or not abs(value) < float("inf"):
        return say("give {name} as a number of {unit}", name=name, unit=unit)
    if not kind.low <= value <= kind.high:
        between = "{name} is between {low} and {high} {unit}"
        return say(between, name=name, low=kind.low, high=kind.high, unit=unit)
    return None


def with_own_limits(model: Model, own: Mapping[str, Limit]) -> Model:
    """The model with this unit's own figures over the model's."""
    return replace(model, limits={**model.limits, **own}) if own else model


def check_filed(filed: Filed, model: Model) -> None:
    """Raises BadInput for a name, option or limit that this model cannot have."""
    if not filed.name.strip():
        raise BadInput("name", "give the machine its name, as it stands on its side")
    for option in sorted(filed.options):
        if option not in model.options:
            has = ", ".join(model.options) or "–"
            raise BadInput("options", NO_OPTION, it=option, model=model.name, those=has)
    fitted = {o.id: o for o in model.family.options if o.id in filed.options}
    for its in fitted.values():
        if lacking := [n for n in its.needs if n not in fitted]:
            raise BadInput("options", NEEDS, it=its.id, other=lacking[0])
    kinds = {x.id: x for x in model.family.limits}
    for limit, value in filed.own_limits.items():
        if limit not in kinds:
            raise BadInput(f"own_limits.{limit}", "is no figure of this family of machines")
        if says := limit_problem(kinds[limit], value):
            raise BadInput(f"own_limits.{limit}", says)


def file_news(entries: Iterable[Entry], since: datetime, family: Family) -> dict[str, Said]:
    """What the file says has changed on the unit since then, by checkpoint: options fitted, own figures altered."""
    all_ = list(entries)
    before = fold_file(e for e in all_ if e.time <= since)
    now = fold_file(all_)
    if before is None or now is None:
        return {}
    fitted = now.filed.options - before.filed.options
    old, new = before.filed.own_limits, now.filed.own_limits
    altered = {key for key in {*old, *new} if old.get(key) != new.get(key)}
    names = {o.id: Said(o.name, (), "equipment") for o in family.options}
    names |= {x.id: Said(x.name, (), "figure") for x in family.limits}
    news: dict[str, Said] = {}
    for c in family.checkpoints:
        if c.option in fitted:
            news[c.id] = say("{name}: fitted since the last look.", name=names[str(c.option)])
        elif hit := next((x for x in c.limits if x in altered), None):
            news[c.id] = say("{name}: this machine's own figure was changed since the last look.", name=names[hit])
    return news
