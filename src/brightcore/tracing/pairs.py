"""Two faults at once, simulated on demand when the evidence fits no single fault.

Only the states that the evidence used are solved, for pairs of leading suspects.
"""

import numpy as np

from brightcore.tracing.engine import Trace
from brightcore.tracing.evidence import log_likelihood
from brightcore.tracing.hypotheses import Hypothesis, HypothesisSet
from brightcore.tracing.table import Row, Table

LEADERS = 10
MOST_PAIRS = 45


def pair_explanations(trace: Trace, count: int = 3) -> tuple[tuple[str, str, float], ...]:
    """Return (title, title, share) of the pairs of faults that explain the evidence best.

    Candidates are the faults that explain single readings best; the share is relative among
    the pairs tried, with each pair's prior the product of its members'.
    """
    h = trace.engine.hypotheses
    single = np.stack(trace.logs).max(axis=0) + np.stack(trace.logs).sum(axis=0) / max(len(trace.logs), 1)
    best_each = {int(np.argmax(log[1:-1])) + 1 for log in trace.logs}
    order = [i for i in np.argsort(-(single + np.log(h.prior))) if 0 < i < h.rows]
    places: dict[str, int] = {}
    for i in [*order[: LEADERS * 3], *best_each]:
        mode = h.items[i].mode
        if mode is not None:
            places.setdefault(mode.family, i)
    leaders = list(places.values())[:LEADERS]
    pairs = [(a, b) for k, a in enumerate(leaders) for b in leaders[k + 1 :]][:MOST_PAIRS]
    if not pairs:
        return ()
    rows = [Row()]
    items = [h.items[0]]
    for a, b in pairs:
        one, two = h.items[a], h.items[b]
        assert one.mode is not None and two.mode is not None
        rows.append(Row((*one.mode.overrides, *two.mode.overrides), frozenset((*one.mode.traits, *two.mode.traits))))
        items.append(Hypothesis(f"{one.id}+{two.id}", f"{one.title} + {two.title}", one.prior * two.prior, one.repair, one.mode))
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
