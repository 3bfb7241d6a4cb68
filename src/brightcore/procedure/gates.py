"""Cautions before an act, and which an act asks for."""

from collections.abc import Iterable

from brightcore.analysis.strings import highest_v
from brightcore.bike.model import Bike
from brightcore.circuit.conditions import Condition
from brightcore.physics.cells import least_words
from brightcore.physics.touch import TOUCH_V

GATES = {
    "pack_safe": "Pack looked at: not swollen, hot, wet, dropped or smelling",
    "wheel_up": (
        "Driven wheel off the ground; hands, hair and straps clear; you know how to cut power"
    ),
    "balance": "Sleeved probe tips, one group at a time, nothing slips: two balance pins that "
    "touch are a "
    "short that no fuse breaks",
    "pack_out": "Pack switched off, unplugged and out",
    "discharged": "Capacitors discharged: 1 kΩ 10 W across them, about 5 s per 1000 µF, then "
    "under 5 V "
    "between battery + and − at the controller; never with a screwdriver",
    "limited": "Through a limit the first time: bench supply at 2 to 5 A, a fuse of 5 A or "
    "less, or a series "
    "lamp; a hand on the switch, off at any smell, warmth or hum",
    "high_volts": f"Over {TOUCH_V:g} V DC: insulated gloves and probes, one hand, nothing "
    "conductive worn; "
    "local rules say who may",
    "road": "Brakes proven to stop the bike without the cut-off; helmet on, private ground; "
    "leads clipped "
    "and taped, the meter on MIN/MAX hold or read by a helper",
    "hot": "It may burn: hold the back of the hand near it first, do not grip; smoke, hissing "
    "or a sharp smell: stand back and leave the pack alone",
    "wet": "Pack out: mist clean water on the outside of plugs only, never on pack, charger or "
    "display; wipe "
    "the battery plug dry before the pack goes in; warmth, smell or sparks: pack out, outdoors",
    "bridge": "Bridge with a fuse of 1 A or less, the two pins read off the plug card first; "
    "no display, no "
    "limit: only a touch of throttle, wheel up; let go, then switch the pack off to stop",
    "in_line": "Pack out and capacitors empty before the plug is parted; 1 kΩ 10 W in series "
    "with the meter, "
    "or filling capacitors blow it; nothing is switched on meanwhile; leads back to volts at "
    "once afterwards",
    "charging": "Never a pack that was dropped, wet, swollen or run down too far "
    f"(under {least_words()}); its own charger, "
    "0 to 45 °C, on a floor that does not burn, attended to the end",
    "donor": "Donor of the same volts, its plugs go in without force; phases and halls may be "
    "ordered "
    "otherwise: only a touch of throttle, both wheels up, stop at any growl",
    "stands_still": "Bike switched off and on again at its switch; wheel seen to stand still, "
    "hands clear of it until then",
    "known_good": "Spare is of the same volts, protocol and pinout; no pack volts on signal pins",
}
"""Cautions, acknowledged before a test and logged (common practice; local rules decide)."""


LIMITED = "limited"
"""The caution before the first power after something was burnt, wet or shorted."""

DEAD_GATES = ("pack_out", "discharged")
"""Cautions before anything is read or opened without power."""


def is_ridden(condition: Condition) -> bool:
    """Return whether the bike pulls hard in a state, which it does on the road alone."""
    return any(value == "pull" for _, value in condition.settings)


def is_high(bike: Bike) -> bool:
    """Return whether more than 60 V DC can stand anywhere on a bike: full packs, those in series
    together."""
    return highest_v(bike) > TOUCH_V


def probe_gates(condition: Condition, bike: Bike) -> tuple[str, ...]:
    """Return the cautions before probes touch anything in a powered state of a bike."""
    return volts_gates(condition) + (("high_volts",) if is_high(bike) else ())


def volts_gates(condition: Condition) -> tuple[str, ...]:
    """Return the cautions before anything powered."""
    if condition.power != "on":
        return ("pack_safe",)
    if is_ridden(condition):
        return ("pack_safe", "road")
    return ("pack_safe", "wheel_up")


def standing_of(power: str, gates: Iterable[str]) -> str:
    """Return how the bike stands during an act: its power, and whether it is ridden instead of on
    its stand.

    A caution lapses when this changes: a wheel that was clear of the ground is not after a ride.

    >>> standing_of("on", ("pack_safe", "wheel_up")), standing_of("on", ("pack_safe", "road"))
    ('on', 'on, road')
    """
    if "road" in gates:
        return f"{power}, road"
    return power
