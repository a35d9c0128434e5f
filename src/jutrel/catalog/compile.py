"""The catalog as editions: one for each model, named by the hash of its content."""

from __future__ import annotations

from jutrel.catalog.whole import Catalog
from jutrel.core.edition import Edition, compiled, edition_hash
from jutrel.core.machine.model import Model
from jutrel.core.procedure.step import Step


def edition_of(catalog: Catalog, model: Model) -> Edition:
    """The edition under which a look at a machine of this model is judged today."""
    steps = steps_of(catalog, model)
    return Edition(model, catalog.rulebook, catalog.kinds, catalog.questions, steps, catalog.judgement)


def steps_of(catalog: Catalog, model: Model) -> tuple[Step, ...]:
    """The steps of a run that machines of this model can have."""
    steps = catalog.procedures.get(model.family.id, ())
    return tuple(s for s in steps if s.options <= set(model.options))


_UNDER: dict[tuple[int, str], tuple[Catalog, Editions]] = {}


def editions_under(catalog: Catalog, regime: str) -> Editions:
    """The editions of a catalog under a regime: compiled once in each process, whoever asks."""
    kept = _UNDER.get((id(catalog), regime))
    if kept is None or kept[0] is not catalog:
        kept = (catalog, Editions(catalog.under(regime)))
        _UNDER[id(catalog), regime] = kept
    return kept[1]


class Editions:
    """Compiles editions of one catalog, each model once."""

    def __init__(self, catalog: Catalog) -> None:
        self.catalog = catalog
        self._made: dict[int, tuple[Model, str, bytes]] = {}

    def of(self, model: Model) -> tuple[str, bytes]:
        """Hash and content of the edition for a model."""
        made = self._made.get(id(model))
        if made is None or made[0] is not model:
            content = compiled(edition_of(self.catalog, model))
            made = (model, edition_hash(content), content)
            self._made[id(model)] = made
        return made[1], made[2]

    def name_of(self, model: Model) -> str:
        """The hash of the edition for a model."""
        return self.of(model)[0]

    def content(self, name: str) -> bytes | None:
        """The content of an edition that was compiled here, by its hash."""
        return next((content for _, hash_, content in self._made.values() if hash_ == name), None)
