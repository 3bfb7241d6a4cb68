"""The instruments of Set: their contract, what each judges beside its limits, and what it
refuses."""

import math
import random
import re
from pathlib import Path
from unittest import TestCase

import numpy as np

import brightcore.setting
from brightcore.analysis.bike import analysis_of
from brightcore.bike.model import Bike
from brightcore.circuit.conditions import parse_condition
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.procedure.gates import GATES
from brightcore.setting import INSTRUMENTS, bench_row, instrument
from brightcore.setting.contract import STATES, Field, Verdict, next_step, read_all
from brightcore.setting.cutoff import target_mm
from brightcore.setting.temperature import beta_of, resistance_ohm, temperature_c
from brightcore.setting.torque import torque_nm
from brightcore.simulation.table import Row, Table
from tests.bikes import demo_bike, with_spec

DOCS = Path(__file__).parents[2] / "docs"

FERN, OTTER = demo_bike("fern"), demo_bike("otter")
MID = make_pattern("mid-conversion", "mid")
BIKES = (FERN, OTTER, demo_bike("teasel"), *(make_pattern(name, name) for name in PATTERNS))


def judged(
    key: str,
    bike: Bike,
    subject: str,
    typed: dict[str, str],
    options: dict[str, str] | None = None,
    last: dict[str, float] | None = None,
) -> Verdict:
    """Return the verdict of an instrument on what was typed."""
    item = instrument(key)
    found = read_all(item.fields(bike, subject, typed | (options or {})), typed)
    return item.judge(bike, subject, found, options or {}, last or {})


def first(key: str, bike: Bike) -> str:
    """Return the first thing an instrument can be set on."""
    return instrument(key).subjects(bike)[0].id


class ContractTest(TestCase):
    def test_every_instrument_keeps_the_contract_on_every_bike(self) -> None:
        seen = set()
        for bike in BIKES:
            for item, subject in bench_row(bike):
                with self.subTest(item.key, bike=bike.info.label, subject=subject.id):
                    seen.add(item.key)
                    steps = item.steps(bike, subject.id)
                    ids = [field.id for step in steps for field in step.fields]
                    self.assertEqual(len(ids), len(set(ids)), "two fields of one id in steps()")
                    self.assertTrue(steps, f"setting/{item.key}: steps() gives none")
                    bare = [step.id for step in steps if not (step.fields and step.title)]
                    self.assertEqual(bare, [], "these steps have no fields or no title")
                    self.assertLessEqual(
                        {gate for step in steps for gate in step.cautions}, set(GATES)
                    )
                    for field in (f for step in steps for f in step.fields):
                        self.assertTrue(
                            field.choices or field.words or field.low < field.high, field.id
                        )
                    empty = item.judge(bike, subject.id, read_all((), {}), {}, {})
                    self.assertEqual(
                        (empty.state, empty.findings),
                        ("open", ()),
                        "judge() concludes something of an empty sheet",
                    )
                    self.assertIn(empty.state, STATES)
        missing = {item.key for item in INSTRUMENTS} - seen
        self.assertEqual(
            missing, set(), "no bike of this test can be set with these: add one to BIKES"
        )

    def test_keys_are_of_their_own(self) -> None:
        keys = [item.key for item in INSTRUMENTS]
        self.assertEqual(
            len(keys), len(set(keys)), "two instruments of one key in setting/__init__.py"
        )

    def test_powered_steps_have_a_caution(self) -> None:
        for bike in (FERN, MID):
            for item, subject in bench_row(bike):
                if item.key in ("speed", "groups", "capacity", "plug"):
                    continue
                gates = {gate for step in item.steps(bike, subject.id) for gate in step.cautions}
                self.assertTrue(
                    gates & {"wheel_up", "pack_out"},
                    f"setting/{item.key}: no step names wheel_up or pack_out among its cautions",
                )


ODD = (
    # instrument, bike, field, what cannot be
    ("throttle", FERN, "rest_v", "1001"),
    ("throttle", FERN, "supply_v", "OL"),
    ("cut-off", FERN, "cut_mm", "300"),
    ("groups", FERN, "groups", "3.8 3.8 38"),
    ("groups", FERN, "groups", "3.8 -3.8 3.8"),
    ("torque", MID, "zero_v", "1001"),
    ("speed", FERN, "turns", "0"),
    ("temperature", FERN, "cold_ohm", "-1"),
    ("motor", FERN, "magnets", "1"),
    ("pedal", FERN, "gap_mm", "40"),
)


class CodesTest(TestCase):
    def test_every_code_is_documented_and_of_one_meaning(self) -> None:
        folder = Path(brightcore.setting.__file__).parent
        used = [
            c for file in folder.glob("*.py") for c in re.findall(r'"(S\d{3})"', file.read_text())
        ]
        written = re.findall(r"^\| (S\d{3}) \|", (DOCS / "set.md").read_text(), re.M)
        self.assertEqual(sorted(used), written)


class ReadingTest(TestCase):
    def test_what_cannot_be_is_questioned_and_not_used(self) -> None:
        for key, bike, name, text in ODD:
            with self.subTest(key, field=name):
                item, subject = instrument(key), first(key, bike)
                found = read_all(item.fields(bike, subject), {name: text})
                self.assertIn(name, found.odd)
                self.assertNotIn(name, found.values)

    def test_what_cannot_be_read_names_the_field(self) -> None:
        item = instrument("throttle")
        found = read_all(
            item.fields(FERN, first("throttle", FERN)), {"rest_v": "high", "full_v": "4100 mV"}
        )
        self.assertEqual(list(found.unread), ["rest_v"])
        self.assertEqual(found.number("full_v"), 4.1)

    def test_the_next_step_is_the_first_with_something_missing(self) -> None:
        item, subject = instrument("throttle"), first("throttle", FERN)
        steps = item.steps(FERN, subject)
        for typed, wanted in (
            ({}, "supply"),
            ({"supply_v": "5"}, "rest"),
            ({"supply_v": "5", "rest_v": "OL"}, "rest"),
            ({"supply_v": "5", "rest_v": "0.85", "full_v": "4.1"}, None),
        ):
            step = next_step(steps, read_all(item.fields(FERN, subject), typed))
            self.assertEqual(step.id if step else None, wanted)


CUT = {
    "rest": "off",
    "wiggle": "off",
    "cut_mm": "10",
    "bite_mm": "24",
    "free_mm": "4",
    "proof": "yes",
}
CUT |= {"tack": "done", "glue": "done", "check_1": "hard"}
BY_VOLTS = {"rest_v": "4.9", "wiggle_v": "4.8", "pulled_v": "0.1"} | {
    name: value for name, value in CUT.items() if name not in ("rest", "wiggle")
}
VOLTS = {"shown": "volts"}
GOOD_PLANET = {"magnets": "16", "ring": "64", "sun": "8", "held": "ring"}
HENRY = {"magnets": "16", "uv_uh": "100", "vw_uh": "100", "wu_uh": "100"}
WIRES = {"rest": "5.0 0.0 1.0 4.9", "pushed": "5.0 0.0 1.6 4.9", "turning": "5.0 0.0 1.1 2.4"}
GAUGE = {
    "gauge_ohm": "350",
    "excitation_v": "5",
    "mass_kg": "30",
    "crank_mm": "170",
    "change_mv": "1",
}
GAUGE |= {"full_nm": "60", "span_v": "1"}
GOOD_THROTTLE = {"supply_v": "5.0", "rest_v": "0.85", "full_v": "4.1"}
ROLLED = {"turns": "3", "rolled_m": "4.66"}
GROUPS = " ".join(["3.80"] * 13)
TOTALS = " ".join(f"{3.8 * n:.2f}" for n in range(1, 14))
TORQUE = {"supply_v": "5", "zero_v": "1.0", "mass_kg": "30", "crank_mm": "170", "left_v": "1.5"}
NTC = {"cold_c": "25", "cold_ohm": "10000"}
LOADS = {"groups": GROUPS, "light_v": "49", "light_a": "1", "heavy_v": "46", "heavy_a": "21"}
SPUN = {"magnets": "16", "rpm": "86", "turned": "out", "ac_v": "7.0711"}
PEDAL = {"gap_mm": "2", "low_v": "0.1", "high_v": "4.9", "pulses": "12", "way": "yes"}
ROAD = ROLLED | {"entered_mm": "1553", "magnets": "1", "shown_kmh": "27", "true_kmh": "20"}
DEAD = GOOD_THROTTLE | {"supply_v": "0.1", "rest_v": "0", "full_v": "0"}
WINDING = {
    "magnets": "16",
    "amps": "3",
    "winding_c": "20",
    "uv_mv": "420",
    "vw_mv": "420",
    "wu_mv": "420",
}

JUDGED = (
    # instrument, bike, typed on top of a good sheet, options, last, state, codes
    ("cut-off", OTTER, CUT, {}, {}, "good", []),
    ("cut-off", OTTER, CUT | {"rest": "on"}, {}, {}, "mend", ["S001"]),
    ("cut-off", OTTER, CUT | {"wiggle": "on"}, {}, {}, "mend", ["S002"]),
    ("cut-off", OTTER, CUT | {"cut_mm": "3.9"}, {}, {}, "mend", ["S003"]),
    ("cut-off", OTTER, CUT | {"cut_mm": "4"}, {}, {}, "good", []),
    ("cut-off", OTTER, CUT | {"cut_mm": "16"}, {}, {}, "good", []),
    ("cut-off", OTTER, CUT | {"cut_mm": "16.1"}, {}, {}, "mend", ["S004"]),
    ("cut-off", OTTER, CUT | {"cut_mm": "13.9"}, {"school": "late"}, {}, "mend", ["S003"]),
    ("cut-off", OTTER, CUT | {"cut_mm": "14"}, {"school": "late"}, {}, "good", []),
    ("cut-off", OTTER, CUT | {"cut_mm": "24.1"}, {"school": "late"}, {}, "mend", ["S004"]),
    ("cut-off", OTTER, CUT | {"bar_mm": "30", "cut_mm": "31"}, {}, {}, "mend", ["S007"]),
    ("cut-off", OTTER, CUT | {"bar_mm": "24"}, {}, {}, "danger", ["S114"]),
    ("cut-off", OTTER, BY_VOLTS | {"rest_v": "5.6"}, VOLTS, {}, "danger", ["S141"]),
    ("cut-off", OTTER, BY_VOLTS | {"pulled_v": "48"}, VOLTS, {}, "danger", ["S141"]),
    ("cut-off", OTTER, BY_VOLTS | {"pulled_v": "-0.6"}, VOLTS, {}, "danger", ["S140"]),
    ("cut-off", OTTER, CUT | {"cut_mm": "15", "release_mm": "3"}, {}, {}, "good", []),
    ("cut-off", OTTER, CUT | {"cut_mm": "15", "release_mm": "2.9"}, {}, {}, "good", ["S005"]),
    ("cut-off", OTTER, CUT | {"release_mm": "11"}, {}, {}, "mend", ["S008"]),
    ("cut-off", OTTER, CUT | {"proof": "no"}, {}, {}, "danger", ["S006"]),
    ("cut-off", OTTER, CUT | {"check_1": "soft"}, {}, {}, "open", []),
    ("cut-off", OTTER, CUT | {"check_1": "soft", "check_2": "hard"}, {}, {}, "good", []),
    ("cut-off", OTTER, CUT | {"check_1": "soft", "check_2": "moved"}, {}, {}, "mend", ["S112"]),
    ("cut-off", OTTER, BY_VOLTS, VOLTS, {}, "good", []),
    ("cut-off", OTTER, BY_VOLTS | {"rest_v": "3.3"}, VOLTS, {}, "good", []),
    ("cut-off", OTTER, BY_VOLTS | {"rest_v": "3.2"}, VOLTS, {}, "mend", ["S111"]),
    ("cut-off", OTTER, BY_VOLTS | {"rest_v": "0.2"}, VOLTS, {}, "mend", ["S001"]),
    ("cut-off", OTTER, BY_VOLTS | {"wiggle_v": "1.2"}, VOLTS, {}, "mend", ["S002"]),
    ("cut-off", OTTER, BY_VOLTS | {"pulled_v": "0.6"}, VOLTS, {}, "mend", ["S111"]),
    ("cut-off", OTTER, BY_VOLTS | {"pulled_v": "4.8"}, VOLTS, {}, "mend", ["S113"]),
    ("motor", FERN, HENRY, {}, {}, "good", []),
    ("motor", FERN, HENRY | {"wu_uh": "116"}, {}, {}, "good", ["S084"]),
    ("motor", FERN, HENRY | {"wu_uh": "140"}, {}, {}, "mend", ["S084"]),
    ("torque-wires", MID, WIRES, {}, {}, "good", []),
    ("torque-wires", MID, WIRES | {"pushed": "5 0 1.6"}, {}, {}, "mend", ["S036"]),
    ("torque-wires", MID, WIRES | {"rest": "9.9 0 1 4.9"}, {}, {}, "danger", ["S038"]),
    ("torque-wires", MID, WIRES | {"turning": "5 0 1 4.9", "pushed": "5 0 1 4.9"},
     {}, {}, "good", ["S037"]),
    ("gauge", MID, GAUGE, {}, {}, "good", []),
    ("gauge", MID, GAUGE | {"gauge_ohm": "361"}, {}, {}, "good", ["S028"]),
    ("gauge", MID, GAUGE | {"excitation_v": "10.4"}, {}, {}, "good", []),
    ("gauge", MID, GAUGE | {"excitation_v": "10.6"}, {}, {}, "mend", ["S029"]),
    ("gauge", MID, GAUGE | {"change_mv": "0.009"}, {}, {}, "mend", ["S026"]),
    ("gauge", MID, GAUGE | {"change_mv": "0.2"}, {}, {}, "good", ["S027"]),
    ("capacity", FERN, {"taken_ah": "16", "lowest_v": "38"}, {}, {}, "good", []),
    ("capacity", FERN, {"taken_ah": "14.8", "lowest_v": "38"}, {}, {}, "good", ["S123"]),
    ("capacity", FERN, {"taken_ah": "13.0", "lowest_v": "38"}, {}, {}, "good", ["S122"]),
    ("capacity", FERN, {"taken_ah": "22", "lowest_v": "38"}, {}, {}, "mend", ["S120"]),
    ("capacity", FERN, {"taken_ah": "16", "lowest_v": "44"}, {}, {}, "mend", ["S126"]),
    ("capacity", FERN, {"taken_ah": "16", "lowest_v": "39.7"}, {}, {}, "good", []),
    ("capacity", FERN, {"taken_ah": "16", "lowest_v": "39.8"}, {}, {}, "mend", ["S126"]),
    ("capacity", FERN, {"taken_ah": "16", "lowest_v": "44", "ended": "cut"},
     {}, {}, "good", ["S121"]),
    ("capacity", FERN, {"taken_ah": "16", "lowest_v": "32.4"}, {}, {}, "danger", ["S125"]),
    ("capacity", FERN, {"taken_ah": "16", "lowest_v": "12"}, {}, {}, "danger", ["S125"]),
    ("capacity", FERN, {"taken_ah": "16", "lowest_v": "-12"}, {}, {}, "danger", ["S140"]),
    ("capacity", FERN, {"taken_ah": "15", "lowest_v": "38"},
     {}, {"capacity_ah": 16.8}, "good", ["S124"]),
    ("capacity", FERN, {"taken_ah": "15.2", "lowest_v": "38"},
     {}, {"capacity_ah": 16.8}, "good", []),
    ("throttle", FERN, GOOD_THROTTLE, {}, {}, "good", []),
    ("throttle", FERN, GOOD_THROTTLE | {"supply_v": "4.69"}, {}, {}, "mend", ["S010"]),
    ("throttle", FERN, GOOD_THROTTLE | {"supply_v": "4.7"}, {}, {}, "good", []),
    ("throttle", FERN, GOOD_THROTTLE | {"supply_v": "5.2"}, {}, {}, "good", []),
    ("throttle", FERN, GOOD_THROTTLE | {"supply_v": "5.3"}, {}, {}, "mend", ["S010"]),
    ("throttle", FERN, GOOD_THROTTLE | {"supply_v": "5.5"}, {}, {}, "mend", ["S010"]),
    ("throttle", FERN, GOOD_THROTTLE | {"supply_v": "5.6"}, {}, {}, "danger", ["S141"]),
    ("throttle", FERN, GOOD_THROTTLE | {"supply_v": "12.4"}, {}, {}, "danger", ["S141"]),
    ("throttle", FERN, GOOD_THROTTLE | {"supply_v": "53.9"}, {}, {}, "danger", ["S141"]),
    ("throttle", FERN, GOOD_THROTTLE | {"supply_v": "-0.6"}, {}, {}, "danger", ["S140"]),
    ("throttle", FERN, GOOD_THROTTLE | {"full_v": "5.6"}, {}, {}, "danger", ["S141"]),
    ("throttle", FERN, GOOD_THROTTLE | {"sweep": "0.85 48 4.1"},
     {}, {}, "danger", ["S141", "S016", "S023"]),
    ("throttle", with_spec(FERN, "controller", throttle_start_v=1.66),
     GOOD_THROTTLE, {}, {}, "good", []),
    ("throttle", with_spec(FERN, "controller", throttle_start_v=1.67),
     GOOD_THROTTLE, {}, {}, "good", ["S009"]),
    ("throttle", FERN, GOOD_THROTTLE | {"rest_v": "0.5"}, {}, {}, "good", ["S015"]),
    ("throttle", FERN, GOOD_THROTTLE | {"rest_v": "0.49"}, {}, {}, "mend", ["S021"]),
    ("throttle", FERN, GOOD_THROTTLE | {"rest_v": "0.02"}, {}, {}, "mend", ["S021"]),
    ("throttle", FERN, GOOD_THROTTLE | {"rest_v": "1.06"}, {}, {}, "mend", ["S022"]),
    ("throttle", FERN, GOOD_THROTTLE | {"sweep": "0.85 1.6 4.19"}, {}, {}, "good", []),
    ("throttle", FERN, GOOD_THROTTLE | {"sweep": "0.85 1.6 4.3"}, {}, {}, "mend", ["S023"]),
    ("throttle", FERN, GOOD_THROTTLE | {"rest_v": "4.6"}, {}, {}, "danger", ["S011"]),
    ("throttle", FERN, DEAD, {}, {}, "mend", ["S012"]),
    ("throttle", FERN, GOOD_THROTTLE | {"rest_v": "0.1", "full_v": "0.1"},
     {}, {}, "mend", ["S013"]),
    ("throttle", FERN, GOOD_THROTTLE | {"rest_v": "0.85", "full_v": "1.0"},
     {}, {}, "mend", ["S014"]),
    ("throttle", FERN, GOOD_THROTTLE | {"rest_v": "1.05"}, {}, {}, "good", ["S015"]),
    ("throttle", FERN, GOOD_THROTTLE | {"rest_v": "1.15"}, {}, {}, "danger", ["S017"]),
    ("throttle", FERN, GOOD_THROTTLE | {"full_v": "3.5"}, {}, {}, "mend", ["S018"]),
    ("throttle", FERN, GOOD_THROTTLE | {"full_v": "4.7"}, {}, {}, "mend", ["S019"]),
    ("throttle", FERN, GOOD_THROTTLE | {"sweep": "0.85 1.6 1.5 4.1"}, {}, {}, "mend", ["S016"]),
    ("throttle", FERN, GOOD_THROTTLE | {"sweep": "0.85 1.6 1.53 4.1"}, {}, {}, "good", []),
    ("throttle", FERN, GOOD_THROTTLE, {}, {"rest_v": 0.74}, "good", ["S020"]),
    ("torque", MID, TORQUE, {}, {}, "good", []),
    ("torque", MID, TORQUE | {"supply_v": "10"}, {}, {}, "danger", ["S141"]),
    ("torque", MID, TORQUE | {"supply_v": "4.6"}, {}, {}, "mend", ["S046"]),
    ("torque", MID, TORQUE | {"left_v": "4.5"}, {}, {}, "good", []),
    ("torque", MID, TORQUE | {"left_v": "4.51"}, {}, {}, "mend", ["S047"]),
    ("torque", MID, TORQUE | {"zero_v": "0.69"}, {}, {}, "mend", ["S031"]),
    ("torque", MID, TORQUE | {"left_v": "1.02"}, {}, {}, "mend", ["S032"]),
    ("torque", MID, TORQUE | {"right_v": "1.56"}, {}, {}, "good", ["S033"]),
    ("torque", MID, TORQUE | {"right_v": "1.0"}, {}, {}, "good", ["S034"]),
    ("torque", MID, TORQUE, {}, {"torque_nm_per_v": 88.0}, "good", ["S035"]),
    ("speed", FERN, ROLLED, {}, {}, "good", []),
    ("speed", FERN, ROLLED | {"rolled_m": "4.4"}, {}, {}, "good", ["S040"]),
    ("speed", FERN, ROAD | {"entered_mm": "2095"}, {}, {}, "mend", ["S041"]),
    ("speed", FERN, ROAD | {"shown_kmh": "120"}, {}, {}, "mend", ["S042"]),
    ("speed", FERN, ROAD, {}, {}, "mend", ["S043"]),
    ("speed", FERN, ROAD | {"shown_kmh": "20.5"}, {}, {}, "good", []),
    ("groups", FERN, {"groups": GROUPS}, {}, {}, "good", []),
    ("groups", FERN, {"groups": "3.80 3.81"}, {}, {}, "mend", ["S070"]),
    ("groups", FERN, {"groups": GROUPS[:-4] + "3.74"}, {}, {}, "good", ["S074"]),
    ("groups", FERN, {"groups": GROUPS[:-4] + "3.69"}, {}, {}, "mend", ["S073"]),
    ("groups", FERN, {"groups": GROUPS.replace("3.80", "2.55")}, {}, {}, "mend", ["S078"]),
    ("groups", FERN, {"groups": GROUPS.replace("3.80", "3.00")}, {}, {}, "good", []),
    ("groups", FERN, {"groups": GROUPS[:-4] + "3.30"}, {}, {}, "mend", ["S073"]),
    ("groups", FERN, {"groups": GROUPS[:-4] + "3.29"}, {}, {}, "danger", ["S079"]),
    ("groups", FERN, {"groups": GROUPS[:-4] + "-0.4"}, {}, {}, "danger", ["S071"]),
    ("groups", FERN, {"groups": GROUPS[:-4] + "4.75"}, {}, {}, "danger", ["S072"]),
    ("groups", FERN, {"groups": GROUPS[5:-4] + "1.2"}, {}, {}, "danger", ["S071", "S070"]),
    ("groups", FERN, {"groups": GROUPS.replace(".", ",")}, {}, {}, "good", []),
    ("groups", FERN, {"groups": GROUPS.replace(" ", "; ")}, {}, {}, "good", []),
    ("groups", FERN, {"groups": TOTALS}, {}, {}, "good", ["S145"]),
    ("groups", FERN, LOADS | {"heavy_v": "45.1"}, {}, {}, "good", []),
    ("groups", FERN, LOADS | {"heavy_v": "44.9"}, {}, {}, "good", ["S076"]),
    ("groups", FERN, LOADS | {"heavy_v": "41.3"}, {}, {}, "good", ["S076"]),
    ("groups", FERN, LOADS | {"heavy_v": "41.1"}, {}, {}, "mend", ["S144"]),
    ("groups", FERN, LOADS | {"heavy_v": "12", "heavy_a": "2.03"}, {}, {}, "mend", ["S144"]),
    ("groups", FERN, LOADS | {"heavy_v": "48.93"}, {}, {}, "mend", ["S143"]),
    ("groups", FERN, LOADS | {"light_v": "55.3"}, {}, {}, "danger", ["S142"]),
    ("groups", FERN, {"groups": GROUPS[:-4] + "2.49"}, {}, {}, "danger", ["S071"]),
    ("groups", FERN, {"groups": GROUPS[:-4] + "4.26"}, {}, {}, "danger", ["S072"]),
    ("groups", FERN, LOADS, {}, {}, "good", []),
    ("groups", FERN, LOADS | {"heavy_v": "43.9"}, {}, {}, "good", ["S076"]),
    ("groups", FERN, LOADS | {"heavy_v": "49"}, {}, {}, "mend", ["S075"]),
    ("groups", FERN, LOADS, {}, {"internal_ohm": 0.11}, "good", ["S077"]),
    ("temperature", FERN, NTC, {}, {}, "good", []),
    ("temperature", FERN, NTC | {"cold_ohm": "8400"}, {}, {}, "mend", ["S060"]),
    ("temperature", FERN, NTC | {"warm_c": "60", "warm_ohm": "14000"}, {}, {}, "mend", ["S061"]),
    ("temperature", FERN, NTC | {"warm_c": "60", "warm_ohm": "5000"}, {}, {}, "good", ["S062"]),
    ("temperature", FERN, NTC | {"cold_ohm": "OL"}, {}, {}, "mend", ["S063"]),
    ("temperature", FERN, NTC | {"cold_ohm": "0"}, {}, {}, "mend", ["S064"]),
    ("temperature", FERN, NTC | {"cold_ohm": "9.9"}, {}, {}, "mend", ["S064"]),
    ("temperature", FERN, NTC | {"warm_c": "60", "warm_ohm": "OL"}, {}, {}, "mend", ["S063"]),
    ("temperature", FERN, NTC | {"warm_c": "60", "warm_ohm": "9600"}, {}, {}, "mend", ["S065"]),
    ("temperature", FERN, NTC | {"warm_c": "60", "warm_ohm": "10000"}, {}, {}, "mend", ["S065"]),
    ("gauge", MID, GAUGE | {"gauge_ohm": "OL"}, {}, {}, "mend", ["S024"]),
    ("gauge", MID, GAUGE | {"gauge_ohm": "0"}, {}, {}, "mend", ["S025"]),
    ("motor", FERN, WINDING | {"uv_mv": "OL", "vw_mv": "OL"}, {}, {}, "mend", ["S086"]),
    ("motor", FERN, WINDING | {"uv_mv": "OL", "vw_mv": "OL", "wu_mv": "OL"},
     {}, {}, "mend", ["S086"]),
    ("motor", FERN, WINDING | {"uv_mv": "0"}, {}, {}, "mend", ["S082"]),
    ("motor", FERN, WINDING | {"uv_mv": ""}, {}, {}, "open", []),
    ("motor", FERN, GOOD_PLANET, {}, {}, "good", []),
    ("motor", FERN, GOOD_PLANET | {"held": ""}, {}, {}, "mend", ["S088"]),
    ("motor", FERN, SPUN, {}, {}, "good", []),
    ("motor", FERN, SPUN | {"turned": ""}, {}, {}, "mend", ["S089"]),
    ("motor", FERN, SPUN | {"turned": "rotor"}, {}, {}, "mend", ["S087"]),
    ("motor", FERN, SPUN | {"rpm": "430", "turned": "rotor"}, {}, {}, "good", []),
    ("motor", FERN, SPUN | {"rpm": "257"}, {}, {}, "good", ["S081"]),
    ("motor", FERN, SPUN | {"rpm": "300"}, {}, {}, "mend", ["S087"]),
    ("motor", FERN, WINDING, {}, {}, "good", []),
    ("motor", FERN, WINDING | {"magnets": "15"}, {}, {}, "mend", ["S080"]),
    ("motor", FERN, WINDING | {"wu_mv": "480"}, {}, {}, "good", ["S083"]),
    ("motor", FERN, WINDING | {"wu_mv": "600"}, {}, {}, "mend", ["S083"]),
    ("motor", FERN, WINDING | {"amps": "0.2"}, {}, {}, "mend", ["S082"]),
    ("function", FERN, {"does": "pass", "volts": "12"}, {}, {}, "good", []),
    ("function", FERN, {"does": "fail"}, {}, {}, "mend", ["S110"]),
    ("pedal", FERN, PEDAL, {}, {}, "good", []),
    ("pedal", FERN, PEDAL | {"gap_mm": "4.1"}, {}, {}, "mend", ["S050"]),
    ("pedal", FERN, PEDAL | {"high_v": "2.9"}, {}, {}, "mend", ["S051"]),
    ("pedal", FERN, PEDAL | {"pulses": "11"}, {}, {}, "mend", ["S052"]),
    ("pedal", FERN, PEDAL | {"pulses": "24"}, {}, {}, "good", ["S054"]),
    ("pedal", FERN, PEDAL | {"way": "none"}, {}, {}, "mend", ["S055"]),
    ("pedal", FERN, PEDAL | {"high_v": "48"}, {}, {}, "danger", ["S141"]),
    ("pedal", FERN, PEDAL | {"way": "no"}, {}, {}, "danger", ["S053"]),
)  # fmt: skip

EDGES = (
    # good readings just beside a danger
    ("cut-off", OTTER, CUT | {"bar_mm": "24.1"}, {}, {}, "good", []),
    ("cut-off", OTTER, BY_VOLTS | {"rest_v": "5.5"}, VOLTS, {}, "good", []),
    ("cut-off", OTTER, BY_VOLTS | {"pulled_v": "-0.5"}, VOLTS, {}, "good", []),
    ("capacity", FERN, {"taken_ah": "16", "lowest_v": "32.5"}, {}, {}, "good", []),
    ("torque", MID, TORQUE | {"supply_v": "5.5"}, {}, {}, "good", []),
)  # fmt: skip


class JudgeTest(TestCase):
    def test_both_sides_of_every_limit(self) -> None:
        for key, bike, typed, options, last, state, codes in (*JUDGED, *EDGES):
            with self.subTest(key, typed=typed, options=options, last=last):
                verdict = judged(key, bike, first(key, bike), typed, options, last)
                self.assertEqual(
                    (verdict.state, [f.code for f in verdict.findings]), (state, codes)
                )

    def test_a_good_reading_moved_by_its_tolerance_is_no_danger(self) -> None:
        for key, bike, typed, _, _, state, _ in JUDGED:
            if state != "good":
                continue
            for name, text in typed.items():
                if not text.replace(".", "").isdigit():
                    continue
                for factor in (0.99, 1.01):
                    moved = typed | {name: f"{float(text) * factor:.4f}"}
                    self.assertNotEqual(
                        judged(key, bike, first(key, bike), moved).state, "danger", (key, moved)
                    )

    def test_values_are_those_of_the_books(self) -> None:
        """Trade: 64 and 8 teeth make 9:1 with the ring held, 8 pole pairs then 72, with 80/25 more
        230.4; with the carrier held it is 8:1 [cp]."""
        motor = GOOD_PLANET
        for typed, name, value in (
            (motor, "effective_pole_pairs", 72.0),
            (motor | {"held": "carrier"}, "effective_pole_pairs", 64.0),
            (SPUN | {"rpm": "430", "turned": "rotor"}, "rpm_per_v", 8.6),
            (motor | {"further": "3.2"}, "effective_pole_pairs", 230.4),
            ({"magnets": "22"}, "pole_pairs", 11.0),
            (WINDING, "phase_ohm", 0.14),
        ):
            found = {
                v.name: v.value for v in judged("motor", FERN, first("motor", FERN), typed).values
            }
            self.assertAlmostEqual(found[name], value, places=4)

    def test_a_discharge_names_its_stop_volts(self) -> None:
        """Soft packs without a board are never told to run until something cuts off."""
        for name, part, words in (
            ("hub-conversion", "pack", ("39.0 V", "3 V a cell", "board cuts off")),
            ("soft-packs", "pack_upper", ("20.4 V", "3.4 V a cell", "nothing else stops it")),
        ):
            title = instrument("capacity").steps(make_pattern(name, name), part)[0].title
            for wanted in words:
                self.assertIn(wanted, title)

    def test_the_schools_of_a_cut_off_lie_between_free_play_and_bite(self) -> None:
        for free, bite in ((0.0, 10.0), (4.0, 24.0)):
            for school in ("early", "late"):
                low, high = target_mm(school, free, bite)
                self.assertTrue(free <= low < high <= bite)

    def test_a_thermistor_follows_its_law_both_ways(self) -> None:
        """Trade: 987 Ω at 100 °C with β 3435, 618 and 407 Ω at 120 °C with 3435 and 3950 [cp]."""
        for celsius, beta, ohm in (
            (100.0, 3435.0, 987.0),
            (120.0, 3435.0, 618.0),
            (120.0, 3950.0, 407.0),
        ):
            self.assertAlmostEqual(resistance_ohm(celsius, 10_000.0, beta), ohm, delta=3.0)
            self.assertAlmostEqual(
                temperature_c(resistance_ohm(celsius, 1e4, beta), 1e4, beta), celsius
            )
            self.assertAlmostEqual(
                beta_of(1e4, 25.0, resistance_ohm(celsius, 1e4, beta), celsius), beta
            )

    def test_a_torque_calibration_is_linear(self) -> None:
        for mass in (10.0, 20.0, 40.0):
            self.assertAlmostEqual(torque_nm(mass, 170.0), mass * torque_nm(1.0, 170.0))


class EvidenceTest(TestCase):
    def test_readings_name_pins_and_states_that_each_bike_has(self) -> None:
        seen = set()
        for bike in BIKES:
            table = Table(analysis_of(bike).circuit, [Row()])
            for item, subject in bench_row(bike):
                fields = {field.id for field in item.fields(bike, subject.id, {"shown": "volts"})}
                for at in item.readings(bike, subject.id):
                    with self.subTest(item.key, bike=bike.info.label, field=at.field):
                        condition = parse_condition(table.circuit, at.condition)
                        self.assertEqual(len(table.read_volts(condition, at.red, at.black).mean), 1)
                        self.assertIn(at.field, fields)
                        seen.add(item.key)
        self.assertEqual(seen, {"throttle", "cut-off", "pedal", "torque"})


class PropertyTest(TestCase):
    def test_no_possible_reading_makes_an_instrument_fall_over(self) -> None:
        """Every field at its least, its most and anywhere between, on every bike."""
        rng = random.Random(11)
        for bike in BIKES:
            for item, subject in bench_row(bike):
                for share in (0.0, 1.0, None, None, None):
                    typed: dict[str, str] = {}
                    for _ in range(30):
                        steps = item.steps(bike, subject.id, typed)
                        fresh = {
                            f.id: typed.get(f.id)
                            or _at(f, rng.random() if share is None else share)
                            for step in steps
                            for f in step.fields
                        }
                        if fresh.items() <= typed.items():
                            break
                        typed |= fresh
                    found = read_all([f for step in steps for f in step.fields], typed)
                    with self.subTest(item.key, bike=bike.info.label, share=share):
                        self.assertEqual((found.unread, found.odd), ({}, {}))
                        self.assertIn(item.judge(bike, subject.id, found, {}, {}).state, STATES)

    def test_a_good_sheet_moved_by_its_tolerance_is_never_a_danger(self) -> None:
        for key, bike, typed, options, last, state, _ in JUDGED:
            if state != "good":
                continue
            for name, text in typed.items():
                for share in (0.99, 1.01):
                    moved = typed | {name: _times(text, share)}
                    with self.subTest(key, name=name, share=share):
                        self.assertNotEqual(
                            judged(key, bike, first(key, bike), moved, options, last).state,
                            "danger",
                        )

    def test_a_thermistor_agrees_with_steinhart_and_hart(self) -> None:
        """1/T = A + B ln R + C (ln R)³ through three points (Deep-Sea Research 15 (1968) 497
        [std])."""
        for beta in (3435.0, 3950.0):
            points = (0.0, 50.0, 100.0)
            ohms = [resistance_ohm(c, 10_000.0, beta) for c in points]
            rows = [(1.0, math.log(r), math.log(r) ** 3) for r in ohms]
            a, b, c = np.linalg.solve(np.array(rows), [1 / (p + 273.15) for p in points])
            for celsius in range(0, 131, 10):
                log = math.log(resistance_ohm(celsius, 10_000.0, beta))
                self.assertAlmostEqual(1 / (a + b * log + c * log**3) - 273.15, celsius, delta=0.1)

    def test_the_whole_table_says_where_power_is_taken_back(self) -> None:
        rows = judged("temperature", FERN, first("temperature", FERN), NTC).table
        self.assertEqual({row[0]: row[2] for row in rows}["100"], "power taken back")
        self.assertEqual({row[0]: row[2] for row in rows}["90"], "")
        self.assertEqual(rows[4][1], "10000")

    def test_torque_is_linear(self) -> None:
        for mass, volts in ((15.0, 1.25), (30.0, 1.5), (60.0, 2.0)):
            typed = TORQUE | {"mass_kg": f"{mass}", "left_v": f"{volts}"}
            values = {
                v.name: v.value for v in judged("torque", MID, first("torque", MID), typed).values
            }
            self.assertAlmostEqual(values["torque_nm_per_v"], torque_nm(30.0, 170.0) / 0.5, 1)


def _at(item: Field, share: float) -> str:
    """Return what may be typed into a field, so far from its least to its most."""
    if item.choices:
        return item.choices[round(share * (len(item.choices) - 1))][0]
    if item.words:
        return "red black"
    value = item.low + share * (item.high - item.low)
    value = round(value) if item.whole else round(value, 6)
    return " ".join([f"{value}"] * 4) if item.many else f"{value}"


def _times(text: str, share: float) -> str:
    """Return what was typed with its numbers a share larger; words as they are."""

    def one(word: str) -> str:
        try:
            return f"{float(word) * share:.4f}"
        except ValueError:
            return word

    return " ".join(one(word) for word in text.split())
