"""Rules on what was found at a part: cells outside their window, no fuse, values that no such part
has."""

from collections.abc import Iterator

from brightcore.analysis.bike import Analysis
from brightcore.analysis.loads import output_load_a, through_a
from brightcore.analysis.rule import Found, amps, rule, volts
from brightcore.analysis.strings import strings
from brightcore.bands.points import OVER_CELL_V
from brightcore.bike.model import Part, narrowed
from brightcore.bike.roles import mate
from brightcore.describing.specs import shown_unit
from brightcore.findings import Finding
from brightcore.kinds import REGISTRY
from brightcore.kinds.base import spec_fields
from brightcore.kinds.brake_lamp import BrakeLampSpec
from brightcore.kinds.charging import AlarmSpec, ChargerSpec, watched
from brightcore.kinds.inline import KeySwitchSpec, LightSwitchSpec
from brightcore.kinds.lamp import LampSpec
from brightcore.kinds.modules import ConverterSpec
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import packs
from brightcore.units import format_quantity
from brightcore.wiring.fuses import main_fuse_a
from brightcore.wiring.rules.ratings import suits
from brightcore.wiring.sources import full_pack_v


def _resting(cell_v: float) -> str:
    return f"{cell_v:.2f} V"


@rule(
    "W064",
    "danger",
    (
        "The cells of the {pack} rest at {cell_v}, below {never_v}: they may short inside when "
        "charged."
    ),
    (
        "Never charge it. Pack out, outdoors, away from what burns; the quarantine box and a "
        "battery recycler."
    ),
)
def dead_cells(case: Analysis, found: Found) -> Iterator[Finding]:
    """Cells found below what may ever be charged again."""
    for pack in packs(case.bike):
        never = pack.spec.cells.dead_v
        if pack.spec.cell_v < never:
            yield found(
                (pack.id,),
                pack=pack.name,
                cell_v=_resting(pack.spec.cell_v),
                never_v=f"{never:g} V a cell",
            )


@rule(
    "W065",
    "fault",
    "The cells of the {pack} rest at {cell_v}, below the {trip_v} at which its BMS trips.",
    "No load on it. Only at 0 to 45 °C and attended: its own charger for a few minutes, then "
    "measure every group. One that does not follow the others: to someone qualified for packs.",
)
def tripped_cells(case: Analysis, found: Found) -> Iterator[Finding]:
    """Cells found below the trip of the board, not yet too low to be charged."""
    for pack in packs(case.bike):
        if pack.spec.cells.dead_v <= pack.spec.cell_v < pack.spec.cells.trip_v:
            yield found(
                (pack.id,),
                pack=pack.name,
                cell_v=_resting(pack.spec.cell_v),
                trip_v=f"{pack.spec.cells.trip_v:g} V",
            )


@rule(
    "W066",
    "danger",
    "The cells of the {pack} rest at {cell_v}, above full at {full_v}: overcharged.",
    "Outdoors, away from what burns, hands off while it is warm; off the charger, which may be "
    "the wrong one. Someone qualified for packs decides what becomes of it.",
)
def overcharged_cells(case: Analysis, found: Found) -> Iterator[Finding]:
    """Cells found above full."""
    for pack in packs(case.bike):
        if pack.spec.cell_v > pack.spec.cells.full_v + OVER_CELL_V:
            yield found(
                (pack.id,),
                pack=pack.name,
                cell_v=_resting(pack.spec.cell_v),
                full_v=f"{pack.spec.cells.full_v:g} V",
            )


def _whole_string(case: Analysis, pack: Part[PackSpec]) -> tuple[Part[PackSpec], ...]:
    """Return the packs of the string that a pack stands in: one fuse protects them all."""
    return next((string for string in strings(case.bike) if pack in string), (pack,))


@rule(
    "W067",
    "fault",
    (
        "The {pack} has no main fuse: a short in its lead is stopped by nothing but its BMS, if "
        "at all."
    ),
    "A fuse in the plus lead, as close to the pack as can be, DC rated for the full pack, below "
    "what the thinnest wire of the lead stands. Until then read the plug for a short before the "
    "pack goes in.",
)
def no_fuse(case: Analysis, found: Found) -> Iterator[Finding]:
    """A pack that was described as having no fuse."""
    for pack in packs(case.bike):
        if not any(main_fuse_a(case, other) for other in _whole_string(case, pack)):
            yield found((pack.id,), pack=pack.name)


@rule(
    "W068",
    "advice",
    "{part}: {what} {value} is outside the usual {low} to {high}.",
    "Measure it again, leads shorted first for small ohms; if it stays, it may be the fault.",
)
def unusual_value(case: Analysis, found: Found) -> Iterator[Finding]:
    """A measured value that is possible, and that such a part usually does not have."""
    for part in case.bike.parts:
        for item in spec_fields(type(part.spec)):
            if item.usual is None:
                continue
            value, (low, high) = float(getattr(part.spec, item.name)), item.usual
            if not low <= value <= high:
                shown = []
                for v in (value, low, high):
                    shown.append(format_quantity(v, shown_unit(item.name)).strip())
                yield found(
                    (part.id, item.name),
                    part=part.name,
                    what=item.doc,
                    value=shown[0],
                    low=shown[1],
                    high=shown[2],
                )


ABOVE_V, BELOW_V = 0.02, 0.1
"""Volts a cell by which a charger may end above full, or below it, before it is told (common
practice)."""

ROUNDING = 1.001
"""Equal figures are not told as over."""

CHARGE_RATE = 0.5
"""Charging current over capacity, 1/h, above which it is told (common practice)."""


def _charged(case: Analysis) -> Iterator[tuple[Part[ChargerSpec], Part[PackSpec]]]:
    """Yield every charger with a pack that it is connected to."""
    for charger in case.bike.having(ChargerSpec):
        for wire in case.wires_of(charger, "charge_out"):
            for part in wire.parts(lambda place: place.pin.role == "charge_in"):
                pack = narrowed(part, PackSpec)
                if pack is not None:
                    yield charger, pack


@rule(
    "W070",
    "danger",
    "The {charger} ends at {out_v}, the {pack} is full at {full_v}: it overcharges.",
    "Off at once. Only the charger made for this pack: its volts, its chemistry, its plug.",
)
def charger_too_high(case: Analysis, found: Found) -> Iterator[Finding]:
    """Volts of a charger above those of the full pack."""
    for charger, pack in _charged(case):
        full = pack.spec.full_v()
        if charger.spec.out_v > full + ABOVE_V * pack.spec.series_count:
            yield found(
                (charger.id, pack.id),
                charger=charger.name,
                pack=pack.name,
                out_v=volts(charger.spec.out_v),
                full_v=volts(full),
            )


@rule(
    "W071",
    "advice",
    (
        "The {charger} gives {out_v} and {out_a}; the {pack} is full at {full_v} and rated for "
        "about {most_a}."
    ),
    "Look at both labels: too few volts never fill or balance it, too many amps warm and age it.",
)
def charger_unsuited(case: Analysis, found: Found) -> Iterator[Finding]:
    """A charger with too few volts, or many amps for the pack."""
    for charger, pack in _charged(case):
        low = charger.spec.out_v < pack.spec.full_v() - BELOW_V * pack.spec.series_count
        most_a = CHARGE_RATE * pack.spec.capacity_ah
        if low or charger.spec.out_a > most_a:
            yield found(
                (charger.id, pack.id),
                charger=charger.name,
                pack=pack.name,
                out_v=volts(charger.spec.out_v),
                out_a=amps(charger.spec.out_a),
                full_v=volts(pack.spec.full_v()),
                most_a=amps(most_a),
            )


@rule(
    "W076",
    "danger",
    "The {charger} is connected to {place}, not to a charge plug: the BMS cannot stop it there.",
    (
        "Off the mains, unplug it. A pack is charged at its own charge plug, through the charge "
        "side of its BMS."
    ),
)
def charged_past_the_board(case: Analysis, found: Found) -> Iterator[Finding]:
    """A charger on a wire of discharge: a pack's main plug, or whatever is fed from it."""
    for charger in case.bike.having(ChargerSpec):
        for wire in case.wires_of(charger, "charge_out"):
            other = wire.first(
                lambda place: place.pin.role not in ("charge_out", "charge_in", "wire")
            )
            if other is not None:
                yield found((charger.id, other.id), charger=charger.name, place=other.words)


def _free(case: Analysis, part: Part) -> bool:
    return part.id not in case.connected


@rule(
    "W087",
    "danger",
    "The {charger} ends at {out_v}; no pack of this bike is charged with that: {packs}.",
    "Out of the shop's reach with it, or to another bike: only the charger made for the pack.",
)
def foreign_charger(case: Analysis, found: Found) -> Iterator[Finding]:
    """A charger that lies beside the bike, connected to nothing, and suits none of its packs."""
    known = packs(case.bike)
    for charger in case.bike.having(ChargerSpec):
        if not known or not _free(case, charger):
            continue
        if not any(_is_charged_by(pack, charger) for pack in known):
            full = ", ".join(f"{pack.name} {volts(pack.spec.full_v())}" for pack in known)
            out_v = volts(charger.spec.out_v)
            yield found((charger.id,), charger=charger.name, out_v=out_v, packs=full)


def _is_charged_by(pack: Part[PackSpec], charger: Part[ChargerSpec]) -> bool:
    """Return whether a charger ends where a pack is full."""
    full, count = pack.spec.full_v(), pack.spec.series_count
    return full - BELOW_V * count <= charger.spec.out_v <= full + ABOVE_V * count


@rule(
    "W088",
    "danger",
    "The {converter} takes up to {max_v}, the packs of this bike have {full_v} when full.",
    "Do not connect it: a converter for the full pack.",
)
def foreign_converter(case: Analysis, found: Found) -> Iterator[Finding]:
    """A converter that lies beside the bike and does not stand its packs."""
    full = full_pack_v(case.bike)
    for converter in case.bike.having(ConverterSpec):
        if _free(case, converter) and full > converter.spec.max_in_v:
            most = volts(converter.spec.max_in_v)
            yield found((converter.id,), converter=converter.name, max_v=most, full_v=volts(full))


@rule(
    "W089",
    "advice",
    "Nothing on this bike gives the {rated_v} that the {lamp} is made for.",
    "A lamp for what there is, or a converter between.",
)
def foreign_lamp(case: Analysis, found: Found) -> Iterator[Finding]:
    """A lamp that lies beside the bike and finds no volts it is made for."""
    feeds = (feed for part in case.bike.parts for feed in REGISTRY[part.kind].feeds(part))
    given = []
    for feed in feeds:
        if mate(feed.role, "lamp_plus") or feed.role == "pack_plus":
            given.append(feed.volt)
    for lamp in (*case.bike.having(LampSpec), *case.bike.having(BrakeLampSpec)):
        rated = REGISTRY[lamp.kind].made_for_v(lamp.spec)
        if not rated or not _free(case, lamp) or any(suits(volt, rated) for volt in given):
            continue
        yield found((lamp.id,), lamp=lamp.name, rated_v=volts(rated))


@rule(
    "W077",
    "fault",
    "The contact of the {part} carries {carries_a}, it is made for {rated_a}.",
    "A switch for that current, DC; or let it switch only the key line or a relay.",
)
def contact_overloaded(case: Analysis, found: Found) -> Iterator[Finding]:
    """The contact of a key or light switch against what flows through it."""
    loads: list[tuple[Part, float, float]] = [
        (part, part.spec.rated_a, output_load_a(case, part, "key_out"))
        for part in case.bike.having(KeySwitchSpec)
    ]
    for switch in case.bike.having(LightSwitchSpec):
        one, two = (f"{switch.id}.{port.id}.plus" for port in switch.ports[:2])
        loads.append((switch, switch.spec.rated_a, through_a(case, one, two)))
    for part, rated, load in loads:
        if load > rated * ROUNDING:
            yield found((part.id,), part=part.name, carries_a=f"{load:.2g} A", rated_a=amps(rated))


def _alarms(case: Analysis, pack: Part[PackSpec]) -> list[Part[AlarmSpec]]:
    """Return the alarms on a pack's balance lead."""
    nets = [case.net_of(pin) for pin in watched(pack)]
    parts = [part for net in nets for part in net.parts(lambda place: place.part.id != pack.id)]
    found: list[Part[AlarmSpec]] = []
    for alarm in (narrowed(part, AlarmSpec) for part in parts):
        if alarm is not None:
            found.append(alarm)
    return found


@rule(
    "W072",
    "fault",
    "The {pack} has no BMS of its own and no low-cell alarm on its balance lead.",
    (
        "An alarm on each such pack, set to 3.1 to 3.2 V a cell; stop when it sounds, and at 3.5 "
        "V resting."
    ),
)
def no_alarm(case: Analysis, found: Found) -> Iterator[Finding]:
    """A soft pouch pack that nothing watches."""
    for pack in packs(case.bike):
        if pack.spec.chemistry == "pouch" and not _alarms(case, pack):
            yield found((pack.id,), pack=pack.name)


@rule(
    "W073",
    "fault",
    "The {alarm} watches {cells} cells, the {pack} has {count}.",
    "One that watches every cell: the ones it does not see go flat first.",
)
def alarm_counts(case: Analysis, found: Found) -> Iterator[Finding]:
    """An alarm for another number of cells."""
    for pack in packs(case.bike):
        for alarm in _alarms(case, pack):
            if alarm.spec.cell_count != pack.spec.series_count:
                yield found(
                    (alarm.id, pack.id),
                    alarm=alarm.name,
                    pack=pack.name,
                    cells=str(alarm.spec.cell_count),
                    count=str(pack.spec.series_count),
                )


RULES = (
    foreign_charger,
    foreign_converter,
    foreign_lamp,
    charger_too_high,
    charger_unsuited,
    no_alarm,
    alarm_counts,
    charged_past_the_board,
    contact_overloaded,
    dead_cells,
    tripped_cells,
    overcharged_cells,
    no_fuse,
    unusual_value,
)
