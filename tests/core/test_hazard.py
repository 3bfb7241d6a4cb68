"""Hazard before information: after a burnt smell, sparks or water nothing powered is proposed until
clean."""

from unittest import TestCase

from brightcore.circuit.conditions import Condition
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.tracing.advice import propose
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hazard import (
    HAZARDS,
    dead_checks,
    is_clean,
    is_short,
    left_to_check,
    seen_in,
    told_in,
)
from brightcore.tracing.terms import Terms
from brightcore.tracing.tests import Test, kind_of
from brightcore.tracing.trace import Trace
from tests.bikes import engine

AFTER_A_HAZARD = Terms(dead_first=True)
SOUND = {"smell": "nothing", "ohms": "47k", "diode": "0.52"}

COMPLAINTS = (
    # what the rider says, the hazards that it tells
    ("Smelled burnt, then dead", ("burnt",)),
    ("A smell of burning plastic on the hill", ("burnt",)),
    ("It smoked at the traffic light", ("smoke",)),
    ("Sparked when I plugged the battery in", ("sparks",)),
    ("Controller got very hot and stopped", ("hot",)),
    ("Went under water at the slipway", ("wet",)),
    ("The seat tube was soaked", ("wet",)),
    ("I think I shorted the plug", ("short",)),
    ("The fuse blew again", ("short",)),
    ("Dead, no smoke, no burnt smell", ()),
    ("Controller got wet", ("wet",)),
    ("Water inside the display", ("wet",)),
    ("Shudders since a wet week", ()),
    ("Cuts out when it rains, in wet weather", ()),
    ("Never got hot", ()),
    ("Slow on a hill", ()),
    ("Photo of the display", ()),
    ("Range is short", ()),
    ("Shudders", ()),
)


def answered(test: Test, value: str = "") -> Evidence:
    """Return an answer to a dead test, a sound one where no other is given."""
    (item,) = kind_of(test.kind).read(test, value or SOUND[test.kind])
    return item


class ToldTest(TestCase):
    def test_what_a_complaint_tells(self) -> None:
        for text, wanted in COMPLAINTS:
            with self.subTest(text):
                self.assertEqual(told_in(text), wanted)

    def test_what_evidence_tells(self) -> None:
        for item, wanted in (
            (Evidence("past", "smell"), ("burnt",)),
            (Evidence("past", "tingle"), ("short",)),
            (Evidence("past", "rain"), ()),
            (Evidence("smell", "burnt", subject="controller"), ("burnt",)),
            (Evidence("smell", "nothing", subject="controller"), ()),
        ):
            self.assertEqual(seen_in([item]), wanted)


class DeadFirstTest(TestCase):
    def test_every_template_has_dead_tests_and_none_of_them_is_powered(self) -> None:
        """What comes first on each template, in its order: a smell, the battery plug, then the
        diodes."""
        for name in PATTERNS:
            first = dead_checks(Engine(make_pattern(name, name)))
            with self.subTest(name):
                self.assertGreaterEqual(len(first), 3)
                self.assertEqual({test.condition.power for test in first}, {"out"})
                self.assertIn("ohms", [test.kind for test in first])

    def test_the_first_three_cards_are_unpowered(self) -> None:
        for name in ("fern", "otter", "teasel"):
            made, evidence = engine(name), list[Evidence]()
            for _ in range(3):
                card = propose(Trace(made, evidence, terms=AFTER_A_HAZARD))[0].test
                with self.subTest(name, card=card.id):
                    self.assertEqual(card.condition.power, "out")
                evidence.append(answered(card))

    def test_all_are_asked_once_and_then_it_goes_on(self) -> None:
        made = engine("fern")
        evidence: list[Evidence] = []
        wanted = [test.id for test in dead_checks(made)]
        for name in wanted:
            card = propose(Trace(made, evidence, terms=AFTER_A_HAZARD))[0].test
            self.assertEqual(card.id, name)
            evidence.append(answered(card))
        self.assertEqual(left_to_check(made, evidence), ())
        rest = propose(Trace(made, evidence, terms=AFTER_A_HAZARD), 5)
        self.assertFalse({p.test.id for p in rest} & set(wanted))

    def test_both_sides_of_clean_and_of_short(self) -> None:
        """Rows: kind, value, clean, a short."""
        made = engine("fern")
        ohms = next(test for test in dead_checks(made) if test.kind == "ohms")
        diode = next(test for test in dead_checks(made) if test.kind == "diode")
        for test, value, clean, short in (
            (ohms, "0", False, True),
            (ohms, "9.9", False, True),
            (ohms, "10", False, False),
            (ohms, "999", False, False),
            (ohms, "1000", True, False),
            (ohms, "OL", True, False),
            (diode, "0.05", False, True),
            (diode, "0.1", False, False),
            (diode, "0.2", True, False),
            (diode, "OL", True, False),
        ):
            item = answered(test, value)
            with self.subTest(test.kind, value=value):
                self.assertEqual((is_clean(item), is_short(made, item)), (clean, short))
                self.assertEqual(test.id in {t.id for t in left_to_check(made, [item])}, not clean)

    def test_over_sixty_volts_dead_tests_come_before_live_probes(self) -> None:
        made = Engine(make_pattern("light-motorcycle", "x"))
        made.prepare()
        seen = [Evidence("look", "rough", scene="throttle", observable="motor")]
        offered = propose(Trace(made, seen), 400)
        dead = [
            n for n, p in enumerate(offered) if p.test.condition.power == "out" and p.bits >= 0.1
        ]
        live = [n for n, p in enumerate(offered) if p.test.condition.power != "out" and p.test.red]
        self.assertTrue(dead and live)
        self.assertLess(min(dead), min(live))

    def test_every_hazard_has_words_and_none_is_empty(self) -> None:
        self.assertTrue(all(told.words and told.text for told in HAZARDS.values()))
        self.assertEqual(Condition("out").power, "out")
