"""Many people taken in from one list: all of them looked at first; none while a line of it is refused."""

from __future__ import annotations

import asyncio
import hashlib
import uuid
from dataclasses import dataclass, replace
from enum import StrEnum

from jutrel.core.account import AccountChange
from jutrel.core.errors import BadInput
from jutrel.core.people import Right, Role
from jutrel.core.wording import NOTHING, Said, Wording, say
from jutrel.exchange.people_list import lines_of, listed, people_list
from jutrel.service.context import Here
from jutrel.service.people.account import note
from jutrel.service.people.changes import add_hashed, waits_for_second
from jutrel.service.people.people import Actor, Person, people, require
from jutrel.service.people.pins import first_pin, hash_pin
from jutrel.service.people.roles import asked
from jutrel.store.queries import people as store

PART = 8
"""So many people one request takes in: a PIN takes its time, and whoever sends the list may stop between two."""


class PersonDoes(StrEnum):
    """What a line of the list comes to."""

    NEW = "new"
    WAITS = "waits"
    SAME = "same"
    REFUSED = "refused"


@dataclass(frozen=True, slots=True)
class PersonLine:
    """A line of the list: where it stands in the file, whom it is of, what it comes to, and why not. `pin`: of one who
    was added, for their first time; it is said this once."""

    line: int
    name: str
    role: str
    does: PersonDoes
    field: str = ""
    says: Said = NOTHING
    pin: str = ""


@dataclass(frozen=True, slots=True)
class PeopleNews:
    """What a list comes to; `kept`: its new people are on the site.

    `next`: the line after which it goes on, where there are more of them than one request takes in.
    """

    lines: tuple[PersonLine, ...]
    kept: bool
    next: int | None = None


async def people_in(
    here: Here, actor: Actor, sending: str, text: str, keep: bool, wording: Wording, after: int = 0
) -> PeopleNews:
    """Look at each line of a list of people; if none is refused, and only then, add those who are new.

    Those after a line of the file alone, eight at most.

    Nobody who is here is changed by a list: an old list would give roles back. `sending`: the sender's id; the same
    list sent twice adds nobody twice, and says the PINs again of those who have not used theirs.

    Raises
    ------
    BadInput
        If it is no list.
    Conflict
        If a role takes a second administrator, and there is none who could confirm it.
    """
    require(actor, Right.MANAGE)
    lines, new = await _looked(here, actor, sending, text, wording)
    if not keep or any(x.does is PersonDoes.REFUSED for x in lines):
        return PeopleNews(tuple(lines), False)
    # PINs take their time, on purpose: nobody waits for the site meanwhile. Then it is looked at once more.
    rest = sorted(line for line in new if line > after)
    more = rest[PART - 1] if len(rest) > PART else None
    pins = await _first_pins(here, actor, [new[line][0] for line in rest[:PART]])
    await store.hold_site(here.db, here.site.id)
    lines, new = await _looked(here, actor, sending, text, wording)
    if any(x.does is PersonDoes.REFUSED for x in lines):
        return PeopleNews(tuple(lines), False)
    out = []
    for x in lines:
        pin = ""
        if x.line in new and new[x.line][0] in pins:
            made_id, name, role = new[x.line]
            pin, pin_hash = pins[made_id]
            await _add(here, actor, Person(made_id, name, role), pin_hash, x.does is PersonDoes.WAITS)
        out.append(replace(x, pin=pin))
    there = {p.id for p in await people(here, with_inactive=True)}
    left_out = any(made_id not in there for line, (made_id, *_) in new.items() if line <= after)
    return PeopleNews(tuple(out), more is None and not left_out, more)


async def _looked(
    here: Here, actor: Actor, sending: str, text: str, wording: Wording
) -> tuple[list[PersonLine], dict[int, tuple[str, str, Role]]]:
    """What each line comes to, and by its line whom it would add: id, name and role."""
    there = {p.name.casefold(): p for p in await people(here, with_inactive=True) if not p.erased}
    wants = await asked(here)
    lines: list[PersonLine] = []
    new: dict[int, tuple[str, str, Role]] = {}
    seen: dict[str, int] = {}
    for n, cells in lines_of(text):
        said = cells.get("name", ""), cells.get("role", "")
        try:
            person = listed(cells, wording)
            if person is None:
                continue
            key = person.name.casefold()
            if key in seen:
                raise BadInput("name", "line {n} has the same name", n=seen[key])
            seen[key] = n
            made_id = _id_of(sending, key)
            known = there.get(key)
            role = person.role
            if known is None or (known.id == made_id and await _unused(here, actor, made_id)):
                new[n] = (made_id, person.name, role)
                waits = await waits_for_second(here, actor, made_id, role)
                does = PersonDoes.WAITS if waits else PersonDoes.NEW
            elif not known.active and known.id not in wants:
                raise BadInput("name", say("they have left the site: bring them back on the page People"))
            elif role not in (known.role, wants[known.id].role if known.id in wants else known.role):
                raise BadInput("role", say("they have another role here: change it on the page People"))
            else:
                does = PersonDoes.SAME
        except BadInput as no:
            lines.append(PersonLine(n, *said, PersonDoes.REFUSED, no.field, no.says))
        else:
            lines.append(PersonLine(n, person.name, role.value, does))
    if not lines:
        raise BadInput("text", "there is nobody in this list")
    return lines, new


async def _unused(here: Here, actor: Actor, person: str) -> bool:
    """Whether somebody is not on the site yet, or has not used the first PIN that this administrator gave."""
    have = await store.pin_of(here.db, here.site.id, person)
    if have is None:
        return True
    return have.once and (await store.pin_set(here.db, here.site.id, person))[1] == actor.person.id


async def _first_pins(here: Here, actor: Actor, ids: list[str]) -> dict[str, tuple[str, str]]:
    """A PIN for the first time and its hash, for each of these who is new, or has not used the one of this list."""
    open_ = [person for person in ids if await _unused(here, actor, person)]
    pins = [first_pin() for _ in open_]
    hashes = await asyncio.gather(*(asyncio.to_thread(hash_pin, pin) for pin in pins))
    return dict(zip(open_, zip(pins, hashes, strict=True), strict=True))


async def _add(here: Here, actor: Actor, who: Person, pin_hash: str, waits: bool) -> None:
    """Add somebody, or give them another PIN where this list added them before and its answer was lost."""
    have = await store.person(here.db, here.site.id, who.id)
    if have is None:
        await add_hashed(here, actor, who, pin_hash, once=True, waits=waits)
        return
    await store.change_person(here.db, here.site.id, have, pin_hash, here.now, actor.person.id, True)
    await note(here, actor.person.id, AccountChange.PIN_GIVEN, who.id)


async def people_out(here: Here) -> str:
    """The site's people as a list that can be taken in elsewhere."""
    return people_list((p.name, p.role, p.active) for p in await people(here, with_inactive=True) if not p.erased)


def _id_of(sending: str, name: str) -> str:
    """The id of a person of a list: the same each time that the same list is sent."""
    noise = bytearray(hashlib.sha256(f"{sending}/{name}".encode()).digest()[:16])
    return str(uuid.UUID(bytes=bytes(noise), version=4))
