"""What being wrong costs, and what a test saves of it.

H hypotheses, G repairs, T tests with at most B outcomes each. All costs are in one unit: minutes.
To act now is to make the repair that loses least; a test pays where what it saves is more than the
minutes it takes. Looked ahead by one test, as is usual where each test is cheap beside the repair
(source `heckerman-1995`).
"""

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def loss_now(belief: Floats, membership: Floats, wrong: Floats) -> float:
    """Return the expected minutes lost by the repair that loses least.

    `belief` [H], `membership` [H, G] is 1 where a repair puts a hypothesis right, `wrong` [G] is
    what each repair costs in vain.
    """
    missed = belief.sum() - belief @ membership
    return float(np.min(missed * wrong))


def loss_after(outcomes: Floats, belief: Floats, membership: Floats, wrong: Floats) -> Floats:
    """Return the expected minutes lost [T] where each test is made first and the best repair is
    made for its answer.

    `outcomes` [T, B, H] is P(outcome | hypothesis); the others as in `loss_now`.
    """
    joint = outcomes * belief
    by_outcome = joint.sum(axis=2)
    missed = by_outcome[..., None] - joint @ membership
    # Rounding may leave a hair below zero where an answer settles everything.
    lost = np.maximum(missed, 0.0) * wrong
    return np.asarray(lost.min(axis=2).sum(axis=1))
