"""Belief against direct enumeration, scipy.stats, and a published worked example."""

from itertools import combinations
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from brightcore.belief.bayes import (
    entropy_bits,
    expected_information,
    indistinct_groups,
    posterior,
    posterior_after,
)

RNG = np.random.default_rng(11)


class PosteriorTest(TestCase):
    def test_posterior_equals_direct_enumeration(self) -> None:
        """Five hypotheses, three Gaussian readings: Bayes' rule multiplied out with scipy.stats
        (class lib)."""
        prior = RNG.dirichlet(np.ones(5))
        means, sigmas = RNG.normal(5, 2, (3, 5)), RNG.uniform(0.2, 1.5, (3, 5))
        readings = RNG.normal(5, 2, 3)
        logs = [stats.norm.logpdf(readings[k], means[k], sigmas[k]) for k in range(3)]
        direct = prior * np.prod(
            [stats.norm.pdf(readings[k], means[k], sigmas[k]) for k in range(3)], axis=0
        )
        np.testing.assert_allclose(posterior(prior, logs), direct / direct.sum(), rtol=1e-12)

    def test_expected_information_equals_a_brute_force_sum(self) -> None:
        """Entropy before minus mean entropy after, each with scipy.stats.entropy (class lib)."""
        belief = RNG.dirichlet(np.ones(7))
        outcomes = np.stack([RNG.dirichlet(np.ones(4), 7).T for _ in range(6)])
        membership = np.eye(3)[[0, 0, 1, 1, 1, 2, 2]]
        found = expected_information(outcomes, belief, membership)
        for test in range(6):
            before = stats.entropy(membership.T @ belief, base=2)
            after = 0.0
            for k in range(4):
                p = float(outcomes[test, k] @ belief)
                after += p * stats.entropy(membership.T @ (outcomes[test, k] * belief / p), base=2)
            self.assertAlmostEqual(float(found[test]), before - after, places=10)

    def test_entropy_of_even_odds(self) -> None:
        self.assertAlmostEqual(float(entropy_bits(np.full(8, 1 / 8))), 3.0)

    def test_indistinct_hypotheses_are_grouped(self) -> None:
        outcomes = np.array(
            [[[1.0, 1.0, 0.0], [0.0, 0.0, 1.0]], [[0.5, 0.5, 0.5], [0.5, 0.5, 0.5]]]
        )
        self.assertEqual(indistinct_groups(outcomes, [0, 1, 2]), [[0, 1], [2]])


PARTS = ("M1", "M2", "M3", "A1", "A2")
PRIOR_FAULTY = 0.01
SPREAD = 0.05


def polybox_log_likelihood(faulty: frozenset[str], f: float, g: float) -> float:
    """Return the log likelihood of outputs F and G, inputs 3, 2, 2, 3, 3.

    A faulty part may give anything from 0 to 20; what is then not determined is uniform.
    """
    x, y, z = 3 * 2, 2 * 3, 2 * 3
    expected_f = None if faulty & {"A1", "M1"} else (x, None if "M2" in faulty else y)
    expected_g = None if faulty & {"A2", "M3"} else (None if "M2" in faulty else y, z)
    uniform = np.log(1 / 20)
    total = 0.0
    free_y = "M2" in faulty
    if expected_f is not None and expected_g is not None and free_y:
        # One unknown value y joins both outputs: F - x must equal G - z.
        return float(stats.norm.logpdf(f - x, g - z, SPREAD) + uniform)
    for value, expected, known in ((f, expected_f, x + y), (g, expected_g, y + z)):
        fixed = expected is not None and not (free_y and expected is not None)
        total += float(stats.norm.logpdf(value, known, SPREAD)) if fixed else float(uniform)
    return total


class PolyboxTest(TestCase):
    """Three multipliers and two adders: de Kleer and Williams (1987) [std][mem]."""

    def setUp(self) -> None:
        self.sets = [frozenset(c) for n in (0, 1, 2) for c in combinations(PARTS, n)]
        self.prior = np.array(
            [PRIOR_FAULTY ** len(s) * (1 - PRIOR_FAULTY) ** (5 - len(s)) for s in self.sets]
        )
        self.prior /= self.prior.sum()

    def belief(self, f: float, g: float) -> dict[frozenset[str], float]:
        logs = np.array([polybox_log_likelihood(s, f, g) for s in self.sets])
        return dict(zip(self.sets, posterior(self.prior, [logs]), strict=True))

    def test_outputs_10_and_12_leave_the_published_minimal_diagnoses(self) -> None:
        found = self.belief(10, 12)
        possible = {s for s, p in found.items() if p > 1e-6}
        minimal = {s for s in possible if not any(other < s for other in possible)}
        self.assertEqual(
            minimal, {frozenset(d) for d in (("M1",), ("A1",), ("M2", "M3"), ("M2", "A2"))}
        )

    def test_single_faults_lead_and_share_evenly(self) -> None:
        found = self.belief(10, 12)
        one, other = found[frozenset(("M1",))], found[frozenset(("A1",))]
        self.assertAlmostEqual(one, other)
        self.assertGreater(one + other, 0.95)

    def test_right_outputs_leave_no_fault_leading(self) -> None:
        self.assertGreater(self.belief(12, 12)[frozenset()], 0.9)


PROBABILITIES = st.lists(st.floats(0.01, 1.0), min_size=2, max_size=12)


class PropertyTest(TestCase):
    @settings(max_examples=60, deadline=None)
    @given(PROBABILITIES, st.floats(-50, 50))
    def test_posterior_sums_to_one_and_ignores_what_says_nothing(
        self, weights: list[float], level: float
    ) -> None:
        prior = np.array(weights) / sum(weights)
        found = posterior(prior, [np.full(len(prior), level)])
        self.assertAlmostEqual(float(found.sum()), 1.0)
        np.testing.assert_allclose(found, prior, rtol=1e-9)

    @settings(max_examples=60, deadline=None)
    @given(PROBABILITIES, st.integers(0, 1000))
    def test_information_lies_between_zero_and_the_entropy(
        self, weights: list[float], seed: int
    ) -> None:
        belief = np.array(weights) / sum(weights)
        outcomes = np.random.default_rng(seed).dirichlet(np.ones(3), len(belief)).T[None]
        found = float(expected_information(outcomes, belief, np.eye(len(belief)))[0])
        self.assertGreaterEqual(found, -1e-9)
        self.assertLessEqual(found, float(entropy_bits(belief)) + 1e-9)

    @settings(max_examples=40, deadline=None)
    @given(PROBABILITIES)
    def test_an_impossible_outcome_changes_nothing(self, weights: list[float]) -> None:
        belief = np.array(weights) / sum(weights)
        np.testing.assert_allclose(posterior_after(np.zeros(len(belief)), belief), belief)
