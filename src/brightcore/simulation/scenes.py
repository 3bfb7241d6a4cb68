"""Every scene that a bike allows, from its parts and controls."""

from collections.abc import Iterator, Sequence

from brightcore.behaviour.scene import SECTORS, Scene
from brightcore.bike.model import Join, Part
from brightcore.bike.roles import role_of
from brightcore.circuit.conditions import DEAD_STEPS, Condition, describe
from brightcore.circuit.netlist import Circuit
from brightcore.kinds import REGISTRY
from brightcore.kinds.charging import ChargerSpec
from brightcore.kinds.lamp import LampSpec
from brightcore.kinds.motor import HubMotorSpec
from brightcore.kinds.select import controllers, displays, motors

SWITCH_MIN, RUN_MIN, PULL_MIN, SPIN_MIN = 0.5, 1.0, 5.0, 1.5
"""Minutes to switch on and look, to let it run, to ride uphill, to turn the motor by hand (common
practice)."""

CLIP_MIN, STEPS_MIN, BRIDGE_MIN, CHARGE_MIN = 2.5, 3.0, 4.0, 2.0
"""Minutes to clip phases and turn, to read three halls, to bridge a fused line and try, to see a
charger begin (common practice)."""

CLIPPED = (
    "Clip the motor's leads together, the controller's apart; wheel off the ground, by hand alone"
)
"""How phases are joined at a motor: what then turns is turned by hand."""

UNPLUG_MIN = 1.0
"""Minutes that a plug to be parted adds (common practice)."""

States = tuple[tuple[str, Condition], ...]


def _backwards(turning: Sequence[Part]) -> str:
    """Return how a geared hub is turned: forwards its clutch lets go, and a short goes unfelt."""
    geared = any(isinstance(part.spec, HubMotorSpec) and part.spec.geared() for part in turning)
    if geared:
        return ", a geared hub backwards"
    return ""


class _Scenes:
    """Makes the scenes of one circuit."""

    def __init__(self, circuit: Circuit) -> None:
        self.circuit = circuit
        self.on = Condition()
        has_display = bool(displays(circuit.bike))
        rotors = self.named("rotor")
        self.sectors: States = tuple(
            (f"sector{s}", _all_having(self.on, rotors, s)) for s in (SECTORS if rotors else ())
        )
        self.motor = _each("motor", controllers(circuit.bike))
        self.symbol = ("brake_symbol",) if has_display else ()
        self.error = ("error",) if has_display else ()
        self.panel = ("display", *self.symbol, *self.error) if has_display else ()
        self.speed = ("speed",) if has_display and rotors else ()

    def named(self, control_id: str) -> list[str]:
        """Return the names of all controls of one id."""
        found: list[str] = []
        for name, (_, control) in self.circuit.controls.items():
            if control.id == control_id:
                found.append(name)
        return found

    def all(self) -> Iterator[Scene]:
        """Yield every scene with nothing unplugged."""
        yield self.switched_on()
        yield from self.pressed()
        running = list(self.running())
        yield from running
        if running:
            # The states between rest and the turn of the rotor: what asks for drive. Braking and
            # pulling are the same asking with a lever or a load added.
            extra = running[0].states[1:][: -len(self.sectors) or None]
            yield from self.braked(extra)
            yield from self.pulled(extra)
        turning = motors(self.circuit.bike)
        if turning:
            out = (("out", Condition("out")),)
            title = f"Turn the motor by hand{_backwards(turning)}, pack out"
            yield Scene("spin", title, out, _each("drag", turning), SPIN_MIN)
            yield from self.clipped(turning)
            yield from self.stepped()
        if running:
            yield from self.bridged()
        yield from self.charged()

    def clipped(self, turning: Sequence[Part]) -> Iterator[Scene]:
        """Yield turning each motor with its phases unplugged and clipped together."""
        for motor in turning:
            joins = []
            for j in self.circuit.bike.joins_of(motor.id):
                if _has_phases(self.circuit, j):
                    joins.append(j)
            # One join is enough: the leads are clipped at the plug nearest the motor, and a second
            # plug behind it is apart by that as well.
            for join in joins[:1]:
                if len(turning) == 1:
                    scene = "clipped"
                else:
                    scene = f"clipped.{motor.id}"
                states = (("clipped", Condition("out").without(join.id)),)
                title = (
                    "Clip the three leads of the motor together, then turn it by "
                    f"hand{_backwards([motor])}"
                )
                seen = _own("braking", motor, turning)
                steps = (*describe(self.circuit, states[0][1])[:-1], CLIPPED)
                yield Scene(
                    scene,
                    title,
                    states,
                    (seen,),
                    CLIP_MIN,
                    join.id,
                    "clipped",
                    ("discharged",),
                    steps,
                )

    def stepped(self) -> Iterator[Scene]:
        """Yield reading the three halls at each controller while its motor is turned by hand."""
        every = controllers(self.circuit.bike)
        for part in every:
            if not self.sectors or part.spec.sensorless or not _has_role(part, "hall_a"):
                continue
            scene = "halls" if len(every) == 1 else f"halls.{part.id}"
            title = (
                f"Volts on halls A, B and C at the {part.name}, one after the other, "
                "wheel turned slowly"
            )
            states = (("rest", self.on), *self.sectors)
            steps = (*describe(self.circuit, self.on), "Wheel off the ground, turned by hand")
            yield Scene(
                scene,
                title,
                states,
                (_own("hall_steps", part, every),),
                STEPS_MIN,
                "",
                "halls",
                (),
                steps,
            )

    def bridged(self) -> Iterator[Scene]:
        """Yield bridging the key line of each controller that a display feeds."""
        for name in self.named("bridge"):
            part = self.circuit.bike.part(self.circuit.controls[name][0])
            on = self.on.having(name, "bridged")
            grips = self.named("grip")[:1]
            # Without a throttle nothing would turn by it, and without a display there is no key
            # line that anybody doubts.
            if not grips or not displays(self.circuit.bike):
                return
            rows = []
            for state, held in self.sectors:
                rows.append((state, held.having(name, "bridged")))
            sectors = tuple(rows)
            states = (("rest", on), ("demand", on.having(grips[0], "full")), *sectors)
            steps = (
                *DEAD_STEPS,
                "Fused lead from battery + to the key line",
                "Pack in",
                "Display off",
            )
            if len(self.motor) == 1:
                scene = "bridge"
            else:
                scene = f"bridge.{part.id}"
            title = (
                f"Bridge battery + to the key line of the {part.name}, fused, then a "
                "touch of throttle"
            )
            yield Scene(
                scene, title, states, self.motor, BRIDGE_MIN, "", "bridge", ("bridge",), steps
            )

    def charged(self) -> Iterator[Scene]:
        """Yield putting each charger on the mains."""
        chargers = self.circuit.bike.having(ChargerSpec)
        for part in chargers:
            if len(chargers) == 1:
                scene = "charge"
            else:
                scene = f"charge.{part.id}"
            states = (("charging", Condition("out").having(f"{part.id}.mains", "on")),)
            title = f"{part.name} to its pack and on the mains, attended: what does it show?"
            seen = (_own("charging", part, chargers),)
            steps = ("Pack out of the bike", "Charger to the pack first, then to the mains")
            yield Scene(
                scene,
                title,
                states,
                seen,
                CHARGE_MIN,
                "",
                "charge",
                ("pack_safe", "charging"),
                steps,
            )

    def switched_on(self) -> Scene:
        """Return the scene of switching on."""
        lamps = _each("lamp", self.circuit.bike.having(LampSpec))
        return Scene(
            "switch_on",
            "Switch on and look",
            (("rest", self.on),),
            (*self.panel, *lamps),
            SWITCH_MIN,
        )

    def pressed(self) -> Iterator[Scene]:
        """Yield the scene of pressing each button."""
        buttons = self.named("button")
        for name in buttons:
            part = self.circuit.bike.part(self.circuit.controls[name][0])
            kind = REGISTRY[part.kind]
            shown = kind.shows[0].id
            scene = kind.name if len(buttons) == 1 else f"{kind.name}.{part.id}"
            states = (("pressed", self.on.having(name, "pressed")),)
            title = kind.act.format(part=part.name)
            yield Scene(scene, title, states, _each(shown, [part]), SWITCH_MIN)

    def running(self) -> Iterator[Scene]:
        """Yield the scenes in which the motor is asked to turn: by throttle, by pedals."""
        seen = (*self.motor, *self.error, *self.speed)
        for name in self.named("grip")[:1]:
            states: States = (
                ("rest", self.on),
                ("demand", self.on.having(name, "full")),
                *self.sectors,
            )
            yield Scene("throttle", "A touch of throttle, wheel up", states, seen, RUN_MIN)
        for name in self.named("turn")[:1]:
            pushed = _all_having(self.on, self.named("push"), "pushed")
            pulses = ("pulse", pushed.having(name, "low"))
            states = (("rest", self.on), pulses, ("demand", pushed), *self.sectors)
            yield Scene("pedal", "Turn the cranks, wheel up", states, seen, RUN_MIN)

    def braked(self, extra: States) -> Iterator[Scene]:
        """Yield the scene of pulling each lever while the motor runs."""
        for name in self.named("lever"):
            part = self.circuit.bike.part(self.circuit.controls[name][0])
            rows = []
            for state, condition in extra:
                rows.append((state, condition.having(name, "pulled")))
            states = tuple(rows)
            rest = ("rest", self.on.having(name, "pulled"))
            title = (
                f"{REGISTRY[part.kind].act.format(part=part.name)} while the motor runs, wheel up"
            )
            seen = (*self.motor, *self.symbol)
            yield Scene(f"brake.{part.id}", title, (rest, *states, *self.sectors), seen, RUN_MIN)

    def pulled(self, extra: States) -> Iterator[Scene]:
        """Yield the scene of riding uphill."""
        drives = self.named("drive")
        if drives:
            load = ("load", _all_having(dict(extra)["demand"], drives, "pull"))
            states = (("rest", self.on), *extra, load, *self.sectors)
            title = "Pull hard: ride uphill, slowly and off the road"
            yield Scene("pull", title, states, self.motor, PULL_MIN)


def _each(observable: str, parts: Sequence[Part]) -> tuple[str, ...]:
    """Return the observable's name per part, bare where there is one part."""
    if len(parts) == 1:
        return (observable,)
    return tuple(f"{observable}-{part.id}" for part in parts)


def _own(observable: str, part: Part, among: Sequence[Part]) -> str:
    """Return the observable's name for one part, bare where it is alone."""
    if len(among) == 1:
        return observable
    return f"{observable}-{part.id}"


def _has_role(part: Part, role: str) -> bool:
    return part.has_role(role)


def _has_phases(circuit: Circuit, join: Join) -> bool:
    """Return whether a join carries phases of a motor."""
    ports = [circuit.bike.part(part).port(port) for part, port in join.sides()]
    return any(role_of(pin.role).use == "phase" for port in ports for pin in port.pins)


def scenes_of(circuit: Circuit) -> tuple[Scene, ...]:
    """Return every scene this bike allows, from its parts and controls, and those with a plug
    apart."""
    scenes = list(_Scenes(circuit).all())
    whole = tuple(scenes)
    for join in circuit.bike.joins:
        wanted = _unplug_scenes(circuit, join)
        for scene in whole:
            if scene.id in wanted:
                scenes.append(_unplugged(scene, join.id))
    return tuple(scenes)


def _all_having(condition: Condition, controls: list[str], value: str) -> Condition:
    """Return the condition with every one of the controls set; a resting value leaves it as it
    is."""
    for name in controls if value != "0" else ():
        condition = condition.having(name, value)
    return condition


def _unplug_scenes(circuit: Circuit, join: Join) -> tuple[str, ...]:
    """Return which scenes are worth repeating with a join unplugged, by what hangs on it."""
    places = {REGISTRY[circuit.bike.part(part).kind].place for part, _ in join.sides()}
    pins = []
    for part, port in join.sides():
        for pin in circuit.bike.part(part).port(port).pins:
            pins.append(pin)
    roles = {pin.role for pin in pins}
    # Phases apart and switched on would leave live ends on the bench: such a plug is parted for
    # turning by hand alone.
    if _has_phases(circuit, join):
        return ("spin",)
    if "motor" in places:
        return ("switch_on",)
    if "light" in places or (
        roles & {"brake_signal", "pedal_signal"} and places & {"bar", "sensor"}
    ):
        return ("switch_on", "throttle")
    if places & {"bar", "sensor"} and "key" not in roles:
        return ("switch_on",)
    return ()


def _unplugged(scene: Scene, join_id: str) -> Scene:
    rows = []
    for name, condition in scene.states:
        rows.append((name, condition.without(join_id)))
    states = tuple(rows)
    own, minutes = f"{scene.id}/unplug {join_id}", scene.minutes + UNPLUG_MIN
    return Scene(own, scene.title, states, scene.seen, minutes, join_id, "unplug")
