"""What the choices of readings are called."""

from __future__ import annotations

from jutrel.core.wording import Said, as_written, say

CHOICES: dict[str, Said] = {
    "upright": say("Upright box"),
    "lying": say("Lying cylinder"),
    "strapped": say("By its table"),
    "clear": say("Clear"),
    "dark": say("Dark, as used"),
    "thin": say("Thin, smells of fuel"),
    "milky": say("Milky or foaming"),
    "cold-off": say("Cold, engine off"),
    "hot-idling": say("Warm, engine idling"),
    "ethylene": say("Ethylene glycol"),
    "propylene": say("Propylene glycol"),
    "light": say("Light work"),
    "medium": say("Medium work"),
    "hard": say("Hard work"),
    "edge": say("Cutting edge"),
    "tip": say("Tooth or tip"),
    "link": say("Track link"),
    "bushing": say("Bushing"),
    "grouser": say("Grouser"),
    "roller": say("Roller"),
    "tread": say("Tyre tread"),
    "pad": say("Rubber pad"),
    "foot": say("Foot of the drum"),
    "standing": say("Standing, straight edge over the top"),
    "lifted": say("Track lifted, at the bottom"),
    "concrete": say("Concrete"),
    "packed-ground": say("Packed ground"),
    "gravel": say("Gravel"),
    "steel": say("Steel plate"),
}
"""By their key; a choice without a name here is shown as it is written: an oil grade."""


def choice_name(key: str) -> Said:
    """A choice as it is read."""
    return CHOICES.get(key, as_written(key))
