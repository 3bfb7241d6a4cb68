"""What instruments of sensors share: a part of a kind each, read at its own plug against the ground
beside it."""

from brightcore.bike.model import Bike, Spec
from brightcore.setting.contract import ReadAt, Subject

GROUND = "sensor_ground"


def every(bike: Bike, spec: type[Spec]) -> tuple[Subject, ...]:
    """Return the parts of a kind, by what describes them."""
    return tuple(Subject(part.id, part.name) for part in bike.having(spec))


def at_own_plug(bike: Bike, subject: str, *wanted: tuple[str, str, str]) -> tuple[ReadAt, ...]:
    """Return where the fields of an instrument are read: (field, role of the pin, condition) each.

    The black lead is on the ground of the same plug. Empty where no plug of the part has every
    role, as with a sensor whose wires nobody has told apart.
    """
    for port in bike.part(subject).ports:
        pins = {}
        for pin in port.pins:
            pins[pin.role] = f"{subject}.{port.id}.{pin.name}"
        if {GROUND, *(role for _, role, _ in wanted)} <= set(pins):
            return tuple(
                ReadAt(field, pins[role], pins[GROUND], condition)
                for field, role, condition in wanted
            )
    return ()
