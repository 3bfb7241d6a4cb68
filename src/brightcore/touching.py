"""What an act touches, from which follows what must be known of the pack before it."""

from collections.abc import Iterable

NOTHING, DEAD, PACK, POWERED = "nothing", "dead", "pack", "powered"
"""What an act touches: neither pack nor anything that it feeds; plugs and wires with the pack out;
the pack, or what it feeds; something that may turn."""

POWERED_GATES = frozenset({"wheel_up", "road"})
"""Cautions of acts at which something may turn."""


def touched(cautions: Iterable[str], declared: str = "") -> str:
    """Return what an act touches by its cautions, or as declared where that is more. An act that
    declares nothing and has no caution touches the pack: forgetting to say so errs to the safe
    side."""
    known = set(cautions)
    if known & POWERED_GATES:
        return POWERED
    if declared:
        return declared
    if "pack_out" in known:
        return DEAD
    return PACK
