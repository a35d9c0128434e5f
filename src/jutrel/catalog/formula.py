"""Figures of a drawing as short sums over the figures of a model: `track_length / 2 - 0.3`."""

from __future__ import annotations

import ast
import math
import operator
from collections.abc import Callable, Mapping

from jutrel.core.errors import BadInput

_TWO: Mapping[type, Callable[[float, float], float]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
    ast.Pow: operator.pow,
}
FUNCTIONS: Mapping[str, Callable[..., float]] = {
    "min": min,
    "max": max,
    "sqrt": math.sqrt,
    "sin": lambda deg: math.sin(math.radians(deg)),
    "cos": lambda deg: math.cos(math.radians(deg)),
    "asin": lambda share: math.degrees(math.asin(max(-1.0, min(1.0, share)))),
    "atan2": lambda y, x: math.degrees(math.atan2(y, x)),
    "hypot": math.hypot,
}
"""What a sum may use; angles are in degrees."""
LONGEST = 200


class NoValue(BadInput):
    """A sum that is one, and has no value with these figures."""


def worked_out(sum_: str | float, known: Mapping[str, float]) -> float:
    """The value of a sum; `known` gives the figures it may name.

    Raises
    ------
    BadInput
        If it is no sum, names a figure that is not known, or has no value.

    >>> worked_out("length / 2 - 0.3", {"length": 4.0})
    1.7
    >>> worked_out("lenght / 2", {"length": 4.0})
    Traceback (most recent call last):
    ...
    jutrel.core.errors.BadInput: lenght / 2: no figure is called 'lenght'
    """
    if not isinstance(sum_, str):
        return float(sum_)
    try:
        if len(sum_) > LONGEST:
            raise SyntaxError
        value = _value(ast.parse(sum_, mode="eval").body, known, sum_)
    except BadInput:
        raise
    except (SyntaxError, RecursionError, MemoryError):
        raise BadInput(sum_[:40], "is no sum of figures; write it like track_length / 2 - 0.3") from None
    except (ArithmeticError, ValueError, TypeError):
        raise NoValue(sum_[:40], "has no value with this model's figures") from None
    if isinstance(value, complex) or not math.isfinite(value):
        raise NoValue(sum_[:40], "has no value with this model's figures")
    return value


def _value(node: ast.expr, known: Mapping[str, float], sum_: str) -> float:
    match node:
        case ast.Constant(value=int() | float() as number) if not isinstance(number, bool):
            return float(number)
        case ast.Name(id=name):
            if name not in known:
                raise BadInput(sum_[:40], "no figure is called '{name}'", name=name)
            return known[name]
        case ast.UnaryOp(op=ast.USub(), operand=operand):
            return -_value(operand, known, sum_)
        case ast.BinOp(left=left, op=op, right=right) if type(op) in _TWO:
            a, b = _value(left, known, sum_), _value(right, known, sum_)
            return _TWO[type(op)](a, b)
        case ast.Call(func=ast.Name(id=name), args=args, keywords=[]) if name in FUNCTIONS:
            return float(FUNCTIONS[name](*(_value(a, known, sum_) for a in args)))
        case _:
            raise SyntaxError
