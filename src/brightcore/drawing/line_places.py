"""Where on the Line something lives: a hypothesis, a pin under a probe, the words for a shape."""

from brightcore.bike.model import Bike, Join
from brightcore.circuit.contacts import join_title
from brightcore.circuit.netlist import Circuit
from brightcore.circuit.nets import Nets
from brightcore.drawing.line_shapes import (
    HEIGHT,
    TRUNK,
    WIDTH,
    LineLayout,
    Point,
    Shape,
    along,
)
from brightcore.kinds import REGISTRY
from brightcore.kinds.select import as_cable
from brightcore.tracing.hypotheses import Hypothesis, HypothesisSet

NEAR_START, NEAR_END = 0.22, 0.78
"""How far along its stretch a plug at the controller and a plug at the leaf are drawn."""

OF_THE_PLUG = 0.08
"""How far a probe stands from the middle of a plug, towards the side that it belongs to."""


def shape_of(layout: LineLayout, circuit: Circuit, hypothesis: Hypothesis) -> str:
    """Return the id of the shape a hypothesis lives on, "" for the special ones."""
    if hypothesis.mode is None:
        return ""
    bike = circuit.bike
    place, _, rest = hypothesis.mode.id.partition("/")
    part_id, port_id, pin = place.split(".")
    if hypothesis.repair.id.startswith(("join:", "order:")):
        join = bike.join(hypothesis.repair.id.split(":")[1])
        return _lane(
            layout, circuit.nets, layout.join_run[join.id], f"{join.a_part}.{join.a_port}.{pin}"
        )
    if as_cable(bike.part(part_id)) is None:
        if layout.shape(f"part:{part_id}"):
            return f"part:{part_id}"
        return f"part:{layout.controllers[0]}"
    far_port = rest.split("/")[0].removeprefix("wire-to-").split(".")[0]
    runs = []
    for p in (far_port, port_id):
        for j in bike.joins_of(part_id, p):
            runs.append(layout.join_run[j.id])
    own = [run for run in runs if run != TRUNK]
    return _lane(
        layout,
        circuit.nets,
        (own or runs or [f"part:{layout.controllers[0]}"])[0],
        f"{part_id}.{port_id}.{pin}",
    )


def _lane(layout: LineLayout, nets: Nets, run: str, pin: str) -> str:
    if run.removeprefix("run:") not in layout.motors:
        if layout.shape(run):
            return run
        return f"part:{layout.controllers[0]}"
    roles = nets.roles_of(pin)
    for role in roles:
        if role.startswith(("phase_", "hall_")):
            return f"{run}:{role[-1]}"
    return f"{run}:rest"


def membership(layout: LineLayout, circuit: Circuit, hypotheses: HypothesisSet) -> tuple[str, ...]:
    """Return the shape id of every hypothesis."""
    return tuple(shape_of(layout, circuit, item) for item in hypotheses.items)


def probe_point(layout: LineLayout, circuit: Circuit, pin: str) -> Point:
    """Return where on the drawing a pin is: along its stretch, near the end it belongs to."""
    part_id, port_id, _ = pin.split(".")
    join = next(iter(circuit.bike.joins_of(part_id, port_id)), None)
    if join is None:
        return _middle(layout.shape(f"part:{part_id}"))
    shape = layout.shape(
        _lane(layout, circuit.nets, layout.join_run[join.id], pin)
    ) or layout.shape(f"part:{layout.controllers[0]}")
    if shape is None or shape.kind in ("box", "round", "tag"):
        return _middle(shape)
    owners = layout.leaf_of_join[join.id]
    ends = {p for p, _ in join.sides()}
    if set(layout.controllers) & ends:
        share = NEAR_START
    elif ends & set(owners):
        share = NEAR_END
    else:
        share = 0.5
    if part_id in owners:
        share += OF_THE_PLUG
    elif part_id in layout.controllers:
        share -= OF_THE_PLUG
    if owners and REGISTRY[circuit.bike.part(owners[0]).kind].place == "energy":
        # The lead of a pack is drawn from the pack to the controller, all others the other way.
        share = 1.0 - share
    return along(shape.points, share)


def _middle(shape: Shape | None) -> Point:
    if shape is None:
        return (WIDTH / 2, HEIGHT / 2)
    x, y = shape.points[0]
    if shape.kind == "round":
        return (x, y)
    return (x + shape.size[0] / 2, y + shape.size[1] / 2)


def stretch_title(layout: LineLayout, circuit: Circuit, shape: Shape) -> str:
    """Return words for a shape, for its text equivalent."""
    if shape.id.startswith("part:"):
        return shape.label
    owner = shape.id.split(":")[1]
    if owner in ("trunk", "lead"):
        if owner == "trunk":
            return "Harness trunk"
        return "Main lead, both packs"
    lane = shape.id.split(":")[2] if shape.id.count(":") > 1 else ""
    if lane:
        if lane in "abc":
            return f"Hall {lane.upper()} wire"
        if lane in "uvw":
            return f"Phase {lane.upper()} wire"
        return "Hall supply, ground and sensors"
    joins = []
    for j, run in layout.join_run.items():
        if run == shape.id:
            joins.append(circuit.bike.join(j))
    if joins:
        plugs = f" ({', '.join(_titles(circuit.bike, joins))})"
    else:
        plugs = ""
    return f"Lead to {circuit.bike.part(owner).name}{plugs}"


def _titles(bike: Bike, joins: list[Join]) -> list[str]:
    return list(dict.fromkeys(join_title(bike, join) for join in joins))
