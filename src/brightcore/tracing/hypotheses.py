"""The hypotheses of one bike: no fault now, every enumerated fault, each also as one that comes and
goes, something not modelled.

A fault that comes and goes has no circuit of its own: each time it shows what the fault shows, or
what a healthy bike shows.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcore.circuit.faults import FaultMode, RepairKind
from brightcore.circuit.netlist import Circuit
from brightcore.simulation.levels import faults_of
from brightcore.tracing.states import AGAIN

Floats = NDArray[np.float64]

NO_FAULT = "no-fault"
NOT_MODELLED = "not-modelled"

NO_FAULT_PRIOR = 0.05
NOT_MODELLED_PRIOR = 0.015
"""Priors of the two special hypotheses (common practice)."""

LEAST_COUNT, COUNT_WEIGHT = 3, 0.5
"""Confirmed cases from which a shop's own count moves a prior, and what each adds (common
practice)."""

OFTEN = (("loose", 0.5), ("rare", 0.12))
"""How often a fault that comes and goes shows at a try: often, and rarely (common practice)."""

BROUGHT_OUT, TRIES = 0.9, 6
"""How often it shows in the state that brings it out, and what trying again is worth in single
tries (common practice)."""


BLUR = 0.3
"""How much of what is seen at one level is taken from those beside it (common practice)."""


def shows(often: Floats, state: str) -> Floats:
    """Return how often faults that come and go show in a state ("": nothing was done to bring them
    out)."""
    if state == AGAIN:
        return np.asarray(1.0 - (1.0 - often) ** TRIES)
    if state:
        return np.full_like(often, BROUGHT_OUT)
    return often


NONE_REPAIR = RepairKind(
    "none", "No fault found now: ride it with the rider and look again", 10, "It may come and go", 0
)
OTHER_REPAIR = RepairKind("other", "Not a known fault: follow the maker’s procedure", 60, "", 0)


@dataclass(frozen=True, slots=True)
class Hypothesis:
    """One explanation: a fault mode or a special case. `row`: its circuit; `often`: how often it
    shows at a try where it comes and goes, 0 where it stays."""

    id: str
    title: str
    prior: float
    repair: RepairKind
    mode: FaultMode | None
    row: int = 0
    often: float = 0.0

    @property
    def loose(self) -> bool:
        """Whether it comes and goes."""
        return self.often > 0


@dataclass(frozen=True)
class HypothesisSet:
    """All hypotheses H; row 0 is "no fault now", the last is "not modelled" (no circuit row).

    `row_of` [H-1] says whose circuit a hypothesis has, `often` [H-1] how often it shows at a try
    where it comes and goes, 0 where it stays. `beside` [2, R] are the circuits of the next smaller
    and the next larger value at the same place, a circuit itself where there is none.
    """

    items: tuple[Hypothesis, ...]
    prior: Floats
    repairs: tuple[RepairKind, ...]
    repair_of: NDArray[np.intp]
    row_of: NDArray[np.intp]
    often: Floats
    beside: NDArray[np.intp]

    @property
    def loose(self) -> NDArray[np.bool_]:
        """Which hypotheses [H-1] come and go."""
        return np.asarray(self.often > 0)

    @property
    def modelled(self) -> int:
        """Number of hypotheses that foretell something (all but the last)."""
        return len(self.items) - 1

    @property
    def rows(self) -> int:
        """Number of circuits R."""
        return int(self.row_of.max()) + 1

    @property
    def row_prior(self) -> Floats:
        """Prior of every circuit row [R]."""
        found = np.bincount(self.row_of, weights=self.prior[: self.modelled], minlength=self.rows)
        return np.asarray(found)

    def blurred(self, chances: Floats) -> Floats:
        """Return chances of what is seen [..., R]: each level of a place mixed with its neighbours.

        A level stands for every value up to the next one, and somewhere between two of them the
        motor stops turning: what is seen there is what one of the two shows.
        """
        near = 0.5 * (chances[..., self.beside[0]] + chances[..., self.beside[1]])
        return np.asarray((1.0 - BLUR) * chances + BLUR * near)

    def of_rows(self, chances: Floats, state: str = "", always: bool = False) -> Floats:
        """Return chances of hypotheses [..., H-1] from those of circuit rows [..., R].

        What comes and goes shows its fault as often as it does in a `state`, else what a healthy
        bike shows. `always`: of a moment at which it showed.
        """
        share = np.where(self.loose & (not always), shows(self.often, state), 1.0)
        return np.asarray(share * chances[..., self.row_of] + (1.0 - share) * chances[..., :1])

    def index(self, hypothesis_id: str) -> int:
        """Return the position of a hypothesis id."""
        return next(i for i, item in enumerate(self.items) if item.id == hypothesis_id)


def hypothesis_set(items: tuple[Hypothesis, ...]) -> HypothesisSet:
    """Return the set of some hypotheses: "no fault now" first, "not modelled" last."""
    repairs: dict[str, RepairKind] = {}
    for item in items:
        repairs.setdefault(item.repair.id, item.repair)
    order = list(repairs)
    return HypothesisSet(
        items,
        np.array([item.prior for item in items]),
        tuple(repairs.values()),
        np.array([order.index(item.repair.id) for item in items], dtype=np.intp),
        np.array([item.row for item in items[:-1]], dtype=np.intp),
        np.array([item.often for item in items[:-1]]),
        _beside(items),
    )


def _beside(items: tuple[Hypothesis, ...]) -> NDArray[np.intp]:
    """Return the circuits of the neighbouring values of every circuit [2, R]."""
    count = max((item.row for item in items[:-1]), default=0) + 1
    found = np.tile(np.arange(count), (2, 1))
    places: dict[str, list[tuple[float, int]]] = {}
    for item in items[:-1]:
        if item.mode is None or item.loose or len(item.mode.overrides) != 1:
            continue
        (override,) = item.mode.overrides
        if len(override.regions) == 1 and override.regions[0].j == 0:
            places.setdefault(override.element, []).append((override.regions[0].g1, item.row))
    for levels in places.values():
        rows = [row for _, row in sorted(levels)]
        for one, two in zip(rows, rows[1:], strict=False):
            found[1, one], found[0, two] = two, one
    return found


def enumerate_hypotheses(
    circuit: Circuit, counts: Mapping[str, int] | None = None
) -> HypothesisSet:
    """Return all hypotheses of a bike with their priors.

    `counts` holds how often this shop confirmed a repair of a class (see `fault_class`); from
    `LEAST_COUNT` on each confirmed case adds to the weight of its class.
    """
    counts = counts or {}
    found = [Hypothesis(NO_FAULT, "No fault now", NO_FAULT_PRIOR, NONE_REPAIR, None)]
    weighted = []
    for row, mode in enumerate(faults_of(circuit), start=1):
        confirmed = counts.get(fault_class(mode), 0)
        # A few cases say nothing of a shop's bikes. From `LEAST_COUNT` on they move the weight of
        # their kind, and never to zero: what has not been seen yet may still come in.
        weight = mode.weight * (1.0 + COUNT_WEIGHT * (confirmed if confirmed >= LEAST_COUNT else 0))
        weighted.append(Hypothesis(mode.id, mode.title, weight, mode.repair, mode, row))
    for item in tuple(weighted):
        assert item.mode is not None
        if not item.mode.loose:
            continue
        # What comes and goes is a hypothesis of its own for each rate, beside the steady fault, so
        # that one clean look does not clear it.
        weight = item.prior * item.mode.loose / len(OFTEN)
        title = f"{item.title}, comes and goes"
        for name, often in OFTEN:
            own = f"{item.id}/{name}"
            weighted.append(Hypothesis(own, title, weight, item.repair, item.mode, item.row, often))
    scale = (1.0 - NO_FAULT_PRIOR - NOT_MODELLED_PRIOR) / sum(item.prior for item in weighted)
    for h in weighted:
        found.append(Hypothesis(h.id, h.title, h.prior * scale, h.repair, h.mode, h.row, h.often))
    found.append(
        Hypothesis(NOT_MODELLED, "Something not modelled", NOT_MODELLED_PRIOR, OTHER_REPAIR, None)
    )
    return hypothesis_set(tuple(found))


def fault_class(mode: FaultMode) -> str:
    """Return the class in which a shop's confirmed cases are counted: kind of place and mode."""
    return mode.id.split("/", 1)[1].split("-to-")[0]
