"""An edition: the rules and the model that a look is bound to, as plain data with a hash of its content."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass

from jutrel.core.grading.rulebook import Rulebook
from jutrel.core.log.codec import Plain, decode, encode
from jutrel.core.machine.kind import InspectionKind, Question
from jutrel.core.machine.model import Model
from jutrel.core.procedure.step import Step


@dataclass(frozen=True, slots=True)
class Edition:
    """All that decides on one machine: its model with the family, rules, kinds, questions, steps.

    `judgement`: the version of the core that reads them, so that a constant of a reading is part of it too; empty: from
    before that was noted.
    """

    model: Model
    rulebook: Rulebook
    kinds: Mapping[str, InspectionKind]
    questions: tuple[Question, ...]
    steps: tuple[Step, ...] = ()
    judgement: str = ""


def compiled(edition: Edition) -> bytes:
    """The edition as canonical JSON, which the core can load without any package or file."""
    return json.dumps(encode(edition), sort_keys=True, separators=(",", ":"), ensure_ascii=True).encode()


def edition_hash(content: bytes) -> str:
    """The edition's name: SHA-256 of its compiled form."""
    return hashlib.sha256(content).hexdigest()


def load_edition(content: bytes) -> Edition:
    """An edition from its compiled form.

    Raises
    ------
    BadInput
        If this version cannot read it, naming the field.
    """
    plain: Plain = json.loads(content)
    return decode(Edition, plain, "edition")
