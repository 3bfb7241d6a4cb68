"""What was found on a line and is not described: into the description, and joined where a plug is free."""

from brightcore.bike.model import Bike, Port, Spec
from brightcore.circuit.nets import Nets
from brightcore.circuit.undescribed import LINES, pins_of_role
from brightcore.describing.edit import add_join, add_part, free_ports
from brightcore.errors import BrightError
from brightcore.kinds import REGISTRY


def kinds_on(repair_id: str) -> tuple[str, ...]:
    """Return the kinds of part that are usually found on the line of a repair `describe:…`."""
    role = repair_id.rpartition(":")[2]
    return next((line.kinds for line in LINES if line.role == role), ())


def put_on_line(
    bike: Bike, repair_id: str, kind: str, name: str, spec: Spec, ports: tuple[Port, ...]
) -> tuple[Bike, str]:
    """Return the bike with one more part, and the plug of the line that it was joined to, "" for none free.

    Only a plug that nothing is joined to is taken: where there is none, how it is connected has to be told.
    """
    _, controller, role = repair_id.split(":")
    made = add_part(bike, kind, name, spec, ports)
    part = made.parts[-1]
    nets = Nets(made, REGISTRY)
    line = {nets.find(pin) for pin in pins_of_role(made.part(controller), role)}
    for side, words in free_ports(bike):
        owner, port = side.split(".")
        pins = (f"{side}.{pin.name}" for pin in bike.part(owner).port(port).pins)
        if not any(nets.find(pin) in line for pin in pins):
            continue
        for own in part.ports:
            try:
                joined = add_join(made, side, f"{part.id}.{own.id}")
            except BrightError:
                continue
            if part.id in Nets(joined, REGISTRY).mates(controller, role):
                return joined, words
    return made, ""
