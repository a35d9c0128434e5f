"""The people of a site as a list for a spreadsheet: CSV out, and the same CSV in again."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass

from jutrel.core.errors import BadInput
from jutrel.core.people import Role, role_said
from jutrel.core.wording import Wording, say
from jutrel.exchange import table
from jutrel.exchange.table import Columns

COLUMNS = ("name", "role", "here")
MOST_ROWS = 100
"""Each of them gets a PIN, whose hash takes its time on purpose."""
LONGEST = 80
LISTED = Columns(COLUMNS, ("name", "role"), MOST_ROWS, say("take in {most} people at a time", most=MOST_ROWS))
YES = ("", "yes")
NO = "no"


@dataclass(frozen=True, slots=True)
class ListedPerson:
    """A line of the list."""

    name: str
    role: Role


def lines_of(text: str) -> Iterator[tuple[int, Mapping[str, str]]]:
    """Each line of the list that says something, by its number in the file, as cells by column.

    >>> list(lines_of("name,role\\nAda Berg,mechanic\\n"))
    [(2, {'name': 'Ada Berg', 'role': 'mechanic'})]

    Raises
    ------
    BadInput
        If it is no such list.
    """
    return table.lines_of(text, LISTED)


def listed(cells: Mapping[str, str], wording: Wording) -> ListedPerson | None:
    """A line's person; None for one who is not here any more. Roles as they are kept, or in the reader's language.

    >>> listed({"name": " Ada  Berg ", "role": "Mechanic"}, Wording("en"))
    ListedPerson(name='Ada Berg', role=<Role.MECHANIC: 'mechanic'>)
    >>> listed({"name": "Ada Berg", "role": "mechanic", "here": "no"}, Wording("en")) is None
    True

    Raises
    ------
    BadInput
        Naming the column.
    """
    name = " ".join(cells.get("name", "").split())
    if not name:
        raise BadInput("name", "give the person's name")
    if len(name) > LONGEST:
        raise BadInput("name", "use up to {most} letters and figures", most=LONGEST)
    here = cells.get("here", "").strip().casefold()
    if here == NO:
        return None
    if here not in YES:
        raise BadInput("here", "write yes or no")
    said = cells.get("role", "").strip().casefold()
    for role in Role:
        if said in (role.value, wording.say(role_said(role)).casefold()):
            return ListedPerson(name, role)
    raise BadInput("role", "'{it}' is not one of {those}", it=cells.get("role", ""), those=", ".join(Role))


def people_list(people: Iterable[tuple[str, Role, bool]]) -> str:
    """The list of these people, by name, role, and whether they work here, as `lines_of` reads it."""
    return table.table(COLUMNS, [(name, role.value, "yes" if here else NO) for name, role, here in people])
