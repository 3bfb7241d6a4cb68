"""Parts that have no family of their own: fitted and removed all the same, so that none is
forgotten."""

from brightcore.bike.model import Part
from brightcore.kinds import REGISTRY
from brightcore.kinds.charging import AlarmSpec, ChargerSpec
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.mid_motor import MidMotorSpec
from brightcore.kinds.modules import CombinerSpec, ConverterSpec, TrackerSpec
from brightcore.kinds.motor import HubMotorSpec
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import is_cable
from brightcore.kinds.switches import StandSwitch
from brightcore.procedure.step import WorkStep
from brightcore.procedure.steps.base import POWER_UP, Steps, fit, remove, sits_on_bar
from brightcore.procedure.work_case import WorkCase

OWN_FAMILY = (HubMotorSpec, MidMotorSpec, ControllerSpec, PackSpec)
"""Parts whose family both fits and removes them."""

OWN_FIT = (AlarmSpec, TrackerSpec, CombinerSpec, ConverterSpec)
"""Parts whose family fits them; off they come like anything."""

BESIDE = (ChargerSpec,)
"""Parts that are never on the bike."""


def plain(case: WorkCase) -> Steps:
    """What is left to fit and to remove."""
    for part in case.removed:
        if not isinstance(part.spec, (*OWN_FAMILY, *BESIDE)) and not sits_on_bar(part):
            yield WorkStep(
                remove(part),
                f"{part.name} off",
                case.pulled(part),
                "Its wire tears if it is still connected.",
            )
    for part in case.fitted:
        if has_fit_of_its_own(part) or isinstance(part.spec, BESIDE) or is_cable(part):
            continue
        yield WorkStep(
            fit(part),
            f"Fit {part.name}{_where(part)}",
            (POWER_UP, *case.plugs_of(part)),
            "Hanging by its wire, it breaks it.",
        )


def has_fit_of_its_own(part: Part) -> bool:
    """Return whether another family says how a part is fitted."""
    own = isinstance(part.spec, (*OWN_FAMILY, *OWN_FIT))
    return own or part.kind == StandSwitch.name or sits_on_bar(part)


def _where(part: Part) -> str:
    """Return where a part goes, as far as its kind tells."""
    where = REGISTRY[part.kind].fitting.where
    if where:
        return where
    if REGISTRY[part.kind].place == "sensor":
        return " at its place, the gap as its label or the usual says"
    return ""
