"""What would put a finding right, as a changed bike. Every fix offered has been tried: the finding is gone, and nothing as grave came for it.

Where practitioners differ (another part, or something in between) both are offered. A way to fix is one function and one line in `WAYS`.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import islice

from brightcore.bike.mating import propose_pairs
from brightcore.bike.model import Bike, Join, Part
from brightcore.describing.edit import add_part, extend, join_words, remove_join, set_pairs, swap_part
from brightcore.errors import BrightError
from brightcore.findings import SEVERITIES, Finding
from brightcore.wiring.cut_list import CUT_STEP_M, up
from brightcore.wiring.propose import accept, propose_joins
from brightcore.wiring.routes import runs_of
from brightcore.wiring.rules import check_bike
from brightcore.wiring.rules_nets import wires_of

MOST_TRIED, MOST_OFFERED = 6, 3
ADAPTER_M = 0.1
STEP_RATIO = 0.2
"""Volts of a converter may differ by this much from what is wanted."""


@dataclass(frozen=True, slots=True)
class Fix:
    """A fix in words, and the bike with it."""

    words: str
    bike: Bike


Shelf = Sequence[Part]
"""Parts at hand, such as those of the shop's library."""
Way = Callable[[Bike, Finding, Shelf], Iterator[Fix]]


def fixes_for(bike: Bike, finding: Finding, shelf: Shelf = ()) -> tuple[Fix, ...]:
    """Return what cures a finding, the least change first; empty where nothing tried does."""
    before = {(f.code, f.subjects) for f in check_bike(bike)}
    found: list[Fix] = []
    for way in WAYS.get(finding.code, ()):
        for fix in islice(_made(way(bike, finding, shelf)), MOST_TRIED):
            after = check_bike(fix.bike)
            cured = all((f.code, f.subjects) != (finding.code, finding.subjects) for f in after)
            grave = SEVERITIES[: SEVERITIES.index(finding.severity) + 1]
            worse = [f for f in after if f.severity in grave and (f.code, f.subjects) not in before]
            if cured and not worse:
                found.append(fix)
                break
    return tuple(found[:MOST_OFFERED])


def _made(fixes: Iterator[Fix]) -> Iterator[Fix]:
    """Yield fixes until one cannot be made at all."""
    try:
        yield from fixes
    except BrightError:
        return


def _joins(bike: Bike, finding: Finding) -> tuple[Join, ...]:
    """Return the joins a finding is about: its own, those of its pins and all on the same wire, or those of its parts."""
    ids = {j.id for j in bike.joins}
    pins = {s for s in finding.subjects if s.count(".") == 2}
    ports = {s.rpartition(".")[0] for s in pins} | {
        f"{p.id}.{q.id}" for wire in wires_of(bike) if pins & {f"{p.id}.{q.id}.{x.name}" for p, q, x in wire} for p, q, _ in wire
    }
    parts = set() if pins else set(finding.subjects) - ids
    return tuple(
        j for j in bike.joins if j.id in finding.subjects or ports & {".".join(s) for s in j.sides()} or parts & {p for p, _ in j.sides()}
    )


def _repin(bike: Bike, finding: Finding, _: Shelf) -> Iterator[Fix]:
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


def _part_wire(*roles: str) -> Way:
    """Return a way that leaves one wire of a join apart: one that joins two pins of the roles, or reaches the finding's pins."""

    def part_wire(bike: Bike, finding: Finding, _: Shelf) -> Iterator[Fix]:
        pins = set(finding.subjects)
        for wire in wires_of(bike):
            here = {(p.id, q.id, x.name) for p, q, x in wire}
            if sum(x.role in roles for _, _, x in wire) < 2 and not pins & {".".join(place) for place in here}:
                continue
            for join in reversed(bike.joins):
                words = join_words(bike, join)
                for pair in (x for x in join.pairs if all((*side, pin) in here for side, pin in zip(join.sides(), x, strict=True))):
                    if len(join.pairs) == 1:
                        yield Fix(f"Take apart: {words}", remove_join(bike, join.id))
                    else:
                        pin = bike.part(join.a_part).port(join.a_port).pin(pair[0])
                        yield Fix(
                            f"Leave {pin.words} apart, insulated: {words}",
                            set_pairs(bike, join.id, tuple(x for x in join.pairs if x != pair)),
                        )

    return part_wire


def _join_free(bike: Bike, finding: Finding, _: Shelf) -> Iterator[Fix]:
    """Join what is on the bike and free."""
    chosen = propose_joins(bike)
    for one in chosen:
        yield Fix(f"Join: {one.words}", accept(bike, (one,)))
    if len(chosen) > 1:
        yield Fix(f"Join: {'; '.join(p.words for p in chosen)}", accept(bike, chosen))


def _join_anew(bike: Bike, finding: Finding, _: Shelf) -> Iterator[Fix]:
    """Take a plug off and join it where it belongs."""
    for join in reversed(_joins(bike, finding)):
        apart = remove_join(bike, join.id)
        ends = {".".join(side) for side in join.sides()}
        chosen = tuple(p for p in propose_joins(apart) if ends & {p.one, p.two})
        if chosen:
            yield Fix(f"Join anew: {'; '.join(p.words for p in chosen)}", accept(apart, chosen))


def _adapter(bike: Bike, finding: Finding, _: Shelf) -> Iterator[Fix]:
    """Put an adapter between two plugs that do not mate."""
    for join in _joins(bike, finding):
        yield Fix(f"An adapter in {join_words(bike, join)}", extend(bike, join.id, ADAPTER_M, "Adapter"))


def _extension(bike: Bike, finding: Finding, _: Shelf) -> Iterator[Fix]:
    """Put an extension into a cable that is too short."""
    for run in runs_of(bike):
        if run.verdict == "short" and run.ends == finding.subjects:
            length = up(max(run.wanted_m - run.has_m, CUT_STEP_M))
            yield Fix(f"An extension of {length:g} m in {join_words(bike, bike.join(run.joins[0]))}", extend(bike, run.joins[0], length))


def _fit(bike: Bike, part: Part) -> Bike | None:
    """Return the bike with a part fitted and joined as proposed, None where it finds no partner."""
    made = add_part(bike, part.kind, part.name, part.spec, part.ports)
    new = made.parts[-1].id
    chosen = tuple(p for p in propose_joins(made) if new in (p.one.partition(".")[0], p.two.partition(".")[0]))
    return accept(made, chosen) if chosen else None


def _converter(bike: Bike, finding: Finding, shelf: Shelf) -> Iterator[Fix]:
    """Feed a part through a step-down converter."""
    full = max(p.spec.full_v() for p in bike.of_kind("pack"))
    for lamp in (bike.part(s) for s in finding.subjects):
        apart = bike
        for join in bike.joins_of(lamp.id):
            apart = remove_join(apart, join.id)
        for part in shelf:
            if (
                part.kind == "converter"
                and part.spec.max_in_v >= full
                and abs(part.spec.out_v - lamp.spec.rated_v) <= STEP_RATIO * lamp.spec.rated_v
            ):
                made = _fit(apart, part)
                if made:
                    yield Fix(f"{part.name} before the {lamp.name}", made)


def _missing(*kinds: str) -> Way:
    """Return a way that fits a part of one of the kinds."""

    def fit(bike: Bike, _: Finding, shelf: Shelf) -> Iterator[Fix]:
        for part in (p for kind in kinds for p in shelf if p.kind == kind):
            made = _fit(bike, part)
            if made:
                yield Fix(f"Fit: {part.name}", made)

    return fit


def _combiner(bike: Bike, finding: Finding, shelf: Shelf) -> Iterator[Fix]:
    """Put a combining module between two packs."""
    need = max(c.spec.battery_limit_a for c in bike.of_kind("controller"))
    apart = bike
    for join in bike.joins:
        if {p for p, _ in join.sides()} & set(finding.subjects):
            apart = remove_join(apart, join.id)
    for part in sorted((p for p in shelf if p.kind == "combiner"), key=lambda p: abs(p.spec.rated_a - 1.8 * need)):
        made = _fit(apart, part)
        if made:
            yield Fix(f"Fit: {part.name}", made)


def _swap(bike: Bike, finding: Finding, shelf: Shelf) -> Iterator[Fix]:
    """Swap a part the finding is about for one of the shelf: the least rating that does, with every plug kept."""
    for old in (bike.part(s) for s in finding.subjects if s in {p.id for p in bike.parts}):
        if old.kind == "pack":
            continue
        for part in sorted((p for p in shelf if p.kind == old.kind), key=lambda p: _unlike(old, p)):
            made = swap_part(bike, old.id, part.kind, part.name, part.spec, part.ports)
            if not made.lost and _unlike(old, part)[0] < 1.0:
                yield Fix(f"Swap: {old.name} for {part.name}", made.bike)


def _unlike(old: Part, new: Part) -> tuple[float, float]:
    """Return how far a part's current is from another's, as a ratio, then the highest volts it stands."""
    own, other = (getattr(p.spec, "battery_limit_a", 0.0) or getattr(p.spec, "rated_a", 0.0) for p in (old, new))
    return (abs(other - own) / own if own else 0.0), getattr(new.spec, "max_v", 0.0)


WAYS: dict[str, tuple[Way, ...]] = {
    "W001": (_swap,),
    "W003": (_join_free,),
    "W004": (_repin,),
    "W006": (
        _join_free,
        _missing("brake_lever", "magnetic_cut_off"),
    ),
    "W008": (_converter, _swap),
    "W010": (_swap,),
    "W011": (_swap,),
    "W012": (_join_anew, _repin, _part_wire()),
    "W013": (_repin,),
    "W014": (_part_wire("supply_5v"),),
    "W015": (_join_anew, _combiner),
    "W016": (_join_anew,),
    "W017": (_repin,),
    "W018": (_repin,),
    "W019": (_repin,),
    "W020": (_repin,),
    "W021": (
        _join_free,
        _missing("brake_lever", "magnetic_cut_off"),
    ),
    "W022": (_join_free,),
    "W023": (
        _join_free,
        _missing("throttle", "pedal_sensor"),
    ),
    "W024": (_repin,),
    "W025": (_adapter, _join_anew),
    "W028": (_join_anew,),
    "W029": (_adapter,),
    "W030": (_adapter,),
    "W031": (_adapter,),
    "W032": (_repin,),
    "W042": (_join_anew,),
    "W043": (_repin, _join_anew),
    "W044": (_swap,),
    "W045": (_join_anew,),
    "W046": (_join_anew,),
    "W047": (_part_wire("serial_tx"),),
    "W049": (
        _join_free,
        _missing("gear_sensor"),
    ),
    "W055": (_extension,),
}
"""The ways that may cure a finding, by code; what changes only a number in a controller is left to the hand that sets it."""
