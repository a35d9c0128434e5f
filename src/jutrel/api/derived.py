"""What goes over the wire where it is what the core says: fields and bounds taken from the core's own dataclass."""

from __future__ import annotations

import dataclasses
import inspect
import types
import typing
from collections.abc import Collection, Mapping, Sequence
from datetime import datetime
from enum import Enum, IntEnum
from typing import Annotated, Any, Literal, Union, dataclass_transform, get_args, get_origin

from pydantic import BaseModel, Field, StringConstraints
from pydantic._internal._model_construction import ModelMetaclass

from jutrel.core.log.codec import Between, Most, Text, encode, fields_of
from jutrel.core.wording import Said

MADE: dict[tuple[type, bool], type[BaseModel]] = {}
"""Wire types by what they are of, and whether they come in."""


@dataclass_transform(kw_only_default=True, field_specifiers=(Field,))
class Derived(ModelMetaclass):
    """Makes `class SomethingOut(Out, of=Something)`: the fields of `Something`, and those that the class adds or says
    in another way. `without` leaves some away.

    What comes in keeps the core's bounds and defaults. What goes out has every field: sentences are text by then.
    """

    def __new__(
        mcs,
        name: str,
        bases: tuple[type, ...],
        namespace: dict[str, Any],
        of: type | None = None,
        without: Collection[str] = (),
        **more: Any,
    ) -> type:
        """A wire type; KeyError if a dataclass within it has none."""
        if of is None:
            return super().__new__(mcs, name, bases, namespace, **more)
        comes_in = any(getattr(base, "comes_in", False) for base in bases)
        own = dict(namespace.get("__annotations__", {}))
        derived: dict[str, Any] = {}
        for field in dataclasses.fields(of):
            key = field.name
            if key in own or key in without:
                continue
            hint = next(h for k, h, _ in fields_of(of) if k == key)
            derived[key] = wire_of(hint, comes_in)
            if comes_in and field.default is not dataclasses.MISSING:
                namespace[key] = field.default
            elif comes_in and field.default_factory is not dataclasses.MISSING:
                namespace[key] = Field(default_factory=field.default_factory)
        order = [f.name for f in dataclasses.fields(of)]
        both = {**derived, **own}
        namespace["__annotations__"] = dict(
            sorted(both.items(), key=lambda kv: order.index(kv[0]) if kv[0] in order else len(order))
        )
        namespace.setdefault("__doc__", first_lines(of))
        made = super().__new__(mcs, name, bases, namespace, **more)
        MADE.setdefault((of, comes_in), typing.cast("type[BaseModel]", made))
        return made


def first_lines(of: type) -> str | None:
    """What the core says of it, without its parameters and examples.

    >>> from jutrel.core.reading.judgement import Figure
    >>> first_lines(Figure)
    'One step of the arithmetic, in the unit that it is shown in.'
    """
    told = inspect.cleandoc(of.__doc__ or "").split("\n\n")
    return " ".join(told[0].split()) or None


def wire_of(hint: Any, comes_in: bool = False) -> Any:
    """How a field of the core goes over the wire.

    >>> wire_of(tuple[Said, ...]), wire_of(Mapping[str, float]), wire_of(frozenset[str])
    (list[str], dict[str, float], list[str])
    """
    bounds: tuple[Any, ...] = ()
    if get_origin(hint) is Annotated:
        hint, *rest = get_args(hint)
        bounds = tuple(rest)
    origin, args = get_origin(hint), get_args(hint)
    if origin in (Union, types.UnionType):
        members = tuple(wire_of(a, comes_in) for a in args)
        return Union[members]  # noqa: UP007  (made while it runs)
    if hint is Said:
        return str
    if isinstance(hint, type) and issubclass(hint, IntEnum):
        return Literal[tuple(encode(member) for member in hint)]
    if isinstance(hint, type) and (issubclass(hint, (Enum, datetime)) or hint in (bool, int, type(None))):
        return _bounded(hint, bounds) if comes_in and hint is int else hint
    if isinstance(hint, type) and issubclass(hint, BaseModel):
        return hint
    if isinstance(hint, type) and dataclasses.is_dataclass(hint):
        return MADE[hint, comes_in]
    if hint in (float, str):
        return _bounded(hint, bounds) if comes_in else hint
    if origin is Literal or hint is Any:
        return hint
    if isinstance(origin, type) and issubclass(origin, Mapping):
        made: Any = dict[wire_of(args[0], comes_in), wire_of(args[1], comes_in)]  # type: ignore[misc]
    elif origin is tuple and (len(args) != 2 or args[1] is not Ellipsis):
        return tuple[tuple(wire_of(a, comes_in) for a in args)]  # type: ignore[misc]
    elif isinstance(origin, type) and issubclass(origin, (Sequence, frozenset, set, Collection)):
        made = list[wire_of(args[0], comes_in)]  # type: ignore[misc]
    else:
        raise TypeError(f"{hint} has no form on the wire")
    most = next((b.items for b in bounds if isinstance(b, Most)), None)
    return Annotated[made, Field(max_length=most)] if comes_in and most else made


def _bounded(hint: type, bounds: Sequence[Any]) -> Any:
    """A number or text that comes in, with the core's bounds."""
    if hint is str:
        text = next((b for b in bounds if isinstance(b, Text)), Text())
        pattern = f"^(?:{text.pattern})$" if text.pattern else r"^[^\x00]*$"
        return Annotated[str, StringConstraints(min_length=text.least or None, max_length=text.most, pattern=pattern)]
    between = next((b for b in bounds if isinstance(b, Between)), None)
    low, high = (between.low, between.high) if between else (None, None)
    return Annotated[hint, Field(ge=low, le=high, allow_inf_nan=None if hint is int else False)]
