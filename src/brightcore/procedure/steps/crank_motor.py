"""A motor at the cranks: cranks off, motor in or out, ring and lock ring."""

from collections.abc import Iterator

from brightcore.bike.model import Part
from brightcore.kinds.mid_motor import MidMotorSpec
from brightcore.procedure.step import WorkStep
from brightcore.procedure.steps.base import Steps, fit, in_place_of, remove, replaced_by
from brightcore.procedure.torques import MAKERS, torque_words
from brightcore.procedure.work_case import WorkCase


def mid_drive(case: WorkCase) -> Steps:
    """Motors at the cranks that come off and go on."""
    for part in case.removed:
        if isinstance(part.spec, MidMotorSpec):
            yield from _off(case, part)
    for part in case.fitted:
        if isinstance(part.spec, MidMotorSpec):
            yield from _on(case, part)


def _cranks(part: Part, needs: tuple[str, ...]) -> WorkStep:
    return WorkStep(
        f"cranks:{part.id}",
        "Crank bolts out, puller straight; cranks and ring off, bracket out",
        needs,
        "A crossed thread costs the crank.",
    )


def _off(case: WorkCase, part: Part) -> Iterator[WorkStep]:
    yield _cranks(part, case.pulled(part))
    yield WorkStep(
        remove(part),
        f"{part.name}: lock ring off, motor out",
        (f"cranks:{part.id}",),
        "Forced, it takes the thread of the frame along.",
        "It is heavy: hold it before the last screw is out.",
    )
    new = replaced_by(case, part)
    if new is None or not isinstance(new.spec, MidMotorSpec):
        yield WorkStep(
            f"plain-cranks:{part.id}",
            "Plain bracket, cranks and ring in; chain line checked",
            (remove(part),),
            "A bracket that rocks eats the frame.",
            # The motor's figure is for its own cranks: of the plain ones nothing is described.
            torque=f"bracket and crank bolts: {MAKERS}",
        )


def _on(case: WorkCase, part: Part) -> Iterator[WorkStep]:
    i, name = part.id, part.name
    before = f"cranks:{i}"
    old = in_place_of(case, part)
    if old is not None and isinstance(old.spec, MidMotorSpec):
        before = remove(old)
    else:
        yield _cranks(part, ())
    yield WorkStep(
        fit(part),
        f"{name} in: chain line and ring offset checked, lock ring tight",
        (before,),
        "A motor that rocks eats the frame.",
        torque=torque_words(part, "lock_ring_nm", "lock ring"),
    )
    yield WorkStep(
        f"ring:{i}",
        "Ring and cranks on; turned ten times, then lock ring and crank bolts checked again",
        (fit(part),),
        "A crank that works loose rounds its seat.",
        torque=torque_words(part, "crank_bolt_nm", "crank bolts"),
    )
