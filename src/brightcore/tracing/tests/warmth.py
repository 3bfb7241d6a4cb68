"""Warmth: a controller or motor that grows too hot to keep a hand on."""

from brightcore.circuit.conditions import DEAD_STEPS, Condition
from brightcore.tracing.tests.signs import Sign


class Warmth(Sign):
    """Feel a part after a long pull."""

    name, evidence, family, kicker = "warmth", "warmth", "Warmth of a part", "Feel next"
    answers = (("hot", "too hot to keep a hand on"), ("warm", "warm at most"))
    choices = (("hot", "Too hot to keep a hand on"), ("warm", "Warm at most"))
    said = "Felt"
    sign, by_chance, minutes = "hot", 0.08, 10.0
    condition = Condition()
    gates_of = ("pack_safe", "road", "hot")
    words = (
        "Pull uphill until it holds back, stop, then feel the {part} with the back of "
        "the hand: how hot?"
    )
    steps = ("Ride slowly, off the road", *DEAD_STEPS)
