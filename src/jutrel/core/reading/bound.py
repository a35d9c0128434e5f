"""A reading at a checkpoint of a machine: what the machine knows is filled in."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any, ParamSpec

from jutrel.core.errors import BadInput
from jutrel.core.inspection.kinds import HYDRAULIC_LEVEL
from jutrel.core.machine.family import Bound, ReadingKind
from jutrel.core.machine.model import Model, checkpoint_of
from jutrel.core.reading.all import READINGS, listed, run
from jutrel.core.reading.glass import level_inputs, machine_level
from jutrel.core.reading.instrument import LEVEL_INPUTS
from jutrel.core.reading.judgement import Band
from jutrel.core.reading.registry import Input, Reading


def bound_at(model: Model, checkpoint: str, key: str) -> Bound:
    """How a reading is taken at a checkpoint; raises BadInput if it is not taken there."""
    bound = next((b for b in checkpoint_of(model, checkpoint).readings if b.reading == key), None)
    if bound is None:
        raise BadInput("reading", "'{it}' is not taken at '{checkpoint}'", it=key[:60], checkpoint=checkpoint[:60])
    return bound


def machine_says(bound: Bound, model: Model) -> dict[str, Any]:
    """The inputs that a machine knows: its own figures, its compartments, what is always so there."""
    out: dict[str, Any] = dict(bound.given)
    for name, figures in bound.figures.items():
        one = listed(bound.reading).input(name)
        if figures[0].startswith(OF_TANK):
            if (of_tank := _of_tank(model, figures[0])) is not None:
                out[name] = of_tank
            continue
        values = [_figure(model, f) for f in figures]
        if one is None or None in values:
            continue  # a model file that does not give it: the person says it
        out[name] = tuple(values) if one.given.many else values[0]
    return out


OF_TANK = ("shape.", "heights.", "litres.")
"""What a model says of a tank by its strapping table: these with the fluid that stands in it."""


def _of_tank(model: Model, name: str) -> str | tuple[float, ...] | None:
    """The shape of a tank, or a row of its strapping table; None where the model has no table of it."""
    what, _, fluid = name.partition(".")
    lines = model.strapping.get(fluid)
    if lines is None:
        return None
    return "strapped" if what == "shape" else tuple(line[what == "litres"] for line in lines)


def _figure(model: Model, name: str) -> float | None:
    fluid = name.removeprefix("reserve.")
    value = model.reserves.get(fluid) if fluid != name else model.limits.get(name)
    return float(value) if isinstance(value, (int, float)) and not isinstance(value, bool) else None


def read_at(checkpoint: str, key: str, given: Mapping[str, Any], model: Model) -> Reading:
    """A reading with what the person said, and what the machine knows over it.

    The machine's own figures are not a matter of opinion: a cold pressure said too low would make a flat tyre good.

    Raises
    ------
    BadInput
        If it is not taken there, or an input is missing or cannot be.
    """
    if key == HYDRAULIC_LEVEL:
        _level_at(model, checkpoint)
        return machine_level(model.tank, given)
    bound = bound_at(model, checkpoint, key)
    known = {i.key for i in listed(key).inputs}
    filled = {k: v for k, v in machine_says(bound, model).items() if k in known}
    return run(key, {**given, **filled})


def check_read(checkpoint: str, key: str, given: Mapping[str, Any], model: Model) -> None:
    """Raises BadInput if a reading cannot be taken so, cannot be judged so, or contradicts the machine's own figures.

    What cannot be judged is not kept: it would stand in the log as if something had been read.
    """
    if key == HYDRAULIC_LEVEL:
        # One that cannot be judged so is kept: it is the answer there, and the checkpoint stays open.
        _given(read_at, checkpoint, key, given, model)
        inputs = level_inputs(model.tank)
        if strange := [name for name in given if name not in inputs]:
            says = "is no input of it; one of {those}"
            raise BadInput(f"given.{strange[0]}"[:80], says, those=", ".join(inputs))
        return
    bound = bound_at(model, checkpoint, key)
    for name, figure in machine_says(bound, model).items():
        if name in given and given[name] != figure:
            says = "this machine has its own figure for it: {figure}; leave it out"
            raise BadInput(f"given.{name}", says, figure=figure)
    reading = _given(read_at, checkpoint, key, given, model)
    if reading.judgement.band is Band.REFUSED:
        raise BadInput("given", "it cannot be judged so: {action}", action=reading.judgement.action)


P = ParamSpec("P")


def _given(take: Callable[P, Reading], *args: P.args, **kwargs: P.kwargs) -> Reading:
    """A reading taken; what is wrong with an input is told of it as a field of the entry."""
    try:
        return take(*args, **kwargs)
    except BadInput as error:
        field = error.field if error.field in ("checkpoint", "reading") else f"given.{error.field}"
        raise BadInput(field, error.says) from None


def _level_at(model: Model, checkpoint: str) -> None:
    """Raises BadInput if the hydraulic level is not read at a checkpoint."""
    if checkpoint_of(model, checkpoint).reading is not ReadingKind.HYDRAULIC_LEVEL:
        raise BadInput("checkpoint", "nothing is measured at '{checkpoint}'", checkpoint=checkpoint[:60])


def inputs_at(key: str) -> Sequence[Input]:
    """The inputs that an instrument can fill or that are shown beside what a hand said."""
    return LEVEL_INPUTS if key == HYDRAULIC_LEVEL else listed(key).inputs


def modes_of(key: str) -> tuple[str, ...]:
    """The failure modes that a reading finds; none for one that is not listed any more."""
    return ("level",) if key == HYDRAULIC_LEVEL else READINGS[key].modes if key in READINGS else ()


def check_told(key: str, told: Mapping[str, float]) -> None:
    """Raises BadInput if an instrument tells no such inputs of a reading.

    A figure that cannot be is kept: that the instrument is broken is no reason to lose what the hand says.
    """
    inputs = {i.key: i for i in inputs_at(key)}
    for name in told:
        one = inputs.get(name)
        if one is None or one.flag or one.choices or one.given.many:
            raise BadInput(f"told.{name}"[:80], "no instrument tells this for '{key}'", key=key)
