"""What may be wrong on a practice bike: a sort is one function and one line in `SORTS`."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from brightcore.bike.model import Bike
from brightcore.circuit.faults import FaultMode
from brightcore.kinds import REGISTRY
from brightcore.kinds.base import PartKind
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.motor import MotorSpec

Fits = Callable[[FaultMode, Bike], bool]


@dataclass(frozen=True, slots=True)
class Sort:
    """One sort of trouble: which faults belong to it, how many there are, whether they come and
    go."""

    key: str
    title: str
    words: str
    fits: Fits
    count: int = 1
    comes_and_goes: bool = False


def _kind(mode: FaultMode, bike: Bike) -> PartKind[Any] | None:
    """Return the kind of the part that a fault is mended at, None where it is at a plug."""
    part = next((part for part in bike.parts if part.id == mode.repair.owner), None)
    if part is None or mode.repair.of_join:
        return None
    return REGISTRY[part.kind]


def playable(mode: FaultMode) -> bool:
    """Return whether a fault can be hidden: it shows somehow, and is not one of what nobody has
    described."""
    return not mode.repair.describes and (not mode.silent or bool(mode.signs))


def anything(mode: FaultMode, bike: Bike) -> bool:
    """Whatever the bike's parts and wires can do."""
    return True


def connections(mode: FaultMode, bike: Bike) -> bool:
    """Plugs and wires, not their order."""
    return (mode.repair.of_join or mode.repair.of_cable) and not crossed(mode, bike)


def crossed(mode: FaultMode, bike: Bike) -> bool:
    """Wires in the wrong order."""
    return mode.repair.id.startswith("order:")


def of_pack(mode: FaultMode, bike: Bike) -> bool:
    """The pack, its fuse, switch, board."""
    kind = _kind(mode, bike)
    return kind is not None and kind.grounds


def of_bar(mode: FaultMode, bike: Bike) -> bool:
    """What sits on the bar, and the sensors."""
    kind = _kind(mode, bike)
    return kind is not None and kind.place in ("bar", "sensor") and not mode.repair.of_setting


def of_drive(mode: FaultMode, bike: Bike) -> bool:
    """Motor and controller."""
    part = next((part for part in bike.parts if part.id == mode.repair.owner), None)
    driving = part is not None and isinstance(part.spec, ControllerSpec | MotorSpec)
    return driving and not (mode.repair.of_join or mode.repair.of_setting)


def of_settings(mode: FaultMode, bike: Bike) -> bool:
    """What is set wrong."""
    return mode.repair.of_setting


def fresh_build(mode: FaultMode, bike: Bike) -> bool:
    """What goes wrong on a bike that was just wired: wires crossed, plugs not home, values never
    set."""
    open_plug = mode.repair.of_join and mode.id.endswith("/open")
    return crossed(mode, bike) or open_plug or mode.repair.of_setting


def loose(mode: FaultMode, bike: Bike) -> bool:
    """What comes and goes."""
    return mode.loose > 0


def none(mode: FaultMode, bike: Bike) -> bool:
    """Nothing at all."""
    return False


SORTS: tuple[Sort, ...] = (
    Sort("anything", "Anything", "one fault, of whatever sort", anything),
    Sort("connections", "Plugs and wires", "a plug or a wire", connections),
    Sort("pack", "Pack", "pack, fuse, switch, board", of_pack),
    Sort("bar", "Bar controls and sensors", "throttle, levers, display, sensors", of_bar),
    Sort("drive", "Motor and controller", "motor or controller", of_drive),
    Sort("settings", "Settings", "something is set wrong", of_settings),
    Sort("build", "A fresh build", "just wired: crossed, not home, never set", fresh_build),
    Sort(
        "loose", "Comes and goes", "a plug or wire that comes and goes", loose, comes_and_goes=True
    ),
    Sort("two", "Two faults", "two at once", anything, count=2),
    Sort("nothing", "Perhaps nothing", "one fault, or none at all", anything),
)
"""One line each; `nothing` hides nothing in one case of two."""

BY_KEY = {sort.key: sort for sort in SORTS}
