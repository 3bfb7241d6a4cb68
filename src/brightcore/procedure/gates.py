"""Cautions before an act, and which an act asks for."""

from brightcore.circuit.conditions import Condition

GATES = {
    "pack_safe": "Pack looked at: not swollen, hot, wet, dropped or smelling",
    "wheel_up": "Driven wheel off the ground; hands, hair and straps clear; you know where the cut-off is",
    "pack_out": "Pack switched off, unplugged and out",
    "discharged": "Capacitors discharged: under 5 V between battery + and − at the controller",
    "road": "Brakes stop the bike without the cut-off; slow, off the road, helmet on",
    "known_good": "Spare is of the same volts, protocol and pinout; no pack volts on signal pins",
}
"""Cautions, acknowledged before a test and logged (common practice; local rules decide)."""


DEAD_GATES = ("pack_out", "discharged")
"""Cautions before anything is read or opened without power."""


def volts_gates(condition: Condition) -> tuple[str, ...]:
    """Return the cautions before a powered reading."""
    if condition.power != "on":
        return ("pack_safe",)
    if any(v == "pull" for _, v in condition.settings):
        return ("pack_safe", "road")
    return ("pack_safe", "wheel_up")
