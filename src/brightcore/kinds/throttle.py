"""Hall throttle; a keyed one carries the bike's on/off switch as well."""

from collections.abc import Iterator
from dataclasses import dataclass

from brightcore.behaviour.symptom import Symptom
from brightcore.bike.model import Part, Port, Spec
from brightcore.circuit.controls import Control
from brightcore.circuit.elements import OPEN, Override, ratio_source, resistor
from brightcore.circuit.faults import FaultMode, RepairKind
from brightcore.circuit.stamper import Stamper
from brightcore.kinds.base import Draw, PartKind, spec_value, torque_value
from brightcore.kinds.blocks import (
    draws_on,
    fixed,
    mode,
    opened,
    port,
    ratio_output,
    replace,
)

HALL_LOAD_OHM = 800.0
"""What a hall throttle loads its supply with (common practice)."""


STICKS_AT = 0.4
"""How far open a grip usually sticks, as a share of its travel (common practice)."""


@dataclass(frozen=True, slots=True)
class ThrottleSpec(Spec):
    """Ratiometric hall throttle; a keyed one carries the bike's on/off switch as well."""

    supply_v: float = spec_value(5.0, 3.0, 12.0, "supply it is made for")
    rest_ratio: float = spec_value(0.17, 0.02, 0.4, "output over supply at rest")
    full_ratio: float = spec_value(0.8, 0.4, 0.97, "output over supply at full")
    keyed: bool = spec_value(False, doc="has a key lock in the key line")
    clamp_nm: float = torque_value("clamp on the bar")


class Throttle(PartKind[ThrottleSpec]):
    """Hall throttle: 5 V, ground, signal; with `keyed` also key in and key out."""

    name, title, spec_type = "throttle", "Throttle", ThrottleSpec
    found_on = ("throttle_signal",)
    fails_as = "grip"
    place, symbol, has_spare, swap_min = "bar", "grip", True, 6.0
    symptoms = (
        Symptom(
            "throttle-silent",
            "Throttle does nothing",
            "throttle",
            "motor",
            "silent",
            every=True,
            rank=2,
        ),
        Symptom(
            "error-throttle", "Shows a throttle error", "switch_on", "error", "throttle", rank=11
        ),
    )
    not_modelled = ("signal noise",)

    def draws(self, part: Part[ThrottleSpec]) -> tuple[Draw, ...]:
        return (Draw("sensor_supply", part.spec.supply_v / HALL_LOAD_OHM),)

    def made_for_v(self, spec: ThrottleSpec) -> float:
        return spec.supply_v

    def highest_ratio(self, spec: ThrottleSpec, role: str) -> float:
        if role == "throttle_signal":
            return spec.full_ratio
        return 0.0

    def ports(self, spec: ThrottleSpec) -> tuple[Port, ...]:
        keyed: tuple[str, ...] = ()
        if spec.keyed:
            keyed = ("key_in:key_in:key line in", "key_out:key_out:key line out")
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
        draws_on(s, part, "load", supply, ground, HALL_LOAD_OHM)
        ratio_output(s, part, (signal, supply, ground), part.spec.rest_ratio, 150.0, 0.03)
        s.add(part, "magnet", signal, ground, OPEN)
        if part.spec.keyed:
            one, two = s.tie_role(part, "key_in", "key_in"), s.tie_role(part, "key_out", "key_out")
            s.add(part, "key_switch", one, two, resistor(0.3), tol_g=0.4)

    def controls(self, part: Part[ThrottleSpec]) -> tuple[Control, ...]:
        grip = Control("grip", ("rest", "full"), ("{part} at rest", "{part} fully open"), "hand")
        lock = Control("power", ("on", "off", "out"), ("Key on", "Key off", "Key off"))
        if part.spec.keyed:
            return (grip, lock)
        return (grip,)

    def apply(self, part: Part[ThrottleSpec], control: str, value: str) -> tuple[Override, ...]:
        if control == "power":
            if value != "on":
                return opened(part, "key_switch")
            return ()
        if value == "full":
            return (
                Override(
                    f"{part.id}/output", ratio_source(part.spec.full_ratio, 150.0), tol_g=0.03
                ),
            )
        return ()

    def faults(self, part: Part[ThrottleSpec]) -> tuple[FaultMode, ...]:
        new = replace(part, 15, "Water in the grip, or a fall onto it", 1)
        out = f"{part.id}/output"
        rest, full = part.spec.rest_ratio, part.spec.full_ratio
        freed = RepairKind(
            f"part:{part.id}:grip",
            (
                f"Free the {part.name}: gap to the grip beside it, cable not pulling on it, "
                "spring whole"
            ),
            10,
            "Pushed against the other grip, or bent in a fall",
            0,
        )
        found = [
            mode(
                part,
                "plug.signal",
                "dead",
                "gives no signal",
                3.0,
                new,
                (Override(out, ratio_source(0.005, 150.0)),),
                loose=0.15,
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
                "off-high",
                "rests too high (magnet or sensor moved)",
                1.5,
                new,
                (Override(out, ratio_source(min(rest + 0.1, 0.5), 150.0), tol_j=0.12),),
            ),
            mode(
                part,
                "inside.grip",
                "sticks",
                "grip sticks and does not come back",
                1.0,
                freed,
                (Override(out, ratio_source(rest + STICKS_AT * (full - rest), 150.0), tol_j=0.15),),
                seen_by_eye=0.85,
                loose=0.6,
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
            mode(
                part,
                "plug.supply",
                "short",
                "shorts the 5 V supply",
                1.0,
                new,
                fixed(part, "load", 8.0),
            ),
        ]
        if part.spec.keyed:
            found.append(
                mode(
                    part,
                    "plug.key_in",
                    "open",
                    "key lock open",
                    2.0,
                    new,
                    opened(part, "key_switch"),
                )
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
