"""Volts between two points, switched on or pack in."""

import math
from collections.abc import Iterator
from typing import ClassVar

import numpy as np

from brightcore.bike.model import Bike, Join
from brightcore.bike.roles import Role, role_of
from brightcore.circuit.conditions import Condition
from brightcore.circuit.contacts import join_title, pair_class
from brightcore.circuit.instruments import Multimeter, meter_of
from brightcore.kinds.select import packs
from brightcore.procedure.gates import probe_gates
from brightcore.simulation.table import Prediction, Table
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests.base import Bench, Floats, Outcome, Test, Truth
from brightcore.tracing.tests.numbers import NumberKind, typed_number
from brightcore.units import format_quantity

READ_MIN, ROAD_MIN, ACROSS_MIN = 0.8, 4.0, 0.7
"""Minutes to read volts, to ride for it, to get at both sides of a contact (common practice)."""

NOISE_V, NOISE_RATIO, PHANTOM_V = 0.004, 0.004, 0.05
"""Noise of a true reading: offset, share, and spread of a phantom one (common practice)."""


ZERO_V = 0.01
"""Less than this is called 0 V in an answer."""


def noisy(truth: Truth, found: Prediction, which: int) -> float:
    """Return volts as a true meter shows them."""
    rng = truth.rng
    noise = NOISE_V * rng.standard_normal()
    if found.floating[which]:
        noise += PHANTOM_V * rng.standard_normal()
    return float(found.mean[which] * (1 + NOISE_RATIO * rng.standard_normal()) + noise)


HELD = ("cut_off", "mode")
"""Uses whose signal is pulled and held by a hand, so that each position is read by itself."""


def rides(condition: Condition) -> bool:
    """Return whether a state is one of riding."""
    return any(value == "pull" for _, value in condition.settings)


def moving(roles: set[str]) -> bool:
    """Return whether a net's signal is one of pulses, which is read as it swings."""
    return any(role.output == "pulls" and role.use not in HELD for role in map(role_of, roles))


def hard_pulls(bench: Bench) -> Iterator[Condition]:
    """Yield the states of pulling hard uphill."""
    hard = Condition()
    for name in bench.controls("grip"):
        hard = hard.having(name, "full")
    for name in bench.controls("drive"):
        yield hard.having(name, "pull")


def read_points(bench: Bench, join: Join) -> Iterator[tuple[str, str, set[str]]]:
    """Yield (red, black, roles of the net) for every pin of a join worth reading against ground,
    both sides."""
    for part_id, port_id in join.sides():
        black = bench.nets.ground(part_id, port_id)
        for pin in bench.bike.part(part_id).port(port_id).pins:
            red = f"{part_id}.{port_id}.{pin.name}"
            roles = bench.nets.roles_of(red)
            known = [role_of(name) for name in roles]
            if not black or red == black or any(role.use == "phase" for role in known):
                continue
            # Ground against ground reads nothing on a sound bike and is asked for as the drop
            # across a contact instead.
            only_ground = len(known) == 1 and known[0].ground_like
            if not only_ground:
                yield red, black, roles


class Volts(NumberKind):
    """Volts at rest, and with what moves the signal moved."""

    name, evidence, family, verb = "volts", "volts", "Volts", "Volts"
    kicker, unit, hint = "Measure next", "V", "4.9, 210 mV"
    free = "Volts"
    free_power: ClassVar[tuple[str, ...]] = ("on", "off")

    def gates(self, condition: Condition, bike: Bike) -> tuple[str, ...]:
        return probe_gates(condition, bike)

    def candidates(self, bench: Bench) -> Iterator[Test]:
        yield from self._of_packs(bench)
        for join in bench.bike.joins:
            yield from self._against_ground(bench, join)
            yield from self._across_power(bench, join)

    def _of_packs(self, bench: Bench) -> Iterator[Test]:
        """Yield the volts of each pack by itself, at rest and while pulling hard."""
        for part in packs(bench.bike):
            pins = {}
            for port in part.ports:
                for pin in port.pins:
                    pins[pin.role] = f"{part.id}.{port.id}.{pin.name}"
            ends = pins.get("pack_plus"), pins.get("pack_minus")
            if ends[0] and ends[1]:
                yield self.make(bench, Condition("off"), ends[0], ends[1], READ_MIN)
                for condition in hard_pulls(bench):
                    yield self.make(bench, condition, ends[0], ends[1], READ_MIN + ROAD_MIN)

    def _against_ground(self, bench: Bench, join: Join) -> Iterator[Test]:
        for red, black, roles in read_points(bench, join):
            for condition in self._conditions(bench, red, roles):
                road = ROAD_MIN if rides(condition) else 0.0
                yield self.make(bench, condition, red, black, READ_MIN + road, join)

    def _conditions(self, bench: Bench, red: str, roles: set[str]) -> Iterator[Condition]:
        """Yield the states worth reading on a net with these roles."""
        known = [role_of(name) for name in roles]
        # A hall or pedal signal stands high or low by chance of where the wheel stopped: it is read
        # as it swings, by another kind of test.
        if moving(roles) and self._can_move(bench, known):
            return
        yield Condition()
        for role in known:
            if role.moved_by and not moving({role.name}):
                yield from self._moved(bench, red, role)
        if any(role.current == "battery" and role.polarity == "plus" for role in known):
            yield from hard_pulls(bench)
            yield Condition("off")

    def _can_move(self, bench: Bench, roles: list[Role]) -> bool:
        return any(bench.controls(role.moved_by) for role in roles if moving({role.name}))

    def _moved(self, bench: Bench, red: str, role: Role) -> Iterator[Condition]:
        for name in bench.controls(role.moved_by):
            part_id, control = bench.circuit.controls[name]
            # The other lever is on another net: squeezing it tells nothing of this one and doubles
            # the list.
            if role.use == "cut_off" and not _same_net(bench, red, part_id):
                continue
            yield Condition().having(name, control.values[-1])

    def _across_power(self, bench: Bench, join: Join) -> Iterator[Test]:
        """Yield volts across each power contact while pulling hard."""
        minutes = ACROSS_MIN + ROAD_MIN
        for pair in join.pairs:
            red = f"{join.a_part}.{join.a_port}.{pair[0]}"
            black = f"{join.b_part}.{join.b_port}.{pair[1]}"
            power = pair_class(bench.bike, join, pair) == "power"
            if power and "battery_plus" in bench.nets.roles_of(red):
                title = (
                    f"Volts across the {bench.nets.title(red)} contact of the "
                    f"{join_title(bench.bike, join)}, side to side"
                )
                for condition in hard_pulls(bench):
                    yield self.make(bench, condition, red, black, minutes, join).retitled(title)

    def predict(
        self, table: Table, condition: Condition, red: str, black: str, meter: Multimeter
    ) -> list[Prediction]:
        return [table.read_volts(condition, red, black, meter)]

    def numbers(self, item: Evidence) -> tuple[float, ...]:
        value = typed_number(item, "V")
        # OL in volts is "more than the range": it is compared as the end of the scale.
        return (meter_of(item.meter).volts.top_v if math.isinf(value) else value,)

    def scaled(self, found: Prediction, meter: Multimeter) -> tuple[Floats, Floats]:
        return found.mean, found.sigma

    def scale_width(self, meter: Multimeter) -> float:
        return meter.volts.top_v

    def outcome(self, test: Test, centres: tuple[float, ...]) -> Outcome:
        volt = 0.0 if abs(centres[0]) < ZERO_V else centres[0]
        text = format_quantity(volt, "V")
        return Outcome(f"about {text}", self.read(test, text))

    def shown(self, truth: Truth, test: Test, which: int) -> str:
        found = truth.table.read_volts(test.condition, test.red, test.black)
        return f"{noisy(truth, found, which):.3f}"


def _same_net(bench: Bench, pin: str, part_id: str) -> bool:
    """Return whether a pin shares a net with any pin of a part."""
    part = bench.bike.part(part_id)
    own = set()
    for port in part.ports:
        for p in port.pins:
            own.add(bench.nets.find(f"{part_id}.{port.id}.{p.name}"))
    return bench.nets.find(pin) in own


def clipped(values: Floats, most: float) -> Floats:
    """Return values with what is over a limit set to it."""
    return np.minimum(values, most)
