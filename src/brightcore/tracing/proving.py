"""How to show that a repair worked: the quickest test that tells the fault from the healthy bike.

It stands at the end of the walk: readings made the belief, the belief named a repair, and this says
what must be seen once it is done.
"""

from dataclasses import dataclass

import numpy as np

from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.simulation.words import look_words
from brightcore.tracing.tests import OutcomeTable, kind_of
from brightcore.tracing.trace import Trace

PROVING = 0.8
"""How far apart a proof by meter must set the fault and the healthy bike (total variation)."""


@dataclass(frozen=True, slots=True)
class Proof:
    """How to show that a repair worked: what to do and what must then be seen."""

    title: str
    expected: str
    test_id: str


def proof_of(trace: Trace, repair_id: str) -> Proof | None:
    """Return the quickest test that must now give the healthy answer and did not before."""
    h = trace.engine.hypotheses
    members = []
    for i, item in enumerate(h.items):
        if item.repair.id == repair_id and item.mode is not None:
            members.append(i)
    if not members:
        return None
    # One repair may put right several faults. The proof is that of the likeliest one.
    lead = max(members, key=lambda m: trace.belief[m])
    table = trace.engine.table
    for scene_id, scene in table.scenes.items():
        if scene.unplugged:
            continue
        seen = table.seen(scene_id)
        row = h.items[lead].row
        # A proof is a scene in which the fault showed: one that looks the same healthy and faulty
        # proves nothing.
        if any(codes[row] != codes[0] for codes in seen.values()):
            words = []
            for name, codes in seen.items():
                class_id, text = OBSERVABLES[name].classes[int(codes[0])]
                words.append(look_words(trace.engine.bike, name, class_id, text))
            return Proof(scene.title, ", ".join(words), f"look {scene_id}")
    return _proof_by_meter(trace, lead)


def _proof_by_meter(trace: Trace, lead: int) -> Proof | None:
    best: tuple[float, OutcomeTable] | None = None
    for item in trace.engine.stack().tables:
        if kind_of(item.test.kind).probes:
            # Total variation: the chance by which one answer separates the two at best.
            apart = float(0.5 * np.abs(item.probability[:, lead] - item.probability[:, 0]).sum())
            if apart > PROVING and (best is None or item.test.minutes < best[0]):
                best = (item.test.minutes, item)
    if best is None:
        return None
    item = best[1]
    expected = item.outcomes[int(np.argmax(item.probability[:, 0]))].label
    return Proof(item.test.title, expected, item.test.id)
