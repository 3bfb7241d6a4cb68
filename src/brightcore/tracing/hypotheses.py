"""The hypotheses of one bike: no fault now, every enumerated fault, something not modelled."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcore.circuit.faults import FaultMode, RepairKind
from brightcore.circuit.netlist import Circuit

NO_FAULT = "no-fault"
NOT_MODELLED = "not-modelled"

NO_FAULT_PRIOR = 0.03
NOT_MODELLED_PRIOR = 0.015
"""Priors of the two special hypotheses (common practice)."""

NONE_REPAIR = RepairKind(
    "none", "No fault found now: ride it with the rider and look again", 10, "It may come and go", 0
)
OTHER_REPAIR = RepairKind("other", "Something the model does not hold: work by the book from here", 60, "", 0)


@dataclass(frozen=True, slots=True)
class Hypothesis:
    """One explanation: a fault mode or a special case."""

    id: str
    title: str
    prior: float
    repair: RepairKind
    mode: FaultMode | None


@dataclass(frozen=True)
class HypothesisSet:
    """All hypotheses; row 0 is "no fault now", the last is "not modelled" (no circuit row)."""

    items: tuple[Hypothesis, ...]
    prior: NDArray[np.float64]
    repairs: tuple[RepairKind, ...]
    repair_of: NDArray[np.intp]

    @property
    def rows(self) -> int:
        """Number of hypotheses that have a circuit (all but the last)."""
        return len(self.items) - 1

    def index(self, hypothesis_id: str) -> int:
        """Return the position of a hypothesis id."""
        return next(i for i, item in enumerate(self.items) if item.id == hypothesis_id)


def enumerate_hypotheses(circuit: Circuit, counts: dict[str, int] | None = None) -> HypothesisSet:
    """Return all hypotheses of a bike with their priors.

    `counts` holds how often this shop confirmed a repair of a class (see `fault_class`); each
    confirmed case adds to the weight of its class.
    """
    counts = counts or {}
    modes = circuit.faults
    weights = np.array([m.weight * (1.0 + 0.5 * counts.get(fault_class(m), 0)) for m in modes])
    weights *= (1.0 - NO_FAULT_PRIOR - NOT_MODELLED_PRIOR) / weights.sum()
    items = [Hypothesis(NO_FAULT, "No fault now", NO_FAULT_PRIOR, NONE_REPAIR, None)]
    items += [Hypothesis(m.id, m.title, float(w), m.repair, m) for m, w in zip(modes, weights, strict=True)]
    items.append(Hypothesis(NOT_MODELLED, "Something not modelled", NOT_MODELLED_PRIOR, OTHER_REPAIR, None))
    repairs: dict[str, RepairKind] = {}
    for item in items:
        repairs.setdefault(item.repair.id, item.repair)
    order = list(repairs)
    return HypothesisSet(
        tuple(items),
        np.array([item.prior for item in items]),
        tuple(repairs.values()),
        np.array([order.index(item.repair.id) for item in items], dtype=np.intp),
    )


def fault_class(mode: FaultMode) -> str:
    """Return the class in which a shop's confirmed cases are counted: kind of place and mode."""
    return mode.id.split("/", 1)[1].split("-to-")[0]
