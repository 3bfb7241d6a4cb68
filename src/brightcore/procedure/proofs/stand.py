"""On the stand: what turns, stops, asks and lights (common practice)."""

from collections.abc import Iterator

from brightcore.kinds import REGISTRY
from brightcore.kinds.charging import AlarmSpec
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.inline import KeySwitchSpec
from brightcore.kinds.mode_switch import ModeSwitchSpec
from brightcore.kinds.motor import MotorSpec
from brightcore.kinds.pedal_sensor import PedalSpec
from brightcore.kinds.select import (
    combiners,
    controllers,
    cutting,
    displays,
    is_pedalled,
    motors,
    packs,
    trackers,
)
from brightcore.kinds.sensors import TorqueSpec
from brightcore.kinds.switches import StandSwitch
from brightcore.kinds.throttle import ThrottleSpec
from brightcore.procedure.proofs.case import Checks, ProofCase, ProofCheck

IN_TRACE = ("trace", "Find it in Trace; what it looked like counts there. Then prove it again.")
IN_SET = ("set", "Bring it in range on Set, then prove it again.")
IN_PROGRAM = ("program", "Look at its values on Program, then prove it again.")


def cut_offs(case: ProofCase) -> Iterator[ProofCheck]:
    """Every lever stops the turning motor, each alone."""
    for part in cutting(case.bike, "brake"):
        if case.power_touched or case.any([part]):
            yield ProofCheck(
                f"cut:{part.id}",
                "stand",
                f"{part.name} stops the motor",
                f"Motor turning, {case.turning}: pull this lever alone, gently, then let go.",
                "It stops at once and starts again only when asked.",
                case.because([part]),
                IN_SET,
                live=("rpm", "amps"),
            )


def throttle(case: ProofCase) -> Iterator[ProofCheck]:
    """From rest to full and back."""
    for part in case.bike.having(ThrottleSpec):
        if case.power_touched or case.any([part]):
            yield ProofCheck(
                f"throttle:{part.id}",
                "stand",
                f"{part.name} from rest to full and back",
                "Let go: nothing turns. Pull slowly to the end, let it snap back; three times.",
                "Rises without a jump, stops when let go.",
                case.because([part]),
                IN_SET,
                live=("throttle_v", "faults"),
            )


def assist(case: ProofCase) -> Iterator[ProofCheck]:
    """Every level pulls more than the one before; nothing at zero."""
    sensors = (*case.bike.having(PedalSpec), *case.bike.having(TorqueSpec))
    if sensors and case.power_touched:
        yield ProofCheck(
            "assist",
            "stand",
            "Assist at each level",
            "Turn the cranks forwards by hand at every level, then backwards.",
            "Each level runs faster than the one before; nothing at zero, nothing backwards.",
            case.because(sensors),
            IN_SET,
        )


def walk(case: ProofCase) -> Iterator[ProofCheck]:
    """Walk assist, where a display can ask for it and there are pedals to walk beside."""
    if (
        displays(case.bike)
        and is_pedalled(case.bike)
        and case.any((*displays(case.bike), *controllers(case.bike)))
    ):
        yield ProofCheck(
            "walk",
            "stand",
            "Walk assist",
            (
                "Hold its button; let go. Where there is none or it is off by law, say so and "
                "leave it."
            ),
            "Turns at walking pace while held, stops when let go.",
            case.because(displays(case.bike)),
            IN_PROGRAM,
        )


def regeneration(case: ProofCase) -> Iterator[ProofCheck]:
    """Braking into the pack, where a controller is set to it."""
    for part in case.bike.having(ControllerSpec):
        on = (
            part.spec.regen not in ("", "no", "off") or case.bike.setting(part.id, "regen", 0.0) > 0
        )
        if on and case.any([part, *packs(case.bike)]):
            yield ProofCheck(
                f"regen:{part.id}",
                "stand",
                f"{part.name} brakes into the pack",
                "Pack below 90 % and above 5 °C. Wheel at speed: pull a lever; watch the volts.",
                "Slows smoothly, volts stay under the full pack's.",
                case.because([part]),
                IN_PROGRAM,
                live=("volts", "amps", "faults"),
            )


def one_thing(case: ProofCase) -> Iterator[ProofCheck]:
    """Lamps, a horn: whatever does one small thing that is seen or heard."""
    for part in case.bike.parts:
        does = REGISTRY[part.kind].does
        if does is None or does.proof is None or not case.moved([part]):
            continue
        key, verb, act, expected = does.proof
        yield ProofCheck(
            f"{key}:{part.id}",
            "stand",
            f"{part.name} {verb}",
            act,
            expected,
            case.because([part]),
            IN_TRACE,
        )


def tracker(case: ProofCase) -> Iterator[ProofCheck]:
    """A tracker that was fitted reports, and draws little."""
    for part in trackers(case.bike):
        if case.any([part]):
            yield ProofCheck(
                f"report:{part.id}",
                "stand",
                f"{part.name} reports",
                "Under open sky, bike off, then on: look at what it reports, and at its lamp.",
                "Reports where it is, with the bike on and off.",
                case.because([part]),
                ("wire", "Look at its supply and ground on Wire."),
                ("pack_safe",),
            )


def other_cuts(case: ProofCase) -> Iterator[ProofCheck]:
    """A gear sensor or a stand switch stops the motor as it should."""
    for part in cutting(case.bike, "other"):
        if case.moved([part]):
            stand = part.kind == StandSwitch.name
            if stand:
                act = "Stand down"
            else:
                act = "Move the gear cable as for a shift"
            yield ProofCheck(
                f"cut-other:{part.id}",
                "stand",
                f"{part.name} cuts the motor",
                f"Motor turning slowly: {act[:1].lower()}{act[1:]}, then back.",
                "It stops at once and starts again only when asked.",
                case.because([part]),
                IN_TRACE,
                live=("rpm", "amps"),
            )


def key(case: ProofCase) -> Iterator[ProofCheck]:
    """A key or switch turns everything off."""
    for part in case.bike.having(KeySwitchSpec):
        if case.moved([part]):
            yield ProofCheck(
                f"key:{part.id}",
                "stand",
                f"{part.name} switches on and off",
                "On, off, on; off while the motor turns slowly.",
                "Off is off: nothing turns, nothing is lit.",
                case.because([part]),
                IN_TRACE,
            )


def modes(case: ProofCase) -> Iterator[ProofCheck]:
    """A mode switch holds the lower speed in one position, and in that one only."""
    for part in case.bike.having(ModeSwitchSpec):
        if case.any([part, *controllers(case.bike)]):
            yield ProofCheck(
                f"mode:{part.id}",
                "stand",
                f"{part.name} changes the speed",
                (
                    "Wheel up, throttle closed: change position, then open slowly to the end. "
                    "Each position."
                ),
                "Each position runs to its own top speed; no jump at a change.",
                case.because([part]),
                IN_TRACE,
                live=("rpm",),
            )


def alarm(case: ProofCase) -> Iterator[ProofCheck]:
    """A low-cell alarm is heard where the rider sits."""
    for part in case.bike.having(AlarmSpec):
        if case.moved([part]):
            yield ProofCheck(
                f"alarm:{part.id}",
                "stand",
                f"{part.name} is heard at the bars",
                (
                    "Its test button or a bench supply at its cells' plug; ride the bars with a "
                    "helmet on."
                ),
                "Loud enough to be heard while riding; counts the cells as described.",
                case.because([part]),
                IN_TRACE,
                ("pack_safe",),
            )


def a_minute(case: ProofCase) -> Iterator[ProofCheck]:
    """Runs a minute without an error."""
    if case.power_touched:
        yield ProofCheck(
            "minute",
            "stand",
            "A minute without an error",
            f"A minute at {case.turning}, wheel up; watch and listen to the motor.",
            "No error, no growl, no shudder, no smell.",
            case.because(motors(case.bike)),
            IN_TRACE,
            live=("faults", "volts", "amps", "motor_c"),
        )


def each_pack(case: ProofCase) -> Iterator[ProofCheck]:
    """Combined packs: each alone, then both."""
    own = packs(case.bike)
    if not combiners(case.bike) or not case.any((*own, *combiners(case.bike))):
        return
    for part in own:
        yield ProofCheck(
            f"alone:{part.id}",
            "stand",
            f"{part.name} alone carries it",
            f"Only this pack in and on: {case.turning}, gently.",
            "Runs; the other pack's socket shows nothing across its contacts.",
            case.because([part]),
            IN_TRACE,
        )
    yield ProofCheck(
        "together",
        "stand",
        "All packs together",
        "All in and on, volts within what the module allows: run for a minute, feel the module.",
        "Runs, nothing warms.",
        case.because(combiners(case.bike)),
        IN_TRACE,
    )


def each_motor(case: ProofCase) -> Iterator[ProofCheck]:
    """Several motors: each turns the right way, alike."""
    own = case.bike.having(MotorSpec)
    if len(own) < 2 or not case.power_touched:
        return
    for part in own:
        yield ProofCheck(
            f"motor:{part.id}",
            "stand",
            f"{part.name} turns forwards",
            "All wheels up, a touch: look at this wheel alone.",
            "Forwards, as soon and as fast as the other.",
            case.because([part]),
            ("set", "Find phases and halls by trial on Set."),
            live=("rpm", "faults"),
        )


def temperature(case: ProofCase) -> Iterator[ProofCheck]:
    """The motor's temperature is shown, where a sensor is fitted."""
    for part in case.bike.having(MotorSpec):
        if (
            part.spec.thermistor
            and displays(case.bike)
            and case.any([part, *controllers(case.bike)])
        ):
            yield ProofCheck(
                f"warm:{part.id}",
                "stand",
                f"{part.name}: its temperature is shown",
                "Cold motor, display or link: near the room's. A hand on the hub: it rises.",
                "Near the room's, and moves.",
                case.because([part]),
                IN_SET,
                live=("motor_c",),
            )


CHECKS: tuple[Checks, ...] = (
    cut_offs,
    throttle,
    assist,
    walk,
    regeneration,
    other_cuts,
    key,
    modes,
    alarm,
    one_thing,
    tracker,
    a_minute,
    each_pack,
    each_motor,
    temperature,
)
