"""Histories that were judged by hand: the oracle and the product come to the same, each by its own way."""

from __future__ import annotations

import pytest

from tests.clearance.conftest import Told
from tests.clearance.oracle import may
from tests.clearance.world import History, histories

ALL = histories()


def test_there_are_thirty_of_them_and_they_say_yes_and_no() -> None:
    answers = [(q.start, q.work) for h in ALL for q in h.asked]
    assert len(ALL) >= 30
    assert min(answers.count(a) for a in ((True, True), (True, False), (False, False))) >= 3


@pytest.mark.parametrize("history", ALL, ids=lambda h: h.name)
def test_the_oracle_judges_as_the_hand_did(history: History) -> None:
    for q in history.asked:
        assert may(list(history.acts), q.who, q.when) == (q.start, q.work), (q, history.why)


@pytest.mark.parametrize("history", ALL, ids=lambda h: h.name)
def test_the_product_judges_as_the_hand_did(told: Told, history: History) -> None:
    answers, world = told(history.acts, history.asked)
    for q, c in answers:
        assert (c.start.may, c.work.may) == (q.start, q.work), (q, [x.key for x in c.work.lacks], world.refused)
        # A refusal says what is missing; a proof names what it stands on.
        assert c.start.may or (c.start.lacks and str(c.why))
        assert all(str(p.says) for p in c.start.premises)
    assert told.folded(world), "what was written step by step is what the log says as a whole"
