"""What is said of a field that a form's own checks refused, whatever library made them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from jutrel.core.wording import Said, say

_PLAIN = {
    "missing": say("is missing"),
    "extra_forbidden": say("is not a known field"),
    "string_type": say("write it as text"),
    "string_pattern_mismatch": say("is not written the way it must be"),
    "bool_type": say("answer true or false"),
    "bool_parsing": say("answer true or false"),
    "float_type": say("give a plain number"),
    "float_parsing": say("give a plain number"),
    "finite_number": say("give a plain number"),
    "int_type": say("give a whole number"),
    "int_parsing": say("give a whole number"),
    "int_from_float": say("give a whole number"),
    "list_type": say("give a list"),
    "dict_type": say("give fields with their values"),
    "model_type": say("give fields with their values"),
    "model_attributes_type": say("give fields with their values"),
    "json_invalid": say("is not readable JSON"),
}


def refused_field(kind: str, told: Mapping[str, Any], other: str = "") -> Said:
    """What is wrong with a field, from the check's kind and what it told.

    >>> str(refused_field("greater_than_equal", {"ge": 0}))
    'is below 0; check the figure and its unit'
    """
    if kind in _PLAIN:
        return _PLAIN[kind]
    match kind:
        case "greater_than_equal":
            return say("is below {low}; check the figure and its unit", low=told.get("ge", 0))
        case "less_than_equal":
            return say("is above {high}; check the figure and its unit", high=told.get("le", 0))
        case "greater_than":
            return say("must be above {low}; check the figure and its unit", low=told.get("gt", 0))
        case "less_than":
            return say("must be below {high}; check the figure and its unit", high=told.get("lt", 0))
        case "string_too_long":
            return say("is longer than {n} letters: shorten it", n=told.get("max_length", 0))
        case "string_too_short":
            return say("is empty: write something")
        case "too_long":
            return say("has more than {n} items", n=told.get("max_length", 0))
        case "too_short":
            return say("has fewer than {n} items", n=told.get("min_length", 0))
        case "literal_error" | "enum":
            return say("is not one of {those}", those=str(told.get("expected", "?")))
        case _:
            return say("cannot be read: {problem}", problem=other) if other else say("cannot be read")
