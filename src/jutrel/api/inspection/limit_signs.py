"""What the limits of a verdict are about, so that a page can draw them: the sentence stands beside its signs."""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum
from types import MappingProxyType

from jutrel.core.wording import Said


class LimitSign(StrEnum):
    """What may be done, or has to be done first."""

    WORKSHOP = "workshop"
    NEXT_STOP = "next-stop"
    WALKING_PACE = "walking-pace"
    LEVEL = "level"
    UNLOADED = "unloaded"
    LIGHT_LOAD = "light-load"
    STAYS_LOW = "stays-low"
    NOTHING_ABOVE = "nothing-above"
    NOBODY_NEAR = "nobody-near"
    GUIDE = "guide"
    KEEP_CLEAR = "keep-clear"
    DAYLIGHT = "daylight"
    DRY = "dry"
    OTHER_ACCESS = "other-access"
    LOOK_AGAIN = "look-again"
    EXPERT = "expert"
    PUT_RIGHT = "put-right"
    CLEAN = "clean"
    FILL = "fill"
    TIE = "tie"
    GAUGE = "gauge"
    EXTINGUISHER = "extinguisher"
    NO_FLAME = "no-flame"
    GLOVES = "gloves"
    STOP = "stop"
    TOOL_RESTS = "tool-rests"
    WAY_OUT = "way-out"
    AIR = "air"


_S = LimitSign
SIGNS_OF: Mapping[str, tuple[LimitSign, ...]] = MappingProxyType(
    {
        "A guide person stands outside when it moves where the operator cannot see.": (_S.GUIDE,),
        "At walking pace and unloaded, to where it is put right.": (_S.WALKING_PACE, _S.UNLOADED),
        "At walking pace to where it is put right.": (_S.WALKING_PACE,),
        "Blade down for every stop, nobody beside it, light cuts only.": (_S.STAYS_LOW, _S.NOBODY_NEAR, _S.LIGHT_LOAD),
        "Chock set again before anyone walks below it.": (_S.PUT_RIGHT, _S.NOBODY_NEAR),
        "Cleaned before it moves.": (_S.CLEAN,),
        "Cleaned before it works under load.": (_S.CLEAN,),
        "Cleaned or scraped before anyone climbs.": (_S.CLEAN,),
        "Cleared before it starts.": (_S.CLEAN,),
        "Daylight only.": (_S.DAYLIGHT,),
        "Dry ground and low speed until the tyre is changed.": (_S.DRY, _S.WALKING_PACE),
        "Filled before it starts.": (_S.FILL,),
        "Gauge checked by hand or from outside at each stop.": (_S.GAUGE,),
        "Keep clear of what was marked on the approach. A guide person while near it.": (_S.KEEP_CLEAR, _S.GUIDE),
        "Left locked up. Nobody under or near it.": (_S.TIE, _S.NOBODY_NEAR),
        "Level ground and walking pace only, belt on.": (_S.LEVEL, _S.WALKING_PACE),
        "Light loads only, no shocks. Look at {place} every two hours.": (_S.LIGHT_LOAD, _S.LOOK_AGAIN),
        "Light work on level ground only. Look at {place} every two hours.": (_S.LIGHT_LOAD, _S.LEVEL, _S.LOOK_AGAIN),
        "Light work only until one of them is mended.": (_S.LIGHT_LOAD,),
        "Light work only until {place} is renewed.": (_S.LIGHT_LOAD,),
        "Light work only. Look at {place} every two hours, and stop if it gets worse.": (_S.LIGHT_LOAD, _S.LOOK_AGAIN),
        "Look at {place} at the first stop.": (_S.LOOK_AGAIN,),
        "Look at {place} every two hours, and stop if it gets worse.": (_S.LOOK_AGAIN,),
        "Loose rock taken off before it moves.": (_S.CLEAN,),
        "No digging and no lifting.": (_S.TOOL_RESTS,),
        "No digging and no lifting. Look at {place} every two hours.": (_S.TOOL_RESTS, _S.LOOK_AGAIN),
        "No digging and no lifting: it stays on its wheels.": (_S.TOOL_RESTS,),
        "No digging, nobody within reach of the arm.": (_S.TOOL_RESTS, _S.NOBODY_NEAR),
        "No digging: the arm stays tucked and locked.": (_S.TOOL_RESTS, _S.TIE),
        "No hot work and no smoking near it, extinguisher at hand.": (_S.NO_FLAME, _S.EXTINGUISHER),
        "No hot work near it. Looked at every two hours.": (_S.NO_FLAME, _S.LOOK_AGAIN),
        "No lifting and no breaking. Look at {place} every two hours.": (_S.TOOL_RESTS, _S.LOOK_AGAIN),
        "No lifting, nobody within reach of the tool.": (_S.TOOL_RESTS, _S.NOBODY_NEAR),
        "No people on foot within its reach, and a guide person.": (_S.NOBODY_NEAR, _S.GUIDE),
        "No ripping. The ripper stays up and pinned, nobody behind it.": (_S.TOOL_RESTS, _S.TIE, _S.NOBODY_NEAR),
        "No travel but to where the pin is set. Look at it after every hundred metres.": (_S.NEXT_STOP, _S.LOOK_AGAIN),
        "No vibration until they are renewed. Rolling on level ground only.": (_S.TOOL_RESTS, _S.LEVEL),
        "No vibration. Rolling on level ground only, and {place} is looked at every two hours.": (
            _S.TOOL_RESTS,
            _S.LEVEL,
            _S.LOOK_AGAIN,
        ),
        "No way to cut the current in a fire: an extinguisher at hand, and it is not left alone with the current on.": (
            _S.EXTINGUISHER,
        ),
        "No work with a load, nobody behind it. Look at {place} every two hours.": (
            _S.UNLOADED,
            _S.NOBODY_NEAR,
            _S.LOOK_AGAIN,
        ),
        "No work with a load, nobody near the house or the rear. Look at {place} every two hours.": (
            _S.UNLOADED,
            _S.NOBODY_NEAR,
            _S.LOOK_AGAIN,
        ),
        "Nobody lifts higher than the axle.": (_S.STAYS_LOW,),
        "Nobody near it while the engine runs.": (_S.NOBODY_NEAR,),
        "Nobody on foot near it, and a signaller or observer whenever it moves.": (_S.NOBODY_NEAR, _S.GUIDE),
        "Nobody on foot under it, and tied up before it moves.": (_S.NOBODY_NEAR, _S.TIE),
        "Nobody on the damaged part; the deck only for what has to be looked at there.": (_S.OTHER_ACCESS,),
        "Nobody under it. It is barred down or bolted first.": (_S.NOBODY_NEAR, _S.PUT_RIGHT),
        "Not before a competent person has isolated and wrapped it. Looked at every two hours.": (
            _S.EXPERT,
            _S.LOOK_AGAIN,
        ),
        "Not before it is fastened or strapped down.": (_S.TIE,),
        "Not before it was looked at again under pressure, and again every two hours.": (_S.LOOK_AGAIN,),
        "Not before the acid is neutralised, with gloves and eye protection.": (_S.CLEAN, _S.GLOVES),
        "Not before the strap, cover or clamp is back.": (_S.TIE,),
        "Not before {place} is cleaned and looked at by a competent person.": (_S.CLEAN, _S.EXPERT),
        "Not in rain or dust.": (_S.DRY,),
        "Not in rain.": (_S.DRY,),
        "Not started before the air is measured and moves.": (_S.AIR,),
        "Nut tightened with the wrench before it moves, all of them checked after two hours.": (
            _S.PUT_RIGHT,
            _S.LOOK_AGAIN,
        ),
        "Nuts checked with the wrench before it moves, and again after two hours.": (_S.PUT_RIGHT, _S.LOOK_AGAIN),
        "On level ground only.": (_S.LEVEL,),
        "On level ground, nothing overhead, until a competent person has judged it.": (
            _S.LEVEL,
            _S.NOTHING_ABOVE,
            _S.EXPERT,
        ),
        "Only as far as the next stop, where it is put right.": (_S.NEXT_STOP, _S.PUT_RIGHT),
        "Only this shift, and only once the supervisor has said yes by name.": (_S.EXPERT,),
        "Only to the workshop, at walking pace, nobody near.": (_S.WORKSHOP, _S.WALKING_PACE, _S.NOBODY_NEAR),
        "Only to the workshop, at walking pace, on level ground.": (_S.WORKSHOP, _S.WALKING_PACE, _S.LEVEL),
        "Only to the workshop, at walking pace, with nobody near.": (_S.WORKSHOP, _S.WALKING_PACE, _S.NOBODY_NEAR),
        "Only to the workshop.": (_S.WORKSHOP,),
        "Put right before it works, or somebody stays near with an extinguisher.": (_S.PUT_RIGHT, _S.EXTINGUISHER),
        "Stop and look from outside, engine off, every hour; stop at once if it gets hotter.": (_S.STOP, _S.LOOK_AGAIN),
        "Stopped at once whenever the display is dark.": (_S.STOP,),
        "The arm stays drawn in.": (_S.TOOL_RESTS,),
        "The battery is changed before it works. Gloves and eye protection.": (_S.PUT_RIGHT, _S.GLOVES),
        "The blade is not lifted over people and not used for heavy pushing.": (_S.STAYS_LOW, _S.LIGHT_LOAD),
        "The body is not raised.": (_S.STAYS_LOW,),
        "The clam stays shut. Nobody within reach of the tool.": (_S.TOOL_RESTS, _S.NOBODY_NEAR),
        "The door is tried before it starts, and stays free.": (_S.WAY_OUT,),
        "The fuel cannot be cut off in a fire: an extinguisher at hand.": (_S.EXTINGUISHER,),
        "The line is shut off.": (_S.PUT_RIGHT,),
        "The other exit is tried before it starts, and stays free.": (_S.WAY_OUT,),
        "The stairway is tried before it starts, and stays free.": (_S.WAY_OUT,),
        "The supervisor looks at the machine before it works.": (_S.EXPERT,),
        "The tailgate may drop: nobody behind the body, and it is not used.": (_S.NOBODY_NEAR,),
        "Tied up before it moves.": (_S.TIE,),
        "Up and down by the other access only.": (_S.OTHER_ACCESS,),
        "Up and down by the rope ladder in need only: it is not worked.": (_S.OTHER_ACCESS,),
        "What it holds stays low, nobody under or near it.": (_S.STAYS_LOW, _S.NOBODY_NEAR),
        "Without what this breaker feeds, by day, with no one near.": (_S.DAYLIGHT, _S.NOBODY_NEAR),
    }
)
"""By the sentence as it is written in the rules. A site's own sentence has none: it is read."""


def signs_of(limit: Said) -> tuple[LimitSign, ...]:
    """The signs beside a limit; none for a sentence that is not known.

    >>> from jutrel.core.wording import say
    >>> [str(s) for s in signs_of(say("Daylight only."))]
    ['daylight']
    """
    return SIGNS_OF.get(limit.text, ())
