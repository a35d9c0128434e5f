"""Training: who was shown what, and when somebody is offered to be shown again. It never says no to anybody."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from jutrel.core.wording import NOTHING, Said, say, together

LONG_AWAY_DAYS = 180
"""After so long without the model a refresher is offered; common practice, half a year."""


class Taught(StrEnum):
    """What somebody was shown."""

    MODEL = "model"
    GROUND = "ground"


@dataclass(frozen=True, slots=True)
class Training:
    """That a person was shown a model, or the ground of this site.

    Parameters
    ----------
    model
        Of what was shown of a model; empty for the ground.
    by, at
        Who showed it, and when.
    withdrawn
        It was written down wrongly.
    """

    id: str
    person: str
    taught: Taught
    model: str
    note: str
    by: str
    at: datetime
    withdrawn: bool = False


@dataclass(frozen=True, slots=True)
class Briefing:
    """What the record knows of a person and a model. `offer`: somebody should show them (again)."""

    says: Said
    offer: bool


def briefing(
    person: str,
    model: str,
    trainings: Iterable[Training],
    ran_model: datetime | None,
    ran_here: datetime | None,
    now: datetime,
) -> Briefing:
    """What a person is told before they run a model.

    `ran_model`: when they last ran one like it; `ran_here`: when they last ran anything on this site.

    >>> briefing("p", "m", [], None, None, datetime(2026, 5, 4)).offer
    True
    >>> ran = datetime(2026, 5, 1)
    >>> briefing("p", "m", [], ran, ran, datetime(2026, 5, 4)).says.text
    'You ran this model {n} days ago.'
    """
    mine = [t for t in trainings if t.person == person and not t.withdrawn and t.at <= now]
    shown = max((t.at for t in mine if t.taught is Taught.MODEL and t.model == model), default=None)
    ground = any(t.taught is Taught.GROUND for t in mine)
    last = max((t for t in (shown, ran_model) if t is not None), default=None)
    new = NOTHING
    if ran_here is None and not ground:
        new = say("By the record this ground is new to you: have it shown to you.")
    if last is None:
        says = say("By the record you never ran this model here: have it shown to you.")
        return Briefing(together([says, new]), True)
    days = (now - last).days
    if days > LONG_AWAY_DAYS:
        says = say("It is {n} days since you ran this model or were shown it: ask for a refresher.", n=days)
        return Briefing(together([says, new]), True)
    if ran_model is None or (shown is not None and shown > ran_model):
        says = say("You were shown this model today.")
        if days:
            says = say("You were shown this model {n} days ago.", n=days) if days > 1 else SHOWN_YESTERDAY
    else:
        says = say("You ran this model today.")
        if days:
            says = say("You ran this model {n} days ago.", n=days) if days > 1 else RAN_YESTERDAY
    return Briefing(together([says, new]), bool(new))


SHOWN_YESTERDAY = say("You were shown this model a day ago.")
RAN_YESTERDAY = say("You ran this model a day ago.")
