"""A motor that is a wheel."""

from brightcore.bike.model import Part
from brightcore.kinds.motor import HubMotorSpec
from brightcore.procedure.steps.base import OUT, Steps
from brightcore.procedure.torques import torque_words
from brightcore.procedure.work_order import WorkStep


def hub_wheel(part: Part) -> Steps:
    """A motor that is a wheel: old wheel out, tyre and disc over, in, nuts."""
    if not isinstance(part.spec, HubMotorSpec):
        return
    i, name = part.id, part.name
    yield WorkStep(
        f"wheel-out:{i}",
        "Old wheel out; nuts, washers and torque plates photographed and bagged by side",
        OUT,
        "They differ by side; mixed up, the axle does not seat.",
        "Smallest sprocket first; note how the brake is released.",
    )
    yield WorkStep(
        f"over:{i}",
        f"Tyre, freewheel or cassette and disc over to {name}; bolts crosswise, medium thread-lock",
        (f"wheel-out:{i}",),
        "A loose disc locks the wheel.",
        "Oil, cleaner and thread-lock stay off discs and pads.",
        torque=torque_words(part, "disc_bolt_nm", "disc bolts"),
    )
    yield WorkStep(
        f"wheel-in:{i}",
        f"{name} in: cable downwards off the disc, axle fully seated, washers by side, torque arm on",
        (f"over:{i}",),
        "Without its arm the axle turns and tears the cable.",
        "Aluminium and thin forks can fail: torque arm on each side that has room.",
    )
    yield WorkStep(
        f"nuts:{i}",
        f"Axle nuts of {name} tight on both sides, marked; brake and gears set again",
        (f"wheel-in:{i}",),
        "A nut that works loose takes the dropout with it.",
        torque=torque_words(part, "axle_nut_nm", "axle nuts"),
    )
