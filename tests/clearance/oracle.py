"""May it be started, may it work: the handbook read once more, by going through the whole history each time.

Written before the product's own code of clearance and knowing nothing of it. Slow and plain on purpose.
"""

from __future__ import annotations

from dataclasses import dataclass

SHIFT, DAY, EARLY = 480, 1440, 60
LAPSE, RUNNING_H = 600, 10.0
LIFE = {"boom", "lock", "coupler"}


@dataclass(frozen=True)
class Act:
    """Something that was done. Times in minutes since midnight of the first day.

    `at`: when it came in; `knew`: up to when its tablet had heard of the machine; `earliest`: when it can have been
    done at the earliest.
    """

    when: int
    who: str
    what: str
    on: str = ""
    at: int = 0
    knew: int = 0
    earliest: int = 0
    signed: int | None = None
    missing: frozenset[str] = frozenset()
    hold: str = ""
    limit: str = ""
    unseen: str = ""
    hours: float = 100.0


def shift_end(begun: int) -> int:
    """When the shift ends that something begun then is for: people walk up to an hour before it."""
    into = (begun - 360) % SHIFT
    start = begun - into
    if SHIFT - into <= EARLY:
        start += SHIFT
    return start + SHIFT


def looks(history: list[Act], now: int, *kinds: str) -> list[Act]:
    """Inspections of which something had come in."""
    return [a for a in history if a.what in kinds and a.at <= now]


def signed(a: Act, history: list[Act], now: int) -> bool:
    """Whether somebody stood by it in time, and was still signed in when that came in."""
    if a.signed is None or a.signed > now or a.signed - a.when > LAPSE:
        return False
    gone = [b for b in history if b.what == "signs-out" and b.who == a.who and a.when < b.when <= a.signed]
    ended = [b for b in history if b.what == "abandons" and b.who == a.who and a.when < b.at <= a.signed]
    return not gone and not ended


def left(a: Act, history: list[Act]) -> bool:
    """Whether who did it had signed out before it came in."""
    return any(b.what == "signs-out" and b.who == a.who and a.when < b.when <= a.at for b in history)


def events(history: list[Act], now: int) -> list[Act]:
    """What ends what was found before it."""
    ending = ("incident", "done", "fits", "sends-off", "takes-back", "end")
    found = sorted((a for a in history if a.what in ending and a.at <= now), key=lambda a: a.at)
    fitted: set[str] = set()
    away = False
    out = []
    for a in found:
        # What is fitted already is not fitted again; what is away does not leave, what is here is not taken back.
        same = (a.what == "fits" and a.on in fitted) or (a.what == "sends-off" and away)
        if not same and not (a.what == "takes-back" and not away):
            out.append(a)
        if a.what == "fits":
            fitted.add(a.on)
        if a.what in ("sends-off", "takes-back"):
            away = a.what == "sends-off"
    return out


def holds(history: list[Act], now: int) -> bool:
    """Whether a Hold stands that no mechanic released and no other person checked."""
    for found in looks(history, now, "whole", "short"):
        if not found.hold:
            continue
        released = False
        for r in history:
            if r.what != "releases" or r.on != found.hold or not found.at < r.when or r.at > now:
                continue
            if left(r, history):
                continue
            for c in history:
                if c.what == "checks" and c.on == found.hold and r.at < c.when and c.at <= now and c.who != r.who:
                    released = True
        if not released:
            return True
    strict = [a for a in history if a.what == "rules" and a.at <= now]
    return bool(strict) and max(strict, key=lambda a: a.at).on == "strict" and "horn" in limits(history, now)


def unseen(history: list[Act], now: int) -> bool:
    """Whether something that a life depends on was not seen, and nobody has seen it since."""
    for a in looks(history, now, "whole", "short"):
        if a.unseen in LIFE:
            later = [b for b in looks(history, now, "whole", "short") if b.at > a.at and signed(b, history, now)]
            if not any(b.unseen != a.unseen and a.unseen not in b.missing for b in later):
                return True
    return False


def waits(history: list[Act], now: int) -> bool:
    """Whether it tipped over and nobody but who told of it has examined it since."""
    for a in history:
        if a.what == "incident" and a.on == "tipped" and a.at <= now:
            who = [b for b in history if b.what == "examines" and a.at < b.when and b.at <= now]
            if not any(b.who in ("Dag", "Pell") and b.who != a.who for b in who):
                return True
    return False


def locked(history: list[Act], now: int) -> bool:
    """Whether somebody's lock is on."""
    on: set[str] = set()
    for a in sorted(history, key=lambda a: a.at):
        if a.at <= now and a.what == "locks":
            on.add(a.who)
        if a.at <= now and a.what == "unlocks":
            on.discard(a.who)
    return bool(on)


def whole_holds(a: Act, history: list[Act], at: int, now: int) -> bool:
    """Whether a whole inspection proved at a time, with all that is known now, that it may go."""
    has = {b.on for b in history if b.what == "fits" and b.at <= now}
    ran = max((b.hours for b in looks(history, now, "whole", "short", "stop", "end")), default=0.0)
    return (
        signed(a, history, now)
        and not (a.missing & has)
        and all(a.knew >= e.at for e in events(history, now))
        and a.when <= at <= shift_end(a.earliest)
        and ran <= a.hours + RUNNING_H
    )


def heard_by(a: Act, history: list[Act]) -> int:
    """How much of what people said of the machine had come in when its tablet heard of it last."""
    others = [b for b in history if b is not a]
    return sum((b.at <= a.knew) + (b.signed is not None and b.signed <= a.knew) for b in others)


def clears(history: list[Act], who: str, now: int) -> bool:
    """Whether an inspection clears it for whoever asks."""
    taken = [a for a in looks(history, now, "whole", "short") if signed(a, history, now)]
    if not taken:
        return False
    # Of two the one that had heard more of the machine is the newer; where both had heard the same, clocks say nothing,
    # and whichever came in last counts.
    newest = max(enumerate(taken), key=lambda x: (heard_by(x[1], history), x[1].at, x[0]))[1]
    if newest.who != who:
        return False
    if newest.what == "whole":
        return whole_holds(newest, history, now, now)
    bases = [a for a in taken if a.what == "whole" and a.signed is not None and a.signed <= newest.knew]
    goes_on = any(
        whole_holds(a, history, newest.earliest, now) and whole_holds(a, history, now, now) for a in bases
    )  # fmt: skip
    return goes_on and now <= shift_end(newest.earliest)


def may(history: list[Act], who: str, now: int) -> tuple[bool, bool]:
    """May it be started, may it work as far as the machine goes."""
    gone = [a for a in history if a.what in ("sends-off", "takes-back") and a.at <= now]
    off = bool(gone) and max(gone, key=lambda a: a.at).what == "sends-off"
    bad = off or holds(history, now) or unseen(history, now) or waits(history, now) or locked(history, now)
    start = not bad and clears(history, who, now)
    return start, start and accepted(history, now)


def limits(history: list[Act], now: int) -> set[str]:
    """What limits it: found, and no mechanic said since that it is mended."""
    return {a.limit for a in _limiting(history, now)}


def _limiting(history: list[Act], now: int) -> list[Act]:
    out = []
    for a in looks(history, now, "whole", "short"):
        mended = [r for r in history if r.what == "releases" and r.on == a.limit and a.at < r.when and r.at <= now]
        mended = [
            r
            for r in mended
            if not any(b.what == "signs-out" and b.who == r.who and r.when < b.when <= r.at for b in history)
        ]
        if a.limit and not mended:
            out.append(a)
    return out


def accepted(history: list[Act], now: int) -> bool:
    """Whether a supervisor accepted in this shift each thing that limits it."""
    for a in _limiting(history, now):
        yes = [b for b in history if b.what == "accepts" and b.on == a.limit and a.at < b.when and b.at <= now]
        if not any(now <= shift_end(b.when) for b in yes):
            return False
    return True
