"""What being wrong costs against what a test costs: small cases worked by hand, and against a
look-ahead over every order of tests."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from brightcore.belief.decision import loss_after, loss_now
from brightcore.circuit.faults import RepairKind
from brightcore.tracing.advice import propose
from brightcore.tracing.own_side import own_side_test
from brightcore.tracing.simulated import TrueBikes
from brightcore.tracing.stakes import SECOND_VISIT_MIN, wrong_minutes
from brightcore.tracing.terms import Terms
from brightcore.tracing.trace import Trace
from tests.bikes import engine

TWO = np.eye(2)


class LossTest(TestCase):
    def test_the_repair_that_loses_least_is_not_always_the_likeliest(self) -> None:
        # 70 % a contact whose cleaning costs 70 min in vain, 30 % a controller of 300 min: the
        # contact first loses 0.3 · 70 = 21, the controller first 0.7 · 300 = 210. At 20 : 80 the
        # contact still loses less: 0.8 · 70 = 56 against 0.2 · 300 = 60; at 18 : 82 no more.
        wrong = np.array([70.0, 300.0])
        for contact, lost in ((0.7, 21.0), (0.2, 56.0), (0.18, 54.0)):
            belief = np.array([contact, 1.0 - contact])
            self.assertAlmostEqual(loss_now(belief, TWO, wrong), lost)

    def test_a_test_saves_what_its_answers_settle(self) -> None:
        # A test that says "contact" at 9 of 10 contacts and at 2 of 10 controllers. "Contact": 0.63
        # and 0.06 remain, so that the contact loses 0.06 · 70 = 4.2. Else: 0.07 and 0.24, where the
        # contact loses 0.24 · 70 = 16.8 and the controller 0.07 · 300 = 21. Together 21.0: it saves
        # nothing of the 21 that stand, as the repair after it is the same for either answer.
        belief, wrong = np.array([0.7, 0.3]), np.array([70.0, 300.0])
        weak = np.array([[[0.9, 0.2], [0.1, 0.8]]])
        self.assertAlmostEqual(float(loss_after(weak, belief, TWO, wrong)[0]), 21.0)
        # One that is right at 99 of 100: 0.003 · 70 = 0.21, and min(0.297 · 70, 0.007 · 300) = 2.1.
        sharp = np.array([[[0.99, 0.01], [0.01, 0.99]]])
        self.assertAlmostEqual(float(loss_after(sharp, belief, TWO, wrong)[0]), 2.31)

    def test_one_repair_for_two_faults_loses_nothing_between_them(self) -> None:
        belief, membership = np.array([0.5, 0.4, 0.1]), np.array([[1, 0], [1, 0], [0, 1]], float)
        self.assertAlmostEqual(loss_now(belief, membership, np.array([70.0, 70.0])), 7.0)

    def test_in_vain_costs_minutes_part_and_a_second_visit(self) -> None:
        for level, rate, minutes in ((0, 60.0, 10.0), (3, 60.0, 270.0), (3, 120.0, 140.0)):
            repair = RepairKind("part:x", "", 10.0, "", level)
            lost = wrong_minutes(repair, Terms(rate=rate))
            self.assertAlmostEqual(lost, minutes + SECOND_VISIT_MIN)


def exhaustive(
    belief: np.ndarray, tests: np.ndarray, minutes: np.ndarray, wrong: np.ndarray, left: frozenset
) -> float:
    """Return the least expected minutes over every order of the tests that are left."""
    best = loss_now(belief, np.eye(len(belief)), wrong)
    for test in left:
        cost = minutes[test] * belief.sum()
        for outcome in tests[test]:
            cost += exhaustive(belief * outcome, tests, minutes, wrong, left - {test})
        best = min(best, cost)
    return best


def looking_one_ahead(
    belief: np.ndarray, tests: np.ndarray, minutes: np.ndarray, wrong: np.ndarray, left: frozenset
) -> float:
    """Return the expected minutes of the rule in use: the best test while one pays."""
    now = loss_now(belief, np.eye(len(belief)), wrong)
    open_tests = sorted(left)
    if not open_tests or belief.sum() <= 0:
        return now
    after = loss_after(tests[open_tests], belief, np.eye(len(belief)), wrong)
    saved = now - after - minutes[open_tests] * belief.sum()
    best = int(np.argmax(saved))
    if saved[best] <= 0:
        return now
    test = open_tests[best]
    cost = minutes[test] * belief.sum()
    for outcome in tests[test]:
        cost += looking_one_ahead(belief * outcome, tests, minutes, wrong, left - {test})
    return float(cost)


class LookAheadTest(TestCase):
    def test_one_test_ahead_loses_little_against_every_order(self) -> None:
        """Thirty small cases of four faults and four tests, by fixed seed."""
        rng = np.random.default_rng(28)
        every = frozenset(range(4))
        ratios = []
        for _ in range(30):
            belief = rng.dirichlet(np.ones(4))
            sharp = rng.uniform(0.02, 0.98, (4, 1, 4))
            tests = np.concatenate([sharp, 1.0 - sharp], axis=1)
            minutes = rng.uniform(1.0, 6.0, 4)
            wrong = rng.choice([70.0, 90.0, 300.0], 4)
            least = exhaustive(belief, tests, minutes, wrong, every)
            ratios.append(looking_one_ahead(belief, tests, minutes, wrong, every) / least)
        self.assertGreaterEqual(min(ratios), 1.0 - 1e-9)
        self.assertLess(float(np.mean(ratios)), 1.1, ratios)


class OwnSideTest(TestCase):
    def test_what_tells_a_part_from_its_plug_is_read_before_it_is_bought(self) -> None:
        """Rows: a part that is broken. Where it is named, no reading of a few minutes is left that
        would tell it from a contact in front of it; on the way at least one was due."""
        made, due = engine("teasel"), 0
        for fault in (
            "throttle.plug.signal/dead/full",
            "throttle.plug.signal/weak/full",
        ):
            bikes = TrueBikes(made, [made.hypotheses.index(fault)], 3)
            evidence = list(bikes.complaint(0))
            for _ in range(24):
                trace = Trace(made, evidence)
                repair = made.hypotheses.repairs[trace.leading_repair]
                if trace.stopped:
                    break
                due += repair.of_part and own_side_test(trace, repair) is not None
                evidence += bikes.answer(propose(trace)[0].test, 0)
            self.assertEqual((trace.stopped, repair.id), (True, "part:throttle"), fault)
            self.assertIsNone(own_side_test(trace, repair), fault)
        self.assertGreater(due, 0)

    def test_contacts_and_settings_need_no_reading_at_a_part(self) -> None:
        made = engine("teasel")
        for repair in made.hypotheses.repairs:
            if not repair.of_part:
                self.assertIsNone(own_side_test(Trace(made, []), repair), repair.id)


class AgreementTest(TestCase):
    def test_found_and_does_not_fit_never_stand_together(self) -> None:
        """One reading of four is a slip: it is asked for again before anything is named."""
        made = engine("teasel")
        for fault in ("throttle.plug.signal/dead/full", "controller.halls.a/contact/open"):
            if fault not in {item.id for item in made.hypotheses.items}:
                continue
            bikes = TrueBikes(made, [made.hypotheses.index(fault)], 5)
            evidence = list(bikes.complaint(0))
            slipped = False
            for _ in range(16):
                trace = Trace(made, evidence)
                if trace.stopped:
                    self.assertTrue(not trace.contradictory or trace.taken_again is None, fault)
                    break
                best = propose(trace)
                if not best:
                    break
                given = bikes.answer(best[0].test, 0)
                if not slipped and best[0].test.kind == "volts":
                    slipped, given = True, [replace(given[0], value="2.2 V")]
                evidence += given
