"""Pad, lugs and cover of a controller."""

from brightcore.bike.model import Part
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.procedure.steps.base import Steps
from brightcore.procedure.torques import torque_words
from brightcore.procedure.work_order import WorkStep


def controller_lugs(part: Part) -> Steps:
    """A controller: pad, lugs, cover."""
    if not isinstance(part.spec, ControllerSpec):
        return
    yield WorkStep(
        f"lugs:{part.id}",
        f"{part.name}: both films off the thermal pad; lug screws tight, leads pull on nothing",
        (f"mount:{part.id}",),
        "A lug that warms melts its plug.",
        torque="; ".join(
            (
                torque_words(part, "lug_nm", "lug screws"),
                torque_words(part, "cover_nm", "cover screws"),
            )
        ),
    )
