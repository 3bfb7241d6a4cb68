"""A controller: off the frame, or pad, mount, lugs, and its cover last."""

from collections.abc import Iterator

from brightcore.bike.model import Part, Port
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.procedure.step import WorkStep
from brightcore.procedure.steps.base import POWER_UP, Steps, fit, remove
from brightcore.procedure.torques import torque_words
from brightcore.procedure.work_case import WorkCase


def controller(case: WorkCase) -> Steps:
    """Controllers that come off and go on."""
    for part in case.removed:
        if isinstance(part.spec, ControllerSpec):
            yield WorkStep(
                remove(part),
                f"{part.name} off; its screws and its thermal pad bagged",
                case.pulled(part),
                "Forced while a plug holds it, a wire tears inside.",
                "Its capacitors hold their charge: empty before its terminals are touched.",
            )
    for part in case.fitted:
        if isinstance(part.spec, ControllerSpec):
            yield from _on(case, part)


def _is_lug(port: Port) -> bool:
    return port.family.partition("-")[0] in ("lug", "screw")


def _on(case: WorkCase, part: Part) -> Iterator[WorkStep]:
    own = case.plugs_of(part)
    yield WorkStep(
        fit(part),
        f"Mount {part.name}: peel both liners off the thermal pad, wires down, air around it, "
        "screws all in before any is tight",
        (POWER_UP, *own),
        f"Its {len(own)} plugs are then out of reach: it has to come off again.",
    )
    lugs = tuple(port for port in part.ports if _is_lug(port))
    if lugs:
        yield WorkStep(
            f"lugs:{part.id}",
            f"{part.name}: lug screws tight, leads bent so that they pull on nothing",
            (fit(part), *own),
            "A lug that warms melts what is beside it.",
            torque=torque_words(part, "lug_nm", "lug screws"),
        )
        # The cover hides the lugs: whoever shuts it first has to open it again.
        yield WorkStep(
            f"cover:{part.id}",
            f"{part.name}: cover shut over no pinched wire",
            (f"lugs:{part.id}",),
            "A wire under the cover is cut through by the first bump.",
            torque=torque_words(part, "cover_nm", "cover screws"),
        )
