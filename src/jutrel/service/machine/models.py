"""Models: those that ship, and those that a site has written itself; exporting and importing them."""

from __future__ import annotations

import asyncio
import json
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING

from jutrel.catalog.files import BadFile, SourceFile
from jutrel.catalog.whole import FOLDER, Catalog
from jutrel.core.account import AccountChange
from jutrel.core.errors import BadInput
from jutrel.core.machine.file import with_own_limits
from jutrel.core.machine.model import Model
from jutrel.core.machine.unit import Unit
from jutrel.core.people import EDITORS
from jutrel.core.wording import Said
from jutrel.service.context import Here
from jutrel.service.people.account import note
from jutrel.service.people.people import Actor, allow
from jutrel.service.problem import Conflict, NotFound, Problem
from jutrel.store.queries import machines as store

if TYPE_CHECKING:
    from jutrel.catalog.draft import ModelDraft

MOST_BYTES = 400_000
NOBODY: Mapping[str, str] = {}


class BadModelFile(Problem):
    """A model file that cannot be used: where and why. Nothing was changed."""

    status = 422

    def __init__(self, error: BadFile) -> None:
        super().__init__("bad-model", "{error}. Nothing was changed.", error.field, error=error.said)
        self.line = error.line


@dataclass(frozen=True, slots=True)
class KnownModel:
    """A model this site can use; `edition` counts the site's own editions, 0 is the one that ships."""

    model: Model
    edition: int
    by: str | None
    at: datetime | None


def shipped_model(catalog: Catalog, model_id: str) -> Model:
    """A model that ships; raises BadInput naming those there are."""
    model = catalog.models.get(model_id)
    if model is None:
        raise BadInput(
            "model",
            "the catalog has no model '{model_id}'; it has {those}",
            model_id=model_id,
            those=", ".join(catalog.models),
        )
    return model


def check_options(model: Model, options: Iterable[str]) -> None:
    """Raises BadInput for an option that a model cannot have, naming those it can."""
    for option in options:
        if option not in model.options:
            raise BadInput(
                "options",
                "'{option}' is not an option of {name}; it has {those}",
                option=option,
                name=model.name,
                those=", ".join(model.options),
            )


def read_model(catalog: Catalog, name: str, text: str, kept: bool = False) -> Model:
    """A model from the text of a YAML or JSON file; `kept`: from the site's own files, which may be from before.

    Raises
    ------
    BadFile
        For the first thing that is wrong, with line, field and reason.
    """
    path = Path(name)
    if len(text.encode()) > MOST_BYTES:
        raise BadFile(path, 1, "file", "is larger than 400 kB: this is no model file")
    from jutrel.catalog.models import build_model  # what parses takes long to load and is seldom needed

    return build_model(SourceFile(path, text), catalog.families, catalog.schools, catalog.drawings, kept)


async def drafted(here: Here, text: str) -> ModelDraft:
    """A model file while it is written, drawn as far as it goes."""
    from jutrel.catalog.draft import draft_of  # what parses takes long to load and is seldom needed

    return await asyncio.to_thread(draft_of, here.catalog, "model.yaml", text)


@lru_cache(maxsize=128)
def _built(catalog: _Same, name: str, text: str) -> Model | None:
    """A stored model; None if it no longer fits the families of this version."""
    try:
        return read_model(catalog.catalog, name, text, kept=True)
    except BadFile:
        return None


class _Same:
    """A catalog as a key: one and the same, whatever is in it."""

    def __init__(self, catalog: Catalog) -> None:
        self.catalog = catalog

    def __hash__(self) -> int:
        return id(self.catalog)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.catalog is self.catalog


class _Files:
    """The site's own model files as this process read them last: they are only ever added to."""

    def __init__(self) -> None:
        self.version = ""
        self.files: dict[str, store.ModelFile] = {}


async def files_version(here: Here) -> str:
    """A text that is another when a model file of the site came in; asked once in a transaction."""
    if "models" not in here.asked:
        here.asked["models"] = await store.model_files_version(here.db, here.site.id)
    return str(here.asked["models"])


async def _files(here: Here) -> Mapping[str, store.ModelFile]:
    """The newest edition of each of the site's own model files, by model."""
    kept = here.books.one(_Files)
    version = await files_version(here)
    if version != kept.version:
        kept.files = {f.model_id: f for f in await store.model_files(here.db, here.site.id)}
        kept.version = version
    return kept.files


async def known_models(here: Here) -> Mapping[str, KnownModel]:
    """Every model the site can use, by id; the site's own stand before those that ship."""
    known = {key: KnownModel(model, 0, None, None) for key, model in here.catalog.models.items()}
    for file in (await _files(here)).values():
        model = _built(_Same(here.catalog), file.name, file.text)
        if model is not None:
            known[file.model_id] = KnownModel(model, file.edition, file.by, file.at)
    return known


async def known_model(here: Here, model_id: str) -> Model | None:
    """One model by id, or None."""
    file = (await _files(here)).get(model_id)
    model = _built(_Same(here.catalog), file.name, file.text) if file else None
    return model or here.catalog.models.get(model_id)


async def own_file_of(here: Here, model_id: str) -> str | None:
    """The text of the site's own file of a model, if the site has one in use."""
    file = (await _files(here)).get(model_id)
    return file.text if file and _built(_Same(here.catalog), file.name, file.text) else None


async def model_of(here: Here, model_id: str, machine: str) -> Model:
    """The model that a machine is of; NotFound if there is none (any more)."""
    model = await known_model(here, model_id)
    if model is None:
        raise NotFound("no-model", "There is no model '{model_id}' for {name}.", model_id=model_id, name=machine)
    return model


async def unit_model(here: Here, unit: Unit, own: bool = True) -> Model:
    """The model of a unit, with the unit's own figures if `own`; NotFound if there is none (any more)."""
    model = await model_of(here, unit.model_id, unit.name)
    return with_own_limits(model, unit.own_limits) if own else model


async def export_model(here: Here, model_id: str, as_json: bool) -> str:
    """The file of a model, as YAML (as it was written) or as JSON."""
    text = await own_file_of(here, model_id) or shipped_file(here.catalog, model_id)
    return as_json_file(text) if as_json else text


def as_json_file(text: str) -> str:
    """A model file's YAML as JSON."""
    return json.dumps(SourceFile(Path("model.yaml"), text).data, indent=1, ensure_ascii=False) + "\n"


def shipped_file(catalog: Catalog, model_id: str) -> str:
    """The text of a model file that ships; NotFound if there is none."""
    path = FOLDER / "models" / f"{model_id}.yaml"
    if model_id not in catalog.models or not path.exists():
        raise NotFound("no-model", "There is no model '{model_id}'.", model_id=model_id)
    return path.read_text(encoding="utf-8")


async def import_model(
    here: Here, actor: Actor, entry: str, name: str, text: str, keep: bool = True, source: Mapping[str, str] = NOBODY
) -> Model:
    """Take in a model file as a new edition; with `keep` false only say whether it could be. `source`: who signed it,
    for the account.

    Raises
    ------
    BadModelFile
        If the file is broken, or a machine of the site would lose what it has. Nothing changes.
    """
    allow(actor, *EDITORS)
    if not re.fullmatch(r"[\w .()-]{1,80}", name):
        raise BadInput("name", "give the file a plain name of up to 80 letters")
    have = await store.model_file_by_id(here.db, here.site.id, entry)
    try:
        model = read_model(here.catalog, name, text)
        if have is not None:
            if have != text:
                raise Conflict("id-taken", "This id was used for some other file.", field="id")
            return model
        limits = {x.id for x in model.family.limits}
        before = await known_model(here, model.id)
        for unit in await store.units(here.db, here.site.id, with_gone=True):
            if unit.model_id != model.id:
                continue
            if before is not None and before.family.id != model.family.id:
                raise BadFile(
                    Path(name),
                    1,
                    "family",
                    "{name} is of another family: {family}",
                    name=unit.name,
                    family=Said(before.family.name, (), "family"),
                )
            for option in sorted(unit.options - set(model.options)):
                raise BadFile(
                    Path(name),
                    1,
                    "options",
                    "{name} has '{option}': keep it, or take it off there",
                    name=unit.name,
                    option=option,
                )
            for limit in sorted(set(unit.own_limits) - limits):
                raise BadFile(Path(name), 1, "limits", "{name} has its own '{limit}'", name=unit.name, limit=limit)
    except BadFile as error:
        raise BadModelFile(error) from None
    if keep:
        await store.add_model_file(here.db, here.site.id, model.id, entry, name, text, here.now, actor.person.id)
        await note(here, actor.person.id, AccountChange.MODEL_TAKEN, model.id, {"file": name, **source})
        here.asked.pop("models", None)
    return model
