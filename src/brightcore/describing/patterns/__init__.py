"""Patterns: whole bikes to start from. A pattern places parts, ports and joins; the technician
changes what differs.

A pattern is one file here and one line in `PATTERNS`. All values are usual ones of the trade
(common practice); nothing here is of any maker.
"""

from collections.abc import Callable
from dataclasses import replace

from brightcore.bike.model import Bike
from brightcore.describing.patterns.controller_in_hub import controller_in_hub
from brightcore.describing.patterns.delivery_trike import delivery_trike
from brightcore.describing.patterns.factory_hub import factory_hub
from brightcore.describing.patterns.folding import folding
from brightcore.describing.patterns.hand_cycle import hand_cycle
from brightcore.describing.patterns.hub_conversion import hub_conversion
from brightcore.describing.patterns.light_motorcycle import light_motorcycle
from brightcore.describing.patterns.mid_conversion import mid_conversion
from brightcore.describing.patterns.mid_outside import mid_outside
from brightcore.describing.patterns.opened_hub import opened_hub
from brightcore.describing.patterns.soft_packs import soft_packs
from brightcore.describing.patterns.three_wheeler import three_wheeler
from brightcore.describing.patterns.two_motor_cart import two_motor_cart
from brightcore.describing.patterns.two_packs import two_packs
from brightcore.errors import UnknownNameError

PATTERNS: dict[str, tuple[str, Callable[[], Bike]]] = {
    "hub-conversion": ("Hub conversion", hub_conversion),
    "mid-conversion": ("Mid-drive conversion", mid_conversion),
    "factory-hub": ("Factory hub bike", factory_hub),
    "folding": ("Folding bike", folding),
    "two-motor-cart": ("Two-motor cart", two_motor_cart),
    "hand-cycle": ("Hand-cycle clip-on", hand_cycle),
    "two-packs": ("Two packs", two_packs),
    "light-motorcycle": ("Light motorcycle", light_motorcycle),
    "delivery-trike": ("Delivery trike", delivery_trike),
    "soft-packs": ("Soft packs in series", soft_packs),
    "controller-in-hub": ("Controller in the hub", controller_in_hub),
    "opened-hub": ("Opened hub", opened_hub),
    "mid-outside": ("Mid drive on an outside controller", mid_outside),
    "three-wheeler": ("Three-wheeler, two motors", three_wheeler),
}


def make_pattern(pattern_id: str, label: str) -> Bike:
    """Return a new bike of a pattern with its own label; raises UnknownNameError."""
    if pattern_id not in PATTERNS:
        raise UnknownNameError("pattern", pattern_id, tuple(PATTERNS))
    made = PATTERNS[pattern_id][1]()
    return replace(made, info=replace(made.info, label=label))
