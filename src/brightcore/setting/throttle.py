"""Throttle: its supply, both ends and the way between, against the controller's window (common
practice)."""

from collections.abc import Mapping
from itertools import pairwise

from brightcore.bands import OUTPUT, SIGNAL
from brightcore.bands.points import RAIL_V
from brightcore.bike.model import Bike
from brightcore.kinds.select import controllers
from brightcore.kinds.throttle import ThrottleSpec
from brightcore.setting.contract import (
    Curve,
    Instrument,
    Measured,
    ReadAt,
    Readings,
    SetFinding,
    Step,
    Subject,
    Verdict,
    next_step,
    verdict_of,
    volts_at,
)
from brightcore.setting.own_plug import at_own_plug, every

REST_V, FULL_V = (0.7, 1.0), (3.5, 4.5)
"""Usual volts of the signal at rest and at full (common practice)."""

NEAR_ZERO_V, NEAR_SUPPLY = 0.3, 0.9
"""A signal below this is dead, above this share of the supply its ground is open."""

LEAST_SWING_V, STEP_BACK_V = 0.3, 0.08
"""Less way than this is none; a sweep that falls back by more is not smooth."""

MARGIN_V, INSIDE_V = 0.15, 0.1
"""The controller starts this much above rest, and ends this much before full."""

LEAST_MARGIN_V = 0.1
"""A start less than this above rest begins by itself once the throttle warms or wears (common
practice)."""

LOST_V = 0.5
"""Under this a controller takes the signal for a lost wire; a throttle that rests there cannot be
told from one whose wire is off (common practice)."""

SWEEP_ROOM_V = 0.1
"""Volts by which a reading on the way may pass an end that was read before."""

DEAD_SHARE = 0.25
"""Share of the way that may do nothing at either end before it is told."""


class ThrottleRange(Instrument):
    """Volts of a throttle at rest, pulled, and between."""

    key = "throttle"
    title = "Throttle range"

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """Every throttle."""
        return every(bike, ThrottleSpec)

    def steps(
        self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None
    ) -> tuple[Step, ...]:
        """Supply, rest, full, sweep."""
        on = "Pack in, display on, wheel off the ground, plug connected and back-probed"
        gates = ("pack_safe", "wheel_up")
        return (
            Step(
                "supply",
                "Red on the supply, black on ground of the throttle plug",
                on,
                gates,
                (volts_at("supply_v", "Supply", OUTPUT),),
            ),
            Step(
                "rest",
                "Red on the signal: throttle released",
                on,
                gates,
                (volts_at("rest_v", "At rest", SIGNAL),),
            ),
            Step("full", "Pull it all the way", on, gates, (volts_at("full_v", "Full", SIGNAL),)),
            Step(
                "sweep",
                "Pull slowly and note some volts on the way, in order",
                on,
                gates,
                (
                    volts_at(
                        "sweep",
                        "On the way",
                        SIGNAL,
                        needed=False,
                        many=True,
                        help="such as 0.85 1.2 1.8 2.6 3.4 4.1",
                    ),
                ),
            ),
        )

    def readings(self, bike: Bike, subject: str) -> tuple[ReadAt, ...]:
        """Volts at the throttle's own plug, released and pulled."""
        return at_own_plug(
            bike,
            subject,
            ("supply_v", "sensor_supply", "on"),
            ("rest_v", "throttle_signal", "on"),
            ("full_v", "throttle_signal", f"on; {subject}.grip=full"),
        )

    def judged(
        self,
        bike: Bike,
        subject: str,
        found: Readings,
        options: Mapping[str, str],
        last: Mapping[str, float],
    ) -> Verdict:
        """Name the wire where the signal tells of one, else judge the ends against the
        controller."""
        supply, rest, full = (found.number(n) for n in ("supply_v", "rest_v", "full_v"))
        # A known signature names the fault. Judging the ends of a throttle whose ground is off
        # would only add what follows from it.
        findings = _signature(supply, rest, full) or _ends(bike, supply, rest, full)
        sweep = found.row("sweep")
        findings += _sweep(bike, sweep, rest, full)
        complete = next_step(self.steps(bike, subject), found) is None
        if complete and not any(f.severity != "advice" for f in findings):
            # Only of a throttle that is right: what it measured would otherwise stand in for its
            # description everywhere.
            values = _values(rest, full, supply)
        else:
            values = ()
        drift = []
        for name, value in (("rest_v", rest), ("full_v", full)):
            if value is not None:
                drift.append(_drift(name, value, last))
        findings += [item for item in drift if item is not None]
        return verdict_of(
            findings,
            complete,
            "Runs from end to end inside the controller's window",
            values,
            _curve(bike, rest, full, sweep),
        )


def _signature(supply: float | None, rest: float | None, full: float | None) -> list[SetFinding]:
    """Return what a broken wire looks like, gravest first; empty where the signal moves as it
    should."""
    if supply is None or rest is None:
        return []
    if supply < NEAR_ZERO_V:
        text = "No supply at the throttle"
        return [
            SetFinding(
                "S012",
                "fault",
                text,
                "Follow the 5 V wire and its ground back to the controller's plug.",
            )
        ]
    if rest > NEAR_SUPPLY * supply:
        text = (
            f"The signal stands near the supply at rest ({rest:g} of {supply:g} V): full throttle "
            "with nobody pulling"
        )
        return [
            SetFinding(
                "S011",
                "danger",
                text,
                "Switch off. Its ground is open behind this plug, or signal and supply touch: look "
                "at those pins first.",
            )
        ]
    if full is None:
        return []
    if rest < NEAR_ZERO_V and full < NEAR_ZERO_V:
        text = "Supply is there, the signal stays at zero"
        return [
            SetFinding(
                "S013",
                "fault",
                text,
                "The signal wire is open, or the sensor is dead: measure at the throttle's own "
                "side of the plug.",
            )
        ]
    if abs(full - rest) < LEAST_SWING_V:
        text = f"The signal does not move: {rest:g} V at rest, {full:g} V pulled"
        return [SetFinding("S014", "fault", text, "Stuck grip or loose magnet: open it and look.")]
    return []


def _ends(
    bike: Bike, supply: float | None, rest: float | None, full: float | None
) -> list[SetFinding]:
    findings = []
    if supply is not None and not RAIL_V[0] <= supply <= RAIL_V[1]:
        text = f"Supply {supply:g} V, usual {RAIL_V[0]:g} to {RAIL_V[1]:g} V"
        change = (
            "Compare with a second meter; then the controller's 5 V supply gives too "
            "much: another one."
        )
        if supply < RAIL_V[0]:
            change = (
                "Unplug throttle, halls, pedal sensor and brakes one at a time, pack out each "
                "time, until it returns."
            )
        findings.append(SetFinding("S010", "fault", text, change))
    for controller in controllers(bike)[:1]:
        spec = controller.spec
        if rest is not None and rest >= spec.throttle_start_v:
            text = f"{rest:g} V at rest, the controller drives from {spec.throttle_start_v:g} V"
            findings.append(
                SetFinding(
                    "S017",
                    "danger",
                    text,
                    "Switch off. Magnet off centre, or start set too low: do not ride it.",
                )
            )
        # A hair under the limit by rounding in binary is not under it: 1.00 V against 1.10 V is the
        # very margin that is asked for.
        elif rest is not None and spec.throttle_start_v - rest < LEAST_MARGIN_V - 1e-9:
            text = (
                f"{rest:g} V at rest, only {1000 * (spec.throttle_start_v - rest):.0f} mV "
                "under the start"
            )
            change = (
                f"Set the start to {rest + MARGIN_V:.2f} V, or centre the magnet: warm, it creeps."
            )
            findings.append(SetFinding("S022", "fault", text, change))
        if full is not None and full < spec.throttle_full_v:
            text = f"{full:g} V pulled, the controller gives all from {spec.throttle_full_v:g} V"
            findings.append(
                SetFinding(
                    "S018",
                    "fault",
                    text,
                    "Magnet off centre, grip rubbing, or the end set too high.",
                )
            )
        if full is not None and full > spec.throttle_error_v:
            text = f"{full:g} V pulled, the controller refuses it from {spec.throttle_error_v:g} V"
            findings.append(
                SetFinding(
                    "S019",
                    "fault",
                    text,
                    "It will cut out at full: set the end lower, or another throttle.",
                )
            )
    if rest is not None and rest < LOST_V:
        text = f"{rest:g} V at rest: a wire that is off looks the same to the controller"
        change = (
            "Fit a throttle that rests at 0.7 to 1.0 V, or look at its ground and signal. Never "
            "lower the controller's lost-signal limit to make it run."
        )
        findings.append(SetFinding("S021", "fault", text, change))
    if rest is not None and not findings and not REST_V[0] <= rest <= REST_V[1]:
        text = f"{rest:g} V at rest, usual {REST_V[0]:g} to {REST_V[1]:g} V"
        findings.append(
            SetFinding(
                "S015",
                "advice",
                text,
                "Magnet a little off centre; tell the controller this start.",
            )
        )
    return findings


def _sweep(
    bike: Bike, sweep: tuple[float, ...], rest: float | None, full: float | None
) -> list[SetFinding]:
    findings = []
    falls = [(a, b) for a, b in pairwise(sweep) if b < a - STEP_BACK_V]
    if falls:
        text = f"The signal falls back on the way: {falls[0][0]:g} then {falls[0][1]:g} V"
        findings.append(
            SetFinding("S016", "fault", text, "Worn, wet or a loose magnet: it will jerk there.")
        )
    if rest is None or full is None or full <= rest + LEAST_SWING_V:
        return findings
    beyond = []
    for v in sweep:
        if not rest - SWEEP_ROOM_V <= v <= full + SWEEP_ROOM_V:
            beyond.append(v)
    if beyond:
        text = f"{beyond[0]:g} V on the way lies beyond its own ends, {rest:g} to {full:g} V"
        findings.append(
            SetFinding("S023", "fault", text, "Read both ends again, then the way between.")
        )
    if rest < LOST_V:
        return findings
    for controller in controllers(bike)[:1]:
        dead = (controller.spec.throttle_start_v - rest) / (full - rest)
        if dead > DEAD_SHARE:
            text = f"The first {dead:.0%} of the way does nothing".replace("%", " %")
            findings.append(
                SetFinding(
                    "S009",
                    "advice",
                    text,
                    f"Set the controller's start to {rest + MARGIN_V:.2f} V.",
                )
            )
    return findings


def _values(rest: float | None, full: float | None, supply: float | None) -> tuple[Measured, ...]:
    if rest is None or full is None or supply is None:
        return ()
    return (
        Measured("rest_v", rest, "V", "at rest"),
        Measured("full_v", full, "V", "pulled"),
        Measured("rest_ratio", round(rest / supply, 3), "", "rest over supply"),
        Measured("full_ratio", round(full / supply, 3), "", "full over supply"),
        Measured(
            "start_v",
            round(rest + MARGIN_V, 2),
            "V",
            f"rest and {MARGIN_V:g} V: what the controller starts at",
        ),
        Measured(
            "end_v",
            round(full - INSIDE_V, 2),
            "V",
            f"full less {INSIDE_V:g} V: where the controller gives all",
        ),
    )


DRIFT_V = 0.1
"""A change since the last time that is told."""


def _drift(name: str, value: float, last: Mapping[str, float]) -> SetFinding | None:
    before = last.get(name)
    if before is None or abs(value - before) < DRIFT_V:
        return None
    words = "at rest" if name == "rest_v" else "at full"
    text = f"{value - before:+.2f} V {words} since last time ({before:g} V then)"
    return SetFinding("S020", "advice", text, "Water or a wandering magnet: look again soon.")


def _curve(
    bike: Bike, rest: float | None, full: float | None, sweep: tuple[float, ...]
) -> tuple[Curve, ...]:
    row = sweep or tuple(v for v in (rest, full) if v is not None)
    if len(row) < 2:
        return ()
    points = tuple((100 * n / (len(row) - 1), value) for n, value in enumerate(row))
    levels = []
    for controller in controllers(bike)[:1]:
        for value, words in (
            (controller.spec.throttle_start_v, "starts"),
            (controller.spec.throttle_full_v, "all"),
            (controller.spec.throttle_error_v, "refused"),
        ):
            levels.append((value, words))
    return (Curve("Signal on the way", "V", points, tuple(levels), "way of the throttle, %"),)
