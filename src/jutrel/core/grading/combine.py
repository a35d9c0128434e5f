"""Rules across findings: what several of them mean together."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from jutrel.core.grading.grade import Grade
from jutrel.core.grading.item import Item
from jutrel.core.grading.rulebook import Combination, Pick
from jutrel.core.grading.view import view_of
from jutrel.core.machine.model import Walk
from jutrel.core.wording import Said, Words


@dataclass(frozen=True, slots=True)
class Combined:
    """A combination of findings that spoke."""

    rule: str
    says: Said
    source: Annotated[str, Words("source")]
    grade: Grade
    limit: Said | None


def combine(rule: Combination, items: Sequence[Item], walk: Walk) -> Combined | None:
    """What a combination says of these findings, or None if it does not speak."""
    if rule.unseen_deg:
        view = view_of(walk, items)
        low, high = rule.unseen_deg
        if view is None or not low <= view.widest <= high:
            return None
        return _combined(rule, view.sides, view.widest)
    if rule.together:
        present = {(i.checkpoint, i.finding.failure_mode) for i in items}
        if not all(pair in present for pair in rule.together):
            return None
        hit = (i.name for i in items if (i.checkpoint, i.finding.failure_mode) in rule.together)
        return _combined(rule, tuple(Said(name, (), "checkpoint") for name in hit), len(rule.together))
    if rule.all_of:
        bad = {i.checkpoint: i.name for i in items if i.grade >= rule.at_least and i.checkpoint in rule.all_of}
        if set(bad) != set(rule.all_of):
            return None
        return _combined(rule, tuple(Said(bad[c], (), "checkpoint") for c in rule.all_of), len(bad))
    systems = {c.id: c.system.name for c in walk.model.family.checkpoints}
    counted = Counter(
        systems.get(i.checkpoint, "") if rule.pick is Pick.SAME_SYSTEM else ""
        for i in items
        if i.grade >= rule.at_least
    )
    for system, count in sorted(counted.items()):
        if count >= rule.count:
            return _combined(rule, Said(system, (), "system"), count)
    return None


def _combined(rule: Combination, names: object, count: int) -> Combined:
    says = Said(rule.says, (("names", names), ("count", count)), "rule")
    limit = Said(rule.limit, (), "limit") if rule.limit else None
    return Combined(rule.id, says, rule.source, rule.grade, limit)
