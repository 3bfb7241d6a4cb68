"""Which pins belong together when two plugs are mated: by role, by name, or in order."""

from brightcore.bike import roles
from brightcore.bike.model import Pin, Port, pair_pins
from brightcore.errors import BikeError

PLAIN = ("", "signal")
"""Families that say nothing of a plug's make."""


def propose_pairs(a: Port, b: Port) -> tuple[tuple[str, str], ...]:
    """Return the mates of two ports: by role where both sides have roles, else by name or in order.

    Pins without a partner are left out. Raises BikeError where nothing fits.
    """
    left = list(b.pins)
    pairs = []
    for pin in (p for p in a.pins if p.role != "wire"):
        partner = next((q for q in left if q.role != "wire" and roles.mate(pin.role, q.role)), None)
        if partner is not None:
            left.remove(partner)
            pairs.append((pin.name, partner.name))
    if pairs:
        return tuple(pairs)
    return _by_name(a, b)


def _by_name(a: Port, b: Port) -> tuple[tuple[str, str], ...]:
    both_roles = all(any(p.role != "wire" for p in port.pins) for port in (a, b))
    if both_roles:
        raise BikeError(f"{a.label or a.id} and {b.label or b.id} carry nothing that belongs together")
    common = {p.name for p in a.pins} & {p.name for p in b.pins}
    if common and len(common) >= min(len(a.pins), len(b.pins)):
        return tuple((p.name, p.name) for p in a.pins if p.name in common)
    return pair_pins(a, b)


def fitting(pairs: tuple[tuple[str, str], ...], a: Port, b: Port) -> tuple[tuple[str, str], ...]:
    """Return those of the pairs whose pins both ports still have and whose roles mate."""
    one, two = ({p.name: p for p in port.pins} for port in (a, b))

    def fits(p: Pin | None, q: Pin | None) -> bool:
        return p is not None and q is not None and roles.mate(p.role, q.role)

    return tuple(pair for pair in pairs if fits(one.get(pair[0]), two.get(pair[1])))
