"""The finder of phases and halls against brute force over all 36 ways and both spacings."""

from collections import Counter
from itertools import combinations
from unittest import TestCase

from brightcore.analysis.bike import analysis_of
from brightcore.bike.measured import with_measured
from brightcore.bike.model import MeasuredValue
from brightcore.describing.join_edits import remove_join
from brightcore.describing.patterns import make_pattern
from brightcore.errors import BikeError
from brightcore.setting import instrument
from brightcore.setting.commutation import (
    BEHAVIOURS,
    STUCK,
    WAYS,
    Way,
    against,
    behaviour,
    codes,
    hall_code,
)
from brightcore.setting.contract import Verdict, read_all
from brightcore.setting.halls import orders_of, spacing_of
from brightcore.setting.repin import repinned
from brightcore.setting.ways import (
    BY_NAME,
    CROSSING,
    MOST_TRIALS,
    belief,
    mirrored,
    name_of,
    next_way,
    runs,
    words_of,
)
from tests.bikes import demo_bike

FERN = demo_bike("fern")
MOTOR = "motor"


def hunt(right: Way, spacing: int) -> list[tuple[str, str]]:
    """Return the trials that the finder makes until a motor of that way runs."""
    made: list[tuple[str, str]] = []
    while not any(seen == "smooth" for _, seen in made):
        way = next_way(made, spacing)
        made.append((way, behaviour(against(BY_NAME[way], right), spacing)))
    return made


class CommutationTest(TestCase):
    def test_codes_are_those_of_the_books(self) -> None:
        """120°: never 000 or 111; 60°: never 010 or 101; one bit changes at a time [std]."""
        for spacing, never in ((120, ((0, 0, 0), (1, 1, 1))), (60, ((0, 1, 0), (1, 0, 1)))):
            turn = codes(spacing)
            self.assertEqual(len(set(turn)), 6)
            self.assertFalse(set(turn) & set(never))
            for n in range(6):
                changed = sum(a != b for a, b in zip(turn[n], turn[(n + 1) % 6], strict=True))
                self.assertEqual(changed, 1)
            self.assertEqual(turn, tuple(hall_code(n, spacing) for n in range(6)))

    def test_of_36_ways_3_run_3_run_backward_12_half_and_18_stall(self) -> None:
        """Trade, section 2 [cp]."""
        found = Counter(behaviour(way) for way in WAYS)
        half = found["weak"] + found["weak-backward"]
        self.assertEqual(
            (found["smooth"], found["backward"], half, found["locked"]), (3, 3, 12, 18)
        )

    def test_a_way_against_itself_is_right(self) -> None:
        for way in WAYS:
            self.assertEqual(behaviour(against(way, way)), "smooth")


def judged_trials(made: list[tuple[str, str]], spacing: str) -> Verdict:
    """Return what is said of trials on Fern's motor."""
    item, typed = instrument("ways"), dict(made)
    found = read_all(item.fields(FERN, MOTOR, typed | {"spacing": spacing}), typed)
    return item.judge(FERN, MOTOR, found, {"spacing": spacing}, {})


class FinderTest(TestCase):
    def test_every_motor_is_found_in_far_fewer_trials_than_in_order(self) -> None:
        for spacing, mean_most, worst_most in ((120, 3.0, 4), (60, 5.0, 8)):
            trials = [len(hunt(right, spacing)) for right in WAYS]
            in_order = [
                next(
                    n
                    for n, way in enumerate(WAYS, 1)
                    if behaviour(against(way, right), spacing) == "smooth"
                )
                for right in WAYS
            ]
            with self.subTest(spacing, mean=sum(trials) / 36, in_order=sum(in_order) / 36):
                self.assertLessEqual(sum(trials) / len(trials), mean_most)
                self.assertLessEqual(max(trials), worst_most)
                self.assertLess(2 * sum(trials), sum(in_order))

    def test_more_evidence_never_widens_what_is_left(self) -> None:
        for right in WAYS[::5]:
            made = hunt(right, 120)
            left = [
                int((runs(belief(made[:n], 120), 120) > 0.02).sum()) for n in range(len(made) + 1)
            ]
            self.assertEqual(left, sorted(left, reverse=True))

    def test_one_misjudged_trial_does_not_lose_the_right_way(self) -> None:
        for right in WAYS[::7]:
            made = hunt(right, 120)[:-1]
            for n, (way, seen) in enumerate(made):
                wrong = next(b for b in BEHAVIOURS if b not in (seen, "smooth"))
                slipped = [*made[:n], (way, wrong), *made[n + 1 :]]
                while len(slipped) < 14 and not any(seen == "smooth" for _, seen in slipped):
                    way = next_way(slipped, 120)
                    slipped.append((way, behaviour(against(BY_NAME[way], right), 120)))
                self.assertEqual(slipped[-1][1], "smooth")

    def test_with_a_stuck_hall_no_way_is_named_and_the_hall_is(self) -> None:
        """All 36 ways × both spacings × each hall stuck low or high."""
        item, found = instrument("ways"), Counter()
        for spacing in (120, 60):
            for right in WAYS:
                for stuck in STUCK:
                    typed = {"spacing": str(spacing)}
                    for _ in range(MOST_TRIALS):
                        steps = item.steps(FERN, MOTOR, typed)
                        if not steps or steps[-1].id in typed:
                            break
                        way = steps[-1].id
                        typed[way] = behaviour(against(BY_NAME[way], right), spacing, stuck)
                    read = read_all(item.fields(FERN, MOTOR, typed), typed)
                    verdict = item.judge(FERN, MOTOR, read, {"spacing": str(spacing)}, {})
                    found[verdict.state, *(f.code for f in verdict.findings)] += 1
        self.assertEqual(set(found), {("mend", "S097"), ("mend", "S095")}, found)

    def test_a_sound_motor_that_only_twitches_on_a_limited_supply_is_still_found(self) -> None:
        """All 36 ways: ways of half the torque do not turn at 2 to 5 A [cp]."""
        for right in WAYS:
            made: list[tuple[str, str]] = []
            while len(made) < MOST_TRIALS and not any(seen == "smooth" for _, seen in made):
                way = next_way(made, 120)
                seen = behaviour(against(BY_NAME[way], right), 120)
                made.append((way, "locked" if seen.startswith("weak") else seen))
                told = judged_trials(made, "120")
                self.assertNotIn("S097", [f.code for f in told.findings], made)
            self.assertEqual(made[-1][1], "smooth")

    def test_halls_told_as_spaced_otherwise_are_never_called_dead(self) -> None:
        """Motors with halls 60° apart, told as 120°: what is said leaves the spacing open."""
        for right in WAYS:
            made: list[tuple[str, str]] = []
            told = judged_trials(made, "120")
            while told.state == "open":
                way = next_way(made, 120)
                made.append((way, behaviour(against(BY_NAME[way], right), 60)))
                told = judged_trials(made, "120")
            self.assertTrue(
                told.state == "good" or "spaced" in told.title or "spacing" in told.title
            )

    def test_a_mirror_image_pair_is_tried_first_and_told(self) -> None:
        cart, item = make_pattern("two-motor-cart", "cart"), instrument("ways")
        for left in WAYS:
            known = MeasuredValue(
                "motor_left", CROSSING, WAYS.index(left), "", "", "2026-11-20", ""
            )
            bike = with_measured(cart, [known])
            for right, told in ((left, []), (mirrored(left), ["S096"])):
                typed: dict[str, str] = {}
                while "smooth" not in typed.values():
                    way = item.steps(bike, "motor_right", typed)[-1].id
                    typed[way] = behaviour(against(BY_NAME[way], right))
                self.assertLessEqual(len(typed), 2)
                read = read_all(item.fields(bike, "motor_right", typed), typed)
                verdict = item.judge(bike, "motor_right", read, {}, {})
                same = BY_NAME[list(typed)[-1]] == left
                self.assertEqual([f.code for f in verdict.findings], [] if same else ["S096"], told)
                self.assertIn(CROSSING, {value.name for value in verdict.values})

    def test_the_sheet_asks_by_what_was_seen_and_ends_with_the_pin_table(self) -> None:
        item = instrument("ways")
        typed: dict[str, str] = {}
        right = WAYS[17]
        for _ in range(4):
            step = item.steps(FERN, MOTOR, typed)[-1]
            typed[step.id] = behaviour(against(BY_NAME[step.id], right))
            found = read_all(item.fields(FERN, MOTOR, typed), typed)
            verdict = item.judge(FERN, MOTOR, found, {}, {})
            if verdict.state == "good":
                break
        self.assertIn(words_of(step.id), verdict.title)
        self.assertEqual(len(item.steps(FERN, MOTOR, typed)), len(typed))
        self.assertEqual(set(BY_NAME), {name_of(way) for way in WAYS})


class RepinTest(TestCase):
    def test_the_wires_are_moved_so_that_the_motor_runs(self) -> None:
        for way in WAYS:
            bike = repinned(FERN, MOTOR, name_of(way))
            nets = analysis_of(bike).circuit.nets
            for port, pins, letters, order in (
                ("phases", "uvw", "uvw", way.phases),
                ("halls", "abc", "abc", way.halls),
            ):
                for own, wanted in zip(letters, order, strict=True):
                    at_controller = nets.find(f"controller.{port}.{own}")
                    self.assertEqual(
                        at_controller, nets.find(f"motor.{port}.{pins[wanted]}"), name_of(way)
                    )
            self.assertEqual(repinned(bike, MOTOR, "UVW-ABC"), repinned(FERN, MOTOR, "UVW-ABC"))

    def test_a_motor_that_is_not_connected_is_refused(self) -> None:
        loose = remove_join(FERN, next(j.id for j in FERN.joins_of(MOTOR, "halls")))
        with self.assertRaisesRegex(BikeError, "not connected"):
            repinned(loose, MOTOR, "UVW-ABC")


class HallsTest(TestCase):
    def judge(self, row: str) -> tuple[str, str, list[str]]:
        item = instrument("halls")
        typed = {"codes": row}
        verdict = item.judge(FERN, MOTOR, read_all(item.fields(FERN, MOTOR), typed), {}, {})
        return verdict.state, verdict.title, [finding.code for finding in verdict.findings]

    def test_every_order_spacing_and_dead_hall_is_named(self) -> None:
        for spacing in (120, 60):
            turn = codes(spacing)
            for start in range(6):
                row = " ".join("".join(map(str, turn[(start + n) % 6])) for n in range(7))
                state, title, _ = self.judge(row)
                self.assertEqual(state, "good")
                self.assertIn(f"{spacing}° apart, order ABC", title)
            for hall in range(3):
                for level in (0, 1):
                    row = " ".join(
                        "".join(str(level if n == hall else b) for n, b in enumerate(c))
                        for c in turn
                    )
                    state, title, found = self.judge(row)
                    self.assertEqual((state, found), ("mend", ["S092"]))
                    self.assertIn(
                        f"Hall {'ABC'[hall]} never goes {'low' if level else 'high'}", title
                    )

    def test_swapped_wires_give_an_order_that_undoes_them(self) -> None:
        turn = codes(120)
        for a, b in combinations(range(3), 2):
            order = [0, 1, 2]
            order[a], order[b] = order[b], order[a]
            row = tuple((code[order[0]], code[order[1]], code[order[2]]) for code in turn)
            found = orders_of(row, spacing_of(row))
            self.assertTrue(found["backward"] and found["forward"])

    def test_what_is_no_turn_is_questioned(self) -> None:
        for row, state, found in (
            ("", "open", []),
            ("101 100 110", "open", []),
            ("111", "open", []),
            ("111 111", "mend", ["S094"]),
            ("000 000 000", "mend", ["S094"]),
            ("101 1 12", "mend", ["S090"]),
            ("101 100 110 010 011 001 000", "mend", ["S091"]),
            ("101 110 100 010 001 011", "mend", ["S093"]),
        ):
            with self.subTest(row):
                got = self.judge(row)
                self.assertEqual((got[0], got[2]), (state, found))
