"""Currents that wires carry at most: from the limits of the controllers and from what every other
part draws.

A wire is a tree of contacts and conductors. Where one of them is parted, what hangs on the side
without a source flows through it; so a trunk carries what its branches carry together. Volts are
those of the healthy bike.
"""

import math

from brightcore.analysis.bike import Analysis, Place
from brightcore.analysis.strings import lowest_v, strings
from brightcore.bike.model import Bike, Part, narrowed
from brightcore.kinds import REGISTRY
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.pack import PackSpec

SIGNAL_A = 0.005
"""Current taken for a signal wire (common practice)."""

STEP_DOWN_RATIO = 0.85
"""Efficiency of a step-down converter (common practice)."""

SIX_STEP_RATIO = math.sqrt(2 / 3)
"""Root mean square over peak of a phase current in six steps: each phase carries two thirds of the
time."""

MOST_PASSES = 4
"""Converters and modules one behind the other that are followed."""


def battery_limit_a(bike: Bike, controller: Part[ControllerSpec]) -> float:
    """Return the battery current that a controller is set to, or its rating, in A."""
    return bike.setting(controller.id, "current_limit_a", controller.spec.battery_limit_a)


def phase_limit_a(bike: Bike, controller: Part[ControllerSpec]) -> float:
    """Return the phase current that a controller is set to, or its rating, in A."""
    return bike.setting(controller.id, "phase_limit_a", controller.spec.phase_limit_a)


def battery_demand_a(bike: Bike) -> float:
    """Return what all controllers together may draw from the packs, in A."""
    return sum(battery_limit_a(bike, c) for c in bike.having(ControllerSpec))


def may_feed(case: Analysis, pack: Part[PackSpec], controller: Part[ControllerSpec]) -> bool:
    """Return whether a pack may have to feed a controller alone.

    A controller on the plus wire of one string of packs draws from that string only; one behind a
    module, or not connected yet, may draw all of it from any pack.
    """
    own = next((s for s in strings(case.bike) if any(p.id == pack.id for p in s)), (pack,))
    beside = set()
    for pin in case.places_of(controller):
        if pin.pin.role == "battery_plus":
            for place in case.net_of(pin.id):
                if place.pin.role == "pack_plus":
                    beside.add(place.part.id)
    return not beside or bool(beside & {p.id for p in own})


def drawing_on(case: Analysis, pack: Part[PackSpec]) -> list[Part[ControllerSpec]]:
    """Return the controllers that a pack may have to feed alone."""
    found: list[Part[ControllerSpec]] = []
    for c in case.bike.having(ControllerSpec):
        if may_feed(case, pack, c):
            found.append(c)
    return found


def demand_on_a(case: Analysis, pack: Part[PackSpec]) -> float:
    """Return what the controllers that a pack may have to feed alone may draw together, in A."""
    return sum(battery_limit_a(case.bike, controller) for controller in drawing_on(case, pack))


def drawn_a(case: Analysis, place: Place, passes: int = 0) -> float:
    """Return what a part draws through one of its supply pins, in A, with what hangs on its
    outputs."""
    part, pin = place.part, place.pin
    controller = narrowed(part, ControllerSpec)
    if controller is not None and place.role.use == "power":
        return battery_limit_a(case.bike, controller)
    total = 0.0
    for draw in REGISTRY[part.kind].draws(part):
        if draw.role == pin.role and draw.pin in ("", pin.name):
            total += draw.ampere
            if draw.passes and passes < MOST_PASSES:
                total += _passed_a(case, place, draw.passes, passes + 1)
    return total


def _passed_a(case: Analysis, place: Place, role: str, passes: int) -> float:
    """Return what the load of an output takes at one of the part's inputs, in A."""
    part = place.part
    load = sum(
        _hanging_a(case, place, passes) for place in case.places_of(part, lambda r: r.name == role)
    )
    feed = next((f for f in REGISTRY[part.kind].feeds(part) if f.role == role), None)
    source_v = _least_given_v(case, place)
    if feed is None or source_v <= 0:
        return load
    # A step-down converter takes less current than it gives, by the ratio of volts; never more is
    # reckoned with than it gives, as a cheap one may be a mere series part.
    return load * min(feed.volt / (source_v * STEP_DOWN_RATIO), 1.0)


def _least_given_v(case: Analysis, place: Place) -> float:
    """Return the least volts at an input, in V: those of an output on its net, else the empty
    pack's."""
    feeds = (
        feed.volt
        for other in case.net_of(place.id)
        for feed in REGISTRY[other.part.kind].feeds(other.part)
        if feed.role == other.pin.role and other.part.id != place.part.id
    )
    return min(feeds, default=lowest_v(case.bike, PackSpec.empty_v))


def _hanging_a(case: Analysis, output: Place, passes: int = 0) -> float:
    """Return what hangs on an output's net, in A."""
    others = (place for place in case.net_of(output.id) if place.id != output.id)
    return sum(
        drawn_a(case, place, passes)
        for place in others
        if place.role.wants or place.role.name == "wire"
    )


def output_load_a(case: Analysis, part: Part, role: str) -> float:
    """Return what hangs on all of a part's outputs of a role together, in A.

    Pins of one role are one rail inside the part; a wire that ties two of them is counted once.
    """
    seen: set[str] = set()
    total = 0.0
    for place in case.places_of(part, lambda r: r.name == role):
        net = case.nets.find(place.id)
        if net not in seen:
            seen.add(net)
            total += _hanging_a(case, place)
    return total


def returned_a(case: Analysis, place: Place) -> float:
    """Return what comes back from a part through one of its minus pins, in A: all that it draws
    itself."""
    part = place.part
    if isinstance(part.spec, ControllerSpec):
        if place.role.use == "power":
            return drawn_a(case, place)
        return 0.0
    own = tuple(REGISTRY[part.kind].draws(part))
    return sum(draw.ampere for draw in own)


def _side_a(case: Analysis, pins: frozenset[str], minus: bool) -> tuple[float, bool]:
    """Return (load in A, whether there is a source) of some pins of one net."""
    load, fed = 0.0, False
    for name in pins:
        place = case.places[name]
        role = place.role
        fed = fed or (role.gives and not (role.wants and role.use == "power"))
        if minus and role.polarity == "minus" and role.wants:
            # What flows in through plus flows out through minus: grounds carry the sum of what
            # returns, whichever way the signals go.
            load += returned_a(case, place)
        elif not minus and (role.wants or role.name == "wire"):
            load += drawn_a(case, place)
    return load, fed


def through_a(case: Analysis, one: str, two: str) -> float:
    """Return the most that flows from one pin to another that it is directly connected to, in A."""
    net = case.net_of(one)
    phases = [place.part for place in net if place.role.use == "phase"]
    if phases:
        driving = [narrowed(part, ControllerSpec) for part in phases]
        limits = []
        for part in driving:
            if part is not None:
                limits.append(phase_limit_a(case.bike, part))
        return max(limits, default=0.0) * SIX_STEP_RATIO or SIGNAL_A
    minus = any(place.role.polarity == "minus" for place in net)
    here, there = case.beyond(one, two), case.beyond(two, one)
    if two in here:  # a loop: nothing says which way it goes
        return max(_side_a(case, here, minus)[0], SIGNAL_A)
    (load_here, fed_here), (load_there, fed_there) = (
        _side_a(case, here, minus),
        _side_a(case, there, minus),
    )
    if fed_here and not fed_there:
        return max(load_there, SIGNAL_A)
    if fed_there and not fed_here:
        return max(load_here, SIGNAL_A)
    return max(load_here, load_there, SIGNAL_A)
