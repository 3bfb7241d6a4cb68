"""What was measured on a bike beside what is described of it, and the bike as it is worked with.

A value whose name is a field of its part's spec stands in for the described one, as long as the
part is described as it was when it was measured. `circumference_mm` of the bike itself stands in
for its tyre.
"""

import hashlib
from collections.abc import Iterable
from dataclasses import fields, replace
from functools import lru_cache

from brightcore.bike.model import MEASURED, Bike, MeasuredValue, Part
from brightcore.physics.wheels import wheel_circumference_mm

ROLLED = "circumference_mm"
"""The one measured value of a bike itself that is worked with."""


def mark_of(bike: Bike, subject: str) -> str:
    """Return the hash of what was measured, as described: a part, or wheel and tyre of the bike as
    ""."""
    thing: object = (bike.info.bead_seat_mm, bike.info.tyre_width_mm)
    if subject:
        thing = next((part for part in bike.parts if part.id == subject), None)
    return hashlib.sha256(repr(thing).encode()).hexdigest()


@lru_cache(maxsize=64)
def standing_values(bike: Bike) -> tuple[MeasuredValue, ...]:
    """Return the measured values whose part is described as it was when they were taken."""
    marks = {part.id: mark_of(bike, part.id) for part in bike.parts} | {"": mark_of(bike, "")}
    found = []
    for value in bike.measured:
        if marks.get(value.part) == value.of:
            found.append(value)
    return tuple(found)


def measured_value(bike: Bike, part: str, name: str) -> MeasuredValue | None:
    """Return a measured value that stands, None where there is none."""
    found = (value for value in standing_values(bike) if (value.part, value.name) == (part, name))
    return next(found, None)


def drawn_mm(bike: Bike) -> float:
    """Return the circumference of a bike's wheel as its tyre is described (ISO 5775-1)."""
    return wheel_circumference_mm(bike.info.bead_seat_mm, bike.info.tyre_width_mm)


def circumference_mm(bike: Bike) -> float:
    """Return the circumference of a bike's wheel: as rolled out, else as its tyre is described."""
    rolled = measured_value(bike, "", ROLLED)
    if rolled:
        return rolled.value
    return drawn_mm(bike)


def with_measured(
    bike: Bike, values: Iterable[MeasuredValue], gone: Iterable[tuple[str, str]] = ()
) -> Bike:
    """Return a bike with values instead of older ones of the same part and name, without what is
    gone."""
    new = {(value.part, value.name): value for value in values}
    kept = [
        v
        for v in bike.measured
        if (v.part, v.name) not in new and (v.part, v.name) not in set(gone)
    ]
    return replace(
        bike, measured=tuple(sorted((*kept, *new.values()), key=lambda v: (v.part, v.name)))
    )


def _limits(part: Part, name: str) -> tuple[float, float] | None:
    """Return what a field of a part's spec may be, None where it is not a number of it."""
    for field in fields(part.spec):
        if field.name == name and isinstance(getattr(part.spec, name), int | float):
            low, high = field.metadata.get("low"), field.metadata.get("high")
            return (
                low if low is not None else float("-inf"),
                high if high is not None else float("inf"),
            )
    return None


def preferred(bike: Bike) -> tuple[tuple[MeasuredValue, float], ...]:
    """Return (measured, described) for every value that is worked with instead of the described
    one."""
    found = []
    for value in standing_values(bike):
        if not value.part:
            if value.name == ROLLED:
                found.append((value, drawn_mm(bike)))
            continue
        part = bike.part(value.part)
        limits = _limits(part, value.name)
        if limits is not None and limits[0] <= value.value <= limits[1]:
            found.append((value, float(getattr(part.spec, value.name))))
    return tuple(found)


@lru_cache(maxsize=64)
def as_measured(bike: Bike) -> Bike:
    """Return the bike as it is worked with: measured values in place of described ones."""
    changes: dict[str, dict[str, float]] = {}
    for value, _ in preferred(bike):
        changes.setdefault(value.part, {})[value.name] = value.value
    changes.pop("", None)
    if not changes:
        return bike
    return replace(
        bike, parts=tuple(_changed(part, changes.get(part.id, {})) for part in bike.parts)
    )


def _changed(part: Part, values: dict[str, float]) -> Part:
    if not values:
        return part
    typed = {}
    for name, value in values.items():
        typed[name] = round(value) if isinstance(getattr(part.spec, name), int) else value
    known = dict(part.known) | dict.fromkeys(values, MEASURED)
    return replace(part, spec=replace(part.spec, **typed), known=tuple(sorted(known.items())))
