"""Insulation: does a phase of a motor reach its axle, and so the frame?"""

from brightcore.circuit.conditions import DEAD_STEPS, Condition
from brightcore.procedure.gates import DEAD_GATES
from brightcore.tracing.tests.signs import Sign


class Insulation(Sign):
    """Read ohms from the phases of a motor to its axle."""

    name, evidence, family, kicker = "insulation", "insulation", "Ohms to the axle", "Measure next"
    answers = (("reads", "a reading: it touches"), ("open", "OL on all three"))
    choices = (("reads", "A reading"), ("open", "OL on all three"))
    said = "Ohms to the axle at"
    tool = "a handheld meter"
    touches = True
    sign, by_chance, minutes = "axle", 0.02, 2.0
    seeks = ("tingle",)
    condition = Condition("out")
    gates_of = DEAD_GATES
    words = (
        "Ohms from each phase of the {part} to bare metal of its axle, on the highest "
        "range: a reading?"
    )
    steps = (
        *DEAD_STEPS,
        "Part the phase plug",
        "Scrape no paint: use the nut or the end of the axle",
    )
