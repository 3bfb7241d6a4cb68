"""Posterior, expected information and the checks on them.

H hypotheses, G groups (repairs), T tests with at most B outcomes each. All logarithms are natural
except where bits are named. Reference: de Kleer and Williams (1987), source `dekleer-1987`.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def posterior(prior: Floats, log_likelihoods: Sequence[Floats]) -> Floats:
    """Return P(hypothesis | evidence) [H] from a prior [H] and log likelihoods, each [H]."""
    with np.errstate(divide="ignore"):
        total = np.log(prior)
    for item in log_likelihoods:
        total = total + item
    # The largest becomes 1 before the exponent is taken: twenty readings multiply to less than a
    # float holds.
    total = total - total.max()
    weight = np.exp(total)
    return np.asarray(weight / weight.sum())


def entropy_bits(p: Floats, axis: int = -1) -> Floats:
    """Return Shannon entropy in bits along an axis."""
    with np.errstate(divide="ignore", invalid="ignore"):
        terms = np.where(p > 0, p * np.log2(p), 0.0)
    return np.asarray(-terms.sum(axis=axis))


def expected_information(outcomes: Floats, belief: Floats, membership: Floats) -> Floats:
    """Return the expected information [T] in bits about the group, of each test.

    `outcomes` [T, B, H] is P(outcome | hypothesis), `belief` [H], `membership` [H, G] is 1
    where a hypothesis belongs to a group. Mutual information of outcome and group.
    """
    joint = (outcomes * belief) @ membership
    by_outcome = joint.sum(axis=2)
    by_group = membership.T @ belief
    return np.asarray(
        entropy_bits(by_outcome)
        + entropy_bits(by_group)
        - entropy_bits(joint.reshape(len(joint), -1))
    )


def posterior_after(outcome: Floats, belief: Floats) -> Floats:
    """Return belief [H] after one outcome with P(outcome | hypothesis) [H]."""
    weight = outcome * belief
    total = weight.sum()
    # An answer that nothing foretells teaches nothing; dividing by its zero would wipe every belief
    # out.
    if total > 0:
        return np.asarray(weight / total)
    return belief


def indistinct_groups(
    outcomes: Floats, members: Sequence[int], tolerance: float = 0.08
) -> list[list[int]]:
    """Return the members grouped so that no test tells those of one group apart.

    Two hypotheses are indistinct where their outcome probabilities differ by less than
    `tolerance` (total variation) in every test. `outcomes` [T, B, H].
    """
    groups: list[list[int]] = []
    for member in members:
        for group in groups:
            # Compared with the first of a group, not with each: "nearly the same" does not carry
            # over from one to the next, and a chain of near ones would join what is far apart.
            if _distance(outcomes, member, group[0]) < tolerance:
                group.append(member)
                break
        else:
            groups.append([member])
    return groups


def _distance(outcomes: Floats, a: int, b: int) -> float:
    if len(outcomes) == 0:
        return 0.0
    return float(0.5 * np.abs(outcomes[:, :, a] - outcomes[:, :, b]).sum(axis=1).max())
