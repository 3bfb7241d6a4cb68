"""Other things that cut the motor: gear-shift sensor and kick-stand switch. Both stand on a brake
input."""

from brightcore.bike.model import Part, Port
from brightcore.circuit.controls import Control
from brightcore.circuit.faults import FaultMode, RepairKind
from brightcore.kinds.base import Fitting, OneThing
from brightcore.kinds.blocks import fixed, mode, opened, port, pulling, replace
from brightcore.kinds.levers import BrakeLever, CutOffSpec, LeverSpec, MagneticCutOff


class GearSensor(MagneticCutOff):
    """Feels the gear cable move and cuts the motor for an instant."""

    name, title = "gear_sensor", "Gear-shift sensor"
    found_on = ("brake_signal", "supply_5v")
    does = OneThing(
        "Shift under a touch of power: does the motor pause for an instant, at every shift?",
        "Thread the shift cable through it anew, or set its sensitivity; look at its plug.",
    )
    fails_as = "sensor"
    place, symbol, has_spare, swap_min = "sensor", "lever", True, 12.0
    plug = "Gear sensor"
    act = "Shift with {part}"
    sits, cuts = "bracket", "other"
    fitting = Fitting()
    not_modelled = ("how long it cuts", "cable tension")

    def controls(self, part: Part[CutOffSpec]) -> tuple[Control, ...]:
        return (
            Control(
                "lever",
                ("released", "pulled"),
                ("{part}: gear cable still", "{part}: gear cable moved by hand"),
                "hand",
            ),
        )

    def faults(self, part: Part[CutOffSpec]) -> tuple[FaultMode, ...]:
        new = replace(part, 20, "Water in the sensor, or the cable frayed inside it", 1)
        cable = RepairKind(
            f"part:{part.id}:cable",
            f"Free or replace the gear cable in the {part.name}",
            15,
            "A frayed or stiff cable keeps it triggered",
            0,
        )
        return (
            mode(
                part,
                "inside.cable",
                "stuck",
                "cable holds it triggered",
                2.0,
                cable,
                pulling(part, "sensor"),
                seen_by_eye=0.4,
            ),
            self.stuck(part, 1.0, new, "stuck-on"),
            self.dead(part, 1.5, new, "sensor dead, never cuts"),
            self.short(part, new, 0.5),
        )


class StandSwitch(BrakeLever):
    """Two-wire switch that cuts the motor while the kick-stand is out."""

    name, title = "stand_switch", "Kick-stand switch"
    found_on = ("brake_signal",)
    does = OneThing(
        "Stand down: does the motor stay off? Stand up: does it run?",
        "Bring its magnet closer, or look at the switch and its plug.",
    )
    fails_as = "lever"
    place, symbol, has_spare, swap_min = "sensor", "lever", True, 6.0
    act = "Fold out {part}"
    sits, cuts = "bracket", "other"
    not_modelled = ("play of the stand",)

    def ports(self, spec: LeverSpec) -> tuple[Port, ...]:
        return (
            port(
                "plug", "Stand switch", "signal:brake_signal:signal", "ground:sensor_ground:ground"
            ),
        )

    def controls(self, part: Part[LeverSpec]) -> tuple[Control, ...]:
        return (
            Control(
                "lever", ("released", "pulled"), ("{part}: stand up", "{part}: stand out"), "hand"
            ),
        )

    def faults(self, part: Part[LeverSpec]) -> tuple[FaultMode, ...]:
        new = replace(part, 12, "Dirt, or a kick against it", 1)
        return (
            mode(
                part,
                "plug.signal",
                "stuck-closed",
                "stuck as if the stand were out",
                4.0,
                new,
                fixed(part, "switch", 0.5),
                seen_by_eye=0.3,
            ),
            mode(part, "plug.signal", "stuck-open", "never cuts", 1.5, new, opened(part, "switch")),
        )
