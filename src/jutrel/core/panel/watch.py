"""What the panel means: rules with hysteresis and duration over the signals; a lost signal is unknown, never nought."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from jutrel.core.panel.control_units import LAMP_SAYS
from jutrel.core.panel.faults import Code, fault_said
from jutrel.core.panel.figures import AMBER_BELOW_RED_K, OIL_STANDS_OVER_KPA, PanelFigures, at_speed
from jutrel.core.panel.signals import SIGNALS, Lack, Value
from jutrel.core.panel.trend import KEPT, TRENDS, Look, looked, trends_in
from jutrel.core.procedure.kinds import Colour, EngineNow
from jutrel.core.wording import Said, say

LOST_AFTER = 5
"""A signal that stays away for so many of its periods, and two seconds, is lost."""
LEAST_LOST_S = 2.0
RUNNING_RPM = 400.0
STANDS_RPM = 50.0
"""Slower than this nothing turns; between the two it is cranked, or runs down."""
OIL_STANDS_KPA, OIL_GONE_KPA = 120.0, 50.0
STANDS, STANDS_FOR_S = "stands", 0.5
"""One wrong value of the speed does not make an engine stand."""
STUCK_AFTER_S = 10.0
"""Oil pressure that stands with the engine for so long is no oil pressure."""
OIL_STUCK = "oil-stuck"
OIL_WITHIN_S = 10.0
"""Oil pressure stands within ten seconds of the start; common practice."""


@dataclass(frozen=True, slots=True)
class AlarmRule:
    """A limit on a signal: worse above (or below) `limit`, for `for_s` seconds, over again `back` on the other side.

    `running`: only while the engine has run for so many seconds; None: always. `by_speed`: its limit by the engine's
    speed [1/min]. Common practice where the machine's own figures say nothing else: `rules_for`.
    """

    id: str
    signal: str
    colour: Colour
    above: bool
    limit: float
    back: float
    for_s: float
    running: float | None
    says: Said
    by_speed: tuple[tuple[float, float], ...] = ()


RULES: tuple[AlarmRule, ...] = (
    AlarmRule(
        "oil-low",
        "oil-pressure",
        Colour.RED,
        False,
        100,
        20,
        1.0,
        OIL_WITHIN_S,
        say("Oil pressure is gone. Stop the engine now."),
    ),
    AlarmRule(
        "hot",
        "coolant",
        Colour.RED,
        True,
        105,
        3,
        3.0,
        0.0,
        say("It overheats. Load off, low idle, into the wind; if it climbs on, engine off."),
    ),
    AlarmRule(
        "warm",
        "coolant",
        Colour.AMBER,
        True,
        99,
        3,
        10.0,
        0.0,
        say("Coolant is too warm: less load, look at screens and belt at the next stop."),
    ),
    AlarmRule(
        "coolant-low",
        "coolant-level",
        Colour.AMBER,
        False,
        20,
        5,
        5.0,
        0.0,
        say("Coolant is low: look when it is cold."),
    ),
    AlarmRule(
        "hydraulic-hot",
        "hydraulic-oil",
        Colour.AMBER,
        True,
        95,
        4,
        10.0,
        0.0,
        say("Hydraulic oil is hot: lighter work, clean the cooler at the next stop."),
    ),
    AlarmRule(
        "transmission-hot",
        "transmission-oil",
        Colour.AMBER,
        True,
        120,
        5,
        10.0,
        0.0,
        say("Transmission oil is hot: lower gear, less slip."),
    ),
    AlarmRule(
        "no-charge",
        "volts",
        Colour.AMBER,
        False,
        25.2,
        0.6,
        15.0,
        20.0,
        say("The battery is not charged: belt and alternator at the next stop."),
    ),
    AlarmRule(
        "weak-battery",
        "volts",
        Colour.AMBER,
        False,
        18.0,
        4.0,
        0.5,
        None,
        say("The battery is weak: it may not start again."),
    ),
    AlarmRule(
        "air",
        "air-restriction",
        Colour.AMBER,
        True,
        6.2,
        0.6,
        20.0,
        0.0,
        say("The air filter is plugged: clean or change it at the next stop."),
    ),
    AlarmRule("fuel", "fuel-level", Colour.AMBER, False, 10, 3, 30.0, 0.0, say("Fuel is low.")),
    AlarmRule(
        "exhaust-fluid",
        "exhaust-fluid",
        Colour.AMBER,
        False,
        8,
        3,
        30.0,
        0.0,
        say("DEF is low: the engine will lose power."),
    ),
)


UPPER_IS_WORSE = {r.signal for r in RULES if r.above} | {"engine-speed"}
LOWER_IS_WORSE = {r.signal for r in RULES if not r.above}
"""Of several who tell a signal the highest or the lowest counts: an engine turns if one of them says so."""
CHARGING_V, WARM_C = 26.5, 40.0
"""A system of 24 V that is charged, and coolant from which work may begin (as in the reading
"warm-up"); common practice, to be replaced by the machine's own figures."""
STANDS_FROM = {"oil-pressure": OIL_STANDS_KPA, "volts": CHARGING_V, "coolant": WARM_C}
"""From where on a signal counts as standing while the engine runs."""
SEEN_LOW, NOTHING_YET = frozenset({"oil-pressure"}), frozenset[str]()


def rules_for(figures: PanelFigures) -> tuple[AlarmRule, ...]:
    """The rules with a machine's own figures.

    >>> twelve = {r.id: r.limit for r in rules_for(PanelFigures(system_volts=12))}
    >>> twelve["no-charge"], twelve["weak-battery"], rules_for(PanelFigures())[0].limit
    (12.6, 9.0, 100.0)
    """
    volts = figures.system_volts / 24
    own = {
        "oil-low": (figures.oil_idle, figures.oil_by_speed),
        "hot": (figures.coolant_red, ()),
        "warm": (figures.coolant_red - AMBER_BELOW_RED_K, ()),
        "no-charge": (25.2 * volts, ()),
        "weak-battery": (18.0 * volts, ()),
        "air": (figures.air_limit, ()),
    }
    out = []
    for rule in RULES:
        limit, by_speed = own.get(rule.id, (rule.limit, ()))
        back = rule.back * volts if rule.signal == "volts" else rule.back
        out.append(replace(rule, limit=limit, back=back, by_speed=by_speed))
    return tuple(out)


def stands_for(figures: PanelFigures) -> dict[str, float]:
    """From where on a signal counts as standing on a machine with these figures.

    >>> stands_for(PanelFigures(system_volts=12, oil_idle=150))
    {'oil-pressure': 170.0, 'volts': 13.25, 'coolant': 40.0}
    """
    oil = figures.oil_idle + OIL_STANDS_OVER_KPA
    return {"oil-pressure": oil, "volts": CHARGING_V * figures.system_volts / 24, "coolant": WARM_C}


def stands_at(key: str, value: float | None, figures: PanelFigures = PanelFigures()) -> bool:
    """Whether a signal at this value stands, as far as the value alone says it.

    >>> stands_at("oil-pressure", 240.0), stands_at("oil-pressure", None), stands_at("load", 80.0)
    (True, False, False)
    """
    limit = stands_for(figures).get(key)
    return limit is not None and value is not None and value >= limit


@dataclass(frozen=True, slots=True)
class Alert:
    """Something that holds now: which rule or fault, how urgent, in words, since when [s]."""

    id: str
    colour: Colour
    says: Said
    since: float


@dataclass(frozen=True, slots=True)
class Panel:
    """What is known of a machine's panel at a time [s]: values, when each came, what is pending and what holds.

    `engine`: what it did as long as its speed was known; None: never known. `proved`: signals that were seen low
    before the engine ran, so that what they show now is no needle that is stuck. `stands`: signals that have come up
    since it runs. `named`: whose word counts is known by the machine's file; else nothing stands by the bus.
    `patience`: so many times as long a signal may stay away, where time runs faster than the clock.
    `ruled_at`: when the rules were gone through last. `looks`: the needles once a minute since it runs. `rules`,
    `stands_from`: by the machine's own figures.
    """

    at: float = 0.0
    values: Mapping[str, Value] = field(default_factory=dict)
    seen: Mapping[str, float] = field(default_factory=dict)
    running_since: float | None = None
    pending: Mapping[str, float] = field(default_factory=dict)
    alerts: Mapping[str, Alert] = field(default_factory=dict)
    warned: Mapping[str, Colour] = field(default_factory=dict)
    engine: EngineNow | None = None
    engine_since: float = 0.0
    proved: frozenset[str] = frozenset()
    stands: frozenset[str] = frozenset()
    named: bool = True
    patience: float = 1.0
    ruled_at: float = -1.0
    looks: tuple[Look, ...] = ()
    looked_at: float = 0.0
    rules: tuple[AlarmRule, ...] = RULES
    stands_from: Mapping[str, float] = field(default_factory=lambda: STANDS_FROM)

    def value(self, key: str) -> Value:
        """A signal's value, or why there is none."""
        return self.values.get(key, Lack.NOT_AVAILABLE)

    @property
    def worst(self) -> Colour:
        """The most urgent of what holds."""
        have = {a.colour for a in self.alerts.values()}
        return next((c for c in (Colour.RED, Colour.AMBER) if c in have), Colour.NONE)


ALWAYS_WATCHED = ("oil-pressure", "coolant", "engine-speed")
"""Signals whose loss while it runs is told: without them nobody would hear of the worst."""
RULED = {r.signal for r in RULES} | set(ALWAYS_WATCHED) - {"engine-speed"}
RULED_EVERY_S, LOOK_EVERY_S = 0.5, 60.0
LOST_S = {s.key: max(LEAST_LOST_S, LOST_AFTER * s.every_s) for s in SIGNALS}
LOST: Value = Lack.LOST
NAMES = {s.key: s.name for s in SIGNALS}


def heard(panel: Panel, values: Mapping[str, Value], at: float, warned: Mapping[str, Colour] | None = None) -> Panel:
    """The panel after values came at a time [s], judged; times never run back. `warned`: what units warn of now."""
    at = max(at, panel.at)
    seen = {**panel.seen, **dict.fromkeys(values, at)}
    known = panel.warned if warned is None else warned
    now = moved(panel, at, {**panel.values, **values}, seen, known, panel.pending, panel.alerts, panel.ruled_at)
    return judged(now, bool(RULED & values.keys()) or warned is not None)


def moved(
    p: Panel, at: float, values: Mapping[str, Value], seen: Mapping[str, float], warned: Mapping[str, Colour],
    pending: Mapping[str, float], alerts: Mapping[str, Alert], ruled_at: float,
) -> Panel:  # fmt: skip
    """The panel `p` with these changed and all else as it was.

    Written out, in half the time of `replace`: this is done ten times a second for each machine.
    """
    return Panel(
        at, values, seen, p.running_since, pending, alerts, warned, p.engine, p.engine_since, p.proved,
        p.stands, p.named, p.patience, ruled_at, p.looks, p.looked_at, p.rules, p.stands_from,
    )  # fmt: skip


def ticked(panel: Panel, at: float) -> Panel:
    """The panel when time has gone by and nothing came."""
    return judged(replace(panel, at=max(at, panel.at)))


def judged(panel: Panel, news: bool = True) -> Panel:
    """The panel with lost signals told and the rules applied. `news`: something came that a rule looks at."""
    at = panel.at
    oldest = at - LEAST_LOST_S * panel.patience
    if min(panel.seen.values(), default=at) < oldest and (lost := _gone(panel)):
        panel = replace(panel, values={**panel.values, **dict.fromkeys(lost, LOST)})
    before = panel.engine
    panel = came_up(turned(panel))
    if not (news or panel.pending or panel.engine is not before or at - panel.ruled_at >= RULED_EVERY_S):
        return panel  # speed and load alone, many times a second: no rule looks at them
    values, running = panel.values, panel.running_since
    pending, alerts, nothing = dict(panel.pending), dict(panel.alerts), Lack.NOT_AVAILABLE
    for rule in panel.rules:
        value = values.get(rule.signal, nothing)
        due = rule.running is None or (running is not None and at - running >= rule.running)
        held = rule.id in alerts
        if not due or isinstance(value, Lack):
            # A red that holds, or is about to, stays until a value says otherwise: none is no good value.
            if not due or rule.colour is not Colour.RED:
                pending.pop(rule.id, None)
                if held:
                    del alerts[rule.id]
            continue
        limit = rule.limit
        if rule.by_speed:
            speed = values.get("engine-speed", Lack.NOT_AVAILABLE)
            limit = limit if isinstance(speed, Lack) else at_speed(rule.by_speed, speed)
        limit = limit if not held else limit - rule.back if rule.above else limit + rule.back
        if (value > limit) is rule.above and value != limit:
            since = pending.setdefault(rule.id, at)
            if not held and at - since >= rule.for_s:
                alerts[rule.id] = Alert(rule.id, rule.colour, rule.says, at)
        else:
            pending.pop(rule.id, None)
            if held:
                del alerts[rule.id]
    _lost(panel, alerts)
    _stuck(panel, alerts)
    _faults(panel, alerts)
    p = _trends(panel, alerts)
    return moved(p, at, p.values, p.seen, p.warned, pending, alerts, at)


def _gone(panel: Panel) -> list[str]:
    """Signals that stayed away too long and are not told as lost yet."""
    late = panel.at
    return [k for k, t in panel.seen.items() if late - t > panel.patience * LOST_S[k] and panel.values[k] != LOST]


def turned(panel: Panel) -> Panel:
    """The panel with what the engine does, by its speed; while that is not known, as it was."""
    speed = panel.value("engine-speed")
    if isinstance(speed, Lack):
        return panel
    engine, pending = panel.engine, panel.pending
    if speed >= STANDS_RPM and STANDS in pending:
        pending = {k: v for k, v in pending.items() if k != STANDS}
    if speed >= RUNNING_RPM:
        engine = EngineNow.RUNNING
    elif speed < STANDS_RPM:
        pending = pending if STANDS in pending else {**pending, STANDS: panel.at}
        if panel.at - pending[STANDS] >= STANDS_FOR_S:
            engine = EngineNow.STOPPED
    elif engine is not EngineNow.RUNNING:
        engine = EngineNow.CRANKING
    if pending is not panel.pending:
        panel = replace(panel, pending=pending)
    if engine is panel.engine:
        return panel
    since = panel.at if engine is EngineNow.RUNNING else None
    return replace(panel, engine=engine, engine_since=panel.at, running_since=since)


def came_up(panel: Panel) -> Panel:
    """The panel with which signals have come up since the engine runs: each was seen low before, where it has to be."""
    if not panel.named:
        return panel if not (panel.stands or panel.proved) else replace(panel, stands=NOTHING_YET, proved=NOTHING_YET)
    if panel.engine is not EngineNow.RUNNING:
        oil = panel.value("oil-pressure")
        low = not isinstance(oil, Lack) and oil < OIL_GONE_KPA
        proved = SEEN_LOW if low else NOTHING_YET
        if panel.proved == proved and not panel.stands:
            return panel
        return replace(panel, stands=NOTHING_YET, proved=proved)
    if len(panel.stands) == len(panel.stands_from):
        return panel
    come = []
    for key, limit in panel.stands_from.items():
        value = panel.values.get(key, Lack.NOT_AVAILABLE)
        up = not isinstance(value, Lack) and value >= limit and key not in panel.stands
        if up and (key != "oil-pressure" or key in panel.proved):
            come.append(key)
    return replace(panel, stands=panel.stands | frozenset(come)) if come else panel


def lost_said(key: str) -> Said:
    """That a signal has no value."""
    return say("{name}: no value. Read it on the machine's own panel.", name=NAMES[key])


def stuck_said() -> Said:
    """That a needle does not move."""
    return say("It shows oil pressure while the engine stands: the sensor is wrong. Go by the machine's own lamp.")


WARNED = ("fault", "lamp", "senders")
"""With what the name of something begins that is told by control units, or of them."""


def warned_said(name: str) -> Said:
    """In words what control units warn of, by its name alone.

    >>> str(warned_said("fault-100-1")), str(warned_said("senders-0-40"))[:42]
    ('Engine oil, pressure: below normal, severe (100/1)', 'Addresses 0 and 40 both tell of this engin')

    Raises
    ------
    ValueError
        If it is no such name.
    """
    if name in LAMP_SAYS:
        return LAMP_SAYS[name]
    head, first, second = name.split("-")
    if head == "senders":
        return say(
            "Addresses {a} and {b} both tell of this engine. Look what is connected to the bus.",
            a=int(first),
            b=int(second),
        )
    return fault_said(Code(int(first), int(second)))


def _trends(panel: Panel, alerts: dict[str, Alert]) -> Panel:
    """The panel with one more look at the needles, if a minute has gone by, and what changes slowly told."""
    if panel.engine is not EngineNow.RUNNING:
        for trend in TRENDS:
            alerts.pop(trend.id, None)
        return replace(panel, looks=()) if panel.looks else panel
    if panel.at - panel.looked_at < LOOK_EVERY_S:
        return panel
    looks = (*panel.looks, looked(panel.values))[-KEPT:]
    found = {t.id: t for t in trends_in(looks)}
    for trend in TRENDS:
        if trend.id in found:
            alerts.setdefault(trend.id, Alert(trend.id, Colour.AMBER, trend.says, panel.at))
        else:
            alerts.pop(trend.id, None)
    return replace(panel, looks=looks, looked_at=panel.at)


def _lost(panel: Panel, alerts: dict[str, Alert]) -> None:
    """Told while the engine runs; with its speed gone it counts as running until somebody knows better."""
    for key in ALWAYS_WATCHED:
        name = f"lost-{key}"
        if panel.running_since is not None and isinstance(panel.values.get(key), Lack) and key in panel.seen:
            alerts.setdefault(name, Alert(name, Colour.AMBER, lost_said(key), panel.at))
        else:
            alerts.pop(name, None)


def _stuck(panel: Panel, alerts: dict[str, Alert]) -> None:
    oil = panel.value("oil-pressure")
    stood = panel.engine is EngineNow.STOPPED and panel.at - panel.engine_since >= STUCK_AFTER_S
    if stood and not isinstance(oil, Lack):
        if oil >= OIL_STANDS_KPA:
            alerts.setdefault(OIL_STUCK, Alert(OIL_STUCK, Colour.AMBER, stuck_said(), panel.at))
        elif oil < OIL_GONE_KPA:
            alerts.pop(OIL_STUCK, None)


def _faults(panel: Panel, alerts: dict[str, Alert]) -> None:
    for name in [a for a in alerts if a.partition("-")[0] in WARNED and a not in panel.warned]:
        del alerts[name]
    for name, colour in panel.warned.items():
        before = alerts.get(name)
        if before is None or before.colour is not colour:
            alerts[name] = Alert(name, colour, warned_said(name), before.since if before else panel.at)
