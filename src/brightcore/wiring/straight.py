"""Bare two-wire switches: which of their two wires goes where makes no difference, and is no
fault."""

from dataclasses import replace

from brightcore.bike.model import Bike, Join, Part
from brightcore.bike.roles import mate
from brightcore.circuit.nets import Nets
from brightcore.kinds import REGISTRY


def straightened(bike: Bike) -> Bike:
    """Return the bike with every bare switch that is joined the other way round turned; itself
    where none is."""
    joins = tuple(_straight(bike, join) for join in bike.joins)
    if joins == bike.joins:
        return bike
    return replace(bike, joins=joins)


def _straight(bike: Bike, join: Join) -> Join:
    """Return a join with its two wires exchanged, where a bare switch on it suits only then."""
    bare = next((part for part, _ in join.sides() if _is_bare(bike.part(part))), "")
    if not bare or len(join.pairs) != 2:
        return join
    (first, second), (third, fourth) = join.pairs
    turned = replace(join, pairs=((first, fourth), (third, second)))
    # Turned only where that puts it right: a switch whose far ends say nothing stays as it was
    # described.
    if _suits(bike, join, bare) or not _suits(bike, turned, bare):
        return join
    return turned


def _is_bare(part: Part) -> bool:
    return REGISTRY[part.kind].either_way and sum(len(port.pins) for port in part.ports) == 2


def _suits(bike: Bike, join: Join, bare: str) -> bool:
    """Return whether each wire of a bare switch meets what it belongs with, at the far end of any
    cable."""
    apart = replace(bike, joins=tuple(other for other in bike.joins if other.id != join.id))
    nets = Nets(apart, REGISTRY)
    own = 0 if join.a_part == bare else 1
    sides = join.sides()
    for pair in join.pairs:
        (part, port), (other, plug) = sides[own], sides[1 - own]
        role = bike.part(part).port(port).pin(pair[own]).role
        far = nets.roles_of(f"{other}.{plug}.{pair[1 - own]}") - {"wire"}
        if far and not any(mate(role, name) for name in far):
            return False
    return True
