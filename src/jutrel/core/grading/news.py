"""What one look leaves for the next to look at again, beside what is still open."""

from __future__ import annotations

from jutrel.core.grading.verdict import Verdict
from jutrel.core.inspection.entry import Changed


def news_of(verdict: Verdict) -> tuple[Changed, ...]:
    """Checkpoints that were found sound again, and those that nobody could see."""
    news = {
        r.checkpoint: Changed(
            r.checkpoint, f"{r.grade.word.capitalize()} there was found sound again: see whether it holds."
        )
        for r in verdict.released
    }
    for item in verdict.items:
        if item.finding.failure_mode == "unseen":
            news[item.checkpoint] = Changed(item.checkpoint, "Nobody could see it at the last look.")
    return tuple(news.values())
