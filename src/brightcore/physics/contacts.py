"""Contacts of plugs: what a good one has, and what a power plug carries. All common practice."""

GOOD_POWER_OHM = 0.001
GOOD_SIGNAL_OHM = 0.01
"""A good contact with its crimp: well below the 50 mV at 30 A that make one suspect."""

CONTACTS_PER_WIRE = 2
"""A wire ends in a contact at either end."""

PLUG_A = {"power-2": 45.0, "power-3": 60.0}
"""What a power plug carries for long, by family; the plug's own mark decides."""
