"""`jutrel site`, `jutrel person`, `jutrel check`: an installation set up at its console, and what is wrong with it."""

from __future__ import annotations

import asyncio
import re
from collections.abc import Awaitable, Callable
from datetime import UTC, datetime
from typing import Annotated, TypeVar

import typer

from jutrel.catalog.kept import catalog
from jutrel.commands.said import fail
from jutrel.core.errors import BadInput
from jutrel.core.log.codec import time_of
from jutrel.core.machine.unit import SiteInfo, UnitSystem
from jutrel.core.people import Role
from jutrel.service.context import Books, here_of
from jutrel.service.inspection.photo import tidy_photos
from jutrel.service.people.erasure import erase_after, erase_due, erase_in_documents
from jutrel.service.people.pens import encrypt_site_key
from jutrel.service.people.site_keys import SiteKeys, make_key_file
from jutrel.service.problem import NotFound, Problem
from jutrel.service.site.backups import backed_up, put_back
from jutrel.service.site.checkup import checked_up
from jutrel.service.site.setup import (
    FirstPin,
    give_address,
    give_code,
    new_person,
    new_pin,
    new_site,
    slug_of,
    take_address,
)
from jutrel.service.site.shops import each_site
from jutrel.settings import Settings
from jutrel.store.base import Db, Store, StoreAway, StoreBusy

T = TypeVar("T")
app = typer.Typer()
site = typer.Typer(no_args_is_help=True, help="The site of this installation.")
person = typer.Typer(no_args_is_help=True, help="People of the site, at the console.")
app.add_typer(site, name="site")
app.add_typer(person, name="person")


def _in_store(work: Callable[[Db, Books], Awaitable[T]]) -> T:
    """Do something in one transaction, for the only site or the one that is named."""
    return _as_owner(work, each=False)[0]


def _on_each(work: Callable[[Db, Books], Awaitable[T]]) -> list[T]:
    """Do something for each site, in a transaction of its own, or for the one that is named."""
    return _as_owner(work, each=True)


def _as_owner(work: Callable[[Db, Books], Awaitable[T]], each: bool) -> list[T]:
    """Do something as the database's owner; says plainly what is wrong."""
    settings = Settings()

    async def run() -> list[T]:
        store, done = Store(settings.owner_url or settings.database_url), []
        try:
            for one in await each_site(store, settings.site) if each or settings.site else [store]:
                async with one.transaction() as db:
                    done.append(await work(db, Books(catalog(), settings.texts, SiteKeys(settings.key_file))))
        finally:
            await store.close()
        return done

    try:
        return asyncio.run(run())
    except Problem as problem:
        raise fail(str(problem.says)) from None
    except BadInput as error:
        raise fail(str(error)) from None
    except (StoreAway, StoreBusy) as error:
        raise fail(f"The database does not answer: {error}") from None


def _say_pin(given: FirstPin) -> None:
    typer.echo(f"{given.person.name} ({given.person.role.value}): PIN {given.pin}")
    typer.echo("It is said this once, and is for the first time: they choose their own when they sign in.")


@site.command("new")
def site_new(
    name: Annotated[str, typer.Argument(help="What people call it.")],
    zone: Annotated[str, typer.Option(help="The time zone of its people, as the tz database writes it, such as UTC.")],
    administrator: Annotated[str, typer.Option(help="The name of its first administrator.")],
    shift: Annotated[list[str], typer.Option(help="When a shift begins and how long it lasts: 06:00=8. One or more.")],
    regime: Annotated[str, typer.Option(help="Whose rules hold besides; see the page Rulebook.")] = "house",
    units: Annotated[UnitSystem, typer.Option(help="What its people usually read.")] = UnitSystem.METRIC,
    number: Annotated[list[str] | None, typer.Option(help="Whom to call: 'Ambulance=112'. One or more.")] = None,
    id: Annotated[str, typer.Option(help="A short name for records; else made from the name.")] = "",
    address: Annotated[str, typer.Option(help="Its own host, such as ridge.example, where there are several.")] = "",
) -> None:
    """Set up a site with its first administrator."""
    slug = id or slug_of(name)
    if not re.fullmatch(r"[A-Za-z0-9][A-Za-z0-9_.-]{0,59}", slug):
        raise fail("id: give a short name of letters, figures and hyphens with --id")
    shifts = tuple((begins, _hours(hours)) for begins, hours in (_pair(s, "shift", "06:00=8") for s in shift))
    numbers = tuple(_pair(n, "number", "Ambulance=112") for n in number or ())
    longest = max((hours for _, hours in shifts), default=8.0)
    made = SiteInfo(slug, name, zone, regime, longest, units, numbers, shifts)
    host = address.lower()
    _say_pin(_in_store(lambda db, books: new_site(db, books, made, administrator, datetime.now(UTC), host)))


@site.command("address")
def site_address(
    host: Annotated[str, typer.Argument(help="A host that leads to the site, such as ridge.example.")],
    take_away: Annotated[bool, typer.Option("--take-away", help="It leads there no longer.")] = False,
) -> None:
    """Give a site an address of its own, or take one away. Which site: JUTREL_SITE, where there are several."""

    async def change(db: Db, books: Books) -> None:
        here = await here_of(db, books, datetime.now(UTC))
        await (take_address if take_away else give_address)(here, host.lower())

    _in_store(change)


@site.command("encrypt-key")
def site_encrypt_key() -> None:
    """Lock the site's own key by the file that JUTREL_KEY_FILE names, which is made if it is not there."""
    file = Settings().key_file
    if file is None:
        raise fail(
            "Set JUTREL_KEY_FILE to where the file shall lie: not in the database's folder, nor with its backups."
        )
    try:
        made = make_key_file(file)
    except OSError as error:
        raise fail(f"{file} could not be made: {error.strerror}.") from None

    async def encrypt(db: Db, books: Books) -> str:
        try:
            here = await here_of(db, books, datetime.now(UTC))
        except NotFound as problem:
            if problem.kind != "no-site":
                raise
            return "There is no site yet: its key is encrypted when it is made."
        opened = await encrypt_site_key(here)
        return f"{here.site.name}: {'encrypted now' if opened else 'was encrypted already'}."

    for line in _on_each(encrypt):
        typer.echo(line)
    if made:
        typer.echo(f"{file} was made. Keep a copy of it apart from the backups: a restored server needs it.")


def _pair(text: str, field: str, example: str) -> tuple[str, str]:
    left, found, right = text.partition("=")
    if not found or not left.strip() or not right.strip():
        raise fail(f"{field}: write it as {example}")
    return left.strip(), right.strip()


def _hours(text: str) -> float:
    try:
        return float(text)
    except ValueError:
        raise fail("shift: write it as 06:00=8") from None


@site.command("code")
def site_code() -> None:
    """Give a code by which the page sets up the site of this installation, once, within the hour."""
    code = _in_store(lambda db, books: give_code(db, books, datetime.now(UTC)))
    typer.echo(f"Open the page, and set the site up with this code within the hour: {code}")


@site.command("backed-up")
def site_backed_up(
    began: Annotated[str, typer.Argument(help="When the backup began, such as 2026-05-04T06:10:00Z.")],
) -> None:
    """Write down that a backup was made and read back: tablets may then let go of what it holds."""

    async def write(db: Db, books: Books) -> None:
        await backed_up(await here_of(db, books, datetime.now(UTC)), time_of("began", began))

    _on_each(write)


@site.command("put-back")
def site_put_back() -> None:
    """Write down that this database was put back from a backup: tablets then send again what it lacks."""

    async def write(db: Db, books: Books) -> None:
        await put_back(await here_of(db, books, datetime.now(UTC)))

    _on_each(write)
    typer.echo("Tablets will send again what this database lacks, as soon as each of them reaches it.")
    typer.echo("Everybody signs in anew. Look through the people: who was removed since, and which PIN was changed, is")
    typer.echo("as it was when the backup was made.")


@site.command("tidy")
def site_tidy() -> None:
    """Take away photos that nothing has shown for a week, and names of people who left, by the site's rule."""

    async def tidy(db: Db, books: Books) -> tuple[int, int, int]:
        here = await here_of(db, books, datetime.now(UTC))
        return await tidy_photos(here), await erase_due(here), await erase_in_documents(here)

    photos, names, documents = map(sum, zip(*_on_each(tidy), strict=True))
    typer.echo(f"photos taken away: {photos}")
    typer.echo(f"names erased: {names}")
    typer.echo(f"documents of looks that named them: {documents}")


@site.command("erase-after")
def site_erase_after(
    days: Annotated[str, typer.Argument(help="Days after somebody left, 30 or more; or: never.")],
) -> None:
    """Say after how long `jutrel site tidy` erases the names of people who left."""
    if days != "never" and not re.fullmatch(r"[0-9]{1,5}", days):
        raise fail("days: write a number of days, or never")

    async def keep(db: Db, books: Books) -> None:
        here = await here_of(db, books, datetime.now(UTC))
        await erase_after(here, None if days == "never" else int(days))

    _in_store(keep)


@person.command("new")
def person_new(
    name: Annotated[str, typer.Argument(help="As others call them.")],
    role: Annotated[Role, typer.Argument(help="What they may do.")],
) -> None:
    """Add a person. People are added on the page People too; the account names this console."""

    async def add(db: Db, books: Books) -> FirstPin:
        return await new_person(await here_of(db, books, datetime.now(UTC)), name, role)

    _say_pin(_in_store(add))


@person.command("pin")
def person_pin(name: Annotated[str, typer.Argument(help="Whose PIN is lost.")]) -> None:
    """Give somebody a new PIN for the first time; their sessions end."""

    async def give(db: Db, books: Books) -> FirstPin:
        return await new_pin(await here_of(db, books, datetime.now(UTC)), name)

    _say_pin(_in_store(give))


@app.command()
def check() -> None:
    """Say what is wrong with this installation, in sentences; ends with 1 if something is."""
    found = asyncio.run(checked_up(Settings(), datetime.now(UTC)))
    for one in found:
        typer.echo(f"{'good ' if one.good else 'WRONG'}  {one.says}")
    if not all(one.good for one in found):
        raise typer.Exit(1)
