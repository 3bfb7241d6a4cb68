"""The parts of a bike by what they are, with their specs."""

from brightcore.bike.model import Bike, Part, narrowed
from brightcore.kinds import REGISTRY
from brightcore.kinds.cable import Cable, CableSpec
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.display import DisplaySpec
from brightcore.kinds.mid_motor import MidMotorSpec
from brightcore.kinds.modules import CombinerSpec, TrackerSpec
from brightcore.kinds.motor import HubMotorSpec, MotorSpec
from brightcore.kinds.pack import PackSpec


def packs(bike: Bike) -> tuple[Part[PackSpec], ...]:
    """Return the packs."""
    return bike.having(PackSpec)


def controllers(bike: Bike) -> tuple[Part[ControllerSpec], ...]:
    """Return the controllers."""
    return bike.having(ControllerSpec)


def motors(bike: Bike) -> tuple[Part[MotorSpec], ...]:
    """Return the motors, hubs and mid drives."""
    return bike.having(MotorSpec)


def hub_motors(bike: Bike) -> tuple[Part[HubMotorSpec], ...]:
    """Return the motors in a wheel."""
    return bike.having(HubMotorSpec)


def mid_motors(bike: Bike) -> tuple[Part[MidMotorSpec], ...]:
    """Return the motors at the cranks."""
    return bike.having(MidMotorSpec)


def displays(bike: Bike) -> tuple[Part[DisplaySpec], ...]:
    """Return the displays."""
    return bike.having(DisplaySpec)


def cables(bike: Bike) -> tuple[Part[CableSpec], ...]:
    """Return the cables and harnesses."""
    return bike.having(CableSpec)


def combiners(bike: Bike) -> tuple[Part[CombinerSpec], ...]:
    """Return the combining modules."""
    return bike.having(CombinerSpec)


def trackers(bike: Bike) -> tuple[Part[TrackerSpec], ...]:
    """Return the trackers."""
    return bike.having(TrackerSpec)


def as_cable(part: Part) -> Part[CableSpec] | None:
    """Return the part as a cable, None where it is none."""
    return narrowed(part, CableSpec)


def is_cable(part: Part) -> bool:
    """Return whether a part is nothing but a cable: a fuse holder or a switch in a lead is more."""
    return part.kind == Cable.name


def cutting(bike: Bike, by: str) -> tuple[Part, ...]:
    """Return the parts that cut the motor: by "brake", or by "other"."""
    return tuple(part for part in bike.parts if REGISTRY[part.kind].cuts == by)


def at_place(bike: Bike, *places: str) -> tuple[Part, ...]:
    """Return the parts that stand at places of the Line."""
    found = []
    for part in bike.parts:
        if REGISTRY[part.kind].place in places:
            found.append(part)
    return tuple(found)


def is_pedalled(bike: Bike) -> bool:
    """Return whether a bike has pedals or hand cranks: as somebody has said, else where a part
    shows it."""
    if bike.info.pedals:
        return bike.info.pedals != "no"
    return any(REGISTRY[part.kind].pedalled for part in bike.parts)


def pedals_unknown(bike: Bike) -> bool:
    """Return whether nobody has said that a bike has pedals, and no part shows it."""
    return not bike.info.pedals and not is_pedalled(bike)
