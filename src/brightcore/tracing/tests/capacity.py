"""Capacity: what a pack still holds, counted from full to its cut-out."""

from brightcore.circuit.conditions import Condition
from brightcore.tracing.tests.signs import Sign


class Capacity(Sign):
    """Charge a pack full and count what it gives: on a ride with a meter in line, or into a
    load."""

    name, evidence, family, kicker = "capacity", "capacity", "Capacity", "Count its charge"
    answers = (("low", "clearly less than its label"), ("full", "near its label"))
    choices = (("low", "Under three quarters of its label"), ("full", "Near its label"))
    said = "Counted the charge of"
    sign, by_chance, minutes = "faded", 0.05, 30.0
    seeks = ("range",)
    tool = "a charger, and a meter that counts Ah"
    condition = Condition("off")
    gates_of = ("pack_safe", "charging")
    words = (
        "Charge the {part} full, then count its amp-hours until it cuts out, riding or into a "
        "load. Under three quarters of the label?"
    )
