"""Ways that may put a finding right: each yields changed bikes, the least change first. Rules name
the ways they have.

Where practitioners differ (another part, or something in between) both are offered. `wiring.fixes`
tries them.
"""

from collections.abc import Callable, Iterator

from brightcore.analysis.bike import analysis_of
from brightcore.analysis.rule import Fix, Remedy, Shelf
from brightcore.analysis.strings import highest_v
from brightcore.bike.mating import propose_pairs
from brightcore.bike.model import Bike, Join, Part, narrowed
from brightcore.describing.edit import add_part
from brightcore.describing.join_edits import extend, remove_join, set_pairs
from brightcore.describing.join_words import join_words
from brightcore.describing.swap import swap_part
from brightcore.errors import BrightError
from brightcore.findings import Finding
from brightcore.kinds import REGISTRY
from brightcore.kinds.modules import CombinerSpec, ConverterSpec
from brightcore.kinds.pedal_sensor import PedalSpec
from brightcore.kinds.select import controllers
from brightcore.kinds.switches import GearSensor
from brightcore.kinds.throttle import ThrottleSpec
from brightcore.wiring.cut_list import CUT_STEP_M, up
from brightcore.wiring.propose import accept, propose_joins
from brightcore.wiring.routes import runs_of

ADAPTER_M = 0.1
STEP_RATIO = 0.2
"""Volts of a converter may differ by this much from what is wanted."""

COMBINER_RATIO = 1.8
"""A combining module carries this much more than the controller draws (22 A wants 40 A, common
practice)."""


def _joins(bike: Bike, finding: Finding) -> tuple[Join, ...]:
    """Return the joins a finding is about: its own, those of its pins and all on the same wire, or
    those of its parts."""
    joins = {join.id for join in bike.joins}
    pins = {name for name in finding.subjects if name.count(".") == 2}
    if pins:
        ports = {name.rpartition(".")[0] for name in pins} | _ports_on_wires_of(bike, pins)
        found = []
        for j in bike.joins:
            if j.id in finding.subjects or ports & {".".join(s) for s in j.sides()}:
                found.append(j)
        return tuple(found)
    parts = set(finding.subjects) - joins
    found = []
    for j in bike.joins:
        if j.id in finding.subjects or parts & {part for part, _ in j.sides()}:
            found.append(j)
    return tuple(found)


def _ports_on_wires_of(bike: Bike, pins: set[str]) -> set[str]:
    """Return the plugs (`part.port`) on every wire that has one of the pins."""
    found = set()
    for wire in analysis_of(bike).wires:
        names = {place.id for place in wire}
        if pins & names:
            found |= {name.rpartition(".")[0] for name in names}
    return found


def repin(bike: Bike, finding: Finding, _: Shelf) -> Iterator[Fix]:
    """Bring every pin to what carries the same."""
    made, changed = bike, []
    for join in _joins(bike, finding):
        (a, p), (b, q) = join.sides()
        try:
            pairs = propose_pairs(bike.part(a).port(p), bike.part(b).port(q))
        except BrightError:
            continue
        if dict(pairs) != dict(join.pairs):
            made = set_pairs(made, join.id, pairs)
            changed.append(join_words(bike, join))
    if changed:
        yield Fix(f"Re-pin by what each pin carries: {'; '.join(changed)}", made)


def part_wire(*roles: str) -> Remedy:
    """Return a way that leaves one wire of a join apart: one that joins two pins of the roles, or
    reaches the finding's pins."""

    def parted(bike: Bike, finding: Finding, _: Shelf) -> Iterator[Fix]:
        pins = set(finding.subjects)
        for wire in analysis_of(bike).wires:
            here = {place.id for place in wire}
            tied = sum(place.pin.role in roles for place in wire) > 1
            if tied or pins & here:
                yield from _without_each(bike, here)

    return parted


def _without_each(bike: Bike, pins: set[str]) -> Iterator[Fix]:
    """Yield the bike with each contact between two of the pins left apart in turn, the newest join
    first."""
    for join in reversed(bike.joins):
        (a, p), (b, q) = join.sides()
        words = join_words(bike, join)
        for pair in join.pairs:
            if not {f"{a}.{p}.{pair[0]}", f"{b}.{q}.{pair[1]}"} <= pins:
                continue
            # The last wire of a plug is the plug: leaving it apart is disconnecting it.
            if len(join.pairs) == 1:
                yield Fix(f"Disconnect: {words}", remove_join(bike, join.id))
                continue
            pin = bike.part(a).port(p).pin(pair[0])
            rest = tuple(other for other in join.pairs if other != pair)
            yield Fix(
                f"Leave {pin.words} apart, insulated: {words}", set_pairs(bike, join.id, rest)
            )


def join_free(bike: Bike, finding: Finding, _: Shelf) -> Iterator[Fix]:
    """Join what is on the bike and free."""
    chosen = propose_joins(bike)
    for one in chosen:
        yield Fix(f"Connect: {one.words}", accept(bike, (one,)))
    if len(chosen) > 1:
        yield Fix(f"Join: {'; '.join(p.words for p in chosen)}", accept(bike, chosen))


def join_anew(bike: Bike, finding: Finding, _: Shelf) -> Iterator[Fix]:
    """Take a plug off and join it where it belongs."""
    for join in reversed(_joins(bike, finding)):
        apart = remove_join(bike, join.id)
        ends = {".".join(side) for side in join.sides()}
        chosen = tuple(p for p in propose_joins(apart) if ends & {p.one, p.two})
        if chosen:
            yield Fix(f"Connect again: {'; '.join(p.words for p in chosen)}", accept(apart, chosen))


def adapter(bike: Bike, finding: Finding, _: Shelf) -> Iterator[Fix]:
    """Put an adapter between two plugs that do not mate."""
    for join in _joins(bike, finding):
        yield Fix(
            f"An adapter in {join_words(bike, join)}", extend(bike, join.id, ADAPTER_M, "Adapter")
        )


def extension(bike: Bike, finding: Finding, _: Shelf) -> Iterator[Fix]:
    """Put an extension into a cable that is too short."""
    for run in runs_of(bike):
        if run.verdict == "short" and run.ends == finding.subjects:
            length = up(max(run.wanted_m - run.has_m, CUT_STEP_M))
            yield Fix(
                f"An extension of {length:g} m in {join_words(bike, bike.join(run.joins[0]))}",
                extend(bike, run.joins[0], length),
            )


def _fit(bike: Bike, part: Part) -> Bike | None:
    """Return the bike with a part fitted and joined as proposed, None where it finds no partner."""
    made = add_part(bike, part.kind, part.name, part.spec, part.ports)
    new = made.parts[-1].id
    rows = []
    for p in propose_joins(made):
        if new in (p.one.partition(".")[0], p.two.partition(".")[0]):
            rows.append(p)
    chosen = tuple(rows)
    if chosen:
        return accept(made, chosen)
    return None


def converter(bike: Bike, finding: Finding, shelf: Shelf) -> Iterator[Fix]:
    """Feed a part through a step-down converter."""
    full_v = highest_v(bike)
    for fed in (bike.part(name) for name in finding.subjects):
        wanted_v = REGISTRY[fed.kind].made_for_v(fed.spec)
        apart = bike
        for join in bike.joins_of(fed.id):
            apart = remove_join(apart, join.id)
        for part in shelf:
            spec = part.spec
            if not isinstance(spec, ConverterSpec) or spec.max_in_v < full_v:
                continue
            if abs(spec.out_v - wanted_v) <= STEP_RATIO * wanted_v:
                made = _fit(apart, part)
            else:
                made = None
            if made:
                yield Fix(f"{part.name} before the {fed.name}", made)


def _fitting(wanted: Callable[[Part], bool]) -> Remedy:
    """Return a way that fits a part of the shelf that is as wanted."""

    def fit(bike: Bike, _: Finding, shelf: Shelf) -> Iterator[Fix]:
        for part in (p for p in shelf if wanted(p)):
            made = _fit(bike, part)
            if made:
                yield Fix(f"Fit: {part.name}", made)

    return fit


fit_cut_off = _fitting(lambda part: REGISTRY[part.kind].cuts == "brake")
fit_demand = _fitting(lambda part: isinstance(part.spec, (ThrottleSpec, PedalSpec)))
fit_gear_sensor = _fitting(lambda part: part.kind == GearSensor.name)


def combiner(bike: Bike, finding: Finding, shelf: Shelf) -> Iterator[Fix]:
    """Put a combining module between two packs."""
    wanted_a = COMBINER_RATIO * max(c.spec.battery_limit_a for c in controllers(bike))
    apart = bike
    for join in bike.joins:
        if {part for part, _ in join.sides()} & set(finding.subjects):
            apart = remove_join(apart, join.id)
    modules = []
    for part in shelf:
        if (p := narrowed(part, CombinerSpec)) is not None:
            modules.append(p)
    for module in sorted(modules, key=lambda p: abs(p.spec.rated_a - wanted_a)):
        made = _fit(apart, module)
        if made:
            yield Fix(f"Fit: {module.name}", made)


def swap(bike: Bike, finding: Finding, shelf: Shelf) -> Iterator[Fix]:
    """Swap a part the finding is about for one of the shelf: the least rating that does, with every
    plug kept."""
    parts = {part.id for part in bike.parts}
    for old in (bike.part(name) for name in finding.subjects if name in parts):
        # A pack is not swapped to put a finding right: what it costs and what it may carry is the
        # customer's to say.
        if REGISTRY[old.kind].grounds:
            continue
        alike = [part for part in shelf if part.kind == old.kind and _stands(bike, part)]
        for part in sorted(alike, key=lambda p: _unlike(old, p)):
            made = swap_part(bike, old.id, part.kind, part.name, part.spec, part.ports)
            # A part that leaves plugs over, or is rated twice or half as high, cures one finding
            # with another.
            if not made.lost and _unlike(old, part)[0] < 1.0:
                yield Fix(f"Swap: {old.name} for {part.name}", made.bike)


def _stands(bike: Bike, new: Part) -> bool:
    """Return whether a part stands the volts of the full packs, as far as it says what it
    stands."""
    most = REGISTRY[new.kind].most_v(new.spec)
    return not most or most >= highest_v(bike)


def _unlike(old: Part, new: Part) -> tuple[float, float]:
    """Return how far a part's current is from another's, as a ratio, then the highest volts it is
    rated for."""
    own, other = (REGISTRY[p.kind].rated_a(p.spec) for p in (old, new))
    return (abs(other - own) / own if own else 0.0), REGISTRY[new.kind].most_v(new.spec)
