"""Tables for a spreadsheet: CSV in, with a head that names its columns, and CSV out that no spreadsheet runs."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from jutrel.core.errors import BadInput
from jutrel.core.wording import Said

FORMULA = ("=", "+", "-", "@", "\t", "\r")
"""With what a spreadsheet takes a cell for a formula: such a cell goes out with a quote before it."""


@dataclass(frozen=True, slots=True)
class Columns:
    """The columns that a table may have, those that it must have, and how many lines are taken at once; `too_many`
    says so."""

    all: Sequence[str]
    needed: Sequence[str]
    most: int
    too_many: Said


def lines_of(text: str, columns: Columns) -> Iterator[tuple[int, Mapping[str, str]]]:
    """Each line of a table that says something, by its number in the file, as cells by column.

    Cells may be parted by commas, semicolons or tabs; the first line names the columns.

    >>> columns = Columns(("number", "model"), ("number",), 9, Said("take nine"))
    >>> list(lines_of("number;model\\nEX-07;tolvane-e24\\n", columns))
    [(2, {'number': 'EX-07', 'model': 'tolvane-e24'})]

    Raises
    ------
    BadInput
        For a column that is not known or lacks, for more lines than are taken at once, for no list at all.
    """
    first = text.lstrip("\ufeff").split("\n", 1)[0]
    mark = max(",;\t", key=first.count)
    rows = list(csv.reader(io.StringIO(text.lstrip("\ufeff")), delimiter=mark))
    head = [cell.strip().lower() for cell in rows[0]] if rows else []
    for name in head:
        if name and name not in columns.all:
            those = ", ".join(columns.all)
            raise BadInput("text", "no column is called '{name}'; one of {those}", name=name, those=those)
    for name in columns.needed:
        if name not in head:
            raise BadInput("text", "the first line lacks the column '{name}'", name=name)
    if len(set(head)) < len(head):
        raise BadInput("text", "a column is there twice")
    if len(rows) - 1 > columns.most:
        raise BadInput("text", columns.too_many)
    for n, row in enumerate(rows[1:], 2):
        cells = {name: _plain(cell) for name, cell in zip(head, row, strict=False) if name}
        if any(cells.values()):
            yield n, cells


def table(head: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """A table as CSV (RFC 4180), as `lines_of` reads it.

    >>> table(("name",), [("=1+1",), ("Ada",)])
    "name\\r\\n'=1+1\\r\\nAda\\r\\n"
    """
    out = io.StringIO()
    write = csv.writer(out, lineterminator="\r\n")
    write.writerow(head)
    write.writerows([guarded(str(cell)) for cell in row] for row in rows)
    return out.getvalue()


def guarded(cell: str) -> str:
    """A cell that no spreadsheet takes for a formula."""
    return "'" + cell if cell.startswith(FORMULA) else cell


def _plain(cell: str) -> str:
    cell = cell.strip()
    return cell[1:] if cell[:1] == "'" and cell[1:].startswith(FORMULA) else cell
