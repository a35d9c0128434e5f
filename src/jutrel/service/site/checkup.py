"""What is wrong with an installation, in sentences for whoever looks after it."""

from __future__ import annotations

import shutil
from dataclasses import dataclass
from datetime import datetime, timedelta

from jutrel.core.account import broken_at
from jutrel.core.machine.unit import SiteInfo
from jutrel.core.people import Role
from jutrel.service.people.site_keys import ENCRYPTED, SiteKeys
from jutrel.service.problem import Unavailable
from jutrel.service.site.shops import each_site
from jutrel.settings import Settings
from jutrel.store.base import Db, Store, StoreAway, StoreBusy
from jutrel.store.queries import account as account_store
from jutrel.store.queries import installation as rows
from jutrel.store.queries import machines as machine_store
from jutrel.store.queries import people as people_store
from jutrel.store.queries.sites import sites_there

LEAST_FREE = 0.1
"""How much of a disk stays free, a share; common practice."""
OLDEST_BACKUP = timedelta(hours=26)
MOST_CLOCK_S = 2.0


@dataclass(frozen=True, slots=True)
class CheckLine:
    """Something that was looked at: whether it is good, and a sentence."""

    good: bool
    says: str


def _line(good: bool, well: str, bad: str) -> CheckLine:
    return CheckLine(good, well if good else bad)


async def checked_up(settings: Settings, now: datetime) -> list[CheckLine]:
    """Everything that can be looked at from here, in order."""
    return [*_served(settings), *await _stored(settings, now), *_kept(settings, now)]


def _served(settings: Settings) -> list[CheckLine]:
    address, pages = settings.public_address, settings.web_folder / "index.html"
    return [
        _line(
            bool(address),
            f"People reach it at {address}; other addresses are refused.",
            "Set JUTREL_PUBLIC_ADDRESS to where people reach it: other addresses are then refused.",
        ),
        _line(
            address.startswith("https://"),
            "It is reached over TLS.",
            "It is reached without TLS: PINs and records can be read and changed on the way.",
        ),
        _line(
            not settings.demo_pin,
            "It is no demo.",
            "JUTREL_DEMO_PIN is set: everybody's PIN is said on the sign-in page. Take it out.",
        ),
        _line(
            not settings.device_key,
            "Every device has its own key.",
            "JUTREL_DEVICE_KEY is one key for all devices. Give each its own, on the page Devices.",
        ),
        _line(pages.exists(), "The pages are built.", f"The pages are not built: {pages} is not there."),
    ]


async def _stored(settings: Settings, now: datetime) -> list[CheckLine]:
    store = Store(settings.database_url)
    try:
        async with store.transaction() as db:
            state = await rows.installation(db)
            of_release = state.release == state.newest
            off = abs((state.clock - now).total_seconds())
            found = [
                CheckLine(True, "The database answers."),
                _line(
                    of_release,
                    "The database is of this release.",
                    f"The database is of release {state.release}, not {state.newest}: run `jutrel migrate`.",
                ),
                _line(
                    not state.may_change_log,
                    "The role that serves cannot change what was written.",
                    "JUTREL_DATABASE_URL serves as a role that may change the log: use jutrel_serve.",
                ),
                CheckLine(off <= MOST_CLOCK_S, f"The clocks of server and database differ by {off:.1f} s."),
            ]
        if of_release:
            async with store.driver() as driver:
                there = await sites_there(driver)
            if len(there.ids) > 1:
                found.append(
                    _line(
                        there.apart,
                        f"The database keeps {len(there.ids)} sites apart.",
                        "There are several sites, and JUTREL_DATABASE_URL serves as a role that sees all of them: none "
                        "is served. Use jutrel_serve.",
                    )
                )
            for one in await each_site(store, settings.site):
                async with one.transaction() as db:
                    site = await machine_store.only_site(db)
                    unset = [CheckLine(False, "No site has been set up: `jutrel site new`.")]
                    found += await _of_site(db, site, settings) if site is not None else unset
        return found
    except (StoreAway, StoreBusy) as error:
        return [CheckLine(False, f"The database does not answer: {error}")]
    finally:
        await store.close()


async def _key_kept(db: Db, site: SiteInfo, settings: Settings) -> tuple[bool, str]:
    """Whether the site's own key is kept apart from its data, and a sentence."""
    have = await people_store.site_key(db, site.id)
    if have is not None and not have[0].startswith(ENCRYPTED):
        return False, (
            "The site's own key lies open in the database and in each backup: set JUTREL_KEY_FILE, "
            "then `jutrel site encrypt-key`."
        )
    try:
        keys = SiteKeys(settings.key_file)
        keys.opened(site.id, have[0] if have else keys.encrypted(site.id, ""))
    except Unavailable as problem:
        return False, f"{problem} Nobody can sign in."
    if settings.key_file is None:
        return (
            False,
            "The site's own key will lie open in the database: set JUTREL_KEY_FILE, then `jutrel site encrypt-key`.",
        )
    return True, "The site's own key is encrypted by a file outside the database."


async def _of_site(db: Db, site: SiteInfo, settings: Settings) -> list[CheckLine]:
    people = await people_store.people(db, site.id)
    chiefs = sum(p.role is Role.ADMINISTRATOR for p in people)
    waiting = await rows.first_pins(db, site.id)
    encrypted, key_says = await _key_kept(db, site, settings)
    broken = broken_at(reversed(await account_store.lines(db, site.id)))
    return [
        CheckLine(True, f"The site is {site.name}: {len(people)} people, {waiting} with a PIN for the first time."),
        _line(
            chiefs > 1,
            f"There are {chiefs} administrators.",
            "There are fewer than two administrators: whoever loses that PIN needs this console. Add another.",
        ),
        _line(
            bool(site.numbers), "There are numbers for emergencies.", "The site has no number to call in an emergency."
        ),
        CheckLine(encrypted, key_says),
        _line(
            broken is None,
            "The account of changes is whole.",
            f"The account of changes is broken at line {broken}: it was changed in the database.",
        ),
    ]


def _kept(settings: Settings, now: datetime) -> list[CheckLine]:
    disk = shutil.disk_usage(settings.web_folder if settings.web_folder.exists() else "/")
    free = disk.free / disk.total
    found = [CheckLine(free >= LEAST_FREE, f"{free:.0%} of the disk is free.")]
    stamp = settings.backup_stamp
    if stamp is None:
        return [*found, CheckLine(False, "No backup is known: see docs/running.md, and set JUTREL_BACKUP_STAMP.")]
    if not stamp.exists():
        return [*found, CheckLine(False, f"No backup has been made yet: {stamp} is not there.")]
    age = now - datetime.fromtimestamp(stamp.stat().st_mtime, tz=now.tzinfo)
    return [*found, CheckLine(age <= OLDEST_BACKUP, f"The newest backup is {age.total_seconds() / 3600:.1f} h old.")]
