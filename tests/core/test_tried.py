"""The described bike tried in its circuit: sound bikes are silent, whatever is broken is named."""

from collections.abc import Callable
from dataclasses import replace
from unittest import TestCase

from brightcore.bike.model import Bike
from brightcore.describing.edit import add_part
from brightcore.describing.join_edits import add_join, remove_join, set_pairs
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.findings import Finding, render
from brightcore.formats.part_file import generic_entries
from brightcore.kinds.levers import LeverSpec
from brightcore.kinds.select import controllers, displays
from brightcore.kinds.throttle import ThrottleSpec
from brightcore.wiring.rules import check_bike, check_whole
from tests.amount import ALL
from tests.bikes import DEMO_BIKES, demo_bike

SOUND = (
    *(make_pattern(name, name) for name in PATTERNS),
    *(demo_bike(name) for name in DEMO_BIKES),
)
Broken = Callable[[Bike], Bike | None]


def with_spec(bike: Bike, part_id: str, **values: object) -> Bike:
    """Return the bike with a part of other values."""
    parts = tuple(
        replace(p, spec=replace(p.spec, **values)) if p.id == part_id else p for p in bike.parts
    )  # type: ignore[arg-type]
    return replace(bike, parts=parts)


def tried(bike: Bike) -> list[Finding]:
    """Return what is found by trying alone."""
    told = check_bike(bike)
    return [finding for finding in check_whole(bike) if finding not in told]


def throttle(**values: float) -> Broken:
    """Return what gives the first throttle of a bike other values, None for a bike without one."""

    def broken(bike: Bike) -> Bike | None:
        found = next(iter(bike.having(ThrottleSpec)), None)
        return with_spec(bike, found.id, **values) if found else None

    return broken


def controller(**values: float) -> Broken:
    """Return what gives every controller other values."""

    def broken(bike: Bike) -> Bike | None:
        for part in controllers(bike):
            bike = with_spec(bike, part.id, **values)
        return bike

    return broken


def lever_closed(bike: Bike) -> Bike | None:
    """A lever that is closed while released."""
    found = next((part for part in bike.having(LeverSpec) if part.kind == "brake_lever"), None)
    return with_spec(bike, found.id, normally_closed=True) if found else None


def display_high(bike: Bike) -> Bike | None:
    """A display that lights only from more than any of these packs gives."""
    for part in displays(bike):
        bike = with_spec(
            bike, part.id, lit_from_v=90.0
        )  # beyond what a form takes: it stands for any other
    return bike if displays(bike) else None


def throttle_ground_open(bike: Bike) -> Bike | None:
    """A throttle whose ground does not reach the controller."""
    found = next(iter(bike.having(ThrottleSpec)), None)
    if found is None:
        return None
    for join in bike.joins_of(found.id):
        own = 0 if join.a_part == found.id else 1
        grounds = {
            pin.name for port in found.ports for pin in port.pins if pin.role == "sensor_ground"
        }
        left = tuple(pair for pair in join.pairs if pair[own] not in grounds)
        bike = set_pairs(bike, join.id, left)
    return bike


def lever_ground_open(bike: Bike) -> Bike | None:
    """A lever whose ground does not reach the controller: it pulls at nothing."""
    found = next((part for part in bike.having(LeverSpec) if part.kind == "brake_lever"), None)
    if found is None:
        return None
    for join in bike.joins_of(found.id):
        own = 0 if join.a_part == found.id else 1
        bike = set_pairs(bike, join.id, tuple(pair for pair in join.pairs if pair[own] != "ground"))
    return bike


def key_open(bike: Bike) -> Bike | None:
    """A controller whose key line nothing reaches."""
    keys = [
        pin.name
        for part in controllers(bike)
        for port in part.ports
        for pin in port.pins
        if pin.role == "key"
    ]
    for part in controllers(bike):
        for join in bike.joins_of(part.id):
            own = 0 if join.a_part == part.id else 1
            left = tuple(pair for pair in join.pairs if pair[own] not in keys)
            if left != join.pairs:
                bike = set_pairs(bike, join.id, left)
    return bike


BREAKS: tuple[tuple[str, Broken, str, str], ...] = (
    # what is broken, how, code of the finding, words that name the reason
    (
        "throttle rests above the start",
        throttle(rest_ratio=0.3),
        "W080",
        "at rest, above its start",
    ),
    ("throttle ends below all", throttle(full_ratio=0.45), "W085", "gives all from"),
    ("throttle ends in the error level", throttle(full_ratio=0.96), "W083", "outside its window"),
    ("throttle ground open", throttle_ground_open, "W080", "at rest"),
    ("cut-off above the pack", controller(low_cutoff_v=99.0, max_v=120.0), "W083", "and runs from"),
    ("lever ground open", lever_ground_open, "W081", "runs on"),
    ("key line open", key_open, "W083", "on its key line"),
    ("lever closed while released", lever_closed, "W083", "closed while released"),
    ("display lights from too much", display_high, "W082", "lights from 90 V"),
)


LEAST = 2
"""More bikes than this have every thing that can be broken."""


class TriedTest(TestCase):
    def test_sound_bikes_are_silent(self) -> None:
        for bike in SOUND:
            with self.subTest(bike.info.label):
                self.assertEqual([render(finding) for finding in tried(bike)], [])

    def test_each_thing_that_makes_it_run_is_named_when_it_is_broken(self) -> None:
        for title, broken, code, words in BREAKS:
            count = 0
            for bike in SOUND:
                if count > LEAST and not ALL:
                    break
                made = broken(bike)
                if made is None:
                    continue
                count += 1
                found = {finding.code: render(finding) for finding in tried(made)}
                with self.subTest(title, bike=bike.info.label):
                    self.assertIn(code, found)
                    self.assertIn(words, found[code])
            self.assertGreater(count, LEAST, title)

    def test_values_just_inside_are_silent(self) -> None:
        """Fern: start 1.15 V, all from 3.6 V, refused from 4.6 V, a 5 V supply; 5 % of slack in the
        start."""
        for values, codes in (
            ({"rest_ratio": 0.23}, set()),
            ({"rest_ratio": 0.25}, {"W080"}),
            ({"full_ratio": 0.9}, set()),
            ({"full_ratio": 0.94}, {"W083"}),
            ({"full_ratio": 0.55}, set()),
            ({"full_ratio": 0.5}, {"W085"}),
        ):
            made = throttle(**values)(demo_bike("fern"))
            assert made is not None
            with self.subTest(values):
                self.assertEqual({finding.code for finding in tried(made)}, codes)

    def test_a_two_wire_switch_the_other_way_round_is_no_fault(self) -> None:
        bike = make_pattern("hub-conversion", "x")
        (join,) = bike.joins_of("lever_left")
        (a, b), (c, d) = join.pairs
        turned = set_pairs(bike, join.id, ((a, d), (c, b)))
        codes = [f.code for f in check_whole(bike)]
        self.assertEqual([f.code for f in check_whole(turned)], codes)

    def test_a_grip_in_the_box_asks_for_nothing(self) -> None:
        bike = make_pattern("hub-conversion", "x")
        for join in tuple(bike.joins_of("throttle")):
            bike = remove_join(bike, join.id)
        self.assertEqual([render(finding) for finding in tried(bike)], [])

    def test_a_converter_with_nothing_at_its_input_is_named(self) -> None:
        bike = make_pattern("hub-conversion", "x")
        lamp = next(iter(bike.joins_of("lamp")))
        entry = next(e for e in generic_entries() if e.id == "converter-12v")
        made = add_part(remove_join(bike, lamp.id), entry.kind, entry.name, entry.spec, entry.ports)
        converter = made.parts[-1]
        out = next(p for p in converter.ports if any(pin.role == "convert_out" for pin in p.pins))
        made = add_join(made, f"{converter.id}.{out.id}", f"lamp.{bike.part('lamp').ports[0].id}")
        told = [render(finding) for finding in tried(made) if finding.code == "W084"]
        self.assertTrue(
            any(words.startswith("Step-down converter to 12 V gets 0.0 V") for words in told), told
        )

    def test_a_controller_without_hall_inputs_runs_without_halls(self) -> None:
        bike = make_pattern("hub-conversion", "x")
        own = bike.part("controller")
        bare = replace(own, ports=tuple(port for port in own.ports if port.id != "halls"))
        joins = tuple(join for join in bike.joins if ("controller", "halls") not in join.sides())
        made = replace(bike, parts=tuple(bare if p is own else p for p in bike.parts), joins=joins)
        self.assertEqual([render(finding) for finding in tried(made)], [])


class BesideTest(TestCase):
    def test_what_lies_beside_the_bike_is_judged_against_its_packs(self) -> None:
        """A 48 V hub conversion (54.6 V full). Rows: part of the library, its values, code
        found."""
        bike = make_pattern("hub-conversion", "x")
        for name, values, code in (
            ("charger-48v", {}, ""),
            ("charger-48v", {"out_v": 54.8}, ""),
            ("charger-48v", {"out_v": 54.9}, "W087"),
            ("charger-48v", {"out_v": 53.4}, ""),
            ("charger-48v", {"out_v": 53.2}, "W087"),
            ("charger-48v", {"out_v": 84.0}, "W087"),
            ("converter-12v", {"max_in_v": 54.6}, ""),
            ("converter-12v", {"max_in_v": 54.5}, "W088"),
            ("lamp-12v", {}, ""),
            ("lamp-6v", {}, "W089"),
        ):
            entry = next(e for e in generic_entries() if e.id == name)
            spec = replace(entry.spec, **values)  # type: ignore[type-var]
            made = add_part(bike, entry.kind, entry.name, spec, entry.ports)
            found = {f.code for f in check_bike(made)} & {"W087", "W088", "W089"}
            with self.subTest(name, values=values):
                self.assertEqual(found, {code} - {""})
