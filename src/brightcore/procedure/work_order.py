"""The order of work: what must come before what on this bike, and what it costs to go ahead too early.

The steps follow from the joins and parts; the gates are common practice (no published source).
"""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from graphlib import TopologicalSorter

from brightcore.bike.model import Bike, Join, Part
from brightcore.describing.edit import join_words
from brightcore.kinds import REGISTRY
from brightcore.kinds.base import Fitting
from brightcore.kinds.motor import HubMotorSpec
from brightcore.procedure.changes import Changes
from brightcore.procedure.first_light import PACK, FirstLight, join_rank
from brightcore.wiring.cut_list import up
from brightcore.wiring.routes import runs_of
from brightcore.wiring.rules.motors import plug_mm


@dataclass(frozen=True, slots=True)
class WorkStep:
    """One step.

    `needs` are ids of steps that come before it, `early` says what skipping them costs; `powered` where it
    needs a safe pack; `torque` in words, "" where it has none.
    """

    id: str
    title: str
    needs: tuple[str, ...]
    early: str = ""
    caution: str = ""
    powered: bool = False
    torque: str = ""


def order_of_work(bike: Bike, light: FirstLight) -> tuple[WorkStep, ...]:
    """Return the steps of building this bike, each after all that it needs; the same every time."""
    needed = set(light.needed)
    ranked = sorted(bike.joins, key=lambda j: join_rank(bike, j))
    first = [j for j in ranked if j.id in needed and join_rank(bike, j) < PACK]
    last = [j for j in ranked if join_rank(bike, j) == PACK]
    later = [j for j in ranked if j.id not in needed and join_rank(bike, j) < PACK]
    steps = [
        WorkStep(
            "pack-out", "Pack off, unplugged and out", (), caution="No plug is touched while the pack is in."
        )
    ]
    for part in bike.parts:
        steps += _opened(part)
    for join in first:
        steps += _plug(bike, join, ("pack-out", *_thin_before(bike, join, first)))
    ready = tuple(f"plug:{j.id}" for j in first)
    steps.append(WorkStep("wheel-up", "Wheel off the ground and clear; you know which wheel will turn", ()))
    for join in last:
        steps += _plug(bike, join, ("pack-out", "wheel-up", *ready))
    steps.append(
        WorkStep(
            "first-light",
            "First power-up: switch on, then only a touch",
            tuple(f"plug:{j.id}" for j in last) or ready,
            "What does not run is then found after everything is mounted.",
            "Stand clear of the wheel; a hand on the cut-off.",
            True,
        )
    )
    steps.append(WorkStep("pack-out-again", "Pack off, unplugged and out again", ("first-light",)))
    for join in later:
        steps += _plug(bike, join, ("pack-out-again", *_thin_before(bike, join, later)))
    steps += _mounting(bike, first + later)
    return in_order(steps)


def _opened(part: Part) -> list[WorkStep]:
    """Return what comes before the plugs of a part that is opened: marks, and over a motor's cable all that
    no plug passes."""
    fitting = _fitting(part)
    if not fitting.opened:
        return []
    mark = WorkStep(
        f"mark:{part.id}",
        f"{part.name}: mark how {fitting.opened} stand before anything is opened",
        (),
        "It goes back turned, and a cable comes out on the wrong side.",
        fitting.opened_caution,
    )
    if not fitting.passes_cable:
        return [mark]
    bore, jacket = _bore_and_jacket_mm(part)
    laid = "strip the jacket, lay the cores flat, sleeve them; then cover and bearing"
    how = laid if bore and jacket > bore else "cover, bearing and sleeve"
    cable = WorkStep(
        f"cable:{part.id}",
        f"{part.name}: {how} over the cable",
        (mark.id,),
        "A plug too big for the bore has to be cut off again to get them on.",
        fitting.opened_caution,
    )
    return [mark, cable, *_ends_after(part, bore, cable)]


def _ends_after(part: Part, bore_mm: float, cable: WorkStep) -> list[WorkStep]:
    """Return the plugs that are only made once the cable is through: those that do not pass the bore."""
    steps = []
    for port in part.ports:
        if bore_mm and plug_mm(port) > bore_mm:
            label = (port.label or port.id).lower()
            size = f"about {plug_mm(port):.0f} mm on a bore of {bore_mm:g} mm"
            steps.append(
                WorkStep(
                    f"end:{part.id}.{port.id}",
                    f"{part.name}: only now the plug of {label}, {size}",
                    (cable.id,),
                    "On first, it does not pass the bearing and has to be cut off.",
                )
            )
    return steps


def _fitting(part: Part) -> Fitting:
    return REGISTRY[part.kind].fitting


def _bore_and_jacket_mm(part: Part) -> tuple[float, float]:
    """Return the bore and cable jacket measured on a motor, 0 where they are not."""
    spec = part.spec
    return (spec.axle_bore_mm, spec.cable_jacket_mm) if isinstance(spec, HubMotorSpec) else (0.0, 0.0)


def _plug(bike: Bike, join: Join, needs: tuple[str, ...]) -> list[WorkStep]:
    """Return the steps of one join: heat-shrink first where its wires are ended by hand, cable before a
    motor's plug."""
    title = join_words(bike, join)
    ports = [(bike.part(p), bike.part(p).port(q)) for p, q in join.sides()]
    sleeve = [
        WorkStep(
            f"sleeve:{join.id}",
            f"Heat-shrink over each wire: {title}",
            (),
            "The joint has to be cut and made again.",
        )
    ]
    by_hand = any(port.rewireable for _, port in ports)
    cables = []
    for part, port in ports:
        own = f"end:{part.id}.{port.id}"
        cables += [s.id for s in _opened(part) if not s.id.startswith("end:") or s.id == own]
    before = (*needs, *((sleeve[0].id,) if by_hand else ()), *cables)
    live = join_rank(bike, join) == PACK
    early = (
        "Every connection still to be made is then made live: a slip takes the controller with it."
        if live
        else "A plug connected live can take the controller with it."
    )
    return [
        *(sleeve if by_hand else []),
        WorkStep(f"plug:{join.id}", f"Connect {title}", before, early, "Align, push, never twist.", live),
    ]


def _thin_before(bike: Bike, join: Join, among: Iterable[Join]) -> tuple[str, ...]:
    """Return the thinner plugs of the same parts, which come before a thick one: afterwards there is no room
    for fingers."""
    own, rank = {p for p, _ in join.sides()}, join_rank(bike, join)
    return tuple(
        f"plug:{j.id}" for j in among if join_rank(bike, j) < rank and own & {p for p, _ in j.sides()}
    )


def _mounting(bike: Bike, plugs: list[Join]) -> list[WorkStep]:
    """Return what comes after the joins: setting, mounting, routing, proving, tying."""
    mounts = [_mount(part, plugs) for part in bike.parts if _fitting(part).mounted]
    settings = [_set(part, plugs) for part in bike.parts if _fitting(part).set_words]
    longer = [
        WorkStep(
            f"longer:{run.id}",
            f"{run.title}: an extension of {up(run.wanted_m - run.has_m):.2f} m",
            ("pack-out-again",),
            "Pulled tight, it tears out at the first full lock.",
        )
        for run in runs_of(bike)
        if run.verdict == "short"
    ]
    connected = tuple(f"plug:{join.id}" for join in plugs)
    before = (*connected, *(step.id for step in (*mounts, *longer)))
    return [
        *mounts,
        *settings,
        *longer,
        WorkStep(
            "route",
            "Route: plugs point down, drip loops, slack at the steering, nothing at the fork crown, "
            "tyre or chain; ties loose",
            ("pack-out-again", *before),
            "A cable that is too short shows only after the rest is routed.",
        ),
        WorkStep(
            "move",
            "Bars full left and right, suspension and fold through full travel: nothing pulls or pinches",
            ("route",),
        ),
        WorkStep(
            "prove",
            "Prove every function, wheel up: throttle, assist, both cut-offs under power, lights",
            ("move", "wheel-up", *(step.id for step in settings)),
            caution="Pack in last, wheel clear. Then the road, slowly.",
            powered=True,
        ),
        *(_fixed(part) for part in bike.parts if _fitting(part).fix_words),
        WorkStep(
            "tie", TIDY[bike.frame.wrapped], ("prove",), "All of it is opened again for one wrong plug."
        ),
    ]


TIDY = (
    "Ties tight, evenly spaced, ends trimmed",
    "Split wrap over the bundles, ties tight at joints and ends",
)
"""How cables are dressed at the end: with ties, or wrapped."""


def _own_plugs(part: Part, plugs: list[Join]) -> tuple[str, ...]:
    return tuple(f"plug:{join.id}" for join in plugs if part.id in (join.a_part, join.b_part))


def _mount(part: Part, plugs: list[Join]) -> WorkStep:
    own = _own_plugs(part, plugs)
    early = f"Its {len(own)} plugs are then out of reach: it has to come off again."
    needs = ("first-light", "pack-out-again", *own)
    return WorkStep(f"mount:{part.id}", f"Mount {part.name}", needs, early)


def _set(part: Part, plugs: list[Join]) -> WorkStep:
    words = _fitting(part).set_words
    title = f"{part.name}: {words[0].lower()}{words[1:]}"
    return WorkStep(f"set:{part.id}", title, ("first-light", *_own_plugs(part, plugs)))


def _fixed(part: Part) -> WorkStep:
    fitting = _fitting(part)
    title = f"{part.name}: {fitting.fix_words}"
    return WorkStep(
        f"fix:{part.id}", title, (f"set:{part.id}", "prove"), fitting.fix_early, fitting.fix_caution
    )


def in_order(steps: list[WorkStep]) -> tuple[WorkStep, ...]:
    """Return the steps in an order that keeps every need, otherwise as given."""
    by_id = {s.id: s for s in steps}
    place = {s.id: n for n, s in enumerate(steps)}
    sorter = TopologicalSorter({s.id: s.needs for s in steps})
    sorter.prepare()
    found: list[WorkStep] = []
    waiting: list[str] = []
    while sorter.is_active():
        waiting = sorted([*waiting, *sorter.get_ready()], key=lambda i: place[i])
        found.append(by_id[waiting[0]])
        sorter.done(waiting.pop(0))
    return tuple(found)


FRAME = ("pack-out", "wheel-up", "first-light", "pack-out-again", "route", "move", "prove", "tie")
"""Steps that belong to any work on the wiring."""


def only_changed(steps: Iterable[WorkStep], bike: Bike, changes: Changes) -> tuple[WorkStep, ...]:
    """Return the steps for what a job has fitted, changed or connected, each with the needs that are left.

    Ids are `what:subject`: a part, one of its plugs, a connection, or the two ends of a cable's way.
    """
    every = tuple(steps)
    known = changes.parts | changes.joins
    ends = {f"{part}.{port}" for join in changes.joins for part, port in bike.join(join).sides()}

    def belongs(step: WorkStep) -> bool:
        subjects = step.id.partition(":")[2].split("|")
        return any(s in known or s in ends or s.partition(".")[0] in changes.parts for s in subjects)

    kept = {step.id for step in every if belongs(step)}
    if not kept:
        return ()
    kept |= set(FRAME)
    return tuple(
        replace(step, needs=tuple(need for need in step.needs if need in kept))
        for step in every
        if step.id in kept
    )


def missing(step: WorkStep, done: Iterable[str]) -> tuple[str, ...]:
    """Return the ids of steps that should have been done before this one and are not."""
    have = set(done)
    return tuple(n for n in step.needs if n not in have)
