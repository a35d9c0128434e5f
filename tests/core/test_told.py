"""A run of a machine that is read over its bus: what it tells stops an engine, and makes nothing safe by itself.

How it could send somebody out, or ruin an engine, each tried below: the bus falls silent and the machine counts as
standing; a needle that is stuck proves the oil pressure; red that goes out is forgotten, and it is started again as
if nothing had been; a cold engine goes to work because ten minutes are over; started by key while it is held; a
reader that begins again makes a new start of the old one, or hides a real one.
"""

from __future__ import annotations

from datetime import timedelta

from jutrel.core.panel.told import PanelEventKind, happened
from jutrel.core.panel.watch import Panel, heard
from jutrel.core.procedure.kinds import Colour, Engine, EngineNow, StepOutcome, Stepped
from jutrel.core.procedure.state import Mark, Stand
from jutrel.core.procedure.step import Phase
from tests.core.test_run import HELD, LOADER, Hand, mark, play, script, steps

ENGINE, STOOD, SILENT = PanelEventKind.ENGINE, PanelEventKind.STOOD, PanelEventKind.SILENT


def ready() -> Hand:
    """A loader, all done before the key is turned."""
    hand = Hand(steps(LOADER))
    play(hand, [m for m in script(hand.steps) if not isinstance(m, EngineNow) and m.before_crank])
    assert hand.state().ready_to_start
    return hand


def started() -> Hand:
    """Started by its key alone: nobody tapped."""
    hand = ready()
    hand.tell(ENGINE, "cranking")
    assert hand.state().stand is Stand.CRANKING
    hand.tell(ENGINE, "running", after=3)
    return hand


def test_a_start_that_the_machine_tells_needs_no_tap() -> None:
    hand = started()
    began = hand.at
    assert hand.state().stand is Stand.STARTED
    assert hand.state().due_at == began + timedelta(seconds=10)
    assert hand.state(at=began + timedelta(seconds=16)).stand is Stand.STOP, "no pressure, and nobody said so"
    hand.tell(STOOD, "oil-pressure", after=2)
    hand.tell(STOOD, "volts", after=1)
    found = hand.state().step("oil-pressure")
    assert found is not None
    assert (found.mark, found.by) == (Mark.DONE, "")
    hand.do(next(s for s in hand.steps if s.id == "sounds-right"))
    assert hand.state(at=began + timedelta(seconds=120)).stand is Stand.WARMING
    # Pressure that stood late is no pressure that stood, and a hand who saw otherwise counts more than the needle.
    late = started()
    late.tell(STOOD, "oil-pressure", after=14)
    assert late.state().stand is Stand.STOP
    hand.say(Stepped("oil-pressure", StepOutcome.FAILED, None, "", "lamp burns"))
    assert hand.state().stand is Stand.STOP


def test_a_hand_that_is_slow_is_believed_where_the_machine_measured_it_in_time() -> None:
    hand = started()
    hand.tell(STOOD, "oil-pressure", after=2)
    hand.say(Stepped("oil-pressure", StepOutcome.DONE), after=40)
    assert mark(hand, "oil-pressure") is Mark.DONE


def test_red_stays_until_somebody_wrote_down_what_was_found() -> None:
    hand = started()
    hand.tell(STOOD, "oil-pressure")
    hand.tell(PanelEventKind.ALERT, "hot", Colour.RED, after=200)
    assert hand.state().stand is Stand.STOP
    assert "overheats" in str(hand.state().says)
    hand.tell(PanelEventKind.OVER, "hot")
    assert hand.state().stand is Stand.STOP, "it went out: it was red all the same"
    hand.tell(ENGINE, "stopped", after=5)
    assert hand.state().stand is Stand.STOPPED
    hand.at += timedelta(minutes=10)
    play(hand, [s for s in hand.steps if s.phase is Phase.START and s.before_crank])
    assert not hand.state().ready_to_start
    assert hand.state().needs_cause
    assert "Write down" in str(hand.state().says)
    by_key = Hand(hand.steps)
    by_key.at, by_key.entries, by_key.told = hand.at, list(hand.entries), list(hand.told)
    by_key.tell(ENGINE, "running", after=5)
    assert by_key.state().stand is Stand.STOP, "started again by its key, and nobody said what was found"
    hand.say(Engine(EngineNow.CRANKING, "belt put on again"))
    assert hand.state().stand is Stand.CRANKING
    hand.tell(ENGINE, "running", after=3)
    hand.tell(STOOD, "oil-pressure")
    assert hand.state().stand is Stand.STARTED


def test_a_silent_bus_makes_no_engine_stand() -> None:
    hand = started()
    hand.tell(STOOD, "oil-pressure")
    hand.tell(SILENT, "engine-speed", after=60)
    assert hand.state().engine is EngineNow.RUNNING
    # A hand may say that it stands: nobody else knows. While the machine tells that it turns, a hand may not.
    hand.say(Engine(EngineNow.STOPPED))
    assert hand.state().engine is EngineNow.STOPPED
    other = started()
    other.say(Engine(EngineNow.STOPPED))
    assert other.state().engine is EngineNow.RUNNING
    # Once it tells again that it turns, a hand may not either, and a short silence is no new start.
    again = started()
    began = again.state().started_at
    again.tell(SILENT, "engine-speed", after=30)
    again.tell(PanelEventKind.HEARD, "engine-speed", after=3)
    again.say(Engine(EngineNow.STOPPED))
    assert again.state().engine is EngineNow.RUNNING
    assert again.state().started_at == began
    again.tell(SILENT, "engine-speed", after=30)
    again.tell(PanelEventKind.HEARD, "engine-speed", after=200)
    assert again.state().started_at == again.at
    # And where a hand said that it runs, a speed of nought does not end that: the hand does.
    hand = ready()
    hand.engine(EngineNow.CRANKING, EngineNow.RUNNING)
    hand.tell(ENGINE, "stopped")
    assert hand.state().engine is EngineNow.RUNNING


def test_a_reader_that_begins_again_is_no_new_start_and_a_long_gap_may_hide_one() -> None:
    hand = started()
    hand.tell(STOOD, "oil-pressure")
    hand.tell(STOOD, "volts")
    hand.do(next(s for s in hand.steps if s.id == "sounds-right"))
    hand.tell(SILENT, "engine-speed", after=100)
    hand.tell(ENGINE, "running", after=20)
    assert hand.state().stand is Stand.WARMING
    began = hand.state().started_at
    hand.tell(SILENT, "engine-speed", after=100)
    hand.tell(ENGINE, "running", after=300)
    now = hand.state().started_at
    assert began is not None
    assert now is not None
    assert now > began


def test_a_cold_engine_warms_up_by_its_needle_and_not_by_the_clock_alone() -> None:
    hand = started()
    hand.tell(STOOD, "oil-pressure")
    began = hand.at
    hand.do(next(s for s in hand.steps if s.id == "sounds-right"))
    hand.do(next(s for s in hand.steps if s.id == "charge"))
    idle = hand.state(at=began + timedelta(minutes=20)).step("idle")
    assert idle is not None
    assert idle.mark is Mark.WAITING
    assert "Coolant: from 40" in str(idle.says)
    hand.at = began + timedelta(minutes=20)
    hand.say(Stepped("idle", StepOutcome.DONE))
    assert mark(hand, "idle") is Mark.VOID, "said while the needle was down"
    hand.tell(STOOD, "coolant", after=30)
    hand.say(Stepped("idle", StepOutcome.DONE))
    assert mark(hand, "idle") is Mark.DONE
    # A needle that is gone keeps nobody waiting for ever: then the time alone counts.
    lost = started()
    lost.tell(SILENT, "coolant", after=30)
    found = lost.state(at=lost.at + timedelta(minutes=20)).step("idle")
    assert found is not None
    assert found.mark is not Mark.WAITING


def test_started_by_key_while_it_is_held_or_with_nothing_said() -> None:
    hand = started()
    assert hand.state(HELD).stand is Stand.STOP
    bare = Hand(steps(LOADER))
    bare.tell(ENGINE, "running")
    assert bare.state().stand is Stand.STOP
    assert len(bare.state().missing) > 5


def test_a_needle_that_is_stuck_proves_nothing() -> None:
    """Oil pressure shown before the engine turned: it is told, and it does not come to stand with the start."""
    panel, told = Panel(), []
    for tenth in range(400):
        at = tenth / 10
        speed = 0.0 if at < 20 else 800.0
        before = panel
        panel = heard(panel, {"engine-speed": speed, "oil-pressure": 340.0, "coolant": 20.0, "volts": 28.0}, at)
        told += happened(before, panel)
    words = [(t.what, t.word) for t in told]
    assert (PanelEventKind.ALERT, "oil-stuck") in words
    assert (STOOD, "oil-pressure") not in words
    assert (STOOD, "volts") in words


def test_one_wrong_speed_makes_no_engine_stand() -> None:
    panel = Panel()
    for tenth in range(100):
        panel = heard(panel, {"engine-speed": 0.0 if tenth == 50 else 800.0}, tenth / 10)
        assert panel.engine is EngineNow.RUNNING
