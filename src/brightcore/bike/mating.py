"""Which pins meet when two plugs are mated.

Two plugs of one make meet position by position, whatever their pins carry: that is what a hand
does. Where a plug is chosen for what it carries, pins find each other by role, by name, or in
order.
"""

from collections.abc import Iterator

from brightcore.bike import roles
from brightcore.bike.model import Pin, Port, pair_pins
from brightcore.errors import BikeError

PLAIN = ("", "signal")
"""Families that say nothing of a plug's make."""

TERMINALS = ("bare", "lug", "screw")
"""Families without a plug: bare ends, ring lugs, screw terminals. Each wire of theirs is fixed by
itself."""


def is_terminal(port: Port) -> bool:
    """Return whether a port has no plug: bare ends, lugs or screws."""
    return port.family.split("-")[0] in TERMINALS


def one_make(a: Port, b: Port) -> bool:
    """Return whether two plugs may be of one make, as far as it was looked at; a thin plug of any
    make is no power plug."""
    known = set()
    for port in (a, b):
        if port.family not in PLAIN:
            known.add(port.family.split("-")[0])
    if is_terminal(a) or is_terminal(b):
        return is_terminal(a) and is_terminal(b)
    return len(known) < 2 and not (known == {"power"} and "signal" in (a.family, b.family))


def fit_in_hand(a: Port, b: Port) -> bool:
    """Return whether two plugs go together as they are: of one make, as many pins, none moved one
    by one."""
    moved = a.rewireable or b.rewireable or is_terminal(a) or is_terminal(b)
    return not moved and len(a.pins) == len(b.pins) and (a.family == b.family or one_make(a, b))


def pairs_by_hand(a: Port, b: Port) -> tuple[tuple[str, str], ...]:
    """Return the mates of two plugs that somebody joins: by position where they fit in the hand,
    otherwise as they are brought together, by what they carry.

    Raises BikeError where nothing fits.
    """
    if fit_in_hand(a, b):
        found = []
        for p, q in zip(a.pins, b.pins, strict=True):
            found.append((p.name, q.name))
        return tuple(found)
    return propose_pairs(a, b)


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
        return (*pairs, *_rest_by_name(a, left, pairs))
    return _by_name(a, b)


def _rest_by_name(
    a: Port, left: list[Pin], pairs: list[tuple[str, str]]
) -> Iterator[tuple[str, str]]:
    """Yield pins that are left over and of one name, where one of the two is a plain wire."""
    done = {name for name, _ in pairs}
    names = {pin.name: pin for pin in left}
    for pin in a.pins:
        other = names.get(pin.name)
        if pin.name not in done and other is not None and "wire" in (pin.role, other.role):
            yield pin.name, other.name


def _by_name(a: Port, b: Port) -> tuple[tuple[str, str], ...]:
    both_roles = all(any(p.role != "wire" for p in port.pins) for port in (a, b))
    if both_roles:
        raise BikeError(
            f"{a.label or a.id} and {b.label or b.id} carry nothing that belongs together"
        )
    common = {p.name for p in a.pins} & {p.name for p in b.pins}
    if common and len(common) >= min(len(a.pins), len(b.pins)):
        return tuple((p.name, p.name) for p in a.pins if p.name in common)
    return pair_pins(a, b)
