"""Parts that this job opens, and only those: marks first, then what is inside, cable before plug,
shut again."""

from collections.abc import Iterator

from brightcore.bike.model import Part
from brightcore.kinds import REGISTRY
from brightcore.kinds.motor import HubMotorSpec, MotorSpec
from brightcore.kinds.pack import PackSpec
from brightcore.procedure.step import WorkStep
from brightcore.procedure.steps.base import Steps
from brightcore.procedure.torques import torque_words
from brightcore.procedure.work_case import WorkCase
from brightcore.wiring.rules.motors import plug_mm

SHUT_CAUTION = "Hands clear of the gap: the magnets slam the cover home."


def opened(case: WorkCase) -> Steps:
    """What opening a part asks for."""
    for part in case.plan.parts:
        if part.id not in case.opens:
            continue
        if isinstance(part.spec, PackSpec):
            yield from _pack(part)
        elif isinstance(part.spec, MotorSpec):
            yield from _motor(case, part)


def _pack(part: Part) -> Iterator[WorkStep]:
    """A pack is not opened here: cells cannot be switched off."""
    yield WorkStep(
        f"ready:{part.id}",
        f"{part.name}: its two leads brought out and fused by somebody qualified for packs, "
        "before it comes here",
        (),
        "Cells cannot be made dead: a slip inside is a fire.",
        "Nobody opens a pack on this bench. Local rules say who may.",
    )


def _motor(case: WorkCase, part: Part) -> Iterator[WorkStep]:
    """A motor that is opened: cover, old electronics, temperature sensor, cable before plug,
    shut."""
    fitting = REGISTRY[part.kind].fitting
    mark, inside, cable, shut = (
        f"{what}:{part.id}" for what in ("mark", "inside", "cable", "shut")
    )
    yield WorkStep(
        mark,
        f"{part.name}: mark how {fitting.opened or 'cover and cable'} stand, "
        "then cover off evenly, with a puller",
        case.pulled(part),
        "It goes back turned, and a cable comes out on the wrong side.",
        fitting.opened_caution,
    )
    warm = isinstance(part.spec, MotorSpec) and bool(part.spec.thermistor)
    if warm:
        probe = "; thermistor into the winding, not on the iron"
    else:
        probe = ""
    yield WorkStep(
        inside,
        f"{part.name}: photograph, then old electronics out; phases and halls brought out, "
        f"joints staggered and sleeved{probe}",
        (mark,),
        "Which wire was which is known only before it is unsoldered.",
        "Plenty of heat, air; halls stay in their glue.",
    )
    after = inside
    if fitting.passes_cable:
        yield WorkStep(
            cable,
            f"{part.name}: {_laid(part)} over the cable",
            (inside,),
            "A plug too big for the bore has to be cut off again to get them on.",
            fitting.opened_caution,
        )
        after = cable
        yield from _ends_after(part, cable)
    yield WorkStep(
        shut,
        f"{part.name}: cover on by its marks, nothing pinched, screws crosswise",
        (after,),
        "A pinched phase burns the controller at the first throttle.",
        SHUT_CAUTION,
        torque=torque_words(part, "cover_nm", "cover screws"),
    )


def _laid(part: Part) -> str:
    """Return how cover and bearing get over a motor's cable."""
    bore, jacket = _bore_and_jacket_mm(part)
    if bore and jacket > bore:
        return "strip the jacket, lay the cores flat, sleeve them; then cover and bearing"
    return "cover, bearing and sleeve"


def _ends_after(part: Part, cable: str) -> Iterator[WorkStep]:
    """Yield the plugs that are only made once the cable is through: those that do not pass the
    bore."""
    bore, _ = _bore_and_jacket_mm(part)
    for port in part.ports:
        if bore and plug_mm(port) > bore:
            label = (port.label or port.id).lower()
            size = f"about {plug_mm(port):.0f} mm on a bore of {bore:g} mm"
            yield WorkStep(
                f"end:{part.id}.{port.id}",
                f"{part.name}: only now the plug of {label}, {size}",
                (cable,),
                "On first, it does not pass the bearing and has to be cut off.",
            )


def _bore_and_jacket_mm(part: Part) -> tuple[float, float]:
    """Return the bore and cable jacket measured on a motor, 0 where they are not."""
    spec = part.spec
    if isinstance(spec, HubMotorSpec):
        return (spec.axle_bore_mm, spec.cable_jacket_mm)
    return (0.0, 0.0)


def before_plugs(case: WorkCase, part: Part, port_id: str) -> tuple[str, ...]:
    """Return what has to be done inside a part before one of its plugs is connected."""
    if part.id not in case.opens:
        return ()
    return (f"shut:{part.id}", f"cable:{part.id}", f"end:{part.id}.{port_id}")
