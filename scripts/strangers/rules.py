"""What is seen at a true bike, by rules of this benchmark's own: read from volts, part by part.

A `Temper` says in which way a controller differs from the usual: what it does on a hall fault, how
it takes an open throttle at switching on, where its inputs switch.
"""

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from brightcore.behaviour.scene import Scene
from brightcore.bike.model import Part
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.display import DisplaySpec
from brightcore.kinds.lamp import LampSpec
from brightcore.kinds.motor import MotorSpec

if TYPE_CHECKING:
    from strangers.truth import TrueBike

SECTORS = 6


@dataclass(frozen=True, slots=True)
class Temper:
    """How one controller reacts; `usual` ones differ only in where their inputs switch."""

    logic_v: float = 2.4
    brake_share: float = 1.0
    start_share: float = 1.0
    key_share: float = 1.0
    rail_v: float = 4.0
    serial_v: float = 3.0
    on_halls: str = "rough"
    tells_halls: bool = True
    tells_throttle: bool = True
    stops_without_serial: bool = True
    on_two_phases: str = "rough"

    @classmethod
    def usual(cls, rng: np.random.Generator) -> "Temper":
        """Return a usual controller: inputs that switch a little elsewhere."""
        return cls(
            float(rng.uniform(1.9, 2.9)),
            float(rng.uniform(0.85, 1.2)),
            float(rng.uniform(0.95, 1.05)),
            float(rng.uniform(0.8, 1.15)),
            float(rng.uniform(3.6, 4.2)),
            float(rng.uniform(2.6, 3.4)),
            on_two_phases=_on_two_phases(rng),
        )

    @classmethod
    def strange(cls, rng: np.random.Generator) -> "Temper":
        """Return a controller that reacts otherwise."""
        usual = cls.usual(rng)
        return cls(
            usual.logic_v,
            float(rng.uniform(0.4, 2.2)),
            float(rng.uniform(0.9, 1.15)),
            usual.key_share,
            usual.rail_v,
            usual.serial_v,
            str(rng.choice(["rough", "silent", "twitch", "cuts"])),
            bool(rng.random() < 0.6),
            bool(rng.random() < 0.6),
            bool(rng.random() < 0.6),
            _on_two_phases(rng),
        )


def _on_two_phases(rng: np.random.Generator) -> str:
    """Return what a motor does with one of its three leads open: by where the wheel stands it
    shudders, jerks once, or does not start at all."""
    return str(rng.choice(["rough", "twitch", "silent"], p=[0.7, 0.2, 0.1]))


class Eyes:
    """What somebody sees at one true bike in one scene."""

    def __init__(self, bike: "TrueBike", scene: Scene) -> None:
        self.bike, self.scene = bike, scene
        self.states = dict(scene.states)
        self.kind = scene.id.split("/")[0].split(".")[0]

    def volts(self, plus: str, minus: str, state: str) -> float:
        """Return volts between two nodes in a state of the scene."""
        return self.bike.volts(self.states[state], plus, minus)

    def has(self, state: str) -> bool:
        """Return whether the scene has a state of that name."""
        return state in self.states

    def node(self, name: str) -> bool:
        """Return whether the bike has a node of that name."""
        return self.bike.has_node(name)

    def seen(self) -> dict[str, str]:
        """Return what is seen: class by observable."""
        found: dict[str, str] = {}
        bike = self.bike.circuit.bike
        if self.kind == "spin":
            for part in bike.having(MotorSpec):
                self._put(found, "drag", part, self._drag(part))
            return found
        if self.kind == "clipped":
            for part in bike.having(MotorSpec):
                self._put(found, "braking", part, self._braking(part))
            return found
        for part in bike.having(ControllerSpec):
            self._controller(part, found)
        lit = True
        for part in bike.having(DisplaySpec):
            lit = self._lit(part)
            self._put(found, "display", part, "lit" if lit else "dark")
            if not lit:
                for name in ("error", "brake_symbol", "speed"):
                    if name in found:
                        found[name] = {"error": "none", "brake_symbol": "off", "speed": "none"}[
                            name
                        ]
            elif "error" in found and found["error"] == "none" and self._mute(part):
                found["error"] = "communication"
        if self.has("rest") or self.has("pressed"):
            state = "rest" if self.has("rest") else "pressed"
            for part in bike.having(LampSpec):
                volt = self.volts(f"{part.id}:plus", f"{part.id}:minus", state)
                self._put(found, "lamp", part, "lit" if volt > 0.6 * part.spec.rated_v else "dark")
        return {name: value for name, value in found.items() if name in self.scene.seen}

    def _put(self, found: dict[str, str], name: str, part: Part, value: str) -> None:
        own = f"{name}-{part.id}"
        found[own if own in self.scene.seen else name] = value

    def _lit(self, part: Part) -> bool:
        volt = self.volts(f"{part.id}:plus", f"{part.id}:ground", "rest")
        return bool(volt > part.spec.lit_from_v)

    def _mute(self, part: Part) -> bool:
        node = f"{part.id}:rx"
        if not self.node(node):
            return False
        return self.volts(node, f"{part.id}:ground", "rest") < self.bike.temper.serial_v

    # -- the controller ---------------------------------------------------------------------

    def _of(self, part: Part, name: str, state: str) -> float:
        return self.volts(f"{part.id}:{name}", f"{part.id}:ground", state)

    def _controller(self, part: Part, found: dict[str, str]) -> None:
        temper: Temper = self.bike.temper
        spec = part.spec
        if self.kind == "halls":
            self._put(found, "hall_steps", part, self._steps(part))
            for motor in self.bike.circuit.bike.having(MotorSpec):
                self._put(found, "hall_steps", motor, self._steps(part))
            return
        if not self.has("rest"):
            return
        key = self._of(part, "key", "rest") if self.node(f"{part.id}:key") else 99.0
        alive = (
            key > spec.key_on_v * temper.key_share
            and self._of(part, "rail", "rest") > temper.rail_v
        )
        supply = self._of(part, "plus", "rest")
        low = alive and (supply < 0.95 * spec.low_cutoff_v or supply > spec.max_v)
        start = spec.throttle_start_v * temper.start_share
        rest_v = self._throttle(part, "rest")
        open_throttle = alive and (rest_v > 1.04 * start or rest_v > spec.throttle_error_v)
        hot = alive and self._hot(part)
        talks = self._hears(part) or not temper.stops_without_serial
        state = "demand" if self.has("demand") else "rest"
        braked = alive and self._braked(part, "rest")
        self._put(found, "brake_symbol", part, "shown" if braked else "off")
        error = "none"
        if low:
            error = "voltage"
        elif open_throttle and temper.tells_throttle:
            error = "throttle"
        elif hot:
            error = "temperature"
        motor = "silent"
        speed = "none"
        wants = self.has("demand") and self._asked(part, start)
        ready = alive and not low and not open_throttle and not hot and talks
        if self.has("demand") and ready and wants and not self._braked(part, state):
            motor, error = self._turns(part, error, start)
            if motor in ("smooth", "rough", "weak", "cuts"):
                speed = self._speed(part)
        if self.has("demand"):
            self._put(found, "motor", part, motor)
        self._put(found, "error", part, error)
        self._put(found, "speed", part, speed)

    def _throttle(self, part: Part, state: str) -> float:
        if not self.node(f"{part.id}:throttle"):
            return 0.0
        return self._of(part, "throttle", state)

    def _braked(self, part: Part, state: str) -> bool:
        below = part.spec.brake_below_v * self.bike.temper.brake_share
        n = 0
        while self.node(f"{part.id}:brake_{n}"):
            if self._of(part, f"brake_{n}", state) < below:
                return True
            n += 1
        return False

    def _hears(self, part: Part) -> bool:
        if not part.spec.needs_serial or not self.node(f"{part.id}:rx"):
            return True
        return self._of(part, "rx", "rest") > self.bike.temper.serial_v

    def _hot(self, part: Part) -> bool:
        if not self.node(f"{part.id}:ntc"):
            return False
        rail = self._of(part, "rail", "rest")
        volt = self._of(part, "ntc", "rest")
        return self.bike.has_thermistor and (volt < 0.25 or volt > rail - 0.25)

    def _asked(self, part: Part, start: float) -> bool:
        if self.has("pulse"):
            if self.node(f"{part.id}:torque"):
                low, high = self._of(part, "torque", "rest"), self._of(part, "torque", "demand")
                if not (0.4 < low < 4.5 and high - low > 0.15):
                    return False
            if not self.node(f"{part.id}:pedal"):
                return self.node(f"{part.id}:torque")
            low, high = self._of(part, "pedal", "pulse"), self._of(part, "pedal", "demand")
            return low < 1.5 and high > 3.0
        return self._throttle(part, "demand") > start

    def _codes(self, part: Part) -> list[tuple[int, int, int]]:
        limit = self.bike.temper.logic_v
        found = []
        for n in range(SECTORS):
            bits = [int(self._of(part, f"hall_{x}", f"sector{n}") > limit) for x in "abc"]
            found.append((bits[0], bits[1], bits[2]))
        return found

    def _turns(self, part: Part, error: str, start: float) -> tuple[str, str]:
        temper: Temper = self.bike.temper
        phases = self.bike.phase_ohms(part.id)
        opens = sum(ohm > 20.0 for ohm in phases)
        # Ohms are between pairs: one lead that is open opens two of the three.
        if opens >= 3:
            return "silent", "power" if error == "none" else error
        if opens == 2:
            return temper.on_two_phases, "power" if error == "none" else error
        if self.bike.phase_shorted(part.id):
            return "twitch", "power"
        if self.node(f"{part.id}:hall_a") and self.has("sector0"):
            codes = self._codes(part)
            usual = self.bike.usual_codes(part.id)
            if codes != usual:
                told = "hall" if temper.tells_halls else "none"
                lawful = len(set(codes)) == SECTORS and not {(0, 0, 0), (1, 1, 1)} & set(codes)
                if lawful:
                    return "rough", "none"
                moving = sum(len({code[k] for code in codes}) > 1 for k in range(3))
                if moving < 2:
                    return ("twitch" if temper.on_halls == "rough" else temper.on_halls), told
                return temper.on_halls, told
        if max(phases) - min(phases) > 0.3:
            return "rough", "power" if opens else error
        if self.has("load") and self._of(part, "plus", "load") < part.spec.low_cutoff_v:
            return "cuts", error
        if not self.has("pulse"):
            window = part.spec.throttle_full_v - part.spec.throttle_start_v
            if self._throttle(part, "demand") < start + 0.5 * window:
                return "weak", error
        return "smooth", error

    def _speed(self, part: Part) -> str:
        if not self.node(f"{part.id}:speed") or not self.has("sector0"):
            return "none"
        values = [self._of(part, "speed", f"sector{n}") for n in range(SECTORS)]
        if min(values) < 2.4 < max(values):
            return "shown"
        return "none"

    def _steps(self, part: Part) -> str:
        if not self.has("sector0"):
            return "three"
        codes = self._codes(part)
        stuck = [k for k in range(3) if len({code[k] for code in codes}) == 1]
        if not stuck:
            return "three"
        if len(stuck) > 1:
            return "fewer"
        hall = "abc"[stuck[0]]
        return f"high_{hall}" if codes[0][stuck[0]] else f"low_{hall}"

    def _drag(self, part: Part) -> str:
        return "drags" if self.bike.motor_joined(part.id, self.scene) else "free"

    def _braking(self, part: Part) -> str:
        opens = sum(ohm > 20.0 for ohm in self.bike.winding_ohms(part.id))
        return "even" if not opens else "lumps" if opens < 3 else "free"
