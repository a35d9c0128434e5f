"""A site's machines as a list for a spreadsheet: CSV out, and the same CSV in again."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass

from jutrel.core.errors import BadInput
from jutrel.core.log.entry import Limit
from jutrel.core.machine.unit import Unit
from jutrel.core.wording import say
from jutrel.exchange import table
from jutrel.exchange.table import Columns

COLUMNS = ("number", "model", "options", "hours", "place", "note", "figures")
NEEDED = ("number", "model")
MOST_ROWS = 500
MOST_HOURS = 200_000.0
LISTED = Columns(COLUMNS, NEEDED, MOST_ROWS, say("take in {most} machines at a time", most=MOST_ROWS))
APART = re.compile(r"\s*[|;+]\s*")
FIGURES_APART = re.compile(r"\s*[|;]\s*")
NUMBER = re.compile(r"-?\d{1,9}([.,]\d{1,6})?")


@dataclass(frozen=True, slots=True)
class ListedMachine:
    """A line of the list: the machine's number, its model and its equipment as somebody wrote them, its hours [h].

    `figures`: its own over its model's, by name; None: the list has no such column and says nothing of them.
    """

    number: str
    model: str
    options: tuple[str, ...]
    hours: float
    place: int
    note: str
    figures: Mapping[str, Limit] | None = None

    @property
    def id(self) -> str:
        """The machine's id, from its number.

        >>> ListedMachine("EX 07/b", "", (), 0.0, 0, "").id
        'ex-07-b'
        """
        return re.sub(r"[^a-z0-9]+", "-", self.number.lower()).strip("-")[:60]


def lines_of(text: str) -> Iterator[tuple[int, Mapping[str, str]]]:
    """Each line of the list that says something, by its number in the file, as cells by column.

    >>> list(lines_of("number;model\\nEX-07;tolvane-e24\\n"))
    [(2, {'number': 'EX-07', 'model': 'tolvane-e24'})]

    Raises
    ------
    BadInput
        If it is no such list.
    """
    return table.lines_of(text, LISTED)


def listed(cells: Mapping[str, str]) -> ListedMachine:
    """A line's machine; raises BadInput, naming the column.

    >>> listed({"number": "EX-07", "model": "Tolvane E24", "options": "beacon | rear-camera", "hours": "6128,4"}).hours
    6128.4
    """
    number = " ".join(cells.get("number", "").split())
    if not number:
        raise BadInput("number", "give the machine its name, as it stands on its side")
    machine = ListedMachine(
        number,
        " ".join(cells.get("model", "").split()),
        tuple(o for o in APART.split(cells.get("options", "").strip()) if o),
        _hours(cells.get("hours", "")),
        _place(cells.get("place", "")),
        cells.get("note", ""),
        _figures(cells["figures"]) if "figures" in cells else None,
    )
    if not machine.id:
        raise BadInput("number", "a number has letters or figures in it")
    return machine


def machine_list(units: Iterable[Unit], notes: Mapping[str, str]) -> str:
    """The list of these units, with what their files note, as `lines_of` reads it."""
    rows = []
    for u in units:
        shown = round(u.hours - u.offset, 1)
        figures = " | ".join(f"{name}={value}" for name, value in sorted(u.own_limits.items()))
        rows.append((u.name, u.model_id, " | ".join(sorted(u.options)), shown, u.bay, notes.get(u.id, ""), figures))
    return table.table(COLUMNS, rows)


def _hours(told: str) -> float:
    said = told.strip().replace(",", ".")
    if not said:
        return 0.0
    if not re.fullmatch(r"\d{1,6}(\.\d{1,4})?", said) or float(said) > MOST_HOURS:
        raise BadInput("hours", say("write hours as 6128.4, without a mark for thousands"))
    return float(said)


def _figures(told: str) -> dict[str, Limit]:
    out: dict[str, Limit] = {}
    for part in FIGURES_APART.split(told.strip()):
        name, mark, value = (x.strip() for x in part.partition("="))
        if not part:
            continue
        if not name or not mark or not value:
            raise BadInput("figures", "write each figure as name=value, such as tyre-cold-front=390")
        if name in out:
            raise BadInput("figures", "'{name}' is there twice", name=name)
        out[name] = float(value.replace(",", ".")) if NUMBER.fullmatch(value) else value
    return out


def _place(told: str) -> int:
    said = told.strip()
    if said and not re.fullmatch(r"\d{1,4}", said):
        raise BadInput("place", "a place in the yard is a whole number up to 9999")
    return int(said or 0)
