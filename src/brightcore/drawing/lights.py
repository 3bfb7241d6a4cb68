"""What lights up on the Line: the state of every shape from belief and evidence."""

from dataclasses import dataclass

import numpy as np

from brightcore.drawing.line_shapes import TRUNK, LineLayout
from brightcore.tracing.suspects import SUSPECT_PROBABILITY
from brightcore.tracing.trace import Trace

LIT_RATIO = 20.0
"""A stretch is lit where every fault of it is this many times less likely than the best
explanation."""


@dataclass(frozen=True, slots=True)
class Light:
    """State of one shape, and how probable a fault on it is."""

    state: str
    probability: float


def lights(layout: LineLayout, members: tuple[str, ...], trace: Trace | None) -> dict[str, Light]:
    """Return the light of every shape.

    Lit: by evidence alone every fault there is at least 20 times less likely than the best
    explanation. Suspect: 5 % posterior or more. Faulty: only once the stop rule holds.
    What no look and no reading shows, such as lost capacity, keeps nothing from lighting.
    Where the evidence contradicts itself, what could explain a contradicting reading is not lit.
    """
    found = {shape.id: Light("dim", 0.0) for shape in layout.shapes}
    if trace is None:
        return found
    names = np.array(members)
    shown = np.array([h.mode is None or not h.mode.silent for h in trace.engine.hypotheses.items])
    cut = -np.log(LIT_RATIO)
    strength = trace.strength.copy()
    if trace.contradictory:
        for index, _ in trace.contradicting:
            log = trace.said[index]
            strength[log >= log[:-1].max() + cut] = 0.0
    if trace.stopped:
        concluded = trace.engine.hypotheses.repairs[trace.leading_repair].id
    else:
        concluded = ""
    for shape_id in found:
        here = np.flatnonzero(names == shape_id)
        if len(here) == 0:
            if trace.evidence and shape_id == TRUNK:
                state = "lit"
            else:
                state = "dim"
            found[shape_id] = Light(state, 0.0)
            continue
        probability = float(trace.belief[here].sum())
        guilty = []
        for h in here:
            if trace.engine.hypotheses.items[h].repair.id == concluded:
                guilty.append(h)
        if guilty and float(trace.belief[guilty].sum()) > 0.2:
            state = "faulty"
        elif probability >= SUSPECT_PROBABILITY and trace.evidence:
            state = "suspect"
        elif bool((strength[here[shown[here]]] < cut).all()):
            state = "lit"
        else:
            state = "dim"
        found[shape_id] = Light(state, probability)
    return found
