"""Who was shown which machine and which ground, and what the record says to somebody who is about to run one."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from jutrel.core.errors import BadInput
from jutrel.core.people import Right
from jutrel.core.training import Briefing, Taught, Training, briefing
from jutrel.service.context import Here
from jutrel.service.machine.models import known_models
from jutrel.service.people.people import Actor, people, require
from jutrel.service.problem import Conflict, NotFound
from jutrel.store.queries import site as store


async def briefing_of(here: Here, person: str, model: str, run: str | None) -> Briefing:
    """What the record knows of a person and a model; `run`: the one that is about to begin does not count."""
    told = await store.trainings_of(here.db, here.site.id, person)
    ran, ran_here = await store.last_runs(here.db, here.site.id, person, model, run or "")
    return briefing(person, model, told, ran, ran_here, here.now)


async def trainings(here: Here) -> list[Training]:
    """All that is written down, oldest first."""
    return await store.trainings_of(here.db, here.site.id)


async def add(here: Here, who: Actor, told: Training) -> Training:
    """Write down that somebody was shown something; the id is the client's, so that sending twice writes once.

    Raises
    ------
    BadInput
        For a person or a model that is not there, or a time that has not come.
    Conflict
        If the id belongs to something else.
    """
    require(who, Right.TEACH)
    if told.person not in {p.id for p in await people(here, with_inactive=True)}:
        raise BadInput("person", "there is no such person on this site")
    if told.taught is Taught.MODEL and told.model not in await known_models(here):
        raise BadInput("model", "there is no model '{it}'", it=told.model)
    if told.at > here.now:
        raise BadInput("at", "it lies ahead; write it down when it is done")
    made = replace(told, by=who.person.id, model=told.model if told.taught is Taught.MODEL else "")
    if not await store.add_training(here.db, here.site.id, made):
        have = next((t for t in await trainings(here) if t.id == told.id), None)
        if have is None or replace(have, withdrawn=False, at=made.at, by=made.by) != made:
            raise Conflict("id-taken", "This id belongs to something else.", field="id")
        return have
    return made


async def withdraw(here: Here, who: Actor, id_: str, training: str, at: datetime) -> None:
    """Write down that something was written down wrongly; both stay in the record.

    Raises
    ------
    NotFound
        If there is no such training.
    """
    require(who, Right.TEACH)
    have = next((t for t in await trainings(here) if t.id == training), None)
    if have is None:
        raise NotFound("no-training", "Nothing of that kind is written down.")
    told = replace(have, id=id_, by=who.person.id, at=at, note="")
    await store.add_training(here.db, here.site.id, told, training)
