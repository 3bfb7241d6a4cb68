"""A kind nobody has thought of, as a stranger would add it: one file, two roles, one line in two
lists.

Run as a program, it enters both before the rest is loaded, and prints what the core then knows of
it.
"""

import json
import sys
from dataclasses import dataclass, replace

from brightcore.bike import roles
from brightcore.bike.model import Part, Port, Spec, Wire
from brightcore.bike.roles import Role

MINE = (
    Role(
        "pump_plus",
        "plus of a pump",
        "plus",
        "own",
        "wants",
        "supply",
        ("accessory_plus",),
        "drawn",
        True,
    ),
    Role(
        "pump_minus",
        "minus of a pump",
        "minus",
        "ground",
        "wants",
        "ground",
        ("signal_ground",),
        "drawn",
        True,
    ),
)
roles.ROLES = (*roles.ROLES[:-1], *MINE, roles.ROLES[-1])
roles._BY_NAME.update({role.name: role for role in MINE})
roles._MATES.update(roles._mates_of(roles.ROLES))

from brightcore.circuit.elements import resistor  # noqa: E402
from brightcore.circuit.faults import FaultMode  # noqa: E402
from brightcore.circuit.netlist import Stamper  # noqa: E402
from brightcore.describing.edit import add_part, remove_part  # noqa: E402
from brightcore.describing.join_edits import add_join  # noqa: E402
from brightcore.describing.patterns import make_pattern  # noqa: E402
from brightcore.formats.bike_file import load_bike  # noqa: E402
from brightcore.formats.bike_writing import dump_bike  # noqa: E402
from brightcore.kinds import REGISTRY  # noqa: E402
from brightcore.kinds.base import Draw, PartKind, spec_value  # noqa: E402
from brightcore.kinds.blocks import mode, opened, port  # noqa: E402
from brightcore.kinds.blocks import replace as renew  # noqa: E402
from brightcore.wiring.conductors import conductor_table  # noqa: E402
from brightcore.wiring.propose import propose_joins  # noqa: E402
from brightcore.wiring.rules import check_bike  # noqa: E402


@dataclass(frozen=True, slots=True)
class PumpSpec(Spec):
    """Volts and watts of a pump."""

    rated_v: float = spec_value(12.0, 3.0, 90.0, "volts")
    power_w: float = spec_value(40.0, 1.0, 200.0, "watts")


class Pump(PartKind[PumpSpec]):
    """Blows up a tyre."""

    name, title, spec_type, place = "pump", "Pump", PumpSpec, "light"
    not_modelled = ("pressure",)

    def ports(self, spec: PumpSpec) -> tuple[Port, ...]:
        return (port("plug", "Pump", "plus:pump_plus:pump +", "minus:pump_minus:pump −"),)

    def stamp(self, s: Stamper, part: Part[PumpSpec]) -> None:
        plus, minus = s.tie_role(part, "pump_plus", "plus"), s.tie_role(part, "pump_minus", "minus")
        s.add(part, "motor", plus, minus, resistor(part.spec.rated_v**2 / part.spec.power_w))

    def faults(self, part: Part[PumpSpec]) -> tuple[FaultMode, ...]:
        new = renew(part, 10, "Water", 1)
        return (
            mode(part, "inside.motor", "dead", "does not pump", 1.0, new, opened(part, "motor")),
        )

    def draws(self, part: Part[PumpSpec]) -> tuple[Draw, ...]:
        return (Draw("pump_plus", part.spec.power_w / part.spec.rated_v),)

    def made_for_v(self, spec: PumpSpec) -> float:
        return spec.rated_v


REGISTRY._kinds["pump"] = Pump()
WAY = "W055"
"""The way of its cable, which is as long as it happens to be here."""


def told(
    watt: float, area_mm2: float, turned: bool = False, rated_v: float = 12.0
) -> dict[str, object]:
    """Return findings, current and drawn limit of a pump of a power on the lamp output."""
    bike = make_pattern("hub-conversion", "x")
    lamp = next(part for part in bike.parts if part.kind == "lamp")
    joined = next(join for join in bike.joins if lamp.id in dict(join.sides()))
    other = next((p, q) for p, q in joined.sides() if p != lamp.id)
    bike = remove_part(bike, lamp.id).bike
    before = {f.code for f in check_bike(bike)}
    spec = PumpSpec(rated_v=rated_v, power_w=watt)
    bike = add_part(bike, "pump", "Pump", spec, Pump().ports(spec))
    pump = bike.parts[-1]
    proposed = [(p.one, p.two) for p in propose_joins(bike) if pump.id in f"{p.one} {p.two}"]
    pairs = (("plus", "minus"), ("minus", "plus")) if turned else ()
    bike = add_join(bike, ".".join(other), f"{pump.id}.plug", Wire(area_mm2, 1.0), pairs)
    bike = load_bike(dump_bike(replace(bike, uuid="6f8d53f0-93a0-4b8e-9a2e-1f4f6f3e2a11")))
    wires = [row for row in conductor_table(bike) if "pump" in str(row).lower()]
    return {
        "codes": sorted({finding.code for finding in check_bike(bike)} - before - {WAY}),
        "ampere": max(row.current_a for row in wires),
        "proposed": len(proposed),
    }


if __name__ == "__main__":
    cases = {
        "heavy on a thin wire": told(60.0, 0.05),
        "as it should be": told(6.0, 0.5),
        "just on the output's limit": told(12.0, 1.5),
        "just over it": told(12.2, 1.5),
        "plus and minus exchanged": told(6.0, 0.5, turned=True),
        "of other volts": told(6.0, 0.5, rated_v=48.0),
    }
    json.dump(cases, sys.stdout)
