"""Contacts of plugs: what a good one has, and what a power plug carries. All common practice."""

GOOD_POWER_OHM = 0.001
GOOD_SIGNAL_OHM = 0.01
"""A good contact with its crimp: well below the 50 mV at 30 A that make one suspect."""

CONTACTS_PER_WIRE = 2
"""A wire ends in a contact at either end."""

PLUG_A = {
    "power-2": 45.0,
    "power-3": 60.0,
    "power": 45.0,
    "motor-9": 25.0,
    "charge-2": 10.0,
    "front": 3.0,
    "signal": 3.0,
}
"""What one contact of a plug carries for long, by family or its first word; the plug's own mark
decides."""


MINUTE_RATIO = 1.25
"""What a contact carries for a minute over what it carries for long."""


def contact_a(family: str) -> float:
    """Return what one contact of a plug family usually carries for long, in A; 0 where nothing is
    known.

    >>> contact_a("power-2"), contact_a("front-8"), contact_a("lug-2"), contact_a("")
    (45.0, 3.0, 0.0, 0.0)
    """
    return PLUG_A.get(family, PLUG_A.get(family.split("-")[0], 0.0))
