"""Frozen description of one bike.

Identity is explicit: a pin is `part.port.pin`. All values are floats in the unit that the
name carries. Spec objects are the frozen dataclasses of the part's kind.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Generic, cast

from typing_extensions import TypeVar

from brightcore.bike.space import NOTHING_MEASURED, Space
from brightcore.errors import BikeError, UnknownNameError


@dataclass(frozen=True, slots=True)
class Spec:
    """Base of all specs: what is known of one part, a frozen dataclass of its kind."""


S_co = TypeVar("S_co", bound=Spec, covariant=True, default=Spec)
T = TypeVar("T", bound=Spec)


@dataclass(frozen=True, slots=True)
class Pin:
    """One contact of a port. `role` decides what electrics the kind gives it."""

    name: str
    role: str = "wire"
    label: str = ""
    colour: str = ""

    @property
    def words(self) -> str:
        """Return what a technician reads: the label, otherwise the name."""
        return self.label or self.name.replace("_", " ")


@dataclass(frozen=True, slots=True)
class Port:
    """A plug, socket or set of terminals of a part, pins in physical order.

    `rewireable`: its pins can be exchanged by hand (bullets, screw terminals).
    `access_min`: minutes to reach it with probes. `gender`: "pins" or "sockets", `key`: what
    keeps it from going in wrong (arrow, notch, colour), `rows`: rows of pins on its face;
    "" and 0 mean "not looked at".
    """

    id: str
    pins: tuple[Pin, ...]
    label: str = ""
    family: str = ""
    required: bool = False
    rewireable: bool = False
    access_min: float = 0.5
    gender: str = ""
    key: str = ""
    rows: int = 0

    def pin(self, name: str) -> Pin:
        """Return the pin called `name`; raises UnknownNameError."""
        for pin in self.pins:
            if pin.name == name:
                return pin
        raise UnknownNameError("pin", f"{self.id}.{name}", tuple(p.name for p in self.pins))


@dataclass(frozen=True, slots=True)
class Part(Generic[S_co]):
    """One part of the bike: a thing with an identity. `spec` is an instance of its kind's spec
    dataclass.

    `Part[PackSpec]` is a part whose kind is known; a bare `Part` has a spec of which nothing is
    known. Exchanged, it is another thing with an id of its own: `replaces` is the id of the one in
    whose place it came, "" where it came in nobody's. `mark`: its serial number or the mark that
    the shop gave it. `known`: (field of the spec, where its value comes from), a key of `WHENCE`; a
    field that is not named has the usual value, which nobody has read on this part.
    """

    id: str
    kind: str
    name: str
    spec: S_co
    ports: tuple[Port, ...]
    # What follows says nothing of how the part behaves. It stays out of `repr`, from which the mark
    # of a measured value is made, so that values measured before these fields came still hold.
    mark: str = field(default="", repr=False)
    replaces: str = field(default="", repr=False)
    known: tuple[tuple[str, str], ...] = field(default=(), repr=False)

    def whence(self, name: str) -> str:
        """Return where the value of a field of the spec comes from, a key of `WHENCE`."""
        return dict(self.known).get(name, USUAL)

    @property
    def pins(self) -> tuple[Pin, ...]:
        """The pins of all its ports."""
        found = []
        for port in self.ports:
            for pin in port.pins:
                found.append(pin)
        return tuple(found)

    @property
    def pin_ids(self) -> tuple[str, ...]:
        """The ids of all its pins, as `part.port.pin`."""
        found = []
        for port in self.ports:
            for pin in port.pins:
                found.append(f"{self.id}.{port.id}.{pin.name}")
        return tuple(found)

    def has_role(self, role: str) -> bool:
        """Return whether one of its pins has a role."""
        return any(pin.role == role for pin in self.pins)

    def port(self, port_id: str) -> Port:
        """Return the port called `port_id`; raises UnknownNameError."""
        for port in self.ports:
            if port.id == port_id:
                return port
        raise UnknownNameError("port", f"{self.id}.{port_id}", tuple(p.id for p in self.ports))


USUAL, LABEL, TOLD, MEASURED, SET = "usual", "label", "told", "measured", "set"
WHENCE = {
    USUAL: "usual, not read yet",
    LABEL: "read on its label",
    TOLD: "told",
    MEASURED: "measured",
    SET: "set",
}
"""Where a value comes from, in words."""


@dataclass(frozen=True, slots=True)
class Wire:
    """The lead between two mated ports, where it is not a cable part of its own."""

    area_mm2: float = 0.0
    length_m: float = 0.0


UNTOLD_WIRE = Wire()
"""A lead of which neither area nor length is known."""


@dataclass(frozen=True, slots=True)
class Join:
    """Two mated ports. `pairs` holds (pin of a, pin of b) for every pin that has a mate."""

    id: str
    a_part: str
    a_port: str
    b_part: str
    b_port: str
    pairs: tuple[tuple[str, str], ...]
    wire: Wire = Wire()

    def sides(self) -> tuple[tuple[str, str], tuple[str, str]]:
        """Return ((part, port), (part, port))."""
        return (self.a_part, self.a_port), (self.b_part, self.b_port)


@dataclass(frozen=True, slots=True)
class Setting:
    """A value programmed into a device: `part`, `role` (such as `wheel_circumference_mm`)."""

    part: str
    role: str
    value: float


PEDALS = {"": "as its parts show", "yes": "yes", "hand": "hand cranks", "no": "none"}
"""Whether a vehicle has pedals that drive a wheel; "" where nobody has said."""


@dataclass(frozen=True, slots=True)
class BikeInfo:
    """What the bike is: label, wheel by ISO 5775-1, masses, use and place.

    `pedals`: a key of PEDALS; `speed_limit_kmh`: the speed at which its controller or display ends
    assistance, 0 where none is set.
    """

    label: str
    description: str = ""
    tyre_width_mm: float = 47.0
    bead_seat_mm: float = 559.0
    bike_mass_kg: float = 25.0
    load_mass_kg: float = 85.0
    place: str = ""
    driven_wheel: str = "rear"
    frame_number: str = ""
    pedals: str = ""
    speed_limit_kmh: float = 0.0


@dataclass(frozen=True, slots=True)
class MeasuredValue:
    """Something measured on a bike: of which part ("" the bike), name, value and unit, how, and
    when.

    `of`: hash of what it was measured on, as described then; `on`: the day, as YYYY-MM-DD.
    """

    part: str
    name: str
    value: float
    unit: str
    words: str
    on: str
    of: str


@dataclass(frozen=True, slots=True)
class Frame:
    """Where things sit and cables run on this bike, as far as it differs from the usual.

    `pattern`: the frame it is most like ("" is guessed), `lengths`: measured stretches (id, m),
    `places`: where parts sit (part, place), `via`: where a run is led by (run, place),
    `wrapped`: split wrap rather than ties.
    """

    pattern: str = ""
    lengths: tuple[tuple[str, float], ...] = ()
    places: tuple[tuple[str, str], ...] = ()
    via: tuple[tuple[str, str], ...] = ()
    wrapped: bool = False


@dataclass(frozen=True)
class Bike:
    """A whole bike. Part, port and join ids are unique (checked by `validate`)."""

    uuid: str
    info: BikeInfo
    parts: tuple[Part, ...]
    joins: tuple[Join, ...]
    settings: tuple[Setting, ...] = ()
    frame: Frame = Frame()
    space: Space = NOTHING_MEASURED
    measured: tuple[MeasuredValue, ...] = ()
    profiles: tuple[tuple[str, str], ...] = ()
    """Which profile each device is programmed by: (part, id of the profile)."""

    @cached_property
    def _hash(self) -> int:
        said = (self.settings, self.frame, self.space, self.measured, self.profiles)
        return hash((self.uuid, self.info, self.parts, self.joins, said))

    def __hash__(self) -> int:
        """Return the hash of the whole description, worked out once: caches ask for it often."""
        return self._hash

    @cached_property
    def _joins_at(self) -> dict[str, tuple[Join, ...]]:
        found: dict[str, list[Join]] = {}
        for join in self.joins:
            for part in dict.fromkeys((join.a_part, join.b_part)):
                found.setdefault(part, []).append(join)
        return {part: tuple(joins) for part, joins in found.items()}

    @cached_property
    def _by_id(self) -> dict[str, Part]:
        return {part.id: part for part in self.parts}

    def with_part(self, part: Part) -> "Bike":
        """Return the bike with a part in the place of the one of the same id."""
        return replace(self, parts=tuple(part if p.id == part.id else p for p in self.parts))

    def with_join(self, join: Join) -> "Bike":
        """Return the bike with a join in the place of the one of the same id."""
        return replace(self, joins=tuple(join if j.id == join.id else j for j in self.joins))

    def part(self, part_id: str) -> Part:
        """Return the part called `part_id`; raises UnknownNameError."""
        try:
            return self._by_id[part_id]
        except KeyError:
            raise UnknownNameError("part", part_id, tuple(self._by_id)) from None

    def of_kind(self, kind: str) -> tuple[Part, ...]:
        """Return the parts of a kind, in description order; `having` gives them with their
        specs."""
        return tuple(part for part in self.parts if part.kind == kind)

    def having(self, spec_type: type[T]) -> tuple[Part[T], ...]:
        """Return the parts whose spec is of a type, in description order."""
        found = []
        for part in self.parts:
            if isinstance(part.spec, spec_type):
                found.append(cast("Part[T]", part))
        return tuple(found)

    def join(self, join_id: str) -> Join:
        """Return the join called `join_id`; raises UnknownNameError."""
        for join in self.joins:
            if join.id == join_id:
                return join
        raise UnknownNameError("join", join_id, tuple(j.id for j in self.joins))

    def joins_of(self, part_id: str, port_id: str | None = None) -> Iterator[Join]:
        """Yield the joins that end at a part, or at one of its ports."""
        for join in self._joins_at.get(part_id, ()):
            if port_id is None or (part_id, port_id) in join.sides():
                yield join

    def setting(self, part_id: str, role: str, default: float) -> float:
        """Return the programmed value of `role` in a device, or `default`."""
        for setting in self.settings:
            if setting.part == part_id and setting.role == role:
                return setting.value
        return default

    def pin(self, name: str) -> tuple[Part, Port, Pin]:
        """Return (part, port, pin) of `part.port.pin`; raises UnknownNameError."""
        pieces = name.split(".")
        if len(pieces) != 3:
            raise UnknownNameError("pin", name, ("part.port.pin",))
        part = self.part(pieces[0])
        port = part.port(pieces[1])
        return part, port, port.pin(pieces[2])


def pair_pins(a: Port, b: Port) -> tuple[tuple[str, str], ...]:
    """Return the mates of two ports without an explicit map, where nothing tells how they meet.

    Same names mate by name; otherwise equal counts mate in order. Raises BikeError where
    neither works.
    """
    a_names, b_names = [p.name for p in a.pins], [p.name for p in b.pins]
    if set(a_names) == set(b_names):
        return tuple((name, name) for name in a_names)
    if len(a_names) == len(b_names):
        return tuple(zip(a_names, b_names, strict=True))
    raise BikeError(f"{len(a_names)} pins on {a.id} and {len(b_names)} on {b.id}: give a pin map")


def narrowed(part: Part, spec_type: type[T]) -> Part[T] | None:
    """Return a part as one with a spec of a type, None where it is another."""
    if isinstance(part.spec, spec_type):
        return cast("Part[T]", part)
    return None
