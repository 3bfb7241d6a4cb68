"""Joins and plugs in words, and the plugs that are free."""

from brightcore.bike.model import Bike, Join, Part, Port


def free_ports(bike: Bike) -> tuple[tuple[str, str], ...]:
    """Return (part.port, words) of every plug that is joined to nothing."""
    found = []
    for part in bike.parts:
        for port in part.ports:
            if not any(bike.joins_of(part.id, port.id)):
                found.append((f"{part.id}.{port.id}", port_words(part, port)))
    return tuple(found)


def join_words(bike: Bike, join: Join) -> str:
    """Return a join in words."""
    return " with ".join(port_words(bike.part(p), bike.part(p).port(q)) for p, q in join.sides())


def port_words(part: Part, port: Port) -> str:
    """Return a plug in words: its part and its label, without saying the same twice."""
    label = port.label or port.id
    if len(part.ports) == 1 or label.lower() == part.name.lower():
        return part.name
    if label.lower().startswith(part.name.lower()):
        return label
    return f"{part.name}, {label.lower()}"
