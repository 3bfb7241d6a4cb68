"""Looks for which something is rigged: phases clipped, halls read in a row, a line bridged, a
charger on."""

from brightcore.tracing.tests.look import Look


class Clipped(Look):
    """Clip the phases of a motor together and turn it."""

    name, family, kicker, first = "clipped", "Phases clipped together", "Clip and turn", False
    tool = "clip leads"


class HallSteps(Look):
    """Read the three halls in a row while the wheel turns."""

    name, family, kicker, first = "halls", "Hall steps", "Read the halls next", False
    tool = "a handheld meter"
    touches = True


class Bridge(Look):
    """Bridge battery + to the key line."""

    name, family, kicker, first = "bridge", "Bridge the key line", "Bridge and try", False
    tool = "a fused lead"
    touches = True


class Charge(Look):
    """Put the charger on."""

    name, family, kicker, first = "charge", "Charger", "Charge and look", False
    seeks = ("charging",)
    tool = "its charger"
