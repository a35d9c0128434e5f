"""Rules across findings: what several of them mean together."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from jutrel.core.grading.grade import Grade
from jutrel.core.grading.item import Item
from jutrel.core.grading.rulebook import Combination, Pick
from jutrel.core.machine.model import Walk


@dataclass(frozen=True, slots=True)
class Combined:
    """A combination of findings that spoke."""

    rule: str
    says: str
    source: str
    grade: Grade
    limit: str | None


def combine(rule: Combination, items: Sequence[Item], walk: Walk) -> Combined | None:
    """What a combination says of these findings, or None if it does not speak."""
    if rule.together:
        present = {(i.checkpoint, i.finding.failure_mode) for i in items}
        if not all(pair in present for pair in rule.together):
            return None
        names = ", ".join(i.name for i in items if (i.checkpoint, i.finding.failure_mode) in rule.together)
        return Combined(
            rule.id, rule.says.format(names=names, count=len(rule.together)), rule.source, rule.grade, rule.limit
        )
    systems = {c.id: c.system.name for c in walk.model.family.checkpoints}
    counted = Counter(
        systems.get(i.checkpoint, "") if rule.pick is Pick.SAME_SYSTEM else ""
        for i in items
        if i.grade >= rule.at_least
    )
    for system, count in sorted(counted.items()):
        if count >= rule.count:
            return Combined(rule.id, rule.says.format(names=system, count=count), rule.source, rule.grade, rule.limit)
    return None
