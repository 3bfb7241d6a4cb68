"""The learning run: guarded stages in which a device finds out its motor, and what their numbers
mean."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from brightcore.bike.measured import measured_value
from brightcore.bike.model import Bike, Part
from brightcore.kinds.motor import MotorSpec
from brightcore.kinds.throttle import ThrottleSpec
from brightcore.linking.layout import REASONS
from brightcore.programming.case import Aim, Case
from brightcore.programming.own import own_motor
from brightcore.programming.roles.motor import PAIR_TO_PHASE
from brightcore.setting.commutation import WAYS

THROTTLE_OFF_V = 0.12
RESISTANCE_SHARE, INDUCTANCE_SHARE, RPM_SHARE = 0.25, 0.3, 0.1
"""Off by more than these is told (common practice; the readings of controllers are rough)."""

LEAST_SWING_V = 0.5

Values = Mapping[str, float]


@dataclass(frozen=True, slots=True)
class Learnt:
    """What a number of a learning run means: permanent code, severity, text, what to do."""

    code: str
    severity: str
    text: str
    change: str


@dataclass(frozen=True, slots=True)
class Stage:
    """One stage: the command that begins it, what is done meanwhile, and whether it turns the
    motor.

    `results`: names of what it finds; `judge` compares them with the bike.
    """

    key: str
    title: str
    command: int
    words: str
    turns: bool
    results: tuple[str, ...]
    judge: Callable[[Bike, Part, Values], list[Learnt]]


def _motor(bike: Bike, part: Part) -> Part[MotorSpec] | None:
    return own_motor(Case(bike, bike, part, Aim()))


def _origin(bike: Bike, part: str, name: str) -> str:
    found = measured_value(bike, part, name)
    if found is not None:
        return f"measured {found.on}"
    return "described"


def _off(value: float, other: float, share: float) -> bool:
    return abs(value - other) > share * other


def _throttle(bike: Bike, part: Part, values: Values) -> list[Learnt]:
    rest, full = values["rest_v"], values["full_v"]
    if full - rest < LEAST_SWING_V:
        text = f"The throttle went from {rest:.2f} to {full:.2f} V only"
        return [
            Learnt(
                "L001",
                "fault",
                text,
                "Pull it to the end during the stage; else measure it on Set.",
            )
        ]
    found = []
    for throttle in bike.having(ThrottleSpec):
        for word, value, name in (("rest", rest, "rest_ratio"), ("full", full, "full_ratio")):
            known = measured_value(bike, throttle.id, name)
            if known:
                other = known.value * throttle.spec.supply_v
            else:
                other = value
            if known is not None and abs(value - other) > THROTTLE_OFF_V:
                text = (
                    f"The controller sees {value:.2f} V at {word}, Set measured "
                    f"{other:.2f} V {known.on}"
                )
                change = (
                    "A drop between throttle and controller: look at ground and signal on the way."
                )
                found.append(Learnt("L002", "fault", text, change))
    return found


def _resistance(bike: Bike, part: Part, values: Values) -> list[Learnt]:
    motor, value = _motor(bike, part), values["phase_mohm"]
    if motor is None:
        return []
    other = 1000 * motor.spec.phase_ohm / PAIR_TO_PHASE
    if not _off(value, other, RESISTANCE_SHARE):
        return []
    origin = _origin(bike, motor.id, "phase_ohm")
    text = f"A winding of {value:.1f} mΩ was found, {other:.1f} mΩ {origin}"
    if value > other:
        return [
            Learnt(
                "L003",
                "fault",
                text,
                "Look for a bad contact or thin leads between motor and controller.",
            )
        ]
    return [
        Learnt(
            "L004",
            "fault",
            text,
            "A short between turns, or another motor: measure it on Set, pack out.",
        )
    ]


def _inductance(bike: Bike, part: Part, values: Values) -> list[Learnt]:
    motor = _motor(bike, part)
    if motor:
        known = measured_value(bike, motor.id, "inductance_uh")
    else:
        known = None
    value = values["phase_uh"]
    if known is None or not _off(value, known.value / PAIR_TO_PHASE, INDUCTANCE_SHARE):
        return []
    text = f"{value:.0f} µH were found, {known.value / PAIR_TO_PHASE:.0f} µH measured {known.on}"
    return [Learnt("L005", "advice", text, "Run the stage again with the wheel held still.")]


def _rpm(bike: Bike, part: Part, values: Values) -> list[Learnt]:
    motor, value = _motor(bike, part), values["rpm_per_v"]
    if motor is None or not _off(value, motor.spec.rpm_per_v, RPM_SHARE):
        return []
    origin = _origin(bike, motor.id, "rpm_per_v")
    text = f"{value:.2f} rpm/V were found, {motor.spec.rpm_per_v:.2f} {origin}"
    return [
        Learnt(
            "L006", "advice", text, "Pole pairs or reduction may be told wrong: count them on Set."
        )
    ]


def _halls(bike: Bike, part: Part, values: Values) -> list[Learnt]:
    motor, number = _motor(bike, part), int(values["hall_map"])
    if motor:
        known = measured_value(bike, motor.id, "crossing")
    else:
        known = None
    if known is None or int(known.value) == number or not 0 <= number < len(WAYS):
        return []
    text = f"Hall map {number} was found, {known.value:g} on Set {known.on}: {known.words}"
    return [
        Learnt(
            "L007",
            "advice",
            text,
            "One of them was before a plug was changed; let it turn gently first.",
        )
    ]


def _angle(bike: Bike, part: Part, values: Values) -> list[Learnt]:
    motor, value = _motor(bike, part), values["hall_angle_deg"]
    if motor:
        known = measured_value(bike, motor.id, "spacing_deg")
    else:
        known = None
    if known is None or known.value == value:
        return []
    text = f"{value:g}° between halls were found, {known.value:g}° on Set {known.on}"
    return [
        Learnt(
            "L008",
            "fault",
            text,
            "Turn the wheel by hand and watch the hall dial: six codes must pass.",
        )
    ]


STAGES = (
    Stage(
        "throttle",
        "Throttle ends",
        11,
        "Let go, pull slowly to the end, let go again. The motor does not turn.",
        False,
        ("rest_v", "full_v"),
        _throttle,
    ),
    Stage(
        "resistance",
        "Winding resistance",
        12,
        "The motor stands and hums a moment.",
        False,
        ("phase_mohm",),
        _resistance,
    ),
    Stage(
        "inductance",
        "Winding inductance",
        13,
        "The motor stands and ticks.",
        False,
        ("phase_uh",),
        _inductance,
    ),
    Stage(
        "rpm",
        "Turns per volt",
        14,
        "The wheel runs up by itself and rolls out.",
        True,
        ("rpm_per_v",),
        _rpm,
    ),
    Stage(
        "halls", "Hall order", 15, "The wheel turns slowly, both ways.", True, ("hall_map",), _halls
    ),
    Stage("angle", "Hall angle", 16, "The wheel turns slowly.", True, ("hall_angle_deg",), _angle),
)
"""In the order in which they are run; each may be run alone."""


def stage(key: str) -> Stage | None:
    """Return a stage by its key."""
    return next((item for item in STAGES if item.key == key), None)


def failed(item: Stage, reason: int) -> Learnt:
    """Return what to do where a stage did not come to an end."""
    if 0 < reason < len(REASONS):
        why = REASONS[reason]
    else:
        why = "it did not say why"
    text = f"{item.title} did not come to an end: {why}"
    if item.key in ("halls", "angle"):
        change = (
            "Turn the wheel by hand and watch the hall dial; find the crossing by trial on Set; "
            "begin with the map of a sister bike; or run it without sensors where the "
            "controller can."
        )
        return Learnt("L009", "fault", text, change)
    return Learnt("L010", "fault", text, "See to that and run the stage again.")
