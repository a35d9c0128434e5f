"""Models: those that ship, and those that a site has written itself; exporting and importing them."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from pathlib import Path

import yaml
from sqlalchemy import func, select
from sqlalchemy.ext.asyncio import AsyncSession

from jutrel.catalog import catalog
from jutrel.catalog.files import BadFile, SourceFile
from jutrel.catalog.load import FOLDER
from jutrel.catalog.models import build_model
from jutrel.core.errors import BadInput
from jutrel.core.inspection.entry import Role
from jutrel.core.machine.file import with_own_limits
from jutrel.core.machine.model import Limit, Model
from jutrel.service.people import Actor, allow
from jutrel.service.problem import Conflict, NotFound, Problem
from jutrel.store.tables import MachineRow, ModelFileRow

EDITORS = (Role.MECHANIC, Role.SUPERVISOR, Role.ADMINISTRATOR)
MOST_BYTES = 400_000


class BadModelFile(Problem):
    """A model file that cannot be used: where and why. Nothing was changed."""

    status = 422

    def __init__(self, error: BadFile) -> None:
        super().__init__("bad-model", f"{error}. Nothing was changed.", error.field)
        self.line = error.line


@dataclass(frozen=True, slots=True)
class KnownModel:
    """A model this site can use; `edition` counts the site's own editions, 0 is the one that ships."""

    model: Model
    edition: int
    by: str | None
    at: datetime | None


def read_model(name: str, text: str) -> Model:
    """A model from the text of a YAML or JSON file.

    Raises
    ------
    BadFile
        For the first thing that is wrong, with line, field and reason.
    """
    path = Path(name)
    if len(text.encode()) > MOST_BYTES:
        raise BadFile(path, 1, "file", "is larger than 400 kB: this is no model file")
    return build_model(SourceFile(path, text), catalog().families)


@lru_cache(maxsize=128)
def _built(name: str, text: str) -> Model | None:
    """A stored model; None if it no longer fits the families of this version."""
    try:
        return read_model(name, text)
    except BadFile:
        return None


async def own_files(db: AsyncSession, site: str) -> list[ModelFileRow]:
    """The newest edition of each of the site's own model files."""
    newest = (
        select(ModelFileRow)
        .where(ModelFileRow.site_id == site)
        .distinct(ModelFileRow.model_id)
        .order_by(ModelFileRow.model_id, ModelFileRow.edition.desc())
    )
    return list((await db.execute(newest)).scalars())


async def known_models(db: AsyncSession, site: str) -> Mapping[str, KnownModel]:
    """Every model the site can use, by id; the site's own stand before those that ship."""
    known = {key: KnownModel(model, 0, None, None) for key, model in catalog().models.items()}
    for row in await own_files(db, site):
        model = _built(row.name, row.text)
        if model is not None:
            known[row.model_id] = KnownModel(model, row.edition, row.by, row.at)
    return known


async def known_model(db: AsyncSession, site: str, model_id: str) -> Model | None:
    """One model by id, or None."""
    row = (
        await db.execute(
            select(ModelFileRow)
            .where(ModelFileRow.site_id == site, ModelFileRow.model_id == model_id)
            .order_by(ModelFileRow.edition.desc())
            .limit(1)
        )
    ).scalar_one_or_none()
    return (row and _built(row.name, row.text)) or catalog().models.get(model_id)


async def own_file_of(db: AsyncSession, site: str, model_id: str) -> str | None:
    """The text of the site's own file of a model, if the site has one in use."""
    rows = [r for r in await own_files(db, site) if r.model_id == model_id]
    return rows[0].text if rows and _built(rows[0].name, rows[0].text) else None


async def model_of(db: AsyncSession, machine: MachineRow, own: Mapping[str, Limit] | None = None) -> Model:
    """The model of a unit with the unit's own figures; NotFound if there is none (any more)."""
    model = await known_model(db, machine.site_id, machine.model_id)
    if model is None:
        raise NotFound("no-model", f"There is no model '{machine.model_id}' for {machine.name}.")
    return with_own_limits(model, machine.own_limits if own is None else own)


async def export_model(db: AsyncSession, site: str, model_id: str, as_json: bool) -> str:
    """The file of a model, as YAML (as it was written) or as JSON."""
    text = await own_file_of(db, site, model_id) or shipped_file(model_id)
    return as_json_file(text) if as_json else text


def as_json_file(text: str) -> str:
    """A model file's YAML as JSON."""
    return json.dumps(yaml.safe_load(text), indent=1, ensure_ascii=False) + "\n"


def shipped_file(model_id: str) -> str:
    """The text of a model file that ships; NotFound if there is none."""
    path = FOLDER / "models" / f"{model_id}.yaml"
    if model_id not in catalog().models or not path.exists():
        raise NotFound("no-model", f"There is no model '{model_id}'.")
    return path.read_text(encoding="utf-8")


async def import_model(
    db: AsyncSession, actor: Actor, entry: str, name: str, text: str, now: datetime, keep: bool = True
) -> Model:
    """Take in a model file as a new edition; with `keep` false only say whether it could be.

    Raises
    ------
    BadModelFile
        If the file is broken, or a machine of the site would lose what it has. Nothing changes.
    """
    allow(actor, *EDITORS)
    if not re.fullmatch(r"[\w .()-]{1,80}", name):
        raise BadInput("name", "give the file a plain name of up to 80 letters")
    have = (
        await db.execute(select(ModelFileRow).where(ModelFileRow.site_id == actor.site, ModelFileRow.id == entry))
    ).scalar_one_or_none()
    try:
        model = read_model(name, text)
        if have is not None:
            if have.text != text:
                raise Conflict("id-taken", "Another file with this id is already recorded.", field="id")
            return model
        machines = await db.execute(
            select(MachineRow).where(MachineRow.site_id == actor.site, MachineRow.model_id == model.id)
        )
        limits = {x.id for x in model.family.limits}
        before = await known_model(db, actor.site, model.id)
        for machine in machines.scalars():
            if before is not None and before.family.id != model.family.id:
                raise BadFile(Path(name), 1, "family", f"{machine.name} is a {before.family.name.lower()}")
            for option in sorted(set(machine.options) - set(model.options)):
                raise BadFile(Path(name), 1, "options", f"{machine.name} has '{option}': keep it, or take it off there")
            for limit in sorted(set(machine.own_limits) - limits):
                raise BadFile(Path(name), 1, "limits", f"{machine.name} has its own '{limit}'")
    except BadFile as error:
        raise BadModelFile(error) from None
    if keep:
        last = await db.scalar(
            select(func.max(ModelFileRow.edition)).where(
                ModelFileRow.site_id == actor.site, ModelFileRow.model_id == model.id
            )
        )
        db.add(
            ModelFileRow(
                site_id=actor.site,
                model_id=model.id,
                edition=(last or 0) + 1,
                id=entry,
                name=name,
                text=text,
                at=now,
                by=actor.person.id,
            )
        )
        await db.flush()
    return model
