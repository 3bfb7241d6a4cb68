"""The order of work: what must come before what on this bike, and what it costs to go ahead too early.

The steps follow from the joins and parts; the gates are common practice (no published source).
"""

from collections.abc import Iterable
from dataclasses import dataclass
from graphlib import TopologicalSorter

from brightcore.bike.model import MOTOR_KINDS, Bike, Join, Part
from brightcore.describing.edit import join_words
from brightcore.tracing.first_light import PACK, FirstLight, join_rank
from brightcore.wiring.cut_list import up
from brightcore.wiring.routes import runs_of
from brightcore.wiring.rules_plugs import plug_mm

SENSORS_TO_SET = {
    "magnetic_cut_off": "Tack the magnet lightly, powered: symbol off at rest and on a bump, on before the pads bite",
    "pedal_sensor": "Magnet ring 1 to 4 mm from the sensor, the right way round",
    "speed_sensor": "Magnet passes the sensor closely at the mark on it",
    "torque_sensor": "Feet off the pedals when switching on: that is when zero is taken",
}
"""What is set by hand on a kind of part, after first light."""


@dataclass(frozen=True, slots=True)
class WorkStep:
    """One step. `needs` are ids of steps that come before it, `early` says what skipping them costs; `powered` where it needs a safe pack."""

    id: str
    title: str
    needs: tuple[str, ...]
    early: str = ""
    caution: str = ""
    powered: bool = False


def order_of_work(bike: Bike, light: FirstLight) -> tuple[WorkStep, ...]:
    """Return the steps of building this bike, each after all that it needs; the same every time."""
    needed = set(light.needed)
    ranked = sorted(bike.joins, key=lambda j: join_rank(bike, j))
    first = [j for j in ranked if j.id in needed and join_rank(bike, j) < PACK]
    last = [j for j in ranked if join_rank(bike, j) == PACK]
    later = [j for j in ranked if j.id not in needed and join_rank(bike, j) < PACK]
    steps = [WorkStep("pack-out", "Pack off, unplugged and out", (), caution="No plug is touched while the pack is in.")]
    for part in bike.of_kind(*MOTOR_KINDS, "tracker"):
        steps += _opened(part)
    for join in first:
        steps += _plug(bike, join, ("pack-out", *_thin_before(bike, join, first)))
    ready = tuple(f"plug:{j.id}" for j in first)
    steps.append(WorkStep("wheel-up", "Wheel off the ground and clear; you know which wheel will turn", ()))
    for join in last:
        steps += _plug(bike, join, ("pack-out", "wheel-up", *ready))
    steps.append(WorkStep("first-light", "First light: switch on, then only a touch", tuple(f"plug:{j.id}" for j in last) or ready,
                          "What does not run is then found after everything is mounted.", "Stand clear of the wheel; a hand on the cut-off.", True))  # fmt: skip
    steps.append(WorkStep("pack-out-again", "Pack off, unplugged and out again", ("first-light",)))
    for join in later:
        steps += _plug(bike, join, ("pack-out-again", *_thin_before(bike, join, later)))
    steps += _mounting(bike, first + later)
    return _sorted(steps)


def _opened(part: Part) -> list[WorkStep]:
    """Return what comes before the plugs of a part that is opened: marks, and over a motor's cable all that no plug passes."""
    what = "cover and plugs" if part.kind == "tracker" else "cover, axle and cable"
    mark = WorkStep(f"mark:{part.id}", f"{part.name}: mark how {what} stand before anything is opened", (),
                    "It goes back turned, and a cable comes out on the wrong side.")  # fmt: skip
    if part.kind == "tracker":
        return [mark]
    bore, jacket = getattr(part.spec, "axle_bore_mm", 0.0), getattr(part.spec, "cable_jacket_mm", 0.0)
    how = (
        "strip the jacket, lay the cores flat, sleeve them; then cover and bearing"
        if bore and jacket > bore
        else "cover, bearing and sleeve"
    )
    cable = WorkStep(
        f"cable:{part.id}",
        f"{part.name}: {how} over the cable",
        (mark.id,),
        "A plug too big for the bore has to be cut off again to get them on.",
    )
    ends = [
        WorkStep(f"end:{part.id}.{q.id}", f"{part.name}: only now the plug of {(q.label or q.id).lower()}, about {plug_mm(q):.0f} mm on a bore of {bore:g} mm", (cable.id,),
                 "On first, it does not pass the bearing and has to be cut off.")
        for q in part.ports if bore and plug_mm(q) > bore
    ]  # fmt: skip
    return [mark, cable, *ends]


def _plug(bike: Bike, join: Join, needs: tuple[str, ...]) -> list[WorkStep]:
    """Return the steps of one join: heat-shrink first where its wires are ended by hand, cable before a motor's plug."""
    title = join_words(bike, join)
    ports = [(bike.part(p), bike.part(p).port(q)) for p, q in join.sides()]
    sleeve = [WorkStep(f"sleeve:{join.id}", f"Heat-shrink over each wire: {title}", (), "The joint has to be cut and made again.")]
    by_hand = any(port.rewireable for _, port in ports)
    cables = [step.id for part, port in ports if part.kind in (*MOTOR_KINDS, "tracker") for step in _opened(part)
              if not step.id.startswith("end:") or step.id == f"end:{part.id}.{port.id}"]  # fmt: skip
    before = (*needs, *((sleeve[0].id,) if by_hand else ()), *cables)
    live = join_rank(bike, join) == PACK
    early = (
        "Every join still to be made is then made live: a slip takes the controller with it."
        if live
        else "A plug joined live can take the controller with it."
    )
    return [*(sleeve if by_hand else []), WorkStep(f"plug:{join.id}", f"Join {title}", before, early, "Align, push, never twist.", live)]


def _thin_before(bike: Bike, join: Join, among: Iterable[Join]) -> tuple[str, ...]:
    """Return the thinner plugs of the same parts, which come before a thick one: afterwards there is no room for fingers."""
    own, rank = {p for p, _ in join.sides()}, join_rank(bike, join)
    return tuple(f"plug:{j.id}" for j in among if join_rank(bike, j) < rank and own & {p for p, _ in j.sides()})


def _mounting(bike: Bike, plugs: list[Join]) -> list[WorkStep]:
    """Return what comes after the joins: setting, mounting, routing, proving, tying."""
    steps = []
    for controller in bike.of_kind("controller"):
        own = tuple(f"plug:{j.id}" for j in plugs if controller.id in {p for p, _ in j.sides()})
        steps.append(WorkStep(f"mount:{controller.id}", f"Screw {controller.name} down", ("first-light", "pack-out-again", *own),
                              f"Its {len(own)} plugs are then out of reach: it has to come off again."))  # fmt: skip
    joined = tuple(f"plug:{j.id}" for j in plugs)
    for part in (p for p in bike.parts if p.kind in SENSORS_TO_SET):
        steps.append(WorkStep(f"set:{part.id}", f"{part.name}: {SENSORS_TO_SET[part.kind][0].lower()}{SENSORS_TO_SET[part.kind][1:]}",
                              ("first-light", *(f"plug:{j.id}" for j in plugs if part.id in {p for p, _ in j.sides()}))))  # fmt: skip
    mounted = tuple(f"mount:{c.id}" for c in bike.of_kind("controller"))
    short = [r for r in runs_of(bike) if r.verdict == "short"]
    steps += [WorkStep(f"longer:{r.id}", f"{r.title}: an extension of {up(r.wanted_m - r.has_m):.2f} m", ("pack-out-again",),
                       "Pulled tight, it tears out at the first full lock.") for r in short]  # fmt: skip
    longer = tuple(f"longer:{r.id}" for r in short)
    steps.append(WorkStep("route", "Route: plugs point down, drip loops, slack at the steering, nothing at the fork crown, tyre or chain; ties loose",
                          ("pack-out-again", *joined, *mounted, *longer), "A cable that is too short shows only after the rest is routed."))  # fmt: skip
    steps.append(
        WorkStep("move", "Bars full left and right, suspension and fold through full travel: nothing pulls or pinches", ("route",))
    )
    settings = tuple(s.id for s in steps if s.id.startswith("set:"))
    steps.append(WorkStep("prove", "Prove every function, wheel up: throttle, assist, both cut-offs under power, lights", ("move", "wheel-up", *settings),
                          caution="Pack in last, wheel clear. Then the road, slowly.", powered=True))  # fmt: skip
    for part in bike.of_kind("magnetic_cut_off"):
        steps.append(WorkStep(f"fix:{part.id}", f"{part.name}: scuff, epoxy, hold with a tie, check again while it sets", (f"set:{part.id}", "prove"),
                              "A magnet glued in the wrong place has to be broken off.", "Keep glue out of lever pivot and reservoir; gloves, air."))  # fmt: skip
    how = "Split wrap over the bundles, ties tight at joints and ends" if bike.frame.wrapped else "Ties tight, evenly spaced, ends trimmed"
    steps.append(WorkStep("tie", how, ("prove",), "All of it is opened again for one wrong plug."))
    return steps


def _sorted(steps: list[WorkStep]) -> tuple[WorkStep, ...]:
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


def missing(step: WorkStep, done: Iterable[str]) -> tuple[str, ...]:
    """Return the ids of steps that should have been done before this one and are not."""
    have = set(done)
    return tuple(n for n in step.needs if n not in have)
