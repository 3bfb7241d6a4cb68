"""The mount of a pack, and a pack that leaves."""

from brightcore.kinds.pack import PackSpec
from brightcore.procedure.step import WorkStep
from brightcore.procedure.steps.base import POWER_UP, Steps, fit, remove
from brightcore.procedure.torques import torque_words
from brightcore.procedure.work_case import WorkCase


def pack(case: WorkCase) -> Steps:
    """A pack off, a pack on: two good fixings, nothing behind the plate."""
    for part in case.removed:
        if isinstance(part.spec, PackSpec):
            yield WorkStep(
                remove(part),
                f"{part.name} and its mount off; its contacts covered",
                case.pulled(part),
                "Bare contacts short on the first spanner.",
                (
                    "Where nothing falls on it; not into the waste: it is returned or stored as "
                    "local rules say."
                ),
            )
    for part in case.fitted:
        if isinstance(part.spec, PackSpec):
            yield WorkStep(
                fit(part),
                f"Mount of {part.name}: holes and spacers fit, two good fixings, "
                "nothing at the cells, key reachable",
                (POWER_UP,),
                "A pack that works loose tears its lead.",
                (
                    "No new holes in a frame, aluminium least of all; pack away while you drill "
                    "or screw."
                ),
                torque=torque_words(part, "boss_nm", "mount screws"),
            )
