"""Modules in the line: combiner of two packs, step-down converter, tracker on the display cable."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date

from brightcore.bike.model import Part, Port, Spec
from brightcore.circuit.elements import (
    OFF_S,
    OPEN,
    Override,
    Region,
    Regions,
    current_sink,
    resistor,
)
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.stamper import Stamper
from brightcore.kinds.base import Draw, Feed, Fitting, PartKind, spec_value, torque_value
from brightcore.kinds.blocks import fixed, mode, opened, port, regulator, replace, weakened

INF = float("inf")
FORWARD_V = 0.02
"""What an ideal-diode controller regulates across its switch (common practice)."""

IDLE_A = 0.02
"""What a converter takes with nothing on its output (common practice)."""


def ideal_diode(ohm: float) -> Regions:
    """Return a switch that conducts forwards with `ohm` from `FORWARD_V` on, and blocks
    backwards."""
    return (Region(FORWARD_V, OFF_S), Region(INF, 1.0 / ohm, 0.0, -FORWARD_V / ohm))


@dataclass(frozen=True, slots=True)
class CombinerSpec(Spec):
    """Ratings of a two-pack combining module."""

    rated_a: float = spec_value(40.0, 1.0, 300.0, "continuous current")
    max_v: float = spec_value(60.0, 12.0, 120.0, "highest volts it stands")
    path_ohm: float = spec_value(0.004, 0.0005, 0.1, "resistance of one path")
    screw_nm: float = torque_value("its screw")


class Combiner(PartKind[CombinerSpec]):
    """Dual ideal diode: the fuller pack feeds, neither charges the other; blocks regeneration."""

    name, title, spec_type = "combiner", "Pack combining module", CombinerSpec
    place, symbol, has_spare, swap_min, inline = "between", "module", True, 12.0, True
    sits = "bracket"
    not_modelled = ("heat", "the moment of changing over")

    def draws(self, part: Part[CombinerSpec]) -> tuple[Draw, ...]:
        found = []
        for side in "ab":
            found.append(Draw(f"combine_{side}", 0.0, passes="combine_out"))
        return tuple(found)

    def most_v(self, spec: CombinerSpec) -> float:
        return spec.max_v

    def rated_a(self, spec: CombinerSpec) -> float:
        return spec.rated_a

    def ports(self, spec: CombinerSpec) -> tuple[Port, ...]:
        return (
            port(
                "pack_a",
                "Pack A",
                "plus:combine_a:pack A +",
                "minus:combine_minus:pack A −",
                family="power-2",
                required=True,
            ),
            port(
                "pack_b",
                "Pack B",
                "plus:combine_b:pack B +",
                "minus:combine_minus:pack B −",
                family="power-2",
            ),
            port(
                "out",
                "Combined",
                "plus:combine_out:combined +",
                "minus:combine_minus:combined −",
                family="power-2",
                required=True,
            ),
        )

    def stamp(self, s: Stamper, part: Part[CombinerSpec]) -> None:
        s.tie_role(part, "combine_minus", "minus")
        out = s.tie_role(part, "combine_out", "out")
        for side in "ab":
            s.add(
                part,
                f"path_{side}",
                s.tie_role(part, f"combine_{side}", side),
                out,
                ideal_diode(part.spec.path_ohm),
                tol_g=0.3,
            )
            s.add(
                part,
                f"bleed_{side}",
                s.node(part, side),
                s.node(part, "minus"),
                resistor(220e3),
                tol_g=0.3,
            )

    def links(self, part: Part[CombinerSpec]) -> Iterator[tuple[str, str]]:
        first, *others = _pins_of(part, "combine_minus")
        return ((first, other) for other in others)

    def faults(self, part: Part[CombinerSpec]) -> tuple[FaultMode, ...]:
        new = replace(part, 20, "Overloaded or too hot: fit one with more amps, in moving air", 2)
        found = []
        for side in "ab":
            path = f"{part.id}/path_{side}"
            pin = f"pack_{side}.plus"
            found += [
                mode(
                    part,
                    pin,
                    "open",
                    f"path {side.upper()} open",
                    1.5,
                    new,
                    opened(part, f"path_{side}"),
                ),
                mode(
                    part,
                    pin,
                    "resistive",
                    f"path {side.upper()} burnt",
                    0.8,
                    new,
                    (Override(path, resistor(3.0), tol_g=0.5),),
                ),
                mode(
                    part,
                    pin,
                    "shorted",
                    f"path {side.upper()} does not block",
                    0.8,
                    new,
                    fixed(part, f"path_{side}", part.spec.path_ohm),
                ),
            ]
        return tuple(found)


@dataclass(frozen=True, slots=True)
class ConverterSpec(Spec):
    """Ratings of a step-down converter."""

    max_in_v: float = spec_value(60.0, 6.0, 150.0, "highest volts at its input")
    out_v: float = spec_value(12.0, 3.0, 48.0, "volts it gives")
    out_a: float = spec_value(3.0, 0.1, 40.0, "current it gives")
    screw_nm: float = torque_value("its screw")


class Converter(PartKind[ConverterSpec]):
    """Feeds a lamp or a sensor from higher volts."""

    name, title, spec_type = "converter", "Step-down converter", ConverterSpec
    place, symbol, has_spare, swap_min, inline = "between", "module", True, 10.0, True
    sits = "head"
    not_modelled = ("ripple", "input current at low volts", "heat")

    def draws(self, part: Part[ConverterSpec]) -> tuple[Draw, ...]:
        return (Draw("convert_in", IDLE_A, passes="convert_out"),)

    def feeds(self, part: Part[ConverterSpec]) -> tuple[Feed, ...]:
        return (Feed("convert_out", part.spec.out_v, part.spec.out_a),)

    def most_v(self, spec: ConverterSpec) -> float:
        return spec.max_in_v

    def ports(self, spec: ConverterSpec) -> tuple[Port, ...]:
        return (
            port(
                "supply",
                "Converter in",
                "plus:convert_in:in +",
                "minus:convert_minus:in −",
                required=True,
            ),
            port("out", "Converter out", "plus:convert_out:out +", "minus:convert_minus:out −"),
        )

    def stamp(self, s: Stamper, part: Part[ConverterSpec]) -> None:
        minus, supply, out = (s.tie_role(part, f"convert_{n}", n) for n in ("minus", "in", "out"))
        spec: ConverterSpec = part.spec
        regulator(
            s,
            part,
            out,
            minus,
            supply,
            spec.out_v,
            spec.out_a,
            "step",
            spec.out_v + 0.5,
            spec.out_v + 1.5,
        )
        s.add(
            part,
            "draw",
            supply,
            minus,
            current_sink(IDLE_A, spec.out_v * 0.5, spec.out_v),
            tol_g=0.3,
            tol_j=0.4,
        )

    def links(self, part: Part[ConverterSpec]) -> Iterator[tuple[str, str]]:
        first, *others = _pins_of(part, "convert_minus")
        return ((first, other) for other in others)

    def faults(self, part: Part[ConverterSpec]) -> tuple[FaultMode, ...]:
        new = replace(part, 15, "Too many volts at its input, or water", 1)
        return (
            mode(part, "out.plus", "dead", "gives nothing", 2.0, new, opened(part, "step_limit")),
            mode(
                part,
                "out.plus",
                "weak",
                "gives too little current",
                1.0,
                new,
                weakened(part, "step_limit", 60.0),
            ),
            mode(
                part, "supply.plus", "short", "shorts its input", 0.5, new, fixed(part, "draw", 6.0)
            ),
        )


TRACKER_WIRES = ("vp", "key", "gnd", "rx", "tx")


@dataclass(frozen=True, slots=True)
class TrackerSpec(Spec):
    """What a tracker module needs and draws."""

    standby_a: float = spec_value(0.008, 0.0001, 0.2, "current drawn day and night")
    max_v: float = spec_value(60.0, 6.0, 120.0, "highest volts it stands")
    height_mm: float = spec_value(14.0, 2.0, 60.0, "space it needs under a cover")
    cover_mm: float = spec_value(
        0.0, 0.0, 200.0, "space under the cover where it goes; 0 not measured", later=True
    )
    activated: bool = spec_value(
        False, doc="display system checked, module activated and tried", later=True
    )
    renew_on: str = spec_value(
        "", doc="when its subscription runs out, as 2027-03-31; empty: none", later=True
    )
    screw_nm: float = torque_value("its screw")


class Tracker(PartKind[TrackerSpec]):
    """Position module in line on the display cable; passes five wires through and draws standby
    current."""

    name, title, spec_type = "tracker", "Tracker module", TrackerSpec
    place, symbol, has_spare, swap_min, inline = "between", "module", False, 15.0, True
    fitting = Fitting(opened="cover and plugs")
    sides = {"controller_side": "controller", "display_side": "display"}
    not_modelled = ("radio", "activation and subscription", "its own battery")

    def draws(self, part: Part[TrackerSpec]) -> tuple[Draw, ...]:
        return (Draw("wire", part.spec.standby_a, pin="vp"),)

    def most_v(self, spec: TrackerSpec) -> float:
        return spec.max_v

    def check_spec(self, spec: TrackerSpec) -> Iterator[tuple[str, str]]:
        try:
            date.fromisoformat(spec.renew_on or "2000-01-01")
        except ValueError:
            yield "renew_on", f"{spec.renew_on!r} is not a date such as 2027-03-31"

    def ports(self, spec: TrackerSpec) -> tuple[Port, ...]:
        found = []
        for side in ("controller", "display"):
            found.append(
                port(f"{side}_side", f"Tracker {side} side", *(f"{w}:wire" for w in TRACKER_WIRES))
            )
        return tuple(found)

    def stamp(self, s: Stamper, part: Part[TrackerSpec]) -> None:
        for name in TRACKER_WIRES:
            s.add(
                part,
                f"through_{name}",
                f"{part.id}.controller_side.{name}",
                f"{part.id}.display_side.{name}",
                resistor(0.05),
                tol_g=0.4,
            )
        s.add(
            part,
            "standby",
            f"{part.id}.controller_side.vp",
            f"{part.id}.controller_side.gnd",
            current_sink(part.spec.standby_a, 6.0, 10.0),
            tol_g=0.3,
            tol_j=0.3,
        )

    def links(self, part: Part[TrackerSpec]) -> Iterator[tuple[str, str]]:
        return ((f"controller_side.{name}", f"display_side.{name}") for name in TRACKER_WIRES)

    def faults(self, part: Part[TrackerSpec]) -> tuple[FaultMode, ...]:
        new = replace(
            part,
            20,
            "Pulled cable, water, or a screw too tight on its case",
            2,
            f"Take out or replace the {part.name}",
        )
        cut = []
        for name in TRACKER_WIRES:
            cut.append(
                mode(
                    part,
                    f"display_side.{name}",
                    "open",
                    f"{{{part.id}.display_side.{name}}} not passed through",
                    0.6,
                    new,
                    (Override(f"{part.id}/through_{name}", OPEN),),
                )
            )
        return (
            *cut,
            mode(
                part,
                "controller_side.vp",
                "short",
                "shorts pack + inside",
                0.3,
                new,
                fixed(part, "standby", 12.0),
            ),
        )


def _pins_of(part: Part, role: str) -> list[str]:
    """Return the pins of a role, as `port.pin`."""
    found: list[str] = []
    for plug in part.ports:
        for pin in plug.pins:
            if pin.role == role:
                found.append(f"{plug.id}.{pin.name}")
    return found
