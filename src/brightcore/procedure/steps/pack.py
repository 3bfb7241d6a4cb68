"""The mount of a pack."""

from brightcore.bike.model import Part
from brightcore.kinds.pack import PackSpec
from brightcore.procedure.steps.base import OUT, Steps
from brightcore.procedure.torques import torque_words
from brightcore.procedure.work_order import WorkStep


def pack_mount(part: Part) -> Steps:
    """A pack: two good fixings, nothing behind the plate."""
    if not isinstance(part.spec, PackSpec):
        return
    yield WorkStep(
        f"fixed:{part.id}",
        f"Mount of {part.name}: holes and spacers fit, two good fixings, nothing at the cells, key reachable",
        OUT,
        "A pack that works loose tears its lead.",
        "No new holes in a frame, aluminium least of all.",
        torque=torque_words(part, "boss_nm", "mount screws"),
    )
