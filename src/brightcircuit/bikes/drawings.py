"""Drawings and plug cards from core objects, for templates."""

from dataclasses import dataclass
from functools import cached_property, lru_cache

from brightcircuit.bikes.translate import circuit_of
from brightcore.bike.model import Bike, Part, Pin, Port
from brightcore.circuit.contacts import join_title
from brightcore.circuit.netlist import Circuit
from brightcore.circuit.nets import Nets
from brightcore.drawing.lights import Light, lights
from brightcore.drawing.line import layout_line
from brightcore.drawing.line_places import membership, probe_point, stretch_title
from brightcore.drawing.line_shapes import LineLayout
from brightcore.drawing.slim import slim_svg, worst_words
from brightcore.drawing.svg import Probe, line_svg, small_svg
from brightcore.kinds import REGISTRY
from brightcore.simulation.expected import Expected, expected_volts, volts_words
from brightcore.tracing.hypotheses import enumerate_hypotheses
from brightcore.tracing.trace import Trace


@dataclass(frozen=True)
class Drawing:
    """A bike's Line without lights: made once per description."""

    circuit: Circuit
    layout: LineLayout
    titles: dict[str, str]

    @cached_property
    def members(self) -> tuple[str, ...]:
        """The shape of every hypothesis.

        Only asked where there is a belief to show: the faults by place take a big bike seconds to
        work out, and a Line without lights needs none of them.
        """
        return membership(self.layout, self.circuit, enumerate_hypotheses(self.circuit))

    def lights(self, trace: Trace | None) -> dict[str, Light]:
        """Return the light of every shape."""
        if trace is None:
            return lights(self.layout, (), None)
        return lights(self.layout, self.members, trace)

    def line(
        self,
        lit: dict[str, Light],
        red: str = "",
        black: str = "",
        links: dict[str, str] | None = None,
    ) -> str:
        """Return the whole Line, with probes on two pins where given."""
        rows = []
        for colour, pin in (("red", red), ("black", black)):
            if pin:
                rows.append(
                    Probe(
                        colour,
                        probe_point(self.layout, self.circuit, pin),
                        f"{colour} probe: {self.circuit.nets.title(pin)}",
                    )
                )
        probes = tuple(rows)
        return line_svg(
            self.layout,
            lit,
            self.titles,
            probes,
            links,
            f"The Line of {self.circuit.bike.info.label}",
        )

    def slim(self, lit: dict[str, Light]) -> str:
        """Return the slim Line, with the worst suspect by name."""
        return slim_svg(self.layout, lit, f"The Line of {self.circuit.bike.info.label}, in short")

    def worst(self, lit: dict[str, Light]) -> tuple[str, str]:
        """Return name and percentage of the worst suspect, empty where there is none."""
        return worst_words(self.layout, lit, self.titles)

    def small(self, lit: dict[str, Light]) -> str:
        """Return the small Line."""
        return small_svg(self.layout, lit, f"The Line of {self.circuit.bike.info.label}, small")


@lru_cache(maxsize=16)
def _drawing(bike: Bike) -> Drawing:
    circuit = circuit_of(bike)
    layout = layout_line(circuit)
    titles = {shape.id: stretch_title(layout, circuit, shape) for shape in layout.shapes}
    return Drawing(circuit, layout, titles)


def drawing_of(bike: Bike) -> Drawing:
    """Return the drawing of a bike, from memory where it was made before."""
    return _drawing(bike)


def bare_line(bike: Bike) -> str:
    """Return a bike's Line without lights."""
    drawing = drawing_of(bike)
    return drawing.line(drawing.lights(None))


def bare_small(bike: Bike) -> str:
    """Return a bike's small Line without lights; the layout alone is worked out for it."""
    layout = layout_line(circuit_of(bike))
    dim = {shape.id: Light("dim", 0.0) for shape in layout.shapes}
    return small_svg(layout, dim, f"The Line of {bike.info.label}, small")


@dataclass(frozen=True, slots=True)
class PinRow:
    """One pin on a plug card."""

    number: int
    name: str
    colour: str
    mate: str
    off: str = ""
    rest: str = ""
    moved: str = ""
    turning: str = ""


@dataclass(frozen=True, slots=True)
class PlugCard:
    """One port as seen at its plug: pins in order, and what each mates with."""

    id: str
    title: str
    joined_to: str
    pins: tuple[PinRow, ...]


@dataclass(frozen=True, slots=True)
class PartCard:
    """A part with its plugs and what its kind does not model."""

    part: Part
    kind: str
    plugs: tuple[PlugCard, ...]
    not_modelled: tuple[str, ...]


def part_cards(bike: Bike) -> list[PartCard]:
    """Return a card for every part."""
    nets = drawing_of(bike).circuit.nets
    return [part_card(bike, nets, part) for part in bike.parts]


def part_card(bike: Bike, nets: Nets, part: Part) -> PartCard:
    """Return the card of one part."""
    kind = REGISTRY[part.kind]
    plugs = tuple(_plug(bike, nets, part, port) for port in part.ports)
    return PartCard(part, kind.title, plugs, kind.not_modelled)


def _plug(bike: Bike, nets: Nets, part: Part, port: Port) -> PlugCard:
    joined, mates = "nothing", {}
    for join in bike.joins_of(part.id, port.id):
        first = (join.a_part, join.a_port) == (part.id, port.id)
        other = bike.part(join.b_part if first else join.a_part)
        joined = f"{other.name}, {join_title(bike, join)}"
        if first:
            mates = dict(join.pairs)
        else:
            mates = {b: a for a, b in join.pairs}
    volts = expected_volts(bike)
    kept = []
    for i, pin in enumerate(port.pins):
        for name in (f"{part.id}.{port.id}.{pin.name}",):
            kept.append(
                _pin_row(i + 1, nets.title(name), pin, mates.get(pin.name, "—"), volts.get(name))
            )
    rows = tuple(kept)
    return PlugCard(port.id, port.label or port.id, joined, rows)


def _pin_row(number: int, title: str, pin: Pin, mate: str, volts: Expected | None) -> PinRow:
    """Return the row of a pin, with what a meter shows there."""
    if volts is None or volts.floats:
        return PinRow(number, title, pin.colour, mate, rest="floats" if volts else "")
    return PinRow(
        number,
        title,
        pin.colour,
        mate,
        volts_words(volts.off_v),
        volts_words(volts.rest_v),
        "" if volts.moved_v is None else volts_words(volts.moved_v),
        "" if volts.turning_v is None else "–".join(map(volts_words, volts.turning_v)),
    )
