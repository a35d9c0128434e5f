"""What an experienced hand would miss: each step and checkpoint is there on the machines that have the thing, at its
place in the order, and on no other."""

from __future__ import annotations

import pytest

from jutrel.core.machine.model import walk_for, walk_of
from jutrel.core.procedure.step import Step, steps_for
from jutrel.core.wording import say
from tests.conftest import CATALOG

MODELS = sorted(CATALOG.models)
PRE_START = CATALOG.kinds["pre-start"]


def steps(model: str, without: str = "", schools: tuple[str, ...] = ()) -> dict[str, Step]:
    """The steps of a model with all its options but one."""
    m = CATALOG.models[model]
    options = frozenset(m.options) - {without}
    found = steps_for(CATALOG.procedures[m.family.id], options, (), frozenset(schools))
    return {s.id: s for s in found}


def looked_at(model: str, *answers: str, without: str = "") -> set[str]:
    m = CATALOG.models[model]
    walk = walk_of(m, frozenset(m.options) - {without})
    return {c.id for c in walk_for(walk, PRE_START, {a: say("It is so.") for a in answers}).checkpoints}


@pytest.mark.parametrize("model", MODELS)
def test_every_machine_shows_each_lamp_and_takes_nobody_along(model: str) -> None:
    found, order = steps(model), list(steps(model))
    assert "hazard flashers and indicators" in found["lamps-test"].does
    assert "seen by you" in found["lamps-test"].does, "somebody behind, where one sees them"
    assert found["no-riders"].life
    assert order.index("climb-down") > order.index("isolator-off")
    assert "mud off the steps" in found["climb-down"].does


@pytest.mark.parametrize("model", MODELS)
def test_after_a_service_guards_are_seen_and_only_then(model: str) -> None:
    assert "guards-refitted" in looked_at(model, "serviced")
    assert "guards-refitted" not in looked_at(model)


@pytest.mark.parametrize(
    ("option", "checkpoint", "answer"),
    [
        ("quick-fills", "quick-fills", ""),
        ("sump-heater", "sump-heater", "frost"),
        ("access-light", "access-light", ""),
        ("exhaust-fluid", "def-breather", ""),
    ],
)
def test_what_is_fitted_is_looked_at_and_nothing_else(option: str, checkpoint: str, answer: str) -> None:
    fitted = [m for m in MODELS if option in CATALOG.models[m].options]
    assert fitted
    answers = (answer,) if answer else ()
    for m in MODELS:
        assert (checkpoint in looked_at(m, *answers)) is (m in fitted), m
    for m in fitted:
        assert checkpoint not in looked_at(m, *answers, without=option), m
        assert not answer or checkpoint not in looked_at(m), "only where the answer asks for it"


def test_the_light_at_the_steps_is_needed_in_the_dark() -> None:
    m = CATALOG.models["ostrelle-q91"]
    walk = walk_for(walk_of(m, frozenset(m.options)), PRE_START, {"dark": say("It is dark.")})
    light = walk.checkpoint("access-light")
    assert light is not None
    assert light.mandatory


@pytest.mark.parametrize("model", [m for m in MODELS if CATALOG.models[m].family.id == "motor-grader"])
def test_a_grader_moves_its_blade_each_way_by_name(model: str) -> None:
    found = steps(model)
    assert [p.id for p in found["blade-movements"].parts] == ["side-shift", "circle", "tip", "lean"]
    assert "implements-test" in found["blade-movements"].after
    assert "nobody near" in found["blade-movements"].does
    assert "blade-movements" not in steps("korveth-kw64")


def test_active_suspension_waits_for_the_straps_and_the_stationary_test_takes_pressures() -> None:
    assert "Straps and chains off" in steps("ostrelle-h41")["suspension-on"].does
    assert "suspension-on" not in steps("ostrelle-h41", without="active-suspension")
    brake = steps("ostrelle-q91")["stationary-brake"]
    assert brake.measures == ("stationary-brake",)


def test_a_locked_starter_and_an_engine_that_stops_by_itself() -> None:
    for model in ("tolvane-e48", "korveth-kw64", "ostrelle-q91"):
        order = list(steps(model))
        assert order.index("key-on") < order.index("anti-theft") < order.index("people-clear")
        assert order.index("meter") < order.index("stopped-itself") < order.index("isolator-off")
        assert not {"anti-theft"} & set(steps(model, without="anti-theft"))
        assert not {"stopped-itself"} & set(steps(model, without="idle-stop"))


def test_the_second_look_from_the_seat_is_the_sites_choice() -> None:
    assert "seat-look" not in steps("korveth-kw64")
    found = steps("korveth-kw64", schools=("walk-end.warming",))
    assert "Nobody gets out" in found["seat-look"].does
