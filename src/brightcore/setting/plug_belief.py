"""Which plug is this: what each plug of a part would show on a meter, and the belief in each after
readings.

Which wire of the plug in hand is which pin is not known either: the likelihood of a plug is the
mean over every order of its pins (the permanent of the table of wire against pin), so no order is
guessed. Predictions come from the bike's own circuit with that plug free.
"""

import math
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from brightcore.analysis.bike import analysis_of
from brightcore.belief.bayes import entropy_bits
from brightcore.bike.model import Bike, Frame, Join, Pin, Port
from brightcore.bike.roles import role_of
from brightcore.bike.space import NOTHING_MEASURED
from brightcore.circuit.conditions import Condition
from brightcore.circuit.instruments import DEFAULT_METER, VoltRange
from brightcore.kinds import REGISTRY
from brightcore.kinds.display import DisplaySpec
from brightcore.kinds.pack import PackSpec
from brightcore.simulation.table import Row, Table
from brightcore.wiring.propose import accept, propose_joins

Floats = NDArray[np.float64]

OHM_EDGES = (3.0, 30.0, 300.0, 3e3, 3e4, 3e5, 3e6)
VOLT_EDGES = (0.3, 1.0, 2.5, 4.0, 5.6, 9.0, 16.0, 28.0)
"""Edges of the bins in which readings are told apart; makes differ more than a finer one would
tell."""

EDGES = {"ohm": OHM_EDGES, "volt": VOLT_EDGES, "load": VOLT_EDGES}
MINUTES = {"ohm": 0.4, "volt": 0.5, "load": 0.9}
"""Usual minutes of a reading: ohms to battery minus, volts open, volts loaded (common practice)."""

LOAD_OHM = 1000.0
SAFE_OPEN_V = 6.0
"""Volts above which no resistor is put on an unknown wire: it is no 5 V plug (common practice)."""

WRONG, OHM_SPREAD, VOLT_SPREAD, LOAD_SPREAD = 0.04, 1.0, 0.08, 0.3
"""Share of misread values; spread of makes in ln ohm, of volts open and loaded (common
practice)."""

LEAST_SPREAD_V = 0.2
PHANTOM = (0.55, 0.12, 0.12, 0.1, 0.09, 0.005, 0.005, 0.005, 0.005)
"""What a meter shows on a wire that nothing holds, by bin: mostly next to nothing, up to 5 V."""

OTHER_SHARE, TAKEN_SHARE, MISCOUNTED = 0.03, 0.05, 1e-4
"""Belief beforehand in no plug of this part; in one already named, beside a free one; in a wrong
count."""

THICK_SURE, GENDER_SURE, COLOUR_SURE, HINT = 0.97, 0.9, 3.0, 2.0
MOST_EXACT = 10
"""Pins up to which every order is counted; beyond, wires are taken one by one."""


@dataclass(frozen=True, slots=True)
class Wire:
    """One wire of the plug in hand: place from 1, thick or not, its colour, bins of what was read
    by kind."""

    place: int
    thick: bool | None
    colour: str
    read: tuple[tuple[str, int], ...]


@dataclass(frozen=True, slots=True)
class Candidate:
    """One plug of the part: how likely each bin is for each pin, by kind of reading [pin, bin]."""

    port: Port
    free: bool
    bins: Mapping[str, Floats]


def bin_of(kind: str, value: float) -> int:
    """Return the bin of a reading; over-limit ohms are infinite."""
    return int(np.searchsorted(EDGES[kind], value, side="right"))


def _bins_ohm(ohm: float) -> Floats:
    count = len(OHM_EDGES) + 1
    if not math.isfinite(ohm) or ohm > OHM_EDGES[-1] * 3:
        likely = np.zeros(count)
        likely[-1], likely[-2] = 0.9, 0.1
    else:
        # Ohms spread by ratio, so bins are compared on a logarithm; a tenth of an ohm is what leads
        # have.
        centre = math.log(max(ohm, 0.1) + 0.1)
        likely = _normal_bins(
            [math.log(edge) for edge in OHM_EDGES], centre, OHM_SPREAD if ohm > 3 else 0.4
        )
    return (1 - WRONG) * likely + WRONG / count


def _bins_volt(volt: float, floating: bool, spread: float) -> Floats:
    count = len(VOLT_EDGES) + 1
    if floating:
        likely = np.array(PHANTOM)
    else:
        likely = _normal_bins(VOLT_EDGES, volt, max(LEAST_SPREAD_V, spread * abs(volt)))
    return (1 - WRONG) * likely + WRONG / count


def _normal_bins(edges: Sequence[float], centre: float, spread: float) -> Floats:
    below = np.array(
        [0.5 * (1 + math.erf((edge - centre) / (spread * math.sqrt(2)))) for edge in edges]
    )
    return np.diff(np.concatenate(([0.0], below, [1.0])))


def bench_bike(bike: Bike, part_id: str, state: str) -> Bike:
    """Return the bike as it stands while plugs are named: only the pack's lead and, switched on,
    the display.

    `state`: "out" with everything unplugged, "off" with the pack alone, "on" with the display as
    well.
    """
    if state == "out":
        return _only(bike, part_id, [])
    whole = accept(bike, propose_joins(bike))
    ends = {part_id} | {part.id for part in whole.parts if isinstance(part.spec, _ends(state))}
    between = set()
    for part in whole.parts:
        if REGISTRY[part.kind].place == "between":
            between.add(part.id)
    joins = []
    for join in whole.joins:
        if {join.a_part, join.b_part} <= ends | between:
            joins.append(join)
    while True:
        met = Counter(part for join in joins for part in (join.a_part, join.b_part))
        left = []
        for j in joins:
            if all(p in ends or met[p] > 1 for p in (j.a_part, j.b_part)):
                left.append(j)
        if len(left) == len(joins):
            return _only(whole, part_id, joins)
        joins = left


def _only(bike: Bike, part_id: str, joins: Sequence[Join]) -> Bike:
    """Return a bike with these connections, and only the part, the packs and what they connect."""
    met = {part for join in joins for part in (join.a_part, join.b_part)} | {part_id}
    rows = []
    for p in bike.parts:
        if p.id in met or isinstance(p.spec, PackSpec):
            rows.append(p)
    parts = tuple(rows)
    return replace(
        bike, parts=parts, joins=tuple(joins), settings=(), frame=Frame(), space=NOTHING_MEASURED
    )


def _ends(state: str) -> tuple[type, ...]:
    if state == "on":
        return (PackSpec, DisplaySpec)
    return (PackSpec,)


@lru_cache(maxsize=24)
def candidates(bike: Bike, part_id: str, state: str) -> tuple[Candidate, ...]:
    """Return every plug of a part with what it would show, the state of the bike being known."""
    dead, live = bench_bike(bike, part_id, "out"), bench_bike(bike, part_id, state)
    used = set()
    for join in live.joins:
        for end in join.sides():
            used.add(end)
    ground = _ground(bike, part_id)
    bench = Table(analysis_of(dead).circuit, [Row()])
    powered = Table(analysis_of(live).circuit, [Row()])
    loaded = replace(DEFAULT_METER, volts=VoltRange(input_ohm=LOAD_OHM))
    out, on = Condition("out"), Condition()
    pins = [
        (port, f"{part_id}.{port.id}.{pin.name}")
        for port in bike.part(part_id).ports
        for pin in port.pins
    ]
    bench.prepare_fed(out, [(name, ground) for _, name in pins], DEFAULT_METER.ohms.feeding)
    powered.prepare_probes(on, [(name, ground) for _, name in pins])
    found = []
    for port in bike.part(part_id).ports:
        names = [name for own, name in pins if own is port]
        ohms = []
        for name in names:
            ohms.append(
                float(bench.read_ohms(out, name, ground).mean[0]) if name != ground else 0.0
            )
        volts = [powered.read_volts(on, name, ground) for name in names]
        under = [powered.read_volts(on, name, ground, loaded) for name in names]
        bins = {
            "ohm": np.stack([_bins_ohm(value) for value in ohms]),
            "volt": np.stack(
                [_bins_volt(float(p.mean[0]), bool(p.floating[0]), VOLT_SPREAD) for p in volts]
            ),
            "load": np.stack([_bins_volt(float(p.mean[0]), False, LOAD_SPREAD) for p in under]),
        }
        found.append(Candidate(port, (part_id, port.id) not in used, bins))
    return tuple(found)


def _ground(bike: Bike, part_id: str) -> str:
    """Return the pin that readings are taken against: battery minus, else any ground of the
    part."""
    pins = [(port, pin) for port in bike.part(part_id).ports for pin in port.pins]
    pins.sort(
        key=lambda item: (item[1].role != "battery_minus", not role_of(item[1].role).ground_like)
    )
    port, pin = pins[0]
    return f"{part_id}.{port.id}.{pin.name}"


def permanents(table: Floats) -> Floats:
    """Return the permanent of each of a batch of square tables [B, n, n], by subsets of columns.

    >>> permanents(np.array([[[1.0, 2.0], [3.0, 4.0]]])).tolist()
    [10.0]
    """
    batch, size, _ = table.shape
    masks = np.arange(1 << size)
    sums = np.zeros((batch, 1 << size))
    sums[:, 0] = 1.0
    for row in range(size):
        fresh = np.zeros_like(sums)
        for column in range(size):
            free = masks[(masks >> column) & 1 == 0]
            fresh[:, free | (1 << column)] += sums[:, free] * table[:, row, column, None]
        sums = fresh
    return np.asarray(sums[:, -1])


def mean_orders(table: Floats) -> Floats:
    """Return the mean over every order of the product along it, of a batch of tables [B, n, n]."""
    size = table.shape[1]
    if size > MOST_EXACT:
        return np.asarray(table.mean(axis=2).prod(axis=1))
    return permanents(table) / math.factorial(size)


def _table(candidate: Candidate, wires: Sequence[Wire]) -> Floats:
    """Return how well each wire goes with each pin of a plug [wire, pin]."""
    pins = candidate.port.pins
    found = np.ones((len(wires), len(pins)))
    for k, wire in enumerate(wires):
        for kind, index in wire.read:
            found[k] *= candidate.bins[kind][:, index]
        found[k] *= [_looks(wire, pin) for pin in pins]
    return found


def _looks(wire: Wire, pin: Pin) -> float:
    """Return how well the look of a wire goes with a pin; colours only hint (no agreed meaning)."""
    role = role_of(pin.role)
    share = 1.0
    if wire.thick is not None:
        share *= THICK_SURE if wire.thick == role.carries_power else 1 - THICK_SURE
    colour, described = wire.colour.lower(), pin.colour.lower()
    if colour and described:
        share *= COLOUR_SURE if colour == described else 1 / COLOUR_SURE
    elif (colour == "red" and role.polarity == "plus") or (
        colour == "black" and role.polarity == "minus"
    ):
        share *= HINT
    return share


def weigh(
    found: Sequence[Candidate],
    wires: Sequence[Wire],
    gender: str,
    taken: frozenset[str],
    powered: bool,
) -> Floats:
    """Return the belief [plugs + 1] in each plug of the part, and in none of them as the last."""
    weights = []
    for candidate in found:
        weight = TAKEN_SHARE if candidate.port.id in taken else 1.0
        if powered and not candidate.free:
            weight *= MISCOUNTED  # it is connected while it is read
        if gender and candidate.port.gender:
            # A gender that does not fit speaks against a plug without ruling it out: adapters and
            # swapped halves exist.
            weight *= GENDER_SURE if gender == candidate.port.gender else 1 - GENDER_SURE
        if len(candidate.port.pins) != len(wires):
            # Another count of wires is next to impossible, but wires are miscounted and cut: its
            # readings then say nothing, as no order of pins is left to compare.
            weight *= MISCOUNTED * _flat(wires)
        else:
            weight *= float(mean_orders(_table(candidate, wires)[None])[0])
        weights.append(weight)
    weights.append(OTHER_SHARE * len(found) * _flat(wires) * 0.5 ** len(wires))
    total = np.array(weights)
    if total.sum() <= 0:
        return np.full(len(total), 1 / len(total))
    shares: NDArray[np.float64] = total / total.sum()
    return shares


def _flat(wires: Sequence[Wire]) -> float:
    """Return the likelihood of readings that nothing predicts."""
    share = 1.0
    for wire in wires:
        for kind, _ in wire.read:
            share /= len(EDGES[kind]) + 1
    return share


def gains(
    found: Sequence[Candidate],
    wires: Sequence[Wire],
    belief: Floats,
    asked: Sequence[tuple[int, str]],
) -> list[float]:
    """Return the bits about which plug it is that each reading (wire, kind) is expected to tell."""
    result = []
    for place, kind in asked:
        count = len(EDGES[kind]) + 1
        joint = np.zeros((count, len(belief)))
        joint[:, -1] = belief[-1] / count
        for n, candidate in enumerate(found):
            if len(candidate.port.pins) != len(wires) or belief[n] < 1e-3:
                joint[:, n] = belief[n] / count
                continue
            table = _table(candidate, wires)
            batch = np.repeat(table[None], count, axis=0)
            batch[:, place - 1] *= candidate.bins[kind].T
            now = mean_orders(batch)
            joint[:, n] = belief[n] * now / now.sum() if now.sum() > 0 else belief[n] / count
        bits = (
            entropy_bits(belief[None])
            + entropy_bits(joint.sum(axis=1)[None])
            - entropy_bits(joint.reshape(1, -1))
        )
        result.append(float(bits[0]))
    return result


def assignment(candidate: Candidate, wires: Sequence[Wire]) -> Floats:
    """Return the belief [wire, pin] in each wire of a plug being each pin, given that it is this
    plug."""
    table = _table(candidate, wires)
    size = len(wires)
    if size > MOST_EXACT or size == 1:
        return np.asarray(table / table.sum(axis=1, keepdims=True))
    rest = []
    for k in range(size):
        rest.append([np.delete(np.delete(table, k, 0), j, 1) for j in range(size)])
    minors = permanents(np.array(rest).reshape(size * size, size - 1, size - 1)).reshape(size, size)
    share = table * minors
    return np.asarray(share / share.sum(axis=1, keepdims=True))
