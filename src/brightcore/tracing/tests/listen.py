"""Listen: does the motor grind, click or rattle?"""

from brightcore.circuit.conditions import Condition
from brightcore.procedure.gates import volts_gates
from brightcore.tracing.tests.signs import Sign


class Listen(Sign):
    """Listen at a part while the wheel turns, driven and by hand."""

    name, evidence, family, kicker = "listen", "listen", "Listen", "Listen next"
    answers = (("noise", "grinds, clicks or rattles"), ("quiet", "sounds as it should"))
    choices = (("noise", "It grinds, clicks or rattles"), ("quiet", "It sounds as it should"))
    said = "Listened at"
    sign, by_chance, minutes = "heard", 0.04, 1.0
    seeks = ("noise",)
    condition = Condition()
    gates_of = volts_gates(Condition())
    words = (
        "Listen at the {part}: a touch of throttle, wheel up, then turned by hand. "
        "Grinding, clicking?"
    )
