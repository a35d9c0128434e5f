"""A route asked for by words, as the command line does."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from jutrel.catalog import catalog
from jutrel.core.errors import BadInput
from jutrel.core.inspection.entry import Conditions
from jutrel.core.inspection.occasion import neighbours
from jutrel.core.inspection.plan import Wishes
from jutrel.core.machine.model import Walk, walk_for, walk_of

SIDES = ("left", "right", "rear", "front")


def route_wishes(
    model_id: str, options: Sequence[str] | None, kind_id: str, answers: Sequence[str], wishes: Wishes, beside: str
) -> tuple[Walk, Wishes]:
    """The walk of a catalog model and the wishes for it; no options given: everything it can have.

    Raises
    ------
    BadInput
        For a model, option, kind, answer or side that there is not, naming what there is.
    """
    known = catalog()
    model = known.models.get(model_id)
    if model is None:
        raise BadInput("model", f"the catalog has no model '{model_id}'; it has {', '.join(known.models)}")
    for option in options or ():
        if option not in model.options:
            raise BadInput("options", f"'{option}' is not an option of {model.name}; it has {', '.join(model.options)}")
    if kind_id not in known.kinds:
        raise BadInput("kind", f"'{kind_id}' is no kind of inspection; one of {', '.join(known.kinds)}")
    says = {q.id: q.says for q in known.questions}
    for answer in answers:
        if answer not in says:
            raise BadInput("answers", f"the approach asks nothing called '{answer}'; one of {', '.join(says)}")
    gaps: dict[str, float] = {}
    for part in (p.strip() for p in beside.split(",") if p.strip()):
        side, _, metres = part.partition("=")
        try:
            gaps[f"gap_{side}"] = float(metres)
        except ValueError:
            raise BadInput("beside", f"write it like left=0.5; '{part}' is not") from None
        if side not in SIDES or not 0 <= gaps[f"gap_{side}"] <= 30:
            raise BadInput("beside", f"a side is one of {', '.join(SIDES)}, and the gap 0 to 30 m")
    whole = walk_of(model, frozenset(model.options if options is None else options))
    walk = walk_for(whole, known.kinds[kind_id], {a: says[a] for a in answers})
    return walk, replace(wishes, beside=neighbours(model.shape, Conditions(**gaps)))  # type: ignore[arg-type]
