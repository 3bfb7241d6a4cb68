"""Put an order of work right."""

import random
from functools import lru_cache

from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.practice.drills.base import Drill, Question
from brightcore.procedure.step import WorkStep
from brightcore.procedure.work_order import whole_order

BIKES = ("hub-conversion", "mid-conversion", "folding", "two-packs")
COUNT = 4
LEAST_PAIRS = 3


@lru_cache(maxsize=len(BIKES))
def _steps(name: str) -> tuple[WorkStep, ...]:
    bike = make_pattern(name, name)
    return whole_order(bike).steps


def before(steps: tuple[WorkStep, ...], chosen: list[WorkStep]) -> tuple[tuple[str, str], ...]:
    """Return the pairs (first, then) of chosen steps that must keep their order, needs of needs
    counted."""
    needs = {step.id: set(step.needs) for step in steps}
    for step in steps:
        for name in tuple(needs[step.id]):
            needs[step.id] |= needs.get(name, set())
    ids = [step.id for step in chosen]
    found = []
    for b in ids:
        for a in ids:
            if a in needs[b]:
                found.append((a, b))
    return tuple(found)


class WorkInOrder(Drill):
    """Number four steps."""

    key, title = "order", "Put an order of work right"

    def make(self, rng: random.Random) -> Question:
        name = rng.choice(BIKES)
        steps = _steps(name)
        while True:
            chosen = sorted(rng.sample(steps, COUNT), key=steps.index)
            pairs = before(steps, chosen)
            if len(pairs) >= LEAST_PAIRS:
                break
        shown = list(chosen)
        rng.shuffle(shown)
        early = next((step.early for step in chosen if step.early), "")
        return Question(
            f"{PATTERNS[name][0]}: in which order?",
            "order",
            tuple(step.id for step in chosen),
            f"{early or 'Each step needs what stands before it.'} "
            "Steps that need nothing of each other may change places.",
            (),
            tuple((step.id, step.title) for step in shown),
            before=pairs,
        )
