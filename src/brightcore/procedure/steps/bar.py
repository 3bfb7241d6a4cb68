"""What sits on the bar, in reach of the hand."""

from brightcore.kinds import REGISTRY
from brightcore.procedure.step import WorkStep
from brightcore.procedure.steps.base import (
    GRIPS,
    POWER_UP,
    Steps,
    fit,
    in_place_of,
    remove,
    sits_on_bar,
)
from brightcore.procedure.torques import torque_words
from brightcore.procedure.work_case import WorkCase

BRAKES = "brakes"


def on_the_bar(case: WorkCase) -> Steps:
    """What comes off the bar and goes onto it; brakes that were moved are proved by hand."""
    moved = []
    for part in case.removed:
        if sits_on_bar(part):
            moved.append(remove(part))
            yield WorkStep(
                remove(part),
                f"{part.name} off the bar",
                (GRIPS, *case.pulled(part)),
                "Its wire tears if it is still connected.",
            )
    for part in case.fitted:
        if not sits_on_bar(part):
            continue
        moved.append(fit(part))
        old = in_place_of(case, part)
        yield WorkStep(
            fit(part),
            (
                f"Clamp {part.name} on the bar: thumb and fingers reach it, it fouls neither "
                "lever nor shifter"
            ),
            (GRIPS, POWER_UP, *((remove(old),) if old else ())),
            "Moved later, its cable is too short or its clamp is under the grip.",
            torque=torque_words(part, "clamp_nm", "clamp"),
        )
    levers = [part for part in (*case.fitted, *case.removed) if REGISTRY[part.kind].cuts == "brake"]
    if moved and levers:
        gears = " and gears" if case.pedalled else ""
        yield WorkStep(
            BRAKES,
            f"Brakes{gears} adjusted again and proved by hand, every lever",
            tuple(moved),
            "A brake that was moved is not a brake until it was tried.",
            "Standing, then rolling: each brake alone must hold the bike.",
        )
