"""Things on the bars and at the cranks: throttle, brake lever, magnetic cut-off, pedal sensor."""

from collections.abc import Iterator
from dataclasses import dataclass

from brightcore.behaviour.symptom import Symptom
from brightcore.bike.model import Part, Port, Spec
from brightcore.circuit.controls import Control
from brightcore.circuit.elements import OPEN, Override, ratio_source, resistor
from brightcore.circuit.faults import FaultMode, RepairKind
from brightcore.circuit.netlist import Stamper
from brightcore.kinds.base import Draw, Fitting, PartKind, spec_value
from brightcore.kinds.blocks import (
    COLLECTOR_LOAD_OHM,
    fixed,
    mode,
    open_collector,
    opened,
    port,
    pulling,
    replace,
)

HALL_LOAD_OHM = 800.0
"""What a hall throttle loads its supply with (common practice)."""


@dataclass(frozen=True, slots=True)
class ThrottleSpec(Spec):
    """Ratiometric hall throttle; a keyed one carries the bike's on/off switch as well."""

    supply_v: float = spec_value(5.0, 3.0, 12.0, "supply it is made for")
    rest_ratio: float = spec_value(0.17, 0.02, 0.4, "output over supply at rest")
    full_ratio: float = spec_value(0.8, 0.4, 0.97, "output over supply at full")
    keyed: bool = spec_value(False, doc="has a key lock in the key line")


class Throttle(PartKind[ThrottleSpec]):
    """Hall throttle: 5 V, ground, signal; with `keyed` also key in and key out."""

    name, title, spec_type = "throttle", "Throttle", ThrottleSpec
    place, symbol, has_spare, swap_min = "bar", "grip", True, 6.0
    symptoms = (
        Symptom(
            "throttle-silent", "Throttle does nothing", "throttle", "motor", "silent", every=True, rank=2
        ),
        Symptom("error-throttle", "Shows a throttle error", "switch_on", "error", "throttle", rank=11),
    )
    not_modelled = ("a sticking grip", "signal noise")

    def draws(self, part: Part[ThrottleSpec]) -> tuple[Draw, ...]:
        return (Draw("sensor_supply", part.spec.supply_v / HALL_LOAD_OHM),)

    def made_for_v(self, spec: ThrottleSpec) -> float:
        return spec.supply_v

    def highest_ratio(self, spec: ThrottleSpec, role: str) -> float:
        return spec.full_ratio if role == "throttle_signal" else 0.0

    def ports(self, spec: ThrottleSpec) -> tuple[Port, ...]:
        keyed = ("key_in:key_in:key line in", "key_out:key_out:key line out") if spec.keyed else ()
        return (
            port(
                "plug",
                "Throttle",
                "supply:sensor_supply:5 V",
                "ground:sensor_ground:ground",
                "signal:throttle_signal:signal",
                *keyed,
            ),
        )

    def check_spec(self, spec: ThrottleSpec) -> Iterator[tuple[str, str]]:
        if spec.full_ratio <= spec.rest_ratio:
            yield "full_ratio", "is not above rest_ratio"

    def stamp(self, s: Stamper, part: Part[ThrottleSpec]) -> None:
        supply, ground = (
            s.tie_role(part, "sensor_supply", "supply"),
            s.tie_role(part, "sensor_ground", "ground"),
        )
        signal = s.tie_role(part, "throttle_signal", "signal")
        s.add(part, "load", supply, ground, resistor(HALL_LOAD_OHM), tol_g=0.3)
        s.add(
            part,
            "output",
            signal,
            ground,
            ratio_source(part.spec.rest_ratio, 150.0),
            c=supply,
            d=ground,
            tol_g=0.03,
        )
        s.add(part, "magnet", signal, ground, OPEN)
        if part.spec.keyed:
            one, two = s.tie_role(part, "key_in", "key_in"), s.tie_role(part, "key_out", "key_out")
            s.add(part, "key_switch", one, two, resistor(0.3), tol_g=0.4)

    def controls(self, part: Part[ThrottleSpec]) -> tuple[Control, ...]:
        grip = Control("grip", ("rest", "full"), ("{part} at rest", "{part} fully open"), "hand")
        lock = Control("power", ("on", "off", "out"), ("Key on", "Key off", "Key off"))
        return (grip, lock) if part.spec.keyed else (grip,)

    def apply(self, part: Part[ThrottleSpec], control: str, value: str) -> tuple[Override, ...]:
        if control == "power":
            return opened(part, "key_switch") if value != "on" else ()
        if value == "full":
            return (Override(f"{part.id}/output", ratio_source(part.spec.full_ratio, 150.0), tol_g=0.03),)
        return ()

    def faults(self, part: Part[ThrottleSpec]) -> tuple[FaultMode, ...]:
        new = replace(part, 15, "Water in the grip, or a fall onto it", 1)
        out = f"{part.id}/output"
        rest, full = part.spec.rest_ratio, part.spec.full_ratio
        found = [
            mode(
                part,
                "plug.signal",
                "dead",
                "gives no signal",
                3.0,
                new,
                (Override(out, ratio_source(0.005, 150.0)),),
            ),
            mode(
                part,
                "plug.signal",
                "stuck-rest",
                "stays at its resting signal",
                1.5,
                new,
                (Override(out, ratio_source(rest, 150.0)),),
            ),
            mode(
                part,
                "plug.signal",
                "stuck-high",
                "signal stuck high",
                1.5,
                new,
                (Override(out, ratio_source(full, 150.0)),),
            ),
            mode(
                part,
                "plug.signal",
                "weak",
                "never reaches full signal (magnet loose)",
                1.5,
                new,
                fixed(part, "magnet", 180.0, 0.2),
            ),
            mode(part, "plug.supply", "short", "shorts the 5 V supply", 1.0, new, fixed(part, "load", 8.0)),
        ]
        if part.spec.keyed:
            found.append(
                mode(part, "plug.key_in", "open", "key lock open", 2.0, new, opened(part, "key_switch"))
            )
            found.append(
                mode(
                    part,
                    "plug.key_in",
                    "resistive",
                    "key lock contact bad",
                    1.0,
                    new,
                    fixed(part, "key_switch", 30e3),
                )
            )
        return tuple(found)


@dataclass(frozen=True, slots=True)
class LeverSpec(Spec):
    """Brake lever with a switch to ground."""

    normally_closed: bool = spec_value(False, doc="closed while released")


class BrakeLever(PartKind[LeverSpec]):
    """Two-wire cut-off switch in the lever."""

    name, title, spec_type = "brake_lever", "Brake lever with switch", LeverSpec
    place, symbol, has_spare, swap_min = "bar", "lever", True, 8.0
    cuts = "brake"
    not_modelled: tuple[str, ...] = ("where in the lever's travel the switch acts",)

    def ports(self, spec: LeverSpec) -> tuple[Port, ...]:
        return (port("plug", "Brake lever", "signal:brake_signal:signal", "ground:sensor_ground:ground"),)

    def stamp(self, s: Stamper, part: Part[LeverSpec]) -> None:
        signal, ground = (
            s.tie_role(part, "brake_signal", "signal"),
            s.tie_role(part, "sensor_ground", "ground"),
        )
        s.add(part, "switch", signal, ground, OPEN)

    def controls(self, part: Part[LeverSpec]) -> tuple[Control, ...]:
        return (Control("lever", ("released", "pulled"), ("{part} released", "{part} pulled"), "hand"),)

    def apply(self, part: Part[LeverSpec], control: str, value: str) -> tuple[Override, ...]:
        closed = (value == "pulled") != part.spec.normally_closed
        return fixed(part, "switch", 0.5) if closed else opened(part, "switch")

    def faults(self, part: Part[LeverSpec]) -> tuple[FaultMode, ...]:
        new = replace(
            part,
            15,
            "Worn switch, or dirt and water in the lever",
            1,
            f"Free, clean or replace the switch of the {part.name}",
        )
        return (
            mode(
                part,
                "plug.signal",
                "stuck-closed",
                "switch stuck closed",
                4.0,
                new,
                fixed(part, "switch", 0.5),
                seen_by_eye=0.1,
            ),
            mode(part, "plug.signal", "stuck-open", "switch never closes", 2.0, new, opened(part, "switch")),
        )


@dataclass(frozen=True, slots=True)
class CutOffSpec(Spec):
    """Magnetic brake cut-off for levers without a switch: three wires."""

    supply_v: float = spec_value(5.0, 3.0, 12.0, "supply it is made for")


class MagneticCutOff(PartKind[CutOffSpec]):
    """Sensor and magnet on a lever: magnet away = braking, output pulls to ground."""

    name, title, spec_type = "magnetic_cut_off", "Magnetic brake cut-off", CutOffSpec
    place, symbol, has_spare, swap_min = "bar", "lever", True, 10.0
    cuts = "brake"
    fitting = Fitting(
        set_words=(
            "Tack the magnet lightly, powered: symbol off at rest and on a bump, on before the pads bite"
        ),
        fix_words="scuff, epoxy, hold with a tie, check again while it sets",
        fix_early="A magnet glued in the wrong place has to be broken off.",
        fix_caution="Keep glue out of lever pivot and reservoir; gloves, air.",
    )
    not_modelled: tuple[str, ...] = ("the exact travel at which it switches",)

    def draws(self, part: Part[CutOffSpec]) -> tuple[Draw, ...]:
        return (Draw("sensor_supply", part.spec.supply_v / COLLECTOR_LOAD_OHM),)

    def made_for_v(self, spec: CutOffSpec) -> float:
        return spec.supply_v

    def ports(self, spec: CutOffSpec) -> tuple[Port, ...]:
        return (
            port(
                "plug",
                "Cut-off",
                "supply:sensor_supply:5 V",
                "ground:sensor_ground:ground",
                "signal:brake_signal:signal",
            ),
        )

    def stamp(self, s: Stamper, part: Part[CutOffSpec]) -> None:
        ends = [s.tie_role(part, f"sensor_{n}", n) for n in ("supply", "ground")]
        open_collector(s, part, s.tie_role(part, "brake_signal", "signal"), ends[0], ends[1], "sensor")

    def controls(self, part: Part[CutOffSpec]) -> tuple[Control, ...]:
        return (Control("lever", ("released", "pulled"), ("{part} released", "{part} pulled"), "hand"),)

    def apply(self, part: Part[CutOffSpec], control: str, value: str) -> tuple[Override, ...]:
        return pulling(part, "sensor") if value == "pulled" else ()

    def faults(self, part: Part[CutOffSpec]) -> tuple[FaultMode, ...]:
        new = replace(part, 20, "Water in the sensor or a pulled cable", 1)
        magnet = RepairKind(
            f"part:{part.id}:magnet",
            f"Set the magnet of the {part.name} again, then fix it",
            15,
            "Magnet moved: tape alone lets go with heat and vibration",
            0,
        )
        return (
            mode(
                part,
                "inside.magnet",
                "lost",
                "magnet moved away, brakes all the time",
                4.0,
                magnet,
                pulling(part, "sensor"),
                seen_by_eye=0.5,
            ),
            mode(
                part,
                "plug.signal",
                "stuck-on",
                "output stuck on ground",
                1.5,
                new,
                fixed(part, "sensor_out", 40.0),
            ),
            mode(
                part, "plug.signal", "dead", "sensor dead, never brakes", 2.0, new, opened(part, "sensor_out")
            ),
            mode(
                part,
                "plug.supply",
                "short",
                "shorts the 5 V supply",
                0.7,
                new,
                fixed(part, "sensor_load", 8.0),
            ),
        )


@dataclass(frozen=True, slots=True)
class PedalSpec(Spec):
    """Cadence sensor: magnets on a ring at the cranks."""

    supply_v: float = spec_value(5.0, 3.0, 12.0, "supply it is made for")
    magnet_count: int = spec_value(12, 1, 64, "magnets on the ring", awaits="Program")


class PedalSensor(PartKind[PedalSpec]):
    """Three-wire cadence sensor: pulses while the cranks turn."""

    name, title, spec_type = "pedal_sensor", "Pedal sensor", PedalSpec
    place, symbol, has_spare, swap_min = "sensor", "cranks", True, 12.0
    sits, pedalled = "bracket", True
    fitting = Fitting(set_words="Magnet ring 1 to 4 mm from the sensor, the right way round")
    symptoms = (
        Symptom("pedal-silent", "Pedalling brings no help", "pedal", "motor", "silent", every=True, rank=3),
    )
    not_modelled = ("turning direction", "torque")

    def draws(self, part: Part[PedalSpec]) -> tuple[Draw, ...]:
        return (Draw("sensor_supply", part.spec.supply_v / COLLECTOR_LOAD_OHM),)

    def made_for_v(self, spec: PedalSpec) -> float:
        return spec.supply_v

    def ports(self, spec: PedalSpec) -> tuple[Port, ...]:
        return (
            port(
                "plug",
                "Pedal sensor",
                "supply:sensor_supply:5 V",
                "ground:sensor_ground:ground",
                "signal:pedal_signal:signal",
            ),
        )

    def stamp(self, s: Stamper, part: Part[PedalSpec]) -> None:
        ends = [s.tie_role(part, f"sensor_{n}", n) for n in ("supply", "ground")]
        open_collector(s, part, s.tie_role(part, "pedal_signal", "signal"), ends[0], ends[1], "sensor")

    def controls(self, part: Part[PedalSpec]) -> tuple[Control, ...]:
        return (Control("turn", ("high", "low"), ("Cranks turned slowly", "Cranks turned slowly"), "turns"),)

    def apply(self, part: Part[PedalSpec], control: str, value: str) -> tuple[Override, ...]:
        return pulling(part, "sensor") if value == "low" else ()

    def faults(self, part: Part[PedalSpec]) -> tuple[FaultMode, ...]:
        new = replace(part, 25, "Water, or the ring rubbed on the sensor", 1)
        gap = RepairKind(
            f"part:{part.id}:gap",
            f"Set the magnet ring of the {part.name} to 1–4 mm, right way round",
            12,
            "Ring moved or cracked",
            0,
        )
        return (
            mode(
                part,
                "inside.ring",
                "gap",
                "magnet ring out of reach",
                3.0,
                gap,
                opened(part, "sensor_out"),
                seen_by_eye=0.5,
            ),
            mode(part, "plug.signal", "dead", "no pulses", 2.0, new, opened(part, "sensor_out")),
            mode(
                part,
                "plug.signal",
                "stuck",
                "output stuck on ground",
                1.0,
                new,
                fixed(part, "sensor_out", 40.0),
            ),
            mode(
                part,
                "plug.supply",
                "short",
                "shorts the 5 V supply",
                0.7,
                new,
                fixed(part, "sensor_load", 8.0),
            ),
        )
