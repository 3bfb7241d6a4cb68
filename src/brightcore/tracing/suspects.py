"""The ranking: hypotheses of one place and repair as one suspect, suspects that nothing tells apart
as one line."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcore.belief.bayes import indistinct_groups
from brightcore.circuit.faults import RepairKind
from brightcore.tracing.hypotheses import HypothesisSet
from brightcore.tracing.stacked import Stacked

Floats = NDArray[np.float64]

LEAST_SHOWN, MOST_COMPARED = 0.02, 12
"""Belief from which suspects are compared, and how many of them at most."""

SUSPECT_PROBABILITY = 0.05
"""Belief from which a stretch or part is suspect."""

LEAST_LEFT = 0.01
"""Belief from which a suspect counts as left: the same wherever suspects are counted."""


@dataclass(frozen=True, slots=True)
class Suspect:
    """Hypotheses of one place and repair, as one line of the ranking."""

    id: str
    title: str
    probability: float
    repair: RepairKind
    members: tuple[int, ...]

    @property
    def is_left(self) -> bool:
        """Whether it still counts among the suspects."""
        return self.probability >= LEAST_LEFT


def suspects_of(hypotheses: HypothesisSet, belief: Floats) -> tuple[Suspect, ...]:
    """Return hypotheses grouped by place and repair, most probable first; `belief` [H].

    What is not described on one line is one suspect, whichever of its pins it stands on.
    """
    groups: dict[tuple[str, str], list[int]] = {}
    for i, item in enumerate(hypotheses.items):
        place = item.mode.family if item.mode else item.id
        # A line with something unknown on it is one suspect, whichever pin the unknown hangs on:
        # one look with the eyes settles them all.
        place = "" if item.repair.describes else place
        groups.setdefault((item.repair.id, place), []).append(i)
    found = []
    for (repair_id, place), members in groups.items():
        lead = max(members, key=lambda m: belief[m])
        item = hypotheses.items[lead]
        total = float(belief[members].sum())
        found.append(
            Suspect(f"{repair_id} {place}", item.title, total, item.repair, tuple(members))
        )
    return tuple(sorted(found, key=lambda s: -s.probability))


def indistinct_of(
    stack: Stacked,
    suspects: Sequence[Suspect],
    belief: Floats,
) -> tuple[tuple[Suspect, ...], ...]:
    """Return the leading suspects that no remaining test tells apart, as groups of two or more."""
    # A swap tells two parts apart by buying one. It is left out, or two suspects that only a
    # purchase could part would count as told apart.
    fresh = [n for n, table in enumerate(stack.tables) if table.test.kind != "swap"]
    leading = [s for s in suspects if s.probability > LEAST_SHOWN][:MOST_COMPARED]
    heads = [max(s.members, key=lambda m: belief[m]) for s in leading]
    if not fresh:
        return ()
    # Only what the leading ones foretell is compared: columns 0, 1, … in the order of `leading`.
    foretold = stack.padded(np.array(heads, dtype=int), fresh)
    found = []
    for group in indistinct_groups(foretold, range(len(heads))):
        if len(group) > 1:
            found.append(tuple(leading[column] for column in group))
    return tuple(found)


def lines_of(
    suspects: Sequence[Suspect], indistinct: Sequence[tuple[Suspect, ...]]
) -> tuple[tuple[Suspect, ...], ...]:
    """Return the lines of the ranking, most probable first: those of one group as one line."""
    groups = {suspect.id: group for group in indistinct for suspect in group}
    found: dict[str, tuple[Suspect, ...]] = {}
    for suspect in suspects:
        group = groups.get(suspect.id, (suspect,))
        found.setdefault(group[0].id, group)
    return tuple(sorted(found.values(), key=lambda line: -sum(s.probability for s in line)))
