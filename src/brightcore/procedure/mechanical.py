"""The mechanical work around the wiring, in one order with it (common practice; makers' torques first)."""

from collections.abc import Iterable
from dataclasses import replace

from brightcore.bike.model import Bike
from brightcore.procedure.steps import FAMILIES
from brightcore.procedure.steps.loom import brakes, checked, grips, labels, left_over
from brightcore.procedure.work_order import WorkStep, in_order


def mechanical_steps(bike: Bike, parts: Iterable[str], gone: Iterable[str]) -> tuple[WorkStep, ...]:
    """Return the mechanical steps for parts that are fitted, and for what is left of those taken off."""
    ids = set(parts)
    found = [step for part in bike.parts if part.id in ids for family in FAMILIES for step in family(part)]
    if ids:
        found.insert(0, checked([part.name for part in bike.parts if part.id in ids]))
    on_bar = [step.id for step in found if step.id.startswith("bar:")]
    if on_bar:
        found.insert(0, grips())
        found.append(brakes(on_bar))
    left = list(gone)
    if left:
        found.insert(0, labels(left))
        found.append(left_over(left))
    return tuple(found)


def with_mechanical(
    steps: Iterable[WorkStep], bike: Bike, parts: Iterable[str], gone: Iterable[str]
) -> tuple[WorkStep, ...]:
    """Return an order of work with the mechanical steps in it, each after what it needs."""
    electrical = tuple(steps)
    known = {step.id for step in electrical}
    found = mechanical_steps(bike, parts, gone)
    own = {step.id for step in found}
    made = [
        replace(step, needs=tuple(need for need in step.needs if need in known or need in own))
        for step in found
    ]
    if not made:
        return electrical
    nuts = tuple(step.id for step in made if step.id.startswith(("nuts:", "bracket:")))
    every = tuple(step.id for step in made)
    later = {"wheel-up": nuts, "prove": every}
    joined = [replace(step, needs=(*step.needs, *later.get(step.id, ()))) for step in electrical]
    return in_order([*joined[:1], *made, *joined[1:]])
