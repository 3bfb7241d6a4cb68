"""A motor that is a wheel: out and in, hardware by side, and what goes over from the wheel before
it."""

from collections.abc import Iterator

from brightcore.bike.model import Part
from brightcore.kinds.motor import HubMotorSpec
from brightcore.procedure.step import WorkStep
from brightcore.procedure.steps.base import Steps, fit, in_place_of, remove, replaced_by
from brightcore.procedure.torques import MAKERS, torque_words
from brightcore.procedure.work_case import WorkCase

ARM_EACH_SIDE = "A torque arm on each side that has room: aluminium and thin forks can fail."


def hub_wheel(case: WorkCase) -> Steps:
    """The wheels of motors that come off and go on."""
    for part in case.removed:
        if isinstance(part.spec, HubMotorSpec):
            yield from _off(case, part)
    for part in case.fitted:
        if isinstance(part.spec, HubMotorSpec):
            yield from _on(case, part)


def is_front(case: WorkCase, part: Part) -> bool:
    """Return whether a motor drives a front wheel: it then has no freewheel and no gears beside
    it."""
    # A bike says one driven wheel. Where it has two motors, the other is told by what it is called.
    words = f"{part.id} {part.name}".lower()
    return case.plan.info.driven_wheel == "front" or ("front" in words and "rear" not in words)


def _geared(case: WorkCase, part: Part) -> bool:
    """Return whether freewheel and gears sit at this wheel."""
    return case.pedalled and not is_front(case, part)


def _off(case: WorkCase, part: Part) -> Iterator[WorkStep]:
    """A motor wheel comes out."""
    first = "Smallest sprocket first; " if _geared(case, part) else ""
    yield WorkStep(
        remove(part),
        f"{part.name} out; nuts, washers and torque arms photographed and bagged by side",
        case.pulled(part),
        "They differ by side; mixed up, the axle does not seat.",
        f"{first}note how the brake is released. It is heavy: two hands.".capitalize(),
    )
    new = replaced_by(case, part)
    if new is None or not isinstance(new.spec, HubMotorSpec):
        over = _what_goes_over(case, part)
        yield WorkStep(
            f"plain-wheel:{part.id}",
            f"Plain wheel in: {over} over to it, axle seated, brake aligned; "
            "spoke magnet on if the display shows speed",
            (remove(part),),
            "A wheel that is not seated comes out at the first brake.",
            "Spin it: it runs true and the brake grips.",
            # The motor's figure is for its own thick axle: on a plain one it would be far too much.
            torque=f"axle: {MAKERS}",
        )


def _what_goes_over(case: WorkCase, part: Part) -> str:
    """Return what is taken from one wheel to the other."""
    # Which brake a wheel has is not described, so that a disc is not taken for granted.
    if _geared(case, part):
        return "tyre, freewheel or cassette and any disc"
    return "tyre and any disc"


def _on(case: WorkCase, part: Part) -> Iterator[WorkStep]:
    """A motor wheel goes in: the old wheel out first, unless that was a motor as well."""
    i, name = part.id, part.name
    out = f"wheel-out:{i}"
    old = in_place_of(case, part)
    if old is not None and isinstance(old.spec, HubMotorSpec):
        out = remove(old)
    else:
        if _geared(case, part):
            first = "Smallest sprocket first; note"
        else:
            first = "Note"
        yield WorkStep(
            out,
            "Old wheel out; nuts, washers and torque plates photographed and bagged by side",
            (),
            "They differ by side; mixed up, the axle does not seat.",
            f"{first} how the brake is released.",
        )
    yield WorkStep(
        f"rim:{i}",
        (
            f"{name}: rim tape over sharp spoke holes, valve free, tube not pinched, tyre the "
            "right way round"
        ),
        (out,),
        "A spoke hole without tape is a puncture on the first ride.",
    )
    if _geared(case, part):
        grease = "; thread greased, first cog clear of the frame"
    else:
        grease = ""
    yield WorkStep(
        f"over:{i}",
        f"{_what_goes_over(case, part).capitalize()} over to {name}; disc right side out, "
        f"bolts crosswise, medium thread-lock{grease}",
        (out, f"rim:{i}"),
        "A loose disc locks the wheel.",
        "Oil, cleaner and thread-lock stay off discs and pads.",
        torque=torque_words(part, "disc_bolt_nm", "disc bolts"),
    )
    yield WorkStep(
        fit(part),
        f"{name} in: cable leaves downwards with a drip loop, off the brake; axle fully seated; "
        "washers by side, the thin set where a hook or tab is, the thick set on the wire's side",
        (f"over:{i}",),
        "Without its arm the axle turns and tears the cable.",
        ARM_EACH_SIDE,
    )
    yield WorkStep(
        f"arm:{i}",
        f"Torque arm of {name} seated and clamped; where it shares a bolt with the brake, "
        "align the brake again",
        (fit(part),),
        "A torque arm that can move is none.",
        "Brake tried by hand afterwards: it grips and does not rub.",
    )
    if _geared(case, part):
        gears = "brake and gears set again"
    else:
        gears = "brake set again"
    yield WorkStep(
        f"nuts:{i}",
        f"Axle nuts of {name} tight on both sides, marked; {gears}",
        (f"arm:{i}",),
        "A nut that works loose takes the dropout with it.",
        torque=torque_words(part, "axle_nut_nm", "axle nuts"),
    )
