"""Every station is asked about the same cell, string, winding and converter; none may differ.

Each row of a table below is one station with the function of it that a technician's answer comes
from. A failure prints what each of them said, so that the one that differs is seen at once.
"""

import ast
from collections import defaultdict
from collections.abc import Callable
from functools import cache
from pathlib import Path
from types import SimpleNamespace
from unittest import TestCase

from brightcore.analysis.strings import highest_v
from brightcore.bands.points import cell
from brightcore.bike.model import Bike
from brightcore.circuit.conditions import Condition
from brightcore.describing.edit import add_part
from brightcore.describing.join_edits import add_join
from brightcore.describing.patterns import make_pattern
from brightcore.formats.part_file import generic_entries
from brightcore.matching.chain import current_chain
from brightcore.physics.cells import CHEMISTRIES
from brightcore.physics.touch import TOUCH_V
from brightcore.procedure.gates import is_high, probe_gates
from brightcore.programming.derive import derive_settings
from brightcore.programming.limits import cell_low
from brightcore.setting import instrument
from brightcore.setting.contract import read_all
from brightcore.wiring.propose import propose_joins
from brightcore.wiring.rules import check_bike
from tests.bikes import demo_bike, with_spec
from tests.core.test_strings import string_bike

SOURCE = Path(__file__).parents[2] / "src" / "brightcore"
FERN = demo_bike("fern")
COUNT = 10
CELL_DANGERS = {"W064", "W066"}


def codes(bike: Bike) -> set[str]:
    return {finding.code for finding in check_bike(bike)}


def told(case: TestCase, what: str, said: dict[str, object]) -> None:
    """Fail where two stations differ, and print what each of them said."""
    if len(set(map(str, said.values()))) > 1:
        rows = "; ".join(f"{station}: {answer}" for station, answer in said.items())
        case.fail(f"{what}: stations differ: {rows}")


def resting(chemistry: str, volts: float) -> Bike:
    """Return Fern with a pack of a chemistry whose cells rest at some volts."""
    return with_spec(
        FERN, "pack", chemistry=chemistry, series_count=COUNT, cell_v=volts, capacity_ah=14.0
    )


def on_set(key: str, bike: Bike, typed: dict[str, str]) -> bool:
    item = instrument(key)
    subject = item.subjects(bike)[0].id
    found = read_all(item.fields(bike, subject, typed), typed)
    return item.judge(bike, subject, found, {}, {}).state == "danger"


def groups_say(chemistry: str, volts: float) -> bool:
    row = " ".join([f"{volts:g}"] * COUNT)
    return on_set("groups", resting(chemistry, 3.3), {"groups": row})


def discharge_says(chemistry: str, volts: float) -> bool:
    typed = {"taken_ah": "13", "lowest_v": f"{COUNT * volts:g}"}
    return on_set("capacity", resting(chemistry, 3.3), typed)


def board_says(chemistry: str, volts: float) -> bool:
    """Whether Program calls it a danger that a board lets a cell down to so many volts."""
    bike = resting(chemistry, 3.3)
    case = SimpleNamespace(holders=lambda role: [(bike.part("pack"), volts)])
    return any(finding.severity == "danger" for finding in cell_low(case))  # type: ignore[arg-type]


def arrive_says(chemistry: str, volts: float) -> bool:
    return bool(CELL_DANGERS & codes(resting(chemistry, volts)))


def bands_say(chemistry: str, volts: float) -> bool:
    return cell(CHEMISTRIES[chemistry]).hazard(volts) is not None


CELL: dict[str, Callable[[str, float], bool]] = {
    "Trace and the link (bands)": bands_say,
    "Set, groups": groups_say,
    "Arrive and Wire (rules)": arrive_says,
}
CELL_LOW = CELL | {"Set, discharge": discharge_says, "Program, board": board_says}
"""Low is asked everywhere; too high is nothing that a discharge or a board's trip can show."""


class CellTest(TestCase):
    def test_every_station_calls_the_same_cell_a_danger(self) -> None:
        for name, cells in CHEMISTRIES.items():
            low = (cells.dead_v - 0.02, cells.dead_v + 0.02, cells.empty_v)
            high = (cells.full_v, cells.full_v + 0.02, cells.full_v + 0.05)
            for asked, volts in ((CELL_LOW, low), (CELL, high)):
                for v in (round(value, 3) for value in volts):
                    said = {station: ask(name, v) for station, ask in asked.items()}
                    with self.subTest(name, volts=v):
                        told(self, f"a {name} cell at {v:g} V", said)

    def test_the_edges_part_danger_from_none(self) -> None:
        for name, cells in CHEMISTRIES.items():
            with self.subTest(name):
                self.assertTrue(bands_say(name, cells.dead_v - 0.02))
                self.assertFalse(bands_say(name, cells.dead_v + 0.02))
                self.assertFalse(bands_say(name, cells.full_v + 0.02))
                self.assertTrue(bands_say(name, cells.full_v + 0.05))


class StringTest(TestCase):
    def test_every_station_calls_the_same_string_dangerous_to_touch(self) -> None:
        """Two packs of 7 or 8 groups: neither is high alone, 58.8 V together are not, 67.2 are."""
        for count in (7, 8):
            bike = string_bike()
            for part in [p.id for p in bike.parts if p.kind == "pack"]:
                bike = with_spec(bike, part, series_count=count)
            said: dict[str, object] = {
                "Wire (W009)": "W009" in codes(bike),
                "Trace and Prove (caution)": "high_volts" in probe_gates(Condition("on"), bike),
                "Set and Program (caution)": is_high(bike),
                "by hand": 2 * count * 4.2 > TOUCH_V,
            }
            with self.subTest(count, full=highest_v(bike)):
                told(self, f"two packs of {count} groups in series", said)


class WindingTest(TestCase):
    def test_match_and_program_say_the_same_of_a_winding(self) -> None:
        for rated, ohm in ((150.0, 0.3), (500.0, 0.12), (1500.0, 0.05), (5000.0, 0.02)):
            bike = make_pattern("hub-conversion", "x")
            bike = with_spec(bike, "motor", rated_w=rated, phase_ohm=ohm, phase_limit_a=0.0)
            bike = with_spec(bike, "controller", phase_limit_a=800.0)
            link = next(x for x in current_chain(bike).links if x.id == "motor:motor")
            wants = derive_settings(bike, held={"controller": ("phase_limit_a",)})
            want = next(w for w in wants if (w.part, w.role) == ("controller", "phase_limit_a"))
            said: dict[str, object] = {
                "Match (chain)": round(link.limit_a),
                "Program (phase limit)": round(want.value),
            }
            with self.subTest(rated=rated, ohm=ohm):
                told(self, f"the winding of a {rated:g} W motor of {ohm:g} Ω", said)


class ConverterTest(TestCase):
    def test_a_converter_is_judged_alike_on_the_bike_and_beside_it(self) -> None:
        entry = next(e for e in generic_entries() if e.kind == "converter")
        base = make_pattern("hub-conversion", "x")
        full = highest_v(base)
        for over in (-0.5, 0.5):
            beside = add_part(base, entry.kind, entry.name, entry.spec, entry.ports)
            own = beside.parts[-1].id
            beside = with_spec(beside, own, max_in_v=full - over)
            joined = beside
            for item in propose_joins(beside):
                if own in (item.one.split(".")[0], item.two.split(".")[0]):
                    joined = add_join(joined, item.one, item.two, pairs=item.pairs)
            said: dict[str, object] = {"beside it": "W088" in codes(beside), "by hand": over > 0}
            if any(joined.joins_of(own)):
                said["on the bike"] = "W010" in codes(joined)
            with self.subTest(over=over):
                told(self, f"a converter for {full - over:.1f} V on {full:.1f} V", said)


SAFETY_WORDS = (
    "ROLL_BACK", "STOP_C", "HARM", "TOUCH", "DEAD_V", "FULL_V", "EMPTY_V", "TRIP_V", "GRAVITY",
    "COPPER_PER_K", "COPPER_OHM", "CONTROLLER_LIMIT", "COPPER_W", "SHORT_RUN", "HIGH_V",
    "OVER_CELL",
)  # fmt: skip
"""Beginnings or parts of the names of safety figures: each such name stands once."""

VALUES = (
    # a safety figure, and the end of the name of every constant of its unit
    (60.0, "_V"), (30.0, "_V"), (95.0, "_C"), (125.0, "_C"), (130.0, "_C"), (85.0, "_C"),
    (60.0, "_S"), (324.0, "_W"), (9.80665, ""), (0.00393, ""), (1.7241e-8, ""),
)  # fmt: skip
"""Two constants of one value and one unit are one figure under two names."""

OTHERS = {
    "bands/points.py: COLDEST_C",
}
"""Constants that have the value of a safety figure by chance."""


class OneHomeTest(TestCase):
    @staticmethod
    @cache
    def constants() -> dict[str, list[tuple[str, float]]]:
        """Return every module-level number by its name: where it stands, and its value."""
        found: dict[str, list[tuple[str, float]]] = defaultdict(list)
        for path in sorted(SOURCE.rglob("*.py")):
            for node in ast.parse(path.read_text()).body:
                if not isinstance(node, ast.Assign) or len(node.targets) != 1:
                    continue
                target, value = node.targets[0], node.value
                pairs = [(target, value)]
                if isinstance(target, ast.Tuple) and isinstance(value, ast.Tuple):
                    pairs = list(zip(target.elts, value.elts, strict=False))
                for name, number in pairs:
                    if not (isinstance(name, ast.Name) and isinstance(number, ast.Constant)):
                        continue
                    if isinstance(number.value, int | float):
                        where = str(path.relative_to(SOURCE))
                        found[name.id].append((where, float(number.value)))
        return found

    def test_no_safety_figure_has_a_second_home(self) -> None:
        for name, places in self.constants().items():
            if any(word in name for word in SAFETY_WORDS):
                with self.subTest(name):
                    where = [place for place, _ in places]
                    self.assertEqual(
                        len(where), 1, f"{name} stands in {where}: keep one, import it elsewhere"
                    )

    def test_no_other_constant_has_the_value_of_a_safety_figure(self) -> None:
        """A second constant of one meaning under another name is told by its value."""
        for value, unit in VALUES:
            homes = []
            for name, places in self.constants().items():
                for where, number in places:
                    place = f"{where}: {name}"
                    if number == value and name.endswith(unit) and place not in OTHERS:
                        homes.append(place)
            with self.subTest(value, unit=unit):
                self.assertEqual(
                    len(homes), 1, f"{value:g} {unit} is a safety figure and stands in {homes}"
                )
