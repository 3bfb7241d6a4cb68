"""What a setting was found at, as Program read it: right, or clearly wrong.

A setting that is wrong is seldom a slip: it is wrong, and may yet have nothing to do with the
complaint. So it speaks for its own fault without contradicting any other.
"""

from typing import ClassVar

import numpy as np

from brightcore.simulation.table import Table
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import HypothesisSet
from brightcore.tracing.tests.base import Bench, Floats, one_of
from brightcore.tracing.tests.tried import Known, place_title

BESIDE = 0.25
"""How often a setting is clearly wrong on a bike whose trouble is another (common practice)."""

FOUND = 0.97
"""How often a setting that is the fault is read as wrong; the rest is read off another line."""


class AsSet(Known):
    """A setting as it was found. `value`: `good` or `wrong`; `subject`: the repair that sets it."""

    name = evidence = "setting"
    family: ClassVar[str] = "Settings as found"

    def validate(self, table: Table, item: Evidence) -> None:
        one_of(item.value, ("good", "wrong"))

    def likelihood(self, table: Table, hypotheses: HypothesisSet, item: Evidence) -> Floats:
        own = []
        for h in hypotheses.items[: hypotheses.modelled]:
            own.append(h.repair.id == item.subject)
        wrong = np.where(own, FOUND, BESIDE)
        if item.value == "wrong":
            return wrong
        return 1.0 - wrong

    def title(self, bench: Bench, item: Evidence) -> str:
        for repair in bench.hypotheses.repairs:
            if repair.id == item.subject:
                return f"Setting read: {repair.action[0].lower()}{repair.action[1:]}?"
        return f"Setting read: {place_title(bench.bike, item.subject)}"

    def value_words(self, item: Evidence) -> str:
        if item.value == "wrong":
            return "clearly wrong as found"
        return "right as found"
