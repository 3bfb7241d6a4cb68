"""Rules on ratings: volts and amps that parts are made for against what they get."""

from collections.abc import Iterator

from brightcore.analysis.bike import Analysis, Net
from brightcore.analysis.lead import main_joins
from brightcore.analysis.loads import battery_demand_a, demand_on_a, drawing_on
from brightcore.analysis.rule import Found, amps, rule, volts
from brightcore.analysis.strings import strings
from brightcore.bike.model import Join, Part
from brightcore.findings import Finding
from brightcore.kinds import REGISTRY
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import as_cable, combiners, controllers, packs
from brightcore.physics.heating import ampacity_a
from brightcore.physics.touch import TOUCH_V, TOUCH_WET_V
from brightcore.wiring import remedies
from brightcore.wiring.fuses import main_fuse_a
from brightcore.wiring.sources import PACK_PLUS, full_pack_v, given_v

MADE_FOR_RATIOS = (0.8, 1.25)
"""Volts given over volts made for, between which a part works and lasts (common practice)."""

COMBINER_MARGIN_RATIO = 1.2
"""A combining module is rated this much above what the controllers draw (common practice)."""

GRAVE = 2.0
"""From this share on what is over its limit is a danger rather than a fault."""

FUSE_ROOM = 1.1
"""A fuse this much above what a wire is worked out to stand still protects it: the limit is an
assumption."""


def suits(given: float, made_for: float) -> bool:
    """Return whether volts given suit a part made for others."""
    low, high = MADE_FOR_RATIOS
    return low <= given / made_for <= high


@rule(
    "W001",
    "danger",
    "The full {pack} gives {full_v}, the {controller} stands {max_v}.",
    "Do not connect it: fit a controller for at least {full_v}, or a pack of fewer cells.",
    remedies=(remedies.swap,),
)
def overvoltage(case: Analysis, found: Found) -> Iterator[Finding]:
    """Controller volts against the full pack."""
    for pack in packs(case.bike):
        for controller in controllers(case.bike):
            if pack.spec.full_v() > controller.spec.max_v:
                yield found(
                    (pack.id, controller.id),
                    pack=pack.name,
                    full_v=volts(pack.spec.full_v()),
                    controller=controller.name,
                    max_v=volts(controller.spec.max_v),
                )


def _unsuited(case: Analysis, light: bool) -> Iterator[tuple[Part, float, float]]:
    """Yield (part, volts made for, volts given) where a supply pin gets other volts than its part
    is made for."""
    for part in case.bike.parts:
        made_for = REGISTRY[part.kind].made_for_v(part.spec)
        if not made_for:
            continue
        for place in case.places_of(
            part, lambda r: r.level == "own" and r.wants and (r.use == "light") == light
        ):
            given = given_v(case, case.net_of(place.id))
            if given and not suits(given, made_for):
                yield part, made_for, given


@rule(
    "W002",
    "danger",
    "{part} is made for {made_v}, its plug gives {given_v}.",
    "Feed it through a step-down converter, or fit a sensor for {given_v}.",
)
def supply_mismatch(case: Analysis, found: Found) -> Iterator[Finding]:
    """A sensor made for one supply on a plug that gives another."""
    for part, made_for, given in _unsuited(case, light=False):
        yield found((part.id,), part=part.name, made_v=volts(made_for), given_v=volts(given))


def _bms_overrun(case: Analysis, found: Found, grave: bool) -> Iterator[Finding]:
    """Yield a finding for every BMS that carries less, or gravely less, than the controllers may
    draw."""
    for pack in packs(case.bike):
        limit, demand, drawing = (
            pack.spec.bms_continuous_a,
            demand_on_a(case, pack),
            drawing_on(case, pack),
        )
        if demand > limit and (demand >= GRAVE * limit) == grave:
            yield found(
                (pack.id, *(c.id for c in drawing)),
                pack=pack.name,
                bms_a=amps(limit),
                controller=" and ".join(c.name for c in drawing),
                controller_a=amps(demand),
            )


@rule(
    "W005",
    "danger",
    (
        "The BMS of the {pack} carries {bms_a}, the {controller} draws up to {controller_a}: "
        "twice that or more."
    ),
    (
        "Set the controller's current limit to {bms_a} or less, or fit a stronger pack. Never "
        "bypass a BMS."
    ),
)
def bms_overrun_gravely(case: Analysis, found: Found) -> Iterator[Finding]:
    """BMS amps half or less of what all controllers together may draw."""
    yield from _bms_overrun(case, found, grave=True)


@rule(
    "W058",
    "fault",
    "The BMS of the {pack} carries {bms_a}, the {controller} draws up to {controller_a}.",
    "It cuts out on a long hill, or ages early: set the controller's current limit to {bms_a} or "
    "less, or fit a stronger pack. Never bypass a BMS.",
)
def bms_too_small(case: Analysis, found: Found) -> Iterator[Finding]:
    """BMS amps below what all controllers together may draw; one pack may have to carry it
    alone."""
    yield from _bms_overrun(case, found, grave=False)


def _fuse_over(case: Analysis, found: Found, grave: bool) -> Iterator[Finding]:
    """Yield a finding for every main fuse above what the thinnest wire of the lead stands."""
    for pack in packs(case.bike):
        for join in main_joins(case.bike, pack):
            thinnest = min(lead_areas_mm2(case, pack, join), default=0.0)
            if not thinnest:
                continue
            stands, fuse_a = ampacity_a(thinnest), main_fuse_a(case, pack)
            if fuse_a > FUSE_ROOM * stands and (fuse_a >= GRAVE * stands) == grave:
                yield found(
                    (pack.id, join.id),
                    pack=pack.name,
                    fuse_a=amps(fuse_a),
                    area=f"{thinnest:g} mm²",
                    ampacity=f"{stands:.0f} A",
                )


@rule(
    "W007",
    "danger",
    "The {fuse_a} fuse of the {pack} protects a lead of {area}, rated for about {ampacity}: the "
    "lead can burn before it blows.",
    "Fit a smaller fuse (DC rating at or above full pack volts) or a thicker lead.",
    source="vde-0298",
)
def fuse_useless(case: Analysis, found: Found) -> Iterator[Finding]:
    """Main fuse of twice or more what the thinnest wire of the main lead stands in free air."""
    yield from _fuse_over(case, found, grave=True)


@rule(
    "W057",
    "fault",
    (
        "The {fuse_a} fuse of the {pack} protects a lead of {area}, rated for about {ampacity} "
        "in free air."
    ),
    "Fit a smaller fuse (DC rating at or above full pack volts) or a thicker lead. The rating is "
    "worked out: after a long full load stop, switch off, and read the lead with a thermometer: "
    "40 K above the air is the most.",
    source="vde-0298",
)
def fuse_too_large(case: Analysis, found: Found) -> Iterator[Finding]:
    """Main fuse more than a tenth above what the thinnest wire of the main lead stands in free
    air."""
    yield from _fuse_over(case, found, grave=False)


def lead_areas_mm2(case: Analysis, pack: Part[PackSpec], join: Join) -> Iterator[float]:
    """Yield the described areas of what one of a pack's plugs leads into: its wire, and the cable
    it goes into."""
    if join.wire.area_mm2 > 0:
        yield join.wire.area_mm2
    for part_id, _ in join.sides():
        cable = as_cable(case.bike.part(part_id))
        if cable is not None:
            yield cable.spec.area_mm2


@rule(
    "W008",
    "fault",
    "{lamp} is made for {made_v}, the lamp output gives {given_v}.",
    "Fit a lamp for {given_v}, or a converter.",
    remedies=(remedies.converter, remedies.swap),
)
def lamp_volts(case: Analysis, found: Found) -> Iterator[Finding]:
    """Lamp volts against what feeds it."""
    for part, made_for, given in _unsuited(case, light=True):
        yield found((part.id,), lamp=part.name, made_v=volts(made_for), given_v=volts(given))


@rule(
    "W009",
    "advice",
    f"The full {{pack}} gives {{full_v}}, above {TOUCH_V:g} V DC.",
    (
        "Insulated gloves and tools, one hand, and local rules apply; in the wet from "
        f"{TOUCH_WET_V:g} V on."
    ),
    source="iec-61140",
)
def touch_volts(case: Analysis, found: Found) -> Iterator[Finding]:
    """A pack, or packs in series, above what may be touched."""
    for string in strings(case.bike):
        full = sum(pack.spec.full_v() for pack in string)
        if full > TOUCH_V:
            ids, names = tuple(pack.id for pack in string), [pack.name for pack in string]
            words = " in series with the ".join(names)
            yield found(ids, pack=words, full_v=volts(full))


@rule(
    "W010",
    "danger",
    "The full pack gives {full_v}, the {part} stands {max_v}.",
    "Fit one for at least {full_v}, or feed it through a step-down converter.",
    remedies=(remedies.swap,),
)
def part_overvoltage(case: Analysis, found: Found) -> Iterator[Finding]:
    """Display, converter, combining module, tracker or another part on more pack volts than it is
    rated for."""
    full = full_pack_v(case.bike)
    for part in case.bike.parts:
        kind = REGISTRY[part.kind]
        most = kind.most_v(part.spec)
        if kind.commutates or not most or full <= most:
            continue
        fed = case.places_of(part, lambda r: r.wants or r.name == "wire")
        if any(_on_pack(case.net_of(place.id)) for place in fed):
            yield found((part.id,), full_v=volts(full), part=part.name, max_v=volts(most))


def _on_pack(net: Net) -> bool:
    return net.having(PACK_PLUS) is not None


@rule(
    "W011",
    "danger",
    "The {part} carries {rated_a}, the {controller} draws up to {controller_a}.",
    "Fit one rated well above the controller's limit (22 A wants 40 A), or lower the limit.",
    remedies=(remedies.swap,),
)
def combiner_too_small(case: Analysis, found: Found) -> Iterator[Finding]:
    """Combining module against what the controllers draw."""
    demand = battery_demand_a(case.bike)
    for part in combiners(case.bike):
        if demand * COMBINER_MARGIN_RATIO > part.spec.rated_a:
            yield found(
                (part.id,),
                part=part.name,
                rated_a=amps(part.spec.rated_a),
                controller=" and ".join(c.name for c in controllers(case.bike)),
                controller_a=amps(demand),
            )


RULES = (
    overvoltage,
    supply_mismatch,
    bms_overrun_gravely,
    bms_too_small,
    fuse_useless,
    fuse_too_large,
    lamp_volts,
    touch_volts,
    part_overvoltage,
    combiner_too_small,
)
