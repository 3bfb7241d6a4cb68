"""Modules in the line."""

from brightcore.bike.model import Part
from brightcore.kinds.modules import CombinerSpec, ConverterSpec, TrackerSpec
from brightcore.procedure.steps.base import OUT, Steps
from brightcore.procedure.torques import torque_words
from brightcore.procedure.work_order import WorkStep


def module(part: Part) -> Steps:
    """An in-line module: room, place, screw."""
    if not isinstance(part.spec, (TrackerSpec, CombinerSpec, ConverterSpec)):
        return
    yield WorkStep(
        f"module:{part.id}",
        f"{part.name}: room under the cover looked at, holder in, nothing pinched; tried with the cover off",
        OUT,
        "Found dead behind the cover, all of it comes off again.",
        torque=torque_words(part, "screw_nm", "its screw"),
    )
