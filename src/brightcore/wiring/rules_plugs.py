"""Wiring rules on plugs, cables and modules as things: pins, gender, keys, bores, covers, dates. All are common practice."""

import math
from collections.abc import Callable, Iterator
from datetime import date, timedelta

from brightcore.bike.mating import PLAIN
from brightcore.bike.model import Bike, Join, Part, Port
from brightcore.findings import Finding, FindingType

CP = "common-practice"
PIN_COUNT = FindingType(
    "W029", "fault", "{one} has {one_count} pins, {two} has {two_count}: they do not mate.",
    "An adapter with a pin table, or end both anew with one plug: thick wires first, heat-shrink on before the joint.", CP,
)  # fmt: skip
GENDER = FindingType(
    "W030", "fault", "{one} and {two} both have {gender}.", "Change one of them, or make an adapter with the other gender at both ends.", CP
)
KEYING = FindingType(
    "W031", "fault", "{one} is keyed by {one_key}, {two} by {two_key}.", "Never force or trim a key: adapter, or end one anew with the other's plug.", CP,
)  # fmt: skip
RE_PIN = FindingType(
    "W032", "advice", "{one} with {two} needs its pins moved: {table}.",
    "Re-pin one plug as the table says, or make an adapter. Check every pin against pack − with a meter before any power.", CP,
)  # fmt: skip
BORE_TOO_SMALL = FindingType(
    "W033", "fault", "The {count} cores of the {motor} need {stripped_mm} even without a jacket, the bore is {bore_mm}.",
    "Fewer or thinner cores (speed and temperature may go by another way), or a motor with a wider axle bore.", CP,
)  # fmt: skip
JACKET_TOO_THICK = FindingType(
    "W034", "advice", "The cable of the {motor} is {jacket_mm} thick, its bore {bore_mm}: only the bare cores pass ({stripped_mm}).",
    "Strip the jacket over the axle's length, lay the cores flat, sleeve them; nothing may chafe at the axle's edge.", CP,
)  # fmt: skip
PLUG_AFTER = FindingType(
    "W035", "advice", "The {port} plug of the {motor} is about {plug_mm} wide and does not pass the bore of {bore_mm}.",
    "Bearing, cover and nuts over the cable first; then solder or crimp the plug.", CP,
)  # fmt: skip
MODULE_SPACE = FindingType(
    "W036",
    "fault",
    "The {part} is {height_mm} high, under its cover there are {cover_mm}.",
    "A taller cover, or another place on the cable.",
    CP,
)
MODULE_ASLEEP = FindingType(
    "W037",
    "advice",
    "The {part} is not activated yet.",
    "Needs a display system ready for it: check, then activate and try it before the cover goes on.",
    CP,
)
MODULE_RENEWAL = FindingType(
    "W038", "advice", "The subscription of the {part} {when} on {date}.", "Tell the rider; write the new date down when it is renewed.", CP
)
MODULE_DRAIN = FindingType(
    "W039", "advice", "Standing still, the {part} flattens the full pack in {days} days.", "Unplug the pack when the bike stands for weeks, or charge it in between.", CP,
)  # fmt: skip
LIVE_SPARE = FindingType(
    "W040", "advice", "The free {port} plug of the {part} carries {what} when switched on.", "Cap or sleeve it, mouth down, tied where nothing rubs.", CP,
)  # fmt: skip
TYPES = (
    PIN_COUNT, GENDER, KEYING, RE_PIN, BORE_TOO_SMALL, JACKET_TOO_THICK, PLUG_AFTER, MODULE_SPACE, MODULE_ASLEEP, MODULE_RENEWAL, MODULE_DRAIN, LIVE_SPARE,
)  # fmt: skip

FILL_RATIO = 0.7
"""Share of a round hole that laid cores fill."""

THIN_MM2, PHASE_MM2 = 0.2, 2.0
"""Areas taken for hall and phase cores that are not described."""

RENEWAL_DAYS, DRAIN_DAYS = 30, 60
"""A renewal is told this long before; a drain is told where the pack is flat sooner than this."""

Ends = tuple[tuple[Part, Port], tuple[Part, Port]]


def _ends(bike: Bike, join: Join) -> Ends:
    (a, p), (b, q) = join.sides()
    return (bike.part(a), bike.part(a).port(p)), (bike.part(b), bike.part(b).port(q))


def _name(end: tuple[Part, Port]) -> str:
    return f"{end[0].name}, {end[1].label or end[1].id}"


def _names(ends: Ends) -> tuple[tuple[str, str], tuple[str, str]]:
    return ("one", _name(ends[0])), ("two", _name(ends[1]))


def plugs(bike: Bike) -> Iterator[Finding]:
    """W029, W030, W031: pin count, gender and key of mated plugs, as far as somebody looked."""
    for join in bike.joins:
        ends = _ends(bike, join)
        p, q = ends[0][1], ends[1][1]
        same_make = p.family == q.family and (p.family not in PLAIN or bool(p.key and p.key == q.key))
        if same_make and len(p.pins) != len(q.pins):
            yield Finding(PIN_COUNT, (join.id,), (*_names(ends), ("one_count", str(len(p.pins))), ("two_count", str(len(q.pins)))))
        if p.gender and p.gender == q.gender:
            yield Finding(GENDER, (join.id,), (*_names(ends), ("gender", p.gender)))
        if p.key and q.key and p.key != q.key:
            yield Finding(KEYING, (join.id,), (*_names(ends), ("one_key", p.key), ("two_key", q.key)))


def pin_table(p: Port, q: Port, join: Join) -> tuple[tuple[int, int], ...]:
    """Return (pin of the first plug, pin of the second) by number, where mated plugs of one make do not meet straight; else ()."""
    first, second = ({pin.name: n for n, pin in enumerate(port.pins, 1)} for port in (p, q))
    table = tuple((first[a], second[b]) for a, b in join.pairs)
    return () if all(a == b for a, b in table) else table


def re_pin(bike: Bike) -> Iterator[Finding]:
    """W032: plugs of one make whose pins do not meet straight; bullets and terminals are free to be moved and left alone."""
    for join in bike.joins:
        ends = _ends(bike, join)
        p, q = ends[0][1], ends[1][1]
        moulded = p.family == q.family and (p.family not in PLAIN or bool(p.key and q.key)) and not (p.rewireable or q.rewireable)
        table = pin_table(p, q, join)
        if moulded and table:
            yield Finding(RE_PIN, (join.id,), (*_names(ends), ("table", ", ".join(f"{a} to {b}" for a, b in table))))


def core_mm(area_mm2: float) -> float:
    """Return the diameter over the insulation of one flexible core, in mm: strands 15 % over solid, 0.4 mm walls, 0.6 mm on thick ones."""
    return 1.15 * math.sqrt(4 * area_mm2 / math.pi) + 2 * (0.6 if area_mm2 >= 1 else 0.4)


def stripped_mm(areas_mm2: list[float]) -> float:
    """Return the bore that cores without a jacket need, in mm, laid to fill 70 % of it."""
    return math.sqrt(sum(core_mm(a) ** 2 for a in areas_mm2) / FILL_RATIO)


def plug_mm(port: Port) -> float:
    """Return about how wide a plug is, in mm: bullets pass singly, others by their pins in two rows."""
    if port.rewireable:
        return 7.0
    return 2.5 * math.ceil(len(port.pins) / 2) + 5.0 if not port.family.startswith("power") else 8.0 * len(port.pins)


def cores_of(bike: Bike, motor: Part) -> list[float]:
    """Return the areas in mm² of all cores that leave a motor; thin and phase cores of usual area where not described."""
    areas = []
    for port in motor.ports:
        thick = any(pin.role.startswith("phase_") for pin in port.pins)
        joined = [
            j.wire.area_mm2 or next((bike.part(p).spec.area_mm2 for p, _ in j.sides() if bike.part(p).kind == "cable"), 0.0)
            for j in bike.joins_of(motor.id, port.id)
        ]
        area = max(joined, default=0.0) or (PHASE_MM2 if thick else THIN_MM2)
        areas += [area] * len(port.pins)
    return areas


def axle(bike: Bike) -> Iterator[Finding]:
    """W033, W034, W035: cores, jacket and plugs of a hub motor against the bore that was measured."""
    for motor in bike.of_kind("hub_motor"):
        bore, jacket = motor.spec.axle_bore_mm, motor.spec.cable_jacket_mm
        if not bore:
            continue
        cores = cores_of(bike, motor)
        need = stripped_mm(cores)
        values = (("motor", motor.name), ("bore_mm", f"{bore:g} mm"), ("stripped_mm", f"{need:.1f} mm"))
        if need > bore:
            yield Finding(BORE_TOO_SMALL, (motor.id,), (*values, ("count", str(len(cores)))))
        elif jacket > bore:
            yield Finding(JACKET_TOO_THICK, (motor.id,), (*values, ("jacket_mm", f"{jacket:g} mm")))
        for port in motor.ports:
            if plug_mm(port) > bore:
                own = (
                    ("motor", motor.name),
                    ("port", port.label or port.id),
                    ("bore_mm", f"{bore:g} mm"),
                    ("plug_mm", f"{plug_mm(port):.0f} mm"),
                )
                yield Finding(PLUG_AFTER, (f"{motor.id}.{port.id}",), own)


def modules(bike: Bike) -> Iterator[Finding]:
    """W036, W037, W039: space, activation and standing current of a module on the display cable."""
    charge = sum(p.spec.capacity_ah for p in bike.of_kind("pack"))
    for part in bike.of_kind("tracker"):
        spec = part.spec
        if 0 < spec.cover_mm < spec.height_mm:
            yield Finding(
                MODULE_SPACE,
                (part.id,),
                (("part", part.name), ("height_mm", f"{spec.height_mm:g} mm"), ("cover_mm", f"{spec.cover_mm:g} mm")),
            )
        if not spec.activated:
            yield Finding(MODULE_ASLEEP, (part.id,), (("part", part.name),))
        days = charge / spec.standby_a / 24
        if days < DRAIN_DAYS:
            yield Finding(MODULE_DRAIN, (part.id,), (("part", part.name), ("days", f"{days:.0f}")))


def renewals(bike: Bike, today: date) -> Iterator[Finding]:
    """W038: a subscription that runs out soon, or has."""
    for part in bike.of_kind("tracker"):
        if part.spec.renew_on and date.fromisoformat(part.spec.renew_on) <= today + timedelta(days=RENEWAL_DAYS):
            when = "ran out" if date.fromisoformat(part.spec.renew_on) < today else "runs out"
            yield Finding(MODULE_RENEWAL, (part.id,), (("part", part.name), ("when", when), ("date", part.spec.renew_on)))


LIVE = {
    "battery_out": "pack volts",
    "accessory_plus": "lamp volts",
    "supply_5v": "5 V",
    "convert_out": "the converter's volts",
    "combine_out": "pack volts",
}


def live_spares(bike: Bike) -> Iterator[Finding]:
    """W040: a plug that is not needed, joined to nothing, and live."""
    for part in bike.parts:
        for port in part.ports:
            what = next((LIVE[pin.role] for pin in port.pins if pin.role in LIVE), "")
            if what and not port.required and not any(bike.joins_of(part.id, port.id)):
                yield Finding(LIVE_SPARE, (f"{part.id}.{port.id}",), (("port", port.label or port.id), ("part", part.name), ("what", what)))


RULES: tuple[Callable[[Bike], Iterator[Finding]], ...] = (plugs, re_pin, axle, modules, live_spares)
DATED_RULES: tuple[Callable[[Bike, date], Iterator[Finding]], ...] = (renewals,)
