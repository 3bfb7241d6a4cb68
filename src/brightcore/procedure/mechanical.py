"""The mechanical work around the wiring, one family a function (common practice; makers' torques first)."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import replace

from brightcore.bike.model import Bike, Part
from brightcore.kinds import REGISTRY
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.mid_motor import MidMotorSpec
from brightcore.kinds.modules import CombinerSpec, ConverterSpec, TrackerSpec
from brightcore.kinds.motor import HubMotorSpec
from brightcore.kinds.pack import PackSpec
from brightcore.procedure.torques import torque_words
from brightcore.procedure.work_order import WorkStep, in_order

OUT = ("pack-out",)
GRIPS, LABELS = "grips", "labels"
Steps = Iterator[WorkStep]

MOST_NAMED = 6
"""Parts named in one step, at most."""


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


def mid_drive(part: Part) -> Steps:
    """A motor at the cranks: cranks off, motor in, ring and lock ring."""
    if not isinstance(part.spec, MidMotorSpec):
        return
    i, name = part.id, part.name
    yield WorkStep(
        f"cranks:{i}",
        "Crank bolts out, puller straight; bracket out",
        OUT,
        "A crossed thread costs the crank.",
    )
    yield WorkStep(
        f"bracket:{i}",
        f"{name} in, chain line and ring offset looked at, lock ring tight; checked again after a turn",
        (f"cranks:{i}",),
        "A motor that rocks eats the frame.",
        torque="; ".join(
            (
                torque_words(part, "lock_ring_nm", "lock ring"),
                torque_words(part, "crank_bolt_nm", "crank bolts"),
            )
        ),
    )


def on_the_bar(part: Part) -> Steps:
    """What sits on the bar, in reach of the hand."""
    if REGISTRY[part.kind].place != "bar":
        return
    yield WorkStep(
        f"bar:{part.id}",
        f"Fit {part.name} on the bar: thumb and fingers reach it, it fouls neither lever nor shifter",
        (GRIPS,),
        "Moved later, its cable is too short or its clamp is under the grip.",
        torque=torque_words(part, "clamp_nm", "clamp"),
    )


def pack_mount(part: Part) -> Steps:
    """A pack: two good fixings, nothing behind the plate."""
    if not isinstance(part.spec, PackSpec):
        return
    yield WorkStep(
        f"fixed:{part.id}",
        f"Mount of {part.name}: two good fixings at least, nothing touches cells or wires, key reachable",
        OUT,
        "A pack that works loose tears its lead.",
        "No new holes in a frame, aluminium least of all.",
        torque=torque_words(part, "boss_nm", "mount screws"),
    )


def controller_lugs(part: Part) -> Steps:
    """A controller: pad, lugs, cover."""
    if not isinstance(part.spec, ControllerSpec):
        return
    yield WorkStep(
        f"lugs:{part.id}",
        f"{part.name}: both films off the thermal pad; lug screws tight, leads pull on nothing",
        (f"mount:{part.id}",),
        "A lug that warms melts its plug.",
        torque="; ".join(
            (
                torque_words(part, "lug_nm", "lug screws"),
                torque_words(part, "cover_nm", "cover screws"),
            )
        ),
    )


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


FAMILIES: tuple[Callable[[Part], Steps], ...] = (
    hub_wheel,
    mid_drive,
    on_the_bar,
    pack_mount,
    controller_lugs,
    module,
)
"""One line each."""


def mechanical_steps(bike: Bike, parts: Iterable[str], gone: Iterable[str]) -> tuple[WorkStep, ...]:
    """Return the mechanical steps for parts that are fitted, and for what is left of those taken off."""
    ids = set(parts)
    found = [step for part in bike.parts if part.id in ids for family in FAMILIES for step in family(part)]
    if ids:
        found.insert(0, _checked([part.name for part in bike.parts if part.id in ids]))
    if any(step.id.startswith("bar:") for step in found):
        found.insert(0, _grips())
        before = tuple(step.id for step in found if step.id.startswith("bar:"))
        words = "Brakes and gears adjusted again and proved by hand, both levers"
        early = "A brake that was moved is not a brake until it was tried."
        found.append(WorkStep("brakes", words, before, early))
    left = list(gone)
    if left:
        found.insert(0, _labels(left))
        words = f"What is left of {', '.join(left[:3])}: capped, tied where it cannot chafe"
        found.append(WorkStep("left-over", words, (*OUT, LABELS), "An open plug shorts in the first rain."))
    return tuple(found)


def _checked(names: list[str]) -> WorkStep:
    """Return the look at new parts before any is mounted: what was ordered, and what the labels say."""
    shown = ", ".join(names[:MOST_NAMED]) + (
        f" and {len(names) - MOST_NAMED} more" * (len(names) > MOST_NAMED)
    )
    return WorkStep(
        "checked",
        f"New parts are what was ordered, and their labels say what is described here: {shown}",
        (),
        "A wrong part is only found out once it is mounted.",
    )


def _grips() -> WorkStep:
    return WorkStep(
        GRIPS,
        "Grips off; order on the bar tried by hand before anything is clamped: what the thumb needs closest",
        OUT,
        "All of it slides off again for one part in the wrong place.",
        "Alcohol or hair spray to refit, no soap: a grip that turns is a fall.",
    )


def _labels(left: list[str]) -> WorkStep:
    words = f"Photograph the old loom; both ends labelled before anything of {', '.join(left[:3])} is cut"
    return WorkStep(LABELS, words, OUT, "Nobody knows afterwards which end was which.")


def with_mechanical(
    steps: Iterable[WorkStep], bike: Bike, parts: Iterable[str], gone: Iterable[str]
) -> tuple[WorkStep, ...]:
    """Return an order of work with the mechanical steps in it, each after what it needs."""
    electrical = tuple(steps)
    known = {step.id for step in electrical}
    found = mechanical_steps(bike, parts, gone)
    own = {step.id for step in found}
    made = [
        replace(step, needs=tuple(need for need in step.needs if need in known or need in own))
        for step in found
    ]
    if not made:
        return electrical
    nuts = tuple(step.id for step in made if step.id.startswith(("nuts:", "bracket:")))
    every = tuple(step.id for step in made)
    later = {"wheel-up": nuts, "prove": every}
    joined = [replace(step, needs=(*step.needs, *later.get(step.id, ()))) for step in electrical]
    return in_order([*joined[:1], *made, *joined[1:]])
