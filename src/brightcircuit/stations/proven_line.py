"""The Line of a closed job: lit by what was proven, not by what was believed."""

from brightcircuit.bikes.drawings import Drawing
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.way import stands_of
from brightcircuit.stations.registry import proven_of
from brightcore.drawing.lights import Light
from brightcore.kinds import REGISTRY

RUNS = ("cut", "throttle", "minute", "assist", "motor", "alone", "together", "repair")
"""Checks that pass only where the motor runs: pack, lead, controller and motor are then proven with
them."""

ENERGY = ("energy", "between", "controller", "motor")


def proven_parts(job: Job) -> frozenset[str]:
    """Return the parts of a bike that something has proven: by a check of their own, or because the
    motor ran."""
    bike = stands_of(job)
    passed = [key.partition(":") for key, _, so in proven_of(job) if so]
    known = {part.id for part in bike.parts}
    found = {subject for _, _, subject in passed} & known
    if any(kind in RUNS for kind, _, _ in passed):
        found |= {part.id for part in bike.parts if REGISTRY[part.kind].place in ENERGY}
    return frozenset(found)


def _shows(drawing: Drawing, shape: str, proven: frozenset[str]) -> bool:
    """Return whether a shape of the Line shows nothing but proven parts."""
    kind, _, own = shape.partition(":")
    if kind == "part":
        return own in proven
    bike = drawing.circuit.bike
    runs = drawing.layout.join_run
    joins = []
    for name, run in runs.items():
        if shape == run or shape.startswith(f"{run}:"):
            joins.append(bike.join(name))
    if not joins:
        return False
    ends: set[str] = set()
    for join in joins:
        ends |= {join.a_part, join.b_part}
    return ends <= proven


def proven_lights(job: Job, drawing: Drawing) -> dict[str, Light]:
    """Return the light of every shape of a job's Line: lit where all that it shows was proven."""
    lit = drawing.lights(None)
    proven = proven_parts(job)
    if not proven:
        return lit
    found: dict[str, Light] = {}
    for name, light in lit.items():
        found[name] = Light("lit", 0.0) if _shows(drawing, name, proven) else light
    return found
