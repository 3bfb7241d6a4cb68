"""Switches at stand and seat: their wires lie where something swings."""

from brightcore.bike.model import Part
from brightcore.kinds.switches import StandSwitch
from brightcore.procedure.steps.base import OUT, Steps
from brightcore.procedure.work_order import WorkStep


def stand_switch(part: Part) -> Steps:
    """A switch at the stand or the seat."""
    if part.kind != StandSwitch.name:
        return
    yield WorkStep(
        f"swing:{part.id}",
        f"Wire of {part.name}: along the frame, clear of the stand's swing and of the chain, with slack",
        OUT,
        "The stand cuts it the first time it folds up.",
    )
