"""A ride from its log: distance, energy, sag, heat, and what cannot be trusted in it."""

import math
import statistics
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import pairwise

EARTH_M = 6_371_008.8
"""Mean radius (IUGG); a way along a sphere of it is within 0.6 % of one on the ellipsoid."""

GAP_S, GAP_TIMES = 10.0, 5.0
"""Between two samples more than this, and so many times the usual, is a gap."""

JUMP_KMH = 130.0
"""Faster than this between two places is no bike, but a receiver that lost itself."""

LEAST_SPREAD_A, LEAST_SAMPLES = 5.0, 20
"""Amps must differ by so much over so many samples before a resistance is told."""

LEAST_KM, STANDS_KMH = 0.2, 1.0

RANGE_KM, RANGE_AH = 0.2, 0.05
"""A shorter ride, or one that took less, tells nothing of range (common practice)."""

RIGHT_SHARE = 0.01
"""Shown speed this near to that by satellite needs no correction (common practice)."""


@dataclass(frozen=True, slots=True)
class Sample:
    """One moment of a ride; what a log does not hold is None. Regenerated amps are negative."""

    seconds: float
    lat: float | None = None
    lon: float | None = None
    speed_kmh: float | None = None
    volts: float | None = None
    amps: float | None = None
    motor_c: float | None = None


@dataclass(frozen=True, slots=True)
class RideLog:
    """A ride as read from a file: when it began (None where the log only counts seconds), its
    samples."""

    began: datetime | None
    samples: tuple[Sample, ...]
    flags: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Ride:
    """What a ride tells; None where its log does not hold what is needed.

    `speed_ratio`: shown speed over that by satellite. `ohm`: of pack and lead together, from the
    sag.
    """

    distance_km: float | None
    minutes: float
    moving_minutes: float | None
    top_kmh: float | None
    wh: float | None
    ah: float | None
    wh_per_km: float | None
    regenerated: float | None
    ohm: float | None
    least_v: float | None
    most_a: float | None
    hottest_c: float | None
    speed_ratio: float | None
    flags: tuple[str, ...]


def metres(one: Sample, other: Sample) -> float | None:
    """Return the way between two samples along a sphere (haversine), None where a place is
    missing."""
    if one.lat is None or one.lon is None or other.lat is None or other.lon is None:
        return None
    a, b = math.radians(one.lat), math.radians(other.lat)
    dl = math.radians(other.lon - one.lon)
    # Haversine keeps its digits over a few metres, where the cosine rule loses them all.
    h = math.sin((b - a) / 2) ** 2 + math.cos(a) * math.cos(b) * math.sin(dl / 2) ** 2
    return 2 * EARTH_M * math.asin(min(1.0, math.sqrt(h)))


@dataclass(frozen=True, slots=True)
class _Step:
    """From one sample to the next, where neither a gap nor a jump lies between."""

    one: Sample
    other: Sample
    seconds: float
    metres: float | None

    @property
    def by_place_kmh(self) -> float | None:
        """Speed by the places, None where there are none."""
        if self.metres is None:
            return None
        return 3.6 * self.metres / self.seconds

    @property
    def kmh(self) -> float | None:
        """Speed as shown, else by the places."""
        if self.other.speed_kmh is None:
            return self.by_place_kmh
        return self.other.speed_kmh


def analyse(log: RideLog) -> Ride:
    """Return what a ride tells; gaps and jumps are left out and told."""
    flags = list(log.flags)
    steps = list(_steps(log.samples, flags))
    by_place = [step.metres for step in steps if step.metres is not None]
    shown = [(step, step.other.speed_kmh) for step in steps if step.other.speed_kmh is not None]
    by_speed = sum(speed / 3.6 * step.seconds for step, speed in shown)
    if by_place:
        metres_all = sum(by_place)
    elif shown:
        metres_all = by_speed
    else:
        metres_all = None
    distance = None if metres_all is None else metres_all / 1000
    used, back = _energy(steps)
    volts = [s.volts for s in log.samples if s.volts is not None]
    amps = [s.amps for s in log.samples if s.amps is not None]
    heat = [s.motor_c for s in log.samples if s.motor_c is not None]
    speeds = [speed for _, speed in shown] or [
        v for v in (step.by_place_kmh for step in steps) if v is not None
    ]
    whole = distance is not None and distance >= LEAST_KM
    return Ride(
        distance_km=distance,
        minutes=(log.samples[-1].seconds - log.samples[0].seconds) / 60 if log.samples else 0.0,
        moving_minutes=_moving(steps),
        top_kmh=max(speeds, default=None),
        wh=None if used is None else used - (back or 0.0),
        ah=_charge(steps),
        wh_per_km=(used - (back or 0.0)) / distance
        if used is not None and whole and distance
        else None,
        regenerated=back / used if used and back is not None else None,
        ohm=_resistance(log.samples),
        least_v=min(volts, default=None),
        most_a=max(amps, default=None),
        hottest_c=max(heat, default=None),
        speed_ratio=_ratio(steps),
        flags=tuple(flags),
    )


def speeds(log: RideLog) -> list[tuple[float, float]]:
    """Return (minutes, km/h) of a ride: as shown, else by the places, smoothed over five of
    them."""
    steps = list(_steps(log.samples, []))
    told = []
    for step in steps:
        if (speed := step.kmh) is not None:
            told.append((step.other.seconds / 60, speed))
    if any(step.other.speed_kmh is not None for step in steps):
        return told
    near = []
    for i in range(len(told)):
        near.append([v for _, v in told[max(0, i - 2) : i + 3]])
    found: list[tuple[float, float]] = []
    for (minutes, _), v in zip(told, near, strict=True):
        found.append((minutes, sum(v) / len(v)))
    return found


def _steps(samples: Sequence[Sample], flags: list[str]) -> Iterator[_Step]:
    passed = [b.seconds - a.seconds for a, b in pairwise(samples)]
    # What counts as a gap hangs on the logger: five times its own usual step, or a tablet that logs
    # each half minute would be nothing but gaps.
    usual = statistics.median(passed) if passed else 0.0
    for one, other in pairwise(samples):
        seconds = other.seconds - one.seconds
        at = f"at {one.seconds / 60:.1f} min"
        # Two rows of one second, or a clock set back at a tunnel: they hold no way and no power.
        if seconds <= 0:
            continue
        if seconds > max(GAP_S, GAP_TIMES * usual):
            flags.append(f"A gap of {seconds:.0f} s {at}: left out")
            continue
        way = metres(one, other)
        if way is not None and 3.6 * way / seconds > JUMP_KMH:
            flags.append(f"A jump of {way:.0f} m in {seconds:.0f} s {at}: left out")
            continue
        yield _Step(one, other, seconds, way)


def _energy(steps: Sequence[_Step]) -> tuple[float | None, float | None]:
    """Return (drawn, given back) in Wh by trapezoids, None where there are no volts and amps."""
    drawn = back = 0.0
    found = False
    for step in steps:
        powers = [_watts(step.one), _watts(step.other)]
        if powers[0] is None or powers[1] is None:
            continue
        found = True
        middle = (powers[0] + powers[1]) / 2 * step.seconds / 3600
        # Drawn and given back are summed apart: their difference alone would hide a motor that
        # brakes a lot and a pack that takes it.
        drawn, back = drawn + max(middle, 0.0), back + max(-middle, 0.0)
    if found:
        return (drawn, back)
    return (None, None)


def _charge(steps: Sequence[_Step]) -> float | None:
    """Return the amp-hours taken, what was given back counted off; None where there are no amps."""
    pairs = [(step.one.amps, step.other.amps, step.seconds) for step in steps]
    told = []
    for a, b, seconds in pairs:
        if a is not None and b is not None:
            told.append((a + b) / 2 * seconds)
    if told:
        return sum(told) / 3600
    return None


def _watts(sample: Sample) -> float | None:
    if sample.volts is None or sample.amps is None:
        return None
    return sample.volts * sample.amps


def _moving(steps: Sequence[_Step]) -> float | None:
    told = [(step, speed) for step in steps if (speed := step.kmh) is not None]
    if told:
        return sum(step.seconds for step, speed in told if speed > STANDS_KMH) / 60
    return None


def _resistance(samples: Sequence[Sample]) -> float | None:
    """Return how far the volts fall for each amp: least squares, None where the amps hardly
    differ."""
    pairs = []
    for s in samples:
        if s.amps is not None and s.volts is not None:
            pairs.append((s.amps, s.volts))
    if len(pairs) < LEAST_SAMPLES:
        return None
    amps, volts = [a for a, _ in pairs], [v for _, v in pairs]
    # With hardly any spread of amps the slope is the drift of the pack as it empties, not its
    # resistance.
    if max(amps) - min(amps) < LEAST_SPREAD_A:
        return None
    slope = statistics.linear_regression(amps, volts).slope
    if slope < 0:
        return -slope
    return None


def _ratio(steps: Sequence[_Step]) -> float | None:
    """Return shown way over way by satellite, where a log holds both for long enough."""
    both = []
    for s in steps:
        if s.metres is not None and s.other.speed_kmh is not None:
            both.append(s)
    real = sum(s.metres or 0.0 for s in both)
    # A receiver wanders by metres; over a short way that is percents.
    if real < 1000 * LEAST_KM:
        return None
    return sum((s.other.speed_kmh or 0.0) / 3.6 * s.seconds for s in both) / real


def tells_range(told: Mapping[str, float]) -> bool:
    """Return whether a ride's figures hold both a way and the amp-hours that it took."""
    km, ah = told.get("distance_km"), told.get("ah")
    return km is not None and ah is not None and km >= RANGE_KM and ah >= RANGE_AH


def speed_words(ratio: float | None, set_mm: float) -> str:
    """Return what shown speed over that by satellite says of a circumference in mm; "" where not
    known."""
    if ratio is None:
        return ""
    if abs(ratio - 1) <= RIGHT_SHARE:
        return "Shown speed and GPS agree within 1 %."
    side = "fast" if ratio > 1 else "slow"
    return (
        f"Shown is {100 * abs(ratio - 1):.1f} % too {side}: if {set_mm:.0f} mm is set, "
        f"{set_mm / ratio:.0f} mm is right. Set it on Program."
    )
