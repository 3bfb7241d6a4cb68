"""The points of a bike and their bands: 5 V supply, signal, brake wire, pack, cell group, lamp
output.

Which of them a pin is follows from its role. Limits are common practice where no source is named.
"""

from brightcore.analysis.bike import Analysis, Place, analysis_of
from brightcore.analysis.strings import highest_v, top_v
from brightcore.bands.model import Bands, Hazard
from brightcore.bike.model import Bike, narrowed
from brightcore.errors import UnknownNameError
from brightcore.kinds import REGISTRY
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import packs
from brightcore.physics.cells import Chemistry
from brightcore.physics.heat_limits import HARM_C, ROLL_BACK_C

RAIL, SIGNAL, BRAKE, PACK, CELL, OUTPUT = "rail", "signal", "brake", "pack", "cell", "output"
HEAT = "heat"
POINTS = (RAIL, SIGNAL, BRAKE, PACK, CELL, OUTPUT, HEAT)

METER_V = 1000.0
"""The highest range of a handheld meter, DC (common practice)."""

RAIL_V = (4.7, 5.2)
"""Usual volts of a 5 V supply (common practice)."""

LOGIC_MOST_V = 5.5
"""More than this destroys what is made for 5 V (absolute maximum of common 5 V logic, common
practice)."""

REVERSED_V = -0.5
"""Below this plus and minus have changed places: on the bike, or at the probes."""

PULLED_V, RELEASED_V = 0.5, 3.3
"""A cut-off input is pulled below the one and released above the other (common practice)."""

OVER_CELL_V = 0.03
"""A cell that rests this much above full is overcharged; less is how well it was measured (common
practice)."""

SWAPPED_CELL_V, TWO_CELLS_V = -2.0, 6.0
"""Below the one the probes are the other way round, above the other they span two groups."""

COLDEST_C, HOTTEST_C = -50.0, 300.0
"""What a thermistor input can tell at all."""

OUTPUT_OFF, OUTPUT_MOST = 0.9, 1.25
"""Share of its set volts from which an output is usual, and above which what hangs on it is in
danger."""

OUTPUT_USUAL_MOST = 1.1

ON_A_WIRE = Hazard(
    "too-high",
    "{value} on a wire that is made for {usual}",
    "Switch off, pack out. Higher volts have come onto this wire: disconnect every plug on it "
    "before the pack goes in again, and find where they come from.",
)
REVERSED = Hazard(
    "reversed",
    (
        "{value}, where plus should be: the probes are the other way round, or plus and minus of "
        "this wire are"
    ),
    "Switch off. Look at the probes; if they stand right, pack out, and look at both ends of this "
    "wire before anything is plugged in.",
)
PACK_HIGH = Hazard(
    "pack-high",
    "{value}, more than the full pack has: {usual}",
    "Switch off, charger off, pack out. Overcharged, or another pack than described: it stands "
    "outdoors until its cell groups are read.",
)
CELL_LOW = Hazard(
    "cell-low",
    "{value} of one cell group, under what a cell stands: {usual}",
    "Do not charge it, do not power it. Pack out, outdoors, quarantine.",
)
CELL_HIGH = Hazard(
    "cell-high",
    "{value} of one cell group, overcharged: {usual}",
    "Charger off. Do not power it. Pack out, outdoors, quarantine.",
)


MOTOR_HOT = Hazard(
    "motor-hot",
    "{value} in the motor; it works at {usual}",
    "Switch off and let it cool; hands off, it burns. Then find why: too much current, too slow a "
    "gear, or a brake that drags.",
)


def rail() -> Bands:
    """Return the bands of a 5 V supply."""
    can = (-METER_V, METER_V)
    return Bands(RAIL, "V", (RAIL_V,), (REVERSED_V, LOGIC_MOST_V), can, REVERSED, ON_A_WIRE)


def signal() -> Bands:
    """Return the bands of a signal wire of 5 V logic."""
    usual = ((0.0, RAIL_V[1]),)
    can = (-METER_V, METER_V)
    return Bands(SIGNAL, "V", usual, (REVERSED_V, LOGIC_MOST_V), can, REVERSED, ON_A_WIRE)


def brake() -> Bands:
    """Return the bands of a cut-off input: pulled to ground or released, nothing between."""
    usual = ((0.0, PULLED_V), (RELEASED_V, LOGIC_MOST_V))
    can = (-METER_V, METER_V)
    return Bands(BRAKE, "V", usual, (REVERSED_V, LOGIC_MOST_V), can, REVERSED, ON_A_WIRE)


def made_for(volt: float) -> Bands:
    """Return the bands of an output set to some volts, or of a supply pin made for them."""
    if RAIL_V[0] <= volt <= RAIL_V[1]:
        return rail()
    usual = ((OUTPUT_OFF * volt, OUTPUT_USUAL_MOST * volt),)
    safe = (REVERSED_V, OUTPUT_MOST * volt)
    return Bands(OUTPUT, "V", usual, safe, (-METER_V, METER_V), REVERSED, ON_A_WIRE)


def pack(empty_v: float, full_v: float, series_count: int) -> Bands:
    """Return the bands of a pack, or of a string of packs, at its plug."""
    safe = (REVERSED_V, full_v + series_count * OVER_CELL_V)
    return Bands(PACK, "V", ((empty_v, full_v),), safe, (-METER_V, METER_V), REVERSED, PACK_HIGH)


def cell(cells: Chemistry) -> Bands:
    """Return the bands of one group of cells at rest."""
    usual = ((cells.empty_v, cells.full_v),)
    safe = (cells.dead_v, cells.full_v + OVER_CELL_V)
    return Bands(CELL, "V", usual, safe, (SWAPPED_CELL_V, TWO_CELLS_V), CELL_LOW, CELL_HIGH)


def heat() -> Bands:
    """Return the bands of a motor's temperature, °C."""
    safe, can = (COLDEST_C, HARM_C), (COLDEST_C, HOTTEST_C)
    return Bands(HEAT, "°C", ((-20.0, ROLL_BACK_C),), safe, can, None, MOTOR_HOT)


def bands_of(bike: Bike, point: str, part_id: str = "") -> Bands | None:
    """Return the bands of a kind of point on a bike, at a part where it depends on one.

    None where the bike has no such point; raises UnknownNameError for a point that is not known.
    """
    if point == RAIL:
        return rail()
    if point == SIGNAL:
        return signal()
    if point == BRAKE:
        return brake()
    if point == HEAT:
        return heat()
    if point in (PACK, CELL):
        return _of_pack(bike, point, part_id)
    if point == OUTPUT:
        part = bike.part(part_id)
        volt = REGISTRY[part.kind].made_for_v(part.spec)
        if volt:
            return made_for(volt)
        return None
    raise UnknownNameError("point", point, POINTS)


def _of_pack(bike: Bike, point: str, part_id: str) -> Bands | None:
    own = [one for one in packs(bike) if not part_id or one.id == part_id]
    if not own:
        return None
    spec = own[0].spec
    if point == CELL:
        return cell(spec.cells)
    return pack(spec.empty_v(), spec.full_v(), spec.series_count)


def bands_at(bike: Bike, red: str, black: str) -> Bands | None:
    """Return the bands of the volts from one pin to another, None where nothing is known of them.

    Known are readings against ground; what a pin is follows from its own role, and a plain wire
    from the wire it stands on.
    """
    case = analysis_of(bike)
    if red not in case.places or black not in case.places:
        return None
    if not any(place.role.ground_like for place in case.net_of(black)):
        return None
    wanted = case.places[red]
    known = wanted if wanted.role.level != "any" else _told(case, red)
    if known is not None:
        return _at(case, known)
    return None


def _told(case: Analysis, pin: str) -> Place | None:
    """Return the place on a wire that says what the wire carries."""
    return case.net_of(pin).first(lambda place: place.role.level not in ("any", "ground"))


def _at(case: Analysis, place: Place) -> Bands | None:
    role = place.role
    if role.use == "cut_off":
        return brake()
    if role.name == "supply_5v":
        return rail()
    if role.level == "5v":
        return signal()
    if role.level == "pack":
        return _string(case, place)
    if role.level == "set":
        return _fed(place)
    if role.level == "own" and role.wants:
        return _supplied(case, place)
    return None


def _fed(place: Place) -> Bands | None:
    """Return the bands of an output, by what its part is set to give there."""
    for feed in REGISTRY[place.part.kind].feeds(place.part):
        if feed.role == place.pin.role:
            return made_for(feed.volt)
    return None


def _supplied(case: Analysis, place: Place) -> Bands | None:
    """Return the bands of a supply pin: those of what feeds it, else by what its part is made
    for."""
    giver = case.net_of(place.id).first(
        lambda other: other.role.gives and other.role.level != "own"
    )
    if giver is not None:
        return _at(case, giver)
    volt = REGISTRY[place.part.kind].made_for_v(place.part.spec)
    if volt:
        return made_for(volt)
    return None


def _string(case: Analysis, place: Place) -> Bands | None:
    """Return the bands of pack volts: a pack's own plug has its string below it, all else the
    highest."""
    bike = case.bike
    own = narrowed(place.part, PackSpec)
    if own is not None and place.pin.role == "pack_plus":
        count = round(top_v(case, own, lambda spec: float(spec.series_count)))
        return pack(top_v(case, own, PackSpec.empty_v), top_v(case, own), count)
    if not packs(bike):
        return None
    count = round(highest_v(bike, lambda spec: float(spec.series_count)))
    return pack(highest_v(bike, PackSpec.empty_v), highest_v(bike), count)
