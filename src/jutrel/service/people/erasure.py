"""How long a site keeps the names of people who left."""

from __future__ import annotations

import json
from datetime import timedelta
from typing import Any

from jutrel.core.account import CONSOLE, AccountChange
from jutrel.core.errors import BadInput
from jutrel.exchange.record import written
from jutrel.service.context import Here
from jutrel.service.log.seal import opened
from jutrel.service.people.account import note
from jutrel.service.people.changes import erase_person
from jutrel.service.people.pens import certificates_of
from jutrel.store.queries import log as log_store
from jutrel.store.queries import people as store

LEAST_DAYS = 30
"""Sooner nobody is erased by itself: what they reported is still worked on, and who left by mistake comes back."""


async def erase_after(here: Here, days: int | None) -> None:
    """Say after how many days the name of somebody who left is erased; None: never by itself.

    Raises
    ------
    BadInput
        For fewer than thirty days.
    """
    if days is not None and days < LEAST_DAYS:
        raise BadInput("days", "give {least} days or more, or never", least=LEAST_DAYS)
    await store.erase_after(here.db, here.site.id, days)
    said = "never" if days is None else str(days)
    await note(here, CONSOLE, AccountChange.ERASURE_CHANGED, here.site.id, {"days": said})


async def erase_due(here: Here) -> int:
    """Erase the names of those who left long enough ago by the site's rule; how many there were."""
    days = await store.erased_after(here.db, here.site.id)
    if days is None:
        return 0
    gone = await store.left_before(here.db, here.site.id, here.now - timedelta(days=days))
    for person in gone:
        await erase_person(here, CONSOLE, person)
    return len(gone)


async def erase_in_documents(here: Here) -> int:
    """Call those whose name was erased by their number in the documents of signed looks; how many were changed.

    A document names people beside its entries, and in what the site says of their pens; the entries, their hashes and
    their seals hold ids alone and stay as they are, so that the document still proves what it did. What others wrote
    in their own words stays.
    """
    gone = await store.still_in_documents(here.db, here.site.id)
    changed = 0
    for person in gone:
        async for signature, document in log_store.documents_about(here.db, here.site.id, person):
            made = await _unnamed(here, json.loads(document), gone)
            if made != document:
                await log_store.change_document(here.db, here.site.id, signature, made)
                changed += 1
    await store.documents_done(here.db, here.site.id, list(gone))
    return changed


async def _unnamed(here: Here, document: dict[str, Any], gone: dict[str, str]) -> bytes:
    for person in document["people"]:
        person["name"] = gone.get(person["id"], person["name"])
    said = {pen: opened(certificate).says.get("person") for pen, certificate in document.get("pens", {}).items()}
    if said:
        document["pens"] |= await certificates_of(here, [pen for pen, person in said.items() if person in gone])
    return written(document)
