"""Program: what every device should be told, what values mean together, presses, and profiles."""

import json
import random
from dataclasses import replace
from pathlib import Path
from unittest import TestCase

import jsonschema
import networkx as nx

from brightcore.bike.measured import mark_of, with_measured
from brightcore.bike.model import Bike, MeasuredValue, Wire
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.errors import FormatError, RangeError
from brightcore.formats.profile_file import (
    dump_profile,
    load_profile,
    profile_document,
    profile_schema,
    shipped_profiles,
)
from brightcore.programming.case import Aim
from brightcore.programming.checks import check_values
from brightcore.programming.derive import derive_settings
from brightcore.programming.keys import EDIT, Machine, Place, leaving, plan, standing_at
from brightcore.programming.profile import Profile
from brightcore.programming.roles import ROLES
from tests.bikes import demo_bike

DOCS = Path(__file__).parents[2] / "docs"
FERN, OTTER = demo_bike("fern"), demo_bike("otter")
CART, TWO = make_pattern("two-motor-cart", "cart"), make_pattern("two-packs", "two")
MID, SOFT = make_pattern("mid-conversion", "mid"), make_pattern("soft-packs", "soft")


def with_spec(bike: Bike, part_id: str, **values: float) -> Bike:
    """Return the bike with a part of other values."""
    parts = tuple(
        replace(p, spec=replace(p.spec, **values)) if p.id == part_id else p for p in bike.parts
    )
    return replace(bike, parts=parts)


CART_UNLIKE = with_spec(CART, "motor_right", phase_ohm=0.3)
FOURTEEN = with_spec(FERN, "pack", series_count=14)
ALL = tuple(role.name for role in ROLES)
PROFILES = {profile.id: profile for profile in shipped_profiles()}
THIN = replace(
    OTTER,
    joins=tuple(
        replace(j, wire=Wire(0.5, 0.5)) if "phases" in (j.a_port, j.b_port) else j
        for j in OTTER.joins
    ),
)
AIM = Aim(30.0, "the class of the place")


def wanted(bike: Bike, part: str, aim: Aim = AIM) -> dict[str, float]:
    """Return what a device should be set to, by role."""
    return {d.role: d.value for d in derive_settings(bike, aim, {part: ALL}) if d.part == part}


def measured(bike: Bike, part: str, name: str, value: float) -> Bike:
    item = MeasuredValue(part, name, value, "", "as read", "2026-11-20", mark_of(bike, part))
    return with_measured(bike, [item])


VALUES = (
    # bike, device, role, value; where it comes from
    (FERN, "controller", "wheel_circumference_mm", 1571.0),  # 47-406, ISO 5775-1 [std]
    (FERN, "display", "level_speed_1", 9.0),  # limit 30: 9, 15, 20, 24, 30 [cp]
    (FERN, "display", "level_speed_2", 15.0),
    (FERN, "display", "level_speed_3", 20.0),
    (FERN, "display", "level_speed_4", 24.0),
    (FERN, "display", "level_speed_5", 30.0),
    (FERN, "display", "start_level", 1.0),  # at level zero the throttle is dead on many [cp]
    (TWO, "controller", "regen", 0.0),  # none through a combining module [cp]
    (FERN, "controller", "roll_back_c", 95.0),  # 90 to 100 °C [cp]
    (FERN, "controller", "stop_c", 125.0),  # 120 to 130 °C [cp]
    (FERN, "controller", "hall_angle_deg", 120.0),
    (FERN, "controller", "cut_off_kind", 1.0),
    (OTTER, "controller", "cut_off_kind", 3.0),
    (OTTER, "controller", "wheel_circumference_mm", 2095.0),  # 54-559: π × (559 + 108) [std]
    (TWO, "controller", "wheel_circumference_mm", 2268.0),  # 50-622: π × (622 + 100) [std]
    (FERN, "controller", "series_count", 13.0),
    (FERN, "controller", "low_cutoff_v", 40.0),  # 13 × 3.1 = 40.3 V under load [cp]
    (OTTER, "controller", "low_cutoff_v", 43.0),  # 14 × 3.1 = 43.4 V [cp]
    (FERN, "controller", "over_voltage_v", 56.8),  # 13 × 4.2 × 1.04 [cp]
    (FERN, "display", "pack_label_v", 48.0),  # what the trade calls 13 cells [cp]
    (TWO, "display", "capacity_ah", 24.0),  # 14 + 10 Ah
    (FERN, "controller", "throttle_start_v", 1.0),  # 0.85 + 0.15 V [cp]
    (FERN, "controller", "throttle_end_v", 3.9),  # 4.00 − 0.1 V [cp]
    (OTTER, "controller", "pole_pairs", 23.0),  # 46 magnets, direct drive
    (OTTER, "controller", "phase_mohm", 45.0),  # a star: half of 90 mΩ between two phases
    (OTTER, "controller", "rpm_per_v", 8.2),
    (FERN, "controller", "start_pulses", 2.0),  # a sixth of a turn of 12 [cp]
    (MID, "controller", "start_pulses", 3.0),  # of 18
    (MID, "controller", "shift_pause_ms", 250.0),  # a quarter of a second [cp]
    (FERN, "controller", "shift_pause_ms", 0.0),
    (FERN, "controller", "light_v", 12.0),
    (SOFT, "pack_upper", "series_count", 6.0),  # each board its own cells, not the string's 12
    (SOFT, "pack_upper", "capacity_ah", SOFT.part("pack_upper").spec.capacity_ah),
    (
        FOURTEEN,
        "controller",
        "over_voltage_v",
        60.0,
    ),  # 14 × 4.2 × 1.04 = 61.2 V on a rating of 60 V
    (MID, "controller", "rpm_per_v", round(75 / 21.9, 2)),  # of the shaft that the pole pairs count
    (CART_UNLIKE, "controller_right", "phase_mohm", 150.0),  # its own motor's, not the first one's
    (FERN, "controller", "current_limit_a", 22.0),  # the controller's rating is the lowest
)

CHECKED = (
    # bike, {(device, role): value}, codes found
    (FERN, {("display", "speed_limit_kmh"): 30, ("controller", "speed_limit_kmh"): 30}, []),
    (FERN, {("display", "speed_limit_kmh"): 25, ("controller", "speed_limit_kmh"): 30}, ["V001"]),
    (FERN, {("display", "speed_limit_kmh"): 30.5}, []),
    (FERN, {("display", "speed_limit_kmh"): 31}, ["V002"]),
    (FERN, {("controller", "low_cutoff_v"): 33}, ["V003"]),
    (FERN, {("controller", "low_cutoff_v"): 41}, []),
    (FERN, {("controller", "low_cutoff_v"): 49}, ["V005"]),
    (FERN, {("controller", "low_cutoff_v"): 55}, ["V004"]),
    (FERN, {("controller", "over_voltage_v"): 54.6}, ["V006"]),
    (FERN, {("controller", "over_voltage_v"): 54.8}, []),
    (FERN, {("controller", "current_limit_a"): 300}, ["V007"]),
    (FERN, {("controller", "phase_limit_a"): 300}, ["V008"]),
    (THIN, {("controller", "phase_limit_a"): 30}, ["V009"]),
    (THIN, {("controller", "phase_limit_a"): 10}, []),
    (TWO, {("controller", "regen"): 1}, ["V010"]),
    (TWO, {("controller", "regen"): 0}, []),
    (FERN, {("controller", "regen"): 1}, ["V011"]),
    (OTTER, {("controller", "regen"): 1}, ["V012"]),
    (MID, {("controller", "pole_pairs"): 8}, ["V013"]),
    (FERN, {("display", "start_level"): 0, ("controller", "throttle_needs_assist"): 1}, ["V014"]),
    (FERN, {("display", "start_level"): 0, ("controller", "throttle_needs_assist"): 0}, ["V015"]),
    (FERN, {("display", "start_level"): 1, ("controller", "throttle_needs_assist"): 1}, []),
    (CART, {("controller_left", "ramp"): 2, ("controller_right", "ramp"): 3}, ["V016"]),
    (CART, {("controller_left", "ramp"): 3, ("controller_right", "ramp"): 3}, []),
    (TWO, {("display", "capacity_ah"): 10}, ["V018"]),
    (FERN, {("display", "pack_label_v"): 36}, ["V019"]),
    (FERN, {("display", "level_speed_1"): 9, ("display", "level_speed_2"): 8}, ["V020"]),
    (FERN, {("controller", "throttle_start_v"): 0.89}, ["V021"]),
    (FERN, {("controller", "throttle_start_v"): 0.91}, []),
    (FERN, {("controller", "throttle_end_v"): 4.01}, ["V022"]),
    (FERN, {("display", "wheel_circumference_mm"): 2100}, ["V023"]),
    (FERN, {("display", "speed_magnets"): 1}, ["V024"]),
    (OTTER, {("controller", "cut_off_kind"): 1}, ["V025"]),
    (FERN, {("controller", "stop_c"): 131}, ["V026"]),
    (FERN, {("controller", "stop_c"): 130}, []),
    (FERN, {("controller", "stop_c"): 120, ("controller", "roll_back_c"): 120}, ["V027"]),
    (FERN, {("controller", "mode_share"): 101}, ["V028"]),
    (FERN, {("controller", "light_v"): 48}, ["V029"]),
    (FERN, {("controller", "start_pulses"): 12, ("controller", "pedal_magnets"): 12}, ["V030"]),
    (FERN, {("controller", "start_pulses"): 11, ("controller", "pedal_magnets"): 12}, []),
    (FERN, {("display", "pack_label_v"): 48}, []),
    (FERN, {("display", "pack_label_v"): 52}, ["V019"]),
    (FERN, {("pack", "cell_full_v"): 4.2}, []),
    (FERN, {("pack", "cell_full_v"): 4.21}, ["V031"]),
    (FERN, {("pack", "cell_full_v"): 4.35}, ["V031"]),
    (FERN, {("pack", "cell_low_v"): 2.5}, []),
    (FERN, {("pack", "cell_low_v"): 2.49}, ["V032"]),
    (FERN, {("pack", "cell_low_v"): 3.0}, []),
    (FERN, {("pack", "cell_low_v"): 3.01}, ["V033"]),
    (FERN, {("pack", "board_trip_a"): 60}, []),
    (FERN, {("pack", "board_trip_a"): 61}, ["V034"]),
    (FERN, {("pack", "board_trip_a"): 200}, ["V034", "V035"]),
    (FERN, {("controller", "over_voltage_v"): 60}, []),
    (FERN, {("controller", "over_voltage_v"): 60.1}, ["V036"]),
    (FERN, {("controller", "cut_off_level_v"): 0.51}, []),
    (FERN, {("controller", "cut_off_level_v"): 0.5}, ["V037"]),
    (FERN, {("controller", "cut_off_level_v"): 3.29}, []),
    (FERN, {("controller", "cut_off_level_v"): 3.3}, ["V038"]),
    (FERN, {("controller", "throttle_start_v"): 1.2, ("controller", "throttle_end_v"): 1.21}, []),
    (
        FERN,
        {("controller", "throttle_start_v"): 1.2, ("controller", "throttle_end_v"): 1.2},
        ["V039"],
    ),
    (FERN, {("controller", "pedal_direction"): 0}, []),
    (FERN, {("controller", "pedal_direction"): 1}, ["V040"]),
    (FERN, {("controller", "pedal_magnets"): 12}, []),
    (FERN, {("controller", "pedal_magnets"): 8}, ["V041"]),
    (FERN, {("controller", "start_pulses"): 1}, []),
    (FERN, {("controller", "start_pulses"): 0}, ["V042"]),
    (FERN, {("pack", "series_count"): 13}, []),
    (FERN, {("pack", "series_count"): 14}, ["V043"]),
    (FERN, {("controller", "series_count"): 14}, ["V043"]),
)


class DerivedTest(TestCase):
    def test_values_are_those_of_the_trade(self) -> None:
        for bike, part, role, value in VALUES:
            with self.subTest(bike.info.label, role=role):
                self.assertEqual(wanted(bike, part)[role], value)

    def test_effective_pole_pairs_are_pairs_times_the_reduction(self) -> None:
        """16 magnets, 8 pairs, 9 to 1 behind the gear: 72 [cp]; 22 magnets: 11 pairs [cp]."""
        for magnets, ratio, value in ((16, 9.0, 72.0), (22, 1.0, 11.0)):
            motor = FERN.part("motor")
            spec = replace(motor.spec, magnet_count=magnets, gear_ratio=ratio)
            parts = tuple(replace(p, spec=spec) if p.id == "motor" else p for p in FERN.parts)
            self.assertEqual(wanted(replace(FERN, parts=parts), "controller")["pole_pairs"], value)

    def test_every_role_stands_on_every_device_of_every_bike(self) -> None:
        for bike in (FERN, OTTER, demo_bike("teasel"), *(make_pattern(n, n) for n in PATTERNS)):
            for part in bike.parts:
                for aim in (
                    Aim(),
                    AIM,
                    Aim(25.0, "x", "torque", True, "none"),
                    Aim(throttle="walk"),
                ):
                    for found in derive_settings(bike, aim, {part.id: ALL}):
                        self.assertTrue(found.reason, (part.id, found.role))

    def test_what_was_measured_comes_first_and_says_so(self) -> None:
        bike = measured(FERN, "throttle", "rest_ratio", 0.2)
        self.assertEqual(wanted(bike, "controller")["throttle_start_v"], 1.15)
        (found,) = (
            d
            for d in derive_settings(bike, AIM, {"controller": ("throttle_start_v",)})
            if d.role == "throttle_start_v"
        )
        self.assertIn("measured 2026-11-20", found.reason)


class ChecksTest(TestCase):
    def test_each_check_beside_its_limit(self) -> None:
        for bike, values, codes in CHECKED:
            derived = derive_settings(bike, AIM, {part: ALL for part, _ in values})
            found = check_values(bike, values, derived, AIM)
            with self.subTest(bike.info.label, values=values):
                self.assertEqual(sorted(item.code for item in found), codes)

    def test_codes_are_documented(self) -> None:
        text = (DOCS / "program.md").read_text()
        folder = Path(__file__).parents[2] / "src/brightcore/programming"
        words = "".join(path.read_text() for path in sorted(folder.glob("*.py"))).split('"')
        codes = sorted({w for w in words if len(w) == 4 and w[0] == "V" and w[1:].isdigit()})
        self.assertEqual(
            codes, sorted({line[2:6] for line in text.splitlines() if line.startswith("| V")})
        )
        self.assertGreaterEqual(len(codes), 20)


def graph(machine: Machine, code: str) -> nx.DiGraph:
    """Return every place of a menu and every press, stores of what is not wanted left out."""
    made, waiting, seen = nx.DiGraph(), [Place()], {Place()}
    while waiting:
        place = waiting.pop()
        for key, after, stores in machine.pressed(place):
            item = machine.parameter(place) if place.at == EDIT else None
            if stores and item is not None:
                if item.code == code:
                    made.add_edge(place, ("stored", place.value))
                if machine.count(item, machine.stored[item.code]) != place.value:
                    continue
            other = after.at == EDIT and machine.parameter(after).code != code
            if (
                other
                and machine.count(
                    machine.parameter(after), machine.stored[machine.parameter(after).code]
                )
                != after.value
            ):
                continue
            made.add_edge(place, after, key=key)
            if after not in seen:
                seen.add(after)
                waiting.append(after)
    return made


class KeysTest(TestCase):
    def test_plans_are_the_shortest_from_anywhere(self) -> None:
        """Against networkx, on every shipped menu, from where it is closed and from random places
        [lib]."""
        for profile in (p for p in PROFILES.values() if p.menu.kind):
            rng = random.Random(4)
            for item in profile.parameters:
                machine = Machine(profile, {})
                if machine.count(item, item.high) > 400:
                    continue
                wanted_value = item.nearest(item.low + rng.random() * (item.high - item.low))
                if wanted_value == machine.stored[item.code]:
                    continue
                whole = graph(machine, item.code)
                goal = ("stored", machine.count(item, wanted_value))
                places = [n for n in nx.ancestors(whole, goal) if isinstance(n, Place)]
                for start in (Place(), *rng.sample(sorted(places, key=repr), 4)):
                    presses = plan(machine, item.code, wanted_value, start)
                    with self.subTest(profile.id, code=item.code, start=start):
                        self.assertEqual(
                            sum(p.times for p in presses),
                            nx.shortest_path_length(whole, start, goal),
                        )
                        self.follow(Machine(profile, {}), presses, start, item.code, wanted_value)

    def follow(self, machine: Machine, presses, start: Place, code: str, value: float) -> None:
        before, place = dict(machine.stored), start
        for press in presses:
            for _ in range(press.times):
                place = machine.press(place, press.key)
        self.assertEqual(machine.stored, before | {code: value})
        for press in leaving(machine, place):
            for _ in range(press.times):
                place = machine.press(place, press.key)
        self.assertEqual(place, Place())

    def test_after_a_slip_the_way_goes_on_from_what_is_shown(self) -> None:
        profile = PROFILES["three-button-display"]
        for code, shown, editing in (("P13", 9.0, True), ("P02", None, False), ("", None, False)):
            machine = Machine(profile, {})
            start = standing_at(machine, code, shown, editing)
            if code:
                self.assertEqual(machine.shown(start)[0], code)
            self.follow(machine, plan(machine, "P06", 41.0, start), start, "P06", 41.0)

    def test_values_that_cannot_be_set_are_refused(self) -> None:
        machine = Machine(PROFILES["three-button-display"], {})
        for value in (19.5, 60.5, 41.2):
            with self.assertRaises(RangeError):
                plan(machine, "P06", value)
        self.assertEqual(plan(machine, "P06", 31.5), ())


class ProfileTest(TestCase):
    def test_those_that_ship_keep_schema_and_round_trip(self) -> None:
        jsonschema.Draft202012Validator.check_schema(profile_schema())
        self.assertEqual(
            {p.device for p in PROFILES.values()}, {"display", "controller", "pack", "combiner"}
        )
        for profile in PROFILES.values():
            jsonschema.validate(profile_document(profile), profile_schema())
            self.assertEqual(load_profile(dump_profile(profile)), profile)
            for item in profile.parameters:
                self.assertEqual(item.check(item.default), item.default, item.code)
        self.assertEqual(len(PROFILES["field-oriented-controller"].parameters), 120)

    def test_every_role_is_held_by_some_device(self) -> None:
        held = {role for profile in PROFILES.values() for role in profile.roles()}
        self.assertEqual(set(ALL) - held, set())

    def test_errors_are_named_by_place(self) -> None:
        good = profile_document(PROFILES["three-button-display"])

        def changed(change) -> str:
            document = json.loads(json.dumps(good))
            change(document)
            return json.dumps(document)

        for change, path in (
            (lambda d: d.update(version=9), "$.version"),
            (lambda d: d["parameters"][0].update(role="warp"), "$.parameters[0].role"),
            (lambda d: d["parameters"][1].update(code="P01"), "$.parameters[1].code"),
            (lambda d: d["parameters"][2].update(high=1), "$.parameters[2].high"),
            (lambda d: d["parameters"][3].update(default=99), "$.parameters[3].default"),
            (lambda d: d["parameters"][4].update(step=0), "$.parameters[4].step"),
            (lambda d: d["menu"].update(open=""), "$.menu.open"),
            (lambda d: d.pop("menu"), "$"),
        ):
            with self.subTest(path), self.assertRaises(FormatError) as caught:
                load_profile(changed(change))
            self.assertIn(path, [problem.path for problem in caught.exception.problems])

    def test_values_go_to_the_roles_unit_and_back(self) -> None:
        wheel: Profile = PROFILES["three-button-display"]
        item = wheel.parameter("P02")
        self.assertEqual(item.of_role(2095.0), 209.5)
        self.assertEqual(item.to_role(209.5), 2095.0)
        self.assertEqual(item.of_role(9999.0), item.high)
        self.assertEqual(wheel.parameter("P01").words(1.0), "mi")
        self.assertEqual(wheel.parameter("P06").words(41.0), "41.0 V")
