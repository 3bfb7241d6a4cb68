"""What a meter shows at the pins of a healthy bike, beside figures of the trade."""

from unittest import TestCase

from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.drawing.plug_cards import plug_cards_svg
from brightcore.simulation.expected import Expected, expected_volts, volts_words

USUAL = (
    # pin, off, rest, moved by hand, lowest and highest while turning [cp]
    ("controller.throttle.supply", (0, 0), (4.5, 5.2), None, None),
    ("throttle.plug.signal", (0, 0), (0.8, 1.0), (3.5, 4.3), None),
    ("lever_left.plug.signal", (0, 0), (4.5, 5.2), (0, 0.3), None),
    ("motor.halls.a", (0, 0), (0, 5.2), None, ((0, 0.5), (4.5, 5.2))),
    ("cranks.plug.signal", (0, 0), (4.5, 5.2), None, ((0, 0.5), (4.5, 5.2))),
    ("controller.display.vp", (45, 55), (45, 55), None, None),
    ("controller.display.key", (0, 0.1), (45, 55), None, None),
)


class ExpectedTest(TestCase):
    def test_pins_show_what_the_trade_expects(self) -> None:
        found = expected_volts(make_pattern("hub-conversion", "x"))
        for pin, off, rest, moved, turning in USUAL:
            with self.subTest(pin):
                self.within(found[pin].off_v, off)
                self.within(found[pin].rest_v, rest)
                self.assertEqual(found[pin].moved_v is None, moved is None)
                self.assertEqual(found[pin].turning_v is None, turning is None)
                if moved:
                    self.within(found[pin].moved_v or 0.0, moved)
                for value, span in zip(found[pin].turning_v or (), turning or (), strict=True):
                    self.within(value, span)

    def within(self, value: float, span: tuple[float, float]) -> None:
        self.assertTrue(span[0] - 0.01 <= value <= span[1] + 0.01, (value, span))

    def test_every_pin_of_every_pattern_has_its_volts_and_mates_agree(self) -> None:
        for name in PATTERNS:
            bike = make_pattern(name, name)
            found = expected_volts(bike)
            with self.subTest(name):
                pins = {
                    f"{p.id}.{q.id}.{n.name}" for p in bike.parts for q in p.ports for n in q.pins
                }
                self.assertEqual(set(found), pins)
                for join in bike.joins:
                    (a, p), (b, q) = join.sides()
                    for one, two in join.pairs:
                        self.assertAlmostEqual(
                            found[f"{a}.{p}.{one}"].rest_v,
                            found[f"{b}.{q}.{two}"].rest_v,
                            delta=0.05,
                        )

    def test_words_are_short_and_say_what_differs(self) -> None:
        for expected, words in (
            (Expected(49.4, 49.4, None, None, False), "49.4"),
            (Expected(0.0, 0.852, 3.98, None, False), "0 / 0.85 / 4.0"),
            (Expected(0.0, 4.96, None, (0.06, 4.96), False), "0 / 5.0 ~ 0.06–5.0"),
            (Expected(0.0, 0.0, None, None, True), "floats"),
        ):
            self.assertEqual(expected.words, words)
        self.assertEqual(
            [volts_words(v) for v in (0.04, -0.04, 0.5, 12.04)], ["0", "0", "0.50", "12.0"]
        )

    def test_the_cards_carry_them(self) -> None:
        drawn = plug_cards_svg(make_pattern("hub-conversion", "x"), "x")
        for words in ("0 / 0.85 / 4.0", "0 / 5.0 / 0", "49.4"):
            self.assertIn(f">{words}<", drawn)
