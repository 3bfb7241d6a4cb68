"""Wiring rules on ratings; the others are in `rules_nets`, `rules_plugs`, `rules_levels` and `rules_power`. A rule is one function and one line in `RULES`.

Each yields findings of its own permanent type; `docs/findings.md` explains every code.
"""

from collections.abc import Callable, Iterator
from datetime import date
from functools import lru_cache

from brightcore.bike.model import Bike, Part
from brightcore.findings import Finding, FindingType
from brightcore.wiring import rules_levels, rules_nets, rules_plugs, rules_power

OVERVOLTAGE = FindingType(
    "W001", "danger",
    "The full {pack} gives {full_v}, the {controller} stands {max_v}.",
    "Do not connect it: fit a controller for at least {full_v}, or a pack of fewer cells.", "common-practice",
)  # fmt: skip
SUPPLY_MISMATCH = FindingType(
    "W002", "danger",
    "{part} is made for {made_v}, its plug gives {given_v}.",
    "Feed it through a step-down converter, or fit a sensor for {given_v}.", "common-practice",
)  # fmt: skip
REQUIRED_PLUG = FindingType(
    "W003", "fault",
    "The {port} plug of the {part} is joined to nothing and is needed for first light.",
    "Join it, or bridge it where the maker allows that.", "common-practice",
)  # fmt: skip
LONELY_PIN = FindingType(
    "W004", "fault",
    "Pin {pin} of the {port} plug ({part}) has no mate in this join.",
    "Look at both faces of the plug; correct the pin map or re-pin it.", "common-practice",
)  # fmt: skip
BMS_TOO_SMALL = FindingType(
    "W005", "danger",
    "The BMS of the {pack} carries {bms_a}, the {controller} draws up to {controller_a}.",
    "Set the controller's current limit to {bms_a} or less, or fit a stronger pack. Never bypass a BMS.", "common-practice",
)  # fmt: skip
NO_CUT_OFF = FindingType(
    "W006", "fault",
    "No brake cut-off is joined to the {controller}.",
    "Fit one on each lever, or waive it with a reason that stays on the job sheet; local law may require it.", "common-practice",
)  # fmt: skip
FUSE_TOO_LARGE = FindingType(
    "W007", "danger",
    "The {fuse_a} fuse of the {pack} protects a lead of {area}, which stands about {ampacity}.",
    "Fit a smaller fuse (DC rating at or above full pack volts) or a thicker lead.", "common-practice",
)  # fmt: skip
LAMP_VOLTS = FindingType(
    "W008", "fault",
    "{lamp} is made for {made_v}, the lamp output gives {given_v}.",
    "Fit a lamp for {given_v}, or a converter.", "common-practice",
)  # fmt: skip
TOUCH_VOLTS = FindingType(
    "W009", "advice",
    "The full {pack} gives {full_v}, above 60 V DC.",
    "Insulated gloves and tools, one hand, and local rules apply.", "iec-61140",
)  # fmt: skip

PART_OVERVOLTAGE = FindingType(
    "W010", "danger",
    "The full pack gives {full_v}, the {part} stands {max_v}.",
    "Fit one for at least {full_v}, or feed it through a step-down converter.", "common-practice",
)  # fmt: skip
COMBINER_TOO_SMALL = FindingType(
    "W011", "danger",
    "The {part} carries {rated_a}, the {controller} draws up to {controller_a}.",
    "Fit one rated well above the controller's limit (22 A wants 40 A), or lower the limit.", "common-practice",
)  # fmt: skip

SENSOR_KINDS = ("throttle", "magnetic_cut_off", "pedal_sensor", "speed_sensor", "torque_sensor", "gear_sensor")
SUPPLY_ROLES = {"supply_5v": 5.0}
AMPACITY_A_PER_MM2 = 12.0
"""Short-run current of chassis wiring per mm², bundled, in air (common practice)."""


def _volts(value: float) -> str:
    return f"{value:g} V"


def overvoltage(bike: Bike) -> Iterator[Finding]:
    """W001: controller volts against the full pack."""
    for pack in bike.of_kind("pack"):
        for controller in bike.of_kind("controller"):
            if pack.spec.full_v() > controller.spec.max_v:
                values = (("pack", pack.name), ("full_v", _volts(pack.spec.full_v())),
                          ("controller", controller.name), ("max_v", _volts(controller.spec.max_v)))  # fmt: skip
                yield Finding(OVERVOLTAGE, (pack.id, controller.id), values)


def supply_mismatch(bike: Bike) -> Iterator[Finding]:
    """W002: a sensor made for one supply on a plug that gives another."""
    for part in bike.of_kind(*SENSOR_KINDS):
        given = _supply_given(bike, part)
        if given is not None and not 0.8 <= given / part.spec.supply_v <= 1.25:
            values = (("part", part.name), ("made_v", _volts(part.spec.supply_v)), ("given_v", _volts(given)))
            yield Finding(SUPPLY_MISMATCH, (part.id,), values)


def _supply_given(bike: Bike, part: Part) -> float | None:
    """Return volts that reach a sensor's supply pin, followed through cables; None where unfed."""
    for port in part.ports:
        for pin in port.pins:
            if pin.role == "sensor_supply":
                for source, role in _reached(bike, f"{part.id}.{port.id}.{pin.name}"):
                    if role == "supply_5v":
                        return 5.0
                    if role in ("battery_out", "battery_plus", "pack_plus"):
                        return max(p.spec.full_v() for p in bike.of_kind("pack"))
                    if role == "accessory_plus":
                        return float(bike.part(source).spec.accessory_v)
                    if role == "convert_out":
                        return float(bike.part(source).spec.out_v)
    return None


def _reached(bike: Bike, start: str) -> list[tuple[str, str]]:
    """Return (part, role) of every pin on the same net, cables and modules followed."""
    part_id, port_id, pin_name = start.split(".")
    for wire in rules_nets.wires_of(bike):
        if any((p.id, q.id, pin.name) == (part_id, port_id, pin_name) for p, q, pin in wire):
            return [(p.id, pin.role) for p, _, pin in wire]
    return []


def required_plug(bike: Bike) -> Iterator[Finding]:
    """W003: a plug needed for first light that is joined to nothing."""
    for part in bike.parts:
        for port in part.ports:
            if port.required and not any(bike.joins_of(part.id, port.id)):
                values = (("port", port.label or port.id), ("part", part.name))
                yield Finding(REQUIRED_PLUG, (f"{part.id}.{port.id}",), values)


def lonely_pin(bike: Bike) -> Iterator[Finding]:
    """W004: a pin of a joined plug that has no mate."""
    for join in bike.joins:
        for side, (part_id, port_id) in enumerate(join.sides()):
            part = bike.part(part_id)
            port = part.port(port_id)
            mated = {pair[side] for pair in join.pairs}
            for pin in port.pins:
                if pin.name not in mated:
                    values = (("pin", pin.words), ("port", port.label or port.id), ("part", part.name))
                    yield Finding(LONELY_PIN, (f"{part_id}.{port_id}.{pin.name}",), values)


def bms_too_small(bike: Bike) -> Iterator[Finding]:
    """W005: BMS amps below what all controllers together may draw; one pack may have to carry it alone."""
    controllers = bike.of_kind("controller")
    draws = sum(bike.setting(c.id, "current_limit_a", c.spec.battery_limit_a) for c in controllers)
    names = " and ".join(c.name for c in controllers)
    for pack in bike.of_kind("pack"):
        if draws > pack.spec.bms_continuous_a:
            values = (
                ("pack", pack.name),
                ("bms_a", f"{pack.spec.bms_continuous_a:g} A"),
                ("controller", names),
                ("controller_a", f"{draws:g} A"),
            )
            yield Finding(BMS_TOO_SMALL, (pack.id, *(c.id for c in controllers)), values)


def no_cut_off(bike: Bike) -> Iterator[Finding]:
    """W006: no brake cut-off."""
    joined = {p for join in bike.joins for p, _ in join.sides()}
    if not any(part.id in joined for part in bike.of_kind("brake_lever", "magnetic_cut_off")):
        for controller in bike.of_kind("controller"):
            yield Finding(NO_CUT_OFF, (controller.id,), (("controller", controller.name),))


def fuse_too_large(bike: Bike) -> Iterator[Finding]:
    """W007: main fuse against the thinnest wire of the main lead."""
    for pack in bike.of_kind("pack"):
        for join in bike.joins_of(pack.id):
            areas = [join.wire.area_mm2] if join.wire.area_mm2 > 0 else []
            areas += [bike.part(p).spec.area_mm2 for p, _ in join.sides() if bike.part(p).kind == "cable"]
            if areas and pack.spec.fuse_a > min(areas) * AMPACITY_A_PER_MM2:
                values = (("pack", pack.name), ("fuse_a", f"{pack.spec.fuse_a:g} A"),
                          ("area", f"{min(areas):g} mm²"), ("ampacity", f"{min(areas) * AMPACITY_A_PER_MM2:g} A"))  # fmt: skip
                yield Finding(FUSE_TOO_LARGE, (pack.id, join.id), values)


def lamp_volts(bike: Bike) -> Iterator[Finding]:
    """W008: lamp volts against the accessory output."""
    for lamp in bike.of_kind("lamp"):
        for port in lamp.ports:
            for pin in port.pins:
                if pin.role != "lamp_plus":
                    continue
                for source, role in _reached(bike, f"{lamp.id}.{port.id}.{pin.name}"):
                    if role in ("accessory_plus", "convert_out"):
                        spec = bike.part(source).spec
                        given = spec.accessory_v if role == "accessory_plus" else spec.out_v
                        if not 0.8 <= given / lamp.spec.rated_v <= 1.25:
                            values = (("lamp", lamp.name), ("made_v", _volts(lamp.spec.rated_v)), ("given_v", _volts(given)))
                            yield Finding(LAMP_VOLTS, (lamp.id,), values)


def touch_volts(bike: Bike) -> Iterator[Finding]:
    """W009: above 60 V DC."""
    for pack in bike.of_kind("pack"):
        if pack.spec.full_v() > 60.0:
            yield Finding(TOUCH_VOLTS, (pack.id,), (("pack", pack.name), ("full_v", _volts(pack.spec.full_v()))))


FED_BY_PACK = {"display_plus": "max_v", "convert_in": "max_in_v", "combine_a": "max_v", "combine_b": "max_v", "wire": "max_v"}
PACK_ROLES = ("pack_plus", "battery_out", "battery_plus")


def part_overvoltage(bike: Bike) -> Iterator[Finding]:
    """W010: display, converter, combining module or tracker on more volts than it stands."""
    full = max((p.spec.full_v() for p in bike.of_kind("pack")), default=0.0)
    for part in bike.of_kind("display", "converter", "combiner", "tracker"):
        for port in part.ports:
            limits = [getattr(part.spec, FED_BY_PACK[p.role]) for p in port.pins if p.role in FED_BY_PACK and hasattr(part.spec, FED_BY_PACK[p.role])
                      and any(role in PACK_ROLES for _, role in _reached(bike, f"{part.id}.{port.id}.{p.name}"))]  # fmt: skip
            if limits and full > min(limits):
                yield Finding(PART_OVERVOLTAGE, (part.id,), (("full_v", _volts(full)), ("part", part.name), ("max_v", _volts(min(limits)))))
                break


def combiner_too_small(bike: Bike) -> Iterator[Finding]:
    """W011: combining module against what the controllers draw."""
    controllers = bike.of_kind("controller")
    draws = sum(bike.setting(c.id, "current_limit_a", c.spec.battery_limit_a) for c in controllers)
    for part in bike.of_kind("combiner"):
        if draws * 1.2 > part.spec.rated_a:
            names = " and ".join(c.name for c in controllers)
            values = (("part", part.name), ("rated_a", f"{part.spec.rated_a:g} A"), ("controller", names), ("controller_a", f"{draws:g} A"))
            yield Finding(COMBINER_TOO_SMALL, (part.id,), values)


RULES: tuple[Callable[[Bike], Iterator[Finding]], ...] = (
    overvoltage,
    supply_mismatch,
    required_plug,
    lonely_pin,
    bms_too_small,
    no_cut_off,
    fuse_too_large,
    lamp_volts,
    touch_volts,
    part_overvoltage,
    combiner_too_small,
    *rules_nets.RULES,
    *rules_plugs.RULES,
    *rules_levels.RULES,
    *rules_power.RULES,
)
TYPES = (
    OVERVOLTAGE, SUPPLY_MISMATCH, REQUIRED_PLUG, LONELY_PIN, BMS_TOO_SMALL, NO_CUT_OFF, FUSE_TOO_LARGE, LAMP_VOLTS, TOUCH_VOLTS,
    PART_OVERVOLTAGE, COMBINER_TOO_SMALL, *rules_nets.TYPES, *rules_plugs.TYPES, *rules_levels.TYPES, *rules_power.TYPES,
)  # fmt: skip


@lru_cache(maxsize=64)
def check_bike(bike: Bike, today: date | None = None) -> tuple[Finding, ...]:
    """Return all findings of a bike, gravest first; those that depend on the date only where it is given."""
    order = {"danger": 0, "fault": 1, "advice": 2}
    found = [finding for rule in RULES for finding in rule(bike)]
    found += [finding for rule in rules_plugs.DATED_RULES for finding in rule(bike, today)] if today else []
    return tuple(sorted(found, key=lambda f: (order[f.severity], f.code, f.subjects)))
