"""The words of the trade, one a thing in each language, and what else people say for it, so that a search finds it."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Term:
    """A thing: what is said of it, what else finds it, and what is never printed, in English and in Spanish."""

    say: str
    found: tuple[str, ...]
    di: str
    encuentra: tuple[str, ...]
    never: tuple[str, ...] = ()
    nunca: tuple[str, ...] = ()


def others_for(name: str, terms: Sequence[Term], language: str) -> tuple[str, ...]:
    """What else people say for what an English name speaks of, in their language.

    >>> terms = (Term("bucket", ("scoop",), "cucharón", ("balde", "cuchara")),)
    >>> others_for("Bucket and edge", terms, "es"), others_for("Boom", terms, "en")
    (('balde', 'cuchara'), ())
    """
    hit = [t for t in terms if re.search(rf"\b{re.escape(t.say)}s?\b", name, re.IGNORECASE)]
    words = [w for t in hit for w in (t.encuentra if language == "es" else t.found)]
    return tuple(dict.fromkeys(words))
