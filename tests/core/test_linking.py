"""The link: registers, runs over lines that fail, the learning run, and the simulated device."""

import random
import re
from dataclasses import dataclass, replace
from pathlib import Path
from unittest import TestCase

from brightcore.bike.measured import mark_of, with_measured
from brightcore.bike.model import Bike, MeasuredValue
from brightcore.errors import RangeError, UnknownNameError
from brightcore.formats.profile_file import shipped_profiles
from brightcore.kinds.motor import MotorSpec
from brightcore.linking import layout, learning
from brightcore.linking.layout import counts, fault_words, identify, live, results, shown
from brightcore.linking.learning import STAGES, failed, stage
from brightcore.linking.model import BROWN_OUT, REFUSES, STALE_HALL, STRANGER, DeviceModel
from brightcore.linking.port import LineDroppedError, RefusedError, WrongDeviceError
from brightcore.linking.transfer import (
    OTHER,
    READ,
    REFUSED,
    UNKNOWN,
    WAITING,
    WRITTEN,
    Item,
    read_on,
    save_on_device,
    write_on,
)
from brightcore.programming.profile import Parameter, Profile, Register
from tests.bikes import demo_bike

PROFILES = {profile.id: profile for profile in shipped_profiles()}
FULL, MANY = PROFILES["full-controller"], PROFILES["field-oriented-controller"]
OTTER, FERN = demo_bike("otter"), demo_bike("fern")


@dataclass
class Line:
    """A line to a simulated device that drops at a request; whether a write then has arrived."""

    model: DeviceModel
    drop_at: int = -1
    arrives: bool = True
    asked: int = 0
    now: float = 0.0

    def _ask(self) -> bool:
        """Count a request; return whether its answer is lost."""
        self.asked += 1
        self.now += 0.01
        return self.asked == self.drop_at

    def read(self, number: int, count: int) -> list[int]:
        if self._ask():
            raise LineDroppedError("no answer")
        return self.model.read(number, count, self.now)

    def write(self, number: int, value: int) -> None:
        lost = self._ask()
        if not lost or self.arrives:
            self.model.write(number, value, self.now)
        if lost:
            raise LineDroppedError("no answer")


def device(profile: Profile = FULL, bike: Bike = OTTER, fault: str = "") -> DeviceModel:
    return DeviceModel(bike, "controller", profile, fault)


def always() -> float:
    return 1.0


def items_of(profile: Profile) -> list[Item]:
    return [Item(p.code) for p in profile.parameters if p.register is not None]


def held(model: DeviceModel, code: str) -> float:
    item = model.profile.parameter(code)
    assert item.register is not None
    return shown(item, model.held[item.register.number])


class RegisterTest(TestCase):
    def test_counts_and_back_for_every_value_of_every_device(self) -> None:
        for profile in PROFILES.values():
            for item in profile.parameters:
                if item.register is None:
                    continue
                for value in (
                    item.low,
                    item.default,
                    item.high,
                    item.nearest((item.low + item.high) / 3),
                ):
                    with self.subTest(profile.id, code=item.code):
                        self.assertAlmostEqual(shown(item, counts(item, value)), value, 6)

    def test_what_a_register_cannot_hold_is_refused(self) -> None:
        item = Parameter("x", "x", -1e5, 1e5, 1, 0, register=Register(0, 1.0))
        signed = replace(item, register=Register(0, 1.0, signed=True))
        for of, value, raw in (
            (item, 65535, 65535),
            (item, 65536, None),
            (item, -1, None),
            (signed, -1, 65535),
        ):
            if raw is None:
                self.assertRaises(RangeError, counts, of, value)
            else:
                self.assertEqual((counts(of, value), shown(of, raw)), (raw, value))
        self.assertRaises(RangeError, counts, replace(item, register=None), 1)

    def test_faults_are_told_in_words(self) -> None:
        for bits, words in (
            (0, ()),
            (1, layout.FAULTS[:1]),
            (18, (layout.FAULTS[1], layout.FAULTS[4])),
        ):
            self.assertEqual(fault_words(bits), words)


class ReadTest(TestCase):
    def test_all_is_read_and_where_together_is_refused_one_by_one(self) -> None:
        for profile, bike in ((FULL, OTTER), (MANY, FERN)):
            model, items = device(profile, bike), items_of(profile)
            self.assertTrue(read_on(Line(model), profile, items, always))
            self.assertTrue(all(i.state == READ and i.shown == held(model, i.code) for i in items))
        model, items = device(), items_of(FULL)
        model.bench.fault, model.bench.argument = REFUSES, 7
        read_on(Line(model), FULL, items, always)
        self.assertEqual([i.code for i in items if i.state == REFUSED], ["c08"])
        self.assertEqual(sum(i.state == READ for i in items), 35)

    def test_a_line_that_drops_anywhere_leaves_nothing_half_told_and_is_gone_on_with(self) -> None:
        for drop in range(1, 5):
            model, items = device(MANY, FERN), items_of(MANY)
            line = Line(model, drop)
            for _ in range(3):
                try:
                    if read_on(line, MANY, items, always):
                        break
                except LineDroppedError:
                    self.assertTrue(all(i.shown is None for i in items if i.state == WAITING))
            self.assertTrue(all(i.state == READ for i in items), drop)

    def test_a_step_ends_when_its_time_is_up(self) -> None:
        items = items_of(MANY)
        self.assertFalse(read_on(Line(device(MANY, FERN)), MANY, items, lambda: -1.0))
        self.assertTrue(all(i.is_left for i in items))


class WriteTest(TestCase):
    def chosen(self, model: DeviceModel, rng: random.Random, most: int = 8) -> list[Item]:
        made = []
        for item in rng.sample([p for p in model.profile.parameters if p.register], most):
            value = item.nearest(item.low + rng.random() * (item.high - item.low))
            made.append(Item(item.code, before=held(model, item.code), wanted=value))
        return made

    def test_any_mix_of_writes_and_faults_ends_with_what_the_device_has_or_says_unknown(
        self,
    ) -> None:
        """A property over seeds: the picture is the device's registers, or a plain statement."""
        for seed in range(200):
            rng = random.Random(seed)
            model = device()
            line = Line(model, rng.randrange(1, 26), rng.random() < 0.5)
            model.bench.fault, model.bench.argument = rng.choice(
                ((0, 0), (REFUSES, rng.randrange(36)))
            )
            items = self.chosen(model, rng)
            for _ in range(rng.randrange(1, 4)):
                try:
                    write_on(line, FULL, items, always)
                except (LineDroppedError, RefusedError):
                    continue
            for item in items:
                with self.subTest(seed=seed, code=item.code, state=item.state):
                    if item.state == WAITING:
                        self.assertEqual(held(model, item.code), item.before)
                    elif item.state != UNKNOWN and item.shown is not None:
                        self.assertEqual(held(model, item.code), item.shown)

    def test_what_dropped_at_every_register_in_turn_is_gone_on_with_to_the_end(self) -> None:
        for drop in range(1, 20):
            for arrives in (True, False):
                model = device()
                items = self.chosen(model, random.Random(drop))
                line = Line(model, drop, arrives)
                for _ in range(3):
                    try:
                        if write_on(line, FULL, items, always):
                            break
                    except LineDroppedError:
                        self.assertLessEqual(sum(i.state == UNKNOWN for i in items), 1)
                with self.subTest(drop=drop, arrives=arrives):
                    self.assertEqual({i.state for i in items}, {WRITTEN})
                    self.assertTrue(all(held(model, i.code) == i.wanted for i in items))

    def test_another_device_is_written_nothing(self) -> None:
        model = device()
        model.bench.fault = STRANGER
        before = dict(model.held)
        with self.assertRaisesRegex(WrongDeviceError, "says 4103"):
            write_on(Line(model), FULL, [Item("c01", 20.0, 25.0)], always)
        self.assertEqual(model.held, before)

    def test_refused_and_read_back_otherwise_are_said(self) -> None:
        model = device()
        model.bench.fault, model.bench.argument = REFUSES, 0
        items = [Item("c01", 20.0, 25.0), Item("c02", 40.0, 41.0)]
        write_on(Line(model), FULL, items, always)
        self.assertEqual([(i.state, i.shown) for i in items], [(REFUSED, None), (WRITTEN, 41.0)])

        class Stubborn(Line):
            def write(self, number: int, value: int) -> None:
                super().write(number, value - 10)

        item = Item("c02", 40.0, 41.0)
        write_on(Stubborn(device()), FULL, [item], always)
        self.assertEqual((item.state, item.shown), (OTHER, 36.0))

    def test_a_brown_out_while_saving_is_not_taken_for_saved(self) -> None:
        for fault, said in ((0, True), (BROWN_OUT, False)):
            model = device()
            line = Line(model)
            for code, value in (("c01", 25.0), ("c36", 50.0)):
                write_on(line, FULL, [Item(code, None, value)], always)
            model.bench.fault = fault

            def pause(seconds: float, line: Line = line) -> None:
                line.now += seconds

            self.assertEqual(save_on_device(line, FULL, pause), said)
            self.assertEqual((held(model, "c01"), held(model, "c36") == 50.0), (25.0, said))


class DeviceTest(TestCase):
    def run_stage(self, model: DeviceModel, key: str) -> tuple[int, int, dict[str, float]]:
        line, found = Line(model), stage(key)
        assert found is not None
        line.write(layout.COMMAND, found.command)
        line.now += 2.0
        status, reason = line.read(layout.STATUS, 2)
        return status, reason, results(line)

    def test_live_values_follow_the_circuit_of_the_bike(self) -> None:
        for fault, look in (
            ("", lambda v: v["faults"] == 0 and v["volts"] > 50 and v["rpm"] > 100),
            (
                "controller.halls.v5/contact/open",
                lambda v: v["rpm"] == 0 and "halls make no sense" in fault_words(v["faults"]),
            ),
            ("pack.inside.bms/open/full", lambda v: v["volts"] < 5 and v["rpm"] == 0),
        ):
            model = device(fault=fault)
            model.bench.throttle = 1.0
            line = Line(model)
            live(line)
            line.now += 5.0
            with self.subTest(fault):
                self.assertTrue(look(live(line)), live(line))
        self.assertRaises(UnknownNameError, device, FULL, OTTER, "gremlins")

    def test_the_speed_limit_is_kept_and_a_lever_stops_it(self) -> None:
        model = device()
        model.bench.throttle = 1.0
        line = Line(model)
        for limit in (25.0, 15.0):
            write_on(line, FULL, [Item("c04", None, limit)], always)
            line.now += 8.0
            self.assertAlmostEqual(live(line)["speed_kmh"], limit, delta=0.3)
        model.bench.lever = True
        live(line)
        line.now += 8.0
        self.assertLess(live(line)["speed_kmh"], 0.2)

    def test_a_learning_run_finds_what_the_parts_say(self) -> None:
        motor = OTTER.part("motor").spec
        assert isinstance(motor, MotorSpec)
        model = device(MANY)
        for item in STAGES:
            status, reason, found = self.run_stage(model, item.key)
            self.assertEqual((status, reason), (layout.DONE, 0), item.key)
            self.assertEqual(item.judge(OTTER, OTTER.part("controller"), found), [], item.key)
        self.assertAlmostEqual(
            found["phase_mohm"], 500 * motor.phase_ohm, delta=0.1 * 500 * motor.phase_ohm
        )
        self.assertAlmostEqual(found["rpm_per_v"], motor.rpm_per_v, delta=0.1 * motor.rpm_per_v)
        self.assertEqual(held(model, MANY.by_role("hall_angle_deg").code), 120.0)  # type: ignore[union-attr]

    def test_a_stage_that_cannot_end_says_why_and_what_then(self) -> None:
        stale = device()
        stale.bench.fault, stale.bench.argument = STALE_HALL, 1
        braked = device()
        braked.bench.lever = True
        dead = device(fault="throttle.plug.signal/dead/full")
        for model, key, reason, code in (
            (stale, "halls", 2, "L009"),
            (braked, "rpm", 4, "L010"),
            (dead, "throttle", 3, "L010"),
        ):
            status, why, _ = self.run_stage(model, key)
            self.assertEqual((status, why), (layout.FAILED, reason), key)
            item = stage(key)
            assert item is not None
            self.assertEqual(failed(item, why).code, code)

    def test_numbers_beside_their_limits(self) -> None:
        part = OTTER.part("controller")
        motor = OTTER.part("motor").spec
        assert isinstance(motor, MotorSpec)
        half, kv = 500 * motor.phase_ohm, motor.rpm_per_v

        def with_value(part_id: str, name: str, value: float) -> Bike:
            item = MeasuredValue(
                part_id, name, value, "", "as read", "2026-11-20", mark_of(OTTER, part_id)
            )
            return with_measured(OTTER, [item])

        rest = with_value("throttle", "rest_ratio", 0.17)
        table: tuple[tuple[str, Bike, dict[str, float], list[str]], ...] = (
            ("throttle", OTTER, {"rest_v": 0.8, "full_v": 1.29}, ["L001"]),
            ("throttle", OTTER, {"rest_v": 0.8, "full_v": 1.31}, []),
            (
                "throttle",
                rest,
                {"rest_v": 0.98, "full_v": 4.0},
                ["L002"],
            ),
            ("throttle", rest, {"rest_v": 0.96, "full_v": 4.0}, []),
            ("resistance", OTTER, {"phase_mohm": 1.24 * half}, []),
            ("resistance", OTTER, {"phase_mohm": 1.26 * half}, ["L003"]),
            ("resistance", OTTER, {"phase_mohm": 0.74 * half}, ["L004"]),
            ("inductance", OTTER, {"phase_uh": 1.0}, []),
            ("inductance", with_value("motor", "inductance_uh", 300.0), {"phase_uh": 194.0}, []),
            (
                "inductance",
                with_value("motor", "inductance_uh", 300.0),
                {"phase_uh": 196.0},
                ["L005"],
            ),
            ("rpm", OTTER, {"rpm_per_v": 1.09 * kv}, []),
            ("rpm", OTTER, {"rpm_per_v": 1.11 * kv}, ["L006"]),
            ("halls", with_value("motor", "crossing", 4.0), {"hall_map": 4.0}, []),
            ("halls", with_value("motor", "crossing", 4.0), {"hall_map": 5.0}, ["L007"]),
            (
                "angle",
                with_value("motor", "spacing_deg", 60.0),
                {"hall_angle_deg": 120.0},
                ["L008"],
            ),
            ("angle", OTTER, {"hall_angle_deg": 60.0}, []),
        )
        for key, bike, values, codes in table:
            item = stage(key)
            assert item is not None
            with self.subTest(key, values=values):
                self.assertEqual([found.code for found in item.judge(bike, part, values)], codes)

    def test_codes_are_documented(self) -> None:
        source = Path(learning.__file__).read_text()
        codes = sorted(set(re.findall(r'"(L\d{3})"', source)))
        text = (Path(__file__).parents[2] / "docs/program.md").read_text()
        self.assertEqual(codes, re.findall(r"^\| (L\d{3})", text, re.M))

    def test_who_it_is(self) -> None:
        found = identify(Line(device()))
        self.assertEqual((found.word, found.firmware_words), (FULL.identity, "1.04"))
