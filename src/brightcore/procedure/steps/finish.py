"""The end: everything that is there is proven, then the ties are pulled tight."""

from brightcore.kinds import REGISTRY
from brightcore.kinds.pedal_sensor import PedalSpec
from brightcore.kinds.select import cutting
from brightcore.kinds.sensors import TorqueSpec
from brightcore.kinds.throttle import ThrottleSpec
from brightcore.procedure.step import ON, OUT, WorkStep
from brightcore.procedure.steps.bar import BRAKES
from brightcore.procedure.steps.base import (
    LEFT_OVER,
    MOVE,
    POWER_UP,
    PROVE,
    ROUTE,
    TIE,
    WHEEL_UP,
    Steps,
    fit,
)
from brightcore.procedure.work_case import WorkCase

TIDY = (
    "Ties tight, evenly spaced, ends trimmed",
    "Split wrap over the bundles, ties tight at joints and ends",
)
"""How cables are dressed at the end: with ties, or wrapped."""


BEFORE_PROOF = ("nuts", "ring", "lugs", "cover", "set", "fix", "heard")
"""Families of steps at a part that come before it is proven: what is loose or unset proves
nothing."""


def finish(case: WorkCase) -> Steps:
    """Prove what is there, then tie."""
    if not case.changes:
        return
    own = [POWER_UP, WHEEL_UP, ROUTE, MOVE, BRAKES, LEFT_OVER]
    for part in case.plan.parts:
        own += [fit(part), *(f"{what}:{part.id}" for what in BEFORE_PROOF), *case.plugs_of(part)]
    yield WorkStep(
        PROVE,
        f"Make the checks on Prove, wheel up: {', '.join(what_is_there(case))}",
        tuple(dict.fromkeys(own)),
        "Nobody knows that it stops before it was tried.",
        "Wheel clear. Then the road, slowly.",
        ON,
    )
    yield WorkStep(
        TIE,
        TIDY[case.plan.frame.wrapped],
        (PROVE,),
        "All of it is opened again for one wrong plug.",
        power=OUT,
    )


def what_is_there(case: WorkCase) -> list[str]:
    """Return what this bike has that can be proven, in words."""
    bike = case.plan
    found = []
    if bike.having(ThrottleSpec):
        found.append("throttle")
    if any(isinstance(part.spec, (PedalSpec, TorqueSpec)) for part in bike.parts):
        found.append("assist")
    levers = len(cutting(bike, "brake"))
    if levers:
        found.append("the cut-off under power" if levers == 1 else "every cut-off under power")
    for part in bike.parts:
        does = REGISTRY[part.kind].does
        if does is not None and does.called and does.called not in found:
            found.append(does.called)
    return found or ["what was changed"]
