"""A run from key to key: no order of words gets an engine past an open interlock, or a machine to work untested.

How it could send somebody out on a machine that hurts them, each tried below: started with somebody beside it or on
a machine that is held; "ready to work" with brakes or steering untried, failed, or tried before the oil pressure
stood; a belt taken off and not noticed; a wait cut short; two people of whom one saw it fail; a run of yesterday that
counts for today's start; "secured" with the engine running, the tool up, the purge lamp on.
"""

from __future__ import annotations

import random
from collections.abc import Iterable, Sequence
from dataclasses import replace
from datetime import datetime, timedelta
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jutrel.catalog import catalog
from jutrel.catalog.compile import steps_of
from jutrel.core.log.entry import Entry
from jutrel.core.machine.drawing import parked_drawing, side_drawing
from jutrel.core.machine.model import Model, walk_of
from jutrel.core.panel.told import PanelEventKind, PanelWord
from jutrel.core.procedure.counted import counted, ran_s
from jutrel.core.procedure.engine import EngineLine
from jutrel.core.procedure.greasing import Greased, GreasePoint, Took, points_now
from jutrel.core.procedure.kinds import Colour, Engine, EngineNow, Filled, Remarked, Sense, StepOutcome, Stepped
from jutrel.core.procedure.school import as_words, in_force
from jutrel.core.procedure.state import Gate, Mark, Run, RunState, Stand
from jutrel.core.procedure.step import Phase, Step, StepKind, Wait, steps_for
from jutrel.core.route.plan import plan_route
from jutrel.core.wording import ENGLISH, NOTHING, say
from jutrel.service.ids import uuid7
from tests.deep import DEEP
from tests.walks import MIRA, START

MODELS = sorted(catalog().models.values(), key=lambda m: m.id)
FREE = Gate(True, False, NOTHING)
HELD = Gate(False, True, say("Do not start it: the brake."))
WAITS = {Wait.WARM_UP: 420.0, Wait.COOL_DOWN: 300.0}
TURNING = (Stand.STARTED, Stand.WARMING, Stand.READY_TO_WORK, Stand.WORKING, Stand.SHUTTING_DOWN)


def steps(
    model: Model, options: Iterable[str] | None = None, answers: Sequence[str] = (), **schools: str
) -> tuple[Step, ...]:  # fmt: skip
    chosen = in_force(catalog().schools, {k.replace("_", "-"): v for k, v in schools.items()}, model.schools)
    there = frozenset(model.options if options is None else options)
    return steps_for(steps_of(catalog(), model), there, answers, as_words(chosen))


class Hand:
    """One person with one device: each word names what was said of the same thing before."""

    def __init__(self, all_: Sequence[Step]) -> None:
        self.steps = all_
        self.at = START
        self.entries: list[Entry] = []
        self.told: list[PanelWord] = []
        self._last: dict[str, str] = {}

    def say(self, what: object, after: float = 2.0) -> Entry:
        self.at += timedelta(seconds=after)
        slot = what.step if isinstance(what, Stepped) else type(what).__name__ + getattr(what, "point", "")
        seen = frozenset({self._last[slot]} if slot in self._last else ())
        made = Entry(uuid7(self.at, noise=len(self.entries)), "m", "look", MIRA, self.at, what, seen)
        self._last[slot] = made.id
        self.entries.append(made)
        return made

    def do(self, step: Step, outcome: StepOutcome = StepOutcome.DONE) -> None:
        wait = WAITS.get(step.wait, step.wait_s) if step.wait else 0.0
        value = step.low + 1 if step.unit else None
        reason = "tried" if outcome is not StepOutcome.DONE else ""
        word = " ".join(p.id for p in [*step.parts, *step.ways[:1]])
        for p in step.points if outcome is StepOutcome.DONE else ():
            self.say(Greased(p.id, Took.GREASED, p.strokes, 6200.0))
        self.say(Stepped(step.id, outcome, value, word, reason), wait + 2)

    def engine(self, *states: EngineNow) -> None:
        for state in states:
            self.say(Engine(state))

    def state(self, gate: Gate = FREE, at: datetime | None = None) -> RunState:
        return Run(self.steps, self.entries, gate, WAITS, self.told).at(at or self.at)

    def tell(self, what: PanelEventKind, word: str, colour: Colour = Colour.NONE, after: float = 1.0) -> None:
        """The machine tells something over its bus."""
        self.at += timedelta(seconds=after)
        self.told.append(PanelWord(f"t{len(self.told)}", self.at, what, word, colour))


def script(all_: Sequence[Step]) -> list[Step | EngineNow]:
    """A whole run in an order that the trade allows."""
    off = [s for s in all_ if s.phase is Phase.TESTS and s.engine is EngineNow.STOPPED]
    before = [s for s in all_ if s.before_crank and s.id != "limits"]
    clear = next(i for i, s in enumerate(before) if s.nobody)
    out: list[Step | EngineNow] = [*before[:clear], *off, *before[clear:]]  # the zones are walked before anybody cranks
    out += [EngineNow.CRANKING, EngineNow.RUNNING]
    left = [s for s in all_ if not s.before_crank and s.phase is not Phase.SHUTDOWN and s not in off]
    while left:  # a step whose own forerunners are through; moving off when everything else is
        done = {s.id for s in out if isinstance(s, Step)}
        step = next(s for s in left if set(s.after) <= done and (s.phase is not Phase.MOVE_OFF or not early(left)))
        out.append(step)
        left.remove(step)
    shutdown = [s for s in all_ if s.phase is Phase.SHUTDOWN and not s.instead]
    out += [s for s in shutdown if s.engine is not EngineNow.STOPPED]
    return [*out, EngineNow.STOPPED, *(s for s in shutdown if s.engine is EngineNow.STOPPED)]


def early(left: Sequence[Step]) -> bool:
    return any(s.phase in (Phase.WARM_UP, Phase.TESTS, Phase.START) for s in left)


def play(hand: Hand, moves: Iterable[Step | EngineNow]) -> None:
    for move in moves:
        if isinstance(move, Step):
            hand.do(move)
        else:
            hand.engine(move)


@pytest.mark.parametrize("model", MODELS, ids=lambda m: m.id)
@pytest.mark.parametrize("bare", [False, True], ids=["every-option", "no-option"])
def test_a_run_in_order_goes_from_key_to_key(model: Model, bare: bool) -> None:
    hand = Hand(steps(model, () if bare else None))
    seen: list[Stand] = []
    for move in script(hand.steps):
        if move is EngineNow.CRANKING:
            assert hand.state().ready_to_start, hand.state().missing
        play(hand, [move])
        seen.append(hand.state().stand)
    order = [s for i, s in enumerate(seen) if i == 0 or seen[i - 1] is not s]
    assert order == [
        Stand.PREPARING, Stand.CRANKING, Stand.STARTED, Stand.WARMING, Stand.READY_TO_WORK, Stand.WORKING,
        Stand.SHUTTING_DOWN, Stand.STOPPED, Stand.SECURED,
    ]  # fmt: skip
    lasting = (Phase.READY, Phase.TESTS, Phase.SHUTDOWN)
    assert all(s.settled for s in hand.state().steps if s.step.phase in lasting)


@given(data=st.data())
@settings(max_examples=40 if not DEEP else 1500, deadline=None)
def test_whatever_is_fitted_has_a_run_and_a_way_round(data: st.DataObject) -> None:
    """Options that many families share, in any mixture that their needs allow."""
    model = data.draw(st.sampled_from(MODELS))
    needs = {o.id: set(o.needs) for o in model.family.options}
    fitted = set(data.draw(st.sets(st.sampled_from(sorted(needs)))))
    while missing := {n for o in fitted for n in needs[o]} - fitted:
        fitted |= missing
    whole = replace(model, options=tuple(sorted(needs)))
    fitted &= {o for o in needs if all(c.id in model.places for c in model.family.checkpoints if c.option == o)}
    if any(not needs[o] <= fitted for o in fitted):
        return
    walk = walk_of(whole, frozenset(fitted))
    assert {c.option for c in walk.checkpoints} - {None} <= fitted
    route = plan_route(walk)
    assert {leg.station for leg in route.legs} | {u.station for u in route.unreached} == {s.id for s in walk.stations}
    hand = Hand(steps(whole, tuple(fitted)))
    play(hand, script(hand.steps))
    assert hand.state().stand is Stand.SECURED, (model.id, sorted(fitted), hand.state().missing)


# --- any order at all


def last_words(hand: Hand) -> dict[str, StepOutcome]:
    """By itself, and without asking the core: the last word on each step since the engine was stopped last."""
    out: dict[str, StepOutcome] = {}
    starts = {s.id for s in hand.steps if s.phase in (Phase.START, Phase.WARM_UP, Phase.MOVE_OFF)}
    measured = {s.reads: s.id for s in hand.steps if s.reads and s.kind is StepKind.OBSERVE}
    before = ""  # the same told again is nothing new: a reader that began again voids no start
    for e in sorted([*hand.entries, *hand.told], key=lambda e: e.time if isinstance(e, Entry) else e.at):
        if isinstance(e, PanelWord):
            if e.what is PanelEventKind.STOOD and e.word in measured:
                out.setdefault(measured[e.word], StepOutcome.DONE)
            elif e.what is PanelEventKind.ENGINE:
                if e.word == EngineNow.STOPPED != before:
                    out = {k: v for k, v in out.items() if k not in starts}
                before = e.word
        elif isinstance(e.what, Stepped):
            out[e.what.step] = e.what.outcome
        elif isinstance(e.what, Engine) and e.what.state is EngineNow.STOPPED:
            out = {k: v for k, v in out.items() if k not in starts}
    return out


def turns_by_itself(hand: Hand) -> bool:
    """The machine said last that it turns, and was not silent since."""
    words = [t.word for t in hand.told if t.what is PanelEventKind.ENGINE or t.what is PanelEventKind.SILENT]
    return bool(words) and words[-1] in (EngineNow.RUNNING, EngineNow.CRANKING)


def check(hand: Hand, now: RunState) -> None:
    said = last_words(hand)
    engines = [e.what.state for e in hand.entries if isinstance(e.what, Engine)]
    if now.stand in TURNING:
        for s in hand.steps:
            if s.kind is StepKind.INTERLOCK:
                until = said.get(s.until) if s.until else None
                assert said.get(s.id) is StepOutcome.DONE or until is StepOutcome.DONE, f"{now.stand} with {s.id} open"
            elif s.before_crank and s.life:
                assert s.id == "limits" or said.get(s.id) is StepOutcome.DONE, s.id  # there are none to accept here
        words = [e.what.step for e in hand.entries if isinstance(e.what, Stepped)]
        near = {s.id for s in hand.steps if s.near}
        last_near = max((i for i, w in enumerate(words) if w in near), default=-1)
        assert last_near < max(i for i, w in enumerate(words) if w == "people-clear"), "somebody was near since"
    if now.ready_to_work:
        for s in hand.steps:
            if s.life and s.phase in (Phase.TESTS, Phase.START) and s.kind is not StepKind.INTERLOCK:
                assert said.get(s.id) is StepOutcome.DONE, f"{now.stand} with {s.id} {said.get(s.id)}"
    red = [t.at for t in hand.told if t.colour is Colour.RED]
    if turns_by_itself(hand):
        assert now.stand in (*TURNING, Stand.CRANKING, Stand.STOP), f"it turns, and it is {now.stand}"
    if now.stand in TURNING and now.started_at is not None:
        assert not [at for at in red if at >= now.started_at], "red, and it goes on"
    if now.stand is Stand.SECURED and engines:
        assert engines[-1] is EngineNow.STOPPED
        for s in hand.steps:
            if s.phase is Phase.SHUTDOWN and s.life:
                if s.id == ("left-on" if said.get("purge") is StepOutcome.DONE else "purge"):
                    continue  # the lamp went out, or it was left with the isolator on
                assert said.get(s.id) is StepOutcome.DONE, f"secured with {s.id} {said.get(s.id)}"
    for s in now.steps:
        if s.mark in (Mark.LATER, Mark.WAITING, Mark.VOID, Mark.LOST):
            assert s.says, f"{s.step.id} is {s.mark} and nobody says why"
    if now.stand in (Stand.STOP, Stand.STOPPED):
        assert now.missing
        assert now.says
    assert now.ready_to_start <= (not now.missing)


Tell = tuple[PanelEventKind, str, Colour]
TELLS: list[Tell] = [
    *((PanelEventKind.ENGINE, state.value, Colour.NONE) for state in EngineNow),
    (PanelEventKind.SILENT, "engine-speed", Colour.NONE),
    (PanelEventKind.HEARD, "engine-speed", Colour.NONE),
    (PanelEventKind.STOOD, "oil-pressure", Colour.NONE),
    (PanelEventKind.STOOD, "volts", Colour.NONE),
    (PanelEventKind.ALERT, "hot", Colour.RED),
    (PanelEventKind.ALERT, "warm", Colour.AMBER),
]
OUTCOMES = [
    StepOutcome.DONE,
    StepOutcome.DONE,
    StepOutcome.DONE,
    StepOutcome.FAILED,
    StepOutcome.SKIPPED,
    StepOutcome.LOST,
]


@given(st.data())
@settings(max_examples=400 if DEEP else 40, deadline=None)
def test_no_order_of_words_gets_past_an_interlock_or_a_test(data: st.DataObject) -> None:
    model = catalog().models[data.draw(st.sampled_from([m.id for m in MODELS]))]
    hand = Hand(steps(model, answers=data.draw(st.sampled_from([(), ("slope",), ("frost", "slope")]))))
    moves: list[tuple[Step | EngineNow | Tell, StepOutcome]] = [(m, StepOutcome.DONE) for m in script(hand.steps)]
    # What comes before the first change was judged when the script itself was.
    first = len(moves)
    for _ in range(data.draw(st.integers(0, 8))):
        if len(moves) < 3:
            break
        where = data.draw(st.integers(0, len(moves) - 1))
        first = min(first, where)
        match data.draw(st.sampled_from(["drop", "swap", "say", "engine", "tell", "cut"])):
            case "drop":
                del moves[where]
            case "swap":
                other = data.draw(st.integers(0, len(moves) - 1))
                first = min(first, other)
                moves[where], moves[other] = moves[other], moves[where]
            case "say":
                step = hand.steps[data.draw(st.integers(0, len(hand.steps) - 1))]
                moves.insert(where, (step, data.draw(st.sampled_from(OUTCOMES))))
            case "engine":
                moves.insert(where, (data.draw(st.sampled_from(list(EngineNow))), StepOutcome.DONE))
            case "tell":
                moves.insert(where, (data.draw(st.sampled_from(TELLS)), StepOutcome.DONE))
            case _:
                moves = moves[: max(where, 1)]
    for n, (move, outcome) in enumerate(moves):
        if isinstance(move, Step):
            hand.do(move, outcome)
        elif isinstance(move, tuple):
            hand.tell(*move)
        else:
            hand.engine(move)
        if n >= first:
            check(hand, hand.state())
    check(hand, hand.state())
    shuffled = list(hand.entries)
    random.Random(len(moves)).shuffle(shuffled)
    again = Run(hand.steps, shuffled, FREE, WAITS, hand.told[::-1]).at(hand.at)
    assert again == hand.state(), "a replay says something else"
    assert hand.state(HELD).stand not in (*TURNING, Stand.CRANKING), "held, and it runs"


# --- greasing and schools


def lying_down(step: Step) -> bool:
    return step.id in ("tool-down", "bucket-down", "bucket-tucked", "body-down")


@pytest.mark.parametrize("model", MODELS, ids=lambda m: m.id)
def test_under_every_school_the_tool_comes_down_and_all_is_greased_and_filled(model: Model) -> None:
    """A school that nobody wrote a step for would leave the tool up, or a joint dry, and nothing would be missing."""
    for school in catalog().schools:
        for choice in school.choices:
            all_ = steps(model, **{school.id: choice.id})
            down = [s for s in all_ if lying_down(s)]
            rolls = {"drum", "even-tyres"} & set(model.family.traits)  # it has nothing that could stay up
            assert [(s.phase, s.life) for s in down] == [(Phase.SHUTDOWN, True)] * (not rolls), (school.id, choice.id)
            assert len([s for s in all_ if s.points]) == 1, (school.id, choice.id)
            assert len([s for s in all_ if s.id in ("fuel", "fuel-before")]) == 1, (school.id, choice.id)
            hand = Hand(all_)
            play(hand, script(all_))
            assert hand.state().stand is Stand.SECURED, (school.id, choice.id, hand.state().missing)
    # Before a cold night it is greased while it is warm, whatever the site usually does.
    cold = steps(model, answers=("frost",), grease="start")
    assert [s.phase for s in cold if s.points] == [Phase.READY, Phase.SHUTDOWN]


@pytest.mark.parametrize("model", MODELS, ids=lambda m: m.id)
def test_parked_as_drawn_the_tool_is_on_the_ground_and_clear_of_the_machine(model: Model) -> None:
    for choice in ("rods-in", "tucked"):
        drawn = parked_drawing(model, frozenset({f"excavator-parked.{choice}"}))
        tools = [s.points for s in drawn.shapes if s.role == "tool"]
        assert all(min(z for _, z in points) >= 0 for points in tools), "into the ground"
        if model.family.shape in ("excavator", "mining-excavator"):
            bucket = next(s.points for s in drawn.shapes if s.part == "bucket")
            assert min(z for _, z in bucket) == 0.0
            assert min(-x for x, _ in bucket) > model.shape["track_length"] / 2, "into the tracks"
            stretched = side_drawing(model).bounds[0]
            assert (drawn.bounds[0] > stretched) == (choice == "tucked")
        else:
            assert drawn == side_drawing(model)


def test_a_joint_that_nobody_spoke_of_is_not_greased() -> None:
    """Lost so: a step ticked off while one fitting took no grease; the good word of the second covers the first's."""
    hand = Hand(steps(LOADER, options=()))
    grease = next(s for s in hand.steps if s.id == "grease")
    play(hand, [m for m in script(hand.steps) if m != grease])
    hand.say(Stepped("grease", StepOutcome.DONE))
    assert mark(hand, "grease") is Mark.VOID
    assert hand.state().stand is Stand.STOPPED
    first, *rest = grease.points
    for p in rest:
        hand.say(Greased(p.id, Took.GREASED, p.strokes, 6200.0))
    hand.say(Stepped("grease", StepOutcome.DONE))
    assert mark(hand, "grease") is Mark.VOID
    says = hand.state().step("grease")
    assert says is not None
    assert ENGLISH.say(says.says) == f"Nothing said yet of: {first.name}"
    # Spoken of afterwards: the word that it is done was said before, and is said again.
    hand.say(Greased(first.id, Took.BLOCKED, 0, 6200.0))
    assert mark(hand, "grease") is Mark.VOID
    hand.say(Stepped("grease", StepOutcome.DONE))
    assert hand.state().stand is Stand.SECURED
    # Somebody else, who has not seen the word, says greased: blocked it stays.
    hand._last.clear()
    hand.say(Greased(first.id, Took.GREASED, 8, 6200.0))
    run = Run(hand.steps, hand.entries, FREE, WAITS)
    now = {p.point.id: p.said for p in run.points(grease, hand.at)}[first.id]
    assert now is not None
    assert isinstance(now.what, Greased)
    assert now.what.took is Took.BLOCKED


@given(st.floats(0, 500), st.sampled_from([10.0, 50.0, 250.0]))
def test_a_point_is_due_before_its_hours_have_run_out(since: float, every: float) -> None:
    point = GreasePoint("p", "Pins", "pins", 2, 3, every)
    now = points_now([point], [], {"p": 6000.0}, 6000.0 + since)[0]
    assert now.due or since < every, "its hours are over, and nobody is told"
    assert points_now([point], [], {}, 6000.0)[0].due, "never greased by the record"
    assert points_now([point], [], {"p": 60_000.0}, 6000.0)[0].due, "a slip of the finger, and it is never due again"


# --- hours and fuel


@given(st.lists(st.tuples(st.floats(1, 20_000), st.sampled_from(list(EngineNow)), st.booleans()), max_size=12))
def test_hours_are_counted_as_the_engine_is_said_to_run(turns: list[tuple[float, EngineNow, bool]]) -> None:
    """Against a walk through the seconds by the same word that stops people: what `at` says, second by second."""
    hand = Hand([])
    for after, state, told in turns:
        if told:
            hand.tell(PanelEventKind.ENGINE, state.value, after=after)
        else:
            hand.say(Engine(state), after)
    end = hand.at + timedelta(seconds=100)
    line = EngineLine(hand.entries, hand.told)
    seconds, starts = ran_s(line, START, end)
    edges = sorted({START, end, *(e.time for e in hand.entries), *(t.at for t in hand.told)})
    runs = [line.at(a)[0] is EngineNow.RUNNING for a in edges[:-1]]
    spans = [(b - a).total_seconds() for a, b in pairwise(edges)]
    assert seconds == pytest.approx(sum(s for s, r in zip(spans, runs, strict=True) if r))
    assert starts == sum(r and not before for before, r in zip([False, *runs], runs, strict=False))


def test_a_meter_that_stands_still_is_noticed() -> None:
    hand = Hand(steps(LOADER))
    hand.engine(EngineNow.CRANKING, EngineNow.RUNNING)
    hand.say(Filled("fuel", 60.0, True))
    hand.say(Stepped("meter", StepOutcome.DONE, 6200.1), 7 * 3600)
    line = EngineLine(hand.entries)
    fits = counted(hand.entries, line, START, hand.at, 6193.0, (90.0, 40.0), 200.0)
    assert not fits.doubt
    # Half a tank of 200 L and what was filled; each level within one in a hundred of the tank.
    assert (fits.used, fits.give) == (160.0, pytest.approx(2.83, abs=0.01))
    stands = counted(hand.entries, line, START, hand.at, 6200.0)
    assert stands.used is None
    assert "have the meter looked at" in ENGLISH.say(stands.doubt)


# --- each way by itself


def until(model: Model, stand: Stand) -> Hand:
    hand = Hand(steps(model))
    for move in script(hand.steps):
        play(hand, [move])
        if hand.state().stand is stand:
            return hand
    raise AssertionError(stand)


def mark(hand: Hand, step: str) -> Mark | None:
    now = hand.state().step(step)
    return now.mark if now else None


LOADER = catalog().models["korveth-kw64"]
EXCAVATOR = catalog().models["tolvane-e24"]


def test_oil_pressure_that_nobody_saw_within_ten_seconds_stops_the_engine() -> None:
    """Ten seconds, common practice; five more for the hand."""
    hand = until(LOADER, Stand.STARTED)
    began = hand.state().started_at
    assert began is not None
    assert hand.state().due_at == began + timedelta(seconds=10)
    assert hand.state(at=began + timedelta(seconds=15)).stand is Stand.STARTED
    late = hand.state(at=began + timedelta(seconds=16))
    assert late.stand is Stand.STOP
    assert "Oil pressure" in str(late.says)
    hand.at = began + timedelta(seconds=30)
    hand.do(next(s for s in hand.steps if s.id == "oil-pressure"))
    state = hand.state()
    late_said = state.step("oil-pressure")
    assert late_said is not None
    assert (state.stand, late_said.mark) == (Stand.STARTED, Mark.DONE), "who started it may say it late"
    assert "after the start" in str(late_said.says), "and it is told so"


def test_the_starter_rests_two_minutes_and_is_tried_three_times() -> None:
    """30 s at most, two minutes' rest, three tries: common practice."""
    hand = Hand(steps(LOADER))
    play(hand, [m for m in script(hand.steps) if isinstance(m, Step) and m.before_crank])
    before = list(hand.entries)
    for _tried in range(3):
        assert hand.state().ready_to_start
        hand.engine(EngineNow.CRANKING)
        began = hand.at
        assert hand.state(at=began + timedelta(seconds=30)).stand is Stand.CRANKING
        assert hand.state(at=began + timedelta(seconds=32)).stand is Stand.STOP
        hand.at += timedelta(seconds=18)
        hand.engine(EngineNow.STOPPED)
        for s in hand.steps:  # the start is gone through again
            if s.phase is Phase.START and s.before_crank:
                hand.do(s)
        rested = (hand.at - began).total_seconds() - 20
        if rested < 120:
            assert not hand.state().ready_to_start
            hand.at += timedelta(seconds=120 - rested)
    assert not hand.state().ready_to_start
    assert "Three tries" in str(hand.state().says)
    hand.say(Engine(EngineNow.CRANKING, "water drained from the separator"))
    assert hand.state().tries == 1
    assert len(hand.entries) > len(before)


def test_a_wait_cut_short_does_not_count() -> None:
    hand = until(LOADER, Stand.WARMING)
    idle = next(s for s in hand.steps if s.id == "idle")
    hand.say(Stepped("idle", StepOutcome.DONE))
    assert mark(hand, "idle") is Mark.VOID
    found = hand.state().step("idle")
    assert found is not None
    assert "before the time was over" in str(found.says)
    hand.do(idle)
    assert mark(hand, "idle") is Mark.DONE


def test_what_life_depends_on_is_not_skipped_and_other_things_with_a_reason() -> None:
    hand = until(LOADER, Stand.WARMING)
    for step in hand.steps:
        if step.phase is not Phase.TESTS or step.id == "camera-test":
            continue
        hand.say(Stepped(step.id, StepOutcome.SKIPPED, None, "", "no time"))
        assert mark(hand, step.id) is (Mark.VOID if step.life else Mark.SKIPPED), step.id
    hand.say(Stepped("camera-test", StepOutcome.SKIPPED))
    assert mark(hand, "camera-test") is Mark.VOID, "no reason"


def test_a_belt_taken_off_while_it_runs_stops_it_and_put_on_again_it_goes_on() -> None:
    for stand in (Stand.WARMING, Stand.READY_TO_WORK, Stand.WORKING):
        hand = until(LOADER, stand)
        hand.say(Stepped("belt", StepOutcome.LOST))
        assert hand.state().stand is Stand.STOP
        hand.say(Stepped("belt", StepOutcome.DONE))
        assert hand.state().stand is stand


def test_of_two_who_differ_the_worse_counts_until_one_has_seen_both() -> None:
    hand = until(LOADER, Stand.READY_TO_WORK)
    brake = next(s for s in hand.steps if s.id == "service-brake")
    other = Entry(
        uuid7(START, noise=99), "m", "look", "other", START, Stepped(brake.id, StepOutcome.FAILED, None, "", "it pulls")
    )
    hand.entries.append(replace(other, at=hand.entries[-1].at - timedelta(seconds=30)))
    assert not hand.state().ready_to_work
    found = hand.state().step(brake.id)
    assert found is not None
    assert len(found.heads) == 2
    hand.at += timedelta(seconds=9)
    again = Stepped(brake.id, StepOutcome.DONE)
    hand.entries.append(Entry(uuid7(hand.at, noise=5), "m", "look", MIRA, hand.at, again, frozenset(found.heads)))
    assert mark(hand, "park-brake-test") is Mark.VOID, "tried while nobody knew that the brake pulls"
    for step in (s for s in hand.steps if brake.id in s.after):
        hand.do(step)
    assert hand.state().ready_to_work


def test_a_stop_asks_for_the_start_again_and_not_for_the_tests() -> None:
    hand = until(EXCAVATOR, Stand.WORKING)
    hand.engine(EngineNow.STOPPED)
    assert hand.state().stand is Stand.STOPPED
    assert not hand.state().ready_to_start
    hand.engine(EngineNow.RUNNING)
    assert hand.state().stand is Stand.STOP, "started again as it was left"
    hand.engine(EngineNow.STOPPED)
    play(hand, [s for s in hand.steps if s.phase is Phase.START and s.before_crank])
    assert hand.state().ready_to_start
    play(hand, [EngineNow.CRANKING, EngineNow.RUNNING])
    play(hand, [s for s in hand.steps if s.phase is Phase.START and not s.before_crank])
    play(hand, sorted((s for s in hand.steps if s.phase is Phase.WARM_UP), key=lambda s: len(s.after)))
    assert hand.state().stand is Stand.READY_TO_WORK


def test_red_is_stopped_for_and_amber_is_not() -> None:
    hand = until(LOADER, Stand.WORKING)
    hand.say(Remarked(Sense.LAMP, Colour.AMBER, "", "air filter"))
    assert hand.state().stand is Stand.WORKING
    hand.say(Remarked(Sense.LAMP, Colour.RED, "", "brake pressure"))
    assert hand.state().stand is Stand.STOP


def test_limits_are_accepted_as_they_are_and_not_as_they_were() -> None:
    gate = Gate(True, False, NOTHING, (say("Not in the dark."),), "one")
    hand = Hand(steps(LOADER))
    play(hand, [s for s in hand.steps if s.before_crank and s.id != "limits"])
    assert not hand.state(gate).ready_to_start
    hand.say(Stepped("limits", StepOutcome.DONE, None, "one"))
    assert hand.state(gate).ready_to_start
    other = replace(gate, accepted_as="two")
    assert not hand.state(other).ready_to_start
    play(
        hand,
        [m for m in script(hand.steps) if not isinstance(m, Step) or (not m.before_crank and m.engine and not m.near)][
            :-20
        ],
    )
    assert hand.state(gate).stand in TURNING
    assert hand.state(other).stand is not Stand.STOP, "nobody stops an engine for limits that came up"
    assert not hand.state(other).ready_to_work


def test_a_failed_test_that_no_life_depends_on_is_left_to_the_grading() -> None:
    hand = until(LOADER, Stand.READY_TO_WORK)
    hand.say(Stepped("wiper-test", StepOutcome.FAILED, None, "", "left one"))
    assert hand.state().ready_to_work
    assert not hand.state(HELD).ready_to_work
    hand.say(Stepped("service-brake", StepOutcome.FAILED, None, "", "it pulls"))
    assert not hand.state().ready_to_work


def test_purge_before_isolator_in_this_order() -> None:
    hand = until(EXCAVATOR, Stand.STOPPED)
    step = {s.id: s for s in hand.steps}
    hand.do(step["isolator-off"])
    assert mark(hand, "isolator-off") is Mark.VOID
    for key in ("purge", "isolator-off"):
        hand.do(step[key])
    assert mark(hand, "isolator-off") is Mark.DONE


def test_a_stop_said_on_a_slow_clock_still_asks_for_the_start_again() -> None:
    """Said by another device an hour behind: what was held before the stop does not count for the next start."""
    hand = until(LOADER, Stand.WORKING)
    heads = frozenset(hand.state().engine_heads)
    slow = hand.at - timedelta(hours=1)
    hand.entries.append(Entry(uuid7(slow, noise=3), "m", "look", "other", slow, Engine(EngineNow.STOPPED), heads))
    assert hand.state().stand is Stand.STOPPED
    assert not hand.state().ready_to_start
    assert mark(hand, "belt") is not Mark.DONE


def test_person_detection_counts_camera_by_camera_and_part_by_part() -> None:
    """A zone that nobody walked into is not tried, whoever says that the system works."""
    cameras = {"detection-rear", "detection-left", "detection-right"}
    hand = Hand(steps(EXCAVATOR))
    assert cameras <= {s.id for s in hand.steps}
    for move in script(hand.steps):
        if not isinstance(move, Step) or not (move.parts or move.ways):
            play(hand, [move])
            continue
        every = [p.id for p in move.parts or move.ways]
        for left in every if move.parts else [" ".join(every), ""]:
            hand.say(
                Stepped(
                    move.id, StepOutcome.DONE, None, " ".join(p for p in every if p != left) if move.parts else left
                )
            )
            assert mark(hand, move.id) is Mark.VOID, (move.id, left)
        hand.do(move)
        if move.id == "detection-stop":
            break
    assert {s.id for s in hand.steps if s.parts} >= {*cameras, "detection-test"}


def test_nobody_stands_near_a_machine_that_turns_for_any_test() -> None:
    """Zones and camera are tried with the engine off; who says so later stops it, and looks round once more."""
    for model in MODELS:
        for step in (s for s in steps(model) if s.near):
            assert (step.engine, step.people) == (EngineNow.STOPPED, 2)
            assert {"key-on", "current-on"} & set(step.after) or step.id == "detection-test", step.id
    hand = until(EXCAVATOR, Stand.READY_TO_WORK)
    hand.do(next(s for s in hand.steps if s.id == "detection-rear"))
    assert (hand.state().stand, mark(hand, "people-clear")) == (Stand.STOP, Mark.VOID)
    # And before the start: nobody near was said too early, and is said again.
    hand = Hand(steps(EXCAVATOR))
    moves = script(hand.steps)
    clear = next(m for m in moves if isinstance(m, Step) and m.nobody)
    first = moves.index(next(m for m in moves if isinstance(m, Step) and m.near))
    play(hand, [*moves[:first], clear, *[m for m in moves[first : moves.index(EngineNow.CRANKING)] if m is not clear]])
    assert not hand.state().ready_to_start
    play(hand, [clear, next(s for s in hand.steps if s.id == "horn")])
    assert hand.state().ready_to_start


@pytest.mark.parametrize("kind", ["warns", "warns outside", "stops"])
def test_a_detection_that_only_warns_can_be_ready_to_work(kind: str) -> None:
    """Neither stop nor outside alarm is asked of a unit that has none; of one that has it, it is."""
    fitted = {"warns": set(), "warns outside": {"detection-outside"}, "stops": {"detection-stops"}}[kind]
    hand = Hand(steps(EXCAVATOR, {"person-detection", "exhaust-fluid", *fitted}))
    parts = {p.id for s in hand.steps if s.id == "detection-test" for p in s.parts}
    assert parts == {"several", "inside"} | ({"outside"} if kind == "warns outside" else set())
    assert any(s.id == "detection-stop" for s in hand.steps) is (kind == "stops")
    moves = script(hand.steps)
    play(hand, moves[: next(i for i, m in enumerate(moves) if isinstance(m, Step) and m.phase is Phase.MOVE_OFF)])
    assert hand.state().ready_to_work


def test_a_purge_lamp_that_stays_on_is_left_with_the_isolator_on() -> None:
    """It is a defect, the isolator is not turned, and there is a way to leave the machine that counts as secured."""
    hand = Hand(steps(EXCAVATOR, {"exhaust-fluid"}))
    moves = script(hand.steps)
    end = next(i for i, m in enumerate(moves) if isinstance(m, Step) and m.id == "purge")
    play(hand, moves[:end])
    assert hand.state().step("left-on") is None
    by_id = {s.id: s for s in hand.steps}
    hand.do(by_id["purge"], StepOutcome.FAILED)
    state = hand.state()
    assert state.step("isolator-off") is None
    assert state.step("left-on") is not None
    assert mark(hand, "key-away") is Mark.LATER
    play(hand, [m for m in moves[end + 1 :] if isinstance(m, Step) and m.id not in ("isolator-off", "key-away")])
    assert hand.state().stand is Stand.STOPPED, "nobody has said yet how it was left"
    play(hand, [by_id["left-on"], by_id["key-away"]])
    assert hand.state().stand is Stand.SECURED
    # The lamp went out after all: the isolator is asked for again.
    hand.do(by_id["purge"])
    assert hand.state().stand is Stand.STOPPED
    play(hand, [by_id["isolator-off"], by_id["key-away"]])
    assert hand.state().stand is Stand.SECURED


def test_outside_comes_before_the_seat_and_the_meter_before_the_key() -> None:
    """Whatever the order of words: who sits and buckles up first climbs down again."""
    for model in MODELS:
        order = [s.id for s in steps(model)]
        for first, then in (
            ("isolators", "climb"), ("isolator-second", "climb"), ("lock-bar", "climb"), ("swing-pin", "climb"),
            ("outside-clear", "climb"), ("climb", "seat"), ("seat", "belt"), ("belt", "key-on"), ("belt", "current-on"),
            ("cool-down", "meter"), ("meter", "lights-off"), ("meter", "isolator-off"), ("purge", "isolator-off"),
        ):  # fmt: skip
            if {first, then} <= set(order):
                assert order.index(first) < order.index(then), (model.id, first, then)
    hand = Hand(steps(EXCAVATOR, {"exhaust-fluid"}))
    early = {s.id: s for s in hand.steps}
    ready = [s for s in hand.steps if s.phase is Phase.READY and s.id != "limits"]
    play(hand, [*ready, early["climb"], early["seat"], early["belt"]])
    assert (mark(hand, "climb"), mark(hand, "belt")) == (Mark.VOID, Mark.VOID)
