"""What a controller does with what stands on its pins, and what the rider then sees.

All arrays are [R], one value per bike variant.
"""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from brightcore.behaviour.scene import SECTORS, SceneView
from brightcore.bike.model import Part
from brightcore.kinds.blocks import LOGIC_V
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.display import DisplaySpec
from brightcore.kinds.motor import HALL_CODES, HALLS, PHASES, MotorSpec
from brightcore.kinds.pack import PackSpec

Flags = NDArray[np.bool_]

SWITCHED_V = (1.2, 2.8)
"""Volts below and above which a technician calls a hall line switched (common practice)."""

RAIL_OK_V = 3.9
PHASE_OPEN_OHM = 25.0
PHASE_UNEVEN_OHM = 0.25
NTC_MARGIN_V = 0.25
PULSE_V = (1.5, 3.0)
SERIAL_V = 3.0
MODE_LOW_V = 1.5
SPEED_V = 2.5
WEAK_SHARE = 0.62
TORQUE_WINDOW_V = (0.4, 4.5)
TORQUE_STEP_V = 0.15
"""Supply, phase and thermistor limits (common practice; see docs/nomenclature.md)."""


class ControllerRules:
    """One controller's rules applied to one scene."""

    def __init__(self, part: Part[ControllerSpec], view: SceneView) -> None:
        self.part, self.view, self.spec = part, view, part.spec
        self.scene = view.scene.id.split("/")[0].split(".")[0]

    def run(self) -> None:
        """Write brake symbol, error, motor and speed of the scene into the view."""
        if not self.view.has("rest"):
            return
        view = self.view
        self.see_halls()
        live = self.powered("rest")
        braked = self.braked("demand" if view.has("demand") else "rest")
        if not self.talks():
            view = view.without("brake_symbol", "error", "speed")
        view.see("brake_symbol", (live & self.braked("rest"), "shown"), otherwise="off")
        # A controller refuses to start with the throttle open, lest the bike runs off when switched
        # on; 5 % keeps a throttle that rests just at its start from being called open.
        high = self.throttle_v("rest") > self.spec.throttle_start_v * 1.05
        wrong = self.throttle_v("rest") > self.spec.throttle_error_v
        standing: list[tuple[Flags, str]] = [
            (~live, "none"),
            (self.voltage_wrong("rest"), "voltage"),
            (high | wrong, "throttle"),
            (self.temperature_wrong(), "temperature"),
            (self.torque_wrong(), "torque"),
        ]
        if not view.has("demand"):
            power = view.trait(self.part.id, "bridge_short") & self.phases_joined()
            view.see("error", *standing, (power, "power"), otherwise="none")
            return
        demand = self.demand()
        # What the motor does is decided in the order a controller decides it: alive, allowed,
        # asked, not braked; only then do halls and phases matter.
        ready = live & ~high & ~wrong & ~self.temperature_wrong() & ~self.voltage_wrong("rest")
        wanted = ready & demand & ~braked & self.serial_ok()
        halls_bad, halls_gone = self.halls()
        halls_bad = halls_bad | self.chafed()
        open_count, uneven, shorted = self.phases()
        gate = self.any_trait(*(f"gate_dead:{p}" for p in PHASES))
        shorted = shorted | view.trait(self.part.id, "bridge_short")
        motor: list[tuple[Flags, str]] = [
            (~wanted, "silent"),
            # With one phase open current still flows through the other two and the motor jerks;
            # with two open none can flow at all.
            (open_count >= 2, "silent"),
            (shorted, "twitch"),
            (halls_gone, "twitch"),
            (halls_bad | (open_count == 1) | gate | uneven, "rough"),
        ]
        if view.has("load"):
            motor += [(self.gives_up(), "cuts"), (self.any_trait("cut_back"), "weak")]
        motor.append((self.demand_is_weak(), "weak"))
        view.see("motor", *motor, otherwise="smooth", part_id=self.part.id)
        view.see(
            "error",
            *standing,
            (wanted & shorted, "power"),
            (wanted & (halls_bad | halls_gone), "hall"),
            (wanted & ((open_count > 0) | gate), "power"),
            otherwise="none",
        )
        self.see_speed(view, live & wanted & (open_count < 2) & ~halls_gone & ~shorted)

    def in_the_way(self) -> tuple[str, ...]:
        """Return the codes of all that keeps the motor of the first variant from turning in this
        scene.

        One of `off`, `volts`, `throttle-high`, `throttle-error`, `brake`, `throttle-low`, `pedal`,
        `serial`, `temperature`, `halls`, `phases`; empty where nothing does.
        """
        if not self.view.has("demand"):
            return ()
        open_count, uneven, shorted = self.phases()
        wrong, gone = self.halls()
        rest = self.throttle_v("rest")
        by_pedals = self.view.has("pulse")
        found = (
            ("off", ~self.powered("rest")),
            ("volts", self.powered("rest") & self.voltage_wrong("rest")),
            ("throttle-error", rest > self.spec.throttle_error_v),
            ("throttle-high", rest > self.spec.throttle_start_v * 1.05),
            ("brake", self.braked("demand")),
            ("pedal" if by_pedals else "throttle-low", ~self.demand()),
            ("serial", ~self.serial_ok()),
            ("temperature", self.temperature_wrong()),
            ("halls", wrong | gone),
            ("phases", (open_count > 0) | uneven | shorted),
        )
        rows = []
        for code, holds in found:
            if bool(np.atleast_1d(holds)[0]):
                rows.append(code)
        return tuple(rows)

    def talks(self) -> bool:
        """Return whether this controller is the one that a display listens to (or the only one)."""
        bike = self.view.circuit.bike
        listening = self.view.circuit.nets.mates(self.part.id, "serial_tx") & {
            d.id for d in bike.having(DisplaySpec)
        }
        return bool(listening) or len(bike.having(ControllerSpec)) == 1

    def volts(self, name: str, state: str) -> Any:
        """Return volts of one of the controller's inner nodes against its ground."""
        return self.view.volts(f"{self.part.id}:{name}", f"{self.part.id}:ground", state)

    def any_trait(self, *names: str) -> Flags:
        """Return which variants carry any of the traits."""
        found = self.view.none()
        for name in names:
            found = found | self.view.trait(self.part.id, name)
        return found

    def powered(self, state: str) -> Flags:
        """Return where key line, supply and board are alive."""
        # Makes differ in where they wake; the limits keep a shifted threshold between what any
        # logic takes for off and what any pack gives.
        key = self.view.limit(self.spec.key_on_v, 3.0, max(3.0, 0.6 * self.spec.rated_v))
        rail = self.view.limit(RAIL_OK_V, 3.0, 4.5)
        alive = (self.volts("key", state) > key) & (self.volts("rail", state) > rail)
        return np.asarray(alive & ~self.any_trait("dead"))

    def voltage_wrong(self, state: str) -> Flags:
        """Return where the supply stands outside what the controller accepts."""
        supply = self.volts("plus", state)
        limit = np.where(
            self.any_trait("cutoff_high"), self.spec.rated_v * 1.06, self.spec.low_cutoff_v * 0.97
        )
        return np.asarray((supply < limit * 0.97) | (supply > self.spec.max_v))

    def gives_up(self) -> Flags:
        """Return where it cuts out under load."""
        supply = self.volts("plus", "load")
        limit = np.where(
            self.any_trait("cutoff_high"), self.spec.rated_v * 1.06, self.spec.low_cutoff_v
        )
        weak = self.view.none()
        for pack in self.view.circuit.bike.having(PackSpec):
            weak = weak | self.view.trait(pack.id, "weak")
        return np.asarray((supply < limit) | weak)

    def throttle_v(self, state: str) -> Any:
        """Return throttle volts, zero where the input is dead or absent."""
        if not self.view.node(self.part.id, "throttle"):
            return np.zeros(self.view.count)
        return np.where(self.any_trait("dead:throttle"), 0.0, self.volts("throttle", state))

    def braked(self, state: str) -> Flags:
        """Return where any brake input is pulled."""
        found = self.view.none()
        below = self.view.limit(self.spec.brake_below_v, 0.3, 3.0)
        i = 0
        # Brake inputs are numbered as the part has pins: none, one or two of them, whatever their
        # plugs are called.
        while self.view.node(self.part.id, f"brake_{i}"):
            found = found | (self.volts(f"brake_{i}", state) < below)
            i += 1
        return found

    def demand(self) -> Flags:
        """Return where throttle or pedals ask for drive."""
        by_throttle = self.throttle_v("demand") > self.spec.throttle_start_v
        # Above its error volts a throttle counts as broken, not as wide open: a lost ground lifts
        # the signal to 5 V.
        by_throttle = by_throttle & (self.throttle_v("demand") < self.spec.throttle_error_v)
        asked = by_throttle
        if self.view.has("pulse") and self.view.node(self.part.id, "pedal"):
            low = self.volts("pedal", "pulse") < self.view.limit(PULSE_V[0], 0.5, 2.5)
            high = self.volts("pedal", "demand") > self.view.limit(PULSE_V[1], 2.5, 4.3)
            asked = (low & high & ~self.any_trait("dead:pedal") & self.pushed()) | by_throttle
        zero = self.view.none()
        for display in self.view.circuit.bike.having(DisplaySpec):
            zero = zero | self.view.trait(display.id, "assist_zero")
        return np.asarray(asked & ~zero)

    def pushed(self) -> Flags:
        """Return where the torque signal, if the bike has one, stands clearly above its rest and
        inside its window."""
        if not self.view.node(self.part.id, "torque"):
            return ~self.view.none()
        rest, push = self.volts("torque", "rest"), self.volts("torque", "demand")
        return np.asarray(
            (push > rest + self.view.limit(TORQUE_STEP_V, 0.05, 0.3))
            & (push < TORQUE_WINDOW_V[1])
            & ~self.any_trait("dead:torque")
        )

    def torque_wrong(self) -> Flags:
        """Return where the torque signal at rest stands outside what a sensor can give."""
        if not self.view.node(self.part.id, "torque"):
            return self.view.none()
        volts = np.where(self.any_trait("dead:torque"), 0.0, self.volts("torque", "rest"))
        return np.asarray((volts < TORQUE_WINDOW_V[0]) | (volts > TORQUE_WINDOW_V[1]))

    def demand_is_weak(self) -> Flags:
        """Return where the throttle asks for less than two thirds, or the mode input holds the
        speed down."""
        if self.view.has("pulse") or not self.view.node(self.part.id, "throttle"):
            return self.view.none()
        span = self.spec.throttle_full_v - self.spec.throttle_start_v
        share = self.view.limit(WEAK_SHARE, 0.5, 0.75)
        weak = self.throttle_v("demand") < self.spec.throttle_start_v + share * span
        return np.asarray(weak | self.any_trait("limit_low") | self.lower_mode())

    def lower_mode(self) -> Flags:
        """Return where a mode switch holds the lower speed."""
        if not self.view.node(self.part.id, "mode"):
            return self.view.none()
        return np.asarray(self.volts("mode", "demand") < self.view.limit(MODE_LOW_V, 0.5, 3.0))

    def temperature_wrong(self) -> Flags:
        """Return where the thermistor input is open or shorted."""
        if not self.view.node(self.part.id, "ntc") or not self.thermistor_fitted():
            return self.view.none()
        # An input that is dead inside reads as its pull-up: open, the coldest there is.
        volts = np.where(self.any_trait("dead:ntc"), 5.0, self.volts("ntc", "rest"))
        margin = self.view.limit(NTC_MARGIN_V, 0.1, 0.6)
        return np.asarray((volts < margin) | (volts > LOGIC_V - margin))

    def thermistor_fitted(self) -> bool:
        """Return whether any motor of the bike has a thermistor on a pin."""
        for motor in self.motors():
            roles: set[str] = set()
            for port in motor.ports:
                roles |= {pin.role for pin in port.pins}
            if motor.spec.thermistor and "ntc" in roles:
                return True
        return False

    def motors(self) -> list[Part[MotorSpec]]:
        """Return the motors that this controller drives."""
        bike = self.view.circuit.bike
        found: list[Part[MotorSpec]] = []
        for m in bike.having(MotorSpec):
            if m.id in self.view.circuit.nets.mates(self.part.id, *PHASES):
                found.append(m)
        return found

    def serial_ok(self) -> Flags:
        """Return where a needed display talks."""
        if not self.spec.needs_serial or not self.view.node(self.part.id, "rx"):
            return ~self.view.none()
        return np.asarray(self.volts("rx", "demand") > self.view.limit(SERIAL_V, 1.5, 4.0))

    def halls(self) -> tuple[Flags, Flags]:
        """Return (some codes wrong, no useful code at all) over one electrical turn."""
        if self.runs_without_halls() or not self.view.has("sector0"):
            return self.view.none(), self.view.none()
        seen, wanted = [], []
        for sector in SECTORS:
            seen.append([self.hall_high(hall, sector) for hall in HALLS])
        for code in HALL_CODES:
            wanted.append([level == "1" for level in code])
        high, expected = np.array(seen), np.array(wanted)
        right = (high == expected[:, :, None]).all(axis=1)
        # A motor with one dead hall still gets round with a jerk; with fewer than two that move,
        # the controller cannot tell where it is.
        moving = (high != high[:1]).any(axis=0).sum(axis=0)
        gone = ~right.all(axis=0) & (moving < 2)
        return ~right.all(axis=0) & ~gone, gone

    def runs_without_halls(self) -> bool:
        """Return whether it takes no halls: sensorless, or described without inputs for them."""
        inputs = all(self.view.node(self.part.id, hall) for hall in HALLS)
        return self.spec.sensorless or not inputs

    def see_halls(self) -> None:
        """Write how the halls are seen to switch by a meter at the controller's own plug."""
        if f"sector{SECTORS[0]}" not in dict(self.view.scene.states) or self.runs_without_halls():
            return
        turned = []
        for hall in HALLS:
            turned.append([self.volts(hall, f"sector{sector}") for sector in SECTORS])
        levels = np.array(turned)
        lowest, highest = levels.min(axis=1), levels.max(axis=1)
        switching = (lowest < SWITCHED_V[0]) & (highest > SWITCHED_V[1])
        stays_high = ~switching & (lowest > SWITCHED_V[1])
        count = switching.sum(axis=0)
        cases = [(count == 3, "three")]
        for hall, moves, high in zip("abc", switching, stays_high, strict=True):
            alone = (count == 2) & ~moves
            cases += [(alone & high, f"high_{hall}"), (alone, f"low_{hall}")]
        self.view.see("hall_steps", *cases, otherwise="fewer", part_id=self.part.id)

    def chafed(self) -> Flags:
        """Return where a phase reaches a hall line once it is driven."""
        found = self.view.none()
        for motor in self.motors():
            found = found | self.view.trait(motor.id, "chafed")
        return found

    def hall_high(self, hall: str, sector: str) -> Flags:
        """Return where a hall input reads high in a sector."""
        volts = self.volts(hall, f"sector{sector}")
        below = self.view.limit(self.spec.hall_below_v, 0.5, 3.0)
        return np.asarray((volts >= below) | self.any_trait(f"dead:{hall}"))

    def phases(self) -> tuple[NDArray[np.intp], Flags, Flags]:
        """Return (number of open phases, uneven, shorted) as the controller meets them."""
        loops = self.view.phase_ohm(self.part.id)
        uv, vw, wu = loops
        limit = self.view.limit(PHASE_OPEN_OHM, 10.0, 100.0)
        open_uv, open_vw, open_wu = (x > limit for x in (uv, vw, wu))
        pairs = open_uv.astype(int) + open_vw.astype(int) + open_wu.astype(int)
        # One open phase opens two of the three loops, two open phases all three. So two open loops
        # and one mean the same.
        count = np.where(pairs == 0, 0, np.where(pairs <= 2, 1, 2))
        closed = np.where(loops > limit, np.nan, loops)
        with np.errstate(all="ignore"):
            low = np.nanmin(np.where(np.isnan(closed), np.inf, closed), axis=0)
            top = np.nanmax(np.where(np.isnan(closed), -np.inf, closed), axis=0)
        nominal = self.nominal_ohm()
        shorted = (low < 0.6 * nominal) & np.isfinite(low)
        uneven = np.isfinite(low) & (top - low > self.view.limit(PHASE_UNEVEN_OHM, 0.12, 0.5))
        return (
            count,
            np.asarray(uneven | self.view.trait(self.part.id, "order_wrong")),
            np.asarray(shorted),
        )

    def nominal_ohm(self) -> float:
        """Return the phase-to-phase resistance of the motor this controller drives."""
        return min((m.spec.phase_ohm for m in self.motors()), default=0.1)

    def phases_joined(self) -> Flags:
        """Return where at least one phase pair is closed."""
        return np.asarray((self.view.phase_ohm(self.part.id) < PHASE_OPEN_OHM).any(axis=0))

    def see_speed(self, view: SceneView, turning: Flags) -> None:
        """Write whether speed pulses arrive while the wheel turns."""
        if not (self.view.node(self.part.id, "speed") and self.view.has("sector0")):
            view.see("speed", otherwise="none")
            return
        above = self.view.limit(SPEED_V, 1.0, 4.0)
        high = np.array([self.volts("speed", f"sector{s}") > above for s in SECTORS])
        pulses = high.any(axis=0) & ~high.all(axis=0)
        view.see("speed", (turning & pulses, "shown"), otherwise="none")
