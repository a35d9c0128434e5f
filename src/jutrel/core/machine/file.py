"""A machine's file: what the unit is, told by a log of entries that are only ever added."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from jutrel.core.errors import BadInput
from jutrel.core.inspection.entry import Changed
from jutrel.core.machine.family import Family, LimitKind
from jutrel.core.machine.model import Limit, Model


@dataclass(frozen=True, slots=True)
class Filed:
    """The unit as somebody wrote it down: replaces what was written before.

    `own_limits` are its figures where they differ from the model's; `active` is false
    for a unit that has left the site.
    """

    name: str
    model_id: str
    options: frozenset[str]
    own_limits: Mapping[str, Limit]
    bay: int
    note: str = ""
    active: bool = True


@dataclass(frozen=True, slots=True)
class MeterReplaced:
    """Another hour meter: `last` [h] on the old one, `first` [h] on the new one, and why."""

    last: float
    first: float
    why: str


@dataclass(frozen=True, slots=True)
class Pictured:
    """A photo of the unit, kept under `photo`."""

    photo: str


FilePayload = Filed | MeterReplaced | Pictured


@dataclass(frozen=True, slots=True)
class FileEntry:
    """What was written, by whom, when. Ids carry their time, so sorting by id is the order."""

    id: str
    by: str
    at: datetime
    what: FilePayload


@dataclass(frozen=True, slots=True)
class MachineFile:
    """The unit today. `meter_offset` [h]: what earlier meters had run up before this one."""

    filed: Filed
    photo: str | None = None
    meter_offset: float = 0.0


def fold_file(entries: Iterable[FileEntry]) -> MachineFile | None:
    """The unit after these entries, each counted once; None before it was written down.

    >>> at = datetime(2026, 5, 4)
    >>> first = FileEntry("1", "a", at, Filed("LD-5", "m", frozenset(), {}, 1))
    >>> meter = FileEntry("2", "a", at, MeterReplaced(4310.2, 0.0, "dead display"))
    >>> fold_file([meter, first, meter]).meter_offset
    4310.2
    """
    file: MachineFile | None = None
    once = {e.id: e for e in entries}
    for entry in sorted(once.values(), key=lambda e: e.id):
        match entry.what:
            case Filed():
                file = replace(file, filed=entry.what) if file else MachineFile(entry.what)
            case MeterReplaced(last=last, first=first) if file:
                file = replace(file, meter_offset=round(file.meter_offset + last - first, 4))
            case Pictured(photo=photo) if file:
                file = replace(file, photo=photo)
            case _:
                pass
    return file


def limit_problem(kind: LimitKind, value: Limit) -> str | None:
    """What is wrong with a limit's value, or None.

    >>> limit_problem(LimitKind("sag", "Track sag", "mm", 10, 90), 5)
    'Track sag is between 10 and 90 mm'
    """
    if not kind.unit:
        return None if isinstance(value, str) and value.strip() else f"write {kind.name} as words"
    if isinstance(value, (str, bool)) or not abs(value) < float("inf"):
        return f"give {kind.name} as a number of {kind.unit}"
    if not kind.low <= value <= kind.high:
        return f"{kind.name} is between {kind.low:g} and {kind.high:g} {kind.unit}"
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
            raise BadInput(
                "options", f"'{option}' is not an option of {model.name}; it has {', '.join(model.options) or 'none'}"
            )
    kinds = {x.id: x for x in model.family.limits}
    for limit, value in filed.own_limits.items():
        if limit not in kinds:
            raise BadInput(f"own_limits.{limit}", f"is no figure of a {model.family.name.lower()}")
        if says := limit_problem(kinds[limit], value):
            raise BadInput(f"own_limits.{limit}", says)


def file_news(entries: Sequence[FileEntry], since: datetime, family: Family) -> tuple[Changed, ...]:
    """What the file says has changed on the unit since then: options fitted, own figures altered."""
    before = fold_file(e for e in entries if e.at <= since)
    now = fold_file(entries)
    if before is None or now is None:
        return ()
    fitted = now.filed.options - before.filed.options
    old, new = before.filed.own_limits, now.filed.own_limits
    altered = {key for key in {*old, *new} if old.get(key) != new.get(key)}
    names = {o.id: o.name for o in family.options} | {x.id: x.name for x in family.limits}
    news: dict[str, Changed] = {}
    for c in family.checkpoints:
        if c.option in fitted:
            news[c.id] = Changed(c.id, f"{names[str(c.option)]}: fitted since the last look.")
        elif hit := next((x for x in c.limits if x in altered), None):
            news[c.id] = Changed(c.id, f"{names[hit]}: this machine's own figure was changed since the last look.")
    return tuple(news.values())
