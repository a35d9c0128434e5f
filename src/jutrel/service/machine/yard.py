"""The yard at the start of a shift: every machine, can it go, and why not."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from jutrel.core.clearance.answer import Clearance
from jutrel.core.clearance.go import Go, go_of
from jutrel.core.clearance.looks import Looks, looks_named
from jutrel.core.clearance.prove import changes_at, clearance
from jutrel.core.inspection.look import Status, lapsed
from jutrel.core.machine.model import Model
from jutrel.core.machine.state import LookSummary
from jutrel.core.machine.unit import SiteInfo, Unit
from jutrel.core.wording import Said
from jutrel.service.clearance.clearance import machine_as
from jutrel.service.context import Here, Shop
from jutrel.service.machine.models import files_version, known_models
from jutrel.service.people.pens import hashed
from jutrel.service.people.people import names_of
from jutrel.service.problem import NotSignedIn
from jutrel.store.queries import machines as machine_store
from jutrel.store.queries import projections as rows
from jutrel.store.queries import yard as store


@dataclass(frozen=True, slots=True)
class YardMachine:
    """A machine in its bay and how it stands. `last`: the newest signed look; `current`: the one under way."""

    unit: Unit
    model: Model
    clearance: Clearance
    last: LookSummary | None
    current: LookSummary | None
    signed_by: str | None
    walked_by: str | None

    @property
    def go(self) -> Go:
        """How it stands, in a word."""
        return go_of(self.clearance)

    @property
    def why(self) -> Said:
        """The reason in a sentence."""
        return self.clearance.why


@dataclass(frozen=True, slots=True)
class Bay:
    """A machine as its row told it, for as long as nobody writes that row."""

    written: int
    unit: Unit
    model: Model
    looks: Looks
    names: Mapping[str, str]
    edition: str
    """The name of the rules and the model in force for it."""

    def at(self, here: Here) -> tuple[YardMachine, datetime | None]:
        """How it stands now, and when that changes if nobody does anything."""
        unit, looks, names, now = self.unit, self.looks, self.names, here.now
        machine = machine_as(here, unit, looks, self.edition)
        current = looks.current
        if current is not None and lapsed(current.status, current.begun_at, now) is not Status.WALKING:
            current = None
        last = looks.newest
        signed = names.get(last.signed_by or "") if last else None
        walked = names.get(current.last_by) if current else None
        told = YardMachine(unit, self.model, clearance(machine, now), last, current, signed, walked)
        return told, changes_at(machine, now)


class Bays:
    """The bays of a site as this process read them last: only rows that were written since are read again."""

    def __init__(self) -> None:
        self._bays: dict[str, Bay] = {}
        self._models = ""

    async def read(self, here: Here) -> list[Bay]:
        """Every machine of the site, in the order of the bays; one whose model is not known any more is left out."""
        db, site = here.db, here.site.id
        written = await store.machine_versions(db, site)
        editions = f"{await files_version(here)} {here.site.regime} {id(here.editions)}"
        if editions != self._models:
            self._bays, self._models = {}, editions
        stale = {m for m, at in written.items() if m not in self._bays or self._bays[m].written != at}
        kept = {m: bay for m, bay in self._bays.items() if m in written and m not in stale}
        if stale:
            kept |= await self._anew(here, stale, written)
            self._bays = kept
        return [kept[m] for m in written if m in kept]

    async def _anew(self, here: Here, stale: set[str], written: Mapping[str, int]) -> dict[str, Bay]:
        db, site = here.db, here.site.id
        units = await store.units_by_id(db, site, stale)
        ids = {i for u in units for i in u.newest.ids}
        found = {look.id: look for _, look in await rows.looks_of(db, site, ids=ids)} if ids else {}
        models, names = await known_models(here), await names_of(here)
        out = {}
        for u in units:
            if u.model_id in models:
                model = models[u.model_id].model
                edition = here.editions.of(model)[0]
                out[u.id] = Bay(written[u.id], u, model, looks_named(u.newest, found), names, edition)
        return out


class LastSeen:
    """What this process saw of the site's yard last."""

    def __init__(self) -> None:
        self.seen = store.Seen()


async def version_of(shop: Shop, token: str | None, now: datetime) -> tuple[SiteInfo, str]:
    """The site that a session belongs to, and a text that is another when anything in its yard was written.

    Raises
    ------
    NotSignedIn
        Without a session.
    """
    last = shop.books.one(LastSeen)
    async with shop.store.driver() as driver:
        found = await store.yard_version(driver, hashed(token), now, last.seen) if token else None
    if found is None:
        raise NotSignedIn("not-signed-in", "Sign in with your name and PIN.")
    site, _, last.seen = found
    return site, f"{found[2].version}-{site.regime}-{site.shifts}"


async def yard(here: Here) -> list[YardMachine]:
    """Every machine of the site and how it stands."""
    return [bay.at(here)[0] for bay in await here.books.one(Bays).read(here)]


async def machines_of(here: Here) -> list[Unit]:
    """The machines that are on the site, in the order of their bays."""
    return await machine_store.units(here.db, here.site.id)
