"""JSON Schema (2020-12) of the core's dataclasses, from the same declarations that the codec reads."""

from __future__ import annotations

import dataclasses
import types
import typing
from collections.abc import Mapping
from datetime import datetime
from enum import Enum
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from jutrel.core.log.codec import MOST_ITEMS, Between, Most, Text, encode, fields_of

Schema = dict[str, Any]


def schema_of(kind: Any) -> Schema:
    """The JSON Schema of what `decode` takes for `kind`.

    >>> schema_of(tuple[int, ...])
    {'type': 'array', 'items': {'type': 'integer'}, 'maxItems': 500}
    """
    bounds: tuple[Any, ...] = ()
    if get_origin(kind) is Annotated:
        kind, *more = get_args(kind)
        bounds = tuple(more)
    origin = get_origin(kind)
    if kind is Any:
        return {}
    if origin in (Union, types.UnionType):
        return {"anyOf": [schema_of(m) for m in get_args(kind)]}
    if origin is Literal:
        return {"enum": list(get_args(kind))}
    if kind is str:
        text = next((b for b in bounds if isinstance(b, Text)), Text())
        out: Schema = {"type": "string", "maxLength": text.most}
        if text.least:
            out["minLength"] = text.least
        out["pattern"] = f"^{text.pattern}$" if text.pattern else "^[^\\u0000]*$"
        return out
    if kind is bool:
        return {"type": "boolean"}
    if kind in (int, float):
        number: Schema = {"type": "integer" if kind is int else "number"}
        for b in bounds:
            if isinstance(b, Between):
                number |= {"minimum": b.low, "maximum": b.high}
        return number
    if kind is datetime:
        return {"type": "string", "format": "date-time"}
    if kind is type(None):
        return {"type": "null"}
    if isinstance(kind, type) and issubclass(kind, Enum):
        return {"enum": [encode(m) for m in kind]}
    if dataclasses.is_dataclass(kind):
        return record_schema(typing.cast(type, kind))
    args = get_args(kind)
    most = next((b.items for b in bounds if isinstance(b, Most)), MOST_ITEMS)
    if isinstance(origin, type) and issubclass(origin, Mapping):
        return {"type": "object", "additionalProperties": schema_of(args[1]), "propertyNames": schema_of(args[0])}
    if origin is tuple and (len(args) != 2 or args[1] is not Ellipsis):
        return {
            "type": "array",
            "prefixItems": [schema_of(a) for a in args],
            "minItems": len(args),
            "maxItems": len(args),
        }
    return {"type": "array", "items": schema_of(args[0]), "maxItems": most}


def record_schema(kind: type, extra: Mapping[str, Schema] | None = None) -> Schema:
    """The schema of one dataclass; `extra` adds fields that tell it from others."""
    fields = fields_of(kind)
    required = [*(extra or {}), *(name for name, _, needed in fields if needed)]
    out: Schema = {
        "type": "object",
        "title": kind.__name__,
        "properties": {**(extra or {}), **{name: schema_of(hint) for name, hint, _ in fields}},
        "additionalProperties": False,
    }
    if required:
        out["required"] = required
    doc = (kind.__doc__ or "").split("\n", 1)[0]
    return {**out, "description": doc} if doc else out
