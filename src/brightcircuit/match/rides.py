"""What the Match page shows of riding: variants side by side, charts, ranges."""

from dataclasses import dataclass, replace

from brightcircuit.library.models import LibraryPart
from brightcircuit.library.translate import core_entry
from brightcircuit.match.plan import Exchanged, Plan
from brightcore.bike.model import Bike
from brightcore.describing.edit import add_part, change_part
from brightcore.describing.swap import swap_part
from brightcore.drawing.charts import Line, key_svg, line_chart
from brightcore.errors import BrightError, RangeError
from brightcore.findings import render
from brightcore.formats.part_file import PartEntry
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import at_place, is_pedalled, mid_motors, packs
from brightcore.matching.drive import (
    DRAG_AREA_M2,
    TYRES,
    Drive,
    arrangement,
    drive_of,
    envelope,
)
from brightcore.matching.heat import Heating, climb_heat, stall_heat
from brightcore.matching.packs import charge_hours
from brightcore.matching.ranges import FLOOR_WH_PER_KM, ROUTES, at_cruise, range_three_ways
from brightcore.matching.riding import (
    STEEPEST_RATIO,
    Road,
    accelerate,
    best_gear,
    most_chain_n,
    motor_rpm,
    rider_force_n,
    road_force_n,
    steepest_grade_ratio,
    steepest_start_ratio,
    top_speed_kmh,
)
from brightcore.matching.rules import match_findings, unlike
from brightcore.physics.heat_limits import ROLL_BACK_C
from brightcore.physics.machine import hub_free_kmh
from brightcore.wiring.rules import check_ratings

SPRINT_KMH = 20.0
VARIED = {"pack": "energy", "controller": "controller", "motor": "motor"}
"""What a variant exchanges, by where it stands on the Line."""


@dataclass(frozen=True)
class Variant:
    """One column of the comparison: the drive, or why there is none."""

    name: str
    drive: Drive | None
    problem: str = ""
    fails: tuple[str, ...] = ()


def shaped(drive: Drive, plan: Plan, bike: Bike) -> Drive:
    """Return a drive with rider, wind shape, tyres and gear of a plan; no rider's watts without
    pedals."""
    return replace(
        drive,
        mass_kg=bike.info.bike_mass_kg + plan.load_mass_kg,
        rider_w=plan.rider_w if is_pedalled(bike) else 0.0,
        drag_area_m2=DRAG_AREA_M2[plan.body],
        rolling_ratio=TYRES[plan.tyre],
        kept_sprocket=plan.sprocket if plan.sprocket in drive.sprocket_teeth else 0,
    )


def road_of(plan: Plan, grade_ratio: float = 0.0) -> Road:
    """Return the road of a plan, on the flat by default."""
    return Road(grade_ratio, plan.wind_kmh, temperature_c=plan.air_c)


def variants_of(bike: Bike, plan: Plan) -> list[Variant]:
    """Return the bike as it is and every variant of a plan, each judged by the same rules."""
    found = []
    for wanted in ({"name": "as it is"}, *plan.variants):
        try:
            made = varied(bike, wanted)
            drive = shaped(drive_of(made, wanted["name"]), plan, made)
            found.append(
                Variant(wanted["name"], _with_second(drive, bike, made), "", fails_of(made))
            )
        except BrightError as error:
            found.append(Variant(wanted["name"], None, str(error)))
    return found


def fails_of(bike: Bike) -> tuple[str, ...]:
    """Return what fails on a bike, in words: faults and dangers of matching, ratings and wires."""
    found = (*match_findings(bike), *check_ratings(bike))
    return tuple(dict.fromkeys(f"{f.code} {render(f)}" for f in found if f.severity != "advice"))


def varied(bike: Bike, wanted: Exchanged) -> Bike:
    """Return a bike with what a variant exchanges. A second pack stands beside the first, not yet
    connected.

    Raises BrightError for parts that are not in the library any more, or do not go together.
    """
    entries = {k: _entry(wanted[k]) for k in (*VARIED, "second_pack") if k in wanted}
    for key, place in VARIED.items():
        if key in entries:
            entry = entries[key]
            for part in at_place(bike, place):
                bike = swap_part(
                    bike, part.id, entry.kind, entry.name, entry.spec, entry.ports
                ).bike
    if "wheel_seat" in wanted:
        bike = replace(bike, info=replace(bike.info, bead_seat_mm=float(wanted["wheel_seat"])))
    for motor in mid_motors(bike) if "chain_ring" in wanted else ():
        spec = replace(motor.spec, chain_ring_teeth=wanted["chain_ring"])
        bike = change_part(bike, motor.id, motor.name, spec)
    if "second_pack" in entries:
        entry = entries["second_pack"]
        if not isinstance(entry.spec, PackSpec):
            raise BrightError("the second pack is no pack")
        why = unlike(packs(bike)[0].spec, entry.spec, "parallel")
        if why:
            raise BrightError(
                f"the second pack is not alike ({', '.join(why)}): in parallel that is a danger; "
                "it needs a combining module made for unlike packs, or a switch between them"
            )
        bike = add_part(bike, entry.kind, entry.name, entry.spec, entry.ports)
    return bike


def _entry(slug: str) -> PartEntry:
    row = LibraryPart.objects.filter(slug=slug).first()
    if row is None:
        raise BrightError(f"{slug} is not in the library any more")
    return core_entry(row)


def _with_second(drive: Drive, bike: Bike, made: Bike) -> Drive:
    """Return a drive with the resistance of a pack that a variant puts beside the others.

    Behind a combining module one pack carries at a time, and another one changes nothing.
    """
    added = packs(made)[len(packs(bike)) :]
    if arrangement(made) == "combiner":
        return drive
    ohm = 1 / (1 / drive.pack_ohm + sum(1 / pack.spec.internal_ohm for pack in added))
    return replace(drive, pack_ohm=ohm)


@dataclass(frozen=True, slots=True)
class TableRow:
    """One line of the table."""

    title: str
    cells: list[str]


Row = tuple[str, str]
"""A line of the table: its title, and what it says of one variant."""


@dataclass(frozen=True, slots=True)
class Column:
    """What one variant says: its name, what stands in the way, what fails, and its rows."""

    name: str
    problem: str
    fails: tuple[str, ...]
    rows: list[Row]


@dataclass(frozen=True, slots=True)
class RideCard:
    """Variants side by side, and the three charts."""

    columns: list[Column]
    table: list[TableRow]
    charts: list[dict[str, str]]


def ride_card(variants: list[Variant], plan: Plan) -> RideCard:
    """Return the table of variants side by side, and the three charts."""
    hill = road_of(plan, plan.hill_percent / 100)
    columns, heats = [], []
    for v in variants:
        column, heat = _column(v, plan, hill)
        columns.append(column)
        heats.append(heat)
    lookup = [dict(column.rows) for column in columns]
    titles: dict[str, None] = {}
    for cells in lookup:
        titles |= dict.fromkeys(cells)
    # A variant may lack a row that another has: its place then says so, and the columns stay in
    # line.
    table = []
    for title in titles:
        table.append(
            TableRow(
                title=title,
                cells=[cells.get(title, "—") for cells in lookup],
            )
        )
    return RideCard(
        columns=columns,
        table=table,
        charts=charts(variants, heats, plan),
    )


def _column(v: Variant, plan: Plan, hill: Road) -> tuple[Column, Heating | None]:
    if v.drive is None:
        return Column(v.name, v.problem, (), []), None
    drive = v.drive
    heat, heat_rows = _climb(drive, plan, hill)
    rows = [("Fails", f"{len(v.fails)}, told below" if v.fails else "nothing")]
    rows += _speed_rows(drive, plan, hill)
    rows += heat_rows
    if drive.is_mid:
        rows += _gear_rows(drive, plan, hill)
    else:
        free = hub_free_kmh(drive.rpm_per_v, drive.pack_v, drive.circumference_m)
        rows.append(("No-load speed", f"{free:.0f} km/h"))
    rows += _range_rows(drive, plan)
    return Column(
        name=v.name,
        problem="",
        fails=v.fails,
        rows=rows,
    ), heat


def _speed_rows(drive: Drive, plan: Plan, hill: Road) -> list[Row]:
    top, on_hill = top_speed_kmh(drive, road_of(plan)), top_speed_kmh(drive, hill)
    sprint = accelerate(drive, SPRINT_KMH)
    if drive.limit_kmh:
        limit = f", ends at {drive.limit_kmh:.3g} km/h"
    else:
        limit = ""
    took = f"{sprint.seconds:.1f} s, {sprint.metres:.0f} m"
    return [
        ("Top speed, flat", f"{top:.0f} km/h{limit}"),
        (f"On {plan.hill_percent:g} %", f"{on_hill:.0f} km/h" if on_hill else "cannot climb it"),
        ("Starts on a hill of up to", _grade_words(steepest_start_ratio(drive))),
        ("Climbs at 10 km/h up to", _grade_words(steepest_grade_ratio(drive, 10.0))),
        (f"To {SPRINT_KMH:g} km/h", took if sprint.reached else "does not reach it"),
    ]


def _grade_words(ratio: float) -> str:
    """Return a grade in words; where it is the most that is asked, that it may be more."""
    more = " or more" if ratio >= STEEPEST_RATIO else ""
    return f"{100 * ratio:.0f} %{more}"


def _climb(drive: Drive, plan: Plan, hill: Road) -> tuple[Heating | None, list[Row]]:
    """Return the heating on the hill, None where it is not climbed so, and what it says."""
    wanted = plan.hill_kmh or None
    held = top_speed_kmh(drive, hill)
    if held <= 0:
        return None, [("Winding on the hill", f"stands: {_stall_words(drive, plan)}")]
    if wanted is not None and wanted > held:
        return None, [("Winding on the hill", f"it holds at most {held:.0f} km/h there")]
    heat = climb_heat(drive, hill, plan.hill_min, wanted)
    limit = heat.controller_limit_min
    if limit is None:
        control = f"{heat.controller_c[-1]:.0f} °C"
    else:
        control = f"too hot after {limit:.0f} min"
    return heat, [
        ("Winding on the hill", f"{_heat_words(heat, plan)}, at {heat.speed_kmh:.0f} km/h"),
        ("Controller on the hill", control),
        ("If it stands at full throttle", _stall_words(drive, plan)),
    ]


def _heat_words(heat: Heating, plan: Plan) -> str:
    if heat.roll_back_min is None:
        return f"{heat.winding_c[-1]:.0f} °C after {plan.hill_min:g} min"
    if heat.stop_min is None:
        return f"power reduced after {heat.roll_back_min:.0f} min"
    return (
        f"power reduced after {heat.roll_back_min:.0f} min, too hot after {heat.stop_min:.0f} min"
    )


def _stall_words(drive: Drive, plan: Plan) -> str:
    """Return how long a motor that does not turn may be held at full throttle."""
    stall = stall_heat(drive, plan.air_c)
    return (
        f"{stall.phase_a:.0f} A heat the winding to {ROLL_BACK_C:.0f} °C in about "
        f"{stall.roll_back_s:.0f} s, and harm it after {stall.harm_s:.0f} s: let go at once"
    )


def _gear_rows(drive: Drive, plan: Plan, hill: Road) -> list[Row]:
    speed = plan.hill_kmh or max(top_speed_kmh(drive, hill), 5.0)
    geared = best_gear(drive, speed)
    if drive.kept_sprocket:
        chosen = "as asked"
    else:
        chosen = "the strongest there"
    return [
        ("Sprocket on the hill", f"{geared.sprocket} teeth, {chosen}"),
        ("Motor turns there", f"{motor_rpm(geared, speed):.0f} /min"),
        ("Chain pull of the motor at most", f"{most_chain_n(drive):.0f} N, the rider’s on top"),
        ("Winding by sprocket", _heat_by_gear(drive, plan, hill)),
    ]


def _heat_by_gear(drive: Drive, plan: Plan, hill: Road) -> str:
    """Return how hot the winding gets in every sprocket: a motor that spins fast stays cooler."""
    told = []
    for sprocket in drive.sprocket_teeth:
        kept = replace(drive, kept_sprocket=sprocket)
        held = top_speed_kmh(kept, hill)
        wanted = plan.hill_kmh or held
        if held <= 0:
            told.append(f"{sprocket} T does not climb it")
        elif wanted > held:
            told.append(f"{sprocket} T holds at most {held:.0f} km/h")
        else:
            heat = climb_heat(kept, hill, plan.hill_min, wanted)
            told.append(f"{sprocket} T {_heat_words(heat, plan)} at {heat.speed_kmh:.0f} km/h")
    return "; ".join(told)


def _range_rows(d: Drive, plan: Plan) -> list[tuple[str, str]]:
    route = at_cruise(ROUTES[plan.route], plan.cruise_kmh)
    try:
        r = range_three_ways(d, route, plan.wind_kmh, plan.used_km, plan.used_ah)
    except RangeError as error:
        return [("Range, own log", str(error))]
    riding = f"{plan.route}, {plan.cruise_kmh:g} km/h on the flat"
    rows = [
        ("Energy", f"{d.label_wh:.0f} Wh by the label, {d.energy_wh:.0f} Wh by the cells"),
        ("Range, flat rule", f"{r.flat_rule_km:.0f} km"),
        (f"Range, motor alone: {riding}", _km(r.motor_km, r.motor_wh_per_km)),
    ]
    if d.rider_w:
        words = (
            f"{_km(r.shared_km, r.shared_wh_per_km)}; the rider does {100 * r.rider_ratio:.0f} %"
        )
        rows.append((f"Range, pedalling with {d.rider_w:g} W", words))
    return [
        *rows,
        ("Range, own log", _km(r.own_log_km, r.own_wh_per_km) if r.own_log_km else "no log yet"),
        ("Charge from empty", f"{charge_hours(d.capacity_ah, plan.charger_a):.1f} h"),
    ]


def _km(km: float | None, wh_per_km: float | None) -> str:
    """Return a range in words; below the least that is ever logged it is told as that."""
    if km is None or wh_per_km is None:
        return "cannot climb a stretch of it"
    if wh_per_km < FLOOR_WH_PER_KM:
        return (
            f"{km:.0f} km at {FLOOR_WH_PER_KM:g} Wh/km, the least that is ever logged "
            "(worked out: less)"
        )
    return f"{km:.0f} km at {wh_per_km:.1f} Wh/km"


def charts(
    variants: list[Variant], heats: list[Heating | None], plan: Plan
) -> list[dict[str, str]]:
    """Return power against speed, speed against grade, winding temperature against time."""
    drives = [(v.name, v.drive) for v in variants if v.drive is not None]
    if not drives:
        return []
    first = drives[0][1]
    power = []
    for name, d in drives:
        found = envelope(d)
        keep = found.force_n > 0.5
        power.append(
            Line(
                name,
                list(found.speed_kmh[keep]),
                list(found.force_n[keep] * found.speed_kmh[keep] / 3.6),
            )
        )
    most = max(max(line.y, default=0.0) for line in power)
    speeds = envelope(first).speed_kmh[:121]
    for grade in (0.0, plan.hill_percent / 100):
        need = (
            (road_force_n(first, speeds, road_of(plan, grade)) - rider_force_n(first, speeds))
            * speeds
            / 3.6
        )
        shown = [(s, p) for s, p in zip(speeds, need, strict=True) if 0 <= p <= most * 1.15]
        if shown:
            power.append(
                Line(f"road {100 * grade:g} %", [s for s, _ in shown], [p for _, p in shown], True)
            )
    grades = [g / 100 for g in range(21)]
    roads = [road_of(plan, grade) for grade in grades]
    percents = [100 * grade for grade in grades]
    climbing = []
    for name, d in drives:
        climbing.append(Line(name, percents, [top_speed_kmh(d, road) for road in roads]))
    heat = []
    for v, h in zip(variants, heats, strict=True):
        if h is not None:
            heat.append(Line(v.name, list(h.minutes), list(h.winding_c)))
    out = [
        {
            "title": "Power at the wheel",
            "svg": line_chart(
                "Power at the wheel against speed, with what the road asks for",
                "km/h",
                "W",
                power,
                y_top=most * 1.15,
            ),
        },
        {
            "title": "Speed on a grade",
            "svg": line_chart("Highest speed held against grade", "grade in %", "km/h", climbing),
        },
    ]
    if heat:
        title = f"Winding on {plan.hill_percent:g} %"
        out.append(
            {
                "title": title,
                "svg": line_chart(
                    f"{title}, temperature against time",
                    "minutes",
                    "°C",
                    heat,
                    ((ROLL_BACK_C, "power reduced"),),
                    180.0,
                ),
            }
        )
    return out


def key_of(variants: list[Variant]) -> list[dict[str, str]]:
    """Return the key of the charts."""
    drawn = [variant for variant in variants if variant.drive is not None]
    return [{"name": variant.name, "svg": key_svg(place)} for place, variant in enumerate(drawn)]
