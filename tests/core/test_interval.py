"""What is looked at by interval is in the walk when it is due, and whenever nobody knows."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from jutrel.core.inspection.finding import Conditions
from jutrel.core.inspection.kinds import Opened
from jutrel.core.inspection.occasion import walk_on
from jutrel.core.log.entry import Pins
from jutrel.core.machine.model import Walk, walk_of
from jutrel.core.wording import say
from tests.conftest import CATALOG

MODEL = CATALOG.models["tolvane-e24"]
WHOLE = walk_of(MODEL, frozenset(MODEL.options))
OIL = "slew-oil"


def walked(meter: float, pins: Pins, open_at: frozenset[str] = frozenset(), purpose: str = "pre-start") -> Walk:
    opened = Opened(meter, purpose=purpose, conditions=Conditions())
    return walk_on(WHOLE, opened, pins, CATALOG.kinds, CATALOG.questions, open_at)


@given(
    st.floats(0, 20_000),
    st.one_of(st.none(), st.floats(-5_000, 20_000), st.integers(-70, 70).map(float)),
    st.booleans(),
)
def test_it_is_left_out_only_where_it_cannot_fall_due_in_the_shift(
    meter: float, last: float | None, near: bool
) -> None:
    if near and last is not None:
        last = meter + last % 140 - 70
    pins = Pins() if last is None else Pins(looked={OIL: last})
    rests = last is not None and last <= meter and last + 50 > meter + 10
    walk = walked(meter, pins)
    assert (walk.checkpoint(OIL) is None) is rests
    assert [b.change for b in walk.because if b.checkpoint == OIL] == (["removed"] if rests else [])


def test_what_is_open_or_changed_or_asked_by_another_kind_is_looked_at_all_the_same() -> None:
    fresh = Pins(looked={OIL: 6000.0})
    assert walked(6005.0, fresh).checkpoint(OIL) is None
    assert walked(6005.0, fresh, open_at=frozenset({OIL})).checkpoint(OIL) is not None
    assert walked(6005.0, fresh, purpose="after-service").checkpoint(OIL) is not None
    serviced = Opened(6005.0, purpose="pre-start", conditions=Conditions(serviced=True))
    after = walk_on(WHOLE, serviced, fresh, CATALOG.kinds, CATALOG.questions)
    assert after.checkpoint(OIL) is not None, "a service may have drained it"
    news = Pins(looked={OIL: 6000.0}, changed={OIL: say("Nobody could see it at the last look.")})
    assert walked(6005.0, news, purpose="once-over").checkpoint(OIL) is not None
    assert walked(6005.0, Pins(looked={"tracks-left": 6000.0, "pools": 6000.0})).checkpoint("pools") is not None


def test_only_what_no_life_depends_on_has_an_interval() -> None:
    found = {c.id for f in CATALOG.families.values() for c in f.checkpoints if c.by_interval}
    assert found >= {"slew-oil", "slew-oil-2", "damper-oil", "tandem-oil-left", "tandem-oil-right"}
