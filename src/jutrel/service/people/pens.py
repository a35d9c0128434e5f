"""Pens: the right to write as somebody on a device, the site's word for them, and which of them wrote an entry."""

from __future__ import annotations

import hashlib
from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from jutrel.core.errors import BadInput
from jutrel.core.log.codec import time_of
from jutrel.core.people import Role
from jutrel.service.context import Here
from jutrel.service.log.seal import holds, new_site_key, opened, read_key, sealed
from jutrel.service.people.site_keys import ENCRYPTED, tablet_key_of
from jutrel.service.problem import NotFound
from jutrel.store.queries import people as store
from jutrel.store.queries.people import Pen, Person


@dataclass(frozen=True, slots=True)
class Actor:
    """Who asks: a signed-in person, the site, and the pen they hold."""

    site: str
    person: Person
    pen: Pen


@dataclass(frozen=True, slots=True)
class Shown:
    """What a sender shows of pens besides its own: `secrets` of those that have no key, and `certificates`: the site's
    word for pens that its database may have lost since."""

    secrets: tuple[str, ...] = ()
    certificates: tuple[str, ...] = ()


def hashed(secret: str) -> str:
    """What is kept of a token or a pen's secret."""
    return hashlib.sha256(secret.encode()).hexdigest()


async def pens_shown(here: Here, own: Pen, shown: Shown, sealing: Collection[str] = ()) -> list[Pen]:
    """The pens by which entries may be sent: the sender's own, those whose secrets are shown, and those whose seals
    they bear, which are checked by their keys."""
    found = {p.id: p for p in await store.pens_by_id(here.db, here.site.id, sealing) if p.key}
    if shown.certificates and (missing := set(sealing) - set(found) - {own.id}):
        found |= {p.id: p for c in shown.certificates if (p := await _taken_again(here, c, missing))}
    shown_pens = await store.pens_by_secret(here.db, here.site.id, [hashed(s) for s in shown.secrets])
    found |= {p.id: p for p in shown_pens}
    return [own, *(p for p in found.values() if p.id != own.id)]


async def _taken_again(here: Here, certificate: str, missing: Collection[str]) -> Pen | None:
    """A pen that the site once gave and its database does not know any more, by the site's own seal; None: it is none.

    Only a backup that was put back loses a pen: none is ever taken away. A person whom the backup does not know is not
    made from a certificate: an administrator adds people.
    """
    try:
        says = opened(certificate).says
        if says.get("site") != here.site.id or says.get("pen") not in missing:
            return None
        if not holds(certificate, (await site_key(here))[1]):
            return None
        pen = _pen_in(says)
    except (BadInput, ValueError):
        return None
    if await store.person(here.db, here.site.id, pen.person) is None:
        return None
    await store.give_pen(here.db, here.site.id, pen, hashed(certificate), None)
    return pen


def _pen_in(says: Any) -> Pen:
    """The pen that a certificate speaks of; raises BadInput or ValueError where it cannot be one."""
    read_key(str(says.get("key")))
    return Pen(
        id=str(says["pen"]),
        person=str(says.get("person")),
        role=Role(says.get("role")),
        device=str(says.get("device")),
        given_at=time_of("given_at", says.get("given_at")),
        ends_at=time_of("ends_at", says.get("ends_at")),
        key=str(says.get("key")),
    )


async def site_key(here: Here) -> tuple[str, str]:
    """The private and the public half of the site's key, made when it is needed first.

    Raises
    ------
    Unavailable
        While the file that encrypts it is away.
    """
    site, keys = here.site.id, here.books.site_keys
    have = await store.site_key(here.db, site)
    if have is None:
        private, public = new_site_key()
        await store.keep_site_key(here.db, site, keys.encrypted(site, private), public, here.now)
        have = await store.site_key(here.db, site)
    assert have is not None
    return keys.opened(site, have[0]), have[1]


async def encrypt_site_key(here: Here) -> bool:
    """Lock the site's key by the installation's file; whether it lay open until now. As the database's owner."""
    have = await store.site_key(here.db, here.site.id)
    if have is None or have[0].startswith(ENCRYPTED):
        await site_key(here)
        return False
    await store.change_site_key(here.db, here.site.id, here.books.site_keys.encrypted(here.site.id, have[0]))
    return True


async def tablet_key(here: Here, person: str) -> bytes:
    """The key by which tablets encrypt what they keep of a person who signed out."""
    return tablet_key_of((await site_key(here))[0], here.site.id, person)


async def certificate_of(here: Here, pen: str) -> str:
    """The site's word for a pen by its id; NotFound where there is none that has a key."""
    found = await store.pens_by_id(here.db, here.site.id, [pen])
    if not found or not found[0].key:
        raise NotFound("no-pen", "No pen of this site has that id and a key.")
    person = await store.person(here.db, here.site.id, found[0].person)
    assert person is not None
    return await vouched(here, person, found[0])


async def certificates_of(here: Here, pens: Collection[str]) -> dict[str, str]:
    """The site's word for each of these pens that has a key, by its id."""
    found = [p for p in await store.pens_by_id(here.db, here.site.id, pens) if p.key]
    everybody = {p.id: p for p in await store.people(here.db, here.site.id, with_inactive=True)} if found else {}
    return {p.id: await vouched(here, everybody[p.person], p) for p in sorted(found, key=lambda p: p.id)}


async def vouched(here: Here, person: Person, pen: Pen) -> str:
    """The site's word for a pen, sealed with its own key: whose it is, as what, on which device, for how long.

    Empty for a pen that has no key.
    """
    if not pen.key:
        return ""
    private, _ = await site_key(here)
    says = {
        "site": here.site.id,
        "pen": pen.id,
        "person": person.id,
        "name": person.name,
        "role": pen.role.value,
        "device": pen.device,
        "given_at": pen.given_at.isoformat(),
        "ends_at": pen.ends_at.isoformat(),
        "key": pen.key,
    }
    return sealed(private, f"site:{here.site.id}", says)


def pen_for(pens: Collection[Pen], person: str, at: datetime) -> Pen | None:
    """The pen by which a person wrote at a time: the one whose span holds it, else the last that had ended by then,
    else the first given after it.

    A time outside every span is no reason to lose the entry: the server bounds the time, not the entry. What was
    written after a signing out is not of the pen that comes with the next signing in.
    """
    mine = [p for p in pens if p.person == person]

    def far(pen: Pen) -> tuple[int, float]:
        if pen.given_at <= at <= pen.ends_at:
            return 0, 0.0
        if pen.ends_at < at:
            return 1, (at - pen.ends_at).total_seconds()
        return 2, (pen.given_at - at).total_seconds()

    return min(mine, key=lambda p: (*far(p), p.given_at), default=None)
