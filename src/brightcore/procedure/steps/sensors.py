"""Sensors and switches whose wires lie where something swings, and the low-cell alarm."""

from brightcore.kinds.charging import AlarmSpec
from brightcore.kinds.switches import StandSwitch
from brightcore.procedure.step import ON, WorkStep
from brightcore.procedure.steps.base import POWER_UP, Steps, fit
from brightcore.procedure.work_case import WorkCase


def sensors(case: WorkCase) -> Steps:
    """A switch at the stand, and an alarm that is heard."""
    for part in case.fitted:
        if part.kind == StandSwitch.name:
            yield WorkStep(
                fit(part),
                f"{part.name} at the stand; its wire along the frame, clear of the stand's swing "
                "and of the chain, with slack",
                (POWER_UP, *case.plugs_of(part)),
                "The stand cuts it the first time it folds up.",
            )
        elif isinstance(part.spec, AlarmSpec):
            yield WorkStep(
                fit(part),
                f"{part.name} where it is heard, at the bars, its lead tied along",
                (POWER_UP, *case.plugs_of(part)),
                "An alarm in a bag is heard by nobody.",
            )
            yield WorkStep(
                f"heard:{part.id}",
                f"{part.name}: counts the cells as described, sounds at {part.spec.alarm_v:g} V "
                "of the lowest; tried",
                (fit(part),),
                "Soft packs have no board: nothing else stops them.",
                "Its button or a bench supply, never a cell run down on purpose.",
                ON,
            )
