"""Many machines taken in from one list: all of them looked at first; none while a line of it is refused."""

from __future__ import annotations

import hashlib
import uuid
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from enum import StrEnum

from jutrel.core.errors import BadInput
from jutrel.core.log.entry import Entry
from jutrel.core.machine.file import Filed, check_filed, file_stream, fold_file
from jutrel.core.machine.model import Model
from jutrel.core.people import EDITORS
from jutrel.core.wording import NOTHING, Said, say
from jutrel.exchange.machine_list import ListedMachine, lines_of, listed, machine_list
from jutrel.service.context import Here
from jutrel.service.machine.file import write_file
from jutrel.service.machine.models import known_models
from jutrel.service.people.people import Actor, allow
from jutrel.store.queries import log as log_store
from jutrel.store.queries import machines as store

PART = 20
"""So many machines one request takes in: none of them lasts, and whoever sends the list may stop between two."""


class ListDoes(StrEnum):
    """What a line of the list comes to."""

    NEW = "new"
    SAME = "same"
    REFUSED = "refused"


@dataclass(frozen=True, slots=True)
class ListLine:
    """A line of the list: where it stands in the file, which machine it is of, what it comes to, and why not."""

    line: int
    number: str
    model: str
    does: ListDoes
    field: str = ""
    says: Said = NOTHING


@dataclass(frozen=True, slots=True)
class ListNews:
    """What a list comes to; `kept`: its new machines are on file.

    `next`: the line after which it goes on, where there are more of them than one request takes in.
    """

    lines: tuple[ListLine, ...]
    kept: bool
    next: int | None = None


async def list_in(here: Here, actor: Actor, sending: str, text: str, keep: bool, after: int = 0) -> ListNews:
    """Look at each line of a list of machines; if none is refused, and only then, write down those that are new.

    Those after a line of the file alone, twenty at most.

    A machine that is on file is never changed by a list: an old list would take equipment off machines, and what is
    looked at there with it. `sending`: the sender's id, by which the same list sent twice writes once.

    Raises
    ------
    BadInput
        If it is no list.
    """
    allow(actor, *EDITORS)
    models = {key: known.model for key, known in (await known_models(here)).items()}
    units = {u.id: u for u in await store.units(here.db, here.site.id, with_gone=True)}
    names = {u.name.casefold(): u.id for u in units.values()}
    files = await _files(here, units)
    lines: list[ListLine] = []
    new: list[tuple[int, str, Filed]] = []
    seen: dict[str, int] = {}
    for n, cells in lines_of(text):
        number = cells.get("number", "")
        try:
            machine = listed(cells)
            filed = _filed(machine, _model(machine, models), models)
            if machine.id in seen:
                raise BadInput("number", "line {n} has the same number", n=seen[machine.id])
            seen[machine.id] = n
            there = names.get(machine.number.casefold()) or (machine.id if machine.id in units else None)
            if there is None:
                new.append((n, machine.id, filed))
                does = ListDoes.NEW
            else:
                if units[there].name.casefold() != machine.number.casefold():
                    raise BadInput("number", "it is too like '{name}', which is on file", name=units[there].name)
                _same(files.get(there), filed, machine.figures is not None)
                does = ListDoes.SAME
        except BadInput as no:
            lines.append(ListLine(n, number, cells.get("model", ""), ListDoes.REFUSED, no.field, no.says))
        else:
            lines.append(ListLine(n, machine.number, filed.model_id, does))
    if not lines:
        raise BadInput("text", "there is no machine in this list")
    if not keep or any(x.does is ListDoes.REFUSED for x in lines):
        return ListNews(tuple(lines), False)
    rest = [x for x in new if x[0] > after]
    for _, machine_id, filed in rest[:PART]:
        await write_file(here, actor, machine_id, _entry_of(sending, machine_id), filed)
    more = rest[PART - 1][0] if len(rest) > PART else None
    return ListNews(tuple(lines), more is None and len(rest) == len(new), more)


async def list_out(here: Here) -> str:
    """The site's machines as a list that can be taken in elsewhere."""
    units = await store.units(here.db, here.site.id)
    files = await _files(here, [u.id for u in units])
    return machine_list(units, {u.id: files[u.id].note if u.id in files else "" for u in units})


async def _files(here: Here, machines: Collection[str]) -> dict[str, Filed]:
    """What is on file of these machines, by their ids."""
    entries = await log_store.entries_in_streams(here.db, here.site.id, [file_stream(m) for m in machines], "filed")
    by_machine: dict[str, list[Entry]] = {}
    for entry in entries:
        by_machine.setdefault(entry.machine, []).append(entry)
    return {m: file.filed for m, mine in by_machine.items() if (file := fold_file(mine)) is not None}


def _model(machine: ListedMachine, models: Mapping[str, Model]) -> str:
    """The id of a line's model, which may be written by its id or as its maker calls it."""
    said = machine.model.casefold()
    if said in models:
        return said
    found = [key for key, m in models.items() if f"{m.maker} {m.name}".casefold() == said]
    if len(found) != 1:
        raise BadInput("model", "there is no model '{model_id}'", model_id=machine.model)
    return found[0]


def _filed(machine: ListedMachine, model_id: str, models: Mapping[str, Model]) -> Filed:
    """What a line would put on file; raises BadInput."""
    model = models[model_id]
    by_name = {o.name.casefold(): o.id for o in model.family.options}
    options = frozenset(by_name.get(o.casefold(), o.casefold()) for o in machine.options)
    if len(machine.number) > 40:
        raise BadInput("number", "use up to {most} letters and figures", most=40)
    if len(machine.note) > 2000:
        raise BadInput("note", "use up to {most} letters and figures", most=2000)
    filed = Filed(
        machine.number, model_id, options, dict(machine.figures or {}), machine.place, machine.note, True, machine.hours
    )
    try:
        check_filed(filed, model)
    except BadInput as no:
        column, _, name = no.field.partition(".")
        if column != "own_limits":
            raise
        raise BadInput("figures", "{name}: {why}", name=name, why=no.says) from None
    return filed


def _same(was: Filed | None, filed: Filed, with_figures: bool) -> None:
    """That a machine on file is as the list has it; its meter goes on by itself. `with_figures`: the list says them."""
    if was is None or not was.active:
        raise BadInput("number", say("it has left the site: bring it back on its own page"))
    if (was.model_id, was.options) != (filed.model_id, filed.options):
        what = "model" if was.model_id != filed.model_id else "options"
        raise BadInput(what, say("it is on file otherwise: change it on its own page"))
    if with_figures and dict(was.own_limits) != dict(filed.own_limits):
        raise BadInput("figures", say("it is on file otherwise: change it on its own page"))


def _entry_of(sending: str, machine: str) -> str:
    """The id of a machine's entry: of the sender's time, the same each time that the same list is sent."""
    noise = int.from_bytes(hashlib.sha256(f"{sending}/{machine}".encode()).digest()[:8]) & ((1 << 62) - 1)
    return str(uuid.UUID(int=(uuid.UUID(sending).int >> 62 << 62) | noise))
