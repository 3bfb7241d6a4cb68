"""Rules on current: outputs, wires, fuse, lead, packs in series, lengths."""

import math
from collections.abc import Iterator

from brightcore.analysis.bike import Analysis, Place
from brightcore.analysis.lead import leads
from brightcore.analysis.loads import demand_on_a, drawn_a, output_load_a, through_a
from brightcore.analysis.rule import Found, amps, rule, volts
from brightcore.analysis.strings import highest_v, in_series, lowest_v, top_v
from brightcore.bike.model import Part
from brightcore.bike.roles import role_of
from brightcore.describing.join_words import join_words
from brightcore.findings import Finding
from brightcore.kinds import REGISTRY
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import controllers, packs
from brightcore.physics.contacts import MINUTE_RATIO, contact_a
from brightcore.physics.fuses import fuse_long_a
from brightcore.physics.gauges import STANDARD_MM2, nearest_awg
from brightcore.physics.heating import FOR_LONG_S, SHORT_RUN_S, ampacity_a
from brightcore.wiring import remedies
from brightcore.wiring.conductors import conductor_table
from brightcore.wiring.fuses import holders, main_fuse_a
from brightcore.wiring.routes import runs_of
from brightcore.wiring.sources import backfed

DROP_RATIO = 0.03
"""Share of the pack's volts that may be lost in the lead before it is told (common practice)."""

SHORT_M = 0.02
"""Less than this is no shortage: it is within how well a frame is measured."""

NEAR, GRAVE = 1.25, 2.0
"""Up to the first times its limit a wire is near it, from the second on it is a danger: the limit
itself is worked out, not stated."""

ROUNDING = 1.001
"""Equal figures are not told as over."""


@rule(
    "W027",
    "fault",
    "What is wired to {output} of the {part} draws {draw_a}, it gives {give_a}.",
    "Fewer watts, or a converter of its own.",
)
def output_overloaded(case: Analysis, found: Found) -> Iterator[Finding]:
    """Every output with a current limit against what hangs on it."""
    for part in case.bike.parts:
        if REGISTRY[part.kind].grounds:
            continue
        for feed in REGISTRY[part.kind].feeds(part):
            load = output_load_a(case, part, feed.role)
            if load > feed.ampere * ROUNDING:
                output = next(
                    place for place in case.places_of(part) if place.pin.role == feed.role
                )
                yield found(
                    (part.id,),
                    part=part.name,
                    output=output.pin.words,
                    draw_a=f"{load:.2g} A",
                    give_a=amps(feed.ampere),
                )


def _branches(place: Place) -> bool:
    """Return whether a pin takes a small current from a plus wire."""
    role = place.role
    return role.wants and role.polarity == "plus" and role.current == "drawn"


@rule(
    "W028",
    "fault",
    "The {part} is wired to the pack's own lead without a fuse of its own.",
    "A fuse for its wire, DC rated for the full pack, close to where it branches off.",
    remedies=(remedies.join_anew,),
)
def unfused(case: Analysis, found: Found) -> Iterator[Finding]:
    """What takes a small current straight from a pack."""
    for wire in case.wires:
        if not wire.having(frozenset(("pack_plus",))) or wire.having(frozenset(("battery_out",))):
            continue
        for part in wire.parts(_branches):
            yield found((part.id,), part=part.name)


def _thin(case: Analysis, found: Found, least: float, below: float) -> Iterator[Finding]:
    """Yield a finding for every conductor whose current is from so many times what it stands to so
    many."""
    told: set[str] = set()
    for row in conductor_table(case.bike):
        if row.fits or row.owner in told or not least <= row.current_a / row.stands_a < below:
            continue
        # One finding a cable or join, that of its worst wire: the table has them all.
        told.add(row.owner)
        seconds = SHORT_RUN_S if row.short_run else FOR_LONG_S
        fitting = (
            area for area in STANDARD_MM2 if ampacity_a(area, seconds=seconds) >= row.current_a
        )
        wanted = next(fitting, STANDARD_MM2[-1])
        yield found(
            (row.owner,),
            wire=row.title,
            carries=row.carries,
            area=f"{row.area_mm2:g} mm²",
            limit_a=_told(row.stands_a) + (" for a minute" if row.short_run else ""),
            current_a=_told(row.current_a),
            wanted=f"{wanted:g} mm²",
            gauge=f"{nearest_awg(wanted)} AWG",
        )


def _told(current_a: float) -> str:
    """Return a current as precise as it is known."""
    if current_a >= 10:
        return f"{current_a:.0f} A"
    return f"{current_a:.1f} A"


@rule(
    "W050",
    "fault",
    "{wire}, {carries}: {area} is rated for {limit_a} in free air, the load is up to {current_a}.",
    "Take {wanted} ({gauge}), or lower the controller's limit.",
    source="vde-0298",
)
def thin_wire(case: Analysis, found: Found) -> Iterator[Finding]:
    """A conductor well over what it stands in free air; the worst of each cable or join."""
    yield from _thin(case, found, NEAR, GRAVE)


@rule(
    "W059",
    "advice",
    (
        "{wire}, {carries}: {area} is rated for about {limit_a} in free air, the load is up to "
        "{current_a}."
    ),
    "The rating is worked out, not stated. Measure: after that load stop, switch off, then read "
    "the insulation with a thermometer. More than 40 K above the air, or in a bundle: {wanted} "
    "({gauge}).",
    source="vde-0298",
)
def near_limit(case: Analysis, found: Found) -> Iterator[Finding]:
    """A conductor a little over what it is worked out to stand in free air."""
    yield from _thin(case, found, 0.0, NEAR)


@rule(
    "W060",
    "danger",
    "{wire}, {carries}: {area} is rated for {limit_a} in free air, the load is up to {current_a}: "
    "its insulation can melt.",
    "Take {wanted} ({gauge}) before any power, or lower the controller's limit.",
    source="vde-0298",
)
def burning_wire(case: Analysis, found: Found) -> Iterator[Finding]:
    """A conductor that carries twice what it stands in free air, or more."""
    yield from _thin(case, found, GRAVE, math.inf)


def _contacts(case: Analysis, found: Found, least: float, below: float) -> Iterator[Finding]:
    """Yield a finding for the worst contact of every plug that carries so many times its usual
    current."""
    for join in case.bike.joins:
        ports = [case.bike.part(part).port(port) for part, port in join.sides()]
        limits = []
        for limit in (contact_a(port.family) for port in ports):
            if limit:
                limits.append(limit)
        if not limits:
            continue
        (a, p), (b, q) = join.sides()
        worst = max(
            (through_a(case, f"{a}.{p}.{x}", f"{b}.{q}.{y}") for x, y in join.pairs), default=0.0
        )
        phases = any(role_of(pin.role).use == "phase" for port in ports for pin in port.pins)
        # Phase current of a hard start lasts a minute, battery current a hill.
        share = worst / min(limits) / (MINUTE_RATIO if phases else 1.0)
        if least < share <= below:
            yield found(
                (join.id,),
                join=join_words(case.bike, join),
                current_a=_told(worst),
                limit_a=f"{min(limits):.0f} A",
            )


@rule(
    "W078",
    "advice",
    (
        "{join}: a contact carries up to {current_a}; a plug of that make is usually rated for "
        "{limit_a}."
    ),
    "Look at the mark on the plug. After that load stop, switch off, and read plug and wires with "
    "a thermometer: more than 40 K above the air wants a stronger one.",
)
def contact_near(case: Analysis, found: Found) -> Iterator[Finding]:
    """Contacts of a plug above what one of its make usually carries."""
    yield from _contacts(case, found, ROUNDING, GRAVE)


@rule(
    "W079",
    "fault",
    "{join}: a contact carries up to {current_a}; "
    "a plug of that make is usually rated for {limit_a}: it can melt.",
    (
        "A plug for that current on both sides, or a lower limit. Discoloured or loose contacts "
        "are cut off."
    ),
)
def contact_over(case: Analysis, found: Found) -> Iterator[Finding]:
    """Contacts of a plug at more than twice what one of its make usually carries."""
    yield from _contacts(case, found, GRAVE, math.inf)


@rule(
    "W051",
    "advice",
    (
        "At {current_a} the wires between the pack and the {controller} lose {drop_v} and make "
        "{heat_w} of heat."
    ),
    "More than 3 % is felt on a hill: thicker or shorter wires.",
)
def lead_drop(case: Analysis, found: Found) -> Iterator[Finding]:
    """Volts lost in described wires between pack and controller."""
    nominal = lowest_v(case.bike, PackSpec.nominal_v)
    for controller, lead in leads(case.bike).items():
        if lead.drop_v > DROP_RATIO * nominal > 0:
            yield found(
                (controller,),
                controller=case.bike.part(controller).name,
                current_a=f"{lead.current_a:.0f} A",
                drop_v=f"{lead.drop_v:.1f} V",
                heat_w=f"{lead.heat_w:.0f} W",
            )


def pack_load_a(case: Analysis, pack: Part[PackSpec]) -> float:
    """Return the most a pack may have to give, in A: all controllers, or all that hangs on its own
    wire."""
    outputs = case.places_of(pack, lambda r: r.name == "pack_plus")
    hanging = 0.0
    for output in outputs:
        others = (
            place
            for place in case.net_of(output.id)
            if place.part.id != pack.id and place.role.wants
        )
        hanging += sum(drawn_a(case, place) for place in others)
    # Whichever is more: a controller behind a module hangs on no wire of the pack, a converter
    # counts in no limit of a controller.
    return max(demand_on_a(case, pack), hanging)


@rule(
    "W052",
    "fault",
    "The {fuse_a} fuse of the {pack} carries {current_a}, more than 80 % of its rating.",
    "It will blow on a long hill: a larger one if the wire is rated for it, or a lower limit.",
)
def fuse_too_small(case: Analysis, found: Found) -> Iterator[Finding]:
    """Main fuse against the current it carries for long."""
    for pack in packs(case.bike):
        load, fuse_a = pack_load_a(case, pack), main_fuse_a(case, pack)
        if fuse_a and load > fuse_long_a(fuse_a) * ROUNDING:
            yield found((pack.id,), pack=pack.name, fuse_a=amps(fuse_a), current_a=f"{load:.3g} A")


@rule(
    "W053",
    "danger",
    "The fuse of the {pack} is made for {fuse_v} DC, the full pack gives {full_v}.",
    "It may not break the arc: a fuse with a DC rating at or above the full pack, at the pack. "
    "Never a 32 V blade.",
)
def fuse_volts(case: Analysis, found: Found) -> Iterator[Finding]:
    """Main fuse against the volts it has to break."""
    for pack in packs(case.bike):
        full = top_v(case, pack)
        fused = [(pack.name, pack.spec.fuse_a, pack.spec.fuse_v)]
        for part in holders(case, pack):
            fused.append((part.name, part.spec.fuse_a, part.spec.fuse_v))
        for name, fuse_a, fuse_v in fused:
            if fuse_a and 0 < fuse_v * ROUNDING < full:
                yield found((pack.id, name), pack=name, fuse_v=volts(fuse_v), full_v=volts(full))


@rule(
    "W054",
    "danger",
    "The packs in series give {full_v} when full, the {controller} stands {max_v}.",
    "Do not connect it: a controller for the whole string, or the packs in parallel.",
)
def series_too_high(case: Analysis, found: Found) -> Iterator[Finding]:
    """A string of packs against the controller."""
    if not in_series(case.bike):
        return
    full = highest_v(case.bike)
    for controller in controllers(case.bike):
        if full > controller.spec.max_v:
            yield found(
                (controller.id,),
                full_v=volts(full),
                controller=controller.name,
                max_v=volts(controller.spec.max_v),
            )


@rule(
    "W055",
    "advice",
    "{run}: {has_m} of cable, the way with its slack needs {wanted_m}.",
    "Measure the way; then an extension of {short_m} or a shorter way. Never tight across the "
    "steering, suspension or fold.",
    remedies=(remedies.extension,),
)
def too_short(case: Analysis, found: Found) -> Iterator[Finding]:
    """A cable shorter than its way along the frame."""
    for run in runs_of(case.bike):
        missing_m = run.wanted_m - run.has_m
        if run.verdict == "short" and missing_m > SHORT_M:
            yield found(
                run.ends,
                run=run.title,
                has_m=f"{run.has_m:.2f} m",
                wanted_m=f"{run.wanted_m:.2f} m",
                short_m=f"{missing_m:.2f} m",
            )


@rule(
    "W056",
    "danger",
    "The battery {pole} of the {controller} is disconnected, and its {pin} still reaches a pack: "
    "motor current would flow through that thin wire.",
    (
        "Pack out. Connect the whole battery plug of that controller before any power; the thin "
        "plugs after it."
    ),
    remedies=(remedies.join_free,),
)
def backfed_controller(case: Analysis, found: Found) -> Iterator[Finding]:
    """A controller that is fed through the thin wires it shares with another."""
    for item in backfed(case):
        yield found(
            (item.controller.id, item.pin.id),
            controller=item.controller.name,
            pole="+" if item.pole == "plus" else "−",
            pin=item.pin.pin.words,
        )


RULES = (
    output_overloaded,
    unfused,
    thin_wire,
    near_limit,
    burning_wire,
    contact_near,
    contact_over,
    lead_drop,
    fuse_too_small,
    fuse_volts,
    series_too_high,
    too_short,
    backfed_controller,
)
