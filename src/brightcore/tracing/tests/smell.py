"""Smell: burnt varnish or plastic? Never at a pack: what smells there is a danger, not a test."""

from brightcore.circuit.conditions import Condition
from brightcore.tracing.tests.signs import Sign


class Smell(Sign):
    """Smell at a part that is out of power."""

    name, evidence, family, kicker = "smell", "smell", "Smell", "Smell next"
    answers = (("burnt", "smells burnt"), ("nothing", "no smell"))
    choices = (("burnt", "It smells burnt"), ("nothing", "No smell"))
    said = "Smelled at"
    sign, by_chance, minutes = "smelt", 0.02, 0.7
    seeks = ("smell",)
    condition = Condition("out")
    gates_of = ("pack_out",)
    words = "Smell at the {part}, its openings and leads: burnt varnish or plastic?"
