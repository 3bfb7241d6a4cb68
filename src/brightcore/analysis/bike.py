"""One bike looked at as a whole: its nets, wires, circuit, and whatever else is worked out from it,
kept once.

Everything that costs time and depends on the description alone is remembered here, so that one
limit on the number of analyses bounds all of it.
"""

from collections.abc import Callable, Iterator
from functools import cached_property, lru_cache
from typing import NamedTuple, TypeVar, cast

from brightcore.bike.model import Bike, Part, Pin, Port, Spec
from brightcore.bike.roles import Role, role_of
from brightcore.circuit.netlist import Circuit, compile_circuit
from brightcore.circuit.nets import Nets
from brightcore.kinds import REGISTRY

MOST_KEPT = 48
"""Bikes whose analysis is kept."""

T = TypeVar("T")
S = TypeVar("S", bound=Spec)


class Place(NamedTuple):
    """A pin with the plug and part it belongs to."""

    part: Part
    port: Port
    pin: Pin

    @property
    def id(self) -> str:
        """Name of the pin: `part.port.pin`."""
        return f"{self.part.id}.{self.port.id}.{self.pin.name}"

    @property
    def role(self) -> Role:
        """What the pin is for."""
        return role_of(self.pin.role)

    @property
    def words(self) -> str:
        """The pin in words, with its part."""
        return f"{self.part.name}, {self.pin.words}"


class Net(tuple[Place, ...]):
    """Pins that belong together on the healthy bike, cables and plugs followed."""

    __slots__ = ()

    @property
    def roles(self) -> frozenset[str]:
        """Names of all roles on it."""
        return frozenset(place.pin.role for place in self)

    def first(self, fits: Callable[[Place], bool]) -> Place | None:
        """Return the first place that fits, None where none does."""
        return next((place for place in self if fits(place)), None)

    def having(self, roles: frozenset[str]) -> Place | None:
        """Return the first place with one of the roles, None where there is none."""
        return self.first(lambda place: place.pin.role in roles)

    def parts(self, fits: Callable[[Place], bool]) -> list[Part]:
        """Return the parts with a place that fits, each once."""
        return list(dict.fromkeys(place.part for place in self if fits(place)))

    def touches(self, part: Part, role: str) -> bool:
        """Return whether a part stands on it with a pin of a role."""
        return any(place.part.id == part.id and place.pin.role == role for place in self)


class Analysis:
    """What is worked out from one description; get it by `analysis_of`."""

    def __init__(self, bike: Bike) -> None:
        self.bike = bike
        self._remembered: dict[object, object] = {}

    @cached_property
    def nets(self) -> Nets:
        """Which pins belong together."""
        return Nets(self.bike, REGISTRY)

    @cached_property
    def circuit(self) -> Circuit:
        """The circuit; raises BikeError where there is no pack."""
        return compile_circuit(self.bike, REGISTRY)

    @cached_property
    def places(self) -> dict[str, Place]:
        """Every pin by name."""
        return {name: Place(*self.bike.pin(name)) for name in self.nets.pins}

    @cached_property
    def _groups(self) -> dict[str, Net]:
        groups: dict[str, list[Place]] = {}
        for name, place in self.places.items():
            groups.setdefault(self.nets.find(name), []).append(place)
        return {root: Net(places) for root, places in groups.items()}

    @cached_property
    def wires(self) -> tuple[Net, ...]:
        """Every net that has more than one pin."""
        return tuple(net for net in self._groups.values() if len(net) > 1)

    def net_of(self, pin: str) -> Net:
        """Return the net of a pin `part.port.pin`."""
        return self._groups[self.nets.find(pin)]

    def wires_of(self, part: Part, role: str) -> Iterator[Net]:
        """Yield the nets of more than one pin on which a part's pins of a role stand, each once."""
        return (net for net in self.wires if net.touches(part, role))

    def places_of(
        self, part: Part, fits: Callable[[Role], bool] = lambda role: True
    ) -> Iterator[Place]:
        """Yield the pins of a part whose role fits, all by default."""
        for port in part.ports:
            for pin in port.pins:
                if fits(role_of(pin.role)):
                    yield Place(part, port, pin)

    def drives(self, controller: Part, motor: Part) -> bool:
        """Return whether a motor's phases reach a controller."""
        own = self.places_of(motor, lambda role: role.use == "phase")
        return any(place.part.id == controller.id for pin in own for place in self.net_of(pin.id))

    @cached_property
    def connected(self) -> frozenset[str]:
        """Parts with a plug that is connected to something."""
        found = []
        for join in self.bike.joins:
            for part, _ in join.sides():
                found.append(part)
        return frozenset(found)

    @cached_property
    def edges(self) -> dict[str, frozenset[str]]:
        """The pins each pin is directly connected to, by a contact or through its part."""
        found: dict[str, set[str]] = {}

        def connect(a: str, b: str) -> None:
            found.setdefault(a, set()).add(b)
            found.setdefault(b, set()).add(a)

        for join in self.bike.joins:
            for a, b in join.pairs:
                connect(f"{join.a_part}.{join.a_port}.{a}", f"{join.b_part}.{join.b_port}.{b}")
        for part in self.bike.parts:
            for one, two in REGISTRY[part.kind].links(part):
                connect(f"{part.id}.{one}", f"{part.id}.{two}")
        return {pin: frozenset(others) for pin, others in found.items()}

    def beyond(self, start: str, without: str) -> frozenset[str]:
        """Return the pins reached from a pin when it is parted from another."""
        seen, queue = {start}, [start]
        while queue:
            here = queue.pop()
            for there in self.edges.get(here, ()):
                if {here, there} != {start, without} and there not in seen:
                    seen.add(there)
                    queue.append(there)
        return frozenset(seen)

    def remember(self, key: object, make: Callable[[], T]) -> T:
        """Return what was made under a key, making it on first use."""
        if key not in self._remembered:
            self._remembered[key] = make()
        return cast("T", self._remembered[key])


@lru_cache(maxsize=MOST_KEPT)
def analysis_of(bike: Bike) -> Analysis:
    """Return the analysis of a bike, the same object for the same description."""
    return Analysis(bike)
