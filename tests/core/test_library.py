"""Every part of the library on a bike it belongs on; what is charged, switched and fixed by
terminals."""

from collections.abc import Iterator
from dataclasses import replace
from functools import cache
from unittest import TestCase

from brightcore.analysis.bike import analysis_of
from brightcore.bike.mating import fit_in_hand, one_make
from brightcore.bike.model import Bike, Port, Wire
from brightcore.circuit.conditions import parse_condition
from brightcore.describing.edit import add_part
from brightcore.describing.join_edits import add_join, remove_join
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.errors import BrightError
from brightcore.formats.part_file import PartEntry, generic_entries
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.pack import PackSpec
from brightcore.matching.rules import match_findings
from brightcore.simulation.table import Row, Table
from brightcore.wiring.propose import propose_joins
from brightcore.wiring.rules import check_bike
from tests.amount import sampled
from tests.bikes import DEMO_BIKES, demo_bike, in_place, with_spec

HUB = "hub-conversion"
ENTRIES = {entry.id: entry for entry in generic_entries()}

COMPANIONS = tuple(
    (f"pack-{volts}v-{cells}s{parallel}p", f"controller-{volts}v-{amps}a", display)
    for volts, cells, display in (
        (24, 7, "display-5-pin-36"),
        (36, 10, "display-5-pin-36"),
        (48, 13, "display-5-pin"),
        (52, 14, "display-5-pin"),
        (60, 16, "display-5-pin-72"),
        (72, 20, "display-5-pin-72"),
    )
    for parallel, amps in ((3, 15), (6, 22), (8, 50))
    if volts > 24 or parallel < 8
)
"""Pack, controller and display that belong together, in every volt of the trade."""

THICK = {"area_mm2": 10.0}
"""A main lead for the strongest of them."""


def codes(bike: Bike) -> set[str]:
    """Return the codes of faults and dangers."""
    found = (*check_bike(bike), *match_findings(bike))
    return {f"{f.code} {f.severity}" for f in found if f.severity != "advice"}


def is_sound(bike: Bike) -> bool:
    """Return whether neither wiring nor matching finds more than advice; the quicker is asked
    first."""
    rules = (check_bike, match_findings)
    return all(finding.severity == "advice" for rule in rules for finding in rule(bike))


def swapped(bike: Bike, part_id: str, entry: PartEntry) -> Bike:
    """Return the bike with a part of the library in a part's place, joined anew where plugs are
    free."""
    made = in_place(bike, part_id, entry.kind, entry.name, entry.spec, entry.ports)
    return joined(made.bike) if made.lost else made.bike


def with_entry(bike: Bike, entry: PartEntry) -> Bike:
    return add_part(bike, entry.kind, entry.name, entry.spec, entry.ports)


def joined(bike: Bike) -> Bike:
    for item in propose_joins(bike):
        bike = add_join(bike, item.one, item.two, pairs=item.pairs)
    return bike


@cache
def bases() -> tuple[Bike, ...]:
    """Return the patterns, the demo bikes, and hub bikes in every volt, with lamps of pack volts
    too."""
    found = [make_pattern(name, name) for name in PATTERNS]
    found += [demo_bike(name) for name in DEMO_BIKES]
    for names in COMPANIONS:
        bike = with_spec(make_pattern(HUB, HUB), "main_lead", **THICK)
        bike = with_spec(bike, "motor", rated_w=1500.0, phase_ohm=0.07)
        thick = (
            replace(j, wire=Wire(10.0, 0.5)) if j.a_port == "phases" else j for j in bike.joins
        )
        bike = replace(bike, joins=tuple(thick))
        for part_id, name in zip(("pack", "controller", "display"), names, strict=True):
            bike = swapped(bike, part_id, ENTRIES[name])
        found.append(bike)
    lit = with_spec(make_pattern(HUB, HUB), "controller", accessory_v=48.0)
    return (*found, lit, *special(), *charging())


def special() -> Iterator[Bike]:
    """Yield bikes of parts that need each other: nine-pin motors, a 36 V mid drive, a soft pack."""
    hub, opened = make_pattern(HUB, HUB), make_pattern("opened-hub", "x")
    for bike, names in (
        (hub, ("controller-48v-18a-9pin", "hub-350w-9pin")),
        (opened, ("controller-36v-17a-9pin", "hub-250w-9pin")),
    ):
        made = swapped(bike, "controller", ENTRIES[names[0]])
        yield joined(swapped(made, "motor", ENTRIES[names[1]]))
    mid = make_pattern("mid-outside", "x")
    for part_id, name in (("pack", "pack-36v-10s6p"), ("display", "display-5-pin-36")):
        mid = swapped(mid, part_id, ENTRIES[name])
    yield mid
    yield joined(with_entry(swapped(hub, "pack", ENTRIES["pack-pouch-12s"]), ENTRIES["alarm-12s"]))


def charging() -> Iterator[Bike]:
    """Yield bikes whose pack has a charge plug with a charger on it, in every volt and of LFP."""
    plug = next(p for p in ENTRIES["pack-48v-charge-plug"].ports if p.id == "charge")
    for names in (*COMPANIONS[::3], ("pack-48v-lfp", "controller-48v-22a", "display-5-pin")):
        bike = make_pattern(HUB, HUB)
        for part_id, name in zip(("pack", "controller", "display"), names, strict=True):
            bike = swapped(bike, part_id, ENTRIES[name])
        pack = bike.part("pack")
        ported = replace(pack, ports=(*pack.ports, plug))
        bike = replace(bike, parts=tuple(ported if p is pack else p for p in bike.parts))
        volts = names[0].partition("-")[2].partition("-")[0]
        charger = ENTRIES[f"charger-{volts}" + ("-lfp" if "lfp" in names[0] else "")]
        made = with_entry(bike, charger)
        yield add_join(made, "pack.charge", f"{made.parts[-1].id}.plug")


def fitted(entry: PartEntry) -> Iterator[Bike]:
    """Yield bikes with a part of the library: in the place of one of its kind, or added where it
    fits."""
    for bike in (b for b in bases() if in_range(b, entry)):
        for part in bike.parts:
            if part.kind == entry.kind:
                yield swapped(bike, part.id, entry)
    for bike in bases():
        yield from added(bike, entry)


def in_range(bike: Bike, entry: PartEntry) -> bool:
    """Return whether a pack and a controller are worth trying together by their volts and amps."""
    specs = [entry.spec] if isinstance(entry.spec, PackSpec | ControllerSpec) else []
    specs += (
        [p.spec for p in bike.parts if isinstance(p.spec, PackSpec | ControllerSpec)]
        if specs
        else []
    )
    feeding = [s for s in specs if isinstance(s, PackSpec)][:1]
    driving = [s for s in specs if isinstance(s, ControllerSpec)][:1]
    return all(
        p.full_v() <= c.max_v
        and p.trip_v() <= c.low_cutoff_v
        and c.battery_limit_a <= p.bms_continuous_a
        for p in feeding
        for c in driving
    )


def added(bike: Bike, entry: PartEntry) -> Iterator[Bike]:
    """Yield the bike with the part joined to free plugs, or set into a join that it fits
    between."""
    bare = with_entry(bike, entry)
    new = bare.parts[-1].id
    made = joined(bare)
    if any(made.joins_of(new)):
        yield made
    if len(entry.ports) < 2:
        return
    first, second = entry.ports[:2]
    for join in bare.joins:
        (a, p), (b, q) = join.sides()
        ends = bare.part(a).port(p), bare.part(b).port(q)
        if not (goes(ends[0], first) and goes(ends[1], second)):
            continue
        try:
            apart = remove_join(bare, join.id)
            longer = add_join(apart, f"{a}.{p}", f"{new}.{first.id}")
            yield add_join(longer, f"{new}.{second.id}", f"{b}.{q}")
        except BrightError:
            continue


def goes(one: Port, two: Port) -> bool:
    """Return whether two plugs go together as they are, plugs or terminals."""
    return one_make(one, two) and (fit_in_hand(one, two) or one.rewireable)


class LibraryTest(TestCase):
    def test_every_part_of_the_library_is_sound_on_some_bike(self) -> None:
        for entry in sampled(ENTRIES.values(), 3):
            with self.subTest(entry.id):
                self.assertTrue(any(is_sound(bike) for bike in fitted(entry)))


def on_charge(bike: Bike, charger: str, **spec: object) -> Bike:
    """Return a bike with a charge plug on its pack, and a charger of the library on it."""
    plug = next(p for p in ENTRIES["pack-48v-charge-plug"].ports if p.id == "charge")
    pack = bike.part("pack")
    ported = replace(pack, ports=(*pack.ports, plug))
    bike = replace(bike, parts=tuple(ported if p is pack else p for p in bike.parts))
    made = with_entry(bike, ENTRIES[charger])
    new = made.parts[-1].id
    return with_spec(add_join(made, "pack.charge", f"{new}.plug"), new, **spec)


def past_the_board(family: str) -> Bike:
    """Return a bike with a charger joined by hand to the pack's main plug, where its plug fits
    there."""
    bike = make_pattern(HUB, "x")
    lead = next(j for j in bike.joins if "pack" in dict(j.sides()))
    made = with_entry(remove_join(bike, lead.id), ENTRIES["charger-48v"])
    charger = made.parts[-1]
    plug = replace(charger, ports=tuple(replace(p, family=family) for p in charger.ports))
    made = replace(made, parts=tuple(plug if p is charger else p for p in made.parts))
    return add_join(made, "pack.main", f"{charger.id}.plug")


def switched(power_w: float) -> Bike:
    """Return a bike with a light switch for 3 A before a 12 V lamp."""
    bike = with_spec(
        with_spec(make_pattern(HUB, "x"), "lamp", power_w=power_w), "controller", accessory_a=5.0
    )
    bike = with_entry(bike, ENTRIES["light-switch"])
    new = bike.parts[-1].id
    join = next(j for j in bike.joins if ("lamp", "plug") in j.sides())
    bike = add_join(remove_join(bike, join.id), "controller.lamp", f"{new}.one")
    return add_join(bike, f"{new}.two", "lamp.plug")


HUB_BIKE = make_pattern(HUB, "x")
SOFT = make_pattern("soft-packs", "x")
LUGS = make_pattern("light-motorcycle", "x")
NICKEL = with_spec(SOFT, "pack_upper", chemistry="nickel")
FULL_V = 13 * 4.2

NEW_RULES = (
    # code, bike where it is silent, bike just beyond
    (
        "W070",
        on_charge(HUB_BIKE, "charger-48v", out_v=FULL_V + 13 * 0.019),
        on_charge(HUB_BIKE, "charger-48v", out_v=FULL_V + 13 * 0.021),
    ),
    (
        "W071",
        on_charge(HUB_BIKE, "charger-48v", out_v=FULL_V - 13 * 0.099),
        on_charge(HUB_BIKE, "charger-48v", out_v=FULL_V - 13 * 0.101),
    ),
    (
        "W071",
        on_charge(HUB_BIKE, "charger-48v", out_a=7.0),
        on_charge(HUB_BIKE, "charger-48v", out_a=7.1),
    ),
    ("W076", past_the_board("charge-2"), past_the_board("power-2")),
    ("W077", switched(36.0), switched(36.2)),
    ("W077", with_spec(LUGS, "key", rated_a=0.03), with_spec(LUGS, "key", rated_a=0.029)),
    ("W072", SOFT, remove_join(SOFT, SOFT.joins[0].id)),
    ("W073", SOFT, with_spec(SOFT, "alarm_upper", cell_count=5)),
    ("W069", HUB_BIKE, LUGS),
    ("W075", HUB_BIKE, with_entry(HUB_BIKE, ENTRIES["horn-12v"])),
    ("W067", SOFT, with_spec(SOFT, "fuse", fuse_a=0.0)),
    ("W052", SOFT, with_spec(SOFT, "fuse", fuse_a=24.0)),
    ("W053", with_spec(SOFT, "fuse", fuse_v=50.4), with_spec(SOFT, "fuse", fuse_v=50.3)),
    (
        "M008",
        SOFT,
        with_spec(
            with_spec(SOFT, "pack_upper", chemistry="nickel"), "pack_lower", chemistry="nickel"
        ),
    ),
)

STATES = (
    # pattern, pin, state, volts between which a meter shows there [cp]
    ("light-motorcycle", "controller.key.key", "on", 70.0, 85.0),
    ("light-motorcycle", "controller.key.key", "off", -0.1, 0.5),
    ("light-motorcycle", "horn.plug.plus", "on", 11.0, 12.5),
    ("light-motorcycle", "controller.brake_right.signal", "on; stand.lever=pulled", -0.1, 0.5),
    ("light-motorcycle", "controller.mode.signal", "on", 4.5, 5.2),
    ("light-motorcycle", "controller.mode.signal", "on; mode.mode=lower", -0.1, 0.5),
    ("delivery-trike", "controller.speed.signal", "on", 4.5, 5.2),
    ("delivery-trike", "controller.speed.signal", "on; speed.rotor=1", -0.1, 0.2),
    ("three-wheeler", "controller_right.front.th", "on", 0.7, 1.1),
    ("three-wheeler", "controller_right.front.th", "on; throttle.grip=full", 3.5, 4.3),
    ("soft-packs", "controller.battery.plus", "on", 45.0, 47.0),
)


class NewKindsTest(TestCase):
    def test_each_rule_speaks_just_beyond_and_not_before(self) -> None:
        for code, silent, told in NEW_RULES:
            with self.subTest(code):
                for bike, expected in ((silent, False), (told, True)):
                    found = {f.code for f in (*check_bike(bike), *match_findings(bike))}
                    self.assertEqual(code in found, expected, found)

    def test_what_hands_on_or_switches_does_so_in_the_circuit(self) -> None:
        for pattern, pin, state, low, high in STATES:
            bike = make_pattern(pattern, "x")
            circuit = analysis_of(bike).circuit
            ground = "pack_lower.main.minus" if pattern == "soft-packs" else "pack.main.minus"
            volts = Table(circuit, [Row()]).volts(parse_condition(circuit, state), pin, ground)
            with self.subTest(pattern, pin=pin, state=state):
                self.assertTrue(low <= float(volts[0]) <= high, volts)

    def test_a_charger_raises_the_pack_and_never_drains_it(self) -> None:
        bike = with_spec(on_charge(HUB_BIKE, "charger-48v"), "pack", cell_v=3.6)
        circuit = analysis_of(bike).circuit
        table = Table(circuit, [Row()])
        name = next(part.id for part in bike.parts if part.kind == "charger")
        resting, charging = (
            float(
                table.volts(parse_condition(circuit, state), "pack.main.plus", "pack.main.minus")[0]
            )
            for state in ("off", f"off; {name}.mains=on")
        )
        self.assertAlmostEqual(resting, 13 * 3.6, delta=0.02)
        self.assertAlmostEqual(charging - resting, 2.0 * 0.11, delta=0.05)

    def test_terminals_go_with_terminals_one_wire_at_a_time(self) -> None:
        def ends(family: str) -> Port:
            return replace(ENTRIES["lead-lugs"].ports[1], family=family)

        for one, two, fits in (
            ("lug-2", "lug-2", True),
            ("lug-2", "screw-2", True),
            ("bare-2", "screw-2", True),
            ("lug-2", "power-2", False),
            ("bare-2", "signal", False),
        ):
            with self.subTest(one=one, two=two):
                self.assertEqual(one_make(ends(one), ends(two)), fits)
                self.assertFalse(fit_in_hand(ends(one), ends(two)))

    def test_a_brake_lamp_is_brighter_while_a_brake_is_pulled(self) -> None:
        bike = make_pattern("light-motorcycle", "x")
        circuit = analysis_of(bike).circuit
        table = Table(circuit, [Row()])
        falls = []
        for state in ("on", "on; stand.lever=pulled"):
            at = parse_condition(circuit, state)
            falls.append(
                12.0 - float(table.volts(at, "rear_lamp.plug.plus", "rear_lamp.plug.minus")[0])
            )
        self.assertGreater(falls[1], falls[0] + 0.01)
