"""What a careless hand does, and what would have happened: nothing burns here, the minutes are
lost."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Hazard:
    """One hazard: what was done, what would have happened, minutes to put it right, and whether
    somebody or a part would have been hurt."""

    key: str
    title: str
    words: str
    minutes: float
    grave: bool = True


HAZARDS = (
    Hazard(
        "ohms-live",
        "Ohms on a live circuit",
        (
            "The meter's fuse has blown, and the number would have lied. Pack out, under 5 V, "
            "then ohms."
        ),
        6.0,
    ),
    Hazard(
        "ohms-charged",
        "Ohms on charged capacitors",
        (
            "The pack is out, the capacitors still hold charge: the number creeps and lies. "
            "Discharge first."
        ),
        2.0,
        False,
    ),
    Hazard(
        "wheel-down",
        "The wheel was on the ground",
        "The bike leaps off the stand. Wheel up and clear before anything may turn.",
        5.0,
    ),
    Hazard(
        "plug-live",
        "A plug pulled with the pack in",
        (
            "An arc pits the contacts, and a slip puts pack volts where 5 V belong. Pack out "
            "before any plug."
        ),
        4.0,
    ),
    Hazard(
        "plug-charged",
        "A plug pulled on charged capacitors",
        "It sparks. Wait or discharge them before a power plug is touched.",
        1.0,
        False,
    ),
    Hazard(
        "short",
        "A bridge across live volts",
        (
            "The little fuse in the bridge is gone with a crack. Without it the wire would have "
            "glowed."
        ),
        5.0,
    ),
    Hazard(
        "phase-on-pack",
        "A phase on the pack",
        "The switches of the controller burn through at once: that is a new controller.",
        30.0,
    ),
    Hazard(
        "good-part-burnt",
        "A good controller lent to shorted phases",
        "The fault burns the lent controller as well. Read the phases before a controller is lent.",
        20.0,
    ),
    Hazard(
        "danger-stands",
        "Powered while a danger stands",
        "Burnt, shorted, or volts where they do not belong: power burns what is still sound. Pack "
        "out; smell at the plugs, ohms across the controller's battery plug, its phases to plus "
        "and minus; see to what was read. Only then is it powered.",
        10.0,
    ),
)
BY_KEY = {hazard.key: hazard for hazard in HAZARDS}
