"""Modules in the line: room, direction, screw; tried before the cover goes on."""

from brightcore.kinds.modules import CombinerSpec, ConverterSpec, TrackerSpec
from brightcore.procedure.step import WorkStep
from brightcore.procedure.steps.base import POWER_UP, Steps, fit
from brightcore.procedure.torques import torque_words
from brightcore.procedure.work_case import WorkCase


def module(case: WorkCase) -> Steps:
    """An in-line module that is fitted."""
    for part in case.fitted:
        if not isinstance(part.spec, (TrackerSpec, CombinerSpec, ConverterSpec)):
            continue
        if isinstance(part.spec, TrackerSpec):
            tried = "; tried with the cover off, its lamp seen"
        else:
            tried = ""
        yield WorkStep(
            fit(part),
            f"{part.name}: there is room for it, its arrow or label points the right way, holder "
            f"in, nothing pinched{tried}",
            (POWER_UP, *case.plugs_of(part)),
            "Found dead behind the cover, all of it comes off again.",
            torque=torque_words(part, "screw_nm", "its screw"),
        )
