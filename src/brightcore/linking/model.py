"""A simulated device: registers, a motor, a pack and a throttle that follow the circuit of a bike.

What stands on the device's pins comes from the solved circuit, so a fault of the bike shows in its
live values. The motor itself is a first-order lag towards its no-load turns: enough to see it run
and roll out.
"""

import math
from dataclasses import dataclass, field
from functools import cached_property

from brightcore.bike.measured import circumference_mm
from brightcore.bike.model import Bike, Part
from brightcore.circuit.conditions import Condition, parse_condition
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.netlist import compile_circuit
from brightcore.kinds import REGISTRY
from brightcore.kinds.motor import MotorSpec
from brightcore.kinds.select import hub_motors
from brightcore.linking import layout
from brightcore.linking.layout import LIVE, RESULTS, counts, shown
from brightcore.linking.learning import STAGES, Stage
from brightcore.linking.port import RefusedError
from brightcore.programming.case import Aim, Case
from brightcore.programming.own import own_motor
from brightcore.programming.profile import Parameter, Profile
from brightcore.programming.roles.motor import PAIR_TO_PHASE
from brightcore.setting.commutation import ORDERS, SECTORS, WAYS, Way, codes
from brightcore.simulation.table import Row, Table

LAG_S, STAGE_S, SAVE_S = 0.7, 0.8, 0.2
HALL_THRESHOLD_V, AT_REST_V = 2.0, 1.2
USUAL_START_V, USUAL_END_V = 1.1, 3.8
IDLE_A, UNKNOWN_UH, ROOM_C = 1.2, 150.0, 24.0
TRUE_SHARE = 1.04
"""The real motor is off its description by this much."""

DROPPED, REFUSES, STRANGER, SLOW, STALE_HALL, BROWN_OUT = range(1, 7)
LINE_FAULTS = {
    0: "none",
    DROPPED: "the link drops after so many requests",
    REFUSES: "this register is refused",
    STRANGER: "says it is another device",
    SLOW: "answers late, by so many ms",
    STALE_HALL: "this hall (0 to 2) never changes",
    BROWN_OUT: "loses power while it saves",
}
"""What can be wrong with the stand-in itself, by number."""


@dataclass
class Bench:
    """What hands do at the bike, and what is wrong with the device itself.

    `throttle`: share pulled, 0 to 1. `sector`: where the wheel was turned to by hand. `fault`,
    `argument`: of `LINE_FAULTS`.
    """

    throttle: float = 0.0
    sector: int = 0
    lever: bool = False
    fault: int = 0
    argument: int = 0


@dataclass
class DeviceModel:
    """One device of a bike on the line; times are seconds on any clock that only goes forward."""

    bike: Bike
    part_id: str
    profile: Profile
    bike_fault: str = ""
    firmware: int = 104
    bench: Bench = field(default_factory=Bench)

    def __post_init__(self) -> None:
        self.held: dict[int, int] = {}
        for item in self.profile.parameters:
            if item.register is not None:
                if item.role:
                    said = self.bike.setting(self.part_id, item.role, math.nan)
                else:
                    said = math.nan
                if math.isnan(said):
                    value = item.default
                else:
                    value = item.of_role(said)
                self.held[item.register.number] = counts(item, value)
        self.saved = dict(self.held)
        self.found: dict[str, float] = dict.fromkeys((item.name for item in RESULTS), 0.0)
        self.status, self.reason = layout.IDLE, 0
        self.rpm, self.angle = 0.0, 0.0
        self._stage: Stage | None = None
        self._since, self._now = 0.0, 0.0
        self._saving = False
        self._circuit = compile_circuit(self.bike, REGISTRY)
        self.set_bike_fault(self.bike_fault)

    # What stands on its pins.

    def set_bike_fault(self, fault: str) -> None:
        """Let the bike have a fault by its id, "" for none; raises UnknownNameError."""
        mode = self._circuit.fault(fault) if fault else None
        if mode:
            row = Row(mode.overrides, frozenset(mode.traits))
        else:
            row = Row()
        self._table = Table(self._circuit, [row])
        self.bike_fault = fault
        self._levels: dict[tuple[str, str], float] = {}

    @property
    def faults(self) -> tuple[FaultMode, ...]:
        """Every fault that the bike could have."""
        return self._circuit.faults

    @cached_property
    def _pins(self) -> dict[str, tuple[str, str]]:
        """Return pin and its ground by what it is: battery, throttle, halls."""
        names: dict[str, str] = {}
        grounds: dict[str, str] = {}
        for port in self.bike.part(self.part_id).ports:
            for pin in port.pins:
                name = f"{self.part_id}.{port.id}.{pin.name}"
                if pin.role == "signal_ground":
                    grounds[port.id] = name
                names.setdefault(pin.role, name)
        found: dict[str, tuple[str, str]] = {}
        for role in ("throttle_signal", "hall_a", "hall_b", "hall_c"):
            if role in names:
                ground = grounds.get(names[role].split(".")[1]) or names.get("battery_minus", "")
                found[role] = (names[role], ground)
        if {"battery_plus", "battery_minus"} <= set(names):
            found["battery"] = (names["battery_plus"], names["battery_minus"])
        return found

    def _volts(self, what: str, setting: str = "") -> float:
        """Return volts of a pin in a state of the bike; 0 where the device has no such pin."""
        if what not in self._pins:
            return 0.0
        if (what, setting) not in self._levels:
            if setting:
                condition = parse_condition(self._circuit, f"on; {setting}")
            else:
                condition = Condition()
            self._levels[what, setting] = float(self._table.volts(condition, *self._pins[what])[0])
        return self._levels[what, setting]

    def _control(self, name: str, value: str) -> str:
        """Return the setting of a control of the bike by the end of its name, "" where it has
        none."""
        motor = self._motor
        for control, (_, known) in self._circuit.controls.items():
            own = name != "rotor" or (motor is not None and control.startswith(f"{motor.id}."))
            if control.endswith(f".{name}") and own and value in known.values:
                return f"{control}={value}"
        return ""

    @cached_property
    def _motor(self) -> Part[MotorSpec] | None:
        return own_motor(Case(self.bike, self.bike, self.bike.part(self.part_id), Aim()))

    def hall_code(self, sector: int) -> tuple[int, int, int]:
        """Return the halls A, B, C that the device sees in a sector, through the wires of the
        bike."""
        setting = self._control("rotor", str(sector % SECTORS))
        code = []
        for letter in "abc":
            code.append(int(self._volts(f"hall_{letter}", setting) > HALL_THRESHOLD_V))
        if self.bench.fault == STALE_HALL:
            code[self.bench.argument % 3] = 0
        return code[0], code[1], code[2]

    def hall_map(self) -> int | None:
        """Return which of the 36 ways fits the codes that it sees, None where they make no
        sense."""
        seen = [self.hall_code(sector) for sector in range(SECTORS)]
        if len(set(seen)) < SECTORS:
            return None
        usual = codes(120)
        for order in ORDERS:
            made = []
            for code in usual:
                made.append((code[order[0]], code[order[1]], code[order[2]]))
            for turned in range(SECTORS):
                if made[turned:] + made[:turned] == seen:
                    return WAYS.index(Way((0, 1, 2), order))
        return None

    # The line.

    def read(self, number: int, count: int, now: float) -> list[int]:
        """Return registers; raises RefusedError."""
        self._go_on(now)
        return [self._register(number + i) for i in range(count)]

    def write(self, number: int, value: int, now: float) -> None:
        """Write a register; raises RefusedError."""
        self._go_on(now)
        if number == layout.COMMAND:
            self._begin(value, now)
            return
        item = self._parameter(number)
        refused = self.bench.fault == REFUSES and self.bench.argument == number
        if item is None or item.register is None or item.register.read_only or refused:
            raise RefusedError(f"register {number} cannot be written")
        if not item.low <= shown(item, value) <= item.high:
            raise RefusedError(f"register {number} cannot hold that")
        self.held[number] = value

    def _parameter(self, number: int) -> Parameter | None:
        every = self.profile.parameters
        return next(
            (p for p in every if p.register is not None and p.register.number == number), None
        )

    def _register(self, number: int) -> int:
        if self.bench.fault == REFUSES and self.bench.argument == number:
            raise RefusedError(f"register {number} cannot be read")
        if number in self.held:
            return self.held[number]
        if number == layout.IDENTITY:
            return self.profile.identity + (self.bench.fault == STRANGER)
        fixed = {
            layout.FIRMWARE: self.firmware,
            layout.COMMAND: 0,
            layout.STATUS: self.status,
            layout.REASON: self.reason,
        }
        if number in fixed:
            return fixed[number]
        values = self.live()
        for block, found in ((LIVE, values), (RESULTS, self.found)):
            for item in block:
                if item.number == number:
                    return item.raw(found[item.name])
        raise RefusedError(f"there is no register {number}")

    # What it does by itself.

    def _begin(self, command: int, now: float) -> None:
        stage = next((item for item in STAGES if item.command == command), None)
        if command != layout.SAVE and stage is None:
            raise RefusedError(f"there is no command {command}")
        self._stage, self._saving = stage, command == layout.SAVE
        self._since, self.status, self.reason = now, layout.RUNNING, 0

    def _go_on(self, now: float) -> None:
        passed, self._now = max(0.0, now - self._now), now
        self.rpm += (self._target() - self.rpm) * (1 - math.exp(-passed / LAG_S))
        self.angle += self.rpm / 60 * passed
        if self.status != layout.RUNNING:
            return
        if self._saving and now - self._since > SAVE_S:
            self._save()
        elif self._stage is not None and now - self._since > STAGE_S:
            self._end(self._stage)

    def _save(self) -> None:
        """Store what it holds; a device that loses power meanwhile keeps the first half and comes
        up anew."""
        self._saving = False
        if self.bench.fault == BROWN_OUT:
            numbers = sorted(self.held)
            self.saved |= {n: self.held[n] for n in numbers[: len(numbers) // 2]}
            self.held, self.status = dict(self.saved), layout.IDLE
            return
        self.saved, self.status = dict(self.held), layout.DONE

    def _end(self, stage: Stage) -> None:
        self.reason = self._trouble(stage)
        self.status = layout.FAILED if self.reason else layout.DONE
        self._stage = None
        if self.reason:
            return
        motor = self._motor
        ohm = motor.spec.phase_ohm if motor else 0.0
        truth = {
            "rest_v": self.throttle_v(0.0),
            "full_v": self.throttle_v(1.0),
            "phase_mohm": 1000 * ohm / PAIR_TO_PHASE * TRUE_SHARE,
            "phase_uh": UNKNOWN_UH,
            "rpm_per_v": motor.spec.rpm_per_v / TRUE_SHARE if motor else 0.0,
            "hall_map": float(self.hall_map() or 0),
            "hall_angle_deg": 120.0,
        }
        for name in stage.results:
            self.found[name] = truth[name]
            self._take_over(name, truth[name])

    def _take_over(self, role: str, value: float) -> None:
        """A device sets its own parameter to what it has learnt, where it has one."""
        item = self.profile.by_role(role)
        if item is not None and item.register is not None:
            self.held[item.register.number] = counts(item, item.of_role(value))

    def _trouble(self, stage: Stage) -> int:
        """Return why a stage cannot come to an end, 0 where it can."""
        if stage.key == "throttle":
            if self.throttle_v(1.0) - self.throttle_v(0.0) > 0.5:
                return 0
            return 3
        if self.bench.lever and stage.turns:
            return 4
        if self._volts("battery") < self._low_cutoff():
            return 5
        if stage.turns and self.hall_map() is None:
            return 2
        return 0

    def _set_to(self, role: str, otherwise: float) -> float:
        """Return what a role is set to, in its unit."""
        item = self.profile.by_role(role)
        if item is None or item.register is None:
            return otherwise
        return item.to_role(shown(item, self.held[item.register.number]))

    def _low_cutoff(self) -> float:
        return self._set_to("low_cutoff_v", 0.0)

    def throttle_v(self, share: float) -> float:
        """Return the volts of the throttle signal at a share of its way."""
        rest = self._volts("throttle_signal")
        full = self._volts("throttle_signal", self._control("grip", "full"))
        return rest + share * (full - rest)

    def _target(self) -> float:
        """Return the turns a minute to which the motor runs now."""
        motor, volts = self._motor, self._volts("battery")
        if (
            motor is None
            or self.bench.lever
            or volts < self._low_cutoff()
            or self.hall_map() is None
        ):
            return 0.0
        most = motor.spec.rpm_per_v / TRUE_SHARE * volts
        if self._stage is not None and self._stage.turns:
            if self._stage.key == "rpm":
                return most
            return most / 10
        start = self._set_to("throttle_start_v", USUAL_START_V)
        end = self._set_to("throttle_end_v", USUAL_END_V)
        share = (self.throttle_v(self.bench.throttle) - start) / max(end - start, 0.1)
        return min(most, self._limit_rpm()) * min(max(share, 0.0), 1.0)

    def _limit_rpm(self) -> float:
        limit, wheel_m = self._set_to("speed_limit_kmh", 0.0), self._wheel_m()
        if limit and wheel_m:
            return limit * 1000 / 60 / wheel_m
        return math.inf

    def _wheel_m(self) -> float:
        """Return what the wheel rolls in a turn of the motor, 0 where the motor is not in it."""
        in_wheel = self._motor is not None and self._motor in hub_motors(self.bike)
        if in_wheel:
            return circumference_mm(self.bike) / 1000
        return 0.0

    def live(self) -> dict[str, float]:
        """Return the values while it runs, by name."""
        volts = self._volts("battery")
        sector = (self.bench.sector + int(self.angle * SECTORS)) % SECTORS
        code = self.hall_code(sector)
        motor = self._motor
        most = motor.spec.rpm_per_v * volts if motor and volts else 1.0
        turning = abs(self.rpm) > 1.0
        bits = (
            self.hall_map() is None,
            self.throttle_v(0.0) > AT_REST_V,
            volts < self._low_cutoff(),
            False,
            self.bench.lever,
        )
        return {
            "volts": volts,
            "amps": IDLE_A * abs(self.rpm) / most if turning else 0.0,
            "throttle_v": self.throttle_v(self.bench.throttle),
            "halls": float(code[0] + 2 * code[1] + 4 * code[2]),
            "motor_c": ROOM_C,
            "speed_kmh": abs(self.rpm) * self._wheel_m() * 60 / 1000,
            "rpm": self.rpm,
            "faults": float(sum(1 << i for i, bit in enumerate(bits) if bit)),
            "state": float(2 if self._stage is not None else turning),
        }
