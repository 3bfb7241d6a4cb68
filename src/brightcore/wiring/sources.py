"""What feeds a wire on the healthy bike, by the roles and feeds of the parts on it."""

from collections.abc import Iterator
from typing import NamedTuple

from brightcore.analysis.bike import Analysis, Net, Place
from brightcore.analysis.strings import highest_v, top_v
from brightcore.bike.model import Bike, Part, narrowed
from brightcore.bike.roles import Role, named
from brightcore.kinds import REGISTRY
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import controllers

PACK_PLUS = named(polarity="plus", level="pack", gives=True)
"""Roles on whose wire pack volts stand."""


def full_pack_v(bike: Bike) -> float:
    """Return the volts of the highest string of packs when full, 0 where there is none."""
    return highest_v(bike)


def place_v(case: Analysis, place: Place) -> float:
    """Return the volts that a pin gives, 0 where it gives none."""
    pack = narrowed(place.part, PackSpec)
    if pack is not None and place.pin.role == "pack_plus":
        return top_v(case, pack)
    for feed in REGISTRY[place.part.kind].feeds(place.part):
        if feed.role == place.pin.role:
            return feed.volt
    if place.pin.role in PACK_PLUS:
        return full_pack_v(case.bike)
    return 0.0


def given_v(case: Analysis, net: Net) -> float:
    """Return the highest volts that feed a net, 0 where nothing does."""
    return max((place_v(case, place) for place in net), default=0.0)


class Backfed(NamedTuple):
    """A controller whose own battery lead is open at one pole, and the thin pin through which that
    pole still reaches a pack."""

    controller: Part[ControllerSpec]
    pole: str
    pin: Place


def backfed(case: Analysis) -> Iterator[Backfed]:
    """Yield every pole of a controller that reaches a pack through thin wires alone, while current
    can flow.

    Inside a controller all plus pins are one, and all minus pins: motor current takes whatever way
    there is. A controller that has no way at all for one of the poles carries no current.
    """
    for controller in controllers(case.bike):
        ways = {pole: _way(case, controller, pole) for pole in ("plus", "minus")}
        if any(way is None for way in ways.values()):
            continue
        for pole, way in ways.items():
            if way is not None and not _thick(way.role, pole):
                yield Backfed(controller, pole, way)


def _way(case: Analysis, controller: Part[ControllerSpec], pole: str) -> Place | None:
    """Return the pin by which a pole of a controller reaches a pack, a thick one where there is
    one."""
    own = [place for place in case.places_of(controller) if _pole(place.role) == pole]
    leading = (place for place in own if _reaches_pack(case, place, pole))
    return min(leading, key=lambda place: not _thick(place.role, pole), default=None)


def _pole(role: Role) -> str:
    """Return the pole of the pack that a role is connected to inside its part, "" for none."""
    if role.polarity == "plus":
        if role.level == "pack":
            return "plus"
        return ""
    return role.polarity


def _thick(role: Role, pole: str) -> bool:
    return role.use == "power" and role.polarity == pole


def _reaches_pack(case: Analysis, start: Place, pole: str) -> bool:
    """Return whether a pin has a pack at the far end of its wires, through other controllers
    too."""
    seen, waiting = {start.part.id}, [start]
    while waiting:
        for place in case.net_of(waiting.pop().id):
            if place.part.id in seen:
                continue
            if _pole(place.role) != pole:
                continue
            if not isinstance(place.part.spec, ControllerSpec) and place.role.use == "power":
                return True
            if isinstance(place.part.spec, ControllerSpec):
                seen.add(place.part.id)
                # Inside a controller all pins of a pole are one piece of copper: current goes in at
                # one plug and out at another.
                waiting += case.places_of(place.part, lambda r: _pole(r) == pole)
    return False
