"""Two faults at once, simulated on demand when the evidence fits no single fault.

Only the states that the evidence used are solved, for pairs of leading suspects.
"""

import numpy as np

from brightcore.simulation.table import Row, Table
from brightcore.tracing.engine import Trace
from brightcore.tracing.hypotheses import Hypothesis, HypothesisSet
from brightcore.tracing.tests import log_likelihood

MOST_PAIRS = 45


def pair_explanations(trace: Trace, count: int = 3) -> tuple[tuple[str, str, float], ...]:
    """Return (title, title, share) of the pairs of faults that explain the evidence best.

    The share is relative among the pairs tried, with each pair's prior the product of its
    members'.
    """
    h = trace.engine.hypotheses
    pairs = _candidates(trace)
    if not pairs:
        return ()
    rows = [Row()]
    items = [h.items[0]]
    for a, b in pairs:
        one, two = h.items[a], h.items[b]
        assert one.mode is not None and two.mode is not None
        rows.append(
            Row((*one.mode.overrides, *two.mode.overrides), frozenset((*one.mode.traits, *two.mode.traits)))
        )
        items.append(
            Hypothesis(
                f"{one.id}+{two.id}",
                f"{one.title} + {two.title}",
                one.prior * two.prior,
                one.repair,
                one.mode,
            )
        )
    items.append(h.items[-1])
    prior = np.array([item.prior for item in items])
    pair_set = HypothesisSet(tuple(items), prior, h.repairs, np.zeros(len(items), dtype=np.intp))
    table = Table(trace.engine.circuit, rows)
    total = np.log(prior)
    for item in trace.evidence:
        total = total + log_likelihood(table, pair_set, item)
    weights = np.exp(total[1:-1] - total[1:-1].max())
    weights /= weights.sum()
    best = np.argsort(-weights)[:count]
    return tuple((h.items[pairs[k][0]].title, h.items[pairs[k][1]].title, float(weights[k])) for k in best)


def _candidates(trace: Trace) -> list[tuple[int, int]]:
    """Return the pairs worth simulating: each reading is credited to the member that explains it better."""
    h = trace.engine.hypotheses
    with np.errstate(divide="ignore"):
        prior = np.log(h.prior[: h.rows])
    score = prior[:, None] + prior[None, :]
    for log in trace.logs:
        rows = log[: h.rows]
        score = score + np.maximum(rows[:, None], rows[None, :])
    pairs: dict[tuple[str, str], tuple[int, int]] = {}
    upper = np.triu_indices(h.rows, 1)
    for k in np.argsort(-score[upper], kind="stable")[:4000]:
        a, b = int(upper[0][k]), int(upper[1][k])
        one, two = h.items[a].mode, h.items[b].mode
        if one is None or two is None or one.family == two.family:
            continue
        pairs.setdefault((one.family, two.family), (a, b))
        if len(pairs) == MOST_PAIRS:
            break
    return list(pairs.values())
