"""Two faults at once, simulated on demand when the evidence fits no single fault.

Only the states that the evidence used are solved, for pairs of leading suspects.
"""

import numpy as np

from brightcore.simulation.table import Row, Table
from brightcore.tracing.hypotheses import Hypothesis, hypothesis_set
from brightcore.tracing.tests import kind_of, log_likelihood
from brightcore.tracing.trace import Pair, Trace

MOST_PAIRS = 45


def pair_explanations(trace: Trace, count: int = 3) -> tuple[tuple[str, str, float], ...]:
    """Return (title, title, share) of the pairs of faults that explain the evidence best."""
    h = trace.engine.hypotheses
    found = []
    for p in pairs_of(trace)[:count]:
        found.append((h.items[p.first].title, h.items[p.second].title, p.share))
    return tuple(found)


def pairs_of(trace: Trace) -> tuple[Pair, ...]:
    """Return the pairs of faults worth trying, the best explanation first; worked out once a trace.

    The share is relative among the pairs tried, with each pair's prior the product of its members'.
    """
    if trace.pairs is None:
        trace.pairs = _explain(trace)
    return trace.pairs


def _explain(trace: Trace) -> tuple[Pair, ...]:
    h = trace.engine.hypotheses
    pairs = _candidates(trace)
    if not pairs:
        return ()
    rows = [Row()]
    items = [h.items[0]]
    for a, b in pairs:
        one, two = h.items[a], h.items[b]
        assert one.mode is not None and two.mode is not None
        traits = frozenset((*one.mode.traits, *two.mode.traits))
        rows.append(Row((*one.mode.overrides, *two.mode.overrides), traits))
        prior = one.prior * two.prior
        items.append(
            Hypothesis(f"{one.id}+{two.id}", one.title, prior, one.repair, one.mode, len(items))
        )
    # "Not modelled" stays in the set, so that two faults have to beat "something else", not only
    # each other.
    items.append(h.items[-1])
    pair_set = hypothesis_set(tuple(items))
    table = Table(trace.engine.circuit, rows)
    total = np.log(pair_set.prior)
    for i in trace.now:
        item = trace.evidence[i]
        # Only what a circuit foretells can be simulated for two faults at once. What is told of the
        # past or smelt says the same of every pair.
        if kind_of(item.kind).by_rows:
            total = total + log_likelihood(table, pair_set, item)
    weights = np.exp(total[1:-1] - total[1:-1].max())
    weights /= weights.sum()
    best = np.argsort(-weights, kind="stable")
    found = []
    for k in best:
        found.append(Pair(pairs[k][0], pairs[k][1], float(weights[k])))
    return tuple(found)


BACKED = 0.95
"""Share of the pairs of faults that a repair must be part of to be named as one of two."""


def second_of(trace: Trace) -> str | None:
    """Return the title of the likely second fault where the leading repair is one of two; None
    where it is not.

    Asked where no single fault accounts for what was seen and nothing is left to measure.
    """
    h = trace.engine.hypotheses
    lead = trace.leading_repair
    pairs = pairs_of(trace)
    own = []
    for p in pairs:
        if lead in (h.repair_of[p.first], h.repair_of[p.second]):
            own.append(p)
    if not own or sum(p.share for p in own) < BACKED:
        return None
    best = own[0]
    if h.repair_of[best.first] == lead:
        other = best.second
    else:
        other = best.first
    return h.items[other].title


def _candidates(trace: Trace) -> list[tuple[int, int]]:
    """Return the pairs worth simulating: each reading is credited to the member that explains it
    better."""
    h = trace.engine.hypotheses
    with np.errstate(divide="ignore"):
        prior = np.log(h.prior[: h.modelled])
    # A cheap bound in place of thousands of circuits: of two faults each reading is explained at
    # least as well as by the better one. It is too kind where both act on one reading, so the best
    # are solved in full.
    score = prior[:, None] + prior[None, :]
    for i in trace.now:
        rows = trace.logs[i][: h.modelled]
        score = score + np.maximum(rows[:, None], rows[None, :])
    pairs: dict[tuple[str, str], tuple[int, int]] = {}
    upper = np.triu_indices(h.modelled, 1)
    for k in np.argsort(-score[upper], kind="stable")[:4000]:
        a, b = int(upper[0][k]), int(upper[1][k])
        one, two = h.items[a].mode, h.items[b].mode
        # Two faults of one place are one repair; what comes and goes is sought by itself, or
        # everything could be explained by two things that did not show.
        if one is None or two is None or one.family == two.family or h.loose[[a, b]].any():
            continue
        pairs.setdefault((one.family, two.family), (a, b))
        if len(pairs) == MOST_PAIRS:
            break
    return list(pairs.values())
