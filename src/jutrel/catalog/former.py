"""The rules as they were before parts had duties: what was written down then is judged by them for good."""

from __future__ import annotations

import gzip
import json
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path

from jutrel.core.edition import Edition
from jutrel.core.grading.rulebook import Rulebook
from jutrel.core.log.codec import decode
from jutrel.core.machine.family import Family
from jutrel.core.machine.kind import InspectionKind, Question
from jutrel.core.machine.model import Model

FILE = Path(__file__).parent / "former" / "without-duties.json.gz"


@dataclass(frozen=True, slots=True)
class Former:
    """Families, rules, kinds and questions of a former release."""

    rulebook: Rulebook
    kinds: Mapping[str, InspectionKind]
    questions: tuple[Question, ...]
    families: Mapping[str, Family]


@cache
def former() -> Former:
    """What the release before duties went by, read once."""
    return decode(Former, json.loads(gzip.decompress(FILE.read_bytes())), "former")


def former_edition(model: Model) -> Edition:
    """What a look at a machine of this model was judged by then; a family that came later keeps its own checkpoints."""
    then = former()
    family = then.families.get(model.family.id, model.family)
    return Edition(replace(model, family=family), then.rulebook, then.kinds, then.questions)
