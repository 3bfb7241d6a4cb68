"""Each drill against a formula of its own, over 500 seeds; spaced repetition by hand."""

import math
import re
from collections import Counter
from collections.abc import Callable, Sequence
from datetime import date, timedelta
from unittest import TestCase

from brightcore.circuit.conditions import Condition
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.errors import BrightError
from brightcore.practice.drills import DRILLS, Question, drill_of, question
from brightcore.practice.drills.base import is_answer
from brightcore.practice.drills.never import FINE, NEVER
from brightcore.practice.repeat import WAITS_DAYS, Box, answered
from brightcore.procedure.first_power_up import find_first_power_up
from brightcore.simulation.table import Row, Table

SEEDS, FEWER = 500, 10
Given = dict[str, str]


def numbers(text: str) -> list[float]:
    return [float(n) for n in re.findall(r"-?\d+(?:\.\d+)?", text)]


def pack_window(q: Question, given: Given) -> Sequence[str]:
    """Windows of `trade` figures: 4.2/3.0/2.7 V nickel-rich, 3.65/2.8/2.5 V LFP (common
    practice)."""
    count = numbers(q.text)[0]
    full, empty, trip = (3.65, 2.8, 2.5) if "LFP" in q.text else (4.2, 3.0, 2.7)
    volts = numbers(given["Read"])[0] / count
    if volts > full * 1.005:
        return ("over",)
    if volts < trip:
        return ("open",)
    if volts < empty:
        return ("empty",)
    return ("full",) if volts > full * 0.97 else ("within",)


def three_wires(q: Question, given: Given) -> Sequence[str]:
    def role(text: str) -> str:
        rest, pulled = numbers(text)
        return (
            "the signal" if abs(rest - pulled) > 1 else "ground" if rest < 0.3 else "the 5 V supply"
        )

    asked = q.text.partition("Which wire is ")[2].rstrip("?")
    (colour,) = [name for name, text in given.items() if role(text) == asked]
    return (next(key for key, words in q.choices if words == colour),)


def halls(q: Question, given: Given) -> Sequence[str]:
    """Gray sequence: neighbours differ in one bit, 000 and 111 never come (Hanselman, 2nd ed., ch.
    4)."""
    codes = next(iter(given.values())).split()
    titles = dict(q.choices)
    if "stuck" in q.text:
        (stuck,) = [k for k in range(3) if len({code[k] for code in codes}) == 1]
        return (q.choices[stuck][0],)
    every = {f"{n:03b}" for n in range(1, 7)}
    (gone,) = every - set(codes)
    return (next(key for key, words in titles.items() if words == gone),)


def motor(q: Question, given: Given) -> Sequence[str]:
    if "pole pairs" in q.text:
        magnets, ratio = numbers(given["Magnets on the rotor"])[0], numbers(given["Reduction"])[0]
        return (str(magnets * ratio / 2),)
    kv = numbers(given["Turns of the wheel per volt"])[0]
    if "fast" in q.text:
        volts, mm = numbers(given["Pack"])[0], numbers(given["Roll-out"])[0]
        return (str(kv * volts / 60 * mm / 1000 * 3.6),)
    return (str(numbers(given["Phase amps"])[0] / (kv * math.pi / 30)),)


def thermistor(q: Question, given: Given) -> Sequence[str]:
    beta, text = numbers(q.text)[1], given["Read, plug off"]
    ohm = numbers(text)[0] * (1000 if "k" in text else 1)
    if ohm > 300_000:
        return ("open",)
    celsius = beta * 298.15 / (beta + 298.15 * math.log(ohm / 10_000)) - 273.15
    return (
        "cold" if celsius < 40 else "warm" if celsius < 90 else "hot" if celsius < 120 else "stop",
    )


def wire_size(q: Question, given: Given) -> Sequence[str]:
    """The drop alone, by hand; the heat asks for no less (checked where it decides)."""
    amps, metres, drop = (numbers(value)[0] for value in given.values())
    wanted = 2 * metres * amps * 1.7241e-2 * 1.13 / drop
    area = float(q.answer[0])
    smaller = [float(key) for key, _ in q.choices if float(key) < area]
    by_heat = numbers(q.explain)[1]
    assert area >= max(wanted, by_heat) * 0.998, q
    assert not smaller or max(smaller) < max(wanted, by_heat), q
    return q.answer


def two_packs(q: Question, given: Given) -> Sequence[str]:
    cells = [numbers(given[name])[0] for name in ("Pack A", "Pack B")]
    volts = [numbers(given[name])[1] for name in ("Pack A", "Pack B")]
    amps = numbers(given["Controller"])[0]
    module = (numbers(given["Combining module"]) or [0.0])[0]
    if cells[0] != cells[1]:
        return ("never",)
    if abs(volts[0] - volts[1]) <= 0.2:
        return ("direct",)
    return ("module",) if module >= 1.5 * amps else ("charge",)


def rotor(q: Question, given: Given) -> Sequence[str]:
    if "at the cranks" in given["Motor"]:
        return ("cranks",)
    return ("either",) if given["Reduction"] in ("none", "1 : 1") else ("back",)


def miswired(q: Question, given: Given) -> Sequence[str]:
    carried = {name: name.partition(", ")[2] for name in given}
    crossed = [
        name for name, text in given.items() if carried[name] != text.removeprefix("goes to ")
    ]
    return tuple(name.partition(",")[0].removeprefix("Pin ") for name in crossed)


def codes(q: Question, given: Given) -> Sequence[str]:
    suspects = {"P08": lambda v: v == 0, "P03": lambda v: v <= 10, "P06": lambda v: v > 45}
    return tuple(
        name for name, bad in suspects.items() if name in given and bad(numbers(given[name])[0])
    )


def never(q: Question, given: Given) -> Sequence[str]:
    return tuple(key for key, words in q.choices if words not in FINE)


FORMULAS: dict[str, Callable[[Question, Given], Sequence[str]]] = {
    "pack-window": pack_window,
    "three-wires": three_wires,
    "halls": halls,
    "motor": motor,
    "thermistor": thermistor,
    "wire-size": wire_size,
    "two-packs": two_packs,
    "rotor": rotor,
    "miswired": miswired,
    "codes": codes,
    "never": never,
}


class DrillsTest(TestCase):
    def test_answers_are_those_of_a_formula_of_its_own(self) -> None:
        for key, formula in FORMULAS.items():
            answers: Counter[tuple[str, ...]] = Counter()
            for seed in range(SEEDS):
                q = question(drill_of(key), str(seed))
                found = formula(q, dict(q.given))
                answers[q.answer] += 1
                self.assertTrue(q.judge(list(found)), f"{key} {seed}: {q} against {found}")
                if q.form == "one":
                    wrong = [c for c, _ in q.choices if c not in q.answer]
                    self.assertFalse(q.judge([wrong[seed % len(wrong)]]), f"{key} {seed}")
            self.assertGreater(len(answers), 1, key)
            self.assertLess(answers.most_common(1)[0][1] / SEEDS, 0.9, key)

    def test_plugs_of_the_first_power_up_are_those_without_which_nothing_turns(self) -> None:
        """Against the circuit with one plug taken apart at a time."""
        titles = {title: name for name, (title, _) in PATTERNS.items()}
        for seed in range(FEWER):
            q = question(drill_of("first-plugs"), str(seed))
            name = titles[q.text.partition(": which")[0]]
            bike = make_pattern(name, name)
            light = find_first_power_up(bike)
            for join, _ in q.choices:
                self.assertEqual(join in light.needed, join in q.answer)
            self.assertTrue(q.judge(list(q.answer)))
            self.assertFalse(q.judge(list(q.answer)[1:] or ["j0"]) if len(q.answer) > 1 else False)

    def test_an_order_is_right_in_every_way_that_keeps_the_needs(self) -> None:
        for seed in range(FEWER):
            q = question(drill_of("order"), str(seed))
            self.assertTrue(q.judge(list(q.answer)))
            self.assertFalse(q.judge(list(reversed(q.answer))))
            first, then = q.before[0]
            swapped = [then if s == first else first if s == then else s for s in q.answer]
            self.assertFalse(q.judge(swapped))

    def test_what_is_no_answer_is_refused(self) -> None:
        for key, said in (
            ("motor", ["fast"]),
            ("motor", []),
            ("never", []),
            ("never", ["z"]),
            ("order", ["a"]),
            ("two-packs", ["direct", "nonsense"]),
        ):
            q = question(drill_of(key), "1")
            self.assertIsNone(is_answer(q, said), key)
        with self.assertRaises(BrightError):
            drill_of("dance")

    def test_every_drill_explains_and_is_the_same_for_the_same_seed(self) -> None:
        self.assertEqual(
            len(DRILLS), 13, "a drill came or went: say so in docs/guide/practice.md and here"
        )
        for drill in DRILLS:
            one = question(drill, "7")
            self.assertEqual(one, question(drill, "7"))
            self.assertGreater(len(one.explain), 20)
            self.assertTrue(one.answer_words)
        self.assertEqual(len({text for text, _ in NEVER} & set(FINE)), 0)

    def test_halls_of_the_model_are_those_of_the_drill(self) -> None:
        """The codes asked for are read off the simulated motor, too."""
        bike = make_pattern("hub-conversion", "x")
        from brightcore.analysis.bike import analysis_of

        table = Table(analysis_of(bike).circuit, [Row()])
        seen = set()
        for sector in range(6):
            at = Condition().having("motor.rotor", str(sector)) if sector else Condition()
            volts = [
                float(table.volts(at, f"controller.halls.{h}", "controller.halls.ground")[0])
                for h in "abc"
            ]
            seen.add("".join("1" if v > 2.5 else "0" for v in volts))
        self.assertEqual(seen, {f"{n:03b}" for n in range(1, 7)})


class RepeatTest(TestCase):
    def test_boxes_by_hand(self) -> None:
        today = date(2026, 11, 27)
        for box, right, on, wanted in (
            (Box(), True, today, Box(1, today + timedelta(days=1))),
            (Box(), False, today, Box(0, today)),
            (Box(3, today), True, today, Box(4, today + timedelta(days=16))),
            (Box(3, today + timedelta(days=1)), True, today, Box(3, today + timedelta(days=1))),
            (Box(3, today + timedelta(days=1)), False, today, Box(0, today)),
            (
                Box(5, today - timedelta(days=9)),
                True,
                today,
                Box(5, today + timedelta(days=WAITS_DAYS[-1])),
            ),
        ):
            self.assertEqual(answered(box, right, on), wanted)
        self.assertTrue(Box().is_due(today))
        self.assertEqual(
            [Box(1, today + timedelta(days=d)).is_due(today) for d in (-1, 0, 1)],
            [True, True, False],
        )
