"""Rules on plugs as things: free ones that are needed or live, pins without mates, makes, gender,
keys, pin order."""

from collections.abc import Iterator
from typing import NamedTuple

from brightcore.analysis.bike import Analysis
from brightcore.analysis.rule import Found, rule
from brightcore.bike.mating import PLAIN, is_terminal
from brightcore.bike.model import Bike, Join, Part, Pin, Port
from brightcore.bike.roles import mate, role_of
from brightcore.findings import Finding
from brightcore.kinds import REGISTRY
from brightcore.kinds.charging import Charger
from brightcore.kinds.select import controllers
from brightcore.wiring import remedies


class End(NamedTuple):
    """A plug with its part."""

    part: Part
    port: Port

    @property
    def words(self) -> str:
        """The plug in words."""
        return f"{self.part.name}, {self.port.label or self.port.id}"

    @property
    def made(self) -> str:
        """Its make, "" where nothing is told of it."""
        if self.port.family in PLAIN:
            return ""
        return self.port.family


def ends_of(bike: Bike, join: Join) -> tuple[End, End]:
    """Return both plugs of a join."""
    (a, p), (b, q) = join.sides()
    return End(bike.part(a), bike.part(a).port(p)), End(bike.part(b), bike.part(b).port(q))


@rule(
    "W003",
    "fault",
    "The {port} plug of the {part} leads to nothing and is needed for first power-up.",
    "Connect it, or bridge it where the maker allows that.",
    remedies=(remedies.join_free,),
)
def required_plug(case: Analysis, found: Found) -> Iterator[Finding]:
    """A plug needed for first power-up that is joined to nothing, or to a cable whose far end
    is."""
    for part in case.bike.parts:
        for port in part.ports:
            if port.required and not _leads_on(case, part, port):
                yield found((f"{part.id}.{port.id}",), port=port.label or port.id, part=part.name)


def _leads_on(case: Analysis, part: Part, port: Port) -> bool:
    """Return whether a plug reaches another part, through cables or not.

    One that only links its own pins does what it is for.
    """
    own = {f"{part.id}.{port.id}.{pin.name}" for pin in port.pins}
    places = [place for name in own for place in case.net_of(name)]
    others = any(
        place.part.id != part.id and not REGISTRY[place.part.kind].inline for place in places
    )
    return others or any(len(own & {place.id for place in case.net_of(name)}) > 1 for name in own)


@rule(
    "W004",
    "fault",
    "Pin {pin} of the {port} plug ({part}) has no mate in this connection.",
    "Look at both faces of the plug; correct the pin map or re-pin it.",
    remedies=(remedies.repin,),
)
def lonely_pin(case: Analysis, found: Found) -> Iterator[Finding]:
    """A pin of a joined plug that has no mate; what another controller gives already stays off on
    purpose."""
    for join in case.bike.joins:
        ends = ends_of(case.bike, join)
        for side, end in enumerate(ends):
            mated = {pair[side] for pair in join.pairs}
            for pin in (p for p in end.port.pins if p.name not in mated):
                if _left_off(case, join, end, pin) or _wanted_by_none(join, ends, side, pin):
                    continue
                yield found(
                    (f"{end.part.id}.{end.port.id}.{pin.name}",),
                    pin=pin.words,
                    port=end.port.label or end.port.id,
                    part=end.part.name,
                )


def _wanted_by_none(join: Join, ends: tuple[End, End], side: int, pin: Pin) -> bool:
    """Return whether a supply is offered to a plug with no pin left for it: a two-wire lever needs
    none."""
    if role_of(pin.role).use != "supply" or not role_of(pin.role).gives:
        return False
    mated = {pair[1 - side] for pair in join.pairs}
    left = (other for other in ends[1 - side].port.pins if other.name not in mated)
    return not any(mate(pin.role, other.role) for other in left)


def _left_off(case: Analysis, join: Join, end: End, pin: Pin) -> bool:
    """Return whether a controller's pin is left off rightly.

    That is where what the join leads to has the same from another controller already.
    """
    if not REGISTRY[end.part.kind].commutates or len(controllers(case.bike)) < 2:
        return False
    joined = []
    for other in end.port.pins:
        if other.name in {name for pair in join.pairs for name in pair}:
            for place in case.net_of(f"{end.part.id}.{end.port.id}.{other.name}"):
                joined.append(place)
    shared = []
    for part in dict.fromkeys(place.part for place in joined):
        if not REGISTRY[part.kind].inline and REGISTRY[part.kind].place not in (
            "controller",
            "energy",
        ):
            shared.append(part)
    return any(
        place.part.id != end.part.id and place.pin.role == pin.role
        for part in shared
        for own in case.places_of(part)
        for place in case.net_of(own.id)
        if REGISTRY[place.part.kind].commutates
    )


@rule(
    "W025",
    "fault",
    "{one} is a {one_family} plug, {two} a {two_family} plug: they do not mate.",
    "Adapter, or re-terminate: thick wires first, heat-shrink on before the joint.",
    remedies=(remedies.adapter, remedies.join_anew),
)
def families(case: Analysis, found: Found) -> Iterator[Finding]:
    """Plugs of two different makes joined."""
    for join in case.bike.joins:
        one, two = ends_of(case.bike, join)
        if is_terminal(one.port) and is_terminal(two.port):
            continue
        if one.made and two.made and one.made != two.made:
            yield found(
                (join.id,), one=one.words, one_family=one.made, two=two.words, two_family=two.made
            )


def same_make(one: Port, two: Port) -> bool:
    """Return whether two plugs are of one make, as far as somebody looked."""
    known = one.family not in PLAIN or bool(one.key and one.key == two.key)
    return one.family == two.family and known


@rule(
    "W029",
    "fault",
    "{one} has {one_count} pins, {two} has {two_count}: they do not mate.",
    "An adapter with a pin table, or end both anew with one plug: thick wires first, heat-shrink "
    "on before the joint.",
    remedies=(remedies.adapter,),
)
def pin_count(case: Analysis, found: Found) -> Iterator[Finding]:
    """Plugs of one make with different numbers of pins."""
    for join in case.bike.joins:
        one, two = ends_of(case.bike, join)
        counts = len(one.port.pins), len(two.port.pins)
        if same_make(one.port, two.port) and counts[0] != counts[1]:
            yield found(
                (join.id,),
                one=one.words,
                two=two.words,
                one_count=str(counts[0]),
                two_count=str(counts[1]),
            )


@rule(
    "W030",
    "fault",
    "{one} and {two} both have {gender}.",
    "Change one of them, or make an adapter with the other gender at both ends.",
    remedies=(remedies.adapter,),
)
def gender(case: Analysis, found: Found) -> Iterator[Finding]:
    """Two plugs of the same gender joined."""
    for join in case.bike.joins:
        one, two = ends_of(case.bike, join)
        if one.port.gender and one.port.gender == two.port.gender:
            yield found((join.id,), one=one.words, two=two.words, gender=one.port.gender)


@rule(
    "W031",
    "fault",
    "{one} is keyed by {one_key}, {two} by {two_key}.",
    "Never force or trim a key: adapter, or end one anew with the other's plug.",
    remedies=(remedies.adapter,),
)
def keying(case: Analysis, found: Found) -> Iterator[Finding]:
    """Two plugs with different keys joined."""
    for join in case.bike.joins:
        one, two = ends_of(case.bike, join)
        keys = one.port.key, two.port.key
        if all(keys) and keys[0] != keys[1]:
            yield found((join.id,), one=one.words, two=two.words, one_key=keys[0], two_key=keys[1])


def pin_table(one: Port, two: Port, join: Join) -> tuple[tuple[int, int], ...]:
    """Return (pin of the first plug, pin of the second) by number where mated plugs do not meet
    straight, else ()."""
    first, second = ({pin.name: n for n, pin in enumerate(port.pins, 1)} for port in (one, two))
    table = tuple((first[a], second[b]) for a, b in join.pairs)
    if all(a == b for a, b in table):
        return ()
    return table


@rule(
    "W032",
    "advice",
    "{one} with {two} needs its pins moved: {table}.",
    "Re-pin one plug as the table says, or make an adapter. Check every pin against pack − with a "
    "meter before any power.",
    remedies=(remedies.repin,),
)
def re_pin(case: Analysis, found: Found) -> Iterator[Finding]:
    """Plugs of one make whose pins do not meet straight; bullets and terminals are free to be
    moved."""
    for join in case.bike.joins:
        one, two = ends_of(case.bike, join)
        known = one.port.family not in PLAIN or bool(one.port.key and two.port.key)
        moulded = one.port.family == two.port.family and known
        if not moulded or one.port.rewireable or two.port.rewireable:
            continue
        table = pin_table(one.port, two.port, join)
        if table:
            words = ", ".join(f"{a} to {b}" for a, b in table)
            yield found((join.id,), one=one.words, two=two.words, table=words)


PLUGGED_AT_TIMES = frozenset((Charger.name,))
"""Kinds that are connected only now and then."""


@rule(
    "W040",
    "advice",
    "The free {port} plug of the {part} carries {what} when switched on.",
    "Cap or sleeve it, opening downwards, tied where nothing rubs.",
)
def live_spare(case: Analysis, found: Found) -> Iterator[Finding]:
    """A plug that is not needed, joined to nothing, and live; those of a pack are told
    elsewhere."""
    for part in case.bike.parts:
        for port in part.ports:
            live = next((role_of(pin.role).live for pin in port.pins if role_of(pin.role).live), "")
            if live and not port.required and not any(case.bike.joins_of(part.id, port.id)):
                yield found(
                    (f"{part.id}.{port.id}",), port=port.label or port.id, part=part.name, what=live
                )


@rule(
    "W069",
    "advice",
    "{one} and {two} have no plug: lugs, screws or bare ends that carry pack volts.",
    "Pack out, capacitors under 5 V. One wire at a time, marked, crimped or under its screw, "
    "covered before the next is bare; plus and minus never bare together. Tight, and looked at "
    "again after the first ride.",
)
def bare_terminals(case: Analysis, found: Found) -> Iterator[Finding]:
    """A join of terminals on which pack volts stand."""
    for join in case.bike.joins:
        one, two = ends_of(case.bike, join)
        pins = (*one.port.pins, *two.port.pins)
        live = any(role_of(pin.role).level == "pack" for pin in pins)
        if live and is_terminal(one.port) and is_terminal(two.port):
            yield found((join.id,), one=one.words, two=two.words)


@rule(
    "W075",
    "advice",
    "The {part} is described and connected to nothing.",
    "Connect it, or remove it from the bike.",
    remedies=(remedies.join_free,),
)
def unused_part(case: Analysis, found: Found) -> Iterator[Finding]:
    """A part that no plug connects; chargers, and parts with a plug that must be connected, are
    left out."""
    for part in case.bike.parts:
        needed = any(port.required for port in part.ports)
        if part.id not in case.connected and not needed and part.kind not in PLUGGED_AT_TIMES:
            yield found((part.id,), part=part.name)


RULES = (
    unused_part,
    bare_terminals,
    required_plug,
    lonely_pin,
    families,
    pin_count,
    gender,
    keying,
    re_pin,
    live_spare,
)
