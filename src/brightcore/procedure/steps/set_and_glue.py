"""What is brought in range by hand, and then glued or fixed for good: before it is proven, not
after."""

from brightcore.kinds import REGISTRY
from brightcore.procedure.step import ON, OUT, WorkStep
from brightcore.procedure.steps.base import POWER_UP, Steps, fit
from brightcore.procedure.work_case import WorkCase


def set_and_glue(case: WorkCase) -> Steps:
    """Set what this job has fitted; fix it where it is fixed."""
    for part in case.fitted:
        fitting = REGISTRY[part.kind].fitting
        if fitting.set_words:
            words = f"{fitting.set_words[0].lower()}{fitting.set_words[1:]}"
            yield WorkStep(
                f"set:{part.id}",
                f"{part.name}: {words}",
                (POWER_UP, fit(part), *case.plugs_of(part)),
                "Out of range, it stops the motor or never does.",
                "Wheel clear: it may turn." if fitting.set_powered else "",
                ON if fitting.set_powered else OUT,
            )
        if fitting.fix_words:
            yield WorkStep(
                f"fix:{part.id}",
                f"{part.name}: {fitting.fix_words}",
                (f"set:{part.id}",),
                fitting.fix_early,
                fitting.fix_caution,
            )
