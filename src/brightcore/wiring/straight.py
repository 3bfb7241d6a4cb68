"""Bare two-wire switches: which of their two wires goes where makes no difference, and is no fault."""

from dataclasses import replace

from brightcore.bike.model import Bike, Join, Part, Port
from brightcore.bike.roles import mate
from brightcore.kinds import REGISTRY


def straightened(bike: Bike) -> Bike:
    """Return the bike with every bare switch that is joined the other way round turned; itself where none
    is."""
    joins = tuple(_straight(bike, join) for join in bike.joins)
    return bike if joins == bike.joins else replace(bike, joins=joins)


def _straight(bike: Bike, join: Join) -> Join:
    """Return a join with its two wires exchanged, where a bare switch on it suits only then."""
    (a, p), (b, q) = join.sides()
    one, two = bike.part(a), bike.part(b)
    if len(join.pairs) != 2 or not (_is_bare(one) or _is_bare(two)):
        return join
    (first, second), (third, fourth) = join.pairs
    turned = ((first, fourth), (third, second))
    ports = one.port(p), two.port(q)
    if _suits(ports, turned) and not _suits(ports, join.pairs):
        return replace(join, pairs=turned)
    return join


def _is_bare(part: Part) -> bool:
    return REGISTRY[part.kind].either_way and sum(len(port.pins) for port in part.ports) == 2


def _suits(ports: tuple[Port, Port], pairs: tuple[tuple[str, str], ...]) -> bool:
    """Return whether every pin of a join meets one that it belongs with."""
    one, two = ports
    return all(mate(one.pin(a).role, two.pin(b).role) for a, b in pairs)
