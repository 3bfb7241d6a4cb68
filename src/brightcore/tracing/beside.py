"""Repair beside replace: what the whole part or the whole bike would cost instead, at usual
figures."""

from brightcore.bike.model import Bike
from brightcore.circuit.faults import RepairKind
from brightcore.kinds import REGISTRY
from brightcore.kinds.select import packs
from brightcore.matching.cost import LEVELS, Option, usual_options

DEAR_FROM = 2
"""Cost level from which a repair is shown beside replacing."""


def options_beside(bike: Bike, repair: RepairKind) -> tuple[Option, ...]:
    """Return the repair, then replacing the part that it is about, and the bike; nothing where the
    repair costs so little that nobody would ask. Costs are usual ones (common practice)."""
    if repair.cost_level < DEAR_FROM:
        return ()
    energy = sum(pack.spec.energy_wh() for pack in packs(bike))
    shown = {REGISTRY[part.kind].fails_as for part in bike.parts if part.id == repair.owner} | {
        "bike"
    }
    level = LEVELS[min(repair.cost_level, len(LEVELS) - 1)]
    own = Option("repair", "This repair", level, repair.minutes, 0.0, 0.0, "", "")
    return (own, *(option for option in usual_options(energy, False) if option.id in shown))
