"""Random histories: never clearance where the oracle refuses; and where it clears, seldom a refusal, with a way out.

150 in `make test`, 20,000 in `make test-deep`.
"""

from __future__ import annotations

from collections import Counter

import pytest

from tests.clearance.chance import history
from tests.clearance.conftest import Told
from tests.clearance.oracle import Act, may
from tests.clearance.world import Asked, World
from tests.deep import DEEP

MANY = 20_000 if DEEP else 30
PARTS = 100 if DEEP else 1


def said(seed: int, q: Asked, acts: list[Act], world: World) -> str:
    """A history in lines, to be judged by hand."""
    lines = [f"seed {seed}: {q.who} asks at {q.when}; refused: {world.refused}"]
    lines += [" ".join(f"{k}={v}" for k, v in vars(a).items() if v not in ("", None, frozenset())) for a in acts]
    return "\n".join(lines)


@pytest.mark.parametrize("part", range(PARTS))
@pytest.mark.timeout(1800)
def test_never_more_than_the_oracle_allows(told: Told, part: int) -> None:
    both: Counter[str] = Counter()
    stricter: Counter[str] = Counter()
    for seed in range(part * MANY // PARTS, (part + 1) * MANY // PARTS):
        acts, asked = history(seed)
        answers, world = told(acts, asked)
        for q, c in answers:
            start, work = may(acts, q.who, q.when)
            lacks = [x.key for x in c.work.lacks]
            assert not (c.start.may and not start), said(seed, q, acts, world)
            assert not (c.work.may and not work), said(seed, q, acts, world)
            both["clear" if start and c.start.may else "refused" if not start else "stricter"] += 1
            if start and not c.start.may:
                # Stricter than the oracle: the way to clearance exists and is told.
                stricter[lacks[0]] += 1
                assert all(x.act and str(x.says) for x in c.start.lacks)
    print(dict(both), dict(stricter))
    assert both["clear"] > 0.1 * both.total(), both
    # While somebody walks round it the product waits for their word; the oracle does not know that.
    assert stricter.total() - stricter["walking"] < 0.03 * both.total(), stricter
