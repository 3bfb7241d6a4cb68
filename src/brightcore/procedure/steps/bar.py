"""What sits on the bar."""

from brightcore.bike.model import Part
from brightcore.kinds import REGISTRY
from brightcore.procedure.steps.base import GRIPS, Steps
from brightcore.procedure.torques import torque_words
from brightcore.procedure.work_order import WorkStep


def on_the_bar(part: Part) -> Steps:
    """What sits on the bar, in reach of the hand."""
    kind = REGISTRY[part.kind]
    if kind.place != "bar" or kind.sits != "bar":
        return
    yield WorkStep(
        f"bar:{part.id}",
        f"Fit {part.name} on the bar: thumb and fingers reach it, it fouls neither lever nor shifter",
        (GRIPS,),
        "Moved later, its cable is too short or its clamp is under the grip.",
        torque=torque_words(part, "clamp_nm", "clamp"),
    )
