"""A motor at the cranks."""

from brightcore.bike.model import Part
from brightcore.kinds.mid_motor import MidMotorSpec
from brightcore.procedure.steps.base import OUT, Steps
from brightcore.procedure.torques import torque_words
from brightcore.procedure.work_order import WorkStep


def mid_drive(part: Part) -> Steps:
    """A motor at the cranks: cranks off, motor in, ring and lock ring."""
    if not isinstance(part.spec, MidMotorSpec):
        return
    i, name = part.id, part.name
    yield WorkStep(
        f"cranks:{i}",
        "Crank bolts out, puller straight; bracket out",
        OUT,
        "A crossed thread costs the crank.",
    )
    yield WorkStep(
        f"bracket:{i}",
        f"{name} in, chain line and ring offset looked at, lock ring tight; checked again after a turn",
        (f"cranks:{i}",),
        "A motor that rocks eats the frame.",
        torque="; ".join(
            (
                torque_words(part, "lock_ring_nm", "lock ring"),
                torque_words(part, "crank_bolt_nm", "crank bolts"),
            )
        ),
    )
